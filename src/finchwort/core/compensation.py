"""Compensation: the mesh a machine follows, what it leaves, how it fades, and when it is out of date."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.interpolate import RBFInterpolator, RectBivariateSpline, RegularGridInterpolator
from scipy.spatial import cKDTree

from finchwort.core.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.planes import fit_plane
from finchwort.core.printers import CORNERS, Bed, usual_inset
from finchwort.core.relief import Relief, make_relief, surface_at
from finchwort.core.surveys import NEAR, Array, Survey, joined
from finchwort.core.wording import millimetres

METHODS = ("bilinear", "bicubic")
LEAST_SIDE, MOST_SIDE = 2, 25
FOLDS = 8
"""Into so many parts the readings are split, each predicted from the others."""
MOST_KNOWN = 400
"""Of a larger survey an even selection is used for cross-validation."""
FADE = 10.0
"""A usual fade height, mm (common practice)."""
FADE_SHARE = 0.02
"""A layer may be this much thicker or thinner while compensation fades (ours)."""


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
            raise ChoiceError("A mesh has a height for every column of every row.")
        if not all(LEAST_SIDE <= side <= MOST_SIDE for side in sides):
            raise OutOfRangeError(f"A mesh has {LEAST_SIDE} to {MOST_SIDE} points a side.")
        if not all(np.isfinite(values).all() for values in (self.xs, self.ys, self.heights)):
            raise NonFiniteError("A height of the mesh is missing.")
        if (np.diff(self.xs) <= 0).any() or (np.diff(self.ys) <= 0).any():
            raise OutOfRangeError("Columns and rows of a mesh grow from one to the next.")


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
    if not (LEAST_SIDE <= columns <= MOST_SIDE and LEAST_SIDE <= rows <= MOST_SIDE):
        raise OutOfRangeError(f"A mesh has {LEAST_SIDE} to {MOST_SIDE} points a side.")
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
        raise ChoiceError("A machine interpolates its mesh bilinearly or bicubically.")
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
        raise ChoiceError("There is no mesh to compensate with.")
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
    said = [
        f"The mean of the {len(survey)} readings is {millimetres(mean, signed=True)}: the machine moves everything "
        f"{moved} by that, and takes out no tilt and no shape.",
    ]
    if abs(difference) >= 0.01:
        side = "too close" if difference > 0 else "too far"
        over = "above" if difference > 0 else "below"
        said.append(
            f"The middle lies at {millimetres(middle, signed=True)}, {millimetres(abs(difference))} {over} that mean: with "
            f"compensation on the tip stands {millimetres(abs(difference))} {side} there."
        )
    else:
        said.append("The middle lies at the mean: with compensation on the first layer is right there.")
    if abs(mean) >= 0.01:
        said.append(
            f"Switched on or off, the tip moves by {millimetres(abs(mean))}. Set the Z offset with it on, as it prints, and "
            "leave it on."
        )
    name, height = max(corners, key=lambda one: abs(one[1]))
    share = 100 * worst / first_layer
    how = "too close" if height > 0 else "too far"
    said.append(
        f"At the corners it stays as it is: most at the {name}, {millimetres(abs(height))} {how}, {share:.0f} % of the "
        "first layer."
    )
    return MeanOnly(mean, middle, difference, corners, worst, tuple(said))


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
    if not (LEAST_SIDE <= columns <= MOST_SIDE and LEAST_SIDE <= rows <= MOST_SIDE):
        raise OutOfRangeError(f"A mesh has {LEAST_SIDE} to {MOST_SIDE} points a side.")
    one = joined(survey)
    if len(one) < len(survey):
        left = left_between(one, columns, rows, method, folds)
        if len(left) < len(one):
            return left
        # every reading gets what its own place leaves
        own = cKDTree(np.column_stack([one.x, one.y])).query(np.column_stack([survey.x, survey.y]))[1]
        return left[own]
    x, y, z = survey.x, survey.y, fit_plane(survey).residual
    if len(survey) > MOST_KNOWN:
        keep = np.linspace(0, len(survey) - 1, MOST_KNOWN).astype(int)
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
    worst = max(float(np.quantile(spread, 0.95)), 1.96 * math.sqrt(through))
    return MeshLeft(
        math.sqrt(square + through),
        worst,
        _rim(mesh, bed, noise),
        _round_readings(survey, mesh, middles * min(1.0, shrunk)),
        "curvature",
    )


def _at_nodes(survey: Survey, mesh: Mesh) -> Array:
    near_x = np.abs(survey.x[:, None] - mesh.xs).min(axis=1) <= NEAR
    near_y = np.abs(survey.y[:, None] - mesh.ys).min(axis=1) <= NEAR
    return near_x & near_y


def _within(mesh: Mesh, x: Array, y: Array) -> Array:
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
            one = middles[
                np.clip(rows + dj, 0, middles.shape[0] - 1), np.clip(columns + di, 0, middles.shape[1] - 1)
            ]
            best = np.where(np.abs(one) > np.abs(best), one, best)
    return best


@dataclass(frozen=True)
class Fade:
    """What a fade height does to the layers below it.

    Attributes
    ----------
    height : float
        mm; 0 means that compensation never fades.
    deviation : float
        Largest compensation, mm.
    share : float
        Every layer below the fade height is thicker or thinner by up to this share.
    thickness : float
        The same for one layer, mm.
    sentence : str
    """

    height: float
    deviation: float
    share: float
    thickness: float
    sentence: str


def fade_out(deviation: float, layer: float, height: float) -> Fade:
    """Work out the thickness error of layers while compensation fades out linearly.

    Parameters
    ----------
    deviation : float
        Largest height that is compensated, mm.
    layer : float
        Layer height, mm.
    height : float
        Fade height, mm; 0 for never.

    Returns
    -------
    Fade

    Examples
    --------
    >>> fade = fade_out(0.3, 0.2, 10)
    >>> round(fade.share, 6), round(fade.thickness, 6)
    (0.03, 0.006)
    """
    if not all(map(math.isfinite, (deviation, layer, height))) or layer <= 0:
        raise NonFiniteError("Deviation, layer and fade height must be numbers.")
    if height < 0 or height > 1000:
        raise OutOfRangeError("A fade height is 0 (never) to 1000 mm.")
    if 0 < height < layer:
        raise OutOfRangeError("Compensation cannot fade out within the first layer.")
    deviation = abs(deviation)
    if height == 0:
        said = f"It never fades: the top of the part follows the bed, up to {millimetres(deviation)}."
        return Fade(0.0, deviation, 0.0, 0.0, said)
    share = deviation / height
    said = (
        f"Each layer up to {height:g} mm is thicker or thinner by up to {100 * share:.1f} % "
        f"({1000 * share * layer:.0f} µm of {layer:g} mm); above, the part is flat."
    )
    return Fade(height, deviation, share, share * layer, said)


def advised_fade(deviation: float) -> float:
    """Give a fade height that keeps each layer within ``FADE_SHARE``, and no less than the usual one, mm.

    Examples
    --------
    >>> advised_fade(0.1), advised_fade(0.3)
    (10.0, 15.0)
    """
    return max(FADE, float(math.ceil(abs(deviation) / FADE_SHARE - 1e-9)))


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
    (one, first), (other, second) = errors
    low, high = sorted((first, second))
    if high - low <= 0.1 * max(high, 1e-9):
        return f"{one.capitalize()} and {other} leave the same here, within a tenth."
    best = one if first < second else other
    return f"{best.capitalize()} leaves less here: {low:.3f} mm against {high:.3f} mm (root mean square)."
