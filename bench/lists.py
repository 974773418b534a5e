"""Lists of years: cases, the logbook, the workshop's page, each beside something small in the same run.

    .venv/bin/python -m bench.lists [--entries 100000] [--times 40]

Wanted: 200 cases within 3 times 5 cases; a page of the logbook and a search without a hit within 50 ms at the 95th
percentile over 100,000 entries; the workshop's page within 10 times an empty route.
"""

from __future__ import annotations

import argparse
import http.client
import os
import random
import statistics
import subprocess
import sys
import tempfile
import time
from datetime import timedelta
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from sqlalchemy import insert
from tests.fixtures.support import fill_with_demo, key, setup

from bench import app
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis import cases, opening
from finchwort.services.printers.printers import create_printer
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.models import Entry
from finchwort.store.records import utcnow
from finchwort.store.server import DatabaseServer, free_port

WORDS = [
    "survey",
    "bed",
    "corner",
    "level",
    "front",
    "back",
    "left",
    "right",
    "turned",
    "eighth",
    "knob",
    "spring",
    "sheet",
    "glass",
    "nozzle",
    "offset",
    "paper",
    "middle",
    "closer",
    "farther",
    "first",
    "layer",
    "good",
    "tilt",
    "dome",
    "mesh",
    "stored",
    "probe",
    "touched",
    "steady",
    "warm",
    "cold",
    "brim",
    "washed",
    "soap",
]


def add_cases(session, printers: list[int], count: int, rng: random.Random) -> None:
    """Open cases with what people tick off; four of five are closed."""
    signs = [one.key for one in beliefs().signs if not one.measured]
    causes = [one.key for one in beliefs().causes]
    for number in range(count):
        seen = [(sign, rng.choice(["yes", "no"])) for sign in rng.sample(signs, 6)]
        case = opening.open_case(
            session,
            rng.choice(printers),
            client_key=key(),
            words=f"Case {number}",
            circumstances=[],
            signs=seen,
        )
        if number % 5:
            cases.close_case(session, case.id, rng.choice(causes), client_key=key())


def add_entries(session, printers: list[int], count: int, rng: random.Random) -> None:
    """Write lines as years of visits do."""
    now = utcnow()
    for begin in range(0, count, 5000):
        rows = []
        for i in range(begin, min(begin + 5000, count)):
            words = rng.choices(WORDS, k=18)
            rows.append(
                {
                    "kind": rng.choice(["survey", "turning", "note", "test", "offset"]),
                    "title": " ".join(words[:6]),
                    "detail": f"{' '.join(words[6:])} {rng.random():.2f} mm",
                    "at": now - timedelta(minutes=5 * (count - i)),
                    "created_at": now,
                    "printer_id": rng.choice(printers),
                }
            )
        session.execute(insert(Entry), rows)


class Client:
    """Asks the server that ships, over one connection."""

    def __init__(self, port: int) -> None:
        for _ in range(100):
            try:
                self.link = http.client.HTTPConnection("127.0.0.1", port)
                self.link.connect()
                return
            except OSError:
                time.sleep(0.2)
        raise SystemExit("The server did not come up.")

    def get(self, path: str) -> None:
        """Ask, and read all of the answer."""
        self.link.request("GET", path)
        answer = self.link.getresponse()
        said = answer.read()
        assert answer.status == 200, (path, answer.status, said[:300])


def timed(client: Client, path: str, times: int) -> list[float]:
    """Ask some times; give how long each took, ms."""
    found = []
    for number in range(times + 3):
        begun = time.perf_counter()
        client.get(path)
        took = 1000 * (time.perf_counter() - begun)
        if number >= 3:
            found.append(took)
    return found


def p95(values: list[float]) -> float:
    """The 95th percentile."""
    return statistics.quantiles(values, n=20)[-1]


def main() -> None:
    """Run it."""
    given = argparse.ArgumentParser()
    given.add_argument("--entries", type=int, default=100_000)
    given.add_argument("--times", type=int, default=40)
    args = given.parse_args()
    rng = random.Random(11)
    with tempfile.TemporaryDirectory(prefix="finchwort-lists-") as folder:
        server, page = DatabaseServer(Path(folder)), None
        server.start()
        try:
            engine = make_engine(server.url)
            migrate.upgrade(engine)
            fill_with_demo(engine)
            sessions = make_sessions(engine)
            port = free_port()
            url = server.url.render_as_string(hide_password=False)
            place = os.environ | {"FINCHWORT_DATABASE_URL": url, "PYTHONPATH": str(Path(__file__).parents[1])}
            page = subprocess.Popen(app.command(port), env=place, cwd=Path(__file__).parents[1])
            client = Client(port)
            empty = timed(client, "/api/empty", args.times)
            workshop = timed(client, "/api/workshop", args.times)
            ratio = statistics.median(workshop) / statistics.median(empty)
            print(
                f"workshop's page: {statistics.median(workshop):.1f} ms, {ratio:.1f} x an empty route (wanted 10)"
            )
            with sessions.begin() as session:
                printers = [create_printer(session, setup(name=f"Bird {i}")).id for i in range(4)]
                add_cases(session, printers, 5, rng)
            few = timed(client, "/api/cases?text=case", args.times)
            with sessions.begin() as session:
                add_cases(session, printers, 195, rng)
            many = timed(client, "/api/cases?text=case", args.times)
            ratio = statistics.median(many) / statistics.median(few)
            print(
                f"cases: {statistics.median(few):.0f} ms with 5, {statistics.median(many):.0f} ms with 200: {ratio:.1f} x (wanted 3)"
            )
            with sessions.begin() as session:
                add_entries(session, printers, args.entries, rng)
            for name, path in (
                ("a page", "/api/logbook"),
                ("a common word", "/api/logbook?q=tilt"),
                ("a number", "/api/logbook?q=0.26"),
                ("a printer's name", "/api/logbook?q=Bird"),
                ("two words, no hit", "/api/logbook?q=tilt+kestrelxyz"),
                ("a search without a hit", "/api/logbook?q=kestrelxyz"),
            ):
                found = timed(client, path, args.times)
                print(
                    f"logbook of {args.entries}, {name}: {p95(found):.1f} ms at 95 % (wanted 50 for page and no hit)"
                )
            engine.dispose()
        finally:
            if page is not None:
                page.terminate()
                page.wait()
            server.stop()


if __name__ == "__main__":
    main()
