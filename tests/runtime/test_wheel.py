"""The wheel, installed into a fresh environment without the sources: it starts, serves its pages, and looks after its records."""

import os
import re
import subprocess
import sys
import sysconfig
import tempfile
import urllib.request
from pathlib import Path

from tests.fixtures.own_workshop import OwnWorkshop

ROOT = Path(__file__).parents[2]


class WheelTest(OwnWorkshop):
    """The packages it needs come from this environment, where they are installed already; Finchwort itself does not."""

    @classmethod
    def setUpClass(cls):
        held = tempfile.TemporaryDirectory(prefix="finchwort-wheel-")
        cls.addClassCleanup(held.cleanup)
        cls.place = Path(held.name)
        subprocess.run([str(ROOT / "bin" / "wheel"), held.name], check=True, capture_output=True, timeout=170)
        cls.wheel = next(cls.place.glob("finchwort-*.whl"))
        subprocess.run([sys.executable, "-m", "venv", str(cls.place / "fresh")], check=True, timeout=170)
        python = cls.place / "fresh" / "bin" / "python"
        install = [str(python), "-m", "pip", "install", "--quiet", "--no-deps", "--no-index", str(cls.wheel)]
        subprocess.run(install, check=True, timeout=170)
        cls.python = (str(python), "-m", "finchwort.cli")
        # a folder named so is no place for editable installs: their files are not looked at
        cls.environment = {"PYTHONPATH": sysconfig.get_paths()["purelib"]}
        super().setUpClass()

    def test_it_starts_serves_and_keeps(self):
        told = subprocess.run(
            [self.python[0], "-c", "import finchwort.web.pages as p; print(p.__file__); print(p.folder())"],
            capture_output=True,
            text=True,
            check=True,
            env=os.environ | self.environment,
            cwd="/",
        )
        for line in told.stdout.split():
            self.assertTrue(line.startswith(str(self.place / "fresh")), line)
        self.start()
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}/", timeout=30) as answer:
            page = answer.read().decode()
        for name in re.findall(r'(?:src|href)="(/assets/[^"]+)"', page):
            with urllib.request.urlopen(f"http://127.0.0.1:{self.port}{name}", timeout=30) as part:
                self.assertGreater(len(part.read()), 100, name)
        self.ask("/api/logbook", {"text": "by the wheel"})
        self.assertIn("read back", self.of("backup").stdout)
        self.assertTrue(self.ask("/api/knowledge"))  # data files come with it
        self.assertIn(self.place.name, self.run_it("service", "install", "--print").stdout)
