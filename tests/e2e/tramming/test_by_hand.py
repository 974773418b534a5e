"""Without a probe, on the phone: from half a millimetre out of level to a first layer judged good, by paper only."""

import re

from playwright.sync_api import expect

from tests.fixtures.by_hand import ByHandCase


class ByHandTest(ByHandCase):
    def test_five_strips_that_will_not_move_are_never_level(self):
        page = self.page
        self.step("measure")
        for _ in range(5):
            page.get_by_role("button", name=re.compile("^will not move")).click()
        self.see("says only which way")
        with self.answered():
            self.press("Store these 5 readings")
        verdict = page.get_by_role("region", name="Verdict")
        expect(verdict).to_contain_text("Not known yet")
        expect(verdict.get_by_role("link", name="Level at the bench")).to_be_visible()
        self.step("level")
        self.see("Nothing is planned on a guess")

    def test_a_stuck_strip_sends_the_tip_up(self):
        page = self.page
        self.step("offset")
        page.get_by_label("In the printer, mm").fill("-1.75")
        self.press("This is what stands there")
        page.get_by_text("Feel at one height").click()
        page.get_by_label("Z on the display, mm").fill("0.10")
        with self.answered():
            page.get_by_role("button", name=re.compile("^will not move")).click()
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("Go up and feel again")
        expect(result.get_by_role("button", name="I stored this")).to_have_count(0)
        expect(page.get_by_label("Z on the display, mm")).to_have_value("0.20")

    def test_a_true_reading_everywhere_plans_at_once(self):
        """Lower until it drags, by keyboard."""
        page = self.page
        self.step("measure")
        page.get_by_text("Lower until it drags", exact=True).click()
        box = page.get_by_label("Z at which it just drags, mm")
        places = self.get(f"/api/printers/{self.printer['id']}/pattern?kind=screws")["names"]
        for name in places:
            z = 1.0
            while self.hands.feel("centre" if name == "middle" else name, z) == "free":
                z = round(z - 0.05, 3)
            box.fill(f"{z:.2f}")
            box.press("Enter")
        self.press("Store these 5 readings")
        verdict = page.get_by_role("region", name="Verdict")
        expect(verdict).to_contain_text("Turn the screws")
        self.step("level")
        with self.answered():
            self.press("I did this")
        visit = self.get(f"/api/visits/{self.visit['id']}")
        for screw in visit["rounds"][-1]["turning"]["screws"]:
            knob = next(k for k in self.machine.bed.knobs if k.name == screw["name"])
            knob.turn(screw["done"])
        self.assertLess(self.hands.out_of_level(), 0.10)
