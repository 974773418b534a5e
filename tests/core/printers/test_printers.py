import itertools
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.printers import Bed, places_doubt, suggest_points, suggest_screw_points, suggest_screws

side = st.floats(40, 2000)


class BedTest(unittest.TestCase):
    @given(side, side, st.sampled_from(["front_left", "centre"]))
    def test_frame(self, width, depth, origin):
        bed = Bed(width, depth, origin)
        self.assertAlmostEqual(bed.x_max - bed.x_min, width)
        self.assertAlmostEqual(bed.y_max - bed.y_min, depth)
        self.assertEqual(bed.x_min == 0, origin == "front_left")

    def test_the_plate_is_centred_under_the_area(self):
        self.assertEqual(Bed(220, 200, "front_left", 235, 220).plate, (-7.5, -10, 227.5, 210))

    def test_bad_beds(self):
        with self.assertRaises(errors.OutOfRangeError):
            Bed(5, 200)
        with self.assertRaises(errors.OutOfRangeError):
            Bed(200, 9000)
        with self.assertRaises(errors.NonFiniteError):
            Bed(math.inf, 200)
        with self.assertRaises(errors.ChoiceError):
            Bed(200, 200, "back right")
        with self.assertRaises(errors.OutOfRangeError):
            Bed(200, 200, "front_left", 190, 200)

    @given(side, side, st.sampled_from([3, 4]))
    def test_screws_lie_on_the_plate(self, width, depth, count):
        bed = Bed(width, depth)
        x0, y0, x1, y1 = bed.plate
        found = suggest_screws(bed, count)
        self.assertEqual(len({name for name, _, _ in found}), count)
        for _, x, y in found:
            self.assertTrue(x0 < x < x1 and y0 < y < y1)

    def test_five_screws_are_not_offered(self):
        with self.assertRaises(errors.ChoiceError):
            suggest_screws(Bed(200, 200), 5)

    @given(side, side, st.integers(2, 9), st.integers(2, 9))
    def test_patterns_fill_the_area_in_walking_order(self, width, depth, columns, rows):
        bed = Bed(width, depth, "centre")
        points = suggest_points(bed, columns, rows)
        self.assertEqual(len(set(points)), columns * rows)
        for (x0, y0), (x1, y1) in itertools.pairwise(points):
            self.assertTrue(x0 == x1 or y0 == y1)
        self.assertTrue(all(bed.x_min < x < bed.x_max and bed.y_min < y < bed.y_max for x, y in points))

    def test_too_large_a_pattern(self):
        with self.assertRaises(errors.OutOfRangeError):
            suggest_points(Bed(200, 200), 1, 5)

    def test_points_near_screws_can_be_reached(self):
        points = suggest_screw_points(Bed(200, 200), [(-5, -5), (205, -5), (205, 205), (-5, 205)])
        self.assertEqual(points, [(15, 15), (185, 15), (185, 185), (15, 185), (100, 100)])
        self.assertEqual(len(suggest_screw_points(Bed(200, 200), [])), 5)


class PlacesTest(unittest.TestCase):
    @given(side, side, st.sampled_from(["front_left", "centre"]), st.integers(2, 6))
    def test_places_on_the_plate_raise_no_doubt(self, width, depth, origin, n):
        bed = Bed(width, depth, origin, min(width + 10, 2000), min(depth + 20, 2000))
        x, y = zip(*suggest_points(bed, n, n), strict=True)
        self.assertIsNone(places_doubt(bed, x, y))
        self.assertIsNone(places_doubt(bed, *zip(bed.plate[:2], bed.plate[2:], strict=True)))

    @given(side, side, st.sampled_from(["front_left", "centre"]))
    def test_the_other_zero_point_is_recognised(self, width, depth, origin):
        other = "centre" if origin == "front_left" else "front_left"
        x, y = zip(*suggest_points(Bed(width, depth, other), 3, 3), strict=True)
        said = places_doubt(Bed(width, depth, origin), x, y)
        self.assertIn("All would lie on it", said)
        self.assertIn("in the middle" if other == "centre" else "at the front left", said)

    def test_places_of_another_machine(self):
        said = places_doubt(Bed(200, 200), [10, 190, 320], [10, 10, 190])
        self.assertTrue(said.startswith("1 of 3 readings lies beside the plate"))
        self.assertIn("Are these readings of this printer", said)
