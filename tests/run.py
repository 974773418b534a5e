"""Run style checks and all tests; the last line reads: N passed, N failed."""

from __future__ import annotations

import subprocess
import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

STYLE = {
    "ruff check": [sys.executable, "-m", "ruff", "check", "--quiet", "."],
    "ruff format": [sys.executable, "-m", "ruff", "format", "--check", "--quiet", "."],
    "vue-tsc": ["node_modules/.bin/vue-tsc", "--noEmit", "-p", "tsconfig.json"],
    "eslint": ["node_modules/.bin/eslint", "--max-warnings", "0", "src"],
}


def check_style() -> tuple[int, int]:
    """Run the style checks; return how many passed and failed."""
    failed = 0
    for name, command in STYLE.items():
        folder = ROOT if name.startswith("ruff") else ROOT / "frontend"
        done = subprocess.run(command, cwd=folder, capture_output=True, text=True)
        print(f"{name}: {'ok' if done.returncode == 0 else 'FAILED'}", flush=True)
        if done.returncode:
            failed += 1
            print(done.stdout[-6000:], done.stderr[-3000:], flush=True)
    return len(STYLE) - failed, failed


class Result(unittest.TextTestResult):
    """Count each test that passed, and say which took long."""

    passed = 0

    def startTest(self, test) -> None:  # noqa: N802
        super().startTest(test)
        self.begun = time.monotonic()

    def stopTest(self, test) -> None:  # noqa: N802
        super().stopTest(test)
        took = time.monotonic() - self.begun
        if took > 8:
            self.stream.writeln(f"  ({took:.0f} s: {test.id()})")

    def addSuccess(self, test) -> None:  # noqa: N802
        super().addSuccess(test)
        self.passed += 1


def gather(names: list[str]) -> unittest.TestSuite:
    """Load the named folders or files, or all tests."""
    loader = unittest.TestLoader()
    if not names:
        return loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    suite = unittest.TestSuite()
    for name in names:
        path = (ROOT / name).resolve()
        if path.is_dir():
            suite.addTests(loader.discover(str(path), top_level_dir=str(ROOT)))
        else:
            dotted = ".".join(path.relative_to(ROOT).with_suffix("").parts)
            suite.addTests(loader.loadTestsFromName(dotted))
    return suite


def main() -> int:
    """Run everything."""
    from tests import support

    names = sys.argv[1:]
    passed, failed = (0, 0) if names else check_style()
    try:
        runner = unittest.TextTestRunner(resultclass=Result, verbosity=1, stream=sys.stdout)
        result = runner.run(gather(names))
    finally:
        support.stop_all()
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    sys.stdout.flush()
    print(f"{passed + result.passed} passed, {failed + bad} failed")
    return 1 if failed + bad else 0


if __name__ == "__main__":
    sys.exit(main())
