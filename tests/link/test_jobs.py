"""Jobs at the machine: done, stopped, broken off in every way there is, resumed, taken over."""

import threading
import time
from datetime import timedelta
from unittest import mock

from sqlalchemy import text

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.link.work import Pulse
from finchwort.link.worker import Worker, run_link
from finchwort.services.first_layer import offsets
from finchwort.services.machine import jobs, requests
from finchwort.services.machine.kinds import Known, Stands
from finchwort.services.printers import printers
from finchwort.services.probing import probe_tests
from finchwort.store.errors import ConflictError, ReadFirstError
from finchwort.store.first_layer import offsets as stored_offsets
from finchwort.store.machine import jobs as stored_jobs
from finchwort.store.machine import lines
from finchwort.store.printers import printers as stored_printers
from finchwort.store.probing import probe_tests as stored_tests
from finchwort.store.surveys import surveys
from finchwort.store.visits import visits
from tests.fixtures import support
from tests.fixtures.line import BenchCase


class WholeJobTest(BenchCase):
    def test_connect_heat_touch_probe(self):
        hello = self.do("connect")
        self.assertEqual((hello.state, hello.live["switches"]["x_min"]), ("done", "open"))
        self.assertIn("Simulated bench printer", hello.live["says"])
        hot = self.do("heat", bed=60.0, nozzle=150.0)
        self.assertEqual(hot.state, "done")
        self.assertGreater(hot.live["bed"], 58)
        test = self.do("repeatability", count=8)
        self.assertEqual((test.state, test.done), ("done", 8))
        grid = self.do("grid", columns=4, rows=3)
        # twelve places, and the first three once more
        self.assertEqual((grid.state, grid.done, grid.total), ("done", 15, 15))
        with self.sessions() as session:
            record = surveys.get_survey(session, grid.survey_id)
            self.assertEqual((record.count, record.source, round(record.bed_temperature)), (12, "probe", 60))
            readings = surveys.load_readings(session, record.id)
            truth = self.firmware.bed.height(readings.x, readings.y)
            off = readings.height - truth
            self.assertLess(off.std(), 0.01)
            noise = probe_tests.noise_for(session, record)
            self.assertIn("test of 8 touches", noise.source)
            self.assertEqual(noise.dof, 7)

    def fast_clock(self):
        """Time touches by a clock that runs a minute each second."""
        timed = mock.patch("finchwort.link.work.clock", lambda: 60 * time.monotonic())
        timed.start()
        self.addCleanup(timed.stop)

    def test_soak_at_places_in_turn_until_the_shape_stands(self):
        self.fast_clock()
        soak = self.do("soak", every=2.0, longest=3600.0, places=3)
        self.assertEqual(soak.state, "done", soak.message)
        with self.sessions() as session:
            touches = stored_jobs.readings_of(session, [soak])
            test = stored_tests.newest(stored_tests.tests_of(session, self.visit), "soak")
            self.assertEqual(len(test.data["spots"]), 3)
            self.assertEqual(test.data["at"][:6], [0, 1, 2, 0, 1, 2])
            self.assertEqual(len(test.data["heights"]), len(touches))
            self.assertIn("against the others", probe_tests.assess_test("soak", test.data).sentences[0])

    def test_soak_until_steady(self):
        self.do("heat", bed=60.0)
        self.fast_clock()
        soak = self.do("soak", every=2.0, longest=3600.0)
        self.assertEqual(soak.state, "done")
        with self.sessions() as session:
            test = stored_tests.newest(stored_tests.tests_of(session, self.visit), "soak")
            self.assertEqual(
                test.data["heights"], [r.height for r in stored_jobs.readings_of(session, [soak])]
            )
            self.assertEqual(test.source, "printer")

    def test_park_switches_home_cool(self):
        self.assertIn("front left", self.do("park", x=10.0, y=10.0, name="front left").message)
        self.assertEqual((self.firmware.x, self.firmware.y), (10.0, 10.0))
        self.firmware.pressed = "y_min"
        self.assertEqual(self.do("switches").live["switches"]["y_min"], "triggered")
        self.assertIn("Bed 21.0 °C", self.do("temperatures").message)
        self.assertEqual(self.do("home").state, "done")
        self.firmware.bed.bed_target = 60
        self.assertEqual(self.do("cool").state, "done")
        self.assertEqual(self.firmware.bed.bed_target, 0)

    def test_a_trim_moves_the_tip_at_once_and_stores_nothing(self):
        before, stored = self.firmware.offset, self.firmware.stored_offset
        job = self.do("trim", value=0.02)
        self.assertEqual(job.state, "done")
        self.assertIn("0.02 mm closer", job.message)
        # closer on this machine, whatever sign its stored offset has
        self.assertAlmostEqual(self.firmware.offset, before - 0.02)
        self.assertEqual(self.firmware.stored_offset, stored)
        self.do("trim", value=-0.05)
        self.assertAlmostEqual(self.firmware.offset, before + 0.03)
        for value in (0.06, 0.0, None):
            with self.subTest(value), self.assertRaises(CoreError):
                self.queue("trim", **({} if value is None else {"value": value}))

    def test_an_offset_is_sent_stored_and_written_down(self):
        with self.assertRaises(ReadFirstError):
            self.do("offset", value=-1.83)  # nobody knows what stands there
        with self.sessions.begin() as session:
            offsets.record_offset(
                session, self.printer, {"printer": -1.75, "slicer": 0.02}, "typed", client_key=support.key()
            )
        self.assertIn("−1.75 mm, as it says itself", self.do("read_offset").message)
        job = self.do("offset", value=-1.83, reason="ladder", margin=0.02)
        self.assertEqual(
            (job.state, self.firmware.offset, self.firmware.stored_offset), ("done", -1.83, -1.83)
        )
        self.assertIn("−1.83 mm now", job.message)
        with self.sessions() as session:
            newest = stored_offsets.newest_offset(session, self.printer)
            self.assertEqual((newest.parts, newest.reason), ({"printer": -1.83, "slicer": 0.02}, "ladder"))
            self.assertAlmostEqual(newest.closer, 0.08)
            asked = requests.ask(
                stored_printers.get_printer(session, self.printer),
                "offset",
                {"value": -1.8},
                Known(stands=Stands(-1.83, True, -1.83)),
            )
            self.assertIn(
                "to −1.80 mm (0.03 mm farther; before −1.83 mm, as the printer says)", asked.sentence
            )
            self.assertEqual(asked.cautions, ())
        self.do("read_offset")
        with self.assertRaises(OutOfRangeError):
            self.do("offset", value=-3.0)

    def test_the_line_stays_open_between_jobs(self):
        self.do("connect")
        self.do("switches")
        self.assertEqual(sum("opened" in line for line in self.said(self.do("switches").id)), 0)
        self.assertTrue(self.simulator.connected)
        self.worker.let_go()
        time.sleep(0.3)
        self.assertFalse(self.simulator.connected)

    def test_the_conversation_is_kept(self):
        said = self.said(self.do("switches").id)
        self.assertTrue(any(line.startswith("> N") and "M119" in line for line in said))
        self.assertIn("< x_min: open", said)


