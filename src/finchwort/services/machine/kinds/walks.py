"""Jobs in which the head travels over the bed: parking, touches at one place, a warm-up, a whole survey."""

from __future__ import annotations

import math
import time
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.wording import duration, micro
from finchwort.core.compensation import survey_minutes
from finchwort.core.printers import TIP_ROOM, Bed, blocked, clear_of, free_place, suggest_screw_points
from finchwort.core.probing import (
    MAX_SPOTS,
    MAX_TOUCHES,
    MIN_TOUCHES,
    fit_soak,
    fit_soak_around,
    grid_points,
    in_reach,
    reach,
    touched_again,
    walking_order,
)
from finchwort.core.probing import MIN_READINGS as MIN_SOAK
from finchwort.messages.probing import around_sentence, soak_sentence
from finchwort.services.machine.kinds.base import (
    MOVES,
    STILL_HOT,
    Asked,
    JobType,
    Known,
    home_first,
    number,
    refuse_without_probe,
)
from finchwort.services.machine.port import Desk, MachinePort
from finchwort.store.errors import ConflictError
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import JobReading, Printer
from finchwort.store.printers.printers import bed_of

MAX_POINTS = 625
SOAK_EVERY, SOAK_LONGEST = 30.0, 2400.0
"""Usual pause between readings of a warm-up, and its longest duration, s."""
MAX_SOAK = 200
"""So many readings a warm-up has at the most."""
LEAST_SOAK = 8
"""And so many before it is believed to be steady."""
HOMING = 0.4
"""Homing takes about so long, minutes (common practice)."""
INSET = 15.0
"""Usual distance of a grid from the edges, mm."""


@dataclass(frozen=True)
class Park(JobType):
    """Take the head over a place.

    Attributes
    ----------
    x, y : float
        mm
    name : str
    highest : float or None
        The highest ground there may be against Z = 0, mm.
    """

    kind = JobKind.PARK
    homes = walks = True
    needs = ("home",)

    x: float
    y: float
    name: str = ""
    highest: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``x``, ``y`` (mm), ``name``."""
        x, y = number(wish, "x"), number(wish, "y")
        bed = bed_of(printer)
        x, y = min(max(x, bed.x_min), bed.x_max), min(max(y, bed.y_min), bed.y_max)
        name = str(wish.get("name") or f"x {x:g}, y {y:g} mm")
        sentence = (
            f"Lift the head of {printer.name} and take it over {name}, after homing when that was not done."
        )
        return Asked(cls(x, y, name, known.highest), sentence, (MOVES,), moves=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        if not machine.homed:
            home_first(desk, machine)
        machine.park(self.x, self.y)
        return f"The head is over {self.name or 'the place'}."


@dataclass(frozen=True)
class Repeatability(JobType):
    """Touch one place again and again.

    Attributes
    ----------
    x, y : float
        mm
    count : int
    highest : float or None
        See `Park`.
    """

    kind = JobKind.REPEATABILITY
    homes = walks = steps = True
    needs = ("home", "probe")
    keeps = 3

    x: float
    y: float
    count: int
    highest: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``x``, ``y`` (mm; the middle), ``count``."""
        refuse_without_probe(printer)
        x, y = _place(printer, wish)
        count = int(wish.get("count", 10))
        if not MIN_TOUCHES <= count <= MAX_TOUCHES:
            raise OutOfRangeError("machine.test_touches", min_touches=MIN_TOUCHES, max_touches=MAX_TOUCHES)
        sentence = f"Home {printer.name}, then touch the bed at x {x:g}, y {y:g} mm {count} times."
        minutes = survey_minutes([(x, y)] * count, seconds=known.seconds) + HOMING
        job = cls(x, y, count, known.highest)
        return Asked(job, sentence, (MOVES, STILL_HOT), total=count, moves=True, minutes=minutes)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        home_first(desk, machine)
        desk.warmth(machine.temperatures())
        machine.deploy()
        for place in range(self.count):
            desk.between()
            machine.lift()
            height = machine.touch(self.x, self.y)
            told = f"Touch {place + 1} of {self.count}: {micro(height, signed=True)}."
            desk.keep(place, self.x, self.y, height, told)
        machine.stow()
        machine.lift()
        return desk.conclude()


