"""A file cut into blocks of whole lines."""

from __future__ import annotations

from collections.abc import Iterator

from finchwort.core.base.errors import ChoiceError

BLOCK = 3 << 18
"""Bytes that are read at a time."""
LONGEST_LINE = 1 << 20
"""No line is longer; a file without an end of line is none."""


class Cutter:
    r"""Takes a file piece by piece and gives it in whole lines.

    Attributes
    ----------
    returns : bool
        Whether lines end in CR alone, as far as it is known; they are given with LF.
    altered : bool
        Whether any CR alone was taken for the end of a line.
    lines : int
        That were given.

    Examples
    --------
    >>> cutter = Cutter()
    >>> list(cutter.feed(b"G28\nG1 X")), list(cutter.rest())
    ([], [b'G28\nG1 X\n'])
    """

    def __init__(self) -> None:
        self.returns = self.altered = False
        self.lines = 0
        self._carried = b""

    def feed(self, piece: bytes) -> Iterator[bytes]:
        """Take the next piece, and give what is whole of it.

        Raises
        ------
        ChoiceError
            When a line has no end.
        """
        text = self._carried + (piece.replace(b"\r", b"\n") if self.returns else piece)
        begin = 0
        while len(text) - begin > BLOCK:
            cut = text.rfind(b"\n", begin, begin + BLOCK) + 1
            if not cut:
                cut = text.find(b"\n", begin) + 1
                if not cut:
                    break
            yield self._given(text[begin:cut])
            begin = cut
        self._carried = text[begin:]
        if len(self._carried) > LONGEST_LINE:
            if self.returns or b"\r" not in self._carried or b"\n" in self._carried:
                raise ChoiceError("files.endless_line", line=self.lines + 1)
            self.returns = self.altered = True
            self._carried = self._carried.replace(b"\r", b"\n")
            yield from self.feed(b"")

    def rest(self) -> Iterator[bytes]:
        """Give what is left, its last line ended.

        Raises
        ------
        ChoiceError
        """
        rest, self._carried = self._carried, b""
        if b"\n" not in rest and rest.count(b"\r") > 1:
            self.altered = True
            rest = rest.replace(b"\r", b"\n")
        if b"\n" not in rest and len(rest) > LONGEST_LINE:
            raise ChoiceError("files.endless_line", line=self.lines + 1)
        if rest.strip():
            yield self._given(rest if rest.endswith(b"\n") else rest + b"\n")

    def _given(self, text: bytes) -> bytes:
        if b"\r" in text and b"\r\n" not in text:
            self.altered = True
            text = text.replace(b"\r", b"\n")
        self.lines += text.count(b"\n")
        return text
