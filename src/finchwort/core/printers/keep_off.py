"""Clips and other places on a bed that tip, probe and plastic keep off."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError

MAX_PLACES = 12
TIP_ROOM = 8.0
"""Tip or probe, with what surrounds it, comes no closer to such a place, mm (ours)."""
USUAL_HEIGHT = 5.0
"""How high a clip stands when nobody measured it, mm (ours)."""
TALLEST = 40.0
ROUNDED = 0.02
"""Places are planned to the hundredth, mm."""

Point = tuple[float, float]


@dataclass(frozen=True)
class KeepOff:
    """A rectangle on the bed where something stands in the way.

    Attributes
    ----------
    name : str
    x_min, y_min, x_max, y_max : float
        mm
    height : float
        How far it stands above the plate, mm.
    """

    name: str
    x_min: float
    y_min: float
    x_max: float
    y_max: float
    height: float = USUAL_HEIGHT

    def __post_init__(self) -> None:
        sides = (self.x_min, self.y_min, self.x_max, self.y_max, self.height)
        if not all(map(math.isfinite, sides)):
            raise NonFiniteError("printers.place_keep_off_needs")
        if not self.name.strip():
            raise ChoiceError("printers.place_keep_off_needs_name")
        if self.x_max - self.x_min < 1 or self.y_max - self.y_min < 1:
            raise OutOfRangeError("printers.right_beyond_left_back", name=self.name)
        if not 0 <= self.height <= TALLEST:
            raise OutOfRangeError("printers.mm_above_plate", name=self.name, tallest=TALLEST)

    def grown(self, room: float) -> tuple[float, float, float, float]:
        """The rectangle with so much room around it, mm."""
        return self.x_min - room, self.y_min - room, self.x_max + room, self.y_max + room
