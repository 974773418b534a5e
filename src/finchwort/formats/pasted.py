"""What a person copied from a machine's console: which things it tells, by its dialect, wherever it is pasted."""

from __future__ import annotations

import contextlib
import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field

from finchwort.core.machine import Rows, Told
from finchwort.core.probing import Summary
from finchwort.knowledge.dialect import Dialect

MAX_TEXT = 200_000
"""Longer texts are not a console's, characters."""
SAME_PLACE = 0.6
"""Touches no further apart were made at one place, mm."""
MIN_TOUCHES = 3
NONSENSE = 20.0
"""No bed and no offset is further from zero, mm."""
_STAMP = re.compile(
    r"^\s*(?:\[?\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?\]?\s*)?(?:(?:recv|send|rx|tx)\s*:|[<>]+)?\s*", re.I
)
_NUMBER = r"[-+−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)"
_BARE = re.compile(rf"^\s*(?:{_NUMBER}[\s;|]+){{2}}{_NUMBER}\s*$")
_EACH = re.compile(rf"\b(?P<i>\d{{1,3}})\s+of\s+(?P<n>\d{{1,3}})\b.*?\bz\s*[:=]?\s*(?P<z>{_NUMBER})", re.I)
_FIGURES = {
    "sd": rf"\b(?:standard\s+deviation|std\.?\s*dev(?:iation)?|sigma|stdev)\s*[:=]?\s*({_NUMBER})",
    "range": rf"\brange\s*[:=]?\s*({_NUMBER})",
    "mean": rf"\b(?:mean|average|avg)\s*[:=]?\s*({_NUMBER})",
    "low": rf"\b(?:min|minimum)\s*[:=]?\s*({_NUMBER})",
    "high": rf"\b(?:max|maximum)\s*[:=]?\s*({_NUMBER})",
}
_COUNT = re.compile(r"\b(?:(\d{1,3})\s+(?:points|samples|touches|readings|probes)|n\s*=\s*(\d{1,3}))\b", re.I)


@dataclass(frozen=True)
class Pasted:
    """What a text tells.

    Attributes
    ----------
    switches : dict of str to {"open", "triggered"}
        By name.
    touches : tuple of float
        Heights of touches at one place, mm.
    summary : Summary or None
        Figures of such touches, where the touches themselves are not told.
    told : Told or None
        Stored settings.
    row : tuple of float or None
        Three bare numbers, left, middle, right, mm.
    """

    switches: dict[str, str] = field(default_factory=dict)
    touches: tuple[float, ...] = ()
    summary: Summary | None = None
    told: Told | None = None
    row: tuple[float, float, float] | None = None

    @property
    def empty(self) -> bool:
        """Whether it tells none of these."""
        return not (self.switches or self.touches or self.summary or self.told or self.row)


def hear_pasted(text: str, dialect: Dialect) -> Pasted:
    r"""Find what a copied text tells besides the heights of a bed.

    Parameters
    ----------
    text : str
        With time stamps and chatter, in any order.
    dialect : Dialect
        Of the machine.

    Examples
    --------
    >>> from finchwort.knowledge.dialect import load_dialect
    >>> found = hear_pasted("Recv: x_min: open\nRecv: z_min: TRIGGERED", load_dialect("open"))
    >>> found.switches
    {'x_min': 'open', 'z_min': 'triggered'}
    """
    lines = [_STAMP.sub("", line, count=1).strip() for line in text[:MAX_TEXT].splitlines()]
    lines = [line for line in lines if line]
    switches: dict[str, str] = {}
    for line in lines:
        if (switch := dialect.hear_switch(line)) is not None:
            switches.update([switch])
    touches = _touches(lines, dialect)
    summary = None if touches else _summary(lines)
    row = None
    if len(lines) == 1 and _BARE.match(lines[0]):
        left, middle, right = (_float(item) for item in re.findall(_NUMBER, lines[0]))
        row = (left, middle, right)
    return Pasted(switches, touches, summary, hear_told(lines, dialect), row)


