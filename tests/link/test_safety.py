"""Hot or moving, and nobody there: agreements that end, heaters that go off, stops that tell the truth, odd answers."""

import threading
import time
import unittest
from datetime import timedelta
from unittest import mock

from sqlalchemy import text

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.printers import Bed
from finchwort.knowledge.dialect import load_dialect
from finchwort.link import line as line_module
from finchwort.link import work
from finchwort.link.line import GarbledError, Line, LineError
from finchwort.link.machine import FarTouchError, Limits, Machine, SensorError
from finchwort.link.worker import Worker, run_link
from finchwort.messages.errors import sentence
from finchwort.services.first_layer import offsets
from finchwort.services.machine import requests
from finchwort.services.printers import printers
from finchwort.services.visits import visits
from finchwort.store.errors import ConflictError, NotFoundError, TypeFirstError
from finchwort.store.first_layer import offsets as stored_offsets
from finchwort.store.machine import heaters, jobs, lines
from finchwort.store.machine.kinds import OVER
from finchwort.store.models import MachineLine
from finchwort.store.printers import printers as stored_printers
from tests.fixtures import support
from tests.fixtures.line import BenchCase
from tests.fixtures.talk import Talk

OPEN = load_dialect("open")


def ok(_command):
    return b"ok\n"


class AgreementTest(BenchCase):
    def age(self, job_id, seconds):
        with self.engine.begin() as link:
            link.execute(
                text("UPDATE job SET created_at = created_at - INTERVAL :s SECOND WHERE id = :id"),
                {"s": seconds, "id": job_id},
            )

    def test_it_is_worth_two_minutes(self):
        job_id = self.queue("home")
        self.age(job_id, 121)
        self.assertFalse(self.worker.step())
        job = self.job(job_id)
        self.assertEqual(job.state, "not_begun")
        self.assertIn("agree again", job.message)
        self.assertFalse(self.firmware.homed)
        fresh = self.queue("home")
        self.age(fresh, 100)
        self.assertTrue(self.worker.step())
        self.assertEqual(self.job(fresh).state, "done")

    def test_nothing_that_waited_begins_by_itself_after_a_restart(self):
        job_id = self.queue("heat", bed=60.0)
        stopping, ready = threading.Event(), threading.Event()
        arguments = (self.sessions, stopping, "", 1, None, ready.set)
        thread = threading.Thread(target=run_link, args=arguments, daemon=True)
        thread.start()
        self.assertTrue(ready.wait(20))
        with self.sessions.begin() as session:
            other = printers.create_printer(session, support.setup("Twin", port=self.simulator.url)).id
        first, self.printer, self.visit = self.printer, other, None
        after = self.queue("temperatures")
        deadline = time.monotonic() + 30
        while self.job(after).state != "done" and time.monotonic() < deadline:
            time.sleep(0.05)
        stopping.set()
        thread.join(20)
        self.assertEqual((self.job(after).state, self.job(job_id).state), ("done", "waiting"))
        self.assertEqual(self.firmware.bed.bed_target, 0)
        self.assertNotEqual(first, other)

    def test_a_lease_that_ran_out_is_seen_by_whoever_looks(self):
        job_id = self.queue("grid", columns=3, rows=3)
        with self.sessions.begin() as session:
            jobs.claim_job(session, "one that dies")
        with self.sessions() as session:
            self.assertFalse(jobs.unsettled(session))
            now = lines.db_now(session)
            self.assertFalse(jobs.silent(jobs.get_job(session, job_id), now))
            self.assertTrue(jobs.silent(jobs.get_job(session, job_id), now + timedelta(seconds=7)))
        with self.engine.begin() as link:
            link.execute(text("UPDATE job SET lease_until = lease_until - INTERVAL 10 SECOND"))
        with self.sessions.begin() as session:
            _, unheard = jobs.request_stop(session, job_id, "now")
            self.assertIn("Use the power switch", unheard)
        with self.engine.begin() as link:
            link.execute(text("UPDATE job SET lease_until = lease_until - INTERVAL 11 SECOND"))
        with self.sessions.begin() as session:
            self.assertTrue(jobs.unsettled(session))
            jobs.settle(session)
            job = jobs.get_job(session, job_id)
            self.assertEqual(job.state, "interrupted")
            self.assertIn("may still move", job.message)
            self.assertEqual([one.id for one in jobs.unsure_jobs(session)], [job_id])
            jobs.set_seen(session, job_id)
            self.assertEqual(jobs.unsure_jobs(session), [])

    def test_it_stands_still_and_it_is_off_tapped_at_the_same_moment(self):
        job_id = self.queue("home")
        with self.sessions.begin() as session:
            jobs.claim_job(session, "one that dies")
        with self.engine.begin() as link:
            link.execute(text("UPDATE job SET lease_until = lease_until - INTERVAL 60 SECOND"))
        with self.sessions.begin() as session:
            jobs.settle(session)
        with self.sessions() as first, self.sessions() as second:
            job = jobs.get_job(second, job_id)  # read before the other one is stored
            self.assertIn("unsure", job.live)
            jobs.set_seen(first, job_id)
            first.commit()
            heaters.set_cold(second, stored_printers.get_printer(second, self.printer))
            second.commit()
        with self.sessions() as session:
            live = jobs.get_job(session, job_id).live
            self.assertEqual(("unsure" in live, live[heaters.COLD]), (False, True))

    def test_what_may_move_stays_in_reach_of_a_stop(self):
        job_id = self.queue("home")
        with self.sessions() as session:
            printer = stored_printers.get_printer(session, self.printer)
            setup = support.setup(port="/dev/ttyACM7")
            for forbidden in (
                lambda: printers.set_printer_deleted(session, self.printer, True),
                lambda: printers.update_printer(session, self.printer, setup, printer.version),
                lambda: visits.set_visit_deleted(session, self.visit, True),
            ):
                with self.assertRaisesRegex(ConflictError, "at work"):
                    forbidden()
        self.worker.step()
        self.assertEqual(self.job(job_id).state, "done")
        with self.sessions.begin() as session:
            visits.set_visit_deleted(session, self.visit, True)
            printers.set_printer_deleted(session, self.printer, True)

    def test_nothing_is_asked_of_a_deleted_printer(self):
        with self.sessions.begin() as session:
            printer = stored_printers.get_printer(session, self.printer)
            printers.set_printer_deleted(session, self.printer, True)
        with self.sessions.begin() as session, self.assertRaises(NotFoundError):
            jobs.queue_job(session, session.merge(printer), "home", {}, client_key=support.key())


