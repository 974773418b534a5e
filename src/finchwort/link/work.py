"""One job at a machine, from claimed to over.  Every touch is committed as it comes."""

from __future__ import annotations

import contextlib
import threading
import time
import uuid
from collections.abc import Callable
from datetime import datetime
from typing import Any

import structlog
from sqlalchemy.orm import Session, sessionmaker

from finchwort.core.base.wording import micro, millimetres
from finchwort.core.machine import SAME_OFFSET, others, untold
from finchwort.core.probing import MIN_READINGS as MIN_SOAK
from finchwort.core.probing import fit_soak, fit_soak_around
from finchwort.link.line import LineError, RefusedError, SilentError
from finchwort.link.machine import FarTouchError, LimitError, Machine, Temperatures
from finchwort.services.first_layer.offsets import record_offset
from finchwort.services.machine import jobs
from finchwort.services.machine.report import record_told
from finchwort.services.machine.requests import WATCH_LONGEST
from finchwort.services.visits.follow_up import tick_if_asked
from finchwort.store.access.marks import quietly, sessions_for
from finchwort.store.first_layer.offsets import ledger_of, newest_offset
from finchwort.store.machine import heaters
from finchwort.store.machine import jobs as stored_jobs
from finchwort.store.machine import locks as stored_locks
from finchwort.store.models import Job, Printer, Visit

log = structlog.get_logger()

BEAT_EVERY = 0.4
"""So often a job shows that it lives and hears whether to stop, s."""

clock = time.monotonic
"""By which touches are timed, s."""


NO_SWITCHES = "It does not tell its switches."
WATCH_EVERY = 0.25
"""Pause between two readings of watched switches, s: a finger stays longer."""
LEAVE = "leave"
"""The link process itself is told to go."""
OVERDUE = "overdue"
"""The heaters were on for as long as they may."""
LAST_WORDS = 5.0
"""So long it is tried to switch heaters off when a job has failed, s."""


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
        self.soft = self.overdue = False
        self._lines: list[tuple[datetime, str, str]] = []
        self._kept = 0
        self._last = 0.0

    def listen(self, at: datetime, way: str, text: str) -> None:
        """Take a line of the conversation."""
        self._kept += 1
        if self._kept <= stored_jobs.MAX_LINES:
            self._lines.append((at, way, text))
        elif self._kept == stored_jobs.MAX_LINES + 1:
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
            found = stored_jobs.beat(quietly(session), self.job_id, self.owner)
            self.write(session)
        self.soft = self.soft or found.stop == stored_jobs.SOFT
        self.overdue = found.overdue
        if found.stop == stored_jobs.NOW:
            raise StopError(stored_jobs.NOW)

    def write(self, session: Session) -> None:
        """Write down what was said since."""
        lines, self._lines = self._lines, []
        stored_jobs.add_lines(session, self.job_id, lines)

    def flush(self) -> None:
        """Write down the rest."""
        with self.sessions.begin() as session:
            self.write(session)

    def between(self) -> None:
        """Between two touches a soft stop counts as well, and the end of the longest heating."""
        self.tick()
        if self.soft:
            raise StopError(stored_jobs.SOFT)
        if self.overdue:
            raise StopError(OVERDUE)


