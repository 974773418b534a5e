"""Which patches to print next: ladders of heights at one place, and heights over a whole bed."""

from __future__ import annotations

import math

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.wording import millimetres
from finchwort.core.first_layer.bead import BANDS, Bead
from finchwort.core.printers import TIP_ROOM, Bed, clear_of, suggest_points

FIRST_BELIEF = 0.15
"""Before anything is judged the best height may be off by this much, standard deviation, mm (ours)."""
MIN_STEP = 0.005
"""Nobody prints finer steps, mm."""
RUNGS = 9
DISC = 14.0
"""Diameter of a disc, mm (ours: room for the eye, in few seconds)."""
STEPPED = 0.8
"""Patches over a bed alternate in steps of this share of the good band's half-width (ours)."""


def usual_limits(bead: Bead) -> tuple[float, float]:
    """Where most people draw the lines around the best height, by what the bead does there, mm.

    Examples
    --------
    >>> [round(limit, 3) for limit in usual_limits(Bead(0.42, 0.2))]
    [0.032, 0.071]
    """
    scrape, crowded, tight, part, loose = bead.limits()
    del scrape
    near = (part - tight) / 2
    return near, max(1.3 * near, (loose - crowded) / 2)


def best_gap(bead: Bead) -> float:
    """The gap in the middle of the good band, mm."""
    limits = bead.limits()
    good = BANDS.index("good")
    return (limits[good - 1] + limits[good]) / 2


def plan_ladder(
    closest: float,
    centre: float = 0.0,
    sd: float = FIRST_BELIEF,
    bead: Bead | None = None,
    rungs: int = RUNGS,
) -> tuple[float, ...]:
    """Choose the heights of the next ladder.

    Parameters
    ----------
    closest : float
        Shift down to which the tip keeps clear of the bed, mm (see `finchwort.core.forecast.Forecast.closest`).
    centre, sd : float
        What is believed of the best shift, mm.
    bead : Bead, optional
    rungs : int

    Returns
    -------
    tuple of float
        Shifts from the present offset, farthest first, in steps of `MIN_STEP`, mm.

    Raises
    ------
    OutOfRangeError
        When even the farthest would touch.

    Examples
    --------
    >>> plan_ladder(-0.15)[:3], plan_ladder(-0.15)[-1]
    ((0.3, 0.225, 0.15), -0.15)
    """
    if not 3 <= rungs <= 15:
        raise OutOfRangeError("first_layer.ladder_patches")
    if not all(math.isfinite(value) for value in (closest, centre, sd)) or sd <= 0:
        raise NonFiniteError("first_layer.ladder_needs_know_believed")
    near, far = usual_limits(bead or Bead(0.42, 0.2))
    # the lines between the steps are what tells most: reach over them on both sides, further the less is known
    reach = far + min(1.5 * sd, 0.23)
    step = max(MIN_STEP, math.ceil(2 * reach / (rungs - 1) / MIN_STEP - 1e-9) * MIN_STEP)
    if sd <= near / 2:
        step = max(MIN_STEP, round(2 * (far + sd) / (rungs - 1) / MIN_STEP) * MIN_STEP)
    lowest = math.ceil(closest / MIN_STEP - 1e-9) * MIN_STEP
    top = round(centre / MIN_STEP) * MIN_STEP + step * (rungs - 1) / 2
    results = [round(round((top - i * step) / MIN_STEP) * MIN_STEP, 4) for i in range(rungs)]
    results = [max(shift, round(lowest, 4)) + 0.0 for shift in results]
    # what was cut off at contact leaves no two patches closer than half a step
    unique = tuple(a for i, a in enumerate(results) if not i or results[i - 1] - a >= step / 2 - 1e-9)
    if len(unique) < 2:
        raise OutOfRangeError(
            "first_layer.known_every_patch_but", value=millimetres(max(0.0, lowest - centre))
        )
    return unique


def plan_bed(bed: Bed, bead: Bead, closest: float, side: int = 6) -> tuple[tuple[float, float, float], ...]:
    """Choose places and heights for patches all over the bed.

    The heights alternate around the present one, so that everywhere some patches lie near the lines between the
    steps: patches of one height tell little where all of them look good.

    Parameters
    ----------
    bed : Bed
    bead : Bead
    closest : float
        Shift down to which the tip keeps clear of the bed, mm.
    side : int
        Patches a side.

    Returns
    -------
    tuple of (x, y, shift)
        In walking order, mm; beside what is in the way, and left out where there is no room.

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> plan_bed(Bed(200, 200), Bead(0.42, 0.2), -0.15, side=3)[0]
    (15.0, 15.0, -0.05)
    """
    if not 3 <= side <= 7:
        raise OutOfRangeError("first_layer.print_patches_side")
    step = STEPPED * usual_limits(bead)[0]
    results = []
    places = suggest_points(bed, side, side)
    for number, place in enumerate(clear_of(bed, places, room=TIP_ROOM + DISC / 2)):
        if place is None:
            continue
        x, y = place
        row, column = divmod(number, side)
        # along each row and each column every height comes by
        shift = ((column if row % 2 == 0 else side - 1 - column) + 2 * row) % 5 - 2
        rounded = round(round(shift * step / MIN_STEP) * MIN_STEP, 4)
        results.append((float(x), float(y), max(rounded, math.ceil(closest / MIN_STEP) * MIN_STEP) + 0.0))
    return tuple(results)
