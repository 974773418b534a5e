"""One job at a machine, from claimed to over.  Every touch is committed as it comes."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from datetime import datetime
from typing import Any

import structlog
from sqlalchemy.orm import Session, sessionmaker

from finchwort.core.warmup import LEAST as LEAST_SOAK
from finchwort.core.warmup import fit_soak
from finchwort.core.wording import micro, millimetres
from finchwort.link.line import LineError, ResetError
from finchwort.link.machine import LimitError, Machine, Temperatures
from finchwort.store import jobs
from finchwort.store.models import Job
from finchwort.store.offsets import ledger_of, newest_offset, record_offset
from finchwort.store.printers import get_printer

log = structlog.get_logger()

BEAT_EVERY = 0.4
"""So often a job shows that it lives and hears whether to stop, s."""


LEAVE = "leave"
"""The link process itself is told to go."""


class StopError(Exception):
    """The person asked for a stop, or this process is to go."""

    def __init__(self, how: str) -> None:
        super().__init__(how)
        self.how = how


class Pulse:
    """Shows that a job lives, hears stops, and writes the conversation down."""

    def __init__(
        self, sessions: sessionmaker[Session], job_id: int, owner: str, leaving: threading.Event | None = None
    ) -> None:
        self.sessions, self.job_id, self.owner, self.leaving = sessions, job_id, owner, leaving
        self.soft = False
        self._lines: list[tuple[datetime, str, str]] = []
        self._kept = 0
        self._last = 0.0

    def listen(self, at: datetime, way: str, text: str) -> None:
        """Take a line of the conversation."""
        self._kept += 1
        if self._kept <= jobs.MOST_LINES:
            self._lines.append((at, way, text))
        elif self._kept == jobs.MOST_LINES + 1:
            self._lines.append((at, "*", "From here on the conversation was not kept: it grew too long."))

    def tick(self) -> None:
        """Beat when it is time.

        Raises
        ------
        StopError
            When the machine is to stop at once, or this process is to go.
        jobs.LostError
            When the job is not ours any more.
        """
        if self.leaving is not None and self.leaving.is_set():
            raise StopError(LEAVE)
        now = time.monotonic()
        if now - self._last < BEAT_EVERY:
            return
        self._last = now
        with self.sessions.begin() as session:
            found = jobs.beat(session, self.job_id, self.owner)
            self.write(session)
        self.soft = self.soft or found.stop == jobs.SOFT
        if found.stop == jobs.NOW:
            raise StopError(jobs.NOW)

    def write(self, session: Session) -> None:
        """Write down what was said since."""
        lines, self._lines = self._lines, []
        jobs.add_lines(session, self.job_id, lines)

    def flush(self) -> None:
        """Write down the rest."""
        with self.sessions.begin() as session:
            self.write(session)

    def between(self) -> None:
        """Between two touches a soft stop counts as well."""
        self.tick()
        if self.soft:
            raise StopError(jobs.SOFT)


class Work:
    """One job."""

    def __init__(self, sessions: sessionmaker[Session], job: Job, owner: str, pulse: Pulse) -> None:
        self.sessions, self.owner, self.pulse = sessions, owner, pulse
        self.job_id, self.kind, self.params = job.id, job.kind, dict(job.params)
        self.visit_id, self.client_key = job.visit_id, job.client_key
        self.began = time.monotonic()
        self.live: dict[str, Any] = {}

    def do(self, machine: Machine) -> str:
        """Do the job; return the closing sentence.

        Raises
        ------
        LineError, LimitError, StopError, jobs.LostError
        """
        doing: dict[str, Callable[[Machine], str]] = {
            "connect": self.connect,
            "temperatures": self.temperatures,
            "home": self.home,
            "heat": self.heat,
            "cool": self.cool,
            "park": self.park,
            "switches": self.switches,
            "repeatability": self.repeatability,
            "soak": self.soak,
            "grid": self.grid,
            "offset": self.offset,
        }
        return doing[self.kind](machine)

    def tell(self, message: str | None = None, **live: Any) -> None:
        """Set what the person sees."""
        self.live |= live
        values: dict[str, Any] = {"live": dict(self.live)}
        if message is not None:
            values["message"] = message
        with self.sessions.begin() as session:
            jobs.tell_progress(session, self.job_id, self.owner, **values)
            self.pulse.write(session)

    def keep(self, place: int, x: float, y: float, height: float, message: str) -> None:
        """Commit a touch."""
        with self.sessions.begin() as session:
            jobs.add_reading(session, self.job_id, place, x, y, height, time.monotonic() - self.began)
            jobs.tell_progress(session, self.job_id, self.owner, done=place + 1, message=message)
            self.pulse.write(session)

    def warmth(self, now: Temperatures) -> None:
        """Show the temperatures."""
        self.tell(bed=now.bed, nozzle=now.nozzle, bed_target=now.bed_target, nozzle_target=now.nozzle_target)

    def connect(self, machine: Machine) -> str:
        """Say hello, read temperatures and switches."""
        self.tell(says=machine.greet())
        self.warmth(machine.temperatures())
        try:
            self.tell(switches=machine.switches())
        except LineError:
            return "Connected. It does not tell its switches."
        return "Connected."

    def temperatures(self, machine: Machine) -> str:
        """Read the temperatures."""
        now = machine.temperatures()
        self.warmth(now)
        return f"Bed {now.bed:.1f} °C, nozzle {now.nozzle:.1f} °C."

    def home(self, machine: Machine) -> str:
        """Find the ends of all axes."""
        self.tell("Homing.")
        machine.home()
        return "Homed."

    def _home_first(self, machine: Machine) -> None:
        self.tell("Homing.")
        machine.home()
        self.pulse.between()

    def heat(self, machine: Machine) -> str:
        """Heat and wait."""

        def watch(now: Temperatures) -> None:
            self.warmth(now)
            self.pulse.between()

        bed, nozzle = self.params.get("bed"), self.params.get("nozzle")
        goals = [
            f"{what} {value:g} °C" for what, value in (("bed", bed), ("nozzle", nozzle)) if value is not None
        ]
        self.tell(f"Heating: {', '.join(goals)}.")
        reached = machine.heat(bed, nozzle, watch)
        self.warmth(reached)
        return "The heaters are there. The plate goes on moving until it is warm through."

    def cool(self, machine: Machine) -> str:
        """Switch the heaters off."""
        machine.set_heaters(0, 0)
        now = machine.temperatures()
        self.warmth(now)
        hot = max(now.bed, now.nozzle) >= 50
        return f"Heaters off{'; it stays hot for a while' if hot else ''}: bed {now.bed:.0f} °C, nozzle {now.nozzle:.0f} °C."

    def park(self, machine: Machine) -> str:
        """Take the head over a place."""
        if not machine.homed:
            self._home_first(machine)
        machine.park(self.params["x"], self.params["y"])
        return f"The head is over {self.params.get('name') or 'the place'}."

    def switches(self, machine: Machine) -> str:
        """Read the switches."""
        states = machine.switches()
        self.tell(switches=states)
        return "Read: " + ", ".join(f"{name} {state}" for name, state in states.items()) + "."

    def repeatability(self, machine: Machine) -> str:
        """Touch one place again and again."""
        self._home_first(machine)
        self.warmth(machine.temperatures())
        x, y, count = self.params["x"], self.params["y"], self.params["count"]
        machine.deploy()
        heights = []
        for place in range(count):
            self.pulse.between()
            machine.lift()
            heights.append(machine.touch(x, y))
            self.keep(
                place, x, y, heights[-1], f"Touch {place + 1} of {count}: {micro(heights[-1], signed=True)}."
            )
        machine.stow()
        machine.lift()
        return self.conclude("repeatability")

    def soak(self, machine: Machine) -> str:
        """Touch one place in intervals until it stands still."""
        self._home_first(machine)
        x, y = self.params["x"], self.params["y"]
        every, longest = self.params["every"], self.params["longest"]
        times, heights = [], []
        machine.deploy()
        place = 0
        while True:
            self.pulse.between()
            machine.lift()
            begun = time.monotonic()
            height = machine.touch(x, y)
            times.append(time.monotonic() - self.began)
            heights.append(height)
            said = f"Reading {place + 1}: {micro(height, signed=True)}."
            state = None
            if len(heights) >= LEAST_SOAK:
                found = fit_soak(times, heights)
                state, said = found.state, f"{said} {found.sentence}"
            self.keep(place, x, y, height, said)
            self.warmth(machine.temperatures())
            place += 1
            if place >= self.params["most"] or times[-1] >= longest:
                break
            if state == "steady" and self.params["until_steady"] and place >= 8:
                break
            machine.pause(max(0.0, every - (time.monotonic() - begun)))
        machine.stow()
        machine.lift()
        return self.conclude("soak")

    def grid(self, machine: Machine) -> str:
        """Probe places one after the other."""
        self._home_first(machine)
        self.warmth(machine.temperatures())
        points, check = self.params["points"], self.params.get("check")
        machine.deploy()
        shift = 0.0
        if check:
            machine.lift()
            shift = machine.touch(check["x"], check["y"]) - check["height"]
            self.tell(shift=shift)
        for place, (x, y) in enumerate(points):
            self.pulse.between()
            machine.lift()
            height = machine.touch(x, y) - shift
            self.keep(
                place,
                x,
                y,
                height,
                f"{place + 1} of {len(points)}: {micro(height, signed=True)} at x {x:g}, y {y:g}.",
            )
        machine.stow()
        machine.lift()
        return self.conclude("grid")

    def offset(self, machine: Machine) -> str:
        """Set the Z offset in the machine, and write it down."""
        value = self.params["value"]
        machine.set_offset(value)
        with self.sessions.begin() as session:
            printer = get_printer(session, jobs.get_job(session, self.job_id).printer_id)
            book = ledger_of(newest_offset(session, printer.id), printer)
            record_offset(
                session,
                printer.id,
                {**book.parts, "printer": value},
                self.params["reason"],
                client_key=self.client_key,
                visit_id=self.visit_id,
                data=None
                if self.params.get("margin") is None
                else {"found": {"margin": self.params["margin"]}},
                note="sent over the line",
            )
            self.pulse.write(session)
        return f"The printer's Z offset is {millimetres(value, signed=True)} now, stored in its memory and written down."

    def conclude(self, kind: str) -> str:
        """Store what a whole job read with its visit."""
        with self.sessions.begin() as session:
            job = jobs.get_job(session, self.job_id)
            self.pulse.write(session)
            return jobs.keep_readings(session, job)


def run_job(sessions: sessionmaker[Session], job: Job, owner: str, pulse: Pulse, machine: Machine) -> bool:
    """Do a job and end it in a clear state.

    Returns
    -------
    bool
        Whether the line may be kept open for the next job.
    """
    work = Work(sessions, job, owner, pulse)
    good = True
    try:
        state, message = jobs.DONE, work.do(machine)
    except StopError as stop:
        state = jobs.STOPPED
        if stop.how == jobs.NOW:
            machine.stop_now()
            message = "Stopped at once; heaters and motors are off. Switch the printer off and on, then connect and home again."
            good = False
        elif stop.how == LEAVE:
            state, good = jobs.INTERRUPTED, False
            message = (
                "The link process was shut down meanwhile. Heaters are as they were: look at the machine."
            )
        else:
            message = "Stopped after the reading under way, as you asked. Heaters are as they were."
    except LimitError as error:
        state, message = jobs.FAILED, str(error)
    except ResetError as error:
        state, message, good = jobs.INTERRUPTED, str(error), False
        machine.homed = False
    except LineError as error:
        state, message, good = jobs.INTERRUPTED, str(error), False
    except jobs.LostError:
        log.warning("job lost", job=job.id, owner=owner)
        machine.stop_now()
        pulse.flush()
        return False
    end_work(sessions, job.id, owner, state, message, pulse)
    return good


def end_work(
    sessions: sessionmaker[Session], job_id: int, owner: str, state: str, message: str, pulse: Pulse
) -> None:
    """Write down how a job ended, unless it is not ours any more."""
    with sessions.begin() as session:
        pulse.write(session)
        job = jobs.get_job(session, job_id)
        if job.owner == owner and job.state == jobs.RUNNING:
            if state != jobs.DONE and job.done:
                message += " What was read is kept."
            jobs.end_job(session, job, state, message)
