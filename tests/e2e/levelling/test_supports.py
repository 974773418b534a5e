"""Every machine gets its card: foil, tape, one lead screw, the mean alone; pads and clips in the set-up."""

import json
import math
import urllib.request

from playwright.sync_api import expect

from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.support import key, tilted_points

PADS = [
    {"name": "front left", "x": 12, "y": 12},
    {"name": "front right", "x": 208, "y": 12},
    {"name": "back", "x": 110, "y": 208},
]


class SupportsCase(BrowserCase):
    def ask(self, method, path, body=None):
        data = None if body is None else json.dumps(body).encode()
        asked = urllib.request.Request(
            self.base + path, data, {"Content-Type": "application/json"}, method=method
        )
        with urllib.request.urlopen(asked) as answer:
            return json.load(answer)

    def begin(self, points, **printer):
        """Set up a printer without screws, with a visit and its readings; returns both ids."""
        body = {"name": "Garganey", "width": 220, "depth": 220, "screws": []} | printer
        made = self.ask("POST", "/api/printers", body)
        visit = self.ask("POST", f"/api/printers/{made['id']}/visits", {})["id"]
        self.ask("POST", f"/api/visits/{visit}/surveys", {"client_key": key(), "points": points})
        return made["id"], visit

    def adjusted(self, visit):
        return self.ask("GET", f"/api/visits/{visit}")["rounds"][0]["adjustments"]

    def foil(self):
        foils = [{"thickness": 0.1, "count": 9}, {"thickness": 0.05, "count": 4}]
        version = self.ask("GET", "/api/foils")["version"]
        self.ask("PUT", "/api/foils", {"foils": foils, "version": version})

    def drawer(self):
        return {f["thickness"]: f["count"] for f in self.ask("GET", "/api/foils")["foils"]}


class CardsOnAPhoneTest(SupportsCase):
    viewport = PHONE

    def cards(self, visit):
        self.go(f"/visits/{visit}/at-printer")

    def next(self):
        self.page.get_by_role("button", name="Next", exact=True).click()

    def test_foil_from_pad_to_pad_and_out_of_the_drawer(self):
        self.foil()
        _, visit = self.begin(tilted_points(0.4, -0.2), pads=PADS)
        self.cards(visit)
        expect(self.page.locator(".caution")).to_contain_text("cool")
        seen = []
        self.next()
        while not self.page.get_by_role("button", name="I laid it like this").count():
            seen.append(self.page.locator(".where").inner_text())
            expect(self.page.get_by_role("heading")).to_contain_text("Lay")
            self.next()
        self.assertLessEqual(set(seen), {p["name"] for p in PADS})
        self.assertGreater(len(seen), 1)
        self.press("I laid it like this")
        self.page.wait_for_url("**/measure")
        self.see("Measure again: round 2")
        expect(self.page.get_by_text("nothing was turned since")).to_have_count(0)
        self.see("Pads and middle")
        laid = self.adjusted(visit)[0]
        self.assertEqual(laid["kind"], "shims")
        left = self.drawer()
        self.assertLess(left[0.1] + left[0.05], 13)
        self.press("Undo")
        self.see("Undone.")
        self.page.wait_for_function(
            "fetch('/api/foils').then(r => r.json()).then(f => f.foils.reduce((n, one) => n + one.count, 0) === 13)"
        )

    def test_by_keyboard(self):
        self.foil()
        _, visit = self.begin(tilted_points(0.4, -0.2), pads=PADS)
        self.cards(visit)
        self.page.keyboard.press("ArrowRight")
        expect(self.page.locator(".where")).to_be_visible()
        self.page.keyboard.press("ArrowLeft")
        expect(self.page.locator(".where")).to_have_count(0)
        self.page.keyboard.press("Escape")
        self.page.wait_for_url("**/level")

    def test_an_empty_drawer_says_so(self):
        _, visit = self.begin(tilted_points(0.4, -0.2), pads=PADS)
        self.complaints.clear()
        self.cards(visit)
        expect(self.page.get_by_role("alert")).to_contain_text("foil")

    allowed_errors = ("422",)

    def test_one_lead_screw(self):
        _, visit = self.begin(tilted_points(0.5, 0.0), beam_screws=1)
        self.cards(visit)
        expect(self.page.get_by_role("heading")).to_contain_text("right")
        for _ in range(4):
            self.next()
        self.press("Right end up")
        self.page.wait_for_url("**/measure")
        self.assertIn("right end", self.adjusted(visit)[0]["detail"])

    def test_two_lead_screws(self):
        _, visit = self.begin(tilted_points(0.5, 0.0), beam_screws=2, beam_carries="nozzle")
        self.cards(visit)
        self.next()
        expect(self.page.locator(".where")).to_have_text("right screw")
        self.next()
        self.page.get_by_role("button", name="Right screw up").click()
        self.page.wait_for_url("**/measure")
        self.assertEqual(self.adjusted(visit)[0]["kind"], "beam")

    def test_tape_where_nothing_turns(self):
        dip = [
            p | {"value": round(-0.2 * math.exp(-((p["x"] - 62) ** 2 + (p["y"] - 62) ** 2) / 4000), 4)}
            for p in tilted_points(0.0)
        ]
        _, visit = self.begin(dip)
        self.cards(visit)
        self.next()
        expect(self.page.get_by_role("heading")).to_contain_text("tape")
        self.next()
        while not self.page.get_by_role("button", name="I laid the tape").count():
            self.next()
        self.press("I laid the tape")
        self.page.wait_for_url("**/measure")
        self.assertEqual(self.adjusted(visit)[0]["kind"], "tape")

    def test_nothing_to_do_says_what_can_be_done(self):
        _, visit = self.begin(tilted_points(0.0))
        self.cards(visit)
        expect(self.page.get_by_role("heading")).to_contain_text("Nothing to turn")
        expect(self.page.get_by_role("button", name="Next", exact=True)).to_have_count(0)

    def test_the_mean_in_numbers_and_no_mesh(self):
        _, visit = self.begin(tilted_points(0.0, 0, 0.12), compensation="mean")
        # no step of the route is called a mesh, but the numbers are one tap from the map and from the offset
        self.go(f"/visits/{visit}/offset")
        self.follow("By how much")
        self.page.wait_for_url("**/compensate")
        self.go(f"/visits/{visit}/judge")
        self.follow("What its mean does to this bed")
        self.page.wait_for_url("**/compensate")
        region = self.page.get_by_role("region", name="The mean alone")
        expect(region.get_by_role("row")).to_have_count(7)
        self.assertNotIn("mesh", self.page.get_by_role("main").inner_text().lower())
        wide = self.page.evaluate("document.documentElement.scrollWidth")
        self.assertLessEqual(wide, PHONE["width"])


