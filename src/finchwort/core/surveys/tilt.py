"""Whether the tilt of a bed is worth turning for: one judgement, which the map, the plan and the round all use."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import Z95
from finchwort.core.printers import Bed, suggest_points, usual_inset
from finchwort.core.surveys.bed_fit import BedFit
from finchwort.core.surveys.bed_prior import terms
from finchwort.core.surveys.planes import fit_plane
from finchwort.core.surveys.survey import Survey
from finchwort.core.surveys.tolerances import TILT_SHARE, check_first_layer, good_spread

DRAWS = 1024
"""So many possible beds are looked at; the same ones each time."""
SURE_TURN = 0.8
"""From this probability on the readings have decided to turn (ours)."""
LIKELY_TURN = 0.5
"""From here on too, where the tilt is known well enough that a turn will do more good than harm (ours)."""
WELL_KNOWN = 1.5
"""Known well enough is a plus/minus of so many tolerances (ours)."""
CLEAR = 1.4
"""A tilt of fewer times its plus/minus may leave no single knob a turn that stands clear of the noise (ours)."""
FINE = 0.2
"""A tilt known to this share of the tolerance lies so near to it that nothing is lost by leaving it (ours)."""
SURE_LEAVE = 0.07
"""Up to this probability the readings have decided to leave it (ours)."""
LOOKED_AT = 5
"""Places a side at which a bed is looked at: those that a usual survey reads."""


@dataclass(frozen=True)
class Tilt:
    """The tilt of the whole printable area, and what follows from it.

    Attributes
    ----------
    decision : {"turn", "leave", "measure"}
        Whether the readings say turn, leave it, or cannot decide.
    need : float
        Probability that the bed has tilt worth turning for.
    rise, margin : float
        Rise from the lowest to the highest corner by the tilt alone, and its plus/minus at 95 %, mm.
    tolerance : float
        Tilt across the bed that is not worth turning for, mm.
    """

    decision: str
    need: float
    rise: float
    margin: float
    tolerance: float

    @property
    def likely(self) -> bool:
        """Whether there very likely is tilt worth turning for, however poorly it is known."""
        return self.need >= SURE_TURN


def judge_tilt(fit: BedFit, first_layer: float) -> Tilt:
    """Judge the tilt of a bed by what its readings leave possible.

    Parameters
    ----------
    fit : BedFit
    first_layer : float
        mm

    Returns
    -------
    Tilt

    Raises
    ------
    OutOfRangeError
        When the first-layer height is none.
    """
    check_first_layer(first_layer)
    slope = np.array([fit.plane.a, fit.plane.b])
    across = steepest(slope, fit.bed)
    need = float(worth_turning(heights(fit, DRAWS), first_layer).mean())
    return decide(need, float(across @ slope), fit.margin(across), first_layer)


def decide(need: float, rise: float, margin: float, first_layer: float) -> Tilt:
    """Decide by the probability of a need and how well the tilt is known.

    Parameters
    ----------
    need : float
        Probability that the bed has tilt worth turning for.
    rise, margin : float
        mm
    first_layer : float
        mm
    """
    tolerance = TILT_SHARE * first_layer
    known = margin <= WELL_KNOWN * tolerance
    # nobody turns by a tilt that drowns in its own uncertainty, however likely some tilt is: no plan would turn a knob
    if rise >= CLEAR * margin and need >= (LIKELY_TURN if known else SURE_TURN):
        decision = "turn"
    elif need <= SURE_LEAVE or (need < LIKELY_TURN and margin <= FINE * tolerance):
        decision = "leave"
    else:
        decision = "measure"
    return Tilt(decision, need, rise, margin, tolerance)


def looked_at(bed: Bed) -> tuple[Array, Array]:
    """Places at which a bed is looked at, shape (n,) each, mm."""
    inset = min(usual_inset(bed), min(bed.width, bed.depth) / 8)
    cx, cy = bed.centre
    u = np.linspace(-1, 1, LOOKED_AT)
    x, y = np.meshgrid(cx + u * (bed.width / 2 - inset), cy + u * (bed.depth / 2 - inset))
    return x.ravel(), y.ravel()


def heights(fit: BedFit, count: int) -> Array:
    """Heights of possible beds where they are looked at, shape (count, n), mm."""
    return fit.draw(count) @ terms(fit.bed, *looked_at(fit.bed)).T


def worth_turning(beds: Array, first_layer: float) -> Array:
    """Tell for each bed whether it has tilt worth turning for.

    Parameters
    ----------
    beds : ndarray, shape (count, n)
        Heights where a bed is looked at, mm.
    first_layer : float
        mm

    Returns
    -------
    ndarray of bool, shape (count,)
    """
    u, v = (a.ravel() for a in np.meshgrid(*[np.linspace(-1, 1, LOOKED_AT)] * 2))
    rows = np.column_stack([np.ones_like(u), u, v])
    level = beds - beds @ rows @ np.linalg.inv(rows.T @ rows) @ rows.T
    spread, flat = np.ptp(beds, axis=1), np.ptp(level, axis=1)
    return (spread > good_spread(first_layer)) & (spread - flat > TILT_SHARE * first_layer)


def steepest(slope: Array, bed: Bed) -> Array:
    """Way from the lowest to the highest corner under slopes along X and Y, mm."""
    return np.where(slope < 0, -1.0, 1.0) * (bed.width, bed.depth)


KNOWN_TO = 0.2
"""The tilt should be known to this share of what is worth turning for, plus/minus at 95 % (ours)."""
SIDES = (9, 17)
"""Fewest and most places a side that are advised for a noisy probe."""


def side_for_tilt(bed: Bed, noise: float, first_layer: float) -> int:
    """How many places a side tell the tilt well enough to turn by.

    Parameters
    ----------
    bed : Bed
    noise : float
        Standard deviation of one reading, mm.
    first_layer : float
        mm

    Returns
    -------
    int
        Side of a square grid that knows the rise between opposite corners to ``KNOWN_TO`` of the tilt that
        is worth turning for; between ``SIDES``.

    Examples
    --------
    >>> bed = Bed(220, 220)
    >>> side_for_tilt(bed, 0.003, 0.2), side_for_tilt(bed, 0.012, 0.2), side_for_tilt(bed, 0.2, 0.2)
    (9, 13, 17)
    """
    across = np.array([bed.width, bed.depth])
    for side in range(*SIDES):
        x, y = np.array(suggest_points(bed, side, side)).T
        unscaled = fit_plane(Survey(x, y, np.zeros(x.size))).unscaled[:2, :2]
        if Z95 * noise * np.sqrt(across @ unscaled @ across) <= KNOWN_TO * TILT_SHARE * first_layer:
            return side
    return SIDES[1]
