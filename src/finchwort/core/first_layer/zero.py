"""Where a machine keeps its zero, and how a correction is made there: by typing, at a switch, or with all knobs alike."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.wording import millimetres, turn_in_figures
from finchwort.core.printers import Screw

ZEROS = {"probe": "the probe", "switch": "a Z switch", "knobs": "the knobs"}
"""What decides where Z = 0 is (common practice)."""
MAX_CORRECTION = 3.0
"""A correction further than this is a mistake, mm."""


@dataclass(frozen=True)
class ByHand:
    """A correction as it is made at a machine whose zero is no number.

    Attributes
    ----------
    turns : tuple of (str, float)
        All knobs with their turns, positive tightens; empty at a switch.
    closer : float
        What that really does, after rounding to steps of the hand, mm, positive closer.
    sentence : str
    """

    turns: tuple[tuple[str, float], ...]
    closer: float
    sentence: str


def correct_by_knobs(closer: float, screws: Sequence[Screw]) -> ByHand:
    """Raise or lower the whole bed with all knobs alike.

    Parameters
    ----------
    closer : float
        mm, positive brings bed and tip together.
    screws : sequence of Screw

    Raises
    ------
    ChoiceError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> four = [Screw(name, x, y, 0.7) for name, x, y in [("a", 0, 0), ("b", 1, 0), ("c", 1, 1), ("d", 0, 1)]]
    >>> print(correct_by_knobs(0.17, four).sentence)
    All four knobs 2/8 looser: the bed comes 0.17 mm closer to the tip.
    """
    _check(closer)
    if not screws:
        raise ChoiceError("first_layer.bed_no_knobs")
    if len({(s.pitch, s.tightening_lowers) for s in screws}) > 1:
        raise ChoiceError("first_layer.knobs_bed_not_alike")
    screw = screws[0]
    steps = round(closer / screw.step)
    turns = (steps / screw.divisions) * (-1 if screw.tightening_lowers else 1)
    made = steps * screw.step
    count = {3: "three", 4: "four"}.get(len(screws), str(len(screws)))
    if not steps:
        text = f"Less than one step of the hand ({millimetres(screw.step)}): leave the knobs."
    else:
        way = "tighter" if turns > 0 else "looser"
        move = "closer to the tip" if closer > 0 else "away from the tip"
        text = (
            f"All {count} knobs {abs(steps)}/{screw.divisions} {way}: the bed {'comes' if closer > 0 else 'goes'} "
            f"{millimetres(abs(made))} {move}."
        )
    return ByHand(tuple((s.name, turns + 0.0) for s in screws), made + 0.0, text)


def correct_at_switch(closer: float, pitch: float | None = None, divisions: int = 8) -> ByHand:
    """Move the Z switch: lower lets the tip come lower before it stops.

    Parameters
    ----------
    closer : float
        mm, positive brings the tip closer.
    pitch : float, optional
        Travel of the switch's screw in a turn, mm, where it has one.
    divisions : int
        Steps of the hand in a turn.

    Examples
    --------
    >>> print(correct_at_switch(0.15).sentence)
    The Z switch 0.15 mm lower: the tip comes as much closer.
    >>> print(correct_at_switch(-0.26, pitch=0.5).sentence)
    The Z switch 0.26 mm higher (its screw 4/8 of a turn): the tip stands as much farther.
    """
    _check(closer)
    way = "lower" if closer > 0 else "higher"
    screw = f" (its screw {turn_in_figures(closer / pitch, divisions)} of a turn)" if pitch else ""
    end = "comes as much closer" if closer > 0 else "stands as much farther"
    if abs(closer) < 0.005:
        return ByHand((), 0.0, "Leave the Z switch where it is.")
    return ByHand((), closer, f"The Z switch {millimetres(abs(closer))} {way}{screw}: the tip {end}.")


def switch_trouble(touches: bool | None, plate_thicker: float | None) -> str | None:
    """Say what a Z switch in the wrong place does.

    Parameters
    ----------
    touches : bool or None
        Whether the tip reaches the plate before the switch stops it; None when nobody looked.
    plate_thicker : float or None
        How much thicker the plate is than the one the switch was set for, mm.

    Examples
    --------
    >>> switch_trouble(False, None)[:44]
    'The switch stops the tip before it can reach'
    >>> switch_trouble(None, 3.0)[:40]
    'Before the first homing: this plate is 3'
    """
    if plate_thicker is not None and plate_thicker > 0.005:
        return (
            f"Before the first homing: this plate is {millimetres(plate_thicker)} thicker than the one before, so move the Z "
            f"switch up by at least that much, or the tip runs into the plate before the switch stops it."
        )
    if touches is False:
        return (
            "The switch stops the tip before it can reach the plate, so no offset and no knob brings it down. Move the "
            "switch lower: look for a lug or a screw on its post that keeps it from going down."
        )
    return None


def keep_first_layer(value: float, rise: float, closer_is: str) -> float:
    """Give the offset that keeps the first layer after the bed moved under the tip.

    Parameters
    ----------
    value : float
        The offset so far, mm, in the machine's own sign.
    rise : float
        How much the middle of the bed rose towards the tip, mm.
    closer_is : {"negative", "positive"}

    Examples
    --------
    >>> keep_first_layer(-1.25, -0.06, "negative"), keep_first_layer(1.25, -0.06, "positive")
    (-1.31, 1.31)
    """
    if not (math.isfinite(value) and math.isfinite(rise)):
        raise NonFiniteError("first_layer.offset_length_mm")
    return round(value + (rise if closer_is == "negative" else -rise), 2) + 0.0


def _check(closer: float) -> None:
    if not math.isfinite(closer):
        raise NonFiniteError("first_layer.correction_length_mm")
    if abs(closer) > MAX_CORRECTION:
        raise OutOfRangeError("first_layer.correction_more_mm_mistake", max_correction=MAX_CORRECTION)
