"""Test prints made for one printer: patches, ladder, discs, and walks without plastic."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError, UnknownGroundError
from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.base.wording import upper_first
from finchwort.core.first_layer.bead import TOUCH, Bead
from finchwort.core.first_layer.clearance import Ground, keeps_clear, safe_height
from finchwort.core.first_layer.kinds import PrintKind
from finchwort.core.first_layer.series import DISC
from finchwort.core.first_layer.toolpaths import Stroke, filament_area, fill_disc, fill_square
from finchwort.core.printers import (
    CORNERS,
    TIP_ROOM,
    Bed,
    clear_of,
    crosses,
    free_area,
    place_in_words,
    tallest,
    way_over,
)
from finchwort.core.probing import paper_places

KINDS = tuple(PrintKind)
WALKS = (PrintKind.MESH_WALK, PrintKind.PAPER_WALK)
PATCH, RUNG = 30.0, 20.0
"""Sizes of patches, mm (ours: room for calipers and for the eye, in few minutes)."""
BETWEEN = 6.0
"""Between patches, mm (ours)."""
LADDER_REACH = 1.5 * RUNG + BETWEEN
"""A ladder of three by three reaches so far from the middle, mm."""
PATCH_RIM, RIM = 5.0, 10.0
"""Patches, and a walk, keep so far from the edge of the printable area, mm (ours)."""
PRIME_INSET, PRIME_SHARES, PRIME_RAISED = 2.5, (0.5, 0.375, 0.25), 0.1
"""The line that fills the nozzle: distance from the edge (mm), share of the width (less where a clip is in the way), and how
much higher it is (mm; ours)."""
SPEED, TRAVEL, LIFT_SPEED = 25.0, 100.0, 10.0
"""mm/s; 20 to 50 is usual for a first layer (common practice)."""
WARM = 150.0
"""Warm enough to have its length, too cool to ooze, °C (ours)."""
COLDEST = 170.0
"""Below this nothing is pushed through a nozzle, °C (ours)."""
HOVER = 1.0
"""The walk that shows a mesh keeps so far above the bed, mm (ours)."""
RETRACT, RETRACT_SPEED = 1.0, 30.0
"""Filament drawn back on the ways between, mm and mm/s (ours, modest)."""
UNKNOWN_STOP = 5.0
"""Where nobody knows how high bed and tip stand, a stop for paper is made so far above, mm (ours)."""
STOP_STEP = 0.05
"""Stops that are made higher than the paper are so in steps of this, mm (ours)."""
PARK_LIFT = 20.0
"""The head ends so far above the bed, mm (ours)."""


@dataclass(frozen=True)
class Spot:
    """A patch, or a place where the tip stops.

    Attributes
    ----------
    number : int
        From 1, in the order of printing.
    name : str
    x, y : float
        Middle, mm.
    size : float
        mm; 0 for a stop.
    round : bool
        A disc.
    shift : float
        Against the first-layer height, mm, positive farther.
    z : float
        Height that is commanded, mm.
    """

    number: int
    name: str
    x: float
    y: float
    size: float
    round: bool
    shift: float
    z: float


@dataclass(frozen=True)
class Setting:
    """What a test print is made for.

    Attributes
    ----------
    bed : Bed
    bead : Bead
        Its height is the first layer.
    bed_temperature, nozzle_temperature : float
        °C
    most_bed, most_nozzle : float
        Of the printer, °C.
    filament : float
        Diameter, mm.
    lift : float
        Of the head on its ways, mm.
    density : float or None
        Of the material, g/cm³.
    """

    bed: Bed
    bead: Bead
    bed_temperature: float
    nozzle_temperature: float
    most_bed: float
    most_nozzle: float
    filament: float = 1.75
    lift: float = 5.0
    density: float | None = None

    def __post_init__(self) -> None:
        filament_area(self.filament)
        for what, value, most in (
            ("bed", self.bed_temperature, self.most_bed),
            ("nozzle", self.nozzle_temperature, self.most_nozzle),
        ):
            if not math.isfinite(value):
                raise NonFiniteError("first_layer.hot", what=what)
            if not 0 <= value <= most:
                raise OutOfRangeError("first_layer.would_printer_limit", what=what, value=value, most=most)
        if not 0.5 <= self.lift <= 100:
            raise OutOfRangeError("first_layer.head_lifted_mm")


@dataclass(frozen=True, eq=False)
class TestPrint:
    """A test print, checked and ready to be written out.

    Attributes
    ----------
    kind : one of ``KINDS``
    setting : Setting
    spots : tuple of Spot
    strokes : tuple of Stroke
        The priming line first, then one a spot; none for a walk.
    walk : ndarray, shape (n, 2)
        Corners of a walk without plastic, mm; for a paper walk its stops.
    nozzle_temperature : float
        °C; less than the setting's where nothing is printed.
    travel : float
        Height of the ways between places, mm: above the highest ground there may be.
    cautions : tuple of Remark
        What it was made for, and what is unusual about it.
    """

    __test__ = False  # for runners that collect by name
    kind: str
    setting: Setting
    spots: tuple[Spot, ...]
    strokes: tuple[Stroke, ...]
    walk: Array
    nozzle_temperature: float
    travel: float
    cautions: tuple[Remark, ...] = ()

    @property
    def volume(self) -> float:
        """Plastic, mm³."""
        return sum(stroke.volume for stroke in self.strokes)

    @property
    def filament_length(self) -> float:
        """Mm."""
        return self.volume / filament_area(self.setting.filament)

    @property
    def grams(self) -> float | None:
        """Plastic, g; None when the material's density is not known."""
        return None if self.setting.density is None else self.volume / 1000 * self.setting.density

    @property
    def seconds(self) -> float:
        """Moving time, s; heating, homing and stops for the person come on top."""
        laid = sum(stroke.length for stroke in self.strokes) / SPEED
        starts = [stroke.points[0] for stroke in self.strokes]
        ends = [stroke.points[-1] for stroke in self.strokes]
        ways = sum(math.dist(a, b) for a, b in zip(ends, starts[1:], strict=False)) / TRAVEL
        lifts = len(self.strokes) * (2 * self.travel / LIFT_SPEED + 2 * RETRACT / RETRACT_SPEED)
        if len(self.walk) > 1:
            ways += float(np.hypot(*np.diff(self.walk, axis=0).T).sum()) / (
                SPEED if self.kind == "mesh_walk" else TRAVEL
            )
        if self.kind == "paper_walk":
            lifts += len(self.walk) * 2 * self.travel / LIFT_SPEED
        return laid + ways + lifts


