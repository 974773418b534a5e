"""The text of a print file, as it is or packed, piece by piece."""

from __future__ import annotations

import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from typing import IO, Protocol

from finchwort.core.base.errors import ChoiceError, OutOfRangeError

MAX_BYTES = 300_000_000
"""Bytes of text; more is refused."""
PIECE = 1 << 20
ZIP, GZIP = b"PK\x03\x04", b"\x1f\x8b"
NAMES = (".gcode", ".gco", ".g", ".gc", ".nc", ".ngc", ".tap", ".txt")
MAX_CONTROLS = 0.01
"""Share of control characters from which on a text is none."""
_CONTROLS = bytes(c for c in range(32) if c not in b"\t\r\n\x0c\x1b")


class Readable(Protocol):
    """Anything that gives bytes."""

    def read(self, size: int = -1, /) -> bytes:
        """Give up to so many bytes."""
        ...


def text_of(stream: Readable) -> Iterator[bytes]:
    """Give the text of a file in pieces, unpacked.

    Parameters
    ----------
    stream : file-like
        Text, or text packed by gzip, or an archive (zip) that holds one such file. Of an archive a copy is made in a
        temporary file, unless the stream can be searched.

    Raises
    ------
    ChoiceError
        When it is binary, or an archive without such a file, with several of them, damaged, or locked.
    OutOfRangeError
        When there is more text than is read.
    """
    head = _at_least(stream, 4)
    if head.startswith(ZIP):
        pieces = _unzipped(head, stream)
    elif head.startswith(GZIP):
        pieces = _gunzipped(head, stream)
    else:
        pieces = _plain(head, stream)
    total = 0
    for piece in pieces:
        total += len(piece)
        if total > MAX_BYTES:
            raise OutOfRangeError("files.too_large", most=MAX_BYTES // 1_000_000)
        if b"\0" in piece or len(piece.translate(None, _CONTROLS)) < (1 - MAX_CONTROLS) * len(piece):
            raise ChoiceError("files.binary")
        yield piece


def _at_least(stream: Readable, many: int) -> bytes:
    head = b""
    while len(head) < many:
        more = stream.read(PIECE)
        if not more:
            break
        head += more
    return head


def _plain(head: bytes, stream: Readable) -> Iterator[bytes]:
    piece = head
    while piece:
        yield piece
        piece = stream.read(PIECE)


def _gunzipped(head: bytes, stream: Readable) -> Iterator[bytes]:
    unpack = zlib.decompressobj(47)
    piece = head
    try:
        while piece:
            text = unpack.decompress(piece, PIECE)
            while text:
                yield text
                text = unpack.decompress(unpack.unconsumed_tail, PIECE) if unpack.unconsumed_tail else b""
            piece = stream.read(PIECE) if not unpack.eof else b""
    except zlib.error:
        raise ChoiceError("files.damaged") from None
    if not unpack.eof:
        raise ChoiceError("files.damaged")


def _unzipped(head: bytes, stream: Readable) -> Iterator[bytes]:
    with tempfile.TemporaryFile() as copy:
        size = 0
        for piece in _plain(head, stream):
            size += len(piece)
            if size > MAX_BYTES:
                raise OutOfRangeError("files.too_large", most=MAX_BYTES // 1_000_000)
            copy.write(piece)
        yield from _of_archive(copy)


def _of_archive(copy: IO[bytes]) -> Iterator[bytes]:
    try:
        with zipfile.ZipFile(copy) as archive:
            inside = [one for one in archive.infolist() if one.filename.lower().endswith(NAMES)]
            if not inside:
                raise ChoiceError("files.zip_without")
            if len(inside) > 1:
                raise ChoiceError("files.zip_with_many", names=tuple(one.filename[:60] for one in inside[:5]))
            if inside[0].flag_bits & 1:
                raise ChoiceError("files.zip_locked")
            with archive.open(inside[0]) as text:
                yield from _plain(text.read(PIECE), text)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, OSError):
        raise ChoiceError("files.damaged") from None
