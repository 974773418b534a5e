"""Printers, visits, surveys, turnings and the logbook, through their services."""

import threading
from datetime import UTC, datetime, timedelta

import numpy as np

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.surveys import Survey
from finchwort.demo.workshop import load_demo
from finchwort.services.printers import printers
from finchwort.services.surveys import surveys
from finchwort.services.tramming import planning, turnings
from finchwort.services.visits import changes, visits
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError, StaleError
from finchwort.store.models import Entry, Printer
from finchwort.store.printers import printers as stored_printers
from finchwort.store.printers import setups as stored_setups
from finchwort.store.surveys import surveys as stored_surveys
from finchwort.store.tramming import turnings as stored_turnings
from finchwort.store.visits import logbook
from finchwort.store.visits import visits as stored_visits
from tests.fixtures.beds import bed
from tests.fixtures.support import DatabaseCase, key, setup


class StoreCase(DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)

    def printer(self, **changes):
        return printers.create_printer(self.session, setup(**changes))

    def visit(self, printer=None, **strip):
        return visits.start_visit(self.session, printer or self.printer(), **strip)

    def survey(self, visit, a=0.4, b=0.0, **changes):
        given = {"client_key": key(), "source": "typed"} | changes
        return surveys.store_survey(self.session, visit.id, bed(a, b, noise=0.005), **given)

    def titles(self, text="", **filters):
        self.session.commit()  # the index of words knows what was committed
        return [e.title for e in logbook.search_entries(self.session, text, **filters)]


class PrinterTest(StoreCase):
    def test_round_trip(self):
        made = self.printer(name="Drawer “Ü” 鳥 🐦", note="  by the window ")
        self.session.commit()
        with self.sessions() as other:
            found = stored_printers.get_printer(other, made.id)
            self.assertEqual(found.name, "Drawer “Ü” 鳥 🐦")
            self.assertEqual(found.note, "by the window")
            self.assertEqual([s.name for s in found.screws][:2], ["front left", "front right"])
            self.assertEqual(found.plate_width, 220)
            self.assertEqual(found.created_at.tzinfo, UTC)

    def test_a_stale_change_is_refused_and_changes_nothing(self):
        made = self.printer()
        version = made.version
        printers.update_printer(self.session, made.id, setup(name="First"), version)
        with self.assertRaises(StaleError):
            printers.update_printer(self.session, made.id, setup(name="Second"), version)
        self.assertEqual(made.name, "First")

    def test_bad_descriptions(self):
        posts = setup().screws
        for described in (
            {"name": "  "},
            {"first_layer": 5.0},
            {"divisions": 0},
            {"repeatability": 0.0},
            {"knob_view": "below"},
            {"screws": posts[:2]},
            {"screws": (posts[0], posts[0], posts[1])},
        ):
            base = setup().__dict__ | described
            with self.subTest(described), self.assertRaises(CoreError):
                printers.create_printer(self.session, stored_setups.PrinterSetup(**base))
        self.assertEqual(stored_printers.list_printers(self.session), [])

    def test_deleted_and_brought_back(self):
        made = self.printer()
        visit = self.visit(made)
        self.survey(visit)
        printers.set_printer_deleted(self.session, made.id, True)
        self.assertEqual(stored_printers.list_printers(self.session), [])
        with self.assertRaises(NotFoundError):
            stored_visits.get_visit(self.session, visit.id)
        printers.set_printer_deleted(self.session, made.id, False)
        self.assertEqual(
            len(stored_visits.list_rounds(self.session, stored_visits.get_visit(self.session, visit.id))), 1
        )

    def test_workshop_name(self):
        self.assertEqual(stored_printers.get_workshop(self.session).name, "My workshop")
        version = stored_printers.get_workshop(self.session).version
        printers.rename_workshop(self.session, "Hide", version)
        with self.assertRaises(StaleError):
            printers.rename_workshop(self.session, "Other", version)
        with self.assertRaises(ChoiceError):
            printers.rename_workshop(self.session, "  ")


