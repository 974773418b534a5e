import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.printers import Bed
from finchwort.formats import Hint, read_survey, survey_csv
from finchwort.formats.cutting import MAX_BYTES
from finchwort.formats.result import UnreadableTextError
from finchwort.messages.errors import sentence
from tests.fixtures.strategies import surveys

BED = Bed(220, 220)
POINTS = [(15, 15, 0.12), (205, 15, -0.035), (205, 205, -0.1), (15, 205, 0.0)]


def said(text, **hint):
    return read_survey(text, Hint(bed=BED, **hint))


def lines(separator, decimal=".", header=None):
    rows = [separator.join(str(v).replace(".", decimal) for v in p) for p in POINTS]
    return "\n".join(([header] if header else []) + rows)


class PointsTest(unittest.TestCase):
    def check(self, result):
        got = list(zip(result.survey.x, result.survey.y, np.round(result.survey.height, 6), strict=True))
        self.assertEqual(got, [(float(x), float(y), float(z)) for x, y, z in POINTS])
        self.assertEqual(result.layout, "points")

    def test_separators_and_decimals(self):
        for separator, decimal in [
            (",", "."),
            (", ", "."),
            (";", "."),
            (";", ","),
            ("; ", ","),
            ("\t", "."),
            ("\t", ","),
            (" ", "."),
            ("   ", ","),
        ]:
            with self.subTest(separator=separator, decimal=decimal):
                self.check(said(lines(separator, decimal)))

    def test_headers(self):
        for header in ("x,y,z", "X,Y,Height", "x_mm,y_mm,height_mm", "X (mm),Y (mm),Z (mm)"):
            with self.subTest(header):
                self.check(said(lines(",", header=header)))

    def test_columns_in_another_order(self):
        text = "height;y;x\n" + "\n".join(f"{z};{y};{x}" for x, y, z in POINTS)
        self.check(said(text))

    def test_comments_blank_lines_and_trailing_separators(self):
        self.check(said("# my bed\n\n" + lines(",").replace("\n", ",\n\n") + "\n// end\n"))

    def test_bytes_with_a_mark(self):
        self.check(said(b"\xef\xbb\xbf" + lines(",").encode()))
        self.check(said(lines(",").encode("utf-16")))

    def test_real_minus_signs(self):
        self.check(said(lines(" ").replace("-", "−")))

    def test_bad_lines_are_told_one_by_one(self):
        result = said(lines(",") + "\nfoo,1,2\n10,10\n1,2,nan\n")
        self.check(result)
        self.assertEqual([p.line for p in result.problems], [5, 7, 6])
        reasons = {p.line: p.reason for p in result.problems}
        self.assertIn("foo", reasons[5])
        self.assertIn("nan", reasons[7])
        self.assertIn("3 numbers", reasons[6])
        self.assertEqual(result.unread, 3)

    def test_gap_is_the_opposite_of_height(self):
        heights, gaps = said(lines(",")), said(lines(","), values="gap")
        np.testing.assert_allclose(heights.survey.height, -gaps.survey.height)
        self.assertEqual(said(lines(",", header="x,y,gap")).values, "gap")

    def test_places_beside_the_bed_are_places_all_the_same(self):
        text = "\n".join(f"{x - 110} {y - 110} {z}" for x, y, z in POINTS)
        result = said(text)
        self.assertEqual((result.layout, result.unit), ("points", "mm"))
        self.assertEqual(result.survey.x.tolist(), [x - 110 for x, _, _ in POINTS])

    def test_micrometres(self):
        text = "\n".join(f"{x} {y} {round(z * 1000)}" for x, y, z in POINTS)
        guessed = said(text)
        self.assertEqual(guessed.unit, "um")
        self.check(guessed)
        self.check(said(lines(","), unit="mm"))
        self.assertTrue(any("micrometres" in one for one in guessed.assumptions))

    def test_sides_swapped(self):
        plain, swapped = said(lines(",")), said(lines(","), flip_x=True)
        np.testing.assert_allclose(swapped.survey.x, 220 - plain.survey.x)
        front = said(lines(","), flip_y=True)
        np.testing.assert_allclose(front.survey.y, 220 - plain.survey.y)

    def test_one_place_measured_twice(self):
        result = said(lines(",") + "\n15,15,0.14\n")
        self.assertEqual(len(result.survey), 4)
        self.assertAlmostEqual(result.survey.height[0], 0.13)
        self.assertTrue(any("more than once" in one for one in result.assumptions))

    @settings(max_examples=60)
    @given(surveys())
    def test_written_and_read_back(self, survey):
        again = said(survey_csv(survey), values="height", unit="mm").survey
        np.testing.assert_array_equal(again.x, survey.x)
        np.testing.assert_array_equal(again.y, survey.y)
        np.testing.assert_array_equal(again.height, survey.height)


