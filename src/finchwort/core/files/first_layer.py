"""The first layer of a print, found from its moves: which lines it has, what they are for, and whose they are."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy.spatial import ConvexHull, QhullError, cKDTree

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.commands import Hints
from finchwort.core.files.gathering import BASE, CELL, LEVEL, REACH, Gathering, Level
from finchwort.core.files.kinds import LineRole
from finchwort.core.first_layer import ROUND

ROLES = tuple(LineRole)
COVERED = 0.02
"""A level of which so much has plastic above is a layer, not a purge line alone (ours)."""
FOLLOWS = 0.3
"""So much plastic laid on slopes below the first level, as a share of what lies there, is a file that follows a bed (ours)."""
ABOVE = 0.02
"""Plastic so much higher lies above, mm."""
MAX_CELLS = 4_000_000
NEAR_BODY = 0.65
"""Lines within so many line widths of the layer above belong to the body, not to a brim (ours)."""
CLOSED = 1.2
"""A path whose ends lie within so many line widths is closed (ours)."""
MIN_FOOT = 2.0
"""A foot smaller than this is a stray, mm²."""
BROAD = 2.0
"""Without a layer above, what is broader than so many lines is a part (ours)."""
MAX_PARTS = 200
FINE = 0.14
"""Squares in which a foot is measured, as a share of the line's width."""
NOTCH = 6.0
"""What is left open by lines counts as a hole from so many squares of their width (ours)."""
ROUNDISH = 1.06
"""A foot of which the greatest breadth is no more than so many times the smallest has no sharp corners (ours)."""


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


@dataclass(frozen=True)
class Foot:
    """A part as it stands on the bed.

    Attributes
    ----------
    name : str
    area : float
        Of its foot without brim, mm².
    height : float
        Of the part, mm.
    bounds : tuple
        x_min, y_min, x_max, y_max of its foot without brim, mm.
    brim : float
        Width of its brim, mm; 0 for none.
    line : int
        Where it begins in the file.
    narrow : float
        Narrowest side of the smallest rectangle round its foot, mm.
    round : bool
        Whether its foot has no sharp corners.
    """

    name: str
    area: float
    height: float
    bounds: tuple[float, float, float, float]
    brim: float
    line: int
    narrow: float
    round: bool


@dataclass(frozen=True, eq=False)
class _Grid:
    """Squares over the lines of a layer."""

    x: float
    y: float
    cell: float
    shape: tuple[int, int]

    def at(self, place: Column) -> tuple[Indices, Indices, Column]:
        """Row, column, and whether a place lies on the grid."""
        column = np.floor((place[:, 0] - self.x) / self.cell).astype(np.intp)
        row = np.floor((place[:, 1] - self.y) / self.cell).astype(np.intp)
        inside = (column >= 0) & (row >= 0) & (column < self.shape[1]) & (row < self.shape[0])
        return np.clip(row, 0, self.shape[0] - 1), np.clip(column, 0, self.shape[1] - 1), inside


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
    grid = _grid(first, usual)
    component = _components(grid, first, usual)
    body, label = _bodies(grid, first, above, component, usual)
    roles, owner = _sort_out(first, grid, component, body, label, usual, hints)
    feet, order = _feet(found, first, grid, roles, owner, usual, hints)
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


def _grid(first: Level, usual: float, fine: float = 0.3) -> _Grid:
    ends = np.concatenate([first.start, first.end])
    low, high = ends.min(axis=0) - 2 * usual, ends.max(axis=0) + 2 * usual
    sides = high - low
    cell = max(fine * usual, 0.02, math.sqrt(float(sides[0] * sides[1]) / MAX_CELLS))
    shape = (int(sides[1] / cell) + 3, int(sides[0] / cell) + 3)
    return _Grid(float(low[0]), float(low[1]), cell, shape)


def _along(level: Level, step: float) -> tuple[Indices, Column]:
    """Places along lines, at most so far apart, and whose they are."""
    length = level.length
    many = np.maximum(np.ceil(length / step), 1).astype(np.intp)
    which = np.repeat(np.arange(len(many)), many)
    last = np.cumsum(many)
    share = (np.arange(len(which)) - np.repeat(last - many, many) + 0.5) / many[which]
    return which, level.start[which] + share[:, None] * (level.end - level.start)[which]


