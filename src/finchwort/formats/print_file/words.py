"""Words of G-code, many lines at a time: which command each line gives, and the numbers behind its letters.

No line is looked at by itself.  Nearly all lines of a print are plain moves, a letter and a number, a space, the next
letter: there a number reaches to the space before the next letter, and its eight bytes are turned into its value by
three multiplications.  Whatever else there is (line numbers, checksums, other commands, numbers apart from their letter)
is sorted into letters, digits and signs byte by byte.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from finchwort.core.base.geometry import Column, Indices

AXES = "XYZEFIJR"
X, Y, Z, E, F, CENTRE_X, CENTRE_Y, RADIUS = range(8)
"""Columns of `Block.values`."""
TEN = 10
"""Commands are kept as ten times their number, so that G92.1 is not G92."""
NONE, STRANGE, AXIS_ONLY = -1, -2, -3
"""A line without a command, one that is no word of G-code, and one that goes on with the last motion."""
LETTER_M, LETTER_T = 100_000, 200_000
"""Added to the commands of these letters; those of G stand as they are."""
SET = 92 * TEN
"""G92."""
WIDE = 8
"""Bytes of a number that are read at a time."""

_BEGINS = np.zeros(256, dtype=bool)
_BEGINS[[*range(48, 58), *b" \t.-+\r\n;*"]] = True
"""What may follow the letter of a word; another letter or a line below makes it a name."""
_COLUMN = np.full(256, -1, dtype=np.int8)
for _place, _axis in enumerate(AXES):
    _COLUMN[ord(_axis)] = _COLUMN[ord(_axis.lower())] = _place
_ZEROS = np.uint64(0x3030303030303030)
_ALL = 2**64 - 1
_LAST = np.array([_ALL ^ (_ALL >> (8 * n)) for n in range(WIDE + 1)], dtype=np.uint64)
"""Keeps the last bytes of eight, as they lie in memory."""
_TENS = 10.0 ** np.arange(WIDE + 1)
_FIRST = np.array([_ALL >> (8 * (WIDE - n)) if n else 0 for n in range(WIDE + 1)], dtype=np.uint64)
"""Keeps the first ones."""
_DOTS, _ONES, _HIGH = (np.uint64(0x0101010101010101 * n) for n in (0x2E, 1, 0x80))
_ABOVE, _SIX = np.uint64(0xF0F0F0F0F0F0F0F0), np.uint64(0x0606060606060606)
_BEHIND = np.uint64(0x0706050403020100)
"""Times a one in the byte of a dot it holds, in its highest byte, how many bytes stand behind the dot."""

NUMBER = re.compile(rb"[ \t]*([-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+))")
REMARK = re.compile(rb";[^\n]*")
PARENTHESES = re.compile(rb"(;[^\n]*)|\([^()\n]*\)?")
SMALL = re.compile(rb"[-+]?(?:[0-9]+\.?[0-9]*|\.[0-9]+)e[-+][0-9]+")


@dataclass(frozen=True, eq=False)
class Block:
    """Lines of a file.

    Attributes
    ----------
    text : bytes
        As it was read, but for remarks in parentheses and powers of ten, which are taken out.
    code : ndarray of int, shape (lines,)
        Ten times the number behind G; behind M and T with ``LETTER_M`` and ``LETTER_T``; or one of ``NONE``,
        ``STRANGE``, ``AXIS_ONLY``.
    number : ndarray of int, shape (lines,)
        Line of the file, counted from 1.
    ends : ndarray of int, shape (lines,)
        Place of the line's end in ``text``.
    rows : ndarray of int, shape (moves,)
        Lines whose numbers were read: those of a move or G92, or of bare axes.
    values : ndarray, shape (8, moves)
        Behind the letters of ``AXES``, not a number where there is none.
    """

    text: bytes
    code: Indices
    number: Indices
    ends: Indices
    rows: Indices
    values: Column

    @cached_property
    def others(self) -> Indices:
        """Lines with a command that is no move and not G92, or with a word that is none."""
        code = self.code
        return np.flatnonzero((code > 3 * TEN) & (code != SET) | (code == STRANGE))

    def raw(self, i: int) -> bytes:
        """Give a line as it stands there."""
        return self.text[self.ends[i - 1] + 1 if i else 0 : self.ends[i]]

    def line(self, i: int) -> bytes:
        """Give the words of a line, without remark and checksum."""
        return self.raw(i).split(b";", 1)[0].split(b"*", 1)[0]

    def remark(self, i: int) -> bytes:
        """Give what stands behind the semicolon of a line."""
        return self.raw(i).partition(b";")[2]


def read_block(text: bytes, first: int = 1) -> Block:
    r"""Read the words of whole lines.

    Parameters
    ----------
    text : bytes
        Ends in a line feed.
    first : int
        Number of its first line.

    Examples
    --------
    >>> lines = "G1 X10.5 Y-3 E.02 ; wall", "M104 S210", "x1", ""
    >>> block = read_block("\n".join(lines).encode())
    >>> block.code.tolist(), block.rows.tolist(), block.values[:4, 0].tolist()
    ([10, 101040, -3], [0, 2], [10.5, -3.0, nan, 0.02])
    """
    if b"(" in text:
        text = PARENTHESES.sub(lambda m: m.group(1) or b" ", text)
    data = np.frombuffer(text, dtype=np.uint8)
    ends = np.flatnonzero(data == 10)
    plain, empty = _plain_lines(data, ends)
    table = _plain_table(text, ends, plain)
    if table is None:
        return _all_by_bytes(text, first)
    code, values = table
    others = np.flatnonzero(~(plain | empty))
    block = _all_by_bytes(b"".join(_pieces(text, ends, others)), 1)
    if len(block.number) != len(others):
        # several commands on one of them
        return _all_by_bytes(text, first)
    codes = np.full(len(ends), NONE, dtype=np.intp)
    codes[plain], codes[others] = code, block.code
    number = np.arange(first, first + len(ends))
    rows = np.flatnonzero(plain)
    if len(block.rows):
        moved = others[block.rows]
        order = np.argsort(np.concatenate([rows, moved]), kind="stable")
        rows = np.concatenate([rows, moved])[order]
        values = np.concatenate([values, block.values], axis=1)[:, order]
    return Block(text, codes, number, ends, rows, values)


def _plain_lines(data: Column, ends: Indices) -> tuple[Column, Column]:
    """Say which lines begin like a move or G92, with a space behind it, and which hold nothing but a remark."""
    begin = np.empty(len(ends), dtype=np.intp)
    begin[1:] = ends[:-1] + 1
    begin[:1] = 0
    last = len(data) - 1
    letter = data[begin]
    digit, space = data[np.minimum(begin + 1, last)], data[np.minimum(begin + 2, last)]
    move = (digit - np.uint8(48) < 4) & (space == 32)
    sets = np.flatnonzero((digit == ord("9")) & (space == ord("2")))
    move[sets] = data[np.minimum(begin[sets] + 3, last)] == 32
    return (letter == ord("G")) & move, (letter == ord(";")) | (letter == 10) | (letter == 13)


def _pieces(text: bytes, ends: Indices, which: Indices) -> list[bytes]:
    """Give some of the lines, with their ends."""
    if not which.size:
        return []
    gaps = np.flatnonzero(np.diff(which) != 1)
    first = which[np.concatenate([[0], gaps + 1])]
    last = which[np.concatenate([gaps, [len(which) - 1]])]
    begin = np.where(first > 0, ends[first - 1] + 1, 0).tolist()
    return [text[a : b + 1] for a, b in zip(begin, ends[last].tolist(), strict=True)]


def _plain_table(text: bytes, ends: Indices, plain: Column) -> tuple[Indices, Column] | None:
    """Command and numbers of the plain lines; None when one of them is not as plain as it begins."""
    chosen = b"".join((b"0" * WIDE, *_pieces(text, ends, np.flatnonzero(plain))))
    if b";" in chosen:
        chosen = REMARK.sub(b"", chosen)
    if b"e" in chosen or b"*" in chosen:
        return None
    data = np.frombuffer(chosen, dtype=np.uint8)[WIDE:]
    places = np.flatnonzero((data >= ord("A")) | (data == 10))
    letters = data[places] & 0xDF
    is_end = letters < 65
    line = np.cumsum(is_end, dtype=np.int32)
    heads = np.flatnonzero(is_end)
    many = len(heads)
    if np.count_nonzero((letters == ord("G")) | (letters == ord("M"))) != many:
        # a second command on a line
        return None
    heads[1:] = heads[:-1] + 1
    heads[:1] = 0
    # a digit behind the G, but for 92
    code = TEN * (data[places[heads] + 1] - np.uint8(48)).astype(np.intp)
    code[code == 9 * TEN] = SET
    column = _COLUMN[letters]
    taken = np.flatnonzero(column >= 0)
    numbers = _short_numbers(data, places[taken] + 1, places[taken + 1], b"\r" in chosen)
    if numbers is None:
        return None
    values = np.full((len(AXES), many), np.nan)
    values.reshape(-1)[column[taken] * np.int64(many) + line[taken]] = numbers
    return code, values


def _short_numbers(data: Column, begin: Indices, end: Indices, returns: bool) -> Column | None:
    """Numbers up to a space before the next letter or end; None when one of them is none."""
    end -= data[end - 1] < 33
    if returns:
        # a space before the end of the line
        end -= data[end - 1] < 33
    negative = data[begin] == ord("-")
    begin += negative
    long = end - begin
    if not long.size:
        return np.zeros(0)
    assert data.base is not None
    eight: Column = np.ndarray((len(data) + 1,), dtype="<u8", buffer=data.base, strides=(1,))
    keep = _LAST[np.minimum(np.maximum(long, 0), WIDE)]
    text = (eight[end] & keep) | (_ZEROS & ~keep)
    found = text ^ _DOTS
    found = (((found - _ONES) & ~found) & _HIGH) >> np.uint64(7)
    # the lowest only: a borrow may mark the byte above it
    found &= ~found + np.uint64(1)
    whole = found == 0
    before = found - np.uint64(1)
    before[whole] = 0
    text = (text & ~(before | (found * np.uint64(255)))) | ((text & before) << np.uint64(8))
    text[~whole] |= np.uint64(0x30)
    # nothing but digits has a three above, and six more below does not carry
    sound = ((text & _ABOVE) == _ZEROS) & (((text + _SIX) & _ABOVE) == _ZEROS) & (long > 0)
    value = _eight_digits(text) / _TENS[(found * _BEHIND) >> np.uint64(56)]
    for i in np.flatnonzero(~sound | (long > WIDE)).tolist():
        alone = NUMBER.fullmatch(data[begin[i] : end[i]].tobytes())
        if alone is None:
            return None
        value[i] = float(alone.group(1))
    return np.negative(value, out=value, where=negative)


def _all_by_bytes(text: bytes, first: int) -> Block:
    """Read lines of any kind."""
    block, crowded, small = _read(text, first, None)
    if small:
        text = SMALL.sub(_written_out, text)
        block, crowded, _ = _read(text, first, None)
    if not crowded.size:
        return block
    text, numbers = _one_command_a_line(text, crowded, first)
    return _read(text, first, numbers)[0]


def _written_out(found: re.Match[bytes]) -> bytes:
    """A number with a power of ten, without it."""
    return f"{float(found.group(0)):.9f}".encode()


def _read(text: bytes, first: int, numbers: Sequence[int] | None) -> tuple[Block, Indices, bool]:
    """Read lines byte by byte; say which hold several commands, and whether a power of ten was seen."""
    if not text:
        none = np.zeros(0, dtype=np.intp)
        return Block(text, none, none, none, none, np.zeros((len(AXES), 0))), none, False
    padded = b"".join((b"0" * WIDE, text, b"0" * (2 * WIDE)))
    data = np.frombuffer(padded, dtype=np.uint8)[WIDE : -2 * WIDE]
    # all but digits: letters, signs, dots, spaces, ends of lines
    marks = np.flatnonzero(data - np.uint8(48) > 9)
    kinds = data[marks]
    at_end = np.flatnonzero(kinds == 10)
    ends = marks[at_end]
    stop = (kinds == ord(";")) | (kinds == ord("*"))
    live = (kinds | 32) - np.uint8(97) < 26
    if stop.any():
        # behind the first semicolon or star of a line nothing counts
        stopped = np.flatnonzero(stop)
        of_line = np.searchsorted(at_end, stopped)
        once = np.flatnonzero(np.diff(of_line, prepend=-1))
        live &= _outside(len(kinds), stopped[once], at_end[of_line[once]])
    live[at_end] = True
    words = np.flatnonzero(live)
    letter = kinds[words] & 0xDF
    is_end = letter < 65
    # words of a line before its end: their line is how many ends came before
    line = np.cumsum(is_end, dtype=np.int32)
    is_head = np.empty(len(words), dtype=bool)
    is_head[0], is_head[1:] = True, is_end[:-1]
    is_head &= ~is_end
    head = np.flatnonzero(is_head)
    if head.size and (letter[head] == ord("N")).any():
        head, is_head = _behind_numbers(head, letter, is_end, is_head)
    code = np.full(len(ends), NONE, dtype=np.intp)
    code[line[head]] = _commands(data, marks, kinds, words[head], letter[head])

    moving = (code == TEN) | (code == 0) | (code == SET) | (code == AXIS_ONLY)
    moving |= (code == 2 * TEN) | (code == 3 * TEN)
    rows = np.flatnonzero(moving)
    row_of = np.cumsum(moving, dtype=np.int32) - 1
    column = _COLUMN[letter]
    taken = np.flatnonzero((column >= 0) & moving[np.minimum(line, len(ends) - 1)])
    value, any_digit = _numbers(data, marks, kinds, words[taken])
    row = row_of[line[taken]]
    # G92 X without a number means nought
    value[~any_digit & (code[rows[row]] == SET)] = 0.0
    table = np.full((len(AXES), len(rows)), np.nan)
    table.reshape(-1)[column[taken] * np.int64(len(rows)) + row] = value
    # a second command on the line of a G word
    command = np.flatnonzero(((letter == ord("G")) | (letter == ord("M"))) & ~is_head)
    crowded = line[command].astype(np.intp)
    crowded = np.unique(crowded[(code[crowded] >= 0) & (code[crowded] < LETTER_M)])
    number = np.arange(first, first + len(ends)) if numbers is None else np.array(numbers, dtype=np.intp)
    raised = words[kinds[words] == ord("e")]
    after = kinds[raised + 1]
    small = ((after == ord("-")) | (after == ord("+"))) & (marks[raised + 1] == marks[raised] + 1)
    return Block(text, code, number, ends, rows, table), crowded, bool(small.any())


def _behind_numbers(head: Indices, letter: Column, is_end: Column, is_head: Column) -> tuple[Indices, Column]:
    """Let the word behind a line's number be its command."""
    numbered = head[letter[head] == ord("N")]
    is_head[numbered] = False
    after = numbered + 1
    is_head[after[~is_end[after]]] = True
    return np.flatnonzero(is_head), is_head


