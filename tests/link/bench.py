"""A simulated printer and a worker on the bench, for tests."""

from __future__ import annotations

from finchwort.link.simulated.firmware import Firmware
from finchwort.link.simulated.serve import Simulator
from finchwort.link.worker import Worker
from finchwort.services.machine import requests
from finchwort.services.printers import printers
from finchwort.services.visits import visits
from finchwort.store.machine import jobs
from finchwort.store.printers import printers as stored_printers
from tests import support

PROBE = {"probe_kind": "inductive", "probe_dx": 28.0, "probe_dy": -12.0}


class BenchCase(support.DatabaseCase):
    """A test with a simulated printer on a line and a worker that takes jobs when told to."""

    speed = 400.0

    def setUp(self) -> None:
        super().setUp()
        self.simulator = Simulator(firmware=Firmware(7, self.speed)).start()
        self.addCleanup(self.simulator.stop)
        self.firmware = self.simulator.firmware
        self.worker = Worker(self.sessions)
        self.addCleanup(self.worker.let_go)
        with self.sessions.begin() as session:
            setup = support.setup(port=self.simulator.url, **PROBE)
            self.printer = printers.create_printer(session, setup).id
            self.visit = visits.start_visit(session, stored_printers.get_printer(session, self.printer)).id

    def queue(self, kind: str, resume: int | None = None, **wanted) -> int:
        """Ask for a job and return its id."""
        with self.sessions.begin() as session:
            printer = stored_printers.get_printer(session, self.printer)
            before = jobs.get_job(session, resume) if resume else None
            if before:
                chain = jobs.chain_of(session, before)
                readings = jobs.readings_of(session, chain)
                asked = requests.ask_resume(printer, before, readings, chain[0].params["points"])
            else:
                asked = requests.ask(printer, kind, wanted, **requests.gather(session, printer, kind))
            job = jobs.queue_job(
                session,
                printer,
                kind,
                asked.params,
                client_key=support.key(),
                visit_id=self.visit,
                total=asked.total,
                resumes=before,
            )
            return job.id

    def job(self, job_id: int):
        """Return a job as it is now."""
        with self.sessions() as session:
            return jobs.get_job(session, job_id)

    def do(self, kind: str, resume: int | None = None, **wanted):
        """Ask for a job, do it, return it."""
        job_id = self.queue(kind, resume, **wanted)
        self.worker.step()
        return self.job(job_id)

    def said(self, job_id: int) -> list[str]:
        """Return the conversation of a job."""
        with self.sessions() as session:
            return [f"{one.way} {one.text}" for one in jobs.conversation(session, job_id, limit=5000)]
