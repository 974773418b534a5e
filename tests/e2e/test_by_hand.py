"""Without a probe, on the phone: from half a millimetre out of level to a first layer judged good, by paper only."""

import re

from playwright.sync_api import expect

from finchwort.link.simulated.firmware import Firmware
from finchwort.link.simulated.physics import Bed
from finchwort.link.simulated.serve import Simulator
from tests.e2e.browser import PHONE, BrowserCase
from tests.e2e.test_first_visit import ApiMixin
from tests.gcode_reader import read

WORDS = {
    "free": "slides freely",
    "slight": "slight drag",
    "strong": "strong drag",
    "bunches": "pulls, but bunches",
    "stuck": "will not move",
}
LOOKS = {
    "far_too_far": "far too far",
    "too_far": "too far",
    "good": "good",
    "too_close": "too close",
    "far_too_close": "far too close",
    "scraped": "far too close",
}
POSTS = [("front left", 10, 10), ("front right", 210, 10), ("back right", 210, 210), ("back left", 10, 210)]


class Hands:
    """Somebody at the simulated printer, with a strip of paper."""

    def __init__(self, machine):
        self.machine = machine
        self.turnings = 0

    def place(self, name):
        x, y = next(((x, y) for n, x, y in POSTS if n == name), (110, 110))
        return min(max(x, 15), 205), min(max(y, 15), 205)

    def feel(self, name, z):
        self.machine.by_hand(*self.place(name), z)
        return self.machine.paper()

    def turn_until_drags(self, name, way, z):
        """Turn slowly in the direction told until the strip just drags."""
        knob = next(k for k in self.machine.bed.knobs if k.name == name)
        self.turnings += 1
        for _ in range(200):
            if self.feel(name, z) == "slight":
                return
            knob.turn(way / 32)
        raise AssertionError(f"{name} never drags: the wrong way?")

    def lower_until_drags(self, z, step):
        while self.feel("centre", z) == "free":
            z = round(z - step, 3)
        return z

    def out_of_level(self):
        x, y = zip(*(self.place(name) for name, *_ in POSTS), strict=True)
        heights = self.machine.bed.height(list(x), list(y))
        return float(max(heights) - min(heights))


