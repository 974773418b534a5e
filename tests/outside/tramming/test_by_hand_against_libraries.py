"""Paper as bounds, and one belief about the offset, checked by libraries and by brute force.

Sources: scipy.stats.truncnorm (moments of a truncated normal), scipy.stats.CensoredData with norm.fit (interval
censoring), statsmodels' GenericLikelihoodModel (interval regression by maximum likelihood), scipy.integrate
(brute-force posteriors); ISO 261 pitches; the gap of a strip that just drags is common practice.
"""

import math
import unittest
import warnings

import numpy as np
from scipy import integrate, stats
from statsmodels.base.model import GenericLikelihoodModel

from finchwort.core.first_layer import PAPER_SD, PRIOR_SD, PaperClue, ValueClue, believe, correct_by_knobs
from finchwort.core.printers import Bed, Screw
from finchwort.core.probing import (
    EYE_SD,
    FEEL_BANDS,
    Belief,
    band_moments,
    first_belief,
    join_bands,
    log_band,
    terms,
)

BED = Bed(200, 160)


class TruncatedTest(unittest.TestCase):
    def test_moments_are_those_of_scipy(self):
        for mean, sd, low, high in (
            (0.0, 1.0, 0.0, math.inf),
            (0.2, 0.5, -math.inf, -1.0),
            (-1.0, 2.0, 0.5, 0.9),
            (0.0, 1.0, 6.0, 7.0),
        ):
            a, b = (low - mean) / sd, (high - mean) / sd
            true = stats.truncnorm(a, b, mean, sd)
            got = band_moments(mean, sd**2, 0.0, low, high)
            self.assertAlmostEqual(got[0], true.mean(), places=7)
            self.assertAlmostEqual(got[1], true.var(), delta=1e-6 * sd**2 + 2e-5 * true.var())

    def test_chance_of_a_band(self):
        for low, high in ((-1.0, 2.0), (5.0, 6.0), (-math.inf, -3.0), (2.0, math.inf)):
            true = stats.norm(0.3, 0.7).cdf(high) - stats.norm(0.3, 0.7).cdf(low)
            if low > 3:
                true = stats.norm(0.3, 0.7).sf(low) - stats.norm(0.3, 0.7).sf(high)
            self.assertAlmostEqual(float(log_band(0.3, 0.7, low, high)), math.log(true), places=8)


class BruteForceTest(unittest.TestCase):
    def test_level_and_tilt_on_a_grid(self):
        """Expectation propagation against the posterior summed up point by point, two unknowns."""
        prior_sd = np.array([0.5, 0.3, 1e-6, 1e-6, 1e-6, 1e-6])
        rows = terms(BED, [15, 185, 100, 60], [15, 145, 80, 120])
        soft = 0.015
        level, tilt = np.meshgrid(np.linspace(-2.5, 2.5, 701), np.linspace(-1.5, 1.5, 701), indexing="ij")
        for bands in (
            [(0.015, math.inf), (-math.inf, -0.05), (-0.015, 0.015), (-0.03, -0.015)],
            [(0.015, math.inf), (0.015, math.inf), (-0.015, 0.015), (0.015, math.inf)],
            [(-math.inf, -0.05)] * 4,
        ):
            log = -0.5 * ((level / prior_sd[0]) ** 2 + (tilt / prior_sd[1]) ** 2)
            for row, (low, high) in zip(rows, bands, strict=True):
                log = log + log_band(level * row[0] + tilt * row[1], soft, low, high)
            weight = np.exp(log - log.max())
            weight /= weight.sum()
            mean = np.array([(weight * level).sum(), (weight * tilt).sum()])
            second = np.array([(weight * level**2).sum(), (weight * tilt**2).sum()])
            sd = np.sqrt(second - mean**2)
            low, high = (np.array(side) for side in zip(*bands, strict=True))
            start = Belief(np.zeros(6), np.diag(prior_sd**2))
            got = join_bands(start, rows, low, high, np.full(4, soft))
            with self.subTest(bands):
                self.assertLess(np.abs(got.mean[:2] - mean).max(), 0.05 * sd.max() + 0.002)
                # a posterior cut off on one side only is far from Gaussian: there its width is met less well
                wide = 0.2 if all(np.isinf(low)) else 0.08
                self.assertLess(np.abs(np.sqrt(np.diag(got.covariance)[:2]) / sd - 1).max(), wide)

    def test_the_offset_by_quadrature(self):
        """Paper of uncertain thickness, and calipers, against scipy's Simpson rule in two dimensions."""
        clues = [PaperClue("slight", 0.05, 0.1), PaperClue("free", 0.15, 0.1), ValueClue(0.07, 0.02)]

        def density(off, closer):
            total = stats.norm.pdf(closer, 0, PRIOR_SD) * stats.norm.pdf(off, 0, PAPER_SD)
            for clue in clues[:2]:
                more = clue.z + closer - clue.thickness - off
                near, far = FEEL_BANDS[clue.feel]
                total *= stats.norm.cdf((far - more) / EYE_SD) - stats.norm.cdf((near - more) / EYE_SD)
            return total * stats.norm.pdf(closer, clues[2].closer, clues[2].sd)

        off, closer = np.linspace(-0.06, 0.06, 401), np.linspace(-0.1, 0.25, 1401)
        table = density(off[:, None], closer[None, :])

        def moment(power):
            return integrate.simpson(integrate.simpson(table * closer**power, x=closer), x=off)

        whole = moment(0)
        mean = moment(1) / whole
        sd = math.sqrt(moment(2) / whole - mean**2)
        got = believe(clues)
        self.assertAlmostEqual(got.closer, mean, delta=5e-4)
        self.assertAlmostEqual(got.margin, 1.96 * sd, delta=0.06 * sd)


