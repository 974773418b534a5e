"""Bead, forecast, offset and judged patches: values and properties."""

import itertools
import math
import unittest

import numpy as np
from bench import judges
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.first_layer import (
    BANDS,
    SAFE,
    STEPS,
    TOUCH,
    Bead,
    Judged,
    Ledger,
    Patch,
    best_change,
    best_gap,
    forecast_layer,
    heights_from,
    judge_bed,
    judge_ladder,
    offset_from_patches,
    plan_bed,
    plan_ladder,
    step_probabilities,
    usual_limits,
)
from finchwort.core.printers import Bed, Screw, suggest_points, suggest_screws
from finchwort.core.tramming import plan_turns
from finchwort.messages.first_layer import (
    doubled_sentence,
    forecast_sentence,
    gap_sentence,
    ladder_sentence,
    ledger_sentence,
    patches_sentence,
)

BEAD = Bead(0.42, 0.2)
BED = Bed(220, 220)
beads = st.builds(
    lambda height, ratio: Bead(round(height * ratio, 3), height),
    st.floats(0.1, 0.4).map(lambda v: round(v, 3)),
    st.floats(1.2, 3.0),
)


class BeadTest(unittest.TestCase):
    @given(beads)
    def test_in_its_own_gap_it_is_what_was_sliced(self, bead):
        laid = bead.at_gap(bead.height)
        self.assertAlmostEqual(laid.width, bead.width, places=9)
        self.assertAlmostEqual(laid.fill, 1.0, places=9)
        self.assertAlmostEqual(laid.contact_width, bead.foot, places=9)

    @given(beads, st.floats(0.03, 1.0))
    def test_plastic_is_neither_made_nor_lost(self, bead, gap):
        laid = bead.at_gap(gap)
        section = (laid.width - laid.height) * laid.height + math.pi * laid.height**2 / 4
        self.assertAlmostEqual(section, bead.area, places=9)

    @given(beads)
    def test_lines_part_where_it_says(self, bead):
        self.assertAlmostEqual(bead.at_gap(bead.free_diameter).contact_width, 0, places=9)
        part = bead.parting_gap
        if bead.free_diameter > bead.spacing:  # a free thread is as wide as the spacing: they never part
            self.assertEqual(part, bead.free_diameter)
            return
        self.assertGreaterEqual(bead.at_gap(part + 1e-6).separation, -1e-9)
        self.assertLessEqual(bead.at_gap(part - 1e-6).separation, 1e-5)

    @given(beads, st.lists(st.floats(-0.1, 1.0), min_size=2, max_size=20))
    @example(Bead(0.5, 0.25), [0.0, 5e-324])
    def test_bands_follow_the_gap(self, bead, gaps):
        gaps = sorted(gaps)
        bands = bead.bands(gaps)
        self.assertTrue((np.diff(bands) >= 0).all())
        for gap, band in zip(gaps, bands, strict=True):
            self.assertEqual(bead.at_gap(gap).band, BANDS[band])
            self.assertEqual(gap <= TOUCH, BANDS[band] == "scrapes")
        self.assertEqual(bead.at_gap(bead.height).band, "good")

    def test_bad_beads(self):
        for width, height in ((0.2, 0.3), (0.4, 0.4), (math.nan, 0.2), (5.0, 0.2), (0.4, 0.01)):
            with self.subTest((width, height)), self.assertRaises(errors.OutOfRangeError):
                Bead(width, height)
        with self.assertRaises(errors.OutOfRangeError):
            Bead(0.42, 0.2, flow=3.0)
        with self.assertRaises(errors.OutOfRangeError):
            BEAD.at_gap(math.inf)

    def test_sentences(self):
        self.assertIn("touches the plate:", gap_sentence(BEAD, 0.0))
        self.assertIn("part by", gap_sentence(BEAD, 0.26))
        self.assertIn("overlap by", gap_sentence(BEAD, 0.15))


