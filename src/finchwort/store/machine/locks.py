"""Whether a printer is at work: what it may still do must stay in reach of a stop."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.errors import ConflictError
from finchwort.store.machine.kinds import UNDER_WAY, JobKind
from finchwort.store.models import Job, MachineLine, Printer


def lock_printer(session: Session, printer_id: int) -> None:
    """Let nobody else ask for work at a printer, or change it, until this is committed."""
    session.execute(select(Printer.id).where(Printer.id == printer_id).with_for_update())


def refuse_at_work(session: Session, printer: Printer, visit_id: int | None = None) -> None:
    """Raise `ConflictError` while a job of a printer, or only of one of its visits, waits or runs."""
    query = select(Job).where(Job.printer_id == printer.id, Job.state.in_(UNDER_WAY))
    if visit_id is not None:
        query = query.where(Job.visit_id == visit_id)
    busy = session.scalars(query).first()
    if busy is not None:
        raise ConflictError(
            f"{printer.name} is at work: {JobKind(busy.kind).title.lower()}. Stop that first, or wait for it."
        )


def refuse_hot(session: Session, printer: Printer) -> None:
    """Raise `ConflictError` while heaters of a printer are on: they are switched off over the line it has now."""
    hot = select(MachineLine.id).where(MachineLine.hot_printer_id == printer.id)
    if session.scalars(hot).first() is not None:
        raise ConflictError(f"Heaters of {printer.name} were switched on. Switch them off first.")
