"""Foil and its drawer, tape, places to keep off, the mean alone, and the cards that are taken to the printer."""

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.compensation import mean_only
from finchwort.core.first_layer import DISC, Bead, Setting, make_test_print, plan_bed
from finchwort.core.levelling import (
    TAPE,
    Foil,
    Pad,
    count_drawer,
    lower_by,
    measure_foil,
    piece_in_words,
    plan_beam,
    plan_shims,
    plan_tape,
    remedies,
    why_not_lower,
)
from finchwort.core.printers import (
    TIP_ROOM,
    Bed,
    KeepOff,
    blocked,
    blocked_by,
    clear_of,
    crosses,
    free_area,
    free_place,
    places_doubt,
    suggest_points,
    suggest_screw_points,
)
from finchwort.core.probing import grid_points, paper_places
from finchwort.core.surveys import Survey
from finchwort.messages.errors import sentence
from finchwort.messages.levelling import tape_plan_sentence
from finchwort.messages.levelling.cards import bare_deck, beam_deck, carriage_deck, foil_deck, tape_deck
from tests.simulation import taped

CORNERS = [
    Pad("front left", 10, 10),
    Pad("front right", 210, 10),
    Pad("back right", 210, 210),
    Pad("back left", 10, 210),
]
NINE = [Pad(f"{i}{j}", 10 + 100 * i, 10 + 100 * j) for i in range(3) for j in range(3)]
FOILS = [Foil(0.05, 6), Foil(0.1, 6), Foil(0.2, 4)]
BED = Bed(220, 220)
CLIPS = (KeepOff("front clip", 95, 0, 125, 8), KeepOff("back clip", 95, 212, 125, 220, 6.0))
CLIPPED = Bed(220, 220, keep_off=CLIPS)


def field(height, n=5, noise=0.004, seed=0):
    """Readings of a shape given over u, v in -1 to 1."""
    x, y = np.array(suggest_points(BED, n, n)).T
    u, v = (x - 110) / 95, (y - 110) / 95
    return Survey(x, y, height(u, v) + np.random.default_rng(seed).normal(0, noise, x.size))


def near(u, v, a, b, wide=9.0):
    """A round bulge at (a, b)."""
    return np.exp(-((u - a) ** 2 + (v - b) ** 2) * wide)


class DrawerTest(unittest.TestCase):
    SIZES = st.sampled_from([0.05, 0.1, 0.2, 0.25])
    STACKS = st.lists(st.lists(SIZES, max_size=4), min_size=3, max_size=4)

    @settings(max_examples=60, deadline=None)
    @given(STACKS, STACKS)
    def test_nothing_is_lost_between_drawer_and_pads(self, before, after):
        """With enough in the drawer, pieces in it and under the pads together stay the same."""
        foils = [Foil(size, 40) for size in (0.05, 0.1, 0.2, 0.25)]
        drawer = count_drawer(foils, before, after)
        self.assertEqual(drawer.short, ())
        for foil in drawer.foils:
            under = [sum(stack.count(foil.thickness) for stack in stacks) for stacks in (before, after)]
            self.assertEqual(foil.count + under[1], 40 + under[0])
        back = count_drawer(drawer.foils, after, before)
        self.assertEqual(back.foils, tuple(foils))

    def test_more_laid_than_counted_is_said(self):
        drawer = count_drawer([Foil(0.1, 1)], [[], []], [[0.1, 0.1], [0.05]])
        self.assertEqual([(f.thickness, f.count) for f in drawer.foils], [(0.1, 0)])
        self.assertEqual((drawer.short, drawer.changes), ((0.05, 0.1), {0.1: -1}))

    def test_what_was_never_counted_is_new_in_the_drawer(self):
        drawer = count_drawer([], [[0.3]], [[]])
        self.assertEqual(drawer.foils, (Foil(0.3, 1),))

    def test_a_roll_is_not_counted(self):
        roll = [Foil(0.016, 0, roll=True)]
        drawer = count_drawer(roll, [[]], [[0.016, 0.064]])
        self.assertEqual((drawer.foils, drawer.changes, drawer.short), (tuple(roll), {}, ()))


