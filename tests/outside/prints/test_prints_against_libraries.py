"""Intervals, hazards and survival of prints, checked against scipy and statsmodels."""

import unittest

import numpy as np
from scipy.stats import CensoredData, binomtest, ecdf
from statsmodels.duration.survfunc import SurvfuncRight
from statsmodels.stats.proportion import proportion_confint
from statsmodels.stats.rates import confint_poisson

from finchwort.core.prints import Run, cumulative_hazard, hazard_rate, look_every, share_of, survival
from finchwort.core.prints.hazard import LOOK_HOURS

REMISSION = [6, 6, 6, 7, 10, 13, 16, 22, 23], [6, 9, 10, 11, 17, 19, 20, 25, 32, 32, 34, 35]
"""Weeks until relapse, and weeks until lost from sight, of 21 patients under 6-MP: Freireich and others, 1963, as in many
textbooks of survival analysis (from memory)."""


class ShareTest(unittest.TestCase):
    def test_wilson_against_scipy_and_statsmodels(self):
        for held, told in ((0, 7), (1, 2), (5, 9), (9, 10), (17, 17), (81, 263), (9_700, 10_000)):
            share = share_of(held, told)
            scipys = binomtest(held, told).proportion_ci(0.95, method="wilson")
            others = proportion_confint(held, told, alpha=0.05, method="wilson")
            for mine, one, two in zip((share.low, share.high), scipys, others, strict=True):
                self.assertAlmostEqual(mine, one, places=10)
                self.assertAlmostEqual(mine, two, places=10)


class HazardTest(unittest.TestCase):
    def test_bounds_of_a_rate_against_statsmodels(self):
        """The exact interval of a Poisson count (Garwood)."""
        for failures, hours in ((0, 40.0), (1, 12.5), (4, 68.0), (60, 311.0)):
            rate = hazard_rate(failures, hours)
            low, high = confint_poisson(failures, hours, method="exact-c", alpha=0.05)
            self.assertAlmostEqual(rate.low, 0.0 if failures == 0 else low, places=10)
            self.assertAlmostEqual(rate.high, high, places=10)

    def test_the_interval_between_looks_against_a_search(self):
        """The cost of looks and of what is printed in vain, per hour of printing, tried for every interval."""
        every = np.arange(0.05, 6, 0.001)
        for per_hour in (0.02, 1 / 30, 0.05, 0.065):
            cost = LOOK_HOURS / every + per_hour * every / 2
            best = 60 * every[np.argmin(cost)]
            self.assertLessEqual(abs(look_every(per_hour) - best), 7.6)


class SurvivalTest(unittest.TestCase):
    def setUp(self):
        gone, lost = REMISSION
        self.runs = [Run(float(at), True) for at in gone] + [Run(float(at), False) for at in lost]

    def test_the_worked_example(self):
        """Kaplan-Meier: 0.857 after 6 weeks, 0.690 after 13, 0.448 after 23 (from memory)."""
        hours, share = survival(self.runs)
        found = dict(zip(hours.tolist(), share.tolist(), strict=True))
        for at, wanted in (
            (6, 0.857),
            (7, 0.807),
            (10, 0.753),
            (13, 0.690),
            (16, 0.627),
            (22, 0.538),
            (23, 0.448),
        ):
            self.assertAlmostEqual(found[at], wanted, delta=5e-4)

    def test_survival_against_statsmodels_and_scipy(self):
        rng = np.random.default_rng(4)
        many = [
            Run(float(h), bool(g))
            for h, g in zip(rng.integers(1, 30, 300), rng.random(300) < 0.4, strict=True)
        ]
        for runs in (self.runs, many):
            times = [run.hours for run in runs]
            theirs = SurvfuncRight(times, [int(run.let_go) for run in runs])
            hours, share = survival(runs)
            np.testing.assert_allclose(hours, theirs.surv_times)
            np.testing.assert_allclose(share, theirs.surv_prob)
            data = CensoredData(
                uncensored=[run.hours for run in runs if run.let_go],
                right=[run.hours for run in runs if not run.let_go],
            )
            np.testing.assert_allclose(share, ecdf(data).sf.evaluate(hours))

    def test_the_cumulative_hazard_against_the_risk_sets_of_statsmodels(self):
        theirs = SurvfuncRight([run.hours for run in self.runs], [int(run.let_go) for run in self.runs])
        _, hazard = cumulative_hazard(self.runs)
        np.testing.assert_allclose(hazard, np.cumsum(theirs.n_events / theirs.n_risk))