def _drawn(grid: _Grid, level: Level, reach: float) -> Column:
    """Squares that lines of so much reach to each side cover; half a square is left off, as each is marked whole."""
    drawn = np.zeros(grid.shape, dtype=bool)
    reach = max(reach - grid.cell / 2, 0.0)
    length = np.maximum(level.length, 1e-9)
    along = (level.end - level.start) / length[:, None]
    # rounded ends are taken as square ones of the same reach, less what the corners add
    ends = 0.8 * reach * along
    longer = Level(
        level.z, level.start - ends, level.end + ends, level.area, level.speed, level.line, level.path
    )
    which, place = _along(longer, grid.cell)
    across = np.column_stack([-along[:, 1], along[:, 0]])[which]
    for off in np.linspace(-reach, reach, 2 * max(1, math.ceil(reach / grid.cell)) + 1):
        row, column, inside = grid.at(place + off * across)
        drawn[row[inside], column[inside]] = True
    return drawn


def _components(grid: _Grid, first: Level, usual: float) -> Column:
    """What hangs together: lines up to one and a half widths apart do."""
    return ndimage.label(_drawn(grid, first, 0.75 * usual), structure=np.ones((3, 3)))[0]


def _bodies(
    grid: _Grid, first: Level, above: Level | None, component: Column, usual: float
) -> tuple[Column, Column]:
    """Squares below the layer above, holes filled, and their number part by part."""
    if above is not None:
        body = ~_outside(_drawn(grid, above, NEAR_BODY * usual))
        label, many = ndimage.label(body, structure=np.ones((3, 3)))
        # only what stands on the first layer
        on = np.bincount(label[component > 0], minlength=many + 1)
        all_of = np.bincount(label.ravel(), minlength=many + 1)
        standing = on > 0.2 * all_of
        standing[0] = False
        if standing.any():
            label[~standing[label]] = 0
            return label > 0, label
    # one layer only: what is broad is a part
    inside = ndimage.distance_transform_edt(component > 0, sampling=grid.cell)
    many = int(component.max())
    thick = np.zeros(many + 1)
    np.maximum.at(thick, component.ravel(), inside.ravel())
    broad = thick > BROAD * usual
    if not broad[1:].any():
        broad[1:] = True
    broad[0] = False
    label = np.where(broad[component], component, 0)
    return label > 0, label


def _outside(body: Column) -> Column:
    """Squares from which the rim can be reached without crossing the body."""
    open_, _ = ndimage.label(~body)
    rim = np.unique(np.concatenate([open_[0], open_[-1], open_[:, 0], open_[:, -1]]))
    return np.isin(open_, rim[rim > 0])


def _sort_out(
    first: Level,
    grid: _Grid,
    component: Column,
    body: Column,
    label: Column,
    usual: float,
    hints: Hints,
) -> tuple[Column, Indices]:
    """LineRole and owner of every line; owners are numbers of bodies, -1 for none."""
    which, place = _along(first, max(2 * grid.cell, usual / 2))
    row, column, _ = grid.at(place)
    many = len(first.line)
    samples = np.bincount(which, minlength=many)
    covered = np.bincount(which, weights=body[row, column], minlength=many) / samples
    length = first.length
    paths, path = np.unique(first.path, return_inverse=True)
    share = _of_path(path, len(paths), covered * length) / np.maximum(
        _of_path(path, len(paths), length), 1e-9
    )
    middle = (first.start + first.end) / 2
    row, column, _ = grid.at(middle)
    nearest = label[row, column]
    beside, within = np.flatnonzero(nearest == 0), np.flatnonzero(nearest > 0)
    if beside.size and within.size:
        _, at = cKDTree(middle[within]).query(middle[beside])
        nearest[beside] = nearest[within[at]]
    own = component[row, column]
    holding = np.zeros(int(component.max()) + 1, dtype=bool)
    holding[np.unique(component[label > 0])] = True
    holding[0] = False
    closed = _closed(first, path, len(paths), usual)
    on_body = share[path] >= 0.5
    with_body = holding[own]
    roles = np.full(many, ROLES.index(LineRole.PURGE), dtype=np.int8)
    # what goes round a body is a skirt, wherever it begins and ends; a purge line lies beside
    round_ = _going_round(own, with_body, first, grid, body)
    roles[round_[own]] = ROLES.index(LineRole.SKIRT)
    roles[with_body] = ROLES.index(LineRole.BRIM)
    roles[on_body] = np.where(closed[path[on_body]], ROLES.index(LineRole.WALL), ROLES.index(LineRole.FILL))
    owner = np.where(on_body | with_body, nearest, -1).astype(np.intp)
    for i, role in enumerate(hints.roles_at(first.line)):
        # remarks name what lies on a body; whether a line holds to one is seen from where it lies
        if on_body[i] and role in (LineRole.WALL, LineRole.FILL, LineRole.SUPPORT, LineRole.BRIM):
            roles[i] = ROLES.index(role)
    return roles, owner


