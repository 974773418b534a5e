"""Places and ways on a bed that are free of clips and whatever else stands on it."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from itertools import pairwise

from finchwort.core.printers.bed import Bed, blocked_by
from finchwort.core.printers.keep_off import ROUNDED, TIP_ROOM, KeepOff, Point

OVER = 3.0
"""A way across a clip goes so far above it, mm (ours)."""
MAX_SHIFT = 30.0
"""A place to measure is moved so far at most; further away it says nothing about where it was wanted, mm (ours)."""
TOGETHER = 5.0
"""Two places closer than this are one, mm (ours)."""


def tallest(bed: Bed) -> float:
    """Height of the tallest thing in the way, mm; 0 where there is none."""
    return max((place.height for place in bed.keep_off), default=0.0)


def way_over(bed: Bed, lift: float) -> float:
    """Height above the plate for ways, so that they clear what stands on it, mm.

    Examples
    --------
    >>> way_over(Bed(200, 200), 5), way_over(Bed(200, 200, keep_off=(KeepOff("clip", 90, 0, 110, 6, 4),)), 5)
    (5, 7.0)
    """
    return max(lift, tallest(bed) + OVER) if bed.keep_off else lift


def blocked(bed: Bed, points: Iterable[Point], probe: Point = (0.0, 0.0)) -> list[KeepOff | None]:
    """For each place to be touched (mm), what stands in the way of the probe there, or of the nozzle beside it."""
    dx, dy = probe
    return [blocked_by(bed, x, y) or blocked_by(bed, x - dx, y - dy) for x, y in points]


def free_place(
    bed: Bed,
    x: float,
    y: float,
    *,
    room: float = TIP_ROOM,
    probe: Point = (0.0, 0.0),
    area: tuple[float, float, float, float] | None = None,
    most: float = MAX_SHIFT,
) -> Point | None:
    """Return the nearest free place within an area.

    Parameters
    ----------
    bed : Bed
    x, y : float
        Wanted, mm.
    room : float
        Kept around what is in the way, mm.
    probe : (dx, dy)
        Probe minus nozzle, mm: both must be free.
    area : tuple, optional
        x_min, y_min, x_max, y_max within which a place may be, mm; the printable area when not given.
    most : float
        How far it may lie from where it was wanted, mm.

    Returns
    -------
    tuple of float or None
        mm, to the hundredth; None when nothing is free so near.

    Examples
    --------
    >>> clipped = Bed(200, 200, keep_off=(KeepOff("clip", 0, 90, 10, 110),))
    >>> free_place(clipped, 100, 100), free_place(clipped, 15, 100)
    ((100, 100), (18.0, 100))
    """
    x0, y0, x1, y1 = area or (bed.x_min, bed.y_min, bed.x_max, bed.y_max)
    shifts = (probe, (0.0, 0.0)) if probe != (0.0, 0.0) else ((0.0, 0.0),)

    def free(px: float, py: float) -> bool:
        return all(blocked_by(bed, px - dx, py - dy, room) is None for dx, dy in shifts)

    if free(x, y):
        return x, y
    sides = [
        (left + dx, front + dy, right + dx, back + dy)
        for place in bed.keep_off
        for left, front, right, back in [place.grown(room)]
        for dx, dy in shifts
    ]
    # the nearest free place lies on the side of something in the way, or where two sides meet
    xs = [x, *(v for side in sides for v in (side[0], side[2]))]
    ys = [y, *(v for side in sides for v in (side[1], side[3]))]
    candidates = sorted(
        (math.hypot(px - x, py - y), round(px, 2), round(py, 2))
        for px in xs
        for py in ys
        if x0 - ROUNDED <= px <= x1 + ROUNDED and y0 - ROUNDED <= py <= y1 + ROUNDED
    )
    for away, px, py in candidates:
        if away > most:
            return None
        if free(px, py):
            return px, py
    return None


def clear_of(
    bed: Bed,
    points: Sequence[Point],
    *,
    room: float = TIP_ROOM,
    probe: Point = (0.0, 0.0),
    area: tuple[float, float, float, float] | None = None,
) -> list[Point | None]:
    """Move places off what is in the way; those that find no room, or fall on another one, are None.

    Examples
    --------
    >>> clipped = Bed(200, 200, keep_off=(KeepOff("clip", 0, 0, 30, 30),))
    >>> clear_of(clipped, [(15, 15), (185, 15), (100, 100)])
    [(15, 38.0), (185, 15), (100, 100)]
    """
    if not bed.keep_off:
        return list(points)
    results: list[Point | None] = [
        free_place(bed, x, y, room=room, probe=probe, area=area) for x, y in points
    ]
    kept: list[Point] = [point for point, was in zip(results, points, strict=True) if point == was]
    for i, point in enumerate(results):
        if point is None or point == points[i]:
            continue
        if any(math.dist(point, other) < TOGETHER for other in kept):
            results[i] = None
        else:
            kept.append(point)
    return results


def free_area(bed: Bed, room: float = TIP_ROOM) -> tuple[float, float, float, float]:
    """Largest rectangle around the middle that keeps off everything: x_min, y_min, x_max, y_max, mm.

    Each thing in the way takes one strip off, the one that costs least.

    Examples
    --------
    >>> free_area(Bed(200, 200, keep_off=(KeepOff("clip", 90, 0, 110, 6),)))
    (0.0, 14.0, 200.0, 200.0)
    """
    x0, y0, x1, y1 = bed.x_min, bed.y_min, bed.x_max, bed.y_max
    cx, cy = bed.centre
    for place in bed.keep_off:
        left, front, right, back = place.grown(room)
        if left >= x1 or right <= x0 or front >= y1 or back <= y0:
            continue
        choices = []
        if right <= cx:
            choices.append((min(x1 - right, x1 - x0) * (y1 - y0), (max(x0, right), y0, x1, y1)))
        if left >= cx:
            choices.append(((left - x0) * (y1 - y0), (x0, y0, min(x1, left), y1)))
        if back <= cy:
            choices.append(((x1 - x0) * (y1 - back), (x0, max(y0, back), x1, y1)))
        if front >= cy:
            choices.append(((x1 - x0) * (front - y0), (x0, y0, x1, min(y1, front))))
        if choices:
            x0, y0, x1, y1 = max(choices)[1]
    return float(x0), float(y0), float(x1), float(y1)


def crosses(bed: Bed, points: Sequence[Point], room: float) -> KeepOff | None:
    """Return what a path (mm) comes closer to than ``room``, or nothing.

    Examples
    --------
    >>> clipped = Bed(200, 200, keep_off=(KeepOff("clip", 90, 0, 110, 6),))
    >>> crosses(clipped, [(10, 3), (190, 3)], 1.0).name
    'clip'
    """
    ends = list(points)
    pairs = list(pairwise(ends)) or [(ends[0], ends[0])]
    for place in bed.keep_off:
        box = place.grown(room - ROUNDED)
        if any(_meets(a, b, box) for a, b in pairs):
            return place
    return None


def _meets(a: Point, b: Point, box: tuple[float, float, float, float]) -> bool:
    """Whether a straight way passes through the inside of a rectangle (Liang and Barsky)."""
    low, high = 0.0, 1.0
    for start, way, least, most in (
        (a[0], b[0] - a[0], box[0], box[2]),
        (a[1], b[1] - a[1], box[1], box[3]),
    ):
        if way == 0:
            if not least < start < most:
                return False
            continue
        first, second = sorted(((least - start) / way, (most - start) / way))
        low, high = max(low, first), min(high, second)
    return low < high or (low == high and a == b)
