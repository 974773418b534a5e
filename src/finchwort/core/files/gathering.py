"""What is kept of the moves of a print: sums, how high it grows where, and the lowest layers whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.moves import MOVED, Moves

LOW_LEVELS = 3
"""So many of the lowest levels are kept whole: a priming line, the first layer, and the one above it (ours)."""
MAX_SEGMENTS = 600_000
"""Straight lines of one level; more are refused."""
CELL = 1.0
"""How high the print grows is kept in squares of this side, mm."""
REACH = (-1050.0, 2050.0)
"""Places beyond are kept nowhere, mm: no bed is as large."""
SIDE = int((REACH[1] - REACH[0]) / CELL)
"""Squares along a side; what lies beyond counts to the outermost."""
COARSE, FINE = 4.0, 2.0
"""Higher than the second above the lowest plastic, moves are looked at in steps of the first, mm."""
BASE = 100.0
"""Added to heights in the map, so that nothing is nought."""
AWAY = ((0, -REACH[0]), (1, -REACH[0]), (2, BASE))
"""What is added along each axis, so that the map begins at nought, mm."""
LOW = 40.0
"""Ways lower than this can meet something that stands on the bed, mm (the tallest place to keep off)."""
MOST_SAMPLES = 64
"""Places looked at along one move."""
LEVEL = 1000
"""Levels are told apart to a thousandth of a mm."""
MAX_LEVELS = 100_000
SLOPE = 1e-3
"""A move that rises more is not part of a level, mm."""
HIGH_SLOPES, SLOPE_STEP = 20.0, 0.05
"""Up to the first plastic laid while rising or falling is counted, in steps of the second, mm."""
ACCELERATION, JUMP = 1000.0, 8.0
"""Usual acceleration (mm/s²), and the change of speed taken at once (mm/s; common practice)."""
RATES = np.arange(0.0, 60.5, 0.5)
"""Edges of the bins of volume per second, mm³/s."""


@dataclass
class Extreme:
    """The furthest place of one kind on one side."""

    value: float = float("nan")
    line: int = 0


@dataclass(frozen=True, eq=False)
class Level:
    """Straight lines of plastic, and ways between them, at one height.

    Attributes
    ----------
    z : float
        mm
    start, end : ndarray, shape (n, 2)
        mm
    area : ndarray, shape (n,)
        Section of the plastic, mm²; 0 for a way without.
    speed : ndarray, shape (n,)
        mm/s
    line : ndarray of int, shape (n,)
        Of the file.
    path : ndarray of int, shape (n,)
        The same for lines that follow each other without a way between.
    """

    z: float
    start: Column
    end: Column
    area: Column
    speed: Column
    line: Indices
    path: Indices

    @property
    def length(self) -> Column:
        """Of each line, mm."""
        return np.hypot(self.end[:, 0] - self.start[:, 0], self.end[:, 1] - self.start[:, 1])

    def chosen(self, which: Column | slice) -> Level:
        """Give some of the lines."""
        return Level(
            self.z,
            self.start[which],
            self.end[which],
            self.area[which],
            self.speed[which],
            self.line[which],
            self.path[which],
        )


class Gathering:
    """Takes the moves of a file piece by piece, and keeps little.

    Parameters
    ----------
    section : float
        Of the filament, mm².
    """

    def __init__(self, section: float) -> None:
        self.section = section
        self.filament = 0.0
        self.seconds = 0.0
        self.moves = self.laid = 0
        self.path = 0
        self.levels: dict[int, float] = {}
        """Length of plastic at each level, mm; keys are thousandths of a mm."""
        self.fine = float("inf")
        self.sloped = 0.0
        """Length of plastic laid while rising or falling, mm."""
        self.slopes = np.zeros(round(HIGH_SLOPES / SLOPE_STEP))
        """The same by height, in steps of ``SLOPE_STEP``."""
        self.low: dict[int, list[tuple[Column, ...]]] = {}
        self.counts: dict[int, int] = {}
        self.highest: Column = np.zeros((SIDE, SIDE), dtype=np.float32)
        self.lowest: Column = np.zeros((SIDE, SIDE), dtype=np.float32)
        self.lowest_line: Column = np.zeros((SIDE, SIDE), dtype=np.int32)
        self.plastic = [Extreme() for _ in range(4)]
        self.ways = [Extreme() for _ in range(4)]
        """Least X, least Y, greatest X, greatest Y."""
        self.rates: Column = np.zeros(len(RATES))
        """Seconds spent at each volume per second."""
        self.fastest = Extreme()
        """Volume per second of a move of 2 mm or more, mm³/s."""
        self._before = np.zeros(3)

    def add(self, moves: Moves) -> None:
        """Take the next moves.

        Raises
        ------
        OutOfRangeError
            When a low level has more lines than are kept.
        """
        if not len(moves):
            return
        flat, full = moves.lengths()
        laid = (moves.filament > 0) & (flat > MOVED)
        self.moves += len(moves)
        self.laid += int(laid.sum())
        self.filament += float(moves.filament.sum())
        self._time(moves, full, flat, laid)
        going = ~laid & (flat > MOVED)
        path = self.path + np.cumsum(going)
        self.path = int(path[-1])
        self._extremes(moves, laid, going)
        if laid.any():
            self.fine = min(self.fine, float(moves.end[laid, 2].min()) + FINE)
        self._maps(moves, flat, laid, going)
        if laid.any():
            self._keep(moves, flat, laid, path)

    def rescale(self, section: float) -> None:
        """Count all plastic again for a filament of another section (mm²), when the file tells it late."""
        factor = section / self.section
        self.section = section
        bins = np.minimum((np.arange(len(RATES)) * factor).astype(np.intp), len(RATES) - 1)
        self.rates = np.bincount(bins, weights=self.rates, minlength=len(RATES))
        self.fastest.value *= factor
        for kept in self.low.values():
            kept[:] = [(a, b, area * np.float32(factor), *rest) for a, b, area, *rest in kept]

    def _time(self, moves: Moves, full: Column, flat: Column, laid: Column) -> None:
        """About how long the moves take: their way at their speed, and what changes of speed cost."""
        speed = np.nan_to_num(moves.speed)
        still = speed <= 0
        safe = np.where(still, 1.0, speed)
        way = np.where(full > MOVED, full, np.abs(moves.filament))
        per = safe / np.maximum(full, MOVED)
        change = np.zeros(len(moves))
        for axis in range(3):
            along = (moves.end[:, axis] - moves.start[:, axis]) * per
            step = np.diff(along, prepend=self._before[axis])
            change += step * step
            self._before[axis] = along[-1]
        change = np.sqrt(change)
        lost = np.maximum(change - JUMP, 0.0) / (2 * ACCELERATION)
        # a short move never reaches its speed
        lost = np.minimum(lost, 2 * np.sqrt(way / ACCELERATION))
        seconds = np.where(still, 0.0, way / safe + lost)
        self.seconds += float(seconds.sum())
        if not laid.any():
            return
        rate = moves.filament[laid] * self.section / flat[laid] * safe[laid]
        bins = np.clip((rate * 2).astype(np.intp), 0, len(RATES) - 1)
        self.rates += np.bincount(bins, weights=flat[laid] / safe[laid], minlength=len(RATES))
        long = flat[laid] >= 2.0
        if long.any():
            at = int(np.argmax(np.where(long, rate, -1.0)))
            if not rate[at] <= self.fastest.value:
                self.fastest = Extreme(float(rate[at]), int(moves.line[laid][at]))

    def _extremes(self, moves: Moves, laid: Column, going: Column) -> None:
        for kept, which in ((self.plastic, laid), (self.ways, going)):
            at = np.flatnonzero(which)
            if not at.size:
                continue
            for side, values in enumerate((moves.end[at, 0], moves.end[at, 1])):
                for sign, place in ((1, side), (-1, side + 2)):
                    if sign * kept[place].value <= (values.min() if sign > 0 else -values.max()):
                        continue
                    i = int(np.argmin(sign * values))
                    kept[place] = Extreme(float(values[i]), int(moves.line[at[i]]))

    def _maps(self, moves: Moves, flat: Column, laid: Column, going: Column) -> None:
        """Note how high plastic lies, and how low ways lead, square by square."""
        which = np.flatnonzero(
            laid | (going & moves.known & (np.minimum(moves.start[:, 2], moves.end[:, 2]) < LOW))
        )
        curved = moves.turn[which] != 0
        low = moves.end[which, 2] < self.fine
        cell = np.where(low, CELL, COARSE)
        long = curved | (flat[which] > 1.5 * cell)
        short = which[~long]
        # of a short move its end says enough
        self._note([moves.end[:, axis][short] + away for axis, away in AWAY], laid[short], moves.line[short])
        part = moves.chosen(which[long])
        of_move, begin, finish = part.straightened()
        way = finish - begin
        cell = cell[long][of_move]
        many = np.clip(np.ceil(np.sqrt(way[:, 0] ** 2 + way[:, 1] ** 2) / cell), 1, MOST_SAMPLES).astype(
            np.intp
        )
        last = np.cumsum(many)
        step = np.arange(last[-1] if last.size else 0) - np.repeat(last - many - 0.5, many)
        self._note(
            [
                np.repeat(begin[:, axis] + away, many) + step * np.repeat(way[:, axis] / many, many)
                for axis, away in AWAY
            ],
            np.repeat(laid[which[long]][of_move], many),
            np.repeat(part.line[of_move], many),
        )

    def _note(self, places: Sequence[Column], plastic: Column, line: Indices) -> None:
        """Note places (x, y, z), all counted from the map's corner and ``BASE``."""
        x, y, z = places
        if not x.size:
            return
        column = np.clip(x, 0, SIDE - CELL).astype(np.int64)
        row = np.clip(y, 0, SIDE - CELL).astype(np.int64)
        cell = row * SIDE + column
        height = z.astype(np.float32)
        highest, lowest = self.highest.reshape(-1), self.lowest.reshape(-1)
        laid = cell if plastic.all() else cell[plastic]
        top = height if len(laid) == len(cell) else height[plastic]
        if len(top) and (np.diff(top) >= 0).all():
            # growing only: the last of a square is its highest
            highest[laid] = np.maximum(highest[laid], top)
        else:
            np.maximum.at(highest, laid, top)
        if z.min() >= LOW + BASE:
            return
        was = lowest[cell]
        lower = np.flatnonzero((height < LOW + BASE) & ((was == 0) | (height < was)))
        if lower.size:
            if np.ptp(height[lower]) > 0:
                lower = lower[np.argsort(-height[lower], kind="stable")]
            lowest[cell[lower]] = height[lower]
            self.lowest_line.reshape(-1)[cell[lower]] = line[lower]

    def _keep(self, moves: Moves, flat: Column, laid: Column, path: Indices) -> None:
        even = np.abs(moves.end[:, 2] - moves.start[:, 2]) < SLOPE
        slanted = laid & ~even
        if slanted.any():
            self.sloped += float(flat[slanted].sum())
            height = np.maximum(moves.start[slanted, 2], moves.end[slanted, 2])
            low = height < HIGH_SLOPES
            bins = np.clip(height[low] / SLOPE_STEP, 0, len(self.slopes) - 1).astype(np.intp)
            self.slopes += np.bincount(bins, weights=flat[slanted][low], minlength=len(self.slopes))
        key = np.rint(moves.end[:, 2] * LEVEL).astype(np.int64)
        at = np.flatnonzero(laid & even)
        if not at.size:
            return
        found, which = np.unique(key[at], return_inverse=True)
        for level, length in zip(found.tolist(), np.bincount(which, weights=flat[at]).tolist(), strict=True):
            if level in self.levels or len(self.levels) < MAX_LEVELS:
                self.levels[level] = self.levels.get(level, 0.0) + length
        for level in found.tolist():
            if level not in self.low:
                if len(self.low) >= LOW_LEVELS and level > max(self.low):
                    continue
                self.low[level], self.counts[level] = [], 0
                if len(self.low) > LOW_LEVELS:
                    highest = max(self.low)
                    del self.low[highest], self.counts[highest]
                    if highest == level:
                        continue
            self._keep_level(moves, (key == level) & even, laid, path, level)

    def _keep_level(self, moves: Moves, here: Column, laid: Column, path: Indices, level: int) -> None:
        part, of_path = moves.chosen(here), path[here]
        which, begin, finish = part.straightened()
        length = np.hypot(finish[:, 0] - begin[:, 0], finish[:, 1] - begin[:, 1])
        # of an arc the plastic is spread over all its lines
        flat = np.bincount(which, weights=length, minlength=len(part))
        area = np.where(laid[here], part.filament * self.section / np.maximum(flat, MOVED), 0.0)
        some = length > MOVED
        self.counts[level] += int(some.sum())
        if self.counts[level] > MAX_SEGMENTS:
            raise OutOfRangeError("files.layer_too_fine", most=MAX_SEGMENTS)
        which = which[some]
        self.low[level].append(
            (
                begin[some, :2].astype(np.float32),
                finish[some, :2].astype(np.float32),
                area[which].astype(np.float32),
                part.speed[which].astype(np.float32),
                part.line[which].astype(np.int32),
                of_path[which].astype(np.int32),
            )
        )

    def level(self, key: int) -> Level:
        """Give one of the lowest levels."""
        start, end, area, speed, line, path = (
            np.concatenate(one) for one in zip(*self.low[key], strict=True)
        )
        return Level(
            key / LEVEL,
            start.astype(np.float64),
            end.astype(np.float64),
            area.astype(np.float64),
            speed.astype(np.float64),
            line.astype(np.intp),
            path.astype(np.intp),
        )

    def sloped_below(self, z: float) -> float:
        """Length of plastic laid while rising or falling lower than a height, mm."""
        return float(self.slopes[: max(int(z / SLOPE_STEP), 0)].sum())

    def height_at(self, place: Column) -> Column:
        """How high plastic lies at places, shape (n, 2), mm; minus infinity where there is none."""
        height = self.highest.reshape(-1)[cells(place)].astype(np.float64) - BASE
        return np.where(height > -BASE, height, -np.inf)


def cells(place: Column) -> Indices:
    """Squares of the map that places, shape (n, 2), lie in."""
    column = np.clip((place - REACH[0]) / CELL, 0, SIDE - 1).astype(np.intp)
    return column[:, 1] * SIDE + column[:, 0]
