"""Sentences with gaps, and how each kind of value is written into one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from string import Formatter

from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import counted, duration, lower_first, micro, millimetres, shift_in_words

Sentence = str | Callable[..., str]
"""A text with gaps, or what makes one of the values."""
WRITE: Mapping[str, Callable[..., str]] = {
    "mm": millimetres,
    "signed_mm": lambda value: millimetres(value, signed=True),
    "micro": micro,
    "shift": shift_in_words,
    "time": duration,
    "lower": lower_first,
    "start": lambda value: f"{value[:1].upper()}{value[1:]}",
    "and": " and ".join,
    "list": ", ".join,
}
"""How a gap may say that its value is written: ``{gap:mm}``; ``{count:count reading}`` counts readings."""


class Sentences(Formatter):
    """Fill gaps; a remark among the values is said first."""

    def __init__(self, look_up: Callable[[str], Sentence]) -> None:
        self.look_up = look_up

    def format_field(self, value: object, spec: str) -> str:
        """Write one value, as its gap says."""
        value = self._said(value)
        if spec in WRITE:
            return WRITE[spec](value)
        kind, _, noun = spec.partition(" ")
        if kind == "count" and isinstance(value, int):
            return counted(value, noun)
        return str(super().format_field(value, spec))

    def _said(self, value: object) -> object:
        if isinstance(value, Remark):
            return self.words(value)
        if isinstance(value, tuple) and all(isinstance(part, Remark) for part in value):
            return " ".join(self.all(value))
        return value

    def words(self, remark: Remark) -> str:
        """Say a remark."""
        sentence, values = self.look_up(remark.code), dict(remark.values)
        if callable(sentence):
            return sentence(**{name: self._said(value) for name, value in values.items()})
        return self.fill(sentence, values)

    def fill(self, sentence: str, values: Mapping[str, object]) -> str:
        """Write values into the gaps of a text; nothing leaves no gap."""
        return self.vformat(sentence, (), values).replace("  ", " ").rstrip(" ")

    def all(self, remarks: Iterable[Remark]) -> list[str]:
        """Say remarks, each sentence once."""
        return list(dict.fromkeys(map(self.words, remarks)))
