"""Cases in the database: opened, worked on, closed, learned from; and what is known without being asked."""

from datetime import timedelta

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.diagnosis import Model, gather, no, rank_causes, yes
from finchwort.core.surveys import Survey
from finchwort.knowledge import beliefs
from finchwort.messages.remarks import words
from finchwort.services.diagnosis import cases, evidence, opening
from finchwort.services.diagnosis import prior as believing
from finchwort.services.diagnosis.diagnose import diagnose_case, diagnose_cases, remedy_for
from finchwort.services.diagnosis.hearing import hear
from finchwort.services.first_layer import offsets, trials
from finchwort.services.printers import printers
from finchwort.services.surveys import surveys
from finchwort.services.tramming.planning import plan_for
from finchwort.services.visits import changes, visits
from finchwort.store.diagnosis import cases as stored_cases
from finchwort.store.diagnosis import prior as stored_believing
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.printers.setups import SurfaceSetup
from finchwort.store.records import utcnow
from finchwort.store.surveys.surveys import newest_surveys
from tests.fixtures import support
from tests.fixtures.case_bank import CASES
from tests.fixtures.support import key


class CaseCase(support.DatabaseCase):
    def setUp(self):
        super().setUp()
        self.session = self.sessions()
        self.addCleanup(self.session.close)
        setup = support.setup(
            surfaces=(SurfaceSetup("Sheet", "smooth_pei", 0.8, prints_since_wash=30),), materials=("PLA",)
        )
        self.printer = printers.create_printer(self.session, setup)
        self.visit = visits.start_visit(self.session, self.printer)
        self.strip(
            surface="Sheet",
            surface_kind="smooth_pei",
            material="PLA",
            bed_temperature=60,
            nozzle_temperature=205,
        )

    def strip(self, **changes):
        visits.update_visit(self.session, self.visit.id, self.visit.version, **changes)
        self.session.flush()

    def open(self, **more):
        return opening.open_case(
            self.session, self.printer.id, **{"client_key": key(), "words": "It peels."} | more
        )

    def survey(self, heights):
        readings = Survey([20, 200, 20, 200, 110], [20, 20, 200, 200, 110], heights)
        return surveys.store_survey(self.session, self.visit.id, readings, client_key=key(), source="typed")


