"""Readings from files and text: lines of x, y, z, grids, JSON, SDF, console text, and our own pictures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey
from finchwort.formats.console import Console, find_readings
from finchwort.formats.cutting import MAX_BYTES, Table, cut_table, decode
from finchwort.formats.documents import PNG_MARK, json_in_png, json_in_svg, looks_like_json, read_json
from finchwort.formats.grid import read_grid, read_indices, read_list
from finchwort.formats.points import column, merge, mirror, read_points
from finchwort.formats.result import Hint, ReadResult, UnreadableTextError
from finchwort.formats.sdf import MARKS as SDF_MARKS
from finchwort.formats.sdf import looks_like_sdf, read_sdf
from finchwort.formats.spoken import Spoken, find_spoken

MICROMETRES_FROM = 15.0
"""When the middle value is this large the numbers are taken for micrometres."""
COORDINATE_FROM = 5.0
"""Three columns are points when the first two reach at least this far, mm."""
MAX_INDEX = 40
"""Column and row numbers go no further."""
PLACES_OVER_HEIGHTS = 20.0
"""Columns that vary so many times as much as the third are places, and it holds the heights in mm."""


def read_survey(data: str | bytes, hint: Hint | None = None) -> ReadResult:
    r"""Read a survey from text or a file.

    Understood are lines of x, y, z with or without a header, bare grids, values one
    after the other, and lines of column, row and value;
    comma, semicolon, tab or spaces between the numbers; decimal point or
    decimal comma; lines beginning with ``#`` or ``//`` are comments.  JSON, ISO 25178-71 SDF (ASCII and
    binary), labelled readings or a matrix among the chatter of a console, and the pictures that Finchwort saves.

    Parameters
    ----------
    data : str or bytes
        UTF-8 (with or without a mark) or a binary file, at most ``MAX_BYTES``.
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
    assumed: list[str] = []
    if isinstance(data, bytes) and len(data) <= MAX_BYTES:
        if data.startswith(PNG_MARK):
            text = json_in_png(data)
            if text is None:
                raise UnreadableTextError("formats.picture_carries_no_readings")
            return _from_table(*_read_json(text, hint, assumed), hint, assumed)
        if looks_like_sdf(data):
            return _from_sdf(data, hint, assumed)
    elif (
        isinstance(data, str) and data[:4].encode("ascii", "replace") in SDF_MARKS and len(data) <= MAX_BYTES
    ):
        return _from_sdf(data.encode("latin-1", "replace"), hint, assumed)
    text = decode(data)
    inside = json_in_svg(text)
    if inside is not None or looks_like_json(text):
        try:
            return _from_table(*_read_json(inside or text, hint, assumed), hint, assumed)
        except UnreadableTextError:
            # a matrix in brackets looks like JSON and may be a console's
            if inside is not None or find_readings(text) is None:
                raise
            assumed.clear()
    table = cut_table(text)
    layout, hint = _among_chatter(text, table, hint, assumed)
    if not table.rows:
        raise UnreadableTextError("formats.no_numbers_text", problems=tuple(table.problems))
    return _from_table(table, layout, hint, assumed)


def _read_json(text: str, hint: Hint, assumed: list[str]) -> tuple[Table, str | None]:
    table, layout = read_json(text)
    if not table.rows:
        raise UnreadableTextError("formats.json_holds_no_reading", problems=tuple(table.problems))
    assumed.append("Read as JSON.")
    return table, None if layout == "unknown" else layout


def _from_sdf(data: bytes, hint: Hint, assumed: list[str]) -> ReadResult:
    x, y, heights, columns, rows, bounds = read_sdf(data, hint, assumed)
    kind = hint.values or "height"
    survey = Survey(x, y, -heights + 0.0 if kind == "gap" else heights)
    assumed.insert(0, "Read as an ISO 25178-71 file.")
    return ReadResult(survey, "grid", columns, rows, kind, "mm", bounds, tuple(assumed), (), 0)


