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
from dataclasses import dataclass
from pathlib import Path

from finchwort.demo.workshop import load_demo, repoint
from finchwort.store import migrate
from finchwort.store.database import ENVIRONMENT, make_engine, make_sessions
from finchwort.store.server import DatabaseServer, ServerError, die_with_parent, port_is_free

START_SECONDS = 60
LINE_PORT, PAGE_PORT = 8422, 8423
"""Where the simulated printer listens and shows its knobs."""
SPEED = 8.0
"""The simulated printer's time runs so much faster, so that warming through takes minutes, not half an hour."""


def web_command(port: int, workers: int = 2) -> list[str]:
    """Return the command line of the web server, on the loopback address only."""
    return [
        sys.executable,
        "-m",
        "gunicorn",
        "--bind",
        f"127.0.0.1:{port}",
        "--workers",
        str(workers),
        "--worker-class",
        "gthread",
        "--threads",
        "4",
        "--timeout",
        "60",
        "--graceful-timeout",
        "10",
        "--limit-request-line",
        "4094",
        "--log-level",
        "warning",
        "--no-control-socket",
        "finchwort.web:create_app()",
    ]


def check_port(port: int, advice: str | None = None) -> None:
    """Raise `ServerError` when a port is taken."""
    if not port_is_free(port):
        advice = advice or f"Choose another one, for instance: bin/demo --port {port + 1}"
        raise ServerError(f"Port {port} is taken by another program. {advice}")


def start_web(port: int, url: str, workers: int = 2) -> subprocess.Popen:
    """Start the web server and wait until it answers.

    Raises
    ------
    ServerError
        When the port is taken or the server does not come up.
    """
    check_port(port)
    process = subprocess.Popen(
        web_command(port, workers),
        env=os.environ | {ENVIRONMENT: url},
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
    migrate.upgrade(engine)
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
    check_port(ports.web)
    stopping = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: stopping.set())
    database = DatabaseServer(folder, ports.database)
    database.start(fresh=fresh)
    running: dict[str, subprocess.Popen] = {}
    try:
        for port in (ports.line, ports.page):
            check_port(port, "Choose others for the simulated printer: --line-port and --page-port.")
        written = _write_workshop(database, ports)
        if stopping.is_set():
            return
        url = database.url.render_as_string(hide_password=False)
        words = ["simulate", "--port", str(ports.line), "--page", str(ports.page), "--speed", str(speed)]
        running["simulated printer"] = start_helper(words)
        running["link to the printers"] = start_helper(["link"], url)
        running["web server"] = start_web(ports.web, url)
        print("The demo workshop was set up." if written else "Your records are as you left them.")
        print(f"The simulated printer's knobs: {ports.simulated[1]}")
        print(f"Finchwort is ready: http://127.0.0.1:{ports.web}  (Ctrl-C stops it)", flush=True)
        while not stopping.wait(0.5):
            for name, process in running.items():
                if process.poll() is not None:
                    raise ServerError(f"The {name} ended by itself; its messages stand above. Start again.")
            if database.process is None or database.process.poll() is not None:
                raise ServerError(
                    f"The database ended by itself; see {database.log}. Start again, nothing stored is lost."
                )
    finally:
        for process in reversed(running.values()):
            stop_web(process)
        database.stop()