class HeatTest(BenchCase):
    def line(self):
        with self.sessions() as session:
            return session.query(MachineLine).one()

    def overdue(self):
        with self.engine.begin() as link:
            link.execute(text("UPDATE machine_line SET hot_until = hot_until - INTERVAL 2 HOUR"))

    def test_heaters_go_off_by_themselves_and_that_is_said_before(self):
        with self.sessions() as session:
            asked = requests.ask(stored_printers.get_printer(session, self.printer), "heat", {"bed": 60.0})
            self.assertIn("After 60 minutes the heaters go off by themselves", asked.sentence)
            with self.assertRaises(OutOfRangeError) as caught:
                requests.ask(stored_printers.get_printer(session, self.printer), "soak", {"longest": 3700.0})
            self.assertIn("heaters go off after that", sentence(caught.exception))
        self.assertEqual(self.do("heat", bed=60.0).state, "done")
        until = self.line().hot_until
        self.assertEqual((self.line().hot_printer_id, self.firmware.bed.bed_target), (self.printer, 60))
        # whoever agrees to something stands beside it
        self.do("temperatures")
        self.assertGreater(self.line().hot_until, until)
        self.assertFalse(self.worker.step())
        self.assertEqual(self.firmware.bed.bed_target, 60)
        with self.sessions() as session, self.assertRaisesRegex(ConflictError, "Switch them off first"):
            printers.set_printer_deleted(session, self.printer, True)
        self.overdue()
        self.assertFalse(self.worker.step())
        self.assertEqual(self.firmware.bed.bed_target, 0)
        self.assertIsNone(self.line().hot_until)
        with self.sessions() as session:
            from finchwort.store.visits.logbook import search_entries

            self.assertIn("switched off", search_entries(session)[0].title)

    def test_a_new_link_switches_off_what_an_old_one_left_on(self):
        self.do("heat", bed=60.0)
        self.worker.let_go()
        self.overdue()
        other = Worker(self.sessions, number=9)
        self.addCleanup(other.let_go)
        other.step()
        self.assertEqual(self.firmware.bed.bed_target, 0)

    def test_when_it_cannot_be_reached_that_is_said_and_tried_again(self):
        self.do("heat", bed=60.0)
        self.simulator.unplug()
        self.worker.let_go()
        self.overdue()
        self.worker.step()
        with self.sessions() as session:
            (_, printer), *_ = heaters.hot_lines(session)
            self.assertEqual(printer.id, self.printer)
            from finchwort.store.visits.logbook import search_entries

            self.assertIn("Use the power switch", search_entries(session)[0].detail)
        self.simulator.plug()
        self.worker.step()  # not again at once
        self.assertEqual(self.firmware.bed.bed_target, 60)
        self.worker._retry = 0.0
        self.worker.step()
        self.assertEqual((self.firmware.bed.bed_target, self.line().hot_until), (0, None))

    def test_a_long_job_does_not_keep_them_on(self):
        self.do("heat", bed=60.0)
        job_id = self.queue("grid", columns=5, rows=5)
        original = jobs.claim_job

        def claim(session, *args):
            job = original(session, *args)
            if job is not None:
                session.execute(
                    text("UPDATE machine_line SET hot_until = UTC_TIMESTAMP(6) - INTERVAL 1 SECOND")
                )
            return job

        with mock.patch.object(jobs, "claim_job", claim), mock.patch.object(work, "BEAT_EVERY", 0.0):
            self.worker.step()
        job = self.job(job_id)
        self.assertEqual((job.state, self.firmware.bed.bed_target), ("stopped", 0), job.message)
        self.assertIn("as long as they may", job.message)

    def test_every_failed_heating_ends_with_heaters_off(self):
        for fault in ("stuck", "stopped", "odd"):
            with self.subTest(fault):
                job_id = self.queue("heat", bed=60.0)
                if fault == "stuck":
                    patch = mock.patch.multiple("finchwort.link.machine", HEAT_PATIENCE=-1.0, NEAR=-1.0)
                elif fault == "stopped":
                    between = mock.Mock(side_effect=work.StopError("soft"))
                    patch = mock.patch.object(work.Pulse, "between", between)
                else:
                    patch = mock.patch.object(Machine, "temperatures", mock.Mock(side_effect=KeyError("bed")))
                with patch:
                    self.worker.step()
                job = self.job(job_id)
                self.assertIn("heaters were switched off", job.message)
                self.assertIn(job.state, ("interrupted", "stopped", "failed"))
                self.assertEqual(self.firmware.bed.bed_target, 0)
                self.assertIsNone(self.line().hot_until)

    def test_where_no_line_is_left_it_says_what_stays_on(self):
        job_id = self.queue("heat", bed=60.0)
        original = Machine.temperatures

        def cut(machine):
            if machine.line.listen.__self__.job_id == job_id and self.firmware.bed.bed_target:
                self.simulator.unplug()
            return original(machine)

        with mock.patch.object(Machine, "temperatures", cut), mock.patch.object(work, "LAST_WORDS", 0.5):
            self.worker.step()
        job = self.job(job_id)
        self.assertEqual(job.state, "interrupted")
        self.assertIn("what was on stays on. Use the power switch", job.message)
        self.assertIsNotNone(self.line().hot_until)


