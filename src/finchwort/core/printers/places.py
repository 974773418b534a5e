"""Where screws usually sit on a bed, which places are measured, and what they are called."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.printers.bed import ORIGINS, Bed, blocked_by
from finchwort.core.printers.free_places import clear_of

SCREW_INSET = 10.0
"""Usual distance of a bed screw from the edge of the plate, mm (common practice)."""
BESIDE = 1.0
"""A reading further than this beside the plate cannot have been taken on it, mm (ours)."""
READING_INSET = 15.0
"""Usual distance of the outer readings from the edge of the printable area, mm (common practice)."""
CORNERS = ("front left", "front right", "back right", "back left")


def places_doubt(bed: Bed, x: Sequence[float], y: Sequence[float]) -> str | None:
    """Say what is odd about places that lie beside the plate.

    Parameters
    ----------
    bed : Bed
    x, y : sequence of float, shape (n,)
        Places of readings, mm.

    Returns
    -------
    str or None
        A sentence, with the other zero point named when all places would fit with it.

    Examples
    --------
    >>> places_doubt(Bed(200, 200), [15, 185], [15, 185]) is None
    True
    >>> print(places_doubt(Bed(200, 200), [-85, 85], [-85, 85]))  # doctest: +NORMALIZE_WHITESPACE
    1 of 2 readings lies beside the plate, which spans X 0 to 200 and Y 0 to 200 mm here.
    All would lie on it if X 0, Y 0 were in the middle: check the printer's set-up.
    """
    beside = _beside(bed, x, y)
    if not beside:
        return _in_the_way(bed, x, y)
    x0, y0, x1, y1 = (f"{side:g}".replace("-", "−") for side in bed.plate)
    lie = "lies" if beside == 1 else "lie"
    text = (
        f"{beside} of {len(x)} readings {lie} beside the plate, which spans X {x0} to {x1} "
        f"and Y {y0} to {y1} mm here."
    )
    other = next(name for name in ORIGINS if name != bed.origin)
    if _beside(replace(bed, origin=other), x, y):
        return f"{text} Are these readings of this printer, in millimetres?"
    where = "in the middle" if other == "centre" else "at the front left"
    return f"{text} All would lie on it if X 0, Y 0 were {where}: check the printer's set-up."


def _in_the_way(bed: Bed, x: Sequence[float], y: Sequence[float]) -> str | None:
    """Say so when readings lie where something stands in the way."""
    results = [item for item in (blocked_by(bed, px, py, 0.0) for px, py in zip(x, y, strict=True)) if item]
    if not results:
        return None
    lie = "reading lies" if len(results) == 1 else "readings lie"
    return f"{len(results)} {lie} where {results[0].name} stands in the way. Was it off, or is a reading in the wrong place?"


def _beside(bed: Bed, x: Sequence[float], y: Sequence[float]) -> int:
    """Count the places beside the plate (mm)."""
    x0, y0, x1, y1 = bed.plate
    return sum(
        not (x0 - BESIDE <= px <= x1 + BESIDE and y0 - BESIDE <= py <= y1 + BESIDE)
        for px, py in zip(x, y, strict=True)
    )


def usual_inset(bed: Bed) -> float:
    """Distance of the outer readings from the edge, mm; less on a small bed.

    Examples
    --------
    >>> usual_inset(Bed(220, 220)), usual_inset(Bed(80, 80))
    (15.0, 10.0)
    """
    return min(READING_INSET, min(bed.width, bed.depth) / 8)


def place_in_words(bed: Bed, x: float, y: float) -> str:
    """Say where a place lies, by thirds of the bed.

    Examples
    --------
    >>> bed = Bed(300, 300)
    >>> place_in_words(bed, 20, 290), place_in_words(bed, 150, 150), place_in_words(bed, 150, 10)
    ('at the back left', 'in the middle', 'at the front')
    """
    along = ["front", "", "back"][min(2, max(0, int(3 * (y - bed.y_min) / bed.depth)))]
    across = ["left", "", "right"][min(2, max(0, int(3 * (x - bed.x_min) / bed.width)))]
    text = " ".join(word for word in (along, across) if word)
    return f"at the {text}" if text else "in the middle"


def suggest_screws(bed: Bed, count: int) -> list[tuple[str, float, float]]:
    """Give usual screw positions: at the plate's corners, or two in front and one behind.

    Parameters
    ----------
    bed : Bed
    count : {3, 4}

    Returns
    -------
    list of (name, x, y)
        Counter-clockwise from the front left, mm.

    Examples
    --------
    >>> suggest_screws(Bed(100, 100), 3)
    [('front left', 10.0, 10.0), ('front right', 90.0, 10.0), ('back', 50.0, 90.0)]
    """
    x0, y0, x1, y1 = bed.plate
    left, right = x0 + SCREW_INSET, x1 - SCREW_INSET
    front, back = y0 + SCREW_INSET, y1 - SCREW_INSET
    if count == 4:
        places = ((left, front), (right, front), (right, back), (left, back))
        return [(name, x, y) for name, (x, y) in zip(CORNERS, places, strict=True)]
    if count == 3:
        return [
            ("front left", left, front),
            ("front right", right, front),
            ("back", bed.centre[0], back),
        ]
    raise ChoiceError("printers.bed_three_four_screws")


def suggest_screw_points(bed: Bed, screws: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    """Give the places nearest the screws that a nozzle reaches well, and the middle.

    Parameters
    ----------
    bed : Bed
    screws : sequence of (x, y)
        Positions of the screws, mm; the four corners are used when there are none.

    Returns
    -------
    list of (x, y)
        mm, the middle last.

    Examples
    --------
    >>> suggest_screw_points(Bed(200, 200), [(2, 2), (198, 2), (100, 198)])
    [(15.0, 15.0), (185.0, 15.0), (100.0, 185.0), (100.0, 100.0)]
    """
    inset = usual_inset(bed)
    x0, x1 = bed.x_min + inset, bed.x_max - inset
    y0, y1 = bed.y_min + inset, bed.y_max - inset
    places = screws or [(x0, y0), (x1, y0), (x1, y1), (x0, y1)]
    points = [(round(float(min(max(x, x0), x1)), 2), round(float(min(max(y, y0), y1)), 2)) for x, y in places]
    # beside a clip rather than on it; a corner without any room keeps no place
    points = [point for point in clear_of(bed, points, area=(x0, y0, x1, y1)) if point]
    middle = (round(bed.centre[0], 2), round(bed.centre[1], 2))
    return list(dict.fromkeys([*points, middle]))


def suggest_points(bed: Bed, columns: int, rows: int) -> list[tuple[float, float]]:
    """Give an evenly spaced pattern of places to measure, in serpentine walking order.

    Parameters
    ----------
    bed : Bed
    columns, rows : int
        Number of places along X and Y, 2 to 25 each.

    Returns
    -------
    list of (x, y)
        From the front left, every second row backwards, mm.

    Examples
    --------
    >>> suggest_points(Bed(200, 200), 2, 2)
    [(15.0, 15.0), (185.0, 15.0), (185.0, 185.0), (15.0, 185.0)]
    """
    if not (2 <= columns <= 25 and 2 <= rows <= 25):
        raise OutOfRangeError("printers.pattern_columns_rows")
    inset = usual_inset(bed)
    points = []
    for row in range(rows):
        y = bed.y_min + inset + (bed.depth - 2 * inset) * row / (rows - 1)
        order = range(columns) if row % 2 == 0 else range(columns - 1, -1, -1)
        for column in order:
            x = bed.x_min + inset + (bed.width - 2 * inset) * column / (columns - 1)
            points.append((round(x, 2), round(y, 2)))
    return points