def _going_round(own: Indices, with_body: Column, first: Level, grid: _Grid, body: Column) -> Column:
    """Which of what hangs together, without a body of its own, has a body within its bounds."""
    found = np.zeros(int(own.max(initial=0)) + 1, dtype=bool)
    for number in np.unique(own[~with_body]).tolist():
        mine = own == number
        ends = np.concatenate([first.start[mine], first.end[mine]])
        rows, columns, _ = grid.at(np.array([ends.min(axis=0), ends.max(axis=0)]))
        found[number] = bool(body[rows[0] : rows[1] + 1, columns[0] : columns[1] + 1].any())
    return found


def _of_path(path: Indices, many: int, values: Column) -> Column:
    return np.bincount(path, weights=values, minlength=many)


def _closed(first: Level, path: Indices, many: int, usual: float) -> Column:
    """Which paths end where they began."""
    head = np.full(many, len(path), dtype=np.intp)
    np.minimum.at(head, path, np.arange(len(path)))
    tail = np.zeros(many, dtype=np.intp)
    np.maximum.at(tail, path, np.arange(len(path)))
    apart = np.hypot(*(first.end[tail] - first.start[head]).T)
    return (apart <= CLOSED * usual) & (_of_path(path, many, first.length) > 4 * usual)


def _feet(
    found: Gathering,
    first: Level,
    grid: _Grid,
    roles: Column,
    owner: Indices,
    usual: float,
    hints: Hints,
) -> tuple[tuple[Foot, ...], tuple[int, ...]]:
    """Parts, from the largest foot to the smallest, and the number of their bodies."""
    of_part = (owner > 0) & ((roles == ROLES.index(LineRole.WALL)) | (roles == ROLES.index(LineRole.FILL)))
    numbers = np.unique(owner[of_part])
    feet: list[tuple[Foot, int]] = []
    for number in numbers.tolist():
        mine = of_part & (owner == number)
        part = first.chosen(mine)
        ends = np.concatenate([part.start, part.end])
        half = usual / 2
        bounds = (*(ends.min(axis=0) - half), *(ends.max(axis=0) + half))
        area, narrow, smooth = _foot(part, usual)
        if area < MIN_FOOT:
            continue
        brims = first.chosen((owner == number) & (roles == ROLES.index(LineRole.BRIM)))
        brim = _reach_beyond(bounds, brims, half)
        name = hints.name_at(int(part.line.min()))
        foot = Foot(
            name,
            area,
            0.0,
            (float(bounds[0]), float(bounds[1]), float(bounds[2]), float(bounds[3])),
            brim,
            int(part.line.min()),
            narrow,
            smooth,
        )
        feet.append((foot, number))
    feet.sort(key=lambda one: (-one[0].area, one[0].line))
    feet = feet[:MAX_PARTS]
    heights = _heights(found, first, grid, owner, [number for _, number in feet])
    named: list[Foot] = []
    seen: dict[str, int] = {}
    for i, ((foot, _), height) in enumerate(zip(feet, heights, strict=True), 1):
        name = foot.name or f"part {i}"
        seen[name] = seen.get(name, 0) + 1
        if seen[name] > 1:
            name = f"{name} ({seen[name]})"
        named.append(
            Foot(name, foot.area, height, foot.bounds, foot.brim, foot.line, foot.narrow, foot.round)
        )
    return tuple(named), tuple(number for _, number in feet)


