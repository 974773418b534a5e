"""What a backup file is and says: made and brought back by `finchwort.services.backup`."""

from __future__ import annotations

import contextlib
import gzip
import hashlib
import json
import re
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import IO

from finchwort.store.forms import known_forms

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


@contextlib.contextmanager
def records_of(path: Path) -> Iterator[gzip.GzipFile]:
    """Open the records in a backup."""
    with zipfile.ZipFile(path) as held, held.open(RECORDS) as packed, gzip.open(packed) as plain:
        yield plain


def _manifest_of(raw: bytes, name: str) -> Manifest:
    no_backup = BackupError(f"{name} is no backup of Finchwort.")
    try:
        words = json.loads(raw)
        if not isinstance(words, dict) or not isinstance(words.get("format"), int):
            raise no_backup
        known = known_forms()
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


def sum_of_file(path: Path) -> str:
    """Return the SHA-256 of a file."""
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
