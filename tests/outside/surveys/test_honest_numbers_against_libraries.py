"""The bed behind readings, drift, meshes and outliers against scipy, statsmodels, shapely and the NIST handbook."""

import itertools
import math
import unittest

import numpy as np
import shapely
import shapely.ops
import statsmodels.api as sm
from scipy import integrate, special, stats

from finchwort.core.base.statistics import generalized_esd
from finchwort.core.compensation import Mesh, interpolate, left_by_mesh, make_mesh
from finchwort.core.printers import Bed
from finchwort.core.probing import take_out_drift
from finchwort.core.surveys import Survey, bed_prior, fit_bed, make_relief, onto_hull, terms
from finchwort.core.surveys import bed_fit as bedfit

BED = Bed(220, 180)

# NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.3, Rosner's data (from memory)
ROSNER = """-0.25 0.68 0.94 1.15 1.20 1.26 1.26 1.34 1.38 1.43 1.49 1.49 1.55 1.56 1.58 1.65 1.69 1.70 1.76 1.77 1.81 1.91
1.94 1.96 1.99 2.06 2.09 2.10 2.14 2.15 2.23 2.24 2.26 2.35 2.37 2.40 2.47 2.54 2.62 2.64 2.90 2.92 2.92 2.93 3.21 3.26
3.30 3.59 3.68 4.30 4.64 5.34 5.42 6.01"""


def survey(seed: int, n: int = 9) -> Survey:
    rng = np.random.default_rng(seed)
    x, y = rng.uniform(10, 210, n), rng.uniform(10, 170, n)
    height = 0.0006 * x - 0.0003 * y + 0.08 * np.sin(x / 70) + rng.normal(0, 0.008, n)
    return Survey(x, y, height)


class BedBehindReadingsTest(unittest.TestCase):
    def brute_force(self, one: Survey, sd: float):
        """Plane and covariance as a Gaussian process gives them, by dense matrices and scipy's densities."""
        rows = terms(BED, one.x, one.y)
        degree = np.array([i + j for d in range(6) for i, j in [(d - k, k) for k in range(d + 1)]])
        logs, means, covariances = [], [], []
        for (bow, likely), (rest, share), (rough, often) in itertools.product(
            zip(bed_prior.BOWS, bed_prior.BOW_SHARES, strict=True),
            zip(bed_prior.RESTS, bed_prior.REST_SHARES, strict=True),
            zip(bed_prior.ROUGH, bed_prior.ROUGH_SHARES, strict=True),
        ):
            prior = np.where(
                degree < 2, 100.0, np.where(degree == 2, bow**2, (bow * rest * 0.6 ** (degree - 3.0)) ** 2)
            )
            noise = sd**2 + rough**2
            seen = (rows * prior) @ rows.T + noise * np.eye(len(one))
            gain = (prior[:, None] * rows.T) @ np.linalg.inv(seen)
            logs.append(
                stats.multivariate_normal(np.zeros(len(one)), seen).logpdf(one.height)
                + math.log(likely * share * often)
            )
            means.append(gain @ one.height)
            covariances.append(np.diag(prior) - gain @ (rows * prior))
        weights = special.softmax(logs)
        mean = weights @ np.array(means)
        off = np.array(means) - mean
        covariance = np.einsum("k,kpq->pq", weights, np.array(covariances)) + np.einsum(
            "k,kp,kq->pq", weights, off, off
        )
        return mean, covariance

    def test_plane_and_covariance_against_a_gaussian_process(self):
        """Averaged over the sizes by their evidence; readings that may be bad are kept out of it here."""
        for seed in range(4):
            one = survey(seed)
            found = fit_bed(one, BED, 0.008, kept=range(len(one)))
            mean, covariance = self.brute_force(one, 0.008)
            np.testing.assert_allclose(
                [found.plane.a * 220 / 2, found.plane.b * 180 / 2], mean[1:3], atol=2e-5
            )
            scale = np.array([2 / 220, 2 / 180])
            np.testing.assert_allclose(
                found.covariance[:2, :2], covariance[1:3, 1:3] * np.outer(scale, scale), rtol=2e-3
            )

    def test_the_plus_minus_is_a_quantile_of_what_is_left_possible(self):
        """Half width about the mean that holds 95 % of draws from the mixture."""
        for seed in range(3):
            found = fit_bed(survey(seed, 6), BED)
            across = np.array([220.0, 180.0]) * np.where(np.array([found.plane.a, found.plane.b]) < 0, -1, 1)
            draws = found.draw(40_000)[:, 1:3] * (2 / 220, 2 / 180) @ across
            true = np.quantile(np.abs(draws - across @ [found.plane.a, found.plane.b]), 0.95)
            self.assertAlmostEqual(found.margin(across) / true, 1, delta=0.04)

    def test_odds_of_a_bad_reading_against_refitting_without_it(self):
        """The leave-one-out formula against the evidence of the other readings, found anew."""
        one = survey(7, 8)
        base = np.polynomial.polynomial.polyval(0.0, [0.0])
        rows, seen = terms(BED, one.x, one.y), one.height - base
        beliefs = bed_prior.beliefs_about(0.008, math.inf, None)
        found = bedfit._evidence(rows, seen, beliefs)
        odds, _ = bedfit._left_out(rows, seen, beliefs, found)
        for i in range(len(one)):
            rest = np.delete(np.arange(len(one)), i)
            without = bedfit._evidence(rows[rest], seen[rest], beliefs).log
            # the evidence leaves out the constant of the normal law, once for the reading that is missing
            expected = (
                math.log(bedfit.BAD / (1 - bedfit.BAD))
                + special.logsumexp(without)
                + 0.5 * math.log(2 * math.pi)
                - math.log(bedfit.BAD_REACH)
                - special.logsumexp(found.log)
            )
            self.assertAlmostEqual(odds[i], expected, delta=0.02)

    def test_the_polynomials_are_orthogonal_over_the_bed(self):
        """By Gauss-Legendre quadrature; so the tilt is that of the plane closest to the whole area."""
        nodes, weights = np.polynomial.legendre.leggauss(8)
        x, y = np.meshgrid(110 + 110 * nodes, 90 + 90 * nodes)
        rows = terms(BED, x.ravel(), y.ravel())
        gram = (rows.T * np.outer(weights, weights).ravel()) @ rows
        np.testing.assert_allclose(gram - np.diag(np.diag(gram)), 0, atol=1e-12)


