"""Start the demo: everything that runs over a workshop, with invented records and a simulated printer on the line."""

from __future__ import annotations

import subprocess
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from sqlalchemy import Engine

from finchwort.demo.waiting_print import PRINT, demo_print
from finchwort.demo.workshop import load_demo, repoint
from finchwort.runtime.house import House
from finchwort.runtime.parts import begin, check_port, own_command
from finchwort.runtime.plan import Plan
from finchwort.store.database import make_sessions
from finchwort.store.server import DatabaseServer, ServerError

LINE_PORT, PAGE_PORT = 8422, 8423
"""Where the simulated printer listens and shows its knobs."""
SHARE_PORT = 8444
"""Where devices come in; one's own workshop may run beside it."""
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


def _write_workshop(database: DatabaseServer, engine: Engine, ports: Ports) -> list[str]:
    """Write the demo workshop, or point the one that is there to the simulated printer's ports."""
    line, page = ports.simulated
    kept = database.folder / "simulated.txt"
    with make_sessions(engine).begin() as session:
        written = load_demo(session, line=line, page=page)
        if not written and kept.exists():
            old = kept.read_text().split()
            if len(old) == 2 and tuple(old) != ports.simulated:
                repoint(session, (old[0], old[1]), ports.simulated)
    kept.write_text(f"{line} {page}\n")
    print_ = database.folder / PRINT
    print_.write_bytes(demo_print())
    return [
        "The demo workshop was set up." if written else "Your records are as you left them.",
        f"The simulated printer's knobs: {page}",
        f"The demo's print, for copies of it: {print_}",
    ]


def run_demo(
    folder: Path,
    ports: Ports,
    fresh: bool,
    speed: float = SPEED,
    share_port: int = SHARE_PORT,
    share_addresses: tuple[str, ...] = (),
) -> None:
    """Serve the demo workshop, with a simulated printer on the line, until the person stops it.

    Raises
    ------
    ServerError
        With one sentence that says what to do.
    """
    _check_ports(ports)
    words = ["simulate", "--port", str(ports.line), "--page", str(ports.page), "--speed", str(speed)]

    def simulated(_url: str) -> dict[str, Callable[[], subprocess.Popen[Any]]]:
        return {"simulated printer": lambda: begin(own_command(*words), quiet=True)}

    plan = Plan(
        folder,
        ports.web,
        ports.database,
        fresh,
        log=False,
        share_port=share_port,
        share_addresses=share_addresses,
        backups=False,
        demo=False,
        stop_by="Ctrl-C",
    )
    House(plan, lambda database, engine: _write_workshop(database, engine, ports), simulated).run()


def _check_ports(ports: Ports) -> None:
    """Raise `ServerError` when a port is taken, or named twice."""
    named = [port for port in (ports.web, ports.line, ports.page, ports.database) if port is not None]
    twice = next((port for port in named if named.count(port) > 1), None)
    if twice is not None:
        raise ServerError(f"Port {twice} is named twice. Give web, line, page and database a port each.")
    check_port(ports.web)
    for port in (ports.line, ports.page):
        check_port(port, "Choose others for the simulated printer: --line-port and --page-port.")
