"""The way in from the local network: TLS in front of the application, for devices that were let in.

One process.  Connections are kept in an event loop, so that slow or silent clients hold no thread; requests are taken in whole
before a thread works on them.
"""

from __future__ import annotations

import asyncio
import signal
import ssl
import sys
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

import click
import structlog
from hypercorn.asyncio import serve
from hypercorn.config import Config
from hypercorn.middleware import AsyncioWSGIMiddleware

from finchwort.runtime.network import Announcement
from finchwort.web import create_app
from finchwort.web.access.guard import Entrance
from finchwort.web.security import FILES, MAX_BYTES

SILENCE = 20
"""A client that says nothing for so long is let go, s."""
HANDSHAKE = 10
MOST_FILE = 24_000_000
"""A file of a print that comes over the network is held in memory until it is whole, bytes."""
LEAVING = 5.0
CIPHERS = "ECDHE+AESGCM:ECDHE+CHACHA20"

log = structlog.get_logger()


class TlsConfig(Config):
    """Hypercorn's configuration with TLS 1.2 and 1.3 only."""

    def create_ssl_context(self) -> ssl.SSLContext | None:
        """Make the context."""
        context = super().create_ssl_context()
        if context is not None:
            context.minimum_version = ssl.TLSVersion.TLSv1_2
            context.set_ciphers(CIPHERS)
        return context


def never_empty(app: Callable[..., Any]) -> Callable[..., Any]:
    """Give the answer's beginning to the server also when it has no body."""

    def answer(environ: dict[str, Any], start_response: Callable[..., Any]) -> Iterable[bytes]:
        body = app(environ, start_response)
        try:
            text = False
            for piece in body:
                text = True
                yield piece
            if not text:
                yield b""
        finally:
            close = getattr(body, "close", None)
            if close:
                close()

    return answer


def _tell(loop: asyncio.AbstractEventLoop, context: dict[str, Any]) -> None:
    """Leave what cannot be helped unsaid: connections that are open when it ends are cut."""
    if not isinstance(context.get("exception"), asyncio.CancelledError):
        loop.default_exception_handler(context)


async def _serve(config: Config, app: Callable[..., Any]) -> None:
    leaving = asyncio.Event()
    loop = asyncio.get_running_loop()
    loop.set_exception_handler(_tell)
    for number in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(number, leaving.set)
    usual = AsyncioWSGIMiddleware(never_empty(app), 2 * MAX_BYTES)
    files = AsyncioWSGIMiddleware(never_empty(app), MOST_FILE)

    async def by_path(scope: Any, receive: Any, send: Any) -> None:
        await (files if scope.get("path") == FILES else usual)(scope, receive, send)

    await serve(by_path, config, shutdown_trigger=leaving.wait)


@click.command()
@click.option("--port", required=True, type=click.IntRange(1, 65535))
@click.option("--address", "addresses", required=True, multiple=True)
@click.option(
    "--name", "names", required=True, multiple=True, help="Names and addresses that requests may be for."
)
@click.option("--certificate", required=True, type=click.Path(path_type=Path, exists=True))
@click.option("--key", required=True, type=click.Path(path_type=Path, exists=True))
@click.option("--authority", required=True, type=click.Path(path_type=Path, exists=True))
def main(
    port: int,
    addresses: tuple[str, ...],
    names: tuple[str, ...],
    certificate: Path,
    key: Path,
    authority: Path,
) -> None:
    """Serve devices of the local network, with the database named in FINCHWORT_DATABASE_URL."""
    config = TlsConfig()
    config.bind = [f"{address}:{port}" for address in addresses]
    config.certfile, config.keyfile = str(certificate), str(key)
    config.read_timeout, config.keep_alive_timeout = SILENCE, SILENCE
    config.ssl_handshake_timeout, config.graceful_timeout, config.shutdown_timeout = (
        HANDSHAKE,
        LEAVING,
        LEAVING,
    )
    config.include_server_header = False
    config.accesslog = None
    config.errorlog = "-"
    app = create_app(entrance=Entrance(tuple(names), port, authority.read_bytes()))
    # no phone comes from within this computer
    outside = [address for address in addresses if not address.startswith("127.")]
    name = next((name for name in names if name.endswith(".local")), None)
    announced = Announcement(name, port, outside) if name and outside else None
    try:
        asyncio.run(_serve(config, app))
    except OSError as error:
        print(f"It cannot be shared at port {port}: {error.strerror or error}.", file=sys.stderr)
        sys.exit(1)
    finally:
        if announced is not None:
            announced.close()


if __name__ == "__main__":
    main()
