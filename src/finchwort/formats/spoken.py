"""Readings as people and machines write them down: tables with words in them, and a sentence for each touch."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from finchwort.core.base.wording import counted

NUMBER = r"[+\-−]?(?:\d+(?:[.,]\d+)?|[.,]\d+)(?:[eE][+-]?\d+)?"
_UNIT = r"(?:\s*(?:mm|µm|μm|um|microns?))?"
_CELL = re.compile(rf"^({NUMBER}){_UNIT}$", re.IGNORECASE)
_MICRO = re.compile(r"[µμ]m|\bum\b|\bmicro", re.IGNORECASE)
_STAMP = re.compile(
    r"\d{4}-\d{2}-\d{2}[T ]?|\[?\b\d{1,2}:\d{2}(?::\d{2})?(?:[.,]\d+)?\]?|^\s*(?:recv|send|rx|tx|echo)\s*:|^\s*[<>]+",
    re.IGNORECASE,
)
_LINKS = r"\s*(?:[:=]|is|was|of|at|reads|gave)?\s*"
_X = re.compile(rf"\bx(?:\s*\(?mm\)?)?{_LINKS}({NUMBER})(?![\d.,]*\d)", re.IGNORECASE)
_Y = re.compile(rf"\by(?:\s*\(?mm\)?)?{_LINKS}({NUMBER})(?![\d.,]*\d)", re.IGNORECASE)
_PAIR = re.compile(rf"[(\[]\s*({NUMBER})\s*(?:[;/|]|,\s)\s*({NUMBER})\s*[)\]]")
_Z = re.compile(
    rf"\b(z|height|gap|reading|value|deviation|measured|touch(?:ed)?)\b{_LINKS}({NUMBER})({_UNIT})",
    re.IGNORECASE,
)
_SIDE = re.compile(rf"({NUMBER})({_UNIT})\s*(?:too\s+)?\b(high|low)\b", re.IGNORECASE)
_ANY = re.compile(rf"(?<![\w.,])({NUMBER})({_UNIT})(?![\w]|[.,]\d)", re.IGNORECASE)
_ROLES = {
    "x": re.compile(r"^(pos(ition)?|place|coord(inate)?)?[\s_-]*x(?![a-wyz])", re.IGNORECASE),
    "y": re.compile(r"^(pos(ition)?|place|coord(inate)?)?[\s_-]*y(?![a-z])(?<!\w\wy)", re.IGNORECASE),
    "z": re.compile(
        r"^(z|h|height|gap|value|reading|deviation|measured|delta|dz|error)(?![a-z])", re.IGNORECASE
    ),
}
_BARE = re.compile(r"[(\[].*?[)\]]|\b(mm|um)\b|[µμ]m", re.IGNORECASE)
SEPARATORS = ("\t", ";", "|", ",")
MIN_ROWS = 3
LONGEST = 2_000
"""Longer lines are no readings, characters."""
MAX_LINES = 20_000


@dataclass(frozen=True)
class Spoken:
    """Readings found among words.

    Attributes
    ----------
    rows : list of [x, y, value]
        As written.
    lines : list of int
        Where each stood, counted from 1.
    gap : bool or None
        Whether the values are called gaps; None when they are called nothing.
    micro : bool or None
        Whether they are called micrometres.
    remark : str
        What was taken, and what was passed over.
    named : bool
        Whether a header named the columns.
    """

    rows: list[list[float]]
    lines: list[int]
    gap: bool | None
    micro: bool | None
    remark: str
    named: bool = False


def find_spoken(text: str) -> Spoken | None:
    r"""Look for a table with words in it, then for a sentence for each touch.

    Examples
    --------
    >>> found = find_spoken("no;x [mm];y [mm];gap [µm];remark\n1;15;15;120;rough\n2;205;15;80;\n3;15;205;95;ok\n")
    >>> found.rows[0], found.gap, found.micro
    ([15.0, 15.0, 120.0], True, True)
    >>> find_spoken("0.1 high at x 15, y 20\n0.2 low at y=20 x=200\n0.05 high at x 15 y 205\n").rows[1]
    [200.0, 20.0, -0.2]
    """
    lines = [
        (number, line.strip())
        for number, line in enumerate(text.splitlines()[:MAX_LINES], 1)
        if line.strip() and len(line) <= LONGEST
    ]
    for look in (_with_header, _with_words, _sentences):
        result = look(lines)
        if result is not None:
            return result
    return None


def _cells(line: str, separator: str) -> list[str]:
    parts = [part.strip() for part in line.split(separator)]
    if separator == "|":  # bars at both ends
        parts = parts[1:] if parts and not parts[0] else parts
        parts = parts[:-1] if parts and not parts[-1] else parts
    return parts


def _number(cell: str) -> float | None:
    match = _CELL.match(cell)
    return _float(match[1]) if match else None


def _float(text: str) -> float:
    return float(text.replace("−", "-").replace(",", "."))


def _roles(cells: Sequence[str]) -> dict[str, int] | None:
    """Which columns of a header hold x, y and the value; none unless each is there once."""
    results: dict[str, int] = {}
    for axis, role in _ROLES.items():
        places = [i for i, cell in enumerate(cells) if role.match(_BARE.sub("", cell).strip())]
        if len(places) != 1:
            return None
        results[axis] = places[0]
    return results if len(set(results.values())) == 3 else None


def _with_header(lines: list[tuple[int, str]]) -> Spoken | None:
    for at, (_, head) in enumerate(lines[:20]):
        for separator in (*SEPARATORS, None):
            cells = head.split() if separator is None else _cells(head, separator)
            roles = _roles(cells) if len(cells) >= 3 else None
            if roles is None or any(_number(cell) is not None for cell in cells):
                continue
            rows, numbers = [], []
            for number, line in lines[at + 1 :]:
                # without a separator words can stand in the last column alone
                parts = line.split(None, len(cells) - 1) if separator is None else _cells(line, separator)
                values = [_number(parts[i]) if i < len(parts) else None for i in (roles[a] for a in "xyz")]
                numeric = [value for value in values if value is not None]
                if len(numeric) == len(values):
                    rows.append(numeric)
                    numbers.append(number)
            if len(rows) < MIN_ROWS:
                continue
            name = cells[roles["z"]]
            more = [cell for i, cell in enumerate(cells) if i not in roles.values()]
            remark = f"{len(rows)} lines of a table, by its header"
            if more:
                remark += f"; left out: {', '.join(f'“{cell[:20]}”' for cell in more if cell) or 'a column'}"
            gap = True if "gap" in name.lower() else None
            return Spoken(rows, numbers, gap, True if _MICRO.search(name) else None, f"{remark}.", True)
    return None


def _with_words(lines: list[tuple[int, str]]) -> Spoken | None:
    """A table without a header in which some columns hold words, or a running number."""
    for separator in ("\t", ";", "|"):
        cut = [(number, _cells(line, separator)) for number, line in lines]
        widths = [len(cells) for _, cells in cut]
        width = max(set(widths), key=widths.count, default=0)
        same = [(number, cells) for number, cells in cut if len(cells) == width]
        if width < 4 or len(same) < MIN_ROWS:
            continue
        numeric = [i for i in range(width) if all(_number(cells[i]) is not None for _, cells in same)]
        if (len(numeric) == width and width == 4) or len(numeric) == 4:
            first = [_float(cells[numeric[0]]) for _, cells in same]
            if first[0] in (0.0, 1.0) and all(b - a == 1 for a, b in pairwise(first)):
                numeric = numeric[1:]  # a running number
        if len(numeric) != 3:
            continue
        rows = [[_float(cells[i]) for i in numeric] for _, cells in same]
        remark = f"{len(rows)} lines of a table; columns of words and running numbers were left out."
        return Spoken(rows, [number for number, _ in same], None, None, remark)
    return None


def _sentences(lines: list[tuple[int, str]]) -> Spoken | None:
    rows, numbers, gaps, micros = [], [], set(), set()
    for number, line in lines:
        sentence = _sentence(_STAMP.sub(" ", line))
        if sentence is None:
            continue
        row, gap, micro = sentence
        rows.append(row)
        numbers.append(number)
        gaps.add(gap)
        micros.add(micro)
    if len(rows) < MIN_ROWS or len(gaps) > 1 or len(micros) > 1:
        return None
    passed = len(lines) - len(rows)
    remark = f"{len(rows)} touches, a sentence each"
    if passed:
        remark += f"; {counted(passed, 'line')} without one passed over"
    return Spoken(
        rows, numbers, True if gaps == {True} else None, True if micros == {True} else None, f"{remark}."
    )


def _sentence(line: str) -> tuple[list[float], bool, bool] | None:
    """Read place and height out of a sentence: in any order, with any words between."""
    spans: tuple[tuple[int, int], ...]
    x, y = _X.search(line), _Y.search(line)
    if x and y:
        place, spans = (x[1], y[1]), (x.span(), y.span())
    else:
        pair = _PAIR.search(line)
        if pair is None:
            return None
        place, spans = (pair[1], pair[2]), (pair.span(),)
    rest = line
    for start, end in sorted(spans, reverse=True):
        rest = f"{rest[:start]} # {rest[end:]}"
    side = _SIDE.search(rest)
    named = _Z.search(rest)
    if side:
        value, unit, gap = _float(side[1]), side[2], False
        value = -abs(value) if side[3].lower() == "low" else value
    elif named:
        value, unit, gap = _float(named[2]), named[3], named[1].lower() == "gap"
    else:
        left = list(_ANY.finditer(rest))
        measured = [item for item in left if item[2].strip()] or left
        if len(measured) != 1:
            return None
        value, unit, gap = _float(measured[0][1]), measured[0][2], "gap" in rest.lower()
    return [_float(place[0]), _float(place[1]), value], gap, bool(_MICRO.search(unit))
