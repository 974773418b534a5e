"""Slow and many: half-sent requests, slow readers and busy people at once, at the web server that ships and at others.

    .venv/bin/python bench/server.py [--seconds 15] [waitress gunicorn granian]

200 clients send half a request (half of them half a header, half of them half a body) and then nothing; 50 ask for a map
or a script and read a byte now and then; 100 ask for what printers do every 0.7 s, as open pages do, and for a page's data
now and then.  All on the loopback address, from one process of its own.  What is not installed is left out.
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import importlib.util
import os
import statistics
import subprocess
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

HALF, SLOW, BUSY = 200, 50, 100
EVERY = 0.7
"""So often an open page asks what the printers do while one works, s."""


def commands(port: int) -> dict[str, list[str]]:
    """Command lines of the servers that are compared."""
    from finchwort.runtime.parts import web_command

    python = sys.executable
    address = f"127.0.0.1:{port}"
    found = {
        "shipped": web_command(port),
        "gunicorn": [
            python,
            "-m",
            "gunicorn",
            "--bind",
            address,
            "--workers",
            "2",
            "--worker-class",
            "gthread",
        ]
        + ["--threads", "4", "--timeout", "60", "--log-level", "error", "finchwort.web:create_app()"],
        "granian": [
            python,
            "-m",
            "granian",
            "--interface",
            "wsgi",
            "--host",
            "127.0.0.1",
            "--port",
            str(port),
        ]
        + [
            "--workers",
            "2",
            "--blocking-threads",
            "4",
            "--factory",
            "--log-level",
            "error",
            "finchwort.web:create_app",
        ],
    }
    return {
        name: words for name, words in found.items() if name == "shipped" or importlib.util.find_spec(name)
    }


async def ask(port: int, path: str, patience: float = 60.0) -> float:
    """Ask once; return how long it took, s."""
    begun = time.monotonic()

    async def once() -> None:
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        writer.write(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nConnection: close\r\n\r\n".encode())
        await writer.drain()
        first = await reader.readline()
        if b" 200 " not in first:
            raise RuntimeError(first.decode())
        await reader.read(-1)
        writer.close()

    await asyncio.wait_for(once(), patience)
    return time.monotonic() - begun


async def half(port: int, number: int) -> None:
    """Send half a request and stay."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    if number % 2:
        writer.write(f"GET /api/workshop HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\nX-Slow: ".encode())
    else:
        head = "POST /api/printers HTTP/1.1\r\nContent-Type: application/json\r\nContent-Length: 5000"
        writer.write(f'{head}\r\nHost: 127.0.0.1:{port}\r\n\r\n{{"name": '.encode())
    await writer.drain()
    await reader.read(-1)


async def slow(port: int, path: str) -> None:
    """Ask for something large and hardly read it."""
    reader, writer = await asyncio.open_connection("127.0.0.1", port, limit=1024)
    writer.write(f"GET {path} HTTP/1.1\r\nHost: 127.0.0.1:{port}\r\n\r\n".encode())
    await writer.drain()
    while await reader.read(16):
        await asyncio.sleep(0.2)


async def busy(
    port: int, until: float, took: list[float], failed: list[str], number: int, pages: list[str]
) -> None:
    """Ask as an open page does."""
    await asyncio.sleep(EVERY * number / BUSY)
    turn = number
    while time.monotonic() < until:
        path = pages[turn % len(pages)] if turn % 10 == 0 else "/api/jobs"
        turn += 1
        try:
            took.append(await ask(port, path))
        except (OSError, RuntimeError, TimeoutError) as error:
            failed.append(f"{path}: {error!r}")
        await asyncio.sleep(EVERY)


async def stay(task) -> None:
    """Begin again when a server lets go of a half or slow client."""
    while True:
        with contextlib.suppress(OSError):
            await task()
        await asyncio.sleep(0.5)


