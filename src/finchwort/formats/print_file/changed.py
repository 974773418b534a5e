"""A copy of a file with one thing changed: speed, fan or heat of its first layer, or the offset by one trim."""

from __future__ import annotations

import re
from abc import ABC, abstractmethod
from collections.abc import Callable

import numpy as np

from finchwort.core.base.errors import ChoiceError
from finchwort.core.files import (
    MOVED,
    ROLES,
    Change,
    CopyChange,
    LineRole,
    PrintFile,
    Told,
    first_moved,
    in_force,
)
from finchwort.formats.print_file.commands import PAIR, TEMPERATURES
from finchwort.formats.print_file.editing import Lines, is_numbered, parts_of, with_words
from finchwort.formats.print_file.motion import Motion, Reset, Steps
from finchwort.formats.print_file.words import LETTER_M, SET, STRANGE, TEN, Block, F

FULL_FAN = 255.0
HEATS = {CopyChange.NOZZLE: (Told.NOZZLE, Told.NOZZLE_WAIT), CopyChange.BED: (Told.BED, Told.BED_WAIT)}
FANS = (LETTER_M + 106 * TEN, LETTER_M + 107 * TEN)


def changer_of(print_: PrintFile, change: Change, now: float) -> Changer:
    """Give what changes a file.

    Parameters
    ----------
    print_ : PrintFile
    change : Change
        Checked by `finchwort.core.files.check_change`.
    now : float
        What the file has.
    """
    kinds: dict[CopyChange, Callable[[PrintFile, Change, float], Changer]] = {
        CopyChange.SPEED: SpeedChanger,
        CopyChange.FAN: FanChanger,
        CopyChange.NOZZLE: HeatChanger,
        CopyChange.BED: HeatChanger,
        CopyChange.OFFSET: OffsetChanger,
    }
    return kinds[change.kind](print_, change, now)


class Changer(ABC):
    """Says which lines are otherwise.

    Parameters
    ----------
    print_ : PrintFile
    change : Change
    now : float

    Attributes
    ----------
    done : bool
        Whether anything was changed.
    """

    def __init__(self, print_: PrintFile, change: Change, now: float) -> None:
        self.change, self.now = change, now
        self.first = first_moved(print_)
        mine = print_.layer.role != ROLES.index(LineRole.PURGE)
        self.layer = np.unique(print_.layer.line[mine]) if mine.any() else print_.layer.line
        self.print_ = print_
        self.done = False

    @abstractmethod
    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form.

        Raises
        ------
        ChoiceError
        """

    def finish(self) -> None:
        """See that the change was made.

        Raises
        ------
        ChoiceError
        """
        if not self.done:
            raise ChoiceError("files.change_no_place")


class SpeedChanger(Changer):
    """Scales the speeds at which the first layer lays plastic; every other move keeps its own.

    A speed holds until the next one is given, so the first move behind a changed one is given its own again.
    """

    def __init__(self, print_: PrintFile, change: Change, now: float) -> None:
        super().__init__(print_, change, now)
        self.factor = change.value / now
        self.motion = Motion()
        self._told = float("nan")

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form."""
        changed: dict[int, bytes] = {}
        for one in self.motion.steps(block):
            if isinstance(one, Steps):
                self._edit(one, block, lines, changed)
        return changed

    def _edit(self, one: Steps, block: Block, lines: Lines, changed: dict[int, bytes]) -> None:
        moves = one.moves
        given = np.isfinite(block.values[F][np.searchsorted(block.rows, one.rows)])
        given &= block.code[one.rows] != SET
        flat = np.abs(moves.end - moves.start).max(axis=1) > MOVED
        lays = one.going & flat & (moves.filament > 0) & np.isin(moves.line, self.layer)
        factor = np.where(lays, self.factor, 1.0)
        # a line with a speed and nothing else gives it to the move behind it
        after = np.append(np.where(one.going, np.arange(len(lays)), len(lays) - 1)[1:], len(lays) - 1)
        after = np.minimum.accumulate(after[::-1])[::-1]
        factor = np.where(one.going, factor, factor[after])
        wanted = moves.speed * factor
        told = np.concatenate([[self._told], wanted[:-1]])
        known = np.isfinite(wanted) & (one.going | given)
        wrong = known & np.where(given, factor != 1, np.abs(wanted - told) > 1e-9)
        for row in np.flatnonzero(wrong).tolist():
            number = int(moves.line[row])
            value = float(wanted[row]) * 60 / float(one.scale[row])
            changed[number] = with_words(lines[number], {b"F": _short(value)})
            self.done = True
        self._told = float(wanted[-1])


def _short(value: float) -> bytes:
    return (b"%.3f" % value).rstrip(b"0").rstrip(b".")