class LifeTest(CaseCase):
    def test_from_complaint_to_closed(self):
        case = self.open(
            signs=[("round_spots", "yes"), ("gaps", "no")], circumstances=["later"], place=(40, 50)
        )
        self.assertEqual(stored_cases.answers_of(case), {"round_spots": "yes", "gaps": "no"})
        self.assertEqual(case.strip["material"], "PLA")
        cases.answer_sign(self.session, case.id, "gaps", "unknown", client_key=key())
        self.assertEqual(stored_cases.answers_of(case), {"round_spots": "yes"})
        cases.record_check(self.session, case.id, "along_light", "film", client_key=key())
        self.assertEqual(stored_cases.checks_of(case), [("along_light", "film")])
        begun = cases.begin_remedy(
            self.session, case.id, "oily_plate", what={"what": "Plate", "after": "washed"}, client_key=key()
        )
        with self.assertRaises(ConflictError):
            cases.begin_remedy(self.session, case.id, "bed_cold", what={}, client_key=key())
        self.assertEqual(stored_cases.tried_of(case), [])
        cases.end_remedy(self.session, case.id, begun.id, "better", client_key=key())
        self.assertEqual(stored_cases.tried_of(case), [("oily_plate", "better")])
        self.assertEqual(stored_cases.open_remedies(case), [])
        cases.close_case(self.session, case.id, "oily_plate", client_key=key(), note="Soap did it.")
        self.assertEqual(stored_cases.closed_as(case).key, "oily_plate")
        with self.assertRaises(ConflictError):
            cases.answer_sign(self.session, case.id, "gaps", "yes", client_key=key())
        cases.reopen_case(self.session, case.id, client_key=key())
        self.assertIsNone(stored_cases.closed_as(case))
        with self.assertRaises(ConflictError):
            cases.reopen_case(self.session, case.id, client_key=key())

    def test_two_changes_at_once_conclude_nothing(self):
        case = self.open()
        begun = cases.begin_remedy(
            self.session, case.id, "bed_cold", what={}, others=["washed the plate"], client_key=key()
        )
        cases.end_remedy(self.session, case.id, begun.id, "better", client_key=key())
        self.assertEqual(stored_cases.tried_of(case), [])

    def test_sent_again_taken_back_and_refused(self):
        mine = key()
        case = self.open(client_key=mine)
        self.assertIs(self.open(client_key=mine), case)
        with self.assertRaises(KeyTakenError):
            self.open(client_key=mine, words="Another.")
        event = cases.answer_sign(self.session, case.id, "gaps", "yes", client_key=key())
        stored_cases.set_event_deleted(self.session, event.id, True)
        self.assertEqual(stored_cases.answers_of(case), {})
        with self.assertRaises(NotFoundError):
            stored_cases.set_event_deleted(self.session, event.id, True)
        stored_cases.set_event_deleted(self.session, event.id, False)
        self.assertEqual(stored_cases.answers_of(case), {"gaps": "yes"})
        for bad in (
            lambda: cases.answer_sign(self.session, case.id, "moon", "yes", client_key=key()),
            lambda: cases.answer_sign(self.session, case.id, "gaps", "maybe", client_key=key()),
            lambda: cases.record_check(self.session, case.id, "wash", "worse", client_key=key()),
            lambda: cases.record_check(self.session, case.id, "pray", "clear", client_key=key()),
            lambda: cases.begin_remedy(self.session, case.id, "ghost", what={}, client_key=key()),
            lambda: cases.close_case(self.session, case.id, "ghost", client_key=key()),
            lambda: self.open(circumstances=["full_moon"]),
        ):
            with self.assertRaises(ChoiceError):
                bad()
        with self.assertRaises(OutOfRangeError):
            self.open(place=(500, 5))
        cases.set_case_deleted(self.session, case.id, True)
        with self.assertRaises(NotFoundError):
            stored_cases.get_case(self.session, case.id)
        cases.set_case_deleted(self.session, case.id, False)
        self.assertEqual(stored_cases.get_case(self.session, case.id).id, case.id)

    def test_lists_are_searched_and_changes_proposed(self):
        one = self.open(words="Corners of the sieve frame lift")
        self.open(words="Bare spots")
        self.assertEqual([c.id for c in stored_cases.list_cases(self.session, "sieve reed")], [one.id])
        self.assertEqual(stored_cases.list_cases(self.session, "100%"), [])
        changes.record_change(
            self.session, self.printer.id, "nozzle", client_key=key(), at=utcnow() - timedelta(days=1)
        )
        self.assertEqual(opening.proposed_circumstances(self.session, self.printer), ["nozzle"])
        # a case that was closed was the last time all was well
        cases.close_case(self.session, one.id, "shrinking", client_key=key())
        self.assertEqual(opening.proposed_circumstances(self.session, self.printer), [])


class EvidenceTest(CaseCase):
    def known(self, **more):
        return evidence.known_of(self.session, self.open(**more))

    def signs(self, known):
        return {f.sign: f for f in gather(known)}

    def test_strip_and_counts(self):
        self.strip(bed_temperature=40)
        found = self.signs(self.known())
        self.assertGreater(found["bed_below"].there, 0.9)
        self.assertIn("55 to 65 °C", words(found["bed_below"].source))
        self.assertGreater(found["many_prints_unwashed"].there, 0.9)
        self.assertLess(found["table_unsuited"].there, 0.1)
        self.assertNotIn("survey_tilt", found)

    def test_a_survey_counts_and_says_less_once_the_bed_was_moved(self):
        self.survey([-0.1, 0.1, -0.1, 0.1, 0.0])
        fresh = self.signs(self.known(place=(200, 110)))
        self.assertGreater(fresh["survey_tilt"].there, 0.9)
        self.assertLess(fresh["survey_shape"].there, 0.1)
        # the right is high: the bed's doing, and no word against the offset
        self.assertGreater(fresh["place_off"].there, 0.9)
        self.assertNotIn("layer_thin", fresh)
        changes.record_change(self.session, self.printer.id, "knobs", client_key=key())
        moved = self.signs(self.known(place=(200, 110)))
        self.assertLess(moved["survey_tilt"].there, 0.6)
        self.assertNotIn("place_off", moved)

    def test_ladders_tell_the_offset(self):
        offsets.record_offset(
            self.session,
            self.printer.id,
            {"printer": -1.0},
            "typed",
            client_key=key(),
            visit_id=self.visit.id,
        )
        rungs = [
            (0.02, "far_too_far"),
            (-0.02, "too_far"),
            (-0.06, "good"),
            (-0.09, "good"),
            (-0.13, "too_close"),
        ]
        trials.record_ladder(self.session, self.visit.id, rungs, client_key=key())
        known = self.known()
        self.assertAlmostEqual(known.offset_error, 0.07, delta=0.02)
        self.assertGreater(self.signs(known)["layer_thick"].there, 0.9)
        changes.record_change(self.session, self.printer.id, "firmware", client_key=key())
        found = self.signs(self.known())["offset_doubt"]
        self.assertGreater(found.there, 0.8)
        self.assertIn("firmware", words(found.source))

    def test_measurements_alone_can_name_a_cause(self):
        self.strip(bed_temperature=35)
        case = self.open(signs=[("corners_later", "yes")])
        model = Model(beliefs().causes, beliefs().signs, beliefs().checks)
        findings = [*stored_cases.findings_of(case), *gather(evidence.known_of(self.session, case))]
        self.assertEqual(rank_causes(model, findings).ranked[0].cause.key, "bed_cold")


