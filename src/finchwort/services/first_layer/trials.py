"""Printed ladders and beds, and how they were judged."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.first_layer import (
    DISC,
    FIRST_BELIEF,
    LADDER_REACH,
    MAX_PATCHES,
    MIN_STEP,
    SAFE,
    STEPS,
    WORDS,
    Bead,
    Judged,
    Ladder,
    Ledger,
    best_gap,
    judge_bed,
    judge_ladder,
    plan_bed,
    plan_ladder,
)
from finchwort.core.visits import Standing, by_now
from finchwort.services.first_layer.clearance import what_is_known
from finchwort.services.visits.standing import days_since, stands
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import Trial
from finchwort.store.first_layer.offsets import ledger_of, made_by_hand, newest_offset
from finchwort.store.first_layer.trials import trials_of
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.records import sent_before, set_deleted, utcnow
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.standing import newest_visit
from finchwort.store.visits.visits import get_visit

MIN_BELIEF = 0.03
"""Paper and calipers say it no better than this, whatever margin they give, mm (ours)."""
DOUBT = 2.0
"""So many standard deviations of what was judged are kept clear of (ours)."""
PRINTED = ("ladder", "bed", "look", "patches")
"""Kinds of trial for which something was printed."""
MAX_SHIFT = 0.5
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


@dataclass(frozen=True, eq=False)
class JudgedBed:
    """What a visit's judged beds say, and where to print the next.

    Attributes
    ----------
    trials : tuple of Trial
        Oldest first; those since the bed was moved last.
    patches : tuple of Judged
        All that were weighed, the ladders' too, counted from the present offset.
    found : Ladder or None
    places : tuple of (x, y, shift)
        mm
    """

    trials: tuple[Trial, ...]
    patches: tuple[Judged, ...]
    found: Ladder | None
    places: tuple[tuple[float, float, float], ...]


def _holding(session: Session, visit: Visit, kind: str = "ladder") -> list[Trial]:
    """Keep the trials that are not gone: what tip and bed were like before says nothing about them now."""
    thing = "discs" if kind == "bed" else "ladder"
    return [
        trial
        for trial in trials_of(session, visit.id, kind)
        if not trial_stands(session, visit, trial, thing).gone
    ]


def judged_ladders(session: Session, visit: Visit, bead: Bead) -> tuple[list[Trial], Ladder | None]:
    """Weigh a visit's ladders together; None when there are none."""
    trials = _holding(session, visit)
    patches = _counted_from_now(session, visit, trials) if trials else []
    return trials, judge_ladder(patches, bead) if patches else None


def ladders_of(session: Session, visit: Visit, bead: Bead) -> Ladders:
    """Weigh a visit's ladders together and plan the next one.

    Each was printed at the offset of its time; when that was changed since, its patches count from the present one.
    """
    trials, result = judged_ladders(session, visit, bead)
    best, sd = (result.best, result.sd) if result else (0.0, _belief(session, visit))
    # the gap is best at the best shift, so the tip touches as much below it
    closest = best - best_gap(bead) + SAFE
    ground = what_is_known(session, visit).ground
    if not ground.refused:
        # the patches lie around the middle
        rise = ground.rise(bed_of(visit.printer).centre, LADDER_REACH)
        closest = max(closest + rise, _floor(bead, rise, zero_of(session, visit, bead)))
    return Ladders(tuple(trials), result, plan_ladder(closest, best, sd, bead))


def _belief(session: Session, visit: Visit) -> float:
    """How far off the offset may be before anything is judged, standard deviation, mm: less when this visit measured it."""
    newest = newest_offset(session, visit.printer_id)
    margin = (newest.data.get("found") or {}).get("margin") if newest is not None else None
    if (
        newest is None
        or margin is None
        or newest.visit_id != visit.id
        or newest.reason not in ("paper", "patches")
    ):
        return FIRST_BELIEF
    return min(FIRST_BELIEF, max(MIN_BELIEF, margin / 2))


def _counted_from_now(session: Session, visit: Visit, trials: Sequence[Trial]) -> list[Judged]:
    """Patches of trials with their shifts counted from the present offset; a ladder's lie in the middle."""
    now = ledger_of(newest_offset(session, visit.printer_id), visit.printer)
    x, y = bed_of(visit.printer).centre
    results = []
    for trial in trials:
        closer = now.closer_by(Ledger(trial.parts, now.closer_is))
        closer += made_by_hand(session, visit.printer_id, mark_of(session, trial))
        results += [
            Judged(p["shift"] + closer, p["step"], p.get("x", x), p.get("y", y)) for p in trial.patches
        ]
    return results


