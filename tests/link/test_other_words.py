"""The simulated printer in its other mood: nothing in the product takes one way of talking for the only one."""

from finchwort.store.machine import jobs
from finchwort.store.machine.kinds import JobState
from finchwort.store.models import MachineTold
from tests.fixtures.line import BenchCase

MESH = [[0.10, 0.00, 0.05], [0.02, -0.04, 0.01], [0.08, 0.03, 0.12]]


class PlainWordsTest(BenchCase):
    dialect = "plain"

    def done(self, kind, **wanted):
        job = self.do(kind, **wanted)
        self.assertEqual(job.state, JobState.DONE, job.message)
        return job

    def sent(self, job):
        return [line[2:] for line in self.said(job.id) if line.startswith(">")]

    def test_what_it_is_and_keeps_is_understood(self):
        self.firmware.mesh, self.firmware.follows_mesh = MESH, True
        self.done("connect")
        with self.sessions() as session:
            (told,) = session.query(MachineTold).all()
        data = told.told
        self.assertIn("1.4", data["firmware"])
        self.assertEqual((data["machine"], data["offset"], data["compensation"]), ("bench", -1.75, True))
        self.assertEqual((data["steps"]["z"], data["mesh"]), (400.0, MESH))

    def test_it_probes_a_grid(self):
        job = self.done("grid", columns=3, rows=3)
        touches = [line for line in self.sent(job) if line.startswith("TOUCH X")]
        self.assertGreaterEqual(len(touches), 9)
        self.assertEqual([line for line in self.sent(job) if line[:1] in "GM" and line[1:2].isdigit()], [])
        with self.sessions() as session:
            found = jobs.readings_of(session, [jobs.get_job(session, job.id)])
        for reading in found[:9]:
            true = float(self.firmware.bed.height(reading.x, reading.y))
            self.assertAlmostEqual(reading.height, true, delta=0.05)

    def test_it_heats_and_cools(self):
        self.done("heat", bed=60.0, nozzle=None)
        self.assertGreater(self.firmware.bed.bed_target, 59)
        self.done("cool")
        self.assertEqual(self.firmware.bed.bed_target, 0)

    def test_its_switches_have_other_names_for_their_states(self):
        self.firmware.pressed = "y_min"
        job = self.done("switches")
        self.assertIn("switch y_min is pressed", " ".join(self.said(job.id)))

    def test_words_that_it_does_not_know_are_not_understood(self):
        self.firmware.take("G28")
        self.firmware.carry_out(self.firmware.lines.get())
        self.assertFalse(self.firmware.homed)
