"""Jobs as records: asked for once, taken once, ended once, whatever comes at the same moment."""

import threading
from datetime import timedelta

from finchwort.services.machine import jobs
from finchwort.services.printers import printers
from finchwort.services.visits import visits
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.machine import jobs as stored_jobs
from finchwort.store.machine import lines
from finchwort.store.machine.kinds import JobState
from finchwort.store.printers import printers as stored_printers
from finchwort.store.visits import logbook
from tests.fixtures.support import DatabaseCase, key, setup

POINTS = [[15.0, 15.0], [205.0, 15.0], [205.0, 205.0], [15.0, 205.0]]


class JobCase(DatabaseCase):
    def setUp(self):
        super().setUp()
        with self.sessions.begin() as session:
            printer = printers.create_printer(session, setup(port="/dev/ttyACM0"))
            self.printer, self.visit = printer.id, visits.start_visit(session, printer).id

    def queue(self, kind="grid", client_key=None, resumes=None, **params):
        with self.sessions.begin() as session:
            printer = stored_printers.get_printer(session, self.printer)
            before = stored_jobs.get_job(session, resumes) if resumes else None
            params = params or {"points": POINTS}
            return stored_jobs.queue_job(
                session,
                printer,
                kind,
                params,
                client_key=client_key or key(),
                visit_id=self.visit,
                total=len(params.get("points", ())),
                resumes=before,
            ).id

    def claim(self, owner="me"):
        with self.sessions.begin() as session:
            job = stored_jobs.claim_job(session, owner)
            return job.id if job else None

    def read(self, job_id, places, owner="me", begin=0):
        with self.sessions.begin() as session:
            for i, (x, y) in enumerate(places):
                stored_jobs.add_reading(session, job_id, i, x, y, 0.01 * (begin + i), 4.0 * i)
            stored_jobs.tell_progress(session, job_id, owner, done=len(places), message="m" * 900)

    def end(self, job_id, state, owner="me"):
        with self.sessions.begin() as session:
            stored_jobs.end_job(session, stored_jobs.get_job(session, job_id), state, "Over.")
            lines.release_line(session, stored_jobs.get_job(session, job_id).line_id, owner)


class QueueTest(JobCase):
    def test_asked_for_at_the_same_moment_one_wins(self):
        came, barrier = [], threading.Barrier(5)

        def ask():
            barrier.wait()
            try:
                came.append(self.queue())
            except ConflictError as error:
                came.append(str(error))

        threads = [threading.Thread(target=ask) for _ in range(5)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sum(isinstance(one, int) for one in came), 1, came)
        self.assertTrue(all("at work" in one for one in came if isinstance(one, str)))

    def test_a_key_stands_for_one_thing(self):
        same = key()
        self.assertEqual(self.queue(client_key=same), self.queue(client_key=same))
        with self.assertRaises(KeyTakenError):
            self.queue("home", client_key=same, x=1)

    def test_two_printers_on_one_port_share_a_line(self):
        first = self.queue()
        with self.sessions.begin() as session:
            other = printers.create_printer(session, setup("Twin", port="/dev/ttyACM0"))
            job = stored_jobs.queue_job(session, other, "home", {}, client_key=key())
            self.assertEqual(job.line_id, stored_jobs.get_job(session, first).line_id)

    def test_a_visit_of_another_printer(self):
        with self.sessions.begin() as session:
            other = printers.create_printer(session, setup("Twin", port="/dev/ttyACM1"))
            with self.assertRaises(ConflictError):
                stored_jobs.queue_job(session, other, "home", {}, client_key=key(), visit_id=self.visit)


