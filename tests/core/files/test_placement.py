"""Where a print would hold."""

import unittest

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.files import Place, angles_for, forecast_print, moved, place_print
from finchwort.core.printers import Bed
from finchwort.core.surveys import Relief
from finchwort.messages.files import move_words, placement_sentence
from tests.fixtures.print_files import printed
from tests.fixtures.slicer import Thing, disc, rectangle

THINGS = [Thing(rectangle(30, 30, 20, 14), 0.6), Thing(rectangle(70, 30, 16, 16), 0.6)]
PRINT = printed(THINGS)


def bed(height, width=200, depth=150):
    xs, ys = np.linspace(0, width, 41), np.linspace(0, depth, 31)
    x, y = np.meshgrid(xs, ys)
    return Relief(xs, ys, height(x, y) + 0 * x)


class PlacementTest(unittest.TestCase):
    def test_it_goes_to_where_the_bed_is_right(self):
        # low at the left, right from 100 mm on
        relief = bed(lambda x, y: np.minimum(0, (x - 100) / 400))
        found = place_print(PRINT.layer, relief, Bed(200, 150))
        self.assertTrue(found.worth)
        self.assertGreater(found.best.dx, 60)
        self.assertEqual((found.best.angle, found.best.dx % 5, found.best.dy), (0, 0.0, 0.0))
        self.assertGreater(found.best.share, 0.97)
        self.assertIn("mm to the right: good from", placement_sentence(found))

    def test_where_it_lies_well_it_stays(self):
        found = place_print(PRINT.layer, bed(lambda x, y: 0), Bed(200, 150))
        self.assertFalse(found.worth)
        self.assertEqual((found.best.dx, found.best.dy, found.best.angle), (0.0, 0.0, 0))
        self.assertIn("lies as well as it can", placement_sentence(found))

    def test_a_turn_where_only_that_helps(self):
        # a strip along Y that is right
        relief = bed(lambda x, y: -np.maximum(0, np.abs(x - 100) - 14) / 60)
        found = place_print(PRINT.layer, relief, Bed(200, 150))
        self.assertIn(found.best.angle, (90, 270))
        self.assertIn("urned a quarter", placement_sentence(found))

    def test_round_parts_may_stand_at_any_angle(self):
        # two pegs 80 mm apart, and two good spots 80 mm apart at 35 degrees
        pegs = printed([Thing(disc(60, 75, 7), 0.6), Thing(disc(140, 75, 7), 0.6)])
        angle = np.radians(35)
        spots = [(100 + s * 40 * np.cos(angle), 75 + s * 40 * np.sin(angle)) for s in (-1, 1)]
        relief = bed(
            lambda x, y: -np.maximum(0, np.min([np.hypot(x - a, y - b) for a, b in spots], axis=0) - 9) / 60
        )
        self.assertEqual(len(angles_for(pegs.parts)), 24)
        found = place_print(pegs.layer, relief, Bed(200, 150), angles=angles_for(pegs.parts))
        self.assertIn(found.best.angle % 180, (30, 45))
        self.assertGreater(found.best.share, 0.95)
        quarters = place_print(pegs.layer, relief, Bed(200, 150))
        self.assertGreater(found.best.share, quarters.best.share + 0.2)
        # all quarter turns are shown, and the one that is best
        self.assertEqual({one.angle for one in found.places}, {0, 90, 180, 270, found.best.angle})
        self.assertIn("30°" if found.best.angle in (30, 330) else "°", placement_sentence(found))
        # what has corners is turned by quarters only
        self.assertEqual(angles_for(PRINT.parts), (0, 90, 180, 270))
        mixed = printed([Thing(disc(60, 75, 7), 0.6), Thing(rectangle(100, 60, 30, 20), 0.6)])
        self.assertEqual(len(angles_for(mixed.parts)), 4)
        place = next(i for i, one in enumerate(mixed.parts) if one.round)
        self.assertEqual(len(angles_for(mixed.parts, place)), 24)

    def test_one_part_alone_keeps_off_the_others(self):
        relief = bed(lambda x, y: -np.maximum(0, np.hypot(x - 70, y - 30) - 9) / 60)
        whole = place_print(PRINT.layer, relief, Bed(200, 150), part=0, angles=(0,))
        # the only good place is taken by the other part
        self.assertGreater(np.hypot(whole.best.dx - 40, whole.best.dy), 15)
        one = whole.places[0]
        there = one.share[np.argmin(np.abs(one.dy)), np.argmin(np.abs(one.dx - 40))]
        self.assertTrue(np.isnan(there))

    def test_the_share_is_that_of_the_forecast(self):
        relief = bed(lambda x, y: 0.0009 * (x - 60))
        found = place_print(PRINT.layer, relief, Bed(200, 150))
        whole = forecast_print(PRINT.layer, PRINT.parts, relief)
        self.assertAlmostEqual(found.now.share, whole.shares["good"], delta=0.02)

    def test_a_print_beyond_the_edge_is_brought_back(self):
        found = place_print(PRINT.layer, bed(lambda x, y: 0, 70), Bed(70, 150))
        self.assertFalse(found.allowed)
        self.assertLess(found.best.dx, -7)
        self.assertIn("there it may be", placement_sentence(found))

    def test_a_print_that_is_too_large(self):
        with self.assertRaises(OutOfRangeError):
            place_print(PRINT.layer, bed(lambda x, y: 0, 50, 50), Bed(50, 50), angles=(0,))
        with self.assertRaises(ChoiceError):
            place_print(PRINT.layer, bed(lambda x, y: 0), Bed(200, 150), part=7)

    def test_turns_go_to_the_left_about_the_middle(self):
        corner = np.array([[10.0, 0.0]])
        for turn, wanted in enumerate([(10, 0), (5, 5), (0, 0), (5, -5)]):
            np.testing.assert_allclose(
                moved(corner, np.array([5.0, 0.0]), 0, 0, 90 * turn), [wanted], atol=1e-12
            )

    def test_words(self):
        self.assertEqual(
            move_words(Place(-5.0, 0.0, 270, 1.0)), "turned a quarter to the right, then 5 mm to the left"
        )


if __name__ == "__main__":
    unittest.main()
