"""Levelling from end to end: tired springs in two rounds, foil under pads, a dome that no knob takes out."""

import re

import numpy as np
from playwright.sync_api import expect

from finchwort.core.printers import Bed, Screw, suggest_points
from finchwort.demo.workshop import Plate
from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase


def lines(survey) -> str:
    """Write readings as a person would paste them."""
    rows = zip(survey.x, survey.y, survey.height, strict=True)
    return "x;y;height\n" + "\n".join(f"{x:g};{y:g};{h:.3f}" for x, y, h in rows)


class LevellingCase(ApiMixin, BrowserCase):
    demo = True

    def card(self, name):
        return next(c for c in self.get("/api/workshop")["cards"] if c["printer"]["name"] == name)

    def paste(self, survey):
        """Paste readings into the measuring step and store them."""
        self.page.get_by_text("Paste or drop text").click()
        self.page.get_by_label("Paste your readings, or drop a file here").fill(lines(survey))
        self.press(f"Store these {len(survey)} readings")
        self.page.wait_for_url("**/judge")

    def rounds(self, visit):
        return self.get(f"/api/visits/{visit}")["rounds"]


class TiredSpringsTest(LevellingCase):
    """The bed is a stiff plate on springs of different strength, with turns lost in each knob."""

    def test_two_recorded_rounds_bring_it_level(self):
        visit = self.card("Bittern")["open_visit"]
        printer = self.get(f"/api/printers/{self.card('Bittern')['printer']['id']}")["printer"]
        bed = Bed(240, 200, "front_left", 255, 215)
        rng = np.random.default_rng(11)
        plate = Plate(bed, lambda u, v: 0.03 * (u**2 + v**2) - 0.02, 0.012, rng)
        plate.stiffness, plate.lost = (1.0, 1.25, 0.7, 1.1), 0.04
        plate.slopes = np.array([-0.43 / 240, 0.37 / 200])
        screws = [Screw(s["name"], s["x"], s["y"], 0.7) for s in printer["screws"]]
        tilts = [self.tilt(plate)]
        for number in range(2):
            self.go(f"/visits/{visit}/level")
            self.see("Turn like this")
            expect(self.page.locator(".outlook dd").first).to_contain_text("±")
            self.press("I did this")
            self.page.wait_for_url("**/measure")
            done = {s["name"]: s["done"] for s in self.rounds(visit)[number]["turning"]["screws"]}
            plate.turn(screws, [done[screw.name] for screw in screws])
            self.paste(plate.measure(suggest_points(bed, 5, 5)))
            tilts.append(self.tilt(plate))
        self.assertGreater(tilts[0], 0.7)
        self.assertLess(tilts[1], tilts[0] / 3)
        self.assertLess(tilts[-1], 0.06)
        self.see("Leave the screws alone.")
        self.go(f"/visits/{visit}/level")
        self.see("Leave all screws as they are")
        # what the rounds taught is on the printer's page
        self.go(f"/printers/{printer['id']}")
        expect(self.page.get_by_role("region", name="What the knobs do")).to_contain_text("of what it should")

    @staticmethod
    def tilt(plate):
        return float(np.abs(plate.slopes * (240, 200)).sum())

    def test_knobs_are_tried_in_thought_with_the_keyboard(self):
        visit = self.card("Bittern")["open_visit"]
        self.go(f"/visits/{visit}/level")
        self.press("What if you turned otherwise?")
        part = self.page.get_by_role("region", name="What if")
        expect(part.locator("tbody tr")).to_have_count(1)
        self.press("Keep to compare")
        expect(part.locator("tbody tr")).to_have_count(2)
        self.press("All at rest")
        first = part.locator("tbody tr").first
        expect(first).to_contain_text("0.00 at 0")
        before = self.rounds(visit)[0]["survey"]
        knob = part.get_by_role("slider", name="front left knob")
        knob.focus()
        for _ in range(3):
            self.page.keyboard.press("ArrowUp")
        expect(knob).to_have_attribute("aria-valuenow", re.compile(r"^-?0\.375$"))
        expect(first).to_contain_text("0.38 at 1")
        self.press("I turned it like this")
        form = self.page.get_by_label("Steps at front left")
        expect(form).to_have_value("3")
        self.assertIsNone(self.rounds(visit)[0]["turning"])
        self.press("I did this")
        self.page.wait_for_url("**/measure")
        done = {s["name"]: s["done"] for s in self.rounds(visit)[0]["turning"]["screws"]}
        self.assertEqual((abs(done.pop("front left")), set(done.values())), (0.375, {0.0}))
        self.assertEqual(before["id"], self.rounds(visit)[0]["survey"]["id"])

    def take_reading(self, place, index):
        """Choose the reading of this index as one of the three of the plane."""
        self.choose(f"Reading {place} of the plane", self.readings[index])

    def test_another_plane_another_plan(self):
        self.allowed_errors = ("422",)  # three readings in a line, on purpose
        visit = self.card("Bittern")["open_visit"]
        found = self.get(f"/api/surveys/{self.rounds(visit)[-1]['survey']['id']}/map")
        self.readings = [f"x {x:.0f}, y {y:.0f}" for x, y in zip(found["x"], found["y"], strict=True)]
        self.go(f"/visits/{visit}/level")
        self.page.get_by_label("Tightest band").check()
        expect(self.page.locator("label.plane.chosen")).to_contain_text("Tightest band")
        self.page.get_by_label("Three readings").check()
        for place, value in enumerate((0, 2, 4)):
            self.take_reading(place + 1, value)
        expect(self.page.get_by_role("alert")).to_contain_text("line")
        third = self.page.locator(
            ".el-select", has=self.page.get_by_role("combobox", name="Reading 3 of the plane")
        )
        expect(third).to_contain_text(self.readings[4])
        self.take_reading(3, 22)
        expect(self.page.get_by_role("alert")).to_have_count(0)
        self.see("Turn like this")
        self.take_reading(2, 1)
        self.take_reading(3, 2)
        expect(self.page.get_by_role("alert")).to_contain_text("line")
        self.press("Back to all readings")
        expect(self.page.locator("label.plane.chosen")).to_contain_text("All readings")
        self.see("Turn like this")

    def test_mended_knobs_are_learned_anew_and_that_can_be_undone(self):
        printer = self.card("Bittern")["printer"]["id"]
        self.go(f"/printers/{printer}")
        rounds = self.get(f"/api/printers/{printer}/learned")["rounds"]
        self.assertGreater(rounds, 0)
        self.press("I mended the knobs or springs")
        self.page.get_by_label("What was mended?").fill("New springs all round")
        self.press("Learn again from now on")
        self.see("No round of this bed is known yet")
        self.assertEqual(self.get(f"/api/printers/{printer}/learned")["rounds"], 0)
        self.press("Undo")
        expect(self.page.get_by_role("region", name="What the knobs do")).not_to_contain_text(
            "No round of this bed is known yet"
        )
        self.assertEqual(self.get(f"/api/printers/{printer}/learned")["rounds"], rounds)


