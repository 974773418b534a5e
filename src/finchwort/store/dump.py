"""A dump of the records as SQL, made before the tables are changed."""

from __future__ import annotations

import contextlib
import gzip
import os
import shutil
import subprocess
from datetime import UTC, datetime
from pathlib import Path

from sqlalchemy import URL

KEPT = 10
"""So many dumps are kept, the newest."""


class DumpError(RuntimeError):
    """No dump could be made; the text is a sentence for the person."""


def find_program() -> str | None:
    """Where the programme that dumps a MariaDB is."""
    return shutil.which("mariadb-dump") or shutil.which("mysqldump")


OPTIONS = ("--single-transaction", "--quick", "--hex-blob")
"""All tables as they were at one moment, without holding anybody up."""


def client(url: URL, program: str) -> list[str]:
    """Return the command line of a programme of MariaDB that goes to a database, but for the database's name."""
    words = [program, "--no-defaults", "--default-character-set=utf8mb4"]
    if url.query.get("unix_socket"):
        words.append(f"--socket={url.query['unix_socket']}")
    if url.host:
        words += [f"--host={url.host}", "--protocol=TCP"]
    if url.port:
        words.append(f"--port={url.port}")
    if url.username:
        words.append(f"--user={url.username}")
    return words


def secret_of(url: URL) -> dict[str, str]:
    """Return the environment in which such a programme runs: a password does not stand on its command line."""
    return os.environ | ({"MYSQL_PWD": str(url.password)} if url.password else {})


def dump(url: URL, folder: Path, name: str) -> Path:
    """Write all records of a database into a folder, packed.

    Parameters
    ----------
    url : URL
    folder : Path
        Made when absent.
    name : str
        Of the file, without its ending; the time is added.

    Returns
    -------
    Path
        To be brought back with ``zcat FILE | mariadb ...``.

    Raises
    ------
    DumpError
    """
    program = find_program()
    if program is None:
        raise DumpError(
            "The records cannot be copied: mariadb-dump is not installed. Install mariadb-client, or run bin/setup."
        )
    words = [*client(url, program), *OPTIONS]
    environment = secret_of(url)
    at = datetime.now(UTC)
    target = folder / f"{name}-{at:%Y%m%d-%H%M%S}.sql.gz"
    part = target.with_suffix(".part")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with subprocess.Popen(
            [*words, str(url.database)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, env=environment
        ) as process:
            assert process.stdout is not None and process.stderr is not None
            with gzip.open(part, "wb") as out:
                shutil.copyfileobj(process.stdout, out, 1 << 20)
            text = process.stderr.read().decode(errors="replace").strip()
        if process.returncode:
            raise DumpError(
                f"The records could not be copied: {text.splitlines()[-1] if text else 'no reason given'}"
            )
        with open(part, "rb") as written:
            os.fsync(written.fileno())
        part.rename(target)
    except OSError as error:
        raise DumpError(f"The records could not be copied into {folder}: {error.strerror}.") from None
    finally:
        with contextlib.suppress(OSError):
            part.unlink()
    for old in sorted(folder.glob("*.sql.gz"), key=lambda path: path.stat().st_mtime)[:-KEPT]:
        old.unlink(missing_ok=True)
    return target
