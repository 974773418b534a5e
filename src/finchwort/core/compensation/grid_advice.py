"""How many places to measure: what fewer would miss of the shapes this bed has shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.compensation.left_over import FOLDS, left_between
from finchwort.core.printers import Bed
from finchwort.core.probing import reach, walk_length
from finchwort.core.surveys import Survey

CANDIDATES = ((2, 2), (3, 3), (4, 4), (5, 5), (6, 6), (7, 7), (9, 9), (11, 11))
"""Grids that are compared; the longer side of an oblong bed gets more."""
USUAL = (5, 5)
"""Advice for a bed nobody has measured yet (common practice)."""
MIN_KNOWN = 9
"""Fewer readings show no shape to plan for."""
ENOUGH = 1.15
"""A grid whose error is within this factor of the best is as good (ours)."""
HARMLESS = 0.05
"""An error within this share of the first layer does no harm (ours)."""
SECONDS_A_TOUCH = 6.0
"""Until a printer's own pace is known: one touch with its lifting, s (common practice)."""
TRAVEL_SPEED = 80.0
"""Travel between places, mm/s (common practice)."""
HAND_SECONDS = 20.0
"""One place by hand, with paper or gauge, s (common practice: corners take a practised hand 2 to 3 minutes)."""


@dataclass(frozen=True)
class Option:
    """A grid that could be measured.

    Attributes
    ----------
    columns, rows : int
    error : float or None
        Root mean square of what a mesh of so many points misses at places between them, mm; noise included.
    worst : float or None
        95 % of places are missed by less, mm.
    minutes : float
    advised : bool
    """

    columns: int
    rows: int
    error: float | None
    worst: float | None
    minutes: float
    advised: bool


@dataclass(frozen=True)
class Advice:
    """Which grid to measure, and why.

    Attributes
    ----------
    options : tuple of Option
    sentence : str
    """

    options: tuple[Option, ...]
    sentence: str

    @property
    def best(self) -> Option:
        """The grid advised."""
        return next(option for option in self.options if option.advised)


def survey_minutes(
    points: Sequence[tuple[float, float]], by_hand: bool = False, seconds: float | None = None
) -> float:
    """Time to measure places in their order, minutes.

    Parameters
    ----------
    points : sequence of (x, y)
        mm
    by_hand : bool
        With paper or gauge instead of a probe.
    seconds : float, optional
        This printer's own pace, s a place, travel included.

    Examples
    --------
    >>> survey_minutes([(0, 0), (80, 0)])
    0.21666666666666667
    """
    if seconds is not None:
        return seconds * len(points) / 60
    each = HAND_SECONDS if by_hand else SECONDS_A_TOUCH
    return (each * len(points) + walk_length(points) / TRAVEL_SPEED) / 60


def seconds_left(times: Sequence[float], total: int) -> float | None:
    """Time until a probing under way is through, at the pace of its touches so far.

    Parameters
    ----------
    times : sequence of float
        When each touch so far was made, s.
    total : int
        Touches wanted.

    Returns
    -------
    float or None
        s; None until two touches show a pace.

    Examples
    --------
    >>> seconds_left([10, 16, 22], 5)
    12.0
    """
    if len(times) < 2:
        return None
    pace = (times[-1] - times[0]) / (len(times) - 1)
    return float(max(0, total - len(times)) * pace)


def mesh_errors(surveys: Sequence[Survey], columns: int, rows: int, folds: int = FOLDS) -> Array:
    """What a mesh of columns by rows points would have missed, by cross-validation.

    Each survey loses its tilt.  Its readings are split into parts; each part is
    predicted by a mesh that knows only the others: a thin plate is laid
    through them, taken at the mesh's nodes, and interpolated bilinearly between
    the nodes as machines do.

    Parameters
    ----------
    surveys : sequence of Survey
    columns, rows : int
        2 or more each.
    folds : int

    Returns
    -------
    ndarray
        Reading minus mesh at every reading of every survey, mm.
    """
    return np.concatenate([left_between(survey, columns, rows, folds=folds) for survey in surveys])


def advise_grid(
    surveys: Sequence[Survey],
    bed: Bed,
    first_layer: float,
    *,
    probe: tuple[float, float] = (0.0, 0.0),
    inset: float = 15.0,
    seconds: float | None = None,
) -> Advice:
    """Compare grids by the error they would have left on this bed.

    Parameters
    ----------
    surveys : sequence of Survey
        The newest of this bed; only those with enough readings count.
    bed : Bed
    first_layer : float
        mm
    probe : (float, float)
        Probe minus nozzle, mm.
    inset : float
        mm
    seconds : float, optional
        This printer's pace, s a place.

    Returns
    -------
    Advice
    """
    known = [survey for survey in surveys if len(survey) >= MIN_KNOWN][:3]
    x0, y0, x1, y1 = reach(bed, *probe, inset)
    aspect = (x1 - x0) / (y1 - y0)
    most = max((len(survey) for survey in known), default=0)
    rows: list[tuple[int, int, float | None, float | None, float]] = []
    for side, _ in CANDIDATES:
        columns, lines = side, side
        if aspect > 1.35:
            columns = min(25, round(side * aspect))
        elif aspect < 1 / 1.35:
            lines = min(25, round(side / aspect))
        minutes = _grid_minutes((x0, y0, x1, y1), columns, lines, seconds)
        if known and columns * lines <= max(most, 4):
            off = mesh_errors(known, columns, lines)
            rows.append(
                (
                    columns,
                    lines,
                    float(np.sqrt(np.mean(off**2))),
                    float(np.quantile(np.abs(off), 0.95)),
                    minutes,
                )
            )
        elif columns * lines <= 121 or not rows:  # a long narrow bed is probed somehow, too
            rows.append((columns, lines, None, None, minutes))
    errors = [row[2] for row in rows if row[2] is not None]
    if not errors:
        usual = (i for i, row in enumerate(rows) if row[0] >= USUAL[0] and row[1] >= USUAL[1])
        at = next(usual, len(rows) - 1)
        text = (
            f"Nothing is known of this bed's shape yet. {rows[at][0]} × {rows[at][1]} shows most shapes; "
            "from then on Finchwort tells how many it needs."
        )
    else:
        floor = min(errors)
        limit = max(ENOUGH * floor, HARMLESS * first_layer)
        at = next(i for i, row in enumerate(rows) if row[2] is not None and row[2] <= limit)
        columns, lines, error, worst, _ = rows[at]
        text = (
            f"{columns} × {lines} is enough for the shape this bed has shown: a mesh of so many points misses the places "
            f"between them by {error:.3f} mm (root mean square), 19 of 20 by less than {worst:.2f} mm."
        )
        if at:
            text += f" {rows[at - 1][0]} × {rows[at - 1][1]} would miss {rows[at - 1][2]:.3f} mm."
    options = tuple(
        Option(columns, lines, error, worst, minutes, i == at)
        for i, (columns, lines, error, worst, minutes) in enumerate(rows)
    )
    return Advice(options, text)


def _grid_minutes(
    sides: tuple[float, float, float, float], columns: int, rows: int, seconds: float | None
) -> float:
    x0, y0, x1, y1 = sides
    points = [
        (x, y)
        for j, y in enumerate(np.linspace(y0, y1, rows))
        for x in (np.linspace(x0, x1, columns) if j % 2 == 0 else np.linspace(x1, x0, columns))
    ]
    return survey_minutes(points, seconds=seconds)
