"""Is it ended, silenced or robbed of a record by a small thing?  Kills, odd lines, hostile inputs, the same key at once.

.venv/bin/python bench/small_things.py [--kills 75] [--lines 60] [--inputs 500] [--rounds 300]
"""

from __future__ import annotations

import argparse
import base64
import contextlib
import json
import os
import random
import signal
import string
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from tests.fixtures import support
from tests.fixtures.processes import family
from tests.fixtures.support import key, setup, tilted_points

from finchwort.core.surveys import Survey
from finchwort.formats import survey_csv, survey_json, survey_sdf
from finchwort.runtime.parts import start_web
from finchwort.runtime.parts import stop as stop_process
from finchwort.services.printers.printers import create_printer
from finchwort.services.visits.visits import start_visit
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.machine.kinds import OVER
from finchwort.store.models import Reading, SurveyRecord
from finchwort.store.server import DatabaseServer, free_port


def kills(count: int, rng: random.Random) -> str:
    """Kill web server, one of its processes, or the database while surveys are written; count what is missing."""
    with tempfile.TemporaryDirectory(prefix="finchwort-kills-") as folder:
        database = DatabaseServer(Path(folder))
        database.start()
        engine = make_engine(database.url)
        migrate.upgrade(engine)
        with make_sessions(engine).begin() as session:
            visit = start_visit(session, create_printer(session, setup())).id
        url = database.url.render_as_string()
        place = {"port": free_port()}
        web = start_web(place["port"], url)
        acknowledged: set[str] = set()
        stop = threading.Event()

        def write(seed: int) -> None:
            mine, body = key(), b""
            while not stop.is_set():
                body = json.dumps({"client_key": mine, "points": tilted_points(0.001 * seed)}).encode()
                request = urllib.request.Request(
                    f"http://127.0.0.1:{place['port']}/api/visits/{visit}/surveys",
                    body,
                    {"Content-Type": "application/json"},
                )
                try:
                    with urllib.request.urlopen(request, timeout=5) as answer:
                        if answer.status == 201:
                            acknowledged.add(mine)
                            mine = key()
                except (urllib.error.URLError, OSError, ValueError):
                    time.sleep(0.02)  # sent again with the same key

        threads = [threading.Thread(target=write, args=(i,)) for i in range(1, 5)]
        for thread in threads:
            thread.start()
        done = 0
        try:
            for _ in range(count):
                time.sleep(rng.uniform(0.2, 1.2))
                what = rng.choice(("web", "child", "database"))
                if what == "database":
                    database.kill()
                    database.restart()
                elif what == "child":
                    children = family(web.pid) - {web.pid}
                    with contextlib.suppress(ProcessLookupError):
                        os.kill(rng.choice(sorted(children)), signal.SIGKILL)
                    if web.poll() is not None:
                        web = start_web(place["port"], url)
                else:
                    os.killpg(web.pid, signal.SIGKILL)
                    web.wait()
                    place["port"] = free_port()
                    web = start_web(place["port"], url)
                done += 1
        finally:
            stop.set()
            for thread in threads:
                thread.join()
            stop_process(web)
        with make_sessions(engine)() as session:
            found = {r.client_key: r for r in session.query(SurveyRecord)}
            missing = len(acknowledged - set(found))
            torn = sum(
                session.query(Reading).filter_by(survey_id=r.id).count() != r.count for r in found.values()
            )
        engine.dispose()
        database.stop()
    return f"{done} kills, {len(acknowledged)} records acknowledged: {missing} missing, {torn} torn"


def odd_lines(count: int, rng: random.Random) -> str:
    """Let a machine answer odd lines; count the workers that ended and the jobs without a clear end."""
    from tests.fixtures.talk import Talk

    from finchwort.link.worker import Worker
    from finchwort.store.machine import jobs

    url = support.new_database("bench_lines")
    engine = make_engine(url)
    sessions = make_sessions(engine)
    letters = string.ascii_letters + string.digits + " .:/-+eE\t\\\"'{}[]<>%°"
    made = [
        "ok T:1.2.3 /0 B:1 /0",
        "ok T:-999 /0 B:0 /0",
        "T:inf",
        "Resend: 99999999999999999999",
        "ok " * 900,
        "start",
        "",
        "\0",
    ]
    made += [
        "Error:",
        "error: checksum",
        "echo:busy: processing",
        "T:nan /nan B:nan /nan",
        "Bed X: 1e999 Y: - Z: .",
        "ok\rok\rok",
    ]
    made += [
        "//",
        "!!",
        "rs N-1",
        "Error:Printer halted. kill() called!",
        "x_min: maybe",
        "M851 Z--1.5",
        "T:20 /0 B:20 /0 ok",
    ]
    while len(made) < count:
        made.append("".join(rng.choice(letters) for _ in range(rng.randrange(1, 200))))
    ended = unclear = 0
    for i, line in enumerate(made[:count]):
        kind = ("temperatures", "heat", "grid", "read_offset", "connect")[i % 5]
        talk = Talk(
            lambda command, line=line: line.encode("utf-8", "replace") + b"\nok\n" if command else b"ok\n"
        )
        with sessions.begin() as session:
            printer = create_printer(session, setup(f"P{i}", port=talk.url, probe_kind="nozzle"))
            params = {
                "heat": {"bed": 60.0},
                "grid": {"points": [[50, 50], [100, 50], [50, 100]], "highest": None},
            }.get(kind, {})
            job_id = jobs.queue_job(session, printer, kind, params, client_key=key()).id
        worker = Worker(sessions, number=i)
        stopper = threading.Timer(20, lambda job_id=job_id: _stop(sessions, job_id))
        stopper.start()
        try:
            worker.step()
        except Exception as error:
            ended += 1
            print(f"ended by {line!r}: {error!r}")
        finally:
            stopper.cancel()
            worker.let_go()
            talk.close()
        with sessions() as session:
            job = jobs.get_job(session, job_id)
            if job.state not in OVER or not job.message.strip():
                unclear += 1
    engine.dispose()
    return f"{count} odd lines: {ended} workers ended, {unclear} jobs without a clear end"


