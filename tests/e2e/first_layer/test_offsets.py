"""From paper to a stored Z offset, in the browser."""

import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.journeys import Trim


class OffsetTest(ApiMixin, BrowserCase):
    def setUp(self):
        super().setUp()
        self.printer, self.visit = self.printer_and_visit(offset_kept=["printer", "slicer"])
        self.go(f"/visits/{self.visit['id']}/offset")
        self.see("No offset is written down yet")

    def offset(self):
        return self.get(f"/api/visits/{self.visit['id']}/offset")

    def write(self, printer, slicer):
        self.page.get_by_label("In the printer, mm").fill(printer)
        self.page.get_by_label("In the slicer's profile, mm").fill(slicer)
        self.press("This is what stands there")

    def test_from_paper_to_a_stored_offset(self):
        page = self.page
        self.write("about one", "0")
        expect(page.get_by_role("alert")).to_contain_text("as a number in mm")
        expect(page.get_by_label("In the printer, mm")).to_have_value("about one")
        self.write("-1,20", "-1.2")
        self.see("very likely one value that counts twice")
        self.write("-1,20", "")
        self.see("Z offset −1.20 mm")
        page.get_by_text("The strip: 0.10 mm, assumed").click()
        page.get_by_label("Strip, mm thick").fill("0.08")
        page.get_by_text("Feel at one height").click()
        page.get_by_label("Z on the display, mm").fill("0")
        page.get_by_role("button", name="slight drag").click()
        self.see("Go 0.08 mm closer")
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("Type −1.28 mm into the printer")
        self.press("I stored this")
        self.see("Z offset −1.28 mm")
        expect(page.get_by_role("table")).to_contain_text("0.08 mm closer")
        self.press("Undo")
        self.see("Z offset −1.20 mm")
        self.assertEqual(len(self.offset()["history"]), 2)

    def test_patches_by_keyboard(self):
        page = self.page
        page.get_by_text("Printed patches").click()
        for i, (spot, text) in enumerate(
            [
                ("middle", "0.25 0.26 0.24"),
                ("front left", "0,24 0,25 0,26"),
                ("back right", "0.26;0.25;0.25"),
            ],
            1,
        ):
            if i > 1:
                self.press("Add a patch")
            self.choose(f"Place of patch {i}", spot)
            page.get_by_label(f"Caliper readings of patch {i}, mm").fill("thin" if i == 3 else text)
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("at the back right")
        page.get_by_label("Caliper readings of patch 3, mm").fill("0.26;0.25;0.25")
        page.keyboard.press("Enter")
        self.see("Go 0.05 mm closer")
        self.see("Write down what stands in the machine now")
        expect(page.get_by_role("button", name="I stored this")).to_have_count(0)
        self.write("-1.5", "0")
        self.see("Z offset −1.50 mm")
        self.press("What does that make?")
        self.press("I stored this")
        self.see("by measured patches")
        self.assertAlmostEqual(self.offset()["total"], -1.55)

    def test_contact_is_refused(self):
        self.survey(self.visit, 0.8)
        self.go(f"/visits/{self.visit['id']}/offset")
        self.page.get_by_text("Feel at one height").click()
        self.page.get_by_label("Z on the display, mm").fill("0")
        self.page.get_by_role("button", name="slight drag").click()
        self.see("Do not use this offset")
        expect(self.page.get_by_role("button", name="I stored this")).to_have_count(0)
        self.follow("See the first layer before you print")
        self.see("Do not print at this height")


class TrimOnAPhoneTest(Trim, ApiMixin, BrowserCase):
    viewport = PHONE


class OvertakenTest(ApiMixin, BrowserCase):
    def test_an_older_answer_that_comes_last_changes_nothing(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/offset")
        page = self.page
        page.get_by_label("In the printer, mm").fill("0")
        self.press("This is what stands there")
        self.see("Z offset 0.00 mm")
        page.get_by_text("While it prints").click()
        held = []
        page.route("**/offset/trim", lambda route: held.append(route) if not held else route.continue_())
        self.press("closer by 0.05 mm")
        self.press("farther by 0.02 mm")
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("Type −0.03")
        with page.expect_response("**/offset/trim"):
            held[0].continue_()
        self.settle(page)
        expect(result).to_contain_text("Type −0.03")
        self.press("I stored this")
        self.see("Z offset −0.03 mm")


class UndoTest(ApiMixin, BrowserCase):
    def test_undo_undoes_the_last_thing_done_when_an_older_one_is_slow(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/offset")
        page = self.page
        page.get_by_label("In the printer, mm").fill("-1.20")
        self.press("This is what stands there")
        self.see("Z offset −1.20 mm")
        page.get_by_text("Feel at one height").click()
        page.get_by_label("Z on the display, mm").fill("0")
        held, known = [], []
        page.route(
            "**/api/visits/*/offset", lambda route: held.append(route) if not held else route.continue_()
        )
        page.get_by_role("button", name="slight drag").click()
        self.see("Go 0.10 mm closer")
        page.route("**/offset/known*", lambda route: known.append(route))
        self.press("I stored this")
        self.see("Z offset −1.30 mm")
        expect(page.get_by_role("button", name="Undo", exact=True)).to_have_count(0)
        page.unroute("**/offset/known*")
        for route in known:
            route.continue_()
        self.press("Undo")
        self.see("Z offset −1.20 mm")


class LadderTest(ApiMixin, BrowserCase):
    """Two ladders, judged by somebody whose best offset is 0.06 mm farther."""

    LIMITS = (0.07, 0.03, -0.03, -0.07)

    def judge(self, best):
        """Judge every rung on the screen; ``best`` counts from the present offset."""
        rungs = self.page.locator("fieldset.rung")
        rungs.first.wait_for()
        for rung in rungs.all():
            words = rung.locator("legend b").inner_text()
            size = float(words.split()[0]) if words != "as it is" else 0.0
            away = (-size if "closer" in words else size) - best
            # the label is what a finger hits
            rung.locator("label").nth(sum(away < limit for limit in self.LIMITS)).click()
        self.page.get_by_role("button", name=re.compile("^Judge ")).click()

    def test_an_offset_is_found_with_two_ladders(self):
        page = self.page
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/offset")
        page.get_by_label("In the printer, mm").fill("-1")
        self.press("This is what stands there")
        self.see("Z offset −1.00 mm")
        page.get_by_text("Judged ladder").click()
        page.locator("fieldset.rung").first.locator("label").first.click()
        page.reload()
        page.get_by_text("Judged ladder").click()
        expect(page.locator("fieldset.rung").first.get_by_role("radio").first).to_be_checked()
        self.judge(0.06)
        self.see("1 ladder judged")
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("farther")
        self.judge(0.06)
        self.see("2 ladders judged")
        found = self.get(f"/api/visits/{visit['id']}/ladder")
        self.assertTrue(found["done"])
        self.assertAlmostEqual(found["best"], 0.06, delta=0.015)
        self.press("I stored this")
        self.see("by a judged ladder")
        self.see("Leave it")
        total = self.get(f"/api/visits/{visit['id']}/offset")["total"]
        self.assertAlmostEqual(total, -0.94, delta=0.0151)
