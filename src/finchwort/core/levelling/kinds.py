"""Closed sets of levelling, each value once."""

from __future__ import annotations

from enum import StrEnum


class MiddleShape(StrEnum):
    """What the middle of a bed does."""

    NONE = "none"
    DIPS = "dips"
    DOME = "dome"


class Means(StrEnum):
    """What can take out what is left."""

    KNOBS = "knobs"
    FOIL = "foil"
    BEAM = "beam"
    CARRIAGE = "carriage"
    TAPE = "tape"
    NOTHING = "nothing"


class SkewState(StrEnum):
    """Whether a cross beam is askew, or the bed."""

    LEVEL = "level"
    DRIVE = "drive"
    TRIAL = "trial"
    BED = "bed"
    BOTH = "both"
    UNSURE = "unsure"


class SpotKind(StrEnum):
    """What a single reading that stands out may be."""

    READING = "reading"
    BUMP = "bump"
    DENT = "dent"


class ResidualRemedy(StrEnum):
    """What can be done about the shape that is left."""

    PROBE_AGAIN = "probe_again"
    LEAVE = "leave"
    COMPENSATION = "compensation"
    SHIMS = "shims"
    GLASS = "glass"
    REPLACE = "replace"


class AdjustmentKind(StrEnum):
    """What was done to a bed besides turning its screws."""

    SHIMS = "shims"
    TAPE = "tape"
    BEAM = "beam"
    MESH = "mesh"
