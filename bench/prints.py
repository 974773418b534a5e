"""Years of prints: what is due today and the other pages of prints, over the server that ships.

    .venv/bin/python -m bench.prints [--prints 10000] [--times 60]

Wanted: /api/today within 50 ms at the 95th percentile with 10,000 prints and ten looks at each; asked too right after each
look that is written down, and after each print that is begun or ended.
"""

from __future__ import annotations

import argparse
import json
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
from tests.fixtures.support import fill_with_demo, key

from bench import app
from bench.lists import Client, p95, timed
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.models import Entry
from finchwort.store.printers.printers import list_printers
from finchwort.store.prints.models import PrintLook, PrintRun
from finchwort.store.records import utcnow
from finchwort.store.server import DatabaseServer, free_port

LOOKS = 10
SURFACES = (
    ("Sheet", "smooth_pei"),
    ("Glass", "glass"),
    ("Rough sheet", "textured_pei"),
    ("Tape", "masking_tape"),
)


def add_prints(session, printers: list[int], count: int, rng: random.Random) -> None:
    """Write prints as years in a workshop do, each with looks and two lines of the logbook."""
    now = utcnow()
    first = 1_000_000
    for begin in range(0, count, 2000):
        runs, looks, lines = [], [], []
        for i in range(begin, min(begin + 2000, count)):
            at = now - timedelta(minutes=120 * (count - i) + 300)
            surface, kind = rng.choice(SURFACES)
            gone = rng.random() < 0.12
            minutes = rng.uniform(20, 600)
            ran = minutes * rng.random() if gone else minutes
            runs.append(
                {
                    "id": first + i,
                    "version": 3,
                    "client_key": key(),
                    "created_at": at,
                    "printer_id": rng.choice(printers),
                    "origin": "plain",
                    "name": f"Part {i}",
                    "surface": surface,
                    "surface_kind": kind,
                    "material": rng.choice(("PLA", "PETG", "ASA")),
                    "bed_temperature": rng.uniform(50, 100),
                    "nozzle_temperature": 220.0,
                    "first_layer": 0.2,
                    "settings": {},
                    "grams": minutes / 3,
                    "price": 25.0,
                    "minutes": minutes,
                    "slender": False,
                    "failures": 1,
                    "failure_hours": 60.0,
                    "look_every": 90.0,
                    "surface_prints": rng.randrange(12),
                    "surface_coats": rng.randrange(2),
                    "started_at": at,
                    "ended_at": at + timedelta(minutes=ran),
                    "outcome": "let_go" if gone else "held",
                    "ran": ran,
                    "how": "",
                    "x": rng.uniform(20, 120) if gone else None,
                    "y": rng.uniform(20, 120) if gone else None,
                    "note": "",
                }
            )
            looks += [
                {
                    "client_key": key(),
                    "created_at": at,
                    "print_id": first + i,
                    "at": at + timedelta(minutes=5 * step),
                    "seen": "good",
                    "note": "",
                }
                for step in range(LOOKS)
            ]
            lines += [
                {
                    "kind": "print",
                    "title": f"Print {word}: Part {i}",
                    "detail": "",
                    "at": at,
                    "created_at": at,
                    "printer_id": runs[-1]["printer_id"],
                    "subject_kind": "print",
                    "subject_id": first + i,
                }
                for word in ("begun", "held")
            ]
        session.execute(insert(PrintRun), runs)
        session.execute(insert(PrintLook), looks)
        session.execute(insert(Entry), lines)


def send(client: Client, path: str, body: dict) -> dict:
    """Send a record."""
    client.link.request("POST", path, json.dumps(body), {"Content-Type": "application/json"})
    answer = client.link.getresponse()
    said = answer.read()
    assert answer.status < 300, (path, answer.status, said[:300])
    return json.loads(said)


def after_writes(client: Client, printer: int, times: int) -> tuple[list[float], list[float]]:
    """Ask what is due after each look, and after each print that is begun or ended; ms."""
    looked, changed = [], []
    for _ in range(max(times // 6, 3)):
        made = send(client, f"/api/printers/{printer}/prints", {"client_key": key(), "minutes": 300})
        changed.append(once(client))
        for _ in range(4):
            send(client, f"/api/prints/{made['id']}/looks", {"client_key": key(), "seen": "good"})
            looked.append(once(client))
        client.link.request("GET", f"/api/prints/{made['id']}")
        version = json.loads(client.link.getresponse().read())["version"]
        body = {"client_key": key(), "version": version, "outcome": "held"}
        send(client, f"/api/prints/{made['id']}/end", body)
        changed.append(once(client))
    return looked, changed


def once(client: Client) -> float:
    """Ask once what is due; ms."""
    begun = time.perf_counter()
    client.get("/api/today")
    return 1000 * (time.perf_counter() - begun)


def main() -> None:
    """Run it."""
    given = argparse.ArgumentParser()
    given.add_argument("--prints", type=int, default=10_000)
    given.add_argument("--times", type=int, default=60)
    args = given.parse_args()
    rng = random.Random(7)
    with tempfile.TemporaryDirectory(prefix="finchwort-prints-") as folder:
        server, page = DatabaseServer(Path(folder)), None
        server.start()
        try:
            engine = make_engine(server.url)
            migrate.upgrade(engine)
            fill_with_demo(engine)
            sessions = make_sessions(engine)
            with sessions.begin() as session:
                printers = [one.id for one in list_printers(session)]
                add_prints(session, printers, args.prints, rng)
            port = free_port()
            url = server.url.render_as_string(hide_password=False)
            place = os.environ | {"FINCHWORT_DATABASE_URL": url, "PYTHONPATH": str(Path(__file__).parents[1])}
            page = subprocess.Popen(app.command(port), env=place, cwd=Path(__file__).parents[1])
            client = Client(port)
            empty = statistics.median(timed(client, "/api/empty", args.times))
            print(f"{args.prints} prints, {LOOKS * args.prints} looks; an empty route: {empty:.1f} ms")
            for name, path in (
                ("today", "/api/today"),
                ("prints that run", "/api/prints/running"),
                ("a page of prints", "/api/prints"),
                ("prints by a word", "/api/prints?text=part+9123"),
                ("what came of them", "/api/print-results"),
            ):
                found = timed(client, path, args.times)
                said = f"{statistics.median(found):.1f} ms, {p95(found):.1f} ms at 95 %"
                print(f"{name}: {said} ({statistics.median(found) / empty:.0f} x an empty route)")
            looked, changed = after_writes(client, printers[-1], args.times)
            print(f"today after a look: {statistics.median(looked):.1f} ms, {p95(looked):.1f} ms at 95 %")
            print(f"today after a print: {statistics.median(changed):.1f} ms, {p95(changed):.1f} ms at 95 %")
            engine.dispose()
        finally:
            if page is not None:
                page.terminate()
                page.wait()
            server.stop()


if __name__ == "__main__":
    main()
