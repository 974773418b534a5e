"""Readings from plain text: lines of x, y, z, or a bare grid of heights."""

from __future__ import annotations

import math

import numpy as np

from finchwort.core.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey
from finchwort.formats.cutting import Table, cut_table, decode
from finchwort.formats.grid import read_grid
from finchwort.formats.points import column, merge, mirror, read_points
from finchwort.formats.result import Hint, ReadResult, UnreadableTextError

MICROMETRES_FROM = 15.0
"""When the middle value is this large the numbers are taken for micrometres."""
COORDINATE_FROM = 5.0
"""Three columns are points when the first two reach at least this far, mm."""
PLACES_OVER_HEIGHTS = 20.0
"""Columns that vary so many times as much as the third are places, and it holds the heights in mm."""


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
    text = decode(data)
    table = cut_table(text)
    if not table.rows:
        raise UnreadableTextError("There are no numbers in this text.", tuple(table.problems))
    assumed: list[str] = []
    layout = hint.layout or _guess_layout(table, hint.bed)
    try:
        if layout == "points":
            columns = rows = bounds = None
            x, y, values = read_points(table, assumed)
        else:
            x, y, values, columns, rows, bounds = read_grid(table, hint, assumed)
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


def _guess_layout(table: Table, bed: Bed | None) -> str:
    if table.heads and column(table.heads, "x") is not None:
        return "points"
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


def _to_heights(values, heads, hint: Hint, assumed: list[str]):
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
