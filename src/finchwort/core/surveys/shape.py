"""What the bed looks like: tilt, bow along X and Y, twist, and the rest."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.printers import Bed
from finchwort.core.surveys.survey import Survey

VISIBLE = 0.02
"""A bow or twist below this is called flat, mm (common practice: the range of a good probe)."""
MINOR_SHARE = 0.4
"""A bow this much smaller than the other leaves a ridge or a trough rather than a dome (ours)."""
UNEVEN_SHARE = 0.5
"""When the remainder is this share of the whole departure no simple name fits (ours)."""
ROUGH = 0.015
"""A remainder below this is taken for the noise of the readings, mm RMS (ours)."""
UNSEEN = 1e-9
"""Terms that the places measured cannot tell from simpler ones are left out below this share."""


@dataclass(frozen=True)
class Shape:
    """A bed taken apart on orthogonal polynomials over its printable area.

    Attributes
    ----------
    tilt_x : float
        Rise from the left edge to the right edge, mm.
    tilt_y : float
        Rise from the front edge to the back edge, mm.
    bow_x : float
        Height of the middle over the left and right edges, mm.
    bow_y : float
        Height of the middle over the front and back edges, mm.
    twist : float
        Mean height of the diagonal front left to back right over the ends of the other one, mm.
    remainder_rms : float
        Root mean square of what none of these explains, mm.
    level : float
        Mean height over the printable area, mm.
    terms : int
        How many of the six terms the places measured can tell apart.
    name : str
        One of `ShapeName`.
    """

    tilt_x: float
    tilt_y: float
    bow_x: float
    bow_y: float
    twist: float
    remainder_rms: float
    level: float
    terms: int
    name: str


def _terms(survey: Survey, bed: Bed) -> Array:
    """Rows 1, u, v, P2(u), P2(v), u v at the places measured, shape (6, n)."""
    cx, cy = bed.centre
    rows = np.empty((6, len(survey)))
    rows[0] = 1.0
    u = np.multiply(survey.x - cx, 2 / bed.width, out=rows[1])
    v = np.multiply(survey.y - cy, 2 / bed.depth, out=rows[2])
    np.multiply(u, u, out=rows[3])
    np.multiply(v, v, out=rows[4])
    rows[3:5] *= 1.5
    rows[3:5] -= 0.5
    np.multiply(u, v, out=rows[5])
    return rows


def decompose(survey: Survey, bed: Bed) -> Shape:
    """Take a survey apart into tilt, bow X, bow Y, twist and a remainder.

    Least squares on Legendre polynomials over the printable area.  Where the
    places measured cannot tell a higher term from a simpler one (four corners
    show no bow), the simpler one takes it; where two higher terms cannot be
    told apart (the centre alone was added), they share it.

    Parameters
    ----------
    survey : Survey
    bed : Bed

    Returns
    -------
    Shape

    Examples
    --------
    >>> bed = Bed(100, 100)
    >>> corners = Survey([0, 100, 100, 0, 50], [0, 0, 100, 100, 50], [0, 0, 0, 0, 0.1])
    >>> shape = decompose(corners, bed)
    >>> round(shape.bow_x, 3), round(shape.bow_y, 3), shape.name
    (0.05, 0.05, 'dome')
    """
    rows = _terms(survey, bed)
    mean = survey.height.mean()
    z = survey.height - mean
    # normal equations in blocks; the basis is near orthogonal, so little is lost
    gram, right = rows @ rows.T, rows @ z
    cross = np.linalg.solve(gram[:3, :3], gram[:3, 3:])
    start = np.linalg.solve(gram[:3, :3], right[:3])
    own = gram[3:, 3:] - gram[3:, :3] @ cross
    values, vectors = np.linalg.eigh(own)
    usable = values > UNSEEN * len(survey)
    inverse = (vectors[:, usable] / values[usable]) @ vectors[:, usable].T
    high_coef = inverse @ (right[3:] - gram[3:, :3] @ start)
    low_coef = start - cross @ high_coef
    untilted = z - start @ rows[:3]
    rest = z - np.concatenate([low_coef, high_coef]) @ rows

    level, tx, ty = float(low_coef[0] + mean), float(low_coef[1]), float(low_coef[2])
    bow_x, bow_y, twist = -1.5 * high_coef[0], -1.5 * high_coef[1], 2.0 * high_coef[2]
    remainder = float(np.sqrt(rest @ rest / len(survey)))
    whole = float(np.sqrt(untilted @ untilted / len(survey)))
    name = _name(float(bow_x), float(bow_y), float(twist), remainder, whole)
    return Shape(
        tilt_x=2 * tx,
        tilt_y=2 * ty,
        bow_x=float(bow_x),
        bow_y=float(bow_y),
        twist=float(twist),
        remainder_rms=remainder,
        level=level,
        terms=3 + int(usable.sum()),
        name=name,
    )


def _name(bow_x: float, bow_y: float, twist: float, remainder: float, whole: float) -> str:
    size_x, size_y, size_t = abs(bow_x), abs(bow_y), abs(twist)
    largest = max(size_x, size_y, size_t)
    rough = remainder > ROUGH
    if largest < VISIBLE:
        return "uneven" if rough else "flat"
    if rough and remainder > UNEVEN_SHARE * whole * np.sqrt(2):
        return "uneven"
    if size_t >= max(size_x, size_y):
        return "twist"
    if size_y < MINOR_SHARE * size_x:
        return "ridge_y" if bow_x > 0 else "trough_y"
    if size_x < MINOR_SHARE * size_y:
        return "ridge_x" if bow_y > 0 else "trough_x"
    if bow_x * bow_y < 0:
        return "saddle"
    return "dome" if bow_x > 0 else "bowl"
