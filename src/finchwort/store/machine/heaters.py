"""Heaters that were switched on over a line: until when, and by whom they are switched off again."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from finchwort.store.machine.kinds import JobKind, JobState
from finchwort.store.machine.lines import LEASE, db_now, free
from finchwort.store.models import Job, MachineLine, Printer, Visit
from finchwort.store.records import changed_rows
from finchwort.store.visits.logbook import write_entry

COOLS = timedelta(hours=1)
"""After so long without a heater nothing burns any more (ours, generous)."""
HOT = 50.0
"""What is this hot burns, °C (common practice)."""
COLD = "cold"
"""Mark at a job after which a person said that the printer is off and cools."""
BROKE = {
    "interrupted": "The line broke off, or it halted.",
    "failed": "The last job failed.",
    "stopped": "The last job was stopped.",
}
STILL = "Bed and nozzle may still be hot and on."


def heaters_on(session: Session, line_id: int, printer_id: int, minutes: float) -> datetime:
    """Write down that heaters are switched on, before they are; return when they go off by themselves."""
    until = db_now(session) + timedelta(minutes=minutes)
    session.execute(
        update(MachineLine)
        .where(MachineLine.id == line_id)
        .values(hot_until=until, hot_printer_id=printer_id)
    )
    return until


def heaters_off(session: Session, line_id: int) -> None:
    """Write down that the heaters at a line are off."""
    session.execute(
        update(MachineLine).where(MachineLine.id == line_id).values(hot_until=None, hot_printer_id=None)
    )


@dataclass(frozen=True)
class Hot:
    """A printer that is hot, or may be.

    Attributes
    ----------
    printer : Printer
    until : datetime or None
        When heaters that were switched on over the line go off by themselves.
    doubt : str or None
        Why nobody knows that they are off.
    """

    printer: Printer
    until: datetime | None
    doubt: str | None


def may_be_hot(session: Session, now: datetime) -> list[Hot]:
    """Return the printers whose heaters are on, as far as is known, or may be after something broke off."""
    results = {printer.id: Hot(printer, line.hot_until, None) for line, printer in hot_lines(session)}
    newest = select(func.max(Job.id)).where(Job.started_at.is_not(None)).group_by(Job.printer_id)
    query = select(Job).where(Job.id.in_(newest), Job.ended_at > now - COOLS).order_by(Job.id)
    for job in session.scalars(query):
        doubt = _doubt(session, job)
        on = job.printer_id in results
        if doubt and (on or (job.printer.deleted_at is None and _was_hot(job))):
            until = results[job.printer_id].until if on else None
            results[job.printer_id] = Hot(job.printer, until, f"{doubt} {STILL}")
    return list(results.values())


def _doubt(session: Session, job: Job) -> str | None:
    if job.live.get(COLD) or (job.kind == JobKind.COOL and job.state == JobState.DONE):
        return None
    if job.state in BROKE:
        return BROKE[job.state]
    newest = session.scalars(
        select(Visit)
        .where(Visit.printer_id == job.printer_id, Visit.deleted_at.is_(None))
        .order_by(Visit.id.desc())
        .limit(1)
    ).first()
    closed = newest is not None and newest.ended_at is not None and newest.id == job.visit_id
    return "The visit is closed." if closed else None


def _was_hot(job: Job) -> bool:
    """Whether bed or nozzle were hot or told to be; where nobody read them they may have been."""
    told = [job.live.get(name) for name in ("bed", "nozzle", "bed_target", "nozzle_target")]
    if all(value is None for value in told):
        return job.state == "interrupted"
    return any(value is not None and value >= HOT for value in told[:2]) or any(told[2:])


def set_cold(session: Session, printer: Printer) -> None:
    """Take a person's word that a printer is off and cools, so that nobody waits any more to switch it off."""
    job = session.scalars(
        select(Job)
        .where(Job.printer_id == printer.id, Job.started_at.is_not(None))
        .order_by(Job.id.desc())
        .limit(1)
        .with_for_update()
        .execution_options(populate_existing=True)
    ).first()
    if job is not None and job.ended_at is not None:
        job.live = job.live | {COLD: True}
    gone = (
        update(MachineLine)
        .where(MachineLine.hot_printer_id == printer.id)
        .values(hot_until=None, hot_printer_id=None)
    )
    if changed_rows(session, gone):
        write_entry(session, "job", f"{printer.name} was switched off by hand", printer=printer)


def claim_overdue(session: Session, owner: str, link_name: str = "") -> tuple[MachineLine, Printer] | None:
    """Take a line whose heaters were on for long enough, to switch them off."""
    now = db_now(session)
    query = (
        select(MachineLine, Printer)
        .join(Printer, MachineLine.hot_printer_id == Printer.id)
        .where(MachineLine.hot_until < now, MachineLine.link_name.in_(("", link_name)), free(owner, now))
        .order_by(MachineLine.id)
        .limit(1)
        .with_for_update(of=MachineLine, skip_locked=True)
        .execution_options(populate_existing=True)
    )
    row = session.execute(query).first()
    if row is None:
        return None
    line, printer = row
    line.owner, line.lease_until = owner, now + LEASE
    session.flush()
    return line, printer


def hot_lines(session: Session) -> list[tuple[MachineLine, Printer]]:
    """Return the lines whose heaters were switched on, with their printers."""
    query = (
        select(MachineLine, Printer)
        .join(Printer, MachineLine.hot_printer_id == Printer.id)
        .where(MachineLine.hot_until.is_not(None))
        .order_by(MachineLine.id)
    )
    return [(line, printer) for line, printer in session.execute(query)]
