"""Start everything: database, tables, demo workshop, simulated printer, link, web server; and end it all again."""

from __future__ import annotations

import signal
import threading
from dataclasses import dataclass
from pathlib import Path

from finchwort.demo.workshop import load_demo, repoint
from finchwort.runtime.parts import Ends, Part, begin, check_port, own_command, start_web
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.server import DatabaseServer, ServerError, little_room

LINE_PORT, PAGE_PORT = 8422, 8423
"""Where the simulated printer listens and shows its knobs."""
SPEED = 8.0
"""The simulated printer's time runs so much faster, so that warming through takes minutes, not half an hour."""


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
    parts: dict[str, Part] = {}
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
        for name, start in (
            ("simulated printer", lambda: begin(own_command(*words), quiet=True)),
            ("link to the printers", lambda: begin(own_command("link"), url, quiet=True)),
            ("web server", lambda: start_web(ports.web, url, data=folder)),
        ):
            parts[name] = Part(name, start)
        print("The demo workshop was set up." if written else "Your records are as you left them.")
        print(f"The simulated printer's knobs: {ports.simulated[1]}")
        print(f"Finchwort is ready: http://127.0.0.1:{ports.web}  (Ctrl-C stops it)", flush=True)
        ends = Ends(_say)
        while not stopping.wait(0.5):
            if database.process is None or database.process.poll() is not None:
                ends.count(f"The database ended by itself; see {database.log}.")
                database.restart()
            for part in parts.values():
                if not part.runs:
                    ends.count(f"The {part.name} ended by itself; its messages stand above.")
                    try:
                        part.begin_again()
                    except ServerError as error:
                        _say(str(error))
    finally:
        for part in reversed(parts.values()):
            part.end()
        database.stop()


def _say(sentence: str) -> None:
    print(sentence, flush=True)


def _check_ports(ports: Ports) -> None:
    """Raise `ServerError` when a port is taken, or named twice."""
    named = [port for port in (ports.web, ports.line, ports.page, ports.database) if port is not None]
    twice = next((port for port in named if named.count(port) > 1), None)
    if twice is not None:
        raise ServerError(f"Port {twice} is named twice. Give web, line, page and database a port each.")
    check_port(ports.web)
    for port in (ports.line, ports.page):
        check_port(port, "Choose others for the simulated printer: --line-port and --page-port.")
