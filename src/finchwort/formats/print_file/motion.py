"""Where the tip is after each line: modes, units, zeros that are moved, and arcs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files import MOVED, Moves, arc_middles
from finchwort.formats.print_file.words import (
    AXIS_ONLY,
    CENTRE_X,
    CENTRE_Y,
    LETTER_M,
    RADIUS,
    SET,
    TEN,
    Block,
    E,
    F,
)

INCH = 25.4
"""mm, ISO 6983-1 G20."""
MILLIMETRES, INCHES, HOME = 21 * TEN, 20 * TEN, 28 * TEN
ABSOLUTE, RELATIVE = 90 * TEN, 91 * TEN
FILAMENT_ABSOLUTE, FILAMENT_RELATIVE = LETTER_M + 82 * TEN, LETTER_M + 83 * TEN
MODES = (MILLIMETRES, INCHES, ABSOLUTE, RELATIVE, FILAMENT_ABSOLUTE, FILAMENT_RELATIVE)
MOTIONS = (0, TEN, 2 * TEN, 3 * TEN)
FURTHEST = 1e5
"""No machine reaches further, mm; what lies beyond is taken for a fault of the file."""


@dataclass(frozen=True, eq=False)
class Steps:
    """Lines that move something, or set its zero of the filament, with the way of counting that holds at each.

    Attributes
    ----------
    rows : ndarray of int, shape (n,)
        Lines of the block.
    moves : Moves
        One for each of them.
    going : ndarray of bool, shape (n,)
        Whether it has a way or moves plastic.
    scale : ndarray, shape (n,)
        mm to a unit of the file.
    relative, filament_relative : ndarray of bool, shape (n,)
    before : ndarray, shape (n,)
        What the file counts the filament to be before each line, mm.
    shift : ndarray, shape (3,)
        By how much the zeros were moved, mm.
    """

    rows: Indices
    moves: Moves
    going: Column
    scale: Column
    relative: Column
    filament_relative: Column
    before: Column
    shift: Column


@dataclass(frozen=True)
class Reset:
    """A line that changes what the numbers of places mean.

    Attributes
    ----------
    line : int
        Of the file.
    home : bool
        Whether it goes home; else it moves zeros.
    axes : tuple of bool
        Whether X, Y and Z are concerned.
    """

    line: int
    home: bool
    axes: tuple[bool, bool, bool]


class Motion:
    """Follows the commands of a file, block by block.

    G90 and G91 count for the axes, M82 and M83 for the filament; G91 counts for the filament too.  That is how the
    most widespread machines take them (common practice).
    """

    def __init__(self) -> None:
        self.at = np.zeros(3)
        self.shift = np.zeros(3)
        self.known = np.zeros(3, dtype=bool)
        self.filament = 0.0
        self.speed = float("nan")
        self.scale = 1.0
        self.relative = False
        self.filament_relative = False
        self.motion = TEN
        self.beyond = 0
        """Line of the first place that no machine reaches; 0 when there is none."""
        self.lifted: list[tuple[int, float]] = []
        """Lines that move the zero of the height, and by how much, mm."""

    def follow(self, block: Block) -> Iterator[Moves]:
        """Give the moves of a block, in order, those of no way and no plastic left out."""
        for one in self.steps(block):
            if isinstance(one, Steps):
                yield one.moves if one.going.all() else one.moves.chosen(one.going)

    def steps(self, block: Block) -> Iterator[Steps | Reset]:
        """Give all that moves in a block, in order, and what changes the meaning of its numbers."""
        modes = self._modes(block)
        breaks = block.others[block.code[block.others] == HOME]
        # G92 of the filament alone is a number among others
        sets = block.rows[
            (block.code[block.rows] == SET)
            & (np.isfinite(block.values[:3]).any(axis=0) | ~np.isfinite(block.values[E]))
        ]
        begin = 0
        for i in np.union1d(breaks, sets).tolist():
            until = int(np.searchsorted(block.rows, i))
            if until > begin:
                yield self._advance(block, modes, begin, until)
            begin = until
            line = int(block.number[i])
            if block.code[i] == HOME:
                yield Reset(line, True, self._home(block.line(i)))
            else:
                yield Reset(line, False, self._set(block, modes, begin))
                begin += 1
        if begin < len(block.rows):
            yield self._advance(block, modes, begin, len(block.rows))

    def _modes(self, block: Block) -> tuple[Column, Column, Column]:
        """Scale of lengths, relative axes and relative filament of every row."""
        rows = block.rows
        scale = np.full(len(rows), self.scale)
        relative = np.full(len(rows), self.relative)
        filament = np.full(len(rows), self.filament_relative)
        for i in block.others.tolist():
            if block.code[i] not in MODES:
                continue
            code = int(block.code[i])
            from_ = int(np.searchsorted(rows, i))
            if code in (MILLIMETRES, INCHES):
                self.scale = INCH if code == INCHES else 1.0
                scale[from_:] = self.scale
            elif code in (ABSOLUTE, RELATIVE):
                self.relative = code == RELATIVE
                relative[from_:] = self.relative
            else:
                self.filament_relative = code == FILAMENT_RELATIVE
                filament[from_:] = self.filament_relative
        return scale, relative, filament | relative

    def _home(self, line: bytes) -> tuple[bool, bool, bool]:
        named = [letter in line[3:].upper() for letter in (b"X", b"Y", b"Z")]
        homed = np.array(named) if any(named) else np.ones(3, dtype=bool)
        self.at[homed] = 0.0
        self.shift[homed] = 0.0
        self.known |= homed
        x, y, z = homed.tolist()
        return x, y, z

    def _set(self, block: Block, modes: tuple[Column, Column, Column], row: int) -> tuple[bool, bool, bool]:
        """G92: the place stays, its numbers change."""
        named = np.isfinite(block.values[:, row])
        every = not named[: E + 1].any()
        values = np.nan_to_num(block.values[:, row]) * modes[0][row]
        for axis in range(3):
            if named[axis] or every:
                by = float(self.at[axis] - values[axis])
                if axis == 2 and by and len(self.lifted) < 100:
                    self.lifted.append((int(block.number[block.rows[row]]), by))
                self.shift[axis] += by
                self.at[axis] = values[axis]
        if named[E] or every:
            self.filament = float(values[E])
        x, y, z = (bool(every or named[axis]) for axis in range(3))
        return x, y, z

    def _advance(self, block: Block, modes: tuple[Column, Column, Column], begin: int, until: int) -> Steps:
        rows = block.rows[begin:until]
        code = block.code[rows]
        values = block.values[:, begin:until]
        scale, relative, filament_relative = (mode[begin:until] for mode in modes)
        if self.scale != 1.0 or (scale != 1.0).any():
            values = values * scale
        many = len(rows)
        order = np.arange(many)
        setting = code == SET
        motion = self._motions(code, setting, order)

        setting_any = bool(setting.any())
        places = np.empty((3, many + 1))
        for axis in range(3):
            given = np.isfinite(values[axis])
            if setting_any:
                given &= ~setting
            _register(places[axis], float(self.at[axis]), values[axis], given, relative, order)
        if np.abs(places).max() > FURTHEST:
            wild = np.abs(places[:, 1:]).max(axis=0) > FURTHEST
            self.beyond = self.beyond or int(block.number[rows[int(np.argmax(wild))]])
            np.clip(places, -FURTHEST, FURTHEST, out=places)
        known = self._known(values, setting, relative)

        given = np.isfinite(values[E])
        counted = filament_relative & ~setting if setting_any else filament_relative
        filament = np.empty(many + 1)
        _register(filament, self.filament, values[E], given, counted, order)
        used = np.where(counted, values[E], np.diff(filament))
        used[~given | setting] = 0.0

        last = np.where(np.isfinite(values[F]) & ~setting, order, -1)
        last = np.maximum.accumulate(last)
        speed = np.where(last >= 0, values[F][np.maximum(last, 0)] / 60, self.speed)

        self.at, self.filament, self.speed = places[:, -1].copy(), float(filament[-1]), float(speed[-1])
        if self.shift.any():
            places += self.shift[:, None]
        start, end = places[:, :-1].T, places[:, 1:].T
        turn = np.zeros(many, dtype=np.int8)
        middle = np.zeros((2, many)).T
        turn[motion == 2 * TEN] = 1
        turn[motion == 3 * TEN] = -1
        turn[setting] = 0
        arcs = np.flatnonzero(turn)
        if arcs.size:
            self._arcs(values, arcs, start, end, turn, middle)
        going = (turn != 0) | (used != 0) | (np.abs(np.diff(places)).max(axis=0) > MOVED)
        going &= ~setting
        moves = Moves(start, end, used, speed, block.number[rows], turn, middle, known)
        return Steps(rows, moves, going, scale, relative, filament_relative, filament[:-1], self.shift.copy())

    def _motions(self, code: Indices, setting: Column, order: Indices) -> Indices:
        """Motion of every row; a line of bare axes goes on with the last one."""
        if not setting.any() and not (code == AXIS_ONLY).any():
            self.motion = int(code[-1])
            return code
        last = np.maximum.accumulate(np.where(np.isin(code, MOTIONS), order, -1))
        motion = np.where(last >= 0, code[np.maximum(last, 0)], self.motion)
        self.motion = int(motion[-1])
        return motion

    def _known(self, values: Column, setting: Column, relative: Column) -> Column:
        """Whether X and Y were known before each row."""
        if self.known[:2].all():
            return np.ones(values.shape[1], dtype=bool)
        moved = np.isfinite(values[:3]) & ~setting
        said = np.logical_or.accumulate(moved & ~relative, axis=1)
        before = np.column_stack([np.zeros(3, dtype=bool), said[:, :-1]]) | self.known[:, None]
        self.known |= said[:, -1]
        return np.logical_and(before[0], before[1])

    def _arcs(
        self, values: Column, arcs: Indices, start: Column, end: Column, turn: Column, middle: Column
    ) -> None:
        """Middles of arcs; one that names neither middle nor radius is gone straight."""
        offset = values[[CENTRE_X, CENTRE_Y]][:, arcs]
        by_middle = np.isfinite(offset).any(axis=0)
        by_radius = ~by_middle & np.isfinite(values[RADIUS][arcs]) & (values[RADIUS][arcs] != 0)
        at = arcs[by_middle]
        middle[at] = start[at, :2] + np.nan_to_num(offset[:, by_middle]).T
        at = arcs[by_radius]
        middle[at] = arc_middles(start[at, :2], end[at, :2], values[RADIUS][at], turn[at] > 0)
        turn[arcs[~by_middle & ~by_radius]] = 0
        # an arc without a radius has no way
        at = arcs[np.hypot(*(start[arcs, :2] - middle[arcs]).T) < MOVED]
        turn[at] = 0


def _register(
    register: Column, now: float, values: Column, given: Column, relative: Column, order: Indices
) -> None:
    """Write a number that words set, or add to where they are relative; shape (n + 1,), as it is now first."""
    register[0] = now
    if not given.any():
        register[1:] = now
        return
    adding = given & relative
    some = bool(adding.any())
    if not some and given.all():
        register[1:] = values
        return
    setting = np.maximum.accumulate(
        np.where(given & ~relative, order, -1) if some else np.where(given, order, -1)
    )
    at = np.maximum(setting, 0)
    if not some:
        register[1:] = values[at]
        register[1:][setting < 0] = now
        return
    added = np.cumsum(np.where(adding, values, 0.0))
    register[1:] = np.where(setting >= 0, values[at] + added - added[at], now + added)
