"""Sums about the extruder: steps per mm, how much it has to melt, and how lines lie side by side."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.first_layer.bead import Bead

MELTS = (8.0, 12.0)
"""What a common brass hot end melts of PLA, mm³/s (handbook value, from memory)."""
FAR_OFF = 0.15
"""Steps that would change by more than this share are a fault to be found, not a setting (ours)."""
NEAR = 0.005
"""Closer than this the measuring itself is not (ours: half a millimetre of a hundred)."""
WIDER = (1.15, 1.25)
"""Lines of a first layer are this much wider than the nozzle's hole (common practice)."""


@dataclass(frozen=True)
class Steps:
    """New steps per mm of filament.

    Attributes
    ----------
    new : float
    change : float
        Share by which they change.
    remark : Remark
    doubtful : bool
        Whether a fault is more likely than a wrong setting.
    """

    new: float
    change: float
    remark: Remark
    doubtful: bool


@dataclass(frozen=True)
class Flow:
    """What has to be melted.

    Attributes
    ----------
    flow : float
        mm³/s
    fastest : float
        Speed at which the lower limit of `MELTS` is reached, mm/s.
    level : {"good", "near", "beyond"}
    remark : Remark
    """

    flow: float
    fastest: float
    level: str
    remark: Remark


@dataclass(frozen=True)
class Lines:
    """How lines lie side by side.

    Attributes
    ----------
    area : float
        Section of a line, mm².
    spacing : float
        At which lines just fill the layer, mm.
    width_range : (float, float) or None
        Usual for the nozzle, mm.
    remark : Remark
    """

    area: float
    spacing: float
    width_range: tuple[float, float] | None
    remark: Remark


def calibrate_steps(steps: float, asked: float, measured: float) -> Steps:
    """Correct the steps per mm of filament.

    Parameters
    ----------
    steps : float
        As they are set, steps/mm.
    asked, measured : float
        Filament that was asked for and that went in, mm.

    Returns
    -------
    Steps

    Raises
    ------
    NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> found = calibrate_steps(93, 100, 96)
    >>> round(found.new, 2), found.doubtful
    (96.88, False)
    """
    if not all(math.isfinite(value) for value in (steps, asked, measured)):
        raise NonFiniteError("first_layer.number_missing")
    if not 1 <= steps <= 10_000:
        raise OutOfRangeError("first_layer.extruder_steps_per_mm")
    if not 10 <= asked <= 1000:
        raise OutOfRangeError("first_layer.ask_mm_mm_usual")
    if not 0 < measured <= 2 * asked:
        raise OutOfRangeError("first_layer.went_more_nothing_not")
    new = steps * asked / measured
    change = new / steps - 1
    if abs(change) < NEAR:
        return Steps(new, change, remark("first_layer.steps_right", steps=steps), False)
    doubtful = abs(change) > FAR_OFF
    text = remark(
        "first_layer.steps_new", steps=steps, asked=asked, measured=measured, new=new, doubtful=doubtful
    )
    return Steps(new, change, text, doubtful)


def melt_flow(width: float, height: float, speed: float, melts: tuple[float, float] = MELTS) -> Flow:
    """Compare what has to be melted with what a hot end melts.

    Parameters
    ----------
    width, height : float
        Of a line, mm.
    speed : float
        mm/s
    melts : (float, float)
        What the hot end melts for sure, and at most, mm³/s.

    Returns
    -------
    Flow

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> melt_flow(0.42, 0.2, 50).flow, melt_flow(0.6, 0.3, 80).level
    (4.2, 'beyond')
    """
    Bead(width, height)
    if not (math.isfinite(speed) and 1 <= speed <= 1000):
        raise OutOfRangeError("first_layer.speed_mm")
    if not (all(math.isfinite(v) for v in melts) and 0.5 <= melts[0] <= melts[1] <= 200):
        raise OutOfRangeError("first_layer.hot_end_melts_mm")
    # as it is usually reckoned, with square ends: a little more than the bead's own section
    flow = width * height * speed
    fastest = melts[0] / (width * height)
    level = "good" if flow <= melts[0] else "near" if flow <= melts[1] else "beyond"
    text = remark(
        "first_layer.melt", speed=speed, flow=flow, melts=tuple(melts), fastest=fastest, level=level
    )
    return Flow(flow, fastest, level, text)


def line_up(width: float, height: float, nozzle: float | None = None) -> Lines:
    """Work out how lines of a width and height lie side by side.

    Parameters
    ----------
    width, height : float
        mm
    nozzle : float, optional
        Diameter of the hole, mm.

    Returns
    -------
    Lines

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> found = line_up(0.42, 0.2, 0.4)
    >>> round(found.area, 4), round(found.spacing, 3), found.width_range
    (0.0754, 0.377, (0.46, 0.5))
    """
    bead = Bead(width, height)
    usual = None
    if nozzle is not None:
        if not (math.isfinite(nozzle) and 0.1 <= nozzle <= 2):
            raise OutOfRangeError("first_layer.nozzle_hole_mm_wide")
        usual = round(nozzle * WIDER[0], 3), round(nozzle * WIDER[1], 3)
    text = remark(
        "first_layer.lines",
        width=width,
        height=height,
        spacing=bead.spacing,
        area=bead.area,
        nozzle=nozzle,
        usual=usual,
    )
    return Lines(bead.area, bead.spacing, usual, text)