class LearnTest(CaseCase):
    def close(self, cause, *signs):
        case = self.open(signs=[(sign, "yes") for sign in signs])
        cases.close_case(self.session, case.id, cause, client_key=key())
        return case

    def weights(self):
        return {cause.key: cause for cause in believing.believed(self.session)[0]}

    def test_closed_cases_shift_what_is_believed_and_can_be_taken_back(self):
        before = {cause.key: cause for cause in beliefs().causes}
        self.assertEqual(self.weights()["draught"].weight, before["draught"].weight)
        last = [self.close("draught", "window_side") for _ in range(6)][-1]
        after = self.weights()["draught"]
        self.assertGreater(after.weight, 2 * before["draught"].weight)
        self.assertGreater(after.signs["window_side"], before["draught"].signs["window_side"])
        cases.reopen_case(self.session, last.id, client_key=key())
        self.assertEqual(stored_believing.own_counts(self.session).causes["draught"], 5)
        cases.close_case(self.session, last.id, "unknown", client_key=key())
        self.assertEqual(stored_believing.own_counts(self.session).cases, 5)

    def test_another_workshop_is_merged_and_taken_out_again(self):
        self.close("bed_hot", "elephant_foot")
        mine = believing.write_counts(stored_believing.own_counts(self.session))
        before = self.weights()["bed_hot"].weight
        made = believing.merge_counts(self.session, "Reed hall", mine, client_key=key())
        self.assertEqual(believing.believed(self.session)[1].causes["bed_hot"], 2)
        self.assertGreater(self.weights()["bed_hot"].weight, before)
        stored_believing.set_import_deleted(self.session, made.id, True)
        self.assertAlmostEqual(self.weights()["bed_hot"].weight, before)
        for bad in (
            {},
            [],
            mine | {"form": "other"},
            mine | {"causes": {"ghost": 1}},
            mine | {"causes": {"bed_hot": -1}},
            mine | {"causes": {"bed_hot": 1.5}},
            mine | {"signs": [["bed_hot", "moon", 1, 0]]},
            mine | {"signs": [["bed_hot"]]},
        ):
            with self.subTest(bad), self.assertRaises((ChoiceError, OutOfRangeError)):
                believing.merge_counts(self.session, "x", bad, client_key=key())


class OneRoadTest(CaseCase):
    def test_a_list_says_what_each_case_says(self):
        self.survey([0.2, 0.0, 0.2, 0.0, 0.1])
        many = [
            self.open(signs=[("gaps", "yes")]),
            self.open(signs=[("round_spots", "yes")], circumstances=["later"]),
            self.open(signs=[("gaps", "yes")]),
            self.open(signs=[("round_spots", "yes"), ("gaps", "no")], circumstances=["later"]),
        ]
        cases.close_case(self.session, many[2].id, "too_far", client_key=key())
        found = diagnose_cases(self.session, many)
        self.assertEqual(set(found), {many[0].id, many[1].id, many[3].id})
        for case in many:
            if case.id in found:
                alone = diagnose_case(self.session, case).diagnosis
                self.assertEqual(found[case.id].sentence, alone.sentence)
                # a survey grows older in between, by as long as the sums take: causes alike may change places
                there, here = found[case.id].ranked, alone.ranked
                self.assertEqual(there[0].cause.key, here[0].cause.key)
                for one, other in zip(there, here, strict=True):
                    self.assertAlmostEqual(one.probability, other.probability, places=5)

    def test_a_remedy_begins_with_the_numbers_of_this_printer(self):
        self.strip(bed_temperature=40)
        case = self.open()
        begun = cases.begin_remedy(self.session, case.id, "bed_cold", client_key=key())
        self.assertEqual((begun.data["what"], begun.data["before"]), ("Bed", "40 °C"))
        low, high = diagnose_case(self.session, case).known.bed_range
        after = float(begun.data["after"].split()[0])
        self.assertTrue(low <= after <= high, begun.data)

    def test_what_was_looked_at_goes_before_what_was_measured(self):
        self.strip(bed_temperature=40)
        measured = diagnose_case(self.session, self.open()).measured
        asked = max(measured, key=lambda finding: finding.there).sign
        told = diagnose_case(self.session, self.open(signs=[(asked, "no")])).diagnosis
        others = [finding for finding in measured if finding.sign != asked]
        model = believing.model_for(self.session, self.printer, [])
        wanted = rank_causes(model, [no(asked), *others])
        self.assertEqual(
            [(one.cause.key, round(one.probability, 12)) for one in told.ranked],
            [(one.cause.key, round(one.probability, 12)) for one in wanted.ranked],
        )


