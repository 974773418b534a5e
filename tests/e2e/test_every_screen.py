"""Every screen, light and dark, desk and phone: nothing serious by axe, nothing cut off."""

import json

from axe_playwright_python.sync_playwright import Axe

from tests.fixtures.axe import ONLY_BAD, SERIOUS
from tests.fixtures.browser import DESK, PHONE, BrowserCase

LAYOUT = [
    "color-contrast",
    "target-size",
    "scrollable-region-focusable",
    "link-in-text-block",
    "meta-viewport",
]


ZOOMED = {
    "twice as large": {"width": 640, "height": 400},
    "four times as large": {"width": 320, "height": 256},
}
"""What is left of a window of 1280 by 800, or 1024, pixels when it is enlarged (WCAG 2.2, 1.4.4 and 1.4.10)."""


class ScreensCase(BrowserCase):
    allowed_errors = ("422",)  # a test print that is refused on a tilted bed says so
    demo = True

    def screens(self):
        cards = {c["printer"]["name"]: c for c in self.fetch("/api/workshop")["cards"]}
        visit = cards["Bittern"]["open_visit"]
        printer = cards["Bittern"]["printer"]["id"]
        closed = max(cards["Bittern"]["history"], key=lambda v: v["surveys"])["id"]
        rail = cards["Water Rail"]["history"][0]["id"]
        avocet, snipe = cards["Avocet"], cards["Snipe"]["printer"]["id"]
        case = next(c for c in self.fetch("/api/cases")["cases"] if c["cause"] is None)["id"]
        ended = next(c for c in self.fetch("/api/cases")["cases"] if c["cause"])["id"]
        running = self.fetch("/api/prints/running")["prints"][0]["id"]
        failed = next(one for one in self.fetch("/api/prints")["prints"] if one["case_id"])["id"]
        tested = avocet["history"][0]["id"]
        return {
            "sound": f"/visits/{visit}/sound",
            "warm up": f"/visits/{visit}/warm",
            "trust": f"/visits/{tested}/trust",
            "keypad": f"/visits/{visit}/keypad",
            "at the line": f"/printers/{snipe}/machine",
            "no line": f"/printers/{printer}/machine",
            "printer with probe": f"/printers/{avocet['printer']['id']}",
            "workshop": "/",
            "printer": f"/printers/{printer}",
            "new printer": "/printers/new",
            "edit printer": f"/printers/{printer}/edit",
            "measure": f"/visits/{visit}/measure",
            "judge": f"/visits/{visit}/judge",
            "level": f"/visits/{visit}/level",
            "mesh": f"/visits/{tested}/compensate",
            "mesh of a bed without compensation": f"/visits/{visit}/compensate",
            "beam and dome": f"/visits/{tested}/level",
            "first layer": f"/visits/{tested}/first-layer",
            "first layer that scrapes": f"/visits/{visit}/first-layer",
            "offset": f"/visits/{visit}/offset",
            "sums": "/extrusion",
            "prints": "/prints",
            "what came of prints": "/prints/results",
            "begin a print": f"/printers/{printer}/print",
            "print": f"/prints/{running}",
            "print that failed": f"/prints/{failed}",
            "cases": "/cases",
            "case": f"/cases/{case}",
            "closed case": f"/cases/{ended}",
            "new case": f"/printers/{printer}/cases/new",
            "beliefs": "/beliefs",
            "surfaces": "/table",
            "part": "/part",
            "terms": "/terms",
            "close": f"/visits/{visit}/finish",
            "closed": f"/visits/{closed}/finish",
            "closed measure": f"/visits/{closed}/measure",
            "no screws": f"/visits/{rail}/level",
            "at the printer": f"/visits/{visit}/at-printer",
            "foil at the printer": f"/visits/{cards['Water Rail']['open_visit']}/at-printer",
            "foil": f"/visits/{cards['Water Rail']['open_visit']}/level",
            "pads and clips": f"/printers/{cards['Water Rail']['printer']['id']}/edit",
            "bench": f"/visits/{visit}/bench",
            "looks": f"/visits/{visit}/looks",
            "logbook": "/logbook",
            "devices": "/devices",
            "backups": "/backups",
            "begin": "/begin",
            "nowhere": "/somewhere/else",
        }

    def fetch(self, path):
        return self.page.request.get(self.base + path).json()

    def violations(self, page, **more):
        """Return what axe finds serious on a page it was loaded into."""
        options = json.dumps(ONLY_BAD | more)
        found = page.evaluate(f"axe.run(document, {options})")["violations"]
        return [
            f"{v['id']}: {v['nodes'][0]['html'][:160]} {v['nodes'][0].get('failureSummary', '')[:300]}"
            for v in found
            if v["impact"] in SERIOUS
        ]

    def fits(self, page):
        wide = page.evaluate("document.documentElement.scrollWidth - window.innerWidth")
        self.assertLessEqual(wide, 0, "the page is wider than its window")


