"""Readings in JSON, and in the pictures Finchwort saves: an SVG or PNG carries its survey as JSON."""

from __future__ import annotations

import json
import math
import struct
import zlib
from typing import Any
from xml.etree.ElementTree import ParseError

from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import XMLParser

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.surveys import MAX_READINGS, Survey
from finchwort.formats.cutting import Table
from finchwort.formats.result import UnreadableTextError

KIND = "finchwort-survey"
PNG_MARK = b"\x89PNG\r\n\x1a\n"
MAX_CHUNKS = 10_000
DEEPEST = 64
"""A picture is nested no deeper."""
_HEIGHTS = ("height", "heights", "height_mm", "z", "z_mm", "value", "values")
_GAPS = ("gap", "gaps", "gap_mm")


def survey_json(survey: Survey) -> str:
    """Write a survey as JSON, mm, heights positive towards the nozzle.

    Examples
    --------
    >>> print(survey_json(Survey([0, 1, 0], [0, 0, 1], [0, 0.1, 0.25])))
    {"kind": "finchwort-survey", "unit": "mm", "x": [0.0, 1.0, 0.0], "y": [0.0, 0.0, 1.0], "height": [0.0, 0.1, 0.25]}
    """
    return json.dumps(
        {
            "kind": KIND,
            "unit": "mm",
            "x": survey.x.tolist(),
            "y": survey.y.tolist(),
            "height": survey.height.tolist(),
        }
    )


def looks_like_json(text: str) -> bool:
    """Tell whether a text may be JSON that holds readings."""
    start = text.lstrip()[:1]
    return start == "{" or (start == "[" and text.rstrip()[-1:] == "]")


def json_in_svg(text: str) -> str | None:
    """Return the survey an SVG picture carries, as JSON text; None when it carries none, or is no picture.

    Raises
    ------
    UnreadableTextError
        When it is nested deeper than any picture.
    """
    if "<svg" not in text or KIND not in text:
        return None
    result = _Carried()
    parser = XMLParser(target=result, forbid_dtd=True)
    try:
        parser.feed(text)
        parser.close()
    except (ParseError, DefusedXmlException):
        pass  # what was carried before the damage may be whole
    return "".join(result.text).strip() if result.whole else None


class _Carried:
    """Takes the text of our own metadata out of a picture; keeps nothing else, and no depth."""

    def __init__(self) -> None:
        self.depth = self.inside = 0
        self.text: list[str] = []
        self.whole = False

    def start(self, tag: str, given: dict[str, str]) -> None:
        """Begin an element."""
        self.depth += 1
        if self.depth > DEEPEST:
            raise UnreadableTextError("formats.picture_nested_deeper_any")
        if not self.whole and tag.rpartition("}")[2] == "metadata" and given.get("id") == KIND:
            self.inside = self.depth

    def end(self, _tag: str) -> None:
        """End an element."""
        if self.inside == self.depth:
            self.inside, self.whole = 0, True
        self.depth -= 1

    def data(self, text: str) -> None:
        """Take text."""
        if self.inside:
            self.text.append(text)

    def close(self) -> None:
        """Nothing is left to do."""


def json_in_png(data: bytes) -> str | None:
    """Return the survey a PNG picture carries, as JSON text.

    Raises
    ------
    UnreadableTextError
        When the picture is damaged.
    """
    at = len(PNG_MARK)
    for _ in range(MAX_CHUNKS):
        if at + 12 > len(data):
            return None
        length, kind = struct.unpack(">I4s", data[at : at + 8])
        body = data[at + 8 : at + 8 + length]
        if len(body) != length:
            raise UnreadableTextError("formats.picture_cut_off")
        if kind == b"iTXt" and body.startswith(KIND.encode() + b"\0"):
            (checksum,) = struct.unpack(">I", data[at + 8 + length : at + 12 + length])
            if zlib.crc32(kind + body) != checksum:
                raise UnreadableTextError("formats.readings_picture_damaged")
            # keyword, compression flag and method, language, translated keyword, text
            _, _, rest = body.partition(b"\0")
            _, _, rest = rest[2:].partition(b"\0")
            _, _, text = rest.partition(b"\0")
            try:
                return text.decode("utf-8")
            except UnicodeDecodeError:
                raise UnreadableTextError("formats.readings_picture_damaged_no") from None
        if kind == b"IEND":
            return None
        at += 12 + length
    return None


