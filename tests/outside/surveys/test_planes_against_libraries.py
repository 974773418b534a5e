"""Planes and flatness against scikit-learn, statsmodels, scipy and shapely.

Sources: scikit-learn ``LinearRegression``; statsmodels ``OLS``; a brute-force
search over all triples and pairs of pairs for the minimum zone; shapely's
convex hull.  Flatness terms: ISO 12781-1.
"""

import itertools
import unittest

import numpy as np
import shapely
import statsmodels.api as sm
from hypothesis import given, settings
from scipy import special, stats
from sklearn.linear_model import LinearRegression

from finchwort.core.printers import Screw
from finchwort.core.surveys import Survey, assess_flatness, fit_plane, measured_outline
from finchwort.core.tramming import plan_turns
from tests.fixtures.strategies import surveys


class LeastSquaresAgainstLibraries(unittest.TestCase):
    @settings(max_examples=50)
    @given(surveys())
    def test_scikit_learn_linear_regression(self, survey):
        places = np.column_stack([survey.x, survey.y])
        model = LinearRegression().fit(places, survey.height)
        fit = fit_plane(survey)
        np.testing.assert_allclose([fit.plane.a, fit.plane.b], model.coef_, rtol=1e-7, atol=1e-10)
        self.assertAlmostEqual(fit.plane.c, model.intercept_, places=8)

    @settings(max_examples=50)
    @given(surveys(least=6))
    def test_statsmodels_ols_covariance(self, survey):
        design = np.column_stack([survey.x, survey.y, np.ones(len(survey))])
        model = sm.OLS(survey.height, design).fit()
        fit = fit_plane(survey)
        np.testing.assert_allclose(fit.covariance, model.cov_params(), rtol=1e-6, atol=1e-14)
        self.assertAlmostEqual(fit.residual_sd, float(np.sqrt(model.scale)), places=9)
        self.assertEqual(fit.dof, model.df_resid)

    def test_uncertainty_at_a_screw_is_that_of_statsmodels(self):
        """The plus/minus of a screw held against another: t_test of a contrast in OLS.

        With a known repeatability the normal quantile and the known variance
        take the place of the t quantile and the residual variance.
        """
        rng = np.random.default_rng(11)
        x, y = np.meshgrid(np.linspace(15, 205, 4), np.linspace(15, 185, 4))
        survey = Survey(x.ravel(), y.ravel(), 0.002 * x.ravel() + rng.normal(0, 0.02, 16))
        posts = [Screw("a", 5, 5, 0.7), Screw("b", 215, 5, 0.7), Screw("c", 110, 195, 0.7)]
        plan = plan_turns(survey, posts, "a", repeatability=0.02, reference="minimum_zone")
        design = np.column_stack([survey.x, survey.y, np.ones(16)])
        model = sm.OLS(survey.height, design).fit()
        unit = model.normalized_cov_params
        contrast = np.array([210.0, 0.0, 0.0])
        # a plane of one's own choice has the uncertainty of a least-squares plane at the least
        expected = plan.fit.quantile * plan.noise * np.sqrt(contrast @ unit @ contrast)
        self.assertAlmostEqual(plan.turns[1].uncertainty * 0.7, expected, places=9)
        # that of the whole bed is wider by what is not known of its shape, and never narrower
        whole = plan_turns(survey, posts, "a", repeatability=0.02)
        self.assertGreater(
            whole.turns[1].uncertainty * 0.7, 0.98 * 1.96 * 0.02 * np.sqrt(contrast @ unit @ contrast)
        )


class QuantilesAgainstScipyStats(unittest.TestCase):
    def test_quantiles_of_the_core_are_those_of_scipy_stats(self):
        """The core takes them from scipy.special, which loads faster; scipy.stats must agree."""
        self.assertAlmostEqual(special.ndtri(0.975), stats.norm.ppf(0.975), places=12)
        for dof in (4, 5, 29):
            self.assertAlmostEqual(special.stdtrit(dof, 0.975), stats.t.ppf(0.975, dof), places=9)
        self.assertAlmostEqual(special.chdtri(2, 0.01), stats.chi2.ppf(0.99, 2), places=9)


