"""A MariaDB server of our own: its data directory, its start and its end.

Used by the start command and by the tests.  The server listens on a socket in
its own folder and on the loopback address; only the system user who started it
can log in, over the socket.
"""

from __future__ import annotations

import contextlib
import ctypes
import fcntl
import getpass
import os
import shutil
import signal
import socket
import subprocess
import tempfile
import time
from pathlib import Path
from typing import IO, Any

import pymysql
from sqlalchemy import URL

DATABASE = "finchwort"
START_SECONDS = 60
MIN_SPACE = 300_000_000
"""Free bytes below which a database is not begun."""
MIN_TO_START = 15_000_000
"""Free bytes below which one that is there does not even start, to be read."""
MIN_TO_STORE = 60_000_000
"""Free bytes below which nothing is stored any more, so that the server itself keeps room to work."""
LONGEST_SOCKET = 100
"""Sockets have short names by law of the system, characters."""
PR_SET_PDEATHSIG = 1
SOCKET = "socket.txt"
"""Says where the server listens: a long folder's socket lies elsewhere."""
LOCK_TRIES = 3
TRIES = 3
"""So many free ports are tried."""


class ServerError(RuntimeError):
    """The database server cannot be had; the text says what to do."""


def little_room(folder: Path) -> bool:
    """Tell whether there is so little room that nothing more is stored under a folder."""
    try:
        return shutil.disk_usage(folder).free < MIN_TO_STORE
    except OSError:
        return False


def free_port() -> int:
    """Return a port of the loopback address that is free now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def port_is_free(port: int) -> bool:
    """Tell whether a port of the loopback address can be listened on."""
    with socket.socket() as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


def die_with_parent() -> None:
    """Ask the system to end this (child) process when its parent ends."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)


