"""Arrays of numbers, and whether places lie on one line."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

MAX_COORDINATE = 5_000.0
"""Coordinates further out than this are a mistake, mm."""
LINE_RATIO = 1e-3
"""Points whose spread across is less than this share of their spread along count as one line."""
Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
Indices = NDArray[np.intp]
Column = NDArray[Any]
"""Numbers, whole numbers or marks, as the docstring says."""


def is_line(x: Array, y: Array) -> bool:
    """Tell whether the places (mm) lie on one line, or nearly so.

    Examples
    --------
    >>> is_line(np.array([0.0, 1, 2]), np.array([0.0, 1, 2]))
    True
    """
    dx, dy = x - x.mean(), y - y.mean()
    sxx, syy, sxy = float(dx @ dx), float(dy @ dy), float(dx @ dy)
    half, diff = (sxx + syy) / 2, np.hypot((sxx - syy) / 2, sxy)
    if half + diff == 0:
        return True
    # determinant / largest eigenvalue keeps its digits where half - diff would lose them
    smallest = max(sxx * syy - sxy * sxy, 0.0) / (half + diff)
    return bool(smallest <= LINE_RATIO**2 * (half + diff))
