"""Backups: one file with all records as they were at one moment, read back before it counts, and brought back again.

A backup is a zip file with ``manifest.json`` (version, form of the tables, rows of each table, SHA-256) and
``records.sql.gz``.  The certificate authority's key and the settings of the machine around the records are not in it.
"""

from __future__ import annotations

import contextlib
import fcntl
import gzip
import json
import os
import re
import secrets
import shutil
import subprocess
import tempfile
import zipfile
from collections.abc import Iterator
from dataclasses import asdict
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

from sqlalchemy import URL, Engine, inspect, text
from sqlalchemy.exc import DBAPIError

import finchwort
from finchwort.services.access.devices import KEPT, forget_all_devices, list_devices, may_come, write_audit
from finchwort.services.backup_file import (
    CHUNK,
    FORMAT,
    MANIFEST,
    NAME,
    RECORDS,
    Backup,
    BackupError,
    Manifest,
    list_backups,
    read_backup,
    records_of,
    sum_of_file,
)
from finchwort.services.upkeep import judge_again
from finchwort.store import migrate
from finchwort.store.access.kinds import BackupKind
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.dump import DumpError, client, dump, secret_of
from finchwort.store.records import utcnow
from finchwort.store.server import DATABASE, DatabaseServer

__all__ = [
    "BEFORE_RESTORE",
    "BY_HAND",
    "DAILY",
    "NAME",
    "Backup",
    "BackupError",
    "drop_leftovers",
    "list_backups",
    "make_backup",
    "read_backup",
    "restore",
]

DAILY, BY_HAND, BEFORE_RESTORE = KINDS = tuple(BackupKind)
MAX_KEPT: dict[str, int] = {BY_HAND: 20, BEFORE_RESTORE: 10}
"""So many of a kind are kept, the newest; of daily ones as many as the setting says."""


