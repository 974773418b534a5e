"""What is said with a plus/minus, on plates, probes and hands that share nothing with the core."""

import itertools
import math
import unittest

import numpy as np
from bench import honest
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.compensation import left_by_mesh, make_mesh
from finchwort.core.levelling import assess_beam, how_far, plan_beam, plan_row
from finchwort.core.printers import Bed, Screw, suggest_points
from finchwort.core.probing import next_place, take_out_drift, touched_again
from finchwort.core.surveys import Survey, averaged, fit_bed, fit_plane
from finchwort.core.surveys import tilt as tilts
from finchwort.core.tramming import Twisting, learn_bends, look_ahead, plan_turns, twist_at
from finchwort.messages.surveys import places_sentence
from finchwort.messages.tramming import outlook_sentence
from tests.simulation.plates import Plate, Probe, pattern

BED = Bed(220, 220)
SEED = 500_000
POSTS = [
    Screw(name, x, y, 0.7) for name, x, y in (("A", 15, 15), ("B", 205, 15), ("C", 205, 205), ("D", 15, 205))
]


def survey(places, height) -> Survey:
    return Survey(*np.asarray(places, float).T, height)


class ShapeIsNotNoiseTest(unittest.TestCase):
    def test_a_dome_without_noise(self):
        """It has no tilt, and nobody is sent to measure 17 by 17 places."""
        for side in (3, 5):
            places = pattern(side)
            dome = 0.2 - 2e-5 * ((places - 110) ** 2).sum(axis=1)
            plan = plan_turns(survey(places, dome), POSTS, bed=BED, centre=BED.centre)
            ahead = look_ahead(survey(places, dome), plan, BED, 0.2, most_side=3)
            self.assertLess(plan.fit.noise, 0.015)
            self.assertLess(ahead.now_margin, 0.11)
            self.assertTrue(plan.done)
            self.assertNotIn("17", outlook_sentence(ahead))

    def test_twist_at_four_corners_is_shape(self):
        """.20 .04 -.04 -.20: the tilt is turned out, and is not drowned by the twist."""
        corners = [(15, 15), (205, 15), (15, 205), (205, 205)]
        plan = plan_turns(survey(corners, [0.20, 0.04, -0.04, -0.20]), POSTS, bed=BED, centre=BED.centre)
        self.assertFalse(plan.done)
        ahead = look_ahead(survey(corners, [0.20, 0.04, -0.04, -0.20]), plan, BED, 0.2)
        self.assertEqual(ahead.decision, "turn")

    def test_what_is_assumed_is_said(self):
        equal = fit_bed(survey(pattern(3), np.zeros(9)), BED)
        self.assertIn("equal", equal.assumed)
        few = fit_bed(survey(honest.CORNERS, [0, 0.1, 0.2, 0.1]), BED)
        self.assertIn("4 readings", few.assumed)
        self.assertIsNone(fit_bed(survey(pattern(5), np.arange(25) % 3 * 0.01), BED).assumed)
        self.assertIsNone(fit_bed(survey(honest.CORNERS, [0, 0.1, 0.2, 0.1]), BED, 0.01).assumed)
        for wrong in (-0.1, math.nan, 2.0):
            with self.assertRaises(OutOfRangeError):
                fit_bed(survey(pattern(3), np.zeros(9)), BED, wrong)

    @settings(max_examples=25, deadline=None)
    @given(st.floats(-1, 1), st.floats(-1, 1), st.integers(3, 6))
    def test_a_plane_is_found_to_the_last_digit(self, a, b, side):
        places = pattern(side)
        height = (a * places[:, 0] + b * places[:, 1]) / 220 + 0.1
        fit = fit_bed(survey(places, height), BED, 0.005)
        np.testing.assert_allclose(
            [fit.plane.a * 220, fit.plane.b * 220, fit.plane.c], [a, b, 0.1], atol=1e-9
        )
        self.assertEqual(fit.aside, ())

    def test_intervals_decisions_and_chances(self):
        for name, places in honest.PATTERNS.items():
            with self.subTest(name):
                found = honest.tilt_and_plan(places, range(SEED, SEED + 60))
                self.assertGreaterEqual(found["tilt held"], 0.86)
                self.assertGreaterEqual(found["after held"], 0.86)
                self.assertLess(found["Brier"], 0.15)

    def test_part_of_the_bed(self):
        self.assertGreaterEqual(honest.part_of_the_bed(0.5, range(SEED, SEED + 50)), 0.86)
        half = fit_bed(survey(pattern(3, share=0.4), 0.001 * pattern(3, share=0.4)[:, 0]), BED, 0.005)
        self.assertFalse(half.told)
        self.assertIn("bow from a tilt", places_sentence(half))
        self.assertIsNone(places_sentence(fit_bed(survey(pattern(5), np.zeros(25)), BED, 0.005)))


