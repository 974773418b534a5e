"""Cases from complaint to closed, in the browser."""

import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key

SHEET = {"name": "Sheet", "kind": "smooth_pei", "thickness": 0.8, "prints_since_wash": 25}


class CaseCase(ApiMixin, BrowserCase):
    def setUp(self):
        super().setUp()
        self.printer, self.visit = self.printer_and_visit(surfaces=[SHEET], materials=["PLA"])
        body = {"material": "PLA", "surface": "Sheet", "surface_kind": "smooth_pei", "bed_temperature": 60}
        answer = self.page.request.patch(
            f"{self.base}/api/visits/{self.visit['id']}", data=body | {"version": self.visit["version"]}
        )
        self.assertEqual(answer.status, 200, answer.text())

    def open(self, words, *seen, **absent):
        """Fill in and open a case."""
        page = self.page
        self.go(f"/printers/{self.printer['id']}/cases/new")
        page.get_by_label("In your own words").fill(words)
        for ask in seen:
            self.sign(ask, "yes")
        for ask in absent.get("absent", ()):
            self.sign(ask, "no")
        self.press("Open the case")
        page.wait_for_url(re.compile(r"/cases/\d+$"))
        page.get_by_role("heading", name=words).wait_for()

    def sign(self, ask, answer):
        find = self.page.get_by_label("Find a sign")
        find.fill(ask)
        self.page.locator(f'.part-found [aria-label="{ask}: {answer}"]').click()
        find.fill("")

    def do_check(self, title, outcome):
        """Do a check, the proposed one or another."""
        page = self.page
        look = page.get_by_role("button", name="Look further first")
        if look.count():
            look.click()
        step = page.get_by_role("region", name="Next check")
        step.wait_for()
        if not step.get_by_role("heading", name=re.compile(f"^Next: {title}", re.I)).count():
            step.get_by_text("Do another one").click()
            step.get_by_role("button", name=re.compile(f"^{title}", re.I)).click()
        step.get_by_role("heading", name=re.compile(f"^Next: {title}", re.I)).wait_for()
        step.get_by_role("button", name=re.compile(f"^{outcome}")).click()
        self.see("Noted.")

    def try_remedy(self, better=True):
        page = self.page
        page.get_by_role("region", name="Next step").get_by_role("button", name="I try this").click()
        page.get_by_role("region", name="Under way").wait_for()
        self.press("It is better" if better else "No better")

    def close(self, note):
        page = self.page
        page.get_by_label("What mended it").fill(note)
        page.get_by_role("region", name="Close the case").get_by_role("button", name="Close the case").click()
        page.get_by_role("region", name="Closed").wait_for()


class ThreeCasesTest(CaseCase):
    def test_oily_spots(self):
        page = self.page
        self.open(
            "Bare spots in the labels",
            "Round bare spots",
            "Good everywhere else",
            absent=["Gaps between the lines"],
        )
        expect(
            page.get_by_text("Most likely: skin oil").or_(page.get_by_text("Almost surely: skin oil"))
        ).to_be_visible()
        self.see("25 prints since the last wash")
        self.do_check("Look along the light", "Finger marks")
        self.try_remedy()
        self.see("It was this: skin oil or dirt on the plate.")
        self.close("Dish soap.")
        self.see("It was: skin oil or dirt on the plate")
        self.go("/cases")
        self.see("it was: skin oil or dirt on the plate")
        page.get_by_label("Find a case").fill("nothing of the kind")
        self.see("No case fits.")

    def test_too_far_after_a_firmware_change(self):
        page = self.page
        self.post(
            f"/api/printers/{self.printer['id']}/offset",
            {"client_key": key(), "parts": {"printer": -1.2}, "visit_id": self.visit["id"]},
        )
        self.post(f"/api/printers/{self.printer['id']}/changes", {"client_key": key(), "what": "firmware"})
        self.go(f"/printers/{self.printer['id']}/cases/new")
        expect(page.get_by_label("Firmware updated")).to_be_checked()
        self.open(
            "All round since the update",
            "Lines round, lying on top",
            "All wrong since nozzle, probe or firmware was changed",
        )
        self.see("Distance from probe to nozzle wrong or lost")
        self.see("the firmware was updated since")
        self.do_check("Paper at the centre", "The paper slides freely")
        cause = page.get_by_role("region", name="Causes").locator("li", has_text="Distance from probe").first
        cause.get_by_text("Remedy", exact=True).click()
        cause.get_by_role("button", name="I try this").click()
        page.get_by_role("region", name="Under way").wait_for()
        self.press("It is better")
        self.see("It was this: distance from probe to nozzle wrong or lost.")
        self.close("Offset set anew.")
        self.see("It was: distance from probe to nozzle wrong or lost")

    def test_a_heater_that_loses_against_its_fan(self):
        page = self.page
        self.open("Halts at layer two", "Temperature drops when the fan starts, print halts")
        self.see("Heater cannot hold")
        page.get_by_role("alert", name="Leave the heaters off").wait_for()
        self.press("I have looked at all of it: go on to the causes")
        self.see("Noted. From here on causes are looked for.")
        self.do_check("Look at the heater block", "The sock is off")
        step = page.get_by_role("region", name="Next step")
        expect(step).to_contain_text("Never switch thermal-runaway protection off")
        self.try_remedy(better=False)
        self.see("It was not this:")
        self.see("No better")
        page.get_by_role("button", name=re.compile("^Take back: Remedy")).click()
        self.see("Taken back.")
        self.press("Undo")
        self.see("Undone.")
        self.press("Close the case")
        self.choose("Cause", "Heater cannot hold (sock off, fan blows on the block)")
        self.close("The new sock sits.")


