"""The whole slice without a mouse."""

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import BrowserCase


class KeyboardTest(ApiMixin, BrowserCase):
    def test_set_up_measure_plan_turn_and_close(self):
        page = self.page
        self.go("/")
        self.tab_to("Add a printer")
        page.keyboard.press("Enter")
        page.wait_for_url("**/printers/new")
        page.get_by_label("Name", exact=True).wait_for()
        self.tab_to("Name")
        page.keyboard.type("Snipe")
        page.keyboard.press("Enter")
        self.see("Snipe is set up.")
        self.tab_to("Start a visit")
        page.keyboard.press("Enter")
        page.wait_for_url("**/sound")
        self.tab_to("Straight to measuring")
        page.keyboard.press("Enter")
        page.wait_for_url("**/measure")

        # without a probe paper comes first; typed readings are one arrow away
        page.get_by_role("radio", name="Paper or gauge").focus()
        page.keyboard.press("ArrowRight")
        expect(page.locator("#reading")).to_be_focused()
        # nine places, front left first, serpentine; low at the right
        for value in ("0.2", "0", "-0.2", "-0.2", "0.00", "0,2", ".2", "0", "-.2"):
            page.keyboard.type(value)
            page.keyboard.press("Enter")
        self.see("0.40 mm from highest to lowest so far.")
        page.keyboard.press("ArrowUp")
        self.tab_to("Store these 9 readings")
        page.keyboard.press("Enter")
        page.wait_for_url("**/judge")
        self.see("Turn the screws first.")

        page.keyboard.press("5")  # the steps of a printer without a probe: there is none to trust
        page.wait_for_url("**/level")
        self.see("Turn like this")
        page.keyboard.press("p")
        page.wait_for_url("**/at-printer**")
        self.see("knobs to turn")
        for _ in range(5):
            page.keyboard.press("ArrowRight")
        self.see("All turned?")
        self.tab_to("I did this")
        page.keyboard.press("Enter")
        page.wait_for_url("**/measure")
        expect(page.locator("#reading")).to_be_focused()
        for _ in range(9):
            page.keyboard.type("0.01")
            page.keyboard.press("Enter")
        self.tab_to("Store these 9 readings")
        page.keyboard.press("Enter")
        page.wait_for_url("**/judge")
        self.see("Leave the screws alone.")
        page.keyboard.press("8")
        page.wait_for_url("**/finish")
        self.tab_to("Close this visit")
        page.keyboard.press("Enter")
        self.see("How it ended")

    def test_map_is_read_with_arrow_keys(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        self.go(f"/visits/{visit['id']}/judge")
        self.page.locator("svg.map").focus()
        self.page.keyboard.press("ArrowRight")
        self.page.locator("svg.map").get_by_text("x 121 y 110: +0.03 mm").wait_for()

    def test_keys_are_listed_and_can_be_turned_off(self):
        page = self.page
        self.go("/")
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog", name="Keys")
        dialog.wait_for()
        dialog.get_by_label("Use single keys as shortcuts").uncheck()
        page.keyboard.press("Escape")
        dialog.wait_for(state="hidden")
        page.keyboard.press("l")
        self.settle()
        self.assertTrue(page.url.endswith("/"))
        self.press("Keys")
        page.get_by_label("Use single keys as shortcuts").check()
        page.keyboard.press("Escape")
        dialog.wait_for(state="hidden")
        page.keyboard.press("/")
        page.wait_for_url("**/logbook**")
        expect(page.locator("#search")).to_be_focused()

    def test_typing_is_never_taken_for_a_shortcut(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.locator("#reading").fill("")
        self.page.keyboard.type("0.14")
        self.assertTrue(self.page.url.endswith("/measure"))
        expect(self.page.locator("#reading")).to_have_value("0.14")
