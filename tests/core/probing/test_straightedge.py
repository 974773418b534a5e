"""Straightedge lines in their places, and the shape they show together."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.printers import Bed
from finchwort.core.probing import DIRECTIONS, compare_with_survey, lay_line, shape_of, usual_length

BED = Bed(240, 200, "centre")
BOW = st.floats(-0.3, 0.3)


def gaps_under(bed, direction, surface, across=None, places=7):
    """What a rigid edge on a surface leaves: it rests on two high points, so that nothing goes through it."""
    length = usual_length(bed, direction)
    along = np.linspace(0, length, places)
    laid = lay_line(bed, direction, along, np.zeros(places), across)
    heights = surface(laid.x, laid.y)
    # the lowest straight line over the surface that touches it twice, by trying all pairs
    best = None
    for i, j in itertools.combinations(range(places), 2):
        edge = heights[i] + (along - along[i]) * (heights[j] - heights[i]) / (along[j] - along[i])
        if (edge - heights).min() >= -1e-9 and (best is None or (edge - heights).sum() < best.sum()):
            best = edge - heights
    return along, np.maximum(best, 0.0)


def surface(a, b, c, tilt=(0.0, 0.0), bed=BED):
    cx, cy = bed.centre

    def heights(x, y):
        u, v = 2 * (x - cx) / bed.width, 2 * (y - cy) / bed.depth
        return -a * u**2 - b * v**2 + c * u * v + tilt[0] * u + tilt[1] * v + 0.4

    return heights


class PlaceTest(unittest.TestCase):
    def test_each_way_runs_over_the_bed(self):
        corners = {
            "x": ((-120, 0), (120, 0)),
            "y": ((0, -100), (0, 100)),
            "up": ((-120, -100), (120, 100)),
            "down": ((-120, 100), (120, -100)),
        }
        for way, ends in corners.items():
            length = usual_length(BED, way)
            laid = lay_line(BED, way, [0, length / 2, length], [0, 0, 0])
            np.testing.assert_allclose(laid.ends, ends, atol=1e-9)
        moved = lay_line(BED, "x", [0, 120, 240], [0, 0, 0], across=-60)
        self.assertEqual(set(moved.y), {-60.0})

    def test_what_cannot_be(self):
        for way, places, across, kind in (
            ("round", [0, 50, 100], None, errors.ChoiceError),
            ("x", [0, 50, 400], None, errors.OutOfRangeError),
            ("x", [0, 50, 100], 400, errors.OutOfRangeError),
            ("x", [0, 50, 100], math.nan, errors.NonFiniteError),
            ("x", [0, 50], None, errors.TooFewReadingsError),
        ):
            with self.subTest(way=way, places=places, across=across), self.assertRaises(kind):
                lay_line(BED, way, places, [0] * len(places), across)


class ShapeTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(BOW, BOW, BOW, st.floats(-0.5, 0.5), st.floats(-0.5, 0.5))
    def test_a_shape_comes_back_whatever_the_tilt(self, a, b, c, tilt_x, tilt_y):
        shape = surface(a, b, c, (tilt_x, tilt_y))
        lines = [lay_line(BED, way, *gaps_under(BED, way, shape)) for way in ("x", "y", "up")]
        found = shape_of(lines, BED)
        np.testing.assert_allclose([bow for bow, _ in found.bows], [a, b, c], atol=1e-9)
        self.assertEqual(found.missing, ())
        x, y = (g.ravel() for g in np.meshgrid(found.relief.xs, found.relief.ys))
        level = surface(a, b, c)
        wanted = level(x, y) - level(np.array([0.0]), np.array([0.0]))
        np.testing.assert_allclose(found.relief.heights.ravel(), wanted, atol=1e-8)

    def test_what_no_line_told_is_asked_for(self):
        shape = surface(0.1, -0.1, 0.1)
        for ways, missing in (
            ((), ("x", "y", "up")),
            (("x",), ("y", "up")),
            (("x", "y"), ("up",)),
            (("up", "down", "x"), ()),
        ):
            lines = [lay_line(BED, way, *gaps_under(BED, way, shape)) for way in ways]
            found = shape_of(lines, BED)
            with self.subTest(ways):
                self.assertEqual(found.missing, missing)
                self.assertEqual(found.relief is None, "x" in missing or "y" in missing)
                for way in missing:
                    self.assertIn(DIRECTIONS[way], found.sentence)

    def test_two_diagonals_alone_do_not_tell_x_from_y(self):
        shape = surface(0.2, 0.0, 0.1)
        lines = [lay_line(BED, way, *gaps_under(BED, way, shape)) for way in ("up", "down")]
        found = shape_of(lines, BED)
        self.assertEqual([bow is None for bow, _ in found.bows], [True, True, False])
        self.assertAlmostEqual(found.bows[2][0], 0.1)

    def test_the_margin_is_kept(self):
        """Gaps read to a gauge's steps and with a hand's error lie within what is said, nineteen times of twenty."""
        rng, within = np.random.default_rng(3), 0
        for _ in range(120):
            bows = rng.uniform(-0.2, 0.2, 3)
            lines = []
            for way in ("x", "y", "up", "down"):
                along, gaps = gaps_under(BED, way, surface(*bows))
                seen = np.round((gaps + rng.normal(0, 0.02, gaps.size)) / 0.01) * 0.01
                # where the edge rests no leaf goes in, whoever reads it
                seen = np.where(gaps < 0.01, 0.0, np.maximum(seen, 0.0))
                lines.append(lay_line(BED, way, along, seen))
            found = shape_of(lines, BED)
            within += sum(
                abs(bow - true) <= margin for (bow, margin), true in zip(found.bows, bows, strict=True)
            )
        self.assertGreater(within, 0.9 * 360)

    def test_a_survey_that_sees_the_beam_bend_is_told_apart(self):
        laid = lay_line(BED, "x", *gaps_under(BED, "x", surface(0.1, 0, 0)))
        heights = surface(0.1, 0, 0)(laid.x, laid.y)
        self.assertIn("the same", compare_with_survey(laid, heights, 0.005))
        bent = heights + 0.2 * (laid.x / 120) ** 2
        self.assertIn("beam bends", compare_with_survey(laid, bent, 0.005))


if __name__ == "__main__":
    unittest.main()
