"""One word for one thing, and plain English: what no page, message or entry of the logbook says."""

import ast
import re
import tomllib
import unittest
from pathlib import Path

from finchwort.knowledge import terms

ROOT = Path(__file__).parents[2]
SOURCE = ROOT / "src" / "finchwort"
RULED_OUT = {
    # twins of a term
    "backlash": "play",
    "gantry": "cross beam",
    "end ?stop": "Z switch",
    "levell?er": "the knobs",
    "trammed|tramming": "level, levelling",
    "leveling": "levelling",
    "auto.?level\\w*": "compensation",
    "heat.?soak\\w*": "warming up",
    "set-?up strip|setup strip": "setup bar",
    "e-?steps": "steps per millimetre",
    # English that nobody speaks
    "nought": "0",
    "anew|afresh": "again",
    "for ever|forever": "without end",
    "weighed|weighing|weigh": "judged",
    "whilst|hitherto|heretofore|therein": "while, until now",
}
FORBIDDEN = re.compile(rf"(?<![\w/.-])(?:{'|'.join(RULED_OUT)})(?![\w/-])", re.IGNORECASE)
SIGNS = re.compile(r"\+-\s?\d|\+/-")
"""Two signs where ± belongs, or a nothing with both."""


def said_in_python(path: Path) -> list[str]:
    """Give the texts of a module that may be said to somebody: no docstrings, no single words."""
    tree = ast.parse(path.read_text())
    quiet = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef | ast.AsyncFunctionDef):
            quiet |= {id(one.value) for one in node.body if isinstance(one, ast.Expr)}
        # what a column, a command or an argument of a program says to those who work on it
        if isinstance(node, ast.Assign) and isinstance(node.value, ast.Constant):
            quiet.add(id(node.value)) if node.targets[0].__class__ is ast.Attribute else None
    return [
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant)
        and isinstance(node.value, str)
        and " " in node.value
        and id(node) not in quiet
    ]


def said_in_toml(value) -> list[str]:
    """Give all texts of a table but the words by which a term is looked for."""
    if isinstance(value, str):
        return [value] if " " in value else []
    if isinstance(value, list):
        return [text for one in value for text in said_in_toml(one)]
    if isinstance(value, dict):
        return [text for key, one in value.items() if key != "also" for text in said_in_toml(one)]
    return []


def said_on_a_page(path: Path) -> str:
    """Give a component without its comments and styles."""
    text = path.read_text().split("<style")[0]
    text = re.sub(r"<!--.*?-->|/\*.*?\*/", "", text, flags=re.DOTALL)
    return re.sub(r"(?m)(?:^|\s)//.*$", "", text)


class WordsTest(unittest.TestCase):
    def wrong(self, text: str) -> list[str]:
        return [one.group() for one in (*FORBIDDEN.finditer(text), *SIGNS.finditer(text))]

    def test_the_product_keeps_to_one_word_for_one_thing(self):
        found = {}
        for path in sorted(SOURCE.rglob("*.py")):
            if "simulated" in path.parts or "migrations" in path.parts:
                continue
            for text in said_in_python(path):
                if wrong := self.wrong(text):
                    found[f"{path.relative_to(ROOT)}: {text[:90]}"] = wrong
        for path in sorted(SOURCE.glob("knowledge/*.toml")):
            for text in said_in_toml(tomllib.loads(path.read_text())):
                # a term names its other words in brackets, once; and people say what they like
                if path.name not in ("terms.toml", "words.toml") and (wrong := self.wrong(text)):
                    found[f"{path.name}: {text[:90]}"] = wrong
        for path in sorted((ROOT / "frontend" / "src").rglob("*.vue")):
            if wrong := self.wrong(said_on_a_page(path)):
                found[str(path.relative_to(ROOT))] = wrong
        self.assertEqual(found, {})

    def test_the_check_finds_what_it_looks_for(self):
        for text in (
            "Set it anew.",
            "Turned against backlash",
            "+-0.00 mm",
            "begin at nought",
            "the gantry hangs",
            "3 patches weighed",
        ):
            with self.subTest(text):
                self.assertTrue(self.wrong(text))
        for text in ("A sheet weighs 400 g", "set the new one", "core/tramming/plan.py"):
            with self.subTest(text):
                self.assertEqual(self.wrong(text), [])


class TermsTest(unittest.TestCase):
    def test_each_is_one_sentence_with_a_name_of_its_own(self):
        names = [one.name.casefold() for one in terms().values()]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreater(len(names), 35)
        for one in terms().values():
            with self.subTest(one.key):
                self.assertLess(len(one.says), 190)
                # a full stop only at its end, or behind a figure
                self.assertNotRegex(one.says.rstrip("."), r"\.\s[A-Z]")

    def test_what_leads_to_a_term_is_no_name_of_another(self):
        names = {one.name.casefold(): one.key for one in terms().values()}
        for one in terms().values():
            for word in one.also:
                with self.subTest(term=one.key, word=word):
                    self.assertIn(names.get(word.casefold(), one.key), (one.key,))

    def test_every_hint_on_a_page_has_its_term(self):
        used = set()
        for path in (ROOT / "frontend" / "src").rglob("*.vue"):
            used |= set(re.findall(r'(?<!:)\bterm="(\w+)"', path.read_text()))
        self.assertGreater(len(used), 8)
        self.assertLessEqual(used, set(terms()))
