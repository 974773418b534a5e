"""Offsets and ladders as records: what counts, what puts it in doubt, ladders across a correction."""

from datetime import timedelta

from finchwort.core.base.errors import ChoiceError
from finchwort.core.first_layer import Bead
from finchwort.demo.workshop import load_demo
from finchwort.services.first_layer import offsets, trials
from finchwort.services.printers import printers
from finchwort.services.visits import visits
from finchwort.store.errors import NotFoundError
from finchwort.store.first_layer import offsets as stored_offsets
from finchwort.store.printers import printers as stored_printers
from finchwort.store.records import utcnow
from tests.fixtures.support import DatabaseCase, key, setup


class OffsetRecordsTest(DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)

    def test_the_newest_counts_and_the_one_before_when_it_is_taken_back(self):
        printer = printers.create_printer(self.session, setup())
        now = utcnow()
        made = [
            offsets.record_offset(
                self.session,
                printer.id,
                {"printer": value},
                "typed",
                client_key=key(),
                at=now - timedelta(days=days),
            )
            for value, days in ((-1.0, 3), (-1.1, 2), (-1.05, 1))
        ]
        self.assertEqual([round(one.closer or 0, 3) for one in made], [0, 0.1, -0.05])
        self.assertEqual(stored_offsets.newest_offset(self.session, printer.id).id, made[2].id)
        offsets.set_offset_deleted(self.session, made[2].id, True)
        self.assertEqual(stored_offsets.newest_offset(self.session, printer.id).id, made[1].id)
        self.assertEqual(
            stored_offsets.newest_offset(self.session, printer.id, now - timedelta(days=2.5)).id, made[0].id
        )
        with self.assertRaises(NotFoundError):
            offsets.set_offset_deleted(self.session, made[2].id, True)
        with self.assertRaises(ChoiceError):
            offsets.record_offset(self.session, printer.id, {}, "typed", client_key=key())

    def test_ladders_count_from_the_present_offset(self):
        printer = printers.create_printer(self.session, setup())
        visit = visits.start_visit(self.session, printer)
        bead = Bead(0.42, 0.2)
        offsets.record_offset(self.session, printer.id, {"printer": -1.0}, "typed", client_key=key())
        judged = list(zip((0.12, 0.06, 0.0, -0.06), ("too_far", "good", "good", "too_close"), strict=True))
        trials.record_ladder(self.session, visit.id, judged, client_key=key())
        before = trials.ladders_of(self.session, visit, bead).found.best
        offsets.record_offset(self.session, printer.id, {"printer": -0.97}, "ladder", client_key=key())
        after = trials.ladders_of(self.session, visit, bead).found.best
        self.assertAlmostEqual(after, before - 0.03, delta=0.003)

    def test_the_demo_has_a_history_for_each_printer_with_a_probe_or_screws(self):
        load_demo(self.session)
        counts = {
            p.name: len(stored_offsets.list_offsets(self.session, p.id))
            for p in stored_printers.list_printers(self.session)
        }
        self.assertEqual(counts, {"Bittern": 3, "Avocet": 2, "Water Rail": 0, "Snipe": 1})
