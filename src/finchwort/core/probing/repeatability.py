"""How far a reading repeats: touches at one place, what they say about the probe."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.errors import (
    NonFiniteError,
    OutOfRangeError,
    TooFewReadingsError,
    TooManyReadingsError,
)
from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import (
    CONFIDENCE,
    Grubbs,
    grubbs_test,
    sd_interval,
    slope_interval,
    student_quantile,
)
from finchwort.core.probing.bad_readings import MIN_NOISE, find_bad, smallest_step
from finchwort.core.surveys import MAX_HEIGHT

MIN_TOUCHES, MAX_TOUCHES = 3, 100
"""So many touches make a test."""
ADVISED = 10
"""Fewer touches leave the spread badly known (common practice: ten or more)."""
GOOD_RANGE = 0.02
"""Ten touches of a good probe lie within this, mm (common practice)."""
USABLE_RANGE = 0.05
"""Ten touches within this serve rough work; above it the cause is found first, mm (common practice)."""
TEN = 3.078
"""Expected range of ten normal values in standard deviations (d2 of control charts for ten, from memory)."""
GOOD_SD, USABLE_SD = GOOD_RANGE / TEN, USABLE_RANGE / TEN
"""The same limits as standard deviations, which do not grow with the number of touches, mm."""
ALL_EQUAL = 0.003
"""Touches that all agree come in steps nobody has seen: so much is assumed, mm (ours)."""
SMALL_DRIFT = 0.005
"""A drift that adds up to less than this over the test does no harm, mm (ours)."""
MIN_SPAN = 60.0
"""Shorter tests tell nothing per minute, s."""

VERDICTS = {
    "good": "Trust it",
    "usable": "Good enough for rough work",
    "poor": "Find the cause first",
}


@dataclass(frozen=True, eq=False)
class Repeatability:
    """Touches at one place, summed up.

    Attributes
    ----------
    heights : ndarray, shape (n,)
        mm, in the order they were taken.
    mean, minimum, maximum, range, sd : float
        mm; the standard deviation has n - 1 below the line.
    sd_low, sd_high : float
        Its confidence interval, mm.
    drift : float
        Slope, mm per reading, or mm per minute when times over a minute or more were given.
    drift_low, drift_high : float
        Its confidence interval, in the same unit.
    drift_per : {"reading", "minute"}
    drift_total : float
        What the slope adds up to from first to last reading, mm.
    drifting : bool
        Whether the slope is there beyond doubt and large enough to matter.
    grubbs : Grubbs
    dof : int
        Degrees of freedom of the standard deviation.
    least_difference : float
        Two single readings that differ by less may as well be equal, mm; never less than the probe's smallest step.
    level : {"good", "usable", "poor"}
        By the standard deviation and its interval, bad touches and a drift set aside.
    aside : tuple of int
        Touches that stand out beyond chance; the figures are those of the others.
    step : float
        Smallest step in which the touches come, mm; 0 when none shows.
    noise : float
        Standard deviation for plans, mm: without the touches set aside and without the drift, and never less than a
        reading of that step hides.
    noise_dof : int
        Degrees of freedom behind it.
    counted : int
        Touches behind a summary that does not tell them one by one.
    """

    heights: Array
    mean: float
    minimum: float
    maximum: float
    range: float
    sd: float
    sd_low: float
    sd_high: float
    drift: float
    drift_low: float
    drift_high: float
    drift_per: str
    drift_total: float
    drifting: bool
    grubbs: Grubbs
    dof: int
    least_difference: float
    level: str
    aside: tuple[int, ...]
    step: float
    noise: float
    noise_dof: int
    counted: int = 0

    @property
    def touches(self) -> int:
        """How many touches there were; 0 when a summary does not say."""
        return self.heights.size or self.counted


@dataclass(frozen=True)
class Summary:
    """Figures of touches at one place as a machine sums them up itself.

    Attributes
    ----------
    sd : float
        Standard deviation, mm.
    range : float or None
        mm
    mean : float or None
        mm
    count : int
        0 when it does not say; then `FEW_TOUCHES` are taken for granted.
    """

    sd: float
    range: float | None = None
    mean: float | None = None
    count: int = 0


FEW_TOUCHES = 5
"""So many touches are assumed behind a summary that does not say (ours: fewer than anybody would sum up)."""


def assess_summary(summary: Summary, confidence: float = CONFIDENCE) -> Repeatability:
    """Judge a machine's own summary of touches; the touches themselves are not known.

    Parameters
    ----------
    summary : Summary
    confidence : float
        Of every interval.

    Raises
    ------
    OutOfRangeError, NonFiniteError, TooFewReadingsError

    Examples
    --------
    >>> found = assess_summary(Summary(0.004, 0.012, count=10))
    >>> found.level, found.touches, round(found.sd_high, 4)
    ('good', 10, 0.0073)
    """
    figures = [value for value in (summary.sd, summary.range, summary.mean) if value is not None]
    if not np.isfinite(figures).all():
        raise NonFiniteError("probing.figure_summary_missing_not")
    n = summary.count or FEW_TOUCHES
    if n < MIN_TOUCHES:
        raise TooFewReadingsError("probing.touches_least_summary", min_touches=MIN_TOUCHES)
    span = summary.range if summary.range is not None else summary.sd * TEN
    if not (0 <= summary.sd <= 1 and 0 <= span <= 5 and span >= summary.sd * 0.99 and n <= 1000):
        raise OutOfRangeError("probing.these_figures_do_not")
    mean = summary.mean or 0.0
    low, high = sd_interval(summary.sd, n, confidence)
    t = student_quantile(n - 1, confidence)
    return Repeatability(
        heights=np.empty(0),
        mean=mean,
        minimum=mean - span / 2,
        maximum=mean + span / 2,
        range=span,
        sd=summary.sd,
        sd_low=low,
        sd_high=high,
        drift=0.0,
        drift_low=0.0,
        drift_high=0.0,
        drift_per="reading",
        drift_total=0.0,
        drifting=False,
        grubbs=Grubbs(0.0, np.inf, 0),
        dof=n - 1,
        least_difference=float(t * summary.sd * np.sqrt(2)),
        level=_level(summary.sd, low),
        aside=(),
        step=0.0,
        noise=max(summary.sd, MIN_NOISE),
        noise_dof=n - 1,
        counted=n,
    )


def _level(sd: float, low: float) -> str:
    """Judge a standard deviation, whose interval begins at ``low``, mm."""
    if sd <= GOOD_SD:
        return "good"
    return "poor" if low > GOOD_SD and sd > USABLE_SD else "usable"


def check_series(
    heights: ArrayLike, times: ArrayLike | None, least: int, most: int
) -> tuple[Array, Array | None]:
    """Check readings taken one after the other.

    Parameters
    ----------
    heights : array_like, shape (n,)
        mm
    times : array_like, shape (n,), optional
        s
    least, most : int
        How many there may be.

    Raises
    ------
    TooFewReadingsError, TooManyReadingsError, NonFiniteError, OutOfRangeError
    """
    values = np.array(heights, dtype=np.float64)
    if values.ndim != 1:
        raise OutOfRangeError("probing.readings_come_plain_list")
    if values.size < least:
        raise TooFewReadingsError("probing.readings_least_here", least=least, size=values.size)
    if values.size > most:
        raise TooManyReadingsError("probing.readings_more_test_takes", size=values.size, most=most)
    if not np.isfinite(values).all():
        raise NonFiniteError("probing.reading_missing_not_number")
    if np.abs(values).max() > MAX_HEIGHT:
        raise OutOfRangeError("probing.reading_too_large_millimetres")
    if times is None:
        return values, None
    when = np.array(times, dtype=np.float64)
    if when.shape != values.shape or not np.isfinite(when).all():
        raise NonFiniteError("probing.every_reading_needs_time")
    if (np.diff(when) <= 0).any():
        raise OutOfRangeError("probing.times_go_forward_reading")
    return values, when


def assess_repeatability(
    heights: ArrayLike, times: ArrayLike | None = None, confidence: float = CONFIDENCE
) -> Repeatability:
    """Sum up touches at one place.

    Parameters
    ----------
    heights : array_like, shape (n,)
        3 to 100 readings, mm, in the order they were taken.
    times : array_like, shape (n,), optional
        When, s.
    confidence : float
        Of every interval.

    Returns
    -------
    Repeatability

    Raises
    ------
    TooFewReadingsError, TooManyReadingsError, NonFiniteError, OutOfRangeError

    References
    ----------
    Interval of the standard deviation by chi-square, outliers by the generalized ESD test: NIST/SEMATECH e-Handbook of
    Statistical Methods, 1.3.5.8 and 1.3.5.17.3.  Limits of the range: common practice.

    Examples
    --------
    >>> test = assess_repeatability([0.10, 0.11, 0.10, 0.11, 0.10])
    >>> round(test.range, 3), round(test.sd, 4), test.level
    (0.01, 0.0055, 'good')
    """
    values, when = check_series(heights, times, MIN_TOUCHES, MAX_TOUCHES)
    step = smallest_step(values)
    aside = find_bad(values, step)
    good = np.setdiff1d(np.arange(values.size), aside)
    kept = values[good]
    n = kept.size
    timed = when is not None and when[-1] - when[0] >= MIN_SPAN
    minutes = (
        (when - when[0]) / 60 if when is not None and timed else np.arange(values.size, dtype=np.float64)
    )
    x = minutes[good]
    slope, slope_low, slope_high = slope_interval(x, kept, confidence)
    total = slope * float(x[-1] - x[0])
    certain = slope_low > 0 or slope_high < 0
    drifting = bool(certain and abs(total) >= SMALL_DRIFT)
    rest = kept - kept.mean() - (slope * (x - x.mean()) if drifting else 0.0)
    dof = n - 2 if drifting else n - 1
    sd = float(np.sqrt(rest @ rest / dof))
    low, high = sd_interval(sd, dof + 1, confidence)
    t = student_quantile(dof, confidence)
    noise = max(sd, step / np.sqrt(12), MIN_NOISE if np.ptp(kept) else ALL_EQUAL)
    return Repeatability(
        heights=values,
        mean=float(kept.mean()),
        minimum=float(kept.min()),
        maximum=float(kept.max()),
        range=float(np.ptp(kept)),
        sd=sd,
        sd_low=low,
        sd_high=high,
        drift=slope,
        drift_low=slope_low,
        drift_high=slope_high,
        drift_per="minute" if timed else "reading",
        drift_total=total,
        drifting=drifting,
        grubbs=grubbs_test(values),
        dof=dof,
        least_difference=max(float(t * sd * np.sqrt(2)), step),
        level=_level(sd, low),
        aside=aside,
        step=step,
        noise=float(noise),
        noise_dof=dof,
    )
