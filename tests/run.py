"""Run style checks and all tests, some at a time; the last line reads: N passed, N failed."""

from __future__ import annotations

import io
import json
import multiprocessing
import os
import subprocess
import sys
import tempfile
import time
import unittest
from collections.abc import Iterator
from concurrent.futures import Future, ProcessPoolExecutor, as_completed
from dataclasses import dataclass
from multiprocessing import util
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

# the workers share the processors already: small sums are faster without threads of their own
os.environ.setdefault("OMP_NUM_THREADS", "1")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

WORKERS = (os.cpu_count() or 2) + 1
"""Much of a test is waiting, for a page, a machine or a process; one more than processors fills that."""
SLOWEST = 20
"""So many tests that took longest are named at the end."""
LONG = (
    "tests.e2e.test_every_screen",
    "tests.e2e.visits.test_first_visit.FirstVisitTest",
    "tests.e2e.machine.test_live_printer.WholeLoopTest",
    "tests.runtime.test_demo_command",
    "tests.e2e",
    "tests.link.test_jobs",
    "tests.store.test_crash",
)
"""What takes long is begun first."""
KEEP_ESLINT = ("--cache", "--cache-strategy", "content", "--cache-location", "node_modules/.cache/eslint")
KEEP_LAYOUT = (
    "--cache",
    "--cache-strategy",
    "content",
    "--cache-location",
    "node_modules/.cache/layout.json",
)
KEEP_TYPES = ("--incremental", "--tsBuildInfoFile", "node_modules/.cache/types.json")
"""What did not change since the last run is not looked at again."""
STYLE = {
    "ruff check": [sys.executable, "-m", "ruff", "check", "--quiet", "."],
    "ruff format": [sys.executable, "-m", "ruff", "format", "--check", "--quiet", "."],
    "mypy": [sys.executable, "-m", "mypy"],
    "eslint": ["node_modules/.bin/eslint", "--max-warnings", "0", *KEEP_ESLINT, "src"],
    "prettier": ["node_modules/.bin/prettier", "--check", "--log-level", "warn", *KEEP_LAYOUT, "."],
    "vue-tsc": ["node_modules/.bin/vue-tsc", "--noEmit", *KEEP_TYPES, "-p", "tsconfig.json"],
}
"""These use little but the processor: begun first, they fill what tests leave of it."""


@dataclass(frozen=True)
class Outcome:
    """What came of one style check or of the tests of one class."""

    name: str
    passed: int
    failed: int
    said: str
    took: float
    times: tuple[tuple[float, str], ...] = ()
    """How long each test took, s."""
    busy: float = 0.0
    """For how long this process computed meanwhile, s; what other processes did is not in it."""


def check_style(name: str) -> Outcome:
    """Run one style check."""
    begun = time.monotonic()
    folder = ROOT if STYLE[name][0] == sys.executable else ROOT / "frontend"
    done = subprocess.run(STYLE[name], cwd=folder, capture_output=True, text=True)
    good = done.returncode == 0
    said = "" if good else f"{done.stdout[-6000:]}\n{done.stderr[-3000:]}"
    return Outcome(name, int(good), int(not good), said, time.monotonic() - begun)


def run_in_node(name: str) -> Outcome:
    """Run the tests of the front end's modules that need no page, each counted like any other."""
    begun = time.monotonic()
    with tempfile.TemporaryDirectory() as folder:
        told = Path(folder) / "told.json"
        command = ["node_modules/.bin/vitest", "run", "--reporter=json", f"--outputFile={told}"]
        done = subprocess.run(command, cwd=ROOT / "frontend", capture_output=True, text=True)
        found = json.loads(told.read_text()) if told.exists() else {}
    passed, failed = found.get("numPassedTests", 0), found.get("numFailedTests", 0)
    # a file that cannot be loaded has no tests that fail
    failed += sum(
        one["status"] == "failed" and not one["assertionResults"] for one in found.get("testResults", [])
    )
    bad = done.returncode != 0 or not passed
    said = (
        "\n".join(
            [one["message"] for one in found.get("testResults", []) if one["message"]]
            + [
                f"{test['fullName']}: {' '.join(test['failureMessages'])}"
                for one in found.get("testResults", [])
                for test in one["assertionResults"]
                if test["status"] == "failed"
            ]
            + ([] if found else [done.stdout[-3000:], done.stderr[-3000:]])
        )
        if bad
        else ""
    )
    return Outcome(name, passed, max(failed, int(bad)), said, time.monotonic() - begun)


