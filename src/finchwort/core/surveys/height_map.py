"""The bed as a landscape: heights on a regular grid, and the steps of its contours."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import (
    LinearNDInterpolator,
    NearestNDInterpolator,
    RBFInterpolator,
    RectBivariateSpline,
    RegularGridInterpolator,
)
from scipy.spatial import ConvexHull, cKDTree

from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import millimetres
from finchwort.core.printers import Bed
from finchwort.core.surveys.planes import Plane, fit_plane
from finchwort.core.surveys.survey import NEAR, Survey, joined

GRID = 33
"""Points along the longer side of a relief."""
STEPS = (0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0)
"""Contour steps that read well, mm; finer ones would draw the noise of the probe."""
MIN_TINT = 0.1
"""The deepest tint stands for at least this height, so that a level bed looks level, mm."""
MAX_CONTOURS = 9
"""About so many contour lines stay legible."""
SMOOTH_TO = 200
"""Up to so many scattered readings a thin plate is laid through them all."""
SAME_PLACE = NEAR
OVERSHOOT, MIN_OVERSHOOT = 0.5, 0.02
"""Between its readings a surface goes beyond them by no more than this share of their range, and this, mm (ours)."""
DOUBTED = 0.05
"""A surface that would have gone this much further is doubted aloud, mm (ours)."""
MAX_LEVELS = 60
"""More contour lines are not drawn."""
FAR_ZERO = 0.5
"""When zero lies further off the readings than this share of their spread, heights are shown from their mean."""


@dataclass(frozen=True, eq=False)
class Relief:
    """Heights on a regular grid over the printable area.

    Attributes
    ----------
    xs, ys : ndarray
        Places of the columns and rows, mm.
    heights : ndarray, shape (len(ys), len(xs))
        mm, positive towards the nozzle.
    beyond : float
        How much further than the readings and a margin the surface would have gone, mm; it was held there.
    """

    xs: Array
    ys: Array
    heights: Array
    beyond: float = 0.0

    @property
    def doubt(self) -> str | None:
        """Said when the surface between the readings cannot be trusted."""
        if self.beyond <= DOUBTED:
            return None
        return (
            f"Between the readings the surface would go {millimetres(self.beyond)} further than any of them. It was held near "
            "them: read those places again, or look whether two readings contradict each other."
        )

    @property
    def middle(self) -> float:
        """Height in the middle of the bed, mm."""
        rows, columns = ([(n - 1) // 2, n // 2] for n in self.heights.shape)
        return float(self.heights[np.ix_(rows, columns)].mean())

    def at(self, x: ArrayLike, y: ArrayLike) -> Array:
        """Heights at places, between the grid's by straight lines, mm."""
        look = RegularGridInterpolator((self.ys, self.xs), self.heights, bounds_error=False, fill_value=None)
        return look(np.column_stack([np.ravel(y), np.ravel(x)]))

    def rise(self, reach: float) -> float:
        """How much higher the bed gets within a square of that half-width around its middle, mm."""
        x, y = np.meshgrid(
            (self.xs[0] + self.xs[-1]) / 2 + np.linspace(-reach, reach, 15),
            (self.ys[0] + self.ys[-1]) / 2 + np.linspace(-reach, reach, 15),
        )
        return max(0.0, float(self.at(x, y).max()) - self.middle)

    def with_added(self, heights: Array) -> Relief:
        """Return the relief with heights on its grid added, shape (len(ys), len(xs))."""
        return Relief(self.xs, self.ys, self.heights + heights, self.beyond)

    def plus(self, a: float, b: float, c: float) -> Relief:
        """Return the relief with the plane a x + b y + c added."""
        return Relief(self.xs, self.ys, self.heights + a * self.xs + (b * self.ys)[:, None] + c, self.beyond)


