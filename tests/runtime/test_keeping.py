"""Backups in time, the log, where things lie, and the unit of the service."""

import configparser
import json
import os
import subprocess
import sys
import tempfile
import threading
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from finchwort.runtime import background
from finchwort.runtime.keeper import Keeper, due
from finchwort.runtime.logs import MAX_BYTES, Log, in_words, read_log, tail, without_secrets
from finchwort.services import backup
from finchwort.store.access.settings import Backups, Sharing, read_setting, write_setting
from finchwort.store.place import Place, Running, backup_trouble, held, running, usual_folder
from finchwort.store.visits.logbook import write_entry
from tests.fixtures.support import DatabaseCase

NOW = datetime(2026, 3, 1, 12, tzinfo=UTC)
HOURS = st.integers(1, 14 * 24)


class Folder(unittest.TestCase):
    def setUp(self):
        held_folder = tempfile.TemporaryDirectory(prefix="finchwort-keep-")
        self.addCleanup(held_folder.cleanup)
        self.folder = Path(held_folder.name)


class DueTest(unittest.TestCase):
    @given(HOURS, st.floats(0, 5000))
    def test_as_often_as_wanted(self, hours, age):
        newest = NOW - timedelta(hours=age)
        self.assertEqual(due(newest, None, hours, NOW), (NOW - newest) >= timedelta(hours=hours))

    @given(HOURS)
    def test_never_made_it_is_due_and_after_a_failure_not_at_once(self, hours):
        self.assertTrue(due(None, None, hours, NOW))
        self.assertFalse(due(None, NOW - timedelta(minutes=59), hours, NOW))
        self.assertTrue(due(None, NOW - timedelta(minutes=61), hours, NOW))

    def test_a_clock_that_was_set_back(self):
        self.assertTrue(due(NOW + timedelta(days=400), None, 24, NOW))
        self.assertFalse(due(NOW + timedelta(minutes=5), None, 24, NOW))


class KeeperTest(DatabaseCase, Folder):
    def setUp(self):
        DatabaseCase.setUp(self)
        Folder.setUp(self)
        self.said = []
        self.keeper = Keeper(self.url, self.folder, self.said.append)

    def begin(self):
        with self.sessions.begin() as session:
            write_entry(session, "note", "worth keeping")

    def set(self, **setting):
        with self.sessions.begin() as session:
            write_setting(session, Backups(**setting))

    def test_an_empty_workshop_has_nothing_to_lose(self):
        self.assertFalse(self.keeper.look())
        self.begin()
        self.assertTrue(self.keeper.look())
        self.assertFalse(self.keeper.look())  # not twice a day
        self.assertEqual([one.manifest.kind for one in backup.list_backups(self.folder)], ["daily"])
        self.assertIn("read back", self.said[0])

    def test_every_day_and_so_many_are_kept(self):
        self.begin()
        self.set(keep=2)
        start = datetime.now(UTC)
        for day in range(4):
            at = start + timedelta(days=day, seconds=day)
            for place in ("finchwort.runtime.keeper.datetime", "finchwort.services.backup.datetime"):
                clock = mock.patch(place, wraps=datetime)
                self.enterContext(clock).now.return_value = at
            self.assertTrue(self.keeper.look(), day)
        self.assertEqual(len(backup.list_backups(self.folder)), 2)

    def test_switched_off(self):
        self.begin()
        self.set(on=False)
        self.assertFalse(self.keeper.look())

    def test_a_failure_is_told_on_the_page_and_taken_back(self):
        self.begin()
        with mock.patch("finchwort.store.dump.find_program", return_value=None):
            self.assertFalse(self.keeper.look())
        self.assertIn("mariadb-dump is not installed", backup_trouble(self.folder))
        self.assertEqual(list(self.folder.glob("*.zip")), [])
        self.keeper._failed = None
        self.assertTrue(self.keeper.look())
        self.assertEqual(backup_trouble(self.folder), "")

    def test_settings(self):
        with self.sessions.begin() as session:
            self.assertEqual(read_setting(session, Backups), Backups(True, 24, 7))
            self.assertFalse(read_setting(session, Sharing).on)
            write_setting(session, Sharing(True))
            write_setting(session, Sharing(True))
        with self.sessions() as session:
            self.assertTrue(read_setting(session, Sharing).on)


