"""A copy of a file with the whole print moved, or turned by quarters; what comes before and after it stays."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files import MOVED, PARKS, PrintFile, Shift, crossing, first_moved
from finchwort.core.printers import Bed
from finchwort.formats.print_file.copying import read_blocks
from finchwort.formats.print_file.editing import NUMBER, Lines, has_word, with_words
from finchwort.formats.print_file.motion import Motion, Reset, Steps
from finchwort.formats.print_file.words import Block

PLACE = re.compile(rb"(?<![A-Za-z_])([XYxy])" + NUMBER)
SLACK = 0.05
"""So little beyond the edge is rounding, mm."""


@dataclass(frozen=True)
class Stretch:
    """Lines of a file that are moved.

    Attributes
    ----------
    first, last : int
        Lines of the file.
    """

    first: int
    last: int


class _Furthest:
    """Furthest places in each direction, with their lines."""

    def __init__(self) -> None:
        self.value = np.array([np.inf, np.inf, -np.inf, -np.inf])
        self.line = np.zeros(4, dtype=np.intp)

    def take(self, place: Column, line: Indices) -> None:
        if not len(line):
            return
        for side in range(4):
            column = place[:, side % 2]
            at = int(np.argmin(column) if side < 2 else np.argmax(column))
            if (column[at] < self.value[side]) if side < 2 else (column[at] > self.value[side]):
                self.value[side], self.line[side] = column[at], line[at]

    def join(self, other: _Furthest) -> None:
        closer = other.value < self.value
        closer[2:] = other.value[2:] > self.value[2:]
        self.value[closer], self.line[closer] = other.value[closer], other.line[closer]


class _Scan:
    """Finds which lines are moved, and what forbids it."""

    def __init__(self, print_: PrintFile) -> None:
        self.start = first_moved(print_)
        layer = print_.layer
        mine = layer.line >= self.start
        places = np.vstack([layer.start[mine], layer.end[mine]])
        self.box = np.concatenate([places.min(axis=0) - PARKS, places.max(axis=0) + PARKS])
        self.first = self.last = 0
        self.runs_on = False
        self.laid, self.ways, self.pending = _Furthest(), _Furthest(), _Furthest()
        self.resets: list[Reset] = []

    def take(self, one: Steps | Reset) -> None:
        if isinstance(one, Reset):
            if not any(one.axes[:2]):
                return
            if one.line < self.start:
                self.first = 0
            else:
                self.resets.append(one)
            return
        moves = one.moves
        flat = np.abs(moves.end - moves.start)[:, :2].max(axis=1) > MOVED
        flat |= moves.turn != 0
        which = np.flatnonzero(one.going & flat)
        if not which.size:
            return
        place, line = moves.end[which, :2], moves.line[which]
        lays = moves.filament[which] > 0
        before = line < self.start
        if not self.first:
            self.first = int(line[0])
            self.runs_on = bool(lays[0])
        far = (place < self.box[:2]).any(axis=1) | (place > self.box[2:]).any(axis=1)
        ends = before & (lays | far)
        if ends.any():
            at = int(np.flatnonzero(ends)[-1]) + 1
            # the print begins with the next way
            self.first = int(line[at]) if at < len(line) else 0
            self.runs_on = at < len(line) and bool(lays[at])
        after = np.flatnonzero(~before)
        if not after.size:
            return
        laid = after[lays[after]]
        cut = int(laid[-1]) + 1 if laid.size else 0
        if laid.size:
            self.last = int(line[laid[-1]])
            self.laid.take(place[laid], line[laid])
            self.ways.join(self.pending)
            self.pending = _Furthest()
        inside = after[after < cut]
        self.ways.take(place[inside], line[inside])
        behind = after[after >= cut]
        self.pending.take(place[behind], line[behind])

    def stretch(self) -> Stretch:
        if not self.last:
            raise ChoiceError("files.move_nothing")
        for one in self.resets:
            if one.line <= self.last:
                if one.home:
                    raise ChoiceError("files.move_home", line=one.line)
                raise ChoiceError("files.move_zero", line=one.line)
        for side in range(4):
            beyond = self.laid.value[side] - self.ways.value[side]
            if (beyond if side < 2 else -beyond) > PARKS:
                raise ChoiceError("files.move_parks", line=int(self.ways.line[side]))
        if self.runs_on:
            raise ChoiceError("files.move_runs_on", line=self.first)
        return Stretch(self.first, self.last)


def find_stretch(pieces: Iterable[bytes], print_: PrintFile) -> Stretch:
    """Find which lines of a file are the print, without purge line and parking.

    Parameters
    ----------
    pieces : iterable of bytes
        Text, unpacked.
    print_ : PrintFile
        What was read of it.

    Raises
    ------
    ChoiceError
        When something between them is not to be moved: homing, zeros that are set, a place to park.
    """
    motion, scan = Motion(), _Scan(print_)
    for block in read_blocks(pieces):
        for one in motion.steps(block):
            scan.take(one)
    return scan.stretch()


class Mover:
    """Says which lines of a file are otherwise when its print is moved.

    Parameters
    ----------
    shift : Shift
    stretch : Stretch
    bed : Bed
        The print stays within it, and clear of what stands in the way.
    half : float
        Half the width of a line, mm.
    """

    def __init__(self, shift: Shift, stretch: Stretch, bed: Bed, half: float) -> None:
        self.shift, self.stretch, self.bed, self.half = shift, stretch, bed, half
        self.motion = Motion()
        self._both = [False, False]

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form.

        Raises
        ------
        OutOfRangeError, ChoiceError
        """
        changed: dict[int, bytes] = {}
        for one in self.motion.steps(block):
            if isinstance(one, Reset):
                continue
            line = one.moves.line
            inside = (line >= self.stretch.first) & (line <= self.stretch.last)
            moved = np.isfinite(block.values[:2, np.searchsorted(block.rows, one.rows)]).any(axis=0)
            moved |= one.moves.turn != 0
            which = np.flatnonzero(inside & moved)
            if which.size:
                self._check(one, which)
                self._write(one, which, lines, changed)
        return changed

    def _check(self, steps: Steps, which: Indices) -> None:
        moves = steps.moves.chosen(which)
        of, begin, finish = moves.straightened()
        start, end = self.shift.at(begin[:, :2]), self.shift.at(finish[:, :2])
        bed = self.bed
        half = np.where(moves.filament > 0, self.half, 0.0)[of] - SLACK
        out = (end[:, 0] < bed.x_min + half) | (end[:, 0] > bed.x_max - half)
        out |= (end[:, 1] < bed.y_min + half) | (end[:, 1] > bed.y_max - half)
        if out.any():
            raise OutOfRangeError("files.move_outside", line=int(moves.line[of[np.argmax(out)]]))
        low = np.minimum(begin[:, 2], finish[:, 2])
        if not any(self._both):
            # the first way comes from where nothing was moved
            start[0] = begin[0, :2]
        for place in bed.keep_off:
            near = np.flatnonzero(low < place.height)
            hit = crossing(start[near], end[near], place)
            if hit.any():
                line = int(moves.line[of[near[np.argmax(hit)]]])
                raise OutOfRangeError("files.move_clip", name=place.name, line=line)

    def _write(self, steps: Steps, which: Indices, lines: Lines, changed: dict[int, bytes]) -> None:
        moves, shift = steps.moves, self.shift
        end = (shift.at(moves.end[which, :2]) - steps.shift[:2]) / steps.scale[which][:, None]
        way = shift.turned(moves.end[which, :2] - moves.start[which, :2]) / steps.scale[which][:, None]
        middle = shift.turned(moves.middle[which] - moves.start[which, :2]) / steps.scale[which][:, None]
        odd = shift.turn % 4 != 0
        relative = steps.relative[which].tolist()
        turns, ends, placed = moves.turn[which].tolist(), (np.round(end, 6) + 0.0).tolist(), all(self._both)
        digits = [4 if unit == 1 else 6 for unit in steps.scale[which].tolist()]
        for k, number in enumerate(moves.line[which].tolist()):
            if relative[k]:
                if not all(self._both):
                    raise ChoiceError("files.move_relative", line=number)
                if not odd:
                    continue
            line = lines[number]
            if placed and not odd and is_plain(line):
                words_of = {b"X": b"%.*f" % (digits[k], ends[k][0]), b"Y": b"%.*f" % (digits[k], ends[k][1])}
                changed[number] = with_places(line, words_of)
                continue
            code = line.split(b";", 1)[0]
            words: dict[bytes, bytes | None] = {}
            for axis, letter in enumerate((b"X", b"Y")):
                if odd or not self._both[axis] or has_word(code, letter):
                    words[letter] = b"%.*f" % (digits[k], way[k, axis] if relative[k] else end[k, axis])
                    self._both[axis] = self._both[axis] or not relative[k]
            placed = all(self._both)
            if odd and turns[k] and not has_word(code, b"R"):
                words[b"I"] = b"%.*f" % (digits[k], middle[k, 0])
                words[b"J"] = b"%.*f" % (digits[k], middle[k, 1])
            changed[number] = with_words(line, words)


def is_plain(line: bytes) -> bool:
    """Whether a line has neither remark nor checksum."""
    return not (b";" in line or b"(" in line or b"*" in line)


def with_places(line: bytes, words: dict[bytes, bytes]) -> bytes:
    """Give a plain line with other numbers behind its X and its Y, where it has them.

    Examples
    --------
    >>> with_places(b"G1 X1.5 E2", {b"X": b"3.0", b"Y": b"4.0"})
    b'G1 X3.0 E2'
    """
    return PLACE.sub(partial(_placed, words), line, count=2)


def _placed(words: dict[bytes, bytes], found: re.Match[bytes]) -> bytes:
    letter = found[1].upper()
    return letter + words[letter]