def _outside(many: int, begin: Indices, end: Indices) -> Column:
    """Say for each of so many places whether it lies in none of the stretches, which do not meet."""
    steps = np.zeros(many + 1, dtype=np.int8)
    steps[begin] += 1
    steps[end] -= 1
    return np.cumsum(steps[:-1], dtype=np.int8) == 0


def _numbers(data: Column, marks: Indices, kinds: Column, words: Indices) -> tuple[Column, Column]:
    """The numbers behind letters, and whether there is one.

    Between two marks there are digits only, so sign, dot and end of a number are the next marks.  Eight bytes are
    one 64-bit number, which three multiplications turn into the value of its digits.
    """
    at = marks[words]
    behind = words + 1
    after = kinds[behind]
    negative = after == ord("-")
    signed = negative | (after == ord("+"))
    begin = at + 1
    if signed.any():
        signed &= marks[behind] == begin
        negative &= signed
        begin += signed
        behind += signed
    dot = marks[behind]
    dotted = kinds[behind] == ord(".")
    behind += dotted
    end = marks[behind]
    part = end - dot - dotted
    digits = end - begin - dotted
    assert data.base is not None
    eight: Column = np.ndarray((len(data) + 2 * WIDE + 1,), dtype="<u8", buffer=data.base, strides=(1,))
    # the eight bytes before the end, the dot squeezed out; a place lies WIDE later in the padded text
    text = eight[end]
    fraction = _LAST[np.minimum(part, WIDE)]
    text = np.where(dotted, (text & fraction) | ((text << np.uint64(8)) & ~fraction), text)
    keep = _LAST[np.minimum(digits, WIDE)]
    value = _eight_digits((text & keep) | (_ZEROS & ~keep)) / _TENS[np.minimum(part, WIDE)]
    long = np.flatnonzero(digits + dotted > WIDE)
    if long.size:
        value[long] = _long_numbers(eight, begin[long], dot[long], end[long], dotted[long])
    any_digit = digits > 0
    odd = (digits > 2 * WIDE) | (~any_digit) | (kinds[behind] == ord("."))
    for i in np.flatnonzero(odd).tolist():
        value[i], any_digit[i] = _alone(data[at[i] + 1 : at[i] + 400].tobytes())
    np.negative(value, out=value, where=negative & ~odd)
    return value, any_digit