def _among_chatter(text: str, table: Table, hint: Hint, assumed: list[str]) -> tuple[str | None, Hint]:
    """Look for readings among words and other text when lines could not be read as numbers; fills the table."""
    wish = table.unread > 0 or not table.rows or not _understood(table)
    spoken = find_spoken(text) if wish else None
    readings = find_readings(text) if wish else None
    numbers = sum(map(len, table.rows))
    if spoken is not None and _fits_better(spoken, readings, table):
        _fill(table, spoken.rows, spoken.lines)
        table.heads = ["x", "y", "gap" if spoken.gap else "z"]
        assumed.append(spoken.remark)
        if spoken.micro and hint.unit is None:
            assumed.append("They are called micrometres.")
            hint = replace(hint, unit="um")
        elif spoken.micro is None and hint.unit is None and _small(spoken.rows):
            hint = replace(hint, unit="mm")
        return "points", hint
    better = readings is not None and (
        readings.size > numbers or (readings.numbered and not _consistent(table))
    )
    if readings is None or not better:
        return None, hint
    _fill(table, readings.rows, readings.lines)
    assumed.append(readings.remark)
    if readings.back_first:
        assumed.append("The row numbers count down, so the first row was taken as the back one.")
        hint = replace(hint, flip_y=not hint.flip_y)
    elif readings.numbered and not hint.flip_y:
        assumed.append("The row numbers count up, so the first row was taken as the front one.")
    return readings.layout if readings.layout == "grid" else None, hint


def _fill(table: Table, rows: list[list[float]], lines: list[int]) -> None:
    table.rows, table.lines = rows, lines
    table.texts = [""] * len(rows)
    table.heads, table.problems, table.unread = None, [], 0


def _understood(table: Table) -> bool:
    """Tell whether a table explains itself: by a header that names all three columns, or by having none to explain."""
    if table.heads:
        return all(column(table.heads, axis) is not None for axis in "xyz")
    return _consistent(table) and len(table.rows[0]) != 4


def _fits_better(spoken: Spoken, console: Console | None, table: Table) -> bool:
    """Tell whether readings among words are more than what stands there without them."""
    if console is not None and console.layout == "grid" and console.numbered and not spoken.named:
        return False
    if console is not None and console.layout == "points" and len(console.rows) >= len(spoken.rows):
        return False
    whole = sum(len(row) >= 3 for row in table.rows)
    return len(spoken.rows) >= max(3, whole)


def _small(rows: list[list[float]]) -> bool:
    return all(abs(row[2]) < MICROMETRES_FROM for row in rows)


def _consistent(table: Table) -> bool:
    """Tell whether the lines read as numbers hang together as they are: equally long, two or more numbers each."""
    widths = {len(row) for row in table.rows}
    return len(widths) == 1 and widths != {1}


def _from_table(table: Table, layout: str | None, hint: Hint, assumed: list[str]) -> ReadResult:
    """Make a survey of the numbers in a table."""
    if hint.layout in (None, "points"):
        _drop_running_number(table, assumed)
    layout = hint.layout or (_guess_layout(table, hint.bed) if layout in (None, "points") else layout)
    try:
        if layout == "points":
            columns = rows = bounds = None
            x, y, values = read_points(table, assumed)
        else:
            reader = {"grid": read_grid, "list": read_list, "indices": read_indices}[layout]
            x, y, values, columns, rows, bounds = reader(table, hint, assumed)
        heights, kind, unit = _to_heights(values, table.heads, hint, assumed)
        if layout == "points":
            x, y = mirror(x, y, hint)
            x, y, heights = merge(x, y, heights, assumed)
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
        serpentine=hint.serpentine,
    )