def judged_bed_of(session: Session, visit: Visit, bead: Bead, side: int = 5) -> JudgedBed:
    """Weigh a visit's judged beds, with its ladders, and plan the next.

    What was judged before the bed was moved (knobs, shims, beam, another plate) says nothing about it now.
    """
    bed = bed_of(visit.printer)
    beds = _holding(session, visit, "bed")
    result = None
    patches: list[Judged] = []
    if beds:
        patches = _counted_from_now(session, visit, beds)[-MAX_PATCHES:]
        # a ladder tells where this person draws the lines
        ladders = _counted_from_now(session, visit, _holding(session, visit))
        room = MAX_PATCHES - len(patches)
        patches += ladders[-room:] if room else []
        result = judge_bed(patches, bead, bed)
    best = result.best if result else 0.0
    closest = best - best_gap(bead) + SAFE
    places = plan_bed(bed, bead, closest, side)
    ground = what_is_known(session, visit).ground
    if not ground.refused:
        # where the bed may be high a disc is printed farther, so that the tip keeps clear of it
        zero = zero_of(session, visit, bead)
        high = [ground.rise((x, y), DISC / 2) for x, y, _ in places]
        raised = [
            max(place[2], _step_up(_floor(bead, rise, zero)))
            for place, rise in zip(places, high, strict=True)
        ]
        # further up nothing could be judged: such a disc stays where it was, and is refused
        places = tuple(
            (x, y, up if up <= MAX_SHIFT else shift) for (x, y, shift), up in zip(places, raised, strict=True)
        )
    return JudgedBed(tuple(beds), tuple(patches), result, places)


def zero_of(session: Session, visit: Visit, bead: Bead) -> float:
    """Gap at Z = 0 in the middle that can be counted on by a visit's ladders, mm: no closer on what is only likely.

    Where an offset was written down after the ladders, whatever it was, nothing is taken closer on their word.
    """
    trials, result = judged_ladders(session, visit, bead)
    if result is None:
        return 0.0
    zero = -result.best - DOUBT * result.sd
    offset = newest_offset(session, visit.printer_id)
    later = offset is not None and mark_of(session, offset) > mark_of(session, trials[-1])
    return min(zero, 0.0) if later else zero


def _floor(bead: Bead, rise: float, zero: float) -> float:
    """Shift down to which the tip keeps clear of ground that may be so much higher than the middle, mm."""
    return rise - zero + SAFE - bead.height


def _step_up(shift: float) -> float:
    """Round a shift away from the bed to a step that is printed, mm."""
    return round(math.ceil(shift / MIN_STEP - 1e-9) * MIN_STEP, 4)


def trial_stands(session: Session, visit: Visit, trial: Trial, thing: str = "discs") -> Standing:
    """Say whether a trial still tells of bed and tip (``"discs"``), or of the tip in the middle alone (``"ladder"``)."""
    now = by_now(surface=(trial.surface, visit.surface if visit is not None else ""))
    return stands(session, visit.printer, thing, mark_of(session, trial), now)


def moved_since_trial(session: Session, visit: Visit, trial: Trial) -> bool:
    """Whether bed or tip are not what they were at a trial."""
    return trial_stands(session, visit, trial).gone


def newest_print(session: Session, printer: Printer) -> tuple[Trial, Standing] | None:
    """Return a printer's newest judged print and whether it still tells of bed and tip."""
    query = (
        select(Trial)
        .join(Visit)
        .where(
            Visit.printer_id == printer.id,
            Visit.deleted_at.is_(None),
            Trial.deleted_at.is_(None),
            Trial.kind.in_(PRINTED),
        )
        .order_by(Trial.id.desc())
        .limit(1)
    )
    trial = session.scalars(query).first()
    if trial is None:
        return None
    visit = newest_visit(session, printer.id)
    now = by_now(
        surface=(trial.surface, visit.surface if visit is not None else ""), days=days_since(trial.made_at)
    )
    return trial, stands(session, printer, "discs", mark_of(session, trial), now)


