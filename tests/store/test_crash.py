"""Kill web server and database during writes: every acknowledged record is there again."""

import json
import os
import signal
import tempfile
import threading
import time
import unittest
import urllib.error
import urllib.request
from pathlib import Path

from finchwort.runtime.parts import start_web, stop
from finchwort.services.printers.printers import create_printer
from finchwort.services.visits.visits import start_visit
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.models import Reading, SurveyRecord
from finchwort.store.server import DatabaseServer, free_port
from finchwort.store.surveys.surveys import load_readings
from tests.fixtures.support import key, setup, tilted_points


class CrashTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory(prefix="finchwort-crash-")
        self.addCleanup(folder.cleanup)
        self.database = DatabaseServer(Path(folder.name))
        self.addCleanup(self.database.stop)
        self.database.start()
        engine = make_engine(self.database.url)
        migrate.upgrade(engine)
        with make_sessions(engine).begin() as session:
            self.visit = start_visit(session, create_printer(session, setup())).id
        engine.dispose()
        self.port = free_port()
        self.acknowledged: dict[str, float] = {}
        self.lock = threading.Lock()
        self.stop = threading.Event()

    def serve(self):
        web = start_web(self.port, self.database.url.render_as_string(), workers=2)
        self.addCleanup(stop, web)
        return web

    def write(self, seed: int):
        """Store surveys one after another; remember what was acknowledged."""
        n = 0
        while not self.stop.is_set():
            n += 1
            tilt = round(0.001 * (seed * 1000 + n), 4)
            mine = key()
            body = json.dumps({"client_key": mine, "points": tilted_points(tilt)}).encode()
            request = urllib.request.Request(
                f"http://127.0.0.1:{self.port}/api/visits/{self.visit}/surveys",
                body,
                {"Content-Type": "application/json"},
            )
            try:
                with urllib.request.urlopen(request, timeout=5) as answer:
                    if answer.status == 201:
                        with self.lock:
                            self.acknowledged[mine] = tilt
            except (urllib.error.URLError, OSError):
                time.sleep(0.02)

    def writers(self, seconds: float, disaster):
        threads = [threading.Thread(target=self.write, args=(i,)) for i in range(4)]
        for thread in threads:
            thread.start()
        while len(self.acknowledged) < 20 and seconds > 0:
            time.sleep(0.05)
            seconds -= 0.05
        before = len(self.acknowledged)
        disaster()
        self.stop.set()
        for thread in threads:
            thread.join()
        self.stop.clear()
        self.assertGreaterEqual(before, 20)

    def check(self):
        engine = make_engine(self.database.url)
        with make_sessions(engine)() as session:
            found = {r.client_key: r for r in session.query(SurveyRecord)}
            for mine, tilt in self.acknowledged.items():
                self.assertIn(mine, found)
                survey = load_readings(session, found[mine].id)
                self.assertAlmostEqual(survey.spread, tilt, places=3)
            # and nothing is half there
            for record in found.values():
                count = session.query(Reading).filter_by(survey_id=record.id).count()
                self.assertEqual(count, record.count)
        engine.dispose()

    def test_every_acknowledged_record_is_there_again(self):
        web = self.serve()

        def kill_web():
            os.killpg(web.pid, signal.SIGKILL)
            web.wait()

        self.writers(20, kill_web)
        self.check()
        first = len(self.acknowledged)

        self.port = free_port()
        web = self.serve()
        self.acknowledged_before = dict(self.acknowledged)
        self.acknowledged.clear()
        self.writers(20, self.database.kill)
        self.acknowledged.update(self.acknowledged_before)
        self.database.restart()
        self.check()
        self.assertGreater(len(self.acknowledged), first)

        # the web server that lost its database finds it again by itself
        with urllib.request.urlopen(
            f"http://127.0.0.1:{self.port}/api/visits/{self.visit}", timeout=30
        ) as answer:
            rounds = json.load(answer)["rounds"]
        self.assertGreaterEqual(len(rounds), len(self.acknowledged))