def _drop_running_number(table: Table, assumed: list[str]) -> None:
    """Take off a first column that only counts, before places and a height."""
    if len(table.rows) < 3 or any(len(row) != 4 for row in table.rows) or table.heads:
        return
    cells = np.array(table.rows)
    counts = cells[0, 0] in (0.0, 1.0) and (np.diff(cells[:, 0]) == 1).all()
    reach, heights = np.ptp(cells[:, 1:3], axis=0).min(), np.ptp(cells[:, 3])
    if counts and reach > COORDINATE_FROM and reach > PLACES_OVER_HEIGHTS * heights:
        table.rows = [row[1:] for row in table.rows]
        assumed.append("The first column only counts and was left out.")


def _check_hint(hint: Hint) -> None:
    for value, allowed in (
        (hint.layout, ("points", "grid", "indices", "list")),
        (hint.values, ("height", "gap")),
        (hint.unit, ("mm", "um")),
    ):
        if value is not None and value not in allowed:
            raise ChoiceError("formats.not", value=value, names=", ".join(allowed))
    if hint.bounds is not None:
        x0, y0, x1, y1 = hint.bounds
        if not all(map(math.isfinite, hint.bounds)) or x0 >= x1 or y0 >= y1:
            raise OutOfRangeError("formats.bounds_grid_run_smaller")


def _guess_layout(table: Table, bed: Bed | None) -> str:
    if _are_indices(table):
        return "indices"
    if table.heads and column(table.heads, "x") is not None:
        return "points"
    if max(len(row) for row in table.rows) == 1 or (len(table.rows) == 1 and len(table.rows[0]) >= 4):
        return "list"
    if max(len(row) for row in table.rows) != 3:
        return "grid"
    rows = np.array([row for row in table.rows if len(row) == 3])
    if len(table.rows) < 3 or np.abs(rows[:, :2]).max() < COORDINATE_FROM:
        return "grid"
    reach, third = np.ptp(rows[:, :2], axis=0).min(), np.ptp(rows[:, 2])
    # heights in millimetres vary far less than places do, wherever the places lie
    if reach > PLACES_OVER_HEIGHTS * third and reach > COORDINATE_FROM:
        return "points"
    # heights in micrometres may vary as much: then places span a good part of this bed
    if bed and not _near(bed, rows[:, :2]):
        return "grid"
    side = max(bed.width, bed.depth) if bed else 100.0
    return "points" if reach >= 0.2 * side or reach > 4 * third else "grid"


def _are_indices(table: Table) -> bool:
    """Tell whether the first two of three columns number the columns and rows of a full grid."""
    if len(table.rows) < 4 or any(len(row) != 3 for row in table.rows):
        return False
    pairs = np.array(table.rows)[:, :2]
    if (pairs != np.round(pairs)).any() or pairs.min() < 0 or pairs.max() > MAX_INDEX:
        return False
    i, j = np.unique(pairs[:, 0]), np.unique(pairs[:, 1])
    counts = all(axis[0] in (0, 1) and axis.size >= 2 and (np.diff(axis) == 1).all() for axis in (i, j))
    return bool(counts and len(np.unique(pairs, axis=0)) == len(pairs) == i.size * j.size)


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


def _to_heights(
    values: Array, heads: Sequence[str] | None, hint: Hint, assumed: list[str]
) -> tuple[Array, str, str]:
    kind = hint.values
    if kind is None:
        kind = "gap" if heads and any(h in ("gap", "gap_mm") for h in heads) else "height"
        text = (
            "heights: larger means closer to the nozzle"
            if kind == "height"
            else "gaps: larger means farther from the nozzle"
        )
        assumed.append(f"The values were taken as {text}.")
    unit = hint.unit
    if unit is None:
        unit = "um" if float(np.median(np.abs(values))) >= MICROMETRES_FROM else "mm"
        if unit == "um":
            assumed.append("The values are too large for millimetres and were taken as micrometres.")
    heights = values / 1000 if unit == "um" else values
    return (-heights + 0.0 if kind == "gap" else heights), kind, unit
