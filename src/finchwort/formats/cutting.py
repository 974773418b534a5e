"""Text into lines of numbers, whatever stands between them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

from finchwort.core.base.errors import OutOfRangeError, Problem

MAX_BYTES = 1_000_000
"""Largest text that is read, bytes."""
MAX_PROBLEMS = 200
"""So many unread lines are told one by one."""
MAX_LINE = 20_000
"""Longer lines are no readings, characters."""

_NUMBER = re.compile(r"[+\-−]?(\d+([.]\d*)?|[.]\d+)([eE][+-]?\d+)?\Z")


@dataclass
class Table:
    """The lines of a text as numbers, with those that could not be read."""

    rows: list[list[float]] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    heads: list[str] | None = None
    problems: list[Problem] = field(default_factory=list)
    unread: int = 0

    def refuse(self, line: int, text: str, reason: str) -> None:
        """Note a line that could not be read."""
        self.unread += 1
        if len(self.problems) < MAX_PROBLEMS:
            self.problems.append(Problem(line, text.strip()[:80], reason))


def decode(data: str | bytes) -> str:
    """Return the text of a file: UTF-8, UTF-16 with a mark, or else Latin 1."""
    if len(data) > MAX_BYTES:
        raise OutOfRangeError("formats.more_mb_text", max_bytes=MAX_BYTES // 1000000)
    if isinstance(data, str):
        return data.lstrip("\ufeff")
    try:
        if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
            return data.decode("utf-16")
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def cut_table(text: str) -> Table:
    """Cut a text into lines of numbers; the separator and the decimal sign are found out."""
    lines = []
    for number, line in enumerate(text.splitlines(), 1):
        stripped = line.strip()
        if stripped and not stripped.startswith(("#", "//")):
            lines.append((number, stripped))
    separator, comma = _guess_separator([line for _, line in lines[:400]])
    table = Table()
    for number, line in lines:
        if len(line) > MAX_LINE:
            table.refuse(number, line, "This line is too long for readings.")
            continue
        parts = _cut(line, separator)
        numbers = [_number(part, comma) for part in parts]
        if all(n is not None for n in numbers):
            table.rows.append(numbers)  # type: ignore[arg-type]
            table.lines.append(number)
            table.texts.append(line)
        elif not table.rows and table.heads is None and _looks_like_header(parts):
            table.heads = [re.sub(r"[^a-z_]", "", p.lower()) for p in parts]
        else:
            bad = next(p for p, n in zip(parts, numbers, strict=True) if n is None)
            reason = f"“{bad[:30]}” is not a number." if bad else "A value is missing."
            table.refuse(number, line, reason)
    return table


def _guess_separator(lines: list[str]) -> tuple[str, bool]:
    """Try the separators with decimal point and comma; keep what reads most lines alike."""
    best, best_score = (" ", False), (-1.0, 0)
    for rank, (separator, comma) in enumerate(
        (("\t", False), (";", False), ("\t", True), (";", True), (",", False), (" ", False), (" ", True))
    ):
        counts: dict[int, int] = {}
        for line in lines:
            parts = _cut(line, separator)
            if len(parts) > 1 and all(_number(part, comma) is not None for part in parts):
                counts[len(parts)] = counts.get(len(parts), 0) + 1
        score = (float(max(counts.values(), default=0)), -rank)
        if score > best_score:
            best, best_score = (separator, comma), score
    return best


def _cut(line: str, separator: str) -> list[str]:
    if separator == " ":
        return line.split()
    parts = [part.strip() for part in line.split(separator)]
    while len(parts) > 1 and not parts[-1]:  # a separator at the end of the line
        parts.pop()
    return parts


def _number(part: str, comma: bool) -> float | None:
    if comma:
        if "." in part:
            return None
        part = part.replace(",", ".")
    if not _NUMBER.match(part):
        return None
    value = float(part.replace("−", "-"))
    return value if math.isfinite(value) else None


def _looks_like_header(parts: list[str]) -> bool:
    return len(parts) >= 2 and all(re.match(r"[A-Za-z_]", part) for part in parts)