class ForecastTest(unittest.TestCase):
    @settings(max_examples=60)
    @given(st.lists(st.floats(-0.3, 0.3), min_size=1, max_size=40), st.floats(-0.2, 0.3), beads)
    def test_no_other_change_is_better(self, heights, zero, bead):
        found = forecast_layer(heights, bead, zero)
        self.assertGreaterEqual(found.least + found.best, SAFE - 1e-9)
        good = BANDS.index("good")
        after = np.mean(bead.bands(found.gap + found.best) == good)
        self.assertAlmostEqual(after, found.best_share, delta=1 / len(heights) + 1e-9)
        for change in np.linspace(-0.6, 0.6, 241):
            if found.least + change >= SAFE:
                self.assertLessEqual(np.mean(bead.bands(found.gap + change) == good), found.best_share + 1e-9)

    def test_a_flat_bed_at_the_right_height(self):
        found = forecast_layer(np.zeros(100), BEAD)
        self.assertEqual((found.good, found.best_share, found.touches), (1.0, 1.0, False))
        self.assertIn("No other height", forecast_sentence(found))
        self.assertIn(
            "0.07 mm closer would make 100 %",
            forecast_sentence(forecast_layer(np.zeros(9), BEAD, 0.07 - 0.0016)),
        )
        self.assertAlmostEqual(sum(found.shares.values()), 1.0)

    def test_contact_is_told_and_never_advised(self):
        found = forecast_layer([0.0, 0.25], BEAD)
        self.assertTrue(found.touches)
        self.assertIn("would touch", forecast_sentence(found))
        self.assertGreaterEqual(found.least + found.closest, SAFE - 1e-12)
        change, _ = best_change([0.2, 0.4, 0.4, 0.4, 0.4], BEAD)
        self.assertGreaterEqual(0.2 + change, SAFE)

    def test_bad_input(self):
        for heights, error in (([], errors.TooFewReadingsError), ([math.nan], errors.NonFiniteError)):
            with self.assertRaises(error):
                forecast_layer(heights, BEAD)
        with self.assertRaises(errors.OutOfRangeError):
            forecast_layer([0.0], BEAD, zero=9)


class LedgerTest(unittest.TestCase):
    @given(st.floats(-5, 5), st.floats(-0.5, 0.5), st.sampled_from(["negative", "positive"]))
    def test_a_correction_is_found_again(self, value, closer, sign):
        book = Ledger({"printer": round(value, 3), "slicer": 0.1}, sign)
        after = Ledger({"printer": book.moved("printer", closer), "slicer": 0.1}, sign)
        self.assertAlmostEqual(after.closer_by(book), closer, delta=0.0006)

    def test_doubled_offsets_are_found(self):
        self.assertIn("counts twice", doubled_sentence(Ledger({"printer": -1.2, "slicer": -1.205})))
        self.assertIsNone(doubled_sentence(Ledger({"printer": -1.2, "slicer": -0.05})))
        self.assertIsNone(doubled_sentence(Ledger({"printer": 0.0, "slicer": 0.0})))
        self.assertIn("add up to −1.25 mm", ledger_sentence(Ledger({"printer": -1.2, "slicer": -0.05})))
        self.assertIn("No offset", ledger_sentence(Ledger({})))

    def test_bad_parts(self):
        for parts in ({"pocket": 1.0}, {"printer": math.nan}, {"printer": 99.0}):
            with self.subTest(parts), self.assertRaises(errors.CoreError):
                Ledger(parts)
        with self.assertRaises(errors.ChoiceError):
            Ledger({}, "up")
        with self.assertRaises(errors.ChoiceError):
            Ledger({"printer": 0.0}).moved("slicer", 0.1)


