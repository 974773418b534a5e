import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from click.testing import CliRunner

from finchwort.cli import main
from finchwort.store import migrate
from finchwort.store.database import ENVIRONMENT, make_engine
from tests.fixtures import support
from tests.fixtures.plain_reader import read_plain
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

GRID = "0.30 0.20 0.10\n0.20 0.10 0.00\n0.10 0.00 -0.10\n"
MEMORY = r"""
import re, sys
from click.testing import CliRunner
from finchwort.cli import main
result = CliRunner().invoke(main, ["read", sys.argv[1], "--bed", "300x300", "--screws", "4", "--json"])
assert result.exit_code == 0, result.output
# the peak of this program alone; the counter of getrusage also knows the program that forked it
print(int(re.search(r"VmHWM:\s+(\d+)", open("/proc/self/status").read()).group(1)) // 1024)
"""


class ReadTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def file(self, text, name="bed.txt"):
        path = self.folder / name
        path.write_text(text)
        return str(path)

    def read(self, text, *options, code=0):
        result = CliRunner().invoke(main, ["read", self.file(text), *options])
        self.assertEqual(result.exit_code, code, result.output)
        return result.output

    def test_in_words(self):
        said = self.read(GRID, "--bed", "220x220", "--screws", "4")
        self.assertIn("9 readings, 0.400 mm from highest to lowest", said)
        self.assertIn("FLTt", said)
        self.assertIn("first line was taken as the front row", said)
        self.assertRegex(said, r"front left: tighten \d/8 turn \(-0\.\d\d mm\)")
        self.assertIn("Expected afterwards", said)
        self.assertRegex(said, r"The chance that the next survey is content: \d+ %")

    def test_a_stray_reading_counts_for_nothing(self):
        rows = [[0.1 + 0.02 * i for i in range(5)] for _ in range(5)]
        rows[3][3] = 1.9
        text = "\n".join(" ".join(f"{value:.3f}" for value in row) for row in rows)
        said = self.read(text, "--bed", "220x220", "--screws", "4")
        self.assertIn("1 reading belongs to no such bed and counts for nothing here.", said)
        self.assertIn("24 readings, 0.080 mm", said)

    def test_for_scripts(self):
        report = json.loads(self.read(GRID, "--bed", "220x220", "--screws", "3", "--json"))
        self.assertEqual(report["readings"], 9)
        self.assertAlmostEqual(report["shape_mm"]["tilt_x"], -0.2 * 220 / 190, places=4)
        self.assertEqual(len(report["plan"]), 3)
        self.assertLess(report["spread_after_mm"], 0.15)
        self.assertEqual(report["flatness_mm"]["peak_to_valley"], 0.0)

    def test_options(self):
        text = "x,y,z\n0,0,0.1\n200,0,0\n0,200,0\n200,200,0\n"
        gaps = json.loads(self.read(text, "--gaps", "--json"))
        heights = json.loads(self.read(text, "--json"))
        self.assertEqual(gaps["shape_mm"]["tilt_x"], -heights["shape_mm"]["tilt_x"])
        centred = json.loads(self.read(GRID, "--bed", "220x220", "--centre-origin", "--back-first", "--json"))
        self.assertGreater(centred["shape_mm"]["tilt_y"], 0)
        posts = self.file("name,x,y,pitch\na,0,0,0.5\nb,200,0,0.5\nc,100,200,0.5\n", "posts.csv")
        report = json.loads(self.read(text, "--screws", posts, "--bed", "200x200", "--json"))
        self.assertEqual([turn["screw"] for turn in report["plan"]], ["a", "b", "c"])

    def test_bad_input_in_one_sentence(self):
        self.assertIn("no numbers", self.read("hello", code=1))
        self.assertIn("bounds", self.read(GRID, code=1))
        self.assertIn("width x depth", self.read(GRID, "--bed", "large", code=1))
        self.assertIn(
            "cannot be read", self.read(GRID, "--bed", "220x220", "--screws", "nowhere.csv", code=1)
        )
        bad = self.file("a,b\n", "bad.csv")
        self.assertIn("name,x,y,pitch", self.read(GRID, "--bed", "220x220", "--screws", bad, code=1))
        said = self.read("0.1 0.2 0.3 1\n0.1 oops 0.3 1\n0.1 0.2 0.3 1\n", "--bed", "220x220", code=1)
        self.assertIn("line 2", said)

    def test_memory_of_the_largest_file(self):
        """Peak memory of reading 20,000 readings stays under 250 MB."""
        lines = [f"{(i % 200) * 1.5},{(i // 200) * 3.0},{(i * 7 % 13) / 100}" for i in range(20_000)]
        path = self.file("\n".join(lines))
        done = subprocess.run([sys.executable, "-c", MEMORY, path], capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertLess(int(done.stdout.split()[-1]), 250)


class FileTest(unittest.TestCase):
    """A file of a print looked through, without a database."""

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.path = Path(folder.name) / "print.gcode"
        things = [Thing(rectangle(60, 60, 30, 20), 0.6), Thing(disc(150, 150, 8), 12.0)]
        cls.path.write_text(slice_things(things, Manner(fan=50))[0])
        cls.readings = Path(folder.name) / "bed.csv"
        rows = [f"{x},{y},{0.001 * (x - 110):.3f}" for x in (10, 110, 210) for y in (10, 110, 210)]
        cls.readings.write_text("x,y,height\n" + "\n".join(rows) + "\n")

    def look(self, *options, code=0):
        result = CliRunner().invoke(main, ["file", str(self.path), *options])
        self.assertEqual(result.exit_code, code, result.output)
        return result.output

    def test_for_scripts(self):
        options = ("--bed", "220x220", "--material", "PLA", "--surface", "textured PEI", "--json")
        found = json.loads(self.look(*options))
        first = found["first_layer"]
        self.assertEqual((first["height_mm"], first["bed_c"], first["nozzle_c"]), (0.2, 60.0, 205.0))
        self.assertAlmostEqual(first["line_width_mm"], 0.45, delta=0.01)
        self.assertEqual((first["speed_mm_s"], first["fan_percent"]), (25.0, 50.2))
        self.assertEqual([round(part["foot_mm2"], -1) for part in found["parts"]], [600, 50])
        self.assertEqual(found["parts"][1]["bounds"], [146.0, 146.0, 154.0, 154.0])
        codes = {one["code"]: one for one in found["findings"]}
        self.assertLessEqual({"fan_on", "brim"}, set(codes))
        self.assertTrue(all(set(one) == {"code", "line", "message"} for one in found["findings"]))
        self.assertGreater(found["total"]["minutes"], 1)
        self.assertGreater(found["total"]["grams"], 0.5)

    def test_in_words(self):
        said = self.look("--bed", "220x220", "--material", "pla", "--price", "30")
        self.assertIn("First layer 0.20 mm high, lines 0.45 mm wide, 25 mm/s", said)
        self.assertIn("a failure costs up to", said)
        self.assertRegex(said, r"! The part fan runs at 50 % during the first layer.*\(line \d+\)")
        self.assertIn("? Which surface is on the bed?", said)

    def test_on_a_measured_bed(self):
        found = json.loads(self.look("--bed", "220x220", "--survey", str(self.readings), "--json"))
        self.assertLess(found["forecast"]["good_percent"], 100)
        self.assertEqual(len(found["forecast"]["parts"]), 2)
        self.assertIn("will be good", self.look("--bed", "220x220", "--survey", str(self.readings)))

    def test_what_is_wrong_is_said(self):
        self.assertIn("is not one of", self.look("--material", "moonstone", code=1))
        self.assertIn("is not one of", self.look("--surface", "moss", code=1))
        self.assertIn("width x depth", self.look("--bed", "wide", code=1))
        self.assertIn("Readings need the bed", self.look("--survey", str(self.readings), code=1))
        empty = self.path.with_name("empty.gcode")
        empty.write_text("")
        result = CliRunner().invoke(main, ["file", str(empty)])
        self.assertIn("This file is empty.", result.output)


class CopyTest(unittest.TestCase):
    """Copies of a file made without a database."""

    @classmethod
    def setUpClass(cls):
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        cls.folder = Path(folder.name)
        cls.path = cls.folder / "print.gcode"
        cls.path.write_text(slice_things([Thing(rectangle(60, 60, 30, 20), 0.6)], Manner())[0])
        cls.readings = cls.folder / "bed.csv"
        rows = [
            f"{x},{y},{-1e-5 * ((x - 110) ** 2 + (y - 110) ** 2):.3f}"
            for x in range(10, 211, 50)
            for y in range(10, 211, 50)
        ]
        cls.readings.write_text("x,y,height\n" + "\n".join(rows) + "\n")

    def make(self, *options, code=0, name="copy.gcode"):
        out = self.folder / name
        out.unlink(missing_ok=True)
        result = CliRunner().invoke(main, ["copy", str(self.path), str(out), *options])
        self.assertEqual(result.exit_code, code, result.output)
        self.assertEqual(out.exists(), code == 0)
        return result.output, out.read_text() if code == 0 else ""

    def test_bent_to_readings(self):
        said, bent = self.make("--bend", "--bed", "220x220", "--survey", str(self.readings))
        self.assertIn("the path follows the bed", said)
        self.assertTrue(bent.startswith("; Copy of print.gcode, bent to the bed of this printer."))
        lowest = min(move.end[2] for move in read_plain(bent).laid)
        self.assertLess(lowest, 0.12)

    def test_moved_and_one_thing_changed(self):
        said, moved = self.make("--move", "40,-20,1", "--bed", "220x220")
        self.assertIn("turned a quarter to the left, then 40 mm to the right, 20 mm to the front", said)
        self.assertNotEqual(moved.splitlines()[4:], self.path.read_text().splitlines())
        said, moved = self.make("--move", "40,-20", "--part", "part 1", "--bed", "220x220")
        self.assertIn("its part 1 moved on the bed of this printer: 40 mm to the right", said)
        said, changed = self.make("--bed-heat", "65", "--bed", "220x220")
        self.assertIn("60 C before, 65 C now", said)
        self.assertEqual(changed.count("S65\n"), 2)
        self.make("--trim", "0.02", "--bed", "220x220")

    def test_what_is_wrong_is_said_and_nothing_is_written(self):
        bed = ("--bed", "220x220")
        for options, words in (
            ((), "Say one thing"),
            (("--bend", "--speed", "20", *bed), "Say one thing"),
            (("--speed", "20"), "a printer on record or the size"),
            (("--bend", *bed), "was not measured"),
            (("--move", "far", *bed), "X,Y in mm"),
            (("--move", "40,0", "--part", "lid", *bed), "no part called lid. In the file: part 1"),
            (("--fan", "40", "--part", "part 1", *bed), "goes with --move"),
            (("--move", "500,0", *bed), "leave the printable area"),
            (("--trim", "-0.02", *bed), "was not measured"),
            (("--speed", "900", *bed), "between 5 and 120"),
        ):
            with self.subTest(options):
                self.assertIn(words, self.make(*options, code=1)[0])
        before = self.path.read_bytes()
        result = CliRunner().invoke(main, ["copy", str(self.path), str(self.path), "--speed", "20", *bed])
        self.assertIn("another name", result.output)
        self.assertEqual(self.path.read_bytes(), before)


class DatabaseCommandsTest(unittest.TestCase):
    def run_with(self, url, *args, code=0, text=None):
        result = CliRunner().invoke(main, list(args), env={ENVIRONMENT: url}, input=text)
        self.assertEqual(result.exit_code, code, result.output)
        return result.output

    def test_upgrade_load_downgrade(self):
        url = support.new_database("test_cli")
        text = url.render_as_string(hide_password=False)
        self.assertIn(migrate.head(), self.run_with(text, "db", "upgrade"))
        self.assertIn("was written", self.run_with(text, "demo", "load"))
        self.assertIn("printers already", self.run_with(text, "demo", "load"))
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "print.gcode"
            path.write_text(slice_things([Thing(rectangle(60, 60, 30, 20), 0.6)], Manner())[0])
            found = json.loads(self.run_with(text, "file", str(path), "--printer", "avocet", "--json"))
            self.assertIn("good_percent", found["forecast"])
            self.assertIn("bed_cold", {one["code"] for one in found["findings"]})
            said = self.run_with(text, "file", str(path), "--printer", "Heron", code=1)
            self.assertIn("There is no printer called Heron. On record: Avocet", said)
            copy = Path(folder) / "copy.gcode"
            bend = "copy", str(path), str(copy), "--bend", "--printer", "avocet"
            self.assertIn("Use the mesh, or clear it", self.run_with(text, *bend, code=1))
            said = self.run_with(text, *bend, "--mesh-cleared")
            self.assertIn("bent to the bed of Avocet as measured on", said)
            self.assertIn(said.splitlines()[2], copy.read_text())
        self.run_with(text, "db", "downgrade", "base", text="n\n", code=1)
        self.run_with(text, "db", "downgrade", "base", text="y\n")
        engine = make_engine(url)
        self.assertIsNone(migrate.current(engine))
        engine.dispose()

    def test_no_database(self):
        self.assertIn("No database is named", self.run_with("", "db", "upgrade", code=1))

    def test_version(self):
        self.assertIn("finchwort", CliRunner().invoke(main, ["--version"]).output)
