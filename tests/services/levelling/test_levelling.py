"""Shims, tape, beam, meshes, limits, what was learned and drift, as records."""

import math
from dataclasses import replace
from datetime import timedelta

import numpy as np

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.levelling import Foil
from finchwort.core.printers import Bed, suggest_points
from finchwort.core.surveys import Survey
from finchwort.core.tramming import predict
from finchwort.services.compensation import mesh
from finchwort.services.levelling import plans
from finchwort.services.printers import printers
from finchwort.services.probing import probe_tests
from finchwort.services.surveys import surveys
from finchwort.services.tramming import adjustments, learning, moves, planning, turnings
from finchwort.services.visits import visits
from finchwort.services.visits.drift import drift_of
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError, StaleError
from finchwort.store.printers import printers as stored_printers
from finchwort.store.printers import setups as stored_setups
from finchwort.store.printers.setups import PadSetup, ScrewSetup
from finchwort.store.records import utcnow
from finchwort.store.surveys import surveys as stored_surveys
from finchwort.store.tramming import learning as stored_learning
from finchwort.store.visits import logbook
from finchwort.store.visits import visits as stored_visits
from tests.fixtures.support import DatabaseCase, key, setup

PADS = tuple(
    PadSetup(n, x, y) for n, x, y in (("left", 20, 110), ("front", 110, 20), ("back right", 200, 200))
)


class LevellingCase(DatabaseCase):
    changes: dict = {}

    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        self.printer = printers.create_printer(self.session, setup(**({"name": "Rush"} | self.changes)))
        self.visit = visits.start_visit(self.session, self.printer)
        self.clock = utcnow() - timedelta(hours=2)

    def later(self, minutes=5):
        self.clock += timedelta(minutes=minutes)
        return self.clock

    def readings(self, across=0.4, along=0.0, bow=0.0, noise=0.004, seed=1, side=5):
        x, y = np.array(suggest_points(Bed(220, 220), side, side)).T
        u, v = x / 110 - 1, y / 110 - 1
        height = across * u / 2 + along * v / 2 + bow * (1 - (u**2 + v**2) / 2)
        return Survey(x, y, height + np.random.default_rng(seed).normal(0, noise, x.size))

    def survey(self, readings=None, **more):
        return surveys.store_survey(
            self.session,
            self.visit.id,
            readings or self.readings(),
            client_key=key(),
            source="typed",
            at=self.later(),
            **more,
        )

    def adjust(self, record, kind, data, **more):
        given = {"client_key": key(), "at": self.later()} | more
        return adjustments.record_adjustment(self.session, record.id, kind, data, **given)

    def turn(self, record, done):
        return turnings.record_turning(
            self.session, record.id, "centre", done, client_key=key(), at=self.later()
        )

    def titles(self, **what):
        return [e.title for e in logbook.search_entries(self.session, **what)]


