"""Bring the tables to the present form, or back to an earlier one."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine

FOLDER = Path(__file__).parent / "migrations"


def config(connection: Connection | None = None) -> Config:
    """Make Alembic's configuration over an open connection."""
    settings = Config()
    settings.set_main_option("script_location", str(FOLDER))
    settings.attributes["connection"] = connection
    return settings


def upgrade(engine: Engine, to: str = "head") -> None:
    """Run the migrations up to a revision."""
    with engine.begin() as connection:
        command.upgrade(config(connection), to)


def downgrade(engine: Engine, to: str) -> None:
    """Run the migrations back to a revision; ``base`` drops everything."""
    with engine.begin() as connection:
        command.downgrade(config(connection), to)


def current(engine: Engine) -> str | None:
    """Return the revision the database is at."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision()


def head() -> str | None:
    """Return the newest revision there is."""
    return ScriptDirectory.from_config(config()).get_current_head()
