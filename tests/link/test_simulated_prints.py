"""A simulated machine lays plastic: files are carried out, and patches look as the gap makes them."""

import threading
import time
import unittest

import numpy as np

from finchwort.core.first_layer import make_test_print
from finchwort.core.printers import Bed
from finchwort.formats.gcode import write_gcode
from finchwort.knowledge.dialect import print_commands
from finchwort.link.simulated.firmware import Firmware
from finchwort.link.simulated.physics import Bed as SimulatedBed
from finchwort.link.simulated.serve import Simulator
from tests.fixtures.prints import setting

FLAT = {"tilt_x": 0.0, "tilt_y": 0.0, "dome": 0.0, "twist": 0.0, "bump": (0.0, 0.0, 0.0, 20.0)}


class PrintCase(unittest.TestCase):
    dialect = "open"

    def setUp(self):
        self.machine = Firmware(7, 4000.0, SimulatedBed(**FLAT), mood=self.dialect)
        bed = self.machine.bed
        bed.SET_PER_DEGREE = bed.BOW_PER_DEGREE = bed.GROWTH_PER_DEGREE = 0.0
        self.machine.probe.noise = 0.0
        # a plate that stands exactly level
        for knob in self.machine.bed.knobs:
            knob.stiffness = 1.0
        self.machine.bed._ends = [0.0] * 4
        gone = threading.Event()
        runner = threading.Thread(target=self.machine.run, args=(gone,), daemon=True)
        runner.start()
        self.addCleanup(runner.join, 5)
        self.addCleanup(gone.set)

    def written(self, kind, **options):
        made = make_test_print(kind, setting(Bed(220, 220)), **options)
        return write_gcode(made, print_commands(self.dialect), printer="Snipe")

    def run_file(self, text):
        self.machine.insert("test.gcode", text)
        self.wait(lambda: not self.machine.card)

    def wait(self, until):
        for _ in range(600):
            if until():
                return
            time.sleep(0.02)
        self.fail("It never came.")


class OtherWordsTest(PrintCase):
    """The same file in the machine's other mood: only its moves are said in the same words."""

    dialect = "plain"

    def test_a_ladder_is_laid_as_its_heights_say(self):
        self.machine.offset = self.machine.stored_offset = self.machine.true_offset
        text = self.written("ladder", shifts=(0.15, 0.06, 0.0, -0.06, -0.12))
        self.assertIn("BED 60 AND WAIT", text)
        self.assertNotRegex(text, r"(?m)^M\d")
        self.run_file(text)
        self.assertEqual(
            [one["look"] for one in self.machine.sheet.looks()],
            ["far_too_far", "too_far", "good", "too_close", "far_too_close"],
        )


class FileTest(PrintCase):
    def test_a_ladder_is_laid_as_its_heights_say(self):
        self.machine.offset = self.machine.stored_offset = self.machine.true_offset
        shifts = (0.15, 0.06, 0.0, -0.06, -0.12)
        self.run_file(self.written("ladder", shifts=shifts))
        looks = self.machine.sheet.looks()
        self.assertEqual(
            [one["look"] for one in looks], ["far_too_far", "too_far", "good", "too_close", "far_too_close"]
        )
        for one, shift in zip(looks, shifts, strict=True):
            # the probe's trigger point creeps by some µm
            self.assertAlmostEqual(one["gap"], 0.2 + shift, delta=0.002)
            self.assertAlmostEqual(one["fill"] * one["gap"], 0.2, delta=0.008)

    def test_it_ends_cool_and_aside(self):
        self.run_file(self.written("ladder", shifts=(0.1, 0.0)))
        self.assertEqual((self.machine.bed.bed_target, self.machine.bed.nozzle_target), (0, 0))
        self.assertEqual((self.machine.x, self.machine.y, self.machine.z), (0, 220, 20))

    def test_a_wrong_offset_moves_every_gap(self):
        self.machine.stored_offset = self.machine.offset = self.machine.true_offset + 0.08
        self.run_file(self.written("patches"))
        looks = self.machine.sheet.looks()
        self.assertEqual(len(looks), 5)
        for one in looks:
            self.assertAlmostEqual(one["gap"], 0.28, delta=0.01)
        self.machine.offset = self.machine.true_offset - 0.21
        self.run_file(self.written("patches"))
        self.assertEqual({one["look"] for one in self.machine.sheet.looks()}, {"scraped"})

    def test_discs_follow_a_tilted_bed(self):
        self.machine.offset = self.machine.true_offset
        self.machine.bed._ends = [0.0, 0.1, 0.1, 0.0]
        self.machine.stored_offset = self.machine.true_offset
        places = [(30.0, 110.0, 0.0), (110.0, 110.0, 0.0), (190.0, 110.0, 0.0)]
        self.run_file(self.written("discs", places=places))
        gaps = [one["gap"] for one in self.machine.sheet.looks()]
        self.assertEqual(gaps, sorted(gaps, reverse=True))
        self.assertAlmostEqual(gaps[0] - gaps[2], 0.08, delta=0.005)

    def test_cold_nothing_comes_out(self):
        text = self.written("ladder", shifts=(0.1, 0.0)).replace("M109 S205", "M104 S20")
        self.run_file(text)
        self.assertEqual(self.machine.sheet.looks(), [])

    def test_it_waits_for_the_hand_at_every_stop(self):
        self.machine.insert("walk.gcode", self.written("paper_walk"))
        places = []
        while len(places) < 5:
            self.wait(lambda: self.machine.waiting is not None)
            places.append((self.machine.waiting, self.machine.z))
            self.machine.waiting = None
        self.wait(lambda: not self.machine.card)
        self.assertEqual(places[0], ("1 front left, Z 0.10", 0.1))
        self.assertIn(("2 middle, Z 0.10", 0.1), places)

    def test_stopped_and_refused(self):
        self.machine.insert("walk.gcode", self.written("paper_walk"))
        with self.assertRaises(ValueError):
            self.machine.insert("other.gcode", "G28")
        self.wait(lambda: self.machine.waiting is not None)
        self.machine.cancel()
        self.assertEqual((self.machine.card, self.machine.bed.bed_target), ([], 0.0))
        with self.assertRaises(ValueError):
            self.machine.insert("empty.gcode", "; nothing\n")


