"""Words of single lines changed, the rest of them left as it stands."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import cache

import numpy as np

NUMBER = rb"[ \t]*[-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)"
ARC = re.compile(rb"[Gg][ \t]*0*[23](?![0-9.])")
NUMBERED = re.compile(rb"[ \t]*[Nn][ \t]*[0-9]|[^;(]*\*[ \t]*[0-9]")
ANY_COMMAND = re.compile(rb"[ \t]*[GgMmTt][ \t]*[0-9]")


class Lines:
    r"""Lines of a text by their numbers in the file.

    Parameters
    ----------
    text : bytes
        Whole lines.
    first : int
        Number of the first.

    Examples
    --------
    >>> lines = Lines(b"G28\nG1 X1\n", 7)
    >>> lines[8]
    b'G1 X1\n'
    """

    def __init__(self, text: bytes, first: int) -> None:
        self.text, self.first = text, first
        ends = np.flatnonzero(np.frombuffer(text, dtype=np.uint8) == 10) + 1
        self._ends = [0, *ends.tolist()]

    def __getitem__(self, number: int) -> bytes:
        """Give a line with its end."""
        at = number - self.first
        return self.text[self._ends[at] : self._ends[at + 1]]

    def with_changed(self, changed: Mapping[int, bytes]) -> bytes:
        """Give the text with some lines in another form."""
        if not changed:
            return self.text
        pieces: list[bytes] = []
        done = 0
        for number in sorted(changed):
            at = number - self.first
            pieces += self.text[done : self._ends[at]], changed[number]
            done = self._ends[at + 1]
        pieces.append(self.text[done:])
        return b"".join(pieces)


@cache
def _word(letter: bytes) -> re.Pattern[bytes]:
    return re.compile(rb"(?<![A-Za-z_])[" + letter.upper() + letter.lower() + rb"]" + NUMBER)


def parts_of(line: bytes) -> tuple[bytes, bytes, bytes]:
    r"""Cut a line into its words, what follows them, and its end.

    Examples
    --------
    >>> parts_of(b"G1 X1 ; wall\r\n")
    (b'G1 X1', b' ; wall', b'\r\n')
    """
    body = line.rstrip(b"\r\n")
    code = body
    for mark in (b";", b"(", b"*"):
        if mark in code:
            code = code[: code.index(mark)]
    code = code.rstrip()
    return code, body[len(code) :], line[len(body) :]


def has_word(code: bytes, letter: bytes) -> bool:
    """Whether a line has a number behind a letter."""
    return _word(letter).search(code) is not None


def word_of(code: bytes, letter: bytes) -> bytes:
    """Give the word of a letter as it stands there; empty where there is none.

    Examples
    --------
    >>> word_of(b"G1X10F1200", b"F"), word_of(b"G1 X10", b"F")
    (b'F1200', b'')
    """
    found = _word(letter).search(code)
    return found.group() if found else b""


def is_numbered(line: bytes) -> bool:
    """Whether a line has a number or a checksum of its own."""
    return NUMBERED.match(line) is not None


def with_words(line: bytes, words: Mapping[bytes, bytes | None]) -> bytes:
    r"""Give a line with other numbers behind some of its letters.

    Parameters
    ----------
    line : bytes
        With its end.
    words : mapping
        Letter to number; None takes the word out. What the line does not have is put behind its words.

    Examples
    --------
    >>> with_words(b"G1 X1 E.5 ; wall\n", {b"X": b"2", b"Z": b"0.25"})
    b'G1 X2 E.5 Z0.25 ; wall\n'
    >>> with_words(b"N3 G1 X1*98\n", {b"X": b"2"})
    b'N3 G1 X2*97\n'
    """
    code, tail, end = parts_of(line)
    for letter, number in words.items():
        pattern = _word(letter)
        if number is None:
            code = pattern.sub(b"", code, count=1).rstrip()
        else:
            code, many = pattern.subn(letter + number, code, count=1)
            if not many:
                code += b" " + letter + number
    if tail.lstrip().startswith(b"*"):
        tail = _checked(code) + tail.lstrip()[1:].lstrip().lstrip(b"0123456789")
    return code + tail + end


def _checked(code: bytes) -> bytes:
    """The checksum of a line: all its bytes in exclusive or."""
    total = 0
    for byte in code:
        total ^= byte
    return b"*%d" % total


def straightened(line: bytes) -> bytes:
    r"""Give the line of an arc as one of a straight way.

    Examples
    --------
    >>> straightened(b"G02 X1 Y2 I3 J0 E4\n")
    b'G1 X1 Y2 E4\n'
    """
    code, tail, end = parts_of(line)
    code = ARC.sub(b"G1", code, count=1)
    for letter in (b"I", b"J", b"R"):
        code = re.sub(rb"[ \t]*" + _word(letter).pattern, b"", code, count=1)
    return code + tail + end
