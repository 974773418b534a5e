"""A print file read as a stream: only its first layers, its settings and its sums are kept."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError, TooFewReadingsError
from finchwort.core.files import (
    Command,
    Gathering,
    Hints,
    LineRole,
    PrintFile,
    Stated,
    Told,
    find_first_layer,
    low_map,
)
from finchwort.core.first_layer import FILAMENTS, filament_area
from finchwort.formats.print_file import remarks
from finchwort.formats.print_file.commands import MOST, MOVES_ONLY, commands_of
from finchwort.formats.print_file.cutting import Cutter
from finchwort.formats.print_file.motion import Motion
from finchwort.formats.print_file.source import Readable, text_of
from finchwort.formats.print_file.words import NONE, Block, read_block

MOST_KNOWN = 20_000
"""Remarks whose meaning is kept."""
MAX_REMARKS = 3_000_000
"""Remarks that are looked at."""
SETTINGS = (b"diameter", b"material", b"_type", b" type")
"""Only remarks with one of these may be settings that matter."""
LOST = 4_000_000
"""When nothing in so many bytes is a move, it is no G-code."""


class PrintReader:
    r"""Takes a file piece by piece.

    Parameters
    ----------
    filament : float, optional
        Its diameter, mm; what the file says, or the usual one, when not given.
    material_names : iterable of str
        Materials that a remark may name.

    Examples
    --------
    >>> reader = PrintReader()
    >>> reader.feed(b"M83\nG1 Z0.2 F600\nG1 X0 Y0\nG1 X50 E1.885 F1200\n")
    >>> print_ = reader.finish()
    >>> print_.layer.height, round(print_.line_width, 2), print_.speed
    (0.2, 0.5, 20.0)
    """

    def __init__(self, filament: float | None = None, material_names: Iterable[str] = ()) -> None:
        self.gathering = Gathering(filament_area(filament or FILAMENTS[0]))
        self.motion = Motion()
        self.filament = filament
        self.materials = {name.lower(): name for name in material_names}
        self.commands: list[Command] = []
        self.roles: list[tuple[int, LineRole | None]] = []
        self.names: list[tuple[int, str]] = []
        self.single: dict[int, LineRole] = {}
        self.nozzle: float | None = None
        self.stated_filament: float | None = None
        self.material: str | None = None
        self.lines = self.size = self.remarks = 0
        self._role: LineRole | None = None
        self._name = ""
        self._known: dict[bytes, tuple[LineRole | None, str | None]] = {}
        self._cutter = Cutter()
        self._unread: Block | None = None

    def feed(self, piece: bytes) -> None:
        """Take the next piece of text.

        Raises
        ------
        ChoiceError, OutOfRangeError
        """
        self.size += len(piece)
        for text in self._cutter.feed(piece):
            self._block(text)

    def finish(self) -> PrintFile:
        """Take the rest, and give what was found.

        Raises
        ------
        ChoiceError, OutOfRangeError, TooFewReadingsError
        """
        for text in self._cutter.rest():
            self._block(text)
        found = self.gathering
        if not self.size or not found.moves:
            raise ChoiceError("files.no_gcode" if self.size else "files.empty")
        if self.motion.beyond:
            raise OutOfRangeError("files.beyond", line=self.motion.beyond)
        if not found.laid:
            raise TooFewReadingsError("files.no_plastic")
        if self.filament is None and self.stated_filament is not None:
            found.rescale(filament_area(self.stated_filament))
        layer, parts = find_first_layer(found, Hints(tuple(self.roles), tuple(self.names), self.single))
        laid = sum(found.levels.values()) + found.sloped
        last = [one for one in self.commands if one.what in (Told.NOZZLE, Told.NOZZLE_WAIT)]
        return PrintFile(
            layer,
            parts,
            tuple(sorted(self.commands, key=lambda one: one.line)),
            Stated(self.nozzle, self.stated_filament, self.material),
            self.lines,
            self.size,
            found.filament,
            found.section,
            found.seconds,
            len(found.levels),
            max(found.levels) / 1000,
            tuple(found.plastic),
            tuple(found.ways),
            found.fastest,
            found.rates,
            found.sloped / laid if laid else 0.0,
            bool(last) and last[-1].value == 0,
            low_map(found),
        )

    def _block(self, text: bytes) -> None:
        block = read_block(text, self.lines + 1)
        self.lines = int(block.number[-1]) if len(block.number) else self.lines
        self._commands(block)
        lifted = len(self.motion.lifted)
        before = dict(self.gathering.counts)
        for moves in self.motion.follow(block):
            self.gathering.add(moves)
        for line, by in self.motion.lifted[lifted:]:
            self._keep(Command(Told.OFFSET, line, by, "G92 Z"))
        if self.gathering.counts != before:
            # what was said last before this block holds on in it
            if self._unread is not None:
                self._remarks(self._unread)
            roles, names = self._remarks(block)
            self.roles += roles
            self.names += names
            self._behind_moves(block)
            self._unread = None
        elif any(word in text for word in SETTINGS):
            self._remarks(block)
            self._unread = None
        elif b";" in text:
            self._unread = block
        if not self.gathering.moves and self.size > LOST:
            raise ChoiceError("files.no_gcode")

    def _commands(self, block: Block) -> None:
        for i in block.others.tolist():
            number = int(block.code[i])
            if number in MOVES_ONLY:
                continue
            for one in commands_of(number, int(block.number[i]), block.line(i)):
                if one.what is Told.UNKNOWN and sum(c.what is Told.UNKNOWN for c in self.commands[-50:]) > 20:
                    continue
                self._keep(one)

    def _keep(self, one: Command) -> None:
        # what is set again to the same says nothing
        if one.what in (Told.FAN, Told.FLOW, Told.TOOL):
            for before in reversed(self.commands[-200:]):
                if before.what is one.what:
                    if before.value == one.value:
                        return
                    break
        if len(self.commands) >= MOST:
            # the end of a file says whether it cools
            self.commands.pop(MOST // 2)
        self.commands.append(one)

    def _remarks(self, block: Block) -> tuple[list[tuple[int, LineRole | None]], list[tuple[int, str]]]:
        """Roles and names that lines of remarks give, the ones that hold from before first."""
        first = int(block.number[0]) if len(block.number) else 0
        roles: list[tuple[int, LineRole | None]] = [(first, self._role)]
        names = [(first, self._name)]
        if self.remarks > MAX_REMARKS or b";" not in block.text:
            return roles, names
        begin = np.concatenate([[0], block.ends[:-1] + 1])
        data = np.frombuffer(block.text, dtype=np.uint8)
        lines = np.flatnonzero((block.code == NONE) & (data[begin] == ord(";")))
        self.remarks += len(lines)
        for i in lines.tolist():
            role, name = self._understood(block.remark(i))
            if role is not None:
                self._role = role
                roles.append((int(block.number[i]), role))
            elif name is not None:
                self._name = name
                names.append((int(block.number[i]), name))
        return roles, names

    def _understood(self, remark: bytes) -> tuple[LineRole | None, str | None]:
        """What a remark says of the lines behind it; the same remark comes again with every layer."""
        known = self._known.get(remark)
        if known is None:
            text = remark.decode("utf-8", "replace").strip()
            setting = (b"=" in remark or b":" in remark) and self._setting(text)
            role = None if setting else remarks.role_of(text)
            known = role, None if setting or role is not None else remarks.name_of(text)
            if len(self._known) > MOST_KNOWN:
                self._known.clear()
            self._known[remark] = known
        return known

    def _setting(self, text: str) -> bool:
        """Take a setting that matters; whether the remark was one."""
        found = remarks.setting_of(text)
        if found is None:
            return False
        name, value = found
        if "diameter" in name:
            number = remarks.number_in(value)
            if number is not None and "nozzle" in name and 0.1 <= number <= 2:
                self.nozzle = number
            elif number is not None and "filament" in name and 1 <= number <= 4:
                self.stated_filament = number
        elif "material" in name or ("filament" in name and "type" in name):
            known = [
                self.materials[word] for word in value.replace(";", " ").split() if word in self.materials
            ]
            self.material = known[0] if known else self.material
        return "=" in text

    def _behind_moves(self, block: Block) -> None:
        """Roles that stand behind the moves of a low layer, line by line."""
        if block.text.count(b";") <= np.count_nonzero(block.code == NONE):
            return
        for i in block.rows.tolist():
            remark = block.remark(i)
            if not remark:
                continue
            role, _ = self._understood(remark)
            if role is not None:
                self.single[int(block.number[i])] = role


def read_print(
    stream: Readable,
    *,
    filament: float | None = None,
    material_names: Iterable[str] = (),
    progress: Callable[[int], None] | None = None,
) -> PrintFile:
    """Read a file of a print.

    Parameters
    ----------
    stream : file-like
        Bytes; packed or not, see `finchwort.formats.print_file.source.text_of`.
    filament : float, optional
        Diameter, mm; what the file says, or the usual one, when not given.
    material_names : iterable of str
        Materials that a remark may name.
    progress : callable, optional
        Told after each piece how many bytes of text were read.

    Returns
    -------
    PrintFile

    Raises
    ------
    ChoiceError, OutOfRangeError, TooFewReadingsError
        With a code whose sentence says what is wrong with the file.
    """
    reader = PrintReader(filament, material_names)
    for piece in text_of(stream):
        reader.feed(piece)
        if progress is not None:
            progress(reader.size)
    return reader.finish()
