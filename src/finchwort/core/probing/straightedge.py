"""Straightedge lines on the bed: where they lie, the shape they show together, and how it agrees with a survey."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import millimetres
from finchwort.core.printers import Bed
from finchwort.core.probing.hand import SAG, Line, assess_line
from finchwort.core.surveys import Relief

DIRECTIONS = {
    "x": "left to right",
    "y": "front to back",
    "up": "front left to back right",
    "down": "back left to front right",
}
GRID = 33
"""The shape is drawn on so many columns and rows."""
EDGE_SD = 0.02
"""How well a hand with leaves in steps of 0.05 mm reads a gap under an edge, standard deviation, mm (ours)."""
OFF = 20.0
"""A straightedge may stick out over the plate by so much, mm."""


@dataclass(frozen=True, eq=False)
class Laid:
    """A straightedge line in its place.

    Attributes
    ----------
    direction : one of ``DIRECTIONS``
    x, y : ndarray, shape (n,)
        Where the gaps were read, mm.
    line : Line
        What it shows by itself.
    gaps : ndarray, shape (n,)
        mm
    """

    direction: str
    x: Array
    y: Array
    line: Line
    gaps: Array

    @property
    def ends(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """First and last place, mm."""
        return (float(self.x[0]), float(self.y[0])), (float(self.x[-1]), float(self.y[-1]))


def usual_length(bed: Bed, direction: str) -> float:
    """Length of the bed along a direction, mm.

    Examples
    --------
    >>> usual_length(Bed(300, 400), "x"), usual_length(Bed(300, 400), "up")
    (300.0, 500.0)
    """
    if direction not in DIRECTIONS:
        raise ChoiceError("probing.straightedge", names=", ".join(DIRECTIONS.values()))
    return float({"x": bed.width, "y": bed.depth}.get(direction, math.hypot(bed.width, bed.depth)))


def lay_line(
    bed: Bed,
    direction: str,
    positions: Sequence[float],
    gaps: Sequence[float],
    across: float | None = None,
    sd: float = EDGE_SD,
) -> Laid:
    """Put a line of gaps in its place on the bed.

    Parameters
    ----------
    bed : Bed
    direction : one of ``DIRECTIONS``
    positions : sequence of float
        Along the edge, from the left, from the front, or from the corner named first, mm.
    gaps : sequence of float
        mm
    across : float, optional
        Where the line lies across its direction: Y for left to right, X for front to back, mm; the middle when not
        given.  Diagonals run from corner to corner.
    sd : float
        Standard deviation of one gap, mm.

    Returns
    -------
    Laid

    Raises
    ------
    ChoiceError, NonFiniteError, OutOfRangeError, TooFewReadingsError

    Examples
    --------
    >>> laid = lay_line(Bed(200, 100), "down", [0, 111.8, 223.6], [0, 0.1, 0])
    >>> [round(float(v)) for v in laid.x], [round(float(v)) for v in laid.y]
    ([0, 100, 200], [100, 50, 0])
    """
    length = usual_length(bed, direction)
    line = assess_line(positions, gaps, sd)
    if line.positions[0] < -OFF or line.positions[-1] > length + OFF:
        raise OutOfRangeError("probing.along_bed_places_run", directions=DIRECTIONS[direction], length=length)
    cx, cy = bed.centre
    if across is not None and not math.isfinite(across):
        raise NonFiniteError("probing.where_line_length_mm")
    along = line.positions
    if direction == "x":
        x, y = bed.x_min + along, np.full_like(along, cy if across is None else across)
    elif direction == "y":
        x, y = np.full_like(along, cx if across is None else across), bed.y_min + along
    else:
        x = bed.x_min + along * bed.width / length
        rise = along * bed.depth / length
        y = bed.y_min + rise if direction == "up" else bed.y_max - rise
    x0, y0, x1, y1 = bed.plate
    if not (x0 - OFF <= x.min() and x.max() <= x1 + OFF and y0 - OFF <= y.min() and y.max() <= y1 + OFF):
        raise OutOfRangeError("probing.line_would_beside_plate")
    return Laid(direction, x, y, line, np.array(gaps, dtype=np.float64))


@dataclass(frozen=True, eq=False)
class EdgeShape:
    """The shape that straightedge lines show together; tilt and height are not theirs to tell.

    Attributes
    ----------
    bows : tuple of (float or None, float)
        Along X, along Y, and twist: how much higher the middle stands than the edges (twist: one diagonal than the
        other), mm, and its plus/minus; None where no line tells.
    relief : Relief or None
        Level, its middle at nothing, mm; None when the lines tell too little to draw.
    missing : tuple of str
        Directions that would tell the rest.
    sentence : str
    """

    bows: tuple[tuple[float | None, float], ...]
    relief: Relief | None
    missing: tuple[str, ...]
    sentence: str


def shape_of(lines: Sequence[Laid], bed: Bed, sd: float = EDGE_SD) -> EdgeShape:
    """Fit the bows that lines of one surface show together.

    Each line has a height and a slope of its own, because the edge rests on what stands highest; what is left is
    curvature along it, which a bow along X, one along Y and a twist make up.

    Parameters
    ----------
    lines : sequence of Laid
    bed : Bed
    sd : float
        Standard deviation of one gap, mm.

    Examples
    --------
    >>> bed = Bed(200, 200)
    >>> lines = [lay_line(bed, d, [0, 100, 200], g) for d, g in (("x", [0, 0.1, 0]), ("y", [0, 0, 0]))]
    >>> found = shape_of(lines, bed)
    >>> [None if bow is None else round(bow, 2) for bow, _ in found.bows], found.missing
    ([-0.1, 0.0, None], ('up',))
    """
    known, bows, margins = _fit(lines, bed, sd)
    told = tuple(
        (float(bow) if is_known else None, float(margin))
        for bow, margin, is_known in zip(bows, margins, known, strict=True)
    )
    missing = []
    if not known[0]:
        missing.append("x")
    if not known[1]:
        missing.append("y")
    if not known[2]:
        missing.append("up")
    relief = None
    if known[0] and known[1]:
        xs, ys = np.linspace(bed.x_min, bed.x_max, GRID), np.linspace(bed.y_min, bed.y_max, GRID)
        rows = _bows(bed, *(a.ravel() for a in np.meshgrid(xs, ys)))
        heights = (rows @ np.where(known, bows, 0.0)).reshape(GRID, GRID)
        relief = Relief(xs, ys, heights)
    return EdgeShape(told, relief, tuple(missing), _say(told, missing, len(lines)))


def _bows(bed: Bed, x: Array, y: Array) -> Array:
    """Bow along X and Y (1 in the middle, 0 at the edges, less 1 so the middle is nothing), and twist."""
    cx, cy = bed.centre
    u, v = 2 * (x - cx) / bed.width, 2 * (y - cy) / bed.depth
    return np.column_stack([-u * u, -v * v, u * v])


def _fit(lines: Sequence[Laid], bed: Bed, sd: float) -> tuple[Array, Array, Array]:
    """Bows, their plus/minus and whether they are known."""
    if not lines:
        return np.zeros(3, dtype=bool), np.zeros(3), np.full(3, np.inf)
    rows, seen = [], []
    for line in lines:
        own = np.column_stack([np.ones_like(line.x), line.line.positions])
        # height and slope of the edge itself are taken out of both sides
        out = np.eye(line.x.size) - own @ np.linalg.pinv(own)
        rows.append(out @ _bows(bed, line.x, line.y))
        seen.append(out @ -line.gaps)
    design, values = np.vstack(rows), np.concatenate(seen)
    gram = design.T @ design
    whole = float(np.trace(gram)) / 3
    eigen, vectors = np.linalg.eigh(gram)
    good = eigen > 1e-6 * max(whole, 1e-12)
    inverse = (vectors[:, good] / eigen[good]) @ vectors[:, good].T
    bows = inverse @ design.T @ values
    # how much of each bow the lines can tell apart from the others
    resolved = np.einsum("ij,ij->i", vectors[:, good], vectors[:, good])
    known = resolved > 1 - 1e-6
    quantile = Z95
    margins = np.where(known, quantile * sd * np.sqrt(np.maximum(np.diag(inverse), 0.0)), np.inf)
    return known, np.where(known, bows, 0.0), margins


def _say(bows: Sequence[tuple[float | None, float]], missing: Sequence[str], count: int) -> str:
    parts = []
    for (bow, margin), name in zip(bows, ("left to right", "front to back"), strict=False):
        if bow is None:
            continue
        if abs(bow) <= max(margin, SAG):
            parts.append(f"{name} straight within {millimetres(max(margin, SAG))}")
        else:
            word = "crowned" if bow > 0 else "sagging"
            parts.append(f"{name} {word} by {millimetres(abs(bow))} ± {millimetres(margin)}")
    twist, margin = bows[2]
    if twist is not None and abs(twist) > max(margin, SAG):
        # at the ends of a diagonal the twist stands full above, or below
        high = "front left and back right" if twist > 0 else "back left and front right"
        parts.append(f"twisted: {high} stand {millimetres(abs(twist))} high")
    text = f"By {count} {'line' if count == 1 else 'lines'}: {', '.join(parts)}." if parts else ""
    if missing:
        ways = " and ".join(DIRECTIONS[item] for item in missing)
        text += f"{' ' if text else ''}Lay it {ways} too, for the rest of the shape."
    return text or "No line was laid yet."


def compare_with_survey(laid: Laid, heights: Array, noise: float) -> str:
    """Say whether a survey shows the same bow along a line as the straightedge.

    Parameters
    ----------
    laid : Laid
        On the plate.
    heights : ndarray, shape (n,)
        What the survey's map shows at the line's places, mm.
    noise : float
        Standard deviation of one reading, mm.

    Examples
    --------
    >>> laid = lay_line(Bed(200, 200), "x", [0, 100, 200], [0, 0, 0])
    >>> compare_with_survey(laid, np.array([0.0, -0.2, 0.0]), 0.005)[:60]
    'The survey shows a sag of 0.20 mm along it, the edge none: t'
    """
    along = laid.line.positions
    u = 2 * (along - along[0]) / (along[-1] - along[0]) - 1
    basis = np.column_stack([np.ones_like(u), u, 1 - u * u])
    inverse = np.linalg.pinv(basis.T @ basis)
    result = float((inverse @ basis.T @ heights)[2])
    quantile = Z95
    margin = math.hypot(laid.line.margin, quantile * noise * math.sqrt(float(inverse[2, 2])))
    by_edge = "none" if abs(laid.line.bow) <= max(laid.line.margin, SAG) else _bow(laid.line.bow)
    if abs(result - laid.line.bow) <= max(margin, SAG):
        return f"The survey shows the same along it, within {millimetres(max(margin, SAG))}."
    by_survey = "no bow" if abs(result) < SAG else _bow(result)
    return (
        f"The survey shows {by_survey} along it, the edge {by_edge}: the edge sees the plate alone, the survey also the way "
        "of the tip. Look whether the beam bends or the rails are worn, and measure both at the same temperature."
    )


def _bow(bow: float) -> str:
    return f"a {'crown' if bow > 0 else 'sag'} of {millimetres(abs(bow))}"
