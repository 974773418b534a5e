"""What rounds teach: the response of a bed, knobs that slip, turns that go lost."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.surveys import fit_plane
from finchwort.core.tramming import (
    GAIN_SD,
    LOST_MEAN,
    PRIOR,
    Move,
    find_slipping,
    learn,
    make_move,
    plan_turns,
    plate_response,
    prior_response,
)
from finchwort.messages.tramming import slipping_sentence
from tests.fixtures.beds import BED, bed, screws


def move(change, turns, sd=1e-6, chained=False):
    """A round with known slopes: covariance of the slopes sd squared, mm per mm."""
    return Move(np.array(turns, dtype=float), np.array(change), np.eye(2) * sd**2, np.eye(2) * sd**2, chained)


def plate(posts):
    return plate_response(posts)[:2] * [s.travel for s in posts]


class ResponseTest(unittest.TestCase):
    def test_before_any_round_it_is_a_rigid_plate(self):
        for count in (3, 4):
            posts = screws(count)
            prior = prior_response(posts)
            np.testing.assert_allclose(prior.slopes, plate(posts))
            share, sd = prior.effect()
            np.testing.assert_allclose(share, 1)
            self.assertTrue((sd >= GAIN_SD - 1e-12).all())

    def test_unequal_springs_leave_moves_along_one_plane_alone(self):
        """What is not known of the springs must not blur a plan whose screws do not fight."""
        posts = screws()
        prior = prior_response(posts)
        along = np.array([(s.x - 110) * 0.004 + (s.y - 110) * -0.002 for s in posts])
        fighting = np.array([0.5, -0.5, 0.5, -0.5])
        across = np.array([220.0, 220.0])
        sds = [np.sqrt(across @ prior.change(turns)[1] @ across) for turns in (along, fighting)]
        # one diagonal against the other moves no rigid plate, yet with unequal springs nobody knows
        self.assertLess(np.abs(prior.change(fighting)[0] @ across), 1e-9)
        self.assertLess(sds[0], sds[1])

    @settings(max_examples=25, deadline=None)
    @given(st.integers(0, 10_000), st.sampled_from([3, 4]))
    def test_rounds_bring_it_to_the_truth(self, seed, count):
        rng = np.random.default_rng(seed)
        posts = screws(count)
        real = plate(posts) * rng.normal(1, 0.05, count)
        moves = []
        for _ in range(12):
            turns = rng.uniform(0.3, 1.5, count)  # always the same way: nothing goes lost after the first
            moves.append(move(real @ turns, turns, sd=2e-6))
        response = learn(posts, moves)
        before, after = (np.abs(r - real).mean() for r in (plate(posts), response.slopes))
        self.assertLess(after, before + 1e-6)
        self.assertEqual(response.moves, 12)
        self.assertTrue((response.effect()[1] <= prior_response(posts).effect()[1] + 1e-12).all())

    def test_backlash_is_found_when_directions_change(self):
        posts = screws()
        rng = np.random.default_rng(3)
        lost, last, moves = 0.06, np.zeros(4), []
        for i in range(10):
            turns = rng.uniform(0.3, 0.8, 4) * (1 if i % 2 else -1)
            gone = np.where(last * turns < 0, lost, 0.0) * np.sign(turns)
            moves.append(move(plate(posts) @ (turns - gone), turns, sd=1e-6))
            last = np.sign(turns)
        found = learn(posts, moves)
        # all knobs at once move the bed up and down, not over: so a mixture of directions is needed
        mixed = []
        last = np.zeros(4)
        for i in range(10):
            turns = np.array([1, -1, -1, 1]) * rng.uniform(0.3, 0.8, 4) * (1 if i % 2 else -1)
            gone = np.where(last * turns < 0, lost, 0.0) * np.sign(turns)
            mixed.append(move(plate(posts) @ (turns - gone), turns, sd=1e-6))
            last = np.sign(turns)
        told = learn(posts, mixed)
        self.assertLess(abs(told.lost - lost), 0.012)
        self.assertLess(told.lost_sd, found.lost_sd)
        self.assertAlmostEqual(prior_response(posts).lost, LOST_MEAN)

    def test_lost_turns_are_made_up_for(self):
        posts = screws()
        response = learn(posts, [move(plate(posts) @ [1, 1, -1, -1], [1.0, 1, -1, -1])])
        self.assertEqual(response.last.tolist(), [1, 1, -1, -1])
        gone = response.backlash(np.array([-0.5, 0.5, 0.5, -0.01]))
        self.assertLess(gone[0], 0)
        self.assertEqual(gone[1], 0)
        self.assertGreater(gone[2], 0)
        self.assertGreaterEqual(abs(gone[3]), 0)
        self.assertLessEqual(np.abs(gone).max(), 0.05)

    def test_the_next_plan_uses_it(self):
        """A bed whose right knobs do three quarters is turned further there."""
        posts = screws()
        real = plate(posts) * [1, 0.75, 0.75, 1]
        rng = np.random.default_rng(1)
        moves = [move(real @ t, t, sd=1e-6) for t in np.abs(rng.uniform(0.4, 1.2, (8, 4)))]
        response = learn(posts, moves, ["front right", "back right"])
        survey = bed(a=1.0, n=5)
        usual = plan_turns(survey, posts, centre=BED.centre, repeatability=0.001)
        better = plan_turns(survey, posts, centre=BED.centre, repeatability=0.001, response=response)
        left = [
            np.abs(np.array([1.0, 0.0]) / 220 + real @ [t.rounded for t in plan.turns]).sum() * 220
            for plan in (usual, better)
        ]
        self.assertLess(left[1], 0.5 * left[0])

    def test_chained_rounds_share_a_survey(self):
        posts = screws()
        apart = [move([1e-3, 0], [1, 0, 0, 0], 1e-4), move([1e-3, 0], [0, 1.0, 0, 0], 1e-4)]
        together = [apart[0], move([1e-3, 0], [0, 1.0, 0, 0], 1e-4, chained=True)]
        self.assertFalse(np.allclose(learn(posts, apart).slopes, learn(posts, together).slopes))

    def test_moves_are_made_from_surveys(self):
        before, after = bed(a=0.5, n=5), bed(a=0.1, n=5)
        found = make_move(before, after, [0.1, 0, 0, 0], (0.01, 0.02))
        np.testing.assert_allclose(found.change * 220, [-0.4, 0], atol=1e-9)
        self.assertAlmostEqual(found.after[0, 0] / found.before[0, 0], 4)
        # read at other places, what is not known of the shape counts as well
        domed = bed(a=0.1, n=3)
        domed = domed.with_heights(domed.height + 2e-5 * (domed.x - 110) * (domed.y - 110))
        other = make_move(before, domed, [0.1, 0, 0, 0], (0.001, 0.001))
        self.assertGreater(other.after[0, 0], fit_plane(domed).unscaled[0, 0] * 0.001**2)

    def test_rounds_of_other_screws_are_refused(self):
        with self.assertRaises(errors.ChoiceError):
            learn(screws(), [move([0, 0], [1, 2, 3])])
        with self.assertRaises(errors.ChoiceError):
            plan_turns(bed(), screws(), response=prior_response(screws(3)))


class SlippingTest(unittest.TestCase):
    def setUp(self):
        self.posts = screws()
        self.turns = np.array([0.5, -0.75, -0.5, 0.75])

    def seen(self, made, turns=None, sd=3e-5):
        turns = self.turns if turns is None else turns
        return move(plate(self.posts) @ made, turns, sd)

    def test_nothing_is_known_without_rounds(self):
        found = find_slipping(self.posts, [])
        self.assertEqual((found.named, found.suspects, found.healthy), (None, (), 1 - PRIOR))
        self.assertIsNone(slipping_sentence(found))

    def test_a_healthy_bed_gives_no_alarm(self):
        found = find_slipping(self.posts, [self.seen(self.turns)])
        self.assertGreater(found.healthy, 0.8)
        self.assertIsNone(slipping_sentence(found))

    def test_opposite_knobs_look_alike_until_one_rests(self):
        """On four knobs a tilt cannot tell a slipping knob from the one across; the next round can."""
        made = self.turns * [1, 1, 1, 0.2]
        first = find_slipping(self.posts, [self.seen(made)])
        self.assertIsNone(first.named)
        self.assertEqual(set(first.suspects), {"front right", "back left"})
        self.assertIn(first.hold, first.suspects)
        self.assertIn("Leave", slipping_sentence(first))
        rested = next(i for i, s in enumerate(self.posts) if s.name == first.hold)
        turns = np.array([0.0, 0.6, 0.0, 0.6])
        turns[rested] = 0.0
        second = self.seen(turns * [1, 1, 1, 0.2], turns)
        found = find_slipping(self.posts, [self.seen(made), second])
        self.assertEqual(found.named, "back left")
        self.assertGreater(found.lost, 0.6)
        self.assertIn("Hold the screw", slipping_sentence(found))
        self.assertEqual(found.doubted, ("back left",))

    def test_three_screws_are_told_apart_at_once(self):
        posts = screws(3)
        turns = np.array([0.8, -0.6, 0.5])
        for i, post in enumerate(posts):
            made = turns.copy()
            made[i] *= 0.1
            found = find_slipping(posts, [move(plate(posts) @ made, turns, 3e-5)])
            self.assertEqual(found.named, post.name)

    def test_probabilities_add_up(self):
        found = find_slipping(self.posts, [self.seen(self.turns * 0.6)])
        self.assertAlmostEqual(found.healthy + found.each.sum(), 1)

    def test_a_knob_that_was_not_turned_is_no_suspect(self):
        turns = np.array([0.5, 0.0, -0.5, 0.0])
        found = find_slipping(self.posts, [self.seen(turns * 0.2, turns)])
        self.assertEqual(found.each[1], 0)
        self.assertEqual(found.each[3], 0)
