"""How prints let go over time, from records of how long each ran, and how often to look after them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.stats import chi2

from finchwort.core.base.geometry import Column
from finchwort.core.base.statistics import CONFIDENCE
from finchwort.core.diagnosis import TALL

PRIOR_FAILURES, PRIOR_HOURS = 1.0, 30.0
"""What is believed of a printer without records: one print lets go in so many hours (first estimate, ours)."""
SLENDER = 2.0
"""A slender part lets go so many times as often (first estimate, ours)."""
LOOK_HOURS = 1 / 30
"""What a look costs, in hours of printing: two minutes (ours)."""
OFTENEST, SELDOMEST = 60.0, 120.0
"""A look every hour or two (common practice), minutes."""
QUARTER_HOURS = 0.25
"""From then on a print is looked at every hour or two."""
MINUTES = 60.0


@dataclass(frozen=True)
class Run:
    """How long a print ran.

    Attributes
    ----------
    hours : float
        After its first line; until it let go, or until it ended otherwise.
    let_go : bool
    """

    hours: float
    let_go: bool


@dataclass(frozen=True)
class HazardRate:
    """How often prints let go once the first quarter of an hour is over.

    Attributes
    ----------
    failures : int
        That let go in that time.
    hours : float
        Of printing in that time.
    per_hour : float
        What is believed, with the first estimate worth ``PRIOR_HOURS``.
    low, high : float
        Bounds of what the records alone allow, per hour; ``high`` is infinite without any.
    """

    failures: int
    hours: float
    per_hour: float
    low: float
    high: float


def hazard_rate(failures: int, hours: float, confidence: float = CONFIDENCE) -> HazardRate:
    """Estimate how often prints let go.

    The believed rate is the mean of a gamma distribution with the first estimate as its prior; the bounds are the exact
    ones of a count (Garwood, Biometrika 28, 1936).

    Parameters
    ----------
    failures : int
        Not negative.
    hours : float
        Not negative.
    confidence : float
        Between 0 and 1.

    Returns
    -------
    HazardRate

    Examples
    --------
    >>> rate = hazard_rate(2, 90.0)
    >>> round(rate.per_hour, 3), round(rate.low, 4), round(rate.high, 3)
    (0.025, 0.0027, 0.08)
    """
    per_hour = (PRIOR_FAILURES + failures) / (PRIOR_HOURS + hours)
    if hours <= 0:
        return HazardRate(failures, hours, per_hour, 0.0, math.inf)
    tail = (1 - confidence) / 2
    low = float(chi2.ppf(tail, 2 * failures)) / 2 if failures else 0.0
    high = float(chi2.ppf(1 - tail, 2 * failures + 2)) / 2
    return HazardRate(failures, hours, per_hour, low / hours, high / hours)


def look_every(per_hour: float) -> float:
    """Say how often to look, minutes, in quarters of an hour.

    What is lost without a look grows with the square of the time between two; what looks cost falls with it.  The sum is
    least at the square root of twice the cost of a look over the rate (a classical result of maintenance, from memory),
    held to an hour or two.

    Parameters
    ----------
    per_hour : float
        How often prints let go; more than 0.

    Returns
    -------
    float

    Examples
    --------
    >>> look_every(1 / 30), look_every(0.2), look_every(0.001)
    (90.0, 60.0, 120.0)
    """
    best = MINUTES * math.sqrt(2 * LOOK_HOURS / per_hour)
    return min(max(round(best / 15) * 15.0, OFTENEST), SELDOMEST)


def is_slender(width: float | None, depth: float | None, height: float | None) -> bool:
    """Tell whether a part is slender for its foot; mm.

    Examples
    --------
    >>> is_slender(8, 20, 40), is_slender(40, 40, 40), is_slender(None, None, 40)
    (True, False, False)
    """
    if width is None or depth is None or height is None:
        return False
    return height >= TALL * max(min(width, depth), 0.5)


def cumulative_hazard(runs: Sequence[Run]) -> tuple[Column, Column]:
    """Estimate how the hazard adds up over time.

    Parameters
    ----------
    runs : sequence of Run
        A print that ended at the moment at which another let go was still there.

    Returns
    -------
    hours, hazard : ndarray, shape (times,)
        Each time at which prints let go, and the Nelson-Aalen estimate after it.

    References
    ----------
    O. Aalen, Annals of Statistics 6, 1978.

    Examples
    --------
    >>> hours, hazard = cumulative_hazard([Run(1, True), Run(2, False), Run(3, True)])
    >>> hours.tolist(), hazard.round(3).tolist()
    ([1.0, 3.0], [0.333, 1.333])
    """
    hours, gone, there = _at_risk(runs)
    return hours, np.cumsum(gone / there)


def survival(runs: Sequence[Run]) -> tuple[Column, Column]:
    """Estimate the share of prints that still hold over time.

    Returns
    -------
    hours, share : ndarray, shape (times,)
        Each time at which prints let go, and the Kaplan-Meier estimate after it.

    References
    ----------
    E. L. Kaplan, P. Meier, Journal of the American Statistical Association 53, 1958.

    Examples
    --------
    >>> hours, share = survival([Run(1, True), Run(2, False), Run(3, True), Run(4, False)])
    >>> share.round(3).tolist()
    [0.75, 0.375]
    """
    hours, gone, there = _at_risk(runs)
    return hours, np.cumprod(1 - gone / there)


def _at_risk(runs: Sequence[Run]) -> tuple[Column, Column, Column]:
    """Times at which prints let go, how many did, and how many were still there."""
    ran = np.array([run.hours for run in runs], dtype=np.float64)
    let_go = np.array([run.let_go for run in runs], dtype=bool)
    hours, gone = np.unique(ran[let_go], return_counts=True)
    there = len(ran) - np.searchsorted(np.sort(ran), hours, side="left")
    return hours, gone.astype(np.float64), there.astype(np.float64)