def make_relief(survey: Survey, bed: Bed, plane: Plane | None = None) -> Relief:
    """Lay a surface through the readings.

    The least-squares plane is taken out, the rest is interpolated (a spline
    for a full grid of readings, a thin plate for few scattered ones, triangles
    for many) and held constant beyond the outermost readings, then the plane is
    put back.  Without the plane it stays within the readings and a margin (`OVERSHOOT`, `MIN_OVERSHOOT`).

    Parameters
    ----------
    survey : Survey
    bed : Bed
    plane : Plane, optional
        The least-squares plane, when it is known already.

    Returns
    -------
    Relief

    Examples
    --------
    >>> s = Survey([0, 100, 0, 100], [0, 0, 100, 100], [0, 0.1, 0.2, 0.3])
    >>> relief = make_relief(s, Bed(100, 100))
    >>> relief.heights.shape, round(float(relief.heights[-1, -1]), 6)
    ((33, 33), 0.3)
    """
    plane = plane or fit_plane(survey).plane
    survey = joined(survey)
    cell = max(bed.width, bed.depth) / (GRID - 1)
    xs = np.linspace(bed.x_min, bed.x_max, max(9, round(bed.width / cell) + 1))
    ys = np.linspace(bed.y_min, bed.y_max, max(9, round(bed.depth / cell) + 1))
    rest = survey.height - plane.at(survey.x, survey.y)
    free = np.zeros((ys.size, xs.size)) if np.ptp(rest) < 1e-09 else _interpolate(survey, rest, xs, ys)
    # no surface through readings goes much further than they do
    margin = OVERSHOOT * float(np.ptp(rest)) + MIN_OVERSHOOT
    heights = np.clip(free, rest.min() - margin, rest.max() + margin)
    beyond = float(np.abs(free - heights).max())
    return Relief(xs, ys, heights + plane.a * xs + (plane.b * ys)[:, None] + plane.c, beyond)


def _interpolate(survey: Survey, rest: Array, xs: Array, ys: Array) -> Array:
    columns, rows = np.unique(survey.x), np.unique(survey.y)
    if columns.size * rows.size == len(survey) and min(columns.size, rows.size) >= 2:
        order = np.lexsort((survey.x, survey.y))
        table = rest[order].reshape(rows.size, columns.size)
        spline = RectBivariateSpline(
            rows, columns, table, kx=min(3, rows.size - 1), ky=min(3, columns.size - 1)
        )
        return spline(np.clip(ys, rows[0], rows[-1]), np.clip(xs, columns[0], columns[-1]))
    places = np.column_stack([survey.x, survey.y])
    grid_x, grid_y = np.meshgrid(xs, ys)
    grid = np.column_stack([grid_x.ravel(), grid_y.ravel()])
    if len(survey) <= SMOOTH_TO:
        values = RBFInterpolator(places, rest, kernel="thin_plate_spline", degree=1)(onto_hull(places, grid))
    else:
        values = LinearNDInterpolator(places, rest)(grid)
        outside = np.isnan(values)
        if outside.any():
            values[outside] = NearestNDInterpolator(places, rest)(grid[outside])
    return values.reshape(grid_x.shape)


def onto_hull(places: Array, asked: Array) -> Array:
    """Move places beyond the outermost readings to the nearest place among them.

    Parameters
    ----------
    places : ndarray, shape (n, 2)
        Of the readings, mm.
    asked : ndarray, shape (k, 2)
        mm

    Returns
    -------
    ndarray, shape (k, 2)

    Examples
    --------
    >>> corners = np.array([[0.0, 0.0], [10.0, 0.0], [0.0, 10.0]])
    >>> onto_hull(corners, np.array([[2.0, 2.0], [10.0, 10.0], [-3.0, 4.0]])).tolist()
    [[2.0, 2.0], [5.0, 5.0], [0.0, 4.0]]
    """
    hull = ConvexHull(places)
    outside = (asked @ hull.equations[:, :2].T + hull.equations[:, 2] > 1e-9).any(axis=1)
    if not outside.any():
        return asked
    moved = asked.copy()
    corners = places[hull.vertices]
    begin, way = corners, np.roll(corners, -1, axis=0) - corners
    far = asked[outside]
    along = np.einsum("kij,ij->ki", far[:, None, :] - begin[None], way) / (way**2).sum(axis=1)
    nearest = begin[None] + np.clip(along, 0.0, 1.0)[:, :, None] * way[None]
    distance = ((far[:, None, :] - nearest) ** 2).sum(axis=2)
    moved[outside] = nearest[np.arange(len(far)), distance.argmin(axis=1)]
    return moved


