"""JSON, SDF, console text, serpentine grids, indices, pictures; and the way there and back."""

import json
import struct
import unittest
import zlib

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey
from finchwort.formats import Hint, read_survey, survey_csv, survey_json, survey_sdf
from finchwort.formats.documents import KIND
from finchwort.formats.result import UnreadableTextError
from finchwort.messages.errors import sentence

BED = Bed(220, 220)
HINT = Hint(bed=BED)
ROWS = [[0.1, 0.05, -0.02], [0.08, 0.0, -0.05], [0.03, -0.04, -0.1]]


def grid(columns=4, rows=3, seed=1, digits=4):
    rng = np.random.default_rng(seed)
    xs, ys = np.round(np.linspace(15, 205, columns), 2), np.round(np.linspace(15, 205, rows), 2)
    return Survey.from_grid(xs, ys, np.round(rng.uniform(-0.3, 0.3, (rows, columns)), digits))


def same(case, one, two, digits=9):
    """The same readings at the same places, in whatever order."""
    case.assertEqual(len(one), len(two))
    a = sorted(zip(one.x, one.y, one.height, strict=True))
    b = sorted(zip(two.x, two.y, two.height, strict=True))
    np.testing.assert_allclose(a, b, rtol=0, atol=10.0**-digits)


def chunk(kind, body):
    return struct.pack(">I", len(body)) + kind + body + struct.pack(">I", zlib.crc32(kind + body))


def picture(readings, damage=False):
    """The least PNG there is, with readings in an iTXt chunk as the front end writes them."""
    header = struct.pack(">IIBBBBB", 1, 1, 8, 0, 0, 0, 0)
    note = chunk(b"iTXt", KIND.encode() + b"\0\0\0\0\0" + readings.encode())
    if damage:
        note = note[:-6] + b"xx" + note[-4:]
    parts = [chunk(b"IHDR", header), chunk(b"IDAT", zlib.compress(b"\0\0")), note, chunk(b"IEND", b"")]
    return b"\x89PNG\r\n\x1a\n" + b"".join(parts)


class RoundTripTest(unittest.TestCase):
    @given(st.integers(2, 12), st.integers(2, 12), st.integers(0, 2**31), st.integers(1, 8))
    def test_every_format_gives_the_same_numbers(self, columns, rows, seed, digits):
        survey = grid(columns, rows, seed, digits)
        for name, data in (
            ("csv", survey_csv(survey)),
            ("json", survey_json(survey)),
            ("sdf", survey_sdf(survey)),
            ("binary sdf", survey_sdf(survey, binary=True)),
            (
                "svg",
                f'<svg xmlns="x"><metadata id="{KIND}">{survey_json(survey).replace(chr(34), "&quot;")}</metadata></svg>',
            ),
            ("png", picture(survey_json(survey))),
        ):
            with self.subTest(name):
                same(self, read_survey(data, HINT).survey, survey)

    def test_scattered_readings(self):
        survey = Survey([1.5, 100.25, 40], [3, 7.125, 180], [0.1, -0.05, 0.123456789])
        for data in (survey_csv(survey), survey_json(survey)):
            found = read_survey(data, HINT).survey
            self.assertEqual(found.height.tolist(), survey.height.tolist())
        with self.assertRaises(ChoiceError) as caught:
            survey_sdf(survey)
        self.assertIn("even, full grid", sentence(caught.exception))


class SdfTest(unittest.TestCase):
    def test_a_damaged_file_is_refused_in_words(self):
        good = survey_sdf(grid(), binary=True)
        for data in (
            good[:50],
            good[:120],
            b"bISO-1.0" + b"\xff" * 200,
            b"aISO-1.0\r\nnonsense",
            b"bISO-2.0",
        ):
            with self.subTest(data[:12]), self.assertRaises(CoreError):
                read_survey(data, HINT)

    def test_a_header_that_promises_too_much(self):
        for mark, form in ((b"bISO-1.0", "<HH"), (b"bISO-2.0", "<II")):
            data = mark + bytes(34) + struct.pack(form, 60_000, 60_000) + bytes(60)
            with self.subTest(mark), self.assertRaises(OutOfRangeError):
                read_survey(data, HINT)

    def test_points_not_measured_are_left_out(self):
        text = survey_sdf(grid()).decode().replace("\r\n*\r\n", "\r\n*\r\nBAD ", 1)
        lines = text.split("\r\n")
        at = lines.index("*") + 1
        numbers = lines[at].replace("BAD ", "").split()
        lines[at] = "BAD " + " ".join(numbers[1:])
        found = read_survey("\r\n".join(lines).encode(), HINT)
        self.assertEqual(len(found.survey), 11)
        self.assertIn("not measured", " ".join(found.assumptions))

    def test_pasted_as_text(self):
        same(self, read_survey(survey_sdf(grid()).decode(), HINT).survey, grid())

    def test_sides_are_swapped(self):
        plain = read_survey(survey_sdf(grid()), HINT).survey
        flipped = read_survey(survey_sdf(grid()), Hint(bed=BED, flip_x=True, flip_y=True)).survey
        self.assertEqual(plain.height.tolist(), flipped.height.tolist()[::-1])


