"""A copy of a file with one part moved; the others stay, and the ways between them lead to where it stands."""

from __future__ import annotations

import math

import numpy as np
from scipy import ndimage

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files import MOVED, FirstLayer, Regions, Shift, crossing
from finchwort.core.printers import Bed
from finchwort.formats.print_file.editing import Lines, has_word, with_words
from finchwort.formats.print_file.motion import Motion, Reset, Steps
from finchwort.formats.print_file.moved import SLACK, Stretch, is_plain, with_places
from finchwort.formats.print_file.words import SET, Block

SINKS = 2.0
"""A print that goes on so much lower than it was lays one part after the other, mm (ours)."""
CELL = 0.5
"""Squares in which plastic is looked for, mm."""


class _Plastic:
    """Squares of a bed that plastic lies on, at any height."""

    def __init__(self, bed: Bed) -> None:
        self.corner = np.array([bed.x_min, bed.y_min])
        self.there: Column = np.zeros(
            (math.ceil(bed.depth / CELL) + 1, math.ceil(bed.width / CELL) + 1), dtype=bool
        )

    def take(self, start: Column, end: Column) -> None:
        way = end - start
        many = np.maximum(np.ceil(np.hypot(way[:, 0], way[:, 1]) / CELL), 1).astype(np.intp)
        which = np.repeat(np.arange(len(many)), many)
        last = np.cumsum(many)
        share = (np.arange(len(which)) - np.repeat(last - many, many) + 1.0) / many[which]
        column, row = ((start[which] + share[:, None] * way[which] - self.corner) / CELL).T.astype(np.intp)
        rows, columns = self.there.shape
        on = (row >= 0) & (column >= 0) & (row < rows) & (column < columns)
        self.there[row[on], column[on]] = True