class OffsetTest(PrintCase):
    def test_paper_feels_the_gap(self):
        machine = self.machine
        machine.zero = float(machine.bed.height(110, 110))
        machine.x = machine.y = 110.0
        for z, feel in ((0.3, "free"), (0.1, "slight"), (0.05, "strong"), (0.02, "bunches"), (-0.1, "stuck")):
            machine.z, machine.offset = z, machine.true_offset
            self.assertEqual(machine.paper(), feel)

    def test_what_is_not_stored_is_gone_after_a_restart(self):
        machine = self.machine
        machine.carry_out("M851 Z-1.60")
        self.assertEqual(machine.offset, -1.6)
        machine.power_cycle()
        self.assertEqual(machine.offset, -1.75)
        machine.carry_out("M851 Z-1.60")
        machine.carry_out("M500")
        machine.power_cycle()
        self.assertEqual(machine.offset, -1.6)

    def test_filament_counted_on_or_from_point_to_point(self):
        machine = self.machine
        machine.bed.nozzle = machine.bed.nozzle_target = 205.0
        for line in (
            "G1 Z1 F6000",
            "M82",
            "G92 E0",
            "G1 X100 Y0 E5",
            "G1 X100 Y1 E5.1",
            "M83",
            "G1 X0 Y1 E5",
        ):
            machine.carry_out(line)
        self.assertAlmostEqual(machine.sheet.islands[0].volume, 10.1 * np.pi * 1.75**2 / 4)


class HandsTest(unittest.TestCase):
    def test_a_hand_at_the_machine(self):
        simulator = Simulator(firmware=Firmware(7, 4000.0)).start()
        self.addCleanup(simulator.stop)
        simulator.act("menu", {"offset": -1.9})
        self.assertEqual(simulator.state()["stored_offset"], -1.9)
        for bad in ({"offset": 40}, {"offset": "x"}, {}):
            with self.assertRaises((ValueError, KeyError)):
                simulator.act("menu", bad)
        simulator.act("card", {"name": "a.gcode", "text": "G28\nM0 Look\nG1 Z5 F600\n"})
        for _ in range(200):
            if simulator.state()["waiting"]:
                break
            time.sleep(0.02)
        self.assertEqual(simulator.state()["waiting"], "Look")
        simulator.act("on", {})
        for _ in range(200):
            if not simulator.state()["card"]["lines"]:
                break
            time.sleep(0.02)
        self.assertEqual(simulator.state()["head"][2], 5.0)
        simulator.act("middle", {})
        for _ in range(200):
            if simulator.state()["head"] == [110.0, 110.0, 0.0]:
                break
            time.sleep(0.02)
        self.assertEqual(simulator.state()["head"], [110.0, 110.0, 0.0])
