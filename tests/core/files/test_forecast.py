"""The first layer foretold along its lines."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.files import ROLES, LineRole, cut_in_pieces, forecast_print, gaps_over
from finchwort.core.files.forecast import bead_of, heights_at
from finchwort.core.first_layer import BANDS
from finchwort.core.surveys import Relief
from finchwort.messages.files import forecast_sentences
from tests.fixtures.print_files import printed
from tests.fixtures.slicer import Thing, disc, rectangle

THINGS = [
    Thing(rectangle(50, 50, 30, 30), 2.0),
    Thing(disc(150, 150, 8), 12.0),
    Thing(rectangle(150, 50, 20, 8), 1.0),
]
PRINT = printed(THINGS, skirt=True)


def bed(height):
    """A bed whose height is a function of X and Y, on a grid of 5 mm."""
    xs = ys = np.linspace(0, 200, 41)
    x, y = np.meshgrid(xs, ys)
    return Relief(xs, ys, height(x, y))


class GapsTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 10_000))
    def test_heights_are_those_of_scipy(self, seed):
        rng = np.random.default_rng(seed)
        relief = Relief(np.linspace(-20, 80, 11), np.linspace(0, 60, 7), rng.normal(size=(7, 11)))
        place = rng.uniform([-20, 0], [80, 60], (200, 2))
        look = RegularGridInterpolator((relief.ys, relief.xs), relief.heights)
        np.testing.assert_allclose(heights_at(relief, place), look(place[:, ::-1]), atol=1e-9)

    def test_pieces_are_the_lines_cut(self):
        pieces = cut_in_pieces(PRINT.layer, 3.0)
        self.assertLessEqual(float(pieces.length.max()), 3.0 + 1e-9)
        sums = np.bincount(pieces.of, weights=pieces.length)
        np.testing.assert_allclose(sums, PRINT.layer.length, atol=1e-9)

    def test_bands_are_those_of_each_bead(self):
        relief = bed(lambda x, y: 0.001 * (x - 100) + 0.0008 * (y - 100))
        found = forecast_print(PRINT.layer, PRINT.parts, relief)
        pieces = cut_in_pieces(PRINT.layer)
        gap = 0.2 - 0.001 * (pieces.middle[:, 0] - 100) - 0.0008 * (pieces.middle[:, 1] - 100)
        np.testing.assert_allclose(found.gap, gap, atol=1e-9)
        for i in range(0, len(gap), 37):
            bead = bead_of(round(float(PRINT.layer.width[pieces.of[i]]), 2), 0.2)
            self.assertEqual(found.band[i], bead.bands([gap[i]])[0])


class SharesTest(unittest.TestCase):
    def test_shares_are_by_length_without_skirt_and_purge_line(self):
        relief = bed(lambda x, y: 0.0012 * (x - 100))
        found, layer = forecast_print(PRINT.layer, PRINT.parts, relief), PRINT.layer
        pieces = cut_in_pieces(layer)
        role = layer.role[pieces.of]
        counted = ~np.isin(role, [ROLES.index(LineRole.SKIRT), ROLES.index(LineRole.PURGE)])
        for i, name in enumerate(BANDS):
            share = pieces.length[counted & (found.band == i)].sum() / pieces.length[counted].sum()
            self.assertAlmostEqual(found.shares[name], share)
        self.assertAlmostEqual(sum(found.shares.values()), 1.0)

    def test_a_flat_bed_is_good_all_over(self):
        found = forecast_print(PRINT.layer, PRINT.parts, bed(lambda x, y: 0 * x))
        self.assertAlmostEqual(found.shares["good"], 1.0)
        for one in found.parts:
            self.assertAlmostEqual(one.holds, 1.0)
        self.assertFalse(found.touches)
        self.assertLess(abs(found.best), 0.03)

    def test_the_small_tall_part_lets_go_first(self):
        found = forecast_print(PRINT.layer, PRINT.parts, bed(lambda x, y: 0 * x))
        self.assertAlmostEqual(PRINT.parts[found.first].area, np.pi * 16, delta=4)
        # a dent under another part makes it the first
        dent = forecast_print(
            PRINT.layer, PRINT.parts, bed(lambda x, y: -0.3 * ((abs(x - 50) < 30) & (abs(y - 50) < 30)))
        )
        self.assertAlmostEqual(PRINT.parts[dent.first].area, 900, delta=20)
        self.assertEqual(dent.parts[dent.first].touches, 0.0)
        self.assertIn("lets go first", " ".join(forecast_sentences(PRINT.parts, dent)))

    def test_the_worst_place_is_where_the_bump_is(self):
        relief = bed(lambda x, y: 0.25 * np.exp(-((x - 45) ** 2 + (y - 55) ** 2) / 50))
        found = forecast_print(PRINT.layer, PRINT.parts, relief)
        self.assertLess(np.hypot(found.worst.x - 45, found.worst.y - 55), 4)
        self.assertEqual(found.worst.band, "scrapes")
        self.assertTrue(found.touches)
        self.assertIn("touch the plate", " ".join(forecast_sentences(PRINT.parts, found)))

    def test_the_best_change_is_the_best_that_does_not_touch(self):
        relief = bed(lambda x, y: 0.05 + 0.0004 * (x - 100))
        found = forecast_print(PRINT.layer, PRINT.parts, relief)
        again = forecast_print(PRINT.layer, PRINT.parts, relief, found.best)
        self.assertAlmostEqual(again.shares["good"], found.best_share, delta=0.02)
        for change in np.linspace(-0.1, 0.2, 31):
            other = forecast_print(PRINT.layer, PRINT.parts, relief, float(change))
            if not other.touches:
                self.assertLessEqual(other.shares["good"], found.best_share + 0.02)
        self.assertGreater(again.least, 0.02)

    def test_gaps_that_are_known_are_taken(self):
        relief = bed(lambda x, y: 0.0003 * x)
        pieces = cut_in_pieces(PRINT.layer)
        gaps = gaps_over(pieces, relief)
        one = forecast_print(pieces, PRINT.parts, relief, 0.05, gaps)
        other = forecast_print(PRINT.layer, PRINT.parts, relief, 0.05)
        np.testing.assert_allclose(one.gap, other.gap)
        self.assertEqual(one.shares, other.shares)

    def test_nobody_trims_by_metres(self):
        with self.assertRaises(OutOfRangeError):
            forecast_print(PRINT.layer, PRINT.parts, bed(lambda x, y: 0 * x), float("nan"))


if __name__ == "__main__":
    unittest.main()