def read_json(text: str) -> tuple[Table, str]:
    """Read JSON into a table and its layout.

    Understood are objects with lists ``x``, ``y`` and ``height`` (or ``z``, or ``gap``), lists of such objects or
    of triples (also under ``points`` or ``readings``), and a matrix of heights (also under ``grid``, ``heights``, ``mesh``).

    Returns
    -------
    table : Table
    layout : {"points", "grid"}

    Examples
    --------
    >>> read_json('[[0, 0, 0.1], [100, 0, 0.2], [0, 100, 0.3]]')[1]
    'unknown'
    >>> table, layout = read_json('{"x": [0, 100, 0], "y": [0, 0, 100], "gap": [0.1, 0.2, 0.3]}')
    >>> layout, table.heads, table.rows[1]
    ('points', ['x', 'y', 'gap'], [100.0, 0.0, 0.2])
    """
    try:
        result = json.loads(text)
    except (ValueError, RecursionError) as error:
        where = f" near line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise UnreadableTextError("formats.begins_like_json_but", where=where) from None
    table = Table()
    if isinstance(result, dict):
        return table, _from_object(result, table)
    return table, _from_list(result, table)


def _from_object(result: dict[str, Any], table: Table) -> str:
    keys = {str(key).lower(): value for key, value in result.items()}
    for name in ("points", "readings", "data"):
        if isinstance(keys.get(name), list):
            return _from_list(keys[name], table, points=name != "data")
    values = next((name for name in (*_HEIGHTS, *_GAPS) if isinstance(keys.get(name), list)), None)
    if values and all(isinstance(keys.get(axis), list) for axis in "xy"):
        if not len(keys["x"]) == len(keys["y"]) == len(keys[values]):
            raise UnreadableTextError("formats.lists_height_different_lengths")
        rows = list(zip(keys["x"], keys["y"], keys[values], strict=True))
        table.heads = ["x", "y", "gap" if values in _GAPS else "height"]
        _fill(table, rows)
        return "points"
    for name in ("grid", "heights", "mesh", "matrix", "z"):
        if isinstance(keys.get(name), list):
            return _from_list(keys[name], table)
    raise UnreadableTextError("formats.json_holds_no_height")


def _from_list(result: list[Any], table: Table, points: bool = False) -> str:
    if not result:
        raise UnreadableTextError("formats.json_holds_no_reading")
    if all(isinstance(item, dict) for item in result):
        lowered = [{str(key).lower(): value for key, value in item.items()} for item in result]
        names = next((n for n in (*_HEIGHTS, *_GAPS) if n in lowered[0]), None)
        if names is None or not all({"x", "y", names} <= item.keys() for item in lowered):
            raise UnreadableTextError("formats.every_reading_needs_height")
        table.heads = ["x", "y", "gap" if names in _GAPS else "height"]
        _fill(table, [[item["x"], item["y"], item[names]] for item in lowered])
        return "points"
    if all(isinstance(item, list) for item in result):
        _fill(table, result)
        return "points" if points else "unknown"
    if all(isinstance(item, (int, float)) and not isinstance(item, bool) for item in result):
        _fill(table, [[item] for item in result])
        return "unknown"
    raise UnreadableTextError("formats.json_holds_no_list")


def _fill(table: Table, rows: list[Any]) -> None:
    if sum(len(row) for row in rows) > 3 * MAX_READINGS:
        raise OutOfRangeError("formats.these_more_readings", max_readings=MAX_READINGS)
    for number, row in enumerate(rows, 1):
        try:
            values = [float(value) for value in row if not isinstance(value, (bool, str))]
        except (TypeError, ValueError, OverflowError):
            values = []
        if len(values) == len(row) and all(map(math.isfinite, values)):
            table.rows.append(values)
            table.lines.append(number)
            table.texts.append(str(row)[:80])
        else:
            table.refuse(number, str(row), "A value is missing or is not a number.")
