"""A copy of a file whose first layers follow a bed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files import FLAT, Bend, Limits, cut_lines, heights_at
from finchwort.formats.print_file.editing import (
    ANY_COMMAND,
    Lines,
    has_word,
    is_numbered,
    parts_of,
    straightened,
    with_words,
    word_of,
)
from finchwort.formats.print_file.motion import Motion, Reset, Steps
from finchwort.formats.print_file.words import AXIS_ONLY, SET, Block, Z


@dataclass(frozen=True, eq=False)
class _Bent:
    """Pieces of the lines that are bent, in order.

    Attributes
    ----------
    row : ndarray of int, shape (k,)
        Step each is a piece of.
    begin, end : ndarray of int, shape (steps + 1,), (steps,)
        First piece of each line, and the one behind its last.
    place : ndarray, shape (k, 3)
        Ends before bending, mm.
    z : ndarray, shape (k,)
        Commanded at the ends, mm.
    before : ndarray, shape (k,)
        Commanded where each piece starts, mm.
    share : ndarray, shape (k,)
        Of the way of its line up to its end.
    """

    row: Indices
    begin: Indices
    end: Indices
    place: Column
    z: Column
    before: Column
    share: Column


class Bender:
    """Says which lines of a file are otherwise when its first layers follow a bed.

    Parameters
    ----------
    bend : Bend
    limits : Limits
        What the copy may do; see `finchwort.core.files.Limits`.

    Attributes
    ----------
    least : float
        Smallest gap between tip and plate on a way along the plate, mm.
    lowest : float
        Lowest Z that is commanded, mm.
    up, down : float
        The most that is added to Z, and taken off it, mm.
    fastest : float
        Fastest change of what is added, mm/s.
    pieces : int
        Lines that were written for those of the file.
    """

    def __init__(self, bend: Bend, limits: Limits) -> None:
        self.bend, self.limits = bend, limits
        self.motion = Motion()
        self.least, self.lowest = float("inf"), float("inf")
        self.up = self.down = self.fastest = 0.0
        self.pieces = 0
        self._added = 0.0

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form.

        Raises
        ------
        ChoiceError, OutOfRangeError
        """
        changed: dict[int, bytes] = {}
        for one in self.motion.steps(block):
            if isinstance(one, Steps):
                self._bend(one, block, lines, changed)
            elif one.axes[2]:
                self._reset(one)
        return changed

    def _reset(self, one: Reset) -> None:
        if not one.home and abs(self._added) > FLAT:
            raise ChoiceError("files.copy_zero_moved", line=one.line)
        self._added = 0.0

    def _bend(self, steps: Steps, block: Block, lines: Lines, changed: dict[int, bytes]) -> None:
        moves, top = steps.moves, self.bend.top
        # a line that names a place says a height even where it leads nowhere
        named = np.isfinite(block.values[:3, np.searchsorted(block.rows, steps.rows)]).any(axis=0)
        way = (named | (moves.turn != 0)) & (block.code[steps.rows] != SET)
        low = way & moves.known & (np.minimum(moves.start[:, 2], moves.end[:, 2]) < top - FLAT)
        which = np.flatnonzero(low)
        if not which.size:
            if way.any():
                self._added = 0.0
            return
        found = self._pieces(steps, which, way)
        self._check(steps, found)
        after = way[which[-1] + 1 :].any()
        self._added = 0.0 if after else float(found.z[-1] - found.place[-1, 2])
        self._write(steps, which, found, block, lines, changed)

    def _pieces(self, steps: Steps, which: Indices, way: Column) -> _Bent:
        """Cut the chosen lines, and say how high each piece begins and ends."""
        chosen = steps.moves.chosen(which)
        of_line, begin, finish = chosen.straightened()
        cut = cut_lines(self.bend, begin, finish)
        row = of_line[cut.of]
        z = self.bend.commanded(cut.end)
        first = np.searchsorted(row, np.arange(len(which)))
        end = np.append(first[1:], len(row))
        # what is added where a line begins: as the line before left it, unless one between left the bent layers
        passed = np.cumsum(way)
        joined = np.append(False, passed[which[1:]] == passed[which[:-1]] + 1)
        left = np.append(self._added, z[end[:-1] - 1] - chosen.end[:-1, 2])
        if not way[: which[0]].any():
            joined[0] = True
        before = np.append(0.0, z[:-1])
        before[first] = chosen.start[:, 2] + np.where(joined, left, 0.0)
        origin = np.vstack([np.zeros((1, 3)), cut.end[:-1]])
        origin[first] = chosen.start
        long = np.sqrt(((cut.end - origin) ** 2).sum(axis=1))
        total = np.cumsum(long)
        base = (total - long)[first]
        whole = total[end - 1] - base
        share = (total - base[row]) / np.where(whole > 0, whole, 1.0)[row]
        share[end - 1] = 1.0
        return _Bent(row=which[row], begin=first, end=end, place=cut.end, z=z, before=before, share=share)

    def _check(self, steps: Steps, found: _Bent) -> None:
        """See that the tip stays clear of the plate, and Z as slow as it may be."""
        place, z, row = found.place, found.z, found.row
        origin = np.vstack([place[:1], place[:-1]])
        fresh = found.begin
        origin[fresh] = steps.moves.start[row[fresh]]
        flat = np.hypot(*(place[:, :2] - origin[:, :2]).T)
        along = (flat > FLAT) | (steps.moves.filament[row] > 0)
        if along.any():
            middle = (found.before + z) / 2 - self._height((place + origin) / 2)
            gap = np.minimum(z - self._height(place), middle)
            gap[~along] = np.inf
            at = int(np.argmin(gap))
            if gap[at] < self.least:
                self.least = float(gap[at])
            if gap[at] < self.limits.clear:
                raise OutOfRangeError(
                    "files.bend_touches", line=int(steps.moves.line[row[at]]), gap=float(gap[at])
                )
        added = z - place[:, 2]
        rise = np.abs(added - (found.before - origin[:, 2]))
        speed = steps.moves.speed[row]
        with np.errstate(invalid="ignore", divide="ignore"):
            pace = np.where(flat > FLAT, rise / flat * speed, 0.0)
        # where it begins to follow, the machine brings Z there as it does for any word of Z
        joins = np.abs(found.before - self.bend.commanded(origin)) > 2 * self.bend.step
        # less than a step of Z is no motion of its own
        pace[~np.isfinite(pace) | (rise <= 2 * self.bend.step) | joins] = 0.0
        at = int(np.argmax(pace))
        self.fastest = max(self.fastest, float(pace[at]))
        if pace[at] > self.limits.z_speed:
            raise OutOfRangeError(
                "files.bend_fast",
                line=int(steps.moves.line[row[at]]),
                speed=float(pace[at]),
                most=self.limits.z_speed,
            )
        self.lowest = min(self.lowest, float(z.min()))
        self.up, self.down = max(self.up, float(added.max())), min(self.down, float(added.min()))

    def _height(self, place: Column) -> Column:
        """What the tip has to stay clear of, mm."""
        bed = self.bend.bed(place)
        over = self.limits.over
        return bed if over is None else np.maximum(bed, heights_at(over, place) - self.bend.zero)

    def _write(
        self,
        steps: Steps,
        which: Indices,
        found: _Bent,
        block: Block,
        lines: Lines,
        changed: dict[int, bytes],
    ) -> None:
        moves = steps.moves
        off = np.maximum.reduceat(np.abs(found.z - found.place[:, 2]), found.begin) > 1e-9
        off |= np.abs(found.before[found.begin] - moves.start[which, 2]) > 1e-9
        arcs = moves.turn[which] != 0
        bare = block.code[steps.rows[which]] == AXIS_ONLY
        if (arcs & off).any() and (block.code[steps.rows] == AXIS_ONLY).any():
            raise ChoiceError("files.copy_bare_arc", line=int(moves.line[which[np.argmax(arcs & off)]]))
        single = (found.end - found.begin == 1) & ~arcs
        has = np.isfinite(block.values[Z, np.searchsorted(block.rows, steps.rows[which])])
        z, before, nominal = (values[found.begin] for values in (found.z, found.before, found.place[:, 2]))
        own = (np.abs(z - nominal) < 1e-9) & ~steps.relative[which]
        # a line that ends at its height already, by its own word or without one, stays as it is
        off &= ~(single & np.where(has, own, np.abs(z - before) < 1e-6))
        rows = np.flatnonzero(off)
        scale, relative = steps.scale[which][rows], steps.relative[which][rows]
        value = np.where(relative, (z - before)[rows], z[rows] - steps.shift[2]) / scale
        for row, number, height, unit, is_single in zip(
            rows.tolist(),
            moves.line[which[rows]].tolist(),
            (np.round(value, 6) + 0.0).tolist(),
            scale.tolist(),
            single[rows].tolist(),
            strict=True,
        ):
            line = lines[number]
            span = int(found.begin[row]), int(found.end[row])
            if is_single:
                changed[number] = _with_height(
                    line, b"%.*f" % (4 if unit == 1 else 6, height), bool(has[row])
                )
            else:
                if is_numbered(line):
                    raise ChoiceError("files.copy_numbered", line=number)
                changed[number] = self._in_pieces(steps, int(which[row]), found, span, line, bool(bare[row]))
            self.pieces += span[1] - span[0]

    def _in_pieces(
        self, steps: Steps, step: int, found: _Bent, span: tuple[int, int], line: bytes, bare: bool
    ) -> bytes:
        """Write a line as several."""
        begin, end = span
        code, tail, ending = parts_of(line)
        unit, relative = float(steps.scale[step]), bool(steps.relative[step])
        digits = 3 if unit == 1 else 5
        command = b"G1"
        if (
            not bare
            and (named := ANY_COMMAND.match(code)) is not None
            and named.group().strip() in (b"G0", b"G00")
        ):
            command = b"G0"
        place = (found.place[begin:end, :2] - steps.shift[:2]) / unit
        start = (steps.moves.start[step, :2] - steps.shift[:2]) / unit
        z = found.z[begin:end]
        height = (z - found.before[begin:end] if relative else z - steps.shift[2]) / unit
        used = float(steps.moves.filament[step]) / unit
        has_filament = has_word(code, b"E")
        if relative:
            # what is rounded off one piece is made good by the next
            place = np.diff(np.round(np.vstack([start, place]), digits + 2), axis=0)
            digits += 2
        laid = np.round(found.share[begin:end] * used, 5)
        if steps.filament_relative[step]:
            laid = np.diff(laid, prepend=0.0)
        else:
            laid = laid + float(steps.before[step]) / unit
        speed = word_of(code, b"F")
        written: list[bytes] = []
        for k in range(end - begin):
            words = [command, b"X%.*f" % (digits, place[k, 0]), b"Y%.*f" % (digits, place[k, 1])]
            words.append(b"Z%.*f" % (4 if unit == 1 else 6, np.round(height[k], 6) + 0.0))
            if has_filament:
                words.append(b"E%.5f" % laid[k])
            if speed and not k:
                words.append(speed)
            if k == end - begin - 1 and not relative:
                # the end is the file's own
                own: dict[bytes, bytes | None] = {b"Z": words[3][1:]}
                if has_filament and steps.filament_relative[step]:
                    own[b"E"] = b"%.5f" % (used - float(np.sum(np.round(laid[:-1], 5))))
                last = straightened(line) if steps.moves.turn[step] else line
                if bare:
                    last = command + b" " + last.lstrip()
                written.append(with_words(last, own))
            else:
                written.append(b" ".join(words) + tail + ending)
        return b"".join(written)


def _with_height(line: bytes, height: bytes, has: bool) -> bytes:
    """Give a line that ends at a height."""
    if not has:
        code, tail, ending = parts_of(line)
        if not tail:
            return code + b" Z" + height + ending
    return with_words(line, {b"Z": height})