def _long_numbers(eight: Column, begin: Indices, dot: Indices, end: Indices, dotted: Column) -> Column:
    """Numbers of more than seven digits and a dot: eight before the dot, and up to sixteen behind it."""
    whole, part = dot - begin, np.where(dotted, end - dot - 1, 0)
    keep = _LAST[np.minimum(whole, WIDE)]
    value = _eight_digits((eight[dot] & keep) | (_ZEROS & ~keep)).astype(np.float64)
    keep = _FIRST[np.clip(part, 0, WIDE)]
    fraction = _eight_digits((eight[dot + 1 + WIDE] & keep) | (_ZEROS & ~keep))
    # one division of two whole numbers gives the nearest double
    value = (value * 1e8 + fraction) / 1e8
    keep = _FIRST[np.clip(part - WIDE, 0, WIDE)]
    return (
        value
        + _eight_digits((eight[np.minimum(dot + 1 + 2 * WIDE, len(eight) - 1)] & keep) | (_ZEROS & ~keep))
        / 1e16
    )


def _eight_digits(text: Column) -> Column:
    """Value of eight digits each, as they lie in memory."""
    text = text & np.uint64(0x0F0F0F0F0F0F0F0F)
    text = (text * np.uint64(10) + (text >> np.uint64(8))) & np.uint64(0x00FF00FF00FF00FF)
    text = (text * np.uint64(100) + (text >> np.uint64(16))) & np.uint64(0x0000FFFF0000FFFF)
    return (text * np.uint64(10000) + (text >> np.uint64(32))) & np.uint64(0xFFFFFFFF)


