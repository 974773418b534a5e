"""From anywhere to anywhere: the frame, the list of pages, the field that finds, the way back."""

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key

EVERYWHERE = (
    "/",
    "/cases",
    "/logbook",
    "/table",
    "/part",
    "/extrusion",
    "/beliefs",
    "/terms",
    "/devices",
    "/backups",
    "/printers/new",
)


class DeskTest(ApiMixin, BrowserCase):
    def test_each_page_is_two_taps_away(self):
        page = self.page
        for goal in EVERYWHERE:
            with self.subTest(goal):
                self.go("/part" if goal == "/" else "/")
                page.get_by_role("button", name="All pages").click()
                pages = page.get_by_role("navigation", name="All pages")
                pages.locator(f'a[href="{goal}"]').click()
                page.wait_for_url(f"{self.base}{goal}")
                expect(pages).to_be_hidden()

    def test_the_way_back_is_shown(self):
        page = self.page
        printer, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        way = page.get_by_role("navigation", name="Where you are").filter(visible=True)
        expect(way).to_contain_text("Visit of")
        way.get_by_role("link", name=printer["name"]).click()
        page.wait_for_url(f"**/printers/{printer['id']}")
        expect(way.locator("[aria-current=page]")).to_have_text(printer["name"])
        way.get_by_role("link", name="Workshop").click()
        page.wait_for_url(f"{self.base}/")
        expect(way).to_have_count(0)

    def test_shown_round_once_and_again_when_asked(self):
        page = self.page
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/sound")
        self.press("Show me round")
        for title in (
            "The way through a visit",
            "What lies on the printer today",
            "When something happened",
            "The step itself",
        ):
            expect(page.locator(".el-tour__title").filter(has_text=title)).to_be_visible()
            self.assertIn(self.overflow(), (0, -1))
            page.get_by_role(
                "button", name="Done" if title == "The step itself" else "Next", exact=True
            ).click()
        expect(page.locator(".el-tour__title")).to_have_count(0)
        expect(page.get_by_text("Your first visit?")).to_have_count(0)
        page.get_by_role("button", name="All pages").click()
        self.press("Show me round")
        page.locator(".el-tour__title").wait_for()
        page.keyboard.press("Escape")
        expect(page.locator(".el-tour__title")).to_have_count(0)

    def test_the_book_is_opened_at_a_day(self):
        page = self.page
        self.post("/api/logbook", {"text": "Written today"})
        self.go("/logbook")
        self.see("Written today")
        page.get_by_placeholder("Up to the day").click()
        page.get_by_role("button", name="Previous Month").click()
        page.locator(".el-date-table td.available").filter(has_text="15").click()
        self.see("Nothing in the book fits.")
        page.locator(".day-wanted input").hover()
        page.locator(".day-wanted .clear-icon").click()
        self.see("Written today")

    def test_found_by_a_few_letters_and_without_a_mouse(self):
        page = self.page
        printer, visit = self.printer_and_visit()
        body = {"client_key": key(), "words": "Corners of the frame lift"}
        case = self.post(f"/api/printers/{printer['id']}/cases", body)
        self.go(f"/visits/{visit['id']}/measure")
        find = page.get_by_role("combobox", name="Find")
        for typed, first, goal in (
            ("z off", "Z offset", f"/visits/{visit['id']}/offset"),
            ("surf", "Surfaces and materials", "/table"),
            (printer["name"][:4].lower(), f"{printer['name']}: open visit", f"/visits/{visit['id']}"),
            ("corners lift", "Corners of the frame lift", f"/cases/{case['id']}"),
            ("temperatures", "Surfaces and materials", "/table"),
        ):
            with self.subTest(typed):
                page.keyboard.press("Control+k")
                expect(find).to_be_focused()
                page.keyboard.type(typed)
                expect(page.get_by_role("option").first).to_contain_text(first)
                page.keyboard.press("Enter")
                page.wait_for_url(f"{self.base}{goal}**")
                expect(find).to_be_hidden()
        page.keyboard.press("g")
        expect(find).to_be_focused()
        page.keyboard.type("xyzzy")
        self.see("Nothing here is called that.")
        page.keyboard.press("Escape")
        expect(find).to_be_hidden()

    def test_a_word_is_explained_by_a_tap_and_by_a_key(self):
        page = self.page
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        self.go(f"/visits/{visit['id']}/judge")
        hint = page.get_by_role("button", name="FLTt", exact=True)
        said = page.get_by_role("note", name="FLTt, peak-to-valley flatness deviation")
        hint.click()
        expect(said).to_contain_text("what no screw can mend")
        expect(hint).to_have_attribute("aria-expanded", "true")
        page.keyboard.press("Escape")
        expect(said).to_be_hidden()
        hint.press("Enter")
        said.get_by_role("link", name="All terms").click()
        page.wait_for_url("**/terms#fltt")
        expect(page.locator("#term-fltt")).to_be_in_viewport()
        page.get_by_label("Find a term").fill("backlash")
        expect(page.locator("dt")).to_have_text("Play")
        page.get_by_label("Find a term").fill("xyzzy")
        self.see("No term here is called that.")

    def test_the_list_wraps_and_says_what_is_active(self):
        page = self.page
        self.printer_and_visit()
        self.go("/")
        page.get_by_role("button", name="Find", exact=True).click()
        find = page.get_by_role("combobox", name="Find")
        expect(find).to_be_focused()
        options = page.get_by_role("option")
        last = options.count() - 1
        page.keyboard.press("ArrowUp")
        expect(options.nth(last)).to_have_attribute("aria-selected", "true")
        self.assertEqual(find.get_attribute("aria-activedescendant"), f"goal-{last}")
        page.keyboard.press("ArrowDown")
        expect(options.first).to_have_attribute("aria-selected", "true")


class PhoneTest(ApiMixin, BrowserCase):
    viewport = PHONE

    def test_the_thumbs_row_goes_everywhere(self):
        page = self.page
        self.go("/")
        foot = page.get_by_role("navigation", name="Main").filter(visible=True)
        for name, goal in (("Cases", "/cases"), ("Logbook", "/logbook"), ("Workshop", "/")):
            foot.get_by_role("link", name=name).click()
            page.wait_for_url(f"{self.base}{goal}")
        for one in foot.locator("a, button").all():
            box = one.bounding_box()
            self.assertGreaterEqual(box["height"], 48)
            self.assertGreater(box["y"], PHONE["height"] * 0.8)
        foot.get_by_role("button", name="More").click()
        page.get_by_role("navigation", name="All pages").locator('a[href="/extrusion"]').click()
        page.wait_for_url("**/extrusion")
        self.assertLessEqual(self.overflow(), 0)

    def test_verdict_and_action_are_above_the_fold(self):
        """What to do stands in the first window of a phone, whatever the picture needs."""
        page = self.page
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        fold = PHONE["height"] - page.viewport_size["height"] + PHONE["height"] - 60
        for step, action in (("judge", "Show me what to turn"), ("level", "At the printer")):
            with self.subTest(step):
                self.go(f"/visits/{visit['id']}/{step}")
                button = page.get_by_text(action, exact=True).first
                button.wait_for()
                box = button.bounding_box()
                self.assertLess(box["y"] + box["height"], fold)
