"""Lines to machines: one owner each, for as long as its lease runs.  Times are the database's."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from sqlalchemy import ColumnElement, func, insert, or_, select, update
from sqlalchemy.orm import Session

from finchwort.store.models import MachineLine, Printer
from finchwort.store.records import changed_rows

LEASE = timedelta(seconds=20)
"""An owner who is silent for so long has lost its line."""


def db_now(session: Session) -> datetime:
    """Return the database's time, UTC."""
    now: datetime = session.execute(select(func.utc_timestamp(6))).scalar_one()
    return now.replace(tzinfo=UTC)


def free(owner: str, now: datetime) -> ColumnElement[bool]:
    """Say of which lines an owner may take hold: of those nobody has, its own, and those whose lease ran out."""
    return or_(MachineLine.owner.is_(None), MachineLine.owner == owner, MachineLine.lease_until < now)


def line_of(session: Session, printer: Printer) -> MachineLine:
    """Return the line of a printer's port, made when there is none."""
    query = select(MachineLine).where(
        MachineLine.port == printer.port, MachineLine.link_name == printer.link_name
    )
    line = session.scalars(query).first()
    if line is None:
        session.execute(
            insert(MachineLine).prefix_with("IGNORE").values(port=printer.port, link_name=printer.link_name)
        )
        line = session.scalars(query).one()
    return line


def keep_line(session: Session, line_id: int, owner: str, now: datetime | None = None) -> bool:
    """Renew the lease of a line between jobs; tell whether it is still ours."""
    now = now or db_now(session)
    kept = (
        update(MachineLine)
        .where(MachineLine.id == line_id, MachineLine.owner == owner)
        .values(lease_until=now + LEASE)
    )
    return changed_rows(session, kept) == 1


def release_line(session: Session, line_id: int, owner: str) -> None:
    """Give a line back."""
    session.execute(
        update(MachineLine)
        .where(MachineLine.id == line_id, MachineLine.owner == owner)
        .values(owner=None, lease_until=None)
    )