class DatabaseServer:
    """A MariaDB server with its data in one folder.

    Parameters
    ----------
    folder : Path
        Made when absent.
    port : int, optional
        A free one when not given.
    """

    def __init__(self, folder: Path, port: int | None = None) -> None:
        self.folder = folder
        self.data = folder / "data"
        self.log = folder / "mariadb.log"
        self.scratch = folder / "tmp"
        self.port = port
        self.process: subprocess.Popen[Any] | None = None
        self._log_from = 0
        self._lock: IO[str] | None = None
        self._short: Path | None = None
        self.socket = folder / "mariadb.sock"
        self.live = folder / "live.txt"

    @property
    def database(self) -> str:
        """Name of the database with the records; a restore loads another one and then points here to it."""
        try:
            return self.live.read_text().strip() or DATABASE
        except OSError:
            return DATABASE

    def point_to(self, database: str) -> None:
        """Make another database the one with the records, at one stroke: a cut leaves the old one or the new one."""
        part = self.live.with_suffix(".part")
        with open(part, "w") as file:
            file.write(database + "\n")
            file.flush()
            os.fsync(file.fileno())
        part.replace(self.live)
        folder = os.open(self.folder, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)

    @property
    def url(self) -> URL:
        """Address of the database for SQLAlchemy."""
        return URL.create(
            "mysql+pymysql",
            username=getpass.getuser(),
            database=self.database,
            query={"unix_socket": str(self.socket)},
        )

    def start(self, fresh: bool = False) -> None:
        """Start the server, after making its data directory if there is none.

        Raises
        ------
        ServerError
            With one sentence that says what to do.
        """
        self._find_programs()
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise ServerError(f"The folder {self.folder} cannot be made: {error.strerror}.") from None
        self._take_lock()
        try:
            self._stop_leftover()
            free = shutil.disk_usage(self.folder).free
            begun = (self.data / "mysql").exists() and not fresh
            # what is there can still be read with little room; the web refuses to store, see `little_room`
            if free < (MIN_TO_START if begun else MIN_SPACE):
                raise ServerError(
                    f"There is too little disk space for the database under {self.folder}: free "
                    f"{(MIN_TO_START if begun else MIN_SPACE) // 1_000_000} MB and start again."
                )
            if fresh and self.data.exists():
                shutil.rmtree(self.data)
                self.live.unlink(missing_ok=True)
            if len(str(self.socket)) > LONGEST_SOCKET:
                self._short = Path(tempfile.mkdtemp(prefix="finchwort-"))
                self.socket = self._short / "mariadb.sock"
            (self.folder / SOCKET).write_text(str(self.socket))
            if self.port is not None and not port_is_free(self.port):
                raise ServerError(f"Port {self.port} for the database is taken. Choose another one.")
            if not (self.data / "mysql").exists():
                self._make_data()
            self._launch()
        except BaseException:
            self.stop()
            raise

    def find_socket(self) -> None:
        """Go to the server that another process started over this folder.

        Raises
        ------
        ServerError
        """
        with contextlib.suppress(OSError):
            self.socket = Path((self.folder / SOCKET).read_text())
        if not self.socket.exists():
            raise ServerError(
                f"The database over {self.folder} does not answer just now. Try again in a moment."
            )

    def stop(self) -> None:
        """Stop the server and wait for it; harmless when it is not running."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            try:
                self.process.wait(30)
            except subprocess.TimeoutExpired:
                self.process.kill()
                self.process.wait()
        self.process = None
        if self._short is not None:
            shutil.rmtree(self._short, ignore_errors=True)
            self._short = None
        if self._lock is not None:
            self._lock.close()
            self._lock = None

    def kill(self) -> None:
        """End the server at once, as a power cut would (for tests)."""
        if self.process is not None:
            self.process.kill()
            self.process.wait()

    def restart(self) -> None:
        """Start the server again on the same data, socket and port after `kill`."""
        self.socket.unlink(missing_ok=True)
        self._launch()

    def _find_programs(self) -> None:
        paths = os.environ.get("PATH", "") + os.pathsep + "/usr/sbin"
        self._mariadbd = shutil.which("mariadbd", path=paths)
        self._install = shutil.which("mariadb-install-db", path=paths)
        if not (self._mariadbd and self._install):
            raise ServerError(
                "MariaDB is not installed. Install it (on Debian: apt-get install mariadb-server mariadb-client), or run bin/setup."
            )

    def _take_lock(self) -> None:
        try:
            lock = open(self.folder / "lock", "a+")  # noqa: SIM115 - held while the server runs
        except OSError as error:
            raise ServerError(
                f"Nothing can be written in the folder {self.folder}: {error.strerror}. Choose another one, or ask who owns it."
            ) from None
        for tries_left in range(LOCK_TRIES - 1, -1, -1):
            try:
                fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
                break
            except OSError:
                # somebody who only asks whether it runs holds the lock for a moment
                if tries_left:
                    time.sleep(0.1)
                    continue
            lock.close()
            raise ServerError(
                f"Finchwort is already running with the data in {self.folder}. Use that one, or stop it first (Ctrl-C, or finchwort stop)."
            ) from None
        os.set_inheritable(lock.fileno(), False)
        self._lock = lock

    def _stop_leftover(self) -> None:
        """End a server of this very folder that outlived a crash of its starter."""
        try:
            pid = int((self.folder / "mariadb.pid").read_text())
        except (OSError, ValueError):
            return
        if not self._is_ours(pid):
            return
        with contextlib.suppress(OSError):
            os.kill(pid, signal.SIGTERM)
        for _ in range(300):
            if not self._is_ours(pid):
                return
            time.sleep(0.1)
        raise ServerError(
            f"A database from an earlier run (process {pid}) is still running and does not stop. End it with: kill {pid}"
        )

    def _is_ours(self, pid: int) -> bool:
        """Tell whether a running process is a server of this very folder."""
        try:
            command = Path(f"/proc/{pid}/cmdline").read_bytes().decode(errors="replace")
        except OSError:
            return False
        return f"--datadir={self.data}" in command.split("\0")

    def _make_data(self) -> None:
        if self.data.exists():
            shutil.rmtree(self.data)
        user = getpass.getuser()
        # temporary tables of two servers may bear the same name: each gets a place of its own
        self.scratch.mkdir(exist_ok=True)
        done = subprocess.run(
            [
                str(self._install),
                "--no-defaults",
                f"--datadir={self.data}",
                f"--user={user}",
                "--auth-root-authentication-method=socket",
                f"--auth-root-socket-user={user}",
                "--skip-test-db",
                "--skip-name-resolve",
            ],
            capture_output=True,
            text=True,
            env=os.environ | {"TMPDIR": str(self.scratch)},
        )
        if done.returncode:
            shutil.rmtree(self.data, ignore_errors=True)
            last = (done.stderr or done.stdout).strip().splitlines()[-1:]
            raise ServerError(f"The database could not be made under {self.data}: {' '.join(last)}")

    def _launch(self) -> None:
        for tries_left in range(TRIES - 1, -1, -1):
            port = self.port or free_port()
            self._run(port)
            try:
                self._await()
            except ServerError:
                # between looking for a free port and listening on it, another program may have taken it
                if (
                    self.port is not None
                    or not tries_left
                    or self.process is None
                    or self.process.poll() is None
                ):
                    raise
            else:
                self.port = port
                return

    def _run(self, port: int) -> None:
        self.scratch.mkdir(exist_ok=True)
        with open(self.log, "ab") as log:
            self._log_from = log.tell()
            self.process = subprocess.Popen(
                [
                    str(self._mariadbd),
                    "--no-defaults",
                    f"--datadir={self.data}",
                    f"--user={getpass.getuser()}",
                    f"--socket={self.socket}",
                    f"--pid-file={self.folder / 'mariadb.pid'}",
                    f"--tmpdir={self.scratch}",
                    f"--port={port}",
                    "--bind-address=127.0.0.1",
                    "--skip-name-resolve",
                    "--character-set-server=utf8mb4",
                    "--collation-server=utf8mb4_unicode_ci",
                    "--sql-mode=STRICT_ALL_TABLES,NO_ENGINE_SUBSTITUTION",
                    "--innodb-flush-log-at-trx-commit=1",
                    "--innodb-buffer-pool-size=64M",
                    # the logbook is searched for numbers and short words too
                    "--innodb-ft-min-token-size=1",
                    "--innodb-ft-enable-stopword=0",
                    "--performance-schema=OFF",
                    "--max-allowed-packet=32M",
                ],
                stdin=subprocess.DEVNULL,
                stdout=log,
                stderr=log,
                preexec_fn=die_with_parent,
                start_new_session=True,
            )

    def _last_words(self) -> str:
        """Why it did not start, in one sentence, from its log."""
        try:
            text = self.log.read_bytes()[self._log_from :].decode(errors="replace")
        except OSError:
            text = ""
        lost = f"keep a copy of {self.folder}, move its folder “data” away, then bring back the newest file of its folder “backups”: finchwort restore."
        for words, sentence in (
            (
                "No space left",
                f"the disk is full. Make room under {self.folder} and start again; what was stored is kept.",
            ),
            ("Read-only file system", f"the folder {self.folder} can only be read."),
            ("Permission denied", f"it may not write into {self.folder}. Ask who owns that folder."),
            ("Errcode: 13", f"it may not write into {self.folder}. Ask who owns that folder."),
            ("Address already in use", "its port was taken by another program meanwhile. Start again."),
            ("corrupt", f"its files are damaged: {lost}"),
            ("Downgrade", "its files were written by a newer MariaDB. Install that one."),
        ):
            if words.lower() in text.lower():
                return sentence
        return f"its last words are in {self.log}. What was stored is still there."

    def _await(self) -> None:
        assert self.process is not None
        deadline = time.monotonic() + START_SECONDS
        while time.monotonic() < deadline:
            if self.process.poll() is not None:
                raise ServerError(f"The database did not start: {self._last_words()}")
            try:
                with pymysql.connect(
                    unix_socket=str(self.socket), user=getpass.getuser(), ssl_disabled=True
                ) as link:
                    with link.cursor() as cursor:
                        cursor.execute(
                            f"CREATE DATABASE IF NOT EXISTS `{self.database}` CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci"
                        )
                return
            except pymysql.err.OperationalError:
                time.sleep(0.05)
        raise ServerError(f"The database did not answer within {START_SECONDS} seconds; see {self.log}.")
