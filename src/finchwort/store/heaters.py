"""Heaters that were switched on over a line: until when, and by whom they are switched off again."""

from __future__ import annotations

from datetime import datetime, timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from finchwort.store.lines import LEASE, db_now, free
from finchwort.store.logbook import write_entry
from finchwort.store.models import MachineLine, Printer


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


def set_cold(session: Session, printer: Printer) -> None:
    """Take a person's word that a printer is off and cools, so that nobody waits any more to switch it off."""
    gone = session.execute(
        update(MachineLine)
        .where(MachineLine.hot_printer_id == printer.id)
        .values(hot_until=None, hot_printer_id=None)
    )
    if gone.rowcount:
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
    return [tuple(row) for row in session.execute(query)]
