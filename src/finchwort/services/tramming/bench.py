"""Levelling at the bench: what was done is stored step by step, where things stand is worked out from it each time."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.base.wording import counted
from finchwort.core.probing import Feel, FeltBed, least_spread
from finchwort.core.surveys import Survey
from finchwort.core.tramming import CORNER_SURE, Bench, Done, Now, bench_of, follow
from finchwort.services.surveys.surveys import store_survey
from finchwort.services.tramming.learning import learned_of
from finchwort.services.visits.changes import record_change, set_change_deleted
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.models import BenchStep, Entry, Printer, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of, screws_of
from finchwort.store.records import sent_before, utcnow
from finchwort.store.visits.logbook import tells_of
from finchwort.store.visits.visits import get_visit

CENTRE = "centre"
THICKNESS = 0.1
"""The strip's own thickness moves all heights alike, mm: only differences are levelled."""
TURNS = ("drag", "turn")
"""Steps in which a knob is turned."""
MAX_STEPS = 300


@dataclass(frozen=True, eq=False)
class AtBench:
    """Where a visit's levelling by paper stands.

    Attributes
    ----------
    bench : Bench
    now : Now
    steps : tuple of BenchStep
        Of this session, oldest first.
    names : tuple of str
        Of the places, the centre last.
    """

    bench: Bench
    now: Now
    steps: tuple[BenchStep, ...]
    names: tuple[str, ...]


def at_bench(session: Session, visit: Visit) -> AtBench:
    """Work out where things stand.

    Raises
    ------
    ConflictError
        When the printer has no knobs.
    """
    printer = visit.printer
    if not printer.screws:
        raise ConflictError("This bed has no knobs to level it by.")
    bench = _bench(session, printer, visit)
    steps = tuple(_steps(session, visit))
    return AtBench(
        bench,
        follow(bench, [_done(step) for step in steps]),
        steps,
        (*(screw.name for screw in printer.screws), CENTRE),
    )


def _done(step: BenchStep) -> Done:
    return Done(step.what, step.place, step.feel, step.value if step.what == "read" else step.turns)


def _bench(session: Session, printer: Printer, visit: Visit) -> Bench:
    learned = learned_of(session, printer)
    return bench_of(
        bed_of(printer),
        screws_of(printer),
        response=learned.response,
        bends=printer.plate_bends,
        hand_sd=learned.hand.sd,
    )


def _newest_survey(session: Session, visit: Visit) -> int | None:
    return session.scalar(
        select(func.max(SurveyRecord.id)).where(
            SurveyRecord.visit_id == visit.id, SurveyRecord.deleted_at.is_(None)
        )
    )


def _steps(session: Session, visit: Visit) -> list[BenchStep]:
    since = _newest_survey(session, visit)
    query = select(BenchStep).where(
        BenchStep.visit_id == visit.id,
        BenchStep.deleted_at.is_(None),
        BenchStep.survey_id.is_(None) if since is None else BenchStep.survey_id == since,
    )
    return list(session.scalars(query.order_by(BenchStep.id)))


def record_step(
    session: Session,
    visit_id: int,
    what: str,
    place: int,
    *,
    feel: str | None = None,
    turns: float | None = None,
    value: float | None = None,
    client_key: str,
) -> BenchStep:
    """Record something that was done at the bench.

    Parameters
    ----------
    what : {"feel", "drag", "turn", "read"}
        See `finchwort.core.tramming.Done`.
    place : int
        Number of the knob, or of knobs for the centre.
    feel : str, optional
    turns : float, optional
        Positive tightens.
    value : float, optional
        How much higher than where the strip drags at the corners, mm.

    Raises
    ------
    ConflictError, ChoiceError, OutOfRangeError, KeyTakenError
    """
    visit = get_visit(session, visit_id, lock=True)
    taken = "Another step was recorded with this key, or it was taken back since."
    sent: dict[str, Any] = {
        "visit_id": visit_id,
        "what": what,
        "place": place,
        "feel": feel,
        "turns": turns,
        "value": value,
    }
    known = sent_before(session, BenchStep, client_key, taken, **sent)
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    stands = at_bench(session, visit)
    if len(stands.steps) >= MAX_STEPS:
        raise ConflictError("That is a long time at one bed. Store what was found, and look for the cause.")
    done = [_done(step) for step in stands.steps]
    follow(stands.bench, [*done, Done(what, place, feel, value if what == "read" else turns)])
    step = BenchStep(
        visit_id=visit.id,
        survey_id=_newest_survey(session, visit),
        client_key=client_key,
        what=what,
        place=place,
        name=stands.names[place],
        feel=feel,
        turns=turns,
        value=value,
    )
    session.add(step)
    session.flush()
    _say_turned(session, visit, step)
    return step


