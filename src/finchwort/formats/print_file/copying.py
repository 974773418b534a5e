"""A copy of a file with some lines in another form, written piece by piece; the others byte for byte the same."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterable, Iterator
from typing import IO, Protocol

from finchwort.core.base.errors import ChoiceError
from finchwort.formats.print_file.cutting import Cutter
from finchwort.formats.print_file.editing import Lines
from finchwort.formats.print_file.words import Block, read_block

IN_MEMORY = 8_000_000
"""Bytes of a copy that are kept without a file."""
PIECE = 1 << 20
ODD = re.compile(rb"[^;]*(\([^()]*\)[ \t]*[A-Za-z]|[0-9.]e[-+][0-9])")
"""A remark between words, or a power of ten."""


class Editor(Protocol):
    """Says which lines are to be otherwise."""

    def edit(self, block: Block, lines: Lines) -> dict[int, bytes]:
        """Give lines of a block in their new form, by their numbers.

        Raises
        ------
        CoreError
            When the file cannot be written so.
        """
        ...


class Copy:
    """A copy on its way: nothing of it is given before all of it is known to be sound.

    Attributes
    ----------
    lines, size : int
        Of the file that was copied.
    changed : int
        Lines that are otherwise.
    """

    def __init__(self) -> None:
        self.lines = self.size = self.changed = 0
        self._ends = b"\n"
        # closed by `close`: the copy outlives the function that makes it
        self._body: IO[bytes] = tempfile.SpooledTemporaryFile(max_size=IN_MEMORY)  # noqa: SIM115

    def write(self, pieces: Iterable[bytes], editor: Editor) -> None:
        """Copy a text.

        Parameters
        ----------
        pieces : iterable of bytes
            Unpacked, see `finchwort.formats.print_file.source.text_of`.
        editor : Editor

        Raises
        ------
        CoreError
        """
        ended = True
        for text, ended in _blocks(pieces):
            self.size += len(text) - (not ended)
            if not self.lines and b"\r\n" in text:
                self._ends = b"\r\n"
            block = read_block(text, self.lines + 1)
            lines = Lines(text, self.lines + 1)
            self.lines += text.count(b"\n")
            new = editor.edit(block, lines)
            _refuse_crowded(block, lines, new)
            self.changed += len(new)
            text = lines.with_changed(new)
            self._body.write(text if ended else text[:-1])

    def text(self, head: Iterable[str]) -> Iterator[bytes]:
        """Give the copy, with remarks before it, and an empty one behind them."""
        # some machines stumble over other letters even in remarks
        said = [f"; {line}".encode("ascii", "replace") + self._ends for line in head]
        yield b"".join([*said, b";" + self._ends] if said else [])
        self._body.seek(0)
        while piece := self._body.read(PIECE):
            yield piece

    @property
    def bytes(self) -> int:
        """Length of the copy without its head."""
        return self._body.seek(0, 2)

    def close(self) -> None:
        """Give back what it takes."""
        self._body.close()


def _refuse_crowded(block: Block, lines: Lines, new: dict[int, bytes]) -> None:
    """A line that holds several commands is not taken apart, nor one whose words are written oddly."""
    number = block.number
    twice = [line for line in number[1:][number[1:] == number[:-1]].tolist() if line in new]
    odd = [line for line in new if ODD.match(lines[line])]
    if twice or odd:
        raise ChoiceError("files.copy_crowded", line=min(twice + odd))


def _blocks(pieces: Iterable[bytes]) -> Iterator[tuple[bytes, bool]]:
    """Give whole lines, and whether their last one had an end."""
    cutter = Cutter()
    last = b""
    for piece in pieces:
        last = piece[-1:] or last
        for text in cutter.feed(piece):
            yield text, True
        if cutter.altered:
            raise ChoiceError("files.copy_returns")
    for text in cutter.rest():
        if cutter.altered:
            raise ChoiceError("files.copy_returns")
        yield text, last == b"\n"


def read_blocks(pieces: Iterable[bytes]) -> Iterator[Block]:
    """Read the words of a text, block by block."""
    number = 1
    for text, _ in _blocks(pieces):
        yield read_block(text, number)
        number += text.count(b"\n")
