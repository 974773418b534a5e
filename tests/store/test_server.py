"""The database server of our own: what it says when it cannot start, and that nothing stays behind."""

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from sqlalchemy import text

from finchwort.store import server as module
from finchwort.store.database import database_url, make_engine
from finchwort.store.server import DatabaseServer, ServerError
from tests.fixtures.support import scratch


def alive(pid: int) -> bool:
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return False
    return True


class ServerTest(unittest.TestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp(prefix="finchwort-server-", dir=scratch()))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def start(self, **given) -> DatabaseServer:
        server = DatabaseServer(self.folder, **given)
        self.addCleanup(server.stop)
        server.start()
        return server

    def test_start_stop_start_keeps_what_was_stored(self):
        server = self.start()
        engine = make_engine(server.url)
        with engine.begin() as link:
            link.execute(text("CREATE TABLE keep (n INT)"))
            link.execute(text("INSERT INTO keep VALUES (7)"))
        engine.dispose()
        pid = server.process.pid
        server.stop()
        self.assertFalse(alive(pid))
        again = self.start()
        engine = make_engine(again.url)
        with engine.connect() as link:
            self.assertEqual(link.scalar(text("SELECT n FROM keep")), 7)
        engine.dispose()

    def test_second_start_on_the_same_folder(self):
        self.start()
        with self.assertRaisesRegex(ServerError, "already running"):
            DatabaseServer(self.folder).start()

    def test_listens_on_loopback_only(self):
        server = self.start()
        rows = Path("/proc/net/tcp").read_text().splitlines()[1:]
        mine = f":{server.port:04X}"
        listening = {r.split()[1] for r in rows if r.split()[1].endswith(mine) and r.split()[3] == "0A"}
        self.assertEqual(listening, {f"0100007F{mine}"})

    def test_port_taken(self):
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            with self.assertRaisesRegex(ServerError, "taken"):
                DatabaseServer(self.folder, other.getsockname()[1]).start()

    def test_a_free_port_that_is_snatched_is_replaced(self):
        with socket.socket() as other:
            other.bind(("127.0.0.1", 0))
            other.listen()
            ports = [other.getsockname()[1], module.free_port()]
            with mock.patch.object(module, "free_port", side_effect=ports):
                server = self.start()
            self.assertEqual(server.port, ports[1])

    def test_no_disk_space(self):
        usage = mock.Mock(free=1000)
        with mock.patch.object(module.shutil, "disk_usage", return_value=usage):
            with self.assertRaisesRegex(ServerError, "disk space"):
                DatabaseServer(self.folder).start()

    def test_with_little_room_what_is_there_can_still_be_read(self):
        self.start().stop()
        with mock.patch.object(module.shutil, "disk_usage", return_value=mock.Mock(free=30_000_000)):
            self.assertTrue(module.little_room(self.folder))
            server = self.start()
            server.stop()
            with self.assertRaisesRegex(ServerError, "disk space"):
                DatabaseServer(self.folder).start(fresh=True)
        with mock.patch.object(module.shutil, "disk_usage", return_value=mock.Mock(free=10_000_000)):
            with self.assertRaisesRegex(ServerError, "disk space"):
                DatabaseServer(self.folder).start()

    def test_folders_nothing_can_be_written_to(self):
        with self.assertRaisesRegex(ServerError, "cannot be made"):
            DatabaseServer(Path("/proc/finchwort")).start()
        with mock.patch("builtins.open", side_effect=PermissionError(13, "Permission denied")):
            with self.assertRaisesRegex(
                ServerError, "Nothing can be written in the folder .*: Permission denied"
            ):
                DatabaseServer(self.folder).start()

    def test_damaged_files_are_told_in_a_sentence(self):
        server = self.start()
        server.stop()
        for name in ("ibdata1", "aria_log_control"):
            (server.data / name).write_bytes(b"damage" * 1000)
        with self.assertRaisesRegex(ServerError, "did not start: .*[.]$"):
            DatabaseServer(self.folder).start()

    def test_not_installed(self):
        with mock.patch.object(module.shutil, "which", return_value=None):
            with self.assertRaisesRegex(ServerError, "not installed"):
                DatabaseServer(self.folder).start()

    def test_a_deep_folder(self):
        deep = self.folder / ("a" * 60) / ("b" * 60)
        server = DatabaseServer(deep)
        self.addCleanup(server.stop)
        server.start()
        self.assertLess(len(str(server.socket)), module.LONGEST_SOCKET)
        short = server.socket.parent
        server.stop()
        self.assertFalse(short.exists())

    def test_a_starter_that_is_killed_leaves_nothing_behind(self):
        code = (
            "import sys, time; from pathlib import Path; from finchwort.store.server import DatabaseServer\n"
            "s = DatabaseServer(Path(sys.argv[1])); s.start(); print(s.process.pid, flush=True); time.sleep(60)"
        )
        starter = subprocess.Popen(
            [sys.executable, "-c", code, str(self.folder)], stdout=subprocess.PIPE, text=True
        )
        pid = int(starter.stdout.readline())
        starter.kill()
        starter.wait()
        starter.stdout.close()
        for _ in range(150):
            if not alive(pid):
                break
            time.sleep(0.1)
        self.assertFalse(alive(pid))
        self.start()  # and the folder can be used again

    def test_a_server_left_running_is_ended_first(self):
        left = DatabaseServer(self.folder)
        left.start()
        pid = left.process.pid
        left._lock.close()  # as if its starter had died and the system had not told it
        server = self.start()
        left.process.wait(30)
        self.assertFalse(alive(pid))
        self.assertNotEqual(server.process.pid, pid)


class AddressTest(unittest.TestCase):
    def test_no_database_named(self):
        with mock.patch.dict(os.environ, clear=True), self.assertRaisesRegex(RuntimeError, "bin/demo"):
            database_url()
