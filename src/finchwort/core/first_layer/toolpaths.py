"""The path of the tip over the bed: strokes of plastic, the ways between them, and what they use up."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array

FILAMENTS = (1.75, 2.85)
"""Usual diameters of filament, mm (common practice)."""
SPIRAL_STEP = 0.6
"""Corners of a spiral lie this far apart, mm."""


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line of plastic laid without a break.

    Attributes
    ----------
    points : ndarray, shape (n, 2)
        Corners, mm.
    z : float
        Height that is commanded, mm.
    area : float
        Section of the plastic, mm².
    """

    points: Array
    z: float
    area: float

    @property
    def length(self) -> float:
        """Mm."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())

    @property
    def volume(self) -> float:
        """mm³."""
        return self.area * self.length


def filament_area(diameter: float) -> float:
    """Section of a filament, mm².

    Parameters
    ----------
    diameter : float
        mm

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> round(filament_area(1.75), 3)
    2.405
    """
    if not (math.isfinite(diameter) and 1 <= diameter <= 4):
        raise OutOfRangeError("first_layer.filament_mm_thick_usually")
    return math.pi * diameter**2 / 4


def fill_square(x: float, y: float, side: float, spacing: float, width: float) -> Array:
    """Fill a square with lines to and fro along X, joined at their ends.

    Parameters
    ----------
    x, y : float
        Its middle, mm.
    side : float
        From the outer edge of the plastic to the other, mm.
    spacing, width : float
        Of the lines, mm.

    Returns
    -------
    ndarray, shape (n, 2)

    Raises
    ------
    OutOfRangeError
        When not even two lines fit.

    Examples
    --------
    >>> path = fill_square(50, 50, 20, 0.377, 0.42)
    >>> path.shape, [round(float(v), 2) for v in path[0]]
    ((104, 2), [40.21, 40.39])
    """
    _check(x, y, side, spacing, width)
    rows = int((side - width) / spacing + 1e-9) + 1
    if rows < 2:
        raise OutOfRangeError("first_layer.patch_needs_room_two")
    half = (side - width) / 2
    ys = y + spacing * (np.arange(rows) - (rows - 1) / 2)
    ends = np.where(np.arange(rows) % 2 == 0, -half, half)
    points = np.empty((2 * rows, 2))
    points[0::2] = np.column_stack([x + ends, ys])
    points[1::2] = np.column_stack([x - ends, ys])
    return points


def fill_disc(x: float, y: float, diameter: float, spacing: float, width: float) -> Array:
    """Fill a disc with a spiral from the outside in.

    Parameters
    ----------
    x, y : float
        Its middle, mm.
    diameter : float
        From the outer edge of the plastic to the other, mm.
    spacing, width : float
        Of the lines, mm.

    Returns
    -------
    ndarray, shape (n, 2)

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> path = fill_disc(0, 0, 14, 0.377, 0.42)
    >>> round(float(abs(path).max()), 2)
    6.79
    """
    _check(x, y, diameter, spacing, width)
    outer = (diameter - width) / 2
    if outer < 2 * spacing:
        raise OutOfRangeError("first_layer.disc_needs_room_two")
    # one full round at the rim, then inwards by one spacing a turn
    turns = (outer - spacing / 2) / spacing
    length = math.pi * outer * turns + 2 * math.pi * outer
    angle = np.linspace(0, 2 * math.pi * (turns + 1), max(60, int(length / SPIRAL_STEP)))
    radius = outer - spacing * np.clip(angle / (2 * math.pi) - 1, 0, None)
    return np.column_stack([x + radius * np.cos(angle), y + radius * np.sin(angle)])


def _check(*values: float) -> None:
    if not all(math.isfinite(value) for value in values):
        raise NonFiniteError("first_layer.length_not_number")
    if min(values[2:]) <= 0:
        raise OutOfRangeError("first_layer.length_more_nothing")