class JsonTest(unittest.TestCase):
    def test_ways_to_write_it(self):
        survey = Survey([10, 200, 10, 200], [10, 10, 200, 200], [0.1, 0, -0.05, 0.02])
        points = list(zip(survey.x.tolist(), survey.y.tolist(), survey.height.tolist(), strict=True))
        for value in (
            points,
            {"points": points},
            [{"x": x, "y": y, "z": z} for x, y, z in points],
            {"readings": [{"X": x, "Y": y, "Height": z} for x, y, z in points]},
            {"x": survey.x.tolist(), "y": survey.y.tolist(), "z": survey.height.tolist()},
            {"x": survey.x.tolist(), "y": survey.y.tolist(), "gap": (-survey.height).tolist()},
        ):
            with self.subTest(str(value)[:40]):
                same(self, read_survey(json.dumps(value), HINT).survey, survey)

    def test_a_matrix(self):
        for value in (ROWS, {"mesh": ROWS}, {"grid": ROWS}):
            found = read_survey(json.dumps(value, indent=1), HINT)
            self.assertEqual((found.layout, found.columns, found.rows), ("grid", 3, 3))
            self.assertEqual(found.survey.height.tolist(), np.ravel(ROWS).tolist())

    def test_refused_in_words(self):
        for text in (
            '{"x": [1]',
            "{}",
            '{"a": 1}',
            "[]",
            '[{"x": 1, "y": 2}]',
            '{"x": [1, 2], "y": [1], "z": [1]}',
            "[" * 5000,
        ):
            with self.subTest(text[:20]), self.assertRaises(CoreError):
                read_survey(text, HINT)

    def test_values_that_are_no_numbers(self):
        with self.assertRaises(CoreError) as caught:
            read_survey('[[0, 0, null], [1, 1, "x"]]', HINT)
        self.assertEqual(len(caught.exception.problems), 2)


class ConsoleTest(unittest.TestCase):
    def test_labelled_readings_among_chatter(self):
        text = "\n".join(
            [
                "12:04:11.204 > G28",
                "echo:busy: processing",
                "ok",
                "Bed X: 15.00 Y: 15.00 Z: 0.052",
                "Recv: Bed X: 205.0 Y: 15.00 Z: -0.041",
                "ok T:60.1 /60.0 B:60.0 /60.0",
                "probe X:205 Y:205 Z:-0.11",
                "x=15.0, y=205.0, z=.03",
            ]
        )
        found = read_survey(text, HINT)
        self.assertEqual(found.layout, "points")
        self.assertEqual(found.survey.height.tolist(), [0.052, -0.041, -0.11, 0.03])
        self.assertIn("4 lines without a reading", " ".join(found.assumptions))

    def test_a_matrix_in_brackets(self):
        lines = "\n".join(f"// [{', '.join(map(str, row))}]" for row in ROWS)
        found = read_survey(f"mesh follows\n{lines}\nok", HINT)
        self.assertEqual(found.survey.height.tolist(), np.ravel(ROWS).tolist())
        whole = read_survey(f"leveled = [{', '.join(str(row) for row in ROWS)}]", HINT)
        self.assertEqual(whole.survey.height.tolist(), np.ravel(ROWS).tolist())

    def test_a_tabbed_matrix_with_row_and_column_numbers(self):
        text = "Bed Topography Report:\n\n\t0\t1\t2\n" + "\n".join(
            f"{2 - i}\t" + "\t".join(f"{v:+.3f}" for v in row) for i, row in enumerate(ROWS)
        )
        found = read_survey(text + "\nok\n", HINT)
        self.assertEqual((found.columns, found.rows), (3, 3))
        back = found.survey.y == found.survey.y.max()
        self.assertEqual(found.survey.height[back].tolist(), ROWS[0])
        self.assertIn("count down", " ".join(found.assumptions))

    def test_chatter_alone(self):
        with self.assertRaises(UnreadableTextError):
            read_survey("ok\nbusy\nX:1 Y:2\n", HINT)


