"""Tape between a plate, or a sheet of glass, and what carries it: where it goes, how much, and where it does not help."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy.spatial import cKDTree

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array, Mask
from finchwort.core.printers import Bed, place_in_words
from finchwort.core.surveys import MAD, BedFit, Plane, Survey, expected_from_neighbours, fit_bed, make_relief

TAPE = 0.06
"""One layer of thin masking tape, mm (common practice: 0.05 to 0.15; measure yours)."""
MAX_LAYERS = 6
"""More layers than this creep: a sheet of foil or card does better (ours)."""
TRUSTED = 4.5
"""A dip counts from so many standard deviations of a reading on (ours)."""
TOP = 0.9
"""The plate's upper part is where this share of map and readings lies below, those on a hump left aside."""
LOCAL = 0.2
"""What stands out over less than this share of the plate is a hump of its own (ours)."""
ENOUGH = 16
"""From so many readings on neighbours say how much one of them scatters."""
RIM = 2
"""So many of the map's squares are its rim."""
SEEN = 0.4
"""The nearest reading must show this share of a dip's depth (ours)."""
SKIRT = 6
"""A hump's foot reaches so many of the map's squares further."""
PEAK = 7
"""A place is the lowest of so many of the map's squares around it."""
STRIP, BROAD = 40.0, 15.0
"""A strip at an edge is about so long and so broad, mm (ours)."""
REWEIGHTED, THIN = 30, 0.005
"""Rounds of reweighting, and deviations below which a reading simply lies on the plane, mm."""
UNDER = ("plate", "glass")


@dataclass(frozen=True)
class Piece:
    """One piece of tape.

    Attributes
    ----------
    x, y : float
        Its middle, mm.
    width, depth : float
        Along X and Y, mm.
    oval : bool
        Its corners are cut round: there the plate is not low.
    """

    x: float
    y: float
    width: float
    depth: float
    oval: bool


@dataclass(frozen=True)
class Tape:
    """Tape at one place.

    Attributes
    ----------
    x, y : float
        Middle of the largest piece, mm.
    depth : float
        How far below its upper part, mm.
    layers : int
    pieces : tuple of Piece
        One a layer, the largest first.
    where : str
        In words.
    at_edge : bool
        A strip along the edge, where the middle stands high.
    """

    x: float
    y: float
    depth: float
    layers: int
    pieces: tuple[Piece, ...]
    where: str
    at_edge: bool = False


@dataclass(frozen=True)
class Hump:
    """A place that stands out; tape below it would make it worse.

    Attributes
    ----------
    x, y : float
        mm
    height : float
        Above what lies around, mm.
    where : str
        In words.
    """

    x: float
    y: float
    height: float
    where: str


@dataclass(frozen=True)
class TapePlan:
    """What tape can do for a plate.

    Attributes
    ----------
    kind : {"none", "dips", "dome"}
        Low places taped from below; or the edges, where the middle stands high.
    places : tuple of Tape
    humps : tuple of Hump
    tilt : float
        Of the readings, which tape leaves as it is, mm.
    thickness : float
        Of one layer, mm.
    under : {"plate", "glass"}
    """

    kind: str
    places: tuple[Tape, ...]
    humps: tuple[Hump, ...]
    tilt: float
    thickness: float
    under: str


def plan_tape(
    survey: Survey,
    thickness: float = TAPE,
    *,
    bed: Bed | None = None,
    fit: BedFit | None = None,
    under: str = "plate",
    most: int = 4,
) -> TapePlan:
    """Say where tape goes between a plate and its carrier, by the map of the bed.

    The tilt is left out: knobs, foil or the beam take it. A dip no deeper than the readings' own uncertainty gets none.

    Parameters
    ----------
    survey : Survey
        The readings that count.
    thickness : float
        One layer, mm.
    bed : Bed, optional
        Around the readings when not given.
    fit : BedFit, optional
        Of the same readings.
    under : {"plate", "glass"}
    most : int
        Places at most, the deepest first.

    Returns
    -------
    TapePlan

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> x, y = (a.ravel() for a in np.meshgrid([0.0, 50, 100], [0.0, 50, 100]))
    >>> plan = plan_tape(Survey(x, y, [0, 0, 0, 0, -0.13, 0, 0, 0, 0]))
    >>> plan.kind, [(round(t.x), round(t.y), t.layers) for t in plan.places]
    ('dips', [(50, 50, 2)])
    """
    if not (math.isfinite(thickness) and 0.02 <= thickness <= 0.5):
        raise OutOfRangeError("levelling.tape_mm_thick")
    fit = fit or fit_bed(survey, bed, settle=False)
    bed = bed or fit.bed
    plane = _plane_of_most(survey)
    relief = make_relief(survey, bed, plane)
    x, y = np.meshgrid(relief.xs, relief.ys)
    inside = _within(survey, x, y)
    height = relief.heights - plane.at(x.ravel(), y.ravel()).reshape(x.shape)
    least = max(thickness / 2, TRUSTED * _noise(survey, fit))

    humps, standing_out = _humps(height, inside, least, x, y, bed)
    level = inside & ~standing_out
    if not level.any():
        level = inside
    rest = survey.height - plane.at(survey.x, survey.y)
    columns = np.abs(survey.x[:, None] - relief.xs).argmin(axis=1)
    rows = np.abs(survey.y[:, None] - relief.ys).argmin(axis=1)
    flat = rest[~standing_out[rows, columns]]
    # the lower of the two: between readings the map only guesses how wide a hump is
    top = min(float(np.quantile(flat if flat.size else rest, TOP)), float(np.quantile(height[level], TOP)))
    near = cKDTree(np.column_stack([survey.x, survey.y])).query(np.column_stack([x.ravel(), y.ravel()]))[1]
    seen = (top - rest)[near].reshape(x.shape)
    low = np.where(level, top - height, -np.inf)
    # where the nearest reading lies much less low, the map overshot
    sure = seen >= SEEN * low
    taped = low >= thickness / 2
    dome = _ring(taped, inside, bed, x, y)
    if dome:
        places = _at_edges(np.where(sure, low, -np.inf), x, y, thickness, least, most, bed, survey)
    else:
        places = _in_dips(low, taped, sure, inside, x, y, thickness, least, most, bed)
    tilt = float(np.ptp(plane.at(survey.x, survey.y)))
    kind = "none" if not places else "dome" if dome else "dips"
    return TapePlan(kind, tuple(places), tuple(humps), tilt, thickness, under)


