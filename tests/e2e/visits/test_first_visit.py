"""A person's first evening: a printer, readings, a plan, turns, readings again, the book tomorrow."""

import re

from playwright.sync_api import expect

from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key, tilted_points


def text_of(points) -> str:
    return "x;y;height\n" + "\n".join(
        f"{p['x']:g};{p['y']:g};{p['value']:.3f}".replace(".", ",") for p in points
    )


class FirstVisitTest(ApiMixin, BrowserCase):
    def test_from_nothing_to_the_logbook(self):
        page = self.page
        self.go("/")
        self.see("Begin with your printer")
        self.press("Everything on one page")
        page.get_by_label("Name", exact=True).fill("Marsh Harrier")
        page.get_by_label("Printable width (X), mm").fill("220")
        page.get_by_label("Printable depth (Y), mm").fill("220")
        self.press("Save this printer")
        self.see("Marsh Harrier is set up.")
        self.press("Start a visit")
        self.follow("Straight to measuring")

        page.get_by_text("Paste or drop text").click()
        page.get_by_label("Paste your readings, or drop a file here").fill(text_of(tilted_points(0.6, -0.3)))
        self.see("25 readings, 0.90 mm from highest to lowest.")
        for corner in ("front left", "front right", "back left", "back right"):
            page.locator("svg.map text", has_text=corner).wait_for()
        self.press("Store these 25 readings")

        page.wait_for_url("**/judge")
        self.see("Turn the screws first.")
        self.see("+0.69 mm")  # tilt over the whole width, not only between the readings
        self.follow("Show me what to turn")
        page.wait_for_url("**/level")
        self.see("Turn like this")
        self.see("as you see it")
        page.get_by_text("After this plan").click()
        page.get_by_role("img", name="After this plan").wait_for()
        survey = self.get("/api/logbook?kind=survey")["entries"][0]
        visit = survey["visit_id"]
        rounds = self.get(f"/api/visits/{visit}")["rounds"]
        plan = self.get(f"/api/surveys/{rounds[0]['survey']['id']}/plan")
        self.press("I did this")
        page.wait_for_url("**/measure")
        self.see("Measure again: round 2")
        self.see("out of date")

        page.get_by_text("Paste or drop text").click()
        page.get_by_label("Paste your readings, or drop a file here").fill(text_of(tilted_points(0.04, 0.02)))
        self.press("Store these 25 readings")
        page.wait_for_url("**/judge")
        self.see("Leave the screws alone.")
        self.see("What the last turning did")
        # level: now the offset, as the trade goes on; who wants to stop here can
        expect(page.get_by_role("link", name="On to the Z offset", exact=True)).to_be_visible()
        page.get_by_role("navigation", name="Route of this visit").get_by_role("link", name="Close").click()
        expect(page.get_by_role("link", name="On to the Z offset", exact=True)).to_be_visible()
        page.get_by_label("Note for the logbook").fill("Level after one round.")
        self.press("Close this visit")
        self.see("How it ended")
        self.see("Rounds side by side")

        page.get_by_role("navigation", name="Main").get_by_role("link", name="Logbook").click()
        self.see("Visit closed: Level")
        self.see("Level after one round.")
        self.see("screws turned")
        page.get_by_label("Search the logbook").fill("harrier loosened")
        expect(page.locator("li.verdict")).to_have_count(0)
        expect(page.locator("li.turning")).to_have_count(1)
        done = {
            s["name"]: s["done"] for s in self.get(f"/api/visits/{visit}")["rounds"][0]["turning"]["screws"]
        }
        self.assertEqual(done, {t["name"]: t["rounded"] for t in plan["turns"]})

    def test_something_else_was_turned(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.5)
        self.go(f"/visits/{visit['id']}/level")
        self.press("I turned something else")
        page = self.page
        self.choose("What you did at front left", "tightened")
        page.get_by_label("Steps at front left").fill("2")
        self.choose("What you did at front right", "not turned")
        self.press("I did this")
        page.wait_for_url("**/measure")
        done = {
            s["name"]: s["done"]
            for s in self.get(f"/api/visits/{visit['id']}")["rounds"][0]["turning"]["screws"]
        }
        self.assertEqual((done["front left"], done["front right"]), (0.25, 0))

    def test_a_round_that_did_not_help_says_why(self):
        _, visit = self.printer_and_visit()
        survey = self.survey(visit, 0.8, 0.0)
        plan = self.get(f"/api/surveys/{survey['id']}/plan")
        done = {t["name"]: t["rounded"] for t in plan["turns"]}
        self.post(f"/api/surveys/{survey['id']}/turnings", {"client_key": key(), "done": done})
        self.survey(visit, 1.6, 0.0)
        self.go(f"/visits/{visit['id']}/judge")
        self.see("The bed moved the opposite way.")
        self.see("Not better: 0.80 mm before, 1.60 mm now.")

    def test_an_open_visit_is_gone_on_with(self):
        printer, visit = self.printer_and_visit()
        self.survey(visit, 0.5)
        self.go(f"/printers/{printer['id']}")
        expect(self.page.get_by_role("button", name="Start another")).to_be_visible()
        self.follow("Go on with the visit")
        self.page.wait_for_url(f"**/visits/{visit['id']}")
        self.see("Turn like this")

    def test_readings_beside_the_plate_are_doubted(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.get_by_text("Paste or drop text").click()
        self.page.get_by_label("Paste your readings, or drop a file here").fill(
            "-95 -95 0.1\n95 -95 0\n95 95 -0.1\n-95 95 0"
        )
        self.see("All would lie on it if X 0, Y 0 were in the middle")
        self.follow("To the set-up")
        self.see("Where is X 0, Y 0?")

    def test_holds_change_the_plan(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        self.go(f"/visits/{visit['id']}/level")
        self.see("The Z offset stays right, as nearly as whole steps")
        self.choose("Plan with", "Only tighten")
        self.see("For springs that are too loose.")
        self.see("the nozzle ends up farther")
        expect(self.page.locator(".turns .loosen")).to_have_count(0)

    def test_hover_reads_any_place(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        self.go(f"/visits/{visit['id']}/judge")
        box = self.page.locator("svg.map").bounding_box()
        self.page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        self.page.locator("svg.map").get_by_text("x 110 y 110: 0.00 mm").wait_for()

    def test_pictures_and_tables_can_be_saved(self):
        _, visit = self.printer_and_visit()
        self.survey(visit, 0.6)
        self.go(f"/visits/{visit['id']}/judge")
        for name in ("SVG", "PNG"):
            with self.page.expect_download() as waiting:
                self.press(name)
            data = waiting.value.path().read_bytes()
            self.assertTrue(data.startswith(b"<svg" if name == "SVG" else b"\x89PNG"))
            self.assertGreater(len(data), 4000)
        with self.page.expect_download() as waiting:
            self.follow("CSV")
        self.assertEqual(len(waiting.value.path().read_text().splitlines()), 26)

    def test_bad_text_is_told_and_kept(self):
        self.allowed_errors = ("422",)  # the browser reports the refused text
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.get_by_text("Paste or drop text").click()
        box = self.page.get_by_label("Paste your readings, or drop a file here")
        box.fill("10 10 0.1\n50 50 0.1\n90 90 0.2\n120 120 0.2")
        self.see("All readings lie on one line")
        expect(box).to_have_value(re.compile("90 90 0.2"))
        box.fill("15 15 0.1\n200 fifteen 0.1\n200 200 0.2\n15 200 0\n200 15 0")
        self.see("1 line could not be read")
        self.see("“fifteen” is not a number.")
        self.see("4 readings")

    def test_corrections_in_one_tap(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        page = self.page
        page.get_by_text("Paste or drop text").click()
        page.get_by_label("Paste your readings, or drop a file here").fill(
            "400 300 200\n300 200 100\n200 100 0"
        )
        self.see("taken as micrometres")
        self.see("front row")
        self.press("Swap front and back")
        self.see("taken as the back row")
        self.press("Swap left and right")
        page.get_by_text("Gaps", exact=True).click()
        page.get_by_label("Right X").fill("200")
        page.get_by_label("Right X").press("Tab")
        self.press("Store these 9 readings")
        page.wait_for_url("**/judge")
        survey = self.get(f"/api/visits/{visit['id']}")["rounds"][0]["survey"]
        shown = self.get(f"/api/surveys/{survey['id']}/map")
        at = {(x, y): z for x, y, z in zip(shown["x"], shown["y"], shown["measured"], strict=True)}
        self.assertEqual(at[(200, 205)], -0.4)
        self.assertEqual(at[(15, 15)], 0)

    def test_a_bound_being_typed_is_not_overwritten(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        page = self.page
        page.get_by_text("Paste or drop text").click()
        page.get_by_label("Paste your readings, or drop a file here").fill("0.1 0.2\n0.3 0.1")
        self.see("4 readings")
        held = []
        page.route("**/preview", lambda route: held.append(route))
        self.press("Swap left and right")
        page.get_by_label("Right X").fill("20")
        for _ in range(100):
            if held:
                break
            page.wait_for_timeout(50)
        held[0].continue_()
        expect(page.get_by_role("button", name="Store these 4 readings")).to_be_enabled()
        expect(page.get_by_label("Right X")).to_have_value("20")

    def test_a_file(self):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.get_by_text("Paste or drop text").click()
        data = text_of(tilted_points(0.2)).encode()
        field = self.page.locator("input[type=file]")
        field.set_input_files({"name": "bed.csv", "mimeType": "text/csv", "buffer": data})
        self.see("25 readings")
        field.set_input_files({"name": "huge.csv", "mimeType": "text/csv", "buffer": b"1 " * 600_000})
        self.see("larger than 1 MB")
        self.press("Store these 25 readings")
        self.page.wait_for_url("**/judge")
        self.assertEqual(self.get(f"/api/visits/{visit['id']}")["rounds"][0]["survey"]["source"], "file")


class PhoneTest(ApiMixin, BrowserCase):
    viewport = PHONE

    def test_tap_type_turn(self):
        """On a phone: tap the bed, type, store, and go through the card at the printer."""
        page = self.page
        printer, _ = self.printer_and_visit()
        self.go("/")
        self.follow("Walk round the machine")
        page.wait_for_url("**/visits/*")
        self.follow("Straight to measuring")
        self.choose("#pattern", "Only where I tap")
        self.see("Tap the bed where you measured.")
        bed = page.locator("svg.map")
        for share_x, share_y, value in (
            (0.2, 0.8, "0,30"),
            (0.8, 0.8, "0,05"),
            (0.8, 0.2, "−0,20"),
            (0.2, 0.2, "0.05"),
        ):
            bed.scroll_into_view_if_needed()
            box = bed.bounding_box()
            bed.click(position={"x": box["width"] * share_x, "y": box["height"] * share_y})
            page.locator("#reading").fill(value)
        self.assertLessEqual(self.overflow(), 0)
        self.press("Store these 4 readings")
        page.wait_for_url("**/judge")
        self.assertLessEqual(self.overflow(), 0)
        self.follow("Show me what to turn")
        self.follow("At the printer")
        self.see("knobs to turn")
        self.see("The bed is hot.")
        heading = page.get_by_role("heading", level=1)
        while (said := heading.inner_text()) != "All turned?":
            self.press("Next")
            expect(heading).not_to_have_text(said)
            if heading.inner_text() != "All turned?":
                where = page.locator(".where").inner_text()
                page.get_by_role("img", name=f"The {where} knob on the bed").wait_for()
            self.assertLessEqual(self.overflow(), 0)
        size = page.get_by_role("button", name="I did this").bounding_box()
        self.assertGreaterEqual(size["height"], 60)
        self.press("I did this")
        page.wait_for_url("**/measure")
        self.see("Measure again: round 2")
        self.press("Undo")
        self.see("Undone.")
        self.assertEqual(self.get(f"/api/logbook?kind=turning&printer={printer['id']}")["entries"], [])
