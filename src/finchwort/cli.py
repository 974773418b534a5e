"""The command line: serve, link, simulate, look after the database, load the demo, read a file."""

from __future__ import annotations

import csv
import json
import os
import signal
import sys
import threading
from pathlib import Path

import click

import finchwort

ROOT = Path(__file__).parents[2]
DEFAULT_PORT = 8420


class Sentence(click.ClickException):
    """An error told in one sentence."""

    def show(self, file=None) -> None:
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
def start(data, port, database_port, share, share_port, share_address, foreground) -> None:
    """Start your own workshop: database, pages, link to the printers; it goes on in the background."""
    from finchwort.runtime import background
    from finchwort.runtime.authority import is_private
    from finchwort.runtime.house import House, Plan
    from finchwort.store.server import ServerError

    place = background.place_of(data)
    for address in share_address:
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
            House(plan).run()
            return
        found = background.running(place.folder)
        if found is not None:
            raise Sentence(f"Finchwort is running already: http://127.0.0.1:{found.port}")
        words = ["--data", str(place.folder), "--port", str(port), "--share-port", str(share_port)]
        words += ["--database-port", str(database_port)] if database_port else []
        words += [] if share is None else ["--share" if share else "--no-share"]
        words += [word for address in share_address for word in ("--share-address", address)]
        found = background.start(place.folder, words)
    except ServerError as error:
        raise Sentence(str(error)) from None
    click.echo(f"Finchwort is ready: http://127.0.0.1:{found.port}")
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
    from finchwort.services.backup import list_backups

    place = background.place_of(data)
    found = background.running(place.folder)
    if as_json:
        click.echo(json.dumps(asdict(found) if found else None))
    else:
        for line in background.in_words(place.folder, found):
            click.echo(line)
        newest = next(iter(list_backups(place.backups)), None)
        click.echo(
            f"Last backup: {newest.path} ({newest.manifest.made_at})" if newest else "Last backup: none yet."
        )
    sys.exit(0 if found else 3)


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
        for line in tail(place.logs, _until_told(), part):
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


@main.command()
@click.option("--port", default=DEFAULT_PORT, show_default=True, type=click.IntRange(1, 65535))
@click.option("--workers", default=2, show_default=True, type=click.IntRange(1, 16))
def serve(port: int, workers: int) -> None:
    """Serve on 127.0.0.1, with the database named in FINCHWORT_DATABASE_URL."""
    from finchwort.runtime.parts import check_port, web_command
    from finchwort.store.database import database_url

    try:
        database_url()
        check_port(port)
    except RuntimeError as error:
        raise Sentence(str(error)) from None
    command = web_command(port, workers)
    click.echo(f"Finchwort is serving on http://127.0.0.1:{port}")
    sys.stdout.flush()
    os.execv(command[0], command)


@main.group()
def db() -> None:
    """Look after the database named in FINCHWORT_DATABASE_URL."""


def _engine():
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

    engine = _engine()
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

    migrate.downgrade(_engine(), revision)
    click.echo(f"The tables are back at {revision}.")


@main.group()
def demo() -> None:
    """The demo workshop."""


@demo.command()
def load() -> None:
    """Write the demo workshop into a database without printers."""
    from finchwort.demo.workshop import load_demo
    from finchwort.store.database import make_sessions

    with make_sessions(_engine()).begin() as session:
        written = load_demo(session)
    click.echo(
        "The demo workshop was written." if written else "There are printers already; nothing was written."
    )


@demo.command()
@click.option("--port", default=DEFAULT_PORT, show_default=True, type=click.IntRange(1, 65535))
@click.option("--database-port", type=click.IntRange(1, 65535), help="A free one when not given.")
@click.option(
    "--line-port",
    default=8422,
    show_default=True,
    type=click.IntRange(1, 65535),
    help="Of the simulated printer.",
)
@click.option(
    "--page-port", default=8423, show_default=True, type=click.IntRange(1, 65535), help="Of its knobs."
)
@click.option(
    "--speed", default=8.0, show_default=True, type=click.FloatRange(0.1, 1000), help="Of its time."
)
@click.option("--fresh", is_flag=True, help="Forget what is stored and begin again.")
@click.option(
    "--share-port",
    default=8444,
    show_default=True,
    type=click.IntRange(1, 65535),
    help="For devices, once it is opened to the network.",
)
@click.option("--share-address", multiple=True, help="Listen there only, instead of at all local addresses.")
@click.option(
    "--data", type=click.Path(path_type=Path), help="Folder of the records; var/demo in a checkout."
)
def run(
    port: int,
    database_port: int | None,
    line_port: int,
    page_port: int,
    speed: float,
    fresh: bool,
    data: Path | None,
    share_port: int,
    share_address: tuple[str, ...],
) -> None:
    """Start database, web server, link and simulated printer with the demo workshop."""
    from finchwort.demo.run import Ports, run_demo
    from finchwort.runtime.background import place_of
    from finchwort.store.server import ServerError

    try:
        # a checkout has a place of its own for it; an installed package goes beside one's own workshop
        usual = ROOT / "var" / "demo" if (ROOT / "pyproject.toml").exists() else place_of(None).demo
        ports = Ports(port, line_port, page_port, database_port)
        run_demo((data or usual).absolute(), ports, fresh, speed, share_port, share_address)
    except ServerError as error:
        raise Sentence(str(error)) from None


