"""What tests share: a real MariaDB, the web application over it, and a browser."""

from __future__ import annotations

import atexit
import contextlib
import json
import os
import shutil
import tempfile
import unittest
import uuid
from pathlib import Path

from sqlalchemy import URL, Connection, Engine, insert, select, text

from finchwort.core.printers import Bed, suggest_screws
from finchwort.demo.workshop import load_demo
from finchwort.store import migrate
from finchwort.store.database import make_engine, make_sessions
from finchwort.store.printers.setups import PrinterSetup, ScrewSetup
from finchwort.store.records import Base
from finchwort.store.server import DatabaseServer

_held: dict[str, object] = {}


def scratch() -> str | None:
    """Return a folder in memory for databases of tests, when there is one with room."""
    memory = Path("/dev/shm")
    roomy = memory.is_dir() and os.access(memory, os.W_OK) and shutil.disk_usage(memory).free > 2 * 1024**3
    return str(memory) if roomy else None


def database() -> DatabaseServer:
    """Return the MariaDB server of this test run, started on first use."""
    if "server" not in _held:
        folder = Path(tempfile.mkdtemp(prefix="finchwort-test-", dir=scratch()))
        server = DatabaseServer(folder)
        _held["folder"] = folder
        server.start(fresh=True)
        _held["server"] = server
    return _held["server"]


def stop_all() -> None:
    """Stop what was started."""
    for name in ("browser", "playwright", "road", "web"):
        held = _held.pop(name, None)
        if held is not None:
            with contextlib.suppress(Exception):
                held.close() if name == "browser" else held.stop()
    server = _held.pop("server", None)
    if server is not None:
        server.stop()
    folder = _held.pop("folder", None)
    if folder is not None:
        shutil.rmtree(folder, ignore_errors=True)


atexit.register(stop_all)


def new_database(name: str) -> URL:
    """Make an empty database with all tables and return its address."""
    root = make_engine(database().url)
    with root.begin() as link:
        link.execute(text(f"DROP DATABASE IF EXISTS `{name}`"))
        link.execute(text(f"CREATE DATABASE `{name}`"))
    root.dispose()
    url = database().url.set(database=name)
    engine = make_engine(url)
    migrate.upgrade(engine)
    engine.dispose()
    return url


def key() -> str:
    """Return a key as a browser makes it."""
    return str(uuid.uuid4())


def setup(name: str = "Reed", screws: int = 4, **changes) -> PrinterSetup:
    """Describe an ordinary printer of 220 x 220 mm with M4 screws."""
    bed = Bed(220, 220)
    places = suggest_screws(bed, screws) if screws else []
    return PrinterSetup(
        name=name,
        width=220,
        depth=220,
        screws=tuple(ScrewSetup(n, x, y, "M4", 0.7) for n, x, y in places),
        **changes,
    )


def empty(link: Connection) -> None:
    """Delete every row."""
    link.execute(text("SET FOREIGN_KEY_CHECKS=0"))
    for table in Base.metadata.tables:
        link.execute(text(f"DELETE FROM `{table}`"))
    link.execute(text("SET FOREIGN_KEY_CHECKS=1"))


def fill_with_demo(engine: Engine) -> None:
    """Put the demo workshop into empty tables: worked out once a run, copied after that."""
    tables = Base.metadata.sorted_tables
    if "demo" not in _held:
        with make_sessions(engine).begin() as session:
            load_demo(session)
        with engine.connect() as link:
            _held["demo"] = [[dict(row) for row in link.execute(select(t)).mappings()] for t in tables]
        return
    with engine.begin() as link:
        link.execute(text("SET FOREIGN_KEY_CHECKS=0"))
        for table, rows in zip(tables, _held["demo"], strict=True):
            if rows:
                link.execute(insert(table), rows)
        link.execute(text("SET FOREIGN_KEY_CHECKS=1"))


class DatabaseCase(unittest.TestCase):
    """A test with a database whose tables are empty at the start."""

    @classmethod
    def setUpClass(cls) -> None:
        if "url" not in _held:
            _held["url"] = new_database("test_store")
        cls.url = _held["url"]
        cls.engine = make_engine(cls.url)
        cls.sessions = make_sessions(cls.engine)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.engine.dispose()

    def setUp(self) -> None:
        with self.engine.begin() as link:
            empty(link)


class WebCase(DatabaseCase):
    """A test with the web application over the database."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        from finchwort.web import create_app

        cls.app = create_app(cls.url)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.app.extensions["engine"].dispose()
        super().tearDownClass()

    def setUp(self) -> None:
        super().setUp()
        self.client = self.app.test_client()

    def ask(self, method: str, path: str, body=None, *, status: int = 200, **headers):
        """Send a request, check its status, return what came as JSON."""
        data = None if body is None else json.dumps(body)
        kind = {"Content-Type": "application/json"} if body is not None else {}
        answer = self.client.open(
            path,
            method=method,
            data=data,
            headers=kind | {k.replace("_", "-"): v for k, v in headers.items()},
        )
        self.assertEqual(answer.status_code, status, answer.get_data(as_text=True)[:600])
        return answer.get_json(force=True)

    def new_printer(self, **changes) -> dict:
        """Set up a printer over the API."""
        body = {
            "name": "Reed",
            "width": 220,
            "depth": 220,
            "screws": [
                {"name": n, "x": x, "y": y, "thread": "M4", "pitch": 0.7}
                for n, x, y in suggest_screws(Bed(220, 220), 4)
            ],
        } | changes
        return self.ask("POST", "/api/printers", body, status=201)

    def new_visit(self, printer: int | None = None) -> dict:
        """Begin a visit over the API."""
        printer = printer or self.new_printer()["id"]
        return self.ask("POST", f"/api/printers/{printer}/visits", {}, status=201)

    def new_survey(self, visit: int, tilt: tuple[float, float] = (0.3, 0.0), **changes) -> dict:
        """Store a 5 x 5 survey with a tilt (mm across) over the API."""
        body = {"client_key": key(), "points": tilted_points(*tilt)} | changes
        return self.ask("POST", f"/api/visits/{visit}/surveys", body, status=201)


def tilted_points(across: float, along: float = 0.0, bow: float = 0.0) -> list[dict]:
    """Return 25 points on a 220 mm bed: tilt in mm across it, and a bow of the middle."""
    points = []
    for j in range(5):
        for i in range(5):
            u, v = i / 2 - 1, j / 2 - 1
            height = across * u / 2 + along * v / 2 + bow * (1 - (u * u + v * v) / 2)
            points.append({"x": 110 + 95 * u, "y": 110 + 95 * v, "value": round(height, 4)})
    return points
