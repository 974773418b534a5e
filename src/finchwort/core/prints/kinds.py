"""Closed sets of prints, each value once."""

from __future__ import annotations

from enum import StrEnum


class PrintOrigin(StrEnum):
    """From where a print was begun."""

    FILE = "file"
    TEST = "test"
    VISIT = "visit"
    PLAIN = "plain"


class LookKind(StrEnum):
    """What a look at a print is for, in the order of time."""

    LINES = "lines"
    LAYER = "layer"
    FIVE = "five"
    QUARTER = "quarter"
    LATER = "later"


class Seen(StrEnum):
    """What a look at a print found."""

    GOOD = "good"
    UNSURE = "unsure"
    STOPPED = "stopped"


class LookState(StrEnum):
    """How a look that was planned stands."""

    DONE = "done"
    MISSED = "missed"
    LATE = "late"
    DUE = "due"
    TO_COME = "to_come"


class PrintOutcome(StrEnum):
    """What came of a print."""

    HELD = "held"
    LET_GO = "let_go"
    TOO_WELL = "too_well"
    OTHER = "other"


class LettingGo(StrEnum):
    """How a part let go."""

    NOTHING = "nothing"
    CORNERS = "corners"
    LOOSE = "loose"
    SOME = "some"
