"""Backups: taken under load, cut, newer, killed half way; compared row by row."""

import json
import multiprocessing
import shutil
import signal
import tempfile
import threading
import time
import unittest
import uuid
import zipfile
from dataclasses import replace
from pathlib import Path

from sqlalchemy import inspect, text

from finchwort.demo.workshop import load_demo
from finchwort.services import backup
from finchwort.services.access import devices
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.server import DatabaseServer
from tests.fixtures import support
from tests.services.killed_restore import restore_and_die


def table_rows(engine) -> dict[str, list]:
    """Give every row of every table, in the order of their keys."""
    found = {}
    with engine.connect() as link:
        for name in inspect(engine).get_table_names():
            keys = inspect(engine).get_pk_constraint(name)["constrained_columns"] or ["1"]
            order = ", ".join(f"`{key}`" if key != "1" else key for key in keys)
            found[name] = [
                tuple(row) for row in link.execute(text(f"SELECT * FROM `{name}` ORDER BY {order}"))
            ]
    return found


CHANGED_BY_A_RESTORE = {"audit", "written", "device", "pairing"}


class BackupCase(unittest.TestCase):
    """A server of its own, as the start command has one; its records are made once and copied for each test."""

    @classmethod
    def setUpClass(cls):
        held = tempfile.TemporaryDirectory(prefix="finchwort-filled-", dir=support.scratch())
        cls.addClassCleanup(held.cleanup)
        cls.filled = Path(held.name)
        server = DatabaseServer(cls.filled)
        server.start()
        try:
            engine = make_engine(server.url)
            migrate.upgrade(engine)
            with make_sessions(engine).begin() as session:
                load_demo(session)
            engine.dispose()
        finally:
            server.stop()

    def setUp(self):
        held = tempfile.TemporaryDirectory(prefix="finchwort-backup-", dir=support.scratch())
        self.addCleanup(held.cleanup)
        self.folder = Path(held.name, "records")
        shutil.copytree(self.filled, self.folder)
        self.server = DatabaseServer(self.folder)
        self.server.start()
        self.addCleanup(self.server.stop)
        self.backups = self.folder / "backups"

    def engine(self):
        engine = make_engine(self.server.url)
        self.addCleanup(engine.dispose)
        return engine

    def rows(self):
        return table_rows(self.engine())


