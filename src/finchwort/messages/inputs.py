"""What is said of a value that is not what its field may be."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import islice
from typing import Any

MAX_TOLD = 50
"""So many fields are named at most."""
TAGGED = ("job", "test", "adjustment")
"""Fields that take one of several kinds of things."""

_SENTENCES = {
    "missing": "This is needed.",
    "finite_number": "This must be a finite number.",
    "float_parsing": "This must be a number.",
    "float_type": "This must be a number.",
    "int_parsing": "This must be a whole number.",
    "int_type": "This must be a whole number.",
    "int_from_float": "This must be a whole number.",
    "bool_parsing": "This must be yes or no.",
    "string_type": "This must be text.",
    "extra_forbidden": "This is not known here.",
    "union_tag_invalid": "There is no such kind.",
    "union_tag_not_found": "Say of which kind it is.",
}


@dataclass(frozen=True)
class FieldError:
    """A field of the input that was refused.

    Attributes
    ----------
    field : str
        Where it stands, parts joined by points; "body" for the whole.
    message : str
        A sentence.
    """

    field: str
    message: str


def field_errors(refused: Iterable[Mapping[str, Any]]) -> list[FieldError]:
    """Give the fields that were refused, each with a sentence.

    Parameters
    ----------
    refused : iterable of mapping
        As pydantic tells them: where (``loc``), why (``type``) and with what (``ctx``).
    """
    return [
        FieldError(".".join(_place(wrong["loc"])) or "body", _sentence(wrong["type"], wrong.get("ctx", {})))
        for wrong in islice(refused, MAX_TOLD)
    ]


def _place(loc: Sequence[int | str]) -> list[str]:
    """Where a field stands in the input: the kind that pydantic names after one of several kinds is no place in it."""
    return [str(part) for before, part in zip((None, *loc), loc, strict=False) if before not in TAGGED]


def _sentence(kind: str, context: Mapping[str, Any]) -> str:
    if kind in ("greater_than_equal", "greater_than"):
        least = context.get("ge", context.get("gt"))
        return f"This must be {'at least' if 'ge' in context else 'more than'} {least:g}."
    if kind in ("less_than_equal", "less_than"):
        return f"This must be at most {context.get('le', context.get('lt')):g}."
    if kind == "string_too_long":
        return f"This is too long; {context['max_length']:,} characters are the most."
    if kind == "string_too_short":
        return "This must not be empty."
    if kind == "too_long":
        return f"These are too many; {context['max_length']:,} are the most."
    if kind in ("literal_error", "enum"):
        return f"This must be {context['expected']}."
    return _SENTENCES.get(kind, "This is not understood.")