def _until_told() -> threading.Event:
    """Return an event that a Ctrl-C or an end signal sets."""
    stopping = threading.Event()
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda *_: stopping.set())
    return stopping


@main.command()
@click.option("--name", default="", help="Of this machine, when several serve one database.")
@click.option(
    "--workers", default=4, show_default=True, type=click.IntRange(1, 32), help="Lines served at a time."
)
@click.option(
    "--dialects", type=click.Path(path_type=Path, file_okay=False), help="Folder of dialects of your own."
)
def link(name: str, workers: int, dialects: Path | None) -> None:
    """Do the jobs at machines: serve the database named in FINCHWORT_DATABASE_URL."""
    from finchwort.link.worker import run_link
    from finchwort.store.database import make_sessions

    sessions = make_sessions(_engine())
    stopping = _until_told()

    def ready() -> None:
        click.echo("The link is ready. It takes jobs as they are asked for (Ctrl-C stops it).")

    if not run_link(sessions, stopping, name, workers, dialects, ready):
        raise Sentence("The link gave up: its workers ended again and again. What happened stands above.")


@main.command()
@click.option("--port", default=8422, show_default=True, type=click.IntRange(0, 65535), help="Of the line.")
@click.option(
    "--page", "page_port", default=8423, show_default=True, type=click.IntRange(0, 65535), help="Of the page."
)
@click.option("--seed", default=7, show_default=True, help="The same seed gives the same machine.")
@click.option(
    "--speed",
    default=1.0,
    show_default=True,
    type=click.FloatRange(0.1, 1000),
    help="How much faster time runs.",
)
def simulate(port: int, page_port: int, seed: int, speed: float) -> None:
    """Run a simulated printer on the loopback address, with a page to turn its knobs."""
    from finchwort.link.simulated.firmware import Firmware
    from finchwort.link.simulated.serve import Simulator

    try:
        simulator = Simulator(port, page_port, Firmware(seed, speed)).start()
    except OSError as error:
        raise Sentence(
            f"The simulated printer cannot listen there: {error.strerror}. Choose other ports."
        ) from None
    stopping = _until_told()
    click.echo(f"Simulated printer: line {simulator.url}, knobs at {simulator.page} (Ctrl-C stops it)")
    sys.stdout.flush()
    while not stopping.wait(0.5):
        pass
    simulator.stop()


@main.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    from finchwort.web import create_app

    app = create_app("mysql+pymysql://nobody@localhost/none")
    click.echo(json.dumps(app.spec, indent=1, sort_keys=True))


@main.command()
@click.argument("file", type=click.File("rb"))
@click.option("--bed", "size", help="Printable area, for instance 220x220.")
@click.option("--centre-origin", is_flag=True, help="X 0, Y 0 is the middle of the bed.")
@click.option("--screws", help="3 or 4 for the usual places, or a CSV file: name,x,y,pitch.")
@click.option("--pitch", default=0.7, show_default=True, help="Travel per turn, mm (M4: 0.7).")
@click.option(
    "--hold", default="centre", show_default=True, help="centre, only_tighten, only_loosen or a screw."
)
@click.option("--repeatability", type=float, help="Standard deviation of one reading, mm.")
@click.option("--layer", default=0.2, show_default=True, help="First-layer height, mm.")
@click.option("--gaps", is_flag=True, help="The values are gaps, not heights.")
@click.option("--back-first", is_flag=True, help="A grid's first line is the back row.")
@click.option("--json", "as_json", is_flag=True, help="For scripts.")
def read(
    file, size, centre_origin, screws, pitch, hold, repeatability, layer, gaps, back_first, as_json
) -> None:
    """Analyse a file of readings: flatness, shape and, with --screws, the plan."""
    from finchwort.core.base.errors import CoreError

    try:
        report = _report(
            file.read(), size, centre_origin, screws, pitch, hold, repeatability, layer, gaps, back_first
        )
    except CoreError as error:
        for problem in error.problems[:10]:
            click.echo(f"line {problem.line}: {problem.reason}  {problem.text}", err=True)
        raise Sentence(str(error)) from None
    click.echo(json.dumps(report, indent=1) if as_json else _tell(report))


def _bed(size: str | None, centre_origin: bool):
    from finchwort.core.printers import Bed

    if size is None:
        return None
    try:
        width, depth = (float(part) for part in size.lower().replace("×", "x").split("x"))
    except ValueError:
        raise Sentence("Give the bed as width x depth in mm, for instance 220x220.") from None
    return Bed(width, depth, "centre" if centre_origin else "front_left")


