"""How a bed moved between two surveys of it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import TooFewReadingsError
from finchwort.core.printers import Bed
from finchwort.core.surveys import Shape, Survey, decompose, surface_at

KEPT_SHAPE = 0.02
"""A bed that moved less than this against itself kept its shape, mm (common practice: the range of a good probe)."""


@dataclass(frozen=True, eq=False)
class Movement:
    """Where a bed moved between two surveys.

    Attributes
    ----------
    survey : Survey
        Later minus earlier height at the later places, mm.
    mean : float
        Mean movement, mm; a zero set anew in between counts into it.
    shape : Shape
        Of the movement, see `decompose`.
    up, down : tuple of float
        x, y and movement where it rose and sank most against the mean, mm.
    """

    survey: Survey
    mean: float
    shape: Shape
    up: tuple[float, float, float]
    down: tuple[float, float, float]


def compare_surveys(before: Survey, after: Survey, bed: Bed) -> Movement:
    """Find where a bed moved between two surveys, cold and hot for instance.

    Where the two were not read at the same places, the earlier one is
    interpolated as its map is; places outside its readings are left out.

    Parameters
    ----------
    before, after : Survey
    bed : Bed

    Returns
    -------
    Movement

    Raises
    ------
    TooFewReadingsError
        When fewer than three places can be compared.

    Examples
    --------
    >>> cold = Survey([0, 100, 100, 0, 50], [0, 0, 100, 100, 50], [0, 0, 0, 0, 0])
    >>> hot = cold.with_heights([0, 0, 0, 0, 0.1])
    >>> moved = compare_surveys(cold, hot, Bed(100, 100))
    >>> [[round(value, 2) for value in place] for place in (moved.up, moved.down)]
    [[50.0, 50.0, 0.08], [0.0, 0.0, -0.02]]
    """
    heights, inside = surface_at(before, after.x, after.y)
    if inside.sum() < 3:
        raise TooFewReadingsError("probing.two_surveys_too_few")
    moved = Survey(after.x[inside], after.y[inside], after.height[inside] - heights[inside])
    mean = float(moved.height.mean())
    top, low = int(np.argmax(moved.height)), int(np.argmin(moved.height))

    def place(i: int) -> tuple[float, float, float]:
        return float(moved.x[i]), float(moved.y[i]), float(moved.height[i] - mean)

    return Movement(moved, mean, decompose(moved, bed), place(top), place(low))
