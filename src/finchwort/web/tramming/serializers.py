"""Plans, rounds and what was learned, as the API gives them."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from finchwort.core.base.errors import CoreError
from finchwort.core.base.wording import millimetres, seen_direction, turn_in_figures, turn_in_words
from finchwort.core.surveys import choose_plane
from finchwort.core.tramming import Outlook, RoundReview, Turn
from finchwort.messages.remarks import words
from finchwort.messages.tramming import (
    ONE_SIDE,
    centre_sentence,
    hand_sentence,
    instruct,
    learned_sentence,
    outlook_sentence,
    percent,
    slipping_sentence,
    why_left,
)
from finchwort.services.first_layer.offsets import KeptOffset
from finchwort.services.tramming.adjustments import describe
from finchwort.services.tramming.learning import Learned
from finchwort.services.tramming.planning import Expected, Planned, Wish
from finchwort.store.models import Adjustment, Printer, SurveyRecord, Turning
from finchwort.store.printers.printers import bed_of
from finchwort.web import schemas
from finchwort.web.height_map import relief_out, rounded, verdict_out

REST = "at rest"


def _action(turns: float) -> str:
    return "tighten" if turns > 0 else "loosen" if turns < 0 else "leave"


def turn_out(turn: Turn, printer: Printer, room: tuple[float, float] | None) -> schemas.TurnOut:
    """Give what to do at one screw, as the person sees it."""
    screw = turn.screw
    return schemas.TurnOut.of(
        screw,
        action=_action(turn.rounded),
        reason=turn.reason,
        exact=turn.exact,
        rounded=turn.rounded,
        uncertainty=turn.uncertainty,
        wanted=turn.wanted,
        move=turn.move,
        figures=turn_in_figures(turn.rounded, screw.divisions),
        words=turn_in_words(turn.rounded, screw.divisions),
        direction=seen_direction(turn.rounded or turn.exact, printer.thread_hand, printer.knob_view),
        tightens=seen_direction(1, printer.thread_hand, printer.knob_view),
        sentence=instruct(turn, printer.thread_hand, printer.knob_view),
        why=why_left(turn) if turn.leave else None,
        short=_short(turn),
        room=_room(room),
    )


def holds_out(printer: Printer) -> list[schemas.Hold]:
    """Give the ways in which this printer can be planned."""
    offset = "The middle changes its height, so the Z offset needs another look."
    holds = [
        schemas.Hold(
            value="centre",
            label="Keep the middle",
            effect="The Z offset stays right, as nearly as whole steps of the hand allow.",
        ),
        schemas.Hold(
            value="only_tighten",
            label="Only tighten",
            effect=f"For springs that are too loose. {offset}",
        ),
        schemas.Hold(
            value="only_loosen",
            label="Only loosen",
            effect=f"For springs that are nearly solid. {offset}",
        ),
    ]
    holds += [
        schemas.Hold(value=s.name, label=f"Hold {s.name}", effect=f"That screw stays. {offset}")
        for s in printer.screws
    ]
    return holds


def _short(turn: Turn) -> str | None:
    if not turn.short:
        return None
    way = "tighten" if turn.short > 0 else "loosen"
    return f"Its spring ends here: {turn_in_figures(turn.short, turn.screw.divisions)} of a turn more would be wanted to {way} it."


def _room(room: tuple[float, float] | None) -> str | None:
    """Say what travel is left in a spring, turns."""
    if room is None:
        return None
    sentences = [
        f"{max(0.0, left):.2g} {way}"
        for left, way in zip(room, ("to tight", "to loose"), strict=True)
        if math.isfinite(left)
    ]
    return f"turns left: {', '.join(sentences)}" if sentences else None


REFERENCES = {
    "least_squares": (
        "All readings",
        "The plane closest to the whole bed, as far as all readings tell: steady against noise and bow.",
    ),
    "minimum_zone": (
        "Tightest band",
        "The plane midway in the thinnest band that holds all readings: least spread, swayed by single readings.",
    ),
    "three_points": (
        "Three readings",
        "Exactly through three readings you choose; the others count for nothing.",
    ),
    "screws": ("At the screws", "Through the readings nearest to the screws, as paper at the corners would."),
}


def datums_out(planned: Planned, wish: Wish) -> list[schemas.DatumOut]:
    """Give the planes there are to choose from, and what each leaves."""
    screws = [turn.screw for turn in planned.plan.turns]
    datums = []
    for name in REFERENCES:
        try:
            points = wish.points if name == "three_points" else None
            plane = choose_plane(planned.survey, name, points=points, screws=screws)
        except CoreError:
            continue
        label, hint = REFERENCES[name]
        datums.append(
            schemas.DatumOut(
                reference=name,
                label=label,
                hint=hint,
                peak_to_valley=plane.peak_to_valley,
                rms=plane.rms,
                used=list(plane.used),
                chosen=name == wish.reference,
            )
        )
    return datums


def outlook_out(outlook: Outlook) -> schemas.OutlookOut:
    """Give how sure a plan is."""
    return schemas.OutlookOut.of(
        outlook, chance_words=percent(outlook.chance), sentence=outlook_sentence(outlook)
    )


def plan_out(record: SurveyRecord, expected: Expected, wish: Wish) -> schemas.PlanOut:
    """Give a plan with the bed it should make."""
    planned, printer = expected.planned, record.visit.printer
    plan = planned.plan
    noise = f"One reading is trusted to ±{millimetres(2 * plan.noise)}, from {planned.noise.source}."
    rooms: Sequence[tuple[float, float] | None] = planned.room or [None] * len(plan.turns)
    slipping = planned.learned.slipping
    return schemas.PlanOut.of(
        plan,
        survey_id=record.id,
        holds=holds_out(printer),
        reference=wish.reference,
        datums=datums_out(planned, wish),
        turns=[turn_out(turn, printer, room) for turn, room in zip(plan.turns, rooms, strict=True)],
        order=schemas.OrderOut(names=list(planned.order.names), why=planned.order.why),
        outlook=outlook_out(planned.outlook),
        learned_sentence=learned_sentence(planned.learned.rounds, planned.learned.bends),
        slipping=slipping_sentence(slipping),
        suggested_hold=slipping.hold,
        one_side=ONE_SIDE if any(turn.rounded < 0 for turn in plan.turns) else None,
        centre_sentence=centre_sentence(plan.centre_change, plan.centre_margin, printer.zero_kept),
        noise_sentence=noise,
        heights=rounded(plan.predicted.height),
        relief=relief_out(expected.relief, plan.predicted.height),
        verdict=verdict_out(expected.verdict),
    )


def learned_out(printer: Printer, learned: Learned) -> schemas.LearnedOut:
    """Give what the rounds taught about each knob."""
    response = learned.response
    share, sd = response.effect()
    bed = bed_of(printer)
    corners = np.array(
        [[bed.x_min, bed.y_min], [bed.x_max, bed.y_min], [bed.x_max, bed.y_max], [bed.x_min, bed.y_max]]
    ) - np.array(bed.centre)
    lost = max(0.0, response.lost)
    step = 1 / printer.divisions
    small = (
        "less than a quarter of a step, so it hardly counts"
        if lost < step / 4
        else "the plans make up for it"
    )
    knobs = [
        schemas.KnobLearned(
            name=screw.name,
            share=float(share[i]),
            sd=float(sd[i]),
            words=f"{100 * share[i]:.0f} % ± {196 * sd[i]:.0f} %",
            slips=float(learned.slipping.each[i]),
            corners=rounded(corners @ response.slopes[:, i]),
            expected=rounded(corners @ response.prior[:, i]),
        )
        for i, screw in enumerate(response.screws)
    ]
    return schemas.LearnedOut(
        rounds=learned.rounds,
        since=printer.learned_since,
        knobs=knobs,
        lost=lost,
        lost_sd=response.lost_sd,
        lost_sentence=(
            f"When a knob changes its direction, about {lost:.2f} ± {2 * response.lost_sd:.2f} of a turn goes lost ({small})."
        ),
        slipping=slipping_sentence(learned.slipping),
        named=learned.slipping.named,
        suspects=list(learned.slipping.suspects),
        hand=hand_sentence(learned.hand),
        hand_sd=learned.hand.sd,
        sentence=learned_sentence(learned.rounds, learned.bends),
    )


def what_if_out(expected: Expected, zero_kept: str) -> schemas.WhatIfOut:
    """Give the bed that other turns would give."""
    outlook, turns, after = expected.outlook, expected.turns, expected.after
    return schemas.WhatIfOut(
        spread=after.spread,
        tilt=outlook.tilt_after,
        margin=outlook.after_margin,
        chance=outlook.chance,
        chance_words=percent(outlook.chance),
        centre_change=expected.middle,
        knobs=sum(turn != 0 for turn in turns),
        screws=[
            schemas.TurnedKnob(
                name=planned.screw.name,
                turns=turn,
                figures=turn_in_figures(turn, planned.screw.divisions),
                words=REST if turn == 0 else _action(turn),
            )
            for planned, turn in zip(expected.planned.plan.turns, turns, strict=True)
        ],
        turned=sum(map(abs, turns)),
        heights=rounded(after.height),
        relief=relief_out(expected.relief, after.height),
        verdict=verdict_out(expected.verdict),
        sentence=centre_sentence(expected.middle, expected.margin, zero_kept),
    )


def adjustment_out(adjustment: Adjustment) -> schemas.AdjustmentOut:
    """Give what was done besides turning screws."""
    title, detail = describe(adjustment)
    return schemas.AdjustmentOut.of(adjustment, title=title, detail=detail)


def turning_out(turning: Turning, keep: KeptOffset | None = None) -> schemas.TurningOut:
    """Give a recorded turning."""
    return schemas.TurningOut.of(
        turning,
        screws=[
            schemas.TurnedScrew.of(s, figures=turn_in_figures(s.done, s.divisions), action=_action(s.done))
            for s in turning.screws
        ],
        keep=schemas.KeptOffset(**vars(keep)) if keep else None,
    )


def review_out(review: RoundReview) -> schemas.ReviewOut:
    """Give a round looked back on."""
    return schemas.ReviewOut.of(
        review,
        findings=[
            schemas.FindingOut(kind=f.kind, sentence=words(f.remark), screws=list(f.screws))
            for f in review.findings
        ],
    )