class OffsetTest(BenchCase):
    def test_the_real_step_is_what_counts(self):
        """A step that was shown as 0.30 mm closer once was 3.55 mm."""
        self.firmware.offset = self.firmware.stored_offset = 1.5
        with self.sessions.begin() as session:
            offsets.record_offset(
                session, self.printer, {"printer": -1.75}, "typed", client_key=support.key()
            )
        self.do("read_offset")
        with self.assertRaises(OutOfRangeError) as caught:
            self.queue("offset", value=-2.05)
        self.assertIn("3.55 mm at once", sentence(caught.exception))
        self.firmware.offset = -1.7
        self.do("read_offset")
        with self.sessions() as session:
            printer = stored_printers.get_printer(session, self.printer)
            asked = requests.ask(
                printer, "offset", {"value": -1.8}, requests.gather(session, printer, "offset")
            )
        self.assertIn("0.10 mm closer; before −1.70 mm, as the printer says", asked.sentence)
        self.assertIn("−1.75 mm is written down, which is not what stands there.", asked.cautions)

    def test_what_changed_between_reading_and_sending_is_not_sent(self):
        self.do("read_offset")
        job_id = self.queue("offset", value=-1.7)
        self.firmware.offset = -1.2
        self.worker.step()
        job = self.job(job_id)
        self.assertEqual((job.state, self.firmware.offset), ("failed", -1.2))
        self.assertIn("Nothing was sent", job.message)

    def test_it_is_read_back_and_written_down_whatever_became_of_the_visit(self):
        self.do("read_offset")
        job_id = self.queue("offset", value=-1.7, reason="trim")
        with self.engine.begin() as link:
            link.execute(text("UPDATE visit SET ended_at = UTC_TIMESTAMP(6), deleted_at = UTC_TIMESTAMP(6)"))
        self.worker.step()
        job = self.job(job_id)
        self.assertEqual(job.state, "done", job.message)
        self.assertIn("(read back)", job.message)
        with self.sessions() as session:
            newest = stored_offsets.newest_offset(session, self.printer)
            self.assertEqual((newest.parts["printer"], newest.visit_id, newest.reason), (-1.7, None, "trim"))

    def test_a_machine_that_takes_another_value(self):
        self.do("read_offset")
        job_id = self.queue("offset", value=-1.7)
        with mock.patch.object(
            Machine, "set_offset", lambda machine, value: setattr(self.firmware, "offset", -1.6)
        ):
            self.worker.step()
        job = self.job(job_id)
        self.assertEqual(job.state, "failed")
        self.assertIn("the printer says −1.60 mm now", job.message)
        with self.sessions() as session:
            self.assertEqual(stored_offsets.newest_offset(session, self.printer).parts["printer"], -1.6)

    def test_a_machine_that_cannot_tell_is_read_by_the_person(self):
        silent = dict(OPEN.commands)
        del silent["ask_offset"]
        quiet = type(OPEN)(**(vars(OPEN) | {"commands": silent}))
        with mock.patch("finchwort.link.worker.load_dialect", lambda *_: quiet):
            self.assertIn("Read it on its screen", self.do("read_offset").message)
            with self.assertRaises(TypeFirstError):
                self.queue("offset", value=-1.8)
            job = self.do("offset", value=-1.8, before=-1.75)
        self.assertEqual(job.state, "done", job.message)
        self.assertIn("not read back", job.message)
        with self.sessions() as session:
            self.assertEqual(stored_offsets.newest_offset(session, self.printer).parts["printer"], -1.8)


