"""Files of prints against a reader that takes one word after the other, and arcs against shapely.

Sources: ISO 6983-1 (words, G0 to G3, G20, G21, G90 to G92); the others are common practice of desktop printers.
"""

import io
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString

from finchwort.core.base.errors import CoreError
from finchwort.core.files import Gathering, arc_middles, flatten_arcs
from finchwort.core.first_layer import filament_area
from finchwort.formats.print_file import read_print
from finchwort.formats.print_file.motion import Motion
from finchwort.formats.print_file.words import read_block
from tests.fixtures.plain_reader import read_plain
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

MANNERS = {
    "counted through, reset each layer": Manner(),
    "from move to move": Manner(relative=True),
    "never reset": Manner(reset=False),
    "numbers and checksums, CR LF": Manner(numbered=True, ending="\r\n"),
    "all moves relative": Manner(relative_moves=True),
    "inches": Manner(inches=True),
    "one part after the other": Manner(one_by_one=True, skirt=True),
    "concentric, flat section": Manner(concentric=True, rounded=False),
}


def followed(text, size=None):
    """Moves as the product follows them, in blocks of so many bytes."""
    data, motion, moves, first = text.encode(), Motion(), [], 1
    lines = data.splitlines(keepends=True)
    step = len(lines) if size is None else size
    for i in range(0, len(lines), step):
        block = read_block(b"".join(lines[i : i + step]), first)
        first += len(lines[i : i + step])
        moves += list(motion.follow(block))
    return moves


def columns(moves):
    return {
        "start": np.concatenate([m.start for m in moves] or [np.zeros((0, 3))]),
        "end": np.concatenate([m.end for m in moves] or [np.zeros((0, 3))]),
        "filament": np.concatenate([m.filament for m in moves] or [np.zeros(0)]),
        "line": np.concatenate([m.line for m in moves] or [np.zeros(0)]),
        "way": np.concatenate([m.lengths()[0] for m in moves] or [np.zeros(0)]),
    }


