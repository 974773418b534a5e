"""How sure a plan is: the tilt it should leave, the chance that the next survey is content, and whether to turn at all."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from scipy import special

from finchwort.core.planes import CONFIDENCE, fit_plane, hull_indices
from finchwort.core.planning import side_for_tilt
from finchwort.core.printers import Bed
from finchwort.core.surveys import Array, Survey
from finchwort.core.tramming import Plan
from finchwort.core.verdict import TILT_SHARE, check_first_layer, good_spread
from finchwort.core.wording import millimetres

DRAWS = 1024
"""So many possible beds are looked at; the same ones each time."""
DECIDED = 0.8
"""From this probability on the readings have decided (ours)."""
CHEAP = 0.9
"""Where a plan is as likely as this to be enough, turning costs less than measuring again (ours)."""
COARSE = 0.5
"""A tilt known no better than this share of the tolerance cannot decide (ours)."""


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
    sentence : str
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
    sentence: str


def look_ahead(
    survey: Survey,
    plan: Plan,
    bed: Bed,
    first_layer: float,
    turns: Sequence[float] | None = None,
    most_side: int | None = None,
) -> Outlook:
    """Say how sure a plan is.

    Uncertain are the tilt (noise of the readings), what the knobs do (see
    `finchwort.core.response`), the hand, and the next survey, which is taken to
    have as many readings as this one.

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

    Returns
    -------
    Outlook

    Raises
    ------
    OutOfRangeError
        When the first-layer height is none.
    """
    check_first_layer(first_layer)
    fit = fit_plane(survey)
    size = np.array([bed.width, bed.depth])
    measured = fit.unscaled[:2, :2] * plan.noise**2
    slope = np.array([fit.plane.a, fit.plane.b])
    turns = np.array([turn.rounded for turn in plan.turns] if turns is None else turns, dtype=np.float64)
    added, doubt = plan.response.change(turns)
    after = slope + added
    tolerance = TILT_SHARE * first_layer

    quantile = _quantile(plan.noise_dof)
    tilt_now, now_margin = _tilt(slope, measured, size, quantile)
    tilt_after, after_margin = _tilt(after, measured + doubt, size, quantile)
    corners = hull_indices(survey, fit.residual)
    shape = fit.residual[corners]
    places = np.column_stack([survey.x[corners], survey.y[corners]])
    flat = float(np.ptp(fit.residual))
    draws = _normal_draws()
    heavy = quantile / _quantile(math.inf)

    def share_worth_turning(mean: Array, covariance: Array) -> float:
        root = _root(covariance)
        slopes = mean + draws @ root.T * heavy
        spread = np.ptp(slopes @ places.T + shape, axis=1)
        return float(np.mean((spread > good_spread(first_layer)) & (spread - flat > tolerance)))

    need = share_worth_turning(slope, measured)
    # the next survey has noise of its own
    chance = 1 - share_worth_turning(after, 2 * measured + doubt)
    decision = "turn" if need >= DECIDED else "leave" if need <= 1 - DECIDED else "measure"
    if decision == "measure" and now_margin <= COARSE * tolerance:
        decision = "turn" if need >= 0.5 else "leave"
    if decision == "measure" and need >= 0.5 and chance >= CHEAP and turns.any():
        decision = "turn"
    stuck = decision == "turn" and not turns.any()
    if stuck:
        decision = "leave"
    side = side_for_tilt(bed, plan.noise, first_layer) if decision == "measure" else 0
    if most_side is not None and side > most_side:
        side = 0
    said = _say(decision, chance, tilt_now, now_margin, tilt_after, after_margin, side)
    if stuck and not any(turn.rounded for turn in plan.turns):
        said = _why_stuck(plan, tilt_now, now_margin)
    return Outlook(
        decision=decision,
        need=need,
        chance=chance,
        tilt_now=tilt_now,
        tilt_after=tilt_after,
        now_margin=now_margin,
        after_margin=after_margin,
        slopes_after=after,
        covariance_after=measured + doubt,
        tolerance=tolerance,
        sentence=said,
    )


def _say(
    decision: str,
    chance: float,
    now: float,
    now_margin: float,
    after: float,
    after_margin: float,
    side: int,
) -> str:
    tilt = f"{millimetres(now)} ± {millimetres(now_margin)}"
    if decision == "measure":
        return f"The tilt is {tilt}: these readings cannot decide whether it is worth turning for. " + (
            f"Measure again first: {side} × {side} places tell it well enough, or find out why the readings scatter."
            if side
            else "Read the same places once more: two surveys tell better than one. If they agree, let it be."
        )
    if decision == "leave":
        return f"The tilt is {tilt}. Leave it: there is nothing in it worth turning for."
    return (
        f"Tilt across the bed {tilt} now, {millimetres(after)} ± {millimetres(after_margin)} after. "
        f"The chance that the next survey is content: {percent(chance)}."
    )


def _why_stuck(plan: Plan, now: float, margin: float) -> str:
    """Say why a plan turns nothing although there is tilt."""
    said = f"The tilt is {millimetres(now)} ± {millimetres(margin)}, but this plan turns nothing: "
    reasons = {turn.reason for turn in plan.turns}
    if "noise" in reasons:
        return f"{said}it does not know the chosen plane well enough. Choose all readings, or measure more places."
    if "limit" in reasons:
        return (
            f"{said}the springs have no travel left that way. Let other knobs turn too, or mend the springs."
        )
    return f"{said}whole steps of the hand come no closer. Choose a finer step, or let it be."


def percent(share: float) -> str:
    """Write a probability, never surer than 99 %.

    Examples
    --------
    >>> percent(0.999), percent(0.934), percent(0.002)
    ('99 %', '93 %', '1 %')
    """
    return f"{min(99, max(1, round(100 * share)))} %"


def _quantile(dof: float) -> float:
    if math.isfinite(dof):
        return float(special.stdtrit(dof, 0.5 + CONFIDENCE / 2))
    return float(special.ndtri(0.5 + CONFIDENCE / 2))


def _tilt(slope: Array, covariance: Array, size: Array, quantile: float) -> tuple[float, float]:
    """Rise between opposite corners along the steeper diagonal, and its plus/minus."""
    sign = np.where(slope < 0, -1.0, 1.0)
    across = sign * size
    return float(across @ slope), float(quantile * math.sqrt(max(0.0, across @ covariance @ across)))


def _root(covariance: Array) -> Array:
    values, vectors = np.linalg.eigh(covariance)
    return vectors * np.sqrt(np.maximum(values, 0.0))


@lru_cache(maxsize=1)
def _normal_draws() -> Array:
    draws = np.random.default_rng(1).standard_normal((DRAWS // 2, 2))
    return np.vstack([draws, -draws])