class FoilTest(unittest.TestCase):
    def test_kitchen_foil_is_folded(self):
        self.assertEqual(Foil(0.016, 0, roll=True).pieces, (0.016, 0.032, 0.064, 0.128))
        self.assertEqual(Foil(0.1, 3).pieces, (0.1,))
        self.assertIn("folded twice", piece_in_words(0.064, [Foil(0.016, 0, roll=True)]))
        survey = field(lambda u, v: 0.06 * u)
        plan = plan_shims(survey, CORNERS, [Foil(0.016, 0, roll=True)])
        self.assertFalse(plan.done)
        self.assertLess(plan.spread_after, 0.5 * plan.spread_before)
        for stack in plan.stacks:
            for size in stack.foils:
                self.assertIn(size, (0.016, 0.032, 0.064, 0.128))

    def test_several_are_measured_together(self):
        one, ten = measure_foil(0.05, 1), measure_foil(0.48, 10)
        self.assertAlmostEqual(ten.thickness, 0.048)
        self.assertLess(ten.sd, one.sd / 9)
        self.assertIn("measure again", one.sentence)
        self.assertNotIn("measure again", ten.sentence)
        for wrong in ((math.nan, 3), (0.1, 0), (0.01, 10), (30, 2)):
            with self.subTest(wrong), self.assertRaises(errors.CoreError):
                measure_foil(*wrong)


class MiddleTest(unittest.TestCase):
    def test_a_stiff_plate_says_no(self):
        plan = plan_shims(field(lambda u, v: 0.2 * u), CORNERS, FOILS, lower_middle=0.05)
        self.assertIn("stiff plate", plan.refused)
        self.assertEqual(plan.wished, 0)
        plain = plan_shims(field(lambda u, v: 0.2 * u), CORNERS, FOILS)
        self.assertEqual([s.foils for s in plan.stacks], [s.foils for s in plain.stacks])

    def test_what_lies_lower_already_is_said(self):
        plan = plan_shims(field(lambda u, v: 0.08 * (u**2 + v**2) / 2), CORNERS, FOILS, lower_middle=0.05)
        self.assertIn("already", plan.refused)

    def test_on_nine_pads_it_comes_about_and_is_judged_by_the_bed(self):
        survey = field(lambda u, v: 0.1 * u, noise=0.0)
        plan = plan_shims(survey, NINE, [Foil(0.05, 20), Foil(0.1, 9)], stiff=False, lower_middle=0.05)
        self.assertEqual((plan.refused, plan.wished), ("", 0.05))
        self.assertGreater(plan.middle_after, plan.middle_before + 0.02)
        self.assertAlmostEqual(plan.spread_before, float(np.ptp(survey.height)))
        self.assertAlmostEqual(plan.spread_after, float(np.ptp(plan.predicted.height)))

    def test_four_pads_of_a_thin_plate_have_no_lever(self):
        survey = field(lambda u, v: 0.1 * u)
        self.assertIn("No pad", why_not_lower(survey, CORNERS, stiff=False))

    def test_without_a_reading_in_the_middle_nobody_can_tell(self):
        rim = Survey([10, 210, 210, 10], [10, 10, 210, 210], [0, 0, 0, 0])
        self.assertIsNone(lower_by(rim))
        self.assertIn("No reading", why_not_lower(rim, NINE, stiff=False))

    @settings(max_examples=30, deadline=None)
    @given(st.floats(-0.4, 0.4), st.floats(-0.4, 0.4), st.floats(-0.2, 0.2))
    def test_tilt_does_not_lower_a_middle(self, a, b, bow):
        flat = lower_by(field(lambda u, v: bow * (u**2 + v**2), noise=0))
        tilted = lower_by(field(lambda u, v: bow * (u**2 + v**2) + a * u + b * v + 0.3, noise=0))
        self.assertAlmostEqual(flat, tilted, places=9)


