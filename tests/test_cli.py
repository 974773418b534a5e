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
        self.run_with(text, "db", "downgrade", "base", text="n\n", code=1)
        self.run_with(text, "db", "downgrade", "base", text="y\n")
        engine = make_engine(url)
        self.assertIsNone(migrate.current(engine))
        engine.dispose()

    def test_no_database(self):
        self.assertIn("No database is named", self.run_with("", "db", "upgrade", code=1))

    def test_version(self):
        self.assertIn("finchwort", CliRunner().invoke(main, ["--version"]).output)
