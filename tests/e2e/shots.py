"""Remake docs/screenshots/ from a fresh demo workshop."""

from __future__ import annotations

import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
sys.path.insert(0, str(ROOT))

from playwright.sync_api import Page  # noqa: E402

from finchwort.demo.run import start_web, stop_web  # noqa: E402
from finchwort.demo.workshop import load_demo  # noqa: E402
from finchwort.store.database import make_engine, make_sessions  # noqa: E402
from finchwort.store.server import free_port  # noqa: E402
from tests import support  # noqa: E402
from tests.e2e.browser import DESK, PHONE, browser  # noqa: E402

FOLDER = ROOT / "docs" / "screenshots"
GRID = "0,31; 0,22; 0,12; 0,06; −0,01\n0,20; 0,14; 0,03; −0,02; −0,08\n0,14; 0,06; −0,02; −0,09; −0,15\n"
GRID += "0,08; 0,02; −0,07; −0,13; −0,20\n0,05; −0,05; −0,10; −0,20; −0,27\n"


def typed(page: Page) -> None:
    """Type seven of nine readings."""
    for value in ("-0,04", "-0.10", "-0.26", "-0.12", "0.00", "0.14", "0.28"):
        page.locator("#reading").fill(value)
        page.keyboard.press("Enter")
    page.get_by_text("so far").wait_for()


def pasted(page: Page) -> None:
    """Paste a grid."""
    page.get_by_text("Paste or drop text").click()
    page.locator("#pasted").fill(GRID)
    page.get_by_text("This was understood").wait_for()


def filled(page: Page) -> None:
    """Fill in the name of a new printer."""
    page.locator("#name").fill("Reed Warbler")


def second_card(page: Page) -> None:
    """Go to the first screw on the card."""
    page.get_by_role("button", name="Next").click()


def main() -> None:
    """Take all pictures."""
    url = support.new_database("shots")
    engine = make_engine(url)
    with make_sessions(engine).begin() as session:
        load_demo(session)
    engine.dispose()
    port = free_port()
    web = start_web(port, url.render_as_string(), workers=1)
    base = f"http://127.0.0.1:{port}"
    try:
        probe = browser().new_context()
        cards = {c["printer"]["name"]: c for c in probe.request.get(f"{base}/api/workshop").json()["cards"]}
        probe.close()
        visit = cards["Bittern"]["open_visit"]
        printer = cards["Bittern"]["printer"]["id"]
        closed = next(v["id"] for v in cards["Bittern"]["history"] if v["surveys"] == 3)
        dome = cards["Avocet"]["history"][0]["id"]
        shots = [
            ("workshop", "/", DESK, "light", None),
            ("printer", f"/printers/{printer}", DESK, "light", None),
            ("set-up", "/printers/new", DESK, "light", filled),
            ("readings-typed", f"/visits/{visit}/measure", DESK, "light", typed),
            ("readings-pasted", f"/visits/{visit}/measure", DESK, "light", pasted),
            ("map", f"/visits/{visit}/judge", DESK, "light", None),
            ("map-of-a-dome", f"/visits/{dome}/judge", DESK, "light", None),
            ("plan", f"/visits/{visit}/level", DESK, "light", None),
            ("plan-dark", f"/visits/{visit}/level", DESK, "dark", None),
            ("rounds", f"/visits/{closed}/finish", {"width": 1280, "height": 1100}, "light", None),
            ("logbook", "/logbook", DESK, "light", None),
            ("at-the-printer", f"/visits/{visit}/at-printer", PHONE, "light", second_card),
            ("phone", f"/visits/{visit}/judge", PHONE, "light", None),
        ]
        FOLDER.mkdir(parents=True, exist_ok=True)
        for name, path, size, scheme, then in shots:
            context = browser().new_context(viewport=size, color_scheme=scheme, locale="en-GB")
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
        stop_web(web)
        support.stop_all()


if __name__ == "__main__":
    main()
