"""The API description, the types made from it, and the weight of the built pages."""

import gzip
import json
import re
import subprocess
import tempfile
import unittest
from pathlib import Path

from finchwort.web import create_app

ROOT = Path(__file__).parents[2]
FRONTEND = ROOT / "frontend"
MAX_SCRIPT, MAX_STYLE = 180_000, 40_000
"""Script and style of a first load as they travel, bytes."""
IMPORT = re.compile(r"""(?:from|import)\s*["'](\./[^"']+\.js)["']""")


def travels(path: Path) -> int:
    """Bytes of a file on the wire to a browser that reads gzip and no more."""
    packed = Path(f"{path}.gz")
    return (packed if packed.exists() else path).stat().st_size


class ApiTypesTest(unittest.TestCase):
    def test_description_is_up_to_date(self):
        spec = create_app("mysql+pymysql://nobody@localhost/none").spec
        kept = json.loads((FRONTEND / "openapi.json").read_text())
        self.assertEqual(json.loads(json.dumps(spec)), kept, "run bin/types")

    def test_types_are_up_to_date(self):
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "schema.d.ts"
            subprocess.run(
                [
                    "node_modules/.bin/openapi-typescript",
                    "openapi.json",
                    "--default-non-nullable=false",
                    "-o",
                    str(out),
                ],
                cwd=FRONTEND,
                check=True,
                capture_output=True,
            )
            self.assertEqual(out.read_text(), (FRONTEND / "src/api/schema.d.ts").read_text(), "run bin/types")

    def test_every_operation_has_its_own_name(self):
        spec = json.loads((FRONTEND / "openapi.json").read_text())
        names = [
            op["operationId"]
            for path in spec["paths"].values()
            for op in path.values()
            if "operationId" in op
        ]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreater(len(names), 25)


class WeightTest(unittest.TestCase):
    def setUp(self):
        self.dist = FRONTEND / "dist"
        self.page = (self.dist / "index.html").read_text()

    def first_load(self) -> set[Path]:
        """Scripts that the page and what it imports statically load."""
        names = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', self.page)
        found, waiting = set(), [self.dist / name for name in names]
        while waiting:
            path = waiting.pop()
            if path in found:
                continue
            found.add(path)
            waiting += [path.parent / name for name in IMPORT.findall(path.read_text())]
        return found

    def test_first_load(self):
        files = self.first_load()
        self.assertTrue(files)
        size = sum(travels(path) for path in files)
        self.assertLess(size, MAX_SCRIPT, f"{size} bytes")
        size = sum(travels(path) for path in (self.dist / "assets").glob("*.css"))
        self.assertLess(size, MAX_STYLE, f"{size} bytes")

    def test_both_compressions_hold_the_same(self):
        checked = 0
        for path in (self.dist / "assets").glob("*.*"):
            if path.suffix in (".js", ".css") and path.stat().st_size > 1000:
                self.assertEqual(gzip.decompress(Path(f"{path}.gz").read_bytes()), path.read_bytes())
                self.assertLess(travels(path), path.stat().st_size)
                checked += 1
        self.assertGreater(checked, 40)

    def test_screens_are_split(self):
        names = {path.name.split("-")[0] for path in (self.dist / "assets").glob("*.js")}
        self.assertTrue({"VisitPage", "PrinterForm", "LogbookPage", "AtPrinter"} <= names, names)
        first = {path.name.split("-")[0] for path in self.first_load()}
        self.assertFalse({"VisitPage", "PrinterForm", "LogbookPage"} & first)

    def test_nothing_is_fetched_from_elsewhere(self):
        for path in (self.dist / "assets").iterdir():
            if path.suffix == ".css":
                self.assertNotRegex(path.read_text(), r"url\(\s*['\"]?https?:", path.name)
        fonts = {path.name.split("-latin")[0] for path in (self.dist / "assets").glob("*.woff2")}
        self.assertEqual(len(fonts), 2)
        self.assertTrue(all(path.stat().st_size < 40_000 for path in (self.dist / "assets").glob("*.woff2")))