class ShimTest(LevellingCase):
    changes = {"screws": (), "pads": PADS}
    STACKS = {"left": [0.2], "front": [], "back right": [0.05, 0.05]}

    def test_what_lies_there_is_remembered_and_planned_from(self):
        printers.set_foils(self.session, [Foil(0.05, 6), Foil(0.1, 4), Foil(0.2, 2)])
        first = self.survey()
        plan = plans.shims_for(self.session, first)
        self.assertTrue(all(not stack.pad.stack for stack in plan.stacks))
        stacks = {stack.pad.name: list(stack.foils) for stack in plan.stacks}
        self.adjust(first, "shims", {"stacks": stacks})
        second = self.survey(plan.predicted)
        again = plans.shims_for(self.session, second)
        self.assertTrue(again.done)
        self.assertEqual({s.pad.name: list(s.foils) for s in again.stacks}, stacks)
        rounds = stored_visits.list_rounds(self.session, self.visit)
        self.assertTrue(rounds[0].moved)
        self.assertFalse(rounds[1].moved)

    def test_without_foil_or_pads(self):
        printers.set_foils(self.session, [])
        with self.assertRaises(CoreError):
            plans.shims_for(self.session, self.survey())
        other = printers.create_printer(self.session, setup(name="Screwed"))
        visit = visits.start_visit(self.session, other)
        record = surveys.store_survey(
            self.session, visit.id, self.readings(), client_key=key(), source="typed"
        )
        with self.assertRaises(ConflictError):
            plans.shims_for(self.session, record)
        with self.assertRaises(ChoiceError):
            adjustments.record_adjustment(
                self.session, record.id, "shims", {"stacks": self.STACKS}, client_key=key()
            )

    def test_every_pad_is_named(self):
        record = self.survey()
        for stacks in ({}, {"left": [0.1]}, self.STACKS | {"nowhere": []}):
            with self.subTest(stacks), self.assertRaises(ChoiceError):
                self.adjust(record, "shims", {"stacks": stacks})
        with self.assertRaises(ChoiceError):
            self.adjust(record, "glue", {})

    def test_sent_again_it_counts_once(self):
        record, mine = self.survey(), key()
        made = self.adjust(record, "shims", {"stacks": self.STACKS}, client_key=mine)
        again = self.adjust(record, "shims", {"stacks": self.STACKS}, client_key=mine)
        self.assertEqual(made.id, again.id)
        with self.assertRaises(KeyTakenError):
            self.adjust(record, "shims", {"stacks": self.STACKS | {"front": [0.1]}}, client_key=mine)
        self.assertEqual(len(self.titles(kind="adjustment")), 1)

    def test_taken_back_and_brought_back(self):
        record = self.survey()
        made = self.adjust(record, "shims", {"stacks": self.STACKS})
        adjustments.set_adjustment_deleted(self.session, made.id, True)
        self.assertEqual([p.stack for p in stored_printers.pads_of(self.printer)], [(), (), ()])
        self.assertEqual(self.titles(kind="adjustment"), [])
        with self.assertRaises(NotFoundError):
            adjustments.set_adjustment_deleted(self.session, made.id, True)
        adjustments.set_adjustment_deleted(self.session, made.id, False)
        self.assertEqual(stored_printers.pads_of(self.printer)[0].stack, (0.2,))
        self.survey()
        with self.assertRaises(ConflictError):
            adjustments.set_adjustment_deleted(self.session, made.id, True)

    def drawer(self):
        return {
            f.thickness: f.count for f in stored_printers.foils_of(stored_printers.get_workshop(self.session))
        }

    def test_the_drawer_counts_what_is_laid_and_taken(self):
        printers.set_foils(self.session, [Foil(0.1, 5), Foil(0.2, 1)])
        record = self.survey()
        first = self.STACKS | {name: [0.1] for name in list(self.STACKS)[1:]}
        laid = sum(sizes.count(0.1) for sizes in first.values())
        made = self.adjust(record, "shims", {"stacks": first})
        self.assertEqual(self.drawer(), {0.1: 5 - laid, 0.2: 0})
        adjustments.set_adjustment_deleted(self.session, made.id, True)
        self.assertEqual(self.drawer(), {0.1: 5, 0.2: 1})
        adjustments.set_adjustment_deleted(self.session, made.id, False)
        self.assertEqual(self.drawer(), {0.1: 5 - laid, 0.2: 0})
        again = self.adjust(record, "shims", {"stacks": first | {"front": [0.1, 0.1]}})
        with self.assertRaises(ConflictError):
            adjustments.set_adjustment_deleted(self.session, made.id, True)
        adjustments.set_adjustment_deleted(self.session, again.id, True)
        taken = self.adjust(self.survey(), "shims", {"stacks": {name: [] for name in self.STACKS}})
        self.assertEqual(self.drawer(), {0.1: 5, 0.2: 1})
        self.assertEqual(taken.data["before"], {name: sorted(sizes) for name, sizes in first.items()})

    def test_more_laid_than_counted_is_said_and_undone_to_the_same(self):
        printers.set_foils(self.session, [Foil(0.2, 0), Foil(0.3, 2)])
        made = self.adjust(self.survey(), "shims", {"stacks": self.STACKS})
        self.assertIn("count it", adjustments.describe(made)[1])
        self.assertEqual(self.drawer(), {0.2: 0, 0.3: 2})
        adjustments.set_adjustment_deleted(self.session, made.id, True)
        self.assertEqual(self.drawer(), {0.2: 0, 0.3: 2})

    def test_a_renamed_pad_keeps_its_foil(self):
        self.adjust(self.survey(), "shims", {"stacks": self.STACKS})
        old = self.printer.pads[0]
        renamed = [PadSetup("window", old["x"], old["y"], tuple(old["foils"]))]
        renamed += [PadSetup(p["name"], p["x"], p["y"], tuple(p["foils"])) for p in self.printer.pads[1:]]
        setup = stored_setups.PrinterSetup("Pads", 220, 220, pads=tuple(renamed))
        printers.update_printer(self.session, self.printer.id, setup, self.printer.version)
        self.assertEqual(stored_printers.pads_of(self.printer)[0].stack, tuple(old["foils"]))
        self.assertEqual(stored_printers.pads_of(self.printer)[0].name, "window")

    def test_set_right_without_laying(self):
        printers.set_foils(self.session, [Foil(0.1, 5)])
        printers.tell_foils(self.session, self.printer.id, self.STACKS)
        self.assertEqual(stored_printers.pads_of(self.printer)[0].stack, (0.2,))
        self.assertEqual(self.drawer(), {0.1: 5})
        for wrong in ({}, self.STACKS | {"nowhere": []}, {name: [9.0] for name in self.STACKS}):
            with self.subTest(wrong), self.assertRaises(CoreError):
                printers.tell_foils(self.session, self.printer.id, wrong)

    def test_only_after_the_newest_survey_of_an_open_visit(self):
        first = self.survey()
        self.survey()
        with self.assertRaises(ConflictError):
            self.adjust(first, "shims", {"stacks": self.STACKS})
        visits.finish_visit(self.session, self.visit.id, "")
        newest = stored_visits.list_rounds(self.session, self.visit)[-1].survey
        with self.assertRaises(ConflictError):
            self.adjust(newest, "shims", {"stacks": self.STACKS})

    def test_the_drawer(self):
        version = stored_printers.get_workshop(self.session).version
        printers.set_foils(self.session, [Foil(0.1, 3), Foil(0.05, 0)], version)
        self.assertEqual(
            [f.thickness for f in stored_printers.foils_of(stored_printers.get_workshop(self.session))],
            [0.05, 0.1],
        )
        with self.assertRaises(StaleError):
            printers.set_foils(self.session, [], version)
        printers.set_foils(self.session, [Foil(0.1, 3), Foil(0.1, 0, roll=True)])
        for wrong in ([Foil(0.1, 3), Foil(0.1, 2)], [Foil(-1, 2)], [Foil(0.1, 100)]):
            with self.subTest(wrong), self.assertRaises(CoreError):
                printers.set_foils(self.session, wrong)


