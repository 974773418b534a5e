"""Bring the tables to the present form, or back to an earlier one."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import Script, ScriptDirectory
from sqlalchemy import Connection, Engine, inspect, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from finchwort.store.database import make_engine, make_sessions
from finchwort.store.dump import DumpError, dump

FOLDER = Path(__file__).parent / "migrations"
LOCK, PATIENCE = "finchwort migration", 60
"""Only one process changes the tables; another waits so long for it, s."""
LONGEST = 3600
"""Changing a large table may take so long, s."""


class MigrationError(RuntimeError):
    """The tables cannot be brought to the present form; the text is a sentence for the person."""


def config(connection: Connection | None = None) -> Config:
    """Make Alembic's configuration over an open connection."""
    settings = Config()
    settings.set_main_option("script_location", str(FOLDER))
    settings.attributes["connection"] = connection
    return settings


def upgrade(
    engine: Engine,
    to: str = "head",
    dumps: Path | None = None,
    after: Callable[[Session], object] | None = None,
) -> Path | None:
    """Run the migrations up to a revision.

    A run that was killed goes on where it was: every step looks first whether it was taken (see
    `finchwort.store.migrations.steps`).

    Parameters
    ----------
    engine : Engine
    to : str
    dumps : Path, optional
        Folder for a dump of the records, made before they are changed.
    after : callable, optional
        What puts the records in order once older tables have the present form.

    Returns
    -------
    Path or None
        The dump, when one was made.

    Raises
    ------
    MigrationError
        When the records are of a newer Finchwort, could not be copied first, or a table cannot be changed.
    """
    patient = make_engine(engine.url, LONGEST)
    try:
        with _alone(patient):
            return _upgrade(patient, to, dumps, after)
    except DumpError as error:
        raise MigrationError(f"{error} Nothing was changed.") from None
    except DBAPIError as error:
        raise MigrationError(
            f"The tables could not be brought to the present form: {_last(error)} What was stored is kept; start again when that "
            "is mended."
        ) from error
    finally:
        patient.dispose()


def _upgrade(
    engine: Engine, to: str, dumps: Path | None, after: Callable[[Session], object] | None
) -> Path | None:
    now = current(engine)
    known = {script.revision for script in scripts()}
    if now is not None and now not in known:
        raise MigrationError(
            f"These records were written by a newer Finchwort (form {now}; this one knows {head()}). Use that one: nothing was "
            "changed."
        )
    made = None
    if dumps is not None and now != head() and inspect(engine).has_table("printer"):
        made = dump(engine.url, dumps, f"before-{head()}")
    with engine.begin() as connection:
        command.upgrade(config(connection), to)
    if after is not None and now not in (None, head()) and to == "head":
        with make_sessions(engine).begin() as session:
            after(session)
    return made


@contextmanager
def _alone(engine: Engine) -> Iterator[None]:
    """Hold the lock on changing the tables; it is let go when this process dies."""
    with engine.connect() as connection:
        got = connection.scalar(
            text("SELECT GET_LOCK(:name, :patience)"), {"name": LOCK, "patience": PATIENCE}
        )
        if got != 1:
            raise MigrationError(
                "Another Finchwort is changing these tables. Wait until it is done, and start again."
            )
        try:
            yield
        finally:
            connection.execute(text("SELECT RELEASE_LOCK(:name)"), {"name": LOCK})


def _last(error: DBAPIError) -> str:
    words = str(next(iter(reversed(getattr(error.orig, "args", ()) or ("",))))).strip().rstrip(".")
    return f"the database says “{words[:200]}”."


def downgrade(engine: Engine, to: str) -> None:
    """Run the migrations back to a revision; ``base`` drops everything."""
    with engine.begin() as connection:
        command.downgrade(config(connection), to)


def current(engine: Engine) -> str | None:
    """Return the revision the database is at."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision()


def scripts() -> list[Script]:
    """Return the migrations there are."""
    return list(ScriptDirectory.from_config(config()).walk_revisions())


def head() -> str | None:
    """Return the newest revision there is."""
    return ScriptDirectory.from_config(config()).get_current_head()