class WalkTest(BenchCase):
    def test_the_head_goes_above_the_last_touch(self):
        """A touch at +3 was once followed by a travel at Z 1."""
        with self.engine.begin() as link:
            link.execute(text("UPDATE printer SET lift = 1"))
        self.firmware.bed.bump = (70.0, 70.0, 2.4, 30.0)
        job = self.do("grid", points=[(60, 60), (70, 70), (190, 180)])
        self.assertEqual(job.state, "done", job.message)
        highest = -9.0
        with self.sessions() as session:
            heights = iter([r.height for r in jobs.readings_of(session, [job])])
        lifts = []
        for said in self.said(job.id):
            if "G30" in said and said.startswith(">"):
                highest = max(highest, next(heights))
            elif said.startswith(">") and "G0 Z" in said:
                lifts.append((float(said.split("Z")[1].split()[0].split("*")[0]), highest))
        self.assertGreaterEqual(lifts[0][0], 5.0)  # nobody had measured this bed
        self.assertTrue(all(z >= max(high + 1.999, 5) for z, high in lifts), lifts)

    def test_a_touch_where_no_bed_can_be_stops_the_walk(self):
        self.firmware.bed.bump = (150.0, 150.0, 4.5, 12.0)
        # the bad place is neither the first nor the last, whichever way this is walked
        job = self.do("grid", points=[(40, 40), (80, 90), (150, 150), (200, 170), (205, 200)])
        self.assertEqual(job.state, "failed", job.message)
        self.assertEqual(job.done, 2)
        self.assertIn("no bed lies there", job.message)
        touched = [said for said in self.said(job.id) if said.startswith("> ") and "G30" in said]
        self.assertEqual(len(touched), job.done + 1)

    def test_what_was_measured_is_known_to_the_next_walk(self):
        with self.sessions.begin() as session:
            offsets.record_offset(
                session, self.printer, {"printer": -1.75}, "paper", client_key=support.key()
            )
        self.do("grid", columns=5, rows=5)
        job_id = self.queue("park", x=10.0, y=10.0)
        self.assertGreater(self.job(job_id).params["highest"], -1)


