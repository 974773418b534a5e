"""The simulated printer is honest: its physics, its programme, its page."""

import json
import unittest
import urllib.error
import urllib.request

import numpy as np

from finchwort.core.printers import Screw
from finchwort.core.tramming import plate_response
from finchwort.link.simulated.firmware import Firmware
from finchwort.link.simulated.physics import Bed, Knob, Probe
from finchwort.link.simulated.serve import Simulator

CORNERS = [(0, 0), (200, 0), (200, 200), (0, 200)]


class PhysicsTest(unittest.TestCase):
    def bed(self, **changes):
        knobs = [Knob(str(i), x, y, backlash=0.0) for i, (x, y) in enumerate(CORNERS)]
        return Bed(200, 200, knobs=knobs, **changes)

    def test_equal_springs_follow_as_derived(self):
        """Moving one of four by d moves that corner 3d/4, its neighbours d/4, the far one -d/4."""
        bed = self.bed()
        before = bed.height(*np.array(CORNERS).T)
        bed.knobs[0].turn(-1)  # loosened: it rises by the pitch
        moved = bed.height(*np.array(CORNERS).T) - before
        np.testing.assert_allclose(moved / bed.pitch, [0.75, 0.25, -0.25, 0.25], atol=1e-9)

    def test_it_agrees_with_the_plan_without_sharing_its_code(self):
        bed = self.bed()
        before = bed.plane()
        turns = [0.5, -0.25, 0.125, 0.0]
        for knob, turn in zip(bed.knobs, turns, strict=True):
            knob.turn(turn)
        screws = [Screw(str(i), x, y, bed.pitch) for i, (x, y) in enumerate(CORNERS)]
        wanted = plate_response(screws) @ (-bed.pitch * np.array(turns))
        np.testing.assert_allclose(np.subtract(bed.plane(), before), wanted, atol=1e-12)

    def test_a_softer_spring_gives_way(self):
        bed = self.bed()
        bed.knobs[0].stiffness = 0.2
        before = float(bed.height(0, 0))
        bed.knobs[0].turn(-1)
        self.assertLess(float(bed.height(0, 0)) - before, 0.75 * bed.pitch)

    def test_backlash_and_a_spinning_screw(self):
        knob = Knob("a", 0, 0, backlash=0.05)
        knob.turn(0.5)
        knob.turn(-0.5)
        self.assertAlmostEqual(knob.screwed, 0.05)
        spinning = Knob("b", 0, 0, backlash=0.0, slip=0.9)
        spinning.turn(1)
        self.assertAlmostEqual(spinning.screwed, 0.1)

    def test_warming_through(self):
        bed = Bed()
        cold = float(bed.height(110, 110) - bed.height(0, 110))
        bed.bed_target = 60
        bed.warm(120)
        self.assertAlmostEqual(bed.bed, 60, delta=1)
        bowed = float(bed.height(110, 110) - bed.height(0, 110))
        self.assertGreater(bowed, cold + 0.01)  # the face is hotter than the back
        bed.warm(3600)
        self.assertAlmostEqual(bed.core, 60, delta=0.1)
        still = [float(bed.height(110, 110))]
        bed.warm(300)
        still.append(float(bed.height(110, 110)))
        self.assertLess(abs(still[1] - still[0]), 0.003)

    def test_cooling(self):
        bed = Bed(bed=60, core=60)
        bed.warm(7200)
        self.assertLess(bed.bed, 30)

    def test_a_probe_repeats_as_told_and_the_same_seed_gives_the_same(self):
        one, two = (Probe(np.random.default_rng(5), 0.004) for _ in range(2))
        first, second = ([p.touch(0.1) for _ in range(200)] for p in (one, two))
        self.assertEqual(first, second)
        self.assertAlmostEqual(float(np.std(first[60:])), 0.004, delta=0.001)

    def test_plastic_on_the_tip_differs_from_start_to_start(self):
        probe = Probe(np.random.default_rng(5), 0.0)
        probe.plastic = True
        starts = []
        for _ in range(6):
            probe.new_start()
            starts.append(probe.touch(0.0))
        self.assertGreater(np.ptp(starts), 0.03)