class LearnTest(LevellingCase):
    def screws(self):
        return stored_printers.screws_of(self.printer)

    def round(self, record, done, share=1.0, seed=2):
        """Turn; the bed follows by a share of what it should."""
        self.turn(record, done)
        turns = [share * done.get(s.name, 0.0) for s in self.screws()]
        readings = stored_surveys.load_readings(self.session, record.id)
        followed = predict(readings, self.screws(), turns)
        noise = np.random.default_rng(seed).normal(0, 0.004, len(readings))
        return self.survey(followed.with_heights(followed.height + noise))

    def test_rounds_teach_and_can_be_forgotten(self):
        record = self.survey()
        self.assertEqual(learning.learned_of(self.session, self.printer).rounds, 0)
        for i in range(3):
            record = self.round(record, {"front left": 0.5 if i % 2 else 0.75}, 0.7, i)
        found = learning.learned_of(self.session, self.printer)
        self.assertEqual(found.rounds, 3)
        share, sd = found.response.effect()
        self.assertAlmostEqual(share[0], 0.7, delta=0.12)
        self.assertLess(sd[0], 0.05)
        before = learning.set_learned_since(self.session, self.printer.id, self.later(), note="New springs")
        self.assertIsNone(before)
        self.assertEqual(learning.learned_of(self.session, self.printer).rounds, 0)
        self.assertTrue(any("learning begins again" in title for title in self.titles()))
        learning.set_learned_since(self.session, self.printer.id, before)
        self.assertEqual(learning.learned_of(self.session, self.printer).rounds, 3)

    def test_a_plan_of_then_stays_what_it_was(self):
        first = self.survey()
        told = [t.exact for t in planning.plan_for(self.session, first).turns]
        record = self.round(first, {"front left": 0.75}, 0.5)
        self.round(record, {"front left": -0.5}, 0.5)
        self.assertEqual([t.exact for t in planning.plan_for(self.session, first).turns], told)

    def test_rounds_in_which_something_else_moved_teach_nothing(self):
        record = self.survey()
        self.turn(record, {"front left": 0.5})
        self.adjust(record, "tape", {"places": [{"x": 50.0, "y": 50.0, "layers": 2}]})
        self.survey()
        self.assertEqual(moves.moves_of(self.session, self.printer), [])

    def test_other_screws_teach_nothing(self):
        self.round(self.survey(), {"front left": 0.5})
        self.assertEqual(len(moves.moves_of(self.session, self.printer)), 1)
        moved = tuple(ScrewSetup(s.name, s.x + 3, s.y, s.thread, s.pitch) for s in self.printer.screws)
        printers.update_printer(
            self.session, self.printer.id, replace(setup(name="Rush"), screws=moved), self.printer.version
        )
        self.assertEqual(moves.moves_of(self.session, self.printer), [])

    def test_travel_left_follows_the_turns_and_limits_the_plan(self):
        self.assertIsNone(stored_learning.room_of(self.session, self.printer))
        told = tuple(
            ScrewSetup(s.name, s.x, s.y, s.thread, s.pitch, *((0.25, 2.0) if i == 0 else (None, None)))
            for i, s in enumerate(self.printer.screws)
        )
        printers.update_printer(
            self.session, self.printer.id, replace(setup(name="Rush"), screws=told), self.printer.version
        )
        self.clock = utcnow()
        record = self.survey(self.readings(-1.0, -1.0))
        room = stored_learning.room_of(self.session, self.printer)
        self.assertEqual((room[0], room[1]), ((0.25, 2.0), (math.inf, math.inf)))
        for wanted in (self.readings(-1.0, -1.0), self.readings(1.0, 1.0)):
            survey = self.survey(wanted)
            turn = planning.plan_for(self.session, survey).turns[0]
            self.assertTrue(-2.0 <= turn.rounded <= 0.25)
        self.turn(survey, {"front left": -0.5})
        self.assertEqual(stored_learning.room_of(self.session, self.printer)[0], (0.75, 1.5))
        # the plan of then knew the travel of then
        self.assertEqual(stored_learning.room_of(self.session, self.printer, record.taken_at)[0], (0.25, 2.0))
        for wrong in (-1.0, 99.0, math.nan):
            bad = (replace(told[0], to_tight=wrong), *told[1:])
            with self.subTest(wrong), self.assertRaises(OutOfRangeError):
                printers.create_printer(self.session, replace(setup(name="Bad"), screws=bad))


