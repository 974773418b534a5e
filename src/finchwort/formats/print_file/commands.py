"""Commands of G-code that are no moves: temperatures, fan, homing, compensation, offsets."""

from __future__ import annotations

import re
from collections.abc import Callable

from finchwort.core.files import Command, Told
from finchwort.formats.print_file.words import LETTER_M, LETTER_T, STRANGE, TEN

MOST = 60_000
"""So many commands are kept; a file with more changes its fan with every move."""
LONGEST = 80
WORD = re.compile(r"([A-Za-z])\s*([-+]?(?:\d+\.?\d*|\.\d+))")
PAIR = re.compile(r"([A-Z_]+)\s*=\s*([-+]?\d+\.?\d*)")
FULL_FAN = 255.0


def _m(number: int) -> int:
    return LETTER_M + TEN * number


TEMPERATURES = {
    _m(140): Told.BED,
    _m(190): Told.BED_WAIT,
    _m(104): Told.NOZZLE,
    _m(109): Told.NOZZLE_WAIT,
}
"""Commands of desktop printers, common practice; G28 and M0 are words of ISO 6983-1."""
PLAIN = {
    28 * TEN: Told.HOME,
    29 * TEN: Told.PROBE,
    _m(0): Told.PAUSE,
    _m(1): Told.PAUSE,
    _m(25): Told.PAUSE,
    _m(600): Told.PAUSE,
}
OFFSETS = {_m(851), _m(206), _m(290)}
FAN, FAN_OFF, MESH, FLOW = _m(106), _m(107), _m(420), _m(221)
MOVES_ONLY = {4 * TEN, 20 * TEN, 21 * TEN, 90 * TEN, 91 * TEN, _m(82), _m(83)}
"""What is followed elsewhere, or says nothing here: waiting, units, ways of counting."""


def words_of(text: str) -> dict[str, float]:
    """Give the numbers behind the letters of a line, the command's first; of two alike the first.

    Examples
    --------
    >>> words_of("M106 P0 S127.5")
    {'M': 106.0, 'P': 0.0, 'S': 127.5}
    """
    words: dict[str, float] = {}
    for letter, number in WORD.findall(text):
        words.setdefault(letter.upper(), float(number))
    return words


def commands_of(code: int, line: int, raw: bytes) -> list[Command]:
    """Understand a line that is no move.

    Parameters
    ----------
    code : int
        See `finchwort.formats.print_file.words.Block`.
    line : int
    raw : bytes
        Without remark.

    Examples
    --------
    >>> [(str(one.what), one.value) for one in commands_of(101900, 4, b"M190 S60")]
    [('bed_wait', 60.0)]
    >>> [(str(one.what), one.value) for one in commands_of(STRANGE, 4, b"BEGIN BED_TEMP=60 NOZZLE_TEMP=210")]
    [('unknown', nan), ('bed_wait', 60.0), ('nozzle_wait', 210.0)]
    """
    text = raw.decode("utf-8", "replace").strip()
    short = text[:LONGEST]
    if code in TEMPERATURES:
        words = words_of(text)
        value = words.get("S", words.get("R", float("nan")))
        return [Command(TEMPERATURES[code], line, value, short)]
    if code in PLAIN:
        return [Command(PLAIN[code], line, float("nan"), short)]
    if code in (FAN, FAN_OFF):
        return _fan(code, line, text)
    if code == MESH:
        on = words_of(text).get("S", 1.0) != 0
        return [Command(Told.MESH_ON if on else Told.MESH_OFF, line, float("nan"), short)]
    if code in OFFSETS:
        words = words_of(text)
        value = words.get("Z", words.get("S", float("nan")))
        return [Command(Told.OFFSET, line, value, short)] if value == value else []
    if code == FLOW:
        return [Command(Told.FLOW, line, words_of(text).get("S", float("nan")), short)]
    if code >= LETTER_T:
        return [Command(Told.TOOL, line, (code - LETTER_T) / TEN, short)]
    if code == STRANGE:
        return _named(line, text)
    return []


def _fan(code: int, line: int, text: str) -> list[Command]:
    words = words_of(text)
    if words.get("P", 0) >= 1:
        # another fan than that of the part
        return []
    if code == FAN_OFF:
        return [Command(Told.FAN, line, 0.0, text[:LONGEST])]
    value = words.get("S", FULL_FAN)
    # some machines count to one
    of_one = value <= 1 and re.search(r"S\s*[01]?\.\d", text, re.IGNORECASE) is not None
    share = value if of_one else value / FULL_FAN
    return [Command(Told.FAN, line, round(100 * min(max(share, 0.0), 1.0), 1), text[:LONGEST])]


HEAT: tuple[tuple[str, Told], ...] = (("BED", Told.BED_WAIT), ("NOZZLE", Told.NOZZLE_WAIT), ("EXTRUDER", Told.NOZZLE_WAIT), ("HOTEND", Told.NOZZLE_WAIT))  # fmt: skip


def _named(line: int, text: str) -> list[Command]:
    """A command with a name of its own: what its named values say."""
    upper = text.upper()
    if not re.match(r"[A-Z_]{3,}", upper):
        return []
    name = upper.split()[0]
    results = [Command(Told.UNKNOWN, line, float("nan"), text[:LONGEST])]
    pairs: list[tuple[str, str]] = PAIR.findall(upper)
    offset: Callable[[str], bool] = lambda key: key.startswith("Z")  # noqa: E731
    for key, value in pairs:
        number = float(value)
        if "OFFSET" in name and offset(key):
            results.append(Command(Told.OFFSET, line, number, text[:LONGEST]))
        elif number >= 20:
            results += [Command(what, line, number, text[:LONGEST]) for word, what in HEAT if word in key]
    if "MESH" in name or "MESH" in upper.partition(" ")[2]:
        off = "CLEAR" in upper or "OFF" in upper
        results.append(Command(Told.MESH_OFF if off else Told.MESH_ON, line, float("nan"), text[:LONGEST]))
    return results
