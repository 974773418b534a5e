"""Shims, tape, cross beam, odd readings and remedies."""

import unittest
from collections import Counter
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.levelling import (
    Foil,
    Pad,
    assess_beam,
    glass_on_top,
    learn_carries,
    pad_response,
    plan_beam,
    plan_shims,
    remedies,
    shims,
)
from finchwort.core.surveys import Survey, find_odd
from finchwort.messages.levelling import consequences
from finchwort.messages.remarks import words
from tests.fixtures.beds import bed

CORNERS = [
    Pad("front left", 10, 10),
    Pad("front right", 210, 10),
    Pad("back right", 210, 210),
    Pad("back left", 10, 210),
]
FOILS = [Foil(0.05, 6), Foil(0.1, 6), Foil(0.2, 4)]
NINE = [Pad(f"{i}{j}", 10 + 100 * i, 10 + 100 * j) for i in range(3) for j in range(3)]


class ShimTest(unittest.TestCase):
    def test_noise_is_not_chased(self):
        """A bed that foil has levelled is left alone, however its readings scatter."""
        for seed in range(8):
            survey = bed(0.01, -0.01, noise=0.01, n=5, seed=seed)
            self.assertTrue(plan_shims(survey, CORNERS, FOILS, noise=0.01).done)
            tilted = bed(0.3, -0.1, noise=0.01, n=5, seed=seed)
            self.assertFalse(plan_shims(tilted, CORNERS, FOILS, noise=0.01).done)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.integers(0, 99))
    def test_stacks_stay_within_the_drawer_and_help(self, a, b, seed):
        survey = bed(a, b, noise=0.01, n=4, seed=seed)
        plan = plan_shims(survey, CORNERS, FOILS)
        self.assertLessEqual(plan.spread_after, plan.spread_before + 1e-9)
        for foil in FOILS:
            used = sum(stack.foils.count(foil.thickness) for stack in plan.stacks)
            self.assertLessEqual(used, foil.count)
        for stack in plan.stacks:
            self.assertLessEqual(len(stack.foils), 6)
            self.assertAlmostEqual(sum(stack.foils), stack.thickness)
        moved = pad_response(CORNERS, survey.x, survey.y) @ [stack.change for stack in plan.stacks]
        np.testing.assert_allclose(plan.predicted.height, survey.height + moved, atol=1e-9)

    def test_a_stiff_plate_tips_as_on_springs(self):
        response = pad_response(CORNERS, np.array([10.0, 210, 210, 10]), np.array([10.0, 10, 210, 210]))
        np.testing.assert_allclose(response[:, 0], [0.75, 0.25, -0.25, 0.25], atol=1e-12)

    def test_a_thin_plate_lies_on_all_its_pads(self):
        x, y = np.array([[p.x, p.y] for p in NINE]).T
        np.testing.assert_allclose(pad_response(NINE, x, y, stiff=False), np.eye(9), atol=1e-9)
        lifted = pad_response(NINE, x, y, stiff=False) @ np.full(9, 0.2)
        np.testing.assert_allclose(lifted, 0.2, atol=1e-9)

    def test_foil_that_lies_there_is_free_to_move(self):
        pads = [Pad(p.name, p.x, p.y, (0.2,) if p.name == "front left" else ()) for p in CORNERS]
        # that foil is what tilts it
        survey = bed(n=4)
        x, y = survey.x, survey.y
        tipped = survey.with_heights(pad_response(CORNERS, x, y) @ [0.2, 0, 0, 0])
        plan = plan_shims(tipped, pads, [])
        self.assertEqual(plan.stacks[0].foils, ())
        self.assertLess(plan.spread_after, 0.001)

    def test_nothing_to_win_changes_nothing(self):
        plan = plan_shims(bed(noise=0.004, n=4), CORNERS, FOILS)
        self.assertTrue(plan.done)
        self.assertEqual(plan.spread_after, plan.spread_before)

    def test_middle_a_touch_lower(self):
        # flat at the rim, and five hundredths lower in the middle than the rim: just what was wished for
        survey = bed(n=5)
        u, v = (survey.x - 110) / 95, (survey.y - 110) / 95
        bowl = survey.with_heights(0.05 * (u**2 + v**2) / 2)
        wished = plan_shims(bowl, NINE, FOILS, stiff=False, lower_middle=0.05)
        self.assertTrue(wished.done)
        # said is what the bed does, not how far it is from the wish
        self.assertAlmostEqual(wished.spread_before, bowl.spread)
        self.assertAlmostEqual(wished.predicted.spread, bowl.spread)

    def test_a_large_survey_keeps_its_bound(self):
        grid = np.linspace(0, 220, 50)
        x, y = (a.ravel() for a in np.meshgrid(grid, grid))
        survey = Survey(x, y, 0.15 * np.cos(x / 90) + 0.1 * np.sin(y / 70) + 0.001 * x)
        plan = plan_shims(survey, NINE, FOILS, stiff=False)
        self.assertLess(plan.spread_after, 0.65 * plan.spread_before)

    def test_a_busy_machine_gives_hardly_less(self):
        rng = np.random.default_rng(3)
        for count, pads, stiff in ((5, CORNERS, True), (7, NINE, False), (9, NINE, True)):
            with self.subTest(count, stiff=stiff):
                x, y = (a.ravel() for a in np.meshgrid(*[np.linspace(5, 215, count)] * 2))
                height = 0.1 * np.cos(x / 60) + 0.12 * np.sin(y / 50) + rng.normal(0, 0.01, x.size)
                survey = Survey(x, y, height)
                at_ease = plan_shims(survey, pads, FOILS, stiff=stiff)
                with mock.patch.multiple(shims, SECONDS=0.001, PATIENT=0.001):
                    in_haste = plan_shims(survey, pads, FOILS, stiff=stiff)
                self.assertLess(in_haste.spread_after, 1.25 * at_ease.spread_after)
                stock = {foil.thickness: foil.count for foil in FOILS}
                used = Counter(size for stack in in_haste.stacks for size in stack.foils)
                self.assertTrue(all(count <= stock[size] for size, count in used.items()), used)

    def test_bad_wishes(self):
        survey = bed(n=3)
        cases = [
            (errors.ChoiceError, CORNERS[:2], FOILS, {}),
            (errors.DuplicateError, [*CORNERS, CORNERS[0]], FOILS, {}),
            (errors.CollinearError, [Pad(str(i), i * 10, 0) for i in range(3)], FOILS, {}),
            (errors.ChoiceError, CORNERS, [], {}),
            (errors.OutOfRangeError, CORNERS, [Foil(50, 1)], {}),
            (errors.OutOfRangeError, CORNERS, [Foil(0.1, 1000)], {}),
            (errors.DuplicateError, CORNERS, [Foil(0.1, 1), Foil(0.1, 2)], {}),
            (errors.OutOfRangeError, CORNERS, FOILS, {"lower_middle": 1}),
            (errors.OutOfRangeError, CORNERS, FOILS, {"most_layers": 0}),
            (errors.OutOfRangeError, [Pad("a", 0, 0, (9.0,)), *CORNERS[1:]], FOILS, {}),
        ]
        for kind, pads, foils, more in cases:
            with self.assertRaises(kind):
                plan_shims(survey, pads, foils, **more)


