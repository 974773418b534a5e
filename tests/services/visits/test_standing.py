"""What still holds at a printer after what was written down, and the list that ticks itself off."""

from datetime import timedelta

from finchwort.core.base.errors import ChoiceError
from finchwort.core.surveys import Survey
from finchwort.services.first_layer import offsets, trials
from finchwort.services.printers import printers
from finchwort.services.probing import probe_tests
from finchwort.services.surveys import surveys
from finchwort.services.tramming import adjustments, learning, turnings
from finchwort.services.visits import changes, drift, visits
from finchwort.services.visits.follow_up import after_of, leave_out, tick, tick_if_asked
from finchwort.services.visits.standing import known_survey, survey_stands
from finchwort.services.visits.validity import what_holds
from finchwort.store.errors import ConflictError
from finchwort.store.records import utcnow
from finchwort.store.visits.logbook import search_entries
from tests.fixtures.support import DatabaseCase, key, setup

HANDS = ("seat", "switch", "clips", "home")


class StandingCase(DatabaseCase):
    changes: dict = {"zero_kept": "switch"}

    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        self.printer = printers.create_printer(self.session, setup(**self.changes))
        self.visit = visits.start_visit(self.session, self.printer, surface="Sheet")

    def survey(self, tilt=0.0, visit=None, at=None):
        points = [(x, y) for x in (15, 110, 205) for y in (15, 110, 205)]
        readings = Survey(*zip(*points, strict=True), [tilt * (x - 110) / 190 for x, _ in points])
        return surveys.store_survey(
            self.session,
            (visit or self.visit).id,
            readings,
            client_key=key(),
            source="probe",
            noise=0.004,
            at=at,
        )

    def happened(self, what, **more):
        return changes.record_change(self.session, self.printer.id, what, client_key=key(), **more)

    def offset(self, value=-1.0):
        return offsets.record_offset(
            self.session,
            self.printer.id,
            {"printer": value},
            "paper",
            client_key=key(),
            visit_id=self.visit.id,
        )

    def ladder(self):
        return trials.record_ladder(
            self.session, self.visit.id, [(0.05, "too_far"), (0.0, "good"), (-0.05, "good")], client_key=key()
        )

    def left(self):
        found = after_of(self.session, self.printer)
        return [step.name for step in found.left] if found else []

    def state(self, thing):
        (one,) = (one for one in what_holds(self.session, self.printer) if one.thing == thing)
        return one.standing.state


class ListTest(StandingCase):
    def test_a_plate_exchanged_from_the_tap_to_the_last_tick(self):
        self.survey()
        self.offset()
        self.ladder()
        self.assertEqual(self.left(), [])
        self.happened("plate", visit_id=self.visit.id)
        rest = ["level", "offset", "print"]
        self.assertEqual(self.left(), [*HANDS, *rest])
        for step in HANDS:
            tick(self.session, self.printer.id, step, client_key=key())
        self.assertEqual(self.left(), rest)
        self.survey(tilt=0.6)  # measured, and not level
        self.assertEqual(self.left(), rest)
        self.survey()
        self.assertEqual(self.left(), ["offset", "print"])
        self.offset(-0.7)
        self.assertEqual(self.left(), ["print"])
        self.ladder()
        self.assertIsNone(after_of(self.session, self.printer))

    def test_a_tick_can_be_taken_back_and_is_counted_once(self):
        self.happened("plate")
        made = tick(self.session, self.printer.id, "clips", client_key="the-very-same-key")
        again = tick(self.session, self.printer.id, "clips", client_key="the-very-same-key")
        self.assertEqual(made.id, again.id)
        self.assertNotIn("clips", self.left())
        changes.set_change_deleted(self.session, made.id, True)
        self.assertIn("clips", self.left())

    def test_what_is_recorded_cannot_be_ticked_by_hand_nor_what_nobody_asks_for(self):
        self.happened("plate")
        with self.assertRaises(ChoiceError):
            tick(self.session, self.printer.id, "level", client_key=key())
        with self.assertRaises(ConflictError):
            tick(self.session, self.printer.id, "sock", client_key=key())
        # a job that homes ticks what is asked for, and nothing else
        tick_if_asked(self.session, self.printer, "home", client_key=key())
        tick_if_asked(self.session, self.printer, "sock", client_key=key())
        self.assertEqual(self.left()[:3], ["seat", "switch", "clips"])
        self.assertNotIn("home", self.left())

    def test_an_event_taken_back_takes_its_list_with_it(self):
        made = self.happened("nozzle")
        self.assertIn("tight", self.left())
        changes.set_change_deleted(self.session, made.id, True)
        self.assertEqual(self.left(), [])

    def test_the_rest_is_left_out_and_doubts_stay(self):
        self.survey()
        self.happened("plate")
        left = leave_out(self.session, self.printer.id, client_key=key())
        self.assertEqual(self.left(), [])
        self.assertEqual(self.state("survey"), "gone")
        changes.set_change_deleted(self.session, left.id, True)
        self.assertNotEqual(self.left(), [])

    def test_levelling_at_the_bench_makes_no_list_of_its_own(self):
        changes.record_change(self.session, self.printer.id, "knobs", client_key="bench-1-2")
        self.assertEqual(self.left(), [])
        self.happened("knobs")
        self.assertEqual(self.left(), ["level", "offset", "print"])

    def test_after_some_months_the_list_is_let_go(self):
        self.happened("plate", at=utcnow() - timedelta(days=200))
        self.assertEqual(self.left(), [])