class OddAnswersTest(BenchCase):
    """No answer of a machine and no missing record ends a worker."""

    def with_machine(self, answer, kind="temperatures", **wanted):
        talk = Talk(answer)
        self.addCleanup(talk.close)
        with self.engine.begin() as link:
            link.execute(text("UPDATE printer SET port = :port"), {"port": talk.url})
        self.worker.let_go()
        job_id = self.queue(kind, **wanted)
        self.assertTrue(self.worker.step())
        job = self.job(job_id)
        self.assertIn(job.state, OVER)
        self.assertTrue(job.message.endswith((".", "?")), job.message)
        return job

    def test_numbers_that_are_none(self):
        for said in (
            "ok T:1.2.3 /0 B:20 /0",
            "ok T:-999 /0 B:20 /0",
            "ok T:20 /0 B:9999.9 /0",
            "ok T:inf /0 B:nan /0",
            "ok T:--- /-.- B:. /.",
            "ok T: B:",
            "ok T:1e5 /0 B:20 /0",
            "ok " + "T:9" * 1000,
        ):
            with self.subTest(said):

                def answer(command, said=said):
                    return f"{said}\n".encode() if command == "M105" else b"ok\n"

                self.assertIn(self.with_machine(answer).state, ("interrupted", "failed"))
        # the worker lives, and does the next job at a machine that is well
        with self.engine.begin() as link:
            link.execute(text("UPDATE printer SET port = :port"), {"port": self.simulator.url})
        self.assertEqual(self.do("temperatures").state, "done")

    def test_a_broken_sensor_ends_a_heating_with_heaters_off(self):
        told = []

        def answer(command):
            told.append(command)
            return b"ok T:-999.0 /0 B:20 /0\n" if command == "M105" else b"ok\n"

        job = self.with_machine(answer, "heat", bed=60.0)
        self.assertIn("sensor is broken or unplugged", job.message)
        self.assertIn("heaters were switched off", job.message)
        self.assertEqual([one for one in told if one.startswith("M140")], ["M140 S60", "M140 S0"])

    def test_floods(self):
        for flood in (b"x" * 2_000_000, b"noise\n" * 400_000, b"\n" * 1_000_000, b"\x00\xff" * 500_000):
            with self.subTest(flood[:6]):
                quick = type(OPEN)(**(vars(OPEN) | {"patience": 1.0}))
                with mock.patch("finchwort.link.worker.load_dialect", lambda *_, quick=quick: quick):
                    job = self.with_machine(
                        lambda command, flood=flood: flood if command == "M105" else b"ok\n"
                    )
                self.assertEqual(job.state, "interrupted")

    def test_records_that_are_gone(self):
        for table in ("visit", "printer"):
            with self.subTest(table):
                job_id = self.queue("repeatability", count=5)
                with self.engine.begin() as link:
                    link.execute(text(f"UPDATE {table} SET deleted_at = UTC_TIMESTAMP(6)"))
                self.assertTrue(self.worker.step())
                self.assertIn(self.job(job_id).state, OVER)
                with self.engine.begin() as link:
                    link.execute(text(f"UPDATE {table} SET deleted_at = NULL"))
        self.assertEqual(self.do("temperatures").state, "done")

    def test_whatever_is_raised_a_worker_lives_and_a_link_that_gives_up_says_so(self):
        job_id = self.queue("home")
        with mock.patch.object(work.Work, "do", side_effect=ZeroDivisionError):
            self.assertTrue(self.worker.step())
        job = self.job(job_id)
        self.assertEqual(job.state, "failed")
        self.assertIn("ZeroDivisionError", job.message)
        with mock.patch.object(Worker, "run", side_effect=SystemExit):
            self.assertFalse(run_link(self.sessions, threading.Event(), workers=1))


