"""What must be fast, measured side by side in one run; exit code 1 when a bound is missed."""

from __future__ import annotations

import gc
import http.client
import itertools
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np
from scipy.interpolate import RBFInterpolator
from scipy.optimize import curve_fit
from scipy.spatial import ConvexHull

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests import support  # noqa: E402

from finchwort.core.flatness import assess_flatness  # noqa: E402
from finchwort.core.planes import fit_minimum_zone  # noqa: E402
from finchwort.core.planning import advise_grid  # noqa: E402
from finchwort.core.printers import Bed, suggest_screws  # noqa: E402
from finchwort.core.shape import decompose  # noqa: E402
from finchwort.core.surveys import Survey  # noqa: E402
from finchwort.core.tramming import Screw, plan_turns  # noqa: E402
from finchwort.core.warmup import fit_soak  # noqa: E402
from finchwort.demo.run import web_command  # noqa: E402
from finchwort.store.server import free_port  # noqa: E402

BED = Bed(300, 300)
ROWS: list[tuple[str, str, str, bool]] = []


def alternate(*functions: Callable[[], object], rounds: int = 41) -> list[float]:
    """Run the functions in turn; return the median seconds of each."""
    times: list[list[float]] = [[] for _ in functions]
    for function in functions:
        function()
    gc.disable()
    for _ in range(rounds):
        for function, kept in zip(functions, times, strict=True):
            begun = time.perf_counter()
            function()
            kept.append(time.perf_counter() - begun)
    gc.enable()
    return [statistics.median(kept) for kept in times]


def row(what: str, measured: str, bound: str, ok: bool) -> None:
    """Keep a line of the table."""
    ROWS.append((what, measured, bound, ok))


def cloud(n: int) -> Survey:
    """Make readings of a tilted, domed, noisy bed."""
    rng = np.random.default_rng(n)
    x, y = rng.uniform(0, 300, n), rng.uniform(0, 300, n)
    z = 0.001 * x - 0.0005 * y + 0.05 * np.cos(x / 80) + rng.normal(0, 0.01, n)
    return Survey(x, y, z)


def core() -> None:
    """Fits, shape and plan."""
    survey = cloud(10_000)
    points = np.column_stack([survey.x, survey.y, survey.height])
    hull, zone = alternate(lambda: ConvexHull(points), lambda: fit_minimum_zone(survey))
    row(
        "minimum zone, 10,000 readings",
        f"{zone * 1e3:.1f} ms (hull alone {hull * 1e3:.1f} ms)",
        "2 x ConvexHull + 20 ms",
        zone <= 2 * hull + 0.020,
    )
    design = np.column_stack([survey.x, survey.y, np.ones(len(survey))])
    plain, ours = alternate(
        lambda: np.linalg.lstsq(design, survey.height, rcond=None),
        lambda: (assess_flatness(survey), decompose(survey, BED)),
    )
    row(
        "least squares, flatness and shape, 10,000 readings",
        f"{ours / plain:.2f} x one numpy.linalg.lstsq of the plane",
        "3 x",
        ours <= 3 * plain,
    )
    grid = np.linspace(15, 285, 20)
    rng = np.random.default_rng(1)
    heights = rng.normal(0, 0.02, (20, 20)) + np.linspace(0, 0.5, 20)
    bed = Survey.from_grid(grid, grid, heights)
    screws = [Screw(name, x, y, 0.7) for name, x, y in suggest_screws(BED, 4)]
    (plan,) = alternate(lambda: plan_turns(bed, screws, centre=BED.centre))
    row("plan for 4 screws and 400 readings", f"{plan * 1e3:.1f} ms", "10 ms", plan <= 0.010)


def probing() -> None:
    """The sums that run while a printer is watched: a soak curve, advice on how many places."""
    t = np.arange(0, 3000, 30.0)
    heights = 0.1 * np.exp(-t / 300) + np.random.default_rng(5).normal(0, 0.003, t.size)

    def reference() -> object:
        return curve_fit(lambda t, h, a, tau: h + a * np.exp(-t / tau), t, heights, p0=(0.0, 0.1, 200.0))

    ours, theirs = alternate(lambda: fit_soak(t, heights), reference)
    ratio = ours / theirs
    row(
        "soak curve, 100 readings",
        f"{1000 * ours:.1f} ms, {ratio:.1f} x one curve_fit",
        "10 x (ours)",
        ratio <= 10,
    )

    survey = cloud(400)
    places = np.column_stack([survey.x, survey.y])

    def solve() -> object:
        return RBFInterpolator(places, survey.height, kernel="thin_plate_spline", degree=1)(places)

    ours, theirs = alternate(lambda: advise_grid([survey], BED, 0.2), solve, rounds=5)
    ratio = ours / theirs
    row(
        "advice from 400 readings",
        f"{ours:.2f} s, {ratio:.0f} x one thin plate",
        "200 x (ours)",
        ratio <= 200,
    )


