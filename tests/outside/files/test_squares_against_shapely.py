"""Squares that lines cover, against shapely's own outlines of the same lines."""

import unittest

import numpy as np
import shapely
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.files.squares import Grid, drawn

PLACE = st.tuples(st.floats(2, 18), st.floats(2, 12))


class SquaresAgainstShapelyTest(unittest.TestCase):
    """Source: shapely, `buffer` with round ends."""

    @given(st.lists(st.tuples(PLACE, PLACE), min_size=1, max_size=6), st.floats(0.3, 2.0))
    def test_squares_whose_middle_lies_within_reach(self, lines, reach):
        grid = Grid(0.0, 0.0, 0.25, (60, 80))
        start, end = (np.array([line[i] for line in lines]) for i in (0, 1))
        found = drawn(grid, start, end, reach)
        x, y = np.meshgrid((np.arange(80) + 0.5) * 0.25, (np.arange(60) + 0.5) * 0.25)
        middles = shapely.points(x, y)
        apart = np.min([shapely.distance(middles, shapely.LineString(line)) for line in lines], axis=0)
        # what lies on the very edge may fall to either side
        self.assertTrue(found[apart < reach - 1e-6].all())
        self.assertFalse(found[apart > reach + 1e-6].any())

    def test_area_of_a_disc_and_a_bar(self):
        grid = Grid(0.0, 0.0, 0.02, (600, 1100))
        start, end = np.array([[4.0, 6.0]]), np.array([[18.0, 7.0]])
        outline = shapely.LineString([start[0], end[0]]).buffer(1.5, quad_segs=64)
        self.assertAlmostEqual(
            drawn(grid, start, end, 1.5).sum() * 0.02**2, outline.area, delta=outline.area / 2000
        )
        dot = drawn(grid, start, start, 2.0).sum() * 0.02**2
        self.assertAlmostEqual(dot, np.pi * 4, delta=0.01)

    def test_many_lines_are_the_union_of_each(self):
        rng = np.random.default_rng(3)
        start = rng.uniform(1, 19, (4000, 2)) * (1, 0.7)
        end = np.clip(start + rng.normal(0, 0.6, (4000, 2)), 0, (20, 15))
        grid = Grid(0.0, 0.0, 0.1, (150, 200))
        once = np.zeros(grid.shape, dtype=bool)
        for i in range(0, 4000, 500):
            once |= drawn(grid, start[i : i + 500], end[i : i + 500], 0.08)
        self.assertTrue(np.array_equal(drawn(grid, start, end, 0.08), once))

    def test_a_thin_line_has_no_gaps(self):
        grid = Grid(0.0, 0.0, 1.0, (30, 30))
        found = drawn(grid, np.array([[2.0, 3.0]]), np.array([[27.0, 21.0]]), 0.01)
        self.assertTrue(found[:, 3:26].any(axis=0).all())
