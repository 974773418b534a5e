"""Restore a backup, and be killed at a named point; test_backup runs it as a process of its own."""

import os
import signal
from pathlib import Path

from finchwort.services import backup
from finchwort.store import migrate
from finchwort.store.server import DatabaseServer


def die() -> None:
    os.kill(os.getpid(), signal.SIGKILL)


class Half:
    """The beginning of a stream; then the end comes."""

    def __init__(self, stream):
        self.pieces = [stream.read(60_000)]

    def read(self, _size: int) -> bytes:
        if not self.pieces:
            die()
        return self.pieces.pop()


def restore_and_die(folder: Path, path: Path, point: str) -> None:
    """Bring back the backup at a path over the records in a folder, and die at a point of it."""
    load, upgrade, point_to = backup._load, migrate.upgrade, DatabaseServer.point_to

    def loading(url, records):
        restoring = "_check_" not in url.database
        if restoring and point == "begun":
            # half of the records are there
            load(url, Half(records))
        load(url, records)
        if restoring and point == "loaded":
            die()

    def upgrading(*given, **named):
        made = upgrade(*given, **named)
        if point == "upgraded":
            die()
        return made

    def pointing(self, database):
        if point == "pointing":
            self.live.with_suffix(".part").write_text(database)
            die()
        point_to(self, database)
        if point == "pointed":
            die()

    backup._load, migrate.upgrade, DatabaseServer.point_to = loading, upgrading, pointing
    server = DatabaseServer(folder)
    server.start()
    backup.restore(server, path, folder / "backups")