class TapeOnSpringsTest(SupportsCase):
    def test_a_plate_on_springs_gets_tape_too(self):
        screws = [
            {"name": n, "x": x, "y": y, "thread": "M4", "pitch": 0.7}
            for n, x, y in (("a", 10, 10), ("b", 210, 10), ("c", 210, 210), ("d", 10, 210))
        ]
        _, visit = self.begin(tilted_points(0.0, 0, -0.4), screws=screws, surfaces=[])
        self.go(f"/visits/{visit}/judge")
        panel = self.page.get_by_role("group", name="Tape under the plate")
        self.page.get_by_text("Where, and how much").first.click()
        expect(panel).to_contain_text("in the middle")
        thick = panel.get_by_label("One layer of tape, mm")
        before = panel.get_by_role("listitem").first.inner_text()
        thick.fill("0.15")
        thick.press("Enter")
        expect(panel.get_by_role("listitem").first).not_to_have_text(before)
        thick.fill("15")
        thick.press("Enter")
        self.see("Tape is 0.02 to 0.5 mm thick.")
        self.press("I laid the tape")
        self.page.wait_for_url("**/measure")
        self.assertEqual(self.adjusted(visit)[0]["kind"], "tape")


class SetUpTest(SupportsCase):
    allowed_errors = ("422",)

    def test_nine_pads_and_a_clip(self):
        page = self.page
        self.go("/printers/new")
        page.get_by_label("Name", exact=True).fill("Gadwall")
        page.get_by_text("Pads, shimmed").click()
        expect(page.get_by_label("Name of pad 4")).to_be_visible()
        add = page.get_by_role("button", name="Add a pad")
        for _ in range(5):
            add.click()
        expect(add).to_be_disabled()
        for i, (x, y) in enumerate(((110, 10), (210, 110), (110, 210), (10, 110), (110, 110))):
            name = page.get_by_label(f"Name of pad {5 + i}")
            name.fill(f"own {i}")
            page.get_by_label(f"X of own {i}").fill(str(x))
            page.get_by_label(f"Y of own {i}").fill(str(y))
        page.get_by_role("button", name="Remove own 4").click()
        page.get_by_role("button", name="Add a clip or another place").click()
        right = page.get_by_label("clip 1, to X, mm")
        right.fill("90")
        self.press("Save this printer")
        expect(page.get_by_role("alert")).to_contain_text("clip 1")
        right.fill("120")
        expect(page.locator("title", has_text="clip 1: nothing goes there")).to_have_count(1)
        self.press("Save this printer")
        self.see("Gadwall is set up.")
        made = next(c["printer"] for c in self.ask("GET", "/api/workshop")["cards"])
        printer = self.ask("GET", f"/api/printers/{made['id']}")["printer"]
        self.assertEqual(len(printer["pads"]), 8)
        self.assertIn({"name": "own 3", "x": 10, "y": 110, "foils": []}, printer["pads"])
        self.assertEqual(printer["keep_off"][0]["x_max"], 120)

    def test_foil_that_lies_there_is_set_right(self):
        self.foil()
        printer, visit = self.begin(tilted_points(0.4, -0.2), pads=PADS)
        self.go(f"/visits/{visit}/level")
        self.press("Something else lies there")
        box = self.page.locator(".stacks .one").filter(has_text="back").get_by_role("combobox")
        box.fill("0.3")
        box.press("Enter")
        self.press("Plan by this")
        self.see("Set right")
        pads = self.ask("GET", f"/api/printers/{printer}")["printer"]["pads"]
        self.assertEqual([p["foils"] for p in pads], [[], [], [0.3]])
        self.assertEqual(self.drawer(), {0.1: 9, 0.05: 4})
        self.assertEqual(self.adjusted(visit), [])

    def test_kitchen_foil_is_measured_and_folded(self):
        _, visit = self.begin(tilted_points(0.06), pads=PADS)
        self.go(f"/visits/{visit}/level")
        self.page.get_by_text("Measure it, or use kitchen foil").click()
        self.page.get_by_label("Together, mm").fill("0,16")
        self.page.locator(".fold .fold .el-checkbox, .fold .foil .el-checkbox").last.click()
        self.press("Add it")
        self.see("One piece is 0.016")
        self.press("Save the count")
        expect(self.page.get_by_role("region", name="Foil under the pads")).to_contain_text("kitchen foil")