class FirmwareTest(unittest.TestCase):
    def setUp(self):
        self.machine = Firmware(speed=1000)
        self.said = []
        self.machine.answer = self.said.append

    def tell(self, *lines):
        for line in lines:
            self.machine.carry_out(line)
        return self.said

    def test_probing_needs_homing_and_reach(self):
        self.assertIn("Error:Home XYZ first", self.tell("G30 X110 Y110"))
        self.tell("G28", "G30 X5 Y110")
        self.assertTrue(any("out of reach" in one for one in self.said))

    def test_checksums(self):
        self.tell("N1 G28*99")
        self.assertEqual(self.said[-2:], ["Resend: 1", "ok"])
        self.tell("N1 M105*38")
        self.assertTrue(self.said[-1].startswith("ok T:"))
        self.tell("N7 M105*32")
        self.assertIn("Resend: 2", self.said)

    def test_switch_faults(self):
        self.machine.pressed = "x_min"
        self.machine.faults.swapped = True
        self.tell("M119")
        self.assertIn("y_min: TRIGGERED", self.said)
        self.assertIn("x_min: open", self.said)
        self.machine.faults.dead = "y_min"
        self.machine.faults.inverted = "z_min"
        self.said.clear()
        self.tell("M119")
        self.assertIn("y_min: open", self.said)
        self.assertIn("z_min: TRIGGERED", self.said)

    def test_an_emergency_stop_needs_no_queue(self):
        self.machine.bed.bed_target = 60
        self.machine.take("M112")
        self.assertTrue(self.machine.halted.is_set())
        self.assertEqual(self.machine.bed.bed_target, 0)
        self.assertIn("Error:Printer halted. kill() called!", self.tell("G28"))
        self.tell("M999")
        self.assertFalse(self.machine.halted.is_set())

    def test_unknown_commands_are_answered(self):
        self.assertEqual(self.tell("G99")[-1], "ok")


class PageTest(unittest.TestCase):
    def setUp(self):
        self.simulator = Simulator(firmware=Firmware(speed=1000)).start()
        self.addCleanup(self.simulator.stop)

    def ask(self, path, body=None, **headers):
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(self.simulator.page + path, data, headers)
        with urllib.request.urlopen(request, timeout=5) as answer:
            return answer.read()

    def refused(self, status, *args, **headers):
        with self.assertRaises(urllib.error.HTTPError) as caught:
            self.ask(*args, **headers)
        self.assertEqual(caught.exception.code, status)
        caught.exception.close()

    def test_page_and_state(self):
        self.assertIn(b"Turn a knob", self.ask("/"))
        for part in ("/page.js", "/page.css"):
            self.assertTrue(self.ask(part))
        before = json.loads(self.ask("/state"))
        after = json.loads(self.ask("/turn", {"knob": "back left", "turns": 0.125}))
        self.assertEqual(after["knobs"][3]["turned"], 0.125)
        self.assertNotEqual(before["knobs"][3]["height"], after["knobs"][3]["height"])

    def test_strangers_and_nonsense_are_refused(self):
        self.refused(403, "/state", Host="example.org:80")
        self.refused(403, "/turn", {"knob": "back left", "turns": 1}, Origin="http://example.org")
        self.refused(422, "/turn", {"knob": "nowhere", "turns": 1})
        self.refused(422, "/turn", {"knob": "back left", "turns": 99})
        self.refused(422, "/dance", {})
        self.refused(404, "/../firmware.py")
        self.assertEqual(json.loads(self.ask("/state"))["knobs"][3]["turned"], 0)

    def test_the_page_fetches_nothing_from_elsewhere(self):
        for part in ("/", "/page.js", "/page.css"):
            self.assertNotIn(b"http", self.ask(part).replace(b"http-equiv", b""))