class TapeTest(unittest.TestCase):
    def test_a_dip_is_found_where_it_is(self):
        for a, b in itertools.product((-0.5, 0.0, 0.5), repeat=2):
            survey = field(lambda u, v, a=a, b=b: -0.14 * near(u, v, a, b) + 0.2 * u - 0.1 * v)
            with self.subTest(a=a, b=b):
                plan = plan_tape(survey, bed=BED)
                self.assertEqual(plan.kind, "dips")
                first = plan.places[0]
                self.assertLess(math.hypot(first.x - 110 - 95 * a, first.y - 110 - 95 * b), 25)
                self.assertAlmostEqual(first.layers * TAPE, 0.14, delta=TAPE)
                widths = [piece.width for piece in first.pieces]
                self.assertEqual(widths, sorted(widths, reverse=True))
                self.assertIn("tilt", tape_plan_sentence(plan))

    def test_a_dome_is_taped_at_its_edges(self):
        plan = plan_tape(field(lambda u, v: -0.2 * (u**2 + v**2) / 2), bed=BED)
        self.assertEqual((plan.kind, len(plan.places)), ("dome", 4))
        for one in plan.places:
            self.assertGreater(max(abs(one.x - 110), abs(one.y - 110)), 60)

    def test_a_hump_gets_none(self):
        for a, b in ((0.0, 0.0), (0.5, -0.5)):
            with self.subTest(a=a, b=b):
                plan = plan_tape(field(lambda u, v, a=a, b=b: 0.2 * near(u, v, a, b, 14)), bed=BED)
                self.assertEqual(plan.places, ())
                self.assertEqual(len(plan.humps), 1)
                self.assertLess(
                    math.hypot(plan.humps[0].x - 110 - 95 * a, plan.humps[0].y - 110 - 95 * b), 25
                )

    def test_a_dip_and_a_hump_are_told_apart(self):
        survey = field(lambda u, v: 0.2 * near(u, v, 0.5, 0.5, 14) - 0.2 * near(u, v, -0.5, -0.5), n=9)
        plan = plan_tape(survey, bed=BED)
        self.assertEqual((len(plan.places), len(plan.humps)), (1, 1))
        self.assertLess(plan.places[0].x, 100)
        self.assertGreater(plan.humps[0].x, 120)

    def test_noise_and_tilt_get_none(self):
        for seed in range(10):
            survey = field(lambda u, v: 0.3 * u - 0.2 * v, noise=0.012, seed=seed)
            self.assertEqual(plan_tape(survey, bed=BED).places, ())

    def test_glass_says_so(self):
        survey = field(lambda u, v: -0.14 * near(u, v, 0, 0))
        self.assertIn("glass", tape_plan_sentence(plan_tape(survey, bed=BED, under="glass")))
        self.assertNotIn("glass", tape_plan_sentence(plan_tape(survey, bed=BED)))

    def test_sheets_that_bend_lie_flatter_for_it(self):
        """Sheets with weight and stiffness, on carriers with dents of their own, taped by a hand."""
        before, after = [], []
        for seed, stiffness in ((0, 1.0), (1, 1.0), (2, 6.0), (3, 50.0)):
            rng = np.random.default_rng(seed)
            for name, ground in taped.carriers(rng):
                sheet = taped.lie(ground, stiffness)
                plan = plan_tape(Survey(*taped.readings(sheet, rng)), bed=BED)
                laid = taped.lie(taped.tape_laid(ground, plan, TAPE, rng), stiffness)
                before.append(taped.flatness(sheet))
                after.append(taped.flatness(laid))
                self.assertLess(after[-1], before[-1] + 0.01, (name, seed))
        self.assertLess(np.mean(after), 0.8 * np.mean(before))

    def test_it_goes_on_to_the_plates_edge(self):
        plan = plan_tape(field(lambda u, v: -0.15 * np.exp(-3 * u**2)), bed=Bed(220, 220, plate_depth=240))
        first = plan.places[0].pieces[0]
        self.assertEqual((first.depth, first.oval), (240, False))

    def test_thickness(self):
        survey = field(lambda u, v: -0.3 * near(u, v, 0, 0))
        self.assertEqual(plan_tape(survey, 0.15, bed=BED).places[0].layers, 2)
        for wrong in (60, 0.0, math.nan):
            with self.assertRaises(errors.OutOfRangeError):
                plan_tape(survey, wrong)


