"""What this workshop believes: the table, its own closed cases, and counts of other workshops."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.diagnosis import Cause, Counts, Model, add_counts, learn
from finchwort.knowledge import beliefs
from finchwort.store.case_models import BeliefImport, CaseEvent, Trouble
from finchwort.store.cases import UNKNOWN_CAUSE
from finchwort.store.errors import KeyTakenError, NotFoundError
from finchwort.store.models import Printer
from finchwort.store.records import utcnow

LACKING = 0.02
"""A cause that needs what this printer has not got is so much less likely (ours: a set-up may be wrong)."""
FORM = "finchwort-cases-1"
"""Marks a file of counts."""


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


def believed(session: Session) -> tuple[tuple[Cause, ...], Counts]:
    """Return the causes as they are believed now, and the counts behind them."""
    counts = add_counts([own_counts(session), *(read_counts(one.counts) for one in imports(session))])
    return learn(beliefs().causes, counts), counts


def model_for(
    session: Session, printer: Printer, circumstances: list[str], causes: tuple[Cause, ...] | None = None
) -> Model:
    """Make the model for a case with its circumstances; what a printer has not got is hardly to blame.

    ``causes`` are those of `believed`, where they were asked for already.
    """
    odds: dict[str, float] = {}
    lacks = {
        ("mesh_off", "mesh_old"): printer.compensation == "none",
        ("slack_screw",): not printer.screws,
        ("probe_noisy",): printer.probe_kind == "none",
    }
    for missing, lacking in lacks.items():
        if lacking:
            odds |= dict.fromkeys(missing, LACKING)
    for one in beliefs().circumstances:
        if one.key in circumstances:
            for cause, factor in one.odds.items():
                odds[cause] = odds.get(cause, 1.0) * factor
    return Model(believed(session)[0] if causes is None else causes, beliefs().signs, beliefs().checks, odds)


def write_counts(counts: Counts) -> dict[str, Any]:
    """Counts as a plain object, to be given to another workshop."""
    return {
        "form": FORM,
        "causes": dict(counts.causes),
        "signs": [[cause, sign, *pair] for (cause, sign), pair in sorted(counts.signs.items())],
    }


def read_counts(data: Any) -> Counts:
    """Read counts of a workshop; what names something unknown is refused.

    Raises
    ------
    ChoiceError, OutOfRangeError
    """
    if not isinstance(data, Mapping) or data.get("form") != FORM:
        raise ChoiceError("This is no file of counted cases.")
    causes, rows = data.get("causes"), data.get("signs")
    if not isinstance(causes, Mapping) or not isinstance(rows, list) or len(rows) > 5000:
        raise ChoiceError("This file of counted cases is damaged.")
    known = {one.key for one in beliefs().causes}
    signs_known = {one.key for one in beliefs().signs}
    signs = {}
    for row in rows:
        if not isinstance(row, list) or len(row) != 4:
            raise ChoiceError("This file of counted cases is damaged.")
        cause, sign, seen, absent = row
        if cause not in known or sign not in signs_known:
            raise ChoiceError(f"This file names {cause!r} and {sign!r}, which are not known here.")
        signs[cause, sign] = (seen, absent)
    strange = set(causes) - known
    if strange:
        raise ChoiceError(f"This file names the cause {strange.pop()!r}, which is not known here.")
    return Counts(dict(causes), signs)


def merge_counts(session: Session, name: str, data: Any, *, client_key: str) -> BeliefImport:
    """Take another workshop's counts in.

    Raises
    ------
    ChoiceError, OutOfRangeError, KeyTakenError
    """
    called, counts = name.strip()[:80] or "Another workshop", write_counts(read_counts(data))
    known = session.scalars(select(BeliefImport).where(BeliefImport.client_key == client_key)).first()
    if known is not None:
        if (known.name, known.counts) != (called, counts) or known.deleted_at is not None:
            raise KeyTakenError("Another file was taken in with this key, or it was taken back since.")
        return known
    made = BeliefImport(name=called, client_key=client_key, counts=counts)
    session.add(made)
    session.flush()
    return made


def set_import_deleted(session: Session, import_id: int, deleted: bool) -> BeliefImport:
    """Take another workshop's counts out again, or back in.

    Raises
    ------
    NotFoundError
    """
    found = session.get(BeliefImport, import_id, with_for_update=True, populate_existing=True)
    if found is None or (found.deleted_at is None) != deleted:
        raise NotFoundError("There are no such counts.")
    found.deleted_at = utcnow() if deleted else None
    return found
