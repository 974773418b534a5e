"""Levelling against reference libraries, brute force and handbook values."""

import itertools
import math
import unittest

import numpy as np
import statsmodels.api as sm
from scipy import ndimage, optimize, stats
from scipy.interpolate import RectBivariateSpline, interpn
from sklearn.gaussian_process import GaussianProcessRegressor
from sklearn.gaussian_process.kernels import DotProduct
from sklearn.linear_model import Ridge

from finchwort.core.compensation import Mesh, compensate, fade_out, interpolate, make_mesh
from finchwort.core.levelling import FOIL_PRICE, GAP, Foil, Pad, pad_response, plan_shims
from finchwort.core.printers import Screw
from finchwort.core.surveys import Survey, choose_plane
from finchwort.core.tramming import (
    PRIOR,
    SLIPS,
    UNSTEADY,
    Move,
    find_slipping,
    learn,
    plan_turns,
    prior_response,
    stack,
)
from finchwort.core.visits import DriftStep, days_until, forecast_drift, individuals_chart

CORNERS = [("fl", 0.0, 0.0), ("fr", 220.0, 0.0), ("br", 220.0, 220.0), ("bl", 0.0, 220.0)]


def posts(count=4, divisions=8):
    places = CORNERS if count == 4 else [*CORNERS[:2], ("b", 110.0, 220.0)]
    return [Screw(name, x, y, 0.7, divisions=divisions) for name, x, y in places]


def survey(seed, n=4, tilt=(0.7, -0.4), noise=0.02):
    rng = np.random.default_rng(seed)
    xs = np.linspace(15, 205, n)
    x, y = (a.ravel() for a in np.meshgrid(xs, xs))
    return Survey(x, y, tilt[0] * x / 220 + tilt[1] * y / 220 + rng.normal(0, noise, x.size))


def moves(seed, count=4, k=4):
    rng = np.random.default_rng(seed)
    found = []
    for i in range(count):
        a, b = rng.normal(0, 1e-4, (2, 3, 2))
        found.append(
            Move(
                rng.integers(-8, 9, k) / 8,
                rng.normal(0, 2e-3, 2),
                found[-1].after if i else a.T @ a,
                b.T @ b,
                chained=bool(i),
            )
        )
    return found


class ResponseAgainstLibrariesTest(unittest.TestCase):
    """Bayesian linear regression with a conjugate Gaussian prior and known noise (textbook result)."""

    def setUp(self):
        self.rounds = moves(11)
        self.prior = prior_response(posts())
        self.found = learn(posts(), self.rounds)
        self.design, self.seen, self.noise, _ = stack(self.rounds, self.prior.prior)
        self.mean = np.concatenate([self.prior.prior.ravel(), [self.prior.lost]])
        self.told = np.concatenate([self.found.slopes.ravel(), [self.found.lost]])

    def test_statsmodels_with_the_prior_as_pseudo_observations(self):
        """Generalised least squares with the prior stacked under the data has the posterior's mean and covariance."""
        size = self.mean.size
        # springs alone leave the prior singular in no direction but this one: a trace makes it invertible
        prior = self.prior.covariance + np.eye(size) * 1e-18
        sigma = np.block(
            [
                [self.noise, np.zeros((self.seen.size, size))],
                [np.zeros((size, self.seen.size)), prior],
            ]
        )
        scale = 1e6  # statsmodels wants well-scaled numbers
        model = sm.GLS(
            np.concatenate([self.seen, self.mean]) * scale,
            np.vstack([self.design, np.eye(size)]),
            sigma=sigma * scale**2,
        ).fit(cov_type="nonrobust", cov_kwds={"scale": 1.0}, use_t=False)
        np.testing.assert_allclose(model.params / scale, self.told, rtol=1e-5, atol=1e-9)
        sd = np.sqrt(np.diag(model.cov_params(scale=1.0))) / scale
        np.testing.assert_allclose(sd, np.sqrt(np.diag(self.found.covariance)), rtol=1e-4, atol=1e-9)

    def _whitened(self):
        """Design and target in coordinates in which the prior and the noise are unit normal."""
        values, vectors = np.linalg.eigh(self.prior.covariance)
        root = vectors * np.sqrt(np.maximum(values, 0))
        weight = np.linalg.inv(np.linalg.cholesky(self.noise))
        return weight @ self.design @ root, weight @ (self.seen - self.design @ self.mean), root

    def test_scikit_learn_ridge_on_whitened_data(self):
        design, target, root = self._whitened()
        ridge = Ridge(alpha=1.0, fit_intercept=False, solver="svd").fit(design, target)
        np.testing.assert_allclose(self.mean + root @ ridge.coef_, self.told, atol=1e-10)

    def test_scikit_learn_gaussian_process_with_a_linear_kernel(self):
        """The same regression in function space: predictions and their standard deviations agree."""
        design, target, root = self._whitened()
        process = GaussianProcessRegressor(DotProduct(0.0, "fixed"), alpha=1.0, optimizer=None)
        process.fit(design, target)
        turns = np.array([0.5, -0.25, 0.0, 0.75])
        probe = np.zeros((1, self.mean.size))
        probe[0, :4] = turns
        mean, sd = process.predict(probe @ root, return_std=True)
        self.assertAlmostEqual(
            float(mean[0] + (probe @ self.mean)[0]), float(self.found.slopes[0] @ turns), places=9
        )
        ours = math.sqrt(float(probe[0] @ self.found.covariance @ probe[0]))
        self.assertAlmostEqual(float(sd[0]), ours, places=9)

    def test_slipping_against_scipy_densities(self):
        """Probabilities by Bayes' rule from scipy.stats.multivariate_normal."""
        screws, rounds = posts(), moves(5, count=2)
        design, seen, noise, _ = stack(rounds, self.prior.prior)
        spread = design @ self.prior.covariance @ design.T + noise
        mean = design @ self.mean
        weights = [(1 - PRIOR) * stats.multivariate_normal(mean, spread).pdf(seen)]
        for i in range(4):
            total = 0.0
            due = np.concatenate([self.prior.prior[:, i] * r.turns[i] for r in rounds])
            wider = spread.copy()
            for j in range(2):
                at = slice(2 * j, 2 * j + 2)
                wider[at, at] += UNSTEADY**2 * np.outer(due[at], due[at])
            for lost in SLIPS:
                total += stats.multivariate_normal(mean - lost * due, wider).pdf(seen)
            weights.append(PRIOR / 4 / SLIPS.size * total)
        expected = np.array(weights) / sum(weights)
        found = find_slipping(screws, rounds)
        np.testing.assert_allclose([found.healthy, *found.each], expected, rtol=1e-6, atol=1e-12)


