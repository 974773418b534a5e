"""Test prints: what is laid where, and what is refused."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.first_layer import (
    COLDEST,
    KINDS,
    TOUCH,
    WARM,
    Ground,
    fill_disc,
    fill_square,
    measured_ground,
)
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey, make_relief
from finchwort.messages.errors import sentence
from tests.fixtures.prints import BEAD, make, setting


class FillTest(unittest.TestCase):
    @given(st.floats(3, 60), st.floats(0.2, 0.9))
    def test_a_square_is_filled_within_its_edges(self, side, width):
        spacing = 0.9 * width
        path = fill_square(10, -5, side, spacing, width)
        self.assertLessEqual(abs(path - (10, -5)).max(), (side - width) / 2 + 1e-9)
        rows = np.unique(path[:, 1].round(6))
        self.assertTrue(np.allclose(np.diff(rows), spacing, atol=1e-5))
        # another row would not fit
        self.assertGreater((len(rows)) * spacing + width, side - 1e-6)

    @given(st.floats(5, 30), st.floats(0.2, 0.8))
    def test_a_disc_winds_inwards_by_one_spacing_a_turn(self, diameter, width):
        spacing = 0.9 * width
        path = fill_disc(3, 4, diameter, spacing, width)
        radius = np.hypot(*(path - (3, 4)).T)
        self.assertAlmostEqual(radius.max(), (diameter - width) / 2, places=9)
        self.assertTrue((np.diff(radius) <= 1e-9).all())
        self.assertLess(radius.min(), spacing)
        length = np.hypot(*np.diff(path, axis=0).T).sum()
        # line length times spacing covers the disc, but for the rim's half line
        self.assertAlmostEqual(
            length * spacing / (np.pi * radius.max() ** 2), 1, delta=2.5 * spacing / radius.max()
        )

    def test_what_has_no_room_is_refused(self):
        with self.assertRaises(errors.OutOfRangeError):
            fill_square(0, 0, 0.5, 0.4, 0.42)
        with self.assertRaises(errors.OutOfRangeError):
            fill_disc(0, 0, 1, 0.4, 0.42)
        with self.assertRaises(errors.NonFiniteError):
            fill_disc(0, float("nan"), 10, 0.4, 0.42)


class MakeTest(unittest.TestCase):
    def test_a_ladder_goes_down_in_the_middle(self):
        made = make("ladder")
        self.assertEqual([spot.z for spot in made.spots], [0.3, 0.25, 0.2, 0.15, 0.1])
        self.assertEqual([spot.number for spot in made.spots], [1, 2, 3, 4, 5])
        centre = np.mean(
            [(spot.x, spot.y) for spot in make("ladder", shifts=(0.1, 0, -0.05, -0.1)).spots], axis=0
        )
        self.assertTrue(np.allclose(centre, (110, 90)))
        self.assertTrue(all(stroke.area == BEAD.area for stroke in made.strokes[1:]))

    @given(
        st.sampled_from(sorted(KINDS)),
        st.floats(100, 400),
        st.floats(100, 400),
        st.sampled_from(["front_left", "centre"]),
    )
    def test_everything_lies_on_the_bed_and_apart(self, kind, width, depth, origin):
        bed = Bed(width, depth, origin)
        made = make(kind, setting(bed))
        for stroke in made.strokes:
            low, high = stroke.points.min(axis=0), stroke.points.max(axis=0)
            self.assertTrue((low >= (bed.x_min, bed.y_min)).all() and (high <= (bed.x_max, bed.y_max)).all())
        boxes = [(s.points.min(axis=0) - 0.21, s.points.max(axis=0) + 0.21) for s in made.strokes]
        for i, (low, high) in enumerate(boxes):
            for other_low, other_high in boxes[:i]:
                self.assertTrue((low > other_high).any() or (high < other_low).any())

    def test_a_heavier_material_weighs_more_and_an_unknown_one_is_not_guessed(self):
        light, heavy = make("patches"), make("patches", setting(density=2.48))
        self.assertAlmostEqual(heavy.grams, 2 * light.grams)
        self.assertIsNone(make("patches", setting(density=None)).grams)
        self.assertAlmostEqual(light.grams, light.volume * 1.24e-3)

    def test_a_slow_long_print_takes_longer(self):
        self.assertGreater(make("patches").seconds, make("ladder").seconds)
        laid = sum(stroke.length for stroke in make("ladder").strokes)
        self.assertGreater(make("ladder").seconds, laid / 25)

    def test_walks_use_no_plastic_and_stay_cool_enough_not_to_ooze(self):
        for kind in ("mesh_walk", "paper_walk"):
            made = make(kind)
            self.assertEqual((made.volume, made.strokes), (0, ()))
            self.assertEqual(made.nozzle_temperature, WARM)

    def test_paper_stops_bear_the_names_of_the_screws(self):
        made = make("paper_walk", screws=[("left wing", 4, 4), ("right wing", 216, 4), ("tail", 110, 176)])
        self.assertEqual([spot.name for spot in made.spots], ["left wing", "middle", "tail", "right wing"])
        self.assertEqual(made.spots[0].z, 0.1)
        self.assertEqual([s.name for s in make("paper_walk").spots][:2], ["front left", "back left"])


class RefuseTest(unittest.TestCase):
    def refused(self, text, kind, given=None, **options):
        with self.assertRaises(errors.CoreError) as caught:
            make(kind, given, **options)
        self.assertIn(text, sentence(caught.exception))

    def test_contact(self):
        self.refused(
            "patch 2 the tip would go down to 0.02 mm and might touch", "ladder", shifts=(0.0, -0.18)
        )
        self.refused("touch the plate", "ladder", ground=Ground(zero=-0.1))
        self.refused("Paper or gauge", "paper_walk", paper=0.0)

    def test_contact_with_the_highest_place_of_the_bed_that_was_measured(self):
        high = Survey([0, 220, 0, 220, 110], [0, 0, 180, 180, 90], [0.0, 0.0, 0.0, 0.3, 0.0])
        bed = Bed(220, 180)
        ground = measured_ground(bed, high, make_relief(high, bed))
        self.refused("0.2", "patches", ground=ground)
        # for paper the tip stops higher there
        stops = {spot.name: spot.z for spot in make("paper_walk", ground=ground).spots}
        self.assertEqual(stops["front left"], 0.1)
        self.assertGreater(stops["back right"], 0.3)
        # the ladder in the middle keeps clear of that corner, and of what was not seen between
        self.assertEqual(len(make("ladder", ground=ground, shifts=(0.2, 0.1)).spots), 2)

    @given(st.floats(-0.3, 0.3))
    def test_refused_exactly_when_the_gap_is_gone(self, zero):
        if abs(0.2 + zero - TOUCH) < 1e-9:
            return
        if 0.2 + zero > TOUCH:
            self.assertEqual(len(make("patches", ground=Ground(zero=zero)).spots), 5)
        else:
            self.refused("touch the plate", "patches", ground=Ground(zero=zero))

    def test_outside_the_printable_area(self):
        self.refused("Patch 1 would lie outside", "discs", places=[(3, 90, 0), (100, 90, 0), (200, 90, 0)])

    def test_temperatures(self):
        with self.assertRaises(errors.OutOfRangeError):
            setting(bed_temperature=115.0)
        with self.assertRaises(errors.OutOfRangeError):
            setting(nozzle_temperature=280.0)
        with self.assertRaises(errors.NonFiniteError):
            setting(nozzle_temperature=float("nan"))
        self.refused("nothing comes out", "patches", setting(nozzle_temperature=COLDEST - 1))

    def test_kinds_and_counts(self):
        self.refused("no test print", "boat")
        self.refused("2 to 15", "ladder", shifts=[0.0])
        self.refused("3 to 49", "discs", places=[])
        self.refused("not a number", "ladder", shifts=[0.1, float("nan")])