class BadReadingTest(unittest.TestCase):
    def test_coverage_and_false_alarms(self):
        for side in (3, 5):
            held, _, false = honest.bad_readings(side, range(SEED, SEED + 60))
            self.assertGreaterEqual(held, 0.85)
            self.assertLessEqual(false, 0.05)

    def test_found_before_the_plan_also_on_three_by_three(self):
        for side in (3, 5):
            places = pattern(side)
            rng = np.random.default_rng(side)
            height = 0.001 * places[:, 0] + rng.normal(0, 0.004, side * side)
            height[4] += 0.4
            fit = fit_bed(survey(places, height), BED, 0.004, 9)
            self.assertEqual(fit.aside, (4,))
            self.assertAlmostEqual(fit.stray[4], 0.4, delta=0.08)
            plan = plan_turns(survey(places, height), POSTS, bed=BED, centre=BED.centre, fit=fit)
            self.assertAlmostEqual(plan.fit.plane.a, 0.001, delta=1e-4)
            # put back it counts again
            kept = fit_bed(survey(places, height), BED, 0.004, 9, kept=[4])
            self.assertEqual(kept.aside, ())
            with self.assertRaises(ChoiceError):
                plan_turns(
                    survey(places, height), POSTS, fit=fit, reference="three_points", points=[0, 4, side]
                )

    def test_where_it_was_settled_nothing_more_is_set_aside(self):
        height = np.zeros(25)
        height[7] = 0.4
        self.assertEqual(fit_bed(survey(pattern(5), height), BED, settle=False).aside, ())
        self.assertEqual(fit_bed(survey(pattern(5), height), BED, aside=[3], settle=False).aside, (3,))

    def test_two_readings_of_one_place_are_averaged(self):
        one, said = averaged([0, 100, 0, 0], [0, 0, 100, 0], [0.1, 0, 0, 0.3])
        self.assertEqual(len(one), 3)
        self.assertAlmostEqual(one.height[0], 0.2)
        self.assertIn("mean", said)


class DriftTest(unittest.TestCase):
    def test_coverage(self):
        held, plain = honest.drifting_walks(range(SEED, SEED + 60))
        self.assertGreaterEqual(held, 0.85)
        self.assertGreater(held, plain)

    @settings(max_examples=40)
    @given(st.floats(-0.06, 0.06), st.integers(6, 30))
    def test_a_line_in_time_is_taken_out(self, drift, count):
        rng = np.random.default_rng(count)
        places = [(10.0 * i, float(rng.uniform(0, 200))) for i in range(count)]
        again = [*places, *touched_again(places)]
        true = {place: float(rng.uniform(-0.2, 0.2)) for place in places}
        t = np.arange(len(again)) * 5.0
        height = [true[place] + drift * when / t[-1] for place, when in zip(again, t, strict=True)]
        walk = take_out_drift(*np.array(again).T, height, t)
        self.assertAlmostEqual(walk.drift, drift, places=9)
        off = walk.height - np.array([true[place] for place in places])
        np.testing.assert_allclose(off, drift / 2, atol=1e-9)
        self.assertEqual(walk.sentence is not None, abs(drift) >= max(0.008, 2 * walk.drift_sd))

    def test_without_second_touches_nothing_is_known(self):
        walk = take_out_drift([0, 100, 0], [0, 0, 100], [0.1, 0.2, 0.3], [0, 5, 10])
        self.assertIsNone(walk.drift)
        self.assertEqual(walk.height.tolist(), [0.1, 0.2, 0.3])

    def test_one_bad_second_touch_is_not_a_drift(self):
        places = pattern(5)
        again = np.array([*places, *places[:3]])
        height = np.zeros(28)
        height[26] = 0.3
        walk = take_out_drift(*again.T, height, np.arange(28.0))
        self.assertAlmostEqual(walk.drift, 0.0)


