"""The line and its dialect, against a machine of a few lines that says what it is told to."""

import os
import socket
import threading
import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from finchwort.core.printers import Bed
from finchwort.knowledge.dialect import (
    OWN,
    DialectError,
    dialect_of,
    dialects,
    load_dialect,
    mesh_commands,
    parse_dialect,
    print_commands,
)
from finchwort.link.line import (
    GarbledError,
    HaltedError,
    Line,
    LineLostError,
    RefusedError,
    ResetError,
    SilentError,
    checksum,
)
from finchwort.link.machine import LimitError, Limits, Machine

OPEN = load_dialect("open")
LIMITS = Limits(Bed(100, 100), (0.0, 0.0), 100.0, 250.0, 5.0)


class Script:
    """A machine that answers each line it gets with what stands in a script."""

    def __init__(self, answers):
        self.answers, self.got = list(answers), []
        self.server = socket.create_server(("127.0.0.1", 0))
        self.url = f"socket://127.0.0.1:{self.server.getsockname()[1]}"
        self.thread = threading.Thread(target=self.run, daemon=True)
        self.thread.start()

    def run(self):
        client, _ = self.server.accept()
        with client:
            for line in client.makefile("rb"):
                self.got.append(line.decode().strip())
                if not self.answers:
                    continue
                answer = self.answers.pop(0)
                if answer is None:
                    return
                client.sendall(answer)

    def close(self):
        self.server.close()


class LineTest(unittest.TestCase):
    def talk(self, *answers):
        script = Script(answers)
        self.heard = []
        line = Line(script.url, OPEN, listen=lambda _at, way, text: self.heard.append(way + text))
        self.addCleanup(script.close)
        self.addCleanup(line.close)
        return line, script

    def test_numbered_with_checksum(self):
        line, script = self.talk(b"ok\n")
        line.send("G28")
        self.assertEqual(script.got, ["N1 G28*18"])
        self.assertEqual(checksum("N1 G28"), 18)

    def test_lines_before_the_ok_are_given_and_busy_is_not(self):
        line, _ = self.talk(b"echo:busy: processing\nx_min: open\r\nok\n")
        self.assertEqual(line.send("M119"), ["x_min: open", "ok"])

    def test_asked_to_send_again(self):
        line, script = self.talk(b"Error:checksum mismatch, Last Line: 0\nResend: 1\nok\n", b"done\nok\n")
        self.assertEqual(line.send("G28"), ["done", "ok"])
        self.assertEqual(script.got, ["N1 G28*18"] * 2)

    def test_a_machine_that_counts_otherwise(self):
        line, script = self.talk(
            b"Error:Line Number is not Last Line Number+1, Last Line: 41\nResend: 42\nok\n", b"ok\n", b"ok\n"
        )
        line.send("G28")
        line.send("G28")
        self.assertTrue(script.got[1].startswith("N42 G28*"))
        self.assertTrue(script.got[2].startswith("N43 G28*"))

    def test_asked_again_and_again(self):
        line, _ = self.talk(*[b"Resend: 1\nok\n"] * 20)
        with self.assertRaises(GarbledError):
            line.send("G28")

    def test_each_end_has_its_error(self):
        for answer, error in (
            (b"Error:Printer halted. kill() called!\n", HaltedError),
            (b"Error:Thermal Runaway, system stopped! Heater_ID: bed\n", HaltedError),
            (b"start\n", ResetError),
            (b"Error:Home XYZ first\n", RefusedError),
            (None, LineLostError),
        ):
            with self.subTest(answer):
                line, _ = self.talk(answer)
                with self.assertRaises(error) as caught:
                    line.send("G30 X1 Y1")
                self.assertGreater(len(str(caught.exception)), 20)

    def test_silence(self):
        line, _ = self.talk(b"hm\n")
        with self.assertRaises(SilentError):
            line.send("G28", patience=0.4)

    def test_garbage_is_kept_and_never_fatal(self):
        line, _ = self.talk(b"\xff\xfe\x00nonsense\x80\n" + b"\xf0" * 30 + b"\nok\n")
        self.assertEqual(line.send("G28")[-1], "ok")
        self.assertTrue(any("nonsense" in one for one in self.heard))

    def test_a_line_without_end_is_cut(self):
        line, _ = self.talk(b"a" * 20_000 + b"\nok\n")
        self.assertEqual(line.send("G28")[-1], "ok")

    def test_nobody_there(self):
        with socket.create_server(("127.0.0.1", 0)) as server:
            port = server.getsockname()[1]
        with self.assertRaises(LineLostError) as caught:
            Line(f"socket://127.0.0.1:{port}", OPEN)
        self.assertIn("cannot be opened", str(caught.exception))

    def test_a_board_that_starts_anew_when_its_line_is_opened(self):
        line, script = self.talk(
            b"start\necho:hello\n", b"ok\n", b"FIRMWARE_NAME:Bench\nok\n", b"ok\n", b"ok\n"
        )
        self.assertEqual(Machine(line, LIMITS).greet(), "FIRMWARE_NAME:Bench")
        self.assertEqual(
            [text.split("*")[0] for text in script.got[:3]], ["N0 M110 N0", "N0 M110 N0", "N1 M115"]
        )

    def test_touches_that_make_no_sense(self):
        line, _ = self.talk(
            b"Bed X: 50.0 Y: 50.0 Z: 999\nok\n",
            b"Bed X: 9.0 Y: 9.0 Z: 0.1\nok\n",
            b"Bed X: 50.0 Y: 50.0 Z: 0.125\nok\n",
        )
        self.assertEqual(Machine(line, LIMITS).touch(50, 50), 0.125)
        with self.assertRaises(LimitError):
            Machine(line, LIMITS).touch(150, 50)
        line, _ = self.talk(b"probing failed\nok\n")
        with self.assertRaises(RefusedError):
            Machine(line, LIMITS).touch(50, 50)

    def test_limits_hold_whatever_is_asked(self):
        line, script = self.talk()
        for bed, nozzle in ((101, None), (None, 251), (float("nan"), None), (-1, None)):
            with self.subTest(bed=bed, nozzle=nozzle), self.assertRaises(LimitError):
                Machine(line, LIMITS).set_heaters(bed, nozzle)
        self.assertEqual(script.got, [])

    def test_a_tick_can_end_a_wait(self):
        class EndError(Exception):
            pass

        line, _ = self.talk(b"")

        def tick():
            raise EndError

        line.tick = tick
        with self.assertRaises(EndError):
            line.send("G28")