class PlanAgainstSolversTest(unittest.TestCase):
    def test_exact_turns_against_scipy_least_squares(self):
        """The turns that bring the least-squares plane to zero with the middle kept, by scipy.optimize.least_squares."""
        for count in (3, 4):
            bed, screws = survey(3), posts(count)
            # without noise and shape the plane of the bed is that of the readings
            plane = np.linalg.lstsq(
                np.column_stack([bed.x, bed.y, np.ones(len(bed))]), bed.height, rcond=None
            )[0]
            bed = bed.with_heights(plane[0] * bed.x + plane[1] * bed.y + plane[2])
            plan = plan_turns(bed, screws, centre=(110, 110), repeatability=0.0)
            ends = np.array([[s.x, s.y, 1.0] for s in screws])
            design = np.column_stack([bed.x, bed.y, np.ones(len(bed))])
            a, b, _ = np.linalg.lstsq(design, bed.height, rcond=None)[0]

            def off(plane, ends=ends, a=a, b=b):
                # where the screw ends must come to lie: on the plane that undoes the tilt about the middle
                return ends @ plane - (-(a * (ends[:, 0] - 110) + b * (ends[:, 1] - 110)))

            solved = optimize.least_squares(off, np.zeros(3), method="lm", xtol=1e-15, ftol=1e-15)
            turns = ends @ solved.x / [s.travel for s in screws]
            np.testing.assert_allclose([t.exact for t in plan.turns], turns, atol=1e-9)

    def test_rounded_plan_against_brute_force_over_all_steps(self):
        """Whole eighths from two turns back to two forward: no plan of all leaves less tilt than the one given."""
        for seed in range(3):
            bed, screws = survey(seed, tilt=(0.5, -0.35)), posts(3)
            plan = plan_turns(bed, screws, "only_tighten", repeatability=0.0)
            ends = np.linalg.pinv(np.array([[s.x, s.y, 1.0] for s in screws]))[:2]
            fit = choose_plane(bed).plane
            best = math.inf
            for steps in itertools.product(range(17), repeat=3):
                slopes = ends @ (np.array(steps) / 8 * [s.travel for s in screws])
                left = (abs(fit.a + slopes[0]) + abs(fit.b + slopes[1])) * 190
                best = min(best, left)
            reached = (abs(fit.a + plan.change[0]) + abs(fit.b + plan.change[1])) * 190
            self.assertLessEqual(reached, best + 0.001 + 1e-9)

    def test_planes_by_their_definitions(self):
        """ISO 12781-1:2011: least squares minimises the root mean square, minimum zone the greatest departure."""
        bed = survey(9, noise=0.05)
        least = optimize.minimize(
            lambda p: np.sum((bed.height - p[0] * bed.x - p[1] * bed.y - p[2]) ** 2),
            np.zeros(3),
            method="BFGS",
            tol=1e-14,
        )
        plane = choose_plane(bed).plane
        np.testing.assert_allclose([plane.a, plane.b], least.x[:2], atol=1e-6)
        rough = optimize.differential_evolution(
            lambda p: np.ptp(bed.height - p[0] * bed.x / 220 - p[1] * bed.y / 220),
            [(-1, 1)] * 2,
            seed=1,
            tol=1e-10,
        )
        self.assertAlmostEqual(choose_plane(bed, "minimum_zone").peak_to_valley, rough.fun, places=4)


