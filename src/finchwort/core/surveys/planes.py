"""Planes through readings: least squares with its covariance, and the minimum zone."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.optimize import linprog
from scipy.spatial import ConvexHull

from finchwort.core.base.geometry import Array, Indices
from finchwort.core.surveys.survey import Survey

FLAT = 1e-9
"""Heights that differ by less than this from a plane are that plane, mm."""
HULL_FROM = 13
"""From so many readings on it pays to look at the convex hull only."""
PRIOR_SD = 0.012
"""What a reading is trusted to before its own survey says more, mm (ours: between a good probe's 0.006 and paper's 0.02)."""
PRIOR_WEIGHT = 3
"""How many spare readings that first belief is worth (ours)."""


@dataclass(frozen=True)
class Plane:
    """Height = a x + b y + c.

    Attributes
    ----------
    a, b : float
        Slope along X and Y, mm per mm.
    c : float
        Height at x = 0, y = 0, mm.
    """

    a: float
    b: float
    c: float

    def at(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Height of the plane at a place or places, mm."""
        along, across = np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)
        return np.asarray(self.a * along + self.b * across + self.c)


@dataclass(frozen=True, eq=False)
class PlaneFit:
    """A least-squares plane and how far to trust it.

    Attributes
    ----------
    plane : Plane
    unscaled : ndarray, shape (3, 3)
        Covariance of (a, b, c) for readings of unit variance: inv(X'X) with X = [x, y, 1].
    residual : ndarray, shape (n,)
        Reading minus plane, mm.
    dof : int
        Readings less the three values fitted.
    """

    plane: Plane
    unscaled: Array
    residual: Array
    dof: int

    @property
    def residual_sd(self) -> float:
        """Standard deviation of the readings about the plane, mm; NaN without spare readings."""
        if self.dof == 0:
            return float("nan")
        return float(np.sqrt(self.residual @ self.residual / self.dof))

    @property
    def covariance(self) -> Array:
        """Covariance of (a, b, c) from the residuals; NaN without spare readings."""
        return self.unscaled * self.residual_sd**2


def fit_plane(survey: Survey) -> PlaneFit:
    """Fit a plane by least squares of the heights.

    Heights are taken along Z, not square to the plane: at a tilt of 1 mm in
    200 mm the two differ by some parts in 100,000.

    Parameters
    ----------
    survey : Survey

    Returns
    -------
    PlaneFit

    References
    ----------
    ISO 12781-1:2011, least squares reference plane.

    Examples
    --------
    >>> fit = fit_plane(Survey([0, 100, 0, 100], [0, 0, 100, 100], [0.0, 0.1, 0.2, 0.3]))
    >>> round(fit.plane.a, 6), round(fit.plane.b, 6), abs(round(fit.plane.c, 6))
    (0.001, 0.002, 0.0)
    """
    n = len(survey)
    xm, ym, zm = survey.x.mean(), survey.y.mean(), survey.height.mean()
    dx, dy, dz = survey.x - xm, survey.y - ym, survey.height - zm
    sxx, syy, sxy = dx @ dx, dy @ dy, dx @ dy
    sxz, syz = dx @ dz, dy @ dz
    det = sxx * syy - sxy * sxy
    a = (syy * sxz - sxy * syz) / det
    b = (sxx * syz - sxy * sxz) / det
    slopes = np.array([[syy, -sxy], [-sxy, sxx]]) / det
    mean = np.array([xm, ym])
    cross = -slopes @ mean
    unscaled = np.empty((3, 3))
    unscaled[:2, :2] = slopes
    unscaled[:2, 2] = unscaled[2, :2] = cross
    unscaled[2, 2] = 1 / n + mean @ slopes @ mean
    residual = dz - a * dx - b * dy
    plane = Plane(float(a), float(b), float(zm - a * xm - b * ym))
    return PlaneFit(plane, unscaled, residual, n - 3)


def hull_indices(survey: Survey, residual: Array) -> Indices:
    """Indices of the readings that can be highest or lowest under any tilt.

    Adding a plane to the readings keeps the corners of their convex hull the
    corners, so only these need looking at when the tilt is varied.

    Parameters
    ----------
    survey : Survey
    residual : ndarray, shape (n,)
        Heights with some plane taken out, mm.
    """
    size = float(np.ptp(residual))
    if len(survey) < HULL_FROM or size < FLAT:
        return np.arange(len(survey))
    points = np.column_stack(
        [
            (survey.x - survey.x.mean()) / np.ptp(survey.x),
            (survey.y - survey.y.mean()) / np.ptp(survey.y),
            residual / size,
        ]
    )
    return ConvexHull(points).vertices


def fit_minimum_zone(survey: Survey) -> Plane:
    """Find the plane midway between the two closest parallel planes that enclose all readings.

    Minimises the greatest distance of a reading from the plane, by a linear
    programme over the corners of the convex hull.

    Parameters
    ----------
    survey : Survey

    Returns
    -------
    Plane

    References
    ----------
    ISO 12781-1:2011, minimum zone reference planes.

    Examples
    --------
    >>> p = fit_minimum_zone(Survey([0, 10, 0, 10, 5], [0, 0, 10, 10, 5], [0, 0, 0, 0, 0.2]))
    >>> abs(round(p.a, 9)), abs(round(p.b, 9)), round(p.c, 9)
    (0.0, 0.0, 0.1)
    """
    fit = fit_plane(survey)
    size = float(np.ptp(fit.residual))
    if size < FLAT:
        return fit.plane
    corners = hull_indices(survey, fit.residual)
    xm, ym = survey.x.mean(), survey.y.mean()
    half_x, half_y = np.ptp(survey.x) / 2, np.ptp(survey.y) / 2
    u, v = (survey.x[corners] - xm) / half_x, (survey.y[corners] - ym) / half_y
    w = fit.residual[corners] / size
    ones = np.ones_like(u)
    # unknowns: slope u, slope v, level, half width of the zone
    above = np.column_stack([-u, -v, -ones, -ones])
    below = np.column_stack([u, v, ones, -ones])
    result = linprog(
        [0, 0, 0, 1],
        A_ub=np.vstack([above, below]),
        b_ub=np.concatenate([-w, w]),
        bounds=[(None, None)] * 3 + [(0, None)],
        method="highs",
    )
    if result.x is None:  # pragma: no cover - the programme always has a solution
        return fit.plane
    du, dv, level = result.x[:3] * size
    a, b = fit.plane.a + du / half_x, fit.plane.b + dv / half_y
    c = fit.plane.c + level - du / half_x * xm - dv / half_y * ym
    return Plane(float(a), float(b), float(c))