def undo_step(session: Session, visit_id: int) -> BenchStep:
    """Take back the newest step of a session.

    Raises
    ------
    ConflictError
    """
    visit = get_visit(session, visit_id, lock=True)
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    steps = _steps(session, visit)
    if not steps:
        raise ConflictError("There is no step to take back.")
    steps[-1].deleted_at = utcnow()
    session.flush()
    _unsay_turned(session, steps[-1])
    return steps[-1]


def _key(step: BenchStep) -> str:
    return f"bench-{step.visit_id}-{step.id}"


def _say_turned(session: Session, visit: Visit, step: BenchStep) -> None:
    """Write down that a knob was turned: what was measured, felt or looked at before no longer holds.

    One line stands for all turns up to the next thing that is written down about the printer; what came in between is put
    out by a line of its own.
    """
    if step.what not in TURNS:
        return
    newest = session.execute(
        select(Entry.deleted_at, MachineChange.client_key)
        .outerjoin(MachineChange, tells_of(MachineChange))
        .where(Entry.printer_id == visit.printer_id)
        .order_by(Entry.id.desc())
        .limit(1)
    ).first()
    if newest is not None:
        deleted_at, key = newest
        if deleted_at is None and key is not None and key.startswith(f"bench-{visit.id}-"):
            return
    record_change(
        session,
        visit.printer_id,
        "knobs",
        client_key=_key(step),
        visit_id=visit.id,
        note="Levelling by paper, one corner after the other.",
    )


def _unsay_turned(session: Session, step: BenchStep) -> None:
    """Take back the line that a turn wrote, when it wrote one."""
    query = select(MachineChange).where(
        MachineChange.client_key == _key(step), MachineChange.deleted_at.is_(None)
    )
    change = session.scalars(query).first()
    if change is not None:
        set_change_deleted(session, change.id, True)


def finish_bench(session: Session, visit_id: int, *, client_key: str) -> SurveyRecord:
    """Store what was found as a survey by paper: with it this levelling is over.

    Raises
    ------
    ConflictError
        While a corner still has to be felt.
    """
    visit = get_visit(session, visit_id, lock=True)
    taken = "Other readings were stored with this key, or these were deleted since."
    known = sent_before(session, SurveyRecord, client_key, taken, visit_id=visit_id, source="bench")
    if known is not None:
        return known
    stands = at_bench(session, visit)
    now, bench = stands.now, stands.bench
    if now.phase != "done":
        raise ConflictError(
            "One more strip: feel every corner and the centre first, then there is something to store."
        )
    for name, feel, sd in zip(stands.names, now.felt, now.sd, strict=True):
        if feel is None and sd > CORNER_SURE:
            raise ConflictError(
                f"Nobody knows how {name} lies now. Feel it once more; if it does not settle, look at springs and play first."
            )
    feels = [
        Feel(float(x), float(y), feel or "slight", THICKNESS)
        for (x, y), feel in zip(bench.places, now.felt, strict=True)
    ]
    heights = now.heights - THICKNESS
    low, high = (np.array(side) for side in zip(*(feel.band for feel in feels), strict=True))
    middle = len(bench.screws)
    # what was read, turned until the strip drags, or felt to drag is known; a bound stays a bound
    for i, feel in enumerate(now.felt):
        if feel in (None, "slight") or (i == middle and now.middle_read):
            low[i], high[i] = heights[i] - now.sd[i], heights[i] + now.sd[i]
    felt = FeltBed(heights, now.sd, low, high, now.belief, least_spread(low, high))
    survey = Survey(bench.places[:, 0], bench.places[:, 1], heights)
    turned = sum(step.what in TURNS for step in stands.steps)
    return store_survey(
        session,
        visit_id,
        survey,
        client_key=client_key,
        source="bench",
        noise=float(np.sqrt(np.mean(now.sd**2))),
        felt=felt,
        feels=feels,
        assumptions=[
            f"Levelled by paper at the bench: {counted(turned, 'turning')}, {now.passes} "
            f"pass{'es' if now.passes > 1 else ''}. Heights are what all feels and turns together say."
        ],
    )