class PadsTest(LevellingCase):
    """Four pads, a drawer of foil, no screws."""

    def plate(self):
        bed = Bed(165, 165, "centre", 175, 175)
        plate = Plate(bed, lambda u, v: 0.025 * u * v + 0.01 * u**2, 0.008, np.random.default_rng(5))
        plate.slopes = np.array([0.12 / 165, -0.26 / 165])
        return bed, plate

    def test_foil_is_planned_laid_and_measured(self):
        visit = self.card("Water Rail")["open_visit"]
        self.go(f"/visits/{visit}/level")
        self.see("Lay foil like this")
        table = self.page.get_by_role("region", name="Foil under the pads").get_by_role("table").first
        expect(table.get_by_role("row")).to_have_count(5)
        self.page.get_by_text("With this foil").click()
        self.page.get_by_role("img", name="With this foil").wait_for()
        self.press("I laid it like this")
        self.page.wait_for_url("**/measure")
        self.see("Measure again")
        laid = self.rounds(visit)[0]["adjustments"][0]
        self.assertEqual(laid["kind"], "shims")
        planned = self.get(f"/api/surveys/{self.rounds(visit)[0]['survey']['id']}/shims")
        # what was planned lies there now
        stacks = {s["name"]: s for s in planned["stacks"]}
        bed, plate = self.plate()
        ends = np.array([[s["x"], s["y"], 1.0] for s in stacks.values()])
        first = {"front left": [], "front right": [0.2], "back right": [0.1], "back left": []}
        rise = [sum(s["now"]) - sum(first[name]) for name, s in stacks.items()]
        self.assertGreater(np.ptp(rise), 0.1)
        plate.slopes = plate.slopes + np.linalg.lstsq(ends, np.array(rise), rcond=None)[0][:2]
        self.paste(plate.measure(suggest_points(bed, 5, 5)))
        spread = self.rounds(visit)[1]["survey"]["peak_to_valley"]
        self.assertLess(spread, 0.13)
        self.assertLess(float(np.abs(plate.slopes * 165).sum()), 0.06)
        self.go(f"/visits/{visit}/level")
        self.see("Leave the pads as they are")

    def test_something_else_was_laid_and_bad_words_are_told(self):
        visit = self.card("Water Rail")["open_visit"]
        self.go(f"/visits/{visit}/level")
        self.press("I laid something else")
        group = self.page.locator(".stacks .one").filter(has_text="back left")
        field = group.get_by_role("combobox")
        field.fill("one sheet")
        field.press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("0.005 to 2 mm")
        while group.locator(".el-tag__close").count():
            group.locator(".el-tag__close").first.click()
        for size in ("0,2", "0.05"):
            field.fill(size)
            field.press("Enter")
            expect(group.locator(".el-tag").last).to_be_visible()
        expect(group.locator(".el-tag")).to_have_text(["0.2 mm", "0.05 mm"])
        self.assertEqual(self.rounds(visit)[0]["adjustments"], [])
        self.press("I laid it like this")
        self.page.wait_for_url("**/measure")
        self.assertIn("back left 0.2 + 0.05", self.rounds(visit)[0]["adjustments"][0]["detail"])
        self.press("Undo")
        self.see("Undone.")
        self.page.wait_for_function(
            f"fetch('/api/visits/{visit}').then(r => r.json()).then(v => !v.rounds[0].adjustments.length)"
        )

    def test_the_drawer_runs_empty(self):
        visit = self.card("Water Rail")["open_visit"]
        self.go(f"/visits/{visit}/level")
        self.page.get_by_text("Foil in the drawer").click()
        remove = self.page.get_by_role("button", name=re.compile("^Remove foil"))
        while remove.count():
            remove.first.click()
        self.press("Save the count")
        self.page.wait_for_function("fetch('/api/foils').then(r => r.json()).then(f => !f.foils.length)")
        # only what lies under the pads is left to plan with
        expect(self.page.get_by_role("region", name="Foil under the pads")).not_to_contain_text("0.25")


