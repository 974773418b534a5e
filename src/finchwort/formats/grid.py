"""A bare grid of heights into places and heights."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from finchwort.core.base.errors import ChoiceError, TooFewReadingsError, TooManyReadingsError
from finchwort.core.base.geometry import Array
from finchwort.core.printers import usual_inset
from finchwort.core.surveys import MAX_READINGS
from finchwort.formats.cutting import Table
from finchwort.formats.result import Hint, UnreadableTextError

Laid = tuple[Array, Array, Array, int, int, tuple[float, float, float, float]]
"""x, y and values, shape (n,), mm and as written; then columns, rows and bounds (mm)."""
SMOOTHER = 0.3
"""Rows that disagree less than this share once every second is turned around were walked to and fro (ours)."""


def read_grid(table: Table, hint: Hint, assumed: list[str]) -> Laid:
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
    if len(kept) == 1 and width == 3:
        raise TooFewReadingsError("formats.three_bare_numbers_row")
    if len(kept) < 2 or width < 2:
        raise TooFewReadingsError("formats.grid_needs_least_two")
    if inside or len(kept) < len(table.rows):
        raise UnreadableTextError("formats.line_within_grid_could", problems=tuple(table.problems))
    return place_grid(np.array(kept), hint, assumed)


def read_list(table: Table, hint: Hint, assumed: list[str]) -> Laid:
    """Read values that stand one after the other, as `read_grid` gives them."""
    values = np.array([value for row in table.rows for value in row])
    columns = hint.columns
    if columns is None and values.size == 3:
        raise TooFewReadingsError("formats.three_bare_numbers_row")
    if columns is None:
        columns = round(values.size**0.5)
        if columns * columns != values.size:
            raise ChoiceError("formats.values_list_many_make", size=values.size)
        assumed.append(f"{values.size} values in one list were taken as {columns} rows of {columns}.")
    if columns < 2 or values.size % columns or values.size // columns < 2:
        raise ChoiceError("formats.values_do_not_make", size=values.size, columns=columns)
    return place_grid(values.reshape(-1, columns), hint, assumed)


def read_indices(table: Table, hint: Hint, assumed: list[str]) -> Laid:
    """Read lines of column number, row number and value, as `read_grid` gives them."""
    cells = np.array([row[:3] for row in table.rows if len(row) >= 3])
    i, j = cells[:, 0].astype(int), cells[:, 1].astype(int)
    i, j = i - i.min(), j - j.min()
    columns, rows = int(i.max()) + 1, int(j.max()) + 1
    if columns * rows > MAX_READINGS:
        raise TooManyReadingsError(
            "formats.readings_more_survey_holds", columns=columns, rows=rows, max_readings=MAX_READINGS
        )
    if (
        columns < 2
        or rows < 2
        or len(cells) != columns * rows
        or len(set(zip(i, j, strict=True))) != len(cells)
    ):
        raise ChoiceError("formats.these_column_row_numbers")
    values = np.empty((rows, columns))
    values[j, i] = cells[:, 2]
    assumed.append(
        "The first two numbers of each line were taken as column and row, not as places in millimetres."
    )
    return place_grid(values, replace(hint, serpentine=False), assumed)


def place_grid(values: Array, hint: Hint, assumed: list[str]) -> Laid:
    """Lay a table of values on the bed.

    Returns
    -------
    x, y : ndarray, shape (n,)
        mm
    values : ndarray, shape (n,)
        As written.
    columns, rows : int
    bounds : tuple of float
        mm
    """
    rows, columns = values.shape
    if values.size > MAX_READINGS:
        raise TooManyReadingsError(
            "formats.readings_more_survey_holds_2", size=values.size, max_readings=MAX_READINGS
        )
    if hint.serpentine:
        values = values.copy()
        values[1::2] = values[1::2, ::-1]
        assumed.append("Every second row was taken as walked backwards.")
    elif _smoother_backwards(values):
        assumed.append(
            "With every second row turned around this bed would be much smoother. Were the rows walked to and fro?"
        )
    bounds = hint.bounds
    if bounds is None:
        if hint.bed is None:
            raise ChoiceError("formats.bare_grid_needs_bounds")
        bed = hint.bed
        inset = usual_inset(bed)
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


def _smoother_backwards(values: np.ndarray) -> bool:
    """Tell whether turning every second row around makes neighbouring rows agree far better."""
    if min(values.shape) < 3:
        return False
    turned = values.copy()
    turned[1::2] = turned[1::2, ::-1]
    rough, smooth = (float(np.square(np.diff(v, axis=0)).sum()) for v in (values, turned))
    return rough > 0 and smooth < SMOOTHER * rough
