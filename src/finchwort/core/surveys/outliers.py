"""Local bumps and dents, and single readings that do not fit their neighbours."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from finchwort.core.base.geometry import Array, Indices, Mask
from finchwort.core.base.wording import millimetres
from finchwort.core.surveys.survey import Survey

MIN_READINGS = 9
"""Fewer readings have no neighbours to be judged by."""
NEIGHBOURS = 14
"""So many of its nearest say what a reading should be."""
TIMES = 5.0
"""Robust standard deviations from which on a reading is odd (ours)."""
SMALLEST = 0.04
"""Nothing smaller is called odd, mm (ours)."""
MAX_ODD = 5
"""After so many the bed is rough, not a reading odd."""
MAD = 1.4826
"""Makes the median absolute deviation the standard deviation of a normal distribution."""


@dataclass(frozen=True)
class Odd:
    """A reading, or a few side by side, that do not fit what lies around them.

    Attributes
    ----------
    indices : tuple of int
        The readings.
    x, y : float
        Their middle, mm.
    height : float
        How far the most extreme one stands off its neighbours, mm, positive up.
    kind : {"reading", "bump", "dent"}
        One reading alone, or several side by side.
    sentence : str
    """

    indices: tuple[int, ...]
    x: float
    y: float
    height: float
    kind: str
    sentence: str


def expected_from_neighbours(survey: Survey, left_out: Mask | None = None) -> tuple[Array, Array]:
    """What every reading should be by its neighbours, itself left out.

    A quadratic surface through the nearest readings, nearer ones counting more.

    Parameters
    ----------
    survey : Survey
    left_out : ndarray of bool, shape (n,), optional
        Readings that no other may lean on.

    Returns
    -------
    expected : ndarray, shape (n,)
        mm
    spread : ndarray, shape (n,)
        Standard deviation of reading minus expectation for readings of unit variance: large at corners, where
        the neighbours lie on one side.
    """
    places = np.column_stack([survey.x, survey.y])
    usable = np.flatnonzero(~left_out) if left_out is not None else np.arange(len(survey))
    count = min(NEIGHBOURS + 1, usable.size)
    distance, which = cKDTree(places[usable]).query(places, k=count)
    which = usable[which]
    own = which == np.arange(len(survey))[:, None]
    reach = np.maximum(distance.max(axis=1), 1e-9)[:, None]
    weight = np.where(own, 0.0, (1 - 0.9 * (distance / reach) ** 2))
    u = (survey.x[which] - survey.x[:, None]) / reach
    v = (survey.y[which] - survey.y[:, None]) / reach
    terms = [np.ones_like(u), u, v]
    if count > 8:
        terms += [u * u, u * v, v * v]
    design = np.stack(terms, axis=2) * np.sqrt(weight)[:, :, None]
    seen = survey.height[which] * np.sqrt(weight)
    gram = np.einsum("nki,nkj->nij", design, design)
    right = np.einsum("nki,nk->ni", design, seen)
    # a trace of a ridge keeps readings at the rim, whose neighbours lie on one line, solvable
    gram += 1e-9 * np.trace(gram, axis1=1, axis2=2)[:, None, None] * np.eye(gram.shape[1])
    # the weight of every neighbour in what is expected at the reading itself
    first = np.linalg.solve(gram, np.eye(gram.shape[1])[None, :, :1])[:, :, 0]
    share = np.einsum("nki,ni->nk", design * np.sqrt(weight)[:, :, None], first)
    expected = np.einsum("ni,ni->n", first, right)
    return expected, np.sqrt(1 + np.sum(share**2, axis=1))


def find_odd(survey: Survey, noise: float = 0.0) -> tuple[Odd, ...]:
    """Find readings that stand off their neighbours.

    The worst one is left out first, then the rest is judged anew, so that an odd
    reading does not make its neighbours look odd.

    Parameters
    ----------
    survey : Survey
    noise : float
        Standard deviation of one reading, mm.

    Returns
    -------
    tuple of Odd
        The largest first; empty when there are too few readings to say.

    Examples
    --------
    >>> x, y = (a.ravel() for a in np.meshgrid(np.arange(0.0, 125, 25), np.arange(0.0, 125, 25)))
    >>> z = 0.00002 * ((x - 50) ** 2 + (y - 50) ** 2)
    >>> z[7] += 0.2
    >>> [(o.indices, o.kind, round(o.height, 2)) for o in find_odd(Survey(x, y, z))]
    [((7,), 'reading', 0.2)]
    """
    if len(survey) < MIN_READINGS:
        return ()
    out = np.zeros(len(survey), dtype=bool)
    for _ in range(MAX_ODD + 1):
        if (~out).sum() < MIN_READINGS:
            return ()
        expected, spread = expected_from_neighbours(survey, out)
        off = survey.height - expected
        scale = MAD * float(np.median(np.abs(off[~out] / spread[~out])))
        rest = np.where(out, 0.0, np.abs(off) / spread)
        worst = int(np.argmax(rest))
        if rest[worst] <= TIMES * max(scale, noise) or abs(off[worst]) <= SMALLEST:
            break
        out[worst] = True
    else:
        return ()
    if not out.any():
        return ()
    results = [_describe(survey, group, off) for group in _groups(survey, np.flatnonzero(out), off)]
    return tuple(sorted(results, key=lambda item: -abs(item.height)))


def _groups(survey: Survey, odd: Indices, off: Array) -> list[list[int]]:
    """Join odd readings that lie side by side and stand off the same way."""
    places = np.column_stack([survey.x, survey.y])
    near = cKDTree(places).query(places, k=2)[0][:, 1]
    reach = 1.5 * float(np.median(near))
    groups: list[list[int]] = []
    for i in odd.tolist():
        touching = [
            group
            for group in groups
            if any(np.hypot(*(places[i] - places[j])) <= reach and off[i] * off[j] > 0 for j in group)
        ]
        groups = [group for group in groups if group not in touching]
        groups.append(sorted([i, *(j for group in touching for j in group)]))
    return groups


def _describe(survey: Survey, group: list[int], off: Array) -> Odd:
    x, y = float(survey.x[group].mean()), float(survey.y[group].mean())
    height = float(off[group[int(np.argmax(np.abs(off[group])))]])
    where = f"x {x:.0f}, y {y:.0f}"
    size = millimetres(abs(height))
    way = "above" if height > 0 else "below"
    if len(group) == 1:
        text = (
            f"The reading at {where} stands {size} {way} its neighbours. Probe this point again before you believe it; "
            "look for debris there first."
        )
        return Odd(tuple(group), x, y, height, "reading", text)
    kind = "bump" if height > 0 else "dent"
    text = f"A {kind} of {size} round {where}, seen by {len(group)} readings: debris under or on the plate, or a damaged spot."
    return Odd(tuple(group), x, y, height, kind, text)