class ShimsAgainstBruteForceTest(unittest.TestCase):
    def test_three_and_four_pads(self):
        foils = [Foil(0.05, 2), Foil(0.1, 2)]
        for count, seed in ((3, 1), (3, 2), (4, 3)):
            pads = [
                Pad(n, x, y) for n, x, y in (CORNERS if count == 4 else [*CORNERS[:2], ("b", 110.0, 220.0)])
            ]
            bed = survey(seed, n=3, tilt=(-0.2, 0.15))
            plan = plan_shims(bed, pads, foils, most_layers=2)
            response = pad_response(pads, bed.x, bed.y)
            best = math.inf
            for combo in itertools.product(itertools.product(range(3), repeat=2), repeat=count):
                counts = np.array(combo)
                if (counts.sum(axis=1) > 2).any() or (counts.sum(axis=0) > 2).any():
                    continue
                lift = counts @ [0.05, 0.1]
                ends = np.array([[p.x, p.y, 1.0] for p in pads])
                off = lift - ends @ np.linalg.lstsq(ends, lift, rcond=None)[0]
                if np.abs(off).max() > 0.05 + 1e-9:
                    continue
                best = min(best, float(np.ptp(bed.height + response @ lift)) + FOIL_PRICE * counts.sum())
            reached = plan.spread_after + FOIL_PRICE * plan.foils
            self.assertLessEqual(reached, best * (1 + GAP) + 1e-6)
            self.assertGreaterEqual(reached, best - 1e-6)

    def test_against_another_solver(self):
        """With foils so thin that they hardly round, the stacks come to what a linear programme says."""
        pads = [Pad(n, x, y) for n, x, y in CORNERS]
        bed = survey(4, n=5, tilt=(0.15, -0.1), noise=0.01)
        plan = plan_shims(bed, pads, [Foil(0.005, 99), Foil(0.05, 20)], most_layers=20)
        response = pad_response(pads, bed.x, bed.y)
        ones = np.ones((len(bed), 1))
        rows = np.vstack([np.hstack([response, -ones, 0 * ones]), np.hstack([-response, 0 * ones, ones])])
        free = optimize.linprog(
            [0] * 4 + [1, -1],
            A_ub=rows,
            b_ub=np.concatenate([-bed.height, bed.height]),
            bounds=[(0, 1)] * 4 + [(None, None)] * 2,
            method="highs-ipm",
        )
        self.assertGreaterEqual(plan.spread_after, free.fun - 1e-9)
        self.assertLessEqual(plan.spread_after, free.fun + 0.03)