class EveryScreen(ScreensCase):
    """Each screen by light at a desk; then a phone's size in the dark, where only layout and colours differ."""

    third: int

    def test_light_at_a_desk_and_dark_on_a_phone(self):
        page = self.spoil(self.page)
        asked = []
        page.on("request", lambda r: asked.append(r.url))
        for name, path in list(self.screens().items())[self.third :: 3]:
            page.emulate_media(color_scheme="light")
            page.set_viewport_size(DESK)
            with self.subTest(name):
                self.go(path, page)
                # of many alike the first few are enough
                page.evaluate(
                    "[...document.querySelectorAll('.el-collapse-item__header')].slice(0, 8)"
                    ".forEach((one) => one.getAttribute('aria-expanded') === 'true' || one.click())"
                )
                self.fits(page)
                page.evaluate(Axe().axe_script)
                self.assertEqual(self.violations(page), [])
            with self.subTest(name, on="phone"):
                page.set_viewport_size(PHONE)
                page.emulate_media(color_scheme="dark")
                page.locator("html.dark").wait_for()
                self.settle(page)
                self.still(page)
                self.fits(page)
                self.assertEqual(self.violations(page, runOnly=LAYOUT), [])
            for on, size in ZOOMED.items():
                with self.subTest(name, on=on):
                    page.set_viewport_size(size)
                    self.settle(page)
                    self.fits(page)
        self.assertTrue(asked)
        outside = [u for u in asked if not u.startswith((self.base, "data:", "blob:"))]
        self.assertEqual(outside, [], "something is fetched from elsewhere")


class FirstThirdTest(EveryScreen):
    third = 0


class SecondThirdTest(EveryScreen):
    third = 1


class LastThirdTest(EveryScreen):
    third = 2


# it is only what the three are made of
del EveryScreen


class DialogTest(ScreensCase):
    def test_dialogs(self):
        page = self.page
        visit = next(c["open_visit"] for c in self.fetch("/api/workshop")["cards"] if c["open_visit"])
        self.go(f"/visits/{visit}/level")
        page.get_by_role("button", name="Change surface").click()
        page.locator("#surface").wait_for()
        self.still()
        self.no_serious(page)
        page.keyboard.press("Escape")
        page.locator("#surface").wait_for(state="hidden")
        page.keyboard.press("?")
        page.get_by_role("dialog", name="Keys").wait_for()
        self.still()
        self.no_serious(page)

    def no_serious(self, page):
        found = Axe().run(page).response["violations"]
        self.assertEqual([v["id"] for v in found if v["impact"] in SERIOUS], [])

    def test_dark_ground_is_kept(self):
        self.go("/")
        self.press("Dark ground")
        self.page.reload()
        self.page.get_by_role("button", name="Light ground").wait_for()
        self.assertTrue(self.page.evaluate("document.documentElement.classList.contains('dark')"))


class OpenedTest(ScreensCase):
    """What opens over a page, or stands on it when something went wrong: on both grounds, at both sizes."""

    def looked_at(self):
        """Let axe look at what is open now, as it is and then in the other size and on the other ground."""
        page = self.page
        for size, ground in ((DESK, "light"), (PHONE, "dark")):
            page.set_viewport_size(size)
            page.emulate_media(color_scheme=ground)
            page.locator("html.dark" if ground == "dark" else "html:not(.dark)").wait_for()
            self.settle(page)
            self.still(page)
            self.assertEqual(self.violations(page), [], ground)
            self.fits(page)

    def open(self, path):
        self.page.set_viewport_size(DESK)
        self.page.emulate_media(color_scheme="light")
        self.go(path)
        self.page.evaluate(Axe().axe_script)

    def test_forms_in_error(self):
        page, screens = self.page, self.screens()
        self.open("/printers/new")
        page.get_by_label("Name", exact=True).fill("")
        page.get_by_role("textbox", name="Width").fill("wide")
        self.press("Save this printer")
        page.locator(".el-form-item__error").first.wait_for()
        self.looked_at()
        self.open(screens["measure"])
        page.get_by_text("Feeler gauge").click()
        page.locator("#slides").fill("thick")
        page.keyboard.press("Enter")
        self.see("This is no number.")
        self.see("1 of 5")
        self.looked_at()

    def test_messages_and_questions(self):
        page, screens = self.page, self.screens()
        self.open("/logbook")
        page.get_by_role("button", name="Delete the note").first.click()
        page.get_by_role("button", name="Undo").wait_for()
        self.looked_at()
        self.press("Undo")
        self.open(screens["printer"])
        self.press("Delete")
        page.get_by_role("button", name="Delete it").wait_for()
        self.looked_at()
        # it is told where it stands, and takes a key for no
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Delete it").wait_for(state="hidden")

    def test_what_opens_over_a_page(self):
        page, screens = self.page, self.screens()
        self.open("/logbook")
        page.get_by_placeholder("Up to the day").click()
        page.locator(".el-date-table").wait_for()
        self.looked_at()
        self.open("/")
        page.keyboard.press("Control+k")
        page.get_by_role("combobox", name="Find").wait_for()
        self.looked_at()
        self.open("/")
        page.get_by_role("button", name="All pages").click()
        page.get_by_role("navigation", name="All pages").wait_for()
        self.looked_at()
        self.open(screens["judge"])
        page.locator(".hint").first.click()
        page.locator(".term-card").wait_for()
        self.looked_at()
        self.open(screens["sound"])
        self.press("Something happened")
        page.get_by_role("dialog").wait_for()
        self.looked_at()
        self.open(screens["edit printer"])
        page.locator(".el-select__wrapper:has(#compensation)").click()
        page.locator(".el-select-dropdown").filter(visible=True).wait_for()
        self.looked_at()

    def test_who_wants_no_motion_gets_none(self):
        page = self.page
        page.emulate_media(reduced_motion="reduce")
        self.go("/")
        page.get_by_role("button", name="All pages").click()
        page.get_by_role("navigation", name="All pages").wait_for()
        moving = page.evaluate(
            """[...document.querySelectorAll('body *')].filter((one) => {
                const style = getComputedStyle(one)
                const longest = Math.max(...`${style.transitionDuration},${style.animationDuration}`
                    .split(',').map((told) => parseFloat(told) * (told.includes('ms') ? 1 : 1000)))
                return longest > 20
            }).map((one) => one.outerHTML.slice(0, 80))"""
        )
        self.assertEqual(moving, [])
