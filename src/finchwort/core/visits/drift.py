"""How fast a printer loses its level: a run chart with limits, and when to look again."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import counted
from finchwort.core.surveys import check_first_layer, good_spread

D2, D4 = 1.128, 3.267
"""Factors for moving ranges of two (NIST/SEMATECH e-Handbook of Statistical Methods, section 6.3.2.2, from memory)."""
MIN_VALUES = 5
"""Fewer visits carry no limits (ours)."""
MIN_STEPS = 5
"""So many times left and found again are the least to forecast from (ours)."""
JUMP = 12.0
"""A step this many times as fast as the median one is a jump with a cause of its own (ours)."""
WIDEST = 20.0
"""A forecast whose ends differ by more than this factor is none (ours)."""
CONFIDENCE = 0.9
SLOWEST, FASTEST = 1e-8, 0.05
"""Variances a day that are weighed, mm²."""
JUMP_SHARE, JUMP_SD = 0.07, 0.05
"""How many steps are jumps, and how far they go beyond the ordinary at least, standard deviation, mm (ours)."""
TEMPER = 0.65
"""Visits are worth so much of what they would be if tilt wandered by the normal law: springs creep in jerks (ours)."""
LONG = 60.0
"""A level that keeps so many days at the least has not moved, as far as can be told."""
THUMB = (
    "A rule of thumb until then: look again after a month or some thirty prints, and always after it was carried, after "
    "a part had to be pried off, and when a first layer looks different."
)
"""How people go about it without data (common practice)."""


@dataclass(frozen=True, eq=False)
class Chart:
    """An individuals and moving range chart.

    Attributes
    ----------
    values : ndarray, shape (n,)
    mean, lower, upper : float
        Centre line and limits of the individuals.
    ranges : ndarray, shape (n - 1,)
        Moving ranges of two.
    mean_range, upper_range : float
        Centre line and upper limit of the ranges.
    outside : tuple of int
        Values beyond the limits.
    jumps : tuple of int
        Values whose step from the one before is beyond the range's limit.
    """

    values: Array
    mean: float
    lower: float
    upper: float
    ranges: Array
    mean_range: float
    upper_range: float
    outside: tuple[int, ...]
    jumps: tuple[int, ...]


def individuals_chart(values: ArrayLike) -> Chart:
    """Make an individuals and moving range chart.

    Parameters
    ----------
    values : array_like, shape (n,)
        In the order of time; five or more.

    Returns
    -------
    Chart

    Raises
    ------
    TooFewReadingsError, NonFiniteError

    References
    ----------
    NIST/SEMATECH e-Handbook of Statistical Methods, section 6.3.2.2, individuals control charts.

    Examples
    --------
    >>> chart = individuals_chart([49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1])
    >>> round(chart.mean, 2), round(chart.mean_range, 4), round(chart.upper, 4), round(chart.lower, 4)
    (50.81, 1.8778, 55.8041, 45.8159)
    """
    values = np.array(values, dtype=np.float64)
    if values.ndim != 1 or values.size < MIN_VALUES:
        raise TooFewReadingsError("visits.limits_need_visits_more", min_values=MIN_VALUES)
    if not np.isfinite(values).all():
        raise NonFiniteError("visits.value_missing_not_number")
    ranges = np.abs(np.diff(values))
    mean, mean_range = float(values.mean()), float(ranges.mean())
    reach = 3 * mean_range / D2
    upper_range = D4 * mean_range
    return Chart(
        values=values,
        mean=mean,
        lower=mean - reach,
        upper=mean + reach,
        ranges=ranges,
        mean_range=mean_range,
        upper_range=upper_range,
        outside=tuple(np.flatnonzero(np.abs(values - mean) > reach).tolist()),
        jumps=tuple((np.flatnonzero(ranges > upper_range) + 1).tolist()),
    )


@dataclass(frozen=True)
class DriftStep:
    """A bed left at one visit and found again at the next.

    Attributes
    ----------
    days : float
        Between the two.
    change : (float, float)
        Change of the tilt left to right and front to back, mm.
    noise : (float, float)
        Standard deviation of these changes from the readings, mm; the shape of the bed is no noise.
    """

    days: float
    change: tuple[float, float]
    noise: tuple[float, float] = (0.0, 0.0)


@dataclass(frozen=True)
class Forecast:
    """When to look again.

    Attributes
    ----------
    days, soonest, latest : float or None
        From when it was left, until the tilt alone is no longer good as it is: about, and between; none when the data
        do not carry it.
    monthly : float or None
        Tilt from corner to corner that a month brings on the whole, mm.
    steps : int
    sentence : str
    """

    days: float | None
    soonest: float | None
    latest: float | None
    monthly: float | None
    steps: int
    sentence: str


def expected_rise(left: tuple[float, float], variance: float) -> float:
    """Mean rise from corner to corner of a tilt that wandered from what was left.

    Parameters
    ----------
    left : (float, float)
        Tilt left to right and front to back that was left, mm.
    variance : float
        Of what was added to each, mm².

    Returns
    -------
    float
        Mean of abs(x) + abs(y), mm.

    References
    ----------
    Mean of the folded normal distribution (textbook result).

    Examples
    --------
    >>> round(expected_rise((0.0, 0.0), 0.01), 4), expected_rise((0.03, -0.02), 0.0)
    (0.1596, 0.05)
    """
    if variance <= 0:
        return abs(left[0]) + abs(left[1])
    sd = math.sqrt(variance)
    total = 0.0
    for item in left:
        total += sd * math.sqrt(2 / math.pi) * math.exp(-(item**2) / (2 * variance)) + item * (
            1 - 2 * float(special.ndtr(-item / sd))
        )
    return total


def days_until(left: tuple[float, float], rate: float, tolerance: float) -> float:
    """Days until the mean rise from corner to corner reaches a tolerance, starting from what was left.

    Parameters
    ----------
    left : (float, float)
        mm
    rate : float
        Variance a day of each tilt, mm².
    tolerance : float
        mm

    Returns
    -------
    float
        0 when what was left is beyond it already.
    """
    if expected_rise(left, 0.0) >= tolerance:
        return 0.0
    # from nothing it takes longest
    high = math.pi * tolerance**2 / (8 * rate)
    low = 0.0
    for _ in range(60):
        half = (low + high) / 2
        low, high = (half, high) if expected_rise(left, rate * half) < tolerance else (low, half)
    return (low + high) / 2


def forecast_drift(
    steps: Sequence[DriftStep], first_layer: float, left: tuple[float, float] = (0.0, 0.0)
) -> Forecast:
    """Say when to look again, when the data carry it.

    The tilt wanders: its change from visit to visit has a variance that grows with the days between them (a random
    walk along X and along Y).  "Look again" is where the mean rise from corner to corner, counted from what was left,
    reaches the spread up to which a bed is good as it is.  The variance a day is weighed by its likelihood, in which
    every step has the noise of its readings and may be a jump with a cause of its own.

    Parameters
    ----------
    steps : sequence of DriftStep
    first_layer : float
        mm
    left : (float, float)
        Tilt left to right and front to back as it was left, mm.

    Returns
    -------
    Forecast

    Raises
    ------
    OutOfRangeError
        When time runs backwards.

    Examples
    --------
    >>> forecast_drift([DriftStep(20, (0.1, -0.05))], 0.2).days is None
    True
    """
    check_first_layer(first_layer)
    if any(not (math.isfinite(step.days) and step.days > 0) for step in steps):
        raise OutOfRangeError("visits.visit_cannot_come_before")
    count = len(steps)
    if count < MIN_STEPS:
        more = MIN_STEPS - count
        text = (
            f"{THUMB} {more} more visit{'s' if more > 1 else ''}, each begun with a survey, and this printer's own "
            "forecast can be made."
        )
        return Forecast(None, None, None, None, count, text)
    days = np.array([step.days for step in steps])
    change = np.array([step.change for step in steps])
    noise = np.array([step.noise for step in steps])
    size = (change**2).sum(axis=1) / days
    ordinary = size <= JUMP * np.median(size)
    jumps = int((~ordinary).sum())
    rates = np.exp(np.linspace(math.log(SLOWEST), math.log(FASTEST), 241))
    share = _weigh_rates(days[ordinary], change[ordinary], noise[ordinary], rates)
    total = np.cumsum(share)
    low, q, high = (
        float(np.exp(np.interp(p, total, np.log(rates))))
        for p in ((1 - CONFIDENCE) / 2, 0.5, (1 + CONFIDENCE) / 2)
    )
    tolerance = good_spread(first_layer)
    # after n days the mean rise from corner to corner of a walk from nothing is sqrt(8 q n / pi)
    monthly = math.sqrt(8 * q * 30 / math.pi)
    # below what the readings can tell there is nothing to forecast
    seen = (change**2).sum() > 1.2 * (noise**2).sum()
    if not seen and days_until((0.0, 0.0), high, tolerance) > LONG:
        return Forecast(
            None, None, None, monthly, count, "The level has not moved by more than the readings can tell."
        )
    about, soonest, latest = (days_until(left, rate, tolerance) for rate in (q, high, low))
    if about == 0:
        text = "What was left is no longer good as it is: level it now."
        return Forecast(0.0, 0.0, 0.0, monthly, count, text)
    if latest / soonest > WIDEST:
        text = f"The visits differ too much to say when. A few more will tell. {THUMB}"
        return Forecast(None, None, None, monthly, count, text)
    rest = abs(left[0]) + abs(left[1])
    begins = f", counted from the {rest:.2f} mm that were left" if rest >= 0.005 else ""
    text = (
        f"It wanders by about {monthly:.2f} mm a month from corner to corner. Look again in around {_days(about)} "
        f"(between {_days(soonest)} and {_days(latest)}){begins}."
    )
    if jumps:
        text += f" {counted(jumps, 'jump')} that stood out {'are' if jumps > 1 else 'is'} left out."
    return Forecast(about, soonest, latest, monthly, count, text)


def _weigh_rates(days: Array, change: Array, noise: Array, rates: Array) -> Array:
    """Weights of variances a day, mm², with jumps of their own allowed for."""
    log = np.zeros(rates.size)
    for t, delta, sd in zip(days, change, noise, strict=True):
        ordinary, jump = np.zeros(rates.size), np.zeros(rates.size)
        for item, size in zip(delta, sd, strict=True):
            variance = rates * t + size**2
            ordinary += -0.5 * item**2 / variance - 0.5 * np.log(variance)
            wide = JUMP * rates * t + size**2 + JUMP_SD**2
            jump += -0.5 * item**2 / wide - 0.5 * np.log(wide)
        log += np.logaddexp(math.log(1 - JUMP_SHARE) + ordinary, math.log(JUMP_SHARE) + jump)
    share = np.exp(TEMPER * (log - log.max()))
    return share / share.sum()


def _days(days: float) -> str:
    whole = max(1, round(days))
    return f"{counted(whole, 'day')}"
