"""Trims for a change, and sums about the extruder: values and properties."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.first_layer import (
    MELTS,
    Conditions,
    advise_trims,
    calibrate_steps,
    line_up,
    melt_flow,
    total_trim,
)
from finchwort.knowledge import materials, surfaces, trims
from finchwort.messages.remarks import words

TABLE = trims()
conditions = st.builds(
    Conditions,
    st.sampled_from(["", *materials()]),
    st.sampled_from(["", *surfaces()]),
    st.sampled_from([None, 20.0, 60.0, 100.0]),
    st.sampled_from([None, 0.8, 1.0, 4.0]),
    st.sampled_from([None, 0.2, 0.28]),
)


class TrimTest(unittest.TestCase):
    def advice(self, then, now, **more):
        return advise_trims(then, now, TABLE, **more)

    def test_each_change_of_the_trade(self):
        """Common practice: which way, and how far."""
        smooth = Conditions("PLA", "smooth_pei", 60.0)
        for now, closer in (
            (Conditions("PETG", "smooth_pei", 75.0), (-0.05, -0.02)),
            (Conditions("ABS", "smooth_pei", 100.0), (0.02, 0.02)),
            (Conditions("ASA", "smooth_pei", 100.0), (0.02, 0.02)),
            (Conditions("PLA", "textured_pei", 60.0), (0.02, 0.05)),
            (Conditions("PLA", "smooth_pei", 21.0), (0.02, 0.05)),
        ):
            with self.subTest(now):
                found = self.advice(smooth, now)
                self.assertEqual([one.closer for one in found], [closer])
                self.assertEqual(found[0].tag, "P")
                self.assertIn("farther" if closer[0] < 0 else "closer", found[0].sentence)

    def test_a_thicker_plate_takes_the_tip_away_by_as_much(self):
        found = self.advice(Conditions(plate=0.8), Conditions(plate=4.0))
        self.assertEqual([one.tag for one in found], ["D"])
        self.assertAlmostEqual(found[0].closer[0], -3.2)
        self.assertIn("Go 3.20 mm farther", found[0].sentence)
        self.assertIn("Z switch", found[0].sentence)
        probed = self.advice(Conditions(plate=0.8), Conditions(plate=4.0), senses="surface")
        self.assertIsNone(probed[0].closer)
        self.assertIn("no change", probed[0].sentence)
        with self.assertRaises(errors.OutOfRangeError):
            self.advice(Conditions(plate=0.8), Conditions(plate=-1.0))

    def test_another_layer_height_calls_for_nothing_and_says_why(self):
        found = self.advice(Conditions(first_layer=0.2), Conditions(first_layer=0.28))
        self.assertIsNone(found[0].closer)
        self.assertIn("lifts the tip by the layer height itself", found[0].sentence)
        self.assertIsNone(total_trim(found))

    @given(conditions, conditions)
    def test_there_and_back_cancels(self, then, now):
        there, back = self.advice(then, now), self.advice(now, then)
        self.assertEqual(len(there), len(back))
        ranges = [sorted(one.closer) for one in there if one.closer]
        mirrored = [sorted(-end for end in one.closer) for one in back if one.closer]
        self.assertEqual(sorted(ranges), sorted(mirrored))
        self.assertEqual(self.advice(then, then), ())

    @given(conditions, conditions)
    def test_what_is_not_known_is_not_compared(self, then, now):
        blank = Conditions()
        self.assertEqual(self.advice(blank, now), ())
        for one in self.advice(then, now):
            self.assertTrue(one.sentence.endswith("."))
            self.assertNotIn("  ", one.sentence)

    def test_two_changes_add_up(self):
        found = self.advice(Conditions("PLA", "smooth_pei", 60.0), Conditions("PETG", "textured_pei", 75.0))
        self.assertEqual(len(found), 2)
        self.assertIn("nothing to begin with", total_trim(found))
        found = self.advice(Conditions("PLA", "smooth_pei", 60.0), Conditions("ABS", "textured_pei", 100.0))
        self.assertEqual(total_trim(found), "Together: 0.04 to 0.07 mm closer.")


class StepsTest(unittest.TestCase):
    @given(st.floats(20, 900), st.floats(50, 200), st.floats(0.9, 1.1))
    def test_the_corrected_drive_pushes_what_is_asked_for(self, steps, asked, off):
        measured = asked * off
        found = calibrate_steps(steps, asked, measured)
        # a drive with these new steps, whose old steps gave off times as much
        self.assertAlmostEqual(found.new / steps * measured, asked, places=6)
        self.assertFalse(found.doubtful)

    def test_words(self):
        self.assertIn("Set 96.88 steps/mm instead of 93", words(calibrate_steps(93, 100, 96).remark))
        self.assertIn("Leave them", words(calibrate_steps(93, 100, 100.3).remark))
        far = calibrate_steps(93, 100, 60)
        self.assertTrue(far.doubtful)
        self.assertIn("slips, a clog", words(far.remark))

    def test_refused(self):
        for values in ((0.0, 100, 96), (93, 5, 5), (93, 100, 0), (93, 100, 250), (float("nan"), 100, 96)):
            with self.subTest(values), self.assertRaises(errors.CoreError):
                calibrate_steps(*values)


class FlowTest(unittest.TestCase):
    @given(st.floats(0.3, 1.0), st.floats(0.1, 0.28), st.floats(5, 300))
    def test_at_the_fastest_speed_the_hot_end_is_at_its_limit(self, width, height, speed):
        found = melt_flow(width, height, speed)
        self.assertAlmostEqual(melt_flow(width, height, min(1000, found.fastest)).flow, MELTS[0], places=6)
        self.assertEqual(found.level == "good", speed <= found.fastest)
        self.assertEqual(found.level == "beyond", found.flow > MELTS[1])

    def test_a_hot_end_of_ones_own(self):
        self.assertEqual(melt_flow(0.6, 0.3, 80, (20, 20)).level, "good")
        self.assertIn("this hot end melts 20", words(melt_flow(0.6, 0.3, 80, (20, 20)).remark))
        for bad in ((0.0, 5.0), (9.0, 8.0), (float("nan"), 9.0)):
            with self.subTest(bad), self.assertRaises(errors.OutOfRangeError):
                melt_flow(0.42, 0.2, 50, bad)

    def test_lines(self):
        found = line_up(0.42, 0.2, 0.4)
        self.assertIn("0.377 mm apart", words(found.remark))
        self.assertEqual(found.width_range, (0.46, 0.5))
        self.assertIn("hardly pressed on", words(line_up(0.5, 0.34, 0.4).remark))
        self.assertIn("narrower than the hole", words(line_up(0.36, 0.2, 0.4).remark))
        self.assertIsNone(line_up(0.42, 0.2).width_range)
        with self.assertRaises(errors.OutOfRangeError):
            line_up(0.42, 0.2, 9)
