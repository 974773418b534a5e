"""What happened at a printer, in the order in which it was written down.

Every record writes a line into the logbook within its own transaction, and these lines are numbered one after
the other.  Their numbers are the order of events: a clock may jump back, a number does not.
"""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from finchwort.core.visits import EVENTS, Happened
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.memo import once
from finchwort.store.models import Adjustment, Entry, Turning


def mark_of(session: Session, **of: int | str) -> int:
    """Number of the line that a record wrote, by ``survey_id=`` and the like; 0 when there is none."""

    def ask() -> int:
        query = select(func.min(Entry.id))
        for column, value in of.items():
            query = query.where(getattr(Entry, column) == value)
        return session.scalar(query) or 0

    return once(session, ("mark", *sorted(of.items())), ask)


def survey_marks(session: Session, ids: Sequence[int]) -> dict[int, int]:
    """Number of the line that each survey wrote."""
    query = (
        select(Entry.survey_id, func.min(Entry.id))
        .where(Entry.survey_id.in_(ids), Entry.kind == "survey")
        .group_by(Entry.survey_id)
    )
    return {survey: number for survey, number in session.execute(query)} if ids else {}


def happened_since(session: Session, printer_id: int, mark: int) -> list[Happened]:
    """Return what was done to a printer after a line of the logbook, oldest first.

    What was taken back did not happen; what belongs to a visit that was deleted did.
    """
    # who asks for a line asks for others too: what was loaded for an older one holds for all after it
    kept: dict[int, list[Happened]] = once(session, ("happened", printer_id), dict)
    older = [since for since in kept if since <= mark]
    if not older:
        kept[mark] = _load(session, printer_id, mark)
        older = [mark]
    return [one for one in kept[max(older)] if one.number > mark]


def _load(session: Session, printer_id: int, mark: int) -> list[Happened]:

    def after(column: ColumnElement) -> list[ColumnElement[bool]]:
        return [Entry.printer_id == printer_id, Entry.id > mark, column.is_not(None)]

    found: list[Happened] = []
    turned = (
        select(Entry.id, Turning)
        .join(Turning, Entry.turning_id == Turning.id)
        .where(*after(Entry.turning_id), Turning.deleted_at.is_(None))
    )
    for number, turning in session.execute(turned):
        moves = tuple((s.x, s.y, s.done * s.pitch) for s in turning.screws)
        as_planned = all(abs(screw.done - screw.planned) < 1e-9 for screw in turning.screws)
        kept = turning.hold == "centre" and as_planned
        found.append(Happened("turned", moves, kept_middle=kept, number=number))
    adjusted = (
        select(Entry.id, Adjustment.kind)
        .join(Adjustment, Entry.adjustment_id == Adjustment.id)
        .where(*after(Entry.adjustment_id), Adjustment.deleted_at.is_(None), Adjustment.kind != "mesh")
    )
    changed = (
        select(Entry.id, MachineChange.what)
        .join(MachineChange, Entry.change_id == MachineChange.id)
        .where(*after(Entry.change_id), MachineChange.deleted_at.is_(None), MachineChange.what.in_(EVENTS))
    )
    for query in (adjusted, changed):
        found += [Happened(what, number=number) for number, what in session.execute(query)]
    return sorted(found, key=lambda one: one.number)


def newest_event(session: Session, printer_id: int, whats: Sequence[str]) -> int:
    """Number of the newest line that says that one of these was done to a printer; 0 when none does."""
    query = (
        select(func.max(Entry.id))
        .join(MachineChange, Entry.change_id == MachineChange.id)
        .where(
            Entry.printer_id == printer_id, MachineChange.deleted_at.is_(None), MachineChange.what.in_(whats)
        )
    )
    return session.scalar(query) or 0
