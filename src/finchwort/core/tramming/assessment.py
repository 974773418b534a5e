"""How sure a plan is: the tilt it should leave, the chance that the next survey is content, and whether to turn at all."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import CONFIDENCE
from finchwort.core.printers import Bed
from finchwort.core.surveys import (
    DRAWS,
    Survey,
    Tilt,
    check_first_layer,
    decide,
    heights,
    judge_tilt,
    looked_at,
    side_for_tilt,
    steepest,
    worth_turning,
)
from finchwort.core.tramming.kinds import StuckReason, TurnReason
from finchwort.core.tramming.plan import Plan
from finchwort.core.tramming.screws import twist_at
from finchwort.core.tramming.slipping import SLIPS, Slipping


@dataclass(frozen=True, eq=False)
class Outlook:
    """What can be expected.

    Attributes
    ----------
    decision : {"turn", "leave", "measure"}
        Whether the readings say turn, leave it, or cannot decide.
    need : float
        Probability that the bed as it is has tilt worth turning for.
    chance : float
        Probability that the next survey after this plan says no more turning.
    tilt_now, tilt_after : float
        Rise from the lowest to the highest corner of the bed by the tilt alone, mm.
    now_margin, after_margin : float
        Their plus/minus at 95 %, mm.
    slopes_after : ndarray, shape (2,)
        Slopes expected after the plan, mm per mm.
    covariance_after : ndarray, shape (2, 2)
        Of these, without the noise of the next survey.
    tolerance : float
        Tilt across the bed that is not worth turning for, mm.
    after : Tilt
        The judgement of the bed as the plan should leave it.
    side : int
        Places a side that would tell the tilt well enough, when the readings cannot decide; 0 for none.
    told : bool
        Whether the places measured can tell a bow from a tilt.
    likely : bool
        Whether the tilt is very likely worth turning for, though it is known too poorly for a turn that surely helps.
    stuck : StuckReason or None
        Why the plan turns nothing although there is tilt.
    """

    decision: str
    need: float
    chance: float
    tilt_now: float
    tilt_after: float
    now_margin: float
    after_margin: float
    slopes_after: Array
    covariance_after: Array
    tolerance: float
    after: Tilt
    side: int = 0
    told: bool = True
    likely: bool = False
    stuck: StuckReason | None = None


def look_ahead(
    survey: Survey,
    plan: Plan,
    bed: Bed,
    first_layer: float,
    turns: Sequence[float] | None = None,
    most_side: int | None = None,
    slipping: Slipping | None = None,
) -> Outlook:
    """Say how sure a plan is.

    Uncertain are the bed (noise of the readings, and its shape where they do not show it), what the knobs do (see
    `finchwort.core.response`), whether one of them slips, the hand, and the next survey, which is taken to have as
    many readings as this one.

    Parameters
    ----------
    survey : Survey
        The one the plan was made from.
    plan : Plan
    bed : Bed
    first_layer : float
        mm
    turns : sequence of float, optional
        Other turns than the plan's.
    most_side : int, optional
        Places a side that this way of measuring bears: nobody feels paper at hundreds of them.
    slipping : Slipping, optional
        What is believed of knobs that slip; it counts in the chance.

    Returns
    -------
    Outlook

    Raises
    ------
    OutOfRangeError
        When the first-layer height is none.
    """
    check_first_layer(first_layer)
    fit = plan.fit
    screws = [turn.screw for turn in plan.turns]
    slope = np.array([fit.plane.a, fit.plane.b])
    made = np.array([turn.rounded for turn in plan.turns] if turns is None else turns, dtype=np.float64)
    added, doubt = plan.response.change(made)
    after = slope + added
    now = judge_tilt(fit, first_layer)

    # beds that the readings leave possible, each with a way in which knobs and hand may answer
    x, y = looked_at(fit.bed)
    beds = heights(fit, DRAWS)
    normal = _normal_draws()
    sound = added + normal[:, :2] @ _root(doubt).T
    moved = sound + _lost(plan, made, slipping)
    beds = beds + moved @ np.vstack([x, y]) + twist_at(screws, made, plan.bends, x, y)
    # the next survey has noise of its own
    beds = beds + normal[:, 2:] @ _root(fit.noise_plane[:2, :2]).T @ np.vstack([x, y])
    worth = worth_turning(beds, first_layer)
    chance = 1 - float(worth.mean())

    across = steepest(after, fit.bed)
    rises = (fit.draw(DRAWS)[:, 1:3] * (2 / fit.bed.width, 2 / fit.bed.depth) + sound) @ across
    tilt_after = float(across @ after)
    after_margin = float(np.quantile(np.abs(rises - tilt_after), CONFIDENCE))
    decision = now.decision
    stuck = decision == "turn" and not made.any()
    own = not any(turn.rounded for turn in plan.turns)
    if stuck:
        # a tilt worth turning for that is known too poorly at the screws is no tilt to leave
        noisy = own and any(turn.reason == "noise" for turn in plan.turns)
        decision = "measure" if noisy else "leave"
    side = side_for_tilt(bed, plan.noise, first_layer) if decision == "measure" else 0
    if most_side is not None and side > most_side:
        side = 0
    return Outlook(
        decision=decision,
        need=now.need,
        chance=chance,
        tilt_now=now.rise,
        tilt_after=tilt_after,
        now_margin=now.margin,
        after_margin=after_margin,
        slopes_after=after,
        covariance_after=fit.covariance[:2, :2] + doubt,
        tolerance=now.tolerance,
        after=decide(float(worth.mean()), tilt_after, after_margin, first_layer),
        side=side,
        told=bool(fit.told),
        likely=now.likely and plan.datum.reference == "least_squares",
        stuck=_stuck(plan) if stuck and own else None,
    )


def _lost(plan: Plan, turns: Array, slipping: Slipping | None) -> Array:
    """Slopes that a slipping knob takes from each draw, shape (DRAWS, 2); nothing where all knobs are well."""
    lost = np.zeros((DRAWS, 2))
    if slipping is None or not turns.any():
        return lost
    rng = np.random.default_rng(3)
    edges = np.cumsum(slipping.each)
    which = np.searchsorted(edges, rng.random(DRAWS))
    share = rng.choice(SLIPS, DRAWS)
    doubted = set(slipping.doubted)
    for i, turn in enumerate(plan.turns):
        # what is known of a doubted knob is in the response already
        if turn.screw.name in doubted or plan.response.moves >= 3:
            continue
        rows = which == i
        lost[rows] = -share[rows, None] * plan.response.slopes[:, i] * turns[i]
    return lost


def _stuck(plan: Plan) -> StuckReason:
    """Say why a plan turns nothing although there is tilt."""
    reasons = {turn.reason for turn in plan.turns}
    if TurnReason.NOISE in reasons:
        return StuckReason.NOISE
    return StuckReason.LIMIT if TurnReason.LIMIT in reasons else StuckReason.STEP


def _root(covariance: Array) -> Array:
    values, vectors = np.linalg.eigh(covariance)
    return vectors * np.sqrt(np.maximum(values, 0.0))


@lru_cache(maxsize=1)
def _normal_draws() -> Array:
    draws = np.random.default_rng(5).standard_normal((DRAWS // 2, 4))
    return np.vstack([draws, -draws])
