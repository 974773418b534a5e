"""Compensation: the mesh a machine follows, what it leaves, how it fades, and when it is out of date."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import RectBivariateSpline, RegularGridInterpolator

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import millimetres
from finchwort.core.compensation.kinds import Interpolation
from finchwort.core.printers import CORNERS, Bed, usual_inset
from finchwort.core.surveys import Relief, Survey, make_relief, surface_at

METHODS = tuple(Interpolation)
MIN_SIDE, MAX_SIDE = 2, 25


@dataclass(frozen=True, eq=False)
class Mesh:
    """Heights at the nodes of a grid.

    Attributes
    ----------
    xs, ys : ndarray
        Columns and rows, mm, growing.
    heights : ndarray, shape (len(ys), len(xs))
        mm, positive towards the nozzle.
    """

    xs: Array
    ys: Array
    heights: Array

    def __post_init__(self) -> None:
        for name in ("xs", "ys", "heights"):
            object.__setattr__(self, name, np.array(getattr(self, name), dtype=np.float64))
        sides = (self.xs.size, self.ys.size)
        if self.xs.ndim != 1 or self.ys.ndim != 1 or self.heights.shape != sides[::-1]:
            raise ChoiceError("compensation.mesh_height_every_column")
        if not all(MIN_SIDE <= side <= MAX_SIDE for side in sides):
            raise OutOfRangeError("compensation.mesh_points_side", min_side=MIN_SIDE, max_side=MAX_SIDE)
        if not all(np.isfinite(values).all() for values in (self.xs, self.ys, self.heights)):
            raise NonFiniteError("compensation.height_mesh_missing")
        if (np.diff(self.xs) <= 0).any() or (np.diff(self.ys) <= 0).any():
            raise OutOfRangeError("compensation.columns_rows_mesh_grow")


def make_mesh(survey: Survey, columns: int, rows: int) -> Mesh:
    """Make a mesh over the area measured.

    Readings that lie on a node are taken as they are; the others come from the
    surface through the readings.

    Parameters
    ----------
    survey : Survey
    columns, rows : int
        2 to 25 each.

    Returns
    -------
    Mesh

    Examples
    --------
    >>> bed = Survey([0, 100, 0, 100], [0, 0, 100, 100], [0, 0.1, 0.2, 0.3])
    >>> make_mesh(bed, 3, 2).heights.round(3).tolist()
    [[0.0, 0.05, 0.1], [0.2, 0.25, 0.3]]
    """
    if not (MIN_SIDE <= columns <= MAX_SIDE and MIN_SIDE <= rows <= MAX_SIDE):
        raise OutOfRangeError("compensation.mesh_points_side", min_side=MIN_SIDE, max_side=MAX_SIDE)
    xs = np.linspace(survey.x.min(), survey.x.max(), columns)
    ys = np.linspace(survey.y.min(), survey.y.max(), rows)
    grid_x, grid_y = np.meshgrid(xs, ys)
    heights, _ = surface_at(survey, grid_x.ravel(), grid_y.ravel())
    return Mesh(xs, ys, heights.reshape(rows, columns))


def interpolate(mesh: Mesh, x: ArrayLike, y: ArrayLike, method: str = "bilinear") -> Array:
    """Height that a machine takes from a mesh.

    Beyond the outermost points the height at the rim is carried on.

    Parameters
    ----------
    mesh : Mesh
    x, y : array_like, shape (n,)
        mm
    method : {"bilinear", "bicubic"}
        Bicubic needs four points a side; with fewer its degree is lower.

    Returns
    -------
    ndarray, shape (n,)

    Examples
    --------
    >>> mesh = Mesh([0, 10], [0, 10], [[0, 1], [2, 3]])
    >>> interpolate(mesh, [5, 20], [5, 5]).tolist()
    [1.5, 2.0]
    """
    if method not in METHODS:
        raise ChoiceError("compensation.machine_interpolates_mesh_bilinearly")
    x = np.clip(np.asarray(x, dtype=np.float64), mesh.xs[0], mesh.xs[-1])
    y = np.clip(np.asarray(y, dtype=np.float64), mesh.ys[0], mesh.ys[-1])
    if method == "bilinear":
        return RegularGridInterpolator((mesh.ys, mesh.xs), mesh.heights)(np.column_stack([y, x]))
    spline = RectBivariateSpline(
        mesh.ys, mesh.xs, mesh.heights, kx=min(3, mesh.ys.size - 1), ky=min(3, mesh.xs.size - 1)
    )
    return spline.ev(y, x)


def compensate(survey: Survey, mesh: Mesh | None, kind: str = "mesh", method: str = "bilinear") -> Survey:
    """Give what the nozzle sees of the bed with compensation on.

    Parameters
    ----------
    survey : Survey
    mesh : Mesh or None
        For ``"mesh"``.
    kind : {"none", "mean", "mesh"}
        A machine that applies only the mean of its points moves everything up or
        down; tilt and shape stay.
    method : str
        See `interpolate`.

    Returns
    -------
    Survey
        Heights left, mm.

    Examples
    --------
    >>> bed = Survey([0, 100, 0, 100], [0, 0, 100, 100], [-0.1, 0.1, -0.1, 0.1])
    >>> compensate(bed, None, "mean").spread, compensate(bed, make_mesh(bed, 2, 2)).spread
    (0.2, 0.0)
    """
    if kind == "none":
        return survey
    if kind == "mean":
        return survey.with_heights(survey.height - survey.height.mean())
    if mesh is None:
        raise ChoiceError("compensation.no_mesh_compensate")
    return survey.with_heights(survey.height - interpolate(mesh, survey.x, survey.y, method))


@dataclass(frozen=True)
class MeanOnly:
    """What a machine does to a bed when its compensation applies only the mean of its points.

    Attributes
    ----------
    mean : float
        Of the readings: everything is moved by it, mm.
    middle : float
        Height of the bed's middle, mm.
    difference : float
        Middle minus mean, mm: so much too close stands the tip there with compensation on.
    corners : tuple of (name, height)
        What stays: height over the middle, mm, positive high.
    worst : float
        The largest of these without its sign, mm.
    sentences : tuple of str
    """

    mean: float
    middle: float
    difference: float
    corners: tuple[tuple[str, float], ...]
    worst: float
    sentences: tuple[str, ...]


def mean_only(survey: Survey, bed: Bed, first_layer: float) -> MeanOnly:
    """Say what compensation by the mean does to a bed, and what it leaves.

    Parameters
    ----------
    survey : Survey
        The readings the machine takes the mean of.
    bed : Bed
    first_layer : float
        mm

    Examples
    --------
    >>> found = mean_only(Survey([0, 100, 0, 100, 50], [0, 0, 100, 100, 50], [0, 0.2, 0, 0.2, 0.15]), Bed(100, 100), 0.2)
    >>> round(found.mean, 2), round(found.middle, 2), round(found.difference, 2), round(found.worst, 2)
    (0.11, 0.15, 0.04, 0.11)
    """
    relief = make_relief(survey, bed)
    inset = usual_inset(bed)
    x0, x1, y0, y1 = bed.x_min + inset, bed.x_max - inset, bed.y_min + inset, bed.y_max - inset
    x0, x1 = max(x0, float(survey.x.min())), min(x1, float(survey.x.max()))
    y0, y1 = max(y0, float(survey.y.min())), min(y1, float(survey.y.max()))
    cx, cy = bed.centre
    heights = relief.at(np.array([cx, x0, x1, x1, x0]), np.array([cy, y0, y0, y1, y1]))
    middle, mean = float(heights[0]), float(survey.height.mean())
    difference = middle - mean
    corners = tuple((name, float(h) - middle) for name, h in zip(CORNERS, heights[1:], strict=True))
    worst = max(abs(height) for _, height in corners)
    moved = "up" if mean > 0 else "down"
    sentences = [
        f"The mean of the {len(survey)} readings is {millimetres(mean, signed=True)}: the machine moves everything "
        f"{moved} by that, and takes out no tilt and no shape.",
    ]
    if abs(difference) >= 0.01:
        side = "too close" if difference > 0 else "too far"
        over = "above" if difference > 0 else "below"
        sentences.append(
            f"The middle lies at {millimetres(middle, signed=True)}, {millimetres(abs(difference))} {over} that mean: with "
            f"compensation on the tip stands {millimetres(abs(difference))} {side} there."
        )
    else:
        sentences.append("The middle lies at the mean: with compensation on the first layer is right there.")
    if abs(mean) >= 0.01:
        sentences.append(
            f"Switched on or off, the tip moves by {millimetres(abs(mean))}. Set the Z offset with it on, as it prints, and "
            "leave it on."
        )
    name, height = max(corners, key=lambda item: abs(item[1]))
    share = 100 * worst / first_layer
    how = "too close" if height > 0 else "too far"
    sentences.append(
        f"At the corners it stays as it is: most at the {name}, {millimetres(abs(height))} {how}, {share:.0f} % of the "
        "first layer."
    )
    return MeanOnly(mean, middle, difference, corners, worst, tuple(sentences))


def compensate_relief(relief: Relief, mesh: Mesh, kind: str = "mesh", method: str = "bilinear") -> Relief:
    """Give the surface that the nozzle sees with compensation on, between the points of the mesh too.

    What straight lines from point to point miss of a curved bed stays, and so does what lies beyond the
    outermost points.

    Parameters
    ----------
    relief : Relief
        The bed.
    mesh : Mesh
    kind : {"none", "mean", "mesh"}
        See `compensate`.
    method : str
        See `interpolate`.

    Returns
    -------
    Relief
    """
    if kind == "none":
        return relief
    if kind == "mean":
        return relief.plus(0.0, 0.0, -float(mesh.heights.mean()))
    x, y = np.meshgrid(relief.xs, relief.ys)
    taken = interpolate(mesh, x.ravel(), y.ravel(), method).reshape(x.shape)
    return Relief(relief.xs, relief.ys, relief.heights - taken)


ORDER = (
    "Home first: on many machines homing switches compensation off.",
    "Then switch compensation on, in the start code right after homing.",
    "Set the fade height, if the machine knows one.",
    "Only then the first move down to the bed.",
)
"""The order of commands after homing (common practice)."""


def judge_method(errors: Sequence[tuple[str, float]]) -> str:
    """Say which way of interpolating leaves less; (name, RMS in mm) each.

    Examples
    --------
    >>> judge_method([("bilinear", 0.012), ("bicubic", 0.0118)])
    'Bilinear and bicubic leave the same here, within a tenth.'
    """
    (item, first), (other, second) = errors
    low, high = sorted((first, second))
    if high - low <= 0.1 * max(high, 1e-9):
        return f"{item.capitalize()} and {other} leave the same here, within a tenth."
    best = item if first < second else other
    return f"{best.capitalize()} leaves less here: {low:.3f} mm against {high:.3f} mm (root mean square)."