class CarefulTest(CaseCase):
    allowed_errors = ("409",)

    def test_half_a_case_survives_a_reload_and_the_place_is_tapped(self):
        page = self.page
        self.go(f"/printers/{self.printer['id']}/cases/new")
        self.press("Open the case")
        self.see("Say in your words what happened")
        self.sign("Gaps between the lines", "yes")
        page.get_by_label("In your own words").fill("Half of it")
        box = page.get_by_role("region", name="Where").locator("svg").first.bounding_box()
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.see("y 1")  # about 110
        page.reload()
        expect(page.get_by_label("In your own words")).to_have_value("Half of it")
        page.get_by_label("Find a sign").fill("gaps between")
        expect(page.locator('.part-found [aria-label="Gaps between the lines: yes"]')).to_have_attribute(
            "aria-pressed", "true"
        )
        self.press("Open the case")
        page.get_by_role("region", name="Causes").get_by_text("Nozzle too far overall").wait_for()
        found = self.get(f"/api/cases/{page.url.rsplit('/', 1)[1]}")
        self.assertAlmostEqual(found["place"]["x"], 110, delta=3)

    def test_two_changes_at_once_are_recorded_as_such(self):
        page = self.page
        self.open("Corners come up", "Corners lift later on")
        causes = page.get_by_role("region", name="Causes")
        first = causes.locator("li").first
        first.get_by_text("Remedy").click()
        first.get_by_label("Changed at the same time, if anything").fill("washed the plate")
        self.see("nobody can say which one did it")
        first.get_by_role("button", name="I try this").click()
        self.see("Changed with it: washed the plate")
        self.press("It is better")
        self.see("nobody can say why")

    def test_signs_can_be_answered_and_taken_back_by_keyboard(self):
        page = self.page
        self.open("Something")
        button = page.locator('.part-lines [aria-label="Gaps between the lines: yes"]')
        page.locator(".part-lines .el-collapse-item__header").press("Enter")
        button.press("Enter")
        self.see("Seen: Gaps between the lines")
        self.see("nozzle too far overall")
        page.get_by_role("button", name="Take back: Seen: Gaps between the lines").press("Enter")
        self.see("Nothing yet.")


