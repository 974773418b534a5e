"""Paths bent to a bed, and what speaks against copies of a file."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base.errors import CoreError
from finchwort.core.base.remarks import remark
from finchwort.core.files import (
    ROLES,
    Bend,
    Change,
    Command,
    CopyChange,
    LineRole,
    Shift,
    Target,
    Told,
    bend_refusals,
    check_change,
    cut_in_pieces,
    cut_lines,
    lowest_fade,
    plan_bend,
)
from finchwort.core.files.bending import STRAYS
from finchwort.core.surveys import Relief
from finchwort.core.visits import Standing
from finchwort.messages.errors import sentence
from finchwort.messages.remarks import words
from tests.fixtures.print_files import printed
from tests.fixtures.slicer import Thing, rectangle

PRINT = printed([Thing(rectangle(60, 60, 40, 30), 0.6), Thing(rectangle(150, 150, 40, 30), 0.6)])
OLD = Standing("doubtful", (remark("visits.since", event="plate"),), ("plate",))


def bed(height, many=23):
    xs = np.linspace(0, 220, many)
    return Relief(xs, xs, height(xs[None, :], xs[:, None]))


def smooth(rng):
    """A bed of a few waves, and its relief."""
    waves = rng.normal(0, 0.08, (4, 1, 1)) * 1.0
    pace, phase = rng.uniform(0.3, 3, (4, 2, 1, 1)) * np.pi / 220, rng.uniform(0, 6, (4, 1, 1))
    return bed(lambda x, y: (waves * np.sin(pace[:, 0] * x + pace[:, 1] * y + phase)).sum(axis=0))


class CutTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.integers(0, 10**9))
    def test_pieces_stray_no_further_than_allowed_and_end_where_lines_do(self, seed):
        rng = np.random.default_rng(seed)
        bend = Bend(smooth(rng), 0.0, 0.2, rng.uniform(1, 9))
        many = 30
        start = rng.uniform([0, 0, 0.2], [220, 220, 1.0], (many, 3))
        end = start + rng.normal(0, rng.choice([2, 20, 80]), (many, 3)) * [1, 1, rng.choice([0, 0.001])]
        end = np.clip(end, [0, 0, 0.2], [220, 220, 9])
        cut = cut_lines(bend, start, end)
        np.testing.assert_array_equal(np.unique(cut.of), np.arange(many))
        np.testing.assert_array_equal(cut.end[cut.last], end)
        self.assertTrue(np.all(np.diff(cut.share)[np.diff(cut.of) == 0] > 0))
        before = np.where(np.append(True, cut.of[1:] != cut.of[:-1]), 0.0, np.append(0.0, cut.share[:-1]))
        places = [start[cut.of] + t[:, None] * (end - start)[cut.of] for t in (before, cut.share)]
        low, high = (bend.added(place) for place in places)
        for t in np.linspace(0.03, 0.97, 17):
            found = bend.added(places[0] + t * (places[1] - places[0]))
            # a whole line is looked at in so many places; between them a fold of the relief may stray a little more
            self.assertLess(float(np.abs(found - low - t * (high - low)).max()), 2 * STRAYS)

    def test_a_plane_and_the_air_need_no_cut(self):
        start, end = np.array([[5.0, 5.0, 0.2]]), np.array([[215.0, 190.0, 0.2]])
        self.assertEqual(
            len(cut_lines(Bend(bed(lambda x, y: 0.001 * x + 0 * y), 0.1, 0.2, 4.0), start, end).of), 1
        )
        dome = Bend(bed(lambda x, y: -1e-5 * ((x - 110) ** 2 + (y - 110) ** 2)), 0.0, 0.2, 4.0)
        self.assertGreater(len(cut_lines(dome, start, end).of), 5)
        high = np.array([0, 0, 5.0])
        self.assertEqual(len(cut_lines(dome, start + high, end + high).of), 1)

    def test_layers_stay_even_while_it_fades_out(self):
        dome = bed(lambda x, y: -1e-5 * ((x - 110) ** 2 + (y - 110) ** 2))
        plan = plan_bend(PRINT, cut_in_pieces(PRINT.layer), dome)
        bend = plan.bend
        self.assertAlmostEqual(bend.top, lowest_fade(0.2, max(plan.up, -plan.down)), delta=0.011)
        for x, y in ((0.0, 0.0), (110.0, 110.0), (40.0, 200.0)):
            z = np.arange(0.2, bend.top + 1, 0.2)
            place = np.column_stack([np.full(len(z), x), np.full(len(z), y), z])
            thick = np.diff(z + bend.added(place))
            self.assertLess(float(np.abs(thick / 0.2 - 1).max()), 0.2)
        with self.assertRaises(CoreError) as caught:
            plan_bend(PRINT, cut_in_pieces(PRINT.layer), dome, top=0.4)
        self.assertIn("at least", sentence(caught.exception))


class PlanTest(unittest.TestCase):
    def test_what_it_would_do_is_foretold(self):
        dome = bed(lambda x, y: -1e-5 * ((x - 110) ** 2 + (y - 110) ** 2))
        plan = plan_bend(PRINT, cut_in_pieces(PRINT.layer), dome)
        self.assertLess(float(np.abs(plan.gap - 0.2).max()), 0.004)
        # the furthest line lies at 10, 4: the purge line
        self.assertAlmostEqual(plan.down, -1e-5 * (100**2 + 106**2), delta=0.004)
        self.assertEqual(plan.up, 0.0)
        self.assertLess(plan.lowest, 0.2)
        self.assertTrue(plan.needed)

    def test_tilt_belongs_to_the_screws(self):
        plan = plan_bend(PRINT, cut_in_pieces(PRINT.layer), bed(lambda x, y: 0.003 * x + 0 * y))
        self.assertLess(plan.rest, 0.001)
        said = " ".join(words(one) for one in plan.notes)
        self.assertIn("That belongs to the screws", said)
        self.assertIn("goes down to Z", said)
        flat = plan_bend(PRINT, cut_in_pieces(PRINT.layer), bed(lambda x, y: 0 * x + 0 * y))
        self.assertFalse(flat.needed)
        self.assertIn("next to nothing", words(flat.notes[0]))


class RefusalTest(unittest.TestCase):
    def codes(self, print_=PRINT, target=None, standing=None, **said):
        target = target or Target(compensation="none")
        return [one.code for one in bend_refusals(print_, target, standing, **said)]

    def test_only_readings_that_hold_are_followed(self):
        self.assertEqual(self.codes(standing=Standing()), [])
        self.assertEqual(self.codes(), ["files.bend_unmeasured"])
        found = bend_refusals(PRINT, Target(compensation="mean"), OLD)
        self.assertEqual(words(found[0]).count("measure again"), 1)

    def test_the_bed_is_not_taken_twice(self):
        mesh = Target(compensation="mesh")
        self.assertEqual(self.codes(target=mesh, standing=Standing()), ["files.bend_mesh"])
        self.assertEqual(self.codes(target=mesh, standing=Standing(), cleared=True), [])
        for told in (Told.MESH_ON, Told.PROBE):
            own = replace(PRINT, commands=(*PRINT.commands, Command(told, 3)))
            self.assertEqual(self.codes(own, standing=Standing(), cleared=True), ["files.bend_own"])
        hidden = replace(PRINT, commands=(Command(Told.UNKNOWN, 1, text="BEGIN_ALL"), *PRINT.commands))
        self.assertEqual(
            self.codes(hidden, target=mesh, standing=Standing(), cleared=True), ["files.bend_hidden"]
        )
        self.assertEqual(self.codes(hidden, standing=Standing()), [])


class ChangeTest(unittest.TestCase):
    def refused(self, kind, value, target=None, **known):
        with self.assertRaises(CoreError) as caught:
            check_change(PRINT, Change(kind, value), target or Target(), **known)
        self.assertGreater(len(sentence(caught.exception)), 20)
        return caught.exception.code

    def test_within_what_the_printer_bears(self):
        self.assertEqual(check_change(PRINT, Change(CopyChange.SPEED, 40.0), Target()).now, 25.0)
        self.assertEqual(self.refused(CopyChange.SPEED, 400.0), "files.change_speed")
        self.assertEqual(self.refused(CopyChange.SPEED, float("nan")), "files.change_number")
        self.assertEqual(self.refused(CopyChange.FAN, 120.0), "files.change_fan")
        self.assertEqual(self.refused(CopyChange.SPEED, 25.0), "files.change_nothing")
        cool = Target(hottest_nozzle=240.0, hottest_bed=80.0)
        self.assertEqual(self.refused(CopyChange.NOZZLE, 250.0, cool), "files.change_heat")
        self.assertEqual(self.refused(CopyChange.BED, 90.0, cool), "files.change_heat")
        self.assertEqual(check_change(PRINT, Change(CopyChange.NOZZLE, 230.0), cool).most, 240.0)
        # nobody said what this printer bears
        self.assertEqual(self.refused(CopyChange.NOZZLE, 230.0), "files.change_heat")
        self.assertEqual(self.refused(CopyChange.NOZZLE, 100.0), "files.change_heat")

    def test_more_than_melts_is_refused(self):
        thick = printed([Thing(rectangle(60, 60, 40, 30), 1.2)], first=0.6, width=0.9)
        with self.assertRaises(CoreError) as caught:
            check_change(thick, Change(CopyChange.SPEED, 60.0), Target())
        self.assertEqual(caught.exception.code, "files.change_melts")

    def test_closer_only_where_the_bed_is_known(self):
        self.assertEqual(check_change(PRINT, Change(CopyChange.OFFSET, 0.02), Target()).most, 0.05)
        self.assertEqual(self.refused(CopyChange.OFFSET, 0.2), "files.change_offset")
        self.assertEqual(self.refused(CopyChange.OFFSET, -0.02), "files.change_closer_unmeasured")
        self.assertEqual(
            self.refused(CopyChange.OFFSET, -0.02, standing=OLD, least=0.1), "files.change_closer_old"
        )
        self.assertEqual(
            self.refused(CopyChange.OFFSET, -0.02, standing=Standing(), least=0.01),
            "files.change_closer_touches",
        )
        self.assertEqual(
            check_change(PRINT, Change(CopyChange.OFFSET, -0.02), Target(), Standing(), 0.1).least, -0.05
        )
        own = replace(PRINT, commands=(*PRINT.commands, Command(Told.OFFSET, 3, -0.1)))
        with self.assertRaises(CoreError) as caught:
            check_change(own, Change(CopyChange.OFFSET, 0.02), Target())
        self.assertEqual(caught.exception.code, "files.change_offset_twice")

    def test_what_the_file_does_not_say_cannot_be_changed(self):
        silent = printed([Thing(rectangle(60, 60, 40, 30), 0.6)], start=["G28"])
        with self.assertRaises(CoreError) as caught:
            check_change(silent, Change(CopyChange.NOZZLE, 200.0), Target())
        self.assertEqual(caught.exception.code, "files.change_not_said")


class ShiftTest(unittest.TestCase):
    def test_it_turns_about_the_middle_of_what_is_moved(self):
        shift = Shift.of(PRINT.layer, 0.0, 0.0, 2)
        self.assertAlmostEqual(shift.middle[0], 105.0, delta=0.3)
        place = np.array([[50.0, 60.0], [105.0, 105.0]])
        np.testing.assert_allclose(shift.at(shift.at(place)), place, atol=1e-9)

    def test_a_purge_line_stays_where_it_is(self):
        layer = Shift.of(PRINT.layer, 7.0, -3.0).layer(PRINT.layer)
        purge = PRINT.layer.role == ROLES.index(LineRole.PURGE)
        self.assertTrue(purge.any())
        way = layer.end - PRINT.layer.end
        np.testing.assert_allclose(way[purge], 0.0)
        np.testing.assert_allclose(way[~purge], np.broadcast_to((7.0, -3.0), way[~purge].shape), atol=1e-9)


if __name__ == "__main__":
    unittest.main()
