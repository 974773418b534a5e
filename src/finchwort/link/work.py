"""One job at a machine, from claimed to over.  Every touch is committed as it comes."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Iterator
from datetime import datetime
from typing import Any

import structlog
from sqlalchemy.orm import Session, sessionmaker

from finchwort.link.machine import FarTouchError, Machine
from finchwort.services.machine.jobs import keep_readings
from finchwort.services.machine.kinds import JOBS, JobKind
from finchwort.services.machine.port import LimitError, LineError, SilentError, Warmth
from finchwort.store.access.marks import quietly, sessions_for
from finchwort.store.machine import heaters
from finchwort.store.machine import jobs as stored_jobs
from finchwort.store.machine.kinds import JobState
from finchwort.store.models import Job

log = structlog.get_logger()

BEAT_EVERY = 0.4
"""So often a job shows that it lives and hears whether to stop, s."""

clock = time.monotonic
"""By which touches are timed, s."""
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
            result = stored_jobs.beat(quietly(session), self.job_id, self.owner)
            self.write(session)
        self.soft = self.soft or result.stop == stored_jobs.SOFT
        self.overdue = result.overdue
        if result.stop == stored_jobs.NOW:
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
        self.job_id, self.kind, self.params = job.id, JobKind(job.kind), dict(job.params)
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
        machine.begin(self.params.get("highest"))
        return JOBS[self.kind].of(self.params).do(self, machine)

    @contextlib.contextmanager
    def records(self) -> Iterator[Session]:
        """Begin a transaction; what was said on the line is written down with it."""
        with self.sessions.begin() as session:
            yield session
            self.pulse.write(session)

    def seconds(self) -> float:
        """Return how long this job is under way, s."""
        return clock() - self.began

    def between(self) -> None:
        """Say between two touches that all is well; raises when it is to end."""
        self.pulse.between()

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

    def warmth(self, now: Warmth) -> None:
        """Show the temperatures."""
        self.tell(bed=now.bed, nozzle=now.nozzle, bed_target=now.bed_target, nozzle_target=now.nozzle_target)

    def conclude(self) -> str:
        """Store what a whole job read with its visit."""
        with self.records() as session:
            return keep_readings(session, stored_jobs.get_job(session, self.job_id))


def run_job(sessions: sessionmaker[Session], job: Job, owner: str, pulse: Pulse, machine: Machine) -> bool:
    """Do a job and end it in a clear state, whatever comes.

    Returns
    -------
    bool
        Whether the line may be kept open for the next job.
    """
    good = True
    try:
        state, message = JobState.DONE, Work(sessions, job, owner, pulse).do(machine)
    except StopError as stop:
        state = JobState.STOPPED
        if stop.how == stored_jobs.NOW:
            machine.stop_now()
            with sessions.begin() as session:
                heaters.heaters_off(session, job.line_id)
            message = "Stopped at once; heaters and motors are off. Switch the printer off and on, then connect and home again."
            good = False
        elif stop.how == LEAVE:
            state, good = JobState.INTERRUPTED, False
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
        state, message = JobState.FAILED, _and_heat(sessions, job, machine, str(error))
    except FarTouchError as error:
        state, message = JobState.FAILED, str(error)
        with contextlib.suppress(LineError, StopError):
            machine.lift()
    except LineError as error:
        state, good = JobState.INTERRUPTED, False
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
        state, good = JobState.FAILED, False
        text = f"Something went wrong in Finchwort itself ({type(error).__name__}). Look at the machine."
        message = _and_heat(sessions, job, machine, text)
    end_work(sessions, job.id, owner, state, message, pulse)
    return good


def _and_heat(sessions: sessionmaker[Session], job: Job, machine: Machine, text: str) -> str:
    """Add to what went wrong what became of the heaters, when this job was to heat."""
    return f"{text} {switch_off(sessions, job.line_id, machine)}" if job.kind == JobKind.HEAT else text


def after_heat(sessions: sessionmaker[Session], job: Job, machine: Machine) -> str:
    """Switch off what a heating that was broken off has switched on; say how the heaters are."""
    return (
        switch_off(sessions, job.line_id, machine)
        if job.kind == JobKind.HEAT
        else "Heaters are as they were."
    )


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
        if job is not None and job.owner == owner and job.state == JobState.RUNNING:
            if state != JobState.DONE and job.done:
                message += " What was read is kept."
            stored_jobs.end_job(session, job, state, message)
