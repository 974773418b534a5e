"""What a mesh leaves of the shape it follows, between its points and beyond its rim."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import RBFInterpolator, RegularGridInterpolator
from scipy.spatial import cKDTree

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array, Mask
from finchwort.core.base.statistics import Z95
from finchwort.core.compensation.mesh import MAX_SIDE, MIN_SIDE, Mesh, interpolate
from finchwort.core.printers import Bed
from finchwort.core.surveys import NEAR, Survey, fit_plane, joined

FOLDS = 8
"""Into so many parts the readings are split, each predicted from the others."""
MAX_KNOWN = 400
"""Of a larger survey an even selection is used for cross-validation."""


def left_between(
    survey: Survey, columns: int, rows: int, method: str = "bilinear", folds: int = FOLDS
) -> Array:
    """What a mesh leaves between its points, by cross-validation.

    The survey loses its tilt.  Its readings are split into parts; each part is
    predicted by a mesh that knows only the others: a thin plate is laid through
    them, taken at the mesh's nodes, and interpolated as machines do.

    Parameters
    ----------
    survey : Survey
    columns, rows : int
    method : str
    folds : int

    Returns
    -------
    ndarray, shape (n,)
        Reading minus mesh, mm; noise of the readings included.
    """
    if not (MIN_SIDE <= columns <= MAX_SIDE and MIN_SIDE <= rows <= MAX_SIDE):
        raise OutOfRangeError("compensation.mesh_points_side", min_side=MIN_SIDE, max_side=MAX_SIDE)
    merged = joined(survey)
    if len(merged) < len(survey):
        left = left_between(merged, columns, rows, method, folds)
        if len(left) < len(merged):
            return left
        # every reading gets what its own place leaves
        own = cKDTree(np.column_stack([merged.x, merged.y])).query(np.column_stack([survey.x, survey.y]))[1]
        return left[own]
    x, y, z = survey.x, survey.y, fit_plane(survey).residual
    if len(survey) > MAX_KNOWN:
        keep = np.linspace(0, len(survey) - 1, MAX_KNOWN).astype(int)
        x, y, z = x[keep], y[keep], z[keep]
    places = np.column_stack([x, y])
    xs, ys = np.linspace(x.min(), x.max(), columns), np.linspace(y.min(), y.max(), rows)
    grid_x, grid_y = np.meshgrid(xs, ys)
    nodes = np.column_stack([grid_x.ravel(), grid_y.ravel()])
    # every fold takes places from all over the bed: a fixed shuffle, the same each time
    part = np.random.default_rng(20).permutation(x.size) % min(folds, x.size)
    left = np.empty(x.size)
    for k in range(part.max() + 1):
        out = part == k
        plate = RBFInterpolator(places[~out], z[~out], kernel="thin_plate_spline", degree=1)
        mesh = Mesh(xs, ys, plate(nodes).reshape(rows, columns))
        left[out] = z[out] - interpolate(mesh, x[out], y[out], method)
    return left


@dataclass(frozen=True, eq=False)
class MeshLeft:
    """What a mesh leaves of the bed.

    Attributes
    ----------
    rms, worst : float
        Between the outermost points: root mean square, and what 19 of 20 places keep within, mm.
    rim : float or None
        Beyond the outermost points, where a machine carries the rim's height on: root mean square, mm; None when the
        points reach the edge.
    at_readings : ndarray, shape (n,)
        The largest that is left in the cells round each reading, with its sign, mm.
    by : {"curvature", "validation"}
        How it was found: from the curvature between the points and their noise, or by the readings that the mesh does
        not use.
    """

    rms: float
    worst: float
    rim: float | None
    at_readings: Array
    by: str


def left_by_mesh(survey: Survey, mesh: Mesh, bed: Bed, noise: float, method: str = "bilinear") -> MeshLeft:
    """Say what a mesh leaves of the bed, between its points and beyond them.

    Where every reading is a point of the mesh nothing is left over to judge it by, so the curvature between the points
    tells: a straight line over a cell of width h misses a bed of curvature k by k h² / 8 in its middle, and the noise
    of the points comes through it.  Second differences show the curvature, less what the noise puts into them.  A
    coarser mesh is judged by the readings that it does not go through.

    Parameters
    ----------
    survey : Survey
    mesh : Mesh
        Made from it.
    bed : Bed
    noise : float
        Standard deviation of one reading, mm.
    method : {"bilinear", "bicubic"}

    Returns
    -------
    MeshLeft

    References
    ----------
    Error of linear interpolation (textbook result).
    """
    off = survey.height - interpolate(mesh, survey.x, survey.y, method)
    at_node = _at_nodes(survey, mesh)
    free = ~at_node & _within(mesh, survey.x, survey.y)
    if free.sum() >= max(6, 0.2 * len(survey)) and mesh.heights.size < 0.7 * len(survey):
        # these readings have noise of their own, which is not the bed's
        square = max(float(np.mean(off[free] ** 2)) - noise**2, 0.1 * float(np.mean(off[free] ** 2)))
        worst = math.sqrt(square / float(np.mean(off[free] ** 2)) + 1e-12) * float(
            np.quantile(np.abs(off[free]), 0.95)
        )
        return MeshLeft(math.sqrt(square), worst, _rim(mesh, bed, noise), off, "validation")
    curve_x, curve_y, square_x, square_y = _bulges(mesh)
    spline = method == "bicubic" and min(mesh.heights.shape) >= 4
    if spline:
        # a spline follows a bulge that its neighbours share; what changes from cell to cell it misses
        curve_x, curve_y = _unshared(curve_x, 1), _unshared(curve_y, 0)
        square_x, square_y = curve_x**2, curve_y**2
    # over a cell a and b times 4 s (1 - s): mean squares 8/15 and product 4/9
    part = 8 / 15 * (square_x + square_y) + 2 * 4 / 9 * curve_x * curve_y
    noisy = 8 / 15 * 2 * 6 * noise**2 / 64
    square = max(float(part.mean()) - (0.25 * noisy if spline else noisy), 0.0)
    through = noise**2 * (0.8 if spline else 4 / 9)
    middles = -(curve_x + curve_y)
    shrunk = math.sqrt(square / max(float(part.mean()), 1e-18))
    spread = np.hypot(np.abs(middles).ravel() * min(1.0, shrunk), math.sqrt(through))
    worst = max(float(np.quantile(spread, 0.95)), Z95 * math.sqrt(through))
    return MeshLeft(
        math.sqrt(square + through),
        worst,
        _rim(mesh, bed, noise),
        _round_readings(survey, mesh, middles * min(1.0, shrunk)),
        "curvature",
    )


def _at_nodes(survey: Survey, mesh: Mesh) -> Mask:
    near_x = np.abs(survey.x[:, None] - mesh.xs).min(axis=1) <= NEAR
    near_y = np.abs(survey.y[:, None] - mesh.ys).min(axis=1) <= NEAR
    return near_x & near_y


def _within(mesh: Mesh, x: Array, y: Array) -> Mask:
    return (x >= mesh.xs[0]) & (x <= mesh.xs[-1]) & (y >= mesh.ys[0]) & (y <= mesh.ys[-1])


def _bulges(mesh: Mesh) -> tuple[Array, Array, Array, Array]:
    """How far the bed stands off the straight line in the middle of every cell along X and along Y, mm, and the squares.

    The squares are means over what the cell's corners say, not the square of their mean: where the curvature changes
    from node to node the mean would hide it.
    """

    def along(heights: Array) -> Array:
        if heights.shape[1] < 3:
            return np.zeros(heights.shape)
        second = (heights[:, :-2] - 2 * heights[:, 1:-1] + heights[:, 2:]) / 8
        return np.hstack([second[:, :1], second, second[:, -1:]])

    def cells(values: Array) -> Array:
        return (values[1:, 1:] + values[1:, :-1] + values[:-1, 1:] + values[:-1, :-1]) / 4

    by_x, by_y = along(mesh.heights), along(mesh.heights.T).T
    return cells(by_x), cells(by_y), cells(by_x**2), cells(by_y**2)


def _unshared(bulges: Array, axis: int) -> Array:
    """What of a bulge its neighbours do not share, halved as a spline meets it on both sides."""
    if bulges.shape[axis] < 3:
        return bulges / 4
    moved = np.gradient(bulges, axis=axis)
    return moved / 2


def _rim(mesh: Mesh, bed: Bed, noise: float) -> float | None:
    """Root mean square of what is left beyond the outermost points, mm.

    The machine carries the rim's height on; the bed goes on as its last points do.
    """
    x, y = (
        a.ravel()
        for a in np.meshgrid(np.linspace(bed.x_min, bed.x_max, 31), np.linspace(bed.y_min, bed.y_max, 31))
    )
    out = ~_within(mesh, x, y)
    if not out.any():
        return None
    x, y = x[out], y[out]
    xs, heights = _carried_on(mesh.xs, mesh.heights, bed.x_min, bed.x_max)
    ys, turned = _carried_on(mesh.ys, heights.T, bed.y_min, bed.y_max)
    wide = RegularGridInterpolator((ys, xs), turned.T)(np.column_stack([y, x]))
    rise = wide - interpolate(mesh, x, y)
    return math.sqrt(float(np.mean(rise**2)) + noise**2 * 4 / 9)


def _carried_on(places: Array, heights: Array, low: float, high: float) -> tuple[Array, Array]:
    """Carry rows of heights on to both edges, halfway between a straight line and a parabola through the last points."""

    def beyond(p: Array, h: Array, at: float) -> Array:
        line = h[:, 0] + (h[:, 1] - h[:, 0]) * (at - p[0]) / (p[1] - p[0])
        if p.size < 3:
            return line
        bend = ((h[:, 2] - h[:, 1]) / (p[2] - p[1]) - (h[:, 1] - h[:, 0]) / (p[1] - p[0])) / (p[2] - p[0])
        return line + 0.5 * bend * (at - p[0]) * (at - p[1])

    if low < places[0]:
        places, heights = (
            np.concatenate([[low], places]),
            np.column_stack([beyond(places, heights, low), heights]),
        )
    if high > places[-1]:
        there = beyond(places[::-1], heights[:, ::-1], high)
        places, heights = np.concatenate([places, [high]]), np.column_stack([heights, there])
    return places, heights


def _round_readings(survey: Survey, mesh: Mesh, middles: Array) -> Array:
    """The largest bulge in the cells that touch each reading, with its sign, mm."""
    columns = np.clip(np.searchsorted(mesh.xs, survey.x + NEAR) - 1, 0, mesh.xs.size - 2)
    rows = np.clip(np.searchsorted(mesh.ys, survey.y + NEAR) - 1, 0, mesh.ys.size - 2)
    best = np.zeros(len(survey))
    for dj in (0, -1):
        for di in (0, -1):
            middle = middles[
                np.clip(rows + dj, 0, middles.shape[0] - 1), np.clip(columns + di, 0, middles.shape[1] - 1)
            ]
            best = np.where(np.abs(middle) > np.abs(best), middle, best)
    return best