class LifeTest(JobCase):
    def test_from_asked_to_kept(self):
        job_id = self.queue()
        self.assertEqual(self.claim(), job_id)
        self.assertIsNone(self.claim("other"))
        self.read(job_id, POINTS)
        with self.sessions.begin() as session:
            job = stored_jobs.get_job(session, job_id)
            self.assertEqual((job.state, job.done, len(job.message)), ("running", 4, 500))
            self.assertEqual(stored_jobs.beat(session, job_id, "me").stop, None)
            self.assertIn("4 readings stored", jobs.keep_readings(session, job))
        self.end(job_id, JobState.DONE)
        with self.sessions() as session:
            self.assertIsNotNone(stored_jobs.get_job(session, job_id).survey_id)
            self.assertEqual(logbook.search_entries(session, kind="job"), [])  # success tells itself

    def test_a_stop_is_heard_and_the_harder_one_wins(self):
        job_id = self.queue()
        self.claim()
        for asked, heard in (("soft", "soft"), ("now", "now"), ("soft", "now")):
            with self.sessions.begin() as session:
                stored_jobs.request_stop(session, job_id, asked)
            with self.sessions.begin() as session:
                self.assertEqual(stored_jobs.beat(session, job_id, "me").stop, heard)
        with self.sessions.begin() as session, self.assertRaises(NotFoundError):
            stored_jobs.request_stop(session, 999, "now")

    def test_only_the_owner_beats(self):
        job_id = self.queue()
        self.claim()
        with self.sessions.begin() as session:
            with self.assertRaises(stored_jobs.LostError):
                stored_jobs.beat(session, job_id, "thief")
            line = stored_jobs.get_job(session, job_id).line_id
            self.assertFalse(lines.keep_line(session, line, "thief"))
            self.assertTrue(lines.keep_line(session, line, "me"))

    def test_a_line_kept_between_jobs_is_not_given_away(self):
        first = self.queue("home", x=1)
        self.claim()
        with self.sessions.begin() as session:
            stored_jobs.end_job(session, stored_jobs.get_job(session, first), JobState.DONE, "Homed.")
        second = self.queue("home", x=2)
        self.assertIsNone(self.claim("other"))
        self.assertEqual(self.claim("me"), second)

    def test_ends_are_told_in_the_book(self):
        job_id = self.queue()
        self.claim()
        self.read(job_id, POINTS[:2])
        self.end(job_id, JobState.INTERRUPTED)
        with self.sessions() as session:
            entry = logbook.search_entries(session, kind="job")[0]
            self.assertEqual(entry.title, "Probe the bed: interrupted after 2 of 4")
            self.assertEqual(entry.visit_id, self.visit)

    def test_silence_ends_a_job(self):
        job_id = self.queue()
        self.claim()
        with self.sessions.begin() as session:
            job = stored_jobs.get_job(session, job_id)
            self.assertEqual(stored_jobs.settle(session), 0)
            job.lease_until = lines.db_now(session) - timedelta(seconds=1)
            session.flush()
            self.assertEqual(stored_jobs.settle(session), 1)
            self.assertEqual(job.state, JobState.INTERRUPTED)


class ChainTest(JobCase):
    def broken(self, places, resumes=None, begin=0):
        job_id = self.queue(resumes=resumes, points=places)
        self.assertEqual(self.claim(), job_id)
        self.read(job_id, places[:1], begin=begin)
        self.end(job_id, JobState.STOPPED)
        return job_id

    def test_readings_of_all_parts_in_order(self):
        first = self.broken(POINTS)
        second = self.broken(POINTS[1:], first, 1)
        third = self.queue(resumes=second, points=POINTS[2:])
        self.claim()
        self.read(third, POINTS[2:], begin=2)
        with self.sessions.begin() as session:
            job = stored_jobs.get_job(session, third)
            chain = stored_jobs.chain_of(session, job)
            self.assertEqual([one.id for one in chain], [first, second, third])
            readings = stored_jobs.readings_of(session, chain)
            self.assertEqual([[r.x, r.y] for r in readings], POINTS)
            self.assertEqual([r.height for r in readings], [0.0, 0.01, 0.02, 0.03])
            jobs.keep_readings(session, job)
            self.assertIsNotNone(job.survey_id)

    def test_the_pace_of_a_printer(self):
        with self.sessions() as session:
            self.assertIsNone(stored_jobs.pace_of(session, self.printer))
        job_id = self.queue()
        self.claim()
        self.read(job_id, POINTS)
        self.end(job_id, JobState.DONE)
        with self.sessions() as session:
            self.assertEqual(stored_jobs.pace_of(session, self.printer), 4.0)

    def test_too_few_to_keep_are_told_and_nothing_breaks(self):
        first = self.broken(POINTS)
        with self.sessions.begin() as session:
            said = jobs.keep_readings(session, stored_jobs.get_job(session, first))
            self.assertIn("not stored in the visit", said)
            self.assertIsNone(stored_jobs.get_job(session, first).survey_id)

    def test_the_conversation_comes_in_pages(self):
        job_id = self.queue()
        with self.sessions.begin() as session:
            now = lines.db_now(session)
            stored_jobs.add_lines(session, job_id, [(now, "<", f"line {i} " + "x" * 600) for i in range(700)])
            stored_jobs.add_lines(session, job_id, [])
        with self.sessions() as session:
            page = stored_jobs.conversation(session, job_id)
            self.assertEqual((len(page), len(page[0].text)), (500, 500))
            self.assertEqual(len(stored_jobs.conversation(session, job_id, page[-1].id)), 200)
