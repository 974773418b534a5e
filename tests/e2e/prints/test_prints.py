"""A print from its file to its outcome, looked at on the phone; one that failed, with its case and its line in the results."""

import re
from datetime import timedelta

from playwright.sync_api import expect

from finchwort.store.prints.models import PrintRun
from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.dropped_files import FilesCase
from tests.fixtures.support import key

SHEET = {"name": "Sheet", "kind": "smooth_pei", "prints_since_wash": 3}


class PrintsOnPhone(FilesCase):
    demo = False
    viewport = PHONE

    def setUp(self):
        super().setUp()
        self.printer, self.visit = self.printer_and_visit(surfaces=[SHEET])
        strip = {"version": self.visit["version"], "surface": "Sheet", "surface_kind": "smooth_pei"}
        self.patch(f"/api/visits/{self.visit['id']}", strip)

    def patch(self, path, body):
        answer = self.page.request.patch(self.base + path, data=body)
        self.assertTrue(answer.ok, answer.text())

    def later(self, minutes):
        """Let some minutes go by for every print."""
        with self.sessions() as session:
            for row in session.query(PrintRun):
                row.started_at -= timedelta(minutes=minutes)
                for look in row.looks:
                    look.at -= timedelta(minutes=minutes)
            session.commit()
        self.page.reload()
        self.settle()

    def test_from_the_file_to_what_came_of_it(self):
        page = self.page
        self.drop(self.file("clips.gcode"), "Reed")
        self.opened()
        self.follow("I print this now")
        expect(page.get_by_label("What is printed")).to_have_value("clips")
        expect(page.get_by_label("It takes about")).not_to_have_value("")
        self.assertLessEqual(self.overflow(), 0)
        self.press("It is started: remind me to look")
        expect(page).to_have_url(re.compile(r"/prints/\d+$"))
        expect(page.get_by_role("heading", name="First lines")).to_be_visible()
        expect(page.get_by_role("img", name="What good looks like")).to_be_visible()
        self.assertLessEqual(self.overflow(), 0)
        expect(page).to_have_title(re.compile("Reed: look"))
        self.press("Good")
        expect(page.get_by_text("Next look at")).to_be_visible()
        expect(page).not_to_have_title(re.compile("look"))
        self.later(13)
        expect(page.get_by_role("heading", name="After ten to fifteen minutes")).to_be_visible()
        page.get_by_label("A remark, if you want").fill("left label thin")
        self.press("Not sure")
        expect(page.get_by_text("hold a lamp along the plate")).to_be_visible()
        self.later(4)
        self.press("Stopped")
        came = page.get_by_role("region", name="What came of it?")
        came.get_by_role("button", name="Let go").click()
        came.get_by_text("Corners lifted").click()
        place = came.get_by_role("application", name="The bed from above")
        place.click()
        expect(came.get_by_text(re.compile(r"x 1[01]\d\.?\d*, y 1[01]\d"))).to_be_visible()
        # the toolpath is there to be tapped on
        expect(place.locator("path").first).to_have_attribute("d", re.compile("^M.+L"))
        self.assertLessEqual(self.overflow(), 0)
        self.press("Write it down")
        expect(page).to_have_url(re.compile(r"/cases/\d+$"))
        expect(page.get_by_text("clips let go").first).to_be_visible()
        self.go("/prints")
        ended = page.get_by_role("region", name="Ended")
        expect(ended.get_by_role("listitem").filter(has_text="clips")).to_contain_text("Let go")
        self.follow("What came of them")
        expect(page.get_by_role("heading", name="By surface, material and bed temperature")).to_be_visible()
        expect(page.get_by_text("0 of 1 held, too few to say more").first).to_be_visible()
        self.assertLessEqual(self.overflow(), 0)

    def test_one_that_held_is_one_tap_and_can_be_taken_back(self):
        page = self.page
        path = f"/api/printers/{self.printer['id']}/prints"
        made = self.post(path, {"client_key": key(), "name": "Hooks", "minutes": 60})
        self.go(f"/prints/{made['id']}")
        self.press("Good")
        self.later(75)
        expect(page.get_by_role("region", name="What came of it?")).to_be_visible()
        self.press("Held")
        expect(page.get_by_role("heading", name="Held")).to_be_visible()
        self.press("Undo")
        expect(page.get_by_role("heading", name="What came of it?")).to_be_visible()
        self.assertIsNone(self.get(f"/api/prints/{made['id']}")["outcome"])

    def test_today_leads_to_the_look_and_other_pages_say_so(self):
        page = self.page
        path = f"/api/printers/{self.printer['id']}/prints"
        made = self.post(path, {"client_key": key(), "name": "Hooks"})
        self.go("/")
        line = page.get_by_role("region", name="Today").get_by_role("listitem").first
        expect(line).to_contain_text("look at the first lines")
        self.go("/table")
        page.get_by_role("link", name=re.compile("^Reed: .*look at the first lines")).click()
        expect(page).to_have_url(re.compile(f"/prints/{made['id']}$"))