class HoldsTest(StandingCase):
    changes = {"compensation": "mesh", "probe_kind": "retracting", "zero_kept": "switch"}
    MESH = {"columns": 3, "rows": 3, "method": "bilinear", "fade": 10.0, "deviation": 0.1}

    def everything(self):
        first = self.survey(tilt=0.4)
        turnings.record_turning(
            self.session, first.id, "centre", {"front left": -0.25, "back left": -0.25}, client_key=key()
        )
        record = self.survey()
        adjustments.record_adjustment(self.session, record.id, "mesh", dict(self.MESH), client_key=key())
        probe_tests.store_test(
            self.session,
            self.visit.id,
            "repeatability",
            {"heights": [0.0, 0.002, -0.001, 0.001, 0.0, 0.002, 0.001, 0.0, -0.002, 0.001]},
            client_key=key(),
        )
        self.offset()
        self.ladder()
        trials.record_trial(
            self.session,
            self.visit.id,
            "bed",
            [(0.0, "good", x, y) for x in (20, 200) for y in (20, 200)],
            client_key=key(),
        )
        return record

    def test_all_that_is_known_stands_on_one_list(self):
        self.everything()
        found = {one.thing: one.standing.state for one in what_holds(self.session, self.printer)}
        self.assertEqual(
            found,
            dict.fromkeys(
                ("survey", "plan", "forecast", "mesh", "offset", "discs", "ladder", "touches", "knobs"),
                "holds",
            ),
        )

    def test_knobs_without_a_plan_and_a_plate_spoil_the_verdict_everywhere(self):
        record = self.everything()
        self.happened("knobs")
        self.assertTrue(survey_stands(self.session, record).gone)
        self.assertEqual(
            (self.state("plan"), self.state("mesh"), self.state("knobs")), ("gone", "gone", "holds")
        )
        self.assertEqual(self.state("offset"), "doubtful")
        with self.assertRaisesRegex(ConflictError, "without a plan.*Measure again before a mesh"):
            adjustments.record_adjustment(self.session, record.id, "mesh", dict(self.MESH), client_key=key())
        with self.assertRaisesRegex(ConflictError, "Measure again before you turn"):
            turnings.record_turning(
                self.session, record.id, "centre", {"front left": 0.125}, client_key=key()
            )

    def test_a_pried_part_is_a_doubt_and_forbids_nothing(self):
        record = self.everything()
        self.happened("pried")
        self.assertEqual((self.state("survey"), self.state("offset")), ("doubtful", "holds"))
        turnings.record_turning(self.session, record.id, "centre", {"front left": 0.125}, client_key=key())

    def test_another_surface_on_the_setup_bar_counts_without_a_word(self):
        record = self.everything()
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Glass")
        self.assertTrue(known_survey(self.session, self.printer, record).gone)
        self.assertEqual((self.state("offset"), self.state("ladder")), ("gone", "gone"))
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Sheet")
        self.assertTrue(known_survey(self.session, self.printer, record).holds)

    def test_months_make_everything_doubtful(self):
        record = self.survey(at=utcnow() - timedelta(days=150))
        self.assertEqual(known_survey(self.session, self.printer, record).state, "doubtful")

    def test_other_springs_make_the_knobs_strangers(self):
        self.everything()
        self.assertEqual(learning.learned_of(self.session, self.printer).rounds, 1)
        self.happened("springs")
        self.assertEqual(learning.learned_of(self.session, self.printer).rounds, 0)
        self.assertEqual(self.state("knobs"), "gone")

    def test_a_closed_visit_is_judged_by_what_was_known_when_it_was_closed(self):
        record = self.everything()
        visits.finish_visit(self.session, self.visit.id)
        self.happened("plate")
        self.assertTrue(survey_stands(self.session, record).holds)
        self.assertTrue(known_survey(self.session, self.printer, record).gone)

    def test_a_visit_closed_after_another_plate_says_so(self):
        self.survey()
        self.happened("plate", visit_id=self.visit.id)
        visits.finish_visit(self.session, self.visit.id)
        (entry,) = search_entries(self.session, kind="verdict")
        self.assertIn("Not measured since", entry.title)
        self.assertIn("Another plate", entry.detail)

    def test_what_somebody_did_is_no_drift(self):
        def steps(event):
            for days, tilt in ((40, 0.0), (20, 0.3)):
                at = utcnow() - timedelta(days=days)
                visit = visits.start_visit(self.session, self.printer, at=at, surface="Sheet")
                self.survey(tilt, visit, at)
                if event and days == 40:
                    self.happened(event, at=at)
            return drift.drift_of(self.session, self.printer).forecast.steps

        self.assertEqual(steps(None), 1)
        # from the visit before it to the first of these it drifted; over the plate that was laid on between it did not
        self.assertEqual(steps("plate"), 2)
