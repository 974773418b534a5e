"""What a page costs on a phone: bytes on the wire, first sight, answers to the hand and jumps, in a real browser.

    .venv/bin/python -m bench.pages [--base http://127.0.0.1:8520] [--slow 4] [--runs 3]

Without --base it starts a web server over the records of the demo.  The window is a phone's, the processor is slowed by
the browser (--slow), the cache is empty for the first load and kept after it.  Largest contentful paint, layout shift and
the delays of events are what the browser itself reports for them.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from dataclasses import dataclass

from playwright.sync_api import BrowserContext, Page
from tests.fixtures.browser import PHONE, browser

SCRIPT, STYLE, PAINT, SHIFT, DELAY = 180_000, 40_000, 1500.0, 0.05, 200.0
"""Bounds: bytes of script and of style of a first load, ms to the largest paint, layout shift, ms to an answer."""

WATCH = """() => {
  window.__seen = { paint: 0, shift: 0, delay: 0, shifts: [] }
  new PerformanceObserver((list) => { for (const one of list.getEntries()) window.__seen.paint = one.startTime })
    .observe({ type: 'largest-contentful-paint', buffered: true })
  new PerformanceObserver((list) => {
    for (const one of list.getEntries()) if (!one.hadRecentInput) {
      window.__seen.shift += one.value
      window.__seen.shifts.push([one.value, ...one.sources.map((s) => s.node ? (s.node.outerHTML || s.node.textContent || '').slice(0, 90) : '?')])
    }
  }).observe({ type: 'layout-shift', buffered: true })
  new PerformanceObserver((list) => {
    for (const one of list.getEntries()) if (one.interactionId) window.__seen.delay = Math.max(window.__seen.delay, one.duration)
  }).observe({ type: 'event', durationThreshold: 16, buffered: true })
}"""


@dataclass(frozen=True)
class Load:
    """What one load cost."""

    script: int
    """Bytes of scripts on the wire."""
    style: int
    font: int
    files: int
    paint: float
    """Largest contentful paint, ms."""
    shift: float
    """Cumulative layout shift."""
    delay: float
    """Slowest answer to a tap or a key, ms."""
    why: tuple = ()


def open_page(context: BrowserContext, slow: float) -> tuple[Page, dict[str, int]]:
    """Open a page that counts what it is sent."""
    page = context.new_page()
    wire = context.new_cdp_session(page)
    wire.send("Network.enable")
    if slow > 1:
        wire.send("Emulation.setCPUThrottlingRate", {"rate": slow})
    kinds: dict[str, str] = {}
    sizes = {"Script": 0, "Stylesheet": 0, "Font": 0, "files": 0}

    def came(event: dict) -> None:
        kinds[event["requestId"]] = event.get("type", "")
        sizes["files"] += 1

    def ended(event: dict) -> None:
        kind = kinds.get(event["requestId"], "")
        if kind in sizes:
            sizes[kind] += int(event["encodedDataLength"])

    wire.on("Network.responseReceived", came)
    wire.on("Network.loadingFinished", ended)
    page.add_init_script(f"({WATCH})()")
    return page, sizes


def settle(page: Page) -> None:
    """Wait until nothing is asked for and nothing moves."""
    page.wait_for_load_state("load")
    page.evaluate(
        """() => new Promise((done) => {
          let last = performance.getEntriesByType('resource').length, calm = 0
          const look = () => {
            const now = performance.getEntriesByType('resource').filter((r) => !r.name.endsWith('/api/written')).length
            calm = now === last ? calm + 1 : 0
            last = now
            if (calm > 12) done(); else setTimeout(look, 100)
          }
          look()
        })"""
    )


def load(base: str, path: str, slow: float, tap: str | None = None) -> Load:
    """Load one page with an empty cache and tap on it once."""
    context = browser().new_context(viewport=PHONE, has_touch=True)
    try:
        page, sizes = open_page(context, slow)
        page.goto(f"{base}{path}")
        settle(page)
        seen = page.evaluate("window.__seen")
        sent = dict(sizes)
        if tap:
            page.locator(tap).first.click()
            settle(page)
            seen["delay"] = page.evaluate("window.__seen.delay")
        return Load(
            sent["Script"],
            sent["Stylesheet"],
            sent["Font"],
            sent["files"],
            seen["paint"],
            seen["shift"],
            seen["delay"],
            tuple(map(tuple, seen["shifts"])),
        )
    finally:
        context.close()


def demo_paths(base: str) -> list[tuple[str, str, str | None]]:
    """Name the pages over the records of the demo."""
    import json
    import urllib.request

    with urllib.request.urlopen(f"{base}/api/workshop") as answer:
        cards = json.load(answer)["cards"]
    card = next(one for one in cards if one["open_visit"] and one["printer"]["screws"])
    printer, visit = card["printer"]["id"], card["open_visit"]
    return [
        ("workshop", "/", ".foot button"),
        ("printer", f"/printers/{printer}", None),
        ("set-up", f"/printers/{printer}/edit", None),
        ("sound", f"/visits/{visit}/sound", None),
        ("warm up", f"/visits/{visit}/warm", None),
        ("trust", f"/visits/{visit}/trust", None),
        ("measure", f"/visits/{visit}/measure", ".head .el-button"),
        ("judge", f"/visits/{visit}/judge", None),
        ("level", f"/visits/{visit}/level", None),
        ("mesh", f"/visits/{visit}/compensate", None),
        ("Z offset", f"/visits/{visit}/offset", None),
        ("test print", f"/visits/{visit}/first-layer", None),
        ("close", f"/visits/{visit}/finish", None),
        ("cases", "/cases", None),
        ("logbook", "/logbook", None),
        ("table", "/table", None),
        ("beliefs", "/beliefs", None),
        ("part", "/part", None),
        ("extrusion", "/extrusion", None),
        ("devices", "/devices", None),
        ("backups", "/backups", None),
    ]


def main() -> int:
    """Print a line a page; exit code 1 when a bound is missed."""
    options = argparse.ArgumentParser(
        description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter
    )
    options.add_argument("--base", default="")
    options.add_argument("--slow", type=float, default=4.0)
    options.add_argument("--runs", type=int, default=3)
    options.add_argument("--why", action="store_true", help="say what moved")
    options.add_argument("--only", default="")
    wanted = options.parse_args()

    from tests.fixtures import support

    base = wanted.base
    stop = None
    if not base:
        from finchwort.runtime.parts import start_web
        from finchwort.runtime.parts import stop as stop_web
        from finchwort.store.database import make_engine
        from finchwort.store.server import free_port

        url = support.new_database("bench_pages")
        engine = make_engine(url)
        support.fill_with_demo(engine)
        engine.dispose()
        port = free_port()
        process = start_web(port, url.render_as_string(hide_password=False), workers=2)
        base, stop = f"http://127.0.0.1:{port}", lambda: stop_web(process)
    bad = 0
    print("page       | script kB | style kB | font kB | files | LCP ms | shift | tap ms")
    try:
        for name, path, tap in demo_paths(base):
            if wanted.only and wanted.only != name:
                continue
            loads = [load(base, path, wanted.slow, tap) for _ in range(wanted.runs)]
            first = loads[0]
            paint = statistics.median(one.paint for one in loads)
            shift = max(one.shift for one in loads)
            delay = max(one.delay for one in loads)
            ok = (
                first.script <= SCRIPT
                and first.style <= STYLE
                and paint <= PAINT
                and shift < SHIFT
                and delay <= DELAY
            )
            bad += not ok
            print(
                f"{name:10} | {first.script / 1000:9.1f} | {first.style / 1000:8.1f} | {first.font / 1000:7.1f} | "
                f"{first.files:5} | {paint:6.0f} | {shift:5.3f} | {delay:6.0f} {'' if ok else 'MISSED'}",
                flush=True,
            )
            if wanted.why:
                for one in sorted(first.why, key=lambda s: -s[0])[:6]:
                    print("     ", one)
    finally:
        if stop:
            stop()
        support.stop_all()
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