def _stop(sessions, job_id: int) -> None:
    from finchwort.store.machine import jobs

    with contextlib.suppress(Exception), sessions.begin() as session:
        jobs.request_stop(session, job_id, "now")


def hostile(count: int, rng: random.Random) -> str:
    """Damage sound files in many ways; count the answers that are no answer."""
    from finchwort.formats.documents import KIND
    from finchwort.web import create_app

    app = create_app(support.new_database("bench_hostile"))
    client = app.test_client()

    def post(path: str, body: dict) -> tuple[int, float]:
        begun = time.monotonic()
        answer = client.post(path, data=json.dumps(body), content_type="application/json")
        return answer.status_code, time.monotonic() - begun

    printer = json.loads(
        client.post("/api/printers", json={"name": "Reed", "width": 220, "depth": 220}).data
    )["id"]
    x, y = (a.ravel() for a in np.meshgrid(np.linspace(10, 210, 5), np.linspace(10, 210, 5)))
    survey = Survey(x, y, 0.0005 * x)
    svg = f'<svg xmlns="http://www.w3.org/2000/svg"><metadata id="{KIND}">{survey_json(survey)}</metadata></svg>'
    sound = [
        survey_csv(survey).encode(),
        survey_json(survey).encode(),
        survey_sdf(survey),
        survey_sdf(survey, binary=True),
        svg.encode(),
    ]
    wrong, slowest = [], 0.0
    for i in range(count):
        data = bytearray(rng.choice(sound))
        for _ in range(rng.randrange(1, 12)):
            at = rng.randrange(len(data))
            way = rng.randrange(6)
            if way == 0:
                data[at] = rng.randrange(256)
            elif way == 1:
                del data[at : at + rng.randrange(1, 60)]
            elif way == 2:
                data[at:at] = data[at : at + rng.randrange(1, 200)] * rng.randrange(1, 40)
            elif way == 3:
                data[at:at] = rng.choice(
                    (b"1e999", b"9" * 5001, b"-0", b"\xff\xfe", b"[", b"<g>", b"\0", b",,", b"nan")
                )
            elif way == 4:
                data = data[at:] + data[:at]
            else:
                data[at:at] = b"\n" * rng.randrange(1, 500)
            if not data:
                data = bytearray(b"0")
        sent = (
            {"file": base64.b64encode(bytes(data[:1_000_000])).decode()}
            if i % 2
            else {"text": bytes(data).decode("latin-1")[:900_000]}
        )
        status, took = post(f"/api/printers/{printer}/preview", sent)
        slowest = max(slowest, took)
        if status not in (200, 422, 413, 400):
            wrong.append(status)
    app.extensions["engine"].dispose()
    return f"{count} hostile inputs: {len(wrong)} without a sentence {wrong[:5]}, slowest {slowest:.1f} s"


def at_once(count: int, rng: random.Random) -> str:
    """Send the same request four times at the same moment; count answers other than the one record."""
    from finchwort.web import create_app

    app = create_app(support.new_database("bench_at_once"))
    client = app.test_client()
    printer = json.loads(
        client.post(
            "/api/printers", json={"name": "Reed", "width": 220, "depth": 220, "compensation": "mesh"}
        ).data
    )["id"]
    visit = json.loads(client.post(f"/api/printers/{printer}/visits", json={}).data)["id"]
    bad = []
    for i in range(count):
        path, body = rng.choice(
            (
                (f"/api/printers/{printer}/offset", {"parts": {"printer": -1.0 - 0.001 * i}}),
                (f"/api/printers/{printer}/changes", {"what": "nozzle"}),
                (f"/api/printers/{printer}/cases", {"words": "It lets go."}),
                (f"/api/visits/{visit}/surveys", {"points": tilted_points(0.001 * i)}),
            )
        )
        body["client_key"] = key()
        barrier, found = threading.Barrier(4), []

        def send(path=path, body=body, barrier=barrier, found=found) -> None:
            own = app.test_client()
            barrier.wait()
            answer = own.post(path, json=body)
            found.append((answer.status_code, (answer.get_json(force=True) or {}).get("id")))

        threads = [threading.Thread(target=send) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        if {status for status, _ in found} != {201} or len({ident for _, ident in found}) != 1:
            bad.append((path, found))
    app.extensions["engine"].dispose()
    return f"{count} rounds of four at once: {len(bad)} with another answer than the one record {bad[:1]}"


def main() -> int:
    options = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    for name, usual in (("kills", 75), ("lines", 60), ("inputs", 500), ("rounds", 300)):
        options.add_argument(f"--{name}", type=int, default=usual)
    wanted = options.parse_args()
    rng = random.Random(26)
    for said in (
        at_once(wanted.rounds, rng),
        hostile(wanted.inputs, rng),
        odd_lines(wanted.lines, rng),
        kills(wanted.kills, rng),
    ):
        print(said, flush=True)
    support.stop_all()
    return 0


if __name__ == "__main__":
    sys.exit(main())