class OwnWordsTest(CaseCase):
    def test_a_sentence_is_heard_and_an_alarm_does_not_wait(self):
        page = self.page
        self.go(f"/printers/{self.printer['id']}/cases/new")
        page.get_by_label("In your own words").fill("The tip scraped the plate, no gaps between the lines")
        alarm = page.get_by_role("alert", name="Stop the print now")
        alarm.wait_for()  # before anything is confirmed
        heard = page.get_by_role("group", name="Did you mean")
        heard.get_by_role("button", name="Tip scrapes the plate: confirm").click()
        heard.get_by_role("button", name="Gaps between the lines: deny").click()
        expect(heard).to_have_count(0)
        page.get_by_text("What was tried already").click()
        page.get_by_role("radiogroup", name="Levelled again").get_by_text("No better").click()
        self.press("Correct it")
        page.get_by_label("First-layer speed, mm/s").fill("80")
        self.press("Keep")
        self.see("first-layer speed 80 mm/s")
        self.press("Open the case")
        page.wait_for_url(re.compile(r"/cases/\d+$"))
        alarm.wait_for()
        expect(page.get_by_role("region", name=re.compile("^Next"))).to_have_count(0)
        self.see("The first layer is set to 80 mm/s")
        self.press("I have looked at all of it: go on to the causes")
        page.get_by_role("region", name=re.compile("^Next")).wait_for()
        self.see("Tried before: levelled again: no better")

    def test_what_was_not_confirmed_is_asked_for_in_the_case(self):
        page = self.page
        self.open("The extruder clicks on the first layer")
        heard = page.get_by_role("group", name="Did you mean")
        heard.get_by_role("button", name="Extruder clicks only on the first layer: confirm").click()
        self.see("Seen: Extruder clicks only on the first layer")
        expect(page.get_by_role("region", name="Causes").locator("li").first).to_contain_text(
            "Nozzle too close overall"
        )

    def test_steps_of_the_offset_with_the_number_to_type(self):
        page = self.page
        self.post(
            f"/api/printers/{self.printer['id']}/offset",
            {"client_key": key(), "parts": {"printer": -1.2}, "visit_id": self.visit["id"]},
        )
        self.open("Lines roll off", "Gaps between the lines", "Lines round, lying on top")
        cause = page.get_by_role("region", name="Causes").locator("li").first
        cause.get_by_text("Remedy", exact=True).click()
        cause.get_by_role("button", name="I try this").click()
        self.see("type −1.22 mm")
        self.press("A little better")
        self.see("Another step of the same size.")
        step = page.get_by_role("region", name="Next step")
        expect(step).to_contain_text("type −1.24 mm")
        step.get_by_role("button", name="I try this").click()
        page.get_by_role("region", name="Under way").wait_for()
        self.press("No better")
        self.see("Type −1.22 mm again.")
        history = self.get(f"/api/printers/{self.printer['id']}/offset")
        self.assertIn("-1.22", str(history))


class TablesOnAPhoneTest(CaseCase):
    viewport = PHONE

    def test_nothing_stands_beyond_the_edge(self):
        """A table of many columns stands as short lists, each value beside its name."""
        page = self.page
        for path, opens in (("/table", None), ("/beliefs", "Nozzle too far overall")):
            with self.subTest(path):
                self.go(path)
                if opens:
                    page.locator(".fold .el-collapse-item__header", has_text=opens).click()
                name = "By mistake" if opens else "Between"
                expect(page.locator(f'.table [data-head="{name}"]').first).to_be_visible()
                room = page.locator(".table").first.evaluate("e => [e.scrollWidth, e.clientWidth]")
                self.assertLessEqual(room[0], room[1])
                self.assertLessEqual(self.overflow(), 0)


class LookUpTest(CaseCase):
    def test_table_part_and_beliefs(self):
        page = self.page
        self.go("/table")
        page.get_by_text("TPU", exact=True).click()
        self.see("bonds too well")
        page.get_by_text("Add what holds here").click()
        self.choose("Surface", "Smooth PEI sheet")
        page.get_by_label("Bed from, °C").fill("44")
        self.press("Write down for TPU")
        self.see("from and to")
        page.get_by_label("Bed to, °C").fill("48")
        self.press("Write down for TPU")
        self.see("44 to 48 °C")
        self.go("/part")
        for label, value in (
            ("Foot, width, mm", "8"),
            ("Foot, depth, mm", "8"),
            ("Height, mm", "120"),
            ("First layer, mm/s", "180"),
            ("Part, g", "90"),
            ("Price of a kilogram", "30"),
        ):
            page.get_by_label(label, exact=True).fill(value)
        self.see("Brim: 9 mm")
        self.see("180 mm/s is far too fast")
        self.see("A failed print costs 2.70.")
        self.go("/beliefs")
        self.see("moved by 0 closed cases")
        with page.expect_download() as download:
            page.get_by_role("link", name="Export your counts").click()
        page.locator("input[type=file]").set_input_files(
            {
                "name": "reed.json",
                "mimeType": "application/json",
                "buffer": download.value.path().read_bytes(),
            }
        )
        self.see("reed: 0 cases")
        page.locator("input[type=file]").set_input_files(
            {"name": "x.json", "mimeType": "application/json", "buffer": b"{"}
        )
        self.see("This file is no JSON")


class PhoneTest(CaseCase):
    viewport = PHONE

    def test_a_case_with_the_thumb(self):
        page = self.page
        self.open("Bare spots", "Round bare spots")
        self.assertLessEqual(self.overflow(), 0)
        step = page.get_by_role("region", name=re.compile("^Next"))
        causes = page.get_by_role("region", name="Causes")
        # what to do comes before why
        self.assertLess(step.bounding_box()["y"], causes.bounding_box()["y"])
        for button in step.get_by_role("button").all():
            if button.is_visible():
                self.assertGreaterEqual(button.bounding_box()["height"], 24)
