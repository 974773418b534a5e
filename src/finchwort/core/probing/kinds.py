"""Closed sets of measuring, each value once."""

from __future__ import annotations

from enum import StrEnum


class HandWay(StrEnum):
    """How a height was found by hand."""

    PAPER = "paper"
    LOWERED = "lowered"
    FEELER = "feeler"
    DIAL = "dial"
    CALIPERS = "calipers"


class Drag(StrEnum):
    """How a strip of paper feels under the tip."""

    FREE = "free"
    SLIGHT = "slight"
    STRONG = "strong"
    BUNCHES = "bunches"
    STUCK = "stuck"


class TestKind(StrEnum):
    """What was tested before measuring."""

    REPEATABILITY = "repeatability"
    SOAK = "soak"
    SWITCHES = "switches"
    BEAM = "beam"
    LINE = "line"


class SwitchState(StrEnum):
    """What a switch says."""

    OPEN = "open"
    TRIGGERED = "triggered"


class Wiring(StrEnum):
    """How a switch is wired."""

    NORMALLY_OPEN = "normally_open"
    NORMALLY_CLOSED = "normally_closed"
    UNKNOWN = "unknown"


class FindingState(StrEnum):
    """What the walk round a machine found at an item."""

    GOOD = "good"
    BAD = "bad"
    SKIPPED = "skipped"


class SwitchFault(StrEnum):
    """What a test found of a switch."""

    GOOD = "good"
    SWAPPED = "swapped"
    INVERTED = "inverted"
    DEAD = "dead"
    CROSSED = "crossed"
    WAITING = "waiting"


class LineForm(StrEnum):
    """What a line along a straightedge looks like."""

    STRAIGHT = "straight"
    SAG = "sag"
    CROWN = "crown"
    WAVY = "wavy"


class LineWay(StrEnum):
    """Along which line of the bed a straightedge lies."""

    X = "x"
    Y = "y"
    UP = "up"
    DOWN = "down"


class LineSubject(StrEnum):
    """What a straightedge lies on."""

    PLATE = "plate"
    CARRIER = "carrier"


class DriftUnit(StrEnum):
    """What a drift is counted by."""

    READING = "reading"
    MINUTE = "minute"
