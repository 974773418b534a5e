"""A cross beam on two lead screws: which side to drive, and whether it is the beam at all."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.kinds import Rotation, Side
from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import millimetres, turn_in_figures
from finchwort.core.levelling.beam import LEAD, MIN_SPAN, Skew
from finchwort.core.printers import Bed, Carrier
from finchwort.core.surveys import MAX_HEIGHT, Survey, fit_bed
from finchwort.core.tramming import change_of_tilt

CARRIES = tuple(Carrier)
"""What hangs on the two lead screws."""
TRIAL = 0.1
"""A trial turn moves one side by so much at least, mm (ours)."""
SIDES = tuple(Side)
TURNS = tuple(Rotation)
"""Which way a lead screw turns, seen from above, when it raises what it carries."""
FULL_STEPS = 200
"""Full steps of a usual motor in one turn (from memory)."""


@dataclass(frozen=True)
class Drive:
    """What to do at one lead screw.

    Attributes
    ----------
    side : {"left", "right"}
    rise : float
        mm, positive up.
    turns : float
        Of the lead screw, without sign.
    steps : int or None
        Motor steps, when the motor's steps a turn are known.
    turns_way : {"", "clockwise", "counterclockwise"}
        Which way, seen from above, where that is known.
    """

    side: str
    rise: float
    turns: float
    steps: int | None
    turns_way: str = ""


@dataclass(frozen=True)
class BeamPlan:
    """How to square a cross beam by what the bed shows.

    Attributes
    ----------
    state : {"level", "drive", "trial", "bed", "both", "unsure"}
        Nothing to do; drive one side; make a trial turn first, because it is not known
        what the screws carry; the bed is tilted, not the beam; both are; the readings cannot tell.
    rise : float
        Rise of the bed's heights from left to right over the span of the screws, mm.
    margin : float
        Its plus/minus at 95 %, mm.
    beam_share : float or None
        The part of it that an independent measurement lays to the beam, mm.
    bed_share : float or None
    drives : tuple of Drive
        Either of them does it; in the order in which to consider them.
    sentence : str
    independent : str
        Whether beam and bed can be told apart here, and how.
    """

    state: str
    rise: float
    margin: float
    beam_share: float | None
    bed_share: float | None
    drives: tuple[Drive, ...]
    sentence: str
    independent: str


def plan_beam(
    survey: Survey,
    span: float,
    *,
    noise: float,
    carries: str = "unknown",
    lead: float = LEAD,
    steps_per_turn: int | None = None,
    skew: Skew | None = None,
    tolerance: float = 0.05,
    raises: str = "",
    area: Bed | None = None,
) -> BeamPlan:
    """Say which side of a cross beam to drive, and by how much.

    Parameters
    ----------
    survey : Survey
    span : float
        Distance between the two lead screws, mm.
    noise : float
        Standard deviation of one reading, mm.
    carries : {"unknown", "nozzle", "bed"}
        What hangs on the screws.
    lead : float
        Travel of a screw in one turn, mm.
    steps_per_turn : int, optional
        Motor steps in one turn of a lead screw.
    skew : Skew, optional
        The beam measured on both uprights, independent of the bed.
    tolerance : float
        A rise within this is left alone, mm.
    raises : {"", "clockwise", "counterclockwise"}
        Which way a lead screw turns, seen from above, when it raises what it carries; empty when nobody knows.
    area : Bed, optional
        The printable area; the rectangle round the readings when not given.

    Returns
    -------
    BeamPlan

    Raises
    ------
    ChoiceError, NonFiniteError, OutOfRangeError

    Examples
    --------
    Heights of (-, 0, +) from left to right: the right end of a beam that carries the nozzle must rise.

    >>> bed = Survey([0, 150, 300, 150], [0, 100, 0, 200], [-0.2, 0.0, 0.2, 0.0])
    >>> plan = plan_beam(bed, 300, noise=0.005, carries="nozzle")
    >>> [(d.side, round(d.rise, 2), round(d.turns, 3)) for d in plan.drives]
    [('right', 0.4, 0.05), ('left', -0.4, 0.05)]
    >>> plan_beam(bed, 300, noise=0.005).state
    'trial'
    """
    _check(carries, span, noise, lead, tolerance, steps_per_turn)
    fit = fit_bed(survey, area, noise, settle=False)
    rise = fit.plane.a * span
    margin = fit.quantile * math.sqrt(float(fit.covariance[0, 0])) * span
    return _plan(rise, margin, span, carries, lead, steps_per_turn, skew, tolerance, raises)


def plan_row(
    values: Sequence[float],
    span: float,
    *,
    between: float,
    noise: float,
    carries: str = "unknown",
    lead: float = LEAD,
    steps_per_turn: int | None = None,
    skew: Skew | None = None,
    tolerance: float = 0.05,
    raises: str = "",
) -> BeamPlan:
    """Plan by three heights of a single row: left, middle, right.

    Parameters
    ----------
    values : sequence of float
        Heights, mm, positive towards the nozzle.
    span : float
        Distance between the two lead screws, mm.
    between : float
        Distance from the left place to the right one, mm.
    noise : float
        Standard deviation of one reading, mm.
    carries, lead, steps_per_turn, skew, tolerance, raises
        See `plan_beam`.

    Examples
    --------
    >>> plan = plan_row([-0.2, 0.0, 0.2], 300, between=300, noise=0.005, carries="nozzle")
    >>> [(d.side, round(d.rise, 2)) for d in plan.drives]
    [('right', 0.4), ('left', -0.4)]
    """
    if len(values) != 3:
        raise ChoiceError("levelling.row_three_heights_left")
    if not all(map(math.isfinite, (*values, between))):
        raise NonFiniteError("levelling.height_row_missing_not")
    if max(map(abs, values)) > MAX_HEIGHT:
        raise OutOfRangeError("levelling.height_row_too_large")
    if between < MIN_SPAN:
        raise OutOfRangeError("levelling.row_mm_long_more", min_span=MIN_SPAN)
    _check(carries, span, noise, lead, tolerance, steps_per_turn)
    rise = (values[2] - values[0]) / between * span
    margin = Z95 * noise * math.sqrt(2) / between * span
    plan = _plan(rise, margin, span, carries, lead, steps_per_turn, skew, tolerance, raises)
    bow = values[1] - (values[0] + values[2]) / 2
    if abs(bow) <= max(2 * noise * math.sqrt(1.5), 0.02):
        return plan
    way = "above" if bow > 0 else "below"
    return replace(
        plan,
        sentence=f"{plan.sentence} The middle lies {millimetres(abs(bow))} {way} both ends: that is a bow, and no beam takes it out.",
    )


def _check(
    carries: str,
    span: float,
    noise: float,
    lead: float,
    tolerance: float,
    steps_per_turn: float | None,
) -> None:
    if carries not in CARRIES:
        raise ChoiceError("levelling.two_lead_screws_carry")
    if not all(map(math.isfinite, (span, noise, lead, tolerance))):
        raise NonFiniteError("levelling.span_noise_lead_numbers")
    if span < MIN_SPAN or not 0.2 <= lead <= 50 or noise < 0:
        raise OutOfRangeError("levelling.span_mm_more_lead", min_span=MIN_SPAN)
    if steps_per_turn is not None and not 1 <= steps_per_turn <= 1_000_000:
        raise OutOfRangeError("levelling.motor_makes_steps_turn")


def _plan(
    rise: float,
    margin: float,
    span: float,
    carries: str,
    lead: float,
    steps_per_turn: int | None,
    skew: Skew | None,
    tolerance: float,
    raises: str,
) -> BeamPlan:
    beam, bed, told = _tell_apart(rise, margin, skew, span, carries)
    if abs(rise) <= tolerance and (beam is None or abs(beam) <= tolerance):
        text = f"From left to right the bed rises {millimetres(rise, signed=True)}: near enough to nothing."
        return BeamPlan("level", rise, margin, beam, bed, (), text, told)
    if abs(rise) <= margin and beam is None:
        text = f"A rise of {millimetres(rise, signed=True)} is within ±{millimetres(margin)}: measure again first."
        return BeamPlan("unsure", rise, margin, beam, bed, (), text, told)
    if beam is not None and abs(beam) <= (skew.margin if skew else 0.0):
        text = f"The bed is tilted, not the beam: level the bed. Driving a beam that is square would only hide {millimetres(abs(rise))}."
        return BeamPlan("bed", rise, margin, beam, bed, (), text, told)
    amount = rise if beam is None else beam
    if carries == "unknown":
        turns = max(TRIAL / lead, 1 / FULL_STEPS)
        trial = _drive("right", turns * lead, lead, steps_per_turn, raises)
        if raises:
            said_way = ""
        else:
            said_way = " Watch which way it turns, seen from above, and put that into the printer's set-up."
        text = (
            f"It is not known what hangs on the two screws. Make one trial turn: drive the right screw up by "
            f"{millimetres(turns * lead)} ({how_far(trial)}), survey again, and Finchwort learns the way.{said_way}"
        )
        return BeamPlan("trial", rise, margin, beam, bed, (trial,), text, told)
    right = SIGN[carries] * amount
    drives = tuple(
        sorted(
            (
                _drive("right", right, lead, steps_per_turn, raises),
                _drive("left", -right, lead, steps_per_turn, raises),
            ),
            key=lambda item: item.rise < 0,
        )
    )
    first, other = drives
    text = (
        f"Drive the {first.side} screw up by {millimetres(first.rise)} ({how_far(first)}), "
        f"or the {other.side} one down by as much. "
        "Motors off before you turn a screw by hand; then home and measure again. Near zero is enough."
    )
    state = "drive"
    if bed is not None and abs(bed) > tolerance:
        state = "both"
        text += f" The {millimetres(abs(bed))} that then remain are the bed's own tilt."
    return BeamPlan(state, rise, margin, beam, bed, drives, text, told)


SIGN = {"nozzle": 1.0, "bed": -1.0}
"""Where the bed looks high, a beam that carries the nozzle must rise, and one that carries the bed must sink."""


def rise_of_beam(skew: Skew, span: float, carries: str) -> float:
    """Rise of the bed's heights from left to right that a skewed beam makes, mm over the span.

    An end of the beam that hangs low brings the nozzle down there, so the bed looks high; a bed that hangs on the beam is
    low there itself.  Raising the low end takes it out in both cases.

    Examples
    --------
    >>> from finchwort.core.levelling import assess_beam
    >>> skew = assess_beam(14.1, 13.9, 300)
    >>> round(rise_of_beam(skew, 300, "nozzle"), 3), round(rise_of_beam(skew, 300, "bed"), 3)
    (0.2, -0.2)
    """
    return -SIGN[carries] * skew.slope * span


def _tell_apart(
    rise: float, margin: float, skew: Skew | None, span: float, carries: str
) -> tuple[float | None, float | None, str]:
    """Split a rise into beam and bed, when the beam was measured on its own."""
    if skew is None:
        return (
            None,
            None,
            "Beam and bed cannot be told apart from the bed's heights alone. Calipers on both uprights would tell.",
        )
    if carries == "unknown":
        return (
            None,
            None,
            "The beam was measured on both uprights, but as long as nobody knows whether it carries the nozzle or the bed, "
            "its part in the tilt is not known.",
        )
    beam = rise_of_beam(skew, span, carries)
    bed = rise - beam
    doubt = math.hypot(margin, skew.margin / skew.span * span)
    text = (
        f"By calipers on both uprights the beam accounts for {millimetres(beam, signed=True)} of the "
        f"{millimetres(rise, signed=True)}, the bed for {millimetres(bed, signed=True)} (±{millimetres(doubt)})."
    )
    return beam, bed, text


def _drive(side: str, rise: float, lead: float, steps_per_turn: int | None, raises: str) -> Drive:
    turns = abs(rise) / lead
    steps = None if steps_per_turn is None else round(turns * steps_per_turn)
    way = ""
    if raises:
        way = raises if rise > 0 else next(other for other in TURNS if other != raises)
    return Drive(side, rise, turns, steps, way)


def how_far(drive: Drive) -> str:
    """Say how far to turn a lead screw, which way where that is known, and the motor's steps.

    Examples
    --------
    >>> how_far(Drive("left", 0.1, 0.0125, 40)), how_far(Drive("left", 2.0, 0.25, None, "clockwise"))
    ('4.5° of a turn, 40 motor steps', '90° of a turn, that is 2/8, clockwise seen from above')
    """
    degrees = drive.turns * 360
    text = f"{degrees:.1f}° of a turn" if degrees < 9.95 else f"{degrees:.0f}° of a turn"
    eighths = round(drive.turns * 8)
    if eighths and abs(drive.turns * 8 - eighths) <= 0.25:
        text += f", that is {turn_in_figures(eighths / 8, 8)}"
    if drive.turns_way:
        text += f", {drive.turns_way} seen from above"
    return text if drive.steps is None else f"{text}, {drive.steps} motor steps"


def learn_carries(before: Survey, after: Survey, side: str, rise: float, noise: float) -> str:
    """Tell from a trial turn what hangs on the two lead screws.

    Parameters
    ----------
    before, after : Survey
    side : {"left", "right"}
        The screw that was driven.
    rise : float
        By how much, mm, positive up.
    noise : float
        Standard deviation of one reading, mm.

    Returns
    -------
    {"nozzle", "bed", "unknown"}
        Unknown when the tilt did not follow beyond its noise.

    Examples
    --------
    >>> flat = Survey([0, 300, 150], [0, 0, 200], [0, 0, 0])
    >>> lower = flat.with_heights([0.1, -0.1, 0.0])
    >>> learn_carries(flat, lower, "right", 0.2, 0.005)
    'nozzle'
    """
    if side not in SIDES or not math.isfinite(rise) or rise == 0:
        raise ChoiceError("levelling.trial_drives_left_right")
    slopes, *parts = change_of_tilt(before, after, (noise, noise))
    change = float(slopes[0])
    sd = math.sqrt(sum(float(part[0, 0]) for part in parts))
    if abs(change) <= 2 * sd:
        return "unknown"
    raised_right = np.sign(rise) * (1 if side == "right" else -1)
    return "bed" if change * raised_right > 0 else "nozzle"
