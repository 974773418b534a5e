"""Files of prints: how fast they are read, how much memory that takes, how fast their first layer is foretold, and
copies are made.

Ratios are measured side by side in one run: the plain loop is what one would write first, and does less.  Exit code 1
when a bound is missed.
"""

from __future__ import annotations

import io
import json
import math
import re
import statistics
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from finchwort.core.files import (
    FirstLayer,
    Foot,
    Limits,
    Shift,
    cut_in_pieces,
    forecast_print,
    place_print,
    plan_bend,
)
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey, make_relief
from finchwort.demo.slicer import Part, Slicing, slice_parts
from finchwort.formats.print_file import bent_copy, moved_copy, read_print
from finchwort.formats.print_file import text_of as text_of_file

FASTER, PER_SECOND = 3.0, 25.0
"""So many times as fast as the plain loop, or so many MB a second."""
MEMORY, HUGE = 200, 300
"""MB at most while a file of so many MB is read."""
SEGMENTS, FORETOLD = 300_000, 0.3
PLACED = 1.0
COPIED = 10.0
"""Seconds for a copy of 25 MB."""
CHILD = """
import json, re, sys
from finchwort.formats.print_file import bent_copy, moved_copy, read_print
from finchwort.formats.print_file import text_of as text_of_file
with open(sys.argv[1], "rb") as file:
    found = read_print(file)
# the peak of this program alone; the counter of getrusage also knows the program that forked it
peak = int(re.search(r"VmHWM:\\s+(\\d+)", open("/proc/self/status").read()).group(1))
print(json.dumps({"memory": peak / 1024, "lines": found.lines}))
"""


def parts() -> list[Part]:
    """Four parts of the kinds that people print."""
    return [
        Part("clip", 60, 60, 40, 30, 20),
        Part("label", 150, 60, 60, 40, 3, brim=5),
        Part("peg", 60, 140, 10, 0, 60, brim=6),
        Part("cup", 150, 140, 50, 0, 30),
    ]


def text_of(megabytes: float) -> Iterator[bytes]:
    """A print of about so many MB, piece by piece: the same layers again and again, each time higher."""
    one = "\n".join(slice_parts(parts(), Slicing(arcs=False, sparse=2.0))) + "\n"
    head, _, rest = one.partition("; layer 1\n")
    body, _, end = rest.partition("; end\n")
    yield head.encode()
    layers = re.split(r"(?<=G1 Z)([0-9.]+)", body)
    for copy in range(max(1, round(megabytes * 1e6 / len(body)))):
        layers[1::2] = [f"{float(z) + 60 * (copy > 0):.3f}" for z in layers[1::2]]
        yield f"; layer again\n{''.join(layers)}".encode()
    yield f"; end\n{end}".encode()


def plain_loop(text: bytes) -> tuple[float, float]:
    """Split words line by line; follow places and filament, and add both up."""
    x = y = z = e = total = way = 0.0
    relative = relative_e = False
    for line in io.TextIOWrapper(io.BytesIO(text)):
        words = line.split(";", 1)[0].split()
        if not words:
            continue
        command = words[0]
        if command in ("G0", "G1", "G2", "G3"):
            a, b, used = x, y, 0.0
            for word in words[1:]:
                letter, value = word[0], float(word[1:])
                if letter == "X":
                    x = x + value if relative else value
                elif letter == "Y":
                    y = y + value if relative else value
                elif letter == "Z":
                    z = z + value if relative else value
                elif letter == "E":
                    used = value if relative_e or relative else value - e
                    e = e + value if relative_e or relative else value
            total += used
            if used > 0:
                way += ((x - a) ** 2 + (y - b) ** 2) ** 0.5
        elif command in ("G90", "G91"):
            relative = command == "G91"
        elif command in ("M82", "M83"):
            relative_e = command == "M83"
        elif command == "G92":
            e = 0.0
    return total, way


