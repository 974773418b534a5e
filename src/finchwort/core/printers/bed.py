"""The bed of a printer: its frame of reference and where its screws usually sit."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError, DuplicateError, NonFiniteError, OutOfRangeError
from finchwort.core.printers.keep_off import MAX_PLACES, ROUNDED, TIP_ROOM, KeepOff
from finchwort.core.printers.kinds import Origin

ORIGINS = tuple(Origin)
MIN_SIDE, MAX_SIDE = 40.0, 2000.0
"""Sides of a printable area that are taken seriously, mm (common practice)."""


@dataclass(frozen=True)
class Bed:
    """Printable area and plate of one printer.

    The frame has X to the right, Y to the back and Z up.  The plate is taken
    to be centred under the printable area.

    Parameters
    ----------
    width, depth : float
        Printable area along X and Y, mm.
    origin : {"front_left", "centre"}
        Where X = 0, Y = 0 is on the printable area.
    plate_width, plate_depth : float, optional
        Size of the plate, mm; as large as the printable area when not given.
    keep_off : tuple of KeepOff
        Clips and other places that tip, probe and plastic keep off.

    Raises
    ------
    OutOfRangeError, NonFiniteError, ChoiceError
        When a side is no size of a bed, or the origin is not one of the two.

    Examples
    --------
    >>> bed = Bed(200, 100, origin="centre")
    >>> bed.x_min, bed.x_max, bed.centre
    (-100.0, 100.0, (0.0, 0.0))
    """

    width: float
    depth: float
    origin: str = "front_left"
    plate_width: float | None = None
    plate_depth: float | None = None
    keep_off: tuple[KeepOff, ...] = ()

    def __post_init__(self) -> None:
        for name, side in (
            ("printable width", self.width),
            ("printable depth", self.depth),
            ("plate width", self.plate_width),
            ("plate depth", self.plate_depth),
        ):
            if side is None:
                continue
            if not math.isfinite(side):
                raise NonFiniteError("printers.not_number", name=name)
            if not MIN_SIDE <= side <= MAX_SIDE:
                raise OutOfRangeError(
                    "printers.mm_mm", name=name, side=side, min_side=MIN_SIDE, max_side=MAX_SIDE
                )
        if self.origin not in ORIGINS:
            raise ChoiceError("printers.origin", names=", ".join(ORIGINS))
        for name, plate, area in (
            ("width", self.plate_width, self.width),
            ("depth", self.plate_depth, self.depth),
        ):
            if plate is not None and plate < area:
                raise OutOfRangeError(
                    "printers.plate_mm_smaller_printable", name=name, plate=plate, area=area
                )
        if self.keep_off:
            check_places(self)

    @property
    def x_min(self) -> float:
        """Left edge of the printable area, mm."""
        return 0.0 if self.origin == "front_left" else -float(self.width) / 2

    @property
    def x_max(self) -> float:
        """Right edge of the printable area, mm."""
        return self.x_min + float(self.width)

    @property
    def y_min(self) -> float:
        """Front edge of the printable area, mm."""
        return 0.0 if self.origin == "front_left" else -float(self.depth) / 2

    @property
    def y_max(self) -> float:
        """Back edge of the printable area, mm."""
        return self.y_min + float(self.depth)

    @property
    def centre(self) -> tuple[float, float]:
        """Middle of the printable area, mm."""
        return (self.x_min + self.x_max) / 2, (self.y_min + self.y_max) / 2

    @property
    def plate(self) -> tuple[float, float, float, float]:
        """Plate as (x_min, y_min, x_max, y_max), mm."""
        cx, cy = self.centre
        half_w = (self.plate_width or self.width) / 2
        half_d = (self.plate_depth or self.depth) / 2
        return cx - half_w, cy - half_d, cx + half_w, cy + half_d


def check_places(bed: Bed) -> None:
    """Raise unless the places to keep off can be there, and leave the middle free.

    Raises
    ------
    ChoiceError, DuplicateError, OutOfRangeError
    """
    if len(bed.keep_off) > MAX_PLACES:
        raise ChoiceError("printers.up_places_keep_off", max_places=MAX_PLACES)
    if len({place.name for place in bed.keep_off}) < len(bed.keep_off):
        raise DuplicateError("printers.two_places_keep_off")
    x0, y0, x1, y1 = bed.plate
    for place in bed.keep_off:
        if place.x_max < x0 or place.x_min > x1 or place.y_max < y0 or place.y_min > y1:
            raise OutOfRangeError("printers.beside_plate_where_nothing", name=place.name)
    blocked = blocked_by(bed, *bed.centre)
    if blocked:
        raise OutOfRangeError("printers.covers_middle_bed_where", name=blocked.name)


def blocked_by(bed: Bed, x: float, y: float, room: float = TIP_ROOM) -> KeepOff | None:
    """Return what stands in the way of a tip at a place (mm), or nothing.

    ``room`` is kept around it, mm: half of what is printed there comes on top for the caller.
    """
    for place in bed.keep_off:
        x0, y0, x1, y1 = place.grown(room - ROUNDED)
        if x0 < x < x1 and y0 < y < y1:
            return place
    return None
