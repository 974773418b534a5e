"""The simulated printer's moods: how it says and hears what it does.

Its programme thinks in the open G-code.  In another mood every line is put into other words on the way in and out, so that a
product which takes one way of talking for the only one fails.
"""

from __future__ import annotations

import re

Pairs = tuple[tuple[re.Pattern[str], str], ...]


def _pairs(*rules: tuple[str, str]) -> Pairs:
    return tuple((re.compile(pattern, re.IGNORECASE), text) for pattern, text in rules)


class Mood:
    """A way of talking.

    Parameters
    ----------
    heard, said : sequence of (pattern, text)
        Each line is rewritten by the first pattern that matches the whole of it; others stay as they are.
    closed : bool
        Whether a line that no pattern matches is not understood.
    """

    def __init__(self, heard: Pairs = (), said: Pairs = (), closed: bool = False) -> None:
        self.heard, self.said, self.closed = heard, said, closed

    def hear(self, text: str) -> str:
        """Turn what arrives into what the programme understands."""
        text = text.strip()
        for pattern, command in self.heard:
            if match := pattern.fullmatch(text):
                return match.expand(command)
        return f"?{text}" if self.closed and text else text

    def say(self, text: str) -> str:
        """Turn what the programme says into what is sent."""
        for pattern, words in self.said:
            if match := pattern.fullmatch(text):
                return match.expand(words)
        return text


N = r"(-?[\d.]+)"
PLAIN = Mood(
    heard=_pairs(
        (r"G[01]( .*)?", r"\g<0>"),  # moves of a file are words of a standard
        (r"G92( .*)?", r"\g<0>"),
        (r"WAKE UP", "M999"),
        (r"LENGTHS IN MM", "G21"),
        (r"COUNT FROM HOME", "G90"),
        (r"GO HOME", "G28"),
        (rf"GO X {N} Y {N} AT {N}", r"G0 X\1 Y\2 F\3"),
        (rf"GO Z {N} AT {N}", r"G0 Z\1 F\2"),
        (rf"TOUCH X {N} Y {N}", r"G30 X\1 Y\2"),
        (r"FINISH", "M400"),
        (r"PIN OUT", "M401"),
        (r"PIN IN", "M402"),
        (rf"BED {N}", r"M140 S\1"),
        (rf"NOZZLE {N}", r"M104 S\1"),
        (rf"BED {N} AND WAIT", r"M190 S\1"),
        (rf"NOZZLE {N} AND WAIT", r"M109 S\1"),
        (r"HOW WARM", "M105"),
        (r"WHICH SWITCHES", "M119"),
        (r"MOTORS OFF", "M84"),
        (r"WHAT OFFSET", "M851"),
        (rf"OFFSET {N}", r"M851 Z\1"),
        (rf"NUDGE Z {N}", r"M290 Z\1"),
        (r"KEEP", "M500"),
        (r"WHO ARE YOU", "M115"),
        (r"WHAT IS KEPT", "M503"),
        (r"WHAT MESH", "M420 V"),
        (r"FOLLOW MESH", "M420 S1"),
        (r"LEAVE MESH", "M420 S0"),
        (r"FILAMENT BY STEPS", "M83"),
        (r"FAN OFF", "M107"),
        (r"HOLD (.*)", r"M0 \1"),
        (r"STOP NOW", "M112"),
    ),
    said=_pairs(
        (rf"ok T:{N} /{N} B:{N} /{N}.*", r"done: nozzle \1 of \2, bed \3 of \4"),
        (r"ok", "done"),
        (r"echo:busy: processing", "working"),
        (r"start", "awake"),
        (r"Error:(.*)", r"trouble: \1"),
        (rf"Bed X: {N} Y: {N} Z: {N}", r"touched at \1, \2: \3"),
        (r"(\w+): open", r"switch \1 is free"),
        (r"(\w+): TRIGGERED", r"switch \1 is pressed"),
        (rf"echo:Probe Z Offset: {N}", r"offset of the tip: \1"),
        (rf"echo: M851 .*Z{N}", r"offset of the tip: \1"),
        (r"FIRMWARE_NAME:(.*?) [A-Z_]+:.*MACHINE_TYPE:(.*?)(?: [A-Z_]{6,}:.*)?", r"i am \2 with \1"),
        (r"Cap:(\w+):([01])", r"can \1 \2"),
        (r"echo: M92 (.*)", r"steps \1"),
        (r"echo: M420 S([01]).*", r"mesh followed: \1"),
        (r"echo:Mesh is invalid", "there is no mesh"),
        (r" (\d+) ((?:[-+]\d+\.\d+ ?)+)", r"row \1: \2"),
        (r"echo:(.*)", r"\1"),
    ),
    closed=True,
)
MOODS = {"open": Mood(), "plain": PLAIN}
