"""Commands that run one part: pages, link, demo, simulated printer."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path

import click

from finchwort.cli.base import DEFAULT_PORT, DIALECTS, ROOT, Sentence, main
from finchwort.cli.database import engine_of_place
from finchwort.runtime.signals import until_told


@main.command()
@click.option("--port", default=DEFAULT_PORT, show_default=True, type=click.IntRange(1, 65535))
@click.option("--workers", default=2, show_default=True, type=click.IntRange(1, 16))
@DIALECTS
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
def demo() -> None:
    """The demo workshop."""


@demo.command()
def load() -> None:
    """Write the demo workshop into a database without printers."""
    from finchwort.demo.workshop import load_demo
    from finchwort.store.database import make_sessions

    with make_sessions(engine_of_place()).begin() as session:
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
@DIALECTS
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


@main.command()
@click.option("--name", default="", help="Of this machine, when several serve one database.")
@click.option(
    "--workers", default=4, show_default=True, type=click.IntRange(1, 32), help="Lines served at a time."
)
@DIALECTS
def link(name: str, workers: int) -> None:
    """Do the jobs at machines: serve the database named in FINCHWORT_DATABASE_URL."""
    from finchwort.link.worker import run_link
    from finchwort.store.database import make_sessions

    sessions = make_sessions(engine_of_place())
    stopping = until_told()

    def ready() -> None:
        click.echo("The link is ready. It takes jobs as they are asked for (Ctrl-C stops it).")

    if not run_link(sessions, stopping, name, workers, ready=ready):
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
@click.option(
    "--mood",
    default="open",
    show_default=True,
    type=click.Choice(("open", "plain")),
    help="How it talks; the dialect of that name understands it.",
)
def simulate(port: int, page_port: int, seed: int, speed: float, mood: str) -> None:
    """Run a simulated printer on the loopback address, with a page to turn its knobs."""
    from finchwort.link.simulated.firmware import Firmware
    from finchwort.link.simulated.serve import Simulator

    try:
        simulator = Simulator(port, page_port, Firmware(seed, speed, mood=mood)).start()
    except OSError as error:
        raise Sentence(
            f"The simulated printer cannot listen there: {error.strerror}. Choose other ports."
        ) from None
    stopping = until_told()
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
