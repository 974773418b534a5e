"""Asked before it is told anything: what a machine says of itself at connecting, and what that changes."""

import threading
import time
import unittest
from dataclasses import replace

from finchwort.core.printers import Bed
from finchwort.knowledge.dialect import DialectError, load_dialect, parse_dialect
from finchwort.link.line import Line
from finchwort.link.machine import Limits, Machine
from finchwort.services.first_layer import offsets
from finchwort.services.machine.report import told_of
from finchwort.services.visits import visits
from finchwort.services.visits.follow_up import after_of
from finchwort.services.visits.validity import what_holds
from finchwort.store.machine import heaters, lines
from finchwort.store.machine.kinds import JobState
from finchwort.store.machine.report import newest_told
from finchwort.store.printers import printers
from finchwort.store.visits import changes
from tests.fixtures.line import BenchCase
from tests.fixtures.support import key

OPEN = load_dialect("open")


class RepliesTest(unittest.TestCase):
    """Answers as open firmware commonly gives them (common practice)."""

    def test_who_it_is(self):
        for text, firmware, machine in (
            ("FIRMWARE_NAME:Marsh 2.0.1 (Sep 2 2020) SOURCE_CODE_URL:none PROTOCOL_VERSION:1.0 MACHINE_TYPE:Reed 3 EXTRUDER_COUNT:1",
             "Marsh 2.0.1 (Sep 2 2020)", "Reed 3"),
            ("FIRMWARE_NAME:Marsh", "Marsh", None),
            ("ok FIRMWARE_NAME:Marsh 3 EXTRUDER_COUNT:2", "Marsh 3", None),
        ):  # fmt: skip
            found = OPEN.hear("identity", text)
            self.assertEqual((found["firmware"], found["machine"]), (firmware, machine), text)

    def test_settings(self):
        steps = OPEN.hear("steps", "echo: M92 X80.00 Y80.00 Z400.00 E93.00")
        self.assertEqual((steps["z"], steps["e"]), ("400.00", "93.00"))
        self.assertEqual(OPEN.hear("steps", "M92 X80 Y80 Z400")["e"], None)
        self.assertEqual(OPEN.hear("compensation", "echo:  M420 S1 Z10.00")["on"], "1")
        self.assertIsNone(OPEN.hear("compensation", "echo:; Bed compensation:"))
        self.assertIsNone(OPEN.hear("steps", "echo:; Steps per unit:"))

    def test_a_row_of_a_mesh_and_not_its_header(self):
        for text, values in (
            (" 0 +0.123 -0.004 +0.010", "+0.123 -0.004 +0.010"),
            ("1 | 0.1 0.2", "0.1 0.2"),
            ("-0.05 0.00 0.07", "-0.05 0.00 0.07"),
        ):
            self.assertEqual(OPEN.hear("mesh_row", text)["values"], values)
        for text in ("      0      1      2", "Bilinear grid:", "ok", " 0 +0.1 =====", "X:1.0 Y:2.0"):
            self.assertIsNone(OPEN.hear("mesh_row", text), text)

    def test_a_dialect_says_where_its_mesh_begins(self):
        text = "name = 'x'\n[line]\nmesh_from = 'left'\n[commands]\n" + "".join(
            f"{name} = 'G1'\n"
            for name in (
                "home",
                "travel",
                "lift",
                "touch",
                "bed",
                "nozzle",
                "temperatures",
                "switches",
                "stop",
            )
        )
        replies = "[replies]\nok='ok'\ntouch='(?P<x>1)(?P<y>2)(?P<z>3)'\ntemperatures='(?P<nozzle>1)(?P<bed>2)'\nswitch='(?P<name>a)(?P<state>b)'\n"
        with self.assertRaisesRegex(DialectError, "front or at the back"):
            parse_dialect(text + replies)
        self.assertEqual(parse_dialect(text.replace("left", "back") + replies).mesh_from, "back")


