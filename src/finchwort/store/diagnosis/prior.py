"""Counts of closed cases, one's own and those brought in from elsewhere."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.diagnosis import Counts
from finchwort.store.diagnosis.cases import UNKNOWN_CAUSE
from finchwort.store.diagnosis.models import BeliefImport, CaseEvent, Trouble
from finchwort.store.records import set_deleted


def own_counts(session: Session) -> Counts:
    """Count this workshop's closed cases."""
    ends: dict[int, str] = {}
    answers: dict[int, dict[str, str]] = {}
    # rows, not records: every case of years is read for every diagnosis
    rows = (
        select(CaseEvent.trouble_id, CaseEvent.kind, CaseEvent.key, CaseEvent.value)
        .join(Trouble)
        .where(Trouble.deleted_at.is_(None), CaseEvent.deleted_at.is_(None))
        .where(CaseEvent.kind.in_(("sign", "close", "reopen")))
        .order_by(CaseEvent.at, CaseEvent.id)
    )
    for case, kind, key, value in session.execute(rows):
        if kind == "sign":
            mine = answers.setdefault(case, {})
            mine.pop(key, None)
            if value in ("yes", "no"):
                mine[key] = value
        elif kind == "close":
            ends[case] = key
        else:
            ends.pop(case, None)
    causes: dict[str, int] = {}
    signs: dict[tuple[str, str], tuple[int, int]] = {}
    for case, cause in ends.items():
        if cause == UNKNOWN_CAUSE:
            continue
        causes[cause] = causes.get(cause, 0) + 1
        for sign, answer in answers.get(case, {}).items():
            seen, absent = signs.get((cause, sign), (0, 0))
            signs[cause, sign] = seen + (answer == "yes"), absent + (answer == "no")
    return Counts(causes, signs)


def imports(session: Session) -> list[BeliefImport]:
    """Return the counts of other workshops, oldest first."""
    query = select(BeliefImport).where(BeliefImport.deleted_at.is_(None))
    return list(session.scalars(query.order_by(BeliefImport.id)))


def set_import_deleted(session: Session, import_id: int, deleted: bool) -> BeliefImport:
    """Take another workshop's counts out again, or back in.

    Raises
    ------
    NotFoundError
    """
    return set_deleted(session, BeliefImport, import_id, deleted, "There are no such counts.")
