"""The bed behind the readings: tilt, bow, twist, a smooth rest and noise, told apart as far as the places allow."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array, Indices, Mask
from finchwort.core.base.statistics import CONFIDENCE, Z95
from finchwort.core.printers import Bed
from finchwort.core.surveys.bed_prior import DRIFT_SD, Beliefs, beliefs_about, orders, terms
from finchwort.core.surveys.planes import Plane, fit_plane
from finchwort.core.surveys.survey import Survey

BAD = 0.02
"""Share of readings that go astray: debris, a slip of the pen, plastic on the tip (ours)."""
BAD_REACH = 1.0
"""Bad readings lie anywhere within a band so wide, mm (ours)."""
SURELY_BAD = 0.97
"""From this probability on a reading is set aside (ours)."""
SUSPECT = 0.03
"""From this probability on it counts with and without it (ours)."""
MIN_STRAY = 0.04
"""Nothing smaller is set aside, mm (ours)."""
MIN_KEPT = 6
"""With fewer readings none can be told to be bad."""
MAX_SUSPECTS = 2
FULL = 600
"""Of more readings an even selection decides which sizes are likely."""
EXTRAPOLATED = 1.6
"""The tilt of the bed is known worse than that of the readings when its margin is so many times as wide (ours)."""
TELLING = 0.02
"""And by no less than this, mm (ours)."""


@dataclass(frozen=True, eq=False)
class Component:
    """One belief about sizes (bow, rest, noise, a reading left out) and what it makes of the readings.

    Attributes
    ----------
    weight : float
    mean : ndarray, shape (p,)
        Coefficients of the polynomials, mm.
    root : ndarray, shape (p, p)
        root @ root.T is their covariance.
    noise : float
        mm
    """

    weight: float
    mean: Array
    root: Array
    noise: float


@dataclass(frozen=True, eq=False)
class BedFit:
    """What readings say about the whole printable area.

    Attributes
    ----------
    bed : Bed
    plane : Plane
        Closest to the whole printable area, as far as is known.
    covariance : ndarray, shape (3, 3)
        Of its (a, b, c), with what is not known of the shape in it.
    quantile : float
        Times a standard deviation gives the plus/minus at 95 %; more than 1.96 where the noise is not known.
    noise : float
        Standard deviation of one reading, mm.
    noise_known : bool
        Whether it was measured rather than taken from the readings and a first belief.
    noise_plane : ndarray, shape (3, 3)
        Part of the covariance of (a, b, c) that the noise alone makes; what the next survey adds.
    shape : ndarray, shape (p,)
        Coefficients of the polynomials, mm, level and tilt included.
    aside : tuple of int
        Readings that do not belong to this bed and count for nothing.
    stray : ndarray, shape (n,)
        How far each reading stands off what the others say, mm.
    told : bool
        Whether the places tell tilt from bow; if not, the margin is wide for that reason.
    assumed : str or None
        What had to be assumed of the noise, when the readings say little.
    """

    bed: Bed
    plane: Plane
    covariance: Array
    quantile: float
    noise: float
    noise_known: bool
    noise_plane: Array
    shape: Array
    aside: tuple[int, ...]
    stray: Array
    told: bool
    assumed: str | None
    components: tuple[Component, ...] = field(repr=False)

    def draw(self, count: int, seed: int = 1) -> Array:
        """Draw beds that the readings leave possible; the same ones each time.

        Returns
        -------
        ndarray, shape (count, p)
            Coefficients of the polynomials, see `terms`.
        """
        normal = _normals(count, self.shape.size, seed)
        edges = np.cumsum([component.weight for component in self.components])
        # spread evenly over the weights, in an order that has nothing to do with the draws
        which = np.searchsorted(edges / edges[-1], (np.arange(count) + 0.5) / count)
        which = np.random.default_rng(seed + 1).permutation(which)
        out = np.empty_like(normal)
        for k in np.unique(which):
            rows, item = which == k, self.components[int(k)]
            out[rows] = item.mean + normal[rows] @ item.root.T
        return out

    def margin(self, direction: Array) -> float:
        """Plus/minus at 95 % of a X-slope and Y-slope times a direction (mm), mm."""
        block = self.covariance[:2, :2]
        return self.quantile * math.sqrt(max(0.0, float(direction @ block @ direction)))

    def at(self, x: float, y: float) -> tuple[float, float]:
        """Height at one place and its standard deviation, mm."""
        row = terms(self.bed, x, y)[0]
        weights = np.array([component.weight for component in self.components])
        means = np.array([float(row @ component.mean) for component in self.components])
        sds = np.array([float(np.linalg.norm(row @ component.root)) for component in self.components])
        mean = float(weights @ means)
        return mean, math.sqrt(float(weights @ (sds**2 + (means - mean) ** 2)))

    def surface(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Height of the bed as far as is known, mm."""
        return terms(self.bed, x, y) @ self.shape