def _alone(text: bytes) -> tuple[float, bool]:
    """A number that is long, or stands apart from its letter."""
    found = NUMBER.match(text)
    return (float(found.group(1)), True) if found else (float("nan"), False)


def _commands(data: Column, marks: Indices, kinds: Column, words: Indices, letter: Column) -> Indices:
    """What the first word of each line commands."""
    at = marks[words]
    follows = data[at + 1]
    # a digit alone, as in G1
    one = (follows - np.uint8(48) < 10) & (marks[words + 1] == at + 2) & (kinds[words + 1] != ord("."))
    code = np.where(one, TEN * (follows - np.uint8(48)).astype(np.intp), STRANGE)
    code[~((letter == ord("G")) & one)] = STRANGE
    rest = np.flatnonzero(code == STRANGE)
    if not rest.size:
        return code
    letter = letter[rest]
    value, any_digit = _numbers(data, marks, kinds, words[rest])
    word = _BEGINS[follows[rest]]
    sane = any_digit & word & (np.abs(value) < 9000)
    number = np.rint(TEN * np.where(sane, np.abs(value), 0)).astype(np.intp)
    found = np.full(len(rest), STRANGE, dtype=np.intp)
    for name, added in (("G", 0), ("M", LETTER_M), ("T", LETTER_T)):
        chosen = sane & (letter == ord(name))
        found[chosen] = number[chosen] + added
    axis = word & any_digit & (_COLUMN[letter] >= 0)
    found[axis] = AXIS_ONLY
    code[rest] = found
    return code


def _one_command_a_line(text: bytes, crowded: Indices, first: int) -> tuple[bytes, list[int]]:
    """Give every command a line of its own; the numbers of the lines stay those of the file."""
    lines = text.split(b"\n")[:-1]
    written: list[bytes] = []
    numbers: list[int] = []
    done = 0
    for i in crowded.tolist():
        written += lines[done:i]
        numbers += range(first + done, first + i)
        code, mark, remark = lines[i].partition(b";")
        parts = [part for part in re.split(rb"(?=[GgMm][0-9])", code) if part.strip()]
        parts[-1] += mark + remark
        written += parts
        numbers += [first + i] * len(parts)
        done = i + 1
    written += lines[done:]
    numbers += range(first + done, first + len(lines))
    return b"\n".join(written) + b"\n", numbers
