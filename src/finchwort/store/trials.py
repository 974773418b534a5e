"""Printed ladders and how they were judged."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.bead import Bead
from finchwort.core.errors import ChoiceError
from finchwort.core.forecast import SAFE
from finchwort.core.judging import STEPS, WORDS, Judged, Ladder, judge_ladder
from finchwort.core.ladders import FIRST_BELIEF, best_gap, plan_ladder
from finchwort.core.offsets import Ledger
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.logbook import set_entries_deleted, write_entry
from finchwort.store.models import Visit, utcnow
from finchwort.store.offset_models import Trial
from finchwort.store.offsets import ledger_of, newest_offset
from finchwort.store.visits import get_visit

MOST_SHIFT = 0.5
"""No rung lies further from the offset it is printed at, mm."""


@dataclass(frozen=True, eq=False)
class Ladders:
    """What a visit's ladders say, and the next one.

    Attributes
    ----------
    trials : tuple of Trial
        Oldest first.
    found : Ladder or None
        From all of them, counted from the present offset.
    rungs : tuple of float
        Shifts of the next ladder from the present offset, farthest first, mm.
    """

    trials: tuple[Trial, ...]
    found: Ladder | None
    rungs: tuple[float, ...]


def trials_of(session: Session, visit_id: int) -> list[Trial]:
    """Return a visit's trials, oldest first."""
    query = select(Trial).where(Trial.visit_id == visit_id, Trial.deleted_at.is_(None))
    return list(session.scalars(query.order_by(Trial.made_at, Trial.id)))


def ladders_of(session: Session, visit: Visit, bead: Bead) -> Ladders:
    """Weigh a visit's ladders together and plan the next one.

    Each was printed at the offset of its time; when that was changed since, its patches count from the present one.
    """
    trials = trials_of(session, visit.id)
    now = ledger_of(newest_offset(session, visit.printer_id), visit.printer)
    patches = []
    for trial in trials:
        closer = now.closer_by(Ledger(trial.parts, now.closer_is))
        patches += [Judged(p["shift"] + closer, p["step"]) for p in trial.patches]
    found = judge_ladder(patches, bead) if patches else None
    best, sd = (found.best, found.sd) if found else (0.0, FIRST_BELIEF)
    # the gap is best at the best shift, so the tip touches as much below it
    closest = best - best_gap(bead) + SAFE
    return Ladders(tuple(trials), found, plan_ladder(closest, best, sd, bead))


def record_ladder(
    session: Session,
    visit_id: int,
    patches: Sequence[tuple[float, str]],
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Trial:
    """Record a ladder that was printed at the present offset, and how its patches were judged.

    Parameters
    ----------
    patches : sequence of (float, str)
        Shift (mm, farther positive) and one of `finchwort.core.judging.STEPS`.

    Raises
    ------
    ChoiceError
        When a step is none, or fewer than three patches were judged.
    ConflictError
        When the visit is closed.
    """
    visit = get_visit(session, visit_id, lock=True)
    if len(patches) < 3:
        raise ChoiceError("Judge three patches or more.")
    for shift, step in patches:
        if step not in STEPS:
            raise ChoiceError(f"A patch is judged {', '.join(WORDS.values())}.")
        if not abs(shift) <= MOST_SHIFT:
            raise ChoiceError(f"A rung lies within {MOST_SHIFT:g} mm of the offset it is printed at.")
    stored = [{"shift": round(float(shift), 4), "step": step} for shift, step in patches]
    known = session.scalars(select(Trial).where(Trial.client_key == client_key)).first()
    if known is not None:
        if (known.visit_id, known.patches) != (visit_id, stored) or known.deleted_at is not None:
            raise KeyTakenError("Something else was recorded with this key, or it was taken back since.")
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    book = ledger_of(newest_offset(session, visit.printer_id), visit.printer)
    trial = Trial(
        visit_id=visit.id,
        made_at=at or utcnow(),
        client_key=client_key,
        kind="ladder",
        parts=dict(book.parts),
        patches=stored,
        note=note.strip(),
    )
    session.add(trial)
    session.flush()
    good = [p["shift"] for p in stored if p["step"] == "good"]
    detail = "; ".join(f"{p['shift']:+.3f} mm {WORDS[p['step']]}" for p in stored)
    write_entry(
        session,
        "test",
        f"Ladder of {len(stored)} patches judged, {len(good)} good",
        f"{detail}.\n{note.strip()}".strip(),
        at=at,
        printer=visit.printer,
        visit=visit,
        trial_id=trial.id,
    )
    return trial


def set_trial_deleted(session: Session, trial_id: int, deleted: bool) -> Trial:
    """Take back a trial that was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    trial = session.get(Trial, trial_id)
    if trial is None or (trial.deleted_at is None) != deleted:
        raise NotFoundError("There is no such trial.")
    trial.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, trial.deleted_at, trial_id=trial.id)
    return trial