class Work:
    """One job."""

    def __init__(self, sessions: sessionmaker[Session], job: Job, owner: str, pulse: Pulse) -> None:
        self.sessions, self.owner, self.pulse = sessions_for(sessions, job.device_id), owner, pulse
        self.job_id, self.kind, self.params = job.id, job.kind, dict(job.params)
        self.visit_id, self.client_key = job.visit_id, job.client_key
        self.printer_id, self.line_id = job.printer_id, job.line_id
        self.longest_heat = job.printer.longest_heat
        self.began = clock()
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
            "watch": self.watch,
            "probe_out": self.move_pin,
            "probe_in": self.move_pin,
            "probe_test": self.move_pin,
            "repeatability": self.repeatability,
            "soak": self.soak,
            "grid": self.grid,
            "read_offset": self.read_offset,
            "offset": self.offset,
            "trim": self.trim,
        }
        machine.begin(self.params.get("highest"))
        return doing[self.kind](machine)

    def tell(self, message: str | None = None, **live: Any) -> None:
        """Set what the person sees."""
        self.live |= live
        values: dict[str, Any] = {"live": dict(self.live)}
        if message is not None:
            values["message"] = message
        with self.sessions.begin() as session:
            stored_jobs.tell_progress(session, self.job_id, self.owner, **values)
            self.pulse.write(session)

    def keep(self, place: int, x: float, y: float, height: float, message: str) -> None:
        """Commit a touch."""
        with self.sessions.begin() as session:
            stored_jobs.add_reading(session, self.job_id, place, x, y, height, clock() - self.began)
            stored_jobs.tell_progress(session, self.job_id, self.owner, done=place + 1, message=message)
            self.pulse.write(session)

    def warmth(self, now: Temperatures) -> None:
        """Show the temperatures."""
        self.tell(bed=now.bed, nozzle=now.nozzle, bed_target=now.bed_target, nozzle_target=now.nozzle_target)

    def connect(self, machine: Machine) -> str:
        """Say hello; read what it is, what stands in it, temperatures and switches; hold that against the book."""
        self.tell(says=machine.greet())
        self.warmth(machine.temperatures())
        said = ["Connected."]
        try:
            self.tell(switches=machine.switches())
        except (RefusedError, SilentError):
            # a line that is gone is found out by the next question
            said.append(NO_SWITCHES)
        told = machine.tell()
        with self.sessions.begin() as session:
            found = record_told(session, session.get(Printer, self.printer_id), told, self.job_id)
            self.pulse.write(session)
        said += others(found)
        said.append(untold(found))
        return " ".join(text for text in said if text)

    def temperatures(self, machine: Machine) -> str:
        """Read the temperatures."""
        now = machine.temperatures()
        self.warmth(now)
        return f"Bed {now.bed:.1f} °C, nozzle {now.nozzle:.1f} °C."

    def home(self, machine: Machine) -> str:
        """Find the ends of all axes."""
        self.tell("Homing.")
        machine.home()
        with self.sessions.begin() as session:
            tick_if_asked(
                session, session.get(Printer, self.printer_id), "home", client_key=f"homed-{self.job_id}"
            )
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
        if bed or nozzle:
            with self.sessions.begin() as session:
                heaters.heaters_on(session, self.line_id, self.printer_id, self.longest_heat)
        reached = machine.heat(bed, nozzle, watch)
        self.warmth(reached)
        if not (bed or nozzle):
            return "The heaters are off."
        return (
            "The heaters are there. The plate goes on moving until it is warm through. "
            f"They go off by themselves {self.longest_heat:g} minutes after the last thing you agree to."
        )

    def cool(self, machine: Machine) -> str:
        """Switch the heaters off."""
        machine.set_heaters(0, 0)
        with self.sessions.begin() as session:
            heaters.heaters_off(session, self.line_id)
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

    def watch(self, machine: Machine) -> str:
        """Read the switches again and again while they are pressed one after the other, in any order."""
        untouched = machine.switches()
        self.tell(
            "Press one after the other, in any order.", untouched=untouched, switches=untouched, watched=[]
        )
        seen: list[dict[str, str]] = []
        before, begun = untouched, clock()
        while clock() - begun < WATCH_LONGEST:
            machine.pause(WATCH_EVERY)
            self.pulse.between()
            states = machine.switches()
            # what is there twice is pressed, and not just bouncing
            if states == before and states != untouched and states not in seen:
                seen.append(states)
                changed = sorted(name for name in states if states[name] != untouched.get(name))
                self.tell(f"Seen: {', '.join(changed)}.", switches=states, watched=list(seen))
            before = states
            if {name for one in seen for name in one if one[name] != untouched.get(name)} == set(untouched):
                return "Every switch was seen to change."
        missing = [name for name in untouched if all(one.get(name) == untouched[name] for one in seen)]
        return f"Watched. Not seen to change: {', '.join(missing)}."

    def move_pin(self, machine: Machine) -> str:
        """Put the pin of a retracting probe out or in, or let it test itself; then read the switches."""
        words = {
            "probe_out": "The pin was put out",
            "probe_in": "The pin was taken in",
            "probe_test": "The probe tested itself",
        }
        if not machine.move_pin(self.kind):
            return "Its dialect names no command for that: write it into the dialect's file, or press it in the printer's menu."
        try:
            states = machine.switches()
        except (RefusedError, SilentError):
            return f"{words[self.kind]}. {NO_SWITCHES}"
        self.tell(switches=states)
        probe = next((name for name in states if "probe" in name), None)
        said = f"{probe} is {states[probe]}" if probe else "none of its switches is called a probe"
        return f"{words[self.kind]}: {said}."

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
        times, heights, at = [], [], []
        spots = [tuple(spot) for spot in self.params.get("spots") or ()]
        machine.deploy()
        place = 0
        while True:
            self.pulse.between()
            machine.lift()
            begun = time.monotonic()
            if spots:
                at.append(place % len(spots))
                x, y = spots[at[-1]]
            height = machine.touch(x, y)
            times.append(clock() - self.began)
            heights.append(height)
            said = f"Reading {place + 1}: {micro(height, signed=True)}."
            state = None
            if spots and len(heights) >= (MIN_SOAK + 2) * len(spots):
                around = fit_soak_around(times, heights, at, spots)
                state, said = around.state, f"{said} {around.sentence}"
            elif not spots and len(heights) >= MIN_SOAK:
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
        points = [*self.params["points"], *self.params.get("again", ())]
        check = self.params.get("check")
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

    def read_offset(self, machine: Machine) -> str:
        """Ask what stands in the machine as its Z offset."""
        value = machine.read_offset()
        self.tell(offset=value, offset_told=value is not None)
        if value is None:
            return "This kind of printer does not tell its Z offset over the line. Read it on its screen."
        return f"The printer's Z offset is {millimetres(value, signed=True)}, as it says itself."

    def offset(self, machine: Machine) -> str:
        """Set the Z offset in the machine, read it back, and write it down."""
        value, agreed = self.params["value"], self.params["before"]
        before = machine.read_offset()
        if before is not None and abs(before - agreed) > SAME_OFFSET:
            raise LimitError(
                f"The printer says {millimetres(before, signed=True)} now, and it was {millimetres(agreed, signed=True)} when "
                "you agreed. Nothing was sent. Look again how far that would move the tip."
            )
        machine.set_offset(value)
        try:
            after = machine.read_offset()
        except LineError as error:
            self.write_down(agreed, value, "sent over the line, not read back")
            raise type(error)(
                f"{error} The value was sent, and written down, but not read back: read it on the printer before you print."
            ) from None
        if after is not None and abs(after - value) > SAME_OFFSET:
            self.write_down(agreed, after, "read back after another value was sent")
            raise LimitError(
                f"{millimetres(value, signed=True)} was sent, but the printer says {millimetres(after, signed=True)} now. That is "
                "written down. Look at its menu before you print."
            )
        self.write_down(agreed, value, "sent over the line" + ("" if after is None else ", read back"))
        told = "not read back, as this kind of printer does not tell it" if after is None else "read back"
        return f"The printer's Z offset is {millimetres(value, signed=True)} now ({told}), stored in its memory and written down."

    def trim(self, machine: Machine) -> str:
        """Move the tip by one step while it prints."""
        closer = self.params["closer"]
        machine.trim(closer)
        way = "closer" if closer > 0 else "farther"
        return f"Trimmed {millimetres(abs(closer))} {way}. It is gone after a restart unless you store it."

    def write_down(self, before: float, value: float, note: str) -> None:
        """Write down what stands in the machine now, whatever became of the visit."""
        with self.sessions.begin() as session:
            printer = session.get(Printer, self.printer_id)
            book = ledger_of(newest_offset(session, printer.id), printer)
            if abs(book.parts.get("printer", before) - before) > SAME_OFFSET:
                # what was written down was not what stood there: that comes first
                record_offset(
                    session,
                    printer.id,
                    {**book.parts, "printer": before},
                    "typed",
                    client_key=str(uuid.uuid5(uuid.NAMESPACE_OID, f"{self.client_key} before")),
                    note="read from the printer",
                )
            visit = session.get(Visit, self.visit_id) if self.visit_id else None
            open_one = visit is not None and visit.ended_at is None and visit.deleted_at is None
            margin = self.params.get("margin")
            record_offset(
                session,
                printer.id,
                {**book.parts, "printer": value},
                self.params["reason"],
                client_key=self.client_key,
                visit_id=self.visit_id if open_one else None,
                data=None if margin is None else {"found": {"margin": margin}},
                note=note,
            )
            self.pulse.write(session)

    def conclude(self, kind: str) -> str:
        """Store what a whole job read with its visit."""
        with self.sessions.begin() as session:
            job = stored_jobs.get_job(session, self.job_id)
            self.pulse.write(session)
            return jobs.keep_readings(session, job)


