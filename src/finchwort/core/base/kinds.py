"""Closed sets of what several areas share, each value once."""

from __future__ import annotations

from enum import StrEnum


class Rotation(StrEnum):
    """Which way something turns, as it is seen."""

    CLOCKWISE = "clockwise"
    COUNTERCLOCKWISE = "counterclockwise"


class ThreadHand(StrEnum):
    """Of which hand a thread is."""

    RIGHT = "right"
    LEFT = "left"


class KnobView(StrEnum):
    """From where a knob is seen: from its own end, or through the plate."""

    FACE = "face"
    BEHIND = "behind"


class Side(StrEnum):
    """Left or right."""

    LEFT = "left"
    RIGHT = "right"


class HeightsAs(StrEnum):
    """Whether readings are heights, or gaps under the tip, which count the other way."""

    HEIGHT = "height"
    GAP = "gap"


class LengthUnit(StrEnum):
    """In which unit lengths stand."""

    MM = "mm"
    UM = "um"
