"""At the printer, with the phone, over the network: what is done beside the machine, done once more over TLS as a bench device."""

import json
import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import DESK, PHONE, BrowserCase
from tests.fixtures.by_hand import ByHandCase
from tests.fixtures.journeys import Keypad, Trim
from tests.fixtures.road import Road


class ByHandOverTlsTest(Road, ByHandCase):
    """The bench card, judged patches and the trim pad, by paper, from out of level to a good first layer."""

    def test_from_half_a_millimetre_out_to_a_good_first_layer(self):
        self.from_half_a_millimetre_out_to_a_good_first_layer()


class PadsOverTlsTest(Road, Keypad, Trim, ApiMixin, BrowserCase):
    """The keypad and the trim pad, under a thumb."""

    viewport = PHONE

    def test_a_stored_tap_is_felt_and_the_screen_stays_on(self):
        _, visit = self.printer_and_visit(probe_kind="none")
        page = self.spoil(self.page)
        page.add_init_script(
            """window.felt = []; window.awake = 0;
            navigator.vibrate = (ms) => window.felt.push(ms);
            navigator.wakeLock.request = async () => { window.awake += 1; return { release: async () => { window.awake -= 1 }, addEventListener() {} } };"""
        )
        for path in ("bench", "keypad", "offset"):
            with self.subTest(path):
                self.go(f"/visits/{visit['id']}/{path}")
                page.wait_for_function("window.awake === 1")
        self.go(f"/visits/{visit['id']}/bench")
        self.press("I am ready")
        self.assertEqual(page.evaluate("window.felt"), [])  # nothing is stored yet
        with page.expect_response(lambda r: r.request.method == "POST"):
            page.get_by_role("button", name=re.compile("^slides freely")).click()
        page.wait_for_function("window.felt.length === 1")
        self.assertEqual(page.evaluate("window.felt.length"), 1)


class FollowTest(Road, ApiMixin, BrowserCase):
    """The same visit on desk and phone."""

    viewport = PHONE

    def desk_page(self):
        context = BrowserCase.new_context(self, origin=self.desk)
        page = self.new_page(context)
        page.set_viewport_size(DESK)
        return page

    def test_what_the_phone_stores_shows_at_the_desk_and_the_other_way(self):
        _, visit = self.printer_and_visit(probe_kind="none")
        desk, phone = self.desk_page(), self.page
        desk.goto(f"{self.desk}/visits/{visit['id']}/judge")
        self.settle(desk)
        self.go(f"/visits/{visit['id']}/keypad")
        loads = desk.evaluate("performance.timeOrigin")
        for number in range(1, 6):
            self.see(f"Place {number}")
            for one in ("1", "2", "Enter"):
                phone.keyboard.press(one)
        phone.wait_for_url("**/measure")
        self.press("Store these 5 readings")
        phone.wait_for_url("**/judge")
        expect(desk.get_by_role("region", name="Verdict")).to_be_visible()
        self.assertEqual(desk.evaluate("performance.timeOrigin"), loads)  # without a reload
        # and from the desk to the phone
        self.go("/logbook")
        self.post("/api/logbook", {"text": "From the desk, just now"})
        self.see("From the desk, just now")
        phone.goto(f"{self.base}/logbook")
        self.see("from Phone at the bench")

    def test_one_asks_again_only_when_others_wrote(self):
        self.printer_and_visit(probe_kind="none")
        asked = []
        self.page.on("request", lambda r: asked.append(r.url) if r.url.endswith("/api/logbook") else None)
        self.go("/logbook")
        before = len(asked)
        # three answers that say that there is no news
        for _ in range(3):
            with self.page.expect_response("**/api/written") as answer:
                pass
            self.assertEqual(answer.value.status, 304)
        self.assertEqual(len(asked), before)
        self.post("/api/logbook", {"text": "News"})
        self.see("News")
        self.assertGreater(len(asked), before)

    def test_a_removed_device_sees_the_page_for_a_code(self):
        self.allowed_errors = ("401",)
        self.printer_and_visit(probe_kind="none")
        self.go("/")
        self.see("Reed")
        device = self.get("/api/devices")["devices"][0]["id"]
        answer = self.desk_page().request.delete(f"{self.desk}/api/devices/{device}")
        self.assertEqual(answer.status, 200)
        expect(self.page).to_have_url(f"{self.base}/pair")  # by itself: it asks whether there is news
        self.see("Let this device in")
        self.assertNotIn("Reed", self.page.content())
        self.page.goto(f"{self.base}/")
        self.see("Let this device in")

    def test_a_bench_is_told_what_it_may_not(self):
        self.allowed_errors = ("403",)
        self.printer_and_visit(probe_kind="none")
        self.post("/api/logbook", {"text": "Stays"})
        self.go("/logbook")
        self.page.get_by_role("button", name="Delete the note: Stays").click()
        self.see("may not delete")
        self.assertEqual(self.get("/api/logbook?kind=note")["entries"][0]["title"], "Stays")
        self.assertEqual(json.loads(self.page.request.get(f"{self.base}/api/me").text())["role"], "bench")
        expect(self.page.get_by_role("link", name="Devices")).to_have_count(0)