def make_test_print(
    kind: str,
    setting: Setting,
    *,
    shifts: Sequence[float] = (),
    places: Sequence[tuple[float, float, float]] = (),
    screws: Sequence[tuple[str, float, float]] = (),
    paper: float = 0.1,
    ground: Ground | None = None,
) -> TestPrint:
    """Make a test print and refuse it where it could do harm.

    Parameters
    ----------
    kind : one of ``KINDS``
    setting : Setting
    shifts : sequence of float
        Of a ladder's patches, mm, positive farther, farthest first.
    places : sequence of (x, y, shift)
        Of discs, mm.
    screws : sequence of (name, x, y)
        Where a paper walk stops; the corners when there are none.
    paper : float
        Its thickness: the height of those stops, mm.
    ground : Ground, optional
        The bed as the tip meets it, to keep clear of it; a level bed and a right offset when not given.

    Returns
    -------
    TestPrint

    Raises
    ------
    ChoiceError
    OutOfRangeError
        Outside the printable area, down to contact, or at temperatures that do not do.
    UnknownGroundError
        When too much happened since bed and tip were measured.

    Examples
    --------
    >>> made = make_test_print("ladder", Setting(Bed(200, 200), Bead(0.42, 0.2), 60, 205, 110, 260), shifts=[0.05, 0, -0.05])
    >>> [spot.z for spot in made.spots], round(made.filament_length)
    ([0.25, 0.2, 0.15], 102)
    """
    if kind not in KINDS:
        raise ChoiceError("first_layer.no_test_print_called", kind=kind)
    ground = ground or Ground()
    if ground.refused and kind != "paper_walk":
        raise UnknownGroundError("first_layer.unknown_ground", why=ground.refused)
    walks = kind in WALKS
    if not walks and setting.nozzle_temperature < COLDEST:
        raise OutOfRangeError(
            "first_layer.nothing_comes_out_nozzle", nozzle_temperature=setting.nozzle_temperature
        )
    nozzle = min(setting.nozzle_temperature, WARM) if walks else setting.nozzle_temperature
    spots: list[Spot] = []
    walk = np.empty((0, 2))
    if kind == "patches":
        spots = _patches(setting)
    elif kind == "ladder":
        spots = _ladder(setting, shifts)
    elif kind == "discs":
        spots = _discs(setting, places)
    elif kind == "paper_walk":
        spots = _stops(setting.bed, screws, paper, ground)
        walk = np.array([(spot.x, spot.y) for spot in spots])
    else:
        walk = _meander(setting.bed)
    bead = setting.bead
    strokes = () if walks else (_prime(setting, ground), *(_lay(spot, bead) for spot in spots))
    if ground.refused:
        travel = max(way_over(setting.bed, setting.lift), UNKNOWN_STOP + tallest(setting.bed))
        cautions = (remark("first_layer.stops_high", why=ground.refused, z=UNKNOWN_STOP),)
        return TestPrint(kind, setting, tuple(spots), (), walk, nozzle, travel, cautions)
    travel = safe_height(way_over(setting.bed, setting.lift), ground.highest() + tallest(setting.bed))
    more = (*ground.reasons, *_below_zero(spots, ground))
    made = TestPrint(kind, setting, tuple(spots), strokes, walk, nozzle, travel, more)
    _refuse(made, ground)
    return made