class BrokenOffTest(BenchCase):
    def cut_after(self, touches, **wanted):
        self.firmware.faults.cut_after = touches
        job = self.do("grid", **({"columns": 5, "rows": 5} | wanted))
        self.simulator.plug()
        return job

    def test_cable_cut_after_thirteen_and_resumed(self):
        first = self.cut_after(13)
        self.assertEqual((first.state, first.done, first.survey_id), ("interrupted", 13, None))
        self.assertIn("What was read is kept.", first.message)
        second = self.do("grid", resume=first.id)
        self.assertEqual((second.state, second.done, second.total), ("done", 12, 12))
        with self.sessions() as session:
            record = surveys.get_survey(session, second.survey_id)
            self.assertEqual(record.count, 25)
            self.assertIn("Resumed after a break", " ".join(record.assumptions))
            readings = surveys.load_readings(session, record.id)
        off = readings.height - self.firmware.bed.height(readings.x, readings.y)
        self.assertLess(off.std(), 0.01)

    def test_a_zero_that_moved_is_taken_out(self):
        first = self.cut_after(13)
        self.firmware.bed.GROWTH_PER_DEGREE = 0.0
        self.firmware.probe.noise = 0.0
        real_home = self.firmware._home

        def home_badly(words):
            done = real_home(words)
            self.firmware.zero += 0.08
            return done

        self.firmware._home = home_badly
        second = self.do("grid", resume=first.id)
        self.assertLess(second.live["shift"], -0.05)
        with self.sessions() as session:
            record = surveys.get_survey(session, second.survey_id)
            readings = surveys.load_readings(session, record.id)
            self.assertIn("taken out", " ".join(record.assumptions))
        off = readings.height - self.firmware.bed.height(readings.x, readings.y)
        self.assertLess(abs(off[:13].mean() - off[13:].mean()), 0.02)

    def test_cut_twice(self):
        first = self.cut_after(7)
        self.firmware.faults.cut_after = 6  # one of them is the check
        second = self.do("grid", resume=first.id)
        self.simulator.plug()
        self.assertEqual((second.state, second.done), ("interrupted", 5))
        third = self.do("grid", resume=second.id)
        self.assertEqual((third.state, third.done), ("done", 13))
        with self.sessions() as session:
            self.assertEqual(surveys.get_survey(session, third.survey_id).count, 25)

    def test_what_was_read_can_be_stored_as_it_is(self):
        first = self.cut_after(13)
        with self.sessions.begin() as session:
            jobs.keep_readings(session, stored_jobs.get_job(session, first.id))
        with self.sessions() as session:
            self.assertEqual(surveys.get_survey(session, self.job(first.id).survey_id).count, 13)

    def test_the_board_starts_anew_mid_probe(self):
        self.firmware.faults.reset_after = 4
        job = self.do("grid", columns=3, rows=3)
        self.assertEqual((job.state, job.done), ("interrupted", 4))
        self.assertIn("restarted", job.message)
        self.assertEqual(self.do("grid", resume=job.id).state, "done")

    def test_halted_by_its_own_protection(self):
        self.firmware.faults.halt_after = 2
        job = self.do("grid", columns=3, rows=3)
        self.assertEqual((job.state, job.done), ("interrupted", 2))
        self.assertIn("Leave the protection on", job.message)
        self.assertIn("halted", self.do("connect").message)
        self.firmware.power_cycle()
        self.assertEqual(self.do("connect").state, "done")

    def test_busy_for_long_and_nonsense_and_damaged_lines_change_nothing(self):
        self.firmware.faults.stall = 2500.0  # 6 s real, with "busy" in between
        self.firmware.faults.garbage = True
        self.firmware.faults.corrupt = 0.15
        job = self.do("grid", columns=3, rows=3)
        self.assertEqual((job.state, job.done), ("done", 12), job.message)
        said = "\n".join(self.said(job.id))
        for word in ("busy: processing", "Resend:", "checksum mismatch"):
            self.assertIn(word, said)

    def test_a_line_that_cannot_be_opened(self):
        self.simulator.unplug()
        job = self.do("connect")
        self.assertEqual(job.state, "failed")
        self.assertIn("line", job.message)

    def test_no_answer(self):
        self.firmware.halted.clear()
        self.firmware.lines.put(None)  # its programme ends, its line stays open
        time.sleep(0.2)
        self.worker.leaving.clear()
        from finchwort.link import machine

        original = machine.Machine.greet
        machine.Machine.greet = lambda this: this.line.send("M115", patience=1.0)
        self.addCleanup(setattr, machine.Machine, "greet", original)
        job = self.do("connect")
        self.assertEqual(job.state, "failed")
        self.assertIn("has not answered", job.message)


