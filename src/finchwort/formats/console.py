"""Console text: readings among other chatter."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from itertools import pairwise

from finchwort.core.base.wording import counted

NUMBER = r"[+\-−]?(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?"
_LABELLED = re.compile(
    rf"\bX\s*[:=]?\s*(?P<x>{NUMBER})\b.*?\bY\s*[:=]?\s*(?P<y>{NUMBER})\b.*?\bZ\s*[:=]?\s*(?P<z>{NUMBER})\b",
    re.IGNORECASE,
)
_BRACKET = re.compile(rf"\[\s*({NUMBER}(?:\s*[,;\s]\s*{NUMBER})+)\s*,?\s*\]")
_PREFIX = re.compile(
    r"^\s*(?:\[?\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?\]?\s*)?(?:(?:recv|send|rx|tx|echo)\s*:|[<>]+)?\s*", re.I
)
_ROW = re.compile(
    rf"^(?:(\d{{1,3}})\s*(?:[|:]|(?=[\[(]))\s*)?[|\[(]*\s*({NUMBER}(?:[\s,;|]+{NUMBER})+)\s*[|\])]*\s*$"
)
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


_Match = tuple[str, list[list[float]], list[int], str, bool, bool]
"""Layout, rows, the lines where they stood, what it was; numbered, and back row first."""


def find_readings(text: str) -> Console | None:
    r"""Look for readings among chatter: labelled X, Y, Z, or a matrix in brackets or columns.

    Examples
    --------
    >>> found = find_readings("busy\nX: 15 Y: 15 Z: 0.05\nX: 200 Y: 15 Z: 0.10\nok\nX: 15 Y: 200 Z: -0.02\n")
    >>> found.layout, found.rows[1], found.chatter
    ('points', [200.0, 15.0, 0.1], 2)
    """
    lines = [_with_points(line) for line in text.splitlines()] if _decimal_commas(text) else text.splitlines()
    filled = sum(1 for line in lines if line.strip())
    for look in (_labelled, _brackets, _columns):
        result = look(lines)
        if result is not None:
            layout, rows, numbers, what, numbered, back_first = result
            chatter = max(0, filled - len(set(numbers)))
            remark = f"{what} found among other text" if chatter else f"{what} found"
            if chatter:
                remark += f"; {counted(chatter, 'line')} without a reading passed over"
            return Console(layout, rows, numbers, chatter, remark + ".", numbered, back_first)
    return None


_COMMA = re.compile(r"(?<![\d,.])([+\-−]?\d*),(\d+)(?![\d,.])")


def _decimal_commas(text: str) -> bool:
    """Tell whether commas are decimal signs: no number has a point, and none has two commas."""
    commas = len(_COMMA.findall(text))
    return commas >= 3 and not re.search(r"\d\.\d", text) and not re.search(r"\d,[+\-−]?\d+,", text)


def _with_points(line: str) -> str:
    return _COMMA.sub(r"\1.\2", line)


def _labelled(lines: list[str]) -> _Match | None:
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


def _brackets(lines: list[str]) -> _Match | None:
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


def _columns(lines: list[str]) -> _Match | None:
    best: list[_Row] = []
    run: list[_Row] = []
    for number, line in enumerate([*lines, ""], 1):
        row = _row(line, number)
        if row is not None and (not run or len(run[-1].values) in _widths(row)):
            run.append(row)
            continue
        if len(run) > len(best):
            best = run
        run = [row] if row is not None else []
    rows, numbered = _without_column_numbers(best)
    widths = {len(row.values) for row in rows}
    if len(rows) < 2 or len(widths) != 1 or widths.pop() < 2:
        return None
    back_first = False
    barred = [row.number for row in rows]
    first = [row.values[0] for row in rows]
    known = [number for number in barred if number is not None]
    if len(known) == len(barred) and (_counts(known) or _counts(known[::-1])):
        numbered, back_first = True, not _counts(known)
    elif (
        len(rows[0].values) >= 3
        and (_counts(first) or _counts(first[::-1]))
        and (numbered or (len(rows) >= 3 and not _counts(rows[0].values[1:])))
    ):
        numbered, back_first = True, not _counts(first)
        rows = [replace(row, values=row.values[1:]) for row in rows]
    else:
        numbered = False
    values, numbers = [row.values for row in rows], [row.line for row in rows]
    return "grid", values, numbers, f"A matrix of {len(rows)} rows", numbered, back_first


def _without_column_numbers(run: list[_Row]) -> tuple[list[_Row], bool]:
    """Take off lines of column numbers, above or below; tell whether there was one."""
    result = False
    for end in (0, -1):
        if len(run) < 3:
            break
        line, beside = run[end], run[1 if end == 0 else -2]
        # beside rows that carry a number and a bar it is as long as they are, beside bare ones shorter by their number
        shorter = 0 if beside.number is not None else 1
        counts = _counts(line.values) or _counts(line.values[::-1])
        if line.number is None and counts and len(line.values) + shorter == len(beside.values):
            run, result = run[1:] if end == 0 else run[:-1], True
    return run, result


def _widths(row: _Row) -> tuple[int, ...]:
    return (len(row.values) - 1, len(row.values), len(row.values) + 1)


def _row(line: str, at: int) -> _Row | None:
    if len(line) > 10 * LONGEST:
        return None
    match = _ROW.match(_PREFIX.sub("", line, count=1).strip())
    if match is None:
        return None
    values = [_float(part) for part in _SPLIT.split(match[2].strip(" |[]()")) if part]
    return _Row(None if match[1] is None else float(match[1]), values, at) if values else None


@dataclass(frozen=True)
class _Row:
    """A line of numbers: the number before its bar, the others, and where it stood."""

    number: float | None
    values: list[float]
    line: int


def _counts(values: list[float]) -> bool:
    """Tell whether values count 0, 1, 2 … or 1, 2, 3 …."""
    return len(values) >= 2 and values[0] in (0.0, 1.0) and all(b - a == 1 for a, b in pairwise(values))


def _float(text: str) -> float:
    return float(text.replace("−", "-"))