class StepTest(CaseCase):
    """Offset remedies are a walk of small steps that the ledger follows."""

    def setUp(self):
        super().setUp()
        self.write({"printer": -1.0, "slicer": -0.05})
        self.case = self.open(signs=[("gaps", "yes"), ("round_bead", "yes")])

    def write(self, parts):
        return offsets.record_offset(
            self.session, self.printer.id, parts, "typed", client_key=key(), visit_id=self.visit.id
        )

    def ledger(self):
        return newest_offset(self.session, self.printer.id).parts

    def step(self, came):
        begun = cases.begin_remedy(self.session, self.case.id, "too_far", client_key=key())
        there = dict(self.ledger())
        cases.end_remedy(self.session, self.case.id, begun.id, came, client_key=key())
        return begun, there

    def test_step_by_step_until_it_no_longer_helps(self):
        begun, there = self.step("little")
        self.assertEqual(there, {"printer": -1.02, "slicer": -0.05})
        self.assertIn("type −1.02 mm", begun.data["after"])
        self.assertIn("−1.00 mm", begun.data["before"])
        found = diagnose_case(self.session, self.case)
        self.assertEqual((found.move.kind, found.move.key), ("remedy", "too_far"))
        _, there = self.step("little")
        self.assertEqual(there["printer"], -1.04)
        # the step that did not help is written back
        _, there = self.step("not_better")
        self.assertEqual(there["printer"], -1.06)
        self.assertEqual(self.ledger(), {"printer": -1.04, "slicer": -0.05})
        after = diagnose_case(self.session, self.case)
        self.assertFalse(after.move.key == "too_far" and not after.move.again)

    def test_taken_back_with_what_was_written_for_it(self):
        begun = cases.begin_remedy(self.session, self.case.id, "too_far", client_key=key())
        self.assertEqual(self.ledger()["printer"], -1.02)
        cases.set_event_deleted(self.session, begun.id, True)
        self.assertEqual(self.ledger()["printer"], -1.0)
        cases.set_event_deleted(self.session, begun.id, False)
        self.assertEqual(self.ledger()["printer"], -1.02)

    def test_another_value_since_is_left_alone(self):
        begun = cases.begin_remedy(self.session, self.case.id, "too_far", client_key=key())
        self.write({"printer": -0.9})
        cases.end_remedy(self.session, self.case.id, begun.id, "not_better", client_key=key())
        self.assertEqual(self.ledger(), {"printer": -0.9})

    def test_no_closer_where_the_tip_would_touch(self):
        case = self.open(signs=[("gaps", "yes")])
        self.survey([0.5, -0.5, 0.5, -0.5, 0.0])
        wanted = remedy_for(self.session, case, diagnose_case(self.session, case), "too_far")
        self.assertEqual((wanted.after, wanted.closer), ("not yet: level first", None))
        cases.begin_remedy(self.session, case.id, "too_far", client_key=key())
        self.assertEqual(self.ledger()["printer"], -1.0)

    def test_steps_on_a_doubt_do_not_add_up_to_a_scrape(self):
        """Each step is small, and the bed has a place 0.13 mm higher than its middle: three are too many."""
        self.survey([0.13, 0.0, 0.13, 0.0, 0.0])
        said = []
        for _ in range(6):
            found = diagnose_case(self.session, self.case)
            wanted = remedy_for(self.session, self.case, found, "too_far")
            said.append(wanted.after)
            if wanted.closer is None:
                break
            self.step("little")
        self.assertEqual(said[-1], "not yet: level first")
        self.assertGreater(len(said), 1)
        self.assertGreater(self.ledger()["printer"], -1.0 - 0.2 + 0.13)
        far = remedy_for(self.session, self.case, found, "too_close")
        self.assertLess(far.closer, 0)

    def test_a_remedy_brings_its_turns_and_its_brim(self):
        self.survey([-0.2, 0.2, -0.2, 0.2, 0.0])
        found = diagnose_case(self.session, self.case)
        turns = remedy_for(self.session, self.case, found, "tilted").after
        newest = newest_surveys(self.session, self.printer.id, 1)[0]
        wanted = [turn for turn in plan_for(self.session, newest).turns if not turn.leave]
        self.assertTrue(wanted)
        for turn in wanted:
            way = "tighter" if turn.rounded > 0 else "looser"
            self.assertIn(f"{turn.screw.name} {way}", turns)
        changes.record_change(self.session, self.printer.id, "knobs", client_key=key())
        found = diagnose_case(self.session, self.case)
        # another bed by now: the plan is no longer worth a word
        self.assertNotIn("tighter", remedy_for(self.session, self.case, found, "tilted").after)
        part = {"foot_width": 8, "foot_depth": 8, "part_height": 120}
        cases.correct_setup(self.session, self.case.id, part, client_key=key())
        found = diagnose_case(self.session, self.case)
        self.assertIn("9 mm wide, 3 layers", remedy_for(self.session, self.case, found, "small_foot").after)

    def test_nothing_is_begun_while_an_alarm_stands(self):
        case = self.open(signs=[("scraping", "yes"), ("see_through", "yes")])
        with self.assertRaises(ConflictError):
            cases.begin_remedy(self.session, case.id, "too_close", client_key=key())
        cases.made_safe(self.session, case.id, "scraping", client_key=key())
        begun = cases.begin_remedy(self.session, case.id, "too_close", client_key=key())
        self.assertIn("from above", begun.data["after"])
        self.assertEqual(self.ledger()["printer"], -1.0)

    def test_without_a_number_nothing_is_written(self):
        other = printers.create_printer(self.session, support.setup(name="Heron"))
        case = opening.open_case(self.session, other.id, client_key=key(), signs=[("gaps", "yes")])
        begun = cases.begin_remedy(self.session, case.id, "too_far", client_key=key())
        self.assertEqual(begun.data["after"], "0.02 mm closer")
        self.assertIsNone(newest_offset(self.session, other.id))


