"""At the line when things do not go well, readings by gauge and dial, and the first steps by keyboard alone."""

import threading

from playwright.sync_api import expect

from finchwort.link.simulated.firmware import Firmware
from finchwort.link.simulated.serve import Simulator
from finchwort.link.worker import Worker
from finchwort.store.server import free_port
from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import BrowserCase

PROBE = {"probe_kind": "inductive", "probe_dx": 28, "probe_dy": -12}


class LinePageTest(ApiMixin, BrowserCase):
    allowed_errors = ("422", "409")  # what is refused is refused in words

    def begin_worker(self):
        stopping = threading.Event()
        worker = threading.Thread(target=Worker(self.sessions).run, args=(stopping,), daemon=True)
        worker.start()
        self.addCleanup(worker.join, 20)
        self.addCleanup(stopping.set)

    def open_line(self, **changes):
        printer, visit = self.printer_and_visit(**(PROBE | changes))
        self.go(f"/printers/{printer['id']}/machine")
        return printer, visit

    def test_no_line_is_explained(self):
        self.open_line()
        self.see("No line yet")
        self.follow("Change the set-up")
        self.page.wait_for_url("**/edit")
        self.see("Line to the printer")

    def test_beyond_the_limits_nothing_is_sent(self):
        page = self.page
        self.open_line(port=f"socket://127.0.0.1:{free_port()}", most_bed=80)
        page.get_by_label("Bed, °C").fill("95")
        self.press("Heat and wait")
        self.see("The bed's limit in this printer's set-up is 80 °C; 95 °C was asked for.")
        dialog = page.get_by_role("dialog", name="This will happen")
        expect(dialog.get_by_role("button", name="Heat", exact=True)).to_have_count(0)
        dialog.get_by_role("button", name="Not now").click()
        expect(dialog).to_be_hidden()
        self.assertEqual(self.get("/api/jobs")["jobs"], [])

    def test_nobody_at_the_other_end(self):
        page = self.page
        self.begin_worker()
        self.open_line(port=f"socket://127.0.0.1:{free_port()}")
        self.press("Connect")
        page.get_by_role("dialog").get_by_role("button", name="Go on").click()
        self.see("cannot be opened")
        self.see("Is the printer on, the cable in, the address right?")
        expect(page.locator("[data-job=failed]")).to_be_visible()

    def test_a_job_nobody_takes_can_be_taken_back(self):
        page = self.page
        self.open_line(port=f"socket://127.0.0.1:{free_port()}")
        self.press("Home")
        page.get_by_role("dialog").get_by_role("button", name="Move").click()
        self.see("waiting for the link")
        self.see("Does “finchwort link” run on the machine the cable goes to?")
        page.get_by_role("button", name="Stop Reed at once").click()
        self.see("Taken back before it began.")
        self.go("/logbook")
        self.see("Home: stopped")

    def test_halted_and_mended(self):
        page = self.page
        simulator = Simulator(firmware=Firmware(7, 60)).start()
        self.addCleanup(simulator.stop)
        self.begin_worker()
        _, visit = self.open_line(port=simulator.url)
        self.press("Home")
        page.get_by_role("dialog").get_by_role("button", name="Move").click()
        self.see("Homed.")
        simulator.firmware.faults.halt_after = 1
        self.go(f"/visits/{visit['id']}/trust")
        self.press("Touch in the middle")
        page.get_by_role("dialog").get_by_role("button", name="Move").click()
        self.see("The printer's own protection halted it")
        self.see("Leave the protection on.")
        simulator.firmware.power_cycle()
        self.press("Touch in the middle")
        page.get_by_role("dialog").get_by_role("button", name="Move").click()
        self.see("Trust it")


class GaugeTest(ApiMixin, BrowserCase):
    def choose(self, way):
        _, visit = self.printer_and_visit()
        self.go(f"/visits/{visit['id']}/measure")
        self.page.get_by_text("Paper or gauge").click()
        self.page.get_by_text(way, exact=True).click()
        self.see("1 of 5: front left")
        return visit

    def heights(self, visit):
        survey = self.get(f"/api/visits/{visit['id']}")["rounds"][0]["survey"]
        return survey["source"], self.get(f"/api/surveys/{survey['id']}/map")["measured"]

    def test_feeler_leaves(self):
        page = self.page
        visit = self.choose("Feeler gauge")
        for slides, stops in (
            ("0.10", "0.15"),
            ("0,05", "0,10"),
            ("0.20", ""),
            ("0.10", "0.15"),
            ("0.10", "0.15"),
        ):
            page.locator("#slides").fill(slides)
            page.locator("#stops").fill(stops)
            page.keyboard.press("Enter")
        self.see("Gaps in steps of the leaves")
        page.reload()
        self.see("Gaps in steps of the leaves")  # half-typed readings survive
        self.press("Store these 5 readings")
        page.wait_for_url("**/judge")
        source, heights = self.heights(visit)
        self.assertEqual((source, sorted(heights)), ("feeler", [-0.2, -0.125, -0.125, -0.125, -0.075]))

    def test_the_sign_of_the_dial_is_asked(self):
        page = self.page
        visit = self.choose("Dial")
        page.get_by_text("minus", exact=True).click()
        for value in ("0.10", "0", "-0.10", "0", "0"):
            page.locator("#shows").fill(value)
            page.keyboard.press("Enter")
        self.press("Store these 5 readings")
        page.wait_for_url("**/judge")
        source, heights = self.heights(visit)
        self.assertEqual((source, heights[0]), ("dial", -0.1))

    def test_a_survey_is_planned_and_typed(self):
        page = self.page
        _, visit = self.printer_and_visit(probe_kind="none")
        self.survey(visit, 0.3)
        self.go(f"/visits/{visit['id']}/measure")
        page.get_by_text("Plan a survey").click()
        self.see("2 × 2 is enough for the shape this bed has shown")
        page.get_by_role("button", name="Take 4 × 4").click()
        self.see("16 places")
        page.get_by_label("Inset, mm").fill("30")
        self.press("Type these myself")
        self.see("Reading 1 of 16")
        self.see("x 30")


class FirstStepsByKeyboardTest(ApiMixin, BrowserCase):
    def test_walk_round_touches_and_beam(self):
        page = self.page
        _, visit = self.printer_and_visit(beam_screws=2, beam_lead=8)
        self.go(f"/visits/{visit['id']}/sound")
        self.see("Walk round the machine")
        self.tab_to("Good")
        page.keyboard.press("Enter")
        self.see("1 of")
        self.tab_to("Left, mm")
        page.keyboard.type("14.1")
        self.tab_to("Right, mm")
        page.keyboard.type("13.9")
        self.see("Drive the right screw up by 0.20 mm, that is 9° of a turn")
        page.keyboard.press("Enter")
        self.see("Stored in this visit.")
        page.locator("h1").click()
        page.keyboard.press("3")
        page.wait_for_url("**/trust")
        self.tab_to("Touch 1")
        for value in ("0.10", "0.11", "0.105", "0.102"):
            page.keyboard.type(value)
            page.keyboard.press("Enter")
        self.see("4 touches repeat well")
        self.tab_to("Store this test")
        page.keyboard.press("Enter")
        self.see("Stored in this visit.")
        page.locator("h1").click()
        page.keyboard.press("2")
        page.wait_for_url("**/warm")
        page.keyboard.press("k")
        page.wait_for_url("**/keypad")
        self.see("Place 1")
        page.keyboard.press("Escape")
        page.wait_for_url("**/measure")