class LogTest(Folder):
    def log(self):
        log = Log(self.folder)
        self.addCleanup(log.close)
        return log

    def say(self, log, code, part="web"):
        process = subprocess.Popen(
            [sys.executable, "-c", code], stdout=subprocess.PIPE, stderr=subprocess.STDOUT
        )
        log.listen(part, process)
        process.wait()
        for thread in log._threads:
            thread.join()

    def test_what_parts_say_is_written_with_their_name(self):
        log = self.log()
        self.say(
            log,
            "import json; print(json.dumps({'event': 'asked', 'level': 'error', 'path': '/x'})); print('plain')",
        )
        lines = read_log(self.folder, 10)
        self.assertEqual(
            [(line["part"], line["level"], line["event"]) for line in lines],
            [("web", "error", "asked"), ("web", "info", "plain")],
        )
        self.assertEqual(read_log(self.folder, 10, "link"), [])
        self.assertIn("ERROR  asked  path=/x", in_words(lines[0]))
        self.assertEqual(log.path.stat().st_mode & 0o077, 0)

    def test_no_secret_is_written(self):
        log = self.log()
        self.say(
            log,
            "import json\n"
            "print(json.dumps({'event': 'x', 'token': 'SECRET1', 'more': {'client_key': 'SECRET2', 'url': 'mysql://me:SECRET3@h/d'}}))\n"
            "print('GET /pair?code=SECRET4 Cookie: __Host-finchwort-device=SECRET5SECRET5SECRET5')\n"
            "print('password: SECRET6')",
        )
        self.assertNotIn("SECRET", log.path.read_text())
        self.assertEqual(without_secrets({"kept": 1, "event": "code of conduct"})["event"], "code of conduct")

    def test_it_is_turned_over(self):
        log = self.log()
        for number in range(3 * MAX_BYTES // 1000):
            log.say("x" * 900, number=number)
        files = sorted(path.name for path in self.folder.iterdir())
        self.assertIn("finchwort.log.2", files)
        self.assertLessEqual(max(path.stat().st_size for path in self.folder.iterdir()), MAX_BYTES)
        numbers = [line["number"] for line in read_log(self.folder, 1500)]
        self.assertEqual(numbers, list(range(numbers[0], numbers[0] + 1500)))  # over two files, in order
        self.assertEqual(len(numbers), 1500)

    def test_it_is_followed_also_when_it_is_turned_over(self):
        log, stopping, found = self.log(), threading.Event(), []
        log.say("before")

        def follow():
            for line in tail(self.folder, stopping):
                found.append(line["event"])
                if line["event"] == "last":
                    return

        thread = threading.Thread(target=follow)
        thread.start()
        said = 0
        while not found:  # from some line on it follows
            log.say(f"line {said}")
            said += 1
            stopping.wait(0.05)
        for _ in range(3):
            log.say(f"line {said}")
            said += 1
            log._handler.doRollover()
            while f"line {said - 1}" not in found:
                stopping.wait(0.05)
        log.say("last")
        thread.join(60)
        first = int(found[0].split()[1])
        self.assertEqual(found, [f"line {number}" for number in range(first, said)] + ["last"])


class PlaceTest(Folder):
    def test_in_the_users_data_folder(self):
        with mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder)}):
            self.assertEqual(usual_folder(), self.folder / "finchwort")
            self.assertEqual(background.place_of(None).folder, self.folder / "finchwort")
        self.assertEqual(background.place_of(Path("x")).folder, Path.cwd() / "x")

    def test_what_an_earlier_run_left_does_not_run(self):
        self.assertFalse(held(self.folder))
        state = Running(os.getpid(), 1, NOW.isoformat(), "0")
        state.write(self.folder)
        (self.folder / "lock").touch()
        self.assertIsNone(running(self.folder))  # nobody holds the lock
        self.assertIn("not running", background.in_words(self.folder, None)[0])
        self.assertEqual((self.folder / "running.json").stat().st_mode & 0o077, 0)
        self.assertIn("closed", " ".join(background.in_words(self.folder, state)))

    def test_stop_without_anything(self):
        self.assertFalse(background.stop(self.folder))


class ServiceTest(Folder):
    def setUp(self):
        super().setUp()
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder), "PATH": ""}))

    def test_the_unit(self):
        place = Place(self.folder / "own place 100%")
        parser = configparser.ConfigParser(interpolation=None)
        parser.optionxform = str
        parser.read_string(background.unit(place.folder, ["--port", "8420"]))
        command = parser["Service"]["ExecStart"]
        self.assertIn("start --foreground --data", command)
        self.assertIn("own place 100%%'", command)  # a percent sign means something to systemd
        self.assertEqual(parser["Service"]["Restart"], "on-failure")
        self.assertEqual(parser["Install"]["WantedBy"], "default.target")

    def test_written_without_systemd_and_taken_away(self):
        said = background.install_unit(self.folder / "data", [])
        path = self.folder / "systemd" / "user" / "finchwort.service"
        self.assertIn("ExecStart", path.read_text())
        self.assertIn("systemctl --user enable --now finchwort", " ".join(said))
        self.assertIn("The records stay", background.remove_unit()[0])
        self.assertFalse(path.exists())
        self.assertIn("no service", background.remove_unit()[0])

    def test_systemd_is_asked(self):
        called = self.folder / "called"
        control = self.folder / "systemctl"
        control.write_text(f'#!/bin/sh\necho "$@" >> {called}\n')
        control.chmod(0o755)
        with (
            mock.patch("shutil.which", return_value=str(control)),
            mock.patch.dict(os.environ, {"PATH": "/bin:/usr/bin"}),
        ):
            self.assertIn("It runs now", background.install_unit(self.folder / "data", [])[1])
            background.remove_unit()
        self.assertEqual(
            called.read_text().splitlines(),
            [
                "--user daemon-reload",
                "--user enable --now finchwort.service",
                "--user disable --now finchwort.service",
            ],
        )


class ManifestTest(Folder):
    def test_a_folder_without_backups(self):
        self.assertEqual(backup.list_backups(self.folder / "none"), [])
        self.assertEqual(backup_trouble(self.folder), "")
        (self.folder / "trouble.json").write_text(json.dumps([1]))
        self.assertEqual(backup_trouble(self.folder), "")
