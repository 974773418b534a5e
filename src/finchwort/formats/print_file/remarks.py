"""What the remarks of a file say: roles of lines, names of parts, and a few settings."""

from __future__ import annotations

import re

from finchwort.core.files import LineRole

WORDS = (
    (LineRole.SKIRT, r"skirt"),
    (LineRole.BRIM, r"brim"),
    (LineRole.SUPPORT, r"support"),
    (LineRole.PURGE, r"purg|prim(?:e|ing)\b|intro"),
    (LineRole.WALL, r"wall|perimeter|shell|contour|outline"),
    (LineRole.FILL, r"fill|skin|solid|bottom|surface"),
)
"""Everyday words for what a line is for; the first that is found counts."""
ROLE = re.compile("|".join(f"(?P<{role.value}>{words})" for role, words in WORDS), re.IGNORECASE)
NAME = re.compile(
    r"^\W*(?:printing |start(?: of)? |begin )?(?:object|part|mesh|copy|model|body)\b[\s:=]*(.*)$",
    re.IGNORECASE,
)
SETTING = re.compile(r"^\s*([^=:]{3,60}?)\s*[=:]\s*(\S.{0,80}?)\s*$")
NUMBER = re.compile(r"\d+(?:\.\d+)?")
LONGEST = 60
"""A longer remark is prose, not a name."""
STOPPED = re.compile(r"\b(?:stop|end|finish|none)", re.IGNORECASE)


def role_of(remark: str) -> LineRole | None:
    """Give what a remark says the lines behind it are for.

    Examples
    --------
    >>> print(role_of(" outer wall"), role_of("Solid infill"), role_of("layer 3"))
    wall fill None
    """
    if len(remark) > LONGEST or "=" in remark:
        return None
    found = ROLE.search(remark)
    return LineRole(str(found.lastgroup)) if found else None


def name_of(remark: str) -> str | None:
    """Give the part that a remark names; empty where it ends one, None where it speaks of none.

    Examples
    --------
    >>> name_of(" object clip left"), name_of("part: lid"), name_of("stop object clip"), name_of("layer 3")
    ('clip left', 'lid', None, None)
    """
    found = NAME.match(remark[:LONGEST])
    if not found:
        return None
    name = " ".join(c for c in found.group(1).split() if c.isprintable())
    return "" if STOPPED.match(name) else name[:40]


def setting_of(remark: str) -> tuple[str, str] | None:
    """Give name and value of a setting, in small letters.

    Examples
    --------
    >>> setting_of(" Nozzle diameter = 0.4"), setting_of("wall")
    (('nozzle diameter', '0.4'), None)
    """
    found = SETTING.match(remark)
    if not found:
        return None
    return found.group(1).strip().lower().replace("_", " "), found.group(2).lower()


def number_in(text: str) -> float | None:
    """The first number of a text."""
    found = NUMBER.search(text)
    return float(found.group(0)) if found else None