class MeshTest(unittest.TestCase):
    def test_said_over_true(self):
        for kind, (ratio, _) in honest.meshes(
            7, range(SEED, SEED + 12), ("dome", "ridge", "wave", "twist")
        ).items():
            with self.subTest(kind):
                self.assertGreater(ratio, 0.75)
                self.assertLess(ratio, 1.35)

    def test_rim_none_where_the_points_reach_the_edge(self):
        places = pattern(5, inset=0)
        found = left_by_mesh(
            survey(places, np.zeros(25)), make_mesh(survey(places, np.zeros(25)), 5, 5), BED, 0.01
        )
        self.assertIsNone(found.rim)
        self.assertEqual(found.by, "curvature")
        # what remains of a flat bed is the noise of the points, two thirds of it in the root mean square
        self.assertAlmostEqual(found.rms, 0.01 * 2 / 3, places=6)

    def test_a_coarser_mesh_is_judged_by_what_it_does_not_use(self):
        places = pattern(9)
        bump = 0.2 * np.exp(-((places - 110) ** 2).sum(axis=1) / 800)
        one = survey(places, bump)
        found = left_by_mesh(one, make_mesh(one, 3, 3), BED, 0.002)
        self.assertEqual(found.by, "validation")
        self.assertGreater(found.worst, found.rms)


class BeamTest(unittest.TestCase):
    def test_every_combination_takes_the_skew_out(self):
        right, total = honest.beams()
        self.assertEqual(right, total)
        self.assertGreater(total, 20)

    def test_directions_and_eighths(self):
        for carries, raises, tilt in itertools.product(
            ("nozzle", "bed"), ("clockwise", "counterclockwise"), (-0.4, 0.4)
        ):
            places = pattern(3)
            plan = plan_beam(
                survey(places, tilt * places[:, 0] / 220),
                220,
                noise=0.004,
                carries=carries,
                lead=2.0,
                raises=raises,
            )
            for drive in plan.drives:
                self.assertEqual(drive.turns_way == raises, drive.rise > 0)
                self.assertIn(f"{drive.turns_way} seen from above", how_far(drive))
        eighth = plan_beam(
            survey(places, 0.25 * places[:, 0] / 220), 220, noise=0.004, carries="nozzle", lead=2.0
        )
        self.assertIn("1/8", how_far(eighth.drives[0]))

    def test_a_beam_nobody_knows_is_not_driven_by_calipers(self):
        places = pattern(3)
        plan = plan_beam(
            survey(places, 0.3 * places[:, 0] / 220),
            220,
            noise=0.004,
            skew=assess_beam(14.0, 14.3, 220),
        )
        self.assertEqual(plan.state, "trial")
        self.assertIn("which way it turns", plan.sentence)

    def test_three_bare_numbers(self):
        plan = plan_row([-0.1, 0.15, 0.1], 220, between=190, noise=0.005, carries="bed")
        self.assertEqual(plan.drives[0].side, "left")
        self.assertIn("bow", plan.sentence)
        for wrong in ([0, 0], [0, math.nan, 0], [0, 0, 99]):
            with self.assertRaises((ChoiceError, OutOfRangeError, ValueError)):
                plan_row(wrong, 220, between=190, noise=0.005)