class DialectTest(unittest.TestCase):
    def shipped(self):
        from importlib.resources import files

        return files("finchwort.knowledge").joinpath("dialects", "open", "talk.toml").read_text("utf-8")

    def test_replies(self):
        found = OPEN.hear("temperatures", "ok T:60.50 /205.00 B:59.98 /60.00 @:0 B@:0")
        self.assertEqual((found["nozzle"], found["bed"], found["bed_target"]), ("60.50", "59.98", "60.00"))
        found = OPEN.hear("touch", "Bed X: 15.000 Y: 20.5 Z: -0.0350")
        self.assertEqual((found["x"], found["z"]), ("15.000", "-0.0350"))
        self.assertEqual(OPEN.hear("switch", "z_min: TRIGGERED")["state"], "TRIGGERED")
        self.assertIsNone(OPEN.hear("switch", "T:20.0 /0"))

    def test_a_dialect_of_ones_own(self):
        with TemporaryDirectory() as folder:
            mine = self.shipped().replace('home = "G28"', 'home = "HOME ALL"')
            Path(folder, "mine.toml").write_text(mine)  # as they were kept before
            self.assertEqual(load_dialect("mine", Path(folder)).say("home"), "HOME ALL")
            own = Path(folder, "ours")
            own.mkdir()
            (own / "talk.toml").write_text(mine)
            (own / "mesh.toml").write_text('mesh_on = "FOLLOW"')
            found = load_dialect("ours", Path(folder))
            self.assertEqual(
                (found.say("home"), found.mesh, found.printing), ("HOME ALL", {"mesh_on": "FOLLOW"}, {})
            )
            with mock.patch.dict(os.environ, {OWN: folder}):
                self.assertEqual(set(dialects()), {"open", "plain", "mine", "ours"})
                self.assertEqual(mesh_commands("ours"), {"mesh_on": "FOLLOW"})
                # nothing is written for a machine in words that are not its own
                self.assertEqual(print_commands("ours"), {})
                (own / "talk.toml").write_text("name = ")
                self.assertEqual(set(dialects()), {"open", "plain", "mine"})
                self.assertEqual(mesh_commands("ours"), {})
                self.assertEqual(dialect_of("ours"), OPEN)
            self.assertEqual(load_dialect("open", Path(folder)).say("home"), "G28")

    def test_refused_in_words(self):
        good = self.shipped()
        for bad in (
            "name = ",
            good.replace('stop = "M112"', ""),
            good.replace("{x:.3f}", "{q}"),
            good.replace("ok = '''ok\\b'''", "ok = '''ok('''"),
            good.replace("(?P<z>-?[\\d.]+)", "(-?[\\d.]+)"),
            good.replace('home = "G28"', 'home = "G28\\nM112"'),
            good.replace("halted =", "stopped ="),
        ):
            with self.subTest(bad[:20]), self.assertRaises(DialectError):
                parse_dialect(bad)
        for key in ("../open", "none", ""):
            with self.subTest(key), self.assertRaises(DialectError):
                load_dialect(key)