class KeepOffTest(unittest.TestCase):
    RECTANGLES = st.tuples(st.floats(0, 200), st.floats(0, 200), st.floats(2, 40), st.floats(2, 40))
    PLACES = st.lists(RECTANGLES, min_size=1, max_size=4)

    def bed_with(self, rectangles):
        keep = []
        for i, (x, y, w, d) in enumerate(rectangles):
            one = KeepOff(f"clip {i}", x, y, min(x + w, 220), min(y + d, 220))
            left, front, right, back = one.grown(TIP_ROOM)
            if not (left < 110 < right and front < 110 < back):
                keep.append(one)
        return Bed(220, 220, keep_off=tuple(keep))

    @settings(max_examples=60, deadline=None)
    @given(PLACES, st.integers(2, 6))
    def test_no_place_to_measure_lies_in_the_way(self, rectangles, side):
        bed = self.bed_with(rectangles)
        probe = (20.0, -15.0)
        for points, which in (
            (grid_points(bed, side, side, 10, *probe), probe),
            (
                [(x, y) for _, x, y in paper_places(bed, [("a", 5, 5), ("b", 215, 5), ("c", 110, 215)])],
                (0, 0),
            ),
            ([p for p in clear_of(bed, suggest_points(bed, side, side)) if p], (0, 0)),
            (suggest_screw_points(bed, []), (0, 0)),
        ):
            self.assertEqual([one for one in blocked(bed, points, which) if one], [])
            self.assertEqual(len(set(points)), len(points))

    @settings(max_examples=60, deadline=None)
    @given(PLACES)
    def test_the_free_area_is_free_and_holds_the_middle(self, rectangles):
        bed = self.bed_with(rectangles)
        x0, y0, x1, y1 = free_area(bed)
        self.assertTrue(x0 <= 110 <= x1 and y0 <= 110 <= y1)
        for x, y in itertools.product(np.linspace(x0, x1, 9), np.linspace(y0, y1, 9)):
            self.assertIsNone(blocked_by(bed, float(x), float(y), TIP_ROOM - 0.1))

    def test_without_anything_in_the_way_nothing_moves(self):
        points = suggest_points(BED, 5, 5)
        self.assertEqual(clear_of(BED, points), points)
        self.assertEqual(free_area(BED), (0, 0, 220, 220))

    def test_what_cannot_be(self):
        for sides in ((50, 50, 50.5, 60), (90, 90, 130, 130), (300, 300, 320, 320), (0, 0, math.nan, 5)):
            with self.subTest(sides), self.assertRaises(errors.CoreError):
                Bed(220, 220, keep_off=(KeepOff("clip", *sides),))
        with self.assertRaises(errors.DuplicateError):
            Bed(220, 220, keep_off=(CLIPS[0], CLIPS[0]))
        with self.assertRaises(errors.ChoiceError):
            KeepOff(" ", 0, 0, 10, 10)

    def test_a_reading_on_a_clip_is_doubted(self):
        self.assertIn("front clip", places_doubt(CLIPPED, [110, 15], [4, 15]))
        self.assertIsNone(places_doubt(CLIPPED, [15], [15]))

    def test_nothing_free_so_near(self):
        corner = Bed(220, 220, keep_off=(KeepOff("box", 0, 0, 60, 60),))
        self.assertIsNone(free_place(corner, 20, 20))
        self.assertEqual(free_place(corner, 20, 30, most=math.inf), (20, 68))


