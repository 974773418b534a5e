"""Screws against ISO 261 and common practice."""

import unittest

import numpy as np

from finchwort.core.base.wording import seen_direction
from finchwort.core.printers import Screw
from finchwort.core.surveys import Survey, fit_plane
from finchwort.core.tramming import plan_turns, plate_response, predict
from finchwort.knowledge import threads


def square(pitch=0.7, side=200.0):
    corners = [(0, 0), (side, 0), (side, side), (0, side)]
    names = ["front left", "front right", "back right", "back left"]
    return [Screw(n, x, y, pitch) for n, (x, y) in zip(names, corners, strict=True)]


class ThreadsTest(unittest.TestCase):
    def test_coarse_pitches_of_iso_261(self):
        """ISO 261, coarse pitch: M2.5 0.45, M3 0.5, M4 0.7, M5 0.8, M6 1.0 mm."""
        pitch = {t.name: t.pitch for t in threads()}
        for name, expected in {"M2.5": 0.45, "M3": 0.5, "M4": 0.7, "M5": 0.8, "M6": 1.0}.items():
            self.assertEqual(pitch[name], expected)

    def test_further_coarse_pitches(self):
        """ISO 261, coarse pitch, from memory: M3.5 0.6, M8 1.25 mm."""
        pitch = {t.name: t.pitch for t in threads()}
        self.assertEqual((pitch["M3.5"], pitch["M8"]), (0.6, 1.25))

    def test_quarter_turn_of_m4(self):
        """A quarter turn of M4 moves 0.175 mm: pitch 0.7 (ISO 261) divided by four."""
        screw = Screw("a", 0, 0, 0.7)
        self.assertAlmostEqual(abs(screw.travel) / 4, 0.175)


class FourSpringsTest(unittest.TestCase):
    def test_influence_of_one_of_four_equal_springs(self):
        """Rigid plate, four equal springs: 3/4 here, 1/4 beside, -1/4 across.

        Derived: least squares of a plane through four points; numpy repeats it here.
        """
        posts = square()
        places = np.array([[s.x, s.y, 1.0] for s in posts])
        for i in range(4):
            move = np.zeros(4)
            move[i] = 1.0
            ours = places @ (plate_response(posts) @ move)
            theirs = places @ np.linalg.lstsq(places, move, rcond=None)[0]
            np.testing.assert_allclose(ours, theirs, atol=1e-12)
            self.assertAlmostEqual(ours[i], 0.75)
            self.assertAlmostEqual(ours[(i + 1) % 4], 0.25)
            self.assertAlmostEqual(ours[(i + 2) % 4], -0.25)
            self.assertAlmostEqual(ours[(i + 3) % 4], 0.25)

    def test_three_points_define_the_plane_exactly(self):
        posts = square()[:3]
        move = np.array([0.1, -0.3, 0.2])
        places = np.array([[s.x, s.y, 1.0] for s in posts])
        np.testing.assert_allclose(places @ (plate_response(posts) @ move), move, atol=1e-12)

    def test_adjusted_along_one_plane_they_do_not_fight(self):
        posts = square()
        move = np.array([0.1 + 0.001 * s.x - 0.002 * s.y for s in posts])
        places = np.array([[s.x, s.y, 1.0] for s in posts])
        np.testing.assert_allclose(places @ (plate_response(posts) @ move), move, atol=1e-12)


class SignsTest(unittest.TestCase):
    def test_tightening_lowers_the_corner_and_opens_the_gap(self):
        """Common practice: tightening compresses the spring and pulls the corner down."""
        posts = square()
        x, y = np.array([s.x for s in posts]), np.array([s.y for s in posts])
        after = predict(Survey(x, y, np.zeros(4)), posts, [1, 0, 0, 0])
        self.assertAlmostEqual(after.height[0], -0.7 * 0.75)

    def test_a_right_hand_thread_tightens_clockwise_from_the_knobs_end(self):
        """Common practice; from above, through the plate, it is the other way round."""
        self.assertEqual(seen_direction(0.25, "right", "face"), "clockwise")
        self.assertEqual(seen_direction(0.25, "right", "behind"), "counterclockwise")


class MeanTest(unittest.TestCase):
    def test_mean_of_a_symmetric_sample_of_a_plane_is_its_centre(self):
        """Common practice and arithmetic: mean-only compensation takes out no tilt."""
        x, y = np.meshgrid(np.linspace(10, 210, 5), np.linspace(10, 190, 4))
        survey = Survey(x.ravel(), y.ravel(), (0.003 * x - 0.001 * y + 0.2).ravel())
        centre = fit_plane(survey).plane.at(110, 100)
        self.assertAlmostEqual(survey.height.mean(), float(centre), places=12)

    def test_holding_the_centre_keeps_that_mean(self):
        x, y = np.meshgrid(np.linspace(10, 190, 5), np.linspace(10, 190, 5))
        survey = Survey(x.ravel(), y.ravel(), (0.004 * x + 0.001 * y).ravel())
        posts = [Screw(s.name, s.x, s.y, s.pitch, divisions=64) for s in square()]
        plan = plan_turns(survey, posts, "centre", centre=(100, 100), repeatability=0.0)
        exact = predict(survey, posts, [t.exact for t in plan.turns])
        self.assertAlmostEqual(exact.height.mean(), survey.height.mean(), places=9)
