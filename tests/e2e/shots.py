"""Remake docs/screenshots/ from a fresh demo workshop."""

from __future__ import annotations

import os
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT))

from playwright.sync_api import Page, Route  # noqa: E402

from finchwort.demo.workshop import load_demo  # noqa: E402
from finchwort.link.simulated.firmware import Firmware  # noqa: E402
from finchwort.link.simulated.serve import Simulator  # noqa: E402
from finchwort.link.worker import Worker  # noqa: E402
from finchwort.runtime.authority import Authority  # noqa: E402
from finchwort.runtime.parts import start_web, stop  # noqa: E402
from finchwort.services.access import devices  # noqa: E402
from finchwort.services.backup import DAILY, make_backup  # noqa: E402
from finchwort.services.machine.requests import ask  # noqa: E402
from finchwort.services.visits.visits import start_visit  # noqa: E402
from finchwort.store.access.settings import Sharing, write_setting  # noqa: E402
from finchwort.store.database import make_engine, make_sessions  # noqa: E402
from finchwort.store.machine.jobs import queue_job  # noqa: E402
from finchwort.store.place import Running, Shared  # noqa: E402
from finchwort.store.printers.printers import get_printer, list_printers  # noqa: E402
from finchwort.store.server import free_port  # noqa: E402
from finchwort.store.visits.visits import get_visit  # noqa: E402
from tests.fixtures import support  # noqa: E402
from tests.fixtures.browser import DESK, PHONE, browser  # noqa: E402

FOLDER = ROOT / "docs" / "screenshots"
GRID = "0,31; 0,22; 0,12; 0,06; −0,01\n0,20; 0,14; 0,03; −0,02; −0,08\n0,14; 0,06; −0,02; −0,09; −0,15\n"
GRID += "0,08; 0,02; −0,07; −0,13; −0,20\n0,05; −0,05; −0,10; −0,20; −0,27\n"


def at_bench(page: Page) -> None:
    """Feel the first corner."""
    page.get_by_role("button", name="I am ready").click()
    page.get_by_role("button", name="will not move").click()
    page.get_by_role("button", name="It just drags now").wait_for()


def laid(page: Page) -> None:
    """Show the bed with the foil that is planned."""
    page.get_by_text("With this foil").click()


def compensated(page: Page) -> None:
    """Show the print on the bed with compensation, all of it drawn."""
    page.locator("canvas[data-drawn]").wait_for()
    page.locator("svg.places").wait_for()


def by_probe(page: Page) -> None:
    """Show what the probe is doing."""
    page.get_by_text("By its probe").click()
    page.get_by_role("button", name="Go on where it broke off").wait_for()


def use_simulated(simulator: Simulator, session_factory, visit: int) -> None:
    """Warm up, then probe until the cable drops, without a browser."""
    with session_factory() as session:
        printer_id = get_visit(session, visit).printer_id
    worker = Worker(session_factory)
    for kind, wanted in (
        ("heat", {"bed": 60.0, "nozzle": 205.0}),
        ("soak", {"every": 2.0, "longest": 50.0, "until_steady": False}),
        ("grid", {"columns": 5, "rows": 5}),
    ):
        simulator.firmware.faults.cut_after = 13 if kind == "grid" else None
        with session_factory.begin() as session:
            printer = get_printer(session, printer_id)
            asked = ask(printer, kind, wanted)
            queue_job(
                session,
                printer,
                kind,
                asked.params,
                client_key=support.key(),
                visit_id=visit,
                total=asked.total,
            )
        worker.step()
    worker.let_go()


def nearer(page: Page) -> None:
    """Bring the tip a little closer."""
    for _ in range(3):
        page.locator(".el-slider [role=slider]").press("ArrowLeft")
    page.get_by_text("0.03 mm closer than right in the middle").wait_for()


def patched(page: Page) -> None:
    """Measure three printed patches."""
    page.get_by_text("Printed patches").click()
    for i, text in enumerate(("0.24 0.25 0.24", "0.22 0.23 0.22", "0.25 0.26 0.27"), 1):
        if i > 1:
            page.get_by_role("button", name="Add a patch").click()
        page.get_by_label(f"Caliper readings of patch {i}, mm").fill(text)
    page.get_by_role("button", name="What does that make?").click()
    page.get_by_role("region", name="New offset").wait_for()


def code_made(page: Page) -> None:
    """Make a code for a tablet left at a printer."""
    page.get_by_role("button", name="Let a device in").click()
    page.get_by_text("Bench", exact=True).click()
    page.get_by_role("button", name="Make the code").click()
    page.locator("[data-code]").wait_for()


