"""Readings from plain text: lines of x, y, z, or a bare grid of heights."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field

import numpy as np

from finchwort.core.errors import (
    ChoiceError,
    CoreError,
    OutOfRangeError,
    TooFewReadingsError,
    TooManyReadingsError,
)
from finchwort.core.printers import READING_INSET, Bed
from finchwort.core.surveys import MAX_READINGS, Survey

MAX_BYTES = 1_000_000
"""Largest text that is read, bytes."""
MAX_PROBLEMS = 200
"""So many unread lines are told one by one."""
MAX_LINE = 20_000
"""Longer lines are no readings, characters."""
MICROMETRES_FROM = 15.0
"""When the middle value is this large the numbers are taken for micrometres."""
COORDINATE_FROM = 5.0
"""Three columns are points when the first two reach at least this far, mm."""

_NUMBER = re.compile(r"[+\-−]?(\d+([.]\d*)?|[.]\d+)([eE][+-]?\d+)?\Z")
_HEADS = {
    "x": ("x", "xmm", "x_mm", "posx"),
    "y": ("y", "ymm", "y_mm", "posy"),
    "z": ("z", "zmm", "z_mm", "height", "height_mm", "h", "gap", "gap_mm", "value", "reading"),
}


@dataclass(frozen=True)
class Hint:
    """What the person says about a text; ``None`` leaves it to be guessed.

    Attributes
    ----------
    layout : {"points", "grid"}, optional
    values : {"height", "gap"}, optional
        Heights are positive towards the nozzle, gaps away from it.
    unit : {"mm", "um"}, optional
        Unit of the heights or gaps.
    flip_y : bool
        Grid: the first line is the back row.  Points: front and back are swapped.
    flip_x : bool
        Left and right are swapped.
    bounds : tuple of float, optional
        x_min, y_min, x_max, y_max of a grid's outer readings, mm.
    bed : Bed, optional
        The bed they belong to; needed to swap sides of points and to place a grid without bounds.
    """

    layout: str | None = None
    values: str | None = None
    unit: str | None = None
    flip_y: bool = False
    flip_x: bool = False
    bounds: tuple[float, float, float, float] | None = None
    bed: Bed | None = None


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


@dataclass(frozen=True)
class ReadResult:
    """A survey and what was taken for granted in reading it.

    Attributes
    ----------
    survey : Survey
    layout : {"points", "grid"}
    columns, rows : int or None
        Size of the grid.
    values : {"height", "gap"}
    unit : {"mm", "um"}
    bounds : tuple of float or None
    assumptions : tuple of str
        Sentences.
    problems : tuple of Problem
    unread : int
        How many lines could not be read, also those beyond ``MAX_PROBLEMS``.
    """

    survey: Survey
    layout: str
    columns: int | None
    rows: int | None
    values: str
    unit: str
    bounds: tuple[float, float, float, float] | None
    assumptions: tuple[str, ...]
    problems: tuple[Problem, ...]
    unread: int


class UnreadableTextError(CoreError):
    """No readings in a text; its ``problems`` are a tuple of `Problem`."""

    def __init__(self, message: str, problems: tuple[Problem, ...] = ()) -> None:
        super().__init__(message)
        self.problems = problems


@dataclass
class _Table:
    rows: list[list[float]] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)
    heads: list[str] | None = None
    problems: list[Problem] = field(default_factory=list)
    unread: int = 0

    def refuse(self, line: int, text: str, reason: str) -> None:
        self.unread += 1
        if len(self.problems) < MAX_PROBLEMS:
            self.problems.append(Problem(line, text.strip()[:80], reason))


def read_survey(data: str | bytes, hint: Hint | None = None) -> ReadResult:
    r"""Read a survey from text.

    Understood are lines of x, y, z with or without a header, and bare grids;
    comma, semicolon, tab or spaces between the numbers; decimal point or
    decimal comma; lines beginning with ``#`` or ``//`` are comments.

    Parameters
    ----------
    data : str or bytes
        UTF-8 (with or without a mark), at most ``MAX_BYTES``.
    hint : Hint, optional

    Returns
    -------
    ReadResult

    Raises
    ------
    UnreadableTextError
        When nothing in the text is a reading.
    CoreError
        When the readings make no survey; see `Survey`.

    Examples
    --------
    >>> result = read_survey("x;y;z\n10,5;10,5;0,02\n200;10,5;0,10\n10,5;200;-0,05\n")
    >>> result.survey.height.tolist(), result.layout
    ([0.02, 0.1, -0.05], 'points')
    """
    hint = hint or Hint()
    _check_hint(hint)
    text = _decode(data)
    table = _split(text)
    if not table.rows:
        raise UnreadableTextError("There are no numbers in this text.", tuple(table.problems))
    assumed: list[str] = []
    layout = hint.layout or _guess_layout(table, hint.bed)
    try:
        if layout == "points":
            columns = rows = bounds = None
            x, y, values = _points(table, assumed)
        else:
            x, y, values, columns, rows, bounds = _grid(table, hint, assumed)
        heights, kind, unit = _heights(values, table.heads, hint, assumed)
        if layout == "points":
            x, y = _mirror(x, y, hint)
            x, y, heights = _merge(x, y, heights, assumed)
        survey = Survey(x, y, heights)
    except UnreadableTextError:
        raise
    except CoreError as error:
        error.problems = tuple(table.problems)
        raise
    return ReadResult(
        survey=survey,
        layout=layout,
        columns=columns,
        rows=rows,
        values=kind,
        unit=unit,
        bounds=bounds,
        assumptions=tuple(assumed),
        problems=tuple(table.problems),
        unread=table.unread,
    )


def _check_hint(hint: Hint) -> None:
    for value, allowed in (
        (hint.layout, ("points", "grid")),
        (hint.values, ("height", "gap")),
        (hint.unit, ("mm", "um")),
    ):
        if value is not None and value not in allowed:
            raise ChoiceError(f"{value!r} is not one of {', '.join(allowed)}.")
    if hint.bounds is not None:
        x0, y0, x1, y1 = hint.bounds
        if not all(map(math.isfinite, hint.bounds)) or x0 >= x1 or y0 >= y1:
            raise OutOfRangeError("The bounds of a grid run from a smaller to a larger number.")


def _decode(data: str | bytes) -> str:
    if len(data) > MAX_BYTES:
        raise OutOfRangeError(f"This is more than {MAX_BYTES // 1_000_000} MB of text.")
    if isinstance(data, str):
        return data.lstrip("\ufeff")
    try:
        if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
            return data.decode("utf-16")
        return data.decode("utf-8-sig")
    except UnicodeDecodeError:
        return data.decode("latin-1")


def _split(text: str) -> _Table:
    lines = []
    for number, line in enumerate(text.splitlines(), 1):
        stripped = line.strip()
        if stripped and not stripped.startswith(("#", "//")):
            lines.append((number, stripped))
    separator, comma = _guess_separator([line for _, line in lines[:400]])
    table = _Table()
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


def _guess_layout(table: _Table, bed: Bed | None) -> str:
    if table.heads and _column(table.heads, "x") is not None:
        return "points"
    widths = {len(row) for row in table.rows}
    if max(widths) != 3:
        return "grid"
    first = np.array([row[:2] for row in table.rows if len(row) == 3])
    if len(table.rows) < 3 or np.abs(first).max() < COORDINATE_FROM:
        return "grid"
    # coordinates are told from heights in micrometres by spanning a good part of the bed
    if bed and not _near(bed, first):
        return "grid"
    reach = np.ptp(first, axis=0)
    third = np.ptp([row[2] for row in table.rows if len(row) == 3])
    side = max(bed.width, bed.depth) if bed else 100.0
    if reach.min() >= 0.2 * side or reach.min() > 4 * third:
        return "points"
    return "grid"


def _near(bed: Bed, places: np.ndarray) -> bool:
    """Tell whether places lie on the bed or not far beside it."""
    margin = 0.25 * max(bed.width, bed.depth)
    low, high = places.min(axis=0), places.max(axis=0)
    return bool(
        low[0] >= bed.x_min - margin
        and low[1] >= bed.y_min - margin
        and high[0] <= bed.x_max + margin
        and high[1] <= bed.y_max + margin
    )


def _column(heads: list[str], axis: str) -> int | None:
    return next((i for i, head in enumerate(heads) if head in _HEADS[axis]), None)


def _points(table: _Table, assumed: list[str]):
    places = (0, 1, 2)
    if table.heads:
        found = tuple(_column(table.heads, axis) for axis in "xyz")
        if None not in found:
            places = found  # type: ignore[assignment]
        else:
            assumed.append("The header was not understood; the columns were taken as x, y, z.")
    need = max(places) + 1
    kept = []
    for row, line, text in zip(table.rows, table.lines, table.texts, strict=True):
        if len(row) < need:
            table.refuse(line, text, f"There should be at least {need} numbers here.")
        else:
            kept.append([row[i] for i in places])
    if not kept:
        raise UnreadableTextError("No line has an x, a y and a height.", tuple(table.problems))
    if len(kept) > MAX_READINGS:
        raise TooManyReadingsError(
            f"{len(kept):,} readings are more than one survey holds ({MAX_READINGS:,})."
        )
    return tuple(np.array(kept).T)


def _grid(table: _Table, hint: Hint, assumed: list[str]):
    widths = [len(row) for row in table.rows]
    width = max(set(widths), key=widths.count)
    kept = []
    for row, line, text in zip(table.rows, table.lines, table.texts, strict=True):
        if len(row) == width:
            kept.append(row)
        else:
            table.refuse(line, text, f"The other lines have {width} numbers, this one has {len(row)}.")
    inside = [p for p in table.problems if table.lines[0] < p.line < table.lines[-1]]
    if len(kept) < 2 or width < 2:
        raise TooFewReadingsError(
            "A grid needs at least two lines of two numbers; for single points give x, y and height on each line."
        )
    if inside or len(kept) < len(table.rows):
        raise UnreadableTextError(
            "A line within this grid could not be read, so the places of the others are not certain. Mend it.",
            tuple(table.problems),
        )
    values = np.array(kept)
    rows, columns = values.shape
    if values.size > MAX_READINGS:
        raise TooManyReadingsError(
            f"{values.size:,} readings are more than one survey holds ({MAX_READINGS:,})."
        )
    bounds = hint.bounds
    if bounds is None:
        if hint.bed is None:
            raise ChoiceError("A bare grid needs its bounds: the X and Y of its outer readings.")
        bed = hint.bed
        inset = READING_INSET
        bounds = (bed.x_min + inset, bed.y_min + inset, bed.x_max - inset, bed.y_max - inset)
        assumed.append(
            f"The outer readings were taken to lie {inset:g} mm inside the printable area. Correct the bounds if not."
        )
    assumed.append(
        f"The first line was taken as the {'back' if hint.flip_y else 'front'} row, "
        f"its first number as the {'right' if hint.flip_x else 'left'} end."
    )
    xs = np.linspace(bounds[0], bounds[2], columns)
    ys = np.linspace(bounds[1], bounds[3], rows)
    if hint.flip_y:
        values = values[::-1]
    if hint.flip_x:
        values = values[:, ::-1]
    grid_x, grid_y = np.meshgrid(xs, ys)
    return grid_x.ravel(), grid_y.ravel(), values.ravel(), columns, rows, bounds


def _heights(values, heads, hint: Hint, assumed: list[str]):
    kind = hint.values
    if kind is None:
        kind = "gap" if heads and any(h in ("gap", "gap_mm") for h in heads) else "height"
        said = (
            "heights: larger means closer to the nozzle"
            if kind == "height"
            else "gaps: larger means farther from the nozzle"
        )
        assumed.append(f"The values were taken as {said}.")
    unit = hint.unit
    if unit is None:
        unit = "um" if float(np.median(np.abs(values))) >= MICROMETRES_FROM else "mm"
        if unit == "um":
            assumed.append("The values are too large for millimetres and were taken as micrometres.")
    heights = values / 1000 if unit == "um" else values
    return (-heights + 0.0 if kind == "gap" else heights), kind, unit


def _mirror(x, y, hint: Hint):
    if not (hint.flip_x or hint.flip_y):
        return x, y
    if hint.bed is None:
        raise ChoiceError("Swapping the sides of points needs the bed they lie on.")
    bed = hint.bed
    if hint.flip_x:
        x = bed.x_min + bed.x_max - x
    if hint.flip_y:
        y = bed.y_min + bed.y_max - y
    return x, y


def _merge(x, y, heights, assumed: list[str]):
    places, inverse, counts = np.unique(
        np.column_stack([x, y]), axis=0, return_inverse=True, return_counts=True
    )
    if counts.max() == 1:
        return x, y, heights
    several = int((counts > 1).sum())
    assumed.append(
        f"{several} place{'s were' if several > 1 else ' was'} measured more than once; the mean is used there."
    )
    means = np.bincount(inverse.ravel(), weights=heights) / counts
    # keep the order in which the places first came
    first = np.full(len(places), len(x))
    np.minimum.at(first, inverse.ravel(), np.arange(len(x)))
    order = np.argsort(first)
    return places[order, 0], places[order, 1], means[order]