class AgainstPlainTest(unittest.TestCase):
    def same(self, text, size=None, way=1e-4):
        ours, theirs = columns(followed(text, size)), read_plain(text).moves
        keep = (ours["way"] > 1e-6) | (ours["filament"] != 0) | (ours["start"][:, 2] != ours["end"][:, 2])
        self.assertEqual(ours["line"][keep].tolist(), [m.line for m in theirs])
        for name in ("start", "end"):
            wanted = np.array([getattr(m, name) for m in theirs]).reshape(-1, 3)
            np.testing.assert_allclose(ours[name][keep], wanted, atol=1e-6)
        np.testing.assert_allclose(ours["filament"][keep], [m.filament for m in theirs], atol=1e-6)
        np.testing.assert_allclose(ours["way"][keep], [m.way for m in theirs], atol=way, rtol=way)

    def test_prints_in_every_manner(self):
        things = [
            Thing(rectangle(60, 60, 20, 12), 1.0, brim=3),
            Thing(rectangle(110, 60, 24, 24).difference(rectangle(110, 60, 8, 8)), 0.6),
        ]
        for name, manner in MANNERS.items():
            with self.subTest(name):
                text, laid = slice_things(things, manner)
                self.same(text)
                self.same(text, size=97)
                found = read_print(io.BytesIO(text.encode()))
                self.assertAlmostEqual(found.filament, laid, delta=laid * 1e-4)

    def test_arcs_by_middle_and_by_radius(self):
        text = "G21\nG90\nM83\nG28\nG1 Z0.2 F600\nG0 X60 Y50\n"
        text += "G3 X40 Y50 I-10 J0 E1 F1200\nG2 X60 Y50 R10 E1\nG3 X60 Y50 I-5 J5 E2\n"
        text += "G2 X70 Y60 R-12 E1\nG3 X80 Y52 R9.5 E1\n"
        self.same(text, way=1e-5)
        # an arc whose ends are not as far from its middle is gone as a spiral
        self.same(f"{text}g2x75y50i-3j-4e.5\n", way=1e-3)

    def test_words_close_together_and_far_apart(self):
        self.same(
            "G28\nM83\nG1X10Y20E1F1200\ng1 x 30 y40 e .5\n  G1   X5  Y6 \tE1\nX7 Y8\nG1 X+9 Y-3. E1.5\n"
        )

    def test_remarks_anywhere(self):
        self.same(
            "G28 ; X5\nM83\n(G1 X99)\nG1 X10 (Y99) Y2 E1 F600 ; E9 (\n;G1 X1\nM117 G1 X50 Y60\nG1 X1 Y1 E1\n"
        )

    def test_several_commands_on_a_line(self):
        self.same("G21 G90 G28\nG91 G1 X10 Y5 F600\nG90 G1 X1 Y1\nG1 X3 M104 S200\n")

    def test_names_of_macros_are_no_moves(self):
        self.same(
            "G28\nM83\nXY_MOVE X5\nEXCLUDE_OBJECT NAME=A\nTIMELAPSE_TAKE_FRAME\nG1 X4 Y4 E1 F600\nZ_TILT\n"
        )

    def test_zeros_that_are_moved(self):
        self.same(
            "G28\nG1 X10 Y10 Z5 F900\nG92 X0 Y0\nG1 X5 Y5 E1\nG92 Z0\nG1 Z1\nG92\nG1 X1 E1\nG28 X\nG1 X2 Y2\nG92 E\nG1 X4 E2\n"
        )

    def test_long_and_short_numbers(self):
        self.same(
            "G28\nM83\nG1 X10.123456789012 Y0.000000012345 E1.5 F600\nG1 X-123.4567891 Y1234.678901 E0.00001\n"
            "G1 X00012.5 Y.5 E1.\n"
        )

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_random_programmes(self, data):
        number = st.one_of(
            st.integers(-200, 300).map(str),
            st.floats(-200, 300).map(lambda v: f"{v:.3f}"),
            st.floats(-2, 2).map(lambda v: f"{v:.6f}"),
            st.floats(0, 1).map(lambda v: f"{v:.5f}"[1:]),
        )
        feed = st.integers(1, 12000).map(lambda v: f"F{v}")

        @st.composite
        def move(draw):
            words = [draw(st.sampled_from(["G0", "G1", "G01", "g1"]))]
            for letter in draw(st.lists(st.sampled_from("XYZE"), unique=True, max_size=4)):
                words.append(letter + draw(number))
            if draw(st.booleans()):
                words.append(draw(feed))
            return draw(st.sampled_from([" ", "  "])).join(words)

        @st.composite
        def arc(draw):
            command, radius = draw(st.sampled_from(["G2", "G3"])), draw(st.floats(1, 30))
            if draw(st.booleans()):
                return f"{command} X{draw(number)} Y{draw(number)} R{radius + 400:.2f} E{draw(number)}"
            # both ends as far from the middle, as ISO 6983-1 has it: a full circle
            return f"{command} I{radius:.3f} J{draw(number)} E{draw(number)}"

        other = st.sampled_from(
            [
                "G20",
                "G21",
                "G90",
                "G91",
                "M82",
                "M83",
                "G92 E0",
                "G92 X3 Y4",
                "G92",
                "G28",
                "G28 Z",
                "M104 S200",
            ]
            + [
                "; remark",
                "",
                "M107",
                "G4 P100",
                "X5 Y6",
                "T1",
                "M73 P5 R3",
                "M117 hello X7",
                "G92 Z0.1",
                "E1",
            ]
        )
        lines = data.draw(st.lists(st.one_of(move(), move(), move(), arc(), other), min_size=1, max_size=60))
        text = "\n".join(["G1 F600", *lines]) + "\n"
        moves = read_plain(text).moves
        if any(abs(v) > 9e4 for m in moves for v in (*m.start, *m.end)):
            return
        self.same(text, data.draw(st.sampled_from([None, 1, 7])), way=2e-3)