class MeshAgainstScipyTest(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(6)
        self.mesh = Mesh(np.linspace(15, 205, 6), np.linspace(15, 185, 5), rng.normal(0, 0.1, (5, 6)))
        self.x, self.y = rng.uniform(15, 205, 200), rng.uniform(15, 185, 200)

    def test_bilinear_against_ndimage(self):
        """scipy.ndimage.map_coordinates of order 1 on the unit grid."""
        at = [(self.y - 15) / 170 * 4, (self.x - 15) / 190 * 5]
        expected = ndimage.map_coordinates(self.mesh.heights, at, order=1)
        np.testing.assert_allclose(interpolate(self.mesh, self.x, self.y), expected, atol=1e-12)

    def test_bicubic_against_two_other_splines(self):
        """scipy.interpolate.interpn (splinef2d) and RectBivariateSpline with the axes swapped."""
        ours = interpolate(self.mesh, self.x, self.y, "bicubic")
        places = np.column_stack([self.y, self.x])
        other = interpn((self.mesh.ys, self.mesh.xs), self.mesh.heights, places, method="splinef2d")
        np.testing.assert_allclose(ours, other, atol=1e-9)
        swapped = RectBivariateSpline(self.mesh.xs, self.mesh.ys, self.mesh.heights.T).ev(self.x, self.y)
        np.testing.assert_allclose(ours, swapped, atol=1e-9)

    def test_a_bilinear_surface_is_reproduced(self):
        """Height = p + q x + r y + s x y is what a bilinear mesh can hold exactly (arithmetic)."""
        x, y = self.x, self.y
        bed = Survey(x, y, 0.1 + 0.001 * x - 0.002 * y + 1e-5 * x * y)
        mesh = Mesh([0, 220], [0, 220], [[0.1, 0.32], [-0.34, 0.364]])
        self.assertLess(compensate(bed, mesh).spread, 1e-12)

    def test_mean_only_on_a_plane_is_the_height_of_the_centre(self):
        """Common practice and arithmetic: on a plane sampled symmetrically the mean is the centre's height, and no tilt goes."""
        bed = survey(1, n=5, noise=0.0)
        after = compensate(bed, None, "mean")
        self.assertAlmostEqual(float(bed.height.mean()), 0.7 / 2 - 0.4 / 2)
        self.assertAlmostEqual(after.spread, bed.spread)
        self.assertAlmostEqual(compensate(bed, make_mesh(bed, 2, 2)).spread, 0, places=9)

    def test_fade_arithmetic(self):
        """Common practice and arithmetic: 0.3 mm faded over 10 mm changes every layer by 3 %."""
        fade = fade_out(0.3, 0.2, 10)
        self.assertAlmostEqual(fade.share, 0.03)
        self.assertAlmostEqual(fade.thickness, 0.006)


class DriftAgainstTheHandbookTest(unittest.TestCase):
    FLOWRATE = (49.6, 47.6, 49.9, 51.3, 47.8, 51.2, 52.6, 52.4, 53.6, 52.1)
    """NIST/SEMATECH e-Handbook of Statistical Methods, 6.3.2.2, flowrate example (from memory)."""

    def test_flowrate(self):
        """Mean 50.81, average moving range 1.8778, limits 55.8041 and 45.8159 (from memory)."""
        chart = individuals_chart(self.FLOWRATE)
        self.assertAlmostEqual(chart.mean, 50.81, places=4)
        self.assertAlmostEqual(chart.mean_range, 1.8778, places=4)
        self.assertAlmostEqual(chart.upper, 55.8041, places=4)
        self.assertAlmostEqual(chart.lower, 45.8159, places=4)
        self.assertEqual(chart.outside, ())

    def test_factors_against_the_normal_distribution(self):
        """d2 of two is 2 / sqrt(pi) = 1.128; D4 = 1 + 3 d3 / d2 with d3 = sqrt(2 - 4 / pi) = 0.853 gives 3.267."""
        d2, d3 = 2 / math.sqrt(math.pi), math.sqrt(2 - 4 / math.pi)
        chart = individuals_chart(self.FLOWRATE)
        self.assertAlmostEqual((chart.upper - chart.mean) / chart.mean_range, 3 / d2, places=2)
        self.assertAlmostEqual(chart.upper_range / chart.mean_range, 1 + 3 * d3 / d2, places=3)

    def test_wait_against_the_rayleigh_distribution(self):
        """The rise from corner to corner of a walk along X and Y is a sum of folded normals: scipy's mean is the tolerance
        after the wait, also when something was left to begin with."""
        for q, left in ((3e-4, (0.0, 0.0)), (1e-3, (0.03, -0.02)), (5e-5, (-0.06, 0.01))):
            days = days_until(left, q, 0.1)
            sd = math.sqrt(q * days)
            mean = sum(stats.foldnorm(abs(one) / sd, scale=sd).mean() for one in left)
            self.assertAlmostEqual(mean, 0.1, places=6)
        self.assertEqual(days_until((0.08, 0.05), 1e-3, 0.1), 0.0)
        # the median of the pace lies near the plain mean of squares a day
        steps = [DriftStep(16, (0.08 * (-1) ** i, 0.06 * (-1) ** (i // 2))) for i in range(30)]
        q = (0.08**2 + 0.06**2) / 2 / 16
        self.assertAlmostEqual(forecast_drift(steps, 0.2).days / days_until((0.0, 0.0), q, 0.1), 1, delta=0.1)
