import unittest

import numpy as np

from finchwort.core.tramming import plan_turns, predict, review_round
from finchwort.messages.remarks import words
from tests.fixtures.beds import BED, bed, screws


def turned(before, made, noise=0.006, seed=5):
    """The bed after the screws really made these turns, measured with noise."""
    after = predict(before, screws(), made)
    return after.with_heights(after.height + np.random.default_rng(seed).normal(0, noise, len(after)))


class ReviewTest(unittest.TestCase):
    def setUp(self):
        self.before = bed(0.9, -0.5, noise=0.006)
        plan = plan_turns(self.before, screws(), centre=BED.centre, repeatability=0.006)
        self.turns = np.array([t.rounded for t in plan.turns])
        self.names = [t.screw.name for t in plan.turns]

    def review(self, made, **changes):
        after = turned(self.before, made, **changes)
        return review_round(self.before, after, screws(), self.turns, 0.2, repeatability=0.006)

    def test_all_as_planned(self):
        review = self.review(self.turns)
        self.assertTrue(review.as_expected)
        self.assertEqual([f.kind for f in review.findings], ["level"])
        self.assertLess(abs(review.spread_after - review.spread_expected), 0.05)

    def test_spinning_screw_is_named(self):
        for i, name in enumerate(self.names):
            if abs(self.turns[i]) < 0.3:
                continue
            made = self.turns.copy()
            made[i] *= 0.05
            review = self.review(made)
            with self.subTest(name):
                self.assertFalse(review.as_expected)
                self.assertEqual(review.findings[0].kind, "slack")
                self.assertIn(name, review.findings[0].screws)
                self.assertIn("Hold the screw", words(review.findings[0].remark))

    def test_everything_the_wrong_way_round(self):
        review = self.review(-self.turns)
        self.assertEqual(review.findings[0].kind, "reversed")
        self.assertGreater(review.spread_after, review.spread_before)
        self.assertIn("worse", [f.kind for f in review.findings])

    def test_what_no_single_knob_explains(self):
        review = self.review(self.turns * np.array([0.1, 2.2, -1.0, 0.2]) + 0.4)
        self.assertFalse(review.as_expected)
        self.assertEqual(review.findings[0].kind, "unexplained")

    def test_a_warp_is_no_fault_of_the_screws(self):
        u, v = (self.before.x - 110) / 95, (self.before.y - 110) / 95
        dome = self.before.with_heights(self.before.height + 0.25 * (1 - (u**2 + v**2) / 2))
        after = turned(dome, self.turns)
        review = review_round(dome, after, screws(), self.turns, 0.2, repeatability=0.006)
        self.assertTrue(review.as_expected)
        self.assertEqual([f.kind for f in review.findings], ["shape"])

    def test_a_new_zero_after_homing_does_not_matter(self):
        after = turned(self.before, self.turns)
        shifted = after.with_heights(after.height + 0.4)
        review = review_round(self.before, shifted, screws(), self.turns, 0.2, repeatability=0.006)
        self.assertTrue(review.as_expected)

    def test_false_alarms_are_rare(self):
        """Hands are not exact: 1/32 turn of scatter must not raise an alarm often."""
        rng = np.random.default_rng(7)
        alarms = 0
        for seed in range(200):
            made = self.turns + rng.normal(0, 1 / 32, 4) * (self.turns != 0)
            alarms += not self.review(made, seed=seed).as_expected
        self.assertLess(alarms, 10)
