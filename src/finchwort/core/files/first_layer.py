"""The first layer of a print, found from its moves: which lines it has, what they are for, and whose they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.commands import Hints
from finchwort.core.files.feet import Foot, find_feet
from finchwort.core.files.gathering import LEVEL, Gathering, Level
from finchwort.core.files.kinds import ROLES, LineRole
from finchwort.core.files.roles import bodies, components, sort_out
from finchwort.core.files.squares import grid_over
from finchwort.core.first_layer import ROUND

COVERED = 0.02
"""A level of which so much has plastic above is a layer, not a purge line alone (ours)."""
FOLLOWS = 0.3
"""So much plastic laid on slopes below the first level, as a share of what lies there, is a file that follows a bed (ours)."""
ABOVE = 0.02
"""Plastic so much higher lies above, mm."""
SQUARE = 0.3
"""Squares in which lines are told apart, as a share of their width."""


@dataclass(frozen=True, eq=False)
class FirstLayer:
    """The lines of a first layer.

    Attributes
    ----------
    height : float
        mm above the bed's zero.
    start, end : ndarray, shape (n, 2)
        mm
    width : ndarray, shape (n,)
        Worked out from the plastic, for a bead with rounded ends as high as the layer, mm.
    area : ndarray, shape (n,)
        Section of the plastic, mm².
    speed : ndarray, shape (n,)
        mm/s
    line : ndarray of int, shape (n,)
        Of the file.
    path : ndarray of int, shape (n,)
        The same for lines laid without a break.
    role : ndarray of int8, shape (n,)
        Places in ``ROLES``.
    part : ndarray of int16, shape (n,)
        Places among the parts; -1 for what belongs to none.
    travel : float or None
        Commonest speed of the ways between its lines, mm/s.
    """

    height: float
    start: Column
    end: Column
    width: Column
    area: Column
    speed: Column
    line: Indices
    path: Indices
    role: Column
    part: Column
    travel: float | None = None

    def __len__(self) -> int:
        """Give how many lines there are."""
        return len(self.line)

    @property
    def length(self) -> Column:
        """Of each line, mm."""
        return np.hypot(self.end[:, 0] - self.start[:, 0], self.end[:, 1] - self.start[:, 1])

    @property
    def of_parts(self) -> Column:
        """Which lines are part of a part: its walls and its fill."""
        return (self.part >= 0) & (
            (self.role == ROLES.index(LineRole.WALL)) | (self.role == ROLES.index(LineRole.FILL))
        )


def find_first_layer(found: Gathering, hints: Hints | None = None) -> tuple[FirstLayer, tuple[Foot, ...]]:
    """Find the first layer and the parts of a print.

    The first layer is the lowest level that has plastic above it.  What the layer above covers is part of a part; what
    hangs together with that is its brim; the rest is a skirt where it is closed, and a purge line otherwise.

    Parameters
    ----------
    found : Gathering
    hints : Hints, optional
        What remarks say: they name, and tell wall from fill where a path does not.

    Returns
    -------
    FirstLayer
    tuple of Foot
        From the largest foot to the smallest; `FirstLayer.part` counts them.

    Raises
    ------
    ChoiceError
        When its first layers rise and fall: then no level is the first.
    """
    hints = hints or Hints()
    if not found.low:
        raise ChoiceError("files.follows_already")
    levels = {key: found.level(key) for key in sorted(found.low)}
    laid = {key: level.chosen(level.area > 0) for key, level in levels.items()}
    key = _first(found, laid)
    first = laid[key]
    if found.sloped_below(first.z) > FOLLOWS * float(first.length.sum()):
        raise ChoiceError("files.follows_already")
    above = _above(found, laid, key)
    height = max(key / LEVEL, 1e-3)
    width = np.clip(first.area / height + height * ROUND, 0.01, 10.0)
    usual = float(_weighted_median(width, first.length))
    grid = grid_over(first, usual, SQUARE)
    component = components(grid, first, usual)
    body, label = bodies(grid, first, above, component, usual)
    roles, owner = sort_out(first, grid, component, body, label, usual, hints)
    feet, order = find_feet(found, first, roles, owner, usual, hints)
    place = np.full(int(owner.max(initial=-1)) + 2, -1, dtype=np.int16)
    place[list(order)] = np.arange(len(order))
    part = np.where(owner >= 0, place[owner], -1).astype(np.int16)
    # a stray is no part
    stray = (part < 0) & (owner >= 0)
    roles[stray] = ROLES.index(LineRole.PURGE)
    layer = FirstLayer(
        height,
        first.start,
        first.end,
        width,
        first.area,
        first.speed,
        first.line,
        first.path,
        roles,
        part,
        _travel(levels[key]),
    )
    return layer, feet


def commonest(values: Column, weights: Column, step: float) -> float:
    """The value that stands for most of the weight: the middle of the fullest bin of that width.

    Examples
    --------
    >>> round(commonest(np.array([20.0, 20.0, 45.0]), np.array([5.0, 5.0, 4.0]), 0.5), 2)
    20.0
    """
    bins = np.rint(values / step).astype(np.int64)
    found, which = np.unique(bins, return_inverse=True)
    most = int(np.argmax(np.bincount(which, weights=weights)))
    chosen = np.abs(bins - found[most]) <= 1
    return float(_weighted_median(values[chosen], weights[chosen]))


def _weighted_median(values: Column, weights: Column) -> float:
    order = np.argsort(values, kind="stable")
    along = np.cumsum(weights[order])
    return float(values[order][min(int(np.searchsorted(along, along[-1] / 2)), len(values) - 1)])


def _travel(level: Level) -> float | None:
    """Commonest speed of the ways among the lines of a level, mm/s."""
    laid = np.flatnonzero(level.area > 0)
    ways = level.chosen(slice(int(laid[0]), None))
    ways = ways.chosen((ways.area == 0) & np.isfinite(ways.speed) & (ways.speed > 0))
    return commonest(ways.speed, ways.length, 1.0) if len(ways.line) else None


def _first(found: Gathering, laid: dict[int, Level]) -> int:
    """The lowest level with plastic above it; without one the level with most plastic."""
    for key, level in laid.items():
        middle = (level.start + level.end) / 2
        covered = found.height_at(middle) > level.z + ABOVE
        length = level.length
        if float(length[covered].sum()) > max(COVERED * float(length.sum()), 2.0):
            return key
    return max(laid, key=lambda key: (float(laid[key].length.sum()), -key))


def _above(found: Gathering, laid: dict[int, Level], key: int) -> Level | None:
    """The layer above, kept whole; a priming line at another height is none."""
    higher = {one: float(level.length.sum()) for one, level in laid.items() if one > key}
    if not higher:
        return None
    enough = 0.3 * max(higher.values())
    return laid[min(one for one, length in higher.items() if length >= enough)]
