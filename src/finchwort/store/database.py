"""The connection to the database."""

from __future__ import annotations

import os

from sqlalchemy import URL, Engine, create_engine, make_url
from sqlalchemy.orm import Session, sessionmaker

# whoever has a session knows every table, and marks what it writes
from finchwort.store.access import marks as _marks  # noqa: F401
from finchwort.store.diagnosis import models as _cases  # noqa: F401
from finchwort.store.files import models as _files  # noqa: F401
from finchwort.store.first_layer import models as _offsets  # noqa: F401
from finchwort.store.place import ENVIRONMENT
from finchwort.store.prints import models as _prints  # noqa: F401

SQL_MODE = "STRICT_ALL_TABLES,NO_ZERO_DATE,NO_ZERO_IN_DATE,ERROR_FOR_DIVISION_BY_ZERO,NO_ENGINE_SUBSTITUTION"


def database_url(url: str | None = None) -> URL:
    """Give the database's address: the one passed, or that of the environment.

    Raises
    ------
    RuntimeError
        When neither names one.
    """
    text = url or os.environ.get(ENVIRONMENT)
    if not text:
        raise RuntimeError(f"No database is named. Start Finchwort with bin/demo, or set {ENVIRONMENT}.")
    return make_url(text)


def make_engine(url: str | URL | None = None, patience: int = 30) -> Engine:
    """Make an engine: utf8mb4, strict SQL, UTC, connections tested before use; an answer is waited for so long (s)."""
    target = url if isinstance(url, URL) else database_url(url)
    return create_engine(
        target,
        pool_pre_ping=True,
        pool_recycle=1800,
        isolation_level="READ COMMITTED",
        connect_args={
            # over a socket of this computer nobody listens; reading every known authority costs 50 ms a connection
            "ssl_disabled": "unix_socket" in target.query,
            "charset": "utf8mb4",
            "init_command": f"SET sql_mode='{SQL_MODE}', time_zone='+00:00'",
            "connect_timeout": 5,
            "read_timeout": patience,
            "write_timeout": patience,
        },
    )


def make_sessions(engine: Engine) -> sessionmaker[Session]:
    """Make a factory of sessions that keep their objects readable after a commit."""
    return sessionmaker(engine, expire_on_commit=False)