class PrintsKeepOffTest(unittest.TestCase):
    """No test print comes near a clip, neither with plastic nor on its ways."""

    def setting(self, bed):
        return Setting(bed, Bead(0.42, 0.2), 60, 205, 110, 260, lift=2.0)

    def test_every_kind(self):
        setting = self.setting(CLIPPED)
        made = [
            make_test_print("patches", setting),
            make_test_print("ladder", setting, shifts=[0.05, 0, -0.05]),
            make_test_print("discs", setting, places=plan_bed(CLIPPED, Bead(0.42, 0.2), -0.15)),
            make_test_print("mesh_walk", setting),
            make_test_print("paper_walk", setting, screws=[("front", 110, 2), ("back", 110, 218)]),
        ]
        for one in made:
            with self.subTest(one.kind):
                for points in [*(stroke.points for stroke in one.strokes), one.walk]:
                    if len(points) and one.kind != "paper_walk":
                        self.assertIsNone(crosses(CLIPPED, [tuple(p) for p in points], TIP_ROOM))
                for spot in one.spots:
                    self.assertIsNone(blocked_by(CLIPPED, spot.x, spot.y, TIP_ROOM + spot.size / 2 - 0.1))
                self.assertGreaterEqual(one.travel, 6 + 3)

    def test_discs_keep_their_heights(self):
        bead = Bead(0.42, 0.2)
        plain, clipped = plan_bed(BED, bead, -0.15), plan_bed(CLIPPED, bead, -0.15)
        self.assertGreaterEqual(len(clipped), len(plain) - 4)
        kept = {(x, y): shift for x, y, shift in clipped}
        same = [shift == kept[x, y] for x, y, shift in plain if (x, y) in kept]
        self.assertGreater(len(same), 20)
        self.assertTrue(all(same))
        self.assertGreater(DISC, 0)

    def test_whatever_stands_in_the_way(self):
        """Random clips: a print is refused, or a block of 2 x 8 mm round the tip never meets one, sampled along its path."""
        rng, made, refused = np.random.default_rng(4), 0, 0
        for _ in range(25):
            keep = []
            for i in range(rng.integers(1, 5)):
                x, y = rng.uniform(0, 200, 2)
                one = KeepOff(
                    f"clip {i}", x, y, x + rng.uniform(3, 30), y + rng.uniform(3, 30), rng.uniform(1, 15)
                )
                left, front, right, back = one.grown(TIP_ROOM)
                if not (left < 110 < right and front < 110 < back):
                    keep.append(one)
            bed = Bed(220, 220, keep_off=tuple(keep))
            for kind in ("patches", "ladder", "discs", "mesh_walk"):
                shifts = [0.05, 0, -0.05] if kind == "ladder" else []
                places = plan_bed(bed, Bead(0.42, 0.2), -0.15) if kind == "discs" else []
                try:
                    one = make_test_print(kind, self.setting(bed), shifts=shifts, places=places)
                except errors.OutOfRangeError:
                    refused += 1
                    continue
                made += 1
                self.assertGreaterEqual(one.travel, max((k.height for k in keep), default=0))
                for points in [*(stroke.points for stroke in one.strokes), one.walk]:
                    if len(points) < 2:
                        continue
                    a, b = np.asarray(points[:-1]), np.asarray(points[1:])
                    way = np.vstack([a + share * (b - a) for share in np.linspace(0, 1, 12)])
                    for k in keep:
                        beside = [
                            k.x_min - way[:, 0],
                            way[:, 0] - k.x_max,
                            k.y_min - way[:, 1],
                            way[:, 1] - k.y_max,
                        ]
                        self.assertGreaterEqual(np.max(beside, axis=0).min(), TIP_ROOM - 0.1)
        self.assertGreater(made, 40)
        self.assertGreater(refused, 0)

    def test_what_cannot_be_printed_is_refused(self):
        wide = Bed(220, 220, keep_off=(KeepOff("front", 0, 0, 220, 4), KeepOff("back", 0, 216, 220, 220)))
        with self.assertRaises(errors.OutOfRangeError) as caught:
            make_test_print("patches", self.setting(wide))
        self.assertIn("no room for the line", sentence(caught.exception))
        beside = Bed(220, 220, keep_off=(KeepOff("sensor", 125, 105, 140, 115),))
        with self.assertRaises(errors.OutOfRangeError) as caught:
            make_test_print("ladder", self.setting(beside), shifts=[0.05, 0, -0.05, -0.1])
        self.assertIn("sensor", sentence(caught.exception))


class MeanOnlyTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(-0.3, 0.3), st.floats(-0.3, 0.3), st.floats(-0.5, 0.5))
    def test_on_a_plane_the_mean_is_the_middle_and_all_tilt_stays(self, a, b, c):
        """Trade: on a plane sampled symmetrically the mean is the centre's height."""
        found = mean_only(field(lambda u, v: a * u + b * v + c, noise=0), BED, 0.2)
        self.assertAlmostEqual(found.difference, 0, places=6)
        self.assertAlmostEqual(found.worst, abs(a) + abs(b), places=5)

    def test_a_dome_is_too_close_in_the_middle(self):
        found = mean_only(field(lambda u, v: -0.2 * (u**2 + v**2) / 2, noise=0), BED, 0.2)
        self.assertGreater(found.difference, 0.05)
        self.assertIn("too close", found.sentences[1])
        self.assertIn("too far", found.sentences[-1])
        self.assertFalse(any("mesh" in sentence for sentence in found.sentences))


class CardsTest(unittest.TestCase):
    def test_foil(self):
        plan = plan_shims(field(lambda u, v: 0.3 * u), CORNERS, FOILS)
        deck = foil_deck(plan, FOILS)
        self.assertEqual(deck.kind, "foil")
        self.assertEqual(len(deck.cards), sum(s.foils != () for s in plan.stacks))
        self.assertIn("cool", deck.caution)
        changed = [replace(CORNERS[0], stack=(0.2,)), replace(CORNERS[1], stack=(0.1, 0.05)), *CORNERS[2:]]
        lying = field(lambda u, v: 0.3 * u)
        again = foil_deck(plan_shims(lying, changed, FOILS), FOILS)
        for card in again.cards:
            pad = next(one for one in changed if one.name == card.where)
            self.assertTrue(
                card.title.startswith(("Take", "Add")) if pad.stack else card.title.startswith("Lay")
            )
        self.assertEqual(set(deck.ways[0].data["stacks"]), {p.name for p in CORNERS})
        flat = plan_shims(field(lambda u, v: 0 * u), CORNERS, FOILS, noise=0.01)
        self.assertEqual(foil_deck(flat, FOILS).kind, "nothing")

    def test_two_lead_screws(self):
        survey = field(lambda u, v: 0.3 * u)
        deck = beam_deck(plan_beam(survey, 220, noise=0.005, carries="nozzle"), screws=False)
        self.assertEqual(
            [(w.data["side"], w.data["rise"] > 0) for w in deck.ways], [("right", True), ("left", False)]
        )
        trial = beam_deck(plan_beam(survey, 220, noise=0.005), screws=True)
        self.assertTrue(trial.ways[0].data["trial"])
        level = field(lambda u, v: 0 * u)
        self.assertIsNone(beam_deck(plan_beam(level, 220, noise=0.005), screws=False))

    def test_one_lead_screw_names_the_lower_end(self):
        deck = carriage_deck(0.3, 0.02, 0.05)
        self.assertIn("right", deck.title)  # the bed reads high where the beam hangs low
        self.assertEqual(
            [(w.data["side"], w.data["rise"]) for w in deck.ways], [("right", 0.3), ("left", -0.3)]
        )
        self.assertIn("left", carriage_deck(-0.3, 0.02, 0.05).title)
        self.assertIsNone(carriage_deck(0.03, 0.02, 0.05))
        self.assertIsNone(carriage_deck(0.3, 0.4, 0.05))

    def test_tape_and_nothing(self):
        deck = tape_deck(plan_tape(field(lambda u, v: -0.14 * near(u, v, 0, 0)), bed=BED))
        self.assertEqual((deck.kind, len(deck.cards), len(deck.cards[0].marks)), ("tape", 1, 1))
        self.assertIsNone(tape_deck(plan_tape(field(lambda u, v: 0 * u), bed=BED)))
        bare = bare_deck(remedies(0.08, 0.2, (220, 220)), ["A hump."])
        self.assertEqual((bare.kind, bare.lines[0], bare.ways), ("nothing", "A hump.", ()))


if __name__ == "__main__":
    unittest.main()