def run_job(sessions: sessionmaker[Session], job: Job, owner: str, pulse: Pulse, machine: Machine) -> bool:
    """Do a job and end it in a clear state, whatever comes.

    Returns
    -------
    bool
        Whether the line may be kept open for the next job.
    """
    good = True
    try:
        state, message = stored_jobs.DONE, Work(sessions, job, owner, pulse).do(machine)
    except StopError as stop:
        state = stored_jobs.STOPPED
        if stop.how == stored_jobs.NOW:
            machine.stop_now()
            with sessions.begin() as session:
                heaters.heaters_off(session, job.line_id)
            message = "Stopped at once; heaters and motors are off. Switch the printer off and on, then connect and home again."
            good = False
        elif stop.how == LEAVE:
            state, good = stored_jobs.INTERRUPTED, False
            message = f"The link process was shut down meanwhile. {after_heat(sessions, job, machine)} Look at the machine."
        elif stop.how == OVERDUE:
            message = (
                f"Heaters were on for {job.printer.longest_heat:g} minutes, as long as they may without your agreeing to "
                f"something. {switch_off(sessions, job.line_id, machine)}"
            )
        else:
            message = (
                f"Stopped after the reading under way, as you asked. {after_heat(sessions, job, machine)}"
            )
    except LimitError as error:
        state, message = stored_jobs.FAILED, _and_heat(sessions, job, machine, str(error))
    except FarTouchError as error:
        state, message = stored_jobs.FAILED, str(error)
        with contextlib.suppress(LineError, StopError):
            machine.lift()
    except LineError as error:
        state, good = stored_jobs.INTERRUPTED, False
        machine.homed = False
        message = _and_heat(sessions, job, machine, str(error))
    except stored_jobs.LostError:
        log.warning("job lost", job=job.id, owner=owner)
        machine.stop_now()
        pulse.flush()
        return False
    except (
        Exception
    ) as error:  # whatever an answer or a missing record does, the job ends and the worker lives
        log.error("unforeseen error in a job", job=job.id, kind=job.kind, exc_info=error)
        state, good = stored_jobs.FAILED, False
        said = f"Something went wrong in Finchwort itself ({type(error).__name__}). Look at the machine."
        message = _and_heat(sessions, job, machine, said)
    end_work(sessions, job.id, owner, state, message, pulse)
    return good