class ToldTest(CaseCase):
    def test_counters_that_nobody_touched_are_unknown(self):
        setup = support.setup(name="Heron", surfaces=(SurfaceSetup("Sheet", "smooth_pei", 0.8),))
        other = printers.create_printer(self.session, setup)

        def washes():
            case = opening.open_case(
                self.session,
                other.id,
                client_key=key(),
                strip={"surface": "Sheet", "surface_kind": "smooth_pei"},
            )
            return evidence.known_of(self.session, case).prints_since_wash

        self.assertIsNone(washes())
        printers.use_surface(self.session, other.id, "Sheet", "washed")
        self.assertEqual(washes(), 0)
        printers.use_surface(self.session, other.id, "Sheet", "printed")
        self.assertEqual(washes(), 1)

    def test_the_setup_is_corrected_in_the_case(self):
        case = self.open()
        self.assertNotIn("fast_first", {f.sign for f in gather(evidence.known_of(self.session, case))})
        cases.correct_setup(self.session, case.id, {"speed": 90, "fan": 100}, client_key=key())
        found = {f.sign: f for f in gather(evidence.known_of(self.session, case))}
        self.assertGreater(found["fast_first"].there, 0.9)
        self.assertGreater(found["fan_set"].there, 0.9)
        cases.correct_setup(self.session, case.id, {"bed_temperature": None}, client_key=key())
        self.assertIsNone(evidence.known_of(self.session, case).bed)
        # what the visit said stays as it was
        self.assertEqual(case.strip["bed_temperature"], 60)
        with self.assertRaises(ChoiceError):
            cases.correct_setup(self.session, case.id, {"moon": 1}, client_key=key())
        mine = key()
        one = cases.correct_setup(self.session, case.id, {"fan": 0}, client_key=mine)
        self.assertIs(cases.correct_setup(self.session, case.id, {"fan": 0}, client_key=mine), one)
        with self.assertRaises(KeyTakenError):
            cases.correct_setup(self.session, case.id, {"fan": 50}, client_key=mine)

    def test_the_kind_goes_with_the_surface_and_another_case_has_another_key(self):
        mine = key()
        case = self.open(client_key=mine, strip={"surface": ""}, before=[("glue", "little")])
        self.assertEqual(case.strip["surface_kind"], "")
        same = {"client_key": mine, "strip": {"surface": ""}, "before": [("glue", "little")]}
        self.assertIs(self.open(**same), case)
        for other in ({"strip": {"surface": "Sheet"}}, {"before": []}, {"before": [("glue", "better")]}):
            with self.assertRaises(KeyTakenError):
                self.open(**same | other)
        cases.correct_setup(self.session, case.id, {"surface": "Sheet"}, client_key=key())
        self.assertEqual(stored_cases.setup_of(case)["surface_kind"], "smooth_pei")

    def test_what_was_tried_before(self):
        case = self.open(signs=[("round_spots", "yes")], before=[("soap", "not_better")])
        self.assertEqual(stored_cases.tried_of(case), [("soap", "not_better")])
        found = diagnose_case(self.session, case)
        self.assertNotEqual(found.move.key, "oily_plate")
        cases.tell_before(self.session, case.id, "soap", "unknown", client_key=key())
        self.assertEqual(stored_cases.tried_of(case), [])
        for bad in (("moon", "better"), ("soap", "wonderful")):
            with self.assertRaises(ChoiceError):
                cases.tell_before(self.session, case.id, *bad, client_key=key())
            with self.assertRaises(ChoiceError):
                self.open(before=[bad])

    def test_an_alarm_stands_until_it_was_dealt_with_and_stands_again_when_told_again(self):
        case = self.open(signs=[("scraping", "yes"), ("gaps", "yes")])
        self.assertEqual(diagnose_case(self.session, case).move.kind, "alarm")
        cases.made_safe(self.session, case.id, "scraping", client_key=key())
        after = diagnose_case(self.session, case)
        self.assertNotEqual(after.move.kind, "alarm")
        self.assertFalse(after.diagnosis.sentence.startswith("Stop"))
        cases.answer_sign(self.session, case.id, "scraping", "yes", client_key=key())
        self.assertEqual(diagnose_case(self.session, case).move.kind, "alarm")
        with self.assertRaises(ChoiceError):
            cases.made_safe(self.session, case.id, "moon", client_key=key())

    def test_a_tilt_that_the_mesh_takes_out_is_no_trouble(self):
        self.survey([-0.1, 0.1, -0.1, 0.1, 0.0])
        known = self.known()
        self.assertFalse(known.compensated)

    def known(self):
        return evidence.known_of(self.session, self.open())


