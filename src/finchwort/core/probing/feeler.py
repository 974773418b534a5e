"""What a strip of paper says: bounds and bands of a gap, joined into what is known of a bed.

A feel is no number.  "Slides freely" says that the gap is larger than the strip, "will not move" that it is
smaller, and the feels between are bands with soft edges.  Under a Gaussian first belief about tilt and shape such
readings give a log-concave posterior, whose mean and covariance are found by expectation propagation.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.base.geometry import Array, Mask
from finchwort.core.base.statistics import normal_quantile
from finchwort.core.base.wording import millimetres
from finchwort.core.printers import Bed
from finchwort.core.probing.kinds import Drag

FEELS = tuple(Drag)
"""How a strip of known thickness feels under the nozzle, from far to close."""
FEEL_BANDS = {
    "free": (0.015, math.inf),
    "slight": (-0.015, 0.015),
    "strong": (-0.030, -0.015),
    "bunches": (-0.050, -0.030),
    "stuck": (-math.inf, -0.050),
}
"""Gap beyond the strip's thickness, mm.  That the gap is the thickness when it just drags is common practice; where
one feel ends and the next begins is our own estimate."""
ONE_SIDED = (Drag.FREE, Drag.STUCK)
"""Feels that say only that the gap is larger, or smaller."""
FEEL_WORDS = {
    "free": "slides freely",
    "slight": "slight drag",
    "strong": "strong drag",
    "bunches": "pulls, but bunches up when pushed",
    "stuck": "will not move",
}
FEEL_SHORT = {"free": "free", "slight": "drags", "strong": "strong", "bunches": "bunches", "stuck": "stuck"}
"""The same where there is room for a word only."""
FEEL_MEANS = {
    "free": "far: at least",
    "slight": "just right",
    "strong": "a hair close",
    "bunches": "too close",
    "stuck": "pressed: at most",
}
"""What a feel says of the gap, which it bounds or tells."""
EYE_SD = 0.012
"""How truly the edge of a band is felt, standard deviation, mm (ours)."""
LEVEL_SD, TILT_SD, BOW_SD, TWIST_SD, ROUGH_SD = 1.0, 0.4, 0.05, 0.03, 0.012
"""First belief about a bed that is being levelled by hand, standard deviations, mm (ours): its height, tilt from the
middle to an edge, bow, twist at the corners, and what no simple shape explains at one place."""
PRIOR = np.array([LEVEL_SD, TILT_SD, TILT_SD, BOW_SD, BOW_SD, TWIST_SD])
UNKNOWN = 0.08
"""Where the height is known no better than this, the map is hatched, standard deviation, mm (ours)."""
SWEEPS, SETTLED = 60, 1e-10
MIN_Z95 = normal_quantile(0.9)


def terms(bed: Bed, x: ArrayLike, y: ArrayLike) -> Array:
    """Level, tilt along X and Y, bow along X and Y, twist at places, shape (n, 6).

    Places are scaled to -1 ... 1 over the printable area; a bow is counted from its mean.
    """
    cx, cy = bed.centre
    u = 2 * (np.atleast_1d(np.asarray(x, dtype=np.float64)) - cx) / bed.width
    v = 2 * (np.atleast_1d(np.asarray(y, dtype=np.float64)) - cy) / bed.depth
    return np.column_stack([np.ones_like(u), u, v, 1 / 3 - u * u, 1 / 3 - v * v, u * v])


def log_band(centre: ArrayLike, sd: ArrayLike, low: ArrayLike, high: ArrayLike) -> Array:
    """Logarithm of the chance that a value about ``centre`` with scatter ``sd`` lies in a band."""
    a, b = (
        np.asarray((np.asarray(bound) - np.asarray(centre)) / np.asarray(sd), dtype=np.float64)
        for bound in (low, high)
    )
    # taken in the tail on whose side the band lies, where the difference keeps its digits
    flip = (a + b) > 0
    lower, upper = np.where(flip, -b, a), np.where(flip, -a, b)
    top, bottom = special.log_ndtr(upper), special.log_ndtr(lower)
    return top + np.log1p(-np.exp(np.minimum(bottom - top, -1e-15)))


def band_moments(mean: float, variance: float, sd: float, low: float, high: float) -> tuple[float, float]:
    """Mean and variance of a Gaussian after it was felt to lie in a band with soft edges.

    Parameters
    ----------
    mean, variance : float
        Before.
    sd : float
        Softness of the edges.
    low, high : float
        The band; infinite where it is open.

    Returns
    -------
    mean, variance : float

    References
    ----------
    Moments of a truncated normal distribution (textbook result), with the scatter added to the variance.

    Examples
    --------
    >>> mean, variance = band_moments(0.0, 1.0, 0.0, 0.0, math.inf)
    >>> round(mean, 4), round(variance, 4)
    (0.7979, 0.3634)
    """
    whole = math.sqrt(variance + sd * sd)
    a, b = (low - mean) / whole, (high - mean) / whole
    log_z = float(log_band(0.0, 1.0, a, b))
    pa = 0.0 if math.isinf(a) else math.exp(-0.5 * a * a - 0.9189385332046727 - log_z)
    pb = 0.0 if math.isinf(b) else math.exp(-0.5 * b * b - 0.9189385332046727 - log_z)
    first = pa - pb
    second = (0.0 if math.isinf(b) else b * pb) - (0.0 if math.isinf(a) else a * pa)
    share = variance / whole
    least = variance * sd * sd / (variance + sd * sd)  # a reading tells no more than its own scatter
    return mean + share * first, max(variance - share * share * (second + first * first), least, 1e-15)


@dataclass(frozen=True, eq=False)
class Belief:
    """A Gaussian belief about the terms of a bed, see `terms`; heights, mm."""

    mean: Array
    covariance: Array

    def at(self, rows: Array) -> tuple[Array, Array]:
        """Heights and their standard deviations at places given as rows of `terms`, mm."""
        variance = np.einsum("ij,jk,ik->i", rows, self.covariance, rows)
        return rows @ self.mean, np.sqrt(np.maximum(variance, 0.0))

    def seen(self, row: Array, value: float, variance: float) -> Belief:
        """Join a height that was read at a place, with its variance."""
        spread = self.covariance @ row
        gain = spread / (float(row @ spread) + variance)
        covariance = self.covariance - np.outer(gain, spread)
        return Belief(self.mean + gain * (value - float(row @ self.mean)), (covariance + covariance.T) / 2)

    def felt(self, row: Array, low: float, high: float, sd: float) -> Belief:
        """Join a height that was felt to lie in a band."""
        spread = self.covariance @ row
        variance = float(row @ spread)
        centre = float(row @ self.mean)
        mean, left = band_moments(centre, variance, sd, low, high)
        gain = spread / variance
        covariance = self.covariance - np.outer(gain, gain) * (variance - left)
        return Belief(self.mean + gain * (mean - centre), (covariance + covariance.T) / 2)


def first_belief(level: float = 0.0) -> Belief:
    """What is believed of a bed nobody has felt yet."""
    return Belief(np.array([level, 0, 0, 0, 0, 0.0]), np.diag(PRIOR**2))


def join_bands(belief: Belief, rows: Array, low: Array, high: Array, sd: Array) -> Belief:
    """Join many bands at once by expectation propagation, so that their order does not count.

    Parameters
    ----------
    belief : Belief
    rows : ndarray, shape (n, 6)
    low, high, sd : ndarray, shape (n,)
        mm; infinite where a band is open.

    Returns
    -------
    Belief

    References
    ----------
    T. P. Minka, Expectation propagation for approximate Bayesian inference, UAI 2001.
    """
    n = len(rows)
    precision, shift = np.zeros(n), np.zeros(n)
    base = np.linalg.inv(belief.covariance)
    start = base @ belief.mean
    now = belief
    for _ in range(SWEEPS):
        before = now.mean
        for i in range(n):
            variance = float(rows[i] @ now.covariance @ rows[i])
            centre = float(rows[i] @ now.mean)
            # what the others say about this place
            free = 1 / variance - precision[i]
            if free <= 1e-12:
                continue
            cavity = (centre / variance - shift[i]) / free
            mean, left = band_moments(cavity, 1 / free, float(sd[i]), float(low[i]), float(high[i]))
            precision[i] = max(1 / left - free, 0.0)
            shift[i] = mean / left - cavity * free
            total = base + (rows.T * precision) @ rows
            covariance = np.asarray(np.linalg.inv(total), dtype=np.float64)
            now = Belief(covariance @ (start + rows.T @ shift), covariance)
        if np.abs(now.mean - before).max() < SETTLED:
            break
    return now


@dataclass(frozen=True, eq=False)
class Feel:
    """A feel at a place, with the Z at which it was felt.

    Attributes
    ----------
    x, y : float
        mm
    feel : str
        One of ``FEELS``.
    thickness : float
        Of the strip, mm.
    z : float
        Height at which the machine was told to stand, mm.
    """

    x: float
    y: float
    feel: str
    thickness: float
    z: float = 0.0

    @property
    def band(self) -> tuple[float, float]:
        """Between which heights the bed lies there, mm; infinite where only one is known."""
        near, far = FEEL_BANDS[self.feel]
        return self.z - self.thickness - far, self.z - self.thickness - near


@dataclass(frozen=True, eq=False)
class FeltBed:
    """What feels say about a bed.

    Attributes
    ----------
    heights, sd : ndarray, shape (n,)
        At the places felt, mm; where only a bound is known, what tilt and shape make of it.
    low, high : ndarray, shape (n,)
        Bounds, mm; infinite where open.
    belief : Belief
    at_least : float
        How far apart the highest and the lowest place are at the least, mm; it holds in 19 of 20 beds.
    """

    heights: Array
    sd: Array
    low: Array
    high: Array
    belief: Belief
    at_least: float

    @property
    def open(self) -> Mask:
        """Which places are known on one side only, shape (n,)."""
        return ~(np.isfinite(self.low) & np.isfinite(self.high))


def feel_bed(feels: Sequence[Feel], bed: Bed) -> FeltBed:
    """Join feels into what they say about a bed.

    Parameters
    ----------
    feels : sequence of Feel
    bed : Bed

    Returns
    -------
    FeltBed

    Examples
    --------
    >>> bed = Bed(200, 200)
    >>> found = feel_bed([Feel(15, 15, "free", 0.1), Feel(185, 15, "stuck", 0.1), Feel(15, 185, "slight", 0.1)], bed)
    >>> found.open.tolist(), round(found.at_least, 2)
    ([True, True, False], 0.04)
    """
    low, high = (np.array(side) for side in zip(*(feel.band for feel in feels), strict=True))
    return join_feels(
        np.array([feel.x for feel in feels]), np.array([feel.y for feel in feels]), low, high, bed
    )


def join_feels(x: Array, y: Array, low: Array, high: Array, bed: Bed, sd: float = EYE_SD) -> FeltBed:
    """The same from bounds as they were stored; shapes (n,), mm."""
    rows = terms(bed, x, y)
    known = [value for value in (*low, *high) if math.isfinite(value)]
    soft = np.full(len(rows), math.hypot(sd, ROUGH_SD))
    belief = join_bands(first_belief(float(np.median(known))), rows, low, high, soft)
    smooth, smooth_sd = belief.at(rows)
    inside = np.isfinite(low) & np.isfinite(high)
    with np.errstate(invalid="ignore"):
        heights = np.where(inside, (low + high) / 2, smooth)
        spread = np.where(inside, np.hypot((high - low) / math.sqrt(12), sd), np.hypot(smooth_sd, ROUGH_SD))
    return FeltBed(heights, spread, low, high, belief, least_spread(low, high, sd))


def least_spread(low: Array, high: Array, sd: float = EYE_SD) -> float:
    """How far apart the highest and the lowest place are at the least, mm: no surface is assumed between them."""
    top, bottom = float(np.max(low)), float(np.min(high))
    if not (math.isfinite(top) and math.isfinite(bottom)):
        return 0.0
    return max(0.0, top - bottom - MIN_Z95 * math.sqrt(2) * sd)


def unknown_cells(bed: Bed, belief: Belief, xs: Array, ys: Array) -> Mask:
    """Which points of a grid are not known, shape (len(ys), len(xs))."""
    x, y = np.meshgrid(xs, ys)
    _, sd = belief.at(terms(bed, x.ravel(), y.ravel()))
    return (sd > UNKNOWN).reshape(x.shape)


def say_open(count: int, places: int, at_least: float, free: int) -> str:
    """Say what a survey by paper leaves open."""
    where = "At every place" if count == places else f"At {count} of {places} places"
    which = (
        "slid freely" if free == count else "would not move" if free == 0 else "slid freely or would not move"
    )
    known = (
        f"So the bed varies by at least {millimetres(at_least)}, and nobody knows how much more."
        if at_least >= 0.005
        else "So nobody knows yet how level the bed is."
    )
    return f"{where} the strip {which}, which says only which way. {known}"