class StopTest(BenchCase):
    speed = 20.0

    def running(self, kind, **wanted):
        job_id = self.queue(kind, **wanted)
        thread = threading.Thread(target=self.worker.step, daemon=True)
        thread.start()
        self.addCleanup(thread.join, 30)
        deadline = time.monotonic() + 30
        while self.job(job_id).done < 2 and time.monotonic() < deadline:
            time.sleep(0.05)
        return job_id, thread

    def test_at_once(self):
        job_id, thread = self.running("grid", columns=5, rows=5)
        with self.sessions.begin() as session:
            stored_jobs.request_stop(session, job_id, "now")
        thread.join(20)
        job = self.job(job_id)
        self.assertEqual(job.state, "stopped")
        self.assertLess(job.done, 25)
        self.assertTrue(self.firmware.halted.is_set())
        self.assertEqual(self.firmware.bed.bed_target, 0)
        self.assertTrue(any("M112" in line for line in self.said(job_id)))

    def test_after_the_reading_under_way(self):
        job_id, thread = self.running("repeatability", count=50)
        with self.sessions.begin() as session:
            stored_jobs.request_stop(session, job_id, "soft")
        thread.join(20)
        job = self.job(job_id)
        self.assertEqual(job.state, "stopped")
        self.assertFalse(self.firmware.halted.is_set())
        with self.sessions.begin() as session:
            kept = jobs.keep_readings(session, stored_jobs.get_job(session, job_id))
        self.assertIn("touches", kept)

    def test_before_it_began(self):
        job_id = self.queue("home")
        with self.sessions.begin() as session:
            stored_jobs.request_stop(session, job_id, "now")
        self.assertEqual(self.job(job_id).state, "stopped")
        self.assertFalse(self.worker.step())
        with self.sessions.begin() as session, self.assertRaises(ConflictError):
            stored_jobs.request_stop(session, job_id, "now")

    def test_a_link_that_is_shut_down_leaves_a_clear_state(self):
        stopping, ready = threading.Event(), threading.Event()
        arguments = (self.sessions, stopping, "", 2, None, ready.set)
        thread = threading.Thread(target=run_link, args=arguments, daemon=True)
        thread.start()
        self.assertTrue(ready.wait(20))
        job_id = self.queue("grid", columns=5, rows=5)
        deadline = time.monotonic() + 30
        while self.job(job_id).done < 2 and time.monotonic() < deadline:
            time.sleep(0.05)
        stopping.set()
        thread.join(20)
        self.assertFalse(thread.is_alive())
        job = self.job(job_id)
        self.assertEqual(job.state, "interrupted")
        self.assertGreaterEqual(job.done, 2)


