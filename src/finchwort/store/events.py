"""What happened at a printer, in the order in which it was written down.

Every record writes a line into the logbook within its own transaction, and these lines are numbered one after
the other.  Their numbers are the order of events: a clock may jump back, a number does not.
"""

from __future__ import annotations

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from finchwort.core.clearance import TIP, Happened
from finchwort.store.models import Adjustment, Entry, Turning
from finchwort.store.offset_models import MachineChange


def mark_of(session: Session, **of: int) -> int:
    """Number of the line that a record wrote, by ``survey_id=`` and the like; 0 when there is none."""
    query = select(func.min(Entry.id))
    for column, value in of.items():
        query = query.where(getattr(Entry, column) == value)
    return session.scalar(query) or 0


def happened_since(session: Session, printer_id: int, mark: int) -> list[Happened]:
    """Return what was done to a printer after a line of the logbook, oldest first.

    What was taken back did not happen; what belongs to a visit that was deleted did.
    """

    def after(column: ColumnElement) -> list[ColumnElement[bool]]:
        return [Entry.printer_id == printer_id, Entry.id > mark, column.is_not(None)]

    found: list[tuple[int, Happened]] = []
    turned = (
        select(Entry.id, Turning)
        .join(Turning, Entry.turning_id == Turning.id)
        .where(*after(Entry.turning_id), Turning.deleted_at.is_(None))
    )
    for number, turning in session.execute(turned):
        moves = tuple((s.x, s.y, s.done * s.pitch) for s in turning.screws)
        found.append((number, Happened("turned", moves)))
    adjusted = (
        select(Entry.id, Adjustment.kind)
        .join(Adjustment, Entry.adjustment_id == Adjustment.id)
        .where(*after(Entry.adjustment_id), Adjustment.deleted_at.is_(None), Adjustment.kind != "mesh")
    )
    changed = (
        select(Entry.id, MachineChange.what)
        .join(MachineChange, Entry.change_id == MachineChange.id)
        .where(*after(Entry.change_id), MachineChange.deleted_at.is_(None))
    )
    for query in (adjusted, changed):
        found += [(number, Happened(what)) for number, what in session.execute(query)]
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]


def tip_changed_at(session: Session, printer_id: int) -> int:
    """Number of the newest line after which nobody knew how high the tip stands; 0 when there is none."""
    query = (
        select(func.max(Entry.id))
        .join(MachineChange, Entry.change_id == MachineChange.id)
        .where(
            Entry.printer_id == printer_id,
            MachineChange.deleted_at.is_(None),
            MachineChange.what.in_([what for what in TIP if what != "sign"]),
        )
    )
    return session.scalar(query) or 0
