"""Sums about the extruder: steps per mm, how much it has to melt, and how lines lie side by side."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
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
    sentence : str
    doubtful : bool
        Whether a fault is more likely than a wrong setting.
    """

    new: float
    change: float
    sentence: str
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
    sentence : str
    """

    flow: float
    fastest: float
    level: str
    sentence: str


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
    sentence : str
    """

    area: float
    spacing: float
    width_range: tuple[float, float] | None
    sentence: str


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
        return Steps(
            new, change, f"{steps:g} steps/mm are right within what a rule can tell. Leave them.", False
        )
    way = "too little" if change > 0 else "too much"
    text = f"{measured:g} mm went in for {asked:g}: {way}. Set {new:.2f} steps/mm instead of {steps:g}."
    doubtful = abs(change) > FAR_OFF
    if doubtful:
        text = (
            f"{measured:g} mm went in for {asked:g}. So far off it is more likely a drive that slips, a clog or a wrong "
            f"setting elsewhere. Look for that before you set {new:.2f} steps/mm."
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
    ends = (
        f"this hot end melts {melts[0]:g}"
        if melts[0] == melts[1]
        else f"a common hot end melts {melts[0]:g} to {melts[1]:g}"
    )
    text = f"{speed:g} mm/s asks for {flow:.1f} mm³/s; {ends}."
    if flow <= melts[0]:
        return Flow(flow, fastest, "good", f"{text} It keeps up, to about {fastest:.0f} mm/s.")
    level = "near" if flow <= melts[1] else "beyond"
    end = (
        f"It may not keep up: stay below {fastest:.0f} mm/s, or print hotter."
        if level == "near"
        else f"It does not keep up: lines turn thin and the drive clicks. Stay below {fastest:.0f} mm/s."
    )
    return Flow(flow, fastest, level, f"{text} {end}")


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
    text = f"Lines of {width:g} x {height:g} mm just fill the layer {bead.spacing:.3f} mm apart; their section is {bead.area:.3f} mm²."
    usual = None
    if nozzle is not None:
        if not (math.isfinite(nozzle) and 0.1 <= nozzle <= 2):
            raise OutOfRangeError("first_layer.nozzle_hole_mm_wide")
        usual = round(nozzle * WIDER[0], 3), round(nozzle * WIDER[1], 3)
        if height > 0.8 * nozzle:
            text += f" A layer above {0.8 * nozzle:.2f} mm is high for this nozzle: it is hardly pressed on."
        elif width < nozzle:
            text += f" Lines narrower than the hole hold badly; {usual[0]:.2f} to {usual[1]:.2f} mm is usual for a first layer."
        else:
            text += f" For a first layer {usual[0]:.2f} to {usual[1]:.2f} mm wide is usual with this nozzle."
    return Lines(bead.area, bead.spacing, usual, text.replace(" x ", " × "))
