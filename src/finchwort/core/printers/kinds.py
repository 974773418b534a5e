"""Closed sets of a printer's set-up, each value once."""

from __future__ import annotations

from enum import StrEnum

MANY_PRINTS = 10
"""So many prints since the last wash are many (ours)."""
COAT_PRINTS = 6
"""A coat of glue stick lasts 5 to 7 prints (common practice)."""


class Origin(StrEnum):
    """Where the zero of X and Y lies."""

    FRONT_LEFT = "front_left"
    CENTRE = "centre"


class ProbeKind(StrEnum):
    """What touches the bed."""

    NONE = "none"
    NOZZLE = "nozzle"
    RETRACTING = "retracting"
    INDUCTIVE = "inductive"
    CAPACITIVE = "capacitive"
    SWITCH = "switch"
    STRAIN = "strain"


class Compensation(StrEnum):
    """What a machine really does with the points of its mesh."""

    NONE = "none"
    MEAN = "mean"
    MESH = "mesh"


class OffsetPlace(StrEnum):
    """Where a Z offset may be kept; in several places they add up."""

    PRINTER = "printer"
    SLICER = "slicer"
    START_CODE = "start_code"


class Carrier(StrEnum):
    """What two lead screws carry."""

    UNKNOWN = "unknown"
    NOZZLE = "nozzle"
    BED = "bed"


class CloserSign(StrEnum):
    """Which way of a Z offset brings the tip closer."""

    NEGATIVE = "negative"
    POSITIVE = "positive"


class SurfaceCondition(StrEnum):
    """How a print surface is."""

    NEW = "new"
    GOOD = "good"
    WORN = "worn"
    DAMAGED = "damaged"


class SurfaceChange(StrEnum):
    """What was done with a print surface."""

    PRINTED = "printed"
    WASHED = "washed"
    COATED = "coated"


class RaisingTurn(StrEnum):
    """Which way a lead screw turns, seen from above, when it raises what it carries."""

    UNKNOWN = ""
    CLOCKWISE = "clockwise"
    COUNTERCLOCKWISE = "counterclockwise"