class BeamTest(unittest.TestCase):
    def test_both_ways_round(self):
        rising = bed(a=0.4, n=4)
        nozzle = plan_beam(rising, 300, noise=0.004, carries="nozzle", lead=8, steps_per_turn=3200)
        self.assertEqual([(d.side, d.rise > 0) for d in nozzle.drives], [("right", True), ("left", False)])
        self.assertAlmostEqual(nozzle.drives[0].rise, 0.4 * 300 / 220)
        self.assertEqual(nozzle.drives[0].steps, round(0.4 * 300 / 220 / 8 * 3200))
        table = plan_beam(rising, 300, noise=0.004, carries="bed")
        self.assertEqual([(d.side, d.rise > 0) for d in table.drives], [("left", True), ("right", False)])

    def test_a_trial_learns_the_way(self):
        rising = bed(a=0.4, n=4)
        plan = plan_beam(rising, 300, noise=0.004)
        self.assertEqual(plan.state, "trial")
        trial = plan.drives[0]
        for carries, sign in (("nozzle", -1), ("bed", 1)):
            after = bed(a=0.4 + sign * trial.rise * 220 / 300, n=4)
            self.assertEqual(learn_carries(rising, after, trial.side, trial.rise, 0.004), carries)
            # driving the left side down is the same as driving the right side up
            self.assertEqual(learn_carries(rising, after, "left", -trial.rise, 0.004), carries)
        self.assertEqual(learn_carries(rising, rising, "right", 0.1, 0.004), "unknown")
        with self.assertRaises(errors.ChoiceError):
            learn_carries(rising, rising, "middle", 0.1, 0.004)

    def test_driving_it_takes_the_tilt_out(self):
        rising = bed(a=0.4, n=4)
        plan = plan_beam(rising, 300, noise=0.004, carries="nozzle")
        for drive in plan.drives:
            raised = drive.rise * (1 if drive.side == "right" else -1) * 220 / 300
            self.assertAlmostEqual(bed(a=0.4 - raised, n=4).spread, 0, places=9)

    def test_skew_and_bed_are_told_apart_by_calipers(self):
        rising = bed(a=0.3, n=4)
        square = plan_beam(rising, 220, noise=0.004, carries="nozzle", skew=assess_beam(50.0, 50.0, 220))
        self.assertEqual(square.state, "bed")
        self.assertAlmostEqual(square.bed_share, 0.3)
        # the right end hangs 0.3 lower: all of it is the beam
        skewed = plan_beam(rising, 220, noise=0.004, carries="nozzle", skew=assess_beam(50.3, 50.0, 220))
        self.assertEqual(skewed.state, "drive")
        self.assertAlmostEqual(skewed.beam_share, 0.3)
        self.assertAlmostEqual(skewed.bed_share, 0.0)
        both = plan_beam(rising, 220, noise=0.004, carries="nozzle", skew=assess_beam(50.15, 50.0, 220))
        self.assertEqual(both.state, "both")
        self.assertAlmostEqual(both.drives[0].rise, 0.15)
        alone = plan_beam(rising, 220, noise=0.004, carries="nozzle")
        self.assertIn("cannot be told apart", alone.independent)

    def test_what_is_not_worth_it(self):
        self.assertEqual(plan_beam(bed(a=0.03, n=4), 220, noise=0.004, carries="nozzle").state, "level")
        self.assertEqual(plan_beam(bed(a=0.08, n=3), 220, noise=0.2, carries="nozzle").state, "unsure")

    def test_bad_input(self):
        with self.assertRaises(errors.ChoiceError):
            plan_beam(bed(n=3), 220, noise=0.01, carries="itself")
        with self.assertRaises(errors.OutOfRangeError):
            plan_beam(bed(n=3), 5, noise=0.01)
        with self.assertRaises(errors.NonFiniteError):
            plan_beam(bed(n=3), 220, noise=float("nan"))
        with self.assertRaises(errors.OutOfRangeError):
            plan_beam(bed(n=3), 220, noise=0.01, steps_per_turn=0)


class OddTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 48), st.sampled_from([-1, 1]), st.integers(0, 999))
    def test_one_bad_reading_is_found_among_any_smooth_shape(self, at, sign, seed):
        rng = np.random.default_rng(seed)
        survey = bed(0.5, -0.3, noise=0.005, n=7, seed=seed)
        u, v = (survey.x - 110) / 95, (survey.y - 110) / 95
        shape = rng.uniform(-0.15, 0.15, 3) @ np.array([u**2, v**2, u * v])
        height = survey.height + shape
        height[at] += sign * 0.15
        found = find_odd(survey.with_heights(height), 0.005)
        self.assertEqual(found[0].indices, (at,))
        self.assertEqual(found[0].kind, "reading")
        self.assertEqual(found[0].height > 0, sign > 0)
        self.assertIn("again", found[0].sentence)

    def test_smooth_beds_have_none(self):
        false = 0
        for seed in range(60):
            survey = bed(0.5, 0.2, noise=0.01, n=6, seed=seed)
            u, v = (survey.x - 110) / 95, (survey.y - 110) / 95
            false += bool(find_odd(survey.with_heights(survey.height + 0.2 * u * v - 0.1 * u**2), 0.01))
        self.assertLessEqual(false, 3)

    def test_several_side_by_side_are_a_bump(self):
        survey = bed(noise=0.003, n=9)
        off = np.zeros(81)
        off[[40, 41]] = [0.2, 0.18]
        (found,) = find_odd(survey.with_heights(survey.height + off), 0.003)
        self.assertEqual((found.kind, found.indices), ("bump", (40, 41)))
        (dent,) = find_odd(survey.with_heights(survey.height - off), 0.003)
        self.assertEqual(dent.kind, "dent")

    def test_too_few_or_too_rough_to_say(self):
        self.assertEqual(find_odd(bed(n=2)), ())
        rough = bed(noise=0.1, n=5, seed=4)
        self.assertEqual(find_odd(rough, 0.1), ())


