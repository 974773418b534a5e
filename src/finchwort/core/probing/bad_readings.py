"""Readings of a series that are no readings of the bed."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.statistics import generalized_esd

BAD_FROM = 0.01
"""Nothing nearer to the others is set aside, mm (ours)."""
MIN_NOISE = 0.001
"""Readings that all agree hide at least this behind their last digit, mm (ours)."""

MAX_BAD = 2
"""So many touches may be bad without spoiling a test (ours)."""
BAD_ALPHA = 0.01
"""Chance of setting aside a sound touch."""
BAD_STEPS = 2.5
"""Nor anything within so many steps of the probe's resolution (ours)."""


def find_bad(values: ArrayLike, step: float = 0.0, most: int = MAX_BAD) -> tuple[int, ...]:
    """Find touches that stand out beyond chance, also when two hide each other.

    The generalized ESD test takes the furthest value out, one after the other, and asks at each number how far it
    would be by chance; the largest number that passes counts.

    Parameters
    ----------
    values : array_like, shape (n,)
    step : float
        Smallest step of the values, mm.
    most : int

    Returns
    -------
    tuple of int
        In the order of the values.

    References
    ----------
    Rosner 1983; NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.3, generalized ESD test.

    Examples
    --------
    >>> find_bad([0.1, 0.102, 0.099, 0.101, 0.1, 0.3, 0.101, 0.32, 0.098, 0.1])
    (5, 7)
    """
    x = np.asarray(values, dtype=np.float64)
    middle = float(np.median(x))
    passed = 0
    tests = generalized_esd(x, min(most, x.size - 4), BAD_ALPHA, floor=step / np.sqrt(12))
    for taken, test in enumerate(tests, 1):
        far = abs(float(x[test.index]) - middle)
        if test.outlier and far > max(BAD_FROM, BAD_STEPS * step):
            passed = taken
    return tuple(sorted(test.index for test in tests[:passed]))


def smallest_step(values: ArrayLike) -> float:
    """Find the step in which values come, mm; 0 when they come in none that matters.

    Examples
    --------
    >>> smallest_step([0.1, 0.1125, 0.1, 0.125]), smallest_step([0.1, 0.1013, 0.0987, 0.1051])
    (0.0125, 0.0)
    """
    distinct = np.unique(np.round(np.asarray(values, dtype=np.float64), 6))
    if distinct.size < 2:
        return 0.0
    step = float(np.diff(distinct).min())
    if step < MIN_NOISE:
        return 0.0
    counts = (distinct - distinct[0]) / step
    # a few steps between many values are a resolution; values that all differ are none
    whole = bool(np.abs(counts - np.round(counts)).max() < 0.02)
    return round(step, 6) if whole and distinct.size <= max(3, len(np.asarray(values)) // 2) else 0.0