class NextPlaceTest(unittest.TestCase):
    def test_it_narrows_the_tilt_most_and_stops_when_decided(self):
        places = [(15, 15), (60, 15), (15, 60), (60, 60)]
        one = survey(places, [0.0, 0.02, 0.01, 0.03])
        fit = fit_bed(one, BED, 0.01)
        found = next_place(one, fit, 0.2, suggest_points(BED, 3, 3))
        self.assertIsNotNone(found.x)
        self.assertGreater(found.x + found.y, 200)  # far from what was read
        self.assertLess(found.margin_then, found.margin_now)
        more = survey([*places, (found.x, found.y)], [0.0, 0.02, 0.01, 0.03, 0.1])
        self.assertLess(
            fit_bed(more, BED, 0.01).margin(np.array([220.0, 220.0])),
            fit.margin(np.array([220.0, 220.0])),
        )
        tilted = survey(pattern(3), 0.003 * pattern(3)[:, 0])
        done = next_place(tilted, fit_bed(tilted, BED, 0.01), 0.2, suggest_points(BED, 3, 3))
        self.assertIsNone(done.x)
        self.assertIn("decided", done.sentence)

    def test_where_every_place_was_read_one_is_read_again(self):
        rng = np.random.default_rng(2)
        for _ in range(30):
            one = survey(pattern(3), 0.0004 * pattern(3)[:, 0] + rng.normal(0, 0.03, 9))
            found = next_place(one, fit_bed(one, BED, 0.03), 0.2, suggest_points(BED, 3, 3))
            if found.x is not None:
                self.assertIn("again", found.sentence)
                return
        self.fail("no survey was undecided")


class BendingTest(unittest.TestCase):
    def test_the_share_is_learned_from_rounds(self):
        places = pattern(5)
        rng = np.random.default_rng(5)
        for true in (0.0, 0.45, 0.9):
            rounds = []
            for _ in range(5):
                turns = tuple(rng.choice([-2, -1, 0, 1, 2], 4) / 8)
                before = survey(places, rng.normal(0, 0.004, 25))
                added = twist_at(POSTS, turns, true, *places.T) if true else 0.0
                after = survey(places, rng.normal(0, 0.004, 25) + added)
                rounds.append(Twisting(before, after, turns, 0.004))
            found = learn_bends(POSTS, rounds, said_to=False)
            self.assertLess(abs(found.share - true), 4 * found.sd + 0.05)
            self.assertEqual(found.used > 0, true > 0)
            self.assertEqual(learn_bends(POSTS, rounds, said_to=True).used > 0, true > 0)

    def test_real_plates_follow_as_thin_as_they_are(self):
        """Elastic plates on springs: the share learned falls with their rigidity."""
        shares = []
        for rigidity in (3e3, 1e6):
            rounds = []
            for seed in range(6):
                plate = Plate(np.random.default_rng(seed), kind="flat", rigidity=rigidity)
                posts = [Screw(str(i), *p, 0.7) for i, p in enumerate(plate.places)]
                places = pattern(5)
                before = survey(places, plate.at(*places.T))
                plate.turn((0.5, -0.5, 0.5, -0.5), hand=0.0)
                rounds.append(
                    Twisting(before, survey(places, plate.at(*places.T)), (0.5, -0.5, 0.5, -0.5), 0.004)
                )
            shares.append(learn_bends(posts, rounds, said_to=True).share)
        self.assertGreater(shares[0], shares[1])
        self.assertLess(shares[1], 0.3)


class OneJudgementTest(unittest.TestCase):
    def test_a_tilt_that_drowns_in_its_uncertainty_is_measured_again(self):
        one = survey([(15, 15), (205, 15), (110, 205)], [0.0, 0.09, 0.0])
        self.assertEqual(tilts.judge_tilt(fit_bed(one, BED, 0.08), 0.2).decision, "measure")

    @settings(max_examples=60)
    @given(st.floats(0, 1), st.floats(0, 1), st.floats(0.001, 0.5))
    def test_decisions_follow_need_and_knowledge(self, need, rise, margin):
        decision = tilts.decide(need, rise, margin, 0.2).decision
        if decision == "leave":
            self.assertLess(need, 0.5)
        if decision == "turn":
            self.assertGreaterEqual(need, 0.5)

    def test_probe_without_noise_sees_the_plane_of_the_whole_plate(self):
        plate = Plate(np.random.default_rng(3), kind="dome", size=0.2, rigidity=1e5)
        places = pattern(7)
        fit = fit_bed(survey(places, Probe(1e-6).read(np.random.default_rng(1), plate.at(*places.T))), BED)
        np.testing.assert_allclose(
            220 * np.array([fit.plane.a, fit.plane.b]), 220 * plate.slopes(), atol=0.01
        )
        self.assertLess(np.ptp(fit_plane(survey(places, plate.at(*places.T))).residual), 0.6)