class ByHandTest(ApiMixin, BrowserCase):
    viewport = PHONE
    allowed_errors = ("422",)

    def setUp(self):
        super().setUp()
        self.simulator = Simulator(firmware=Firmware(7, 1500.0)).start()
        self.addCleanup(self.simulator.stop)
        self.machine = self.simulator.firmware
        self.machine.bed = Bed(tilt_x=0.34, tilt_y=-0.26, dome=0.0, twist=0.02)
        self.machine.bed.bed_target = 60.0
        self.machine.bed.warm(7200)
        self.hands = Hands(self.machine)
        screws = [{"name": n, "x": x, "y": y, "thread": "M4", "pitch": 0.7} for n, x, y in POSTS]
        self.printer, self.visit = self.printer_and_visit(
            width=220,
            depth=220,
            plate_width=220,
            plate_depth=220,
            screws=screws,
            probe_kind="none",
            zero_kept="switch",
            surfaces=[{"name": "Sheet", "kind": "smooth_pei", "thickness": 0.5}],
            materials=["PLA"],
        )
        visit = self.get(f"/api/visits/{self.visit['id']}")
        body = {"material": "PLA", "surface": "Sheet", "surface_kind": "smooth_pei", "bed_temperature": 60}
        body |= {"nozzle_temperature": 205, "version": visit["version"]}
        answer = self.page.request.patch(f"{self.base}/api/visits/{self.visit['id']}", data=body)
        self.assertEqual(answer.status, 200, answer.text())

    def step(self, name):
        self.go(f"/visits/{self.visit['id']}/{name}")

    def level(self, z):
        """Do what the card says, one thing after the other."""
        heading = self.page.get_by_role("heading", level=1)
        for turn in range(60):
            # what is read must be the answer to what was tapped last
            expect(self.page.locator(f"[data-steps='{turn}']")).to_be_visible()
            said = heading.inner_text()
            if said == "All felt":
                return turn
            if told := re.fullmatch(r"(Tighten|Loosen) (.+)", said):
                self.hands.turn_until_drags(told[2], 1 if told[1] == "Tighten" else -1, z)
                with self.answered():
                    self.press("It just drags now")
            else:
                where = "centre" if said == "Now the centre" else re.fullmatch(r"Go to (.+)", said)[1]
                feel = self.hands.feel(where, z)
                with self.answered():
                    self.page.get_by_role("button", name=re.compile(f"^{WORDS[feel]}")).click()
            if turn == 2:  # left in the middle of it, and resumed
                self.page.reload()
                self.page.wait_for_load_state("networkidle")
        self.fail("It never ends.")

    def answered(self):
        """Wait for the answer to what was tapped, and for the card that follows from it."""
        return _Answered(self.page)

    def look(self):
        """Print patches, and tap how each looks."""
        self.step("offset")
        page = self.page
        page.get_by_text("Printed patches").click()
        page.get_by_text("Let the printer print the patches").click()
        link = page.get_by_role("link", name="Download")
        expect(link).to_be_visible()
        with page.expect_download() as download:
            link.click()
        text = download.value.path().read_text()
        self.assertGreater(len(read(text).moves), 100)
        self.machine.insert("patches.gcode", text)
        for _ in range(2400):
            if not self.machine.card:
                break
            page.wait_for_timeout(50)
        looks = [one["look"] for one in self.machine.sheet.looks()]
        self.assertEqual(len(looks), 5)
        places = ("front left", "front right", "middle", "back right", "back left")
        self.step("looks")
        for place, look in zip(places, looks, strict=True):
            page.get_by_role("group", name="Places on the bed").get_by_text(place, exact=True).click()
            page.get_by_role("button", name=re.compile(f"^{place}: {LOOKS[look]},")).click()
        with self.answered():
            self.press("What follows from 5?")
        return looks

    def from_half_a_millimetre_out_to_a_good_first_layer(self):
        """Walked over the road that a phone takes, see test_over_the_network."""
        hands, page = self.hands, self.page
        self.assertGreater(hands.out_of_level(), 0.45)
        self.step("level")
        self.follow("Level at the bench")
        self.press("I am ready")
        expect(page.get_by_role("heading", level=1)).to_have_text(re.compile("^Go to"))
        height = 0.25
        self.level(height)
        self.assertLess(hands.out_of_level(), 0.06)
        self.assertLessEqual(hands.turnings, 10)
        self.assertEqual(self.overflow(), 0)
        page.get_by_role("button", name=re.compile("^Store it")).click()
        self.see("Highest to lowest")
        expect(page.get_by_role("region", name="Verdict")).to_contain_text("Level")

        # the offset: home, then lower until the strip drags
        self.machine.lines.put("G28")
        for _ in range(400):
            if self.machine.homed:
                break
            page.wait_for_timeout(25)
        self.assertTrue(self.machine.homed)
        self.step("offset")
        page.get_by_label("In the printer, mm").fill("-1.75")
        self.press("This is what stands there")
        z = hands.lower_until_drags(0.6, 0.05)
        page.get_by_label("Z on the display, mm").fill(f"{z:.2f}")
        self.press("It just drags here")
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("The Z switch")
        self.store_offset(result)
        for _ in range(4):
            looks = self.look()
            if set(looks) == {"good"}:
                break
            answer = page.get_by_role("region", name="What follows")
            expect(answer).to_contain_text(re.compile("Trim|Tighten|Loosen"))
            self.assertNotIn("scraped", looks)
            said = answer.inner_text()
            told = re.search(r"Trim (\d\.\d\d) mm (closer|farther)", said)
            self.assertIsNotNone(told, said)
            self.trim(float(told[1]), told[2])
        self.assertEqual(set(looks), {"good"})
        self.see("Leave everything as it is")

    def store_offset(self, result):
        value = float(result.locator(".type-in b").last.inner_text().replace("−", "-"))
        self.machine.offset = self.machine.stored_offset = value
        with self.answered():
            result.get_by_role("button", name="I stored this").click()

    def trim(self, size, way):
        self.step("offset")
        self.page.get_by_text("While it prints", exact=True).click()
        for step in (0.02, 0.01) if size < 0.04 else (0.02, 0.02):
            if size >= step - 1e-9:
                with self.answered():
                    self.press(f"{way} by {step:.2f} mm")
                size -= step
        # what was trimmed survives a reload
        self.page.reload()
        self.page.wait_for_load_state("networkidle")
        self.page.get_by_text("While it prints", exact=True).click()
        result = self.page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("You went")
        self.store_offset(result)

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


class _Answered:
    """Wait until the pages have asked for everything anew after a change."""

    def __init__(self, page):
        self.page = page

    def __enter__(self):
        self.waiting = self.page.expect_response(lambda r: r.request.method in ("POST", "PATCH"))
        self.waiting.__enter__()

    def __exit__(self, *args):
        done = self.waiting.__exit__(*args)
        self.page.wait_for_load_state("networkidle")
        return done
