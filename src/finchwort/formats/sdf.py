"""Surveys as ISO 25178-71 SDF files, ASCII and binary.

References
----------
ISO 25178-71:2017, Software measurement standards, file format SDF.
"""

from __future__ import annotations

import struct
from datetime import UTC, datetime

import numpy as np
import sdfio

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import counted
from finchwort.core.surveys import MAX_READINGS, Survey
from finchwort.formats.grid import Laid
from finchwort.formats.result import Hint, UnreadableTextError

MARKS = (b"aISO", b"bISO", b"aBCR", b"bBCR")
MAKER = "Finchwort"
COUNTS_AT = 42
"""Where a binary header tells how many points and profiles there are, bytes."""
METRES = 1e-3
"""A millimetre in metres."""
DIGITS = 9
"""Lengths come back to so many decimals of a millimetre."""
EVEN = 0.02
"""Places further than this from an even grid are no grid, mm (ours: twice the hundredth they are planned to)."""
_PLACES = ("x_mm", "y_mm")


def looks_like_sdf(data: bytes) -> bool:
    """Tell whether bytes begin like an SDF file."""
    return data[:4] in MARKS


def survey_sdf(survey: Survey, *, binary: bool = False, at: datetime | None = None) -> bytes:
    """Write a survey as SDF; where its columns and rows lie on the bed is kept in the trailer.

    Parameters
    ----------
    survey : Survey
        Readings on an even, full grid.
    binary : bool
        Otherwise ASCII.
    at : datetime, optional
        When it was taken.

    Raises
    ------
    ChoiceError
        When the readings are no even grid: the format knows nothing else.
    """
    xs, ys, heights = _even_grid(survey)
    # the first edition's form is read everywhere
    header = sdfio.Metadata(
        revision=sdfio.Revision.ISO_1_0,
        manufacturer_id=MAKER,
        create_date=at,
        mod_date=at or datetime.now(UTC),
    )
    file = sdfio.SdfFile.from_array(
        heights * METRES,
        x_scale=_step(xs) * METRES,
        y_scale=_step(ys) * METRES,
        z_scale=1.0,
        metadata=header,
    )
    places = (" ".join(map(repr, axis.tolist())) for axis in (xs, ys))
    file.trailer_fields = dict(zip(_PLACES, places, strict=True))
    form = sdfio.FileFormat.BINARY if binary else sdfio.FileFormat.ASCII
    return file.dumps(format=form)


def read_sdf(data: bytes, hint: Hint, assumed: list[str]) -> Laid:
    """Read an SDF file.

    Returns
    -------
    x, y, height : ndarray, shape (n,)
        mm; points that were not measured are left out.
    columns, rows : int
    bounds : tuple of float
        mm
    """
    _check_size(data)
    try:
        file = sdfio.SdfFile.loads(data)
    except sdfio.SdfError as error:
        raise UnreadableTextError("formats.sdf_file_cannot_read", error=str(error)[:160]) from None
    except (ValueError, TypeError, OverflowError, struct.error, MemoryError):
        raise UnreadableTextError("formats.sdf_file_cannot_read_damaged") from None
    heights = np.round(np.asarray(file.data, dtype=np.float64) / METRES, DIGITS)
    rows, columns = heights.shape
    if heights.size > MAX_READINGS:
        raise OutOfRangeError(
            "formats.readings_more_survey_holds_2", size=heights.size, max_readings=MAX_READINGS
        )
    if rows < 2 or columns < 2:
        raise UnreadableTextError("formats.sdf_file_holds_profile")
    step_x, step_y = file.header.x_scale / METRES, file.header.y_scale / METRES
    if not (np.isfinite([step_x, step_y]).all() and step_x > 0 and step_y > 0):
        raise UnreadableTextError("formats.sdf_file_does_not")
    xs, ys = _places(file, columns, rows)
    if xs is None or ys is None:
        x0, y0 = _origin(hint, (columns - 1) * step_x, (rows - 1) * step_y, assumed)
        xs, ys = np.round(x0 + step_x * np.arange(columns), 6), np.round(y0 + step_y * np.arange(rows), 6)
    if hint.flip_y:
        heights = heights[::-1]
    if hint.flip_x:
        heights = heights[:, ::-1]
    grid_x, grid_y = np.meshgrid(xs, ys)
    there = np.isfinite(heights)
    if not there.all():
        lost = int((~there).sum())
        assumed.append(f"{counted(lost, 'point')} of the file were not measured and are left out.")
    bounds = (float(xs[0]), float(ys[0]), float(xs[-1]), float(ys[-1]))
    return grid_x[there], grid_y[there], heights[there], columns, rows, bounds


def _check_size(data: bytes) -> None:
    """Refuse a binary header that promises more points than a survey holds, before they are made."""
    form = "<II" if data[4:8] == b"-2.0" else "<HH"
    end = COUNTS_AT + struct.calcsize(form)
    if data[:1] == b"b" and len(data) >= end:
        points, profiles = struct.unpack(form, data[COUNTS_AT:end])
        if points * profiles > MAX_READINGS:
            raise OutOfRangeError(
                "formats.readings_more_survey_holds_4", points=points * profiles, max_readings=MAX_READINGS
            )


def _places(file: sdfio.SdfFile, columns: int, rows: int) -> tuple[Array, Array] | tuple[None, None]:
    """Places of columns and rows as our own trailer tells them, mm; none when it does not."""
    try:
        fields = {name.lower(): value for name, value in file.trailer_fields.items()}
        xs, ys = (np.array([float(part) for part in fields[name].split()]) for name in _PLACES)
    except (sdfio.SdfError, KeyError, ValueError, UnicodeDecodeError):
        return None, None
    good = xs.size == columns and ys.size == rows
    good = good and all(np.isfinite(axis).all() and (np.diff(axis) > 0).all() for axis in (xs, ys))
    return (xs, ys) if good else (None, None)


def _origin(hint: Hint, width: float, depth: float, assumed: list[str]) -> tuple[float, float]:
    if hint.bounds is not None:
        return hint.bounds[0], hint.bounds[1]
    if hint.bed is None:
        assumed.append("The file does not say where its grid lies; it was laid at X 0, Y 0.")
        return 0.0, 0.0
    cx, cy = hint.bed.centre
    assumed.append("The file does not say where its grid lies; it was laid in the middle of the bed.")
    return cx - width / 2, cy - depth / 2


def _even_grid(survey: Survey) -> tuple[Array, Array, Array]:
    xs, ys = np.unique(survey.x), np.unique(survey.y)
    full = xs.size * ys.size == len(survey) and min(xs.size, ys.size) >= 2
    if full:
        full = all(np.abs(np.diff(axis) - _step(axis)).max() <= EVEN for axis in (xs, ys))
    if not full:
        raise ChoiceError("formats.sdf_file_holds_even")
    heights = np.empty((ys.size, xs.size))
    heights[np.searchsorted(ys, survey.y), np.searchsorted(xs, survey.x)] = survey.height
    return xs, ys, heights


def _step(axis: np.ndarray) -> float:
    return float((axis[-1] - axis[0]) / (axis.size - 1))
