"""A link process: claims jobs, holds lines, does the work.  Any number may run, on any number of machines."""

from __future__ import annotations

import os
import socket
import threading
import time
from dataclasses import dataclass
from pathlib import Path

import structlog
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from finchwort.link.dialect import DialectError, load_dialect
from finchwort.link.line import Line, LineError
from finchwort.link.machine import Limits, Machine
from finchwort.link.work import Pulse, StopError, end_work, run_job
from finchwort.store import jobs
from finchwort.store.models import Job, Printer
from finchwort.store.printers import bed_of

log = structlog.get_logger()

POLL = 0.5
"""So often an idle worker looks for work, s."""
IDLE = 60.0
"""A line without work is closed and given back after this, s: opening it makes many boards start anew."""
KEEP_EVERY = 5.0


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
    """

    def __init__(
        self, sessions: sessionmaker[Session], name: str = "", number: int = 0, dialects: Path | None = None
    ) -> None:
        self.sessions, self.name, self.dialects = sessions, name, dialects
        self.owner = f"{socket.gethostname()[:40]}:{os.getpid()}:{number}"
        self.held: Held | None = None
        self.leaving = threading.Event()

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
                if not busy:
                    stopping.wait(POLL)
        finally:
            self.let_go()

    def step(self) -> bool:
        """Do one job if there is one; tell whether there was."""
        with self.sessions.begin() as session:
            job = jobs.claim_job(session, self.owner, self.name)
            printer = job.printer if job else None
        if job is None or printer is None:
            self._idle()
            return False
        pulse = Pulse(self.sessions, job.id, self.owner, self.leaving)
        try:
            machine = self._machine(job, printer, pulse)
        except StopError:
            self.let_go()
            end_work(self.sessions, job.id, self.owner, jobs.STOPPED, "Stopped before it began.", pulse)
            return True
        except (LineError, DialectError) as error:
            self.let_go()
            end_work(self.sessions, job.id, self.owner, jobs.FAILED, str(error), pulse)
            return True
        except jobs.LostError:
            self.let_go()
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

    def _machine(self, job: Job, printer: Printer, pulse: Pulse) -> Machine:
        """Return the machine at the job's line, opening it when it is not held."""
        held = self.held
        limits = Limits(
            bed_of(printer),
            (printer.probe_dx, printer.probe_dy),
            printer.most_bed,
            printer.most_nozzle,
            printer.lift,
        )
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
                kept = jobs.keep_line(session, self.held.line_id, self.owner)
            if not kept:
                self._close()

    def _close(self) -> None:
        if self.held is not None:
            self.held.machine.line.close()
            self.held = None

    def let_go(self) -> None:
        """Close the line and give it back."""
        held = self.held
        self._close()
        if held is None:
            return
        try:
            with self.sessions.begin() as session:
                jobs.release_line(session, held.line_id, self.owner)
        except DBAPIError:
            log.warning("line not given back; its lease runs out by itself", line=held.line_id)


def run_link(
    sessions: sessionmaker[Session],
    stopping: threading.Event,
    name: str = "",
    workers: int = 4,
    dialects: Path | None = None,
) -> None:
    """Run workers until told to stop; a job under way ends interrupted when the process goes."""
    threads = [
        threading.Thread(
            target=Worker(sessions, name, number, dialects).run,
            args=(stopping,),
            name=f"link-{number}",
            daemon=True,
        )
        for number in range(workers)
    ]
    for thread in threads:
        thread.start()
    while not stopping.wait(0.5):
        dead = [thread.name for thread in threads if not thread.is_alive()]
        if dead:
            log.error("a worker ended", workers=dead)
            stopping.set()
    for thread in threads:
        thread.join(timeout=10)
