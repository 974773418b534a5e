"""Copies of files with one part moved, read back by the tests' own reader; shapely says what lies where.

Sources: ISO 6983-1 (words, G0 to G3, G20, G21, G90 to G92); shapely for outlines and distances.
"""

import io
import unittest

from shapely import affinity
from shapely.geometry import MultiLineString, Point

from finchwort.core.base.errors import CoreError
from finchwort.core.files import Shift
from finchwort.core.printers import Bed, KeepOff
from finchwort.formats.print_file import moved_copy, text_of
from tests.fixtures.plain_reader import read_plain
from tests.fixtures.print_files import read_text
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

SIDE = 220.0
BLOCK, RING, BAR = rectangle(60, 60, 40, 30), disc(170, 150, 30, 48), rectangle(60, 150, 12, 50)
THINGS = [Thing(BLOCK, 0.6, 3), Thing(RING, 1.0), Thing(BAR, 0.6)]
MANNERS = {
    "counted through": Manner(),
    "from move to move": Manner(relative=True),
    "all moves relative": Manner(relative_moves=True),
    "CR LF": Manner(ending="\r\n"),
    "inches": Manner(inches=True),
    "numbered": Manner(numbered=True),
    "arcs": Manner(arcs="ij"),
}


def source(text):
    return lambda: text_of(io.BytesIO(text.encode()))


def joined(copy):
    text = b"".join(copy.text([])).decode()
    copy.close()
    return text


def part_at(found, outline):
    """The number that the product gives the part with this outline."""
    x, y = outline.centroid.coords[0]
    return next(
        i
        for i, one in enumerate(found.parts)
        if one.bounds[0] < x < one.bounds[2] and one.bounds[1] < y < one.bounds[3]
    )


def moved_by(text, outline, dx, dy, bed=None):
    found = read_text(text)
    shift = Shift(dx, dy, part=part_at(found, outline))
    return joined(moved_copy(source(text), found, shift, bed or Bed(SIDE, SIDE)))


