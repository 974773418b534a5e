"""Numbers and turns in words, the same wherever they are said."""

from __future__ import annotations

from fractions import Fraction
from typing import TYPE_CHECKING

from finchwort.core.base.kinds import KnobView

if TYPE_CHECKING:
    pass

HANDS = {"right": "clockwise", "left": "counterclockwise"}
OPPOSITE = {"clockwise": "counterclockwise", "counterclockwise": "clockwise"}
VIEWS = tuple(KnobView)
"""The knob is seen from its own end (face), or from the other side, through the plate (behind)."""

_WORDS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten"]
_PARTS = {2: ("half", "halves"), 3: ("third", "thirds"), 4: ("quarter", "quarters")}
_PARTS |= {5: ("fifth", "fifths"), 6: ("sixth", "sixths"), 8: ("eighth", "eighths")}
_PARTS |= {10: ("tenth", "tenths"), 12: ("twelfth", "twelfths"), 16: ("sixteenth", "sixteenths")}


def turn_in_words(turns: float, divisions: int) -> str:
    """Say an amount of turning.

    Parameters
    ----------
    turns : float
        Turns, of either sign.
    divisions : int
        Steps per turn in which they were rounded.

    Examples
    --------
    >>> turn_in_words(0.375, 8), turn_in_words(-1.0, 8), turn_in_words(2.25, 8)
    ('three eighths of a turn', 'one full turn', 'two turns and a quarter')
    """
    steps = round(abs(turns) * divisions)
    amount = Fraction(steps, divisions)
    whole, part = divmod(amount, 1)
    whole = int(whole)
    if part == 0:
        if whole == 1:
            return "one full turn"
        return f"{_count(whole)} full turns"
    top, bottom = part.numerator, part.denominator
    if bottom in _PARTS:
        single, many = _PARTS[bottom]
        article = "an" if single[0] in "aeiou" else "a"
        text = f"{_count(top)} {many}" if top > 1 else f"{article} {single}"
    else:
        text = f"{top}/{bottom}"
    if whole:
        return f"{_count(whole)} turn{'s' if whole > 1 else ''} and {text}"
    if top == 1 and bottom in _PARTS:
        return f"{text} turn" if bottom == 2 else f"{text} of a turn"
    return f"{text} of a turn"


def turn_in_figures(turns: float, divisions: int) -> str:
    """Write an amount of turning as whole turns and a fraction in the steps used.

    Examples
    --------
    >>> turn_in_figures(0.375, 8), turn_in_figures(1.25, 8), turn_in_figures(-2, 8)
    ('3/8', '1 2/8', '2')
    """
    whole, steps = divmod(round(abs(turns) * divisions), divisions)
    if not steps:
        return str(whole)
    return f"{whole} {steps}/{divisions}" if whole else f"{steps}/{divisions}"


def seen_direction(turns: float, thread: str, view: str) -> str:
    """Tell which way a knob is seen to turn.

    A right-hand thread tightens clockwise when looked at from the knob's own
    end; from the other side the same turn looks counterclockwise.

    Parameters
    ----------
    turns : float
        Positive tightens.
    thread : {"right", "left"}
    view : {"face", "behind"}

    Examples
    --------
    >>> seen_direction(0.25, "right", "face"), seen_direction(0.25, "right", "behind")
    ('clockwise', 'counterclockwise')
    """
    way = HANDS[thread]
    if turns < 0:
        way = OPPOSITE[way]
    return OPPOSITE[way] if view == "behind" else way


def millimetres(value: float, signed: bool = False) -> str:
    """Write a length with two decimals and its unit, never a minus zero.

    Examples
    --------
    >>> millimetres(0.254), millimetres(-0.004), millimetres(0.1, signed=True)
    ('0.25 mm', '0.00 mm', '+0.10 mm')
    """
    rounded = round(value, 2) + 0.0
    sign = "+" if signed and rounded > 0 else ("−" if rounded < 0 else "")
    return f"{sign}{abs(rounded):.2f} mm"


def micro(value: float, signed: bool = False) -> str:
    """Write a small length with three decimals, for what probes and gauges tell apart.

    Examples
    --------
    >>> micro(0.0124), micro(-0.0052, signed=True), micro(0.002, signed=True)
    ('0.012 mm', '−0.005 mm', '+0.002 mm')
    """
    rounded = round(value, 3) + 0.0
    sign = "+" if signed and rounded > 0 else ("−" if rounded < 0 else "")
    return f"{sign}{abs(rounded):.3f} mm"


def shift_in_words(shift: float) -> str:
    """Say how a tip's height differs from the present one (mm), in hundredths where that is all.

    Examples
    --------
    >>> shift_in_words(0.05), shift_in_words(-0.025), shift_in_words(0.0)
    ('0.05 mm farther', '0.025 mm closer', 'as it is')
    """
    if abs(shift) < 0.0005:
        return "as it is"
    amount = millimetres(abs(shift)) if abs(shift * 100 - round(shift * 100)) < 1e-6 else micro(abs(shift))
    return f"{amount} {'farther' if shift > 0 else 'closer'}"


def upper_first(text: str) -> str:
    """Begin a text as a sentence is begun, and leave the rest as it is.

    Examples
    --------
    >>> upper_first("turn the front left knob"), upper_first("")
    ('Turn the front left knob', '')
    """
    return text[:1].upper() + text[1:]


def lower_first(text: str) -> str:
    """Take a sentence into the middle of another; a letter that is a name, as of an axis, stays.

    Examples
    --------
    >>> lower_first("Home first."), lower_first(""), lower_first("A gap stays")
    ('home first.', '', 'a gap stays')
    >>> lower_first("Z offset counted twice"), lower_first("PEI sheet worn")
    ('Z offset counted twice', 'PEI sheet worn')
    """
    named = text[:1].isupper() and not text[1:2].islower() and not text.startswith("A ")
    return text if named else text[:1].lower() + text[1:]


def counted(count: int, noun: str) -> str:
    """Say how many there are of something whose plural takes an s.

    Examples
    --------
    >>> counted(1, "reading"), counted(12, "reading"), counted(0, "touch line")
    ('1 reading', '12 readings', '0 touch lines')
    """
    return f"{count:,} {noun}{'' if count == 1 else 's'}"


def duration(seconds: float) -> str:
    """Say how long something takes.

    Examples
    --------
    >>> duration(20), duration(100), duration(240), duration(4000)
    ('20 s', '2 min', '4 min', '67 min')
    """
    if seconds < 55:
        return f"{max(5, round(seconds / 5) * 5)} s"
    return f"{max(1, round(seconds / 60))} min"


def lasting(minutes: float) -> str:
    """Say how long a print takes: minutes, and hours from two on.

    Examples
    --------
    >>> lasting(42.2), lasting(135), lasting(120), lasting(0.2)
    ('42 min', '2 h 15 min', '2 h', '0 min')
    """
    whole = round(minutes)
    if whole < 120:
        return f"{whole} min"
    return f"{whole // 60} h {whole % 60} min" if whole % 60 else f"{whole // 60} h"


def _count(n: int) -> str:
    return _WORDS[n] if n < len(_WORDS) else str(n)
