"""Quantiles, intervals and tests that several parts of the job need."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.base.errors import ChoiceError, TooFewReadingsError
from finchwort.core.base.geometry import Array

CONFIDENCE = 0.95
"""Confidence of every plus/minus."""


def normal_quantile(confidence: float = CONFIDENCE) -> float:
    """Half the width of a two-sided interval of the normal distribution, in standard deviations.

    Examples
    --------
    >>> round(normal_quantile(), 6)
    1.959964
    """
    return float(special.ndtri(0.5 + confidence / 2))


def student_quantile(dof: float, confidence: float = CONFIDENCE) -> float:
    """Half the width of a two-sided interval of Student's t distribution, in standard errors.

    Examples
    --------
    >>> round(student_quantile(4), 4)
    2.7764
    """
    return float(special.stdtrit(dof, 0.5 + confidence / 2))


Z95 = normal_quantile()
"""Times a standard deviation gives the plus/minus at 95 %."""
ALPHA = 0.05
"""Chance of calling a sound reading an outlier."""


@dataclass(frozen=True)
class Grubbs:
    """Grubbs' test for one outlier.

    Attributes
    ----------
    statistic : float
        Largest distance from the mean in standard deviations.
    critical : float
        What it must exceed.
    index : int
        Which value it is about.
    """

    statistic: float
    critical: float
    index: int

    @property
    def outlier(self) -> bool:
        """Whether that value stands out."""
        return self.statistic > self.critical


def grubbs_test(values: ArrayLike, alpha: float = ALPHA, tail: str = "both") -> Grubbs:
    """Test whether the value furthest out is an outlier.

    Parameters
    ----------
    values : array_like, shape (n,)
        At least three, taken to be normal but for one.
    alpha : float
        Chance of a false alarm.
    tail : {"both", "upper", "lower"}

    Returns
    -------
    Grubbs

    References
    ----------
    NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.1.

    Examples
    --------
    >>> test = grubbs_test([199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57], tail="upper")
    >>> round(test.statistic, 3), round(test.critical, 4), test.outlier
    (2.469, 2.0317, True)
    """
    x = np.asarray(values, dtype=np.float64)
    n = x.size
    if n < 3:
        raise TooFewReadingsError("base.outlier_shows_among_three")
    if tail not in ("both", "upper", "lower"):
        raise ChoiceError("base.outlier_looked_above_below")
    off = x - x.mean()
    sd = float(np.sqrt(off @ off / (n - 1)))
    away = {"both": np.abs(off), "upper": off, "lower": -off}[tail]
    index = int(np.argmax(away))
    share = alpha / (2 * n) if tail == "both" else alpha / n
    t = special.stdtrit(n - 2, 1 - share)
    critical = (n - 1) / np.sqrt(n) * np.sqrt(t * t / (n - 2 + t * t))
    statistic = float(away[index] / sd) if sd > 0 else 0.0
    return Grubbs(statistic, float(critical), index)


def generalized_esd(
    values: ArrayLike, most: int, alpha: float = ALPHA, *, floor: float = 0.0
) -> list[Grubbs]:
    """Test for up to so many outliers: the largest number that passes counts.

    Parameters
    ----------
    values : array_like, shape (n,)
    most : int
    alpha : float
    floor : float
        The standard deviation is taken to be no less.

    Returns
    -------
    list of Grubbs
        One for every value taken out, in their order.

    References
    ----------
    Rosner 1983; NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.3.
    """
    x = np.asarray(values, dtype=np.float64)
    left = list(range(x.size))
    results = []
    for taken in range(max(0, most)):
        rest = x[left]
        off = np.abs(rest - rest.mean())
        worst = int(np.argmax(off))
        n = x.size - taken
        t = special.stdtrit(n - 2, 1 - alpha / (2 * n))
        critical = (n - 1) * t / np.sqrt((n - 2 + t * t) * n)
        sd = max(float(rest.std(ddof=1)), floor, 1e-12)
        results.append(Grubbs(float(off[worst] / sd), float(critical), left.pop(worst)))
    return results


def sd_interval(sd: float, n: int, confidence: float = CONFIDENCE) -> tuple[float, float]:
    """Confidence interval of a standard deviation found from n normal values.

    Parameters
    ----------
    sd : float
    n : int
    confidence : float

    Returns
    -------
    low, high : float
        In the unit of ``sd``.

    References
    ----------
    NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.8.

    Examples
    --------
    >>> [round(v, 6) for v in sd_interval(0.006278908, 100)]
    [0.005513, 0.007294]
    """
    tail = (1 - confidence) / 2
    low, high = (float(sd * np.sqrt((n - 1) / special.chdtri(n - 1, share))) for share in (tail, 1 - tail))
    return low, high


def slope_interval(x: Array, y: Array, confidence: float = CONFIDENCE) -> tuple[float, float, float]:
    """Least-squares slope of y over x with its confidence interval.

    Returns
    -------
    slope, low, high : float

    Examples
    --------
    >>> slope_interval(np.array([0.0, 1, 2]), np.array([0.0, 1, 2]))
    (1.0, 1.0, 1.0)
    """
    dx, dy = x - x.mean(), y - y.mean()
    sxx = float(dx @ dx)
    if sxx == 0:
        return 0.0, 0.0, 0.0
    slope = float(dx @ dy) / sxx
    rest = dy - slope * dx
    dof = x.size - 2
    margin = student_quantile(dof, confidence) * np.sqrt(float(rest @ rest) / dof / sxx)
    return slope, float(slope - margin), float(slope + margin)
