"""How prints let go over time, how often that is looked after, and what came of them."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.prints import (
    Run,
    coat_life,
    cumulative_hazard,
    hazard_rate,
    is_slender,
    look_every,
    saved_by_stopping,
    share_of,
    survival,
)

RUNS = st.lists(st.builds(Run, st.integers(1, 40).map(float), st.booleans()), max_size=40)


class HazardTest(unittest.TestCase):
    def test_without_records_the_first_estimate_holds(self):
        rate = hazard_rate(0, 0.0)
        self.assertAlmostEqual(rate.per_hour, 1 / 30)
        self.assertEqual((rate.low, rate.high), (0.0, float("inf")))

    @given(st.integers(0, 60), st.floats(0.5, 5000))
    def test_bounds_enclose_what_was_seen_and_records_move_the_belief(self, failures, hours):
        rate = hazard_rate(failures, hours)
        seen = failures / hours
        self.assertLessEqual(rate.low, seen)
        self.assertGreaterEqual(rate.high, seen)
        low, high = sorted((seen, 1 / 30))
        self.assertTrue(low - 1e-12 <= rate.per_hour <= high + 1e-12)

    @given(st.floats(1e-4, 5), st.floats(1e-4, 5))
    def test_what_lets_go_more_often_is_looked_at_more_often(self, one, two):
        seldom, often = sorted((one, two))
        self.assertLessEqual(look_every(often), look_every(seldom))
        self.assertTrue(60 <= look_every(one) <= 120)
        self.assertEqual(look_every(one) % 15, 0)

    def test_a_part_is_slender_for_its_narrower_side(self):
        self.assertTrue(is_slender(40, 8, 33))
        self.assertFalse(is_slender(40, 8, 31))

    @given(RUNS)
    def test_survival_falls_and_the_hazard_rises(self, runs):
        hours, share = survival(runs)
        _, hazard = cumulative_hazard(runs)
        self.assertTrue(np.all(np.diff(share) <= 0) and np.all(np.diff(hazard) > 0))
        self.assertTrue(np.all((share >= 0) & (share <= 1)))
        self.assertEqual(hours.tolist(), sorted({run.hours for run in runs if run.let_go}))
        # the product-limit estimate never lies above what the hazard gives
        self.assertTrue(np.all(share <= np.exp(-hazard) + 1e-12))

    def test_where_none_ended_otherwise_it_is_the_plain_share(self):
        runs = [Run(hours, True) for hours in (1.0, 2.0, 2.0, 5.0)]
        hours, share = survival(runs)
        self.assertEqual((hours.tolist(), share.tolist()), ([1.0, 2.0, 5.0], [0.75, 0.25, 0.0]))


class ShareTest(unittest.TestCase):
    @given(st.integers(0, 400), st.integers(0, 400))
    def test_bounds_enclose_the_share_and_mirror(self, held, failed):
        share, other = share_of(held, held + failed), share_of(failed, held + failed)
        self.assertTrue(0 <= share.low <= share.high <= 1)
        if held + failed:
            self.assertTrue(share.low <= held / (held + failed) <= share.high)
            self.assertAlmostEqual(share.low, 1 - other.high)

    def test_more_prints_say_more(self):
        self.assertLess(
            share_of(90, 100).high - share_of(90, 100).low, share_of(9, 10).high - share_of(9, 10).low
        )
        self.assertTrue(share_of(3, 4).few)

    def test_what_a_stop_saves(self):
        self.assertEqual(saved_by_stopping(30.0, 120.0, 80.0), (30.0, 20.0))
        # what was to end long ago, or takes longer than thought, saves no more than there is
        self.assertEqual(saved_by_stopping(-3.0, 120.0, 80.0), (0.0, 0.0))
        self.assertEqual(saved_by_stopping(150.0, 120.0, 80.0), (120.0, 80.0))


class CoatTest(unittest.TestCase):
    def test_a_coat_that_lets_go_at_the_seventh(self):
        """Six prints held on each of five coats, and the seventh let go."""
        told = [(before, before == 6) for _ in range(5) for before in range(7)]
        self.assertEqual((coat_life(told).prints, coat_life(told).at_least), (6, False))

    def test_washed_before_it_lets_go_is_at_least(self):
        told = [(before, False) for _ in range(6) for before in range(4)] + [(0, True), (1, True)]
        life = coat_life(told)
        self.assertEqual((life.prints, life.at_least, life.let_go), (4, True, 2))

    def test_the_share_that_still_holds_multiplies(self):
        # a third lets go at the second and a third of the rest at the third: 2/3, 4/9 < 1/2
        told = [(0, False)] * 9 + [(1, one < 3) for one in range(9)] + [(2, one < 3) for one in range(9)]
        self.assertEqual(coat_life(told).prints, 2)

    def test_one_failure_says_nothing(self):
        self.assertIsNone(coat_life([(9, True)] + [(0, False)] * 20))