def fine_text(lines: int = 300_000) -> bytes:
    """A print whose first layer is that many short lines: two plates, filled to and fro, and two layers above."""
    per_mm = 0.2 * 0.45 / (math.pi * 1.75**2 / 4)
    rows = round(199 / 0.45)
    text = ["M140 S60", "M104 S210", "G28", "M83"]
    for z, many in ((0.2, max(1, lines // (2 * rows))), (0.4, 20), (0.6, 20)):
        text.append(f"G1 Z{z} F600")
        for left in (10.0, 115.0):
            text.append(f"; part at {left:.0f}\nG0 X{left} Y10 F6000\nG1 F1200")
            x = left + 94.0 * np.arange(1, many + 1) / many
            for row in range(rows):
                y = 10 + 0.45 * row
                there = x if row % 2 == 0 else 2 * left + 94.0 - x
                text += [
                    f"G1 X{a:.3f} Y{b:.3f} E{94.0 / many * per_mm:.5f}"
                    for a, b in zip(there, y + 0.02 * np.sin(there), strict=True)
                ]
                text.append(f"G1 Y{y + 0.45:.3f} E{0.45 * per_mm:.5f}")
    return "\n".join([*text, "M104 S0\n"]).encode()


def side_by_side(*functions: Callable[[], object], rounds: int = 5) -> list[float]:
    """Run functions in turn; the median seconds of each."""
    times: list[list[float]] = [[] for _ in functions]
    for _ in range(rounds):
        for function, kept in zip(functions, times, strict=True):
            begun = time.perf_counter()
            function()
            kept.append(time.perf_counter() - begun)
    return [statistics.median(kept) for kept in times]


def long_layer(count: int) -> FirstLayer:
    """A first layer of so many short lines over a bed of 220 mm."""
    rng = np.random.default_rng(5)
    start = rng.uniform(10, 210, (count, 2))
    angle = rng.uniform(0, 2 * np.pi, count)
    end = start + np.column_stack([np.cos(angle), np.sin(angle)]) * rng.uniform(0.3, 1.5, count)[:, None]
    ones = np.ones(count)
    return FirstLayer(
        0.2,
        start,
        end,
        0.42 + 0.01 * rng.integers(0, 12, count),
        0.08 * ones,
        20 * ones,
        np.arange(count),
        np.arange(count) // 40,
        np.zeros(count, dtype=np.int8),
        (start[:, 0] > 110).astype(np.int16),
    )


def dome() -> Survey:
    """Readings of a domed bed."""
    x, y = np.meshgrid(np.linspace(15, 205, 7), np.linspace(15, 205, 7))
    u, v = (x - 110) / 110, (y - 110) / 110
    return Survey(x.ravel(), y.ravel(), (0.14 * (1 - (u**2 + v**2) / 2)).ravel())


def reading() -> Iterator[tuple[str, str, bool]]:
    """Speed beside the plain loop."""
    text = b"".join(text_of(25))
    ours, plain = side_by_side(lambda: read_print(io.BytesIO(text)), lambda: plain_loop(text))
    speed, times = len(text) / 1e6 / ours, plain / ours
    good = speed >= PER_SECOND or times >= FASTER
    yield "read a print", f"{speed:.0f} MB/s, {times:.1f} times the plain loop", good
    fine = fine_text()
    ours, plain = side_by_side(lambda: read_print(io.BytesIO(fine)), lambda: plain_loop(fine), rounds=3)
    found = len(read_print(io.BytesIO(fine)).layer)
    yield (
        f"first layer of {found} lines",
        f"{ours:.1f} s, {ours / plain:.1f} times the plain loop",
        ours < 8 * plain,
    )


def memory(folder: Path) -> Iterator[tuple[str, str, bool]]:
    """Memory for a very large file, in a process of its own."""
    path = folder / "huge.gcode"
    with open(path, "wb") as file:
        file.writelines(text_of(0.97 * HUGE))
    answer = subprocess.run(
        [sys.executable, "-c", CHILD, str(path)], capture_output=True, check=True, cwd=ROOT, text=True
    )
    found = json.loads(answer.stdout)
    size = path.stat().st_size / 1e6
    path.unlink()
    yield "memory", f"{found['memory']:.0f} MB for {size:.0f} MB", found["memory"] < MEMORY


def foretelling() -> Iterator[tuple[str, str, bool]]:
    """The forecast of a long first layer, cut into pieces and all."""
    layer = long_layer(SEGMENTS)
    feet = tuple(Foot(str(i), 5000.0, 20.0, (0.0, 0.0, 110.0, 220.0), 0.0, 1, 50.0, False) for i in range(2))
    relief = make_relief(dome(), Bed(220, 220))
    (whole,) = side_by_side(lambda: forecast_print(layer, feet, relief, relief.middle))
    yield "forecast of 300,000 lines", f"{1000 * whole:.0f} ms", whole < FORETOLD
    pieces = cut_in_pieces(layer)
    gaps = forecast_print(pieces, feet, relief).gap
    (again,) = side_by_side(lambda: forecast_print(pieces, feet, relief, 0.01, gaps))
    yield "the same at another offset", f"{1000 * again:.0f} ms", again < FORETOLD


def placing() -> Iterator[tuple[str, str, bool]]:
    """The best place for a print of many lines, of all shifts and quarter turns."""
    bed = Bed(220, 220)
    found = read_print(io.BytesIO(b"".join(text_of(3))))
    relief = make_relief(dome(), bed)
    (took,) = side_by_side(lambda: place_print(found.layer, relief, bed, relief.middle))
    yield "place of a print", f"{1000 * took:.0f} ms", took < PLACED
    (took,) = side_by_side(lambda: place_print(long_layer(SEGMENTS), relief, bed, relief.middle), rounds=3)
    yield "place of 300,000 lines", f"{1000 * took:.0f} ms", took < PLACED


def copying() -> Iterator[tuple[str, str, bool]]:
    """Copies of a file: bent at its foot, bent all the way up, moved."""
    text = b"".join(text_of(25))
    found = read_print(io.BytesIO(text))
    relief = make_relief(dome(), Bed(220, 220))

    def source() -> Iterator[bytes]:
        return text_of_file(io.BytesIO(text))

    for name, top in (("bent copy of 25 MB", None), ("the same, every layer bent", 900.0)):
        begun = time.perf_counter()
        bend = plan_bend(found, cut_in_pieces(found.layer), relief, top).bend
        copy, bender = bent_copy(source, found, bend, Limits(0.05))
        took = time.perf_counter() - begun
        copy.close()
        yield name, f"{took:.1f} s, {copy.changed} lines as {bender.pieces}", took < COPIED
    begun = time.perf_counter()
    copy = moved_copy(source, found, Shift.of(found.layer, 5.0, 5.0), Bed(220, 220))
    took = time.perf_counter() - begun
    copy.close()
    yield "moved copy of 25 MB", f"{took:.1f} s, {copy.changed} lines", took < COPIED


def main() -> int:
    """Measure, and print a row each."""
    import tempfile

    missed = 0
    with tempfile.TemporaryDirectory() as folder:
        for rows in (reading(), foretelling(), placing(), copying(), memory(Path(folder))):
            for name, found, good in rows:
                print(f"{name:32} {found:48} {'' if good else 'MISSED'}", flush=True)
                missed += not good
    return 1 if missed else 0


if __name__ == "__main__":
    sys.exit(main())
