"""What all commands share."""

from __future__ import annotations

import os
from pathlib import Path
from typing import IO, Any

import click

import finchwort

ROOT = Path(__file__).parents[3]
DEFAULT_PORT = 8420


class Sentence(click.ClickException):
    """An error told in one sentence."""

    def show(self, file: IO[Any] | None = None) -> None:
        """Print the sentence alone."""
        click.echo(self.message, err=True)


@click.group()
@click.version_option(finchwort.__version__, prog_name="finchwort")
def main() -> None:
    """Level a printer's bed, and know why the first layer sticks."""


DATA = click.option(
    "--data",
    type=click.Path(path_type=Path, file_okay=False),
    help="Folder of the records; a folder of its own among your data when not given.",
)


def _take_dialects(_context: click.Context, _option: click.Parameter, folder: Path | None) -> Path | None:
    """Let every process of this command find the dialects of one's own."""
    if folder is not None:
        os.environ["FINCHWORT_DIALECTS"] = str(folder.resolve())
    return folder


DIALECTS = click.option(
    "--dialects",
    type=click.Path(path_type=Path, file_okay=False, exists=True),
    callback=_take_dialects,
    expose_value=False,
    help="Folder of dialects of your own, a folder each.",
)
