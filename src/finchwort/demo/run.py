"""Start everything: database, tables, demo workshop, web server; and end it all again."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
import urllib.error
import urllib.request
from pathlib import Path

from finchwort.demo.workshop import load_demo
from finchwort.store import migrate
from finchwort.store.database import ENVIRONMENT, make_engine, make_sessions
from finchwort.store.server import DatabaseServer, ServerError, die_with_parent, port_is_free

START_SECONDS = 60


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


def check_port(port: int) -> None:
    """Raise `ServerError` when a port is taken."""
    if not port_is_free(port):
        raise ServerError(
            f"Port {port} is taken by another program. Choose another one, for instance: bin/demo --port {port + 1}"
        )


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


def run_demo(folder: Path, port: int, fresh: bool, database_port: int | None = None) -> None:
    """Serve the demo workshop until the person stops it.

    Raises
    ------
    ServerError
        With one sentence that says what to do.
    """
    check_port(port)
    stopping = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: stopping.set())
    database = DatabaseServer(folder, database_port)
    database.start(fresh=fresh)
    web = None
    try:
        engine = make_engine(database.url)
        migrate.upgrade(engine)
        with make_sessions(engine).begin() as session:
            written = load_demo(session)
        engine.dispose()
        if stopping.is_set():
            return
        web = start_web(port, database.url.render_as_string(hide_password=False))
        print("The demo workshop was set up." if written else "Your records are as you left them.")
        print(f"Finchwort is ready: http://127.0.0.1:{port}  (Ctrl-C stops it)", flush=True)
        while not stopping.wait(0.5):
            if web.poll() is not None:
                raise ServerError("The web server ended by itself; its messages stand above. Start again.")
            if database.process is None or database.process.poll() is not None:
                raise ServerError(
                    f"The database ended by itself; see {database.log}. Start again, nothing stored is lost."
                )
    finally:
        if web is not None:
            stop_web(web)
        database.stop()
