"""The screws that carry a plate: where they stand and how far a turn moves it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import (
    ChoiceError,
    CollinearError,
    DuplicateError,
    NonFiniteError,
    OutOfRangeError,
)
from finchwort.core.base.geometry import MAX_COORDINATE, is_line

HOLDS = ("centre", "only_tighten", "only_loosen")
"""Besides these a plan can hold a screw, by its name."""
MAX_SCREWS = 9


@dataclass(frozen=True)
class Screw:
    """A screw that carries the plate.

    Attributes
    ----------
    name : str
    x, y : float
        Position in the frame of the bed, mm.
    pitch : float
        Travel per turn, mm.
    tightening_lowers : bool
        Whether tightening pulls the plate down there, away from the nozzle.
    divisions : int
        How finely it is turned by hand, steps per turn.
    """

    name: str
    x: float
    y: float
    pitch: float
    tightening_lowers: bool = True
    divisions: int = 8

    def __post_init__(self) -> None:
        if not all(map(math.isfinite, (self.x, self.y, self.pitch))):
            raise NonFiniteError("printers.screw_lacks_position_pitch", name=self.name)
        if max(abs(self.x), abs(self.y)) > MAX_COORDINATE:
            raise OutOfRangeError("printers.screw_outside_any_printer", name=self.name)
        if not 0.1 <= self.pitch <= 10:
            raise OutOfRangeError("printers.pitch_mm_no_bed", pitch=self.pitch)
        if not 1 <= self.divisions <= 64:
            raise OutOfRangeError("printers.screw_turned_steps_per")

    @property
    def travel(self) -> float:
        """Change of height at the screw for one turn of tightening, mm, positive up."""
        return -self.pitch if self.tightening_lowers else self.pitch

    @property
    def step(self) -> float:
        """Least move by hand, mm."""
        return self.pitch / self.divisions


def check_screws(screws: Sequence[Screw]) -> None:
    """Raise the fitting error unless the screws can carry a plate.

    Raises
    ------
    ChoiceError, DuplicateError, CollinearError
    """
    if not 3 <= len(screws) <= MAX_SCREWS:
        raise ChoiceError("printers.plate_screws_three", max_screws=MAX_SCREWS)
    if len({screw.name for screw in screws}) < len(screws):
        raise DuplicateError("printers.two_screws_same_name")
    taken = {screw.name for screw in screws} & set(HOLDS)
    if taken:
        raise ChoiceError("printers.screw_cannot_called_way", taken=taken.pop())
    if len({(screw.x, screw.y) for screw in screws}) < len(screws):
        raise DuplicateError("printers.two_screws_same_place")
    if is_line(np.array([s.x for s in screws]), np.array([s.y for s in screws])):
        raise CollinearError("printers.all_screws_line_such")