def open_to_the_network(session_factory, folder: Path) -> None:
    """Let two devices in, make a backup, and say where devices come in."""
    with session_factory.begin() as session:
        write_setting(session, Sharing(True))
        for role, name in (("member", "Phone of the workshop"), ("bench", "Tablet at Bittern")):
            devices.claim(session, devices.make_code(session, role, 90).code, name, "192.168.7.31")
    authority = Authority(folder / "authority")
    urls = ["https://192.168.7.20:8443", "https://finchwort-reserve.local:8443"]
    state = Running(
        os.getpid(), 8420, "2026-01-01T08:00:00+00:00", "0", shared=Shared(urls, authority.fingerprint)
    )
    state.write(folder)
    make_backup(session_factory.kw["bind"].url, folder / "backups", DAILY)


def elsewhere(route: Route) -> None:
    """Show backups as they lie where most people have them."""
    answer = route.fetch()
    route.fulfill(response=answer, json=answer.json() | {"folder": "~/.local/share/finchwort/backups"})


def second_card(page: Page) -> None:
    """Go to the first screw on the card."""
    page.get_by_role("button", name="Next").click()


def main() -> None:
    """Take all pictures."""
    url = support.new_database("shots")
    engine = make_engine(url)
    sessions = make_sessions(engine)
    simulator = Simulator(firmware=Firmware(7, speed=20)).start()
    with sessions.begin() as session:
        load_demo(session, line=simulator.url)
        snipe = next(p for p in list_printers(session) if p.name == "Snipe")
        live = start_visit(session, snipe).id
    use_simulated(simulator, sessions, live)
    folder = support.database().folder
    open_to_the_network(sessions, folder)
    engine.dispose()
    port = free_port()
    web = start_web(port, url.render_as_string(), workers=1, data=folder)
    base = f"http://127.0.0.1:{port}"
    try:
        probe = browser().new_context()
        cards = {c["printer"]["name"]: c for c in probe.request.get(f"{base}/api/workshop").json()["cards"]}
        running = probe.request.get(f"{base}/api/prints/running").json()["prints"][0]["id"]
        probe.close()
        visit = cards["Bittern"]["open_visit"]
        printer = cards["Bittern"]["printer"]["id"]
        pads = cards["Water Rail"]["open_visit"]
        dome = cards["Avocet"]["history"][0]["id"]
        shots = [
            ("workshop", "/", DESK, "light", None),
            ("printer", f"/printers/{printer}", {"width": 1280, "height": 1900}, "light", None),
            ("before-a-print", "/files/1", {"width": 1280, "height": 1100}, "light", compensated),
            ("warm-up", f"/visits/{live}/warm", DESK, "light", None),
            ("trust", f"/visits/{dome}/trust", DESK, "light", None),
            ("probing", f"/visits/{live}/measure", DESK, "light", by_probe),
            ("devices", "/devices", {"width": 1280, "height": 1000}, "light", code_made),
            ("case", "/cases/4", DESK, "light", None),
            ("map", f"/visits/{visit}/judge", DESK, "light", None),
            ("plan", f"/visits/{visit}/level", DESK, "light", None),
            ("shims", f"/visits/{pads}/level", DESK, "light", laid),
            ("mesh", f"/visits/{dome}/compensate", DESK, "light", None),
            ("look", f"/prints/{running}", PHONE, "light", None),
            ("print-results", "/prints/results", {"width": 1280, "height": 1300}, "light", None),
            ("logbook", "/logbook", DESK, "light", None),
            ("at-the-printer", f"/visits/{visit}/at-printer", PHONE, "light", second_card),
            ("first-layer", f"/visits/{dome}/first-layer", DESK, "light", nearer),
            ("offset", f"/visits/{live}/offset", {"width": 1280, "height": 1000}, "light", patched),
            ("bench", f"/visits/{visit}/bench", PHONE, "dark", at_bench),
        ]
        FOLDER.mkdir(parents=True, exist_ok=True)
        for name, path, size, scheme, then in shots:
            context = browser().new_context(viewport=size, color_scheme=scheme, locale="en-GB")
            # where the records lie on this computer is nobody's business
            context.route("**/api/backups", elsewhere)
            page = context.new_page()
            page.goto(base + path)
            page.wait_for_load_state("networkidle")
            if then:
                then(page)
                page.wait_for_load_state("networkidle")
            page.wait_for_timeout(400)
            page.screenshot(path=FOLDER / f"{name}.png")
            context.close()
            print(f"docs/screenshots/{name}.png")
    finally:
        simulator.stop()
        stop(web)
        support.stop_all()


if __name__ == "__main__":
    main()
