"""The rules of the house: arrows point inward, and every example in a docstring runs."""

import ast
import doctest
import importlib
import unittest
from pathlib import Path

import finchwort

SOURCE = Path(finchwort.__file__).parent
ALLOWED = {
    "core": {"core"},
    "knowledge": {"knowledge", "core"},
    "formats": {"formats", "core"},
    "store": {"store", "formats", "core", "knowledge"},
    "web": {"web", "store", "formats", "core", "knowledge"},
    "link/simulated": {"link"},
    "link": {"link", "store", "formats", "core", "knowledge"},
    "runtime": {"runtime", "link", "web", "store", "formats", "core", "knowledge"},
    "demo": {"demo", "runtime", "link", "web", "store", "formats", "core", "knowledge"},
}
FOREIGN = {"serial", "flask", "apiflask", "sqlalchemy", "pydantic", "alembic", "click", "pymysql"}


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text("utf-8"))):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


class HouseTest(unittest.TestCase):
    def test_arrows_point_inward(self):
        for layer, allowed in ALLOWED.items():
            files = list((SOURCE / layer).rglob("*.py"))
            self.assertTrue(files, layer)
            for path in files:
                ours = {m.split(".")[1] for m in imports(path) if m.startswith("finchwort.")}
                self.assertLessEqual(ours, allowed, path)

    def test_the_simulated_printer_lives_apart(self):
        for path in (SOURCE / "link" / "simulated").rglob("*.py"):
            ours = {m for m in imports(path) if m.startswith("finchwort.")}
            self.assertTrue(all(m.startswith("finchwort.link.simulated") for m in ours), (path, ours))
            self.assertNotIn("serial", {m.split(".")[0] for m in imports(path)}, path)

    def test_the_core_knows_no_interface(self):
        for layer in ("core", "formats", "knowledge"):
            for path in (SOURCE / layer).rglob("*.py"):
                tops = {module.split(".")[0] for module in imports(path)}
                self.assertFalse(tops & FOREIGN, path)

    def test_the_core_reads_no_clock_and_no_file(self):
        for path in (SOURCE / "core").rglob("*.py"):
            tops = {module.split(".")[0] for module in imports(path)}
            self.assertFalse(tops & {"time", "datetime", "os", "pathlib", "random"}, path)

    def test_names_others_rely_on(self):
        for module, names in {
            "core.surveys": ["Survey"],
            "core.flatness": ["assess_flatness"],
            "core.shape": ["decompose"],
            "core.tramming": ["Screw", "plan_turns"],
            "core.repeatability": ["assess_repeatability"],
            "formats": ["read_survey"],
        }.items():
            loaded = importlib.import_module(f"finchwort.{module}")
            for name in names:
                self.assertTrue(hasattr(loaded, name), f"{module}.{name}")


class ExamplesTest(unittest.TestCase):
    def test_every_example_in_a_docstring_runs(self):
        tried = 0
        for layer in ("core", "formats", "knowledge", "link"):
            for path in sorted((SOURCE / layer).rglob("*.py")):
                dotted = ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts)
                with self.subTest(dotted):
                    module = importlib.import_module(dotted.removesuffix(".__init__"))
                    failed, attempted = doctest.testmod(module)
                    self.assertEqual(failed, 0)
                    tried += attempted
        self.assertGreater(tried, 50)