class BeamTest(LevellingCase):
    changes = {"beam_screws": 2, "beam_left": -10.0, "beam_right": 230.0, "beam_lead": 8.0}

    def test_without_knowing_what_hangs_on_it_a_trial_is_asked_for_and_teaches(self):
        first = self.survey(self.readings(0.4, noise=0.002))
        plan, carries = plans.beam_for(self.session, first)
        self.assertEqual((plan.state, carries.what), ("trial", "unknown"))
        drive = plan.drives[0]
        self.adjust(first, "beam", {"side": drive.side, "rise": drive.rise, "trial": True})
        # the nozzle hangs on the beam: raised at one end, the bed reads lower there
        x = stored_surveys.load_readings(self.session, first.id).x
        share = (x + 10) / 240 if drive.side == "right" else (230 - x) / 240
        after = self.readings(0.4, noise=0.002, seed=3)
        second = self.survey(after.with_heights(after.height - drive.rise * share))
        carries = plans.carries_of(self.session, self.printer)
        self.assertEqual((carries.what, carries.learned), ("nozzle", True))
        plan, _ = plans.beam_for(self.session, second)
        self.assertIn(plan.state, ("drive", "level", "unsure"))

    def test_calipers_tell_beam_from_bed(self):
        record = self.survey(self.readings(0.4, noise=0.002))
        printers.update_printer(
            self.session,
            self.printer.id,
            setup(name="Rush", **(self.changes | {"beam_carries": "nozzle"})),
            self.printer.version,
        )
        level = {"left": 80.0, "right": 80.0, "span": 240.0, "screws": 2, "lead": 8.0}
        probe_tests.store_test(self.session, self.visit.id, "beam", level, client_key=key())
        self.assertEqual(plans.beam_for(self.session, record)[0].state, "bed")
        skew = level | {"right": 80.0 - 0.4 * 240 / 220}
        probe_tests.store_test(self.session, self.visit.id, "beam", skew, client_key=key())
        plan = plans.beam_for(self.session, record)[0]
        self.assertIn(plan.state, ("drive", "both"))

    def test_a_printer_on_one_screw_has_no_beam_to_drive(self):
        other = printers.create_printer(self.session, setup(name="One", beam_screws=1))
        visit = visits.start_visit(self.session, other)
        record = surveys.store_survey(
            self.session, visit.id, self.readings(), client_key=key(), source="typed"
        )
        with self.assertRaises(ConflictError):
            plans.beam_for(self.session, record)


