"""Whether a copy of a print may be made for a bed, and what it does: bent, moved, or with one thing changed."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Array, Column
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.files.bending import MOST_THINNED, Bend, cut_lines, lowest_fade
from finchwort.core.files.first_layer import FirstLayer
from finchwort.core.files.forecast import Pieces
from finchwort.core.files.kinds import ROLES, CopyChange, LineRole, Told
from finchwort.core.files.placement import moved
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import Target
from finchwort.core.first_layer import MELTS, SAFE
from finchwort.core.surveys import Relief
from finchwort.core.visits import Standing

FLAT_ENOUGH = 0.02
"""A bed that bends less under a print needs no bent copy, mm (ours: what a survey by hand tells apart)."""
STEEP = 0.15
"""A tilt of more than this across the print belongs to the screws, mm (ours)."""
PARKS = 5.0
"""A way that ends so far outside a print is no way between its lines, mm (ours)."""
SPEEDS = (5.0, 120.0)
"""Speeds of a first layer that a copy may have, mm/s (ours)."""
TRIM_STEP = 0.05
"""One step of trimming is no more than this, mm (common practice: 0.02 to 0.05)."""
UNKNOWN_HEAT = 10.0
"""Where nobody said what a printer bears, a copy is no more than so much hotter than its file, °C (ours)."""
COLDEST = 150.0
"""Below this no filament is pushed, °C (common practice: machines refuse it below about 170)."""


def bend_refusals(
    print_: PrintFile, target: Target, standing: Standing | None, *, cleared: bool = False
) -> tuple[Remark, ...]:
    """Say what speaks against a copy that is bent to the bed; nothing when it may be made.

    Parameters
    ----------
    print_ : PrintFile
    target : Target
    standing : Standing or None
        Whether the readings still show the bed; None where nobody measured it.
    cleared : bool
        Whether somebody said that no mesh is switched on in the printer.
    """
    found = []
    if standing is None:
        found.append(remark("files.bend_unmeasured"))
    elif not standing.holds:
        found.append(remark("files.bend_old", why=standing.reasons[0]))
    own = next((one for one in print_.commands if one.what in (Told.MESH_ON, Told.PROBE)), None)
    if own is not None:
        found.append(remark("files.bend_own", line=own.line))
    elif target.compensation == "mesh":
        hidden = next(
            (one for one in print_.commands if one.what is Told.UNKNOWN and one.line < print_.first_line),
            None,
        )
        if hidden is not None:
            found.append(remark("files.bend_hidden", line=hidden.line, command=hidden.text))
        elif not cleared:
            found.append(remark("files.bend_mesh"))
    return tuple(found)


@dataclass(frozen=True)
class BendPlan:
    """What a bent copy would do to a print, before it is made.

    Attributes
    ----------
    bend : Bend
    up, down : float
        The most that is added to Z under the first layer, and taken off it, mm.
    lowest : float
        Lowest Z of the first layer, mm.
    tilt : float
        What of the range is a tilt, mm.
    rest : float
        What is left of it without the tilt, mm.
    gap : ndarray, shape (n,)
        Tip to plate at each piece of the first layer, mm.
    """

    bend: Bend
    up: float
    down: float
    lowest: float
    tilt: float
    rest: float
    gap: Array

    @property
    def needed(self) -> bool:
        """Whether the bed bends enough under the print."""
        return self.up - self.down > FLAT_ENOUGH

    @property
    def notes(self) -> tuple[Remark, ...]:
        """What is worth knowing before it is taken."""
        found = [remark("files.bend_good_for", rest=self.rest)]
        if not self.needed:
            found = [remark("files.bend_flat", range=self.up - self.down)]
        if self.tilt > STEEP:
            found.append(remark("files.bend_tilt", tilt=self.tilt))
        if self.lowest < 0:
            found.append(remark("files.bend_below_zero", z=self.lowest))
        return tuple(found)


def plan_bend(print_: PrintFile, pieces: Pieces, relief: Relief, top: float | None = None) -> BendPlan:
    """Plan how a print is bent to a bed, the offset being right in the middle.

    Parameters
    ----------
    print_ : PrintFile
    pieces : Pieces
        Of its first layer.
    relief : Relief
    top : float, optional
        From which Z on the bed is not followed any more, mm; as low as layers stay even within 5 % when not given.

    Raises
    ------
    OutOfRangeError
        When layers would get too thin or too thick on the way to ``top``.
    """
    layer, height = print_.layer, print_.layer.height
    probe = Bend(relief, relief.middle, height, height + 1)
    places = np.vstack([layer.start, layer.end])
    bed = probe.bed(places)
    range_ = float(np.abs(bed).max())
    least = lowest_fade(height, range_, MOST_THINNED)
    if top is None:
        top = lowest_fade(height, range_)
    elif not (math.isfinite(top) and least <= top <= 1000):
        raise OutOfRangeError("files.fade_range", least=least)
    bend = Bend(relief, relief.middle, height, top)
    start = np.column_stack([layer.start, np.full(len(layer), height)])
    end = np.column_stack([layer.end, np.full(len(layer), height)])
    cut = cut_lines(bend, start, end)
    z = bend.commanded(cut.end)
    first = bend.commanded(start)
    # corners of each line as numbers that rise: its place, and how far along it
    corner = np.concatenate([np.arange(len(layer)) * 2.0, cut.of * 2.0 + cut.share])
    order = np.argsort(corner, kind="stable")
    along = np.hypot(*(pieces.middle - layer.start[pieces.of]).T) / np.maximum(layer.length[pieces.of], 1e-9)
    height_at = np.interp(pieces.of * 2.0 + along, corner[order], np.concatenate([first, z])[order])
    matrix = np.column_stack([places, np.ones(len(places))])
    plane = np.linalg.lstsq(matrix, bed, rcond=None)[0]
    rest = bed - matrix @ plane
    spread = places.max(axis=0) - places.min(axis=0)
    return BendPlan(
        bend,
        max(float(bed.max()), 0.0),
        min(float(bed.min()), 0.0),
        float(z.min()),
        float(np.abs(plane[:2]) @ spread),
        float(np.ptp(rest)),
        height_at - bend.bed(pieces.middle),
    )


@dataclass(frozen=True)
class Shift:
    """How a whole print, or one part of it, is moved.

    Attributes
    ----------
    dx, dy : float
        mm
    turn : int
        Quarter turns to the left about ``middle``, made first.
    middle : tuple of float
        mm
    part : int or None
        That part alone, which is not turned.
    """

    dx: float
    dy: float
    turn: int = 0
    middle: tuple[float, float] = (0.0, 0.0)
    part: int | None = None

    def turned(self, way: Column) -> Column:
        """Turn ways, shape (n, 2)."""
        return moved(way, np.zeros(2), 0.0, 0.0, 90 * self.turn)

    def at(self, place: Column) -> Column:
        """Where places, shape (n, 2), come to lie, mm.

        Examples
        --------
        >>> Shift(10.0, 0.0, 1, (5.0, 5.0)).at(np.array([[6.0, 5.0]])).tolist()
        [[15.0, 6.0]]
        """
        return moved(place, np.array(self.middle), self.dx, self.dy, 90 * self.turn)

    def layer(self, layer: FirstLayer) -> FirstLayer:
        """Give a first layer as it lies then; a purge line stays where it is."""
        whole = self.part is None
        mine = (layer.role != ROLES.index(LineRole.PURGE) if whole else layer.part == self.part)[:, None]
        ends = (np.where(mine, self.at(place), place) for place in (layer.start, layer.end))
        return replace(layer, start=next(ends), end=next(ends))

    @classmethod
    def of(cls, layer: FirstLayer, dx: float, dy: float, turn: int = 0) -> Shift:
        """Move what is no purge line of a first layer, about its own middle."""
        mine = layer.role != ROLES.index(LineRole.PURGE)
        ends = np.concatenate([layer.start[mine], layer.end[mine]])
        x, y = ((ends.min(axis=0) + ends.max(axis=0)) / 2).tolist()
        return cls(dx, dy, turn % 4, (x, y))


@dataclass(frozen=True)
class Change:
    """The one thing that is otherwise in a copy.

    Attributes
    ----------
    kind : CopyChange
    value : float
        mm/s, per cent, °C; for the offset mm, positive away from the plate.
    """

    kind: CopyChange
    value: float


@dataclass(frozen=True)
class Allowed:
    """What a change may be, in its own unit.

    Attributes
    ----------
    now : float
        What the file has.
    least, most : float
    """

    now: float
    least: float
    most: float


def check_change(
    print_: PrintFile,
    change: Change,
    target: Target,
    standing: Standing | None = None,
    least: float | None = None,
) -> Allowed:
    """See that a change stays within what printer, plastic and bed bear.

    Parameters
    ----------
    print_ : PrintFile
    change : Change
    target : Target
    standing : Standing or None
        Whether the readings still show the bed.
    least : float, optional
        Smallest gap of the first layer with the tip as the change has it, mm.

    Returns
    -------
    Allowed

    Raises
    ------
    ChoiceError, OutOfRangeError
    """
    kind, value = change.kind, change.value
    if not math.isfinite(value):
        raise OutOfRangeError("files.change_number")
    now = {
        CopyChange.SPEED: print_.speed,
        CopyChange.FAN: print_.fan,
        CopyChange.NOZZLE: print_.nozzle,
        CopyChange.BED: print_.bed,
        CopyChange.OFFSET: 0.0,
    }[kind]
    if now is None or (kind is CopyChange.NOZZLE and not now):
        raise ChoiceError("files.change_not_said")
    low, high = _within(print_, change, target)
    if kind is CopyChange.OFFSET:
        _trim(print_, value, standing, least)
    if abs(value - now) < 1e-9:
        raise ChoiceError("files.change_nothing")
    return Allowed(now, low, high)


def _within(print_: PrintFile, change: Change, target: Target) -> tuple[float, float]:
    """See that a value is one that printer and plastic bear; give the least and the most that is."""
    kind, value = change.kind, change.value
    if kind is CopyChange.SPEED:
        if not SPEEDS[0] <= value <= SPEEDS[1]:
            raise OutOfRangeError("files.change_speed", least=SPEEDS[0], most=SPEEDS[1])
        rate = float((print_.layer.area * value)[print_.layer.of_parts].max(initial=0.0))
        if rate > MELTS[1]:
            raise OutOfRangeError("files.change_melts", rate=rate, most=MELTS[1])
        return SPEEDS
    if kind is CopyChange.FAN:
        if not 0 <= value <= 100:
            raise OutOfRangeError("files.change_fan")
        return 0.0, 100.0
    if kind is CopyChange.OFFSET:
        if not 0.005 <= abs(value) <= TRIM_STEP:
            raise OutOfRangeError("files.change_offset", most=TRIM_STEP)
        return -TRIM_STEP, TRIM_STEP
    nozzle = kind is CopyChange.NOZZLE
    least = COLDEST if nozzle else 0.0
    limit = target.hottest_nozzle if nozzle else target.hottest_bed
    if limit is None:
        # nobody said what the printer bears: little more than the file asks for
        limit = ((print_.nozzle if nozzle else print_.bed) or 0.0) + UNKNOWN_HEAT
    if not least <= value <= limit:
        raise OutOfRangeError("files.change_heat", least=least, most=limit)
    return least, limit


def _trim(print_: PrintFile, value: float, standing: Standing | None, least: float | None) -> None:
    if any(one.what is Told.OFFSET and one.value for one in print_.commands):
        raise ChoiceError("files.change_offset_twice")
    if value > 0:
        return
    if standing is None or least is None:
        raise ChoiceError("files.change_closer_unmeasured")
    if not standing.holds:
        raise ChoiceError("files.change_closer_old")
    if least < SAFE:
        raise OutOfRangeError("files.change_closer_touches", gap=max(least, 0.0))


def first_moved(print_: PrintFile) -> int:
    """Line where the first layer begins but for the purge line."""
    layer = print_.layer
    mine = layer.role != ROLES.index(LineRole.PURGE)
    return int(layer.line[mine].min()) if mine.any() else print_.first_line
