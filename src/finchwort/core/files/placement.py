"""Where on a bed a print, or one part of it, would hold best: every place at once, by correlation."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import fft

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Array, Column, Indices
from finchwort.core.files.feet import Foot
from finchwort.core.files.first_layer import FirstLayer
from finchwort.core.files.forecast import Pieces, bead_of, cut_in_pieces, heights_at
from finchwort.core.files.kinds import ROLES, LineRole
from finchwort.core.first_layer import BANDS, SAFE
from finchwort.core.printers import Bed
from finchwort.core.surveys import Relief

CELL = 1.0
"""Lines and bed are laid out in squares of this side, mm."""
STEP = 5.0
"""Places are shown so far apart, mm."""
FINE = 3
"""A square of the bed is looked at in so many places along each side."""
CLASSES = 8
"""Lines of so many widths at most are told apart."""
APART = 3.0
"""A part that is moved alone keeps so far from the others, mm (ours)."""
CLIP_ROOM = 2.0
"""Plastic keeps so far from what stands in the way, mm (ours)."""
AS_GOOD = 0.01
"""Places whose shares differ by less are equally good; the nearest is taken (ours)."""
TURNING = 0.03
"""A turn has to make so much more of it good (ours)."""
WORTH = 0.02
"""A move that makes no more of the print good than this is not worth it (ours)."""
QUARTERS = (0, 90, 180, 270)
ANGLES = tuple(range(0, 360, 15))
"""Degrees to the left that are tried: a turn of anything but round parts shows on their walls."""


@dataclass(frozen=True, eq=False)
class Places:
    """How good a print is at each place, for one turn.

    Attributes
    ----------
    angle : int
        Degrees to the left about its middle.
    dx, dy : ndarray
        Shifts along X and Y, mm, rising.
    share : ndarray, shape (len(dy), len(dx))
        Share of its length that will be good; not a number where it may not be, or where the tip would touch.
    """

    angle: int
    dx: Array
    dy: Array
    share: Array


@dataclass(frozen=True)
class Place:
    """One place for a print.

    Attributes
    ----------
    dx, dy : float
        mm
    angle : int
        Degrees to the left.
    share : float
        Share of the length that will be good.
    """

    dx: float
    dy: float
    angle: int
    share: float

    @property
    def far(self) -> float:
        """How far it is moved, mm."""
        return math.hypot(self.dx, self.dy)


@dataclass(frozen=True, eq=False)
class Placement:
    """Where a print would hold.

    Attributes
    ----------
    now : Place
        As the file has it.
    allowed : bool
        Whether it may be there: within the printable area, off what stands in the way, the tip clear.
    best : Place or None
        None when there is no place for it at all.
    places : tuple of Places
        One for each quarter turn, and for the best angle.
    middle : tuple of float
        Of the print as the file has it, mm.
    size : tuple of float
        Its width and depth, mm.
    """

    now: Place
    allowed: bool
    best: Place | None
    places: tuple[Places, ...]
    middle: tuple[float, float]
    size: tuple[float, float]

    @property
    def worth(self) -> bool:
        """Whether moving it is worth it."""
        return self.best is not None and (not self.allowed or self.best.share > self.now.share + WORTH)


def place_print(
    layer: FirstLayer,
    relief: Relief,
    bed: Bed,
    zero: float = 0.0,
    *,
    part: int | None = None,
    angles: tuple[int, ...] = QUARTERS,
) -> Placement:
    """Find where on a bed a print, or one of its parts, would hold best.

    For each place the length that will be good is the sum, over all squares, of the plastic in a square times how much of
    the bed's square below it is good: a correlation, which a Fourier transform gives for all places at once.

    Parameters
    ----------
    layer : FirstLayer
        The purge line stays where it is; a skirt goes along.
    relief : Relief
        Heights that the nozzle meets, mm.
    bed : Bed
    zero : float
        Gap at Z = 0 over a place of height 0, mm.
    part : int, optional
        That part alone; the others stay.
    angles : tuple of int
        Degrees to the left that are tried, see `angles_for`.

    Returns
    -------
    Placement

    Raises
    ------
    ChoiceError
        When there is no such part.
    OutOfRangeError
        When the print is larger than the printable area.
    """
    role = layer.role
    moving = role != ROLES.index(LineRole.PURGE)
    if part is not None:
        moving = layer.part == part
        if not moving.any():
            raise ChoiceError("files.no_such_part")
    if not moving.any():
        moving = np.ones(len(layer), dtype=bool)
    pieces = cut_in_pieces(_chosen(layer, moving), CELL)
    half = float(pieces.widths.max()) / 2
    low, high = _bounds(pieces, np.zeros(2), 0, half)
    middle, size = (low + high) / 2, high - low
    ground = _Ground(relief, bed, pieces, zero, _others(layer, moving) if part is not None else None)
    counted = pieces.layer.role[pieces.of] != ROLES.index(LineRole.SKIRT)
    if not counted.any():
        counted[:] = True
    places = tuple(
        one
        for angle in angles
        if (one := _for_angle(ground, pieces, counted, angle, middle, half)) is not None
    )
    now = Place(0.0, 0.0, 0, _exact(ground, pieces, counted, middle, 0.0, 0.0, 0))
    if not places:
        raise OutOfRangeError("files.larger_than_bed", width=float(size[0]), depth=float(size[1]))
    here = places[0] if places[0].angle == 0 else None
    allowed = here is not None and bool(np.isfinite(_share_at(here, 0.0, 0.0)))
    best = _best(ground, pieces, counted, middle, places)
    shown = tuple(
        _thinned(one) for one in places if one.angle in QUARTERS or (best and one.angle == best.angle)
    )
    return Placement(
        now,
        allowed,
        best,
        shown,
        (float(middle[0]), float(middle[1])),
        (float(size[0]), float(size[1])),
    )


def angles_for(parts: Sequence[Foot], part: int | None = None) -> tuple[int, ...]:
    """Angles that are tried for a print, or one part of it: quarter turns, and many where all that is turned is round.

    Examples
    --------
    >>> len(angles_for([])), angles_for([])
    (4, (0, 90, 180, 270))
    """
    turned = parts if part is None else parts[part : part + 1]
    return ANGLES if turned and all(one.round for one in turned) else QUARTERS


def moved(place: Array, middle: Array, dx: float, dy: float, angle: float) -> Array:
    """Places, shape (n, 2), after a turn to the left (degrees) about a middle and a shift, mm.

    Examples
    --------
    >>> moved(np.array([[2.0, 0.0]]), np.array([1.0, 0.0]), 10.0, 0.0, 90).tolist()
    [[11.0, 1.0]]
    """
    x, y = place[:, 0] - middle[0], place[:, 1] - middle[1]
    for _ in range(int(angle // 90) % 4):
        x, y = -y, x
    if rest := math.radians(angle % 90):
        x, y = math.cos(rest) * x - math.sin(rest) * y, math.sin(rest) * x + math.cos(rest) * y
    # kept axis by axis, as it is read again
    result = np.empty((2, len(place)))
    np.add(x, middle[0] + dx, out=result[0])
    np.add(y, middle[1] + dy, out=result[1])
    return result.T


def _chosen(layer: FirstLayer, which: Column) -> FirstLayer:
    return FirstLayer(
        layer.height,
        layer.start[which],
        layer.end[which],
        layer.width[which],
        layer.area[which],
        layer.speed[which],
        layer.line[which],
        layer.path[which],
        layer.role[which],
        layer.part[which],
        layer.travel,
    )


def _others(layer: FirstLayer, moving: Column) -> Array | None:
    """Places that the lines of other parts pass, shape (n, 2), mm."""
    rest = ~moving & (layer.part >= 0)
    if not rest.any():
        return None
    return cut_in_pieces(_chosen(layer, rest), CELL).middle


def _kinds(pieces: Pieces) -> tuple[Indices, Array]:
    """Kind of each bead, and the width that stands for each kind: that of most of its length."""
    widths = pieces.widths
    step = 0.01
    while len(np.unique(kinds := np.rint(widths / step).astype(np.intp))) > CLASSES:
        step *= 1.5
    found, kind_of = np.unique(kinds, return_inverse=True)
    length = np.bincount(pieces.bead, weights=pieces.length, minlength=len(widths))
    most = [np.flatnonzero(kind_of == i)[np.argmax(length[kind_of == i])] for i in range(len(found))]
    return kind_of, widths[most]


class _Ground:
    """A bed in squares: how good each is for each bead, and where plastic may not be."""

    def __init__(self, relief: Relief, bed: Bed, pieces: Pieces, zero: float, others: Array | None) -> None:
        self.relief, self.bed, self.zero = relief, bed, zero
        self.shape = (max(1, round(bed.depth / CELL)), max(1, round(bed.width / CELL)))
        rows, columns = self.shape
        inner = (np.arange(FINE) + 0.5) / FINE
        y = bed.y_min + (np.arange(rows)[:, None] + inner).ravel() * CELL
        x = bed.x_min + (np.arange(columns)[:, None] + inner).ravel() * CELL
        grid_x, grid_y = np.meshgrid(x, y)
        height = heights_at(relief, np.column_stack([grid_x.ravel(), grid_y.ravel()]))
        self.gap = (pieces.height + zero - height).reshape(rows, FINE, columns, FINE)
        self.kind_of, widths = _kinds(pieces)
        good = BANDS.index("good")
        self.good = []
        for width in widths:
            limits = bead_of(float(width), pieces.height).limits()
            inside = (self.gap > limits[good - 1]) & (self.gap <= limits[good])
            self.good.append(inside.mean(axis=(1, 3)).astype(np.float32))
        self.barred: Column = np.logical_or.reduce(self.gap <= SAFE, axis=(1, 3))
        for place in bed.keep_off:
            self._bar(*place.grown(CLIP_ROOM))
        if others is not None:
            self._bar_around(others)
        # beyond the area nothing is looked at, so the transforms need no margin
        self.size = tuple(fft.next_fast_len(side, real=True) for side in self.shape)
        self.waves = [fft.rfft2(one, s=self.size) for one in self.good]
        self.barred_waves = fft.rfft2(self.barred.astype(np.float32), s=self.size)

    def _bar(self, x0: float, y0: float, x1: float, y1: float) -> None:
        rows, columns = self.shape
        left = int(np.clip(math.floor((x0 - self.bed.x_min) / CELL), 0, columns))
        right = int(np.clip(math.ceil((x1 - self.bed.x_min) / CELL), 0, columns))
        front = int(np.clip(math.floor((y0 - self.bed.y_min) / CELL), 0, rows))
        back = int(np.clip(math.ceil((y1 - self.bed.y_min) / CELL), 0, rows))
        self.barred[front:back, left:right] = True

    def _bar_around(self, others: Array) -> None:
        rows, columns = self.shape
        column = np.floor((others[:, 0] - self.bed.x_min) / CELL).astype(np.intp)
        row = np.floor((others[:, 1] - self.bed.y_min) / CELL).astype(np.intp)
        reach = math.ceil(APART / CELL)
        for down in range(-reach, reach + 1):
            for along in range(-reach, reach + 1):
                if math.hypot(down, along) * CELL > APART + CELL / 2:
                    continue
                r, c = row + down, column + along
                inside = (r >= 0) & (c >= 0) & (r < rows) & (c < columns)
                self.barred[r[inside], c[inside]] = True


def _for_angle(
    ground: _Ground, pieces: Pieces, counted: Column, angle: int, middle: Array, half: float
) -> Places | None:
    """Shares of all places a square apart, for one turn; None where the print is larger than the area."""
    bed, (rows, columns) = ground.bed, ground.shape
    low, high = _bounds(pieces, middle, angle, half)
    # corner of the print's own squares, in line with those of the bed
    origin = np.floor((low - (bed.x_min, bed.y_min)) / CELL) * CELL + (bed.x_min, bed.y_min)
    wide = math.ceil((high[0] - origin[0]) / CELL - 1e-9)
    deep = math.ceil((high[1] - origin[1]) / CELL - 1e-9)
    if wide > columns or deep > rows:
        return None
    length = np.where(counted, pieces.length, 0.0)
    laid, occupied = _laid_out(
        moved(pieces.middle, middle, 0.0, 0.0, angle) - origin,
        length,
        ground.kind_of[pieces.bead],
        wide,
        deep,
    )
    waves = np.zeros_like(ground.barred_waves)
    for wave, one in zip(ground.waves, laid, strict=False):
        if one.any():
            waves += wave * np.conj(fft.rfft2(one, s=ground.size))
    share = fft.irfft2(waves, s=ground.size)[: rows - deep + 1, : columns - wide + 1] / length.sum()
    meets = ground.barred_waves * np.conj(fft.rfft2(occupied, s=ground.size))
    barred = fft.irfft2(meets, s=ground.size)[: rows - deep + 1, : columns - wide + 1]
    share = np.where(barred < 0.5, np.clip(share, 0.0, 1.0), np.nan)
    return Places(
        angle,
        bed.x_min + np.arange(columns - wide + 1) * CELL - origin[0],
        bed.y_min + np.arange(rows - deep + 1) * CELL - origin[1],
        share,
    )


def _bounds(pieces: Pieces, middle: Array, angle: int, half: float) -> tuple[Array, Array]:
    """Corners of the box around turned pieces and half a width, mm."""
    ends = [moved(one, middle, 0.0, 0.0, angle).T for one in (pieces.start, pieces.end)]
    low = np.array([min(a.min(), b.min()) for a, b in zip(*ends, strict=True)])
    high = np.array([max(a.max(), b.max()) for a, b in zip(*ends, strict=True)])
    return low - half, high + half


def _laid_out(place: Array, length: Array, kind: Indices, wide: int, deep: int) -> tuple[Column, Column]:
    """Length of each kind in every square, shape (kinds, deep, wide), mm, and which squares are met at all.

    A piece lies between the middles of four squares, and is shared out among them.
    """
    x, y = place[:, 0] / CELL - 0.5, place[:, 1] / CELL - 0.5
    column, row = np.floor(x).astype(np.intp), np.floor(y).astype(np.intp)
    right = x - column
    above = length * (y - row)
    below = length - above
    columns = np.clip(column, 0, wide - 1), np.clip(column + 1, 0, wide - 1)
    many = int(kind.max()) + 1
    first = kind * (wide * deep)
    laid: Array = np.zeros(many * wide * deep)
    for down, weight in ((0, below), (1, above)):
        line = np.clip(row + down, 0, deep - 1) * wide
        to_right = weight * right
        for along, part in ((0, weight - to_right), (1, to_right)):
            at = line + columns[along]
            laid += np.bincount(first + at, weights=part, minlength=len(laid))
    by_kind: Array = laid.reshape(many, deep, wide)
    met: Column = np.logical_or.reduce(by_kind > 0, axis=0)
    beside = length == 0
    for down in (0, 1):
        for column in columns:
            met[np.clip(row[beside] + down, 0, deep - 1), column[beside]] = True
    return by_kind.astype(np.float32), met.astype(np.float32)


def _exact(
    ground: _Ground, pieces: Pieces, counted: Column, middle: Array, dx: float, dy: float, angle: int
) -> float:
    """Share that is good at one place, each piece by its own bead."""
    place = moved(pieces.middle[counted], middle, dx, dy, angle)
    gap = pieces.height + ground.zero - heights_at(ground.relief, place)
    good = BANDS.index("good")
    limits = pieces.limits[pieces.bead[counted]]
    inside = (gap > limits[:, good - 1]) & (gap <= limits[:, good])
    length = pieces.length[counted]
    return float(length[inside].sum() / length.sum())


def _share_at(one: Places, dx: float, dy: float) -> float:
    column, row = int(np.argmin(np.abs(one.dx - dx))), int(np.argmin(np.abs(one.dy - dy)))
    if abs(one.dx[column] - dx) > CELL / 2 or abs(one.dy[row] - dy) > CELL / 2:
        return math.nan
    return float(one.share[row, column])


def _best(
    ground: _Ground, pieces: Pieces, counted: Column, middle: Array, places: tuple[Places, ...]
) -> Place | None:
    """Of the places that are equally good the nearest in whole steps."""
    free = [one for one in places if np.isfinite(one.share).any()]
    if not free:
        return None
    # turning a print in the slicer is more than moving it
    chosen = max(free, key=lambda one: float(np.nanmax(one.share)) - TURNING * (one.angle != 0))
    row, column = np.nonzero(chosen.share >= float(np.nanmax(chosen.share)) - AS_GOOD)
    dx, dy = chosen.dx[column], chosen.dy[row]
    # whole steps are easier to type
    odd = (np.abs(np.remainder(dx + STEP / 2, STEP) - STEP / 2) > 1e-6) | (
        np.abs(np.remainder(dy + STEP / 2, STEP) - STEP / 2) > 1e-6
    )
    at = int(np.lexsort((np.hypot(dx, dy), odd))[0])
    dx_, dy_ = float(dx[at]), float(dy[at])
    return Place(dx_, dy_, chosen.angle, _exact(ground, pieces, counted, middle, dx_, dy_, chosen.angle))


def _thinned(one: Places) -> Places:
    """Places so far apart as they are shown, nought among them."""
    columns = np.flatnonzero(np.abs(np.round(one.dx / STEP) * STEP - one.dx) < CELL / 2)
    rows = np.flatnonzero(np.abs(np.round(one.dy / STEP) * STEP - one.dy) < CELL / 2)
    return Places(one.angle, one.dx[columns], one.dy[rows], one.share[np.ix_(rows, columns)])
