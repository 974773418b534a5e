"""What this workshop believes: the table, its own closed cases, and counts of other workshops."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.diagnosis import Cause, Counts, Model, add_counts, learn
from finchwort.knowledge import beliefs
from finchwort.store.diagnosis.models import BeliefImport
from finchwort.store.diagnosis.prior import imports, own_counts
from finchwort.store.models import Printer
from finchwort.store.records import sent_before

LACKING = 0.02
"""A cause that needs what this printer has not got is so much less likely (ours: a set-up may be wrong)."""
FORM = "finchwort-cases-1"
"""Marks a file of counts."""


def believed(session: Session) -> tuple[tuple[Cause, ...], Counts]:
    """Return the causes as they are believed now, and the counts behind them."""
    counts = add_counts([own_counts(session), *(read_counts(item.counts) for item in imports(session))])
    return learn(beliefs().causes, counts, beliefs().signs), counts


def model_for(
    session: Session, printer: Printer, circumstances: list[str], causes: tuple[Cause, ...] | None = None
) -> Model:
    """Make the model for a case with its circumstances; what a printer has not got is hardly to blame.

    ``causes`` are those of `believed`, where they were asked for already.
    """
    odds: dict[str, float] = {}
    lacks = {
        ("mesh_off", "mesh_old", "mesh_missing"): printer.compensation == "none",
        ("slack_screw",): not printer.screws,
        ("probe_noisy", "probe_drift"): printer.probe_kind == "none",
    }
    for missing, lacking in lacks.items():
        if lacking:
            odds |= dict.fromkeys(missing, LACKING)
    for circumstance in beliefs().circumstances:
        if circumstance.key in circumstances:
            for cause, factor in circumstance.odds.items():
                odds[cause] = odds.get(cause, 1.0) * factor
    known = beliefs()
    return Model(
        believed(session)[0] if causes is None else causes, known.signs, known.checks, odds, known.before
    )


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
        raise ChoiceError("diagnosis.no_file_counted_cases")
    causes, rows = data.get("causes"), data.get("signs")
    if not isinstance(causes, Mapping) or not isinstance(rows, list) or len(rows) > 5000:
        raise ChoiceError("diagnosis.file_counted_cases_damaged")
    known = {cause.key for cause in beliefs().causes}
    signs_known = {sign.key for sign in beliefs().signs}
    signs = {}
    for row in rows:
        if not isinstance(row, list) or len(row) != 4:
            raise ChoiceError("diagnosis.file_counted_cases_damaged")
        cause, sign, seen, absent = row
        if cause not in known or sign not in signs_known:
            raise ChoiceError("diagnosis.file_names_not_known", cause=cause, sign=sign)
        signs[cause, sign] = (seen, absent)
    strange = set(causes) - known
    if strange:
        raise ChoiceError("diagnosis.file_names_cause_not", strange=strange.pop())
    return Counts(dict(causes), signs)


def merge_counts(session: Session, name: str, data: Any, *, client_key: str) -> BeliefImport:
    """Take another workshop's counts in.

    Raises
    ------
    ChoiceError, OutOfRangeError, KeyTakenError
    """
    called, counts = name.strip()[:80] or "Another workshop", write_counts(read_counts(data))
    taken = "Another file was taken in with this key, or it was taken back since."
    known = sent_before(session, BeliefImport, client_key, taken, name=called, counts=counts)
    if known is not None:
        return known
    made = BeliefImport(name=called, client_key=client_key, counts=counts)
    session.add(made)
    session.flush()
    return made
