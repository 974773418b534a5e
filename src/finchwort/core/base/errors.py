"""The ways in which input can be unusable, each with a sentence a person understands."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Problem:
    """A line that could not be read.

    Attributes
    ----------
    line : int
        Counted from 1.
    text : str
        The line, shortened.
    reason : str
    """

    line: int
    text: str
    reason: str


class CoreError(ValueError):
    """Base of all errors that the core raises about its input.

    Attributes
    ----------
    problems : tuple
        Lines of a text that could not be read, when the input was a text.
    """

    problems: tuple[Problem, ...] = ()


class NonFiniteError(CoreError):
    """A value is missing, infinite or not a number."""


class OutOfRangeError(CoreError):
    """A value is a number, but no printer is like that."""


class TooFewReadingsError(CoreError):
    """Fewer readings than the question needs."""


class TooManyReadingsError(CoreError):
    """More readings than one survey may hold."""


class CollinearError(CoreError):
    """The points lie on one line, so they say nothing about the other direction."""


class DuplicateError(CoreError):
    """The same place, or the same name, stands there twice."""


class ChoiceError(CoreError):
    """A choice that does not exist, or does not fit the rest of the input."""


class UnknownGroundError(CoreError):
    """Nobody knows where the bed, or the tip, stands: nothing may be driven down onto it before that was looked at."""
