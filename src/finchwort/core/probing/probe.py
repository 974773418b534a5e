"""The probe: where it can touch the bed, and in which order places are walked."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.printers import Bed, clear_of, place_in_words, suggest_screw_points

SENSES = {
    "none": "",
    "nozzle": "surface",
    "retracting": "surface",
    "switch": "surface",
    "strain": "surface",
    "inductive": "metal",
    "capacitive": "field",
}
"""What each kind of probe feels (common practice): the surface itself; the metal below, through glass or a sheet; or
whatever lies there and its damp."""
KINDS = tuple(SENSES)
"""none: read by hand; the others name what touches or senses the plate."""
MAX_OFFSET = 150.0
"""No probe sits further from its nozzle, mm."""
ROUNDED = 0.01
"""Places are planned to the hundredth, so they may lie so far outside, mm."""
EXACT_TO = 10
"""Up to so many places the shortest walk is found by trying all."""
Point = tuple[float, float]


def reach(bed: Bed, dx: float, dy: float, inset: float = 0.0) -> tuple[float, float, float, float]:
    """Where a probe can touch, given its distance from the nozzle.

    The nozzle travels the printable area; the probe is carried beside it.

    Parameters
    ----------
    bed : Bed
    dx, dy : float
        Probe minus nozzle, mm.
    inset : float
        Margin kept from the edge of the printable area, mm.

    Returns
    -------
    tuple of float
        x_min, y_min, x_max, y_max, mm.

    Raises
    ------
    OutOfRangeError
        When nothing is left.

    Examples
    --------
    >>> reach(Bed(220, 220), 40, -10)
    (40.0, 0.0, 220.0, 210.0)
    """
    if not (math.isfinite(dx) and math.isfinite(dy) and math.isfinite(inset)):
        raise NonFiniteError("probing.probe_distance_nozzle_not")
    if max(abs(dx), abs(dy)) > MAX_OFFSET:
        raise OutOfRangeError("probing.probe_sits_within_mm", max_offset=MAX_OFFSET)
    sides: tuple[float, float, float, float] = (
        bed.x_min + max(dx, 0.0, inset),
        bed.y_min + max(dy, 0.0, inset),
        bed.x_max + min(dx, 0.0, -inset),
        bed.y_max + min(dy, 0.0, -inset),
    )
    if sides[0] >= sides[2] or sides[1] >= sides[3]:
        raise OutOfRangeError("probing.probe_would_reach_no")
    left, front, right, back = map(float, sides)
    return left, front, right, back


def in_reach(bed: Bed, dx: float, dy: float, points: Sequence[Point]) -> list[bool]:
    """Tell for each place (mm) whether the probe reaches it."""
    x0, y0, x1, y1 = reach(bed, dx, dy)
    return [x0 - ROUNDED <= x <= x1 + ROUNDED and y0 - ROUNDED <= y <= y1 + ROUNDED for x, y in points]


def grid_points(
    bed: Bed, columns: int, rows: int, inset: float, dx: float = 0.0, dy: float = 0.0
) -> list[Point]:
    """Places of a grid within the probe's reach, in serpentine order from the front left.

    Parameters
    ----------
    bed : Bed
    columns, rows : int
        2 to 25 each.
    inset : float
        From the edge of the printable area, mm.
    dx, dy : float
        Probe minus nozzle, mm.

    Returns
    -------
    list of (x, y)
        mm, to the hundredth; moved off what is in the way, and left out where there is no room.

    Examples
    --------
    >>> grid_points(Bed(220, 220), 2, 2, 10, dx=30)
    [(30.0, 10.0), (210.0, 10.0), (210.0, 210.0), (30.0, 210.0)]
    """
    if not (2 <= columns <= 25 and 2 <= rows <= 25):
        raise OutOfRangeError("probing.pattern_columns_rows")
    if not 0 <= inset < min(bed.width, bed.depth) / 2:
        raise OutOfRangeError("probing.inset_leave_something_bed")
    x0, y0, x1, y1 = reach(bed, dx, dy, inset)
    xs, ys = np.linspace(x0, x1, columns), np.linspace(y0, y1, rows)
    points = []
    for j, y in enumerate(ys):
        row = xs if j % 2 == 0 else xs[::-1]
        points += [(round(float(x), 2), round(float(y), 2)) for x in row]
    moved = clear_of(bed, points, probe=(dx, dy), area=(x0, y0, x1, y1))
    return [point for point in moved if point]


def walk_length(points: Sequence[Point]) -> float:
    """Length of a walk through places in their order, mm."""
    p = np.asarray(points, dtype=np.float64)
    return float(np.hypot(*np.diff(p, axis=0).T).sum()) if len(p) > 1 else 0.0


def paper_places(bed: Bed, supports: Sequence[tuple[str, float, float]]) -> list[tuple[str, float, float]]:
    """Places for paper near the supports and in the middle, named, in the order in which they are walked.

    The screen asks for them in this order, and a file that stops at each goes the same way.

    Parameters
    ----------
    bed : Bed
    supports : sequence of (name, x, y)
        Screws or pads, mm; the corners when there are none.

    Examples
    --------
    >>> [name for name, *_ in paper_places(Bed(200, 200), [("A", 2, 2), ("B", 198, 2), ("C", 100, 198)])]
    ['A', 'B', 'middle', 'C']
    """
    points = suggest_screw_points(bed, [(x, y) for _, x, y in supports])
    # each place carries the name of the support it is next to, unless two came to lie on one
    own = [name for name, *_ in supports] if len(points) == len(supports) + 1 else []
    names = [
        own[i] if i < len(own) else place_in_words(bed, x, y).removeprefix("at the ").removeprefix("in the ")
        for i, (x, y) in enumerate(points)
    ]
    return [(names[i], *points[i]) for i in walking_order(points, (bed.x_min, bed.y_min))]


def walking_order(points: Sequence[Point], start: Point | None = None) -> list[int]:
    """Order in which to visit places so that the walk is short.

    All orders are compared up to ``EXACT_TO`` places; beyond, the nearest
    next place is taken and crossings are undone (2-opt) until none is left.

    Parameters
    ----------
    points : sequence of (x, y)
        mm
    start : (x, y), optional
        Where the walk begins, mm; at the best place when not given.

    Returns
    -------
    list of int
        Indices of ``points``.

    Examples
    --------
    >>> walking_order([(0, 0), (100, 100), (90, 0), (0, 100)], start=(0, 0))
    [0, 2, 1, 3]
    """
    n = len(points)
    if n == 0:
        return []
    p = np.asarray(points, dtype=np.float64)
    if p.shape != (n, 2) or not np.isfinite(p).all():
        raise NonFiniteError("probing.every_place_needs")
    if n > 700:
        raise ChoiceError("probing.many_places_not_walked")
    far = np.hypot(p[:, None, 0] - p[None, :, 0], p[:, None, 1] - p[None, :, 1])
    first = np.zeros(n) if start is None else np.hypot(p[:, 0] - start[0], p[:, 1] - start[1])
    return _exact(far, first) if n <= EXACT_TO else _improved(far, first)


def _exact(far: np.ndarray, first: np.ndarray) -> list[int]:
    """Held and Karp: the shortest open walk by dynamic programming over sets of places."""
    n = len(far)
    cost = {(1 << i, i): (float(first[i]), -1) for i in range(n)}
    for mask in range(1, 1 << n):
        for last in range(n):
            here = cost.get((mask, last))
            if here is None:
                continue
            for following in range(n):
                if mask >> following & 1:
                    continue
                key = (mask | 1 << following, following)
                total = here[0] + far[last, following]
                if key not in cost or total < cost[key][0] - 1e-9:
                    cost[key] = (total, last)
    mask = (1 << n) - 1
    last = min(range(n), key=lambda i: (round(cost[mask, i][0], 6), i))
    order = []
    while last >= 0:
        order.append(last)
        before = cost[mask, last][1]
        mask, last = mask ^ (1 << last), before
    return order[::-1]


def _improved(far: np.ndarray, first: np.ndarray) -> list[int]:
    n = len(far)
    left = np.ones(n, dtype=bool)
    order = [int(np.argmin(first))]
    left[order[0]] = False
    while len(order) < n:
        away = np.where(left, far[order[-1]], np.inf)
        order.append(int(np.argmin(away)))
        left[order[-1]] = False
    walk = np.array(order)
    better = True
    while better:
        better = False
        for i in range(n - 1):
            # turn the stretch from i + 1 to each j around and keep the best
            ends = np.arange(i + 1, n)
            after = np.append(walk[i + 2 :], -1)
            now = far[walk[i], walk[i + 1]] + np.where(after >= 0, far[walk[ends], after], 0.0)
            then = far[walk[i], walk[ends]] + np.where(after >= 0, far[walk[i + 1], after], 0.0)
            gain = now - then
            best = int(np.argmax(gain))
            if gain[best] > 1e-9:
                j = int(ends[best])
                walk[i + 1 : j + 1] = walk[i + 1 : j + 1][::-1]
                better = True
    return [int(i) for i in walk]