class PartMover:
    """Says which lines of a file are otherwise when one of its parts is moved.

    Parameters
    ----------
    shift : Shift
        Of one part.
    stretch : Stretch
        Lines that the print takes.
    bed : Bed
    half : float
        Half the width of a line, mm.
    layer : FirstLayer
    """

    def __init__(self, shift: Shift, stretch: Stretch, bed: Bed, half: float, layer: FirstLayer) -> None:
        self.shift, self.stretch, self.bed, self.half = shift, stretch, bed, half
        self.motion = Motion()
        self.regions = Regions(layer)
        self.beside = np.unique(layer.line[layer.part < 0])
        """Lines of skirt and purge line."""
        self.mine, self.others = _Plastic(bed), _Plastic(bed)
        self._away = False
        """Whether the tip stands where it was moved to."""
        self._top = -math.inf

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form.

        Raises
        ------
        OutOfRangeError, ChoiceError
        """
        changed: dict[int, bytes] = {}
        for one in self.motion.steps(block):
            if isinstance(one, Steps):
                self._follow(block, one, lines, changed)
            elif any(one.axes[:2]):
                self._reset(one)
        return changed

    def finish(self) -> None:
        """See that nothing of the part lies on anything else.

        Raises
        ------
        OutOfRangeError
        """
        reach = math.ceil(2 * self.half / CELL)
        near = ndimage.binary_dilation(self.mine.there, np.ones((3, 3), dtype=bool), iterations=reach)
        if (near & self.others.there).any():
            raise OutOfRangeError("files.move_part_meets")

    def _reset(self, one: Reset) -> None:
        if self._away and not one.home:
            raise ChoiceError("files.move_zero", line=one.line)
        self._away = False

    def _follow(self, block: Block, steps: Steps, lines: Lines, changed: dict[int, bytes]) -> None:
        moves, line = steps.moves, steps.moves.line
        named = np.isfinite(block.values[:2, np.searchsorted(block.rows, steps.rows)]).any(axis=0)
        named = (named | (moves.turn != 0)) & (block.code[steps.rows] != SET)
        mine = self.regions.at(moves.end) == self.shift.part
        mine &= (line >= self.stretch.first) & (line <= self.stretch.last) & ~np.isin(line, self.beside)
        last = np.maximum.accumulate(np.where(named, np.arange(len(line)), -1))
        away = np.where(last >= 0, mine[np.maximum(last, 0)], self._away)
        before = np.append(self._away, away[:-1])
        self._away = bool(away[-1])
        flat = (np.abs(moves.end - moves.start)[:, :2].max(axis=1) > MOVED) | (moves.turn != 0)
        lays = (moves.filament > 0) & flat
        joined = (away != before) & (lays | (moves.turn != 0))
        if joined.any():
            raise ChoiceError("files.move_part_joined", line=int(line[np.argmax(joined)]))
        self._refuse_sinking(moves.end[:, 2], lays, line)
        self._check(steps, before, away, lays)
        which = np.flatnonzero(named & (away | before))
        if which.size:
            self._write(steps, which, before, away, lines, changed)

    def _refuse_sinking(self, z: Column, lays: Column, line: Indices) -> None:
        """Where parts are laid one after the other, the head must pass beside finished ones: only the slicer knows its size."""
        at = np.flatnonzero(lays & (line >= self.stretch.first))
        if not at.size:
            return
        top = np.maximum.accumulate(np.append(self._top, z[at]))
        sinks = z[at] < top[:-1] - SINKS
        if sinks.any():
            raise ChoiceError("files.move_part_sequence", line=int(line[at[np.argmax(sinks)]]))
        self._top = float(top[-1])

    def _check(self, steps: Steps, before: Column, away: Column, lays: Column) -> None:
        way = np.array([self.shift.dx, self.shift.dy])
        moves, bed = steps.moves, self.bed
        of, begin, finish = moves.straightened()
        start = begin[:, :2] + np.outer(before[of], way)
        end = finish[:, :2] + np.outer(away[of], way)
        # pieces of one arc lie all here or all there
        same = before[of] == away[of]
        start = np.where(same[:, None], begin[:, :2] + np.outer(away[of], way), start)
        half = np.where(lays, self.half, 0.0)[of] - SLACK
        out = (end[:, 0] < bed.x_min + half) | (end[:, 0] > bed.x_max - half)
        out |= (end[:, 1] < bed.y_min + half) | (end[:, 1] > bed.y_max - half)
        out &= away[of]
        if out.any():
            raise OutOfRangeError("files.move_outside", line=int(moves.line[of[np.argmax(out)]]))
        low = np.minimum(begin[:, 2], finish[:, 2])
        touched = before[of] | away[of]
        for place in bed.keep_off:
            near = np.flatnonzero(touched & (low < place.height))
            hit = crossing(start[near], end[near], place)
            if hit.any():
                number = int(moves.line[of[near[np.argmax(hit)]]])
                raise OutOfRangeError("files.move_clip", name=place.name, line=number)
        for plastic, chosen in ((self.mine, away), (self.others, ~away)):
            which = np.flatnonzero((chosen & lays)[of])
            if which.size:
                plastic.take(start[which], end[which])

    def _write(
        self,
        steps: Steps,
        which: Indices,
        before: Column,
        away: Column,
        lines: Lines,
        changed: dict[int, bytes],
    ) -> None:
        moves, scale = steps.moves, steps.scale[which][:, None]
        way = np.array([self.shift.dx, self.shift.dy])
        start = moves.start[which, :2] + np.outer(before[which], way)
        end = moves.end[which, :2] + np.outer(away[which], way)
        steps_, places = (
            (np.round(one / scale, 6) + 0.0).tolist() for one in (end - start, end - steps.shift[:2])
        )
        relative = steps.relative[which].tolist()
        crosses = (before[which] != away[which]).tolist()
        digits = [4 if unit == 1 else 6 for unit in steps.scale[which].tolist()]
        for k, number in enumerate(moves.line[which].tolist()):
            if relative[k] and not crosses[k]:
                continue
            line = lines[number]
            values = steps_[k] if relative[k] else places[k]
            words = {letter: b"%.*f" % (digits[k], values[axis]) for axis, letter in enumerate((b"X", b"Y"))}
            if not crosses[k]:
                if is_plain(line):
                    changed[number] = with_places(line, words)
                    continue
                code = line.split(b";", 1)[0]
                words = {letter: word for letter, word in words.items() if has_word(code, letter)}
            changed[number] = with_words(line, words)
