"""From nothing to a first plan on a phone: start, open, scan, let in, the first questions, paper, plan; removed; backed up."""

import io
import re
import tempfile
from pathlib import Path

import zxingcpp
from axe_playwright_python.sync_playwright import Axe
from PIL import Image
from playwright.sync_api import expect

from finchwort.runtime import background
from finchwort.store.server import free_port
from tests.fixtures import support
from tests.fixtures.axe import ONLY_BAD, SERIOUS
from tests.fixtures.browser import PHONE, BrowserCase


class OwnWorkshopTest(BrowserCase):
    """Over a Finchwort that was started as a person starts it."""

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        held = tempfile.TemporaryDirectory(prefix="finchwort-first-", dir=support.scratch())
        cls.addClassCleanup(held.cleanup)
        folder, port = Path(held.name), free_port()
        words = ["--data", held.name, "--port", str(port), "--share-address", "127.0.0.1"]
        cls.addClassCleanup(background.stop, folder)
        background.start(folder, [*words, "--share-port", str(free_port())])
        cls.base = f"http://127.0.0.1:{port}"

    def scan(self, picture) -> str:
        """Read what a camera reads off the screen."""
        image = Image.open(io.BytesIO(picture.screenshot()))
        found = zxingcpp.read_barcodes(image)
        self.assertEqual(len(found), 1)
        return found[0].text

    def test_from_nothing_to_a_plan_on_the_phone(self):
        self.allowed_errors = ("401",)
        desk = self.page
        self.go("/")
        self.see("Begin with your printer")
        self.follow("Devices")
        desk.get_by_role("region", name="Local network").locator(".el-switch").click()
        self.see("Devices reach it, encrypted, at")
        self.press("Let a device in")
        desk.get_by_text("Owner", exact=True).click()
        self.press("Make the code")
        address = self.scan(desk.get_by_alt_text("The address with the code, for a camera"))
        typed = desk.locator("[data-code]").inner_text().replace("-", "")
        self.assertTrue(address.endswith(f"/pair?code={typed}"), address)

        phone = self.new_page(self.new_context(ignore_https_errors=True, has_touch=True, is_mobile=True))
        phone.set_viewport_size(PHONE)
        self.accessible(desk)
        phone.goto(address)
        self.accessible(phone)
        phone.get_by_label("Name of this device").fill("Phone at the bench")
        self.press("Let it in", phone)
        self.see("Phone at the bench is let in", desk)

        self.first_questions(phone)
        self.measure_by_paper(phone)
        expect(phone.get_by_role("region", name="Verdict")).to_contain_text("Turn the screws")
        phone.goto(re.sub("judge$", "level", phone.url))
        expect(phone.get_by_role("button", name="I did this")).to_be_visible()
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth - window.innerWidth"), 0)

        # the same workshop at the desk, without a reload
        self.follow("Workshop")
        self.see("The shed", desk)
        self.go("/backups")
        # one that takes its time says how far it is
        held = []
        desk.route(
            "**/api/backups",
            lambda route: held.append(route) if route.request.method == "POST" else route.continue_(),
        )
        self.press("Back up now")
        expect(desk.get_by_role("progressbar", name="Copying and reading back")).to_be_visible()
        held[0].continue_()
        self.see("read back, whole", desk)
        expect(desk.get_by_role("progressbar")).to_have_count(0)
        with desk.expect_download() as download:
            desk.get_by_role("link", name="Save as a file").first.click()
        self.assertEqual(download.value.path().read_bytes()[:4], b"PK\x03\x04")

        self.go("/devices")
        self.press("Remove Phone at the bench")
        self.press("Remove it")
        phone.wait_for_url("**/pair")
        self.see("Let this device in", phone)
        self.see("Phone at the bench was removed.", desk)

    def accessible(self, page):
        """Let axe look at a page."""
        found = Axe().run(page, options=ONLY_BAD).response["violations"]
        self.assertEqual([one["id"] for one in found if one["impact"] in SERIOUS], [])

    def first_questions(self, phone):
        self.press("Begin, step by step", phone)
        self.press("Next", phone)
        self.see("Give it a name", phone)
        phone.get_by_label("What is your workshop called?").fill("The shed")
        self.press("Next", phone)
        phone.get_by_label("What do you call the printer?").fill("Reed")
        self.press("Next", phone)
        phone.get_by_label("Left to right").fill("abc")
        phone.get_by_label("Front to back").fill("220")
        self.press("Next", phone)
        self.see("Both sides in mm", phone)
        phone.reload()  # what was typed is still there
        expect(phone.get_by_label("Front to back")).to_have_value("220")
        phone.get_by_label("Left to right").fill("220")
        self.press("Next", phone)
        self.accessible(phone)
        phone.get_by_text("Four knobs").click()
        self.press("Next", phone)
        phone.get_by_text("A strip of paper").click()
        self.press("Start the first visit", phone)
        phone.wait_for_url("**/measure")

    def measure_by_paper(self, phone):
        phone.get_by_text("Lower until it drags", exact=True).click()
        box = phone.get_by_label("Z at which it just drags, mm")
        for number in range(1, 6):
            said = phone.get_by_text(re.compile(f"^{number} of 5: ")).inner_text()
            box.fill("0.30" if "left" in said else "0.70" if "right" in said else "0.50")
            box.press("Enter")
        self.press("Store these 5 readings", phone)
        phone.wait_for_url("**/judge")
