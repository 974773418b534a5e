"""Drift in the course of a survey: the first places are touched again at the end, and a line in time is taken out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import millimetres
from finchwort.core.surveys import NEAR

AGAIN = 3
"""So many of the first places are touched again at the end (ours)."""
MIN_WALK = 6
"""A walk over fewer places is over before anything drifts (ours)."""
TOUCH_SD, TOUCH_WEIGHT = 0.006, 3
"""What one touch is trusted to before the pairs say more, mm, and how many of them that belief is worth (ours)."""
BENT = 0.12
"""Of a drift that is no straight line so much may be left over along the walk, as a share of it (ours)."""
NAMED = 0.008
"""A drift below this is not worth a word, mm (ours)."""
STRAY = 0.05
"""A second touch that differs from what the others say by more than this was a bad one, mm (ours)."""


@dataclass(frozen=True, eq=False)
class Walk:
    """Touches of a walk, with its drift taken out.

    Attributes
    ----------
    x, y, height : ndarray, shape (n,)
        Every place once, mm; heights as they were in the middle of the walk.
    seconds : ndarray, shape (n,)
        When each place was touched, s from the first.
    drift, drift_sd : float or None
        Rise from the first to the last touch and its standard deviation, mm; None without second touches.
    sentence : str or None
        What to know about it.
    """

    x: Array
    y: Array
    height: Array
    seconds: Array
    drift: float | None
    drift_sd: float | None
    sentence: str | None


def touched_again(points: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Places to touch again at the end of a walk.

    Examples
    --------
    >>> touched_again([(0, 0), (50, 0), (100, 0), (100, 50), (50, 50), (0, 50)])
    [(0, 0), (50, 0), (100, 0)]
    >>> touched_again([(0, 0), (50, 0), (100, 0)])
    []
    """
    return list(points[:AGAIN]) if len(points) >= MIN_WALK else []


def take_out_drift(x: ArrayLike, y: ArrayLike, height: ArrayLike, seconds: ArrayLike) -> Walk:
    """Take the drift out of a walk whose first places were touched again.

    The difference of both touches of a place over the time between them is the rate of a line in time; each place then
    counts once, as it was in the middle of the walk.

    Parameters
    ----------
    x, y, height : array_like, shape (m,)
        Touches in their order, mm.
    seconds : array_like, shape (m,)
        When.

    Returns
    -------
    Walk

    Examples
    --------
    >>> walk = take_out_drift([0, 100, 0, 0], [0, 0, 100, 0], [0.0, 0.01, 0.02, 0.03], [0, 10, 20, 30])
    >>> walk.height.round(4).tolist(), round(walk.drift, 3)
    ([0.015, 0.015, 0.015], 0.03)
    """
    x, y, z, t = (np.asarray(item, dtype=np.float64) for item in (x, y, height, seconds))
    t = t - t[0] if t.size else t
    owner = np.arange(x.size)
    for i in range(x.size):
        near = np.flatnonzero(np.hypot(x[:i] - x[i], y[:i] - y[i]) < NEAR)
        if near.size:
            owner[i] = owner[near[0]]
    again = np.flatnonzero(owner != np.arange(x.size))
    first = np.flatnonzero(owner == np.arange(x.size))
    span = float(np.ptp(t)) if t.size else 0.0
    drift = sd = None
    corrected = z
    text = None
    if again.size and span > 0:
        gap, wait = z[again] - z[owner[again]], t[again] - t[owner[again]]
        good = np.ones(gap.size, dtype=bool)
        if gap.size >= 3:
            rates = gap / np.maximum(wait, 1e-9)
            good = np.abs(gap - np.median(rates) * wait) <= STRAY
            if good.sum() < 2:
                good[:] = True
        weight = float(wait[good] @ wait[good])
        rate = float(wait[good] @ gap[good]) / weight if weight > 0 else 0.0
        rest = gap[good] - rate * wait[good]
        spare = int(good.sum()) - 1
        noise = math.sqrt((TOUCH_WEIGHT * TOUCH_SD**2 + float(rest @ rest) / 2) / (TOUCH_WEIGHT + spare))
        drift = rate * span
        sd = math.hypot(noise * math.sqrt(2 / weight) * span if weight > 0 else 0.0, BENT * abs(drift))
        corrected = z - rate * (t - t.mean())
        text = _say(drift, sd)
    heights = np.array([corrected[owner == i].mean() for i in first])
    return Walk(x[first], y[first], heights, t[first], drift, sd, text)


def _say(drift: float, sd: float) -> str | None:
    if abs(drift) < max(NAMED, 2 * sd):
        return None
    way = "rose" if drift > 0 else "sank"
    return (
        f"While it was probed the bed {way} {millimetres(abs(drift))}, as its first places show that were touched again: it is "
        "still warming. The drift was taken out; let it soak and probe again before you trust hundredths."
    )