class BackupTest(BackupCase):
    def test_wiped_and_restored_row_by_row(self):
        before = self.rows()
        made = backup.make_backup(self.server.url, self.backups)
        self.assertEqual(made.manifest.rows, {name: len(rows) for name, rows in before.items()})
        self.assertEqual(backup.read_backup(made.path), made.manifest)
        self.assertEqual([b.path for b in backup.list_backups(self.backups)], [made.path])
        with self.engine().begin() as link:
            support.empty(link)
        self.assertEqual(sum(map(len, self.rows().values())), 1)  # the form of the tables is left
        copy = backup.restore(self.server, made.path, self.backups)
        self.assertEqual(copy.manifest.kind, backup.BEFORE_RESTORE)
        after = self.rows()
        for name in set(before) - CHANGED_BY_A_RESTORE:
            self.assertEqual(after[name], before[name], name)
        self.assertIn("backup of", after["audit"][-1][3])
        # only the database that counts is left, and it is found after a new start
        with self.engine().connect() as link:
            names = [n for n in link.scalars(text("SHOW DATABASES")) if n.startswith("finchwort")]
        self.assertEqual(names, [self.server.database])
        again = DatabaseServer(self.folder)
        self.server.stop()
        again.start()
        self.addCleanup(again.stop)
        engine = make_engine(again.url)
        self.addCleanup(engine.dispose)
        self.assertEqual(table_rows(engine)["reading"], before["reading"])

    def test_taken_while_others_write_it_is_of_one_moment(self):
        """Writers add a line and its twin in one transaction: a backup never has one without the other, nor a gap."""
        stopping, written = threading.Event(), [0, 0]

        def write(who: int) -> None:
            sessions = make_sessions(make_engine(self.server.url))
            while not stopping.is_set():
                number = written[who]
                with sessions.begin() as session:
                    for part in ("line", "twin"):
                        session.execute(
                            text(
                                "INSERT INTO entry (created_at, at, kind, title, detail) VALUES "
                                "(NOW(6), NOW(6), 'note', :title, '')"
                            ),
                            {"title": f"{part} {who} {number}"},
                        )
                written[who] += 1

        threads = [threading.Thread(target=write, args=(who,)) for who in (0, 1)]
        for thread in threads:
            thread.start()
        while min(written) < 20:
            time.sleep(0.01)
        before = list(written)
        try:
            made = backup.make_backup(self.server.url, self.backups)
        finally:
            after = list(written)
            stopping.set()
            for thread in threads:
                thread.join()
        self.assertGreater(min(after), min(before))  # they did go on meanwhile
        live = self.rows()["entry"]
        backup.restore(self.server, made.path, self.backups)
        kept = self.rows()["entry"]
        self.assertEqual(kept, [row for row in live if row[0] in {k[0] for k in kept}])
        titles = [
            cell for row in kept for cell in row if isinstance(cell, str) and cell[:5] in ("line ", "twin ")
        ]
        for who in (0, 1):
            lines = sorted(int(t.split()[2]) for t in titles if t.startswith(f"line {who}"))
            twins = sorted(int(t.split()[2]) for t in titles if t.startswith(f"twin {who}"))
            self.assertEqual(lines, twins)
            self.assertEqual(lines, list(range(len(lines))))
            self.assertGreaterEqual(len(lines), before[who])
            self.assertLessEqual(len(lines), after[who] + 1)

    def test_a_file_that_is_cut_damaged_newer_or_something_else_is_refused(self):
        made = backup.make_backup(self.server.url, self.backups)
        whole = made.path.read_bytes()
        before = self.rows()
        for name, data, said in (
            ("cut.zip", whole[: len(whole) // 2], "damaged"),
            ("cut-at-end.zip", whole[:-30], "damaged"),
            ("flipped.zip", whole[:9000] + bytes([whole[9000] ^ 1]) + whole[9001:], "damaged"),
            ("text.zip", b"no backup at all", "no backup"),
            ("empty.zip", b"", "no backup"),
        ):
            with self.subTest(name):
                path = self.folder / name
                path.write_bytes(data)
                with self.assertRaisesRegex(backup.BackupError, said):
                    backup.restore(self.server, path, self.backups)
        with self.assertRaisesRegex(backup.BackupError, "There is no file"):
            backup.restore(self.server, self.folder / "nowhere.zip", self.backups)
        for change, said in (
            ({"form": "9999"}, "newer Finchwort"),
            ({"format": 2}, "newer Finchwort"),
            ({"sha256": "0" * 64}, "damaged"),
            ({"rows": made.manifest.rows | {"reading": 1}}, "not what went in"),
        ):
            with self.subTest(change):
                path = self.rewritten(made.path, **change)
                with self.assertRaisesRegex(backup.BackupError, said):
                    backup.restore(self.server, path, self.backups)
        self.assertEqual(self.rows(), before)

    def rewritten(self, path: Path, **changes) -> Path:
        """Write a backup with another manifest."""
        target = self.folder / "rewritten.zip"
        with zipfile.ZipFile(path) as held, zipfile.ZipFile(target, "w") as out:
            out.writestr("manifest.json", json.dumps(json.loads(held.read("manifest.json")) | changes))
            out.writestr("records.sql.gz", held.read("records.sql.gz"))
        return target

    def test_so_many_are_kept(self):
        made = [backup.make_backup(self.server.url, self.backups, backup.DAILY, keep=2) for _ in range(3)]
        hand = backup.make_backup(self.server.url, self.backups)
        left = {one.path for one in backup.list_backups(self.backups)}
        self.assertEqual(left, {made[1].path, made[2].path, hand.path})
        self.assertEqual(replace(made[2].manifest, made_at="", sha256="").kind, "daily")

    def test_a_device_removed_since_does_not_come_back(self):
        sessions = make_sessions(self.engine())
        with sessions.begin() as session:
            kept = devices.claim(
                session, devices.make_code(session, "member", 30).code, "Kept phone", "192.0.2.1"
            )
            lost = devices.claim(
                session, devices.make_code(session, "owner", 30).code, "Lost phone", "192.0.2.1"
            )
            waiting = devices.make_code(session, "owner", 30).code
        made = backup.make_backup(self.server.url, self.backups)
        with sessions.begin() as session:
            devices.remove_device(session, lost[0].id)
        backup.restore(self.server, made.path, self.backups)
        with make_sessions(self.engine()).begin() as session:
            self.assertIsNotNone(devices.known_device(session, kept[1]))
            self.assertIsNone(devices.known_device(session, lost[1]))
            self.assertIsNone(devices.claim(session, waiting, "Old code", "192.0.2.2"))


class KilledTest(BackupCase):
    """The process that restores is killed at many moments: the records are the old ones or the new ones, whole."""

    def test_killed_half_way(self):
        made = backup.make_backup(self.server.url, self.backups)
        kept = self.rows()["entry"]
        with self.engine().begin() as link:
            link.execute(
                text(
                    "INSERT INTO entry (created_at, at, kind, title, detail) VALUES (NOW(6), NOW(6), 'note', 'later', '')"
                )
            )
        newer = self.rows()["entry"]
        self.assertEqual(len(newer), len(kept) + 1)
        self.server.stop()
        fork, outcomes = multiprocessing.get_context("fork"), set()
        # the points: before and after each statement that matters, by name
        for point in ("begun", "loaded", "upgraded", "pointing", "pointed"):
            with self.subTest(point):
                done = fork.Process(target=restore_and_die, args=(self.folder, made.path, point))
                done.start()
                done.join()
                self.assertEqual(done.exitcode, -signal.SIGKILL)
                server = DatabaseServer(self.folder)
                server.start()
                try:
                    engine = make_engine(server.url)
                    found = table_rows(engine)["entry"]
                    engine.dispose()
                    self.assertIn(len(found), (len(kept), len(newer)))
                    self.assertEqual(found, newer if len(found) == len(newer) else kept)
                    outcomes.add(len(found))
                    backup.drop_leftovers(server)
                finally:
                    server.stop()
        self.assertEqual(outcomes, {len(kept), len(newer)})


class RandomNameTest(unittest.TestCase):
    def test_only_our_names_are_listed(self):
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / f"finchwort-{uuid.uuid4()}.zip").write_bytes(b"PK\x03\x04")
            (Path(folder) / "finchwort-20260101-000000-daily.zip").write_bytes(b"PK\x03\x04")
            self.assertEqual(backup.list_backups(Path(folder)), [])
