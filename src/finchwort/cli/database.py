"""Commands that look after the tables."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from sqlalchemy import Engine

from finchwort.cli.base import Sentence, main


@main.group()
def db() -> None:
    """Look after the database named in FINCHWORT_DATABASE_URL."""


def engine_of_place() -> Engine:
    """Return an engine for the database that the environment names."""
    from finchwort.store.database import make_engine

    try:
        return make_engine()
    except RuntimeError as error:
        raise Sentence(str(error)) from None


@db.command()
@click.option(
    "--dumps",
    type=click.Path(path_type=Path, file_okay=False),
    default=Path("dumps"),
    show_default=True,
    help="Folder for a copy of the records, made before they are changed.",
)
def upgrade(dumps: Path) -> None:
    """Bring the tables to the present form."""
    from sqlalchemy.exc import DBAPIError

    from finchwort.services.upkeep import judge_again
    from finchwort.store import migrate

    engine = engine_of_place()
    try:
        made = migrate.upgrade(engine, dumps=dumps, after=judge_again)
        now = migrate.current(engine)
    except migrate.MigrationError as error:
        raise Sentence(str(error)) from None
    except DBAPIError as error:
        raise Sentence(f"The database does not answer: {error.orig}") from None
    if made:
        click.echo(f"Before that the records were copied to {made}.")
    click.echo(f"The tables are at revision {now}.")


@db.command()
@click.argument("revision")
@click.confirmation_option(prompt="Going back may drop records. Go on?")
def downgrade(revision: str) -> None:
    """Bring the tables back to an earlier form; "base" drops them."""
    from finchwort.store import migrate

    migrate.downgrade(engine_of_place(), revision)
    click.echo(f"The tables are back at {revision}.")
