"""What a result says about itself: a code with values; `finchwort.messages` makes the sentence of it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Remark:
    """Something worth saying, without the words.

    Attributes
    ----------
    code : str
        What is said: an area and a word, such as ``visits.turned``.
    values : tuple of (name, value)
        What the sentence names; a value may be a remark itself.
    """

    code: str
    values: tuple[tuple[str, object], ...] = ()

    def __str__(self) -> str:
        """Give the code and the values, for those who read logs."""
        named = ", ".join(f"{name}={value!s}" for name, value in self.values)
        return f"{self.code} ({named})" if named else self.code

    def __format__(self, spec: str) -> str:
        """Refuse to stand in a text: without its words it is no sentence for people."""
        raise TypeError(f"A remark has no words of its own: {self.code}.")


def remark(code: str, /, **values: object) -> Remark:
    """Make a remark.

    Examples
    --------
    >>> print(remark("visits.older", months=7))
    visits.older (months=7)
    """
    return Remark(code, tuple(values.items()))
