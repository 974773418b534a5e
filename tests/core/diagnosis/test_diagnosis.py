"""Weighing causes: values, properties, and a bank of written cases."""

import itertools
import unittest
from dataclasses import replace

import numpy as np
from bench import strangers
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.diagnosis import (
    BOTH,
    CLEAR,
    Cause,
    Check,
    Finding,
    Known,
    Model,
    Outcome,
    Sign,
    diagnose,
    entropy,
    no,
    number_remedy,
    propose_checks,
    raised,
    rank_causes,
    repair_order,
    spent,
    telling_signs,
    yes,
)
from finchwort.knowledge import beliefs
from tests.fixtures.case_bank import CASES

KNOWN = beliefs()
MODEL = Model(KNOWN.causes, KNOWN.signs, KNOWN.checks, before=KNOWN.before)
CONTEXT = {one.key: one.odds for one in KNOWN.circumstances}
signs = st.sampled_from([sign.key for sign in KNOWN.signs])


def odds_of(keys):
    found = {}
    for key in keys.split():
        for cause, factor in CONTEXT[key].items():
            found[cause] = found.get(cause, 1.0) * factor
    return found


class BankTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.places = {}
        for words, seen, absent, context, cause in CASES:
            model = Model(KNOWN.causes, KNOWN.signs, KNOWN.checks, odds_of(context))
            findings = [yes(s) for s in seen.split()] + [no(s) for s in absent.split()]
            ranked = [r.cause.key for r in rank_causes(model, findings, most=len(KNOWN.causes)).ranked]
            cls.places[words] = (ranked.index(cause) + 1, cause, ranked[0])

    def test_it_covers_every_cause_and_is_large_enough(self):
        self.assertGreaterEqual(len(CASES), 60)
        self.assertEqual({case[4] for case in CASES}, {cause.key for cause in KNOWN.causes})

    def test_first_and_among_the_first_three(self):
        places = [place for place, _, _ in self.places.values()]
        wrong = {w: p for w, p in self.places.items() if p[0] > 1}
        self.assertGreaterEqual(np.mean([p == 1 for p in places]), 0.9, wrong)
        self.assertGreaterEqual(np.mean([p <= 3 for p in places]), 0.98, wrong)

    def test_one_sign_less_still_leads_near(self):
        """Whatever one of the seen signs is left out, the cause is among the first three nine times in ten."""
        near, first = [], []
        for _words, seen, absent, context, cause in CASES:
            model = Model(KNOWN.causes, KNOWN.signs, KNOWN.checks, odds_of(context))
            for left_out in seen.split() if len(seen.split()) > 1 else ():
                told = [yes(s) for s in seen.split() if s != left_out] + [no(s) for s in absent.split()]
                ranked = [r.cause.key for r in rank_causes(model, told).ranked[:3]]
                near.append(cause in ranked)
                first.append(cause == ranked[0])
        self.assertGreaterEqual(np.mean(near), 0.98)
        self.assertGreaterEqual(np.mean(first), 0.9)


