"""Foil: what lies in the drawer, what a stack of it needs, and how thick one sheet is."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import (
    ChoiceError,
    DuplicateError,
    NonFiniteError,
    OutOfRangeError,
)
from finchwort.core.base.statistics import Z95
from finchwort.core.probing import CALIPER_SD

MAX_PADS, MAX_FOILS, MAX_COUNT = 9, 12, 99
FOLDS = 3
"""Foil off a roll is folded so often at most: eight layers."""
MAX_FOLDED = 0.3
"""Folded foil thicker than this springs, mm (ours)."""
SAME = 1e-4
"""Thicknesses closer than this are the same, mm."""


@dataclass(frozen=True)
class Foil:
    """A thickness of foil and how many pieces there are.

    Attributes
    ----------
    thickness : float
        Of a piece, or of one layer off a roll, mm.
    count : int
        Loose pieces, those under the pads not counted; none are counted off a roll.
    roll : bool
        Off a roll, as kitchen foil is: as much as is wanted, folded once, twice or three times.
    """

    thickness: float
    count: int
    roll: bool = False

    @property
    def pieces(self) -> tuple[float, ...]:
        """Thicknesses of the pieces it gives, mm."""
        if not self.roll:
            return (self.thickness,)
        folded = (round(self.thickness * 2**fold, 6) for fold in range(FOLDS + 1))
        return tuple(size for size in folded if size <= MAX_FOLDED or size == self.thickness)


@dataclass(frozen=True)
class Drawer:
    """What lies in the drawer after foil was laid and taken.

    Attributes
    ----------
    foils : tuple of Foil
    changes : dict of float to int
        Pieces that came (positive) or went, by thickness in mm.
    short : tuple of float
        Thicknesses of which more was laid than was counted, mm.
    """

    foils: tuple[Foil, ...]
    changes: dict[float, int]
    short: tuple[float, ...]


def count_drawer(
    foils: Sequence[Foil], before: Sequence[Sequence[float]], after: Sequence[Sequence[float]]
) -> Drawer:
    """Count the drawer down by what was laid and up by what was taken; foil off a roll is not counted.

    Parameters
    ----------
    foils : sequence of Foil
    before, after : sequence of sequences of float
        What lay under the pads, and what lies there now, mm.

    Examples
    --------
    >>> drawer = count_drawer([Foil(0.1, 5), Foil(0.05, 1)], [[0.2], []], [[0.1], [0.1, 0.05, 0.05]])
    >>> [(foil.thickness, foil.count) for foil in drawer.foils], drawer.short
    ([(0.05, 0), (0.1, 3), (0.2, 1)], (0.05,))
    """
    folded = [size for foil in foils if foil.roll for size in foil.pieces]
    then = Counter(size for stack in before for size in stack)
    now = Counter(size for stack in after for size in stack)
    left = {foil.thickness: foil.count for foil in foils if not foil.roll}
    changes: dict[float, int] = {}
    short = []
    for size in sorted(then.keys() | now.keys()):
        taken = then[size] - now[size]
        if taken == 0 or any(abs(size - item) < SAME for item in folded):
            continue
        known = next((item for item in left if abs(item - size) < SAME), None)
        if known is None and taken < 0:
            short.append(size)
            continue
        known = size if known is None else known
        held = left.get(known, 0)
        change = max(taken, -held)
        if change > taken:
            short.append(known)
        left[known] = min(held + change, MAX_COUNT)
        changes[known] = left[known] - held
    rolls = [foil for foil in foils if foil.roll]
    pieces = [Foil(size, count) for size, count in left.items()]
    return Drawer(
        tuple(sorted([*rolls, *pieces], key=lambda f: (f.thickness, f.roll))), changes, tuple(short)
    )


def piece_in_words(size: float, foils: Sequence[Foil]) -> str:
    """Name a piece of foil by what lies in the drawer.

    Examples
    --------
    >>> piece_in_words(0.064, [Foil(0.016, 0, roll=True)]), piece_in_words(0.1, [])
    ('kitchen foil folded twice (4 layers, 0.064 mm)', '0.1')
    """
    for foil in foils:
        if foil.roll:
            for fold, piece in enumerate(foil.pieces):
                if abs(piece - size) < SAME:
                    how = ("in one layer", "folded once", "folded twice", "folded three times")[fold]
                    layers = f"{2**fold} layers, " if fold else ""
                    return f"kitchen foil {how} ({layers}{piece:g} mm)"
    return f"{size:g}"


@dataclass(frozen=True)
class Measured:
    """A foil measured with calipers, several pieces at once.

    Attributes
    ----------
    thickness, sd : float
        Of one piece, mm.
    sentence : str
    """

    thickness: float
    sd: float
    sentence: str


def measure_foil(together: float, pieces: int) -> Measured:
    """Thickness of one piece from several measured together.

    Parameters
    ----------
    together : float
        What calipers show for the stack, mm.
    pieces : int
        In the stack, or layers of folded foil.

    Raises
    ------
    OutOfRangeError, NonFiniteError

    Examples
    --------
    >>> found = measure_foil(0.16, 10)
    >>> found.thickness, found.sd
    (0.016, 0.002)
    """
    if not math.isfinite(together):
        raise NonFiniteError("levelling.stack_thickness_length_mm")
    if not 1 <= pieces <= 64:
        raise OutOfRangeError("levelling.pieces_measured_together")
    thickness, sd = round(together / pieces, 4), CALIPER_SD / pieces
    if not 0.005 <= thickness <= 2:
        raise OutOfRangeError("levelling.piece_would_mm_thick", thickness=thickness)
    text = f"One piece is {thickness:.3f} ± {Z95 * sd:.3f} mm thick."
    if Z95 * sd > 0.25 * thickness:
        text += " Fold or stack more of it and measure again: calipers do not show so little."
    return Measured(thickness, sd, text)


def check_stacks(stacks: Mapping[str, Sequence[float]]) -> None:
    """Raise unless what lies under the pads (mm, by name) can be.

    Raises
    ------
    OutOfRangeError
    """
    for name, stack in stacks.items():
        if len(stack) > 20 or not all(0.005 <= size <= 2 for size in stack):
            raise OutOfRangeError("levelling.under_cannot_foils_mm", name=name)


def check_foils(foils: Sequence[Foil]) -> None:
    """Raise unless the stock of foils makes sense.

    Raises
    ------
    ChoiceError, DuplicateError, OutOfRangeError
    """
    if len(foils) > MAX_FOILS:
        raise ChoiceError("levelling.most_thicknesses_foil", max_foils=MAX_FOILS)
    if len({(foil.thickness, foil.roll) for foil in foils}) < len(foils):
        raise DuplicateError("levelling.thickness_foil_listed_twice")
    for foil in foils:
        if not (math.isfinite(foil.thickness) and 0.005 <= foil.thickness <= 2):
            raise OutOfRangeError("levelling.foil_mm_thick_these")
        if not 0 <= foil.count <= MAX_COUNT:
            raise OutOfRangeError("levelling.pieces_foil", max_count=MAX_COUNT)
