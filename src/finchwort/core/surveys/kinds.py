"""Closed sets of surveys, each value once."""

from __future__ import annotations

from enum import StrEnum


class VerdictLevel(StrEnum):
    """What a bed needs, by its survey."""

    OPEN = "open"
    UNSURE = "unsure"
    LEVEL = "level"
    TURN = "turn"
    COMPENSATE = "compensate"
    WARPED = "warped"


class ShapeName(StrEnum):
    """What a bed looks like without its tilt."""

    FLAT = "flat"
    DOME = "dome"
    BOWL = "bowl"
    RIDGE_X = "ridge_x"
    RIDGE_Y = "ridge_y"
    TROUGH_X = "trough_x"
    TROUGH_Y = "trough_y"
    SADDLE = "saddle"
    TWIST = "twist"
    UNEVEN = "uneven"


class Reference(StrEnum):
    """The datum that heights count from."""

    LEAST_SQUARES = "least_squares"
    MINIMUM_ZONE = "minimum_zone"
    THREE_POINTS = "three_points"
    SCREWS = "screws"


class PastedKind(StrEnum):
    """What a pasted text turned out to be."""

    READINGS = "readings"
    REPEATABILITY = "repeatability"
    SWITCHES = "switches"
    SETTINGS = "settings"
    ROW = "row"


class TypedSource(StrEnum):
    """How readings that a person hands over were found."""

    TYPED = "typed"
    PASTED = "pasted"
    FILE = "file"
    PAPER = "paper"
    LOWERED = "lowered"
    FEELER = "feeler"
    DIAL = "dial"
    CALIPERS = "calipers"