class VisitTest(StoreCase):
    def test_the_strip_is_taken_over(self):
        printer = self.printer()
        self.visit(printer, surface="Glass", material="PLA", bed_temperature=60.0)
        second = self.visit(printer, material="PETG")
        self.assertEqual((second.surface, second.material, second.bed_temperature), ("Glass", "PETG", 60.0))

    def test_strip_within_reason(self):
        with self.assertRaises(OutOfRangeError):
            self.visit(bed_temperature=400.0)
        visit = self.visit()
        with self.assertRaises(OutOfRangeError):
            visits.update_visit(self.session, visit.id, visit.version, first_layer=9.0)
        with self.assertRaises(ConflictError):
            visits.update_visit(self.session, visit.id, visit.version, printer_id=4)

    def test_stale_strip(self):
        visit = self.visit()
        version = visit.version
        visits.update_visit(self.session, visit.id, version, surface="Tape")
        with self.assertRaises(StaleError):
            visits.update_visit(self.session, visit.id, version, surface="Glass")

    def test_closing(self):
        visit = self.visit()
        with self.assertRaises(ConflictError):
            visits.finish_visit(self.session, visit.id)
        self.survey(visit, a=0.02)
        visits.finish_visit(self.session, visit.id, "Fine.")
        self.assertIn("Visit closed: Level", self.titles("fine"))
        with self.assertRaises(ConflictError):
            visits.finish_visit(self.session, visit.id)
        with self.assertRaises(ConflictError):
            self.survey(visit)
        visits.reopen_visit(self.session, visit.id)
        self.survey(visit)
        with self.assertRaises(ConflictError):
            visits.reopen_visit(self.session, visit.id)

    def test_closing_after_a_turn_says_so(self):
        visit = self.visit()
        record = self.survey(visit)
        turnings.record_turning(self.session, record.id, "centre", {}, client_key=key())
        visits.finish_visit(self.session, visit.id)
        self.assertIn("Visit closed: Turned last, not measured since", self.titles())

    def test_deleting_hides_its_entries_and_undo_shows_them(self):
        visit = self.visit()
        kept = self.survey(visit)
        dropped = self.survey(visit, a=0.3)
        surveys.set_survey_deleted(self.session, dropped.id, True)
        before = self.titles(kind="survey")
        visits.set_visit_deleted(self.session, visit.id, True)
        self.assertEqual(self.titles(kind="survey"), [])
        visits.set_visit_deleted(self.session, visit.id, False)
        self.assertEqual(self.titles(kind="survey"), before)
        rounds = stored_visits.list_rounds(self.session, visit)
        self.assertEqual([r.survey.id for r in rounds], [kept.id])

    def test_what_was_taken_back_on_its_own_stays_hidden_when_its_visit_comes_back(self):
        visit = self.visit()
        taken_back, kept = (
            changes.record_change(self.session, visit.printer_id, what, client_key=key(), visit_id=visit.id)
            for what in ("nozzle", "plate")
        )
        changes.set_change_deleted(self.session, taken_back.id, True)
        before = self.titles(kind="change")
        self.assertEqual(len(before), 1)
        visits.set_visit_deleted(self.session, visit.id, True)
        self.assertEqual(self.titles(kind="change"), [])
        visits.set_visit_deleted(self.session, visit.id, False)
        self.assertEqual(self.titles(kind="change"), before)
        self.assertIsNone(kept.deleted_at)


class SurveyTest(StoreCase):
    def test_readings_come_back_to_the_last_bit(self):
        rng = np.random.default_rng(2)
        given = Survey(rng.uniform(0, 220, 300), rng.uniform(0, 220, 300), rng.normal(0, 0.1, 300))
        visit = self.visit()
        record = surveys.store_survey(self.session, visit.id, given, client_key=key(), source="file")
        self.session.commit()
        with self.sessions() as other:
            found = stored_surveys.load_readings(other, record.id)
        for name in ("x", "y", "height"):
            np.testing.assert_array_equal(getattr(found, name), getattr(given, name))

    def test_largest_survey(self):
        x, y = np.meshgrid(np.linspace(0, 220, 200), np.linspace(0, 220, 100))
        given = Survey(x.ravel(), y.ravel(), (0.001 * x).ravel())
        record = surveys.store_survey(self.session, self.visit().id, given, client_key=key(), source="file")
        self.assertEqual(len(stored_surveys.load_readings(self.session, record.id)), 20_000)

    def test_sent_twice_stored_once(self):
        visit, mine = self.visit(), key()
        first = self.survey(visit, client_key=mine)
        self.session.commit()
        self.assertEqual(self.survey(visit, client_key=mine).id, first.id)
        self.assertEqual(len(stored_visits.list_rounds(self.session, visit)), 1)

    def test_other_readings_are_not_taken_for_those_stored(self):
        visit, mine = self.visit(), key()
        self.survey(visit, client_key=mine)
        with self.assertRaisesRegex(KeyTakenError, "Other readings"):
            self.survey(visit, client_key=mine, a=0.9)
        with self.assertRaisesRegex(KeyTakenError, "Other readings"):
            self.survey(self.visit(), client_key=mine)
        self.assertEqual(len(stored_visits.list_rounds(self.session, visit)), 1)

    def test_what_was_deleted_is_not_said_to_be_stored(self):
        visit, mine = self.visit(), key()
        record = self.survey(visit, client_key=mine)
        surveys.set_survey_deleted(self.session, record.id, True)
        with self.assertRaisesRegex(KeyTakenError, "deleted since"):
            self.survey(visit, client_key=mine)

    def test_two_tabs_each_keep_their_survey(self):
        visit = self.visit()
        self.session.commit()

        def store():
            with self.sessions.begin() as session:
                surveys.store_survey(session, visit.id, bed(0.3), client_key=key(), source="typed")

        threads = [threading.Thread(target=store) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(stored_visits.list_rounds(self.session, visit)), 6)

    def test_a_survey_that_was_turned_by_stays(self):
        visit = self.visit()
        record = self.survey(visit)
        turning = turnings.record_turning(self.session, record.id, "centre", {}, client_key=key())
        with self.assertRaises(ConflictError):
            surveys.set_survey_deleted(self.session, record.id, True)
        turnings.set_turning_deleted(self.session, turning.id, True)
        surveys.set_survey_deleted(self.session, record.id, True)
        with self.assertRaises(NotFoundError):
            stored_surveys.get_survey(self.session, record.id)
        surveys.set_survey_deleted(self.session, record.id, False)
        self.assertEqual(stored_surveys.get_survey(self.session, record.id).id, record.id)


