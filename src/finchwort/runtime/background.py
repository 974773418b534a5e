"""Start it in the background, so that it does not end with its terminal; stop it; say how it stands; a systemd unit."""

from __future__ import annotations

import contextlib
import os
import shlex
import shutil
import signal
import subprocess
import time
from collections.abc import Iterator, Sequence
from datetime import datetime
from pathlib import Path

from finchwort.runtime.parts import own_command
from finchwort.store.place import Place, Running, held, running, usual_folder
from finchwort.store.server import DatabaseServer, ServerError

START_SECONDS = 120
"""A first start makes a database."""
STOP_SECONDS = 90
UNIT = "finchwort.service"
FIRST_WORDS = "first-words.txt"


def start(folder: Path, words: Sequence[str]) -> Running:
    """Start it in the background and wait until it is ready.

    Parameters
    ----------
    folder : Path
    words : sequence of str
        Of ``finchwort start``.

    Raises
    ------
    ServerError
        With what it said when it did not start.
    """
    try:
        folder.mkdir(parents=True, exist_ok=True)
        text = folder / FIRST_WORDS
        out = open(text, "wb")  # noqa: SIM115 - the process goes on writing to it
    except OSError as error:
        raise ServerError(f"Nothing can be written in the folder {folder}: {error.strerror}.") from None
    with out:
        process = subprocess.Popen(
            own_command("start", "--foreground", *words),
            stdin=subprocess.DEVNULL,
            stdout=out,
            stderr=subprocess.STDOUT,
            start_new_session=True,
            cwd="/",
        )
    deadline = time.monotonic() + START_SECONDS
    while time.monotonic() < deadline and process.poll() is None:
        result = running(folder)
        if result is not None and result.pid == process.pid and result.parts.get("web server"):
            return result
        time.sleep(0.1)
    if process.poll() is None:
        process.terminate()
        raise ServerError(f"It did not get ready within {START_SECONDS} s. See: finchwort logs")
    last = text.read_text(errors="replace").strip().splitlines()[-1:]
    raise ServerError(last[0] if last else "It did not start, and said nothing. See: finchwort logs")


def stop(folder: Path) -> bool:
    """Stop what runs over a folder, and wait for it; tell whether something did.

    Raises
    ------
    ServerError
        When it does not stop.
    """
    result = running(folder)
    if result is None:
        if held(folder):
            raise ServerError(
                f"Something holds {folder}, but it is not ready yet or was started in another way. Wait a little, or end it where it was started."
            )
        return False
    os.kill(result.pid, signal.SIGTERM)
    deadline = time.monotonic() + STOP_SECONDS
    while time.monotonic() < deadline:
        if not held(folder):
            return True
        time.sleep(0.1)
    raise ServerError(f"It does not stop. Look at: finchwort logs; its process is {result.pid}.")


def in_words(folder: Path, result: Running | None) -> list[str]:
    """Say how it stands."""
    if result is None:
        return [f"Finchwort is not running over {folder}. Start it: finchwort start"]
    since = datetime.fromisoformat(result.since).astimezone()
    lines = [
        f"Finchwort {result.version} runs since {since:%Y-%m-%d %H:%M} over {folder}.",
        f"On this computer: http://127.0.0.1:{result.port}",
    ]
    if result.shared is None:
        lines.append("From the network: closed.")
    elif result.shared.urls:
        lines += [f"From the network, for devices that were let in: {url}" for url in result.shared.urls]
    else:
        lines.append(f"From the network: {result.shared.trouble or 'being opened'}")
    lines += [
        f"{name}: {'runs' if runs else 'is being started again'}" for name, runs in result.parts.items()
    ]
    return lines


def unit(folder: Path, words: Sequence[str]) -> str:
    """Return a systemd user unit that runs it.

    Nothing in it needs the administrator.  It is ended by its own signal, so that database and machines are let go in order.
    """
    command = shlex.join(own_command("start", "--foreground", "--data", str(folder), *words)).replace(
        "%", "%%"
    )
    return f"""[Unit]
Description=Finchwort, for who looks after 3D printers
After=network.target

[Service]
Type=exec
ExecStart={command}
Restart=on-failure
RestartSec=5
TimeoutStopSec={STOP_SECONDS}
KillMode=mixed
UMask=0077
NoNewPrivileges=yes

[Install]
WantedBy=default.target
"""


def unit_path() -> Path:
    """Return where systemd looks for a user's units."""
    base = os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config"
    return Path(base) / "systemd" / "user" / UNIT


def install_unit(folder: Path, words: Sequence[str]) -> list[str]:
    """Write the unit and begin it; say what was done, and what is left to do by hand.

    Raises
    ------
    ServerError
        When Finchwort runs already, or the unit cannot be written.
    """
    if held(folder):
        raise ServerError(
            "Finchwort is running already. Stop it first (finchwort stop); the service starts it then."
        )
    path = unit_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(unit(folder, words))
    except OSError as error:
        raise ServerError(f"{path} cannot be written: {error.strerror}.") from None
    lines = [f"Written: {path}"]
    control = shutil.which("systemctl")
    steps = (("daemon-reload",), ("enable", "--now", UNIT))
    done = control is not None and all(
        subprocess.run([control, "--user", *step], capture_output=True).returncode == 0 for step in steps
    )
    if done:
        lines.append("It runs now, and starts with you. How it stands: systemctl --user status finchwort")
    else:
        lines.append("systemd does not answer here. When it does: systemctl --user enable --now finchwort")
    lines.append(
        f"To let it run when nobody is logged in: loginctl enable-linger {os.environ.get('USER', '')}".rstrip()
    )
    return lines


def remove_unit() -> list[str]:
    """Stop the service and take its unit away; the records stay."""
    path = unit_path()
    if not path.exists():
        return ["There is no service to remove."]
    control = shutil.which("systemctl")
    if control is not None:
        subprocess.run([control, "--user", "disable", "--now", UNIT], capture_output=True)
    path.unlink()
    return [f"Removed: {path}. The records stay where they are."]


def place_of(folder: Path | None) -> Place:
    """Return the place of a workshop by its folder, or the usual one."""
    return Place((folder or usual_folder()).absolute())


@contextlib.contextmanager
def database_of(place: Place) -> Iterator[DatabaseServer]:
    """Give the database of a place: the one that runs, or one started for this.

    Raises
    ------
    ServerError
        When there are no records.
    """
    server = DatabaseServer(place.folder)
    if running(place.folder) is not None:
        server.find_socket()
        yield server
        return
    server.start()
    try:
        yield server
    finally:
        server.stop()
