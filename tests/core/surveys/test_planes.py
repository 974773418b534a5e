import itertools
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError
from finchwort.core.surveys import Survey, assess_flatness, fit_minimum_zone, fit_plane, hull_indices
from tests.fixtures.strategies import slope, surveys


def spread_about(survey, a, b):
    return float(np.ptp(survey.height - a * survey.x - b * survey.y))


class LeastSquaresTest(unittest.TestCase):
    @given(slope, slope, st.floats(-2, 2))
    def test_a_plane_is_found_exactly(self, a, b, c):
        x, y = np.meshgrid([10.0, 80, 200], [5.0, 100, 190])
        survey = Survey(x.ravel(), y.ravel(), (a * x + b * y + c).ravel())
        fit = fit_plane(survey)
        np.testing.assert_allclose([fit.plane.a, fit.plane.b], [a, b], atol=1e-12)
        self.assertAlmostEqual(fit.plane.c, c, places=9)
        self.assertLess(np.abs(fit.residual).max(), 1e-9)

    @given(surveys())
    def test_residuals_are_orthogonal_to_the_plane(self, survey):
        residual = fit_plane(survey).residual
        for column in (np.ones(len(survey)), survey.x, survey.y):
            self.assertLess(abs(residual @ column), 1e-7 * np.abs(column).sum() + 1e-9)

    @given(surveys(), slope, slope)
    def test_flatness_does_not_see_tilt(self, survey, a, b):
        tilted = survey.with_heights(survey.height + a * survey.x + b * survey.y)
        for reference in ("least_squares", "minimum_zone"):
            before, after = assess_flatness(survey, reference), assess_flatness(tilted, reference)
            self.assertAlmostEqual(before.peak_to_valley, after.peak_to_valley, places=6)
            self.assertAlmostEqual(before.plane.a + a, after.plane.a, places=5)

    def test_three_readings_leave_nothing_over(self):
        fit = fit_plane(Survey([0, 100, 0], [0, 0, 100], [0.1, 0.5, -0.2]))
        self.assertEqual(fit.dof, 0)
        self.assertTrue(np.isnan(fit.residual_sd))


class MinimumZoneTest(unittest.TestCase):
    @settings(max_examples=60)
    @given(surveys())
    def test_never_wider_than_least_squares(self, survey):
        zone = assess_flatness(survey, "minimum_zone")
        squares = assess_flatness(survey)
        self.assertLessEqual(zone.peak_to_valley, squares.peak_to_valley + 1e-9)
        self.assertAlmostEqual(zone.peak, zone.valley, places=7)

    @settings(max_examples=60)
    @given(surveys(), st.floats(-1e-4, 1e-4), st.floats(-1e-4, 1e-4))
    def test_no_other_slope_does_better(self, survey, da, db):
        plane = fit_minimum_zone(survey)
        best = spread_about(survey, plane.a, plane.b)
        self.assertLessEqual(best, spread_about(survey, plane.a + da, plane.b + db) + 1e-8)

    def test_perfect_plane(self):
        x, y = np.meshgrid(np.arange(5.0) * 50, np.arange(5.0) * 50)
        survey = Survey(x.ravel(), y.ravel(), (0.002 * x - 0.001 * y).ravel())
        self.assertLess(assess_flatness(survey, "minimum_zone").peak_to_valley, 1e-9)

    def test_unknown_reference(self):
        with self.assertRaises(ChoiceError):
            assess_flatness(Survey([0, 1, 0], [0, 0, 1], [0, 0, 0]), "best")

    @given(surveys(least=20, most=120), slope, slope)
    def test_hull_holds_the_extremes_under_any_tilt(self, survey, a, b):
        corners = hull_indices(survey, fit_plane(survey).residual)
        tilted = survey.height + a * survey.x + b * survey.y
        self.assertAlmostEqual(np.ptp(tilted), np.ptp(tilted[corners]), places=9)


class FlatnessTest(unittest.TestCase):
    @given(surveys())
    def test_figures_hang_together(self, survey):
        f = assess_flatness(survey)
        self.assertAlmostEqual(f.peak_to_valley, f.peak + f.valley)
        self.assertGreaterEqual(f.peak, -1e-12)
        self.assertGreaterEqual(f.valley, -1e-12)
        self.assertLessEqual(f.rms, max(f.peak, f.valley) + 1e-12)

    def test_order_of_readings_does_not_matter(self):
        points = [(0, 0, 0.1), (200, 0, 0.0), (200, 200, -0.1), (0, 200, 0.3), (100, 90, 0.2)]
        found = set()
        for order in itertools.permutations(points):
            x, y, z = zip(*order, strict=True)
            found.add(round(assess_flatness(Survey(x, y, z)).peak_to_valley, 9))
        self.assertEqual(len(found), 1)