class PatchesTest(unittest.TestCase):
    def patches(self, error, tilt=(0.0, 0.0), sd=0.015, seed=1, count=3, readings=4):
        rng = np.random.default_rng(seed)
        found = []
        for x, y in suggest_points(BED, count, count):
            u, v = (x - 110) / 220, (y - 110) / 220
            true = 0.2 + error + tilt[0] * u + tilt[1] * v
            found.append(Patch(x, y, 0.2, tuple(np.round(true + rng.normal(0, sd, readings), 3))))
        return found

    def test_intervals_hold_the_truth(self):
        held = tilts = 0
        for seed in range(200):
            found = offset_from_patches(self.patches(0.06, (0.08, -0.04), seed=seed), BED)
            held += abs(found.closer - 0.06) <= found.margin
            tilts += abs(found.tilt - 0.12) <= found.tilt_margin
        self.assertTrue(180 <= held <= 199, held)
        self.assertTrue(180 <= tilts <= 199, tilts)

    def test_too_thick_means_closer_and_tilt_is_taken_apart(self):
        found = offset_from_patches(self.patches(0.06, (0.2, 0.0), sd=0.002), BED)
        self.assertAlmostEqual(found.closer, 0.06, delta=0.01)
        self.assertTrue(found.tilted)
        self.assertIn("closer", patches_sentence(found))
        self.assertIn("no offset takes it out", patches_sentence(found))
        # thick at the right: the bed is low there, so the screws raise it
        screws = [Screw(n, x, y, 0.7) for n, x, y in suggest_screws(BED, 4)]
        turns = {t.screw.name: t.exact for t in plan_turns(found.heights, screws, repeatability=0.005).turns}
        self.assertLess(turns["front right"], 0)
        self.assertGreater(turns["front left"], 0)

    def test_small_errors_are_left(self):
        found = offset_from_patches(self.patches(0.005), BED)
        self.assertTrue(found.enough)
        self.assertIn("Leave the offset", patches_sentence(found))

    def test_a_slip_of_the_calipers_is_left_out(self):
        patch = Patch(110, 110, 0.2, (0.25, 0.26, 0.25, 0.24, 0.62))
        found = offset_from_patches([patch], BED)
        self.assertEqual(found.outliers, ((0, 4),))
        self.assertAlmostEqual(found.closer, 0.05, places=6)

    def test_lines_that_do_not_touch_are_told(self):
        found = offset_from_patches([Patch(110, 110, 0.2, (0.27, 0.28, 0.27))], BED)
        self.assertEqual(found.beyond, (0,))
        self.assertIn("print again", patches_sentence(found))
        self.assertIsNone(found.tilt)

    def test_one_patch_or_a_row_tells_no_tilt(self):
        row = [Patch(x, 110, 0.2, (0.22, 0.23)) for x in (20, 110, 200)]
        self.assertIsNone(offset_from_patches(row, BED).tilt)
        self.assertGreater(offset_from_patches(row[:1], BED).margin, offset_from_patches(row, BED).margin)

    def test_bad_patches(self):
        for patches in (
            [],
            [Patch(0, 0, 0.2, ())],
            [Patch(0, 0, 0.2, (math.nan,))],
            [Patch(0, 0, 9.0, (0.2,))],
            [Patch(0, 0, 0.2, (0.0,))],
            [Patch(0, 0, 0.2, (25.0,))],
        ):
            with self.subTest(patches), self.assertRaises(errors.CoreError):
                offset_from_patches(patches, BED)