def brute_force_zone(x, y, z) -> float:
    """Width of the narrowest pair of parallel planes, by trying every candidate.

    At the optimum either one plane holds three points and the other one point,
    or each holds two: all slopes from triples and from pairs of pairs are tried.
    """
    n, best = len(x), np.inf
    points = np.column_stack([x, y])
    slopes = []
    for i, j, k in itertools.combinations(range(n), 3):
        m = np.array([points[j] - points[i], points[k] - points[i]])
        if abs(np.linalg.det(m)) > 1e-6:
            slopes.append(np.linalg.solve(m, [z[j] - z[i], z[k] - z[i]]))
    for (i, j), (k, m_) in itertools.product(itertools.combinations(range(n), 2), repeat=2):
        m = np.array([points[j] - points[i], points[m_] - points[k]])
        if abs(np.linalg.det(m)) > 1e-6:
            slopes.append(np.linalg.solve(m, [z[j] - z[i], z[m_] - z[k]]))
    for a, b in slopes:
        best = min(best, float(np.ptp(z - a * x - b * y)))
    return best


class MinimumZoneAgainstBruteForce(unittest.TestCase):
    def test_small_sets(self):
        rng = np.random.default_rng(5)
        for case in range(25):
            n = int(rng.integers(4, 9))
            x, y = rng.uniform(0, 200, n), rng.uniform(0, 200, n)
            z = rng.normal(0, 0.1, n) + 0.002 * x
            with self.subTest(case=case, n=n):
                found = assess_flatness(Survey(x, y, z), "minimum_zone").peak_to_valley
                self.assertAlmostEqual(found, brute_force_zone(x, y, z), places=8)

    def test_more_readings_than_the_hull_threshold(self):
        rng = np.random.default_rng(6)
        x, y = np.meshgrid(np.linspace(0, 200, 4), np.linspace(0, 150, 4))
        x, y = x.ravel(), y.ravel()
        z = rng.normal(0, 0.05, 16)
        found = assess_flatness(Survey(x, y, z), "minimum_zone").peak_to_valley
        self.assertAlmostEqual(found, brute_force_zone(x, y, z), places=8)


class FlatnessAgainstTheStandard(unittest.TestCase):
    def test_terms_of_iso_12781_1_on_a_worked_bed(self):
        """Four corners at 0 and the centre at 0.2: the least-squares plane lies at 0.04.

        Worked by hand from the definitions: FLTp = 0.16, FLTv = 0.04, FLTt = 0.20,
        FLTq = sqrt((4 * 0.04^2 + 0.16^2) / 5) = 0.08; minimum zone 0.20 wide.
        """
        survey = Survey([0, 10, 0, 10, 5], [0, 0, 10, 10, 5], [0, 0, 0, 0, 0.2])
        f = assess_flatness(survey)
        np.testing.assert_allclose(
            [f.peak, f.valley, f.peak_to_valley, f.rms], [0.16, 0.04, 0.2, 0.08], atol=1e-12
        )
        zone = assess_flatness(survey, "minimum_zone")
        self.assertAlmostEqual(zone.peak_to_valley, 0.2, places=9)
        self.assertAlmostEqual(zone.peak, 0.1, places=9)


class OutlineAgainstShapely(unittest.TestCase):
    @settings(max_examples=40)
    @given(surveys(least=5))
    def test_convex_hull(self, survey):
        theirs = shapely.MultiPoint(np.column_stack([survey.x, survey.y])).convex_hull
        ours = shapely.Polygon(measured_outline(survey))
        self.assertAlmostEqual(ours.area, theirs.area, places=6)
        self.assertTrue(ours.exterior.is_ccw)