def _float(text: str) -> float:
    return float(text.replace("−", "-").replace(",", "."))


def _touches(lines: Sequence[str], dialect: Dialect) -> tuple[float, ...]:
    """Touches at one place: numbered ones, or the same place again and again."""
    numbered = []
    for line in lines:
        if matches := _EACH.search(line):
            numbered.append(_float(matches["z"]))
    if len(numbered) >= MIN_TOUCHES:
        return tuple(numbered)
    places = []
    for line in lines:
        if matches := dialect.hear("touch", line):
            with contextlib.suppress(ValueError):
                places.append((float(matches["x"]), float(matches["y"]), float(matches["z"])))
    if len(places) < MIN_TOUCHES:
        return ()
    x, y, _ = places[0]
    if any(math.hypot(px - x, py - y) > SAME_PLACE for px, py, _ in places):
        return ()  # several places: those are readings of the bed
    return tuple(z for *_, z in places)


def _summary(lines: Sequence[str]) -> Summary | None:
    text = "\n".join(lines)
    results = {name: re.search(pattern, text, re.I) for name, pattern in _FIGURES.items()}
    if results["sd"] is None:
        return None
    figures = {name: _float(result[1]) for name, result in results.items() if result}
    counted = _COUNT.search(text)
    of = [int(item["n"]) for item in map(_EACH.search, lines) if item]
    count = int(counted[1] or counted[2]) if counted else max(of, default=0)
    span = figures.get("range")
    if span is None and {"low", "high"} <= set(figures):
        span = figures["high"] - figures["low"]
    if not 0 <= figures["sd"] <= 1:
        return None
    return Summary(abs(figures["sd"]), span, figures.get("mean"), count)


def hear_told(lines: Sequence[str], dialect: Dialect) -> Told | None:
    """Read what a machine says of itself: firmware, abilities, offset, steps, compensation and mesh.

    Parameters
    ----------
    lines : sequence of str
    dialect : Dialect

    Returns
    -------
    Told or None
        None when the lines tell nothing of it.
    """
    firmware = machine = ""
    abilities: dict[str, bool] = {}
    steps: dict[str, float] = {}
    compensation = offset = None
    for line in lines:
        if heard := dialect.hear("identity", line):
            firmware = heard["firmware"].strip()
            machine = (heard.groupdict().get("machine") or "").strip()
        elif heard := dialect.hear("ability", line):
            abilities[heard["name"].lower()] = heard["value"] == "1"
        elif heard := dialect.hear("steps", line):
            with contextlib.suppress(ValueError):
                steps = {axis: float(value) for axis, value in heard.groupdict().items() if value}
        elif heard := dialect.hear("compensation", line):
            compensation = heard["on"] == "1"
        elif heard := dialect.hear("offset", line):
            with contextlib.suppress(ValueError):
                value = float(heard["value"])
                offset = value if abs(value) <= NONSENSE else offset
    told = Told(firmware, machine, abilities, offset, steps, compensation, None)
    return told if told != Told() else None


def mesh_rows(lines: Sequence[str], dialect: Dialect) -> Rows | None:
    """Read the rows of a mesh, front row first; no rows when the machine says that it has none, None when it says nothing.

    Parameters
    ----------
    lines : sequence of str
    dialect : Dialect
    """
    rows: list[tuple[int, tuple[float, ...]]] = []
    none = False
    for line in lines:
        if dialect.hear("no_mesh", line):
            none = True
        elif heard := dialect.hear("mesh_row", line):
            with contextlib.suppress(ValueError):
                values = tuple(float(word) for word in heard["values"].split())
                number = heard.groupdict().get("row")
                rows.append((int(number) if number else len(rows), values))
    if len(rows) < 2:
        return () if none and not rows else None
    rows.sort(key=lambda row: row[0], reverse=dialect.mesh_from == "back")
    heights = tuple(values for _, values in rows)
    sensible = len({len(row) for row in heights}) == 1 and all(
        abs(value) <= NONSENSE for row in heights for value in row
    )
    return heights if sensible and len({number for number, _ in rows}) == len(rows) else None
