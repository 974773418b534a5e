"""Commands for one's own workshop: start, stop, look, keep, bring back."""

from __future__ import annotations

import json
import sys
from pathlib import Path

import click

from finchwort.cli.base import DATA, DEFAULT_PORT, DIALECTS, Sentence, main
from finchwort.runtime.signals import until_told


@main.command()
@DATA
@click.option("--port", default=DEFAULT_PORT, show_default=True, type=click.IntRange(1, 65535))
@click.option("--database-port", type=click.IntRange(1, 65535), help="A free one when not given.")
@click.option(
    "--share/--no-share",
    default=None,
    help="Open it to devices of the local network that are let in, or close it; it stays so.",
)
@click.option("--share-port", default=8443, show_default=True, type=click.IntRange(1, 65535))
@click.option("--share-address", multiple=True, help="Listen there only, instead of at all local addresses.")
@click.option("--foreground", is_flag=True, help="Stay in the terminal; Ctrl-C stops it.")
@DIALECTS
def start(
    data: Path | None,
    port: int,
    database_port: int | None,
    share: bool | None,
    share_port: int,
    share_address: tuple[str, ...],
    foreground: bool,
) -> None:
    """Start your own workshop: database, pages, link to the printers; it goes on in the background."""
    from finchwort.runtime import background
    from finchwort.runtime.plan import Plan
    from finchwort.store.place import running
    from finchwort.store.server import ServerError

    place = background.place_of(data)
    for address in share_address:
        from finchwort.runtime.authority import is_private

        try:
            good = is_private(address)
        except ValueError:
            good = False
        if not good:
            raise Sentence(f"{address} is no address of a local network.")
    advice = f"Choose another one, for instance: finchwort start --port {port + 1}"
    plan = Plan(
        place.folder,
        port,
        database_port,
        share=share,
        share_port=share_port,
        share_addresses=share_address,
        stop_by="Ctrl-C" if sys.stdout.isatty() and foreground else "finchwort stop",
        advice=advice,
    )
    try:
        if foreground:
            # only the process that goes on needs all of it
            from finchwort.runtime.house import House

            House(plan).run()
            return
        result = running(place.folder)
        if result is not None:
            raise Sentence(f"Finchwort is running already: http://127.0.0.1:{result.port}")
        words = ["--data", str(place.folder), "--port", str(port), "--share-port", str(share_port)]
        words += ["--database-port", str(database_port)] if database_port else []
        words += [] if share is None else ["--share" if share else "--no-share"]
        words += [word for address in share_address for word in ("--share-address", address)]
        result = background.start(place.folder, words)
    except ServerError as error:
        raise Sentence(str(error)) from None
    click.echo(f"Finchwort is ready: http://127.0.0.1:{result.port}")
    click.echo(f"Your records lie in {place.folder}. It goes on in the background; finchwort stop ends it.")


@main.command()
@DATA
def stop(data: Path | None) -> None:
    """Stop your own workshop."""
    from finchwort.runtime import background
    from finchwort.store.server import ServerError

    try:
        stopped = background.stop(background.place_of(data).folder)
    except ServerError as error:
        raise Sentence(str(error)) from None
    click.echo("Finchwort was stopped." if stopped else "Finchwort is not running.")


@main.command()
@DATA
@click.option("--json", "as_json", is_flag=True, help="For scripts.")
def status(data: Path | None, as_json: bool) -> None:
    """Say whether it runs, and where; the exit code is 3 when it does not."""
    from dataclasses import asdict

    from finchwort.runtime import background
    from finchwort.services.backup_file import list_backups
    from finchwort.store.place import running

    place = background.place_of(data)
    result = running(place.folder)
    if as_json:
        click.echo(json.dumps(asdict(result) if result else None))
    else:
        for line in background.in_words(place.folder, result):
            click.echo(line)
        newest = next(iter(list_backups(place.backups)), None)
        click.echo(
            f"Last backup: {newest.path} ({newest.manifest.made_at})" if newest else "Last backup: none yet."
        )
    sys.exit(0 if result else 3)