@dataclass(frozen=True)
class Soak(JobType):
    """Touch one place, or several in turn, in intervals until it stands still.

    Attributes
    ----------
    x, y : float
        mm
    every, longest : float
        Pause between two readings, and how long it goes on at most, s.
    until_steady : bool
        Whether it ends as soon as it stands still.
    most : int
        Readings at most.
    spots : list of [x, y]
        Places in turn, mm; none for the one place.
    highest : float or None
        See `Park`.
    """

    kind = JobKind.SOAK
    homes = walks = steps = True
    needs = ("home", "probe")
    keeps = 4

    x: float
    y: float
    every: float
    longest: float
    until_steady: bool = True
    most: int = MAX_SOAK
    spots: list[list[float]] = field(default_factory=list)
    highest: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``x``, ``y`` or ``places`` (how many in turn), ``every``, ``longest`` (s), ``until_steady``."""
        refuse_without_probe(printer)
        x, y = _place(printer, wish)
        every = float(wish.get("every", SOAK_EVERY))
        longest = float(wish.get("longest", SOAK_LONGEST))
        if not 2 <= every <= 600 or not every <= longest <= 4 * 3600:
            raise OutOfRangeError("machine.readings_apart_up_four")
        if longest > 60 * printer.longest_heat:
            raise OutOfRangeError("machine.watch_minutes_most_heaters", longest_heat=printer.longest_heat)
        until = bool(wish.get("until_steady", True))
        spots = _spots(printer, int(wish.get("places") or 1))
        where = (
            f"at {len(spots)} places in turn, one of them every {every:g} s, "
            if spots
            else f"at x {x:g}, y {y:g} mm every {every:g} s, "
        )
        still = "until its shape stands, " if spots else "until it stands still, "
        sentence = f"Home {printer.name}, then touch the bed {where}{still if until else ''}for {duration(longest)} at most."
        job = cls(x, y, every, longest, until, MAX_SOAK, [list(spot) for spot in spots], known.highest)
        return Asked(job, sentence, (MOVES, STILL_HOT), moves=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        home_first(desk, machine)
        times: list[float] = []
        heights: list[float] = []
        at: list[int] = []
        machine.deploy()
        while True:
            desk.between()
            machine.lift()
            begun = time.monotonic()
            at.append(len(heights) % len(self.spots) if self.spots else 0)
            x, y = self.spots[at[-1]] if self.spots else (self.x, self.y)
            heights.append(machine.touch(x, y))
            times.append(desk.seconds())
            state, words = self._judge(times, heights, at)
            told = f"Reading {len(heights)}: {micro(heights[-1], signed=True)}.{words}"
            desk.keep(len(heights) - 1, x, y, heights[-1], told)
            desk.warmth(machine.temperatures())
            if len(heights) >= self.most or times[-1] >= self.longest:
                break
            if state == "steady" and self.until_steady and len(heights) >= LEAST_SOAK:
                break
            machine.pause(max(0.0, self.every - (time.monotonic() - begun)))
        machine.stow()
        machine.lift()
        return desk.conclude()

    def _judge(
        self, times: Sequence[float], heights: Sequence[float], at: Sequence[int]
    ) -> tuple[str | None, str]:
        """Whether it stands still by now, and what is said of that."""
        if self.spots and len(heights) >= (MIN_SOAK + 2) * len(self.spots):
            around = fit_soak_around(times, heights, at, [(x, y) for x, y in self.spots])
            return around.state, f" {around_sentence(around)}"
        if not self.spots and len(heights) >= MIN_SOAK:
            still = fit_soak(times, heights)
            return still.state, f" {soak_sentence(still)}"
        return None, ""


@dataclass(frozen=True)
class Grid(JobType):
    """Probe places one after the other.

    Attributes
    ----------
    points : list of [x, y]
        Places, mm, in the order in which they are probed.
    again : list of [x, y]
        Of these, those that are touched once more at the end, to see whether it drifts.
    check : dict or None
        A place with its height (``x``, ``y``, ``height``, mm) that ties this walk to one that broke off.
    highest : float or None
        See `Park`.
    """

    kind = JobKind.GRID
    homes = walks = steps = True
    needs = ("home", "probe")
    keeps = 3

    points: list[list[float]]
    again: list[list[float]] = field(default_factory=list)
    check: dict[str, float] | None = None
    highest: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``points`` (mm), or ``columns``, ``rows`` and ``inset`` (mm)."""
        refuse_without_probe(printer)
        bed, probe = bed_of(printer), (printer.probe_dx, printer.probe_dy)
        points = [(float(x), float(y)) for x, y in wish.get("points") or ()]
        if not points and (wish.get("columns") is None) != (wish.get("rows") is None):
            raise ChoiceError("machine.grid_needs_columns_rows")
        if not points and wish.get("columns"):
            points = grid_points(
                bed, int(wish["columns"]), int(wish["rows"]), float(wish.get("inset", INSET)), *probe
            )
        if not 3 <= len(points) <= MAX_POINTS:
            raise OutOfRangeError("machine.survey_probes_places", max_points=MAX_POINTS)
        if not all(map(math.isfinite, (v for point in points for v in point))):
            raise NonFiniteError("machine.place_not_number")
        if len(set(points)) < len(points):
            raise ChoiceError("machine.place_twice")
        beyond = in_reach(bed, *probe, points).count(False)
        if beyond:
            x0, y0, x1, y1 = reach(bed, *probe)
            raise OutOfRangeError(
                "machine.probe_does_not_reach_places",
                beyond=beyond,
                count=len(points),
                x0=x0,
                x1=x1,
                y0=y0,
                y1=y1,
            )
        _refuse_blocked(bed, probe, points)
        if not wish.get("columns"):
            points = [points[i] for i in walking_order(points)]
        again = touched_again(points)
        job = cls([list(point) for point in points], [list(point) for point in again], highest=known.highest)
        minutes = survey_minutes([*points, *again], seconds=known.seconds) + HOMING
        drift = f" and the first {len(again)} once more to see whether it drifts" if again else ""
        return Asked(
            job,
            f"Home {printer.name}, then probe {len(points)} places on the bed{drift}, about {duration(60 * minutes)}.",
            (MOVES, STILL_HOT),
            total=len(points) + len(again),
            moves=True,
            minutes=minutes,
        )

    @classmethod
    def ask_rest(
        cls, printer: Printer, readings: Sequence[JobReading], planned: Sequence[Sequence[float]]
    ) -> Asked:
        """Say how the rest is probed of a walk that was broken off; one known place is touched again to tie the two together.

        Parameters
        ----------
        printer : Printer
        readings : sequence of JobReading
            All read so far, of those it resumed too.
        planned : sequence of (x, y)
            All places that were wanted, mm.

        Raises
        ------
        ConflictError
        """
        read = {(round(r.x, 3), round(r.y, 3)) for r in readings}
        left = [
            (float(point[0]), float(point[1]))
            for point in planned
            if (round(point[0], 3), round(point[1], 3)) not in read
        ]
        in_the_way = blocked(bed_of(printer), left, (printer.probe_dx, printer.probe_dy))
        free = [[*point] for point, way in zip(left, in_the_way, strict=True) if way is None]
        if not free:
            raise ConflictError("Every place was read already: keep these readings.")
        check, tie = None, ""
        if readings:
            last = readings[-1]
            check = {"x": last.x, "y": last.y, "height": last.height}
            tie = f"touch x {last.x:g}, y {last.y:g} mm once more to tie on to what was read, "
        highest = max((r.height for r in readings), default=None)
        return Asked(
            cls(free, check=check, highest=highest),
            f"Home {printer.name}, {tie}then probe the {len(free)} places that are left.",
            (MOVES, STILL_HOT),
            total=len(free),
            moves=True,
        )

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        home_first(desk, machine)
        desk.warmth(machine.temperatures())
        points = [*self.points, *self.again]
        machine.deploy()
        shift = 0.0
        if self.check:
            machine.lift()
            shift = machine.touch(self.check["x"], self.check["y"]) - self.check["height"]
            desk.tell(shift=shift)
        for place, (x, y) in enumerate(points):
            desk.between()
            machine.lift()
            height = machine.touch(x, y) - shift
            told = f"{place + 1} of {len(points)}: {micro(height, signed=True)} at x {x:g}, y {y:g}."
            desk.keep(place, x, y, height, told)
        machine.stow()
        machine.lift()
        return desk.conclude()