class ModelTest(unittest.TestCase):
    def test_before_anything_is_known_weights_rule(self):
        found = MODEL.marginals(MODEL.prior)
        weight = np.array([cause.weight for cause in KNOWN.causes])
        self.assertEqual(int(np.argmax(found)), int(np.argmax(weight)))
        singles = MODEL.prior[MODEL.single].sum()
        self.assertAlmostEqual(singles + MODEL.prior[~MODEL.single].sum(), 1)
        # two at once are about so often as was put in
        self.assertAlmostEqual(MODEL.prior[~MODEL.single].sum() / singles, BOTH, delta=0.02)

    @given(st.lists(st.tuples(signs, st.booleans()), max_size=12))
    @settings(max_examples=60)
    def test_any_evidence_gives_a_calm_answer(self, told):
        findings = [yes(s) if there else no(s) for s, there in told]
        posterior = MODEL.posterior(findings)
        self.assertTrue(np.isfinite(posterior).all())
        self.assertAlmostEqual(posterior.sum(), 1)
        found = rank_causes(MODEL, findings)
        self.assertTrue(found.sentence.endswith("."))
        chances = [r.probability for r in found.ranked]
        self.assertEqual(chances, sorted(chances, reverse=True))

    @given(st.lists(signs, min_size=2, max_size=6, unique=True), st.randoms())
    @settings(max_examples=40)
    def test_the_order_of_telling_does_not_matter(self, told, rng):
        mixed = list(told)
        rng.shuffle(mixed)
        a, b = (MODEL.posterior([yes(s) for s in order]) for order in (told, mixed))
        self.assertTrue(np.allclose(a, b))

    @given(signs)
    @settings(max_examples=30)
    def test_a_sign_speaks_for_what_brings_it_about(self, sign):
        before, after = MODEL.marginals(MODEL.prior), MODEL.marginals(MODEL.posterior([yes(sign)]))
        for i, cause in enumerate(KNOWN.causes):
            if cause.signs.get(sign, 0) > 0.9:
                self.assertGreater(after[i], before[i])

    def test_contradictions_are_told(self):
        found = rank_causes(
            MODEL,
            [
                yes("gaps"),
                yes("see_through"),
                yes("flow_stops"),
                yes("hissing"),
                yes("pinholes"),
                yes("temp_drops"),
            ],
        )
        self.assertIn("None of these explains it", found.sentence)

    def test_an_axis_keeps_its_letter_inside_a_sentence(self):
        causes = [replace(MODEL.causes[MODEL.at["z_switch"]], weight=1e6), *MODEL.causes[:3]]
        found = rank_causes(Model(causes, MODEL.signs, ()), [yes("never_triggers")])
        self.assertEqual(found.sentence, "Almost surely: Z switch out of reach.")

    def test_nothing_known_is_said(self):
        self.assertIn("Nothing was looked at yet", rank_causes(MODEL).sentence)

    def test_in_one_go_with_the_knowledge_passed_in(self):
        found, offers = diagnose(
            [yes("hissing")],
            Model(KNOWN.causes, KNOWN.signs, KNOWN.checks, {"damp_filament": 3.0}),
            done=[("other_spool", "better")],
        )
        self.assertEqual(found.ranked[0].cause.key, "damp_filament")
        self.assertNotIn("other_spool", [offer.check.key for offer in offers])
        plain = rank_causes(MODEL, [yes("hissing")]).ranked[0]
        self.assertGreater(found.ranked[0].probability, plain.probability)

    def test_two_at_once(self):
        found = rank_causes(
            MODEL,
            [
                yes(s)
                for s in (
                    "round_spots",
                    "good_elsewhere",
                    "thin_everywhere",
                    "clicks_anywhere",
                    "marks_in_light",
                )
            ],
        )
        self.assertIsNotNone(found.pair)
        self.assertIn("Skin oil or dirt on the plate", found.pair[:2])
        self.assertIn("Two things at once", found.sentence)

    def test_what_cannot_be_told_apart_is_not_told_apart(self):
        found = rank_causes(MODEL, [yes("corners_lift"), no("gaps"), no("see_through")])
        self.assertGreaterEqual(len(found.alike), 2)
        self.assertIn("cannot be told apart yet", found.sentence)

    def test_reasons_for_and_against(self):
        found = rank_causes(
            MODEL, [yes("gaps"), no("see_through"), Finding("bed_below", 0.2, 0.9, "Bed at 60 °C")]
        )
        first = found.ranked[0]
        self.assertEqual(first.cause.key, "too_far")
        self.assertIn("Gaps between the lines", [r.words for r in first.speaks_for])
        close = next(
            r
            for r in rank_causes(MODEL, [no("see_through"), yes("ridges")]).ranked
            if r.cause.key == "too_close"
        )
        self.assertEqual([r.words for r in close.against], ["Not seen: thin and see-through"])

    def test_a_remedy_that_did_nothing_moves_on(self):
        findings = [yes("gaps"), yes("round_bead")]
        before = rank_causes(MODEL, findings).ranked[0]
        after = rank_causes(MODEL, findings, tried=[("too_far", False)])
        chance = next(r.probability for r in after.ranked if r.cause.key == "too_far")
        self.assertEqual(before.cause.key, "too_far")
        self.assertLess(chance, before.probability)
        good = rank_causes(MODEL, findings, tried=[("too_far", True)]).ranked[0]
        self.assertGreater(good.probability, before.probability)

    def test_bad_input(self):
        cause = Cause("a", "A", 1, {"s": 0.5}, "")
        other = Cause("b", "B", 1, {"s": 0.2}, "")
        sign = Sign("s", "S?", "x")
        for causes in (
            [cause],
            [cause, cause],
            [cause, Cause("c", "C", 1, {"t": 0.5}, "")],
            [cause, Cause("c", "C", 0, {}, "")],
            [cause, Cause("c", "C", 1, {"s": 1.0}, "")],
        ):
            with self.subTest(causes), self.assertRaises(errors.CoreError):
                Model(causes, [sign], [])
        with self.assertRaises(errors.CoreError):
            Model([cause, other], [Sign("s", "S?", "x", leak=0.0)], [])
        with self.assertRaises(errors.CoreError):
            Model([cause, other], [sign], [Check("k", "K", "", 1, 1, (Outcome("o", "o", {"z": 0.5}),), "")])
        model = Model([cause, other], [sign], [])
        for finding in (yes("t"), Finding("s", -1, 1), Finding("s", 0, 0), Finding("s", float("nan"), 1)):
            with self.subTest(finding), self.assertRaises(errors.CoreError):
                model.posterior([finding])
        with self.assertRaises(errors.CoreError):
            model.posterior(done=[("k", CLEAR)])
        with self.assertRaises(errors.CoreError):
            MODEL.posterior(done=[("wash", "worse")])
        with self.assertRaises(errors.CoreError):
            MODEL.posterior(tried=[("ghost", True)])


