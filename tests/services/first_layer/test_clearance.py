"""What is known of bed and tip, over random machines and histories: no file drives the tip into the plate."""

from finchwort.core.first_layer import Bead
from finchwort.core.probing import Feel, feel_bed
from finchwort.core.surveys import Survey
from finchwort.messages.remarks import sentences, words
from finchwort.services.first_layer import offsets, trials
from finchwort.services.first_layer.clearance import highest_ground, what_is_known
from finchwort.services.first_layer.trials import zero_of
from finchwort.services.printers import printers
from finchwort.services.surveys import surveys
from finchwort.services.tramming import bench
from finchwort.services.visits import changes, visits
from finchwort.store.printers import printers as stored_printers
from finchwort.store.visits.events import happened_since, mark_of, newest_event
from tests.fixtures.support import DatabaseCase, key, setup
from tests.simulation.clearance import run

HISTORIES = 40
"""In the test; bench/clearance.py lives through 5,000."""
BEAD = Bead(0.42, 0.2)


class RandomHistoriesTest(DatabaseCase):
    def test_not_one_move_goes_lower_than_contact_allows(self):
        made = 0
        for seed in range(HISTORIES):
            with self.sessions() as session:
                tried = run(session, seed)
                session.rollback()
            if tried.least is not None:
                made += 1
                self.assertGreater(
                    tried.least, 0, f"{seed}: {tried.kind} at {tried.where} after {tried.story}"
                )
            else:
                self.assertTrue(tried.refused.endswith("."), tried.refused)
        # neither everything nor nothing is refused
        self.assertGreater(made, HISTORIES / 4)
        self.assertLess(made, HISTORIES)


