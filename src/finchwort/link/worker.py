"""A link process: claims jobs, holds lines, does the work.  Any number may run, on any number of machines."""

from __future__ import annotations

import os
import socket
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

import structlog
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from finchwort.core.printers import way_over
from finchwort.knowledge.dialect import DialectError, load_dialect
from finchwort.link.line import Line
from finchwort.link.machine import Limits, Machine
from finchwort.link.work import Pulse, StopError, end_work, run_job, switch_off
from finchwort.services.machine.port import LineError
from finchwort.store.machine import heaters, jobs, lines
from finchwort.store.machine.kinds import JobState
from finchwort.store.models import Job, Printer
from finchwort.store.printers.printers import bed_of
from finchwort.store.visits.logbook import write_entry

log = structlog.get_logger()

POLL = 0.5
"""So often an idle worker looks for work, s."""
IDLE = 60.0
"""A line without work is closed and given back after this, s: opening it makes many boards start anew."""
KEEP_EVERY = 5.0
RETRY = 15.0
"""Heaters that could not be switched off are tried again after this, s."""
MAX_DEATHS = 5
"""A link whose workers end more often than this gives up."""


@dataclass
class Held:
    """A line that is kept open between jobs."""

    line_id: int
    port: str
    dialect: str
    baud: int
    machine: Machine
    used: float
    kept: float


class Worker:
    """One worker: one line at a time.

    Parameters
    ----------
    sessions : sessionmaker
    name : str
        Of the machine this runs on, for printers that name one.
    number : int
        Tells the workers of one process apart.
    dialects : Path, optional
        A folder of dialects of one's own.
    since : datetime, optional
        What was agreed to before does not begin by itself.
    """

    def __init__(
        self,
        sessions: sessionmaker[Session],
        name: str = "",
        number: int = 0,
        dialects: Path | None = None,
        since: datetime | None = None,
    ) -> None:
        self.sessions, self.name, self.dialects = sessions, name, dialects
        self.owner = f"{socket.gethostname()[:40]}:{os.getpid()}:{number}"
        self.held: Held | None = None
        self.leaving = threading.Event()
        self.since = since
        self._retry = 0.0
        self._told: set[int] = set()

    def run(self, stopping: threading.Event) -> None:
        """Work until told to stop."""
        self.leaving = stopping
        try:
            while not stopping.is_set():
                try:
                    busy = self.step()
                except DBAPIError as error:
                    log.error("database unreachable", error=str(error.orig))
                    self.let_go()
                    busy = False
                    stopping.wait(2)
                except Exception as error:  # no answer and no missing record ends a worker
                    log.error("unforeseen error in a worker", exc_info=error)
                    self.let_go()
                    busy = False
                    stopping.wait(2)
                if not busy:
                    stopping.wait(POLL)
        finally:
            self.let_go()

    def step(self) -> bool:
        """Do one job if there is one; tell whether there was."""
        with self.sessions.begin() as session:
            job = jobs.claim_job(session, self.owner, self.name, self.since)
            printer = job.printer if job else None
        if job is None or printer is None:
            self._cool_down()
            self._idle()
            return False
        pulse = Pulse(self.sessions, job.id, self.owner, self.leaving)
        try:
            machine = self._machine(job, printer, pulse)
        except StopError:
            self.let_go()
            end_work(self.sessions, job.id, self.owner, JobState.STOPPED, "Stopped before it began.", pulse)
            return True
        except (LineError, DialectError) as error:
            self.let_go()
            end_work(self.sessions, job.id, self.owner, JobState.FAILED, str(error), pulse)
            return True
        except jobs.LostError:
            self.let_go()
            return True
        except Exception as error:
            log.error("unforeseen error in greeting", job=job.id, exc_info=error)
            self.let_go()
            text = f"Something went wrong in Finchwort itself ({type(error).__name__}). Nothing was begun."
            end_work(self.sessions, job.id, self.owner, JobState.FAILED, text, pulse)
            return True
        try:
            good = run_job(self.sessions, job, self.owner, pulse, machine)
        except BaseException:
            # whatever this was, the machine is not left moving on a plan nobody follows
            machine.line.close()
            self.held = None
            raise
        if good and self.held:
            self.held.used = time.monotonic()
        else:
            self.let_go()
        return True

    def _cool_down(self) -> None:
        """Switch off heaters that were on for as long as they may."""
        if time.monotonic() < self._retry:
            return
        with self.sessions.begin() as session:
            result = heaters.claim_overdue(session, self.owner, self.name)
        if result is None:
            return
        line, printer = result
        held = self.held
        if held is not None and held.line_id == line.id:
            machine = held.machine
        else:
            self.let_go()
            try:
                opened = Line(printer.port, load_dialect(printer.dialect, self.dialects), printer.baud)
                machine = Machine(opened, limits_of(printer))
                now = time.monotonic()
                self.held = Held(line.id, printer.port, printer.dialect, printer.baud, machine, now, now)
                machine.greet()
            except (LineError, DialectError) as error:
                log.error("heaters not reached", printer=printer.id, error=str(error))
                self._overdue(line.id, printer, f"{error} What was on stays on. {jobs.POWER}")
                self.let_go(line.id)
                return
        text = switch_off(self.sessions, line.id, machine)
        self._overdue(line.id, printer, text)
        if jobs.POWER in text:
            self.let_go()

    def _overdue(self, line_id: int, printer: Printer, text: str) -> None:
        """Write down what became of heaters whose time was over, the first time it is tried."""
        failed = jobs.POWER in text
        if failed:
            self._retry = time.monotonic() + RETRY
        if failed and line_id in self._told:
            return
        (self._told.add if failed else self._told.discard)(line_id)
        with self.sessions.begin() as session:
            title = f"Heaters were on for {printer.longest_heat:g} minutes: " + (
                "not switched off" if failed else "switched off"
            )
            write_entry(session, "job", title, text, printer=session.get(Printer, printer.id))

    def _machine(self, job: Job, printer: Printer, pulse: Pulse) -> Machine:
        """Return the machine at the job's line, opening it when it is not held."""
        held = self.held
        limits = limits_of(printer)
        same = held is not None and (held.line_id, held.port, held.dialect, held.baud) == (
            job.line_id,
            printer.port,
            printer.dialect,
            printer.baud,
        )
        if held is not None and not same:
            self.let_go()
        if same and held is not None and job.kind != "connect":
            held.machine.limits = limits
            held.machine.line.listen, held.machine.line.tick = pulse.listen, pulse.tick
            return held.machine
        self._close()
        dialect = load_dialect(printer.dialect, self.dialects)
        line = Line(printer.port, dialect, printer.baud, pulse.listen, pulse.tick)
        machine = Machine(line, limits)
        now = time.monotonic()
        self.held = Held(job.line_id, printer.port, printer.dialect, printer.baud, machine, now, now)
        machine.greet()
        return machine

    def _idle(self) -> None:
        if self.held is None:
            return
        now = time.monotonic()
        if now - self.held.used > IDLE:
            self.let_go()
        elif now - self.held.kept > KEEP_EVERY:
            self.held.kept = now
            with self.sessions.begin() as session:
                kept = lines.keep_line(session, self.held.line_id, self.owner)
            if not kept:
                self._close()

    def _close(self) -> None:
        if self.held is not None:
            self.held.machine.line.close()
            self.held = None

    def let_go(self, line_id: int | None = None) -> None:
        """Close the line and give it back, also one that could not be opened."""
        held = self.held
        self._close()
        line_id = held.line_id if held is not None else line_id
        if line_id is None:
            return
        try:
            with self.sessions.begin() as session:
                lines.release_line(session, line_id, self.owner)
        except DBAPIError:
            log.warning("line not given back; its lease runs out by itself", line=line_id)