class CheckTest(unittest.TestCase):
    def test_outcomes_of_every_check_add_up(self):
        for check in KNOWN.checks:
            shares = MODEL.outcome_shares(check)
            self.assertTrue(np.allclose(shares.sum(axis=1), 1), check.key)
            self.assertGreater(shares.min(), 0)

    @given(st.lists(st.tuples(signs, st.booleans()), max_size=5))
    @settings(max_examples=25)
    def test_to_look_never_harms_on_average(self, told):
        posterior = MODEL.posterior([yes(s) if there else no(s) for s, there in told])
        for offer in propose_checks(MODEL, posterior, has=strangers.HAS):
            self.assertGreater(offer.gain, 0)
            self.assertAlmostEqual(sum(m.probability for m in offer.meanings), 1)
            self.assertLessEqual(offer.gain, entropy(posterior))

    def test_what_was_done_or_cannot_be_done_is_not_proposed(self):
        keys = {p.check.key for p in propose_checks(MODEL, MODEL.prior)}
        self.assertNotIn("survey", keys)
        self.assertIn("survey", {p.check.key for p in propose_checks(MODEL, MODEL.prior, has=["probe"])})
        self.assertNotIn(
            "along_light", {p.check.key for p in propose_checks(MODEL, MODEL.prior, done=["along_light"])}
        )

    def test_looking_comes_before_trying_when_it_tells_as_much(self):
        causes = [Cause("a", "A", 1, {"s": 0.5}, ""), Cause("b", "B", 1, {"s": 0.5}, "")]
        outcome = (Outcome("seen", "seen", {"a": 0.9}),)
        checks = [
            Check("take", "Take apart", "", 2, 3, outcome, ""),
            Check("look", "Look", "", 2, 1, outcome, ""),
        ]
        model = Model(causes, [Sign("s", "S?", "x")], checks)
        self.assertEqual([p.check.key for p in propose_checks(model, model.prior)], ["look", "take"])

    def test_outcomes_say_what_they_would_mean(self):
        posterior = MODEL.posterior([yes("gaps"), yes("round_bead")])
        paper = next(p for p in propose_checks(MODEL, posterior) if p.check.key == "paper_centre")
        far = next(m for m in paper.meanings if m.key == "far")
        self.assertEqual(far.cause, "too_far")
        after = MODEL.marginals(MODEL.posterior([yes("gaps"), yes("round_bead")], [("paper_centre", "far")]))
        self.assertAlmostEqual(far.then, float(after[MODEL.at["too_far"]]))


class RepairTest(unittest.TestCase):
    @given(st.lists(st.tuples(st.floats(0.01, 1), st.floats(0.5, 30)), min_size=1, max_size=6))
    @settings(max_examples=60)
    def test_no_other_order_is_cheaper(self, pairs):
        p, c = zip(*pairs, strict=True)
        order, expected = repair_order(p, c)
        share = np.array(p) / sum(p)

        def cost(walk):
            left, total = 1.0, 0.0
            for i in walk:
                total += left * c[i]
                left -= share[i]
            return total

        self.assertAlmostEqual(expected, cost(order), places=6)
        self.assertLessEqual(expected, min(map(cost, itertools.permutations(range(len(p))))) + 1e-6)

    def test_refused(self):
        for p, c in (([], []), ([1], [0]), ([-1, 2], [1, 1]), ([1], [1, 2]), ([float("nan")], [1])):
            with self.subTest(p=p), self.assertRaises(errors.OutOfRangeError):
                repair_order(p, c)


