"""The ways in which input can be unusable: a code with values; `finchwort.messages` makes the sentence of it."""

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
    """Base of all errors about input.

    Attributes
    ----------
    code : str
        What is wrong: an area and a word, such as ``surveys.height_missing_not_number``.
    values : dict
        What the sentence names.
    problems : tuple
        Lines of a text that could not be read, when the input was a text.
    """

    problems: tuple[Problem, ...] = ()

    def __init__(self, code: str, /, **values: object) -> None:
        super().__init__(code)
        self.code, self.values = code, values

    def __str__(self) -> str:
        """Give the code and the values, for those who read logs."""
        named = ", ".join(f"{name}={value!r}" for name, value in self.values.items())
        return f"{self.code} ({named})" if named else self.code


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
