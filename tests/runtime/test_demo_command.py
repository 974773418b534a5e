"""The start command as a person uses it: start, stop, start again, start twice, pull the plug."""

import json
import signal
import socket
import subprocess
import sys
import tempfile
import unittest
import urllib.request

from finchwort.store.server import free_port
from tests.fixtures.processes import family, gone
from tests.fixtures.support import scratch


class DemoCommandTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory(prefix="finchwort-demo-", dir=scratch())
        self.addCleanup(folder.cleanup)
        self.folder = folder.name
        self.port = free_port()

    def start(self, *options, port=None):
        command = [sys.executable, "-m", "finchwort.cli", "demo", "run"]
        self.line, page = free_port(), free_port()
        command += ["--port", str(port or self.port), "--data", self.folder, *options]
        command += ["--line-port", str(self.line), "--page-port", str(page)]
        return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)

    def until_ready(self, process) -> str:
        said = ""
        for line in process.stdout:
            said += line
            if "is ready" in line:
                return said
        self.fail(f"it ended: {said}")

    def end(self, process, number=signal.SIGTERM) -> None:
        process.send_signal(number)
        process.wait(60)
        process.stdout.close()

    def get(self, path):
        with urllib.request.urlopen(f"http://127.0.0.1:{self.port}{path}", timeout=10) as answer:
            return json.load(answer)

    def test_start_stop_and_start_again(self):
        first = self.start()
        self.assertIn("demo workshop was set up", self.until_ready(first))
        cards = self.get("/api/workshop")["cards"]
        self.assertEqual(len(cards), 4)
        request = urllib.request.Request(
            f"http://127.0.0.1:{self.port}/api/logbook",
            b'{"text": "kept over night"}',
            {"Content-Type": "application/json"},
        )
        urllib.request.urlopen(request, timeout=10).close()

        second = self.start(port=free_port())
        said = second.communicate(timeout=60)[0]
        self.assertEqual(second.returncode, 1)
        self.assertIn("already running", said)
        self.assertEqual(len(said.strip().splitlines()), 1)

        all_of_it = family(first.pid)
        self.assertGreaterEqual(
            len(all_of_it), 6
        )  # starter, database, simulated printer, link, web and its worker
        self.end(first, signal.SIGINT)
        self.assertEqual(first.returncode, 0)
        self.assertTrue(gone(all_of_it))

        again = self.start()
        self.assertIn("as you left them", self.until_ready(again))
        self.assertEqual(self.get("/api/logbook?kind=note&q=night")["entries"][0]["title"], "kept over night")
        lines = [card["printer"]["port"] for card in self.get("/api/workshop")["cards"]]
        self.assertIn(
            f"socket://127.0.0.1:{self.line}", lines
        )  # the simulated printer moved, its line with it
        self.end(again)

        fresh = self.start("--fresh")
        self.assertIn("demo workshop was set up", self.until_ready(fresh))
        self.assertEqual(self.get("/api/logbook?kind=note&q=night")["entries"], [])
        self.end(fresh)

    def test_port_taken(self):
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            process = self.start(port=other.getsockname()[1])
            said = process.communicate(timeout=60)[0]
        self.assertEqual(process.returncode, 1)
        self.assertIn("is taken by another program. Choose another one", said)
        self.assertEqual(len(said.strip().splitlines()), 1)

    def test_ports_named_twice(self):
        self.line = self.port
        process = self.start("--database-port", str(self.port))
        said = process.communicate(timeout=60)[0]
        self.assertEqual((process.returncode, len(said.strip().splitlines())), (1, 1))
        self.assertIn("is named twice", said)