class OutlierTest(unittest.TestCase):
    def test_generalized_esd_against_the_handbook(self):
        """Three outliers of Rosner's data at 5 %; statistics and critical values as printed there (from memory)."""
        values = np.array(ROSNER.split(), float)
        tests = generalized_esd(values, 10, 0.05)
        np.testing.assert_allclose([t.statistic for t in tests[:3]], [3.118, 2.942, 3.179], atol=0.002)
        np.testing.assert_allclose([t.critical for t in tests[:3]], [3.158, 3.151, 3.143], atol=0.002)
        self.assertEqual(max(i for i, t in enumerate(tests, 1) if t.outlier), 3)


class DriftTest(unittest.TestCase):
    def test_the_rate_is_that_of_a_regression_through_the_origin(self):
        """statsmodels OLS of the differences of both touches over the time between them."""
        rng = np.random.default_rng(1)
        places = np.array([(x, y) for y in (20.0, 90, 160) for x in (20.0, 110, 200)])
        again = np.array([*places, *places[:3]])
        t = np.cumsum(rng.uniform(4, 7, 12))
        height = rng.normal(0, 0.05, 9)[[*range(9), 0, 1, 2]] + 0.0004 * t + rng.normal(0, 0.004, 12)
        walk = take_out_drift(*again.T, height, t)
        model = sm.OLS(height[9:] - height[:3], t[9:] - t[:3]).fit()
        self.assertAlmostEqual(walk.drift, float(model.params[0]) * (t[-1] - t[0]), places=12)


class MeshErrorTest(unittest.TestCase):
    def test_a_paraboloid_against_quadrature(self):
        """What straight lines over square cells leave of z = k (x² + y²) / 2, by scipy's adaptive quadrature."""
        k, side = 2e-5, 5
        at = np.linspace(10, 210, side)
        x, y = (a.ravel() for a in np.meshgrid(at, at))
        bed = Bed(220, 220)
        one = Survey(x, y, k * (x**2 + y**2) / 2)
        mesh = make_mesh(one, side, side)
        h = at[1] - at[0]

        def square(v, u):
            here = interpolate(mesh, [10 + u], [10 + v])[0]
            return (k * ((10 + u) ** 2 + (10 + v) ** 2) / 2 - here) ** 2

        true = math.sqrt(integrate.dblquad(square, 0, h, 0, h, epsabs=1e-10)[0] / h**2)
        self.assertAlmostEqual(left_by_mesh(one, mesh, bed, 0.0).rms, true, places=6)

    def test_noise_through_bilinear_cells(self):
        """The mean square of the four weights over a cell is 4/9, by quadrature."""
        weight = integrate.dblquad(lambda v, u: ((1 - u) ** 2 + u**2) * ((1 - v) ** 2 + v**2), 0, 1, 0, 1)[0]
        self.assertAlmostEqual(weight, 4 / 9)
        flat = Mesh([0, 110, 220], [0, 110, 220], np.zeros((3, 3)))
        x, y = (a.ravel() for a in np.meshgrid([0.0, 110, 220], [0.0, 110, 220]))
        found = left_by_mesh(Survey(x, y, np.zeros(9)), flat, Bed(220, 220), 0.02)
        self.assertAlmostEqual(found.rms, 0.02 * math.sqrt(weight), places=9)


class HullTest(unittest.TestCase):
    def test_nearest_places_among_the_readings_are_those_of_shapely(self):
        rng = np.random.default_rng(6)
        places, asked = rng.uniform(0, 200, (9, 2)), rng.uniform(-50, 250, (60, 2))
        hull = shapely.MultiPoint(places).convex_hull
        moved = onto_hull(places, asked)
        for given, got in zip(asked, moved, strict=True):
            point = shapely.Point(given)
            expected = point if hull.covers(point) else shapely.ops.nearest_points(hull, point)[0]
            np.testing.assert_allclose(got, (expected.x, expected.y), atol=1e-9)

    def test_beyond_the_readings_the_relief_keeps_what_the_hull_has(self):
        """A corner that nobody read has the height of the nearest place among the readings, beside the plane."""
        one = Survey([20, 200, 20, 110], [20, 20, 160, 60], [0, 0, 0, 0.1])
        relief = make_relief(one, BED)
        corner = onto_hull(np.column_stack([one.x, one.y]), np.array([[220.0, 180.0]]))
        plane = np.linalg.lstsq(np.column_stack([one.x, one.y, np.ones(4)]), one.height, rcond=None)[0]
        rest = float(relief.at(*corner.T)[0]) - plane @ [*corner[0], 1.0]
        self.assertAlmostEqual(float(relief.heights[-1, -1]) - plane @ [220, 180, 1.0], rest, delta=0.005)