class MeshTest(LevellingCase):
    changes = {"compensation": "mesh"}
    MESH = {"columns": 5, "rows": 5, "method": "bilinear", "fade": 10.0, "deviation": 0.1}

    def test_it_holds_until_something_outdates_it(self):
        self.assertIsNone(mesh.stored_mesh(self.session, self.printer))
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Sheet")
        record = self.survey(self.readings(0.02, bow=0.12))
        self.adjust(record, "mesh", self.MESH)
        self.assertEqual(self.outdated(), ())
        same = self.survey(self.readings(0.02, bow=0.12, seed=9))
        self.assertEqual(self.outdated(), ())
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Glass")
        self.assertEqual(len(self.outdated()), 1)
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Sheet")
        self.turn(same, {"front left": 0.125})
        self.assertEqual(len(self.outdated()), 1)
        visits.update_visit(self.session, self.visit.id, self.visit.version, surface="Glass")
        self.assertEqual(len(self.outdated()), 2)
        self.survey(self.readings(0.5, bow=-0.1))
        self.assertEqual(len(self.outdated()), 3)

    def outdated(self):
        return mesh.stored_mesh(self.session, self.printer, self.visit).outdated

    def test_temperature_and_months(self):
        self.visit.bed_temperature = 60.0
        record = self.survey(self.readings(bow=0.1))
        made = self.adjust(record, "mesh", self.MESH)
        self.assertEqual(self.outdated(), ())
        self.visit.bed_temperature = 100.0
        self.assertEqual(len(self.outdated()), 1)
        made.made_at = utcnow() - timedelta(days=300)
        self.assertEqual(len(self.outdated()), 2)

    def test_a_moved_bed_and_a_machine_without_compensation_get_none(self):
        record = self.survey()
        self.turn(record, {"front left": 0.125})
        with self.assertRaises(ConflictError):
            self.adjust(record, "mesh", self.MESH)
        other = printers.create_printer(self.session, setup(name="Plain"))
        visit = visits.start_visit(self.session, other)
        one = surveys.store_survey(self.session, visit.id, self.readings(), client_key=key(), source="typed")
        with self.assertRaises(ChoiceError):
            adjustments.record_adjustment(self.session, one.id, "mesh", self.MESH, client_key=key())

    def test_a_mesh_does_not_move_the_bed(self):
        record = self.survey(self.readings(bow=0.1))
        made = self.adjust(record, "mesh", self.MESH)
        self.assertFalse(stored_visits.list_rounds(self.session, self.visit)[0].moved)
        self.survey()
        adjustments.set_adjustment_deleted(self.session, made.id, True)
        self.assertIsNone(mesh.stored_mesh(self.session, self.printer))

    def test_what_is_left_on_machines_of_each_kind(self):
        record = self.survey(self.readings(0.3, bow=0.1))
        whole = mesh.mesh_for(self.session, record, mesh.MeshWish())
        self.assertEqual((whole.mesh.xs.size, whole.kind), (5, "mesh"))
        self.assertLess(whole.after.spread, 0.1)
        self.printer.compensation = "mean"
        mean = mesh.mesh_for(self.session, record, mesh.MeshWish())
        # the mean moves the whole bed: the tilt stays
        self.assertAlmostEqual(
            mean.after.spread, stored_surveys.load_readings(self.session, record.id).spread
        )
        self.assertAlmostEqual(float(mean.after.height.mean()), 0.0, places=6)
        for side in (1, 26):
            with self.assertRaises(OutOfRangeError):
                mesh.mesh_for(self.session, record, mesh.MeshWish(columns=side))