class Result(unittest.TextTestResult):
    """Count each test that passed, and how long each took."""

    passed = 0

    def __init__(self, *given, **named) -> None:
        super().__init__(*given, **named)
        self.times: list[tuple[float, str]] = []

    def startTest(self, test) -> None:  # noqa: N802
        super().startTest(test)
        self.begun = time.monotonic()

    def stopTest(self, test) -> None:  # noqa: N802
        super().stopTest(test)
        self.times.append((time.monotonic() - self.begun, test.id()))

    def addSuccess(self, test) -> None:  # noqa: N802
        super().addSuccess(test)
        self.passed += 1


def prepare() -> None:
    """Set up a process that runs tests: it ends what its tests started."""
    from hypothesis import HealthCheck, settings
    from hypothesis.internal.conjecture import providers

    from tests.fixtures import support

    # it takes constants from whatever module was loaded before, which differs from run to run
    providers.is_local_module_file = lambda _path: False

    # the same examples on every run; FINCHWORT_EXPLORE=1 looks for new ones.  No clock: machines stall.
    explore = bool(os.environ.get("FINCHWORT_EXPLORE"))
    # how fast examples come says how busy the machine is, and nothing about the code
    settings.register_profile(
        "finchwort",
        deadline=None,
        derandomize=not explore,
        suppress_health_check=[HealthCheck.too_slow],
    )
    settings.load_profile("finchwort")
    util.Finalize(None, support.stop_all, exitpriority=10)


def run_tests(name: str) -> Outcome:
    """Run the tests of one class (dotted name)."""
    begun, busy = time.monotonic(), time.process_time()
    out = io.StringIO()
    suite = unittest.TestLoader().loadTestsFromName(name)
    result = unittest.TextTestRunner(resultclass=Result, verbosity=0, stream=out).run(suite)
    bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    said = out.getvalue() if bad else ""
    took, busy = time.monotonic() - begun, time.process_time() - busy
    return Outcome(name, result.passed, bad, said, took, tuple(result.times), busy)


def flat(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    """Give the tests of a suite one by one."""
    for test in suite:
        if isinstance(test, unittest.TestSuite):
            yield from flat(test)
        else:
            yield test


def gather(names: list[str]) -> list[str]:
    """Return the dotted names of the test classes in the named folders or files, or of all, longest first."""
    loader = unittest.TestLoader()
    suite = unittest.TestSuite()
    for name in names or ["tests"]:
        path = (ROOT / name).resolve()
        if path.is_dir():
            suite.addTests(loader.discover(str(path), top_level_dir=str(ROOT)))
        else:
            dotted = ".".join(path.relative_to(ROOT).with_suffix("").parts)
            suite.addTests(loader.loadTestsFromName(dotted))
    if loader.errors:
        raise SystemExit("\n".join(loader.errors))
    found = {f"{type(test).__module__}.{type(test).__qualname__}" for test in flat(suite)}

    def weight(name: str) -> tuple[int, str]:
        return next((i for i, long in enumerate(LONG) if name.startswith(long)), len(LONG)), name

    return sorted(found, key=weight)


def outcome_of(name: str, future: Future[Outcome]) -> Outcome:
    """Return what came of a task, also when its process died."""
    try:
        return future.result()
    except Exception as error:  # a worker that crashed must fail the run, whatever it died of
        return Outcome(name, 0, 1, f"{type(error).__name__}: {error}", 0.0)


def main() -> int:
    """Run everything."""
    names = sys.argv[1:]
    passed = failed = 0
    times: list[tuple[float, str]] = []
    spawn = multiprocessing.get_context("spawn")
    with (
        tempfile.TemporaryDirectory(prefix="finchwort-tests-") as folder,
        ProcessPoolExecutor(WORKERS, mp_context=spawn, initializer=prepare) as pool,
    ):
        os.environ["FINCHWORT_TEST_RUN"] = folder
        tasks = {pool.submit(check_style, name): name for name in ([] if names else STYLE)}
        tasks |= {pool.submit(run_in_node, name): name for name in ([] if names else ["vitest"])}
        tasks |= {pool.submit(run_tests, name): name for name in gather(names)}
        for future in as_completed(tasks):
            one = outcome_of(tasks[future], future)
            passed, failed = passed + one.passed, failed + one.failed
            state = f"{one.failed} FAILED" if one.failed else "ok"
            print(
                f"{one.name}: {one.passed} {state} ({one.took:.0f} s, {one.busy:.0f} of them computing)",
                flush=True,
            )
            times += one.times
            if one.said:
                print(one.said, flush=True)
    print(f"The {SLOWEST} slowest:")
    for took, name in sorted(times, reverse=True)[:SLOWEST]:
        print(f"  {took:5.1f} s  {name}")
    print(f"{passed} passed, {failed} failed")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
