"""Readings by hand, walking order, probe reach, planning a survey, surfaces and materials, the walk round."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.compensation import advise_grid, mesh_errors, seconds_left, survey_minutes
from finchwort.core.diagnosis import suit
from finchwort.core.printers import Bed
from finchwort.core.probing import (
    FEELS,
    HandReading,
    assess_line,
    compare_lines,
    gap_from_feeler,
    grid_points,
    hand_survey,
    in_reach,
    items_for,
    reach,
    walk_length,
    walking_order,
    weakened,
)
from finchwort.core.surveys import Survey
from finchwort.knowledge import materials, surfaces, walk_round

CORNERS = [(10, 10), (200, 10), (200, 200), (10, 200)]


class HandTest(unittest.TestCase):
    def test_gap_is_the_paper_when_it_just_drags(self):
        taken = [HandReading(x, y, 0.1, "slight", z=0.3) for x, y in CORNERS]
        self.assertEqual(hand_survey(taken, "paper").survey.height.round(9).tolist(), [0.2] * 4)

    def test_lowered_until_it_drags_reads_any_height(self):
        heights = (0.6, -0.4, 0.0, 0.2)
        taken = [
            HandReading(x, y, h + 0.1, thickness=0.1, step=0.01)
            for (x, y), h in zip(CORNERS, heights, strict=True)
        ]
        found = hand_survey(taken, "lowered")
        self.assertLess(np.abs(found.survey.height - heights).max(), 0.006)
        self.assertLess(found.noise, 0.013)

    def test_felt_again_the_newer_counts(self):
        taken = [HandReading(x, y, 0.1, "stuck") for x, y in CORNERS]
        again = [HandReading(x, y, 0.1, "slight") for x, y in CORNERS]
        found = hand_survey([*taken, *again], "paper")
        self.assertEqual(len(found.survey), 4)
        self.assertFalse(found.felt.open.any())

    def test_gaps_turn_into_heights_once(self):
        taken = [HandReading(x, y, 0.1, feel) for (x, y), feel in zip(CORNERS, FEELS[1:], strict=True)]
        heights = hand_survey(taken, "paper").survey.height
        self.assertTrue((np.diff(heights) > 0).all())  # closer means higher

    @given(st.floats(0.03, 1), st.floats(0.01, 0.2))
    def test_between_two_leaves(self, slides, more):
        gap, sd = gap_from_feeler(slides, slides + more)
        self.assertTrue(slides <= gap <= slides + more)
        self.assertAlmostEqual(sd, more / math.sqrt(12))

    def test_the_sign_of_the_dial(self):
        taken = [HandReading(x, y, v) for (x, y), v in zip(CORNERS, (0.1, 0, 0, 0.1), strict=True)]
        plus, minus = (hand_survey(taken, "dial", sign).survey.height for sign in (True, False))
        self.assertEqual(plus.tolist(), (-minus).tolist())

    def test_calipers_count_differences(self):
        taken = [HandReading(x, y, v) for (x, y), v in zip(CORNERS, (30.1, 30.0, 30.0, 30.1), strict=True)]
        self.assertAlmostEqual(float(hand_survey(taken, "calipers").survey.height.mean()), 0)

    def test_one_sided_feels_are_told(self):
        taken = [HandReading(x, y, 0.1, "free") for x, y in CORNERS]
        self.assertIn("says only which way", " ".join(hand_survey(taken, "paper").remarks))

    def test_bad_input(self):
        for reading, way, error in (
            (HandReading(0, 0, 0.1, "hot"), "paper", ChoiceError),
            (HandReading(0, 0, 0.1), "paper", ChoiceError),
            (HandReading(0, 0, 100, "slight"), "paper", OutOfRangeError),
            (HandReading(0, 0, 0.1, "slight", z=90), "paper", OutOfRangeError),
            (HandReading(0, 0, 90.0, thickness=0.1), "lowered", OutOfRangeError),
            (HandReading(0, 0, 0.1), "lowered", OutOfRangeError),
            (HandReading(0, 0, 0.1, thickness=0.1, step=0.5), "lowered", OutOfRangeError),
            (HandReading(0, 0, 0.2, stop=0.1), "feeler", OutOfRangeError),
            (HandReading(0, 0, math.nan), "dial", NonFiniteError),
            (HandReading(0, 0, 0.1), "eye", ChoiceError),
        ):
            with self.subTest(reading, way=way), self.assertRaises(error):
                hand_survey([reading], way)


class LineTest(unittest.TestCase):
    x = [0, 50, 100, 150, 200]

    def test_sag_crown_straight(self):
        self.assertEqual(assess_line(self.x, [0, 0.15, 0.2, 0.15, 0]).name, "sag")
        self.assertEqual(assess_line(self.x, [0.2, 0.05, 0, 0.05, 0.2]).name, "crown")
        self.assertEqual(assess_line(self.x, [0, 0.01, 0, 0.01, 0]).name, "straight")
        self.assertEqual(assess_line(self.x, [0, 0.3, 0, 0, 0]).name, "wavy")

    @given(st.floats(-0.4, 0.4), st.floats(-0.2, 0.2))
    def test_a_parabola_is_found_whatever_the_edge_leans(self, bow, lean):
        share = np.array(self.x) / 200
        gaps = 1 - bow * (1 - (2 * share - 1) ** 2) + lean * share
        self.assertAlmostEqual(assess_line(self.x, gaps).bow, bow, places=6)

    def test_plate_or_carrier(self):
        flat, sag = assess_line(self.x, [0] * 5), assess_line(self.x, [0, 0.15, 0.2, 0.15, 0])
        self.assertIn("plate itself sags", compare_lines(sag, flat))
        self.assertIn("it is the carrier", compare_lines(sag, sag))
        self.assertIn("lies hollow", compare_lines(flat, sag))
        self.assertIn("both straight", compare_lines(flat, flat))

    def test_bad_input(self):
        for x, gaps, error in (
            ([0, 1], [0, 0], TooFewReadingsError),
            ([0, 2, 1], [0, 0, 0], OutOfRangeError),
            ([0, 1, 2], [0, -1, 0], OutOfRangeError),
            ([0, 1, 2], [0, math.inf, 0], NonFiniteError),
        ):
            with self.subTest(gaps), self.assertRaises(error):
                assess_line(x, gaps)


places = st.lists(st.tuples(st.integers(0, 300), st.integers(0, 300)), min_size=1, max_size=7, unique=True)


class WalkTest(unittest.TestCase):
    @given(places)
    def test_shortest_of_all_orders(self, points):
        found = [points[i] for i in walking_order(points)]
        best = min(walk_length(order) for order in itertools.permutations(points))
        self.assertAlmostEqual(walk_length(found), best, places=6)

    @given(st.integers(0, 2**31), st.integers(11, 60))
    @settings(max_examples=25)
    def test_many_places_are_each_visited_once_without_crossings(self, seed, n):
        points = np.random.default_rng(seed).uniform(0, 300, (n, 2))
        order = walking_order(points.tolist(), (0, 0))
        self.assertEqual(sorted(order), list(range(n)))
        walk = points[order]
        length = walk_length(walk)
        for i in range(n - 2):
            for j in range(i + 2, n - 1):
                turned = np.concatenate([walk[: i + 1], walk[i + 1 : j + 1][::-1], walk[j + 1 :]])
                self.assertGreaterEqual(walk_length(turned), length - 1e-6)


class ReachTest(unittest.TestCase):
    @given(st.floats(-60, 60), st.floats(-60, 60))
    def test_the_nozzle_stays_over_the_bed(self, dx, dy):
        bed = Bed(220, 180, "centre")
        for x, y in grid_points(bed, 4, 3, 5, dx, dy):
            self.assertTrue(bed.x_min - 0.02 <= x - dx <= bed.x_max + 0.02)
            self.assertTrue(bed.y_min - 0.02 <= y - dy <= bed.y_max + 0.02)
        self.assertTrue(all(in_reach(bed, dx, dy, grid_points(bed, 4, 3, 5, dx, dy))))
        self.assertEqual(in_reach(bed, 30, 0, [(bed.x_min + 10, 0)]), [False])

    def test_bad_input(self):
        for args in ((Bed(100, 100), 99.999, 200), (Bed(60, 60), 70, 0)):
            with self.subTest(args[1:]), self.assertRaises(OutOfRangeError):
                reach(*args)
        with self.assertRaises(OutOfRangeError):
            grid_points(Bed(200, 200), 1, 5, 10)


class PlanningTest(unittest.TestCase):
    bed = Bed(300, 300)

    def survey(self, shape, n=9, noise=0.003):
        x, y = np.meshgrid(np.linspace(15, 285, n), np.linspace(15, 285, n))
        u, v = (x - 150) / 150, (y - 150) / 150
        z = shape(u, v) + np.random.default_rng(1).normal(0, noise, x.shape)
        return Survey(x.ravel(), y.ravel(), (z + 0.2 * u).ravel())

    def test_a_flat_bed_needs_few_places_and_a_wavy_one_many(self):
        flat = advise_grid([self.survey(lambda u, v: 0 * u)], self.bed, 0.2).best
        dome = advise_grid([self.survey(lambda u, v: 0.2 * (1 - u**2 - v**2))], self.bed, 0.2).best
        wave = advise_grid(
            [self.survey(lambda u, v: 0.1 * np.sin(4 * u) * np.cos(4 * v))], self.bed, 0.2
        ).best
        self.assertLess(flat.columns, dome.columns)
        self.assertLess(dome.columns, wave.columns)

    def test_errors_fall_to_the_noise(self):
        survey = self.survey(lambda u, v: 0.1 * (1 - u**2 - v**2), noise=0.004)
        errors = [float(np.sqrt(np.mean(mesh_errors([survey], n, n) ** 2))) for n in (2, 3, 5, 9)]
        self.assertEqual(errors, sorted(errors, reverse=True))
        self.assertLess(errors[-1], 0.009)

    def test_the_tilt_does_not_count(self):
        steep = self.survey(lambda u, v: 2 * u - v, noise=0)
        self.assertLess(np.abs(mesh_errors([steep], 2, 2)).max(), 1e-6)

    def test_nothing_known(self):
        advice = advise_grid([], self.bed, 0.2)
        self.assertEqual((advice.best.columns, advice.best.rows, advice.best.error), (5, 5, None))
        few = Survey([0, 100, 0, 100], [0, 0, 100, 100], [0, 0, 0, 0])
        self.assertEqual(advise_grid([few], self.bed, 0.2).best.columns, 5)

    def test_an_oblong_bed_gets_more_columns(self):
        best = advise_grid([], Bed(400, 200), 0.2).best
        self.assertGreater(best.columns, best.rows)

    def test_time(self):
        self.assertLess(survey_minutes(CORNERS), survey_minutes(CORNERS, by_hand=True))
        self.assertEqual(survey_minutes(CORNERS, seconds=30), 2)
        self.assertIsNone(seconds_left([3], 10))
        self.assertEqual(seconds_left([0, 5, 10], 3), 0)


class SuitingTest(unittest.TestCase):
    def judge(self, surface, material, **temperatures):
        return suit(surfaces()[surface], materials()[material], **temperatures)

    def test_what_the_table_forbids(self):
        self.assertEqual(self.judge("low_temperature_sheet", "PETG").state, "unsuitable")
        self.assertIn("bonds too well", self.judge("rubbery_sheet", "TPU").remarks[0])

    def test_what_bonds_too_well_needs_a_release(self):
        found = self.judge("smooth_pei", "PETG")
        self.assertEqual(found.state, "needs")
        self.assertIn("tear the surface", found.remarks[0])

    def test_a_setting_right_on_one_sheet_is_cold_on_another(self):
        """40 °C is right on a low-temperature sheet and cold on PEI: common practice."""
        self.assertFalse(any("cold" in r for r in self.judge("low_temperature_sheet", "PLA", bed=40).remarks))
        self.assertIn("is cold", self.judge("smooth_pei", "PLA", bed=40).remarks[0])

    def test_defaults_lie_within_their_ranges(self):
        for surface in surfaces().values():
            for material in materials().values():
                found = suit(surface, material)
                if found.bed is not None:
                    self.assertTrue(
                        found.bed_range[0] <= found.bed <= found.bed_range[1], (surface.key, material.name)
                    )
                    again = suit(surface, material, found.bed, found.nozzle)
                    self.assertFalse(any("is cold" in r or "is hot" in r for r in again.remarks))

    def test_what_is_not_known_is_not_judged(self):
        self.assertEqual(suit(None, None).state, "unknown")
        self.assertEqual(suit(None, materials()["PLA"]).nozzle, 205)


class WalkRoundTest(unittest.TestCase):
    def test_only_what_the_printer_has(self):
        keys = {item.key for item in items_for(walk_round(), ["screws", "probe"])}
        self.assertIn("springs", keys)
        self.assertNotIn("pads", keys)
        self.assertNotIn("beam", keys)
        self.assertIn("probe_mount", keys)
        with self.assertRaises(ChoiceError):
            items_for(walk_round(), ["wings"])

    def test_bad_finds_weaken_what_stands_on_them(self):
        found = {"springs": "bad", "tip": "good"}
        self.assertEqual(len(weakened(walk_round(), found, "plan")), 1)
        self.assertEqual(weakened(walk_round(), found, "trust"), [])
        with self.assertRaises(ChoiceError):
            weakened(walk_round(), found, "weather")
