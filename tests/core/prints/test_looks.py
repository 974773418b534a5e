"""The clock of looks: when a print is looked at, and what became of each look."""

import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.prints import LookKind, LookState, coming, plan_looks, read_clock, second_look, wanted
from finchwort.core.prints.looks import HEATING, LONGEST_HEATING

MINUTES = st.floats(0.1, 3000)
EVERY = st.sampled_from([60.0, 75.0, 90.0, 105.0, 120.0])


def states(clock):
    return [(one.kind.value, one.state.value) for one in clock]


class PlanTest(unittest.TestCase):
    def kinds(self, *args):
        return [one.kind.value for one in plan_looks(*args)]

    def test_the_clock_of_the_trade(self):
        """First lines, first layer, five minutes, ten to fifteen, then every hour or two (common practice)."""
        planned = plan_looks(3.0, 300.0, 120.0, 0.0)
        self.assertEqual([one.due for one in planned], [0.0, 3.0, 5.0, 10.0, 130.0, 250.0])
        self.assertEqual(planned[3].late, 15.0)

    def test_a_first_layer_that_ends_at_five_minutes_is_one_look_and_not_two(self):
        self.assertEqual(self.kinds(5.0, 60.0, 60.0, 0.0), ["lines", "layer", "quarter"])

    def test_a_first_layer_that_ends_in_the_quarter_of_an_hour_is_its_look(self):
        self.assertEqual(self.kinds(12.0, 60.0, 90.0, 0.0), ["lines", "five", "layer"])

    def test_a_long_first_layer_is_looked_at_while_it_is_laid(self):
        self.assertEqual(self.kinds(40.0, 90.0, 90.0, 0.0), ["lines", "five", "quarter", "layer"])

    def test_a_short_print_is_not_looked_at_beyond_its_end(self):
        self.assertEqual(self.kinds(2.0, 8.0, 60.0, 0.0), ["lines", "layer", "five"])

    def test_nobody_knows_how_long(self):
        planned = plan_looks(None, None, 60.0, 500.0)
        self.assertGreater(planned[-1].due, 500.0)
        self.assertLessEqual(planned[-1].due, 560.0)

    @given(st.none() | MINUTES, st.none() | MINUTES, EVERY, st.floats(0, 3000))
    def test_in_order_of_time_and_apart(self, layer, total, every, until):
        planned = plan_looks(layer, total, every, until)
        due = [one.due for one in planned]
        self.assertEqual(due, sorted(due))
        self.assertEqual(planned[0].kind, LookKind.LINES)
        self.assertTrue(all(one.late > one.due for one in planned))
        if total is not None:
            self.assertTrue(all(one.due < total for one in planned[1:]))
        later = [one.due for one in planned if one.kind is LookKind.LATER]
        self.assertTrue(all(abs(b - a - every) < 1e-6 for a, b in pairwise(later)))
        # nothing stays without a look for longer than that
        end = total if total is not None else until
        times = sorted([*due, end])
        self.assertTrue(all(b - a <= every + 15 for a, b in pairwise(times) if b <= end))


class ClockTest(unittest.TestCase):
    planned = plan_looks(3.0, 200.0, 90.0, 0.0)

    def test_at_the_start_the_first_lines_are_waited_for(self):
        clock = read_clock(self.planned, (), 0.0)
        self.assertEqual(wanted(clock).kind, LookKind.LINES)
        self.assertEqual(wanted(clock).late, LONGEST_HEATING)

    def test_all_is_reckoned_from_the_first_look(self):
        clock = read_clock(self.planned, (7.0,), 7.5)
        self.assertEqual([one.due for one in clock[1:4]], [10.0, 12.0, 17.0])
        self.assertIsNone(wanted(clock))
        self.assertEqual(coming(clock).kind, LookKind.LAYER)

    def test_a_first_look_long_after_the_start_is_not_the_first_line(self):
        clock = read_clock(self.planned, (40.0,), 41.0)
        self.assertEqual(clock[1].due, HEATING + 3.0)
        self.assertEqual(
            states(clock)[:4],
            [("lines", "missed"), ("layer", "missed"), ("five", "missed"), ("quarter", "done")],
        )
        self.assertTrue(clock[3].was_late)

    def test_one_look_does_for_two_that_lie_together(self):
        clock = read_clock(self.planned, (2.0, 6.5), 7.0)
        self.assertEqual(states(clock)[:3], [("lines", "done"), ("layer", "done"), ("five", "done")])

    def test_a_look_between_counts_for_nothing_and_hides_nothing(self):
        clock = read_clock(self.planned, (2.0, 5.5, 8.0, 10.2), 12.5)
        self.assertEqual(wanted(clock).kind, LookKind.QUARTER)

    def test_late_is_late(self):
        clock = read_clock(self.planned, (2.0, 5.5, 8.0), 18.0)
        self.assertEqual(wanted(clock).state, LookState.LATE)

    def test_of_two_that_are_due_the_newer_is_asked_for(self):
        clock = read_clock(self.planned, (2.0,), 13.0)
        self.assertEqual(wanted(clock).kind, LookKind.QUARTER)

    @given(
        st.none() | MINUTES,
        st.none() | MINUTES,
        EVERY,
        st.lists(st.floats(0, 900), max_size=12),
        st.floats(0, 900),
    )
    def test_no_look_is_done_before_its_time_or_by_nobody(self, layer, total, every, looks, now):
        looks = tuple(sorted(one for one in looks if one <= now))
        clock = read_clock(plan_looks(layer, total, every, now), looks, now)
        for one in clock:
            if one.state is LookState.DONE:
                self.assertIn(one.at, looks)
                self.assertTrue(one.kind is LookKind.LINES or one.at >= one.due - 15.0)
            if one.state in (LookState.DUE, LookState.LATE):
                self.assertLessEqual(one.due, now)
            if one.state is LookState.TO_COME:
                self.assertGreater(one.due, now)
        if not looks:
            self.assertFalse([one for one in clock if one.state in (LookState.DONE, LookState.MISSED)])

    @given(EVERY, st.integers(1, 8))
    def test_who_looks_when_asked_misses_nothing(self, every, hours):
        """A person who looks whenever something is wanted: every look is done, and none is late."""
        planned = plan_looks(3.0, 60.0 * hours, every, 0.0)
        looks = []
        for now in range(60 * hours):
            if wanted(read_clock(planned, tuple(looks), float(now))):
                looks.append(float(now))
        clock = read_clock(planned, tuple(looks), 60.0 * hours)
        self.assertEqual({one.state for one in clock}, {LookState.DONE})
        self.assertFalse([one for one in clock if one.was_late])


class SecondLookTest(unittest.TestCase):
    def test_three_minutes_after_a_doubt(self):
        planned = plan_looks(3.0, 200.0, 90.0, 0.0)
        for now, state in ((6.0, LookState.TO_COME), (9.0, LookState.DUE), (11.5, LookState.LATE)):
            again = second_look(read_clock(planned, (2.0, 5.5), now), 5.5, now)
            self.assertEqual((again.kind, again.state, again.due), (LookKind.LAYER, state, 8.5))
