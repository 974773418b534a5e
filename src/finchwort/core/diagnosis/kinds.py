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
    BEFORE = "before"
    SAFE = "safe"
    SETUP = "setup"
    CLOSE = "close"
    REOPEN = "reopen"


class NextMove(StrEnum):
    """What to do next in a case."""

    ALARM = "alarm"
    CHECK = "check"
    REMEDY = "remedy"
    DONE = "done"
    NOTHING = "nothing"


class Came(StrEnum):
    """What came of a remedy."""

    BETTER = "better"
    LITTLE = "little"
    NOT_BETTER = "not_better"


def as_came(came: str | bool) -> Came:
    """What came of a remedy, told as a word, or as better or not.

    Examples
    --------
    >>> as_came(True), as_came("little")
    (<Came.BETTER: 'better'>, <Came.LITTLE: 'little'>)
    """
    if isinstance(came, bool):
        return Came.BETTER if came else Came.NOT_BETTER
    return Came(came)


class Alarm(StrEnum):
    """What must be dealt with before anything else."""

    SMELL = "smell"
    SCRAPING = "scraping"
    HALTED = "halted"
    CLICKS = "clicks"


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
