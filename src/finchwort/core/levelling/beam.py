"""The cross beam: whether both ends stand at the same height."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import millimetres
from finchwort.core.probing import CALIPER_SD

LEAD = 8.0
"""Usual lead of a cross beam's screw, mm a turn (from memory)."""
MIN_SPAN = 40.0


@dataclass(frozen=True)
class Skew:
    """A cross beam measured on both uprights.

    Attributes
    ----------
    difference : float
        Right minus left height, mm.
    margin : float
        Its plus/minus, mm.
    span : float
        Distance between the two places, mm.
    slope : float
        Rise from left to right, mm per mm.
    square : bool
        Whether the difference is within what calipers can tell.
    drives : tuple of (str, float, float)
        Screw to drive, by how much (mm, positive raises that end) and turns of it.
    sentence : str
    """

    difference: float
    margin: float
    span: float
    slope: float
    square: bool
    drives: tuple[tuple[str, float, float], ...]
    sentence: str


def beam_span(left: float | None, right: float | None, width: float) -> float:
    """Distance between two lead screws, mm; about the printable width when their places are not known.

    Examples
    --------
    >>> beam_span(-20, 350, 330), beam_span(None, None, 220)
    (370.0, 220.0)
    """
    return float(width if left is None or right is None else right - left)


def assess_beam(
    left: float,
    right: float,
    span: float,
    screws: int = 2,
    *,
    lead: float = LEAD,
    screw_span: float | None = None,
    caliper_sd: float = CALIPER_SD,
) -> Skew:
    """Judge a cross beam from the heights of its ends.

    Parameters
    ----------
    left, right : float
        Height of the beam over the base at both uprights, mm, measured the same way.
    span : float
        Distance between the two places, mm.
    screws : {1, 2}
        How many lead screws carry it.
    lead : float
        Travel of a lead screw in one turn, mm.
    screw_span : float, optional
        Distance between the two lead screws, mm; the span when not given.
    caliper_sd : float
        Standard deviation of one measurement, mm.

    Returns
    -------
    Skew

    Raises
    ------
    NonFiniteError, OutOfRangeError, ChoiceError

    Examples
    --------
    >>> skew = assess_beam(14.1, 13.9, 300)
    >>> round(skew.difference, 3), skew.square, [(n, round(mm, 2)) for n, mm, _ in skew.drives]
    (-0.2, False, [('right', 0.2)])
    """
    values = (left, right, span, lead, caliper_sd, span if screw_span is None else screw_span)
    if not all(map(math.isfinite, values)):
        raise NonFiniteError("levelling.both_heights_span_numbers")
    if screws not in (1, 2):
        raise ChoiceError("levelling.cross_beam_hangs_two")
    if span < MIN_SPAN or values[-1] < MIN_SPAN:
        raise OutOfRangeError("levelling.span_less_mm_says", min_span=MIN_SPAN)
    if not 0.2 <= lead <= 50:
        raise OutOfRangeError("levelling.lead_screw_travels_mm")
    if abs(right - left) > span / 5:
        raise OutOfRangeError("levelling.no_beam_hangs_crooked")
    difference = right - left
    margin = Z95 * caliper_sd * math.sqrt(2)
    slope = difference / span
    square = abs(difference) <= margin
    low, high = ("right", "left") if difference < 0 else ("left", "right")
    if square:
        text = f"Both ends agree within what calipers tell (±{millimetres(margin)}). Leave the beam."
        return Skew(difference, margin, span, slope, True, (), text)
    amount = abs(slope) * values[-1]
    text = f"The {low} end hangs {millimetres(abs(difference))} lower over {span:g} mm (±{millimetres(margin)}). "
    if screws == 1:
        text += (
            f"One lead screw carries this beam: loosen the {low} carriage, lift that end {millimetres(amount)}, "
            "tighten, and measure again. Motors off first."
        )
        return Skew(difference, margin, span, slope, False, ((low, amount, 0.0),), text)
    turns = amount / lead
    text += (
        f"Drive the {low} screw up by {millimetres(amount)}, that is {turns * 360:.0f}° of a turn, or the {high} one "
        "down by as much. Motors off before you turn a screw by hand; then measure again."
    )
    return Skew(difference, margin, span, slope, False, ((low, amount, turns),), text)
