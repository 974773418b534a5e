"""The command line: start and keep a workshop, run one part, look after the tables, read a file."""

from finchwort.cli import copies, database, files, parts, readings, workshop
from finchwort.cli.base import main

__all__ = ["copies", "database", "files", "main", "parts", "readings", "workshop"]
