"""The web server: a few processes that share one port of the loopback address.

Waitress takes requests in whole before a thread works on them, and keeps answers until they are read.  Clients that send
half a request, or read slowly, therefore hold a place in a list and no thread.  A process that dies is begun again.
"""

from __future__ import annotations

import logging
import os
import signal
import socket
import sys
import time

import click
import structlog

THREADS = 6
"""Of a process: requests worked on at once."""
MAX_CLIENTS = 1_000
"""Clients of a process at once."""
SILENCE = 20
"""A client that says nothing for so long is let go, s."""
BACKLOG = 512
MAX_DEATHS, WITHIN = 5, 30.0
"""Processes that die more often than this, within so many seconds, are not begun again."""

log = structlog.get_logger()


def listen(port: int) -> socket.socket:
    """Listen on a port of the loopback address.

    Raises
    ------
    OSError
        When it is taken.
    """
    held = socket.socket(socket.AF_INET, socket.SOCK_STREAM)
    held.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    held.bind(("127.0.0.1", port))
    held.listen(BACKLOG)
    held.setblocking(False)
    return held


def work(held: socket.socket) -> None:
    """Serve until told to end; one of the processes."""
    from waitress.server import create_server

    from finchwort.web import create_app
    from finchwort.web.bodies import FileChannel
    from finchwort.web.security import MAX_BYTES

    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # waiting a little is no news
    signal.signal(signal.SIGTERM, _leave)
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # a Ctrl-C goes to the first process, which ends the others
    server = create_server(
        create_app(),
        sockets=[held],
        threads=THREADS,
        connection_limit=MAX_CLIENTS,
        channel_timeout=SILENCE,
        cleanup_interval=5,
        asyncore_use_poll=True,
        max_request_body_size=2 * MAX_BYTES,
        ident=None,
        clear_untrusted_proxy_headers=True,
        # so that it is heard when whoever sent a file does not wait any more
        channel_request_lookahead=1,
    )
    server.channel_class = FileChannel
    server.run()


def _leave(*_: object) -> None:
    raise SystemExit(0)


def run(port: int, workers: int) -> int:
    """Run the processes and begin those again that die; return the exit code."""
    try:
        held = listen(port)
    except OSError as error:
        print(f"Port {port} cannot be listened on: {error.strerror}.", file=sys.stderr)
        return 1
    signal.signal(signal.SIGTERM, _leave)
    signal.signal(signal.SIGINT, _leave)
    # once for all processes: loading it takes seconds, also when one that died is begun again
    import finchwort.web  # noqa: F401

    running = {_fork(held) for _ in range(workers)}
    deaths: list[float] = []
    try:
        while True:
            gone, status = os.wait()
            running.discard(gone)
            deaths = [at for at in deaths if at > time.monotonic() - WITHIN] + [time.monotonic()]
            log.error("a web process ended, another takes its place", status=status, deaths=len(deaths))
            if len(deaths) > MAX_DEATHS:
                return 1
            running.add(_fork(held))
    finally:
        for pid in running:
            _end(pid)


def _fork(held: socket.socket) -> int:
    from finchwort.store.server import die_with_parent

    pid = os.fork()
    if pid:
        return pid
    code = 1
    try:
        die_with_parent()
        work(held)
        code = 0
    except SystemExit:
        code = 0
    except BaseException as error:
        log.error("web process", exc_info=error)
    finally:
        os._exit(code)


def _end(pid: int, patience: float = 10.0) -> None:
    """End a process, and do not wait for ever."""
    try:
        os.kill(pid, signal.SIGTERM)
        until = time.monotonic() + patience
        while time.monotonic() < until:
            if os.waitpid(pid, os.WNOHANG)[0]:
                return
            time.sleep(0.02)
        os.kill(pid, signal.SIGKILL)
        os.waitpid(pid, 0)
    except (ProcessLookupError, ChildProcessError):
        return


@click.command()
@click.option("--port", required=True, type=click.IntRange(1, 65535))
@click.option("--workers", default=2, type=click.IntRange(1, 16))
def main(port: int, workers: int) -> None:
    """Serve on 127.0.0.1, with the database named in FINCHWORT_DATABASE_URL."""
    sys.exit(run(port, workers))


if __name__ == "__main__":
    main()
