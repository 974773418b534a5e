"""Backups: one file with all records as they were at one moment, read back before it counts, and brought back again.

A backup is a zip file with ``manifest.json`` (version, form of the tables, rows of each table, SHA-256) and
``records.sql.gz``.  The certificate authority's key and the settings of the machine around the records are not in it.
"""

from __future__ import annotations

import contextlib
import fcntl
import gzip
import hashlib
import json
import os
import re
import secrets
import shutil
import subprocess
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import IO, Any

from sqlalchemy import URL, Engine, inspect, text
from sqlalchemy.exc import DBAPIError

import finchwort
from finchwort.services.access.devices import KEPT, forget_all_devices, list_devices, may_come, write_audit
from finchwort.services.upkeep import judge_again
from finchwort.store import migrate
from finchwort.store.access.kinds import BackupKind
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.dump import DumpError, client, dump, secret_of
from finchwort.store.records import utcnow
from finchwort.store.server import DATABASE, DatabaseServer

DAILY, BY_HAND, BEFORE_RESTORE = KINDS = tuple(BackupKind)
MAX_KEPT: dict[str, int] = {BY_HAND: 20, BEFORE_RESTORE: 10}
"""So many of a kind are kept, the newest; of daily ones as many as the setting says."""
FORMAT = 1
MANIFEST, RECORDS = "manifest.json", "records.sql.gz"
LARGEST_MANIFEST = 1_000_000
LAST_LINE = b"-- Dump completed"
NAME = re.compile(r"finchwort-\d{8}-\d{6}-(?:daily|by-hand|before-restore)(?:-\d+)?\.zip")
CHUNK = 1 << 20


class BackupError(RuntimeError):
    """A backup cannot be made, read or brought back; the text is a sentence for the person."""


@dataclass(frozen=True)
class Manifest:
    """What a backup says of itself.

    Attributes
    ----------
    format : int
    version, form : str
        Of Finchwort, and of its tables.
    made_at : str
        ISO 8601, UTC.
    kind : one of ``KINDS``
    workshop : str
    rows : dict
        Rows of each table, counted when it was read back.
    sha256 : str
        Of the packed records.
    """

    format: int
    version: str
    form: str
    made_at: str
    kind: str
    workshop: str
    rows: dict[str, int]
    sha256: str


@dataclass(frozen=True)
class Backup:
    """A backup file."""

    path: Path
    manifest: Manifest
    bytes: int


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
                sha256=_sum(records),
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


def read_backup(path: Path) -> Manifest:
    """Read a backup's file through, and say what it says of itself.

    Raises
    ------
    BackupError
        When it is no backup, is damaged or cut, or was made by a newer Finchwort.
    """
    damaged = BackupError(f"{path.name} is damaged or was cut off. Nothing was changed; take another backup.")
    if not path.is_file():
        raise BackupError(f"There is no file {path}.")
    try:
        with zipfile.ZipFile(path) as held:
            if (
                set(held.namelist()) != {MANIFEST, RECORDS}
                or held.getinfo(MANIFEST).file_size > LARGEST_MANIFEST
            ):
                raise BackupError(f"{path.name} is no backup of Finchwort.")
            manifest = _manifest_of(held.read(MANIFEST), path.name)
            if held.testzip() is not None:
                raise damaged
            with held.open(RECORDS) as packed:
                if _sum_of(packed) != manifest.sha256:
                    raise damaged
            with held.open(RECORDS) as packed, gzip.open(packed) as plain:
                if not _tail(plain).rstrip().rpartition(b"\n")[2].startswith(LAST_LINE):
                    raise damaged
    except zipfile.BadZipFile:
        # a zip file has its table at the end: one that was cut has none
        with open(path, "rb") as file:
            begins = file.read(4)
        raise (
            damaged if begins == b"PK\x03\x04" else BackupError(f"{path.name} is no backup of Finchwort.")
        ) from None
    except (OSError, EOFError, zlib.error, NotImplementedError, RuntimeError) as error:
        if isinstance(error, BackupError):
            raise
        raise damaged from None
    return manifest


def list_backups(folder: Path) -> list[Backup]:
    """Give the backups of a folder, newest first, without reading them through."""
    results = []
    for path in folder.glob("finchwort-*.zip") if folder.is_dir() else ():
        if not NAME.fullmatch(path.name):
            continue
        with contextlib.suppress(OSError, zipfile.BadZipFile, BackupError, KeyError):
            with zipfile.ZipFile(path) as held:
                results.append(
                    Backup(path, _manifest_of(held.read(MANIFEST), path.name), path.stat().st_size)
                )
    return sorted(results, key=lambda backup: (backup.manifest.made_at, backup.path.name), reverse=True)


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
        with _records_of(path) as records:
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


@contextlib.contextmanager
def _records_of(path: Path) -> Iterator[gzip.GzipFile]:
    with zipfile.ZipFile(path) as held, held.open(RECORDS) as packed, gzip.open(packed) as plain:
        yield plain


def _manifest_of(raw: bytes, name: str) -> Manifest:
    no_backup = BackupError(f"{name} is no backup of Finchwort.")
    try:
        words = json.loads(raw)
        if not isinstance(words, dict) or not isinstance(words.get("format"), int):
            raise no_backup
        known = {script.revision for script in migrate.scripts()}
        if words["format"] > FORMAT or words["form"] not in known:
            raise BackupError(
                f"{name} was made by a newer Finchwort ({str(words.get('version'))[:20]}). Use that one; nothing was changed."
            )
        manifest = Manifest(**words)
        datetime.fromisoformat(manifest.made_at)
        if not all(isinstance(count, int) for count in manifest.rows.values()):
            raise no_backup
    except (ValueError, TypeError, KeyError, AttributeError):
        raise no_backup from None
    return manifest


def _sum(path: Path) -> str:
    with open(path, "rb") as file:
        return _sum_of(file)


def _sum_of(file: IO[bytes]) -> str:
    made = hashlib.sha256()
    while piece := file.read(CHUNK):
        made.update(piece)
    return made.hexdigest()


def _tail(file: gzip.GzipFile) -> bytes:
    last = b""
    while piece := file.read(CHUNK):
        last = (last + piece)[-400:]
    return last