class TurningTest(StoreCase):
    def setUp(self):
        super().setUp()
        self.one = self.visit()
        self.record = self.survey(self.one, a=0.7)
        self.plan = planning.plan_for(self.session, self.record)
        self.done = {t.screw.name: t.rounded for t in self.plan.turns}

    def turn(self, **changes):
        given = {"hold": "centre", "done": self.done, "client_key": key()} | changes
        return turnings.record_turning(self.session, self.record.id, **given)

    def test_as_planned(self):
        turning = self.turn()
        self.assertEqual([s.planned for s in turning.screws], [s.done for s in turning.screws])
        self.assertAlmostEqual(turning.spread_expected, self.plan.spread_after, places=9)
        (entry,) = logbook.search_entries(self.session, kind="turning")
        self.assertIn("front left loosened", entry.detail)
        self.assertNotIn("Not as planned", entry.detail)

    def test_something_else_was_turned(self):
        turning = self.turn(done={"front left": 0.25}, note="The others are stuck.")
        self.assertEqual([s.done for s in turning.screws], [0.25, 0, 0, 0])
        (entry,) = logbook.search_entries(self.session, kind="turning")
        self.assertIn("Not as planned", entry.detail)
        self.assertIn("stuck", entry.detail)

    def test_only_once_a_survey(self):
        mine = key()
        first = self.turn(client_key=mine)
        self.assertEqual(self.turn(client_key=mine).id, first.id)
        with self.assertRaises(ConflictError):
            self.turn()
        with self.assertRaisesRegex(KeyTakenError, "Other turns"):
            self.turn(client_key=mine, done=self.done | {"front left": 2.0})
        turnings.set_turning_deleted(self.session, first.id, True)
        with self.assertRaisesRegex(KeyTakenError, "taken back"):
            self.turn(client_key=mine)
        self.assertEqual([s.done for s in first.screws], [self.done[s.name] for s in first.screws])

    def test_bad_turns(self):
        with self.assertRaises(ChoiceError):
            self.turn(done={"middle": 0.1})
        with self.assertRaises(OutOfRangeError):
            self.turn(done={"front left": 400.0})
        with self.assertRaises(ChoiceError):
            self.turn(hold="nothing")
        self.survey(self.one, a=0.1)
        with self.assertRaises(ConflictError):
            self.turn()

    def test_taken_back_and_brought_back(self):
        turning = self.turn()
        turnings.set_turning_deleted(self.session, turning.id, True)
        self.assertEqual(self.titles(kind="turning"), [])
        turnings.set_turning_deleted(self.session, turning.id, False)
        self.assertEqual(len(self.titles(kind="turning")), 1)
        with self.assertRaises(NotFoundError):
            turnings.set_turning_deleted(self.session, turning.id, False)
        self.survey(self.one, a=0.05)
        with self.assertRaises(ConflictError):
            turnings.set_turning_deleted(self.session, turning.id, True)

    def test_the_old_set_up_stays_with_the_turning(self):
        turning = self.turn()
        printer = self.one.printer
        changed = setup(screws=3)
        printers.update_printer(self.session, printer.id, changed, printer.version)
        screws, _ = stored_turnings.turned_screws(turning)
        self.assertEqual(len(screws), 4)
        self.survey(self.one, a=0.02)
        rounds = stored_visits.list_rounds(self.session, self.one)
        reviews = turnings.review_rounds(self.session, rounds)
        self.assertIsNone(reviews[0])
        self.assertEqual(len(reviews[1].expected), 4)

    def test_without_screws_there_is_no_plan(self):
        record = self.survey(self.visit(self.printer(screws=0)))
        with self.assertRaises(ConflictError):
            planning.plan_for(self.session, record)