class PrintsByKeyboard(ApiMixin, BrowserCase):
    allowed_errors = ("409",)

    def setUp(self):
        super().setUp()
        self.printer, _ = self.printer_and_visit(surfaces=[SHEET])

    def begin(self, **told):
        body = {"client_key": key(), **told}
        return self.post(f"/api/printers/{self.printer['id']}/prints", body)

    def test_begun_and_looked_at_without_a_mouse(self):
        page = self.page
        self.go("/prints")
        self.tab_to("On Reed")
        page.keyboard.press("Enter")
        page.get_by_label("What is printed").fill("Hooks")
        page.keyboard.press("Enter")
        expect(page.get_by_role("heading", name="First lines")).to_be_visible()
        page.locator("main").focus()
        page.keyboard.press("y")
        expect(page.get_by_text("Next look at")).to_be_visible()

    def test_a_place_is_marked_by_keyboard(self):
        page = self.page
        made = self.begin(name="Hooks")
        self.go(f"/prints/{made['id']}")
        self.press("It has ended")
        self.press("Let go")
        page.get_by_role("application", name="The bed from above").focus()
        page.keyboard.press("Enter")
        expect(page.get_by_text("x 110, y 110 mm")).to_be_visible()
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowUp")
        expect(page.get_by_text("x 115, y 115 mm")).to_be_visible()
        page.get_by_text("Open a case with all of this").click()
        self.press("Write it down")
        expect(page.get_by_role("img", name="It let go at x 115, y 115 mm")).to_be_visible()
        found = self.get(f"/api/prints/{made['id']}")
        self.assertEqual((found["x"], found["y"], found["case_id"]), (115, 115, None))

    def test_figures_that_are_none_and_a_print_that_runs_already_lose_nothing(self):
        page = self.page
        self.go(f"/printers/{self.printer['id']}/print")
        page.get_by_label("What is printed").fill("Hooks")
        page.get_by_label("It takes about").fill("two hours")
        self.press("It is started: remind me to look")
        expect(page.get_by_role("alert").filter(has_text="no number")).to_be_visible()
        page.get_by_label("It takes about").fill("120")
        other = self.begin(name="Labels")
        self.press("It is started: remind me to look")
        expect(page.get_by_role("alert").filter(has_text="Tell what came of it first")).to_be_visible()
        expect(page.get_by_label("What is printed")).to_have_value("Hooks")
        self.post(
            f"/api/prints/{other['id']}/end",
            {"client_key": key(), "version": other["version"], "outcome": "held"},
        )
        self.press("It is started: remind me to look")
        expect(page.get_by_role("heading", name="Hooks")).to_be_visible()

    def test_taken_out_and_brought_back(self):
        page = self.page
        made = self.begin(name="Hooks")
        self.go(f"/prints/{made['id']}")
        self.press("Take it out")
        expect(page.get_by_text("Hooks was taken out")).to_be_visible()
        self.press("Undo")
        expect(page.get_by_role("region", name="Running")).to_contain_text("Hooks")

    def test_a_notification_is_asked_for_by_a_tap_and_shown(self):
        page = self.page
        page.context.grant_permissions(["notifications"], origin=self.base)
        made = self.begin(name="Hooks")
        self.go("/prints")
        expect(page.get_by_text("This device shows notifications")).to_be_visible()
        shown = page.evaluate(
            """async () => {
              const worker = await navigator.serviceWorker.ready
              for (let i = 0; i < 200; i++) {
                const all = await worker.getNotifications()
                if (all.length) return all.map((one) => [one.title, one.body, one.data.to])
                await new Promise((go) => setTimeout(go, 50))
              }
              return []
            }"""
        )
        self.assertEqual(shown[0][0], "Reed")
        self.assertIn("look at the first lines", shown[0][1])
        self.assertEqual(shown[0][2], f"/prints/{made['id']}")

    def test_the_calendar_is_given_an_address_and_loses_it(self):
        page = self.page
        self.go("/devices")
        panel = page.get_by_role("region", name="What is due, as a calendar")
        switch = panel.get_by_role("switch", name="What is due, as a calendar")
        switch.focus()
        page.keyboard.press("Space")
        field = panel.get_by_label("Address of the calendar")
        expect(field).to_have_value(re.compile(r"/calendar/[\w-]{20,}\.ics$"))
        first = field.input_value()
        self.assertIn("BEGIN:VCALENDAR", page.request.get(first).text())
        self.press("Another address")
        expect(field).not_to_have_value(first)
        self.assertEqual(page.request.get(first).status, 404)