class StrangersTest(unittest.TestCase):
    """A few complaints of somebody else's world; `bench.strangers` has many."""

    def test_near_what_somebody_says_who_knows_their_world(self):
        ours, oracle = strangers.hear(60, 80_000)
        self.assertGreater(np.mean(ours.first), 0.75 * np.mean(oracle.first))
        self.assertGreater(np.mean(ours.three), 0.85 * np.mean(oracle.three))

    def test_sooner_than_a_fixed_order_and_mostly_to_the_end(self):
        runs = strangers.follow_many(30, 81_000)
        self.assertLess(np.mean([r.minutes for r in runs]), 0.6 * np.mean([r.fixed for r in runs]))
        self.assertGreater(np.mean([r.ended for r in runs]), 0.75)

    def test_nothing_is_done_twice_in_a_row(self):
        for run in strangers.follow_many(15, 82_000):
            for one, other in itertools.pairwise(run.steps):
                if one == other:
                    # only a walk of small steps that grew better goes on
                    self.assertIn(one, ("remedy:too_far", "remedy:too_close"))


SIGNS_ASKED = [sign.key for sign in KNOWN.signs if not sign.measured]
COMES = st.sampled_from(["better", "little", "not_better"])


class AlarmTest(unittest.TestCase):
    @given(
        st.lists(st.tuples(st.sampled_from(SIGNS_ASKED), st.booleans()), max_size=15),
        st.lists(st.tuples(st.sampled_from([c.key for c in KNOWN.causes]), COMES), max_size=3),
        st.sampled_from(["scraping", "smell", "halted"]),
    )
    @settings(max_examples=60)
    def test_whatever_else_is_told_the_alarm_comes_first(self, told, tried, alarm):
        findings = [yes(s) if there else no(s) for s, there in told if s not in ("smell", "scraping", alarm)]
        found, offers = diagnose([*findings, yes(alarm)], MODEL, tried=tried, has=strangers.HAS)
        self.assertEqual((found.alarm, found.move.kind, found.move.key), (alarm, "alarm", alarm))
        self.assertFalse([offer.check.key for offer in offers if offer.check.prints])
        after, _ = diagnose([*findings, yes(alarm)], MODEL, tried=tried, has=strangers.HAS, dealt_with=True)
        self.assertNotEqual(after.move.kind, "alarm")

    def test_nothing_comes_out_and_it_clicks(self):
        for click in ("clicks_first", "clicks_anywhere"):
            self.assertEqual(raised([yes("nothing_out"), yes(click)]), "clicks")
        self.assertIsNone(raised([yes("nothing_out"), no("clicks_first")]))
        self.assertEqual(raised([yes("scraping"), yes("smell")]), "smell")
        self.assertIsNone(raised([yes("scraping"), no("scraping")]))

    def test_after_scraping_no_trim_under_a_print(self):
        for number in ("offset_closer", "offset_farther"):
            wanted = number_remedy(number, Known(offset_error=0.1), alarm=True)
            self.assertIsNone(wanted.closer)
            self.assertIn("from above", wanted.after)

    def test_signs_that_raise_an_alarm_are_always_asked_first(self):
        self.assertEqual(
            telling_signs(MODEL, MODEL.posterior([yes("corners_lift")]), {"corners_lift"})[:3],
            ("scraping", "smell", "halted"),
        )


