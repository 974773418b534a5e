"""What is sent twice is stored once, and a key never stands for two things."""

from finchwort.services.diagnosis import cases, opening
from finchwort.services.printers import printers
from finchwort.services.visits import changes, visits
from finchwort.store.diagnosis import cases as stored_cases
from finchwort.store.errors import KeyTakenError, NotFoundError
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.printers import own_pairs
from finchwort.store.records import set_deleted
from tests.fixtures import support
from tests.fixtures.support import key


class RecorderTest(support.DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        self.printer = printers.create_printer(self.session, support.setup())
        self.visit = visits.start_visit(self.session, self.printer)
        self.session.flush()

    def refused(self, act):
        with self.assertRaises(KeyTakenError):
            act()

    def test_a_case_with_other_signs_or_circumstances_is_another(self):
        one, sent = key(), {"words": "It peels.", "signs": [("gaps", "yes")], "circumstances": ["later"]}
        open_case = lambda **more: opening.open_case(  # noqa: E731
            self.session, self.printer.id, client_key=one, **sent | more
        )
        made = open_case()
        self.assertEqual(open_case().id, made.id)
        # an answer that was taken back since was sent none the less
        stored_cases.set_event_deleted(self.session, made.events[0].id, True)
        self.assertEqual(open_case().id, made.id)
        for other in (
            {"signs": [("gaps", "no")]},
            {"signs": [("gaps", "yes"), ("round_spots", "yes")]},
            {"signs": []},
            {"circumstances": []},
            {"place": (20.0, 30.0)},
            {"words": "It curls."},
        ):
            with self.subTest(other):
                self.refused(lambda other=other: open_case(**other))

    def test_an_answer_that_was_taken_back_does_not_come_back_by_itself(self):
        case, one = opening.open_case(self.session, self.printer.id, client_key=key(), words="x"), key()
        answer = lambda: cases.answer_sign(self.session, case.id, "gaps", "yes", client_key=one)  # noqa: E731
        made = answer()
        self.assertEqual(answer().id, made.id)
        stored_cases.set_event_deleted(self.session, made.id, True)
        self.refused(answer)

    def test_an_experiment_that_ended_was_begun_once(self):
        case, one = opening.open_case(self.session, self.printer.id, client_key=key(), words="x"), key()
        begin = lambda: cases.begin_remedy(self.session, case.id, "bed_cold", client_key=one)  # noqa: E731
        begun = begin()
        cases.end_remedy(self.session, case.id, begun.id, "better", client_key=key())
        self.assertEqual(begin().id, begun.id)
        self.assertEqual(stored_cases.open_remedies(case), [])

    def test_a_change_of_another_visit_or_with_another_note_is_another(self):
        one = key()
        change = lambda **more: changes.record_change(  # noqa: E731
            self.session, self.printer.id, "nozzle", client_key=one, **{"note": "0.4"} | more
        )
        made = change()
        self.assertEqual(change().id, made.id)
        self.refused(lambda: change(note="0.6"))
        self.refused(lambda: change(visit_id=self.visit.id))

    def test_another_range_of_the_table_is_another_entry(self):
        one = key()
        made = own_pairs.add_own_pair(self.session, "smooth_pei", "PLA", 55, 60, client_key=one)
        same = own_pairs.add_own_pair(self.session, "smooth_pei", "PLA", 55, 60, client_key=one)
        self.assertEqual(same.id, made.id)
        self.refused(
            lambda: own_pairs.add_own_pair(self.session, "smooth_pei", "PLA", 50, 60, client_key=one)
        )

    def test_what_is_gone_is_not_deleted_again(self):
        made = changes.record_change(self.session, self.printer.id, "nozzle", client_key=key())
        set_deleted(self.session, MachineChange, made.id, True, "none")
        with self.assertRaisesRegex(NotFoundError, "none"):
            set_deleted(self.session, MachineChange, made.id, True, "none")
        self.assertIsNone(set_deleted(self.session, MachineChange, made.id, False, "none").deleted_at)
        with self.assertRaises(NotFoundError):
            set_deleted(self.session, MachineChange, 10**9, True, "none")
