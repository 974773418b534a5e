"""Restore a backup, and be killed at a named point; run by test_backup as a process of its own."""

import os
import signal
import sys
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


def main(folder: Path, path: Path, point: str) -> None:
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


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]), sys.argv[3])
