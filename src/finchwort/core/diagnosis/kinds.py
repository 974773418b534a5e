"""Closed sets of cases, each value once."""

from __future__ import annotations

from enum import StrEnum


class Answer(StrEnum):
    """What was seen of a sign."""

    YES = "yes"
    NO = "no"
    UNKNOWN = "unknown"


class Strength(StrEnum):
    """How much a finding says."""

    STRONGLY = "strongly"
    CLEARLY = "clearly"
    SOMEWHAT = "somewhat"


class CaseStep(StrEnum):
    """A step of a case."""

    SIGN = "sign"
    CHECK = "check"
    REMEDY = "remedy"
    CLOSE = "close"
    REOPEN = "reopen"


class NextMove(StrEnum):
    """What to do next in a case."""

    CHECK = "check"
    REMEDY = "remedy"


class Corners(StrEnum):
    """How a part's corners are."""

    ROUND = "round"
    SHARP = "sharp"


class AdviceLevel(StrEnum):
    """Whether a setting is right."""

    GOOD = "good"
    MIND = "mind"
    CHANGE = "change"


class Suitability(StrEnum):
    """How surface and material go together."""

    GOOD = "good"
    NEEDS = "needs"
    UNSUITABLE = "unsuitable"
    UNKNOWN = "unknown"
