import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.base.geometry import is_line
from finchwort.core.surveys import MAX_READINGS, Survey
from finchwort.messages.errors import sentence


class SurveyTest(unittest.TestCase):
    def test_grid_rows_run_from_front_to_back(self):
        survey = Survey.from_grid([0, 100], [0, 50, 90], [[1, 2], [3, 4], [5, 6]])
        at = {(x, y): h for x, y, h in zip(survey.x, survey.y, survey.height, strict=True)}
        self.assertEqual(at[(100, 0)], 2)
        self.assertEqual(at[(0, 90)], 5)
        self.assertEqual(len(survey), 6)
        self.assertEqual(survey.spread, 5)

    def test_readings_cannot_be_changed(self):
        survey = Survey([0, 1, 0], [0, 0, 1], [0, 0, 0])
        with self.assertRaises(ValueError):
            survey.height[0] = 1

    def test_the_givers_own_list_stays_his(self):
        heights = np.zeros(3)
        survey = Survey([0, 1, 0], [0, 0, 1], heights)
        heights[0] = 9
        self.assertEqual(survey.height[0], 0)

    def test_each_bad_input_has_its_error(self):
        ok = ([0, 100, 0], [0, 0, 100], [0, 0, 0])
        cases = [
            (errors.TooFewReadingsError, [0, 1], [0, 1], [0, 0]),
            (errors.TooFewReadingsError, [], [], []),
            (errors.NonFiniteError, ok[0], ok[1], [0, np.nan, 0]),
            (errors.NonFiniteError, [0, np.inf, 0], ok[1], ok[2]),
            (errors.OutOfRangeError, [0, 1e6, 0], ok[1], ok[2]),
            (errors.OutOfRangeError, ok[0], ok[1], [0, 120, 0]),
            (errors.OutOfRangeError, [0, 1], [0, 0, 1], [0, 0, 0]),
            (errors.DuplicateError, [0, 9, 0, 9], [0, 0, 9, 0], [0, 0, 0, 0]),
            (errors.CollinearError, [0, 1, 2], [0, 1, 2], [0, 0, 0]),
            (errors.CollinearError, [5, 5, 5], [0, 1, 2], [0, 0, 0]),
        ]
        for kind, x, y, z in cases:
            with self.subTest(kind=kind.__name__, x=x), self.assertRaises(kind) as caught:
                Survey(x, y, z)
            self.assertTrue(sentence(caught.exception).endswith((".", "?")))

    def test_too_many(self):
        n = MAX_READINGS + 1
        with self.assertRaises(errors.TooManyReadingsError):
            Survey(np.arange(n) / 10, np.arange(n) % 7, np.zeros(n))

    def test_error_is_a_value_error(self):
        self.assertTrue(issubclass(errors.CollinearError, ValueError))

    @given(
        st.floats(-3, 3),
        st.floats(0, 500),
        st.floats(0, 500),
        st.lists(st.floats(-200, 200), min_size=3, max_size=20, unique=True),
    )
    def test_points_on_any_line_are_a_line(self, angle, x0, y0, along):
        t = np.array(along)
        self.assertTrue(is_line(x0 + t * np.cos(angle), y0 + t * np.sin(angle)))

    def test_a_narrow_strip_is_no_line(self):
        self.assertFalse(is_line(np.array([0.0, 200, 0, 200]), np.array([0.0, 0, 5, 5])))