class MovedPartTest(unittest.TestCase):
    def test_one_part_goes_and_everything_else_stays(self):
        ways = ((RING, -60.0, -80.5), (BLOCK, 80.0, 0.25), (BAR, 40.0, 10.0))
        for i, (name, manner) in enumerate(MANNERS.items()):
            for outline, dx, dy in ways if i == 0 else ways[i % 3 : i % 3 + 1]:
                with self.subTest(name, x=outline.centroid.x):
                    text, _ = slice_things(THINGS, manner)
                    plain, moved = read_plain(text), read_plain(moved_by(text, outline, dx, dy))
                    self.assertEqual(len(plain.laid), len(moved.laid))
                    self.assertAlmostEqual(plain.filament, moved.filament, delta=1e-6)
                    near = outline.buffer(6)
                    gone = 0
                    for a, b in zip(plain.laid, moved.laid, strict=True):
                        mine = near.contains(Point(a.end[:2]))
                        gone += mine
                        wanted = MultiLineString([a.points])
                        if mine:
                            wanted = affinity.translate(wanted, dx, dy)
                        self.assertLess(wanted.hausdorff_distance(MultiLineString([b.points])), 2e-3, b)
                        self.assertAlmostEqual(a.end[2], b.end[2], delta=1e-6)
                    self.assertGreater(gone, 20)
                    # the last way leads to where it led before
                    self.assertEqual(plain.moves[-1].end[2], moved.moves[-1].end[2])

    def test_lines_of_other_parts_stay_byte_for_byte(self):
        text, _ = slice_things(THINGS, Manner())
        before, after = text.splitlines(), moved_by(text, RING, 0.0, -40.0).splitlines()
        self.assertEqual(len(before), len(after[1:] if after[0] == ";" else after))
        laid = {move.line: move for move in read_plain(text).laid}
        for number, (a, b) in enumerate(zip(before, after[-len(before) :], strict=True), 1):
            move = laid.get(number)
            if move is not None and BLOCK.buffer(6).contains(Point(move.end[:2])):
                self.assertEqual(a, b)
            if a != b:
                self.assertRegex(a, r"[XY]")

    def test_a_way_that_names_one_axis_only_leads_to_the_right_place(self):
        # the way into the part names X alone, the one out of it Y alone
        square = (
            "G1 X{a} Y{b} F6000\nG1 X{c} E1 F1200\nG1 Y{d} E1\nG1 X{a} E1\nG1 Y{b} E1\nG1 X{c} Y{d} E1.4\n"
        )
        one = square.format(a=30, b=30, c=50, d=50)
        other = square.format(a=90, b=30, c=110, d=50).replace("G1 X90 Y30 F6000", "G1 Y30\nG1 X90 F6000")
        layer = f"{one}{other}G1 Y53 F6000\n"
        text = f"M83\nG28\nG1 Z5 F600\nG1 X5 Y5 Z0.2\nG1 X5 Y60 E4 F1200\n{layer}G1 Z0.4\n{layer}G1 Z9\nG1 X10 F6000\n"
        plain = read_plain(text)
        moved = read_plain(moved_by(text, rectangle(100, 40, 20, 20), 25.0, 12.0))
        for a, b in zip(plain.laid, moved.laid, strict=True):
            by = (25.0, 12.0) if a.start[0] > 80 else (0.0, 0.0)
            for before, after in ((a.start, b.start), (a.end, b.end)):
                self.assertAlmostEqual(after[0] - before[0], by[0], delta=1e-3)
                self.assertAlmostEqual(after[1] - before[1], by[1], delta=1e-3)

    def test_what_may_not_be_moved_alone_is_refused(self):
        text, _ = slice_things(THINGS, Manner())
        lies_on = (-110.0, -90.0)
        bar = "G1 X{x} Y{y} F6000\nG1 X{to} E1 F1200\nG1 Y{up} E1\nG1 X{x} E1\nG1 Y{y} E1\n"
        two = bar.format(x=30, y=30, to=60, up=50) + bar.format(x=120, y=30, to=150, up=50)
        start = "M83\nG28\nG1 Z5 F600\nG1 X5 Y5 Z0.2\nG1 X5 Y60 E4 F1200\n"
        across = f"{start}{two}G1 Z0.4\n{two}G1 X60 Y40 F6000\nG1 X120 E5 F1200\n"
        zero = f"{start}{two}G92 X120\nG1 Z0.4\n{two}"
        cases = (
            (text, RING, (80.0, 0.0), "files.move_outside"),
            (text, RING, lies_on, "files.move_part_meets"),
            (slice_things(THINGS, Manner(skirt=True))[0], RING, (-60.0, 0.0), None),
            (slice_things([Thing(BLOCK, 6.0), Thing(RING, 6.0)], Manner(one_by_one=True))[0], RING, (-20, 0), "files.move_part_sequence"),
            (across, rectangle(135, 40, 30, 20), (10.0, 0.0), "files.move_part_joined"),
            (zero, rectangle(135, 40, 30, 20), (10.0, 0.0), "files.move_zero"),
        )  # fmt: skip
        for given, outline, way, code in cases:
            with self.subTest(code, way=way):
                if code is None:
                    moved_by(given, outline, *way)
                    continue
                with self.assertRaises(CoreError) as caught:
                    moved_by(given, outline, *way)
                self.assertEqual(caught.exception.code, code)

    def test_clips_are_kept_clear_of_by_the_part_and_the_ways_to_it(self):
        text, _ = slice_things(THINGS, Manner())
        clip = KeepOff("right clip", 205.0, 60.0, 220.0, 90.0, 6.0)
        bed = Bed(SIDE, SIDE, keep_off=(clip,))
        moved_by(text, RING, 0.0, -30.0, bed)
        with self.assertRaises(CoreError) as caught:
            moved_by(text, RING, 28.0, -75.0, bed)
        self.assertEqual(caught.exception.code, "files.move_clip")
