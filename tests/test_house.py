"""The rules of the house: arrows point inward, and every example in a docstring runs."""

import ast
import doctest
import importlib
import re
import unittest
from functools import cache
from graphlib import CycleError, TopologicalSorter
from pathlib import Path
from string import Formatter
from typing import get_args

import finchwort
from finchwort.core.base import errors

SOURCE = Path(finchwort.__file__).parent
TESTS = Path(__file__).parent
ROOT = TESTS.parent
REFERENCES = ROOT / "docs" / "references.md"
LOW = {"core", "knowledge", "messages", "formats"}
BELOW = {"services", "store"} | LOW
ALLOWED = {
    "core": {"core"},
    "knowledge": {"knowledge", "core"},
    "messages": {"messages", "core"},
    "formats": {"formats", "messages", "knowledge", "core"},
    "store": {"store"} | LOW,
    "services": BELOW,
    "web": {"web"} | BELOW,
    "link/simulated": {"link"},
    "link": {"link"} | BELOW,
    "runtime": {"runtime", "link", "web"} | BELOW,
    "demo": {"demo", "runtime", "link", "web"} | BELOW,
}
AREAS = (
    "base",
    "printers",
    "surveys",
    "visits",
    "probing",
    "tramming",
    "levelling",
    "compensation",
    "first_layer",
    "diagnosis",
    "machine",
    "files",
    "prints",
)
"""The areas of the core; each may use those before it."""
INPUT_ERRORS = {name for name, kind in vars(errors).items() if isinstance(kind, type)} | {
    "UnreadableTextError"
}
LAYERS = ("core", "services", "store", "web", "web/schemas")
NO_AREAS = {"base", "migrations", "schemas", "templates", "__pycache__"}
FOREIGN = {"serial", "flask", "apiflask", "sqlalchemy", "pydantic", "alembic", "click", "pymysql"}


@cache
def parsed(path: Path) -> ast.Module:
    return ast.parse(path.read_text("utf-8"))


@cache
def imports(path: Path) -> frozenset[str]:
    found = set()
    for node in ast.walk(parsed(path)):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return frozenset(found)


def written_sentences(kind: str) -> dict:
    """Give all sentences of the messages, by their codes."""
    found = {}
    for area in (*AREAS, "access", "formats"):
        of_area = getattr(importlib.import_module(f"finchwort.messages.{area}"), kind, {})
        wrong = [code for code in of_area if not code.startswith(f"{area}.")]
        assert not wrong, wrong
        found |= of_area
    return found


