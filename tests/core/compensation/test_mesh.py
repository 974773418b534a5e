"""Meshes, fade, when a mesh is out of date; drift."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.compensation import (
    Mesh,
    advised_fade,
    compensate,
    compensate_relief,
    fade_out,
    interpolate,
    judge_method,
    left_between,
    make_mesh,
    mesh_errors,
)
from finchwort.core.surveys import Survey, make_relief
from finchwort.core.visits import DriftStep, forecast_drift, individuals_chart
from finchwort.formats.mesh import mesh_commands, mesh_table
from finchwort.knowledge.dialect import mesh_commands as known
from tests.fixtures.beds import BED, bed


def domed(n=7, size=0.2, noise=0.0, seed=0):
    survey = bed(0.1, -0.05, noise=noise, n=n, seed=seed)
    u, v = (survey.x - 110) / 95, (survey.y - 110) / 95
    return survey.with_heights(survey.height + size * (1 - (u**2 + v**2) / 2))


class ReliefTest(unittest.TestCase):
    """What the nozzle sees between the points of a mesh."""

    def test_a_finer_mesh_leaves_less_of_a_dome_and_nothing_at_its_points(self):
        survey = domed(9)
        relief = make_relief(survey, BED)
        inside = (relief.xs >= 15) & (relief.xs <= 205)
        left = []
        for side in (3, 5, 9):
            after = compensate_relief(relief, make_mesh(survey, side, side))
            left.append(np.ptp(after.heights[np.ix_(inside, inside)]))
        self.assertTrue(left[0] > left[1] > left[2])
        # a chord over a parabola is off by curvature times width squared over eight
        width = 190 / 2
        curvature = 0.2 / 95**2
        self.assertAlmostEqual(left[0], 2 * curvature * width**2 / 8, delta=0.01)

    def test_the_mean_moves_everything_and_none_nothing(self):
        survey = domed(5)
        relief, mesh = make_relief(survey, BED), make_mesh(survey, 5, 5)
        mean = compensate_relief(relief, mesh, "mean")
        np.testing.assert_allclose(relief.heights - mean.heights, mesh.heights.mean())
        self.assertIs(compensate_relief(relief, mesh, "none"), relief)


class MeshTest(unittest.TestCase):
    def test_readings_on_nodes_are_taken_as_they_are(self):
        survey = domed(5, noise=0.02)
        mesh = make_mesh(survey, 5, 5)
        np.testing.assert_allclose(mesh.heights.ravel(), survey.height, atol=1e-12)
        self.assertAlmostEqual(compensate(survey, mesh).spread, 0, places=9)

    @settings(max_examples=30, deadline=None)
    @given(st.floats(-1, 1), st.floats(-1, 1), st.sampled_from(["bilinear", "bicubic"]), st.integers(2, 7))
    def test_a_plane_is_followed_exactly(self, a, b, method, side):
        survey = bed(a, b, n=5)
        mesh = make_mesh(survey, side, side)
        self.assertLess(compensate(survey, mesh, method=method).spread, 1e-9)

    def test_beyond_the_points_the_rim_is_carried_on(self):
        mesh = Mesh([0, 10], [0, 10], [[0, 1], [2, 3]])
        for method in ("bilinear", "bicubic"):
            np.testing.assert_allclose(interpolate(mesh, [-5, 99], [-5, 99], method), [0, 3])

    def test_more_points_leave_less(self):
        survey = domed(11, size=0.3)
        left = [np.sqrt(np.mean(left_between(survey, n, n) ** 2)) for n in (2, 3, 5)]
        self.assertEqual(left, sorted(left, reverse=True))
        np.testing.assert_allclose(mesh_errors([survey], 3, 3), left_between(survey, 3, 3))

    def test_curved_beats_straight_on_a_dome_with_few_points(self):
        survey = domed(11, size=0.3)
        straight, curved = (
            np.sqrt(np.mean(left_between(survey, 4, 4, m) ** 2)) for m in ("bilinear", "bicubic")
        )
        self.assertLess(curved, straight)
        self.assertIn("Bicubic leaves less", judge_method([("bilinear", straight), ("bicubic", curved)]))

    def test_mean_only_moves_all_and_mends_nothing(self):
        survey = domed()
        after = compensate(survey, None, "mean")
        self.assertAlmostEqual(after.spread, survey.spread)
        self.assertAlmostEqual(after.height.mean(), 0)
        self.assertIs(compensate(survey, None, "none"), survey)

    def test_bad_meshes(self):
        for kind, args in (
            (errors.ChoiceError, ([0, 1], [0, 1], [[0, 1]])),
            (errors.OutOfRangeError, ([0], [0, 1], [[0], [1]])),
            (errors.OutOfRangeError, ([1, 0], [0, 1], [[0, 1], [2, 3]])),
            (errors.NonFiniteError, ([0, 1], [0, 1], [[0, 1], [2, math.nan]])),
        ):
            with self.assertRaises(kind):
                Mesh(*args)
        with self.assertRaises(errors.OutOfRangeError):
            make_mesh(domed(), 1, 5)
        with self.assertRaises(errors.OutOfRangeError):
            left_between(domed(), 99, 5)
        with self.assertRaises(errors.ChoiceError):
            interpolate(make_mesh(domed(), 3, 3), [0], [0], "by feel")
        with self.assertRaises(errors.ChoiceError):
            compensate(domed(), None)

    def test_text_for_the_machine(self):
        mesh = make_mesh(domed(5), 3, 2)
        commands = mesh_commands(mesh, known("open"), 10, float(mesh.heights.mean()))
        lines = [line for line in commands.splitlines() if not line.startswith(";")]
        self.assertEqual(lines[0], "G28")
        self.assertEqual(len(lines), 1 + 6 + 3)
        self.assertTrue(lines[1].startswith("M421 I0 J0 Z"))
        self.assertEqual(lines[-3:], ["M420 S1", "M420 Z10.0", "M500"])
        self.assertIn("maker's manual", commands)
        rows = mesh_table(mesh).splitlines()[2:]
        self.assertEqual([float(r.split("\t")[0]) for r in rows], [205, 15])
        self.assertAlmostEqual(float(rows[-1].split("\t")[1]), mesh.heights[0, 0], places=3)


class FadeTest(unittest.TestCase):
    @given(st.floats(0, 1), st.floats(0.05, 0.4), st.floats(1, 50))
    def test_layers_add_up_to_what_is_faded(self, deviation, layer, height):
        fade = fade_out(deviation, layer, height)
        self.assertAlmostEqual(fade.thickness * height / layer, deviation)

    def test_never_and_nonsense(self):
        self.assertEqual(fade_out(0.3, 0.2, 0).thickness, 0)
        self.assertGreaterEqual(advised_fade(0.5), 25)
        for height in (-1, 0.1, 5000):
            with self.assertRaises(errors.OutOfRangeError):
                fade_out(0.3, 0.2, height)
        with self.assertRaises(errors.NonFiniteError):
            fade_out(math.nan, 0.2, 10)


class DriftTest(unittest.TestCase):
    def test_a_jump_is_marked(self):
        chart = individuals_chart([0.1, 0.12, 0.09, 0.11, 0.1, 0.8, 0.1, 0.12, 0.09, 0.1])
        self.assertEqual(chart.outside, (5,))
        self.assertEqual(chart.jumps, (5, 6))
        with self.assertRaises(errors.TooFewReadingsError):
            individuals_chart([1, 2, 3])
        with self.assertRaises(errors.NonFiniteError):
            individuals_chart([1, 2, 3, 4, math.inf])

    def test_the_forecast_finds_the_pace_it_was_made_with(self):
        """Of forecasts from a known random walk nine in ten hold the true wait."""
        rng, q, held, about = np.random.default_rng(5), 0.0004, 0, []
        true = math.pi * 0.1**2 / (8 * q)
        for _ in range(300):
            days = rng.uniform(10, 40, 12)
            steps = [DriftStep(d, tuple(rng.normal(0, math.sqrt(q * d), 2))) for d in days]
            found = forecast_drift(steps, 0.2)
            held += found.soonest <= true <= found.latest
            about.append(found.days)
        self.assertGreater(held / 300, 0.84)
        self.assertLess(held / 300, 0.99)
        self.assertLess(abs(np.median(about) / true - 1), 0.15)

    def test_only_when_the_data_carry_it(self):
        few = forecast_drift([DriftStep(20, (0.1, 0.1))] * 4, 0.2)
        self.assertIsNone(few.days)
        self.assertIn("1 more visit", few.sentence)
        still = forecast_drift([DriftStep(20, (0.001, 0.0), (0.01, 0.01))] * 8, 0.2)
        self.assertIsNone(still.days)
        self.assertIn("not moved", still.sentence)
        with self.assertRaises(errors.OutOfRangeError):
            forecast_drift([DriftStep(-1, (0, 0))], 0.2)

    def test_a_jump_with_a_cause_of_its_own_is_left_out(self):
        rng = np.random.default_rng(2)
        steps = [DriftStep(20, tuple(rng.normal(0, 0.05, 2))) for _ in range(10)]
        calm = forecast_drift(steps, 0.2)
        jumped = forecast_drift([*steps, DriftStep(20, (1.5, -1.2))], 0.2)
        self.assertAlmostEqual(calm.days, jumped.days)
        self.assertIn("left out", jumped.sentence)

    def test_a_thicker_layer_waits_longer(self):
        steps = [DriftStep(20, (0.05 * (-1) ** i, 0.04)) for i in range(8)]
        self.assertAlmostEqual(forecast_drift(steps, 0.4).days / forecast_drift(steps, 0.2).days, 4)


class SurveyTypeTest(unittest.TestCase):
    def test_scattered_readings_make_a_mesh_too(self):
        rng = np.random.default_rng(1)
        x, y = rng.uniform(0, 200, 60), rng.uniform(0, 200, 60)
        survey = Survey(x, y, 0.001 * x - 0.0005 * y)
        left = compensate(survey, make_mesh(survey, 5, 5))
        self.assertLess(left.spread, 1e-6)
