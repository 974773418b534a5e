"""How fast a printer loses its level: a run chart with limits, and when to look again."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.errors import NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.surveys import Array
from finchwort.core.verdict import check_first_layer, good_spread

D2, D4 = 1.128, 3.267
"""Factors for moving ranges of two (NIST/SEMATECH e-Handbook of Statistical Methods, section 6.3.2.2, from memory)."""
LEAST_VALUES = 5
"""Fewer visits carry no limits (ours)."""
LEAST_STEPS = 5
"""So many times left and found again are the least to forecast from (ours)."""
JUMP = 12.0
"""A step this many times as fast as the median one is a jump with a cause of its own (ours)."""
WIDEST = 8.0
"""A forecast whose ends differ by more than this factor is none (ours)."""
CONFIDENCE = 0.9


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
    if values.ndim != 1 or values.size < LEAST_VALUES:
        raise TooFewReadingsError(f"Limits need {LEAST_VALUES} visits or more.")
    if not np.isfinite(values).all():
        raise NonFiniteError("A value is missing or is not a number.")
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
class Step:
    """A bed left at one visit and found again at the next.

    Attributes
    ----------
    days : float
        Between the two.
    change : (float, float)
        Change of the tilt left to right and front to back, mm.
    noise : (float, float)
        Standard deviation of these changes from the readings, mm.
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
        After levelling, until the tilt alone is no longer good as it is: about, and between; none when the data do not carry it.
    monthly : float or None
        Tilt that a month brings on the whole, mm.
    steps : int
    sentence : str
    """

    days: float | None
    soonest: float | None
    latest: float | None
    monthly: float | None
    steps: int
    sentence: str


def forecast(steps: Sequence[Step], first_layer: float) -> Forecast:
    """Say when to look again, when the data carry it.

    The tilt wanders: its change from visit to visit has a variance that grows
    with the days between them (a random walk along X and along Y).  The mean
    distance of such a walk after t days is sqrt(pi q t / 2) with q the variance a day;
    "look again" is where it reaches the spread up to which a bed is good as it is.

    Parameters
    ----------
    steps : sequence of Step
    first_layer : float
        mm

    Returns
    -------
    Forecast

    Raises
    ------
    OutOfRangeError
        When time runs backwards.

    Examples
    --------
    >>> forecast([Step(20, (0.1, -0.05))], 0.2).days is None
    True
    """
    check_first_layer(first_layer)
    if any(not (math.isfinite(step.days) and step.days > 0) for step in steps):
        raise OutOfRangeError("A visit cannot come before the one it follows.")
    count = len(steps)
    if count < LEAST_STEPS:
        left = LEAST_STEPS - count
        said = f"{left} more visit{'s' if left > 1 else ''}, each begun with a survey, and a forecast can be made."
        return Forecast(None, None, None, None, count, said)
    days = np.array([step.days for step in steps])
    change = np.array([step.change for step in steps])
    noise = np.array([step.noise for step in steps])
    # every step gives two estimates of the variance a day, less what the readings' noise adds
    rate = (change**2 - noise**2) / days[:, None]
    # a jump that stands out had a cause of its own, and says nothing of how the springs creep
    size = (change**2).sum(axis=1) / days
    ordinary = size <= JUMP * np.median(size)
    jumps = int((~ordinary).sum())
    rate, count = rate[ordinary], int(ordinary.sum())
    q = float(rate.mean())
    if q <= 0:
        return Forecast(
            None, None, None, 0.0, count, "The level has not moved by more than the readings can tell."
        )
    dof = 2 * count
    low, high = (1 - CONFIDENCE) / 2, (1 + CONFIDENCE) / 2
    fastest = q * dof / float(special.chdtri(dof, high))
    slowest = q * dof / float(special.chdtri(dof, low))
    tolerance = good_spread(first_layer)

    def wait(rate: float) -> float:
        return 2 * tolerance**2 / (math.pi * rate)

    monthly = math.sqrt(math.pi * q * 30 / 2)
    soonest, latest = wait(fastest), wait(slowest)
    if latest / soonest > WIDEST:
        said = "The visits differ too much to say when. A few more will tell."
        return Forecast(None, None, None, monthly, count, said)
    about = wait(q)
    said = (
        f"It wanders by about {monthly:.2f} mm a month. After levelling, look again in around {_days(about)} "
        f"(between {_days(soonest)} and {_days(latest)})."
    )
    if jumps:
        said += (
            f" {jumps} jump{'s' if jumps > 1 else ''} that stood out {'are' if jumps > 1 else 'is'} left out."
        )
    return Forecast(about, soonest, latest, monthly, count, said)


def _days(days: float) -> str:
    whole = max(1, round(days))
    return f"{whole} day{'s' if whole > 1 else ''}"