@lru_cache(maxsize=8)
def _normals(count: int, size: int, seed: int) -> Array:
    half = np.random.default_rng(seed).standard_normal(((count + 1) // 2, size))
    return np.vstack([half, -half])[:count]


@dataclass(frozen=True, eq=False)
class _Weighed:
    """What every belief makes of some readings.

    The precision of a belief is S^-1 (g G / noise^2 + 1) S^-1 with S the prior standard deviations and g G = S G S; beliefs
    that differ in their noise only share its eigenvectors.

    Attributes
    ----------
    log : ndarray, shape (K,)
        Logarithm of the evidence and of the first weight.
    mean : ndarray, shape (K, p)
    axes : ndarray, shape (M, p, p)
        S times the eigenvectors, for every prior.
    spread : ndarray, shape (K, p)
        Variance along each axis.
    prior : ndarray of int, shape (K,)
        Which of the priors a belief has.
    """

    log: Array
    mean: Array
    axes: Array
    spread: Array
    prior: Indices

    def covariance(self, k: int) -> Array:
        """Covariance of the coefficients under one belief, shape (p, p)."""
        axes = self.axes[self.prior[k]]
        return (axes * self.spread[k]) @ axes.T

    def lever(self, rows: Array, use: Indices) -> Array:
        """Variance of the fitted height at some rows under some beliefs, shape (len(use), n)."""
        along = (rows @ self.axes) ** 2
        return np.matmul(along[self.prior[use]], self.spread[use][:, :, None])[:, :, 0]


def _evidence(rows: Array, seen: Array, beliefs: Beliefs) -> _Weighed:
    """Weigh all beliefs by readings."""
    gram, right, total = rows.T @ rows, rows.T @ seen, float(seen @ seen)
    prior, scale = beliefs.prior, np.sqrt(beliefs.priors)
    values, vectors = np.linalg.eigh(gram * scale[:, :, None] * scale[:, None, :])
    axes = vectors * scale[:, :, None]
    told = np.maximum(values, 0.0)[prior] / beliefs.noise[:, None] ** 2
    spread = 1 / (told + 1)
    along = (right @ axes)[prior]
    shift = along * spread / beliefs.noise[:, None] ** 2
    mean = np.matmul(axes[prior], shift[:, :, None])[:, :, 0]
    fit = (total - (along * shift).sum(axis=1)) / beliefs.noise**2
    log = -0.5 * (fit + np.log1p(told).sum(axis=1) + 2 * seen.size * np.log(beliefs.noise))
    return _Weighed(log + beliefs.log, mean, axes, spread, prior)


def _sum_log(log: Array) -> Array:
    """Logarithm of the sum of exponentials over the first axis."""
    top = log.max(axis=0)
    return top + np.log(np.exp(log - top).sum(axis=0))


def _left_out(rows: Array, seen: Array, beliefs: Beliefs, weighed: _Weighed) -> tuple[Array, Array]:
    """Logarithm of the odds that each reading is bad, and how far it stands off the others, shape (n,) each."""
    log = weighed.log
    weight = np.exp(log - _sum_log(log))
    # beliefs that count for nothing need no second look
    some = weight > 1e-5 * weight.max()
    some |= log > log.max() - 30
    use = np.flatnonzero(some)
    if use.size > 60:
        use = use[np.argsort(-log[use])[:60]]
    lever = np.minimum(weighed.lever(rows, use) / beliefs.noise[use, None] ** 2, 1 - 1e-9)
    off = (seen - weighed.mean[use] @ rows.T) / (1 - lever)
    spread = beliefs.noise[use, None] / np.sqrt(1 - lever)
    own = -0.5 * (off / spread) ** 2 - np.log(spread * math.sqrt(2 * math.pi))
    without = _sum_log(log[use, None] - own) - math.log(BAD_REACH)
    odds = math.log(BAD / (1 - BAD)) + without - _sum_log(log)
    # how far it stands off is told by the beliefs that are likely once it is left out
    share = log[use, None] - own
    share = np.exp(share - share.max(axis=0))
    return odds, (share * off).sum(axis=0) / share.sum(axis=0)


def fit_bed(
    survey: Survey,
    bed: Bed | None = None,
    repeatability: float | None = None,
    repeatability_dof: float = math.inf,
    *,
    aside: Sequence[int] = (),
    kept: Sequence[int] = (),
    settle: bool = True,
    seconds: Sequence[float] | None = None,
    drift_sd: float | None = None,
) -> BedFit:
    """Find the bed behind the readings.

    Height is a polynomial over the printable area plus noise.  Level and tilt may be anything; bow and twist, and the
    smooth rest of higher degree, are as large as the readings make likely, averaged over a set of sizes by their
    evidence.  So the shape is not taken for noise, the tilt is that of the whole area, and places that cannot tell a
    bow from a tilt make the margin wide.  Where no repeatability was measured the noise is weighed in the same way,
    with a first belief of ``PRIOR_SD`` worth ``PRIOR_WEIGHT`` readings.  A reading which is far likelier to be bad
    than to belong to any such bed is set aside; one that may be bad counts with and without it.

    Parameters
    ----------
    survey : Survey
    bed : Bed, optional
        The printable area; the rectangle round the readings when not given.
    repeatability : float, optional
        Standard deviation of repeated readings at one place, mm.
    repeatability_dof : float
        Degrees of freedom behind it: touches less one, infinite when it is simply known.
    aside : sequence of int
        Readings that were set aside already.
    kept : sequence of int
        Readings that a person wants to count, however odd.
    settle : bool
        Whether readings may be set aside here; where that was settled before, one that may be bad still counts with
        and without it.
    seconds : sequence of float, shape (n,), optional
        When each was taken; with them a drift along the walk is part of what is not known.
    drift_sd : float, optional
        How far that drift may still be from nothing, standard deviation over the whole walk, mm.

    Returns
    -------
    BedFit

    Raises
    ------
    OutOfRangeError

    References
    ----------
    Bayesian linear regression with Gaussian priors, averaged over their sizes by the evidence (textbook result);
    leave-one-out formulas of linear smoothers (textbook result).

    Examples
    --------
    A dome without noise has no tilt, and is not taken for noise:

    >>> x, y = (a.ravel() for a in np.meshgrid([20.0, 100, 180], [20.0, 100, 180]))
    >>> dome = 0.2 - 0.00002 * ((x - 100) ** 2 + (y - 100) ** 2) / 2
    >>> fit = fit_bed(Survey(x, y, dome), Bed(200, 200))
    >>> abs(round(fit.plane.a * 200, 3)), fit.noise < 0.012
    (0.0, True)
    """
    if repeatability is not None:
        if not (math.isfinite(repeatability) and 0 <= repeatability <= 1):
            raise OutOfRangeError("surveys.repeatability_mm")
        if not repeatability_dof >= 1:
            raise OutOfRangeError("surveys.repeatability_two_touches_more")
    bed = bed or around(survey)
    n = len(survey)
    base = fit_plane(survey).plane
    seen = survey.height - base.at(survey.x, survey.y)
    rows = terms(bed, survey.x, survey.y)
    timed = seconds is not None
    if timed:
        when = np.asarray(seconds, dtype=np.float64)
        span = max(float(np.ptp(when)), 1e-9)
        rows = np.column_stack([rows, (when - when.mean()) / span])
    drift = (DRIFT_SD if drift_sd is None else drift_sd) if timed else None
    beliefs = beliefs_about(repeatability, repeatability_dof, drift)

    out = np.zeros(n, dtype=bool)
    out[list(aside)] = True
    never = np.zeros(n, dtype=bool)
    never[list(kept)] = True
    thin = np.linspace(0, n - 1, FULL).astype(int) if n > FULL else np.arange(n)
    stray = np.zeros(n)
    suspects: list[tuple[int, float]] = []
    for _ in range(max(1, n // 5) + 1):
        use = thin[~out[thin]]
        evidence = _evidence(rows[use], seen[use], beliefs)
        if use.size <= MIN_KEPT:
            break
        odds, off = _left_out(rows[use], seen[use], beliefs, evidence)
        stray[use] = off
        odds = np.where(never[use] | (np.abs(off) < MIN_STRAY), -np.inf, odds)
        worst = int(np.argmax(odds))
        chance = special.expit(odds)
        if settle and chance[worst] >= SURELY_BAD and out.sum() < max(1, n // 5):
            out[use[worst]] = True
            continue
        order = np.argsort(-chance)[:MAX_SUSPECTS]
        suspects = [(int(use[i]), float(chance[i])) for i in order if chance[i] >= SUSPECT]
        break
    if n > FULL:
        use = np.flatnonzero(~out)
        some = np.exp(evidence.log - _sum_log(evidence.log)) > 1e-4
        beliefs = Beliefs(beliefs.priors, beliefs.prior[some], beliefs.noise[some], beliefs.log[some])
        # the sizes keep the weights that the selection gave them
        evidence = replace(_evidence(rows[use], seen[use], beliefs), log=evidence.log[some])

    groups = [(evidence, 1.0)]
    left = 1.0
    for i, chance in suspects:
        rest = use[use != i]
        groups.append((_evidence(rows[rest], seen[rest], beliefs), chance))
        left -= chance
    groups[0] = (evidence, max(left, 0.05))
    return _joined(survey, bed, base, rows, use, beliefs, groups, out, stray, repeatability is not None)


def _joined(
    survey: Survey,
    bed: Bed,
    base: Plane,
    rows: Array,
    use: Indices,
    beliefs: Beliefs,
    groups: Sequence[tuple[_Weighed, float]],
    out: Mask,
    stray: Array,
    known: bool,
) -> BedFit:
    p = len(orders())
    components = []
    total = sum(share for _, share in groups)
    for group, share in groups:
        weight = np.exp(group.log - _sum_log(group.log)) * share / total
        for k in np.flatnonzero(weight > 1e-4 * weight.max()):
            block = group.covariance(int(k))[:p, :p]
            components.append((float(weight[k]), group.mean[k][:p], block, float(beliefs.noise[k])))
    weights = np.array([component[0] for component in components])
    weights /= weights.sum()
    means = np.array([component[1] for component in components])
    blocks = np.array([component[2] for component in components])
    noises = np.array([component[3] for component in components])
    mean = weights @ means
    between = means - mean
    covariance = np.einsum("k,kpq->pq", weights, blocks) + np.einsum("k,kp,kq->pq", weights, between, between)
    noise = math.sqrt(float(weights @ noises**2))

    # from the polynomials to a plane in mm per mm, with the level of the plane at x = y = 0
    to_plane = np.zeros((3, p))
    to_plane[0, 1], to_plane[1, 2] = 2 / bed.width, 2 / bed.depth
    to_plane[2, :3] = (1.0, -2 * bed.centre[0] / bed.width, -2 * bed.centre[1] / bed.depth)
    a, b, c = to_plane @ mean
    plane = Plane(float(base.a + a), float(base.b + b), float(base.c + c))
    own = to_plane @ covariance @ to_plane.T

    across = np.array([bed.width, bed.depth], dtype=np.float64)
    if plane.a * plane.b < 0:
        across = across * (1, -1)
    direction = to_plane[:2].T @ across
    sds = np.sqrt(np.maximum(np.einsum("p,kpq,q->k", direction, blocks, direction), 1e-18))
    shifts = between @ direction
    quantile = _mixture_quantile(weights, shifts, sds)

    inside = fit_plane(Survey(survey.x[use], survey.y[use], survey.height[use])) if use.size >= 3 else None
    readings_only = (inside or fit_plane(survey)).unscaled * noise**2
    of_bed = math.sqrt(max(0.0, float(across @ own[:2, :2] @ across)))
    of_readings = math.sqrt(max(0.0, float(across @ readings_only[:2, :2] @ across)))
    told = not (of_bed > EXTRAPOLATED * of_readings and quantile * (of_bed - of_readings) > TELLING)

    shape = mean.copy()
    shape[0] += base.c + base.a * bed.centre[0] + base.b * bed.centre[1]
    shape[1] += base.a * bed.width / 2
    shape[2] += base.b * bed.depth / 2
    lift = shape[:3] - mean[:3]
    made = []
    for weight, item, block, size in zip(weights, means, blocks, noises, strict=True):
        moved = item.copy()
        moved[:3] += lift
        made.append(Component(float(weight), moved, _root(block), float(size)))
    return BedFit(
        bed=bed,
        plane=plane,
        covariance=own,
        quantile=quantile,
        noise=noise,
        noise_known=known,
        noise_plane=readings_only,
        shape=shape,
        aside=tuple(int(i) for i in np.flatnonzero(out)),
        stray=stray,
        told=told,
        assumed=None if known else _assumed(survey, use.size, noise),
        components=tuple(made),
    )


def _assumed(survey: Survey, count: int, noise: float) -> str | None:
    if float(np.ptp(survey.height)) == 0.0:
        return (
            f"All readings are equal: that says little about how well they repeat. ±{2 * noise:.2f} mm is assumed; "
            "a probe test says it better."
        )
    if count <= 6:
        return f"{count} readings cannot say how well they repeat. ±{2 * noise:.2f} mm is assumed; a probe test says it better."
    return None


def _root(covariance: Array) -> Array:
    """A square root; the triangular one does not jump when a number changes by a hair."""
    try:
        return np.asarray(np.linalg.cholesky(covariance), dtype=np.float64)
    except np.linalg.LinAlgError:  # on the border of what a double can tell
        values, vectors = np.linalg.eigh((covariance + covariance.T) / 2)
        return vectors * np.sqrt(np.maximum(values, 0.0))


def _mixture_quantile(weights: Array, shifts: Array, sds: Array) -> float:
    """Half width that holds 95 % of a mixture of normals about its mean, in its standard deviations."""
    sd = math.sqrt(float(weights @ (sds**2 + shifts**2)))
    if sd <= 1e-12:
        return Z95
    low, high = 0.5, 8.0
    for _ in range(40):
        half = (low + high) / 2
        held = weights @ (
            special.ndtr((half * sd - shifts) / sds) - special.ndtr((-half * sd - shifts) / sds)
        )
        low, high = (half, high) if held < CONFIDENCE else (low, half)
    return (low + high) / 2


def around(*surveys: Survey) -> Bed:
    """Give a bed as large as the readings, where no better is known."""
    x0, y0 = (min(float(getattr(survey, axis).min()) for survey in surveys) for axis in "xy")
    x1, y1 = (max(float(getattr(survey, axis).max()) for survey in surveys) for axis in "xy")
    return _Box(max(x1 - x0, 1.0), max(y1 - y0, 1.0), x0, y0)  # type: ignore[return-value]


@dataclass(frozen=True)
class _Box:
    """The rectangle round readings: what `terms` needs of a bed."""

    width: float
    depth: float
    x_min: float
    y_min: float

    @property
    def centre(self) -> tuple[float, float]:
        """Middle, mm."""
        return self.x_min + self.width / 2, self.y_min + self.depth / 2

    @property
    def x_max(self) -> float:
        """Right edge, mm."""
        return self.x_min + self.width

    @property
    def y_max(self) -> float:
        """Back edge, mm."""
        return self.y_min + self.depth