def _below_zero(spots: Sequence[Spot], ground: Ground) -> list[Remark]:
    """Say so when a place is printed below the machine's own zero."""
    lowest = min((spot.z for spot in spots), default=0.0)
    if lowest >= 0:
        return []
    return [remark("first_layer.below_zero", lowest=lowest, zero=ground.zero)]


def patch_places(bed: Bed) -> list[tuple[str, float, float]]:
    """Where corner and centre patches lie, in the order in which they are printed.

    An eighth of the bed in from its corners, or beside what stands in the way there.

    Returns
    -------
    list of (name, x, y)
        mm

    Examples
    --------
    >>> patch_places(Bed(240, 200))[:2]
    [('front left', 30.0, 25.0), ('front right', 210.0, 25.0)]
    """
    dx, dy = bed.width / 8, bed.depth / 8
    x0, x1, y0, y1 = bed.x_min + dx, bed.x_max - dx, bed.y_min + dy, bed.y_max - dy
    wish = [(x0, y0), (x1, y0), bed.centre, (x1, y1), (x0, y1)]
    names = (CORNERS[0], CORNERS[1], "middle", CORNERS[2], CORNERS[3])
    size = _patch_size(bed)
    room, rim = TIP_ROOM + size / 2, PATCH_RIM + size / 2
    area = (bed.x_min + rim, bed.y_min + rim, bed.x_max - rim, bed.y_max - rim)
    result = clear_of(bed, wish, room=room, area=area)
    return [(name, *place) for name, place in zip(names, result, strict=True) if place]


def _patch_size(bed: Bed) -> float:
    return min(PATCH, 2 * (min(bed.width, bed.depth) / 8 - PATCH_RIM))


def _patches(setting: Setting) -> list[Spot]:
    size = _patch_size(setting.bed)
    return [
        _spot(setting, i, x, y, size, name=name)
        for i, (name, x, y) in enumerate(patch_places(setting.bed), 1)
    ]


def _ladder(setting: Setting, shifts: Sequence[float]) -> list[Spot]:
    if not 2 <= len(shifts) <= 15:
        raise OutOfRangeError("first_layer.ladder_patches_2")
    columns = math.ceil(math.sqrt(len(shifts)))
    rows = math.ceil(len(shifts) / columns)
    pitch = RUNG + BETWEEN
    cx, cy = setting.bed.centre
    results = []
    for i, shift in enumerate(shifts):
        row, column = divmod(i, columns)
        x = cx + pitch * (column - (columns - 1) / 2)
        y = cy + pitch * (row - (rows - 1) / 2)
        results.append(_spot(setting, i + 1, x, y, RUNG, shift, name=f"rung {i + 1}"))
    return results


def _discs(setting: Setting, places: Sequence[tuple[float, float, float]]) -> list[Spot]:
    if not 3 <= len(places) <= 49:
        raise OutOfRangeError("first_layer.print_discs")
    return [_spot(setting, i, x, y, DISC, shift, disc=True) for i, (x, y, shift) in enumerate(places, 1)]


def _spot(
    setting: Setting,
    number: int,
    x: float,
    y: float,
    size: float,
    shift: float = 0.0,
    disc: bool = False,
    name: str = "",
) -> Spot:
    if not all(math.isfinite(value) for value in (x, y, shift)):
        raise NonFiniteError("first_layer.place_height_not_number")
    where = name or place_in_words(setting.bed, x, y).removeprefix("at the ").removeprefix("in the ")
    z = round(setting.bead.height + shift, 4)
    return Spot(number, where, round(x, 3), round(y, 3), size, disc, round(shift, 4), z)


