"""How low a tip may go: what happened since, and the ways between places."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base.errors import NonFiniteError, UnknownGroundError
from finchwort.core.first_layer import (
    BY_DOUBT,
    GONE,
    MARGIN,
    TIP,
    TOUCH,
    UNKNOWN_STOP,
    Bead,
    Ground,
    along,
    keeps_clear,
    looked_ground,
    make_test_print,
    measured_ground,
    rise_of_turns,
    safe_height,
    tip_doubt,
    without_dents,
)
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey, make_relief
from finchwort.core.visits import Happened
from finchwort.messages.remarks import sentences, words
from tests.fixtures.prints import setting

BED = Bed(200, 160)
CORNERS = [(5.0, 5.0), (195.0, 5.0), (195.0, 155.0), (5.0, 155.0)]


def flat(height=0.0, side=5):
    x, y = (a.ravel() for a in np.meshgrid(np.linspace(10, 190, side), np.linspace(10, 150, side)))
    return Survey(x, y, np.full(x.size, height))


def ground(survey, *happened, **more):
    return measured_ground(BED, survey, make_relief(survey, BED), happened, **more)


class TurnsTest(unittest.TestCase):
    @given(st.lists(st.floats(-2, 2), min_size=3, max_size=4), st.booleans())
    def test_no_plate_rises_more_than_is_said(self, moves, soft):
        """A stiff plate by least squares, a soft one by straight lines from screw to screw: both worked out here."""
        places = CORNERS[: len(moves)] if len(moves) == 4 else [CORNERS[0], CORNERS[1], (100.0, 155.0)]
        said = rise_of_turns(BED, [(x, y, m) for (x, y), m in zip(places, moves, strict=True)])
        x, y = (a.ravel() for a in np.meshgrid(np.linspace(0, 200, 21), np.linspace(0, 160, 21)))
        x, y = np.append(x, 100), np.append(y, 80)
        if soft and len(moves) == 4:
            s, t = (x - 5) / 190, (y - 5) / 150
            s, t = np.clip(s, 0, 1), np.clip(t, 0, 1)
            shares = [(1 - s) * (1 - t), s * (1 - t), s * t, (1 - s) * t]
            rise = sum(share * m for share, m in zip(shares, moves, strict=True))
        else:
            rows = np.array([[1, px, py] for px, py in places])
            c, a, b = np.linalg.lstsq(rows, np.array(moves), rcond=None)[0]
            rise = c + a * x + b * y
        self.assertLessEqual((rise - rise[-1]).max(), said + 1e-9)

    def test_nothing_turned_is_nothing(self):
        self.assertEqual(rise_of_turns(BED, [(5, 5, 0.0)]), 0.0)
        self.assertEqual(rise_of_turns(BED, []), 0.0)
        with self.assertRaises(NonFiniteError):
            rise_of_turns(BED, [(5, 5, float("nan"))])

    def test_several_turnings_add_up(self):
        once = ground(flat(), Happened("turned", ((5, 5, 0.2),)))
        twice = ground(flat(), Happened("turned", ((5, 5, 0.2),)), Happened("turned", ((5, 5, -0.2),)))
        self.assertAlmostEqual(twice.allowance - once.allowance, once.allowance - ground(flat()).allowance)
        self.assertIn("Knobs were turned", words(twice.reasons[0]))


class GroundTest(unittest.TestCase):
    def test_after_anything_nobody_can_bound_nothing_is_cleared(self):
        for what in GONE:
            found = ground(flat(), Happened(what))
            self.assertIn("Measure the bed again", words(found.refused))
            with self.assertRaises(UnknownGroundError):
                make_test_print("patches", setting(BED), ground=found)
            walk = make_test_print("paper_walk", setting(BED), ground=found)
            self.assertEqual({spot.z for spot in walk.spots}, {UNKNOWN_STOP})
            self.assertGreaterEqual(walk.travel, UNKNOWN_STOP)
        for what in ("material", "nozzle"):
            self.assertIsNone(ground(flat(), Happened(what)).refused)

    def test_what_changes_the_tip_is_told(self):
        self.assertIsNone(tip_doubt(["material", "turned"]))
        for what in TIP:
            self.assertIn("Set the Z offset", words(tip_doubt([what])))
            self.assertTrue(looked_ground(BED, [Happened(what)]).refused)

    def test_between_and_beyond_readings_the_bed_may_be_higher(self):
        coarse, fine = ground(flat(side=3)), ground(flat(side=9))
        at = np.array([(55.0, 45.0)])
        self.assertGreater(coarse.heights(at)[0], fine.heights(at)[0])
        self.assertGreater(fine.heights(np.array([(0.0, 0.0)]))[0], fine.heights(np.array([(10.0, 10.0)]))[0])
        self.assertGreater(fine.heights(np.array([(10.0, 10.0)]))[0], 0)

    def test_a_middle_nobody_measured(self):
        corners = Survey(*np.array([(10, 10), (190, 10), (190, 150), (10, 150)]).T, [0.0, 0.0, 0.0, 0.0])
        found = ground(corners)
        self.assertIn("The middle was not measured", " ".join(sentences(found.reasons)))
        self.assertGreater(found.allowance, ground(flat()).allowance + 0.25)

    def test_a_single_reading_that_is_too_low_makes_no_room(self):
        survey = flat()
        heights = survey.height.copy()
        heights[7] = -0.4
        kept = without_dents(survey.with_heights(heights))
        self.assertEqual(len(kept), len(survey) - 1)
        heights[7] = 0.4
        self.assertEqual(len(without_dents(survey.with_heights(heights))), len(survey))

    def test_what_often_moves_a_corner_is_kept_clear_of(self):
        plain = ground(flat()).allowance
        for what in ("pried", "lifted", "belts"):
            found = ground(flat(), Happened(what))
            self.assertIsNone(found.refused)
            self.assertAlmostEqual(found.allowance, plain + BY_DOUBT)
            self.assertIn("more are kept clear", " ".join(sentences(found.reasons)))
            felt = looked_ground(BED, [Happened(what)])
            self.assertAlmostEqual(felt.allowance, looked_ground(BED).allowance + BY_DOUBT)
        # prying ten parts off is one doubt, prying and lifting are two
        many = ground(flat(), *[Happened("pried")] * 10)
        self.assertAlmostEqual(many.allowance, plain + BY_DOUBT)
        self.assertAlmostEqual(
            ground(flat(), Happened("pried"), Happened("lifted")).allowance, plain + 2 * BY_DOUBT
        )

    def test_warmth_and_age(self):
        cold = ground(flat(), warmth=(22.0, 60.0))
        old = ground(flat(), days=200)
        for found in (cold, old):
            self.assertAlmostEqual(found.allowance, ground(flat()).allowance + 0.1)
            self.assertEqual(len(found.reasons), 1)
        self.assertEqual(ground(flat(), warmth=(None, 60.0)).reasons, ())

    @given(st.floats(-1, 1), st.floats(-0.3, 0.3))
    def test_whatever_zero_the_readings_are_counted_from(self, datum, zero):
        a, b = ground(flat(), zero=zero), ground(flat(datum), zero=zero)
        self.assertAlmostEqual(a.highest(), b.highest())
        self.assertAlmostEqual(a.highest() + zero, ground(flat()).highest())

    @given(st.lists(st.tuples(st.floats(0, 200), st.floats(0, 160)), min_size=1, max_size=6))
    def test_a_path_is_looked_at_everywhere(self, corners):
        path = np.array(corners)
        seen = along(path)
        self.assertTrue(np.allclose(seen[-1], path[-1]) and np.allclose(seen[0], path[0]))
        if len(seen) > 1:
            self.assertLessEqual(np.hypot(*np.diff(seen, axis=0).T).max(), 2.0 + 1e-9)

    def test_ways_go_above_the_highest_ground(self):
        """A walk for paper once crossed a hump 0.77 mm below its top."""
        survey = flat()
        hump = np.exp(-((survey.x - 55) ** 2 + (survey.y - 45) ** 2) / 2 / 30**2)
        found = ground(survey.with_heights(1.8 * hump))
        made = make_test_print("paper_walk", setting(BED, lift=1.0), ground=found)
        self.assertGreaterEqual(made.travel, found.highest() + MARGIN - 1e-3)
        self.assertGreater(made.travel, 2.5)
        self.assertEqual(make_test_print("paper_walk", setting(BED, lift=5.0)).travel, 5.0)

    @given(st.floats(0.5, 50), st.floats(-2, 20))
    def test_safe_height(self, lift, high):
        found = safe_height(lift, high)
        self.assertGreaterEqual(found, lift - 1e-3)
        self.assertTrue(keeps_clear(found, high))
        self.assertFalse(keeps_clear(high + TOUCH - 1e-9, high))

    def test_below_zero_only_in_words(self):
        made = make_test_print("ladder", setting(BED), shifts=(-0.2, -0.25), ground=Ground(zero=0.3))
        self.assertLess(min(spot.z for spot in made.spots), 0)
        self.assertIn("goes down to Z −0.05 mm", " ".join(sentences(made.cautions)))
        self.assertEqual(
            make_test_print("ladder", setting(BED, bead=Bead(0.42, 0.2)), shifts=(0.1, 0)).cautions, ()
        )


if __name__ == "__main__":
    unittest.main()
