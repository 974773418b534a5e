"""Whole steps of the hand: the best rounded plan near an exact one."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.tramming.response import Response

EQUAL_SPREAD = 0.001
"""Predicted spreads closer than this are equal, and the plan that turns less wins, mm."""
MAX_COMBINATIONS = 5_000
"""Bound on the rounded plans looked at."""


@dataclass(frozen=True, eq=False)
class Target:
    """What a plan is to bring level.

    Attributes
    ----------
    x, y, height : ndarray, shape (m,)
        Places whose highest and lowest are to come together, mm.
    middle : tuple of float
        The place whose height counts for the Z offset, mm.
    keep_middle : bool
        Whether the middle may not move by more than half a step, unless the limits of the screws would
        then leave a step more.
    """

    x: Array
    y: Array
    height: Array
    middle: tuple[float, float]
    keep_middle: bool


@dataclass(frozen=True, eq=False)
class Steps:
    """A rounded plan.

    Attributes
    ----------
    turns : ndarray, shape (k,)
        Whole steps of the hand, as turns, positive for tightening.
    change : ndarray, shape (3,)
        The plane (a, b, c) it adds.
    """

    turns: Array
    change: Array


def changes_of(response: Response, lift: Array, turns: Array) -> Array:
    """Planes that plans add.

    Parameters
    ----------
    response : Response
    lift : ndarray, shape (k,)
        Height at the middle of the screws for one turn of each, mm.
    turns : ndarray, shape (n, k)

    Returns
    -------
    ndarray, shape (n, 3)
        (a, b, c) with c the height at x = 0, y = 0.
    """
    gone = response.backlash(turns)
    slopes = turns @ response.slopes.T - gone @ response.prior.T
    places = np.array([[s.x, s.y] for s in response.screws])
    at_screws = (turns - gone) @ lift
    c = at_screws - slopes @ places.mean(axis=0)
    return np.column_stack([slopes, c])


def best_steps(
    response: Response,
    lift: Array,
    exact: Array,
    bounds: Sequence[tuple[float, float]],
    target: Target,
) -> Steps:
    """Search whole steps near the exact turns.

    Of all plans the one with the least predicted spread wins; among equals the
    one that turns least, then strains the plate least, then keeps the middle best.

    Parameters
    ----------
    response : Response
    lift : ndarray, shape (k,)
        See `changes_of`.
    exact : ndarray, shape (k,)
        Turns wanted.
    bounds : sequence of (low, high)
        Turns allowed at each screw; (0, 0) leaves it.
    target : Target

    Returns
    -------
    Steps
    """
    screws = response.screws
    divisions = np.array([screw.divisions for screw in screws], dtype=np.float64)
    gone = response.backlash(exact)
    reach = 1
    while reach >= 0:
        choices = [
            _choices((exact[i] + gone[i]) * divisions[i], reach, bounds[i], divisions[i])
            for i in range(len(screws))
        ]
        if math.prod(map(len, choices)) <= MAX_COMBINATIONS:
            break
        reach -= 1
    combos = np.array(list(itertools.product(*choices)), dtype=np.float64)
    turns = np.vstack([np.zeros(len(screws)), combos]) / divisions
    changes = changes_of(response, lift, turns)

    heights = changes[:, :2] @ np.vstack([target.x, target.y]) + target.height
    spread = heights.max(axis=1) - heights.min(axis=1)
    shift = np.abs(changes @ (*target.middle, 1.0))
    step = max(screw.step for screw in screws)
    if target.keep_middle:
        # where limits cut plans off, the middle may have to move
        kept = shift <= step / 2 + 1e-12
        least = spread[kept].min()
        if least <= spread.min() + step:
            spread = np.where(kept, spread, np.inf)
    equal = np.flatnonzero(spread <= spread.min() + EQUAL_SPREAD)
    turning = np.abs(turns[equal]).sum(axis=1)
    moves = turns[equal] * [screw.travel for screw in screws]
    ends = np.array([[s.x, s.y, 1.0] for s in screws])
    strain = np.abs(moves - changes[equal] @ ends.T).sum(axis=1)
    order = np.lexsort((spread[equal], shift[equal].round(9), strain.round(9), turning.round(9)))
    best = equal[order[0]]
    return Steps(turns[best], changes[best])


def _choices(exact: float, reach: int, bounds: tuple[float, float], divisions: float) -> list[int]:
    low, high = math.ceil(bounds[0] * divisions - 1e-9), math.floor(bounds[1] * divisions + 1e-9)
    if low == high == 0:
        return [0]
    wish = range(math.floor(exact) - reach, math.ceil(exact) + reach + 1)
    # where a limit cuts the wish off, its end is as near as one gets
    return sorted({min(max(step, low), high) for step in wish})
