"""The whole loop with the simulated printer, in the browser: connect to second round."""

import time
from unittest import mock

from playwright.sync_api import expect

from finchwort.store.machine import heaters, jobs, lines
from finchwort.store.models import Job
from finchwort.store.printers import printers
from tests.fixtures.api import ApiMixin
from tests.fixtures.browser import PHONE, BrowserCase
from tests.fixtures.live import LiveCase
from tests.fixtures.support import key


class WholeLoopTest(LiveCase):
    def test_from_connecting_to_a_better_second_round(self):
        page = self.page
        hands = self.new_page(self.new_context())  # a window of its own: a tab behind another is drawn rarely
        hands.goto(self.simulator.page)

        self.go(f"/printers/{self.printer['id']}/machine")
        self.press("Connect")
        self.agree("Go on")
        self.see("Simulated bench printer")
        self.see("Switches: x_min open")

        self.step("warm")
        self.press("Heat bed to 60 °C, nozzle to 205 °C")
        self.see("get hot enough to burn")
        self.agree("Heat")
        self.see("The heaters are there.")
        self.simulator.firmware.probe.noise = 0.001  # so that a few readings tell
        # the link's clock runs with the machine's, so that five quiet minutes are five of its own
        timed = mock.patch("finchwort.link.work.clock", lambda: self.speed * time.monotonic())
        timed.start()
        self.addCleanup(timed.stop)
        page.locator("#every").fill("2")
        self.press("Watch until it is steady")
        self.agree()
        expect(page.locator("[data-job=done]").filter(has_text="Watch one place warm through")).to_be_visible(
            timeout=200_000
        )
        self.see("Steady now")

        self.simulator.firmware.probe.noise = 0.0035
        self.step("trust")
        self.press("Touch in the middle")
        self.agree()
        self.see("Trust it")
        self.see("one eighth of a turn is 0.087 mm")

        self.step("measure")
        page.get_by_text("By its probe").click()
        self.see("25 places")
        self.simulator.firmware.speed = 12.0  # slow enough to be watched
        hands.get_by_label("more touches").fill("13")
        hands.get_by_role("button", name="the cable drops").click()
        self.press("Let the printer probe")
        self.agree()
        self.see("of 28: ")  # touches are told as they come
        self.see("The line to the printer is lost")
        expect(page.locator("[data-job=interrupted]")).to_be_visible()
        expect(page.get_by_role("img", name="13 of 25 places touched")).to_be_visible()
        self.simulator.firmware.speed = self.speed
        hands.get_by_role("button", name="Plug the cable in").click()
        self.press("Go on where it broke off")
        self.see("then probe the 12 places that are left.")
        self.agree()
        page.get_by_role("link", name="See the map").click()
        page.wait_for_url("**/judge")
        self.see("Show me what to turn")
        first = self.get(f"/api/visits/{self.visit['id']}")["rounds"][0]["survey"]
        self.assertEqual((first["count"], first["source"]), (25, "probe"))

        plan = self.get(f"/api/surveys/{first['id']}/plan")
        self.step("level")
        for turn in plan["turns"]:
            word = "Tighten" if turn["rounded"] > 0 else "Loosen"
            for _ in range(round(abs(turn["rounded"]) * 8)):
                hands.get_by_role("button", name=f"{word} 1/8 at {turn['name']}").click()
            shown = f"{'−' if turn['rounded'] < 0 else '+' if turn['rounded'] else ''}{abs(turn['rounded']):.3f} turns"
            expect(hands.locator(f'[data-knob="{turn["name"]}"] .turned')).to_contain_text(shown)
        self.press("I did this")
        page.wait_for_url("**/measure")
        self.see("Measure again: round 2")
        self.press("Let the printer probe")
        self.agree()
        page.get_by_role("link", name="See the map").click()
        page.wait_for_url("**/judge")
        self.see("What the last turning did")
        rounds = self.get(f"/api/visits/{self.visit['id']}")["rounds"]
        self.assertLess(rounds[1]["survey"]["spread"], 0.35 * rounds[0]["survey"]["spread"])
        self.assertTrue(rounds[1]["review"]["as_expected"])
        self.go(f"/printers/{self.printer['id']}/machine")
        page.get_by_role("button", name="What was said").first.click()
        self.see("G30 X")


class TrimTest(LiveCase):
    viewport = PHONE

    def test_trims_go_one_agreed_step_at_a_time_and_survive_a_reload(self):
        page, machine = self.page, self.simulator.firmware
        before = machine.offset
        self.step("offset")
        page.get_by_label("In the printer, mm").fill("-1.75")
        self.press("This is what stands there")
        self.see("Z offset −1.75 mm")
        page.get_by_text("While it prints", exact=True).click()
        self.press("closer by 0.02 mm")
        self.see("0.02 mm closer to the plate at once, while it prints")
        self.agree()
        self.see("Together 0.02 mm closer")
        self.assertAlmostEqual(machine.offset, before - 0.02)
        page.reload()
        page.get_by_text("While it prints", exact=True).click()
        self.see("Together 0.02 mm closer")
        expect(page.get_by_role("region", name="New offset")).to_contain_text("Type −1.77")


