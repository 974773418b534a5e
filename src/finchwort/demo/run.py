"""Start everything: database, tables, demo workshop, simulated printer, link, web server; and end it all again."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from finchwort.demo.workshop import load_demo, repoint
from finchwort.store import migrate
from finchwort.store.database import ENVIRONMENT, make_engine, make_sessions
from finchwort.store.server import DatabaseServer, ServerError, die_with_parent, little_room, port_is_free
from finchwort.web.security import ROOM

START_SECONDS = 60
MOST_ENDS, WITHIN = 8, 60.0
"""Parts that end more often than this, within so many seconds, are not begun again."""
LINE_PORT, PAGE_PORT = 8422, 8423
"""Where the simulated printer listens and shows its knobs."""
SPEED = 8.0
"""The simulated printer's time runs so much faster, so that warming through takes minutes, not half an hour."""


def web_command(port: int, workers: int = 2) -> list[str]:
    """Return the command line of the web server, on the loopback address only."""
    return [sys.executable, "-m", "finchwort.web.server", "--port", str(port), "--workers", str(workers)]


def check_port(port: int, advice: str | None = None) -> None:
    """Raise `ServerError` when a port is taken."""
    if not port_is_free(port):
        advice = advice or f"Choose another one, for instance: bin/demo --port {port + 1}"
        raise ServerError(f"Port {port} is taken by another program. {advice}")


def start_web(port: int, url: str, workers: int = 2, data: Path | None = None) -> subprocess.Popen:
    """Start the web server and wait until it answers.

    Raises
    ------
    ServerError
        When the port is taken or the server does not come up.
    """
    check_port(port)
    process = subprocess.Popen(
        web_command(port, workers),
        env=os.environ | {ENVIRONMENT: url} | ({ROOM: str(data)} if data else {}),
        stdin=subprocess.DEVNULL,
        preexec_fn=die_with_parent,
        start_new_session=True,
    )
    deadline = time.monotonic() + START_SECONDS
    while time.monotonic() < deadline and process.poll() is None:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2) as answer:
                if answer.status == 200:
                    return process
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    stop_web(process)
    raise ServerError("The web server did not start; its messages stand above.")


def stop_web(process: subprocess.Popen) -> None:
    """Stop the web server and wait for it."""
    if process.poll() is None:
        process.terminate()
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


def start_helper(words: list[str], url: str | None = None) -> subprocess.Popen:
    """Start another command of ours; it ends with this process."""
    return subprocess.Popen(
        [sys.executable, "-m", "finchwort.cli", *words],
        env=os.environ | ({ENVIRONMENT: url} if url else {}),
        stdin=subprocess.DEVNULL,
        stdout=subprocess.DEVNULL,
        preexec_fn=die_with_parent,
        start_new_session=True,
    )


@dataclass(frozen=True)
class Ports:
    """Where the demo listens, on the loopback address; the database takes a free one when not given."""

    web: int
    line: int = LINE_PORT
    page: int = PAGE_PORT
    database: int | None = None

    @property
    def simulated(self) -> tuple[str, str]:
        """Line and page of the simulated printer."""
        return f"socket://127.0.0.1:{self.line}", f"http://127.0.0.1:{self.page}"


def _write_workshop(database: DatabaseServer, ports: Ports) -> bool:
    """Make the tables and the demo workshop; tell whether it is new."""
    engine = make_engine(database.url)
    try:
        made = migrate.upgrade(engine, dumps=database.folder / "dumps")
    except migrate.MigrationError as error:
        raise ServerError(str(error)) from None
    if made:
        print(f"The tables were brought to a new form; before that the records were copied to {made}.")
    line, page = ports.simulated
    kept = database.folder / "simulated.txt"
    with make_sessions(engine).begin() as session:
        written = load_demo(session, line=line, page=page)
        if not written and kept.exists():
            old = kept.read_text().split()
            if len(old) == 2 and tuple(old) != ports.simulated:
                repoint(session, (old[0], old[1]), ports.simulated)
    kept.write_text(f"{line} {page}\n")
    engine.dispose()
    return written


def run_demo(folder: Path, ports: Ports, fresh: bool, speed: float = SPEED) -> None:
    """Serve the demo workshop, with a simulated printer on the line, until the person stops it.

    Raises
    ------
    ServerError
        With one sentence that says what to do.
    """
    _check_ports(ports)
    stopping = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: stopping.set())
    database = DatabaseServer(folder, ports.database)
    database.start(fresh=fresh)
    parts: dict[str, _Part] = {}
    try:
        if little_room(folder):
            print(
                "There is little room left on the disk: the records can be read, nothing is stored until there is more."
            )
        written = _write_workshop(database, ports)
        if stopping.is_set():
            return
        url = database.url.render_as_string(hide_password=False)
        words = ["simulate", "--port", str(ports.line), "--page", str(ports.page), "--speed", str(speed)]
        for name, begin in (
            ("simulated printer", lambda: start_helper(words)),
            ("link to the printers", lambda: start_helper(["link"], url)),
            ("web server", lambda: start_web(ports.web, url, data=folder)),
        ):
            parts[name] = _Part(name, begin)
        print("The demo workshop was set up." if written else "Your records are as you left them.")
        print(f"The simulated printer's knobs: {ports.simulated[1]}")
        print(f"Finchwort is ready: http://127.0.0.1:{ports.web}  (Ctrl-C stops it)", flush=True)
        ends: list[float] = []
        while not stopping.wait(0.5):
            if database.process is None or database.process.poll() is not None:
                _count(ends, f"The database ended by itself; see {database.log}.")
                database.restart()
            for part in parts.values():
                if part.process.poll() is not None:
                    _count(ends, f"The {part.name} ended by itself; its messages stand above.")
                    part.begin_again()
    finally:
        for part in reversed(parts.values()):
            stop_web(part.process)
        database.stop()


class _Part:
    """A process that is begun again when it dies."""

    def __init__(self, name: str, begin: Callable[[], subprocess.Popen]) -> None:
        self.name, self.begin = name, begin
        self.process = begin()

    def begin_again(self) -> None:
        """Begin it again."""
        stop_web(self.process)
        try:
            self.process = self.begin()
        except ServerError as error:
            # its port may still be held by what is just ending: it is tried again
            print(error, flush=True)


def _count(ends: list[float], said: str) -> None:
    """Say that a part ended, and that it is begun again; give up when parts end again and again.

    Raises
    ------
    ServerError
    """
    now = time.monotonic()
    ends[:] = [at for at in ends if at > now - WITHIN] + [now]
    if len(ends) > MOST_ENDS:
        raise ServerError(
            f"{said} Parts ended {len(ends)} times within a minute. Start again; nothing stored is lost."
        )
    print(f"{said} It is started again; nothing stored is lost.", flush=True)


def _check_ports(ports: Ports) -> None:
    """Raise `ServerError` when a port is taken, or named twice."""
    named = [port for port in (ports.web, ports.line, ports.page, ports.database) if port is not None]
    twice = next((port for port in named if named.count(port) > 1), None)
    if twice is not None:
        raise ServerError(f"Port {twice} is named twice. Give web, line, page and database a port each.")
    check_port(ports.web)
    for port in (ports.line, ports.page):
        check_port(port, "Choose others for the simulated printer: --line-port and --page-port.")