class HearingTest(CaseCase):
    def test_a_complaint_in_one_sentence_ends_with_the_right_cause(self):
        """The written complaints of the bank, heard word by word and every proposal confirmed."""
        model = Model(beliefs().causes, beliefs().signs, beliefs().checks)
        three = []
        for sentence, *_, cause in CASES:
            heard = [no(h.sign) if h.denied else yes(h.sign) for h in hear(sentence)]
            ranked = [r.cause.key for r in rank_causes(model, heard).ranked[:3]]
            three.append(cause in ranked)
        self.assertGreater(sum(three) / len(three), 0.7)

    def test_said_in_other_words_denied_mistyped_and_nonsense(self):
        for text, sign, denied in (
            ("Prints wont stick at all, everything comes off straight away", "nothing_sticks", False),
            ("no gaps between the lines", "gaps", True),
            ("The cornres curl up", "corners_lift", False),
            ("nozzle rammed into the bed", "scraping", False),
            ("I smell smoke", "smell", False),
            ("the extruder is clicking all the time", "clicks_anywhere", False),
            # begun in one clause, said in the next
            ("Levelled on Monday, gone by Friday", "level_lost", False),
        ):
            with self.subTest(text):
                heard = {h.sign: h.denied for h in hear(text)}
                self.assertIn(sign, heard)
                self.assertEqual(heard[sign], denied)
        for text in ("", "  ", "hello", "?!.,;", "a" * 900, "Ünïcödé ☃"):
            self.assertEqual(hear(text), ())

    def test_one_thing_that_does_not_stick_is_not_everything(self):
        for text in ("The skirt will not stick", "small letters don't hold", "the brim never sticks"):
            with self.subTest(text):
                self.assertEqual([h.sign for h in hear(text)], ["small_peel"])
        self.assertEqual([h.sign for h in hear("It will not stick")], ["nothing_sticks"])
