"""The workshop says what is due today, and one tap leads to where it is done."""

import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key


class TodayTest(ApiMixin, BrowserCase):
    """On the phone, with one printer whose sheet was printed on often and whose plate was changed."""

    viewport = PHONE

    def setUp(self):
        super().setUp()
        sheet = {"name": "Sheet", "kind": "smooth_pei", "prints_since_wash": 11}
        self.printer, self.visit = self.printer_and_visit(surfaces=[sheet])
        self.survey(self.visit, 0.0)

    def lines(self):
        return self.page.get_by_role("region", name="Today").get_by_role("listitem")

    def test_what_is_due_leads_there_and_goes_when_it_is_done(self):
        page, printer = self.page, self.printer
        self.post(
            f"/api/printers/{printer['id']}/changes",
            {"client_key": key(), "what": "plate", "visit_id": self.visit["id"]},
        )
        self.go("/")
        first = self.lines().first
        expect(first).to_contain_text("left to do before it prints")
        self.assertLessEqual(self.overflow(), 0)
        first.get_by_role("link", name="Go on with the list").click()
        expect(page).to_have_url(re.compile(f"/visits/{self.visit['id']}"))

    def test_a_wash_by_keyboard(self):
        page, printer = self.page, self.printer
        self.post(f"/api/printers/{printer['id']}/surfaces/use", {"name": "Sheet", "action": "coated"})
        self.go("/")
        line = self.lines().filter(has_text="Wash it off and put on a thin new one")
        expect(line).to_have_count(1)
        line.get_by_role("link", name="To its surfaces").focus()
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile(f"/printers/{printer['id']}$"))
        self.post(f"/api/printers/{printer['id']}/surfaces/use", {"name": "Sheet", "action": "washed"})
        self.go("/")
        expect(page.get_by_role("heading", name=printer["name"])).to_be_visible()
        expect(line).to_have_count(0)

    def test_four_are_seen_and_the_rest_is_a_tap_away(self):
        for words in ("corners lift", "gaps", "nothing sticks", "curls", "ridges"):
            self.post(f"/api/printers/{self.printer['id']}/cases", {"client_key": key(), "words": words})
        self.go("/")
        expect(self.lines()).to_have_count(4)
        page = self.page
        page.get_by_role("button", name="Show all").click()
        expect(self.lines().filter(has_text="corners lift")).to_have_count(1)