def _spots(printer: Printer, count: int) -> list[tuple[float, float]]:
    """Places to touch in turn: near the screws and the middle, as far as the probe reaches; none for a single place."""
    if count < 2:
        return []
    if count > MAX_SPOTS:
        raise OutOfRangeError("machine.up_places_read_turn", max_spots=MAX_SPOTS)
    bed, probe = bed_of(printer), (printer.probe_dx, printer.probe_dy)
    x0, y0, x1, y1 = reach(bed, *probe)
    near = suggest_screw_points(bed, [(screw.x, screw.y) for screw in printer.screws])
    within = [(round(min(max(x, x0), x1), 2), round(min(max(y, y0), y1), 2)) for x, y in near]
    held = [place for place in clear_of(bed, within, probe=probe, area=(x0, y0, x1, y1)) if place]
    if not held:
        raise OutOfRangeError("machine.clips_leave_no_place")
    # the middle is the last of them and always among those chosen
    return list(dict.fromkeys([*held[: count - 1], held[-1]]))


def _refuse_blocked(bed: Bed, probe: tuple[float, float], points: Sequence[tuple[float, float]]) -> None:
    """Refuse places where something stands in the way of probe or nozzle."""
    in_the_way = [what for what in blocked(bed, points, probe) if what]
    if in_the_way:
        names = " and ".join(dict.fromkeys(what.name for what in in_the_way))
        raise OutOfRangeError(
            "machine.places_within_mm_probe",
            count=len(in_the_way),
            count_2=len(points),
            tip_room=TIP_ROOM,
            names=names,
        )


def _place(printer: Printer, wish: Mapping[str, Any]) -> tuple[float, float]:
    """The place that is wished, or the one nearest to the middle that the probe can touch, mm."""
    bed = bed_of(printer)
    probe = (printer.probe_dx, printer.probe_dy)
    if wish.get("x") is None or wish.get("y") is None:
        x0, y0, x1, y1 = reach(bed, *probe)
        cx, cy = bed.centre
        place = round(min(max(cx, x0), x1), 2), round(min(max(cy, y0), y1), 2)
        held = free_place(bed, *place, probe=probe, area=(x0, y0, x1, y1), most=math.inf)
        if held is None:
            raise OutOfRangeError("machine.clips_leave_no_place")
        return held
    x, y = number(wish, "x"), number(wish, "y")
    if not in_reach(bed, *probe, [(x, y)])[0]:
        raise OutOfRangeError("machine.probe_does_not_reach", x=x, y=y)
    _refuse_blocked(bed, probe, [(x, y)])
    return x, y
