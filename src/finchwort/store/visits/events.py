"""What happened at a printer, in the order in which it was written down.

Every record writes a line into the logbook within its own transaction, and these lines are numbered one after
the other.  Their numbers are the order of events: a clock may jump back, a number does not.
"""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.visits import EVENTS, Happened
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.memo import once
from finchwort.store.models import Adjustment, Entry, Turning
from finchwort.store.records import Logged, Subject
from finchwort.store.visits.logbook import tells_of


def mark_of(session: Session, record: Logged) -> int:
    """Number of the first line that a record wrote; 0 when there is none."""
    kind, number = record.subject, record.id

    def ask() -> int:
        told = (Entry.subject_kind == kind, Entry.subject_id == number)
        return session.scalar(select(func.min(Entry.id)).where(*told)) or 0

    return once(session, ("mark", kind, number), ask)


def survey_marks(session: Session, ids: Sequence[int]) -> dict[int, int]:
    """Number of the line that each survey wrote."""
    query = (
        select(Entry.subject_id, func.min(Entry.id))
        .where(Entry.subject_kind == Subject.SURVEY, Entry.subject_id.in_(ids))
        .group_by(Entry.subject_id)
    )
    return {survey: number for survey, number in session.execute(query) if survey is not None} if ids else {}


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
    return [item for item in kept[max(older)] if item.number > mark]


def _load(session: Session, printer_id: int, mark: int) -> list[Happened]:

    after = (Entry.printer_id == printer_id, Entry.id > mark)
    events: list[Happened] = []
    turned = (
        select(Entry.id, Turning).join(Turning, tells_of(Turning)).where(*after, Turning.deleted_at.is_(None))
    )
    for number, turning in session.execute(turned):
        moves = tuple((s.x, s.y, s.done * s.pitch) for s in turning.screws)
        as_planned = all(abs(screw.done - screw.planned) < 1e-9 for screw in turning.screws)
        kept = turning.hold == "centre" and as_planned
        events.append(Happened("turned", moves, kept_middle=kept, number=number))
    adjusted = (
        select(Entry.id, Adjustment.kind)
        .join(Adjustment, tells_of(Adjustment))
        .where(*after, Adjustment.deleted_at.is_(None), Adjustment.kind != "mesh")
    )
    changed = (
        select(Entry.id, MachineChange.what)
        .join(MachineChange, tells_of(MachineChange))
        .where(*after, MachineChange.deleted_at.is_(None), MachineChange.what.in_(EVENTS))
    )
    for query in (adjusted, changed):
        events += [Happened(what, number=number) for number, what in session.execute(query)]
    return sorted(events, key=lambda item: item.number)


def newest_event(session: Session, printer_id: int, whats: Sequence[str]) -> int:
    """Number of the newest line that says that one of these was done to a printer; 0 when none does."""
    query = (
        select(func.max(Entry.id))
        .join(MachineChange, tells_of(MachineChange))
        .where(
            Entry.printer_id == printer_id, MachineChange.deleted_at.is_(None), MachineChange.what.in_(whats)
        )
    )
    return session.scalar(query) or 0