def _stops(bed: Bed, screws: Sequence[tuple[str, float, float]], paper: float, ground: Ground) -> list[Spot]:
    if not (math.isfinite(paper) and 0.02 <= paper <= 1):
        raise OutOfRangeError("first_layer.paper_gauge_mm_thick")
    return [
        Spot(i, name, x, y, 0.0, False, 0.0, _stop_height(ground, x, y, paper))
        for i, (name, x, y) in enumerate(paper_places(bed, screws), 1)
    ]


def _stop_height(ground: Ground, x: float, y: float, paper: float) -> float:
    """Where a tip stops for paper: at its thickness, or higher where the bed may be high, mm."""
    if ground.refused:
        return UNKNOWN_STOP
    clear = ground.highest(np.array([(x, y)])) + TOUCH
    if paper > clear:
        return paper
    return round(math.ceil(clear / STOP_STEP + 1e-6) * STOP_STEP, 4)


def _meander(bed: Bed, rows: int = 5) -> Array:
    x0, y0, x1, y1 = free_area(bed)
    x0, x1 = max(x0, bed.x_min + RIM), min(x1, bed.x_max - RIM)
    ys = np.linspace(max(y0, bed.y_min + RIM), min(y1, bed.y_max - RIM), rows)
    points = []
    for i, y in enumerate(ys):
        ends = (x0, x1)
        points += [(x, float(y)) for x in (ends if i % 2 == 0 else ends[::-1])]
    return np.array(points)


def _prime(setting: Setting, ground: Ground) -> Stroke:
    bed, bead = setting.bed, setting.bead
    ends = _prime_ends(bed)
    z = max(bead.height + PRIME_RAISED, ground.highest(ends) + 2 * TOUCH)
    z = round(math.ceil(1000 * z - 1e-6) / 1000, 4)
    # a fat line: as wide as usual, as high as it is laid; where the bed may be high it hangs, which does no harm
    return Stroke(ends, z, bead.area * z / bead.height)


def _prime_ends(bed: Bed) -> Array:
    """Where the priming line runs: at the front, shifted to where nothing is in the way, else at the back."""
    for share in PRIME_SHARES if bed.keep_off else PRIME_SHARES[:1]:
        length = share * bed.width
        edges = bed.x_min + PRIME_INSET, bed.x_max - PRIME_INSET - length
        middle = bed.centre[0] - length / 2
        starts = sorted(np.linspace(*edges, 41), key=lambda x: abs(x - middle)) if bed.keep_off else []
        for y in (bed.y_min + PRIME_INSET, bed.y_max - PRIME_INSET):
            for x in (middle, *starts):
                ends = [(x, y), (x + length, y)]
                if not crosses(bed, ends, TIP_ROOM):
                    return np.array(ends)
    raise OutOfRangeError("first_layer.clips_stand_along_front")


def _lay(spot: Spot, bead: Bead) -> Stroke:
    fill = fill_disc if spot.round else fill_square
    return Stroke(fill(spot.x, spot.y, spot.size, bead.spacing, bead.width), spot.z, bead.area)


def _refuse(made: TestPrint, ground: Ground) -> None:
    bed, half = made.setting.bed, made.setting.bead.width / 2
    names = ["the priming line", *(f"patch {spot.number}" for spot in made.spots)]
    paths = [(name, s.points, s.z, half) for name, s in zip(names, made.strokes, strict=False)]
    if made.kind == "mesh_walk":
        paths = [("the walk", made.walk, HOVER, 0.0)]
    elif made.kind == "paper_walk":
        paths = [
            (f"the stop at the {spot.name}", made.walk[i : i + 1], spot.z, 0.0)
            for i, spot in enumerate(made.spots)
        ]
    for name, points, z, margin in paths:
        (x0, y0), (x1, y1) = points.min(axis=0) - margin, points.max(axis=0) + margin
        if x0 < bed.x_min - 1e-6 or y0 < bed.y_min - 1e-6 or x1 > bed.x_max + 1e-6 or y1 > bed.y_max + 1e-6:
            raise OutOfRangeError("first_layer.would_outside_printable_area", name=upper_first(name))
        way = crosses(bed, [tuple(point) for point in points], TIP_ROOM)
        if way:
            raise OutOfRangeError(
                "first_layer.would_come_closer_mm",
                name=upper_first(name),
                tip_room=TIP_ROOM,
                name_2=way.name,
            )
        high = ground.highest(points)
        if not keeps_clear(z, high):
            above = high + ground.zero
            raise OutOfRangeError(
                "first_layer.might_touch_higher" if above > TOUCH / 2 else "first_layer.might_touch",
                name=name,
                z=z,
                above=above,
                because=ground.reasons,
            )
