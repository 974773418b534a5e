"""Draws from a density of a few parameters, and their intervals."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy import optimize

from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import CONFIDENCE

DRAWS, TURNS = 3000, 4
"""So many draws, and so often are they fitted anew."""
FREEDOM = 5
"""Of the t distribution that the draws come from: heavier than what they stand for."""

STEP = float(np.sqrt(np.finfo(float).eps))
"""Of a slope by differences, in standard deviations of the first belief."""


def sample(density: Callable[[Array], Array], centre: Array, sd: Array) -> tuple[Array, Array]:
    """Importance sampling from a t distribution that is fitted to its own draws a few times.

    Parameters
    ----------
    density : callable
        Logarithm of the density, up to a constant, for each row of an array of shape (n, p).
    centre, sd : ndarray, shape (p,)
        A first belief: where it is, and how wide.

    Returns
    -------
    draws : ndarray, shape (n, p)
    weights : ndarray, shape (n,)
        They add up to one.
    """
    steps = np.vstack([np.zeros(centre.size), STEP * np.eye(centre.size)])

    def fall(z: Array) -> tuple[float, Array]:
        """Its negative and the slope of that, all of it asked for at once."""
        values = -density(centre + sd * (z + steps))
        return float(values[0]), (values[1:] - values[0]) / STEP

    best = None
    for start in _starts(centre, sd):
        result = optimize.minimize(
            fall, (start - centre) / sd, jac=True, method="BFGS", options={"gtol": 1e-3}
        )
        if best is None or result.fun < best.fun:
            best = result
    if best is None:
        raise ValueError("There is nowhere to begin.")
    middle = centre + sd * best.x
    covariance = _covariance(density, middle, sd)
    rng = np.random.default_rng(7)
    for turn in range(TURNS):
        root = np.linalg.cholesky(covariance)
        spread = (
            rng.standard_normal((DRAWS, centre.size))
            * np.sqrt(FREEDOM / rng.chisquare(FREEDOM, DRAWS))[:, None]
        )
        draws = middle + spread @ root.T
        log = density(draws) + 0.5 * (FREEDOM + centre.size) * np.log1p((spread**2).sum(axis=1) / FREEDOM)
        weights = np.exp(log - log.max())
        weights /= weights.sum()
        if turn < TURNS - 1:
            middle = weights @ draws
            off = draws - middle
            # a little wider than found, so that the next draws cover it
            covariance = 1.3 * (off * weights[:, None]).T @ off + 1e-4 * np.diag(sd**2)
    return draws, weights


def _starts(centre: Array, sd: Array) -> list[Array]:
    """The first belief, closer and farther, and a judge who draws wider or narrower lines."""
    starts = [centre]
    for place, offset in ((0, -1.0), (0, 1.0), (-3, -1.5), (-3, 1.5)):
        moved = centre.copy()
        moved[place] += offset * sd[place]
        starts.append(moved)
    return starts


def _covariance(density: Callable[[Array], Array], mode: Array, sd: Array) -> Array:
    """Inverse of the curvature at the mode; never wider than the first belief."""
    size = mode.size
    step = 0.1 * sd
    points = [mode]
    for i in range(size):
        for j in range(i, size):
            for a, b in ((1, 1), (1, -1), (-1, 1), (-1, -1)):
                moved = mode.copy()
                moved[i] += a * step[i]
                moved[j] += b * step[j]
                points.append(moved)
    values = density(np.array(points))
    curve = np.empty((size, size))
    at = 1
    for i in range(size):
        for j in range(i, size):
            pp, pm, mp, mm = values[at : at + 4]
            at += 4
            curve[i, j] = curve[j, i] = -(pp - pm - mp + mm) / (4 * step[i] * step[j])
    scaled = curve * np.outer(sd, sd)
    eigen, vectors = np.linalg.eigh(scaled)
    eigen = np.maximum(eigen, 1.0)
    return (vectors / eigen) @ vectors.T * np.outer(sd, sd)


def interval(values: Array, weights: Array) -> tuple[float, float]:
    """Give the range that holds 95 % of weighted draws."""
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    tail = (1 - CONFIDENCE) / 2
    low, high = np.interp([tail, 1 - tail], total, values[order])
    return float(low), float(high)