CHATTER = st.sampled_from(
    [
        "ok",
        "echo:busy: processing",
        "ok T:60.1 /60.0 B:60.0 /60.0 @:0",
        "// probing",
        "",
        "Recv: ok",
        "wait",
        "M117 level 3 of 9",
    ]
)


class AnyConsoleTest(unittest.TestCase):
    @given(st.integers(3, 6), st.integers(3, 6), st.integers(0, 2**31), st.data())
    def test_readings_are_found_among_any_chatter(self, columns, rows, seed, data):
        survey = grid(columns, rows, seed, 3)
        lines = [
            f"Bed X: {x:.2f} Y: {y:.2f} Z: {z:.3f}"
            for x, y, z in zip(survey.x, survey.y, survey.height, strict=True)
        ]
        same(self, read_survey("\n".join(self.mixed(lines, data)), HINT).survey, survey)

    @given(st.integers(3, 6), st.integers(3, 6), st.integers(0, 2**31), st.data())
    def test_so_is_a_matrix_in_brackets(self, columns, rows, seed, data):
        survey = grid(columns, rows, seed, 3)
        table = survey.height.reshape(rows, columns)
        lines = [f"[{', '.join(f'{v:.3f}' for v in row)}]" for row in table]
        found = read_survey("\n".join(self.mixed(lines, data)), Hint(bed=BED, bounds=(15, 15, 205, 205)))
        same(self, found.survey, survey, 2)

    def mixed(self, lines, data):
        text = []
        for line in lines:
            text += [*data.draw(st.lists(CHATTER, max_size=2)), line]
        return [*text, "ok"]


class OrderTest(unittest.TestCase):
    def test_serpentine(self):
        rows = [[0.0, 0.1, 0.2], [0.2, 0.1, 0.0], [0.0, 0.1, 0.2]]
        text = "\n".join(" ".join(map(str, row)) for row in rows)
        self.assertIn("to and fro?", " ".join(read_survey(text, HINT).assumptions))
        found = read_survey(text, Hint(bed=BED, serpentine=True))
        self.assertTrue(found.serpentine)
        self.assertEqual(found.survey.height.tolist(), [0.0, 0.1, 0.2] * 3)

    def test_indices(self):
        text = "i j z\n" + "\n".join(f"{i} {j} {ROWS[j][i]}" for i in range(3) for j in range(3))
        found = read_survey(text, HINT)
        self.assertEqual(found.layout, "indices")
        self.assertEqual(found.survey.height.tolist(), np.ravel(ROWS).tolist())
        self.assertEqual(found.bounds, (15, 15, 205, 205))
        from_one = "\n".join(f"{i + 1},{j + 1},{ROWS[j][i]}" for i in range(3) for j in range(3))
        self.assertEqual(read_survey(from_one, HINT).survey.height.tolist(), np.ravel(ROWS).tolist())

    def test_a_grid_with_a_hole_is_not_guessed_as_indices(self):
        with self.assertRaises(CoreError):
            read_survey("0 0 1\n1 0 2\n0 1 3\n2 2 4", Hint(bed=BED, layout="indices"))

    def test_a_list(self):
        text = "\n".join(str(v) for v in np.ravel(ROWS))
        found = read_survey(text, HINT)
        self.assertEqual((found.layout, found.columns), ("list", 3))
        six = read_survey(" ".join("123456"), Hint(bed=BED, columns=3, unit="um"))
        self.assertEqual((six.columns, six.rows), (3, 2))
        with self.assertRaises(ChoiceError):
            read_survey("\n".join("12345678"), HINT)


class PictureTest(unittest.TestCase):
    def test_a_picture_of_someone_elses(self):
        plain = picture("{}").replace(KIND.encode(), b"some-other-words")
        with self.assertRaises(UnreadableTextError):
            read_survey(plain, HINT)
        with self.assertRaises(UnreadableTextError):
            read_survey(picture(survey_json(grid()), damage=True), HINT)
        with self.assertRaises(UnreadableTextError):
            read_survey(picture(survey_json(grid()))[:90], HINT)

    @given(st.binary(max_size=300))
    def test_any_bytes_are_read_or_refused(self, data):
        for start in (b"", b"\x89PNG\r\n\x1a\n", b"bISO-1.0", b"aISO-1.0", b"[", b"{"):
            try:
                read_survey(start + data, HINT)
            except CoreError:
                continue
