"""Switches watched while they are pressed in any order, and a retracting probe moved by itself."""

import threading
import time

from finchwort.core.base.errors import ChoiceError
from finchwort.core.probing import diagnose_switches
from finchwort.services.machine import requests
from finchwort.services.printers import printers
from finchwort.store.errors import ConflictError
from finchwort.store.machine import jobs
from finchwort.store.machine.kinds import OVER, JobState
from finchwort.store.printers import printers as stored_printers
from tests.fixtures import support
from tests.fixtures.line import BenchCase

TWICE = 3
"""A finger stays for so many readings."""


class WatchCase(BenchCase):
    def begin(self, kind="watch"):
        """Begin a job in the background, as the link does."""
        job_id = self.queue(kind)
        self.working = threading.Thread(target=self.worker.step)
        self.working.start()
        return job_id

    def reads(self):
        return sum(text.startswith("> ") and "M119" in text for text in self.said(self.job_id))

    def until(self, told):
        """Wait until the job has told something."""
        end = time.monotonic() + 60
        while time.monotonic() < end:
            if told(self.job(self.job_id)):
                return
            time.sleep(0.02)
        self.fail(f"not told: {self.job(self.job_id).live}")

    def press(self, name):
        """Press a switch until it was seen, as somebody does who looks at the page."""
        before = len(self.job(self.job_id).live.get("watched") or [])
        self.firmware.pressed = name
        self.until(lambda job: len(job.live.get("watched") or []) > before or job.state in OVER)
        self.firmware.pressed = None


class WatchTest(WatchCase):
    def watch(self, *order):
        self.job_id = self.begin()
        self.until(lambda job: job.live.get("untouched"))
        for name in order:
            self.press(name)
        self.working.join(60)
        job = self.job(self.job_id)
        live = job.live
        pressed = {}
        for states in live["watched"]:
            (changed,) = [name for name in states if states[name] != live["untouched"][name]]
            pressed[changed] = states
        return job, live["untouched"], pressed

    def test_in_any_order_until_all_were_seen(self):
        for order in (("y_min", "z_min", "x_min"), ("z_min", "x_min", "y_min")):
            job, untouched, pressed = self.watch(*order)
            self.assertEqual(job.state, JobState.DONE, job.message)
            self.assertIn("Every switch", job.message)
            self.assertEqual(list(pressed), list(order))
            self.assertEqual({one.kind for one in diagnose_switches(untouched, pressed)}, {"good"})

    def test_one_that_never_answers_is_named_when_it_is_ended(self):
        self.firmware.faults.dead = "z_min"
        self.job_id = self.begin()
        self.until(lambda job: job.live.get("untouched"))
        self.press("x_min")
        self.press("y_min")
        with self.sessions.begin() as session:
            jobs.request_stop(session, self.job_id, jobs.SOFT)
        self.working.join(60)
        job = self.job(self.job_id)
        self.assertEqual((job.state, len(job.live["watched"])), (JobState.STOPPED, 2))

    def test_what_only_flickers_is_not_pressed(self):
        self.job_id = self.begin()
        self.until(lambda job: job.live.get("untouched"))
        seen = self.firmware.switch_states
        calls = iter(range(10_000))
        self.firmware.switch_states = lambda: seen() | {"x_min": next(calls) % 2 == 0}
        count = self.reads()
        self.until(lambda _job: self.reads() > count + 6)
        self.assertEqual(self.job(self.job_id).live["watched"], [])
        with self.sessions.begin() as session:
            jobs.request_stop(session, self.job_id, jobs.SOFT)
        self.working.join(60)


class PinTest(BenchCase):
    def setUp(self):
        super().setUp()
        with self.sessions.begin() as session:
            stored_printers.get_printer(session, self.printer).probe_kind = "retracting"
        self.firmware.pin = "in"

    def test_out_and_in(self):
        out = self.do("probe_out")
        self.assertEqual((out.state, out.live["switches"]["z_probe"]), (JobState.DONE, "open"))
        self.assertIn("z_probe is open", out.message)
        self.assertEqual(self.do("probe_in").live["switches"]["z_probe"], "triggered")

    def test_a_pin_that_is_stuck_reads_alike(self):
        self.firmware.pin_dead = True
        states = [self.do(kind).live["switches"]["z_probe"] for kind in ("probe_out", "probe_in")]
        self.assertEqual(states[0], states[1])

    def test_a_pin_moves_also_where_no_switch_is_told(self):
        self.firmware.deaf = {"M119"}
        job = self.do("probe_out")
        self.assertEqual(job.state, JobState.DONE)
        self.assertIn("does not tell its switches", job.message)

    def test_no_command_is_said(self):
        job = self.do("probe_test")
        self.assertEqual(job.state, JobState.DONE)
        self.assertIn("names no command", job.message)

    def test_only_a_retracting_probe_has_a_pin(self):
        with self.sessions.begin() as session:
            printer = stored_printers.get_printer(session, self.printer)
            asked = requests.ask(printer, "probe_out", {})
            self.assertIn("fingers", asked.cautions[0])
            printer.probe_kind = "inductive"
            with self.assertRaises(ConflictError):
                requests.ask(printer, "probe_out", {})

    def test_bad_names_are_refused(self):
        with self.sessions() as session, self.assertRaises(ChoiceError):
            requests.ask(
                printers.create_printer(session, support.setup(name="Other", port="x")), "probe_up", {}
            )