class AgainTest(unittest.TestCase):
    @given(
        st.lists(st.sampled_from(SIGNS_ASKED), min_size=1, max_size=5, unique=True),
        st.lists(st.tuples(st.sampled_from([c.key for c in KNOWN.causes]), COMES), min_size=1, max_size=6),
    )
    @settings(max_examples=60)
    def test_what_did_not_help_is_not_proposed_while_anything_else_is_worth_it(self, told, tried):
        signs = [
            yes(s) for s in told if s not in ("scraping", "smell", "halted", "temp_drops", "nothing_out")
        ]
        move = diagnose(signs, MODEL, tried=tried, has=strangers.HAS)[0].move
        if move.kind == "remedy" and not move.again:
            last = [came for key, came in tried if key == move.key]
            walks = MODEL.causes[MODEL.at[move.key]].number in ("offset_closer", "offset_farther")
            self.assertTrue(not last or (walks and last[-1] == "little"), (move, tried))

    def test_what_was_tried_before_is_evidence_and_is_skipped(self):
        told = [yes("round_spots"), yes("marks_in_light")]
        plain, _ = diagnose(told, MODEL)
        washed, _ = diagnose(told, MODEL, tried=[("soap", "not_better")])
        wiped, _ = diagnose(told, MODEL, tried=[("alcohol", "not_better")])

        def chance(found):
            return next((r.probability for r in found.ranked if r.cause.key == "oily_plate"), 0.0)

        self.assertLess(chance(washed), chance(wiped))
        self.assertLess(chance(wiped), chance(plain))
        self.assertIn("oily_plate", spent(MODEL, [("soap", "not_better")]))
        self.assertNotIn("oily_plate", spent(MODEL, [("alcohol", "not_better")]))

    def test_when_everything_was_tried_it_says_so(self):
        tried = [(cause.key, "not_better") for cause in KNOWN.causes]
        found, _ = diagnose([yes("corners_lift")], MODEL, tried=tried + tried, has=strangers.HAS)
        self.assertIn(found.move.kind, ("check", "nothing"))

    def test_once_it_is_better_nothing_more_is_proposed(self):
        told = [yes("round_spots"), yes("marks_in_light")]
        move = diagnose(told, MODEL, tried=[("oily_plate", "better")])[0].move
        self.assertEqual((move.kind, move.key), ("done", "oily_plate"))
        # what helped before the case was opened has not ended it
        self.assertNotEqual(diagnose(told, MODEL, tried=[("soap", "better")])[0].move.kind, "done")

    def test_a_little_better_goes_on_in_the_same_way_only_for_so_long(self):
        self.assertEqual(spent(MODEL, [("too_far", "little")] * 5), set())
        self.assertEqual(spent(MODEL, [("too_far", "little")] * 6), {"too_far"})
        self.assertEqual(spent(MODEL, [("bed_cold", "little")]), {"bed_cold"})


class ReportingTest(unittest.TestCase):
    def test_an_answer_is_evidence_not_a_fact(self):
        """One false tick among three true ones does not carry the day."""
        findings = [yes("round_spots"), yes("marks_in_light"), yes("good_elsewhere"), yes("hissing")]
        self.assertEqual(rank_causes(MODEL, findings).ranked[0].cause.key, "oily_plate")

    def test_what_follows_counts_once(self):
        alone = MODEL.posterior([yes("only_corners")])
        both = MODEL.posterior([yes("only_corners"), yes("corners_lift")])
        self.assertTrue(np.allclose(alone, both))

    def test_open_is_evidence(self):
        """Who tells something strange but not that it scrapes has hardly a tip that scrapes."""
        sign = MODEL.sign_at["scraping"]
        shows = MODEL.shows[:, sign]
        scraping = shows @ MODEL.posterior([yes("ridges")])
        unasked = Model(
            KNOWN.causes, [replace(s, measured=s.measured or s.key == "scraping") for s in KNOWN.signs], []
        )
        self.assertLess(scraping, shows @ unasked.posterior([yes("ridges")]))

    def test_a_check_that_asks_what_was_told_tells_less(self):
        check = MODEL.check_by["along_light"]
        news = propose_checks(MODEL, MODEL.prior)
        stale = propose_checks(MODEL, MODEL.prior, told={"marks_in_light"})
        gain = [next(p.gain for p in offers if p.check is check) for offers in (news, stale)]
        self.assertLess(gain[1], 0.5 * gain[0])

    def test_no_check_is_proposed_that_changes_nothing(self):
        for told in (["gaps", "round_bead", "nothing_sticks"], ["hissing"], ["only_corners", "large_flat"]):
            for offer in propose_checks(MODEL, MODEL.posterior([yes(s) for s in told]), has=strangers.HAS):
                self.assertGreater(len({m.cause for m in offer.meanings}), 1, offer.check.key)

    def test_what_nothing_explains_is_told_so(self):
        found = rank_causes(
            MODEL, [yes(s) for s in ("hissing", "never_triggers", "window_side", "fresh_coat_held")]
        )
        self.assertIn("None of these explains it", found.sentence)
        self.assertGreater(found.conflict, 0)
        plain = rank_causes(MODEL, [yes(s) for s in ("gaps", "round_bead", "nothing_sticks")])
        self.assertLess(plain.conflict, 0)

    def test_a_bank_with_one_false_tick(self):
        rng = np.random.default_rng(5)
        right = []
        for _words, seen, absent, context, cause in CASES:
            model = Model(KNOWN.causes, KNOWN.signs, KNOWN.checks, odds_of(context))
            for _ in range(3):
                others = sorted(set(SIGNS_ASKED) - set(seen.split()) - set(absent.split()) - {"smell"})
                told = [yes(s) for s in (*seen.split(), str(rng.choice(others)))]
                told += [no(s) for s in absent.split()]
                right.append(rank_causes(model, told).ranked[0].cause.key == cause)
        self.assertGreaterEqual(np.mean(right), 0.85)
