import unittest

import numpy as np
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.printers import Bed
from finchwort.core.surveys import (
    STEPS,
    Survey,
    contour_levels,
    contour_step,
    make_relief,
    measured_outline,
    shown_datum,
    surface_at,
    tint_limit,
)
from tests.fixtures.strategies import slope, surveys

BED = Bed(240, 220)


class ReliefTest(unittest.TestCase):
    @given(slope, slope, st.integers(0, 100), st.sampled_from([9, 60, 500]))
    def test_a_plane_stays_a_plane_to_the_very_edge(self, a, b, seed, n):
        rng = np.random.default_rng(seed)
        x, y = rng.uniform(20, 200, n), rng.uniform(20, 200, n)
        relief = make_relief(Survey(x, y, a * x + b * y + 0.3), BED)
        expected = a * relief.xs + (b * relief.ys)[:, None] + 0.3
        np.testing.assert_allclose(relief.heights, expected, atol=1e-6)
        self.assertEqual((relief.xs[0], relief.xs[-1], relief.ys[-1]), (0, 240, 220))

    def test_grid_readings_lie_on_the_surface(self):
        rng = np.random.default_rng(3)
        xs, ys = np.linspace(0, 240, 9), np.linspace(0, 220, 5)
        survey = Survey.from_grid(xs, ys, rng.uniform(-0.2, 0.2, (5, 9)))
        relief = make_relief(survey, Bed(240, 220))
        for x, y, h in zip(survey.x, survey.y, survey.height, strict=True):
            i, j = np.abs(relief.xs - x).argmin(), np.abs(relief.ys - y).argmin()
            if abs(relief.xs[i] - x) < 1e-9 and abs(relief.ys[j] - y) < 1e-9:
                self.assertAlmostEqual(relief.heights[j, i], h, places=9)

    def test_order_of_grid_readings_does_not_matter(self):
        rng = np.random.default_rng(4)
        survey = Survey.from_grid([10, 100, 200], [10, 90, 210], rng.uniform(-1, 1, (3, 3)))
        order = rng.permutation(9)
        other = Survey(survey.x[order], survey.y[order], survey.height[order])
        np.testing.assert_allclose(
            make_relief(survey, BED).heights, make_relief(other, BED).heights, atol=1e-12
        )

    @given(surveys(least=5, most=30))
    def test_scattered_readings_make_a_finite_surface(self, survey):
        relief = make_relief(survey, BED)
        self.assertTrue(np.isfinite(relief.heights).all())
        self.assertLess(np.ptp(relief.heights), 6 * survey.spread + 6)

    def test_plus(self):
        relief = make_relief(Survey([0, 240, 0], [0, 0, 220], [0, 0, 0]), BED)
        raised = relief.plus(0.001, 0.0, 0.5)
        self.assertAlmostEqual(raised.heights[0, -1], 0.74)

    @given(st.floats(0, 8))
    def test_contours_are_few_and_round(self, spread):
        step = contour_step(spread)
        self.assertIn(step, STEPS)
        self.assertLessEqual(len(contour_levels(-spread / 2, spread / 2, step)), 10)

    @given(st.floats(-2, 0), st.floats(0, 2), st.sampled_from(STEPS))
    def test_levels_lie_within_and_hold_zero(self, low, high, step):
        levels = contour_levels(low, high, step)
        self.assertIn(0.0, levels)
        self.assertTrue(all(low - 1e-6 <= level <= high + 1e-6 for level in levels))

    @given(st.floats(-4, 4), st.floats(0, 2))
    def test_tints_reach_everything(self, low, size):
        limit = tint_limit(low, low + size)
        self.assertGreaterEqual(limit + 1e-9, max(abs(low), abs(low + size)))
        self.assertGreaterEqual(limit, 0.1)

    def test_datum(self):
        self.assertEqual(shown_datum(0.05, 0.25, 0.15), 0.0)
        self.assertEqual(shown_datum(2.0, 2.2, 2.104), 2.1)
        self.assertEqual(shown_datum(-3.0, -2.9, -2.95), -2.95)

    def test_outline(self):
        survey = Survey([0, 100, 100, 0, 50], [0, 0, 80, 80, 40], [0, 0, 0, 0, 1])
        corners = {tuple(p) for p in measured_outline(survey).tolist()}
        self.assertEqual(corners, {(0, 0), (100, 0), (100, 80), (0, 80)})


class SurfaceAtTest(unittest.TestCase):
    """The surface through readings, asked for at other places: what cold and hot surveys are compared with."""

    @given(surveys(least=5, most=30))
    def test_exact_where_it_was_read(self, survey):
        heights, inside = surface_at(survey, survey.x, survey.y)
        np.testing.assert_allclose(heights, survey.height, atol=1e-9)
        self.assertTrue(inside.all())

    @given(slope, slope, st.integers(0, 1000), st.sampled_from([6, 40, 300]))
    @settings(max_examples=30)
    def test_a_plane_is_carried_on(self, a, b, seed, n):
        rng = np.random.default_rng(seed)
        x, y = rng.uniform(0, 240, n), rng.uniform(0, 220, n)
        survey = Survey(x, y, a * x + b * y)
        px, py = rng.uniform(0, 240, 20), rng.uniform(0, 220, 20)
        heights, inside = surface_at(survey, px, py)
        np.testing.assert_allclose(heights[inside], (a * px + b * py)[inside], atol=1e-7)

    @given(st.integers(0, 1000))
    def test_inside_is_what_shapely_says(self, seed):
        rng = np.random.default_rng(seed)
        survey = Survey(rng.uniform(0, 240, 12), rng.uniform(0, 220, 12), np.zeros(12))
        px, py = rng.uniform(-20, 260, 60), rng.uniform(-20, 240, 60)
        _, inside = surface_at(survey, px, py)
        hull = shapely.MultiPoint(list(zip(survey.x, survey.y, strict=True))).convex_hull
        for x, y, told in zip(px, py, inside, strict=True):
            away = hull.distance(shapely.Point(x, y))
            if away == 0 or away > 1:  # within half a millimetre the edge itself counts as inside
                self.assertEqual(bool(told), away == 0)