class HeatChanger(Changer):
    """Puts another temperature in the place of the one that the first layer has, until the file sets another."""

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form."""
        changed: dict[int, bytes] = {}
        whats = HEATS[self.change.kind]
        for i in block.others.tolist():
            number, code = int(block.number[i]), int(block.code[i])
            if number > self.layer[-1]:
                break
            line = lines[number]
            if TEMPERATURES.get(code) in whats:
                new = self._plain(line)
            elif code == STRANGE:
                new = self._named(line)
            else:
                continue
            if new is not None:
                changed[number] = new
                self.done = True
        return changed

    def _plain(self, line: bytes) -> bytes | None:
        code = parts_of(line)[0]
        for letter in (b"S", b"R"):
            found = re.search(rb"(?<![A-Za-z_])" + letter + rb"[ \t]*([0-9.]+)", code, re.IGNORECASE)
            if found is not None:
                if abs(float(found.group(1)) - self.now) > 0.01:
                    return None
                return with_words(line, {letter: _short(self.change.value)})
        return None

    def _named(self, line: bytes) -> bytes | None:
        code, tail, end = parts_of(line)
        words = ("BED",) if self.change.kind is CopyChange.BED else ("NOZZLE", "EXTRUDER", "HOTEND")
        text = code.decode("utf-8", "surrogateescape")
        for found in re.finditer(PAIR.pattern, text.upper()):
            if any(word in found.group(1) for word in words) and abs(float(found.group(2)) - self.now) < 0.01:
                at, to = found.span(2)
                text = text[:at] + _short(self.change.value).decode() + text[to:]
                return text.encode("utf-8", "surrogateescape") + tail + end
        return None


class FanChanger(Changer):
    """Sets the part fan wherever the first layer is laid, and back to what the file has behind it."""

    def __init__(self, print_: PrintFile, change: Change, now: float) -> None:
        super().__init__(print_, change, now)
        self.motion = Motion()
        # some machines count to one
        own = [one.text for one in print_.commands if one.what is Told.FAN]
        self.full = 1.0 if any(re.search(r"S\s*[01]?\.\d", text, re.IGNORECASE) for text in own) else FULL_FAN
        self._within = False

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form."""
        changed: dict[int, bytes] = {}
        # lines at which the first layer begins or ends, whether it begins, and its last line before
        bounds: list[tuple[int, bool, int]] = []
        inside = self._within
        for one in self.motion.steps(block):
            if isinstance(one, Steps):
                bounds += self._bounds(one)
        fans = [int(block.number[i]) for i in block.others.tolist() if int(block.code[i]) in FANS]
        for number in fans:
            passed = [begins for line, begins, _ in bounds if line < number]
            behind = any(not begins and last < number < line for line, begins, last in bounds)
            if (passed[-1] if passed else inside) and not behind:
                self._replace(number, lines, changed)
        for number, begins, last in bounds:
            if not begins and any(last < fan < number for fan in fans):
                # the file sets the fan itself behind its first layer
                continue
            line = lines[number]
            if is_numbered(line):
                raise ChoiceError("files.copy_numbered", line=number)
            own = in_force(self.print_.commands, (Told.FAN,), np.array([number]), 0.0)[0]
            percent = self.change.value if begins else float(own)
            changed[number] = self._fan(percent, parts_of(line)[2]) + line
            self.done = True
        return changed

    def _bounds(self, one: Steps) -> list[tuple[int, bool, int]]:
        moves = one.moves
        laid = np.flatnonzero(one.going & (moves.filament > 0))
        if not laid.size:
            return []
        line = moves.line[laid]
        mine = np.isin(line, self.layer)
        before = np.concatenate([[self._within], mine[:-1]])
        found = [
            (int(line[k]), bool(mine[k]), int(line[k - 1]) if k else 0)
            for k in np.flatnonzero(mine != before).tolist()
        ]
        self._within = bool(mine[-1])
        return found

    def _replace(self, number: int, lines: Lines, changed: dict[int, bytes]) -> None:
        code, _, end = parts_of(lines[number])
        other = re.search(rb"P[ \t]*([0-9]+)", code, re.IGNORECASE)
        if other is None or not int(other.group(1)):
            changed[number] = self._fan(self.change.value, end)

    def _fan(self, percent: float, end: bytes) -> bytes:
        value = percent / 100 * self.full
        return b"M106 S" + (b"%d" % round(value) if self.full > 1 else b"%.3f" % value) + (end or b"\n")


class OffsetChanger(Changer):
    """Moves the zero of the height once, before the first layer: all of the print is laid so much higher or lower."""

    def __init__(self, print_: PrintFile, change: Change, now: float) -> None:
        super().__init__(print_, change, now)
        self.motion = Motion()

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form."""
        changed: dict[int, bytes] = {}
        for one in self.motion.steps(block):
            if isinstance(one, Reset):
                if one.line > self.first and one.axes[2]:
                    raise ChoiceError("files.change_offset_lost", line=one.line)
                continue
            row = np.flatnonzero(one.moves.line == self.first)
            if not row.size:
                continue
            at = int(row[0])
            line = lines[self.first]
            if is_numbered(line):
                raise ChoiceError("files.copy_numbered", line=self.first)
            unit = float(one.scale[at])
            z = (float(one.moves.start[at, 2]) - float(one.shift[2])) / unit
            # what the tip has now is called lower than it is, so everything that follows is laid higher
            told = z - self.change.value / unit
            if abs(float(one.moves.end[at, 2] - one.moves.start[at, 2])) > MOVED or one.relative[at]:
                raise ChoiceError("files.change_offset_sloped", line=self.first)
            changed[self.first] = self._step(z, told, line, unit)
            self.done = True
        return changed

    def _step(self, z: float, told: float, line: bytes, unit: float) -> bytes:
        """Set the zero, then go to the height that the first layer has now."""
        digits = 4 if unit == 1 else 6
        end = parts_of(line)[2]
        return b"G92 Z%.*f" % (digits, told) + end + b"G1 Z%.*f" % (digits, z) + end + line