def surface_at(survey: Survey, x: Array, y: Array) -> tuple[Array, Array]:
    """Height of the surface through the readings at other places.

    Parameters
    ----------
    survey : Survey
    x, y : ndarray, shape (k,)
        mm

    Returns
    -------
    heights : ndarray, shape (k,)
        mm; exact where a place was read itself.
    inside : ndarray of bool, shape (k,)
        Whether the place lies among the readings.

    Examples
    --------
    >>> s = Survey([0, 100, 0, 100], [0, 0, 100, 100], [0, 0.1, 0.2, 0.3])
    >>> heights, inside = surface_at(s, np.array([50.0, 150.0]), np.array([50.0, 50.0]))
    >>> heights.round(6).tolist()[0], inside.tolist()
    (0.15, [True, False])
    """
    survey = joined(survey)
    plane = fit_plane(survey).plane
    places = np.column_stack([survey.x, survey.y])
    asked = np.column_stack([x, y])
    edges = ConvexHull(places).equations
    inside = (asked @ edges[:, :2].T + edges[:, 2] <= SAME_PLACE).all(axis=1)
    rest = survey.height - plane.at(survey.x, survey.y)
    if len(survey) <= SMOOTH_TO:
        heights = RBFInterpolator(places, rest, kernel="thin_plate_spline", degree=1)(asked)
    else:
        heights = LinearNDInterpolator(places, rest)(asked)
        lost = np.isnan(heights)
        if lost.any():
            heights[lost] = NearestNDInterpolator(places, rest)(asked[lost])
    near, which = cKDTree(places).query(asked)
    same = near <= SAME_PLACE
    heights[same] = rest[which[same]]
    return heights + plane.at(x, y), inside


def contour_step(spread: float) -> float:
    """Choose a step for contour lines.

    Parameters
    ----------
    spread : float
        Highest minus lowest height, mm.

    Examples
    --------
    >>> contour_step(0.4), contour_step(0.0), contour_step(0.08)
    (0.05, 0.02, 0.02)
    """
    for step in STEPS:
        if spread / step <= MAX_CONTOURS:
            return step
    return STEPS[-1]


def contour_levels(low: float, high: float, step: float) -> list[float]:
    """Heights of the contour lines between two heights, mm, multiples of the step.

    Examples
    --------
    >>> contour_levels(-0.12, 0.06, 0.05)
    [-0.1, -0.05, 0.0, 0.05]
    """
    first, last = math.ceil(low / step - 1e-9), math.floor(high / step + 1e-9)
    every = max(1, math.ceil((last - first + 1) / MAX_LEVELS))
    return [round(i * step, 6) + 0.0 for i in range(first, last + 1) if i % every == 0]


def tint_limit(low: float, high: float) -> float:
    """Give the height at which the tints are deepest, equal on both sides of zero, mm.

    Examples
    --------
    >>> tint_limit(-0.12, 0.33), tint_limit(0.0, 0.004)
    (0.35, 0.1)
    """
    reach = max(abs(low), abs(high), MIN_TINT)
    step = 0.05 if reach <= 0.6 else 0.25 if reach <= 3 else 1.0
    return round(math.ceil(reach / step - 1e-9) * step, 6)


def shown_datum(low: float, high: float, mean: float) -> float:
    """Give the height from which a map is best shown, mm.

    Zero of the nozzle's scale as long as it is near the readings, otherwise
    their mean.

    Examples
    --------
    >>> shown_datum(-0.1, 0.3, 0.1), shown_datum(1.1, 1.3, 1.2)
    (0.0, 1.2)
    """
    reach = FAR_ZERO * (high - low)
    if low - reach <= 0 <= high + reach:
        return 0.0
    return round(mean, 2)


def measured_outline(survey: Survey) -> Array:
    """Corners of the area that the readings enclose, shape (m, 2), counter-clockwise, mm."""
    places = np.column_stack([survey.x, survey.y])
    return places[ConvexHull(places).vertices]
