"""The processes that Finchwort is made of: begun, watched, begun again when they die, and ended."""

from __future__ import annotations

import os
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path
from typing import Any

from finchwort.store.place import ENVIRONMENT, ROOM
from finchwort.store.server import ServerError, die_with_parent, port_is_free

START_SECONDS = 60
MAX_ENDS, WITHIN = 8, 60.0
"""Parts that end more often than this, within so many seconds, are not begun again."""

Listen = Callable[[subprocess.Popen[Any]], None]
"""Takes what a process says, when it is not to go to the terminal."""


def web_command(port: int, workers: int = 2) -> list[str]:
    """Return the command line of the web server, on the loopback address only."""
    return [sys.executable, "-m", "finchwort.web.server", "--port", str(port), "--workers", str(workers)]


def check_port(port: int, advice: str | None = None) -> None:
    """Raise `ServerError` when a port is taken."""
    if not port_is_free(port):
        advice = advice or f"Choose another one, for instance: bin/demo --port {port + 1}"
        raise ServerError(f"Port {port} is taken by another program. {advice}")


def begin(
    command: list[str],
    url: str | None = None,
    data: Path | None = None,
    listen: Listen | None = None,
    quiet: bool = False,
) -> subprocess.Popen[Any]:
    """Begin a process that ends with this one.

    Parameters
    ----------
    command : list of str
    url : str, optional
        The database it works over.
    data : Path, optional
        Folder of the records.
    listen : callable, optional
        Takes what it says; otherwise that goes to the terminal.
    quiet : bool
        What it says on its standard output is dropped.
    """
    environment = os.environ | ({ENVIRONMENT: url} if url else {}) | ({ROOM: str(data)} if data else {})
    process = subprocess.Popen(
        command,
        env=environment,
        stdin=subprocess.DEVNULL,
        stdout=subprocess.PIPE if listen else subprocess.DEVNULL if quiet else None,
        stderr=subprocess.STDOUT if listen else None,
        preexec_fn=die_with_parent,
        start_new_session=True,
    )
    if listen:
        listen(process)
    return process


def own_command(*words: str) -> list[str]:
    """Return the command line of another command of ours."""
    return [sys.executable, "-m", "finchwort.cli", *words]


def start_web(
    port: int,
    url: str,
    workers: int = 2,
    data: Path | None = None,
    listen: Listen | None = None,
    advice: str | None = None,
) -> subprocess.Popen[Any]:
    """Start the web server and wait until it answers.

    Raises
    ------
    ServerError
        When the port is taken or the server does not come up.
    """
    check_port(port, advice)
    process = begin(web_command(port, workers), url, data, listen)
    deadline = time.monotonic() + START_SECONDS
    while time.monotonic() < deadline and process.poll() is None:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/api/health", timeout=2) as answer:
                if answer.status == 200:
                    return process
        except (urllib.error.URLError, OSError):
            time.sleep(0.1)
    stop(process)
    raise ServerError("The web server did not start; its messages stand above, or in the log.")


def stop(process: subprocess.Popen[Any]) -> None:
    """Stop a process and wait for it."""
    if process.poll() is None:
        process.terminate()
        try:
            process.wait(15)
        except subprocess.TimeoutExpired:
            process.kill()
            process.wait()


class Part:
    """A process that is begun again when it dies."""

    def __init__(self, name: str, begin: Callable[[], subprocess.Popen[Any]]) -> None:
        self.name, self.begin = name, begin
        self.process = begin()

    @property
    def runs(self) -> bool:
        """Whether it is alive."""
        return self.process.poll() is None

    def begin_again(self) -> None:
        """Begin it again.

        Raises
        ------
        ServerError
            When its port is still held, for instance by what is just ending: it is to be tried again.
        """
        stop(self.process)
        self.process = self.begin()

    def end(self) -> None:
        """End it."""
        stop(self.process)


class Ends:
    """Counts how often parts ended, and gives up when they end again and again."""

    def __init__(self, say: Callable[[str], None]) -> None:
        self.say = say
        self._at: list[float] = []

    def count(self, text: str) -> None:
        """Say that a part ended, and that it is begun again.

        Raises
        ------
        ServerError
        """
        now = time.monotonic()
        self._at = [at for at in self._at if at > now - WITHIN] + [now]
        if len(self._at) > MAX_ENDS:
            raise ServerError(
                f"{text} Parts ended {len(self._at)} times within a minute. Start again; nothing stored is lost."
            )
        self.say(f"{text} It is started again; nothing stored is lost.")
