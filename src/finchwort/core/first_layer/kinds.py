"""Closed sets of the first layer, each value once."""

from __future__ import annotations

from enum import StrEnum


class Band(StrEnum):
    """What a first layer looks like, from too close to too far."""

    SCRAPES = "scrapes"
    CROWDED = "crowded"
    CLOSE = "close"
    GOOD = "good"
    FAR = "far"
    LOOSE = "loose"


class Stage(StrEnum):
    """Of which bed a forecast tells."""

    MEASURED = "measured"
    PLAN = "plan"
    COMPENSATED = "compensated"


class ForecastLevel(StrEnum):
    """What a forecast comes to."""

    GOOD = "good"
    NEAR = "near"
    BEYOND = "beyond"


class PrintKind(StrEnum):
    """A test print."""

    PATCHES = "patches"
    LADDER = "ladder"
    DISCS = "discs"
    MESH_WALK = "mesh_walk"
    PAPER_WALK = "paper_walk"


class JudgedStep(StrEnum):
    """How a printed place was judged."""

    FAR_TOO_FAR = "far_too_far"
    TOO_FAR = "too_far"
    GOOD = "good"
    TOO_CLOSE = "too_close"
    FAR_TOO_CLOSE = "far_too_close"


class BestSide(StrEnum):
    """On which side of all judged patches the best lies."""

    CLOSER = "closer"
    FARTHER = "farther"


class PaperStep(StrEnum):
    """What to do next with paper in the middle."""

    FEEL = "feel"
    UP = "up"
    LOWER = "lower"
    TYPE = "type"
    LEAVE = "leave"


class ZeroKeeper(StrEnum):
    """What keeps the zero of Z."""

    UNKNOWN = ""
    PROBE = "probe"
    SWITCH = "switch"
    KNOBS = "knobs"


class OffsetReason(StrEnum):
    """Where a Z offset that was written down came from."""

    TYPED = "typed"
    PAPER = "paper"
    PATCHES = "patches"
    LADDER = "ladder"
    TRIM = "trim"
    TURNED = "turned"
    KNOBS = "knobs"
    SWITCH = "switch"