class HouseTest(unittest.TestCase):
    def test_arrows_point_inward(self):
        for layer, allowed in ALLOWED.items():
            files = list((SOURCE / layer).rglob("*.py"))
            self.assertTrue(files, layer)
            for path in files:
                ours = {m.split(".")[1] for m in imports(path) if m.startswith("finchwort.")}
                self.assertLessEqual(ours, allowed, path)

    def test_an_area_of_the_core_uses_only_those_before_it(self):
        self.assertEqual({p.parent.name for p in (SOURCE / "core").glob("*/__init__.py")}, set(AREAS))
        for path in (SOURCE / "core").rglob("*/*.py"):
            area = path.relative_to(SOURCE / "core").parts[0]
            used = {m.split(".")[2] for m in imports(path) if m.startswith("finchwort.core.")}
            self.assertLessEqual(used, set(AREAS[: AREAS.index(area) + 1]), path)

    def test_the_same_words_name_the_areas_in_every_layer(self):
        for layer in LAYERS:
            folders = {p.name for p in (SOURCE / layer).iterdir() if p.is_dir()} - NO_AREAS
            self.assertLessEqual(folders, set(AREAS) | {"access"}, layer)
        named = {p.stem for p in (SOURCE / "web/schemas").glob("*.py")} - {"__init__"}
        self.assertLessEqual(named, set(AREAS) | {"access"})

    def test_the_screens_lie_in_the_same_areas(self):
        folders = {p.name for p in (ROOT / "frontend" / "src").iterdir() if p.is_dir()}
        self.assertLessEqual(
            folders - {"api", "bed", "charts", "components", "shell"}, {"access", *AREAS[1:]}
        )

    def test_no_two_modules_of_the_screens_need_each_other(self):
        source = ROOT / "frontend" / "src"
        needs: dict[Path, set[Path]] = {}
        for file in source.rglob("*"):
            if file.suffix not in {".ts", ".vue"} or file.name.endswith(".d.ts"):
                continue
            # types alone are gone when it runs
            for name in re.findall(r"^import (?!type\b)[^;]*?'([^']+)'$", file.read_text("utf-8"), re.M):
                base = source / name[2:] if name.startswith("@/") else (file.parent / name).resolve()
                for found in (base, base.with_name(f"{base.name}.ts")):
                    if found.is_file():
                        needs.setdefault(file, set()).add(found)
        self.assertGreater(len(needs), 100)
        try:
            tuple(TopologicalSorter(needs).static_order())
        except CycleError as error:
            self.fail(" → ".join(str(one.relative_to(source)) for one in error.args[1]))

    def test_the_screens_ask_by_the_routes_of_the_api(self):
        source = ROOT / "frontend" / "src"
        by_hand = {
            str(file.relative_to(source))
            for file in source.rglob("*")
            if file.suffix in {".ts", ".vue"}
            and re.search(r"\bfetch\(|\bhttp\.|useMutation\(", file.read_text("utf-8"))
        }
        # what is no JSON, or must not go through the kept answers: health, news, readings to lie in a picture
        self.assertEqual(
            by_hand,
            {"api/ask.ts", "api/client.ts", "shell/follow.ts", "shell/patience.ts", "surveys/SurveyMap.vue"},
        )

    def test_others_take_an_area_by_its_public_names(self):
        for path in SOURCE.rglob("*.py"):
            here = path.relative_to(SOURCE).parts
            for module in imports(path):
                parts = module.split(".")
                reaches = parts[:2] == ["finchwort", "core"] and len(parts) == 4 and parts[2] != "base"
                # messages say a result with the very limits it was judged by
                if reaches and here[0] != "messages":
                    self.assertEqual(here[:2], ("core", parts[2]), f"{path} reaches into {module}")

    def test_one_road_to_every_decision(self):
        for name in (
            "plan_turns",
            "look_ahead",
            "diagnose",
            "rank_causes",
            "propose_checks",
            "advise_offset",
        ):
            for path in SOURCE.rglob("*.py"):
                layer = path.relative_to(SOURCE).parts[0]
                named = {
                    alias.name
                    for node in ast.walk(parsed(path))
                    if isinstance(node, ast.ImportFrom)
                    for alias in node.names
                }
                if name in named:
                    self.assertIn(
                        layer, ("core", "services"), f"{path} decides by {name} on a road of its own"
                    )

    def test_each_error_has_its_sentence_and_each_sentence_its_error(self):
        ERRORS = written_sentences("ERRORS")

        raised, written = set(), set()
        for path in SOURCE.rglob("*.py"):
            for node in ast.walk(parsed(path)):
                if isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value in ERRORS:
                    written |= {node.value} if "messages" not in path.parts else set()
                if isinstance(node, ast.Raise) and isinstance(node.exc, ast.Call):
                    kind, given = node.exc.func, node.exc.args
                    if isinstance(kind, ast.Name) and kind.id in INPUT_ERRORS and given:
                        self.assertNotIsInstance(given[0], ast.JoinedStr, f"{path}:{node.lineno}")
                        if isinstance(given[0], ast.Constant):
                            raised.add(given[0].value)
                            wanted = {
                                name for _, name, _, _ in Formatter().parse(ERRORS[given[0].value]) if name
                            }
                            has = {keyword.arg for keyword in node.exc.keywords}
                            self.assertLessEqual(wanted, has, f"{path}:{node.lineno}")
        self.assertGreater(len(raised), 300)
        self.assertEqual(raised - set(ERRORS), set())
        self.assertEqual(set(ERRORS) - written, set())

    def test_each_remark_has_its_words_and_all_words_are_used(self):
        REMARKS = written_sentences("REMARKS")

        used = set()
        for path in SOURCE.rglob("*.py"):
            for node in ast.walk(parsed(path)):
                if isinstance(node, ast.Constant) and isinstance(node.value, str) and node.value in REMARKS:
                    used |= {node.value} if "messages" not in path.parts else set()
                if not (isinstance(node, ast.Call) and isinstance(node.func, ast.Name)):
                    continue
                if node.func.id == "remark" and isinstance(node.args[0], ast.Constant):
                    sentence = REMARKS[node.args[0].value]
                    if isinstance(sentence, str):
                        gaps = {name for _, name, _, _ in Formatter().parse(sentence) if name}
                        given = {keyword.arg for keyword in node.keywords}
                        self.assertEqual(gaps, given, f"{path}:{node.lineno}")
        self.assertEqual(set(REMARKS) - used, set())

    def test_each_kind_of_job_can_be_asked_for_and_done(self):
        from finchwort.services.machine.kinds import JOBS, JobKind
        from finchwort.web import schemas

        self.assertEqual(set(JOBS), set(JobKind))
        union, _ = get_args(schemas.JobWish)
        kinds = [kind for wish in get_args(union) for kind in get_args(wish.model_fields["kind"].annotation)]
        self.assertEqual(sorted(kinds), sorted(JobKind))

    def test_no_two_modules_import_each_other(self):
        paths = {
            ".".join(p.relative_to(SOURCE.parent).with_suffix("").parts): p for p in SOURCE.rglob("*.py")
        }
        graph = {name: {m for m in imports(path) if m in paths and m != name} for name, path in paths.items()}
        try:
            TopologicalSorter(graph).prepare()
        except CycleError as error:
            self.fail(f"a circle: {error.args[1]}")

    def test_public_names_are_there(self):
        for area in AREAS[1:]:
            loaded = importlib.import_module(f"finchwort.core.{area}")
            self.assertTrue(loaded.__all__, area)
            for name in loaded.__all__:
                self.assertTrue(hasattr(loaded, name), f"{area}.{name}")

    def test_the_simulated_printer_lives_apart(self):
        for path in (SOURCE / "link" / "simulated").rglob("*.py"):
            ours = {m for m in imports(path) if m.startswith("finchwort.")}
            self.assertTrue(all(m.startswith("finchwort.link.simulated") for m in ours), (path, ours))
            self.assertNotIn("serial", {m.split(".")[0] for m in imports(path)}, path)

    def test_the_core_knows_no_interface(self):
        for layer in ("core", "messages", "formats", "knowledge"):
            for path in (SOURCE / layer).rglob("*.py"):
                tops = {module.split(".")[0] for module in imports(path)}
                self.assertFalse(tops & FOREIGN, path)

    def test_the_core_reads_no_clock_and_no_file(self):
        for path in (SOURCE / "core").rglob("*.py"):
            tops = {module.split(".")[0] for module in imports(path)}
            self.assertFalse(tops & {"time", "datetime", "os", "pathlib", "random"}, path)

    def test_names_others_rely_on(self):
        for module, names in {
            "core.surveys": ["Survey", "assess_flatness", "decompose"],
            "core.tramming": ["Screw", "plan_turns"],
            "core.probing": ["assess_repeatability"],
            "core.first_layer": ["Bead", "offset_from_patches"],
            "core.diagnosis": ["diagnose"],
            "formats": ["read_survey"],
        }.items():
            loaded = importlib.import_module(f"finchwort.{module}")
            for name in names:
                self.assertTrue(hasattr(loaded, name), f"{module}.{name}")


