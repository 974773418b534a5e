"""A reader of G-code of its own, for the tests: it shares nothing with the writer.

It takes words (a letter and a number, ISO 6983-1 section on word addresses) and follows modal moves.  What it
does not know it refuses, so that nothing slips through unseen.
"""

import math
import re
from dataclasses import dataclass, field

WORD = re.compile(r"([A-Z])([+-]?(?:\d+\.?\d*|\.\d+))")
ISO_MOVES = {0: "rapid", 1: "line"}
"""G00 and G01 of ISO 6983-1, preparatory functions."""
COMMON = {"G21", "G28", "G90", "M0", "M83", "M84", "M104", "M107", "M109", "M140", "M190", "M400", "M420"}
"""Beyond moves: G90 and M0 of ISO 6983-1, the others common practice of desktop printers."""


@dataclass
class Move:
    start: tuple
    end: tuple
    filament: float
    feed: float
    rapid: bool

    @property
    def length(self):
        return math.dist(self.start, self.end)


@dataclass
class Program:
    remarks: list = field(default_factory=list)
    commands: list = field(default_factory=list)
    moves: list = field(default_factory=list)

    def index(self, name):
        """Place of the first such command in the order of the file."""
        return next(i for i, (command, _) in enumerate(self.commands) if command == name)


def read(text):
    """Read a program; ValueError on any line that is no word of those known."""
    found = Program()
    at, feed = [None, None, None], None
    for raw in text.split("\n"):
        line, _, remark = raw.partition(";")
        if remark:
            found.remarks.append(remark.strip())
        line = line.strip()
        if not line:
            continue
        if line.startswith("M0"):
            found.commands.append(("M0", line[2:].strip()))
            continue
        rest = WORD.sub("", line).strip()
        words = WORD.findall(line)
        if rest or len({letter for letter, _ in words}) < len(words):
            raise ValueError(f"no words: {raw!r}")
        values = {letter: float(number) for letter, number in words}
        if "G" in values and values["G"] in ISO_MOVES:
            found.commands.append((f"G{int(values['G'])}", values))
            feed = values.get("F", feed)
            if feed is None:
                raise ValueError("a move without a feed")
            target = [values.get(axis, before) for axis, before in zip("XYZ", at, strict=True)]
            if set(values) - set("GXYZEF"):
                raise ValueError(f"strange words: {raw!r}")
            if None not in target and None not in at:
                found.moves.append(
                    Move(tuple(at), tuple(target), values.get("E", 0.0), feed / 60, values["G"] == 0)
                )
            at = target
            continue
        name = f"{words[0][0]}{words[0][1]}"
        if name not in COMMON:
            raise ValueError(f"unknown: {raw!r}")
        if name == "G28":
            at = [0.0, 0.0, 10.0]
        found.commands.append((name, values))
    return found
