"""The first layer, seen before it is printed."""

import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key


class FirstLayerTest(ApiMixin, BrowserCase):
    demo = True
    allowed_errors = ("422",)  # a line narrower than the layer is high, on purpose

    def card(self, name):
        return next(c for c in self.get("/api/workshop")["cards"] if c["printer"]["name"] == name)

    def share(self):
        """The share of the bed that the heading promises."""
        title = self.page.get_by_role("region", name="What to expect").get_by_role("heading")
        expect(title).to_contain_text("Good")
        found = re.search(r"(\d+) %", title.inner_text())
        return int(found[1]) if found else 100

    def test_a_dome_before_and_after_compensation(self):
        visit = self.card("Avocet")["history"][0]["id"]
        self.go(f"/visits/{visit}/judge")
        self.follow("See the first layer before you print")
        page = self.page
        page.get_by_role("img", name=re.compile("^First layer")).wait_for()
        before = self.share()
        page.get_by_text("With compensation").click()
        expect(page.get_by_role("heading", name="Good all over the bed")).to_be_visible()
        self.assertLess(before, 90)
        self.assertEqual(self.share(), 100)

    def test_a_dip_at_the_back_right_before_and_after_compensation(self):
        page = self.page
        _, visit = self.printer_and_visit(name="Grebe", compensation="mesh")
        places = [(x, y) for y in range(15, 206, 38) for x in range(15, 206, 38)]
        dip = [
            (x, y, -0.14 if (x, y) in ((167, 205), (205, 167), (205, 205), (167, 167)) else 0.0)
            for x, y in places
        ]
        self.post(
            f"/api/visits/{visit['id']}/surveys",
            {"client_key": key(), "points": [{"x": x, "y": y, "value": v} for x, y, v in dip]},
        )
        self.go(f"/visits/{visit['id']}/first-layer")
        expect(page.get_by_role("heading", name=re.compile("Good on [78]"))).to_be_visible()
        page.get_by_text("farthest", exact=True).click()
        self.see("At the back right.")
        self.see("lines part by")
        page.get_by_text("With compensation").click()
        expect(page.get_by_role("heading", name=re.compile("Good on 9|Good all"))).to_be_visible()

    def test_the_tip_is_moved_by_keyboard_and_the_bead_follows(self):
        visit = self.card("Avocet")["history"][0]["id"]
        self.go(f"/visits/{visit}/first-layer")
        page = self.page
        bead = page.get_by_role("region", name="Bead")
        expect(bead).to_contain_text("In a gap of 0.20 mm")
        slider = page.get_by_role("slider")
        slider.focus()
        for _ in range(5):
            page.keyboard.press("ArrowLeft")
        expect(slider).to_have_attribute("aria-valuetext", "0.05 mm closer than right in the middle")
        expect(bead).to_contain_text("In a gap of 0.15 mm")
        expect(bead).to_contain_text("ridges")
        for _ in range(17):
            page.keyboard.press("ArrowLeft")
        self.see("Do not print at this height")
        self.press("Where most is good")
        expect(page.get_by_role("heading", name=re.compile("^Good on"))).to_be_visible()
        self.assertGreater(self.share(), 30)

    def test_a_line_that_cannot_be_is_told_and_nothing_is_lost(self):
        visit = self.card("Bittern")["open_visit"]
        self.go(f"/visits/{visit}/first-layer")
        self.see("Do not print at this height")
        field = self.page.get_by_label("Line width, mm")
        field.fill("0.15")
        field.press("Enter")
        expect(self.page.get_by_role("alert").first).to_contain_text("wider than the layer is high")
        expect(self.page.get_by_role("region", name="Bead")).to_be_visible()
        field.fill("0,6")
        field.press("Enter")
        self.see("lines 0.557 mm apart")


class PhoneTest(FirstLayerTest):
    viewport = PHONE

    def test_a_dome_before_and_after_compensation(self):
        super().test_a_dome_before_and_after_compensation()
        self.assertLessEqual(self.overflow(), 0)

    # once at a desk is enough
    test_a_dip_at_the_back_right_before_and_after_compensation = None
    test_the_tip_is_moved_by_keyboard_and_the_bead_follows = None
    test_a_line_that_cannot_be_is_told_and_nothing_is_lost = None
