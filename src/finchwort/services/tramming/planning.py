"""Plans of turns: the one road to them, for a stored survey, a file, patches, a judged bed and what-if."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.printers import Bed, Screw
from finchwort.core.surveys import BedFit, Relief, Survey, Verdict, fit_bed, make_relief
from finchwort.core.tramming import (
    Order,
    Outlook,
    Plan,
    after_turns,
    change_of,
    look_ahead,
    margin_of_centre,
    plan_turns,
    turning_order,
    twist_at,
)
from finchwort.services.probing.probe_tests import Noise, noise_for
from finchwort.services.surveys.surveys import assess, fit_of
from finchwort.services.tramming.learning import Learned, learned_of
from finchwort.store.errors import ConflictError
from finchwort.store.models import Printer, SurveyRecord
from finchwort.store.printers.printers import bed_of, screws_of
from finchwort.store.surveys.surveys import load_taken, refuse_open
from finchwort.store.tramming.learning import room_of

BY_HAND = ("paper", "bench", "lowered", "feeler", "dial", "calipers")
MAX_BY_HAND = 3
"""Nobody reads more places a side by hand (ours: nine strips are felt in a few minutes)."""
MAX_TURNS = 20.0
"""Nobody turns a bed screw further than this in one go, turns."""


@dataclass(frozen=True)
class Wish:
    """How a plan is wanted.

    Attributes
    ----------
    hold : str
        See `finchwort.core.tramming.plan_turns`.
    reference : str
        The plane that counts as the tilt.
    points : tuple of int or None
        Three readings, for a plane through them.
    """

    hold: str = "centre"
    reference: str = "least_squares"
    points: tuple[int, ...] | None = None


@dataclass(frozen=True, eq=False)
class Planned:
    """A plan with all that belongs to it.

    Attributes
    ----------
    plan : Plan
    survey : Survey
        The readings it was made from.
    outlook : Outlook
    order : Order
    learned : Learned
    room : list of (float, float) or None
        Turns left at each screw, for tightening and for loosening.
    noise : Noise
    """

    plan: Plan
    survey: Survey
    outlook: Outlook
    order: Order
    learned: Learned
    room: list[tuple[float, float]] | None
    noise: Noise


def plan_for(session: Session, record: SurveyRecord, hold: str | Wish = "centre") -> Plan:
    """Work out the plan for a stored survey with the printer as it is set up now.

    Raises
    ------
    ConflictError
        When the printer has no screws.
    """
    return plan_whole(session, record, hold if isinstance(hold, Wish) else Wish(hold)).plan


def plan_whole(session: Session, record: SurveyRecord, wish: Wish) -> Planned:
    """Work out a plan, how sure it is, and in which order to turn.

    What was learned counts up to the time of the survey, so that an old plan
    stays what it was.

    Raises
    ------
    ConflictError
        When the printer has no screws.
    """
    printer = record.visit.printer
    if not printer.screws:
        raise ConflictError("This bed has no screws to turn.")
    refuse_open(record)
    taken = load_taken(session, record.id)
    fit = fit_of(session, record, taken)
    return plan_readings(
        session,
        printer,
        taken.counting(),
        fit,
        noise_for(session, record),
        record.visit.first_layer,
        wish,
        before=record.taken_at,
        most_side=most_side_of(record),
    )


def plan_readings(
    session: Session,
    printer: Printer,
    survey: Survey,
    fit: BedFit,
    noise: Noise,
    first_layer: float,
    wish: Wish,
    *,
    before: datetime | None = None,
    most_side: int | None = None,
) -> Planned:
    """Work out a plan for heights, wherever they come from: a survey, patches, or a judged bed.

    There is one road to every turn: what was learned of the knobs, the travel left in the springs and what the plate does
    count in all of them.
    """
    learned = learned_of(session, printer, before)
    room = room_of(session, printer, before)
    worked_out = work_out(
        survey,
        fit,
        bed_of(printer),
        screws_of(printer),
        first_layer,
        wish,
        learned=learned,
        room=room,
        most_side=most_side,
    )
    return Planned(
        plan=worked_out.plan,
        survey=survey,
        outlook=worked_out.outlook,
        order=worked_out.order,
        learned=learned,
        room=room,
        noise=noise,
    )


@dataclass(frozen=True, eq=False)
class Expected:
    """The bed that turns should give.

    Attributes
    ----------
    planned : Planned
        The plan that the turns are held against.
    turns : list of float
        Of every screw, positive for tightening.
    outlook : Outlook
    after : Survey
        The readings expected afterwards.
    relief : Relief
        With what a plate that bends is twisted by the turns.
    verdict : Verdict
    middle, margin : float
        Change of height in the middle of the bed, mm, and its plus/minus.
    """

    planned: Planned
    turns: list[float]
    outlook: Outlook
    after: Survey
    relief: Relief
    verdict: Verdict
    middle: float
    margin: float


def expect_plan(session: Session, record: SurveyRecord, wish: Wish) -> Expected:
    """Work out the plan for a survey and the bed that it should give.

    Raises
    ------
    ConflictError
        When the printer has no screws.
    """
    planned = plan_whole(session, record, wish)
    plan = planned.plan
    turns = [turn.rounded for turn in plan.turns]
    expected = plan.predicted, plan.centre_change, plan.centre_margin
    return _expected(record, planned, turns, planned.outlook, *expected)


def expect_turns(session: Session, record: SurveyRecord, wish: Wish, goal: Mapping[str, float]) -> Expected:
    """Work out the bed that other turns than the plan's would give; what is not named stays.

    Raises
    ------
    ConflictError, ChoiceError, OutOfRangeError
    """
    planned = plan_whole(session, record, wish)
    plan, turns = planned.plan, turns_by_name(planned.plan, goal)
    bed = bed_of(record.visit.printer)
    outlook = look_ahead(
        planned.survey,
        plan,
        bed,
        record.visit.first_layer,
        turns,
        most_side_of(record),
        planned.learned.slipping,
    )
    a, b, c = change_of(plan, turns)
    middle = a * bed.centre[0] + b * bed.centre[1] + c
    margin = margin_of_centre(plan.response, bed.centre, turns)
    after = after_turns(plan, planned.survey, turns)
    return _expected(record, planned, turns, outlook, after, middle, margin)


def _expected(
    record: SurveyRecord,
    planned: Planned,
    turns: list[float],
    outlook: Outlook,
    after: Survey,
    middle: float,
    margin: float,
) -> Expected:
    printer, plan = record.visit.printer, planned.plan
    bed = bed_of(printer)
    relief = make_relief(planned.survey, bed).plus(*change_of(plan, turns))
    if plan.bends:
        screws = [turn.screw for turn in plan.turns]
        relief = relief.with_added(twist_at(screws, turns, plan.bends, *np.meshgrid(relief.xs, relief.ys)))
    *_, verdict = assess(
        after,
        bed,
        record.visit.first_layer,
        True,
        tilt=outlook.after,
        compensation=printer.compensation,
    )
    return Expected(planned, turns, outlook, after, relief, verdict, middle, margin)


@dataclass(frozen=True, eq=False)
class WorkedOut:
    """A plan, how sure it is, and in which order to turn."""

    plan: Plan
    outlook: Outlook
    order: Order


def work_out(
    survey: Survey,
    fit: BedFit,
    bed: Bed,
    screws: Sequence[Screw],
    first_layer: float,
    wish: Wish,
    *,
    learned: Learned | None = None,
    room: Sequence[tuple[float, float]] | None = None,
    most_side: int | None = None,
) -> WorkedOut:
    """Plan by what is given; nothing else in the product calls `finchwort.core.tramming.plan_turns`.

    Parameters
    ----------
    learned : Learned, optional
        Of the knobs; a rigid plate on equal springs when not given, as for a file of readings of an unknown printer.
    room : sequence of (float, float), optional
        Turns left at each screw for tightening and for loosening.
    most_side : int, optional
        Places a side that the way of measuring bears.
    """
    plan = plan_turns(
        survey,
        screws,
        wish.hold,
        centre=bed.centre,
        reference=wish.reference,
        points=wish.points,
        response=learned.response if learned else None,
        room=room,
        bends=learned.bends.used if learned else 0.0,
        bed=bed,
        fit=fit,
    )
    slipping = learned.slipping if learned else None
    return WorkedOut(
        plan,
        look_ahead(survey, plan, bed, first_layer, most_side=most_side, slipping=slipping),
        turning_order(screws, [turn.rounded for turn in plan.turns]),
    )


def plan_heights(
    session: Session,
    printer: Printer,
    heights: Survey,
    sd: float,
    dof: float,
    first_layer: float,
    source: str,
) -> Planned:
    """Plan by heights that printed plastic told, as by readings.

    Parameters
    ----------
    heights : Survey
        mm, positive high.
    sd, dof : float
        Standard deviation of one of them, mm, and the degrees of freedom behind it.
    source : str
        Where that comes from, in words that end a sentence.
    """
    fit = fit_bed(heights, bed_of(printer), sd, max(1.0, dof), settle=False)
    return plan_readings(session, printer, heights, fit, Noise(sd, dof, source), first_layer, Wish())


def most_side_of(record: SurveyRecord) -> int | None:
    """Places a side that the way of a survey bears; None where a machine walks them."""
    return MAX_BY_HAND if record.source in BY_HAND else None


def turns_by_name(plan: Plan, done: Mapping[str, float]) -> list[float]:
    """Give the turns of all screws of a plan in their order; what is not named stays.

    Raises
    ------
    ChoiceError, OutOfRangeError
    """
    names = [turn.screw.name for turn in plan.turns]
    unknown = set(done) - set(names)
    if unknown:
        raise ChoiceError("tramming.printer_no_screw_called", names=", ".join(sorted(unknown)))
    for name, turns in done.items():
        if not abs(turns) <= MAX_TURNS:
            raise OutOfRangeError("tramming.turns_more_any_spring", turns=turns, name=name)
    return [float(done.get(name, 0.0)) for name in names]
