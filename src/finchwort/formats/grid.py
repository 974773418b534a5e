"""A bare grid of heights into places and heights."""

from __future__ import annotations

import numpy as np

from finchwort.core.errors import ChoiceError, TooFewReadingsError, TooManyReadingsError
from finchwort.core.printers import READING_INSET
from finchwort.core.surveys import MAX_READINGS
from finchwort.formats.cutting import Table
from finchwort.formats.result import Hint, UnreadableTextError


def read_grid(table: Table, hint: Hint, assumed: list[str]):
    """Return x, y and values, shape (n,), mm and as written; then columns, rows and bounds (mm)."""
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