class ArcsAgainstShapelyTest(unittest.TestCase):
    """shapely (GEOS): Hausdorff distance of the straight lines from a fine arc."""

    def test_straight_lines_stay_within_a_hundredth(self):
        for radius in (0.3, 2.0, 25.0, 400.0):
            for sweep in (0.3, 1.5, 3.1, 5.9):
                fine = [
                    (radius * math.cos(sweep * k / 4000), radius * math.sin(sweep * k / 4000))
                    for k in range(4001)
                ]
                start = np.array([[*fine[0], 0.2]])
                end = np.array([[*fine[-1], 0.2]])
                _, begin, finish = flatten_arcs(start, end, np.zeros((1, 2)), np.array([False]))
                lines = LineString([tuple(begin[0, :2]), *map(tuple, finish[:, :2])])
                self.assertLess(lines.hausdorff_distance(LineString(fine)), 0.0105, (radius, sweep))

    def test_middles_lie_as_far_from_both_ends(self):
        rng = np.random.default_rng(3)
        start, end = rng.uniform(0, 50, (200, 2)), rng.uniform(0, 50, (200, 2))
        radius = rng.uniform(40, 90, 200) * rng.choice([-1, 1], 200)
        middle = arc_middles(start, end, radius, rng.random(200) < 0.5)
        for ends in (start, end):
            np.testing.assert_allclose(np.hypot(*(ends - middle).T), np.abs(radius), rtol=1e-9)


class VolumeTest(unittest.TestCase):
    """By hand, and by the plain reader."""

    def test_a_small_file_by_hand(self):
        # 10 mm of 1.75 mm filament is 24.053 mm3: a line 100 mm long of 0.2405 mm2
        text = b"M83\nG28\nG1 Z0.3 F600\nG0 X0 Y0\nG1 X100 Y0 E10 F1200\nG1 X100 Y50 E5\n"
        found = read_print(io.BytesIO(text))
        self.assertAlmostEqual(found.volume, 15 * math.pi * 1.75**2 / 4, places=6)
        self.assertAlmostEqual(float(found.layer.length.sum()), 150.0, places=3)
        self.assertAlmostEqual(float(found.layer.area[0]), 0.24053, places=4)

    def test_totals_and_lengths_of_a_print(self):
        text, _ = slice_things([Thing(disc(100, 100, 30), 1.0, 4.0)], Manner(relative=True))
        plain, gathering = read_plain(text), Gathering(filament_area(1.75))
        for moves in followed(text):
            gathering.add(moves)
        self.assertAlmostEqual(gathering.filament, plain.filament, places=4)
        wanted = sum(m.way for m in plain.laid)
        self.assertAlmostEqual(sum(gathering.levels.values()), wanted, delta=wanted * 1e-6)
        seconds = sum(m.way / m.speed for m in plain.moves if m.way)
        # changes of speed cost something on top
        self.assertGreater(gathering.seconds, seconds)
        self.assertLess(gathering.seconds, 1.6 * seconds)


class FuzzTest(unittest.TestCase):
    """Nothing that is thrown at the reader brings it down: an answer, or one of our own refusals."""

    def read(self, data):
        try:
            read_print(io.BytesIO(data))
        except CoreError as error:
            self.assertTrue(error.code.startswith(("files.", "first_layer.")), error.code)

    @settings(max_examples=150, deadline=None)
    @given(st.binary(max_size=3000))
    def test_bytes(self, data):
        self.read(data)

    @settings(max_examples=150, deadline=None)
    @given(st.text(alphabet="GMXYZEFIJRTNPS0123456789.-+ \n\r;*()eE_=\t", max_size=2000))
    def test_almost_g_code(self, text):
        self.read(text.encode())

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_a_print_with_faults(self, data):
        text = bytearray(PRINT)
        for _ in range(data.draw(st.integers(1, 30))):
            at = data.draw(st.integers(0, len(text) - 1))
            text[at : at + data.draw(st.integers(0, 20))] = data.draw(st.binary(max_size=6))
        self.read(bytes(text[: data.draw(st.integers(1, len(text)))]))

    def test_numbers_beyond_all_measure(self):
        for line in (
            "G1 X1e300 Y1 E1",
            "G1 X99999999999999999999 E1",
            "G1 X1 E999999999999",
            "G2 X1 I1e9 E1",
        ):
            self.read(f"M83\nG1 Z0.2 F600\nG1 X1 Y1\nG1 X9 Y9 E1\n{line}\n".encode())


PRINT = slice_things([Thing(rectangle(50, 50, 12, 12), 0.6)], Manner(relative=True))[0].encode()


if __name__ == "__main__":
    unittest.main()