def _plane_of_most(survey: Survey) -> Plane:
    """The plane on which most of the plate lies: least absolute deviations, so that a low corner does not tip it."""
    rows = np.column_stack([survey.x, survey.y, np.ones(len(survey))])
    weights = np.ones(len(survey))
    for _ in range(REWEIGHTED):
        root = np.sqrt(weights)
        result = np.linalg.lstsq(rows * root[:, None], survey.height * root, rcond=None)[0]
        weights = 1 / np.maximum(np.abs(survey.height - rows @ result), THIN)
    return Plane(*map(float, result))


def _noise(survey: Survey, fit: BedFit) -> float:
    """What one reading is trusted to, mm: a smooth surface takes a dip for noise, neighbours do not."""
    if fit.noise_known or len(survey) < ENOUGH:
        return fit.noise
    off = survey.height - expected_from_neighbours(survey)[0]
    return min(fit.noise, MAD * float(np.median(np.abs(off - np.median(off)))))


def _within(survey: Survey, x: Array, y: Array) -> Mask:
    """The part of the map between the readings: beyond them nothing was measured."""
    return (
        (x >= survey.x.min() - 1e-9)
        & (x <= survey.x.max() + 1e-9)
        & (y >= survey.y.min() - 1e-9)
        & (y <= survey.y.max() + 1e-9)
    )


def _humps(
    height: Array, inside: Mask, least: float, x: Array, y: Array, bed: Bed
) -> tuple[list[Hump], Mask]:
    """Find small places that stand out of what lies around them."""
    usual = float(np.median(height[inside]))
    parts, count = ndimage.label(inside & (height > usual + least))
    result, mask = [], np.zeros_like(inside)
    core = ndimage.binary_erosion(inside, iterations=RIM)
    for part in range(1, count + 1):
        here = parts == part
        if here.sum() > LOCAL * inside.sum():
            continue
        around = ndimage.binary_dilation(here, iterations=4) & inside & ~here
        if not around.any():
            continue
        stands = float(height[here].max() - np.median(height[around]))
        i = int(np.argmax(np.where(here, height, -np.inf)))
        if stands < 2 * least or not core.ravel()[i]:
            continue  # the shoulder of something larger, or a corner that is bent up
        px, py = float(x.ravel()[i]), float(y.ravel()[i])
        result.append(Hump(px, py, stands, place_in_words(bed, px, py)))
        mask |= ndimage.binary_dilation(here, iterations=SKIRT)
    return result, mask


def _ring(taped: Mask, inside: Mask, bed: Bed, x: Array, y: Array) -> bool:
    """Whether the low part runs around a middle that stands high."""
    if not taped.any():
        return False
    cx, cy = float(x[inside].mean()), float(y[inside].mean())
    middle = int(np.argmin(np.hypot(x - cx, y - cy)))
    if taped.ravel()[middle]:
        return False
    rows, columns = np.where(inside)
    sides = (
        taped[rows.min(), columns.min() : columns.max() + 1],
        taped[rows.max(), columns.min() : columns.max() + 1],
        taped[rows.min() : rows.max() + 1, columns.min()],
        taped[rows.min() : rows.max() + 1, columns.max()],
    )
    return sum(bool(side.mean() > 0.3) for side in sides) >= 3


def _layers(depth: float, thickness: float) -> int:
    return min(round(depth / thickness), MAX_LAYERS)