class ConnectTest(BenchCase):
    MESH = [[0.10, 0.00, 0.05], [0.02, -0.04, 0.01], [0.08, 0.03, 0.12]]

    def connect(self):
        job = self.do("connect")
        self.assertEqual(job.state, JobState.DONE, job.message)
        return job

    def book(self, value=-1.75):
        with self.sessions.begin() as session:
            offsets.record_offset(
                session, self.printer, {"printer": value}, "paper", client_key=key(), visit_id=self.visit
            )

    def reset(self, value):
        """Somebody sets, or loses, the offset at the machine."""
        self.firmware.offset = self.firmware.stored_offset = value

    def changed(self):
        with self.sessions() as session:
            return [one.what for one in changes.changes_since(session, self.printer, None)]

    def told(self):
        with self.sessions() as session:
            return told_of(newest_told(session, self.printer))

    def state(self, thing):
        with self.sessions() as session:
            found = what_holds(session, printers.get_printer(session, self.printer))
            return next(one.standing.state for one in found if one.thing == thing)

    def test_everything_it_tells_is_kept(self):
        self.firmware.mesh, self.firmware.follows_mesh = self.MESH, True
        self.connect()
        told = self.told()
        self.assertIn("1.4", told.firmware)
        self.assertEqual(told.machine, "bench")
        self.assertEqual((told.offset, told.steps["z"], told.compensation), (-1.75, 400.0, True))
        self.assertEqual([list(row) for row in told.mesh], self.MESH)
        self.assertEqual((told.abilities["eeprom"], told.abilities["autoreport_temp"]), (True, False))
        self.assertEqual(self.changed(), [])

    def test_an_offset_that_was_reset_behind_our_back_is_caught_once(self):
        self.book()
        self.assertEqual(self.connect().message.split(".")[0], "Connected")
        self.reset(0.0)
        said = self.connect().message
        self.assertIn("1.75 mm from what is written down", said)
        self.assertEqual((self.changed(), self.state("offset")), (["offset"], "gone"))
        self.connect()
        self.assertEqual(self.changed(), ["offset"])
        with self.sessions() as session:
            self.assertIn(
                "offset",
                [s.name for s in after_of(session, printers.get_printer(session, self.printer)).left],
            )
        # found by paper and written down, the book is right again; reset once more, it is said once more
        self.reset(-1.6)
        self.book(-1.6)
        self.connect()
        self.assertEqual((self.changed(), self.state("offset")), (["offset"], "holds"))
        self.reset(0.0)
        self.connect()
        self.assertEqual(self.changed(), ["offset", "offset"])

    def test_another_version_is_an_event_that_ticks_its_own_first_step(self):
        self.book()
        self.connect()
        self.firmware.version = "1.5"
        self.assertIn("another firmware", self.connect().message)
        self.assertEqual((self.changed(), self.state("offset")), (["firmware"], "gone"))
        with self.sessions() as session:
            after = after_of(session, printers.get_printer(session, self.printer))
            self.assertEqual(
                [(s.name, s.done) for s in after.steps],
                [("values", True), ("home", False), ("offset", False), ("print", False)],
            )
        self.assertEqual(self.do("home").state, JobState.DONE)
        with self.sessions() as session:
            after = after_of(session, printers.get_printer(session, self.printer))
            self.assertEqual([s.name for s in after.left], ["offset", "print"])
        self.connect()
        self.assertEqual(self.changed(), ["firmware"])

    def test_other_steps_on_z_are_an_event_and_a_calibrated_extruder_is_none(self):
        self.connect()
        self.firmware.steps["E"] = 95.2
        self.assertIn("those of E", self.connect().message)
        self.assertEqual(self.changed(), [])
        self.firmware.steps["Z"] = 402.0
        self.connect()
        self.assertEqual(self.changed(), ["steps"])

    def test_a_machine_that_tells_nothing_is_said_to(self):
        self.firmware.deaf = {"M503", "M420", "M851"}
        said = self.connect().message
        for word in ("z offset", "mesh", "compensation", "steps"):
            self.assertIn(word, said)
        self.assertEqual(self.told().mesh, None)

    def test_a_machine_that_names_no_switches_is_connected_all_the_same(self):
        self.firmware.deaf = {"M119"}
        self.assertIn("It does not tell its switches.", self.connect().message)
        self.assertEqual(self.told().offset, -1.75)

    def test_a_mesh_that_is_no_mesh(self):
        self.firmware.mesh = [[0.1, 0.2], [0.1]]
        self.connect()
        self.assertIsNone(self.told().mesh)
        self.firmware.mesh = None
        self.connect()
        self.assertEqual(self.told().mesh, ())

    def test_rows_told_from_the_back_are_turned(self):
        self.firmware.mesh = self.MESH
        line = Line(self.simulator.url, replace(OPEN, mesh_from="back"))
        self.addCleanup(line.close)
        there = Machine(line, Limits(Bed(220, 220), (0, 0), 110, 260, 5))
        there.greet()
        self.assertEqual([list(row) for row in there.tell().mesh], self.MESH[::-1])


class HotTest(BenchCase):
    def hot(self):
        with self.sessions() as session:
            return [
                (one.doubt, one.until is not None)
                for one in heaters.may_be_hot(session, lines.db_now(session))
            ]

    def test_a_cable_cut_while_it_heats(self):
        job = self.queue("heat", bed=110, nozzle=250)
        working = threading.Thread(target=self.worker.step)
        working.start()
        until = time.monotonic() + 60
        while self.firmware.bed.bed < 35 and time.monotonic() < until:
            time.sleep(0.01)
        self.firmware.cut()
        self.simulator.stop()
        working.join(60)
        self.assertEqual(self.job(job).state, JobState.INTERRUPTED)
        ((doubt, on),) = self.hot()
        self.assertIn("may still be hot and on", doubt)
        self.assertTrue(on)
        with self.sessions.begin() as session:
            heaters.set_cold(session, printers.get_printer(session, self.printer))
        self.assertEqual(self.hot(), [])

    def test_a_halt_leaves_it_hot(self):
        self.firmware.bed.bed, self.firmware.bed.bed_target = 60.0, 60.0
        self.firmware.faults.halt_after = 2
        job = self.do("grid", columns=3, rows=3)
        self.assertEqual(job.state, JobState.INTERRUPTED)
        ((doubt, _),) = self.hot()
        self.assertIn("halted", doubt)

    def test_a_cold_machine_that_broke_off_is_no_alarm(self):
        self.firmware.faults.halt_after = 2
        self.do("grid", columns=3, rows=3)
        self.assertEqual(self.hot(), [])

    def test_heaters_off_ends_it(self):
        self.firmware.bed.bed, self.firmware.bed.bed_target = 60.0, 60.0
        self.firmware.faults.reset_after = 2
        self.do("grid", columns=3, rows=3)
        self.assertEqual(len(self.hot()), 1)
        self.assertEqual(self.do("cool").state, JobState.DONE)
        self.assertEqual(self.hot(), [])

    def test_a_closed_visit_over_a_hot_bed(self):
        self.firmware.bed.bed, self.firmware.bed.bed_target = 60.0, 60.0
        self.assertEqual(self.do("grid", columns=3, rows=3).state, JobState.DONE)
        self.assertEqual(self.hot(), [])
        with self.sessions.begin() as session:
            visits.finish_visit(session, self.visit)
        ((doubt, _),) = self.hot()
        self.assertIn("visit is closed", doubt)