class OwnershipTest(BenchCase):
    def test_one_job_is_claimed_once_by_many(self):
        self.queue("home")
        claimed, barrier = [], threading.Barrier(6)

        def claim(number):
            barrier.wait()
            with self.sessions.begin() as session:
                job = stored_jobs.claim_job(session, f"worker {number}")
                claimed.append(job.id if job else None)

        threads = [threading.Thread(target=claim, args=(n,)) for n in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len([one for one in claimed if one is not None]), 1)

    def test_a_line_has_one_owner(self):
        with self.sessions.begin() as session:
            other = printers.create_printer(session, support.setup("Twin", port=self.simulator.url)).id
        self.queue("home")
        with self.sessions.begin() as session:
            self.assertIsNotNone(stored_jobs.claim_job(session, "first"))
        self.printer, self.visit = other, None
        self.queue("home")
        with self.sessions.begin() as session:
            self.assertIsNone(stored_jobs.claim_job(session, "second"))

    def test_named_links_take_their_own(self):
        with self.sessions.begin() as session:
            setup = support.setup("Far", port="/dev/ttyACM0", link_name="attic")
            self.printer = printers.create_printer(session, setup).id
        self.visit = None
        self.queue("connect")
        with self.sessions.begin() as session:
            self.assertIsNone(stored_jobs.claim_job(session, "here"))
            self.assertIsNotNone(stored_jobs.claim_job(session, "there", "attic"))

    def expire(self, job_id):
        with self.engine.begin() as link:
            link.execute(text("UPDATE job SET lease_until = lease_until - INTERVAL 1 HOUR"))
            link.execute(text("UPDATE machine_line SET lease_until = lease_until - INTERVAL 1 HOUR"))

    def test_a_killed_link_leaves_its_readings_and_another_takes_the_line(self):
        job_id = self.queue("grid", columns=3, rows=3)
        with self.sessions.begin() as session:
            job = stored_jobs.claim_job(session, "one that dies")
            stored_jobs.add_reading(session, job.id, 0, 60.0, 60.0, 0.1, 3.0)
            stored_jobs.tell_progress(session, job.id, "one that dies", done=1)
        self.assertFalse(self.worker.step())  # the lease still runs
        self.expire(job_id)
        self.assertFalse(self.worker.step())
        job = self.job(job_id)
        self.assertEqual((job.state, job.done), ("interrupted", 1))
        self.assertIn("What was read is kept", job.message)
        self.assertEqual(self.do("home").state, "done")

    def test_one_that_comes_back_too_late_is_told_so(self):
        job_id = self.queue("home")
        with self.sessions.begin() as session:
            stored_jobs.claim_job(session, "slow")
        self.expire(job_id)
        self.worker.step()
        pulse = Pulse(self.sessions, job_id, "slow")
        with self.assertRaises(stored_jobs.LostError):
            pulse.tick()

    def test_a_lease_is_renewed(self):
        job_id = self.queue("home")
        with self.sessions.begin() as session:
            before = stored_jobs.claim_job(session, "me").lease_until
        time.sleep(0.05)
        with self.sessions.begin() as session:
            stored_jobs.beat(session, job_id, "me")
        after = self.job(job_id).lease_until
        self.assertGreater(after, before)
        self.assertLess(after - before, timedelta(seconds=10))

    def test_another_process_is_another_owner(self):
        self.assertNotEqual(Worker(self.sessions, number=1).owner, Worker(self.sessions, number=2).owner)