class StopTest(LiveCase):
    speed = 6.0

    def test_the_stop_stands_on_every_screen(self):
        page = self.page
        self.step("measure")
        page.get_by_text("By its probe").click()
        self.press("Let the printer probe")
        self.agree()
        expect(page.get_by_text("of 28: ").first).to_be_visible()
        self.simulator.firmware.speed = 1.0  # still at it, however long the next page takes
        self.go("/logbook")
        bar = page.get_by_role("region", name="Printers at work")
        expect(bar).to_contain_text("probe the bed")
        page.keyboard.press("s")
        page.get_by_role("dialog", name="Stop Reed?").wait_for()
        page.keyboard.press("Escape")
        page.get_by_role("button", name="Stop Reed at once").click()
        expect(bar).to_have_count(0)
        self.assertTrue(self.simulator.firmware.halted.is_set())
        self.step("measure")
        self.see("Stopped at once; heaters and motors are off.")
        self.press("Store what was read") if page.get_by_role(
            "button", name="Store what was read"
        ).count() else None
        self.see("Go on where it broke off")


class NobodyThereTest(ApiMixin, BrowserCase):
    """A link that died in the middle of a probing, on the phone beside the machine."""

    viewport = PHONE

    def test_a_stop_that_nobody_hears_says_so(self):
        page = self.page
        printer, visit = self.printer_and_visit(port="/dev/ttyACM9", probe_kind="nozzle")
        with self.sessions.begin() as session:
            job = jobs.queue_job(
                session,
                printers.get_printer(session, printer["id"]),
                "grid",
                {"points": [[50, 50], [100, 50], [50, 100]], "highest": None},
                client_key=key(),
                visit_id=visit["id"],
                total=3,
            )
            jobs.claim_job(session, "one that died")
            job.lease_until = lines.db_now(session) + lines.LEASE - jobs.SILENT * 1.2
        self.go("/logbook")
        bar = page.get_by_role("region", name="Printers at work")
        expect(bar.get_by_role("alert")).to_contain_text(
            "does not answer, and hears no stop. Use the power switch."
        )
        page.get_by_role("button", name="Stop Reed at once").click()
        expect(bar.get_by_role("alert")).to_contain_text("Nobody hears this stop")
        # the printer stays in reach, also of those who would take it away
        answer = page.request.delete(f"{self.base}/api/printers/{printer['id']}")
        self.assertEqual(answer.status, 409)
        with self.sessions.begin() as session:
            session.get(Job, job.id).lease_until = lines.db_now(session) - jobs.SILENT
        expect(bar.get_by_role("alert")).to_contain_text("nobody knows what it does now")
        self.press("It stands still")
        # that it does not move says nothing about its heat
        expect(bar).to_contain_text("Bed and nozzle may still be hot and on.")
        self.press("It is off")
        expect(bar).to_have_count(0)

    def test_a_hot_printer_says_until_when(self):
        page = self.page
        printer, _ = self.printer_and_visit(port="/dev/ttyACM9", probe_kind="nozzle")
        with self.sessions.begin() as session:
            line = jobs.queue_job(
                session, printers.get_printer(session, printer["id"]), "home", {}, client_key=key()
            ).line_id
            jobs.request_stop(session, session.query(Job).one().id, "now")
            heaters.heaters_on(session, line, printer["id"], 60)
        self.go("/")
        bar = page.get_by_role("region", name="Printers at work")
        expect(bar).to_contain_text("is hot. Heaters go off by themselves at")
        with self.sessions.begin() as session:
            heaters.heaters_on(session, line, printer["id"], -2)
        page.reload()
        expect(bar.get_by_role("alert")).to_contain_text("nobody reached it. Use the power switch.")
        self.press("Heaters off")
        self.see("Switch both heaters of Reed off.")
        self.press("Not now")
        self.press("I switched it off")
        expect(bar).to_have_count(0)


class PhoneTest(LiveCase):
    viewport = PHONE
    speed = 30.0

    def test_switches_pressed_in_any_order_fill_the_table(self):
        page = self.page
        self.step("sound")
        self.press("Test them")
        self.press("Watch while I press them")
        self.agree("Go on")
        page.get_by_role("button", name="x_min while free: open").wait_for()
        for name in ("y_min", "z_min", "x_min"):
            self.simulator.firmware.pressed = name
            page.get_by_role("button", name=f"{name} while {name} is pressed: triggered").wait_for()
            self.simulator.firmware.pressed = None
        self.see("x_min is open when free and triggered when pressed.")
        self.assertLessEqual(self.overflow(), 0)
        # it was the other plug that was pressed: the row goes there
        self.choose("What was pressed when y_min answered", "z_min")
        self.see("Pressing z_min changes y_min instead")
        self.see("Do not home or probe before that is put right.")

    def test_switches_are_read_by_the_printer(self):
        page = self.page
        self.step("sound")
        self.press("Test them")
        self.press("Read")
        self.agree("Go on")
        page.get_by_role("button", name="x_min while free: open").wait_for()
        self.simulator.firmware.pressed = "x_min"
        self.simulator.firmware.faults.swapped = True
        self.press("Read while x_min is pressed")
        self.agree("Go on")
        self.see("Pressing x_min changes y_min instead")
        self.assertLessEqual(self.overflow(), 0)

    def test_watched_with_one_thumb(self):
        page = self.page
        self.step("trust")
        self.press("Touch in the middle")
        self.agree()
        stop = page.get_by_role("button", name="Stop Reed at once")
        stop.wait_for()
        self.simulator.firmware.speed = 2.0  # ten touches must not be done before the stop is pressed
        self.assertGreaterEqual(stop.bounding_box()["height"], 44)
        self.assertLessEqual(self.overflow(), 0)
        self.press("Stop after this one")
        expect(page.get_by_role("button", name="Stop after this one")).to_be_hidden()
        self.simulator.firmware.speed = self.speed
        expect(page.locator("[data-job=stopped]")).to_be_visible()
        self.assertFalse(self.simulator.firmware.halted.is_set())
