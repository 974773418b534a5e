"""Test prints as text, read back by a reader of its own."""

import itertools
import unittest

from finchwort.core.base.errors import ChoiceError
from finchwort.core.first_layer import KINDS
from finchwort.formats.gcode import write_gcode
from finchwort.knowledge.dialect import print_commands
from tests.fixtures.gcode_reader import read
from tests.fixtures.prints import make, setting

OPEN = print_commands("open")


def written(kind, given=None, mesh_on="M420 S1", **options):
    made = make(kind, given, **options)
    return made, read(write_gcode(made, OPEN, printer="Bittern", mesh_on=mesh_on))


class OrderTest(unittest.TestCase):
    def test_heats_then_homes_then_switches_compensation_on(self):
        for kind in KINDS:
            _, program = written(kind)
            order = [program.index(name) for name in ("M190", "M109", "G28", "M420", "G1", "G0", "M84")]
            self.assertEqual(order, sorted(order), kind)

    def test_ends_cool_and_out_of_the_way(self):
        for kind in KINDS:
            _, program = written(kind)
            last = dict(program.commands[-8:])
            self.assertEqual((last["M104"]["S"], last["M140"]["S"]), (0, 0))
            self.assertGreaterEqual(program.moves[-1].end[2], 20)

    def test_lifts_before_it_travels(self):
        for kind in KINDS:
            _, program = written(kind)
            for move in program.moves:
                if move.rapid:
                    self.assertGreaterEqual(min(move.start[2], move.end[2]), 5, kind)
                    self.assertEqual(move.filament, 0)

    def test_without_compensation_there_is_none_to_switch_on(self):
        _, program = written("ladder", mesh_on="")
        self.assertNotIn("M420", [name for name, _ in program.commands])
        self.assertIn("Compensation: none", " ".join(program.remarks))
        with self.assertRaises(ChoiceError):
            write_gcode(make("mesh_walk"), OPEN, printer="Bittern")

    def test_the_header_says_what_it_does(self):
        made, program = written("ladder")
        head = " ".join(program.remarks[:12])
        self.assertIn("Ladder of patches for Bittern", head)
        self.assertIn("1: 0.10 mm farther, at Z 0.300", head)
        self.assertIn(f"{made.grams:.1f} g", head)
        self.assertIn("Stay with the printer", " ".join(program.remarks))

    def test_a_name_cannot_smuggle_a_command_in(self):
        text = write_gcode(make("ladder"), OPEN, printer="Bit\ntern\nM112 ; G28", made_for=["x\r\nM112"])
        self.assertFalse([line for line in text.split("\n") if line.startswith("M112")])
        self.assertTrue(text.isascii())


class PathTest(unittest.TestCase):
    def test_moves_are_those_that_were_planned(self):
        for kind in ("patches", "ladder", "discs"):
            made, program = written(kind)
            laid = [m for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2]]
            groups = [list(g) for _, g in itertools.groupby(laid, key=lambda m: m.end[2])]
            self.assertEqual(sum(len(g) for g in groups), sum(len(s.points) - 1 for s in made.strokes))
            self.assertAlmostEqual(
                sum(m.length for m in laid), sum(s.length for s in made.strokes), delta=0.5
            )
            self.assertTrue(all(m.feed == 25 for m in laid))

    def test_what_is_drawn_back_is_given_back(self):
        made, program = written("ladder")
        still = [m.filament for m in program.moves if m.start[:2] == m.end[:2] and m.filament]
        self.assertEqual(len(still), 2 * len(made.spots) + 1)
        self.assertAlmostEqual(sum(still), -1.0)

    def test_paper_stops_wait_for_the_person(self):
        made, program = written("paper_walk", paper=0.08)
        stops = [text for name, text in program.commands if name == "M0"]
        self.assertEqual(stops, [f"{spot.number} {spot.name}, Z {spot.z:.2f}" for spot in made.spots])
        lows = [m.end for m in program.moves if m.end[2] < 1]
        self.assertEqual([z for _, _, z in lows], [0.08] * len(stops))
        self.assertTrue(all(m.feed <= 2 for m in program.moves if m.end[2] < 1))

    def test_the_walk_that_shows_a_mesh_stays_above_and_lays_nothing(self):
        _, program = written("mesh_walk")
        self.assertGreaterEqual(min(m.end[2] for m in program.moves), 1)
        self.assertEqual({m.filament for m in program.moves}, {0.0})
        steps = [m.length for m in program.moves if not m.rapid and m.start[2] == m.end[2] == 1]
        self.assertLessEqual(max(steps), 60)
        self.assertGreater(len(steps), 80)

    def test_a_bed_with_its_zero_in_the_middle(self):
        from finchwort.core.printers import Bed

        _, program = written("ladder", setting(Bed(200, 200, "centre")))
        laid = [m.end for m in program.moves if m.filament > 0 and m.start[:2] != m.end[:2]]
        self.assertLess(min(x for x, _, _ in laid), 0)