class LogbookTest(StoreCase):
    def setUp(self):
        super().setUp()
        self.now = datetime(2030, 5, 1, 12, tzinfo=UTC)
        for i in range(7):
            logbook.add_note(self.session, f"note number {i}", at=self.now + timedelta(minutes=i // 2))

    def test_newest_first_page_by_page(self):
        seen, before = [], None
        while True:
            page = logbook.search_entries(self.session, before=before, limit=3)
            if not page:
                break
            seen += [e.title for e in page]
            before = (page[-1].at, page[-1].id)
        self.assertEqual(seen, [f"note number {i}" for i in (6, 5, 4, 3, 2, 1, 0)])

    def test_search_takes_every_word_literally(self):
        logbook.add_note(self.session, "100% sure | a_b\nthe SPRING is tired")
        self.assertEqual(len(self.titles("spring tired")), 1)
        self.assertEqual(len(self.titles("100%")), 1)
        self.assertEqual(len(self.titles("%")), 1)
        self.assertEqual(len(self.titles("a_b |")), 1)
        self.assertEqual(self.titles("axb"), [])
        self.assertEqual(self.titles("number 3"), ["note number 3"])

    def test_by_printer(self):
        printer = self.printer(name="Sedge")
        logbook.add_note(self.session, "about this one", printer=printer)
        self.assertEqual(len(self.titles("sedge")), 2)
        self.assertEqual(self.titles("", printer_id=printer.id, kind="note"), ["about this one"])

    def test_long_notes_lose_nothing(self):
        text = "word " * 100
        entry = logbook.add_note(self.session, text)
        self.assertLessEqual(len(entry.title), 200)
        self.assertEqual(entry.detail, text.strip())

    def test_only_notes_are_deleted(self):
        self.survey(self.visit())
        survey = logbook.search_entries(self.session, kind="survey")[0]
        with self.assertRaises(ConflictError):
            logbook.set_note_deleted(self.session, survey.id, True)
        with self.assertRaises(NotFoundError):
            logbook.set_note_deleted(self.session, 999_999, True)
        self.session.commit()
        note = logbook.search_entries(self.session, "number 2")[0]
        logbook.set_note_deleted(self.session, note.id, True)
        self.assertEqual(self.titles("number 2"), [])
        logbook.set_note_deleted(self.session, note.id, False)
        self.assertEqual(self.titles("number 2"), ["note number 2"])


class DemoTest(StoreCase):
    def test_the_workshop_tells_its_stories(self):
        self.assertTrue(load_demo(self.session))
        self.session.commit()
        self.assertFalse(load_demo(self.session))
        by_name = {p.name: p for p in stored_printers.list_printers(self.session)}
        self.assertEqual(sorted(by_name), ["Avocet", "Bittern", "Snipe", "Water Rail"])
        self.assertEqual([len(by_name[n].screws) for n in sorted(by_name)], [3, 4, 4, 0])
        bittern = stored_visits.list_visits(self.session, by_name["Bittern"].id)
        self.assertIsNone(bittern[0].ended_at)
        self.assertGreater(len(bittern), 5)
        kinds = set()
        for visit in bittern:
            rounds = stored_visits.list_rounds(self.session, visit)
            for review in turnings.review_rounds(self.session, rounds):
                kinds |= {f.kind for f in review.findings} if review else set()
        self.assertIn("slack", kinds)
        self.assertIn("level", kinds)
        self.assertIn("compensate", self._last_verdict(by_name["Avocet"]))
        self.assertGreater(self.session.query(Entry).count(), 30)
        self.assertEqual(self.session.query(Printer).count(), 4)

    def _last_verdict(self, printer):
        visit = stored_visits.list_visits(self.session, printer.id)[0]
        return stored_visits.list_rounds(self.session, visit)[-1].survey.verdict
