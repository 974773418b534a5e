"""The commands as a person starts them: link and simulated printer, in processes of their own."""

import json
import os
import signal
import subprocess
import sys
import time
import urllib.request

from sqlalchemy import text

from finchwort.store.database import ENVIRONMENT
from finchwort.store.server import free_port
from tests.fixtures.line import BenchCase


class CommandTest(BenchCase):
    speed = 30.0

    def start(self, *words):
        process = subprocess.Popen(
            [sys.executable, "-m", "finchwort.cli", *words],
            env=os.environ | {ENVIRONMENT: self.url.render_as_string(hide_password=False)},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        self.addCleanup(process.stdout.close)
        self.addCleanup(process.wait, 20)
        self.addCleanup(process.kill)
        return process

    def until(self, job_id, done):
        deadline = time.monotonic() + 60
        while self.job(job_id).done < done:
            self.assertLess(time.monotonic(), deadline, "the job does not get on")
            time.sleep(0.05)

    def test_a_link_killed_outright_leaves_what_was_read(self):
        link = self.start("link", "--workers", "2")
        self.assertIn("The link is ready", link.stdout.readline())
        job_id = self.queue("grid", columns=5, rows=5)
        self.until(job_id, 3)
        link.kill()
        link.wait(20)
        self.assertEqual(self.job(job_id).state, "running")
        with self.engine.begin() as session:  # twenty seconds later
            session.execute(text("UPDATE job SET lease_until = lease_until - INTERVAL 1 MINUTE"))
            session.execute(text("UPDATE machine_line SET lease_until = lease_until - INTERVAL 1 MINUTE"))
        self.worker.step()
        job = self.job(job_id)
        self.assertEqual(job.state, "interrupted")
        self.assertGreaterEqual(job.done, 3)
        again = self.do("grid", resume=job_id)
        self.assertEqual((again.state, again.done + job.done), ("done", 25))

    def test_a_link_that_is_asked_to_go_goes_at_once(self):
        link = self.start("link")
        link.stdout.readline()
        job_id = self.queue("grid", columns=5, rows=5)
        self.until(job_id, 2)
        link.send_signal(signal.SIGTERM)
        self.assertEqual(link.wait(20), 0)
        self.assertEqual(self.job(job_id).state, "interrupted")

    def test_simulate(self):
        port, page = free_port(), free_port()
        process = self.start("simulate", "--port", str(port), "--page", str(page), "--speed", "100")
        self.assertIn(f"socket://127.0.0.1:{port}", process.stdout.readline())
        with urllib.request.urlopen(f"http://127.0.0.1:{page}/state", timeout=10) as answer:
            self.assertEqual(len(json.load(answer)["knobs"]), 4)
        second = self.start("simulate", "--port", str(port), "--page", str(page))
        self.assertEqual(second.wait(20), 1)
        self.assertIn("cannot listen there", second.stdout.read())
        process.send_signal(signal.SIGINT)
        self.assertEqual(process.wait(20), 0)