def _screws(text: str, bed, pitch: float):
    from finchwort.core.printers import Screw, suggest_screws

    if text in ("3", "4"):
        return [Screw(name, x, y, pitch) for name, x, y in suggest_screws(bed, int(text))]
    try:
        with open(text, newline="") as lines:
            rows = [row for row in csv.reader(lines) if row and not row[0].startswith("#")]
        if rows and rows[0][0].strip().lower() == "name":
            rows.pop(0)
        return [Screw(row[0].strip(), *(float(cell) for cell in row[1:4])) for row in rows]
    except OSError as error:
        raise Sentence(f"{text} cannot be read: {error.strerror}.") from None
    except (ValueError, TypeError, IndexError):
        raise Sentence(f"{text} should have lines of name,x,y,pitch.") from None


def _report(data, size, centre_origin, screws, pitch, hold, repeatability, layer, gaps, back_first):
    from finchwort.core.base.wording import turn_in_figures
    from finchwort.core.printers import Bed, places_doubt
    from finchwort.core.surveys import assess_flatness, decompose, judge
    from finchwort.core.tramming import plan_turns
    from finchwort.formats import Hint, read_survey

    bed = _bed(size, centre_origin)
    hint = Hint(values="gap" if gaps else None, flip_y=back_first, bed=bed)
    found = read_survey(data, hint)
    survey = found.survey
    doubt = bed and places_doubt(bed, survey.x.tolist(), survey.y.tolist())
    if bed is None:  # the readings themselves say how large the bed is at least
        width = max(40.0, float(survey.x.max() + survey.x.min()))
        depth = max(40.0, float(survey.y.max() + survey.y.min()))
        bed = Bed(width, depth)
    flatness, zone = assess_flatness(survey), assess_flatness(survey, "minimum_zone")
    shape = decompose(survey, bed)
    verdict = judge(survey, flatness, shape, layer, screws is not None)
    report = {
        "readings": len(survey),
        "assumptions": [*found.assumptions, *([doubt] if doubt else [])],
        "unread_lines": found.unread,
        "spread_mm": round(survey.spread, 4),
        "flatness_mm": {
            "peak_to_valley": round(flatness.peak_to_valley, 4),
            "peak": round(flatness.peak, 4),
            "valley": round(flatness.valley, 4),
            "rms": round(flatness.rms, 4),
            "peak_to_valley_minimum_zone": round(zone.peak_to_valley, 4),
        },
        "shape_mm": {
            key: round(getattr(shape, key), 4)
            for key in ("tilt_x", "tilt_y", "bow_x", "bow_y", "twist", "remainder_rms")
        },
        "shape": shape.sentence,
        "verdict": verdict.level,
        "sentence": verdict.sentence,
    }
    if screws is not None:
        plan = plan_turns(
            survey,
            _screws(screws, bed, pitch),
            hold,
            centre=bed.centre,
            repeatability=repeatability,
            bed=bed,
        )
        report["plan"] = [
            {
                "screw": turn.screw.name,
                "action": "leave" if turn.leave else "tighten" if turn.rounded > 0 else "loosen",
                "turns": turn.rounded,
                "turns_exact": round(turn.exact, 3),
                "turns_uncertainty": round(turn.uncertainty, 3),
                "move_mm": round(turn.move, 3),
                "figures": turn_in_figures(turn.rounded, turn.screw.divisions),
            }
            for turn in plan.turns
        ]
        report["spread_after_mm"] = round(plan.spread_after, 4)
    return report


def _tell(report: dict) -> str:
    flat, shape = report["flatness_mm"], report["shape_mm"]
    lines = [*report["assumptions"]]
    if report["unread_lines"]:
        lines.append(f"{report['unread_lines']} lines could not be read.")
    lines += [
        f"{report['readings']} readings, {report['spread_mm']:.3f} mm from highest to lowest",
        f"Flatness without tilt: {flat['peak_to_valley']:.3f} mm (FLTt, least squares), "
        f"{flat['peak_to_valley_minimum_zone']:.3f} mm (minimum zone), RMS {flat['rms']:.3f} mm (FLTq)",
        f"Tilt: {shape['tilt_x']:+.3f} mm left to right, {shape['tilt_y']:+.3f} mm front to back",
        f"Shape: {report['shape']}",
        report["sentence"],
    ]
    for turn in report.get("plan", ()):
        if turn["action"] == "leave":
            lines.append(f"  {turn['screw']}: leave it")
        else:
            lines.append(
                f"  {turn['screw']}: {turn['action']} {turn['figures']} turn ({turn['move_mm']:+.2f} mm)"
            )
    if "spread_after_mm" in report:
        lines.append(f"Expected afterwards: {report['spread_after_mm']:.3f} mm from highest to lowest")
    return "\n".join(lines)


if __name__ == "__main__":
    main()