@main.command()
@DATA
@click.option(
    "-n", "last", default=50, show_default=True, type=click.IntRange(1, 100_000), help="So many lines."
)
@click.option("--part", help="Only of this part: web, link, shared, backups, finchwort.")
@click.option("--follow", is_flag=True, help="Go on as lines come (Ctrl-C ends it).")
@click.option("--json", "as_json", is_flag=True, help="For scripts.")
def logs(data: Path | None, last: int, part: str | None, follow: bool, as_json: bool) -> None:
    """Show what was logged."""
    from finchwort.runtime import background
    from finchwort.runtime.logs import in_words, read_log, tail

    place = background.place_of(data)
    show = json.dumps if as_json else in_words
    for line in read_log(place.logs, last, part):
        click.echo(show(line))
    if follow:
        for line in tail(place.logs, until_told(), part):
            click.echo(show(line))


@main.command()
@click.argument("file", required=False, type=click.Path(path_type=Path, dir_okay=False))
@DATA
def backup(file: Path | None, data: Path | None) -> None:
    """Copy all records into one file, read back before it counts; also while it runs."""
    import shutil

    from finchwort.runtime import background
    from finchwort.services.backup import BackupError, make_backup
    from finchwort.store.server import ServerError

    place = background.place_of(data)
    if file is not None and file.exists():
        raise Sentence(f"{file} is there already. Name another file.")
    try:
        with background.database_of(place) as server:
            made = make_backup(server.url, place.backups)
        if file is not None:
            part = file.with_name(file.name + ".part")
            shutil.copyfile(made.path, part)
            part.replace(file)
    except (BackupError, ServerError) as error:
        raise Sentence(str(error)) from None
    except OSError as error:
        raise Sentence(
            f"The backup is {made.path}, but {file} cannot be written: {error.strerror}."
        ) from None
    rows = sum(made.manifest.rows.values())
    click.echo(f"{file or made.path}: {rows} rows of {len(made.manifest.rows)} tables, read back.")


@main.command()
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False))
@DATA
@click.option("--yes", is_flag=True, help="Do not ask.")
def restore(file: Path, data: Path | None, yes: bool) -> None:
    """Bring the records of a backup back; what stands there is copied first."""
    from finchwort.runtime import background
    from finchwort.services.backup import BackupError, read_backup
    from finchwort.services.backup import restore as bring_back
    from finchwort.store.place import held
    from finchwort.store.server import ServerError

    place = background.place_of(data)
    try:
        manifest = read_backup(file)
        if held(place.folder):
            raise Sentence("Finchwort is running. Stop it first: finchwort stop")
        rows = sum(manifest.rows.values())
        what = f"{manifest.workshop or 'a workshop without a name'}, {rows} rows, made {manifest.made_at}"
        if not yes and not click.confirm(
            f"Bring back {what}? What stands in {place.folder} is copied first."
        ):
            raise Sentence("Nothing was changed.")
        with background.database_of(place) as server:
            copy = bring_back(server, file, place.backups)
    except (BackupError, ServerError) as error:
        raise Sentence(str(error)) from None
    click.echo(f"Brought back: {what}.")
    if copy is not None:
        click.echo(f"What stood there before: {copy.path}")
    click.echo("Devices that were not let in any more have to be paired again. Start it: finchwort start")


@main.group()
def service() -> None:
    """Run it as a service of systemd, for your user."""


@service.command()
@DATA
@click.option("--port", default=DEFAULT_PORT, show_default=True, type=click.IntRange(1, 65535))
@click.option("--share-port", default=8443, show_default=True, type=click.IntRange(1, 65535))
@click.option("--print", "only_print", is_flag=True, help="Show the unit; change nothing.")
def install(data: Path | None, port: int, share_port: int, only_print: bool) -> None:
    """Start it with your login, and again when it dies."""
    from finchwort.runtime import background
    from finchwort.store.server import ServerError

    folder, words = background.place_of(data).folder, ["--port", str(port), "--share-port", str(share_port)]
    if only_print:
        click.echo(background.unit(folder, words), nl=False)
        return
    try:
        for line in background.install_unit(folder, words):
            click.echo(line)
    except ServerError as error:
        raise Sentence(str(error)) from None


@service.command()
def remove() -> None:
    """Stop the service and take it away; the records stay."""
    from finchwort.runtime import background

    for line in background.remove_unit():
        click.echo(line)