def record_ladder(
    session: Session, visit_id: int, patches: Sequence[tuple[float, str]], **more: Any
) -> Trial:
    """Record a ladder that was printed at the present offset, and how its patches were judged.

    Parameters
    ----------
    patches : sequence of (float, str)
        Shift (mm, farther positive) and one of `finchwort.core.first_layer.STEPS`.

    Other parameters, and what is raised: see `record_trial`.
    """
    return record_trial(session, visit_id, "ladder", [(s, step, None, None) for s, step in patches], **more)


def record_trial(
    session: Session,
    visit_id: int,
    kind: str,
    patches: Sequence[tuple[float, str, float | None, float | None]],
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Trial:
    """Record patches that were printed at the present offset, and how they were judged.

    Parameters
    ----------
    kind : {"ladder", "bed"}
    patches : sequence of (shift, step, x, y)
        Shift (mm, farther positive), one of `finchwort.core.first_layer.STEPS`, and the place (mm) of a bed's.

    Raises
    ------
    ChoiceError
        When a step is none, or too few patches were judged.
    OutOfRangeError
        When a patch lies beside the printable area.
    ConflictError
        When the visit is closed.
    """
    visit = get_visit(session, visit_id, lock=True)
    least = 3 if kind == "ladder" else 4
    if len(patches) < least:
        raise ChoiceError("first_layer.judge_patches_more", which="three" if least == 3 else "four")
    bed = bed_of(visit.printer)
    for shift, step, x, y in patches:
        if step not in STEPS:
            raise ChoiceError("first_layer.patch_judged", names=", ".join(WORDS.values()))
        if not abs(shift) <= MAX_SHIFT:
            raise ChoiceError("first_layer.patch_within_mm_offset", max_shift=MAX_SHIFT)
        if kind == "bed" and (x is None or y is None):
            raise ChoiceError("first_layer.where_each_patch")
        if (
            x is not None
            and y is not None
            and kind == "bed"
            and not (bed.x_min <= x <= bed.x_max and bed.y_min <= y <= bed.y_max)
        ):
            raise OutOfRangeError("first_layer.patch_beside_printable_area")
    stored: list[dict[str, Any]] = [
        {"shift": round(float(shift), 4), "step": step} | ({"x": x, "y": y} if kind == "bed" else {})
        for shift, step, x, y in patches
    ]
    good = [p["shift"] for p in stored if p["step"] == "good"]
    detail = "; ".join(
        (f"x {p['x']:g}, y {p['y']:g}: " if kind == "bed" else "")
        + f"{p['shift']:+.3f} mm {WORDS[p['step']]}"
        for p in stored
    )
    title = f"{'Ladder' if kind == 'ladder' else 'Bed'} of {len(stored)} patches judged, {len(good)} good"
    return store_trial(
        session, visit, kind, stored, title, f"{detail}.", client_key=client_key, note=note, at=at
    )


def store_trial(
    session: Session,
    visit: Visit,
    kind: str,
    stored: list[dict[str, Any]],
    title: str,
    detail: str,
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Trial:
    """Store what was tried at the present offset, with its line in the logbook.

    Raises
    ------
    ConflictError
        When the visit is closed.
    KeyTakenError
        When something else was recorded with this key.
    """
    taken = "Something else was recorded with this key, or it was taken back since."
    known = sent_before(session, Trial, client_key, taken, visit_id=visit.id, kind=kind, patches=stored)
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    book = ledger_of(newest_offset(session, visit.printer_id), visit.printer)
    trial = Trial(
        visit_id=visit.id,
        made_at=at or utcnow(),
        client_key=client_key,
        kind=kind,
        parts=dict(book.parts),
        patches=stored,
        note=note.strip(),
        surface=visit.surface,
    )
    session.add(trial)
    session.flush()
    write_entry(
        session,
        "test",
        title,
        f"{detail}\n{note.strip()}".strip(),
        at=at,
        printer=visit.printer,
        visit=visit,
        subject=trial,
    )
    return trial


def set_trial_deleted(session: Session, trial_id: int, deleted: bool) -> Trial:
    """Take back a trial that was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    trial = set_deleted(session, Trial, trial_id, deleted, "There is no such trial.")
    set_entries_deleted(session, trial, trial.deleted_at)
    return trial
