"""Arcs of a tool path (G2, G3): their middle, their sweep, and short straight lines in their place."""

from __future__ import annotations

import numpy as np

from finchwort.core.base.geometry import Column, Indices

CHORD = 0.01
"""A straight line in place of a piece of arc strays from it by no more, mm (ours: half of what a caliper sees)."""
MOST_CHORDS = 720
"""So many straight lines stand for an arc at most: half a degree each in a full circle."""
FULL = 1e-6
"""Ends of an arc closer than this are one place, mm: then it is a full circle."""


def arc_middles(start: Column, end: Column, radius: Column, clockwise: Column) -> Column:
    """Middles of arcs given by their radius.

    Parameters
    ----------
    start, end : ndarray, shape (n, 2)
        mm
    radius : ndarray, shape (n,)
        mm; negative for the longer way round. Too small a one is widened to half the distance.
    clockwise : ndarray of bool, shape (n,)

    Returns
    -------
    ndarray, shape (n, 2)
        mm

    References
    ----------
    ISO 6983-1, circular interpolation by radius.

    Examples
    --------
    >>> ends = np.array([[0.0, 0.0]]), np.array([[2.0, 0.0]])
    >>> arc_middles(*ends, np.array([1.25]), np.array([False])).round(3).tolist()
    [[1.0, 0.75]]
    >>> arc_middles(*ends, np.array([-1.25]), np.array([False])).round(3).tolist()
    [[1.0, -0.75]]
    """
    way = end - start
    far = np.hypot(way[:, 0], way[:, 1])
    half = np.maximum(far, FULL) / 2
    height = np.sqrt(np.maximum(np.abs(radius) ** 2 - half**2, 0.0))
    # to the left of the way lies the middle of the shorter arc counter-clockwise
    side = np.where((radius < 0) ^ clockwise, -1.0, 1.0) * height / np.maximum(far, FULL)
    return (start + end) / 2 + np.column_stack([-way[:, 1], way[:, 0]]) * side[:, None]


def arc_sweeps(start: Column, end: Column, middle: Column, clockwise: Column) -> tuple[Column, Column]:
    """Radius and sweep of arcs.

    Parameters
    ----------
    start, end, middle : ndarray, shape (n, 2)
        mm
    clockwise : ndarray of bool, shape (n,)

    Returns
    -------
    radius : ndarray, shape (n,)
        At the start, mm.
    sweep : ndarray, shape (n,)
        Radians, negative clockwise; a full turn where both ends are one place.

    Examples
    --------
    >>> quarter = arc_sweeps(*(np.array([p]) for p in [(1.0, 0.0), (0.0, 1.0), (0.0, 0.0)]), np.array([True]))
    >>> [round(float(v[0]), 4) for v in quarter]
    [1.0, -4.7124]
    """
    from_, to = start - middle, end - middle
    radius = np.hypot(from_[:, 0], from_[:, 1])
    turn = np.arctan2(
        from_[:, 0] * to[:, 1] - from_[:, 1] * to[:, 0], from_[:, 0] * to[:, 0] + from_[:, 1] * to[:, 1]
    )
    same = np.hypot(*(end - start).T) < FULL
    turn = np.where(same, 0.0, turn)
    left = np.where(turn <= 0, turn + 2 * np.pi, turn)
    right = np.where(turn >= 0, turn - 2 * np.pi, turn)
    return radius, np.where(clockwise, right, left)


def chords(radius: Column, sweep: Column, most: float = CHORD) -> Indices:
    """How many straight lines stand for each arc.

    Parameters
    ----------
    radius, sweep : ndarray, shape (n,)
        mm, radians
    most : float
        What a line may stray from the arc, mm.

    Returns
    -------
    ndarray of int, shape (n,)

    Examples
    --------
    >>> chords(np.array([10.0, 0.001]), np.array([np.pi, 6.0])).tolist()
    [36, 4]
    """
    step = 2 * np.arccos(np.clip(1 - most / np.maximum(radius, most), -1.0, 1.0))
    # never a triangle for a circle, however small
    step = np.minimum(np.maximum(step, 1e-3), np.pi / 2)
    return np.clip(np.ceil(np.abs(sweep) / step - 1e-9), 1, MOST_CHORDS).astype(np.intp)


def flatten_arcs(
    start: Column, end: Column, middle: Column, clockwise: Column, most: float = CHORD
) -> tuple[Indices, Column, Column]:
    """Put straight lines in the place of arcs.

    Parameters
    ----------
    start, end : ndarray, shape (n, 3)
        mm; height grows evenly along the arc.
    middle : ndarray, shape (n, 2)
        mm
    clockwise : ndarray of bool, shape (n,)
    most : float
        What a line may stray from its arc, mm.

    Returns
    -------
    which : ndarray of int, shape (k,)
        Arc that each line stands for.
    begin, finish : ndarray, shape (k, 3)
        mm; the last line of an arc ends where the arc does.

    Examples
    --------
    >>> at = [np.array([p]) for p in [(10.0, 0.0, 0.2), (-10.0, 0.0, 0.2)]]
    >>> which, begin, finish = flatten_arcs(*at, np.array([[0.0, 0.0]]), np.array([False]))
    >>> len(which), finish[17].round(6).tolist(), finish[-1].tolist()
    (36, [0.0, 10.0, 0.2], [-10.0, 0.0, 0.2])
    """
    radius, sweep = arc_sweeps(start[:, :2], end[:, :2], middle, clockwise)
    many = chords(radius, sweep, most)
    which = np.repeat(np.arange(len(many)), many)
    last = np.cumsum(many)
    step = np.arange(len(which)) - np.repeat(last - many, many) + 1
    share = step / many[which]
    angle = np.arctan2(start[:, 1] - middle[:, 1], start[:, 0] - middle[:, 0])
    # an arc whose ends lie at different distances from its middle widens evenly
    far = np.hypot(*(end[:, :2] - middle).T)
    reach = radius[which] + share * (far - radius)[which]
    turned = angle[which] + share * sweep[which]
    finish = np.column_stack(
        [
            middle[which, 0] + reach * np.cos(turned),
            middle[which, 1] + reach * np.sin(turned),
            start[which, 2] + share * (end[:, 2] - start[:, 2])[which],
        ]
    )
    finish[last - 1] = end
    begin = np.empty_like(finish)
    begin[1:] = finish[:-1]
    begin[last - many] = start
    return which, begin, finish