def _and_heat(sessions: sessionmaker[Session], job: Job, machine: Machine, said: str) -> str:
    """Add to what went wrong what became of the heaters, when this job was to heat."""
    return f"{said} {switch_off(sessions, job.line_id, machine)}" if job.kind == "heat" else said


def after_heat(sessions: sessionmaker[Session], job: Job, machine: Machine) -> str:
    """Switch off what a heating that was broken off has switched on; say how the heaters are."""
    return switch_off(sessions, job.line_id, machine) if job.kind == "heat" else "Heaters are as they were."


def switch_off(sessions: sessionmaker[Session], line_id: int, machine: Machine) -> str:
    """Try to switch the heaters off, once and shortly; say whether it went through."""
    line = machine.line
    until = time.monotonic() + LAST_WORDS

    def hurry() -> None:
        if time.monotonic() > until:
            raise SilentError("No answer.")

    line.tick = hurry
    try:
        line.renumber()
        machine.set_heaters(0, 0)
    except LineError:
        return f"Heaters could not be switched off: what was on stays on. {stored_jobs.POWER}"
    with sessions.begin() as session:
        heaters.heaters_off(session, line_id)
    return "The heaters were switched off."


def end_work(
    sessions: sessionmaker[Session], job_id: int, owner: str, state: str, message: str, pulse: Pulse
) -> None:
    """Write down how a job ended, unless it is not ours any more."""
    with sessions.begin() as session:
        pulse.write(session)
        job = session.get(Job, job_id)
        if job is not None and job.owner == owner and job.state == stored_locks.RUNNING:
            if state != stored_jobs.DONE and job.done:
                message += " What was read is kept."
            stored_jobs.end_job(session, job, state, message)
