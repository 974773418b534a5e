"""Squares over the lines of a layer: which of them plastic covers."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.gathering import Level

MAX_CELLS = 4_000_000
SMALLEST = 0.02
"""Side of a square at least, mm."""
LEAST = 0.75
"""Lines reach to each side at least so many squares."""
AT_ONCE = 400_000
"""Rows of squares that lines cross, looked at together."""


@dataclass(frozen=True, eq=False)
class Grid:
    """Squares over the lines of a layer.

    Attributes
    ----------
    x, y : float
        Corner of the first square, mm.
    cell : float
        Side of a square, mm.
    shape : tuple of int
        Rows and columns.
    """

    x: float
    y: float
    cell: float
    shape: tuple[int, int]

    def at(self, place: Column) -> tuple[Indices, Indices]:
        """Row and column of places, shape (n, 2), mm; of one beside the grid those of its rim."""
        rows, columns = self.shape
        column = ((place[:, 0] - self.x) / self.cell).astype(np.intp)
        row = ((place[:, 1] - self.y) / self.cell).astype(np.intp)
        return np.clip(row, 0, rows - 1), np.clip(column, 0, columns - 1)


def grid_over(level: Level, usual: float, fine: float) -> Grid:
    """Squares of a share of the usual width (mm) over the lines of a level, with room around them."""
    low = np.minimum(level.start.min(axis=0), level.end.min(axis=0)) - 2 * usual
    high = np.maximum(level.start.max(axis=0), level.end.max(axis=0)) + 2 * usual
    sides = high - low
    cell = max(fine * usual, SMALLEST, math.sqrt(float(sides[0] * sides[1]) / MAX_CELLS))
    shape = (int(sides[1] / cell) + 3, int(sides[0] / cell) + 3)
    return Grid(float(low[0]), float(low[1]), cell, shape)


def along(level: Level, step: float) -> tuple[Indices, Column]:
    """Places along lines, at most so far apart (mm), and whose they are."""
    length = level.length
    many = np.maximum(np.ceil(length / step), 1).astype(np.intp)
    which = np.repeat(np.arange(len(many)), many)
    last = np.cumsum(many)
    share = (np.arange(len(which)) - np.repeat(last - many, many) + 0.5) / many[which]
    return which, level.start[which] + share[:, None] * (level.end - level.start)[which]


def drawn(grid: Grid, start: Column, end: Column, reach: float) -> Column:
    """Squares whose middle lies within reach of a line.

    A line with its rounded ends is one stretch in each row of squares; where stretches begin and end is counted, and
    summed along the rows.

    Parameters
    ----------
    grid : Grid
    start, end : ndarray, shape (n, 2)
        mm
    reach : float
        To each side, mm.

    Returns
    -------
    ndarray of bool, shape of the grid

    Examples
    --------
    >>> line = np.array([[1.0, 1.5]]), np.array([[3.0, 1.5]])
    >>> drawn(Grid(0.0, 0.0, 1.0, (3, 4)), *line, 0.6).astype(int).tolist()
    [[0, 0, 0, 0], [1, 1, 1, 1], [0, 0, 0, 0]]
    """
    rows, columns = grid.shape
    # in squares, counted from the middle of the first
    (x0, y0), (x1, y1) = ((one.T - np.array([[grid.x], [grid.y]])) / grid.cell - 0.5 for one in (start, end))
    # no line slips through between the middles of squares
    reach = max(reach / grid.cell, LEAST)
    rising = y1 >= y0
    # from the lower end to the upper one
    x, y = np.where(rising, x0, x1), np.where(rising, y0, y1)
    across, up = np.where(rising, x1 - x0, x0 - x1), np.abs(y1 - y0)
    length = np.maximum(np.hypot(across, up), 1e-9)
    lift = reach * across / length
    first = np.clip(np.ceil(y - reach), 0, rows).astype(np.int64)
    many = np.clip(np.floor(y + up + reach) + 1, 0, rows).astype(np.int64) - first
    np.maximum(many, 0, out=many)
    change = np.zeros((rows, columns + 1), dtype=np.int32)
    cuts = np.searchsorted(
        np.cumsum(many), np.arange(AT_ONCE, int(many.sum()) + AT_ONCE, AT_ONCE), side="right"
    )
    begin = 0
    for until in np.unique(np.append(cuts, len(many))).tolist():
        if until > begin:
            part = slice(begin, until)
            _stretches(
                change,
                many[part],
                first[part],
                *(one[part] for one in (x, y, across, up, lift)),
                reach=reach,
            )
        begin = until
    return np.cumsum(change[:, :-1], axis=1, dtype=np.int32) > 0


def _stretches(
    change: Column,
    many: Indices,
    first: Indices,
    x: Column,
    y: Column,
    across: Column,
    up: Column,
    lift: Column,
    *,
    reach: float,
) -> None:
    """Count where the stretches of lines begin and end, row by row."""
    which = np.repeat(np.arange(len(many)), many)
    if not which.size:
        return
    last = np.cumsum(many)
    row = np.arange(len(which)) - np.repeat(last - many - first, many)
    above = row - y[which]
    up, across, lift = np.maximum(up, 1e-9)[which], across[which], lift[which]
    columns = change.shape[1] - 1
    for sign in (-1, 1):
        # the edge of the line, parallel to it; beyond its ends that of a disc
        share = np.clip((above + sign * lift) / up, 0.0, 1.0)
        off = above - share * up
        edge = x[which] + share * across + sign * np.sqrt(np.maximum(reach * reach - off * off, 0.0))
        at = np.ceil(edge) if sign < 0 else np.floor(edge) + 1
        at = np.clip(at, 0, columns).astype(np.int64)
        at += row * (columns + 1)
        low = int(at.min())
        counted = np.bincount(at - low)
        change.reshape(-1)[low : low + len(counted)] -= (sign * counted).astype(np.int32)