class JudgingTest(unittest.TestCase):
    @given(st.floats(-0.3, 0.3), st.floats(0.01, 0.08), st.floats(1.2, 3.0), st.floats(0.001, 0.05))
    def test_probabilities_add_up_and_mirror(self, away, near, ratio, scatter):
        limits = (near, near * ratio)
        share = step_probabilities(np.array([away, -away]), limits, scatter)
        np.testing.assert_allclose(share.sum(axis=1), 1.0)
        np.testing.assert_allclose(share[0], share[1][::-1], atol=1e-12)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(-0.08, 0.08))
    def test_a_mirrored_ladder_gives_the_mirrored_offset(self, best):
        rungs = [i * 0.03 for i in range(-5, 6)]
        near, far = usual_limits(BEAD)
        seen = [Judged(s, STEPS[4 - int(np.searchsorted([-far, -near, near, far], s - best))]) for s in rungs]
        turned = [Judged(-p.shift, STEPS[4 - STEPS.index(p.step)]) for p in seen]
        one, other = judge_ladder(seen, BEAD), judge_ladder(turned, BEAD)
        self.assertAlmostEqual(one.best, -other.best, delta=0.004)
        self.assertAlmostEqual(one.best, best, delta=0.025)
        self.assertLess(one.low, one.high)

    def test_people_find_their_offset_and_tilt(self):
        found = judges.shares(40_000, 14)
        self.assertGreaterEqual(found.offset, 0.85)
        self.assertGreaterEqual(found.tilt, 0.85)
        self.assertGreaterEqual(found.offset_held, 0.8)
        self.assertGreaterEqual(found.tilt_held, 0.8)

    def test_all_on_one_side(self):
        far = judge_ladder([Judged(s, "far_too_far") for s in (0.0, 0.05, 0.1)], BEAD)
        self.assertIn("closer", ladder_sentence(far))
        self.assertLess(far.best, 0)
        self.assertFalse(far.done)
        close = judge_ladder([Judged(s, "too_close") for s in (0.0, 0.05, 0.1)], BEAD)
        self.assertIn("farther", ladder_sentence(close))

    def test_a_tilted_bed_becomes_turns(self):
        person = judges.Person(5)
        person.bed, person.tilt, person.bow, person.best = BED, np.array([0.15, 0.0]), 0.0, 0.0
        patches = [person.judge(s, x, y) for x, y, s in plan_bed(BED, person.bead, -0.1)]
        patches += [person.judge(s) for s in plan_ladder(-0.1, 0.0, 0.1, person.bead)]
        found = judge_bed(patches, person.bead, BED)
        self.assertGreater(found.tilt_low, 0)
        survey = heights_from(patches, found, BED)
        right, left = survey.height[survey.x > 150].mean(), survey.height[survey.x < 70].mean()
        self.assertGreater(right, left + 0.05)
        with self.assertRaises(errors.ChoiceError):
            heights_from(patches, judge_ladder(patches[:3], person.bead), BED)

    @given(st.floats(-0.3, 0.1), st.floats(-0.2, 0.2), st.floats(0.005, 0.2))
    def test_no_rung_touches(self, closest, centre, sd):
        try:
            rungs = plan_ladder(closest, centre, sd, BEAD)
        except errors.OutOfRangeError:
            assume(False)
        self.assertTrue(all(shift >= closest - 1e-9 for shift in rungs))
        self.assertTrue(all(a > b for a, b in itertools.pairwise(rungs)))
        for x, y, shift in plan_bed(BED, BEAD, closest, side=4):
            self.assertTrue(shift >= closest - 1e-9 and 0 <= x <= 220 and 0 <= y <= 220)

    def test_bad_judgements(self):
        three = [Judged(0.0, "good")] * 3
        for patches in (three[:2], [Judged(0.0, "nice")] * 3, [Judged(math.nan, "good")] * 3, three * 40):
            with self.assertRaises(errors.CoreError):
                judge_ladder(patches, BEAD)
        with self.assertRaises(errors.TooFewReadingsError):
            judge_bed(three, BEAD, BED)
        with self.assertRaises(errors.CollinearError):
            judge_bed([Judged(0, "good", x, x) for x in (10, 50, 90, 130)], BEAD, BED)
        for asked in ({"rungs": 99}, {"sd": 0.0}):
            with self.assertRaises(errors.CoreError):
                plan_ladder(-0.1, **asked)

    def test_the_best_gap_lies_in_the_good_band(self):
        self.assertEqual(BEAD.at_gap(best_gap(BEAD)).band, "good")