def make_backup(url: URL, folder: Path, kind: str = BY_HAND, keep: int | None = None) -> Backup:
    """Copy all records into one file, and read it back before it counts.

    Parameters
    ----------
    url : URL
        The database; others may go on writing.
    folder : Path
        Made when absent.
    kind : one of ``KINDS``
    keep : int, optional
        So many of this kind are kept, the newest.

    Raises
    ------
    BackupError
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with _alone(folder), tempfile.TemporaryDirectory(dir=folder, prefix=".making-") as scratch:
            at = datetime.now(UTC)
            records = dump(url, Path(scratch), "records")
            facts = _read_back(url, records)
            manifest = Manifest(
                format=FORMAT,
                version=finchwort.__version__,
                made_at=at.isoformat(timespec="microseconds"),
                kind=kind,
                sha256=sum_of_file(records),
                **facts,
            )
            part = Path(scratch) / "backup.zip"
            with zipfile.ZipFile(part, "w", zipfile.ZIP_STORED) as out:
                out.writestr(MANIFEST, json.dumps(asdict(manifest), indent=1))
                out.write(records, RECORDS)
            with open(part, "rb") as written:
                os.fsync(written.fileno())
            read_backup(part)
            target = _free_name(folder, at, kind)
            part.rename(target)
            _thin(folder, kind, keep if keep is not None else MAX_KEPT.get(kind, 7))
            return Backup(target, manifest, target.stat().st_size)
    except (DumpError, migrate.MigrationError) as error:
        raise BackupError(f"No backup was made. {error}") from None
    except OSError as error:
        raise BackupError(f"No backup was made: {folder} cannot be written ({error.strerror}).") from None
    except DBAPIError as error:
        raise BackupError(f"No backup was made: the database says “{error.orig}”.") from None


def restore(server: DatabaseServer, path: Path, folder: Path) -> Backup | None:
    """Bring the records of a backup back; what stood there is copied first.

    The records are loaded into a database of their own, checked and brought to the present form; only then the server is
    pointed to it, at one stroke.  Killed at any moment, the old records or the new ones are there, whole.

    Parameters
    ----------
    server : DatabaseServer
        Started; nothing else may be running over it.
    path : Path
    folder : Path
        Where the copy of what stood there goes.

    Returns
    -------
    Backup or None
        That copy; None when there was nothing.

    Raises
    ------
    BackupError
        When the file is damaged or newer, or cannot be brought back; the records are then as they were.
    """
    manifest = read_backup(path)
    drop_leftovers(server)
    old = server.url
    engine = make_engine(old)
    try:
        began = inspect(engine).has_table("printer")
        tokens = _tokens(engine) if began else []
    finally:
        engine.dispose()
    copy = make_backup(old, folder, BEFORE_RESTORE) if began else None
    fresh = f"{DATABASE}_{datetime.now(UTC):%Y%m%d%H%M%S}_{secrets.token_hex(3)}"
    target = old.set(database=fresh)
    try:
        with records_of(path) as records:
            _load(target, records)
        engine = make_engine(target)
        try:
            rows, form = _count(engine), migrate.current(engine)
            if (rows, form) != (manifest.rows, manifest.form):
                raise BackupError(
                    f"What came out of {path.name} is not what went in. The records are as they were."
                )
            migrate.upgrade(engine, after=judge_again)
            with make_sessions(engine).begin() as session:
                # a device that was removed since the backup was made must not come back with it
                forget_all_devices(session, tokens)
                write_audit(
                    session, KEPT, f"The records were brought back from a backup of {manifest.made_at}."
                )
        finally:
            engine.dispose()
        server.point_to(fresh)
    except (DumpError, migrate.MigrationError) as error:
        raise BackupError(
            f"{path.name} could not be brought back: {error} The records are as they were."
        ) from None
    except DBAPIError as error:
        raise BackupError(
            f"{path.name} could not be brought back: the database says “{error.orig}”. The records are as they were."
        ) from None
    finally:
        drop_leftovers(server)
    return copy


def drop_leftovers(server: DatabaseServer) -> None:
    """Drop databases that a check or a restore left behind when it was killed."""
    engine = make_engine(server.url)
    try:
        with engine.begin() as link:
            for name in link.scalars(text("SHOW DATABASES")).all():
                if name != server.database and re.fullmatch(rf"{DATABASE}(_\w+)?", name):
                    link.execute(text(f"DROP DATABASE `{name}`"))
    finally:
        engine.dispose()


def _tokens(engine: Engine) -> list[str]:
    if migrate.current(engine) != migrate.head():
        return []
    with make_sessions(engine)() as session:
        return [device.token_hash for device in list_devices(session) if may_come(device, utcnow())]


@contextlib.contextmanager
def _alone(folder: Path) -> Iterator[None]:
    """Let one backup be made at a time."""
    with open(folder / ".lock", "a") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise BackupError("A backup is being made just now. Wait until it is done.") from None
        for left in folder.glob(".making-*"):
            shutil.rmtree(left, ignore_errors=True)
        yield


def _free_name(folder: Path, at: datetime, kind: str) -> Path:
    name = f"finchwort-{at:%Y%m%d-%H%M%S}-{kind}"
    target, count = folder / f"{name}.zip", 1
    while target.exists():
        count += 1
        target = folder / f"{name}-{count}.zip"
    return target


def _thin(folder: Path, kind: str, keep: int) -> None:
    for old in [backup for backup in list_backups(folder) if backup.manifest.kind == kind][max(1, keep) :]:
        old.path.unlink(missing_ok=True)


def _read_back(url: URL, records: Path) -> dict[str, Any]:
    """Load a dump into a database of its own, count what is in it, and drop that again."""
    scratch = url.set(database=f"{DATABASE}_check_{secrets.token_hex(6)}")
    try:
        with gzip.open(records) as plain:
            _load(scratch, plain)
        engine = make_engine(scratch)
        try:
            with engine.connect() as link:
                named = link.scalar(text("SELECT name FROM workshop ORDER BY id LIMIT 1"))
            return {"form": migrate.current(engine) or "", "workshop": named or "", "rows": _count(engine)}
        finally:
            engine.dispose()
    finally:
        _drop(scratch)


def _count(engine: Engine) -> dict[str, int]:
    with engine.connect() as link:
        names = sorted(inspect(engine).get_table_names())
        return {name: link.scalar(text(f"SELECT COUNT(*) FROM `{name}`")) for name in names}


def _load(url: URL, records: IO[bytes] | gzip.GzipFile) -> None:
    """Make a database and load a dump into it."""
    program = shutil.which("mariadb") or shutil.which("mysql")
    if program is None:
        raise DumpError("The programme mariadb is not installed. Install mariadb-client, or run bin/setup.")
    begin = f"CREATE DATABASE `{url.database}` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci; USE `{url.database}`;\n"
    with subprocess.Popen(
        [*client(url, program), "--batch", "--max-allowed-packet=64M"],
        stdin=subprocess.PIPE,
        stdout=subprocess.DEVNULL,
        stderr=subprocess.PIPE,
        env=secret_of(url),
    ) as process:
        assert process.stdin is not None and process.stderr is not None
        try:
            process.stdin.write(begin.encode())
            shutil.copyfileobj(records, process.stdin, CHUNK)
            process.stdin.close()
        except BrokenPipeError:
            pass  # it says why
        words = process.stderr.read().decode(errors="replace").strip()
    if process.returncode:
        raise DumpError(f"The database says “{words.splitlines()[-1][:200] if words else 'nothing'}”.")


def _drop(url: URL) -> None:
    engine = make_engine(url.set(database="information_schema"))
    try:
        with engine.begin() as link:
            link.execute(text(f"DROP DATABASE IF EXISTS `{url.database}`"))
    finally:
        engine.dispose()