class AskingTest(BenchCase):
    def ask(self, kind, **wanted):
        with self.sessions() as session:
            return requests.ask(stored_printers.get_printer(session, self.printer), kind, wanted)

    def test_words_name_what_will_happen(self):
        self.assertIn("Heat the bed to 60 °C", self.ask("heat", bed=60.0).sentence)
        self.assertIn("probe 9 places", self.ask("grid", columns=3, rows=3).sentence)
        self.assertTrue(self.ask("grid", columns=3, rows=3).cautions)
        self.assertNotEqual(self.ask("heat", bed=60.0).token, self.ask("heat", bed=61.0).token)

    def test_limits_come_from_the_set_up(self):
        for kind, wanted in (
            ("heat", {"bed": 111.0}),
            ("heat", {"nozzle": 261.0}),
            ("heat", {"bed": -1.0}),
            ("repeatability", {"x": 5.0, "y": 100.0}),
            ("repeatability", {"count": 1000}),
            ("grid", {"points": [(0, 0), (100, 100), (50, 100)]}),
            ("soak", {"every": 0.1}),
        ):
            with self.subTest(kind, **wanted), self.assertRaises(OutOfRangeError):
                self.ask(kind, **wanted)
        with self.assertRaises(ChoiceError):
            self.ask("heat")
        with self.assertRaises(ChoiceError):
            self.ask("dance")

    def test_own_places_are_walked_the_short_way(self):
        asked = self.ask("grid", points=[(50, 50), (200, 200), (51, 60), (199, 190)])
        ends = [asked.params["points"][i] for i in (0, 1)]
        self.assertLess(abs(ends[0][0] - ends[1][0]), 5)

    def test_what_cannot_be(self):
        with self.sessions.begin() as session:
            bare = printers.create_printer(session, support.setup("Bare"))
            with self.assertRaises(ConflictError):
                requests.ask(bare, "home", {})
            deaf = printers.create_printer(session, support.setup("No probe", port="/dev/ttyUSB0"))
            with self.assertRaises(ConflictError):
                requests.ask(deaf, "grid", {"columns": 3, "rows": 3})

    def test_one_job_at_a_time(self):
        self.queue("home")
        with self.assertRaises(ConflictError):
            self.queue("home")

    def test_a_closed_visit(self):
        job_id = self.queue("grid", columns=3, rows=3)
        with self.sessions.begin() as session:
            visits.get_visit(session, self.visit).ended_at = lines.db_now(session)
        self.worker.step()
        job = self.job(job_id)
        self.assertEqual((job.state, job.survey_id), ("done", None))
        self.assertIn("not stored in the visit", job.message)
        with self.assertRaises(ConflictError):
            self.queue("home")
