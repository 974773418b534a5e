"""Clearance and near readings against libraries.

numpy.linalg.lstsq (a stiff plate on equal springs), scipy.interpolate.interpn (a soft plate that follows its screws),
shapely (places along a path), scikit-learn NearestNeighbors (which places are one).
"""

import unittest

import numpy as np
import shapely
from scipy.interpolate import interpn
from sklearn.neighbors import NearestNeighbors

from finchwort.core.first_layer import GROUND_STEP, along, rise_of_turns
from finchwort.core.printers import Bed
from finchwort.core.surveys import NEAR, join_near

BED = Bed(220, 200)
SCREWS = np.array([(10.0, 10.0), (210.0, 10.0), (210.0, 190.0), (10.0, 190.0)])


class TurnsTest(unittest.TestCase):
    def test_neither_a_stiff_nor_a_soft_plate_rises_more(self):
        rng = np.random.default_rng(11)
        x, y = (a.ravel() for a in np.meshgrid(np.linspace(0, 220, 23), np.linspace(0, 200, 21)))
        worst = 0.0
        for _ in range(200):
            moves = rng.normal(0, 0.3, 4)
            said = rise_of_turns(BED, [(px, py, m) for (px, py), m in zip(SCREWS, moves, strict=True)])
            rows = np.column_stack([np.ones(4), SCREWS])
            stiff = np.column_stack([np.ones(x.size), x, y]) @ np.linalg.lstsq(rows, moves, rcond=None)[0]
            middle = np.mean(moves)
            corners = np.array([[moves[0], moves[3]], [moves[1], moves[2]]])
            soft = interpn(
                ((10.0, 210.0), (10.0, 190.0)),
                corners,
                np.column_stack([x, y]),
                bounds_error=False,
                fill_value=None,
            )
            for rise in (stiff, soft):
                self.assertLessEqual((rise - middle).max(), said + 1e-9)
                worst = max(worst, float((rise - middle).max() / said))
        # the bound is no wild exaggeration either
        self.assertGreater(worst, 0.5)

    def test_one_screw_of_four_by_one(self):
        """Practice: moved by d a corner goes 3d/4 and the middle d/4, so it rises by d/2 against it, by little more than d at the most."""
        said = rise_of_turns(BED, [(*SCREWS[0], 1.0), *((*s, 0.0) for s in SCREWS[1:])])
        self.assertGreaterEqual(said, 0.5)
        self.assertLessEqual(said, 1.3)


class PathTest(unittest.TestCase):
    def test_places_along_a_path(self):
        rng = np.random.default_rng(3)
        for _ in range(50):
            corners = rng.uniform(0, 220, (rng.integers(2, 8), 2))
            line = shapely.LineString(corners)
            mine = along(corners)
            self.assertLess(max(line.distance(shapely.points(mine))), 1e-9)
            theirs = shapely.get_coordinates(shapely.segmentize(line, GROUND_STEP))
            self.assertEqual(len(mine), len(theirs))
            np.testing.assert_allclose(mine, theirs, atol=1e-9)


class NearTest(unittest.TestCase):
    def test_what_is_joined_lies_together_and_what_is_kept_apart(self):
        rng = np.random.default_rng(5)
        for spread in (3.0, 20.0, 200.0):
            x, y = rng.uniform(0, spread, (2, 400))
            kx, ky, _, said = join_near(x, y, np.zeros(400))
            near = NearestNeighbors(n_neighbors=1).fit(np.column_stack([kx, ky]))
            # every reading lies by a place that was kept, and nothing is lost
            self.assertLess(near.kneighbors(np.column_stack([x, y]))[0].max(), 1.5 * NEAR)
            self.assertEqual(said is None, len(kx) == 400)
            apart = NearestNeighbors(n_neighbors=2).fit(np.column_stack([x, y])).kneighbors()[0][:, 0]
            alone = apart >= NEAR
            self.assertTrue(set(zip(x[alone], y[alone], strict=True)) <= set(zip(kx, ky, strict=True)))


if __name__ == "__main__":
    unittest.main()