class CensoredTest(unittest.TestCase):
    def test_one_height_from_many_feels(self):
        """With so many feels that the first belief no longer counts, the mean is the maximum likelihood of scipy."""
        rng = np.random.default_rng(5)
        sd, true = 0.02, 0.004
        edges = np.array([-math.inf, -0.03, -0.015, 0.015, math.inf])
        which = np.searchsorted(edges, true + rng.normal(0, sd, 400)) - 1
        low, high = edges[which], edges[which + 1]
        interval = np.isfinite(low) & np.isfinite(high)
        data = stats.CensoredData(
            interval=np.column_stack([low[interval], high[interval]]),
            left=high[np.isinf(low)],
            right=low[np.isinf(high)],
        )
        found, _ = stats.norm.fit(data, fscale=sd)
        flat = Belief(np.zeros(6), np.diag([1.0, *[1e-12] * 5]))
        rows = np.tile([1.0, 0, 0, 0, 0, 0], (400, 1))
        got = join_bands(flat, rows, low, high, np.full(400, sd))
        self.assertAlmostEqual(got.mean[0], found, delta=3e-4)

    def test_a_plane_by_interval_regression(self):
        """Coefficients and standard errors against statsmodels."""
        rng = np.random.default_rng(8)
        sd, n = 0.03, 300
        x, y = rng.uniform(10, 190, n), rng.uniform(10, 150, n)
        rows = terms(BED, x, y)
        height = rows[:, :3] @ np.array([0.02, 0.05, -0.03]) + rng.normal(0, sd, n)
        edges = np.array([-math.inf, -0.06, -0.02, 0.03, 0.07, math.inf])
        which = np.searchsorted(edges, height) - 1
        low, high = edges[which], edges[which + 1]

        class Interval(GenericLikelihoodModel):
            def nloglikeobs(self, params):
                return -log_band(self.exog @ params, sd, low, high)

        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            fit = Interval(low, rows[:, :3]).fit(start_params=np.zeros(3), disp=0, maxiter=2000)
        start = Belief(np.zeros(6), np.diag([1.0, 1.0, 1.0, 1e-12, 1e-12, 1e-12]))
        got = join_bands(start, rows, low, high, np.full(n, sd))
        self.assertLess(np.abs(got.mean[:3] - fit.params).max(), 5e-4)
        ratio = np.sqrt(np.diag(got.covariance)[:3]) / fit.bse
        self.assertLess(np.abs(ratio - 1).max(), 0.05)


class TradeTest(unittest.TestCase):
    def test_a_strip_that_just_drags_is_the_gap(self):
        """Common practice: Z = 0 set where paper of thickness t just drags leaves a gap of t."""
        got = believe([PaperClue("slight", 0.0, 0.1)])
        self.assertAlmostEqual(got.closer, 0.1, delta=0.003)

    def test_a_strip_that_slides_or_sticks_says_only_which_way(self):
        """Common practice; the interval of what is left is as wide as what was believed before."""
        for feel, side in (("free", 1), ("stuck", -1)):
            got = believe([PaperClue(feel, 0.0, 0.1)])
            self.assertFalse(got.bounded)
            self.assertGreater(got.margin, 0.5)
            self.assertGreater(side * (got.closer - 0.1), 0)

    def test_a_quarter_of_all_knobs(self):
        """ISO 261: M4 has 0.7 mm; a quarter turn is 0.175 mm (common practice: a quarter at a time)."""
        posts = [Screw(str(i), x, y, 0.7) for i, (x, y) in enumerate([(0, 0), (1, 0), (1, 1), (0, 1)])]
        self.assertAlmostEqual(abs(correct_by_knobs(0.175, posts).turns[0][1]), 0.25)

    def test_what_is_believed_before_any_feel_is_wide(self):
        self.assertGreater(first_belief().at(terms(BED, 15, 15))[1][0], 0.5)