class KnownTest(DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        self.printer = printers.create_printer(self.session, setup())
        self.visit = visits.start_visit(self.session, self.printer, surface="Sheet")

    def survey(self):
        points = [(x, y) for x in (15, 110, 205) for y in (15, 110, 205)]
        readings = Survey(*zip(*points, strict=True), [0.0] * 9)
        return surveys.store_survey(self.session, self.visit.id, readings, client_key=key(), source="probe")

    def offset(self, value=-1.0, reason="paper"):
        return offsets.record_offset(
            self.session, self.printer.id, {"printer": value}, reason, client_key=key()
        )

    def change(self, what):
        return changes.record_change(self.session, self.printer.id, what, client_key=key())

    def test_what_paper_left_open_clears_no_move(self):
        self.survey()
        self.offset()
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)
        feels = [
            Feel(x, y, f, 0.1) for x, y, f in ((15, 15, "stuck"), (205, 15, "slight"), (110, 205, "slight"))
        ]
        felt = feel_bed(feels, stored_printers.bed_of(self.printer))
        readings = Survey([f.x for f in feels], [f.y for f in feels], felt.heights)
        surveys.store_survey(
            self.session, self.visit.id, readings, client_key=key(), source="paper", felt=felt, feels=feels
        )
        self.assertIn("only which way", words(what_is_known(self.session, self.visit).ground.refused))

    def test_a_look_with_paper_holds_for_its_surface_and_its_mesh(self):
        def look(**more):
            return changes.record_change(
                self.session, self.printer.id, "clear", client_key=key(), visit_id=self.visit.id, **more
            )

        self.offset()
        look()
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)
        self.visit.surface = "Glass"
        self.assertIn("plate", words(what_is_known(self.session, self.visit).ground.refused))
        look(compensated=True)
        self.assertIn("followed its mesh", words(what_is_known(self.session, self.visit).ground.refused))
        look(compensated=False)
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)

    def test_knobs_turned_at_the_bench_clear_nothing(self):
        self.survey()
        self.offset()
        bench.record_step(self.session, self.visit.id, "feel", 0, feel="free", client_key=key())
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)
        bench.record_step(self.session, self.visit.id, "drag", 0, client_key=key())
        self.assertIn("without a plan", words(what_is_known(self.session, self.visit).ground.refused))
        bench.undo_step(self.session, self.visit.id)
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)

    def test_a_look_between_two_turns_at_the_bench_is_put_out_by_the_second(self):
        def turn():
            return bench.record_step(self.session, self.visit.id, "drag", 0, client_key=key())

        def refused():
            return what_is_known(self.session, self.visit).ground.refused

        self.offset()
        turn()
        changes.record_change(
            self.session, self.printer.id, "clear", client_key=key(), visit_id=self.visit.id
        )
        self.assertIsNone(refused())
        turn()
        self.assertIn("without a plan", words(refused()))
        # taken back, done again after another look: each time what was done last counts
        bench.undo_step(self.session, self.visit.id)
        self.assertIsNone(refused())
        changes.record_change(
            self.session, self.printer.id, "clear", client_key=key(), visit_id=self.visit.id
        )
        turn()
        self.assertIn("without a plan", words(refused()))

    def test_a_bed_raised_with_all_knobs_counts_against_a_look(self):
        self.offset()
        changes.record_change(
            self.session, self.printer.id, "clear", client_key=key(), visit_id=self.visit.id
        )
        before = what_is_known(self.session, self.visit).ground.highest()
        offsets.record_offset(
            self.session, self.printer.id, {"printer": -1.0}, "knobs", client_key=key(), data={"by_hand": 0.2}
        )
        after = what_is_known(self.session, self.visit).ground.highest()
        self.assertAlmostEqual(after - before, 0.2)

    def ladder(self):
        steps = ("far_too_far", "too_far", "too_far", "good", "good")
        shifts = (0.1, 0.05, 0.0, -0.1, -0.15)
        return trials.record_ladder(
            self.session, self.visit.id, list(zip(shifts, steps, strict=True)), client_key=key()
        )

    def test_a_survey_of_an_earlier_visit_counts_while_nothing_happened(self):
        self.survey()
        self.offset()
        later = visits.start_visit(self.session, self.printer)
        self.assertIsNone(what_is_known(self.session, later).ground.refused)
        self.change("moved")
        self.assertIn("carried elsewhere", words(what_is_known(self.session, later).ground.refused))

    def test_what_belongs_to_a_deleted_visit_happened_all_the_same(self):
        record = self.survey()
        mark = mark_of(self.session, record)
        made = self.change("knobs")
        self.assertEqual([one.what for one in happened_since(self.session, self.printer.id, mark)], ["knobs"])
        changes.set_change_deleted(self.session, made.id, True)
        self.assertEqual(happened_since(self.session, self.printer.id, mark), [])
        self.assertEqual(newest_event(self.session, self.printer.id, ["knobs"]), 0)

    def test_a_ladder_says_nothing_after_the_nozzle_was_changed(self):
        self.survey()
        self.offset()
        self.ladder()
        self.assertGreater(zero_of(self.session, self.visit, BEAD), 0.02)
        self.change("nozzle")
        self.assertEqual(zero_of(self.session, self.visit, BEAD), 0.0)
        self.assertIn("nozzle", words(what_is_known(self.session, self.visit).ground.refused))
        # found anew, at quite another value: the old ladder must not be counted from there
        self.offset(-0.6)
        self.assertEqual(zero_of(self.session, self.visit, BEAD), 0.0)
        self.assertIsNone(what_is_known(self.session, self.visit).ground.refused)

    def test_nothing_closer_on_the_word_of_a_ladder_once_an_offset_was_written_down(self):
        self.offset()
        self.ladder()
        self.assertGreater(zero_of(self.session, self.visit, BEAD), 0.02)
        self.offset(-0.7, "typed")  # a slip of the pen, or not
        self.assertLessEqual(zero_of(self.session, self.visit, BEAD), 0.0)

    def test_paper_that_was_felt_before_the_tip_came_closer(self):
        def known():
            return what_is_known(self.session, self.visit).ground

        self.change("clear")
        self.assertIsNone(known().refused)
        self.offset(-1.0)  # nobody knows what stood there when the paper was felt
        self.assertIn("nobody knows how much closer", words(known().refused))
        self.change("clear")
        before = known().highest()
        self.offset(-1.1)
        self.assertAlmostEqual(known().highest(), before + 0.1)
        self.assertIn("0.10 mm closer since", " ".join(sentences(known().reasons)))
        self.offset(-0.9)
        self.assertAlmostEqual(known().highest(), before)

    def test_the_highest_ground(self):
        self.assertIsNone(highest_ground(self.session, self.printer))
        self.survey()
        self.offset()
        self.assertLess(highest_ground(self.session, self.printer), 0.3)
        self.change("crash")
        self.assertIsNone(highest_ground(self.session, self.printer))
