"""A browser in front of a real server over a real database."""

from __future__ import annotations

import shutil
from types import SimpleNamespace

from playwright.sync_api import Browser, BrowserContext, Page, expect, sync_playwright

from finchwort.runtime.parts import start_web, stop
from finchwort.store.server import free_port
from tests import support

ARGUMENTS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--no-first-run",
    "--disable-sync",
    "--disable-component-update",
    "--disable-gpu",
]
PATIENCE = 40_000
"""A machine may stall; waiting longer costs nothing where all is well, ms."""
expect.set_options(timeout=PATIENCE)
DESK = {"width": 1280, "height": 800}
PHONE = {"width": 390, "height": 844}


def browser() -> Browser:
    """Return the browser of this test run, started on first use."""
    held = support._held
    if "browser" not in held:
        held["playwright"] = sync_playwright().start()
        held["browser"] = held["playwright"].chromium.launch(
            executable_path=shutil.which("chromium"), args=ARGUMENTS
        )
    return held["browser"]


def shared_server(url: str) -> int:
    """Return the port of the web server of this test run, started on first use."""
    held = support._held
    if "web" not in held:
        port = free_port()
        process = start_web(port, url, workers=1)
        held["web"], held["port"] = SimpleNamespace(stop=lambda: stop(process)), port
    return held["port"]


CONTROL_NAME = (
    "e => (e.getAttribute('aria-label') || (e.labels && e.labels[0] ? e.labels[0].textContent : '') || "
    "e.textContent || '').trim()"
)


class BrowserCase(support.DatabaseCase):
    """A test that drives the pages; an error in the browser's console fails it."""

    demo = False
    viewport = DESK
    allowed_errors: tuple[str, ...] = ()

    own_server = False
    """Whether the tests of this class stop and start the web server."""

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        if cls.own_server:
            cls.port = free_port()
            cls.web = start_web(cls.port, cls.url.render_as_string(), workers=1)
        else:
            cls.port = shared_server(cls.url.render_as_string())
        cls.base = f"http://127.0.0.1:{cls.port}"

    @classmethod
    def tearDownClass(cls) -> None:
        if cls.own_server:
            stop(cls.web)
        super().tearDownClass()

    def setUp(self) -> None:
        super().setUp()
        if self.demo:
            support.fill_with_demo(self.engine)
        self.complaints: list[str] = []
        self.context = self.new_context()
        self.page = self.new_page(self.context)

    def new_context(self, **options) -> BrowserContext:
        """Open a browser window of its own."""
        context = browser().new_context(
            viewport=self.viewport, locale="en-GB", reduced_motion="reduce", **options
        )
        context.set_default_timeout(PATIENCE)
        self.addCleanup(context.close)
        return context

    def new_page(self, context: BrowserContext) -> Page:
        """Open a tab and listen to its complaints."""
        page = context.new_page()
        page.on("console", lambda m: self.complaints.append(m.text) if m.type == "error" else None)
        page.on("pageerror", lambda e: self.complaints.append(str(e)))
        return page

    def tearDown(self) -> None:
        bad = [c for c in self.complaints if not any(known in c for known in self.allowed_errors)]
        self.assertEqual(bad, [])

    def go(self, path: str, page: Page | None = None) -> None:
        """Open an address and wait until it has settled."""
        page = page or self.page
        page.goto(self.base + path)
        page.wait_for_load_state("networkidle")

    def see(self, text: str, page: Page | None = None) -> None:
        """Wait until a text can be seen on the page."""
        (page or self.page).get_by_text(text).filter(visible=True).first.wait_for()

    def press(self, name: str, page: Page | None = None) -> None:
        """Press the button of that name."""
        (page or self.page).get_by_role("button", name=name, exact=True).click()

    def follow(self, name: str) -> None:
        """Follow the link of that name."""
        self.page.get_by_role("link", name=name, exact=True).click()

    def tab_to(self, name: str) -> None:
        """Press Tab until the control of that name has the focus; first wait until the page shows one."""
        self.page.wait_for_function(
            f"name => [...document.querySelectorAll('a, button, input, select, textarea, [tabindex]')]"
            f".some(e => ({CONTROL_NAME})(e).startsWith(name))",
            arg=name,
        )
        for _ in range(120):
            self.page.keyboard.press("Tab")
            if self.page.evaluate(f"({CONTROL_NAME})(document.activeElement)").startswith(name):
                return
        self.fail(f"Tab never reaches {name}")

    def overflow(self) -> int:
        """Return by how many pixels the page is wider than its window."""
        return self.page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