def _reach_beyond(bounds: tuple[float, ...], brims: Level, half: float) -> float:
    """How far a brim reaches beyond the foot, mm."""
    if not len(brims.line):
        return 0.0
    ends = np.concatenate([brims.start, brims.end])
    low, high = ends.min(axis=0) - half, ends.max(axis=0) + half
    return max(
        0.0,
        float(bounds[0] - low[0]),
        float(bounds[1] - low[1]),
        float(high[0] - bounds[2]),
        float(high[1] - bounds[3]),
    )


def _foot(part: Level, usual: float) -> tuple[float, float, bool]:
    """Area of a foot (mm²), its narrowest side (mm), and whether it is without sharp corners.

    What lies between neighbouring lines and is narrower than half a width counts; a hole in the part does not.
    """
    grid = _grid(part, usual, FINE)
    covered = _drawn(grid, part, usual / 2)
    open_, many = ndimage.label(~covered)
    # a notch where lines meet a wall is no hole; a long gap between lines is none either, as no square is far from them
    hole = np.bincount(open_.ravel(), minlength=many + 1) * grid.cell**2 > NOTCH * usual**2
    rim = np.unique(np.concatenate([open_[0], open_[-1], open_[:, 0], open_[:, -1]]))
    hole[0], hole[rim] = False, False
    if hole.any():
        far = np.zeros(many + 1, dtype=bool)
        far[np.unique(open_[~_drawn(grid, part, 0.75 * usual)])] = True
        hole &= far
    hole[rim[rim > 0]] = True
    area = float(np.count_nonzero(covered | ~hole[open_])) * grid.cell**2
    places = np.concatenate([part.start, part.end])
    try:
        places = places[ConvexHull(places).vertices]
    except QhullError:
        # all on one line
        return area, usual, False
    turns = np.linspace(0, math.pi, 90, endpoint=False)
    sides = np.ptp(places @ np.array([np.cos(turns), np.sin(turns)]), axis=0) + usual
    # a disc has the same breadth all round
    return area, float(sides.min()), float(sides.max()) < ROUNDISH * float(sides.min())


def _heights(found: Gathering, first: Level, grid: _Grid, owner: Indices, numbers: list[int]) -> list[float]:
    """How high each part grows: plastic belongs to the part whose foot is nearest."""
    if not numbers:
        return []
    box = [found.plastic[i].value for i in range(4)]
    low = np.clip(((np.array(box[:2]) - REACH[0]) / CELL).astype(np.intp) - 1, 0, None)
    high = np.clip(((np.array(box[2:]) - REACH[0]) / CELL).astype(np.intp) + 2, 0, found.highest.shape[0])
    map_ = found.highest[low[1] : high[1], low[0] : high[0]]
    seeds = np.zeros(map_.shape, dtype=np.int32)
    for i, number in enumerate(numbers, 1):
        _, place = _along(first.chosen(owner == number), CELL / 2)
        column = np.clip(((place[:, 0] - REACH[0]) / CELL).astype(np.intp) - low[0], 0, map_.shape[1] - 1)
        row = np.clip(((place[:, 1] - REACH[0]) / CELL).astype(np.intp) - low[1], 0, map_.shape[0] - 1)
        seeds[row, column] = i
    near = ndimage.distance_transform_edt(seeds == 0, return_distances=False, return_indices=True)
    label = seeds[near[0], near[1]]
    height = np.zeros(len(numbers) + 1)
    np.maximum.at(height, label.ravel(), map_.ravel().astype(np.float64) - BASE)
    return [round(float(value), 3) for value in height[1:]]
