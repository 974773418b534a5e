"""Steps of a migration that may be taken twice.

MariaDB commits every change of a table by itself.  A migration that was killed
half-way has therefore done some of its steps; at the next start it runs again
and each step looks first whether it was taken already.
"""

from __future__ import annotations

from typing import Any

import sqlalchemy as sa
from alembic import op

f = op.f
alter_column = op.alter_column
execute = op.execute


def rows(query: str) -> list[Any]:
    """Return the rows of a query."""
    return list(op.get_bind().execute(sa.text(query)))


def change(statement: str, **values: Any) -> None:
    """Change rows."""
    op.get_bind().execute(sa.text(statement), values)


def _look() -> sa.Inspector:
    return sa.inspect(op.get_bind())


def _columns(table: str) -> set[str]:
    return {column["name"] for column in _look().get_columns(table)} if _look().has_table(table) else set()


def has_column(table: str, name: str) -> bool:
    """Tell whether a table has a column."""
    return name in _columns(table)


def create_table(name: str, *parts: Any) -> None:
    """Make a table, unless it is there."""
    if not _look().has_table(name):
        op.create_table(name, *parts)


def drop_table(name: str) -> None:
    """Drop a table, if it is there."""
    if _look().has_table(name):
        op.drop_table(name)


def add_column(table: str, column: sa.Column[Any]) -> None:
    """Add a column, unless it is there."""
    if column.name not in _columns(table):
        op.add_column(table, column)


def drop_column(table: str, name: str) -> None:
    """Drop a column, if it is there."""
    if name in _columns(table):
        op.drop_column(table, name)


def create_index(name: str, table: str, columns: list[str], unique: bool = False) -> None:
    """Make an index, unless it is there."""
    if name not in {index["name"] for index in _look().get_indexes(table)}:
        op.create_index(name, table, columns, unique=unique)


def create_words(name: str, table: str, columns: list[str]) -> None:
    """Make an index of the words in texts, unless it is there."""
    if name not in {index["name"] for index in _look().get_indexes(table)}:
        op.create_index(name, table, columns, mysql_prefix="FULLTEXT", mariadb_prefix="FULLTEXT")


def drop_index(name: str, table: str) -> None:
    """Drop an index, if it is there."""
    if name in {index["name"] for index in _look().get_indexes(table)}:
        op.drop_index(name, table)


def create_foreign_key(name: str, table: str, other: str, local: list[str], remote: list[str]) -> None:
    """Bind a column to another table, unless it is bound."""
    if name not in {key["name"] for key in _look().get_foreign_keys(table)}:
        op.create_foreign_key(name, table, other, local, remote)


def drop_constraint(name: str, table: str, type_: str) -> None:
    """Loosen a column, if it is bound."""
    if _look().has_table(table) and name in {key["name"] for key in _look().get_foreign_keys(table)}:
        op.drop_constraint(name, table, type_=type_)