class LeftTest(LevellingCase):
    def test_a_single_odd_reading_is_probed_again_first(self):
        readings = self.readings(0.02, noise=0.003, side=7)
        height = readings.height.copy()
        height[24] += 0.2
        record = self.survey(readings.with_heights(height))
        taken = stored_surveys.load_taken(self.session, record.id)
        self.assertEqual(np.flatnonzero(taken.aside).tolist(), [24])
        self.assertLess(record.spread, 0.06)
        self.assertEqual(plans.left_of(self.session, record).odd, ())
        # put back by a person it counts, and is doubted aloud
        surveys.set_reading_aside(self.session, record.id, 24, False)
        self.assertGreater(record.spread, 0.15)
        left = plans.left_of(self.session, record)
        self.assertEqual((len(left.odd), left.odd[0].kind), (1, "reading"))
        self.assertEqual(next(r.kind for r in left.remedies if r.fits), "probe_again")

    def test_straightedges_tell_whose_fault_it_is(self):
        self.assertIsNone(plans.fault_of(self.session, self.visit))
        for what, gap in (("plate", 0.15), ("carrier", 0.0)):
            probe_tests.store_test(
                self.session,
                self.visit.id,
                "line",
                {"what": what, "positions": [20, 110, 200], "gaps": [0.0, gap, 0.0]},
                client_key=key(),
            )
        self.assertIn("plate", plans.fault_of(self.session, self.visit))


class DriftTest(LevellingCase):
    def test_visits_as_they_found_and_left_the_bed(self):
        rng = np.random.default_rng(4)
        start = utcnow() - timedelta(days=200)
        for i in range(8):
            at = start + timedelta(days=20 * i)
            visit = visits.start_visit(self.session, self.printer, at=at)
            across = 0.25 + rng.normal(0, 0.05)
            for minutes, tilt in ((5, across), (15, 0.02)):
                surveys.store_survey(
                    self.session,
                    visit.id,
                    self.readings(tilt, seed=i * 50 + minutes),
                    client_key=key(),
                    source="typed",
                    at=at + timedelta(minutes=minutes),
                )
            visits.finish_visit(self.session, visit.id, "", at=at + timedelta(minutes=20))
        drift = drift_of(self.session, self.printer)
        self.assertEqual(len(drift.found), 8)
        self.assertTrue(all(0.1 < one.tilt < 0.5 for one in drift.found))
        self.assertTrue(drift.tilt.lower <= drift.tilt.mean <= drift.tilt.upper)
        self.assertIsNotNone(drift.forecast.days)
        self.assertTrue(drift.forecast.soonest <= drift.forecast.days <= drift.forecast.latest)

    def test_too_few_visits_say_so(self):
        self.survey()
        drift = drift_of(self.session, self.printer)
        self.assertEqual((len(drift.found), drift.tilt, drift.forecast.days), (1, None, None))
        self.assertTrue(drift.forecast.sentence)