def _beginning(sessions: sessionmaker[Session], stopping: threading.Event) -> datetime | None:
    """The database's time now, waited for while it does not answer."""
    while not stopping.is_set():
        try:
            with sessions() as session:
                return lines.db_now(session)
        except DBAPIError as error:
            log.error("database unreachable", error=str(error.orig))
            stopping.wait(2)
    return None


def limits_of(printer: Printer) -> Limits:
    """What a printer's set-up allows."""
    bed = bed_of(printer)
    return Limits(
        bed,
        (printer.probe_dx, printer.probe_dy),
        printer.most_bed,
        printer.most_nozzle,
        way_over(bed, printer.lift),
    )


def run_link(
    sessions: sessionmaker[Session],
    stopping: threading.Event,
    name: str = "",
    workers: int = 4,
    dialects: Path | None = None,
    ready: Callable[[], None] = lambda: None,
) -> bool:
    """Run workers until told to stop; a job under way ends interrupted when the process goes.

    ``ready`` is called as soon as jobs that are asked for from then on will be taken.

    Returns
    -------
    bool
        False when it gave up, because its workers ended again and again.
    """

    def begin(number: int) -> threading.Thread:
        worker = Worker(sessions, name, number, dialects, since)
        thread = threading.Thread(target=worker.run, args=(stopping,), name=f"link-{number}", daemon=True)
        thread.start()
        return thread

    since = _beginning(sessions, stopping)
    ready()
    threads = [begin(number) for number in range(workers)]
    deaths = 0
    while not stopping.wait(0.5):
        for number, thread in enumerate(threads):
            if thread.is_alive():
                continue
            deaths += 1
            log.error("a worker ended, another takes its place", worker=thread.name, deaths=deaths)
            if deaths > MAX_DEATHS:
                stopping.set()
                break
            threads[number] = begin(number)
    for thread in threads:
        thread.join(timeout=10)
    return deaths <= MAX_DEATHS
