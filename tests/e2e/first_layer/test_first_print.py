"""From paper to a stored offset with one ladder: the file runs on the simulated printer, what it lays is judged."""

from playwright.sync_api import expect

from finchwort.core.first_layer import STEPS
from finchwort.link.simulated.physics import Bed
from tests.fixtures.gcode_reader import read
from tests.fixtures.live import LiveCase
from tests.fixtures.support import key


class FirstPrintTest(LiveCase):
    speed = 1500.0
    allowed_errors = ("422",)  # a file that is refused until somebody has looked

    def setUp(self):
        super().setUp()
        self.machine = self.simulator.firmware
        self.bed(tilt_x=0.02, tilt_y=-0.03)
        self.strip()
        self.hands = self.new_page(self.new_context())
        self.hands.goto(self.simulator.page)

    def bed(self, **shape):
        """A bed of that shape, warm through."""
        self.machine.bed = Bed(**{"twist": 0.0, "dome": 0.0} | shape)
        self.machine.bed.bed_target = 60.0
        self.machine.bed.warm(7200)

    def strip(self):
        visit = self.get(f"/api/visits/{self.visit['id']}")
        body = {"material": "PLA", "surface": "Sheet", "surface_kind": "smooth_pei", "bed_temperature": 60}
        body |= {"nozzle_temperature": 205, "version": visit["version"]}
        answer = self.page.request.patch(f"{self.base}/api/visits/{self.visit['id']}", data=body)
        self.assertEqual(answer.status, 200, answer.text())

    def print_file(self, summary, look=False):
        """Download the file of a panel, look into it, and put it into the simulated printer."""
        page, hands = self.page, self.hands
        page.get_by_text(summary).click()
        if look:
            self.see("Or feel with paper at the corners")
            self.press("Yes, it moves everywhere")
            self.see("Paper moved at Z = 0.15 mm at the corners")
        link = page.get_by_role("link", name="Download")
        expect(link).to_be_visible()
        with page.expect_download() as download:
            link.click()
        path = download.value.path()
        self.assertTrue(download.value.suggested_filename.endswith(".gcode"))
        self.assertGreater(len(read(path.read_text()).moves), 100)
        hands.get_by_label("File").set_input_files(
            {"name": "card.gcode", "mimeType": "text/plain", "buffer": path.read_bytes()}
        )
        expect(hands.locator("#card")).to_have_text("card.gcode is done.", timeout=300_000)
        return hands.locator("#looks li")

    def measure(self):
        """Tell where the bed is high, as a probe would."""
        places = [(x, y) for x in (15, 110, 205) for y in (15, 110, 205)]
        points = [{"x": x, "y": y, "value": float(self.machine.bed.height(x, y))} for x, y in places]
        body = {"client_key": key(), "points": points}
        answer = self.page.request.post(f"{self.base}/api/visits/{self.visit['id']}/surveys", data=body)
        self.assertEqual(answer.status, 201, answer.text())

    def test_from_paper_to_a_stored_offset_with_one_ladder(self):
        page, hands = self.page, self.hands
        self.go(f"/visits/{self.visit['id']}/offset")
        page.get_by_label("In the printer, mm").fill("-1.75")
        self.press("This is what stands there")
        self.see("Z offset −1.75 mm")

        self.press("Tip to the middle, Z 0", hands)
        for _ in range(100):
            if self.simulator.state()["head"] == [110.0, 110.0, 0.0]:
                break
            hands.wait_for_timeout(50)
        self.press("Pull the paper (0.10 mm)", hands)
        self.see("has a slight drag", hands)
        page.get_by_text("Feel at one height").click()
        page.get_by_label("Z on the display, mm").fill("0.00")
        page.get_by_role("button", name="slight drag").click()
        self.see("Go 0.10 mm closer")
        self.press("Send it to Reed")
        self.see(
            "Set the Z offset of Reed to −1.85 mm (0.10 mm closer; before −1.75 mm, as the printer says)"
        )
        self.see("watch the first lines")
        self.agree("Go on")
        self.see("Z offset −1.85 mm")
        self.assertEqual((self.machine.offset, self.machine.stored_offset), (-1.85, -1.85))

        page.get_by_text("Judged ladder").click()
        looks = self.print_file("Let the printer print this ladder", look=True)
        seen = [look.get_attribute("data-look") for look in looks.all()]
        rungs = page.locator("fieldset.rung")
        self.assertEqual(rungs.count(), len(seen))
        for rung, look in zip(rungs.all(), seen, strict=True):
            rung.locator("label").nth(STEPS.index("far_too_close" if look == "scraped" else look)).click()
        self.press(f"Judge {len(seen)} patches")
        self.see("1 ladder judged")
        found = self.get(f"/api/visits/{self.visit['id']}/ladder")
        self.assertTrue(found["done"], found)
        result = page.get_by_role("region", name="New offset")
        expect(result).to_contain_text("farther")
        self.press("Send it to Reed")
        self.agree("Go on")
        self.see("stored in its memory and written down")
        # as near the truth as an eye can tell
        self.assertAlmostEqual(self.machine.stored_offset, self.machine.true_offset, delta=0.025)
        history = self.get(f"/api/visits/{self.visit['id']}/offset")["history"]
        self.assertEqual([one["reason"] for one in history], ["ladder", "paper", "typed"])

    def test_a_judged_bed_tells_the_tilt_and_the_knobs(self):
        page = self.page
        self.bed(tilt_x=0.16, tilt_y=0.0)
        self.machine.offset = self.machine.stored_offset = self.machine.true_offset
        self.go(f"/visits/{self.visit['id']}/offset")
        page.get_by_label("In the printer, mm").fill(str(self.machine.true_offset))
        self.press("This is what stands there")
        self.measure()
        page.get_by_text("Judged bed", exact=True).click()
        looks = self.print_file("Let the printer print these discs")
        seen = [look.get_attribute("data-look") for look in looks.all()]
        self.assertEqual(len(seen), 25)
        # by keyboard: each disc takes a number from 1 (far too far) to 5
        for number, look in enumerate(seen, 1):
            disc = page.locator(f"[aria-label^='Disc {number} ']")
            disc.press(str(STEPS.index("far_too_close" if look == "scraped" else look) + 1))
        self.press("Judge 25 discs")
        self.see("Turn the knobs first")
        found = self.get(f"/api/visits/{self.visit['id']}/judged-bed")
        self.assertAlmostEqual(found["tilt"], 0.16, delta=0.06)
        self.assertTrue(any("Tighten" in t and "right" in t for t in found["turns"]), found["turns"])
        self.press("I turned them")
        self.see("what was judged before counts no more")
        self.assertIsNone(self.get(f"/api/visits/{self.visit['id']}/judged-bed")["tilt"])