class PadsOnAPhoneTest(LevellingCase):
    viewport = PHONE

    def test_screens_of_this_step_fit(self):
        for name, step in (("Water Rail", "level"), ("Bittern", "level"), ("Bittern", "compensate")):
            with self.subTest(f"{name} {step}"):
                self.go(f"/visits/{self.card(name)['open_visit']}/{step}")
                self.page.get_by_role("heading", level=2).first.wait_for()
                self.assertLessEqual(self.overflow(), 0)

    def test_one_thumb_is_enough_to_record_a_round(self):
        visit = self.card("Bittern")["open_visit"]
        self.go(f"/visits/{visit}/level")
        self.follow("At the printer")
        page = self.page
        order = self.get(f"/api/surveys/{self.rounds(visit)[0]['survey']['id']}/plan")["order"]["names"]
        self.assertGreater(len(order), 1)
        for name in order:
            self.press("Next")
            expect(page.locator(".where")).to_have_text(name)
            self.assertLessEqual(self.overflow(), 0)
        self.press("Next")
        self.press("I did this")
        page.wait_for_url("**/measure")


class DomeTest(LevellingCase):
    """Three screws, a dome: no knob takes it out."""

    allowed_errors = ("422",)  # a mesh of 40 columns is refused

    def test_it_says_stop_turning_and_makes_a_mesh_that_goes_out_of_date(self):
        avocet = self.card("Avocet")["printer"]
        self.go(f"/printers/{avocet['id']}")
        self.press("Start a visit")
        self.page.wait_for_url("**/visits/*/**")
        visit = int(re.search(r"/visits/(\d+)", self.page.url)[1])
        bed = Bed(330, 310, "front_left", 340, 325)
        rng = np.random.default_rng(3)
        plate = Plate(bed, lambda u, v: 0.1 - 0.07 * u**2 - 0.09 * v**2, 0.006, rng)
        plate.slopes = np.array([0.03 / 330, -0.02 / 310])
        self.go(f"/visits/{visit}/measure")
        self.paste(plate.measure(suggest_points(bed, 7, 7)))
        self.see("no screw takes it out. Compensation can deal with it.")
        left = self.page.get_by_role("region", name="What is left")
        expect(left).to_contain_text("% of the first layer")
        expect(left).to_contain_text("Compensation")
        self.go(f"/visits/{visit}/level")
        self.see("Leave all screws as they are")
        beam = self.page.get_by_role("region", name="Cross beam")
        expect(beam).to_be_visible()

        self.go(f"/visits/{visit}/compensate")
        self.see("7 × 7 points")
        self.press("This mesh is in the machine")
        self.see("It still holds.")
        with self.page.expect_download() as download:
            self.follow("Commands")
        text = download.value.path().read_text()
        self.assertTrue(text.strip())
        self.page.get_by_label("Columns").fill("40")
        self.page.get_by_label("Columns").press("Enter")
        expect(self.page.get_by_role("alert")).to_contain_text("25")
        self.page.get_by_label("Columns").fill("5")
        self.page.get_by_label("Columns").press("Enter")
        self.see("5 × 7 points")

        # another bed temperature outdates it; so does a knob
        survey = self.rounds(visit)[0]["survey"]["id"]
        plan = self.get(f"/api/surveys/{survey}/plan")
        name = plan["turns"][0]["name"]
        self.go(f"/visits/{visit}/level")
        expect(self.page.get_by_role("button", name="I did this")).to_have_count(0)
        self.press("I turned something all the same")
        self.choose(f"What you did at {name}", "tightened")
        self.page.get_by_label(f"Steps at {name}").fill("1")
        self.press("I did this")
        self.page.wait_for_url("**/measure")
        self.go(f"/visits/{visit}/compensate")
        self.see("Out of date.")
        self.see("The bed was moved after this survey.")