class RemedyTest(unittest.TestCase):
    def fits(self, flat, layer=0.2, **more):
        return [r.kind for r in remedies(flat, layer, (220, 220), **more) if r.fits]

    def test_thresholds_are_shares_of_the_layer(self):
        self.assertEqual(self.fits(0.10), ["leave"])
        self.assertEqual(self.fits(0.11, compensation="mesh"), ["compensation"])
        self.assertEqual(self.fits(0.30, compensation="mesh"), ["compensation"])
        self.assertEqual(self.fits(0.31, compensation="mesh"), ["shims", "glass"])
        self.assertEqual(self.fits(0.31, 0.3, compensation="mesh"), ["compensation"])
        self.assertEqual(self.fits(0.14, 0.3), ["leave"])
        self.assertEqual(self.fits(0.7, compensation="mesh"), ["shims", "glass", "replace"])

    def test_a_machine_that_only_shifts_is_told_truthfully(self):
        self.assertEqual(self.fits(0.2, compensation="mean"), ["shims", "glass"])
        (one,) = [r for r in remedies(0.2, 0.2, (220, 220), compensation="mean") if r.kind == "compensation"]
        self.assertIn("stay as they are", words(one.remark))

    def test_pads_come_before_glass(self):
        self.assertEqual(self.fits(0.4, pads=True), ["shims"])

    def test_odd_readings_come_first(self):
        survey = bed(noise=0.003, n=5)
        height = survey.height.copy()
        height[7] += 0.25
        odd = find_odd(survey.with_heights(height), 0.003)
        self.assertEqual(self.fits(0.3, odd=odd, compensation="mesh"), ["probe_again"])

    def test_glass_and_its_consequences(self):
        glass = glass_on_top(220, 220, 4)
        self.assertAlmostEqual(glass.weight, 22 * 22 * 0.4 * 2.5)
        self.assertGreater(glass.minutes, 1)
        (one,) = [r for r in remedies(0.5, 0.2, (220, 220), fault="It is the carrier.") if r.kind == "glass"]
        self.assertIn("It is the carrier.", words(one.remark))
        self.assertTrue(any("Z switch" in c for c in consequences(one)))
        self.assertTrue(any("484 g" in c for c in consequences(one)))
        with self.assertRaises(errors.OutOfRangeError):
            glass_on_top(220, 220, 400)
        with self.assertRaises(errors.OutOfRangeError):
            glass_on_top(0, 220)
