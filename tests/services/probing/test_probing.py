"""Findings, tests, surfaces and what a reading is trusted to, as records."""

import math

from finchwort.core.base.errors import ChoiceError, CollinearError, CoreError, OutOfRangeError
from finchwort.core.surveys import Survey
from finchwort.services.printers import printers
from finchwort.services.probing import probe_tests
from finchwort.services.surveys import surveys
from finchwort.services.tramming import planning
from finchwort.services.visits import visits
from finchwort.store import models as stored_models
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError, StaleError
from finchwort.store.printers import printers as stored_printers
from finchwort.store.printers.setups import PadSetup, SurfaceSetup
from finchwort.store.probing import probe_tests as stored_tests
from finchwort.store.visits import logbook
from tests.fixtures.support import DatabaseCase, key, setup

GOOD = [0.101, 0.104, 0.099, 0.102, 0.1, 0.103, 0.101, 0.098, 0.102, 0.1]
SHEET = SurfaceSetup("Sheet", "smooth_pei", 0.8)


class ProbingCase(DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        self.printer = printers.create_printer(self.session, setup(beam_screws=1, probe_kind="inductive"))
        self.visit = visits.start_visit(self.session, self.printer)

    def add(self, kind="repeatability", data=None, **more):
        data = data or {"heights": GOOD}
        return probe_tests.store_test(
            self.session, self.visit.id, kind, data, client_key=more.pop("client_key", key()), **more
        )

    def survey(self, **more):
        readings = Survey([15, 205, 205, 15], [15, 15, 205, 205], [0, 0.2, 0.2, 0])
        return surveys.store_survey(
            self.session, self.visit.id, readings, client_key=key(), source="typed", **more
        )

    def entries(self, **what):
        return [e.title for e in logbook.search_entries(self.session, **what)]


class FindingTest(ProbingCase):
    def mark(self, item, state, note=""):
        return probe_tests.record_finding(self.session, self.visit.id, item, state, note)

    def test_the_newest_word_counts_and_none_is_lost(self):
        self.mark("tip", "bad", "a bead")
        self.mark("tip", "good")
        self.assertEqual(stored_tests.latest_findings(self.session, self.visit.id)["tip"].state, "good")
        self.mark("tip", "open")
        self.assertEqual(stored_tests.latest_findings(self.session, self.visit.id), {})
        count = self.session.query(stored_models.Finding).count()
        self.assertEqual(count, 3)

    def test_a_bad_find_is_told_once_until_it_was_good_again(self):
        for state in ("bad", "bad", "good", "bad"):
            self.mark("belts", state)
        self.assertEqual(len(self.entries(kind="finding")), 2)

    def test_only_what_the_printer_has(self):
        self.mark("beam", "good")
        with self.assertRaises(ChoiceError):
            self.mark("pads", "good")
        with self.assertRaises(ChoiceError):
            self.mark("tip", "wonderful")

    def test_what_came_before_measuring_for_the_route(self):
        items = probe_tests.walk_items(self.printer)
        for item in items[:3]:
            self.mark(item.key, "good")
        self.mark(items[0].key, "bad")
        self.add()
        self.add("soak", {"times": [0, 30, 60, 90], "heights": [0, 0.1, 0.05, 0.2]})
        before = probe_tests.before_of(self.session, self.visit)
        self.assertEqual((before.looked_at, before.bad, before.items), (3, 1, len(items)))
        self.assertEqual(before.trust, "good")
        self.assertIn(before.soak, ("unclear", "moving"))
        states = [step.state for step in visits.visit_route(self.visit, [], before)]
        self.assertEqual(states[0], "done")


class TestsAsRecordsTest(ProbingCase):
    def test_stored_once_with_a_line_in_the_book(self):
        same = key()
        one, two = self.add(client_key=same), self.add(client_key=same)
        self.assertEqual(one.id, two.id)
        self.assertEqual(self.entries(kind="test"), ["Probe tested: trust it"])
        with self.assertRaises(KeyTakenError):
            self.add(client_key=same, data={"heights": GOOD[:5]})

    def test_deleted_and_brought_back_with_its_line(self):
        test = self.add()
        probe_tests.set_test_deleted(self.session, test.id, True)
        self.assertEqual(stored_tests.tests_of(self.session, self.visit.id), [])
        self.assertEqual(self.entries(kind="test"), [])
        with self.assertRaises(NotFoundError):
            probe_tests.set_test_deleted(self.session, test.id, True)
        visits.set_visit_deleted(self.session, self.visit.id, True)
        visits.set_visit_deleted(self.session, self.visit.id, False)
        self.assertEqual(self.entries(kind="test"), [])  # deleted on its own, it stays so
        probe_tests.set_test_deleted(self.session, test.id, False)
        self.assertEqual(len(self.entries(kind="test")), 1)

    def test_nonsense_is_refused_and_nothing_stored(self):
        for kind, data in (
            ("repeatability", {"heights": [0.1]}),
            ("soak", {"times": [3, 2, 1, 0], "heights": [0, 0, 0, 0]}),
            ("switches", {}),
            ("beam", {"left": 1.0, "right": 500.0, "span": 300.0}),
            ("line", {"positions": [0, 1], "gaps": [0, 0]}),
            ("weather", {}),
        ):
            with self.subTest(kind), self.assertRaises(CoreError):
                self.add(kind, data)
        self.assertEqual(stored_tests.tests_of(self.session, self.visit.id), [])

    def test_a_closed_visit_takes_none(self):
        test = self.add()
        self.survey()
        visits.finish_visit(self.session, self.visit.id)
        with self.assertRaises(ConflictError):
            self.add()
        with self.assertRaises(ConflictError):
            probe_tests.set_test_deleted(self.session, test.id, True)

    def test_every_kind_has_figures_for_a_list(self):
        for kind, data, word in (
            ("repeatability", {"heights": GOOD}, "10 touches"),
            ("soak", {"times": [0, 60, 120, 180], "heights": [0, 0, 0, 0]}, "4 readings over 3 min"),
            ("beam", {"left": 14.1, "right": 13.9, "span": 300.0}, "−0.20 mm over 300 mm"),
            ("line", {"positions": [0, 50, 100], "gaps": [0, 0.2, 0], "what": "plate"}, "middle −0.20 mm"),
            ("switches", {"untouched": {"x": "open"}}, "x: waiting"),
        ):
            with self.subTest(kind):
                self.assertIn(word, probe_tests.describe_test(probe_tests.assess_test(kind, data)))

    def test_a_retracting_probe_among_the_switches(self):
        data = {
            "untouched": {"z": "open"},
            "pressed": {"z": {"z": "triggered"}},
            "probe": {"stowed": "open", "deployed": "open"},
        }
        self.assertEqual(probe_tests.assess_test("switches", data).level, "bad")
        data["probe"] = {"stowed": "triggered", "deployed": "open", "touched": "triggered"}
        self.assertEqual(probe_tests.assess_test("switches", data).level, "good")


class NoiseTest(ProbingCase):
    def test_the_nearest_source_wins(self):
        record = self.survey()
        self.assertIsNone(probe_tests.noise_for(self.session, record).sd)
        self.printer.repeatability = 0.006
        self.assertEqual(probe_tests.noise_for(self.session, record).sd, 0.006)
        self.add()
        noise = probe_tests.noise_for(self.session, record)
        self.assertEqual((noise.dof, round(noise.sd, 4)), (9, 0.0018))
        by_hand = self.survey(noise=0.02)
        self.assertEqual(probe_tests.noise_for(self.session, by_hand).sd, 0.02)
        self.assertEqual(probe_tests.noise_for(self.session, by_hand).dof, math.inf)

    def test_the_plan_takes_it(self):
        record = self.survey()
        loose = planning.plan_for(self.session, record)
        self.add()
        tight = planning.plan_for(self.session, record)
        self.assertTrue(tight.noise_known and not loose.noise_known)
        self.assertLess(tight.turns[0].uncertainty, loose.turns[0].uncertainty)


class SetUpTest(ProbingCase):
    def change(self, **changes):
        return printers.update_printer(self.session, self.printer.id, setup(**changes), self.printer.version)

    def test_surfaces_are_replaced_as_a_whole_and_the_version_tells(self):
        version = self.printer.version
        self.change(surfaces=(SHEET,), materials=("PLA",))
        self.assertEqual([s.name for s in self.printer.surfaces], ["Sheet"])
        self.assertGreater(self.printer.version, version)
        with self.assertRaises(StaleError):
            printers.update_printer(self.session, self.printer.id, setup(), version)

    def test_using_a_surface_is_a_change_others_see(self):
        self.change(surfaces=(SHEET,))
        version = self.printer.version
        printers.use_surface(self.session, self.printer.id, "Sheet", "printed")
        self.assertGreater(self.printer.version, version)
        printers.use_surface(self.session, self.printer.id, "Sheet", "washed")
        self.assertIn("Reed: Sheet was washed", self.entries(kind="printer"))
        with self.assertRaises(ConflictError):
            printers.use_surface(self.session, self.printer.id, "Sheet", "eaten")

    def test_limits(self):
        for changes, error in (
            ({"beam_screws": 3}, OutOfRangeError),
            ({"beam_lead": 0.0}, OutOfRangeError),
            ({"probe_kind": "tongue"}, ChoiceError),
            ({"closer_is": "up"}, ChoiceError),
            ({"compensation": "magic"}, ChoiceError),
            ({"offset_kept": ("drawer",)}, ChoiceError),
            ({"surfaces": (SurfaceSetup(" ", "glass"),)}, ChoiceError),
            ({"surfaces": (SurfaceSetup("a", "glass", 40.0),)}, OutOfRangeError),
            ({"surfaces": (SurfaceSetup("a", "glass", None, "good", -1),)}, OutOfRangeError),
            ({"port": "loop://"}, ChoiceError),
            ({"baud": 1}, OutOfRangeError),
            ({"most_nozzle": 900.0}, OutOfRangeError),
            ({"lift": 0.0}, OutOfRangeError),
            ({"screws": 0, "pads": (PadSetup("a", 1, 1), PadSetup("a", 2, 2))}, ChoiceError),
            ({"screws": 0, "pads": (PadSetup("a", 1, 1), PadSetup("b", 2, 2))}, ChoiceError),
            (
                {"screws": 0, "pads": tuple(PadSetup(name, i, i) for i, name in enumerate("abc"))},
                CollinearError,
            ),
        ):
            with self.subTest(changes), self.assertRaises(error):
                self.change(**changes)

    def test_what_a_printer_has(self):
        self.assertEqual(set(stored_printers.features_of(self.printer)), {"screws", "beam1", "probe"})
        self.change(screws=0, pads=(PadSetup("a", 1, 1), PadSetup("b", 99, 1), PadSetup("c", 50, 99)))
        self.assertEqual(stored_printers.features_of(self.printer), ["pads"])

    def test_the_strip_of_a_first_visit(self):
        other = printers.create_printer(self.session, setup("New", surfaces=(SHEET,), materials=("ABS",)))
        visit = visits.start_visit(self.session, other)
        self.assertEqual((visit.surface, visit.material, visit.bed_temperature), ("Sheet", "ABS", 100))
        visit.bed_temperature = 108.0
        self.session.flush()
        self.assertEqual(
            visits.start_visit(self.session, other).bed_temperature, 108
        )  # then the last one counts
        with self.assertRaises(ChoiceError):
            visits.update_visit(self.session, visit.id, visit.version, surface_kind="carpet")