class TestsTest(unittest.TestCase):
    """The tests keep the rules of the house too."""

    def test_folders_are_areas(self):
        for layer in ("core", "services", "web", "e2e", "outside"):
            folders = {p.name for p in (TESTS / layer).iterdir() if p.is_dir()} - NO_AREAS
            self.assertLessEqual(folders, {"base", "access", *AREAS}, layer)

    def test_no_test_is_imported_by_another(self):
        for path in TESTS.rglob("*.py"):
            for module in imports(path):
                if module.startswith("tests."):
                    self.assertFalse(module.rpartition(".")[2].startswith("test_"), (path, module))

    def test_nobody_sleeps_before_a_page(self):
        for path in (TESTS / "e2e").rglob("*.py"):
            self.assertNotIn("time.sleep(", path.read_text("utf-8"), path)


class ReferencesTest(unittest.TestCase):
    """docs/references.md names files and constants that are there."""

    def test_files_and_names_are_there(self):
        rows = [line for line in REFERENCES.read_text("utf-8").splitlines() if line.startswith("|")]
        self.assertGreater(len(rows), 80)
        for row in rows:
            files = re.findall(r"\b((?:[a-z0-9_]+/)+\w+\.(?:py|toml))", row)
            found = []
            for name in files:
                path = ROOT / name if name.startswith(("tests/", "bench/")) else SOURCE / name
                self.assertTrue(path.is_file(), f"{name} of: {row}")
                found.append(path.read_text("utf-8"))
            for name in re.findall(r"`([A-Z][A-Z0-9_]+)`", row):
                self.assertTrue(any(re.search(rf"\b{name}\b", text) for text in found), f"{name} of: {row}")


class ExamplesTest(unittest.TestCase):
    def test_every_example_in_a_docstring_runs(self):
        tried = 0
        for layer in ("core", "formats", "knowledge", "messages", "services", "link"):
            for path in sorted((SOURCE / layer).rglob("*.py")):
                dotted = ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts)
                with self.subTest(dotted):
                    module = importlib.import_module(dotted.removesuffix(".__init__"))
                    failed, attempted = doctest.testmod(module)
                    self.assertEqual(failed, 0)
                    tried += attempted
        self.assertGreater(tried, 50)
