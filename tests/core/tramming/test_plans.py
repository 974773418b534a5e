"""Planes to choose from, limits, order, outlook."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.printers import Screw
from finchwort.core.surveys import (
    SIDES,
    Survey,
    choose_plane,
    fit_plane,
    judge_tilt,
    nearest_readings,
    side_for_tilt,
    widest_triangle,
)
from finchwort.core.tramming import (
    after_turns,
    change_of,
    look_ahead,
    plan_turns,
    predict,
    turning_order,
)
from finchwort.messages.remarks import words
from finchwort.messages.tramming import outlook_sentence, percent
from tests.fixtures.beds import BED, bed, screws, tilt
from tests.fixtures.strategies import surveys


class DatumTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(surveys())
    def test_each_plane_is_best_at_what_it_promises(self, survey):
        least, zone = choose_plane(survey), choose_plane(survey, "minimum_zone")
        three = choose_plane(survey, "three_points")
        self.assertLessEqual(least.rms, min(zone.rms, three.rms) + 1e-9)
        self.assertLessEqual(zone.peak_to_valley, min(least.peak_to_valley, three.peak_to_valley) + 1e-7)
        at = list(three.used)
        np.testing.assert_allclose(three.plane.at(survey.x[at], survey.y[at]), survey.height[at], atol=1e-7)

    def test_widest_triangle(self):
        survey = bed(n=5)
        a, b, c = widest_triangle(survey)
        area = abs(
            (survey.x[b] - survey.x[a]) * (survey.y[c] - survey.y[a])
            - (survey.x[c] - survey.x[a]) * (survey.y[b] - survey.y[a])
        )
        self.assertAlmostEqual(area, 190 * 190)

    def test_readings_at_the_screws(self):
        survey = bed(n=5)
        self.assertEqual(nearest_readings(survey, screws()), (0, 4, 24, 20))
        with self.assertRaises(errors.ChoiceError):
            nearest_readings(survey, screws()[:2])
        with self.assertRaises(errors.ChoiceError):
            nearest_readings(Survey([0, 1, 0], [0, 0, 1], [0, 0, 0]), screws())

    def test_bad_choices(self):
        survey = bed(n=3)
        with self.assertRaises(errors.ChoiceError):
            choose_plane(survey, "through the middle")
        with self.assertRaises(errors.ChoiceError):
            choose_plane(survey, "three_points", points=[0, 1, 1])
        with self.assertRaises(errors.ChoiceError):
            choose_plane(survey, "three_points", points=[0, 1, 99])
        with self.assertRaises(errors.CollinearError):
            choose_plane(survey, "three_points", points=[0, 1, 2])

    def test_a_plan_brings_the_chosen_readings_level(self):
        survey, posts = bed(0.8, -0.4, noise=0.05, n=4, seed=3), screws(divisions=64)
        for reference in ("three_points", "screws"):
            plan = plan_turns(survey, posts, repeatability=0.0, reference=reference)
            used = list(plan.datum.used)
            self.assertLess(np.ptp(plan.predicted.height[used]), 0.08 if reference == "screws" else 0.02)


class LimitsTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(tilt, tilt, st.lists(st.floats(0, 1), min_size=8, max_size=8))
    def test_no_spring_is_turned_beyond_its_end(self, a, b, left):
        room = [(left[2 * i], left[2 * i + 1]) for i in range(4)]
        plan = plan_turns(bed(a, b, noise=0.005), screws(), repeatability=0.005, room=room)
        for turn, (tighten, loosen) in zip(plan.turns, room, strict=True):
            self.assertLessEqual(turn.rounded, tighten + 1e-9)
            self.assertGreaterEqual(turn.rounded, -loosen - 1e-9)

    def test_what_is_cut_off_is_told(self):
        room = [(0.0, 0.25)] + [(5.0, 5.0)] * 3
        plan = plan_turns(bed(a=1.5), screws(), repeatability=0.003, room=room)
        first = plan.turns[0]
        self.assertGreaterEqual(first.rounded, -0.25)
        self.assertLess(first.short, -0.4)
        none = plan_turns(bed(a=1.5), screws(), repeatability=0.003, room=[(0.0, 0.0)] * 4)
        self.assertTrue(none.done)
        self.assertIn("limit", {turn.reason for turn in none.turns})

    def test_far_limits_change_nothing(self):
        survey = bed(0.7, -0.3, noise=0.01)
        free = plan_turns(survey, screws(), centre=BED.centre)
        wide = plan_turns(survey, screws(), centre=BED.centre, room=[(9.0, math.inf)] * 4)
        self.assertEqual([t.rounded for t in free.turns], [t.rounded for t in wide.turns])


class SixScrewsTest(unittest.TestCase):
    def test_they_level_a_bed(self):
        posts = [Screw(f"{i}{j}", 10 + 100 * i, 10 + 200 * j, 0.7) for i in range(3) for j in range(2)]
        survey = bed(0.9, -0.6, noise=0.004, n=9)
        plan = plan_turns(survey, posts, centre=BED.centre, repeatability=0.004)
        level = predict(survey, posts, [t.rounded for t in plan.turns])
        left = fit_plane(level).plane
        self.assertLess((abs(left.a) + abs(left.b)) * 220, 0.06)


class OrderTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.integers(-8, 8), min_size=4, max_size=4))
    def test_no_order_forces_the_plate_less(self, steps):
        posts, turns = screws(), np.array(steps) / 8
        found = turning_order(posts, turns)
        self.assertEqual(set(found.names), {s.name for s, t in zip(posts, turns, strict=True) if t})
        off = np.array([1, -1, 1, -1]) / 2  # screws of a rectangle fight along this alone
        moves = {s.name: t * s.travel for s, t in zip(posts, turns, strict=True)}
        sign = {s.name: o for s, o in zip(posts, off, strict=True)}
        worst = []
        for order in itertools.permutations(found.names):
            path = np.cumsum([moves[n] * sign[n] for n in order])
            worst.append(np.abs(path).max() if path.size else 0.0)
        self.assertAlmostEqual(found.strain, min(worst), places=9)
        self.assertAlmostEqual(found.worst, max(worst) if found.names else 0.0, places=9)

    def test_diagonal_pairs_where_they_fight(self):
        found = turning_order(screws(), [0.75, 0.0, -0.75, 0.25])
        self.assertEqual(
            set(found.names[-2:]) | set(found.names[:2]), {"front left", "back right", "back left"}
        )
        at = [found.names.index(n) for n in ("front left", "back right")]
        self.assertEqual(abs(at[0] - at[1]), 1)
        self.assertIn("fewer moves", words(found.why))

    def test_small_plans(self):
        self.assertEqual(turning_order(screws(), [0, 0, 0, 0]).names, ())
        self.assertEqual(turning_order(screws(), [0, 0.5, 0, 0]).names, ("front right",))
        three = turning_order(screws(3), [0.25, 1.0, -0.5])
        self.assertEqual(three.names[0], "front right")
        self.assertIn("never fight", words(three.why))
        many = [Screw(f"{i}{j}", 10 + 100 * i, 10 + 100 * j, 0.7) for i in range(3) for j in range(3)]
        self.assertEqual(len(turning_order(many, np.linspace(-1, 1.2, 9)).names), 9)


class OutlookTest(unittest.TestCase):
    def ahead(self, survey, noise, **changes):
        plan = plan_turns(survey, screws(), centre=BED.centre, repeatability=noise, bed=BED)
        return plan, look_ahead(survey, plan, BED, 0.2, **changes)

    def test_decisions(self):
        self.assertEqual(self.ahead(bed(a=0.8), 0.005)[1].decision, "turn")
        self.assertEqual(self.ahead(bed(a=0.02), 0.005)[1].decision, "leave")
        ahead = self.ahead(bed(a=0.08, n=3), 0.03)[1]
        self.assertEqual(ahead.decision, "measure")
        self.assertIn("Measure again first", outlook_sentence(ahead))

    def test_chance_is_what_comes_of_it(self):
        """Of simulated next surveys as many are content as was said, within the scatter of the count."""
        rng = np.random.default_rng(8)
        said, content = [], []
        for seed in range(60):
            survey = bed(rng.uniform(-1, 1), rng.uniform(-1, 1), noise=0.02, n=3, seed=seed)
            true = fit_plane(survey).plane
            plan, ahead = self.ahead(survey, 0.02)
            mean, doubt = plan.response.change([t.rounded for t in plan.turns])
            for _ in range(10):
                slopes = rng.multivariate_normal(
                    np.array([true.a, true.b]) + mean,
                    fit_plane(survey).unscaled[:2, :2] * 0.02**2 + doubt,
                )
                again = bed(slopes[0] * 220, slopes[1] * 220, noise=0.02, n=3, seed=int(rng.integers(1e9)))
                flat = np.ptp(fit_plane(again).residual)
                content.append(not (again.spread > 0.1 and again.spread - flat > 0.05))
                said.append(ahead.chance)
        self.assertLess(abs(np.mean(said) - np.mean(content)), 0.08)

    def test_intervals_hold_the_tilt(self):
        inside = 0
        for seed in range(300):
            survey = bed(0.5, -0.3, noise=0.02, n=3, seed=seed)
            ahead = self.ahead(survey, 0.02)[1]
            inside += abs(ahead.tilt_now - 0.8) <= ahead.now_margin
        self.assertGreater(inside / 300, 0.92)
        self.assertLess(inside / 300, 0.98)

    def test_other_turns(self):
        survey = bed(a=0.8)
        plan, ahead = self.ahead(survey, 0.005)
        _, idle = self.ahead(survey, 0.005, turns=[0, 0, 0, 0])
        self.assertAlmostEqual(idle.tilt_after, idle.tilt_now)
        self.assertLess(idle.chance, 0.01)
        self.assertGreater(ahead.chance, 0.9)
        turns = [t.rounded for t in plan.turns]
        np.testing.assert_allclose(change_of(plan, turns), plan.change, atol=1e-12)
        np.testing.assert_allclose(after_turns(plan, survey, turns).height, plan.predicted.height, atol=1e-12)
        with self.assertRaises(errors.ChoiceError):
            change_of(plan, [0.1])
        with self.assertRaises(errors.ChoiceError):
            change_of(plan, [math.nan] * 4)
        with self.assertRaises(errors.OutOfRangeError):
            look_ahead(survey, plan, BED, 3.0)

    def test_a_plan_that_cannot_turn_says_why(self):
        survey = bed(0.8, 0.3, noise=0.004)
        for why, decision, changes in (
            ("no travel left", "leave", {"room": [(0.0, 0.0)] * 4}),
            (
                "does not know the chosen plane",
                "measure",
                {"reference": "three_points", "points": (0, 1, 6)},
            ),
        ):
            plan = plan_turns(survey, screws(), repeatability=0.1, **changes)
            ahead = look_ahead(survey, plan, BED, 0.2)
            with self.subTest(why):
                self.assertTrue(plan.done)
                self.assertEqual(ahead.decision, decision)
                self.assertIn(why, outlook_sentence(ahead))
                self.assertNotIn("nothing in it", outlook_sentence(ahead))
        coarse = plan_turns(bed(0.2, 0.0), screws(pitch=4.0), repeatability=0.003)
        self.assertTrue(coarse.done)
        self.assertIn("come no closer", outlook_sentence(look_ahead(bed(0.2, 0.0), coarse, BED, 0.2)))

    def test_where_the_judgement_says_turn_the_plan_turns_something(self):
        """Four corners read roughly: what is likely but known too poorly is measured again, on every page."""
        likely = stuck = 0
        for seed in range(300):
            rng = np.random.default_rng(seed)
            corners = np.array([(15.0, 15), (205, 15), (205, 205), (15, 205)])
            heights = corners @ rng.normal(0, 0.0008, 2) + rng.normal(0, 0.05, 4)
            survey = Survey(*corners.T, heights)
            plan = plan_turns(survey, screws(), bed=BED, centre=BED.centre)
            ahead, judged = look_ahead(survey, plan, BED, 0.2), judge_tilt(plan.fit, 0.2)
            # where no knob is left to turn all the same, it is never called leaving it
            self.assertIn(ahead.decision, (judged.decision, "measure"))
            stuck += judged.decision == "turn" and plan.done
            likely += judged.decision == "measure" and judged.need > 0.8
        self.assertLessEqual(stuck, 2)
        self.assertGreater(likely, 0)

    def test_words(self):
        self.assertEqual((percent(1.0), percent(0.0), percent(0.5)), ("99 %", "1 %", "50 %"))

    def test_more_noise_wants_more_places(self):
        sides = [side_for_tilt(BED, noise, 0.2) for noise in (0.001, 0.006, 0.012, 0.1)]
        self.assertEqual(sides, sorted(sides))
        self.assertEqual((sides[0], sides[-1]), SIDES)
