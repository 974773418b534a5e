"""Lines of x, y, z into places and heights."""

from __future__ import annotations

import numpy as np

from finchwort.core.base.errors import ChoiceError, TooManyReadingsError
from finchwort.core.base.geometry import Array
from finchwort.core.surveys import MAX_READINGS, join_near
from finchwort.formats.cutting import Table
from finchwort.formats.result import Hint, UnreadableTextError

_HEADS = {
    "x": ("x", "xmm", "x_mm", "posx"),
    "y": ("y", "ymm", "y_mm", "posy"),
    "z": ("z", "zmm", "z_mm", "height", "height_mm", "h", "gap", "gap_mm", "value", "reading"),
}


def column(heads: list[str], axis: str) -> int | None:
    """Return which column of a header holds an axis."""
    return next((i for i, head in enumerate(heads) if head in _HEADS[axis]), None)


def read_points(table: Table, assumed: list[str]) -> tuple[Array, Array, Array]:
    """Return x, y (mm) and values (as written), each of shape (n,)."""
    places = (0, 1, 2)
    if table.heads:
        result = tuple(column(table.heads, axis) for axis in "xyz")
        if None not in result:
            places = result  # type: ignore[assignment]
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
        raise UnreadableTextError("formats.no_line_height", problems=tuple(table.problems))
    if len(kept) > MAX_READINGS:
        raise TooManyReadingsError(
            "formats.readings_more_survey_holds_3", count=len(kept), max_readings=MAX_READINGS
        )
    x, y, values = np.array(kept).T
    return x, y, values


def mirror(x: Array, y: Array, hint: Hint) -> tuple[Array, Array]:
    """Swap left and right, front and back, as the hint says; places in mm."""
    if not (hint.flip_x or hint.flip_y):
        return x, y
    if hint.bed is None:
        raise ChoiceError("formats.swapping_sides_points_needs")
    bed = hint.bed
    if hint.flip_x:
        x = bed.x_min + bed.x_max - x
    if hint.flip_y:
        y = bed.y_min + bed.y_max - y
    return x, y


def merge(x: Array, y: Array, heights: Array, assumed: list[str]) -> tuple[Array, Array, Array]:
    """Take the mean height (mm) where one place (mm), or what is one to the tip, was measured several times."""
    x, y, heights, remark = join_near(x, y, heights)
    if remark:
        assumed.append(remark)
    return x, y, heights