def api() -> None:
    """The map of a survey against an empty route on the same server."""
    url = support.new_database("bench").render_as_string(hide_password=False)
    port = free_port()
    command = web_command(port, workers=1)
    command[-1] = "bench.app:create()"
    environment = os.environ | {"FINCHWORT_DATABASE_URL": url, "PYTHONPATH": str(ROOT)}
    server = subprocess.Popen(command, env=environment, cwd=ROOT)
    try:
        wait(port)
        surveys = fill(port, 70)  # more than a process keeps ready
        link = http.client.HTTPConnection("127.0.0.1", port)

        def ask(path: str) -> None:
            link.request("GET", path)
            answer = link.getresponse()
            answer.read()
            assert answer.status == 200, path

        turn = itertools.cycle(surveys)
        empty, map_, anew = alternate(
            lambda: ask("/api/empty"),
            lambda: ask(f"/api/surveys/{surveys[0]}/map"),
            lambda: ask(f"/api/surveys/{next(turn)}/map"),
            rounds=301,
        )
        row(
            "API: map of 25 readings",
            f"{map_ / empty:.2f} x an empty route ({map_ * 1e3:.2f} ms against {empty * 1e3:.2f} ms)",
            "5 x",
            map_ <= 5 * empty,
        )
        row(
            "API: map of 25 readings, made anew",
            f"{anew / empty:.2f} x an empty route ({anew * 1e3:.2f} ms)",
            "6 x (ours)",
            anew <= 6 * empty,
        )
        link.close()
    finally:
        server.terminate()
        server.wait(20)


def wait(port: int) -> None:
    """Wait until the server answers."""
    for _ in range(200):
        try:
            urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2).close()
        except OSError:
            time.sleep(0.1)
        else:
            return
    raise RuntimeError("the server did not start")


def fill(port: int, count: int) -> list[int]:
    """Make a printer, a visit and surveys of 25 readings; return their ids."""

    def post(path: str, body: dict) -> dict:
        request = urllib.request.Request(
            f"http://127.0.0.1:{port}{path}",
            json.dumps(body).encode(),
            {"Content-Type": "application/json"},
        )
        with urllib.request.urlopen(request) as answer:
            return json.load(answer)

    posts = post("/api/suggestions", {"width": 220, "depth": 220})["screws"]
    screws = [p | {"thread": "M4", "pitch": 0.7} for p in posts]
    printer = post("/api/printers", {"name": "Bench", "width": 220, "depth": 220, "screws": screws})
    visit = post(f"/api/printers/{printer['id']}/visits", {})
    points = support.tilted_points(0.4, 0.2, 0.1)
    return [
        post(f"/api/visits/{visit['id']}/surveys", {"client_key": support.key(), "points": points})["id"]
        for _ in range(count)
    ]


def memory() -> None:
    """Peak memory of reading the largest file."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "large.csv"
        lines = (f"{(i % 200) * 1.5},{(i // 200) * 3.0},{(i * 7 % 13) / 100}" for i in range(20_000))
        path.write_text("\n".join(lines))
        code = (
            "import re, sys\nfrom click.testing import CliRunner\nfrom finchwort.cli import main\n"
            "r = CliRunner().invoke(main, ['read', sys.argv[1], '--bed', '300x300', '--screws', '4'])\n"
            "assert r.exit_code == 0, r.output\n"
            "print(int(re.search(r'VmHWM:\\s+(\\d+)', open('/proc/self/status').read()).group(1)) / 1024)"
        )
        done = subprocess.run(
            [sys.executable, "-c", code, str(path)], capture_output=True, text=True, check=True
        )
    peak = float(done.stdout.split()[-1])
    row("peak memory of finchwort read, 20,000 readings", f"{peak:.0f} MB", "250 MB", peak < 250)


def main() -> int:
    """Run all and print the table."""
    try:
        core()
        probing()
        api()
        memory()
    finally:
        support.stop_all()
    widths = [max(len(r[i]) for r in ROWS) for i in range(3)]
    for what, measured, bound, ok in ROWS:
        print(
            f"{what:<{widths[0]}}  {measured:<{widths[1]}}  {bound:<{widths[2]}}  {'within' if ok else 'MISSED'}"
        )
    return 0 if all(r[3] for r in ROWS) else 1


if __name__ == "__main__":
    sys.exit(main())