async def measure(
    port: int, seconds: float, big: list[str], pages: list[str], people: int, loaded: bool
) -> dict:
    """Let people ask for a while, with or without half and slow clients; return what was found."""
    others = []
    if loaded:
        others = [asyncio.create_task(stay(lambda n=n: half(port, n))) for n in range(HALF)]
        others += [asyncio.create_task(stay(lambda n=n: slow(port, big[n % len(big)]))) for n in range(SLOW)]
        await asyncio.sleep(2)
    until = time.monotonic() + seconds
    took: list[float] = []
    failed: list[str] = []
    health: list[float] = []

    async def look() -> None:
        while time.monotonic() < until:
            try:
                health.append(await ask(port, "/api/health"))
            except (OSError, RuntimeError, TimeoutError) as error:
                failed.append(f"health: {error!r}")
            await asyncio.sleep(0.25)

    crowd = [busy(port, until, took, failed, n, pages) for n in range(people)]
    await asyncio.gather(look(), *crowd)
    for task in others:
        task.cancel()
    await asyncio.gather(*others, return_exceptions=True)
    ordered = sorted(took)
    return {
        "requests": len(took),
        "p95": ordered[int(0.95 * len(ordered))] if ordered else float("nan"),
        "median": statistics.median(took) if took else float("nan"),
        "health": max(health, default=float("nan")),
        "failed": len(failed),
        "why": failed[:1],
    }


def main() -> int:
    options = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    options.add_argument("names", nargs="*")
    options.add_argument("--seconds", type=float, default=15.0)
    wanted = options.parse_args()

    from sqlalchemy import text
    from tests.fixtures import support

    from finchwort.demo.workshop import load_demo
    from finchwort.store.database import ENVIRONMENT, make_engine, make_sessions
    from finchwort.store.server import free_port

    url = support.new_database("bench_server")
    engine = make_engine(url)
    with make_sessions(engine).begin() as session:
        load_demo(session)
        survey = session.scalar(text("SELECT MAX(id) FROM survey"))
        visit = session.scalar(text("SELECT MAX(id) FROM visit"))
    script = max((Path("frontend/dist/assets")).glob("*.js"), key=lambda p: p.stat().st_size).name
    big = [f"/api/surveys/{survey}/map", f"/assets/{script}"]
    pages = ["/api/workshop", f"/api/visits/{visit}", f"/api/surveys/{survey}/map", "/api/logbook"]
    bad = 0
    print(
        "server   | load                    | requests | failed | median ms | p95 ms | slowest health ms | p95 against quiet"
    )
    port = free_port()
    for name, words in commands(port).items():
        if wanted.names and name not in wanted.names:
            continue
        process = subprocess.Popen(
            words, env=os.environ | {ENVIRONMENT: url.render_as_string(hide_password=False)}
        )
        try:
            deadline = time.monotonic() + 60
            while time.monotonic() < deadline:
                try:
                    asyncio.run(ask(port, "/api/health", 5))
                    break
                except (OSError, RuntimeError, TimeoutError):
                    time.sleep(0.2)
            for path in (*big, *pages):
                asyncio.run(ask(port, path))
            quiet = None
            for said, loaded in (
                (f"{BUSY} busy, else quiet", False),
                (f"{HALF} half, {SLOW} slow, {BUSY} busy", True),
            ):
                found = asyncio.run(measure(port, wanted.seconds, big, pages, BUSY, loaded))
                quiet = quiet or found["p95"]
                print(
                    f"{name:8} | {said:23} | {found['requests']:8} | {found['failed']:6} | {1000 * found['median']:9.1f} | "
                    f"{1000 * found['p95']:6.1f} | {1000 * found['health']:17.1f} | {found['p95'] / quiet:.2f} {found['why']}",
                    flush=True,
                )
                if name == "shipped" and (found["health"] > 2 or found["failed"] or found["p95"] > 3 * quiet):
                    bad += 1
        finally:
            process.terminate()
            process.wait(30)
    engine.dispose()
    support.stop_all()
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
