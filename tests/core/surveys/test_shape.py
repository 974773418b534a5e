import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.printers import Bed
from finchwort.core.surveys import ShapeName, Survey, decompose
from tests.fixtures.strategies import surveys

BED = Bed(200, 160, origin="centre")
part = st.floats(-0.5, 0.5)


def make(tilt_x=0.0, tilt_y=0.0, bow_x=0.0, bow_y=0.0, twist=0.0, level=0.0, n=5):
    """Build the bed from the meaning of each term, not from the polynomials."""
    u, v = np.meshgrid(np.linspace(-1, 1, n), np.linspace(-1, 1, n))
    height = level + tilt_x * u / 2 + tilt_y * v / 2
    height = height + bow_x * (1 - u**2) + bow_y * (1 - v**2) + twist / 2 * u * v
    return Survey((u * 100).ravel(), (v * 80).ravel(), height.ravel())


class ShapeTest(unittest.TestCase):
    @given(part, part, part, part, part)
    def test_every_term_is_found_again(self, tx, ty, bx, by, tw):
        shape = decompose(make(tx, ty, bx, by, tw), BED)
        got = [shape.tilt_x, shape.tilt_y, shape.bow_x, shape.bow_y, shape.twist]
        np.testing.assert_allclose(got, [tx, ty, bx, by, tw], atol=1e-9)
        self.assertLess(shape.remainder_rms, 1e-9)
        self.assertEqual(shape.terms, 6)

    @given(surveys(least=12))
    def test_equals_a_plain_least_squares(self, survey):
        bed = Bed(240, 220)
        u, v = (survey.x - 120) / 120, (survey.y - 110) / 110
        basis = np.column_stack([np.ones_like(u), u, v, 1.5 * u**2 - 0.5, 1.5 * v**2 - 0.5, u * v])
        if np.linalg.matrix_rank(basis) < 6:
            return
        c = np.linalg.lstsq(basis, survey.height, rcond=None)[0]
        shape = decompose(survey, bed)
        got = [shape.tilt_x, shape.tilt_y, shape.bow_x, shape.bow_y, shape.twist]
        np.testing.assert_allclose(got, [2 * c[1], 2 * c[2], -1.5 * c[3], -1.5 * c[4], 2 * c[5]], atol=1e-5)

    def test_names(self):
        cases = {
            "flat": {},
            "dome": {"bow_x": 0.1, "bow_y": 0.12},
            "bowl": {"bow_x": -0.1, "bow_y": -0.08},
            "ridge_y": {"bow_x": 0.1},
            "ridge_x": {"bow_y": 0.1},
            "trough_y": {"bow_x": -0.1, "bow_y": 0.01},
            "trough_x": {"bow_y": -0.1},
            "saddle": {"bow_x": 0.1, "bow_y": -0.1},
            "twist": {"twist": 0.2},
        }
        for name, parts in cases.items():
            with self.subTest(name):
                shape = decompose(make(tilt_x=0.7, **parts), BED)
                self.assertEqual(shape.name, ShapeName(name))

    def test_one_bump_is_uneven(self):
        survey = make(n=7)
        heights = survey.height.copy()
        heights[10] += 0.3
        self.assertEqual(decompose(survey.with_heights(heights), BED).name, "uneven")

    def test_four_corners_show_twist_but_no_bow(self):
        shape = decompose(Survey([-100, 100, 100, -100], [-80, -80, 80, 80], [0.1, -0.1, 0.1, -0.1]), BED)
        self.assertAlmostEqual(shape.twist, 0.2)
        self.assertAlmostEqual(shape.bow_x, 0)
        self.assertEqual(shape.terms, 4)

    def test_three_readings_are_a_plane(self):
        shape = decompose(Survey([-100, 100, 0], [-80, -80, 80], [0, 0.2, 0.1]), BED)
        self.assertEqual((shape.terms, shape.name), (3, "flat"))
        self.assertAlmostEqual(shape.tilt_x, 0.2)

    def test_twist_is_positive_when_front_left_is_high(self):
        shape = decompose(Survey([-100, 100, 100, -100], [-80, -80, 80, 80], [0.2, 0, 0.2, 0]), BED)
        self.assertGreater(shape.twist, 0)
