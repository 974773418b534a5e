"""Console text: readings among other chatter."""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import pairwise

NUMBER = r"[+\-−]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?"
_LABELLED = re.compile(
    rf"\bX\s*[:=]?\s*(?P<x>{NUMBER})\b.*?\bY\s*[:=]?\s*(?P<y>{NUMBER})\b.*?\bZ\s*[:=]?\s*(?P<z>{NUMBER})\b",
    re.IGNORECASE,
)
_BRACKET = re.compile(rf"\[\s*({NUMBER}(?:\s*[,;\s]\s*{NUMBER})+)\s*,?\s*\]")
_PREFIX = re.compile(
    r"^\s*(?:\[?\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?\]?\s*)?(?:(?:recv|send|rx|tx|echo)\s*:|[<>]+)?\s*", re.I
)
_ROW = re.compile(rf"^(?:\d+\s*[|:]\s*)?({NUMBER}(?:[\s,;|]+{NUMBER})+)\s*\|?\s*$")
_SPLIT = re.compile(r"[,;|\s]+")
LONGEST = 2_000
"""Longer lines hold no labelled reading, characters."""


@dataclass(frozen=True)
class Console:
    """Readings found in chatter.

    Attributes
    ----------
    layout : {"points", "grid"}
    rows : list of list of float
    lines : list of int
        Where each row stood, counted from 1.
    chatter : int
        Lines that hold no reading.
    remark : str
        What was taken out of the text.
    numbered : bool
        Whether rows and columns carried numbers of their own, which were taken off.
    back_first : bool
        Whether these say that the first row is the back one.
    """

    layout: str
    rows: list[list[float]]
    lines: list[int]
    chatter: int
    remark: str
    numbered: bool = False
    back_first: bool = False

    @property
    def size(self) -> int:
        """How many numbers were found."""
        return sum(map(len, self.rows))


def find_readings(text: str) -> Console | None:
    r"""Look for readings among chatter: labelled X, Y, Z, or a matrix in brackets or columns.

    Examples
    --------
    >>> found = find_readings("busy\nX: 15 Y: 15 Z: 0.05\nX: 200 Y: 15 Z: 0.10\nok\nX: 15 Y: 200 Z: -0.02\n")
    >>> found.layout, found.rows[1], found.chatter
    ('points', [200.0, 15.0, 0.1], 2)
    """
    lines = text.splitlines()
    filled = sum(1 for line in lines if line.strip())
    for look in (_labelled, _brackets, _columns):
        found = look(lines)
        if found is not None:
            layout, rows, numbers, what, numbered, back_first = found
            chatter = max(0, filled - len(set(numbers)))
            remark = f"{what} found among other text" if chatter else f"{what} found"
            if chatter:
                remark += f"; {chatter} line{'s' if chatter > 1 else ''} without a reading passed over"
            return Console(layout, rows, numbers, chatter, remark + ".", numbered, back_first)
    return None


def _labelled(lines: list[str]):
    rows, numbers = [], []
    for number, line in enumerate(lines, 1):
        if len(line) > LONGEST:
            continue
        match = _LABELLED.search(line)
        if match:
            rows.append([_float(match[axis]) for axis in "xyz"])
            numbers.append(number)
    if len(rows) < 3:
        return None
    return "points", rows, numbers, f"{len(rows)} labelled readings", False, False


def _brackets(lines: list[str]):
    rows, numbers = [], []
    for number, line in enumerate(lines, 1):
        if "[" not in line:
            continue
        for match in _BRACKET.finditer(line):
            rows.append([_float(part) for part in _SPLIT.split(match[1].strip()) if part])
            numbers.append(number)
    widths = [len(row) for row in rows]
    if len(rows) < 2 or max(widths) < 2:
        return None
    width = max(set(widths), key=widths.count)
    kept = [(row, number) for row, number in zip(rows, numbers, strict=True) if len(row) == width]
    if len(kept) < 2:
        return None
    return (
        "grid",
        [row for row, _ in kept],
        [n for _, n in kept],
        f"A matrix of {len(kept)} rows in brackets",
        False,
        False,
    )


def _columns(lines: list[str]):
    best: list[tuple[list[float], int]] = []
    run: list[tuple[list[float], int]] = []
    for number, line in enumerate([*lines, ""], 1):
        row = _row(line)
        if row is not None and (not run or len(run[-1][0]) in (len(row), len(row) - 1)):
            run.append((row, number))
            continue
        if len(run) > len(best):
            best = run
        run = [(row, number)] if row is not None else []
    rows, numbers = [row for row, _ in best], [number for _, number in best]
    numbered = back_first = False
    if len(rows) >= 3 and _counts(rows[0]) and len(rows[0]) + 1 == len(rows[1]):  # a line of column numbers
        rows, numbers = rows[1:], numbers[1:]
    widths = {len(row) for row in rows}
    if len(rows) < 2 or len(widths) != 1 or widths.pop() < 2:
        return None
    first = [row[0] for row in rows]
    if (
        len(rows[0]) >= 3
        and (_counts(first) or _counts(first[::-1]))
        and len(rows) >= 3
        and not _counts(rows[0][1:])
    ):
        numbered, back_first = True, not _counts(first)
        rows = [row[1:] for row in rows]
    return "grid", rows, numbers, f"A matrix of {len(rows)} rows", numbered, back_first


def _row(line: str) -> list[float] | None:
    if len(line) > 10 * LONGEST:
        return None
    match = _ROW.match(_PREFIX.sub("", line, count=1))
    if match is None:
        return None
    return [_float(part) for part in _SPLIT.split(match[1].strip()) if part]


def _counts(values: list[float]) -> bool:
    """Tell whether values count 0, 1, 2 … or 1, 2, 3 …."""
    return len(values) >= 2 and values[0] in (0.0, 1.0) and all(b - a == 1 for a, b in pairwise(values))


def _float(text: str) -> float:
    return float(text.replace("−", "-"))
