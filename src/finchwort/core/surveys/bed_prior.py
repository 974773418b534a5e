"""What is believed of a bed before it is read: polynomials, and the sizes of bow, rest, roughness and noise that are weighed."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.geometry import Array, Indices
from finchwort.core.printers import Bed
from finchwort.core.surveys.planes import PRIOR_SD, PRIOR_WEIGHT

DEGREE = 5
"""Highest degree of the polynomials that stand for the bed's smooth shape."""
DECAY = 0.6
"""Each further degree is taken to be so much smaller than the one before (ours)."""
BOWS = (0.01, 0.03, 0.09, 0.25)
"""Sizes of bow and twist that are weighed, standard deviation, mm (ours)."""
BOW_SHARES = (0.3, 0.3, 0.3, 0.1)
"""How likely each of them is beforehand (ours)."""
RESTS = (0.06, 0.2, 0.6)
"""Sizes of the smooth rest that are weighed, as shares of the bow's: a plate that bends much is also less simple (ours)."""
REST_SHARES = (0.3, 0.4, 0.3)
NOISES = np.exp(np.linspace(math.log(0.002), math.log(0.12), 9))
"""Sizes of the noise that are weighed where no test was made, mm."""
ROUGH = (0.0, 0.004, 0.015)
"""Unevenness from place to place that no smooth shape holds, standard deviation, mm (ours)."""
ROUGH_SHARES = (0.7, 0.2, 0.1)
WIDE = 10.0
"""Level and tilt may be anything within this, standard deviation, mm."""
DRIFT_SD = 0.03
"""How far a machine drifts in the course of a walk before anything is known, standard deviation, mm (ours)."""


@lru_cache(maxsize=4)
def orders() -> tuple[tuple[int, int], ...]:
    """Return the orders in x and y of the polynomials, as `terms` gives them."""
    return tuple((d - j, j) for d in range(DEGREE + 1) for j in range(d + 1))


def terms(bed: Bed, x: ArrayLike, y: ArrayLike) -> Array:
    """Legendre products over the printable area, up to ``DEGREE``.

    They are orthogonal there, so the coefficients of the second and third are the tilt of the whole area.

    Parameters
    ----------
    bed : Bed
    x, y : array_like, shape (n,)
        mm

    Returns
    -------
    ndarray, shape (n, p)
        In the order 1, u, v, P2(u), u v, P2(v), ...
    """
    u = 2 * (np.ravel(np.asarray(x, dtype=np.float64)) - bed.centre[0]) / bed.width
    v = 2 * (np.ravel(np.asarray(y, dtype=np.float64)) - bed.centre[1]) / bed.depth
    # readings beside the printable area exist, but no polynomial is trusted far out
    u, v = np.clip(u, -1.3, 1.3), np.clip(v, -1.3, 1.3)
    lu, lv = _legendre(u), _legendre(v)
    return np.column_stack([lu[i] * lv[j] for i, j in orders()])


def _legendre(u: Array) -> list[Array]:
    rows = [np.ones_like(u), u]
    for n in range(1, DEGREE):
        rows.append(((2 * n + 1) * u * rows[n] - n * rows[n - 1]) / (n + 1))
    return rows


def _degrees() -> Array:
    return np.array([i + j for i, j in orders()])


def _variances(bow: float, rest: float) -> Array:
    degree = _degrees()
    sd = np.where(degree < 2, WIDE, np.where(degree == 2, bow, rest * DECAY ** np.maximum(degree - 3, 0)))
    return sd**2


@dataclass(frozen=True, eq=False)
class Beliefs:
    """The sizes that are weighed: prior variances (M, p); which of them (K,), noise (K,), logarithm of the first weight (K,)."""

    priors: Array
    prior: Indices
    noise: Array
    log: Array


def _noises(sd: float | None, dof: float) -> tuple[Array, Array]:
    """Sizes of the noise to weigh, and the logarithm of how likely each is beforehand."""
    if sd is None:
        weight = PRIOR_WEIGHT
        return NOISES, -weight * np.log(NOISES) - weight * PRIOR_SD**2 / (2 * NOISES**2)
    sd = max(sd, 1e-4)
    if math.isinf(dof) or dof > 200:
        sizes, log = np.array([sd]), np.zeros(1)
    else:
        # a standard deviation found from few touches may be some way off
        sizes = sd * np.exp(np.linspace(-1.5, 1.9, 3) / math.sqrt(2 * dof))
        log = -dof * np.log(sizes / sd) - dof * sd**2 / (2 * sizes**2)
    rough = np.array(ROUGH)
    both = np.sqrt(sizes[:, None] ** 2 + rough**2).ravel()
    return both, (log[:, None] - log.max() + np.log(ROUGH_SHARES)).ravel()


@lru_cache(maxsize=1)
def _shapes() -> tuple[Array, Array]:
    """Prior variances of the polynomials for every size of bow and rest, and the logarithm of how likely each is."""
    pairs = [
        (bow, rest)
        for bow in zip(BOWS, BOW_SHARES, strict=True)
        for rest in zip(RESTS, REST_SHARES, strict=True)
    ]
    priors = np.array([_variances(bow, bow * rest) for (bow, _), (rest, _) in pairs])
    return priors, np.log([likely * share for (_, likely), (_, share) in pairs])


def beliefs_about(sd: float | None, dof: float, drift_sd: float | None) -> Beliefs:
    """Return the sizes that are weighed, given what a test said of the noise (mm, degrees of freedom) and of the drift (mm)."""
    noise, log_noise = _noises(sd, dof)
    priors, log = _shapes()
    if drift_sd is not None:
        priors = np.column_stack([priors, np.full(len(priors), max(drift_sd, 1e-6) ** 2)])
    prior = np.repeat(np.arange(len(priors)), noise.size)
    return Beliefs(priors, prior, np.tile(noise, len(priors)), log[prior] + np.tile(log_noise, len(priors)))