class GridTest(unittest.TestCase):
    TEXT = "0.1 0.2 0.3 0.4\n0.0 0.1 0.2 0.3\n"

    def at(self, result, x, y):
        s = result.survey
        (index,) = np.flatnonzero((s.x == x) & (s.y == y))
        return round(float(s.height[index]), 6)

    def test_first_line_is_the_front(self):
        result = said(self.TEXT)
        self.assertEqual((result.layout, result.columns, result.rows), ("grid", 4, 2))
        self.assertEqual(result.bounds, (15, 15, 205, 205))
        self.assertEqual(self.at(result, 15, 15), 0.1)
        self.assertEqual(self.at(result, 205, 205), 0.3)

    def test_swaps(self):
        self.assertEqual(self.at(said(self.TEXT, flip_y=True), 15, 205), 0.1)
        self.assertEqual(self.at(said(self.TEXT, flip_x=True), 205, 15), 0.1)

    def test_bounds(self):
        result = said(self.TEXT, bounds=(0, 10, 90, 200))
        self.assertEqual(self.at(result, 90, 200), 0.3)
        self.assertFalse(any("15 mm" in one for one in result.assumptions))
        with self.assertRaises(errors.OutOfRangeError):
            said(self.TEXT, bounds=(90, 10, 0, 200))

    def test_three_by_three_is_no_list_of_points(self):
        self.assertEqual(said("0.1 0.2 0.1\n0 0 0\n-0.1 0 -0.1").layout, "grid")
        self.assertEqual(said("110 120 130\n100 110 120\n90 95 99").layout, "grid")

    def test_points_can_be_told_from_a_grid_by_the_person(self):
        self.assertEqual(said("1 1 0.1\n4 1 0\n1 4 0.1\n", layout="points").layout, "points")

    def test_a_line_of_another_length_is_refused(self):
        with self.assertRaises(UnreadableTextError) as caught:
            said("1 2 3 4\n1 2 3\n1 2 3 4\n")
        self.assertEqual([p.line for p in caught.exception.problems], [2])

    def test_an_unread_line_within_is_refused(self):
        """A row left out would move all rows behind it."""
        with self.assertRaises(UnreadableTextError):
            said("0.1 0.2 0.3 0.1\n0.1 oops 0.3 0.1\n0.1 0.2 0.3 0\n")

    def test_chatter_around_it_is_only_told(self):
        result = said("Bed results:\n" + self.TEXT + "ok done now thanks\n")
        self.assertEqual(result.rows, 2)
        self.assertEqual([p.line for p in result.problems], [4])

    def test_no_bed_and_no_bounds(self):
        with self.assertRaises(errors.ChoiceError):
            read_survey(self.TEXT)


class HostileTest(unittest.TestCase):
    def test_nothing_in_it(self):
        for text in ("", "\n\n", "hello", "# 1 2 3", "NaN NaN NaN\n", "\x00\x00"):
            with self.subTest(text), self.assertRaises(UnreadableTextError):
                said(text)

    def test_all_on_one_line(self):
        with self.assertRaises(errors.CollinearError):
            said("10 10 0\n50 50 0\n90 90 0\n200 200 0.1")

    def test_too_large(self):
        with self.assertRaises(errors.OutOfRangeError):
            said("1" * (MAX_BYTES + 1))

    def test_too_many(self):
        text = "\n".join(f"{i % 200},{i // 200},0" for i in range(20_001))
        with self.assertRaises(errors.TooManyReadingsError):
            said(text)
        grid = "\n".join(" ".join(["1"] * 200) for _ in range(101))
        with self.assertRaises(errors.TooManyReadingsError):
            said(grid)

    def test_absurd_numbers(self):
        with self.assertRaises(errors.OutOfRangeError):
            said("1e300 1 0\n200 1 0\n1 200 0")
        with self.assertRaises(UnreadableTextError):
            said("1e999 1e999 1e999 1e999")

    def test_problems_are_kept_with_the_error(self):
        with self.assertRaises(errors.CollinearError) as caught:
            said("10 10 0\n50 50 0\nfoo bar baz\n90 90 0\n200 200 0.1")
        self.assertEqual([p.line for p in caught.exception.problems], [3])

    @settings(max_examples=200)
    @given(st.text(max_size=300))
    def test_any_text_is_read_or_refused(self, text):
        try:
            result = said(text)
        except errors.CoreError as error:
            self.assertTrue(sentence(error))
        else:
            self.assertTrue(np.isfinite(result.survey.height).all())

    @settings(max_examples=200)
    @given(st.text(alphabet="0123456789.,;-+e \t\n", max_size=200))
    def test_any_soup_of_digits_is_read_or_refused(self, text):
        try:
            result = said(text)
        except errors.CoreError:
            return
        self.assertGreaterEqual(len(result.survey), 3)

    @given(st.binary(max_size=200))
    def test_any_bytes_are_read_or_refused(self, data):
        try:
            said(data)
        except errors.CoreError:
            return

    def test_unknown_answers(self):
        for hint in ({"layout": "cloud"}, {"values": "depth"}, {"unit": "inch"}):
            with self.subTest(hint), self.assertRaises(errors.ChoiceError):
                said("1 2 3", **hint)