class MachineTest(unittest.TestCase):
    def machine(self, answer):
        talk = Talk(answer)
        self.addCleanup(talk.close)
        line = Line(talk.url, OPEN)
        self.addCleanup(line.close)
        return Machine(line, Limits(Bed(100, 100), (0.0, 0.0), 100.0, 250.0, 1.0)), talk

    def test_sensible_temperatures(self):
        machine, _ = self.machine(lambda command: b"ok T:-999 /0 B:20 /0\n")
        with self.assertRaises(SensorError):
            machine.temperatures()

    def test_offsets_in_several_words(self):
        for said, value in (
            ("echo:Probe Z Offset: -1.75", -1.75),
            ("Probe Offset X:-10.00 Y:-5.00 Z:-1.25", -1.25),
            ("  M851 X-10.00 Y-5.00 Z0.40 ; (mm)", 0.4),
        ):
            machine, _ = self.machine(lambda command, said=said: f"{said}\nok\n".encode())
            self.assertEqual(machine.read_offset(), value)
        machine, _ = self.machine(ok)
        with self.assertRaises(LineError):
            machine.read_offset()

    def test_far_touches(self):
        answers = iter([0.1, 0.2, 2.9, 3.4])

        def answer(command):
            if command.startswith("G30"):
                return f"Bed X: 50.0 Y: 50.0 Z: {next(answers)}\nok\n".encode()
            return b"ok\n"

        machine, talk = self.machine(answer)
        machine.begin(None)
        for _ in range(3):
            machine.lift()
            machine.touch(50, 50)
        machine.lift()
        with self.assertRaises(FarTouchError):
            machine.touch(50, 50)
        machine.lift()
        lifts = [float(said.split("Z")[1].split()[0]) for said in talk.got if said.startswith("G0 Z")]
        self.assertEqual(lifts, [5.0, 5.0, 5.0, 5.0, 5.4])

    def test_endless_talk_is_cut(self):
        machine, _ = self.machine(lambda command: b"chatter\n" * (line_module.MAX_HEARD + 10))
        with self.assertRaises(GarbledError):
            machine.line.send("M105")


if __name__ == "__main__":
    unittest.main()