def _in_dips(
    low: Array,
    taped: Mask,
    sure: Mask,
    inside: Mask,
    x: Array,
    y: Array,
    thickness: float,
    least: float,
    most: int,
    bed: Bed,
) -> list[Tape]:
    rows, columns = np.where(inside)
    rim = (int(columns.min()), int(columns.max()) + 1, int(rows.min()), int(rows.max()) + 1)
    deepest = sure & (low == ndimage.maximum_filter(low, size=PEAK))
    apart = max(float(np.ptp(x[taped])), float(np.ptp(y[taped]))) / 3 if taped.any() else 0.0
    tapes: list[Tape] = []
    lowest: list[tuple[float, float]] = []
    boxes: list[Mask] = []
    for i in np.argsort(np.where(deepest & taped, -low, np.inf).ravel(), kind="stable"):
        row, column = np.unravel_index(int(i), low.shape)
        depth, px, py = float(low[row, column]), float(x[row, column]), float(y[row, column])
        layers = _layers(depth, thickness) if math.isfinite(depth) else 0
        if layers < 1 or depth < least or not deepest[row, column] or len(tapes) == most:
            break
        if any(math.hypot(px - a, py - b) < apart for a, b in lowest) or any(
            box[row, column] for box in boxes
        ):
            continue
        pieces = []
        for layer in range(layers):
            covered = low >= (layer + 0.5) * thickness
            left, right = _run(covered[row], int(column))
            front, back = _run(covered[:, column], int(row))
            pieces.append(_piece(left, right, front, back, rim, x, y, bed))
            if layer == 0:
                box = np.zeros_like(taped)
                box[front:back, left:right] = True
                boxes.append(box)
        lowest.append((px, py))
        where = place_in_words(bed, px, py)
        tapes.append(Tape(pieces[0].x, pieces[0].y, depth, len(pieces), tuple(pieces), where))
    return tapes


def _at_edges(
    low: Array,
    x: Array,
    y: Array,
    thickness: float,
    least: float,
    most: int,
    bed: Bed,
    survey: Survey,
) -> list[Tape]:
    """Strips at the lowest places along the edges, well apart, so that the plate lies on all of them."""
    span = max(float(np.ptp(survey.x)), float(np.ptp(survey.y)))
    tapes: list[Tape] = []
    for i in np.argsort(-low.ravel(), kind="stable"):
        depth = float(low.ravel()[i])
        layers = _layers(depth, thickness) if math.isfinite(depth) else 0
        if layers < 1 or depth < least or len(tapes) == most:
            break
        px, py = float(x.ravel()[i]), float(y.ravel()[i])
        if any(math.hypot(px - tape.x, py - tape.y) < span / 3 for tape in tapes):
            continue
        where = place_in_words(bed, px, py)
        strip = _strip(px, py, bed)
        tapes.append(Tape(strip.x, strip.y, depth, layers, (strip,) * layers, where, at_edge=True))
    return tapes


def _piece(
    left: int, right: int, front: int, back: int, rim: tuple[int, int, int, int], x: Array, y: Array, bed: Bed
) -> Piece:
    """A piece over a run of squares; where it reaches the outermost readings it goes on to the plate's edge."""
    x0, y0, x1, y1 = _plate(bed)
    half = float(x[0, 1] - x[0, 0]) / 2, float(y[1, 0] - y[0, 0]) / 2
    sides = [
        x0 if left <= rim[0] else float(x[0, left]) - half[0],
        x1 if right >= rim[1] else float(x[0, right - 1]) + half[0],
        y0 if front <= rim[2] else float(y[front, 0]) - half[1],
        y1 if back >= rim[3] else float(y[back - 1, 0]) + half[1],
    ]
    open_end = left <= rim[0] or right >= rim[1] or front <= rim[2] or back >= rim[3]
    return Piece(
        (sides[0] + sides[1]) / 2,
        (sides[2] + sides[3]) / 2,
        _fives(sides[1] - sides[0]),
        _fives(sides[3] - sides[2]),
        not open_end,
    )


def _plate(bed: Bed) -> tuple[float, float, float, float]:
    """The plate, or the box round the readings where no bed is known, mm."""
    return getattr(bed, "plate", None) or (bed.x_min, bed.y_min, bed.x_max, bed.y_max)


def _strip(px: float, py: float, bed: Bed) -> Piece:
    """A strip along the nearest edge of the plate."""
    x0, y0, x1, y1 = _plate(bed)
    away = {"left": px - x0, "right": x1 - px, "front": py - y0, "back": y1 - py}
    nearest = min(away, key=lambda side: away[side])
    half = BROAD / 2
    if nearest in ("left", "right"):
        return Piece(x0 + half if nearest == "left" else x1 - half, py, BROAD, STRIP, False)
    return Piece(px, y0 + half if nearest == "front" else y1 - half, STRIP, BROAD, False)


def _run(covered: Mask, at: int) -> tuple[int, int]:
    """First and one past the last of the covered neighbours in a row, around a place."""
    edges = np.flatnonzero(~covered)
    after = edges[edges > at]
    before = edges[edges < at]
    return (int(before[-1]) + 1 if before.size else 0), int(after[0] if after.size else covered.size)


def _fives(size: float) -> float:
    return max(10.0, round(size / 5) * 5.0)
