"""Repeatability, warm-up, switches, cross beam."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base.errors import (
    ChoiceError,
    NonFiniteError,
    OutOfRangeError,
    TooFewReadingsError,
    TooManyReadingsError,
)
from finchwort.core.base.statistics import grubbs_test
from finchwort.core.levelling import assess_beam
from finchwort.core.printers import Bed, Screw
from finchwort.core.probing import (
    HORIZON,
    STEADY,
    assess_repeatability,
    compare_surveys,
    diagnose_probe,
    diagnose_switches,
    fit_soak,
    fit_soak_around,
)
from finchwort.core.surveys import Survey
from finchwort.core.tramming import plan_turns
from finchwort.messages.probing import around_sentence, movement_sentence, soak_sentence, trust_sentences
from finchwort.messages.remarks import words
from tests.simulation.plates import warm_up

touches = st.lists(st.floats(-1, 1).map(lambda v: round(v, 4)), min_size=3, max_size=40)


class RepeatabilityTest(unittest.TestCase):
    @given(touches, st.floats(-5, 5))
    def test_a_shift_changes_the_mean_only(self, heights, shift):
        one, two = assess_repeatability(heights), assess_repeatability(np.array(heights) + shift)
        self.assertAlmostEqual(two.mean - one.mean, shift, places=9)
        for name in ("range", "sd", "drift", "least_difference"):
            self.assertAlmostEqual(getattr(one, name), getattr(two, name), places=9)

    @given(touches)
    def test_figures_hang_together(self, heights):
        found = assess_repeatability(heights)
        self.assertLessEqual(found.minimum - 1e-12, found.mean)
        self.assertLessEqual(found.mean, found.maximum + 1e-12)
        self.assertAlmostEqual(found.range, found.maximum - found.minimum)
        self.assertLessEqual(found.sd_low, found.sd + 1e-12)
        self.assertLessEqual(found.sd, found.sd_high + 1e-12)
        self.assertLessEqual(found.drift_low, found.drift + 1e-12)
        self.assertLessEqual(found.drift, found.drift_high + 1e-12)
        self.assertTrue(all(one.endswith(".") for one in trust_sentences(found)))

    def test_limits_of_common_practice(self):
        """Ten touches within 0.02 mm are good, within 0.05 usable, beyond the cause is found first; more touches do not make it worse."""
        rng = np.random.default_rng(6)
        for count in (10, 30, 100):
            for sd, level in ((0.005, "good"), (0.012, "usable"), (0.03, "poor")):
                shape = rng.standard_normal(count)
                heights = 0.1 + sd * (shape - shape.mean()) / shape.std(ddof=1)
                self.assertEqual(assess_repeatability(heights).level, level, (count, sd))
        # few touches that spread widely are not called poor before that is sure
        self.assertEqual(assess_repeatability([0, 0.004, 0.02]).level, "usable")

    def test_bad_touches_and_steps_raise_no_false_alarm(self):
        rng = np.random.default_rng(9)
        for _ in range(40):
            heights = 0.1 + rng.normal(0, 0.003, 12)
            heights[[3, 8]] += rng.uniform(0.05, 0.3, 2)
            found = assess_repeatability(heights)
            self.assertEqual((found.level, found.aside), ("good", (3, 8)))
            self.assertLess(found.noise, 0.006)
        stepped = assess_repeatability(np.round((0.1 + rng.normal(0, 0.004, 20)) / 0.0125) * 0.0125)
        self.assertAlmostEqual(stepped.step, 0.0125)
        self.assertGreaterEqual(stepped.least_difference, 0.0125)
        self.assertGreaterEqual(stepped.noise, 0.0125 / math.sqrt(12))

    def test_plans_do_not_take_the_drift_for_spread(self):
        rng = np.random.default_rng(4)
        found = assess_repeatability(0.1 + rng.normal(0, 0.002, 20) + np.linspace(0, 0.06, 20))
        self.assertTrue(found.drifting)
        self.assertLess(found.noise, 0.004)
        self.assertEqual(found.noise_dof, 18)

    def test_an_outlier_is_named_and_a_clean_run_has_none(self):
        heights = [0.001, -0.002, 0.0, 0.002, -0.001, 0.001, 0.09, 0.0, -0.002, 0.001]
        found = assess_repeatability(heights)
        self.assertTrue(found.grubbs.outlier)
        self.assertEqual((found.grubbs.index, found.aside), (6, (6,)))
        self.assertIn("Touch 7", " ".join(trust_sentences(found)))
        self.assertEqual(assess_repeatability(heights[:6]).aside, ())

    def test_false_alarms_are_as_rare_as_promised(self):
        rng = np.random.default_rng(3)
        alarms = sum(grubbs_test(rng.normal(0, 1, 10)).outlier for _ in range(2000))
        self.assertLess(abs(alarms / 2000 - 0.05), 0.02)

    def test_the_interval_of_the_deviation_holds_the_truth_as_often_as_promised(self):
        rng = np.random.default_rng(4)
        found = [assess_repeatability(rng.normal(0, 0.01, 8)) for _ in range(1500)]
        held = np.mean([one.sd_low <= 0.01 <= one.sd_high for one in found])
        self.assertLess(abs(held - 0.95), 0.02)

    def test_drift_a_minute_or_a_reading(self):
        heights = np.arange(12) * 0.004
        slow = assess_repeatability(heights, np.arange(12) * 30.0)
        self.assertEqual((slow.drift_per, round(slow.drift, 6), slow.drifting), ("minute", 0.008, True))
        quick = assess_repeatability(heights, np.arange(12) * 0.5)
        self.assertEqual((quick.drift_per, round(quick.drift, 6)), ("reading", 0.004))
        self.assertIn("rise by 0.044 mm", " ".join(trust_sentences(slow)))

    def test_the_consequence_is_told_with_the_screws(self):
        screws = [Screw(str(i), x, y, 0.7) for i, (x, y) in enumerate([(0, 0), (1, 0), (1, 1), (0, 1)])]
        said = trust_sentences(assess_repeatability([0.0, 0.004, 0.008] * 4), screws)
        self.assertRegex(
            said[1], r"Differences below 0\.0\d\d mm mean nothing here; one eighth of a turn is 0\.087 mm\."
        )

    def test_equal_readings_are_not_taken_for_perfect(self):
        found = assess_repeatability([0.1] * 10)
        self.assertEqual(found.sd, 0)
        self.assertGreater(found.noise, 0)

    def test_bad_input(self):
        for heights, error in (
            ([0.1, 0.2], TooFewReadingsError),
            ([0.1] * 101, TooManyReadingsError),
            ([0.1, math.nan, 0.2], NonFiniteError),
            ([100, 120, 110], OutOfRangeError),
        ):
            with self.subTest(heights[:3]), self.assertRaises(error):
                assess_repeatability(heights)
        with self.assertRaises(OutOfRangeError):
            assess_repeatability([0, 0, 0], [0, 2, 1])

    def test_few_touches_make_a_plan_more_careful(self):
        """A deviation from three touches is badly known, so more turns read "leave it"."""
        corners = [(0, 0), (200, 0), (200, 200), (0, 200)]
        screws = [Screw(str(i), x, y, 0.7) for i, (x, y) in enumerate(corners)]
        bed = Survey([0, 200, 200, 0], [0, 0, 200, 200], [0, 0.06, 0.06, 0])
        sure = plan_turns(bed, screws, repeatability=0.01, repeatability_dof=50)
        unsure = plan_turns(bed, screws, repeatability=0.01, repeatability_dof=2)
        for one, two in zip(sure.turns, unsure.turns, strict=True):
            self.assertGreater(two.uncertainty, one.uncertainty)


class SoakTest(unittest.TestCase):
    @given(
        st.floats(60, 600),
        st.floats(0.05, 0.3),
        st.sampled_from([-1, 1]),
        st.floats(1.2, 4),
        st.integers(0, 2**31),
    )
    def test_the_truth_lies_within_the_interval(self, tau, size, sign, spans, seed):
        """What the next five minutes bring, within some times the margin in all examples tried."""
        t = np.arange(0, spans * tau, tau / 12)
        noise = np.random.default_rng(seed).normal(0, 0.002, t.size)
        found = fit_soak(t, 0.3 + sign * size * np.exp(-t / tau) + noise)
        to_go = -sign * size * math.exp(-t[-1] / tau) * (1 - math.exp(-HORIZON / tau))
        self.assertLessEqual(abs(found.to_go - to_go), 4 * found.to_go_margin + 0.012)
        if found.state == "steady":
            self.assertLess(abs(to_go), 2 * STEADY)

    def test_states_along_one_warm_up(self):
        rng = np.random.default_rng(8)
        t = np.arange(0, 1500, 20.0)
        heights = 0.12 * np.exp(-t / 220) + rng.normal(0, 0.003, t.size)
        states = [fit_soak(t[:n], heights[:n]).state for n in range(4, t.size)]
        self.assertNotIn("steady", states[:12])  # 0.03 mm and more are still to come in five minutes
        self.assertEqual(set(states[-12:]), {"steady"})

    def test_the_wait_is_about_right(self):
        """Warm-ups with habits of their own: what is said of the wait holds, and "steady" is hardly ever wrong."""
        fine = np.arange(0, 9000, 10.0)
        told = held = steady = wrong = 0
        for seed in range(28):
            kind = ("one", "two", "dead time", "swing", "never", "opposed", "still")[seed % 7]
            true = warm_up(np.random.default_rng(seed), kind, fine)
            moves = np.array([np.abs(true[i : i + 31] - true[i]).max() for i in range(fine.size - 31)])
            rng = np.random.default_rng(seed + 50)
            t = np.arange(0, 1800, 30.0)
            heights = np.interp(t, fine, true) + rng.normal(0, 0.003, t.size)
            for n in range(10, t.size, 6):
                found, now = fit_soak(t[:n], heights[:n]), int(t[n - 1] / 10)
                if found.state == "steady":
                    steady, wrong = steady + 1, wrong + (moves[now] >= STEADY)
                elif not math.isnan(found.steady_in):
                    quiet = np.flatnonzero(moves[now:] < STEADY)
                    wait = 10.0 * quiet[0] if quiet.size else math.inf
                    told += 1
                    held += found.steady_in_low - 30 <= wait <= found.steady_in_high + 30
                    self.assertIn("Steady in about", soak_sentence(found))
        self.assertGreater(steady, 50)
        self.assertLess(wrong, 0.1 * steady)
        self.assertGreater(told, 3)
        self.assertGreaterEqual(held, 0.8 * told)

    def test_places_in_turn_tell_when_the_shape_stands(self):
        """A middle that domes while all rises with the frame: only the dome counts."""
        spots = [(110, 110), (15, 15), (205, 15), (205, 205), (15, 205)]
        rng = np.random.default_rng(4)
        t = np.arange(0, 3000, 15.0)
        at = np.arange(t.size) % 5
        dome = 0.08 * (1 - np.exp(-t / 250)) * (at == 0)
        heights = dome + 0.0002 * t + rng.normal(0, 0.002, t.size)
        states = [fit_soak_around(t[:n], heights[:n], at[:n], spots).state for n in range(30, t.size, 25)]
        self.assertNotEqual(states[0], "steady")
        self.assertEqual(states[-1], "steady")
        late = fit_soak_around(t, heights, at, spots)
        self.assertIn("shape stands", around_sentence(late))
        self.assertIn("As a whole", around_sentence(late))
        early = fit_soak_around(t[:40], heights[:40], at[:40], spots)
        self.assertEqual(early.spots[early.worst], (110, 110))
        self.assertIn("x 110, y 110", around_sentence(early))
        with self.assertRaises(TooFewReadingsError):
            fit_soak_around(t[:9], heights[:9], at[:9], spots)
        with self.assertRaises(OutOfRangeError):
            fit_soak_around(t[:30], heights[:30], at[:30] + 3, spots)

    def test_never_before_five_quiet_minutes_and_never_when_it_never_settles(self):
        rng = np.random.default_rng(3)
        t = np.arange(0, 280, 20.0)
        self.assertNotEqual(fit_soak(t, rng.normal(0, 0.001, t.size)).state, "steady")
        t = np.arange(0, 2400, 30.0)
        heights = 0.08 * (1 - np.exp(-t / 200)) + 0.006 * t / 60 + rng.normal(0, 0.003, t.size)
        self.assertNotIn("steady", {fit_soak(t[:n], heights[:n]).state for n in range(8, t.size, 4)})
        self.assertIn("come to rest", soak_sentence(fit_soak(t, heights)).replace("came", "come"))

    def test_standing_still(self):
        rng = np.random.default_rng(5)
        t = np.arange(0, 600, 20.0)
        self.assertEqual(fit_soak(t, rng.normal(0, 0.003, t.size)).state, "steady")
        short = np.arange(0, 40, 10.0)
        self.assertEqual(fit_soak(short, [0.0, 0.004, -0.003, 0.002]).state, "unclear")
        self.assertEqual(fit_soak(t, np.zeros(t.size)).state, "steady")

    def test_a_straight_climb_is_not_called_steady(self):
        t = np.arange(0, 300, 20.0)
        found = fit_soak(t, 0.0005 * t)
        self.assertNotEqual(found.state, "steady")
        self.assertIn("rises", soak_sentence(found))

    def test_bad_input(self):
        with self.assertRaises(TooFewReadingsError):
            fit_soak([0, 1, 2], [0, 0, 0])
        with self.assertRaises(OutOfRangeError):
            fit_soak([0, 1, 1, 2], [0, 0, 0, 0])


class MovementTest(unittest.TestCase):
    bed = Bed(200, 200)

    def grid(self, n, dome=0.0, zero=0.0):
        x, y = np.meshgrid(np.linspace(20, 180, n), np.linspace(20, 180, n))
        u, v = (x - 100) / 100, (y - 100) / 100
        return Survey(x.ravel(), y.ravel(), (zero + dome * (1 - (u**2 + v**2) / 2)).ravel())

    def test_a_dome_that_grew_is_found_whatever_the_places_and_the_zero(self):
        cold, hot = self.grid(5), self.grid(6, dome=0.1, zero=1.0)
        found = compare_surveys(cold, hot, self.bed)
        self.assertIn("The middle rose", movement_sentence(found))
        self.assertAlmostEqual(found.shape.bow_x, 0.05, places=2)
        self.assertLess(math.hypot(found.up[0] - 100, found.up[1] - 100), 40)

    def test_nothing_moved(self):
        self.assertIn(
            "kept its shape",
            movement_sentence(compare_surveys(self.grid(4), self.grid(4, zero=0.5), self.bed)),
        )

    def test_nothing_in_common(self):
        far = Survey([0, 5, 0], [0, 0, 5], [0, 0, 0])
        with self.assertRaises(TooFewReadingsError):
            compare_surveys(far, self.grid(3), self.bed)


class SwitchTest(unittest.TestCase):
    free = {"x": "open", "y": "open", "z": "open"}

    def kinds(self, free, pressed, **more):
        return [one.kind for one in diagnose_switches(free, pressed, **more)]

    def press(self, changed):
        return {name: {**self.free, **{o: "triggered" for o in others}} for name, others in changed.items()}

    def test_the_table_of_the_trade(self):
        good = self.press({"x": ["x"], "y": ["y"], "z": ["z"]})
        self.assertEqual(self.kinds(self.free, good), ["good"] * 3)
        swapped = self.press({"x": ["y"], "y": ["x"], "z": ["z"]})
        self.assertEqual(self.kinds(self.free, swapped), ["swapped", "swapped", "good"])
        dead = self.press({"x": [], "y": ["y"], "z": ["z"]})
        self.assertEqual(self.kinds(self.free, dead), ["dead", "good", "good"])
        joined = self.press({"x": ["x", "z"], "y": ["y"]})
        self.assertEqual(self.kinds(self.free, joined), ["crossed", "good", "waiting"])

    def test_inverted(self):
        free = {"x": "triggered"}
        self.assertEqual(self.kinds(free, {"x": {"x": "open"}}), ["inverted"])

    def test_what_a_broken_wire_looks_like(self):
        """Normally closed it shows as triggered and fails safe, normally open it hides: common practice."""
        closed = diagnose_switches({"z": "triggered"}, {"z": {"z": "triggered"}}, {"z": "normally_closed"})
        self.assertIn("will not move into it", words(closed[0].remark))
        opened = diagnose_switches({"z": "open"}, {"z": {"z": "open"}}, {"z": "normally_open"})
        self.assertIn("do not home", words(opened[0].remark).lower())

    def test_probe(self):
        self.assertEqual(diagnose_probe("triggered", "open", "triggered").kind, "good")
        self.assertEqual(diagnose_probe("open", "open").kind, "dead")
        self.assertEqual(diagnose_probe("triggered", "open", "open").kind, "dead")

    def test_bad_input(self):
        for free, pressed in (
            ({}, {}),
            ({"x": "shut"}, {}),
            (self.free, {"q": {}}),
            (self.free, {"x": {"q": "open"}}),
        ):
            with self.subTest(pressed), self.assertRaises(ChoiceError):
                diagnose_switches(free, pressed)


class BeamTest(unittest.TestCase):
    def test_the_example_of_the_trade(self):
        """14.1 mm left, 13.9 mm right: 0.2 mm skew over the span (common practice)."""
        skew = assess_beam(14.1, 13.9, 300, 2, lead=8)
        self.assertAlmostEqual(skew.difference, -0.2)
        self.assertEqual(skew.drives[0][0], "right")
        self.assertAlmostEqual(skew.drives[0][1], 0.2)
        self.assertAlmostEqual(skew.drives[0][2] * 360, 9)
        self.assertIn("Motors off", skew.sentence)

    @given(st.floats(-5, 5), st.floats(60, 600), st.floats(60, 600))
    def test_driving_as_told_makes_it_square(self, skewed, span, screws):
        found = assess_beam(50, 50 + skewed, span, 2, screw_span=screws)
        if found.square:
            return
        name, amount, _ = found.drives[0]
        lifted = amount / screws * span
        left, right = 50 + (lifted if name == "left" else 0), 50 + skewed + (lifted if name == "right" else 0)
        self.assertAlmostEqual(left, right, places=6)

    def test_within_what_calipers_tell(self):
        self.assertTrue(assess_beam(80.02, 80.0, 300).square)

    def test_bad_input(self):
        for args in ((math.nan, 1, 300), (1, 1, 10), (1, 200, 300)):
            with self.subTest(args), self.assertRaises((NonFiniteError, OutOfRangeError)):
                assess_beam(*args)
        with self.assertRaises(ChoiceError):
            assess_beam(1, 1, 300, 3)
