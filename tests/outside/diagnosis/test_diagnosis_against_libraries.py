"""Weighing causes against exact inference, hand-worked examples, a named paper, and handbook values."""

import unittest
from itertools import combinations

import numpy as np
import pyagrum as gum
from scipy.optimize import minimize_scalar

from finchwort.core.diagnosis import (
    BOTH,
    CLEAR,
    TABLE_LOOKS,
    Cause,
    Check,
    Counts,
    Finding,
    Model,
    Outcome,
    Sign,
    cost_of,
    expected_minutes,
    learn,
    no,
    propose_checks,
    repair_order,
    reporting,
    suit,
    yes,
)
from finchwort.core.diagnosis.inference import ELSE, MOST_TOLD, OVERLOOKED, PEOPLE
from finchwort.knowledge import beliefs, materials, surfaces

KNOWN = beliefs()


ANSWERS = ("yes", "no", "open")


def network(model: Model, causes: list[str], signs: list[str]):
    """A noisy-or network of the same causes and signs; people who answer; a chain that counts how many causes there are."""
    net = gum.BayesNet()
    known = sum(float(o) for o in model.odds) + sum(float(a * b) for a, b in combinations(model.odds, 2))
    other = known * ELSE / (1 - ELSE)
    for key, odds in [*((key, float(model.odds[model.at[key]])) for key in causes), ("other", other)]:
        net.add(gum.LabelizedVariable(key, key, 2))
        net.cpt(key).fillWith([1 / (1 + odds), odds / (1 + odds)])
    net.add(gum.LabelizedVariable("person", "person", len(PEOPLE)))
    net.cpt("person").fillWith([share for share, *_ in PEOPLE])
    for key in signs:
        at = model.sign_at[key]
        leak = float(model.leak[at])
        net.addNoisyORNet(gum.LabelizedVariable(f"s_{key}", key, 2), leak)
        for cause in causes:
            share = float(model.share[model.at[cause], at])
            if share > 0:
                net.addWeightedArc(cause, f"s_{key}", share)
        straw = 1 - (1 - float(model.shows[-1, at])) / (1 - leak)
        net.addWeightedArc("other", f"s_{key}", straw)
        sign = model.signs[at]
        if sign.measured:
            continue
        name = f"a_{key}"
        net.add(gum.LabelizedVariable(name, name, list(ANSWERS)))
        net.addArc(f"s_{key}", name)
        net.addArc("person", name)
        for k, (_, talk, deny, careless) in enumerate(PEOPLE):
            told, false = min(MOST_TOLD, sign.told * talk), sign.mistaken * careless
            there = [told, (1 - told) * deny * OVERLOOKED]
            absent = [false, (1 - false) * deny]
            for shows, row in enumerate((absent, there)):
                net.cpt(name)[{f"s_{key}": shows, "person": k}] = [*row, 1 - sum(row)]
    before = None
    for i, key in enumerate(causes):
        name = f"n{i}"
        net.add(gum.LabelizedVariable(name, name, 4))  # none, one, two, more
        net.addArc(key, name)
        if before:
            net.addArc(before, name)
        cpt = net.cpt(name)
        for there in (0, 1):
            for counted in range(4) if before else (0,):
                total = min(3, counted + there)
                where = {key: there} | ({before: counted} if before else {})
                cpt[where] = [1.0 if k == total else 0.0 for k in range(4)]
        before = name
    # one or two causes of the table, or something else alone
    net.add(gum.LabelizedVariable("fits", "fits", 2))
    net.addArc(before, "fits")
    net.addArc("other", "fits")
    for counted in range(4):
        for strange in (0, 1):
            fits = counted in (1, 2) if not strange else counted == 0
            net.cpt("fits")[{before: counted, "other": strange}] = [0.0, 1.0] if fits else [1.0, 0.0]
    return net, before


class ExactInferenceTest(unittest.TestCase):
    """pyAgrum's lazy propagation on the same network, to 1e-6."""

    CAUSES = (
        "too_far",
        "too_close",
        "tilted",
        "oily_plate",
        "bed_cold",
        "mesh_off",
        "partial_clog",
        "draught",
        "fan_on",
    )
    SIGNS = (
        "gaps",
        "see_through",
        "one_side",
        "round_spots",
        "corners_lift",
        "corners_later",
        "bands",
        "thin_everywhere",
        "bed_below",
    )

    def setUp(self):
        signs = [sign for sign in KNOWN.signs if sign.key in self.SIGNS]
        causes = [
            Cause(c.key, c.name, c.weight, {s: p for s, p in c.signs.items() if s in self.SIGNS}, "")
            for c in KNOWN.causes
            if c.key in self.CAUSES
        ]
        self.model = Model(causes, signs, [])
        self.follows = {sign.key: sign.follows for sign in signs}
        self.net, self.count = network(self.model, list(self.CAUSES), list(self.SIGNS))

    def exact(self, findings):
        engine = gum.LazyPropagation(self.net)
        evidence = {"fits": [0.0, 1.0]}
        told = {finding.sign: finding.told for finding in findings if finding.told is not None}
        implied = {s for key, there in told.items() if there for s in self.follows[key]}
        for finding in findings:
            if finding.told is None:
                evidence[f"s_{finding.sign}"] = [finding.absent, finding.there]
        for sign in self.model.signs if told else ():
            # what follows from something told is neither news nor left open
            if not sign.measured and not (sign.key in implied and told.get(sign.key, True)):
                answer = {True: 0, False: 1, None: 2}[told.get(sign.key)]
                evidence[f"a_{sign.key}"] = [float(k == answer) for k in range(3)]
        engine.setEvidence(evidence)
        for one, other in combinations(self.CAUSES, 2):
            engine.addJointTarget({one, other})
        engine.makeInference()
        return engine

    def test_single_causes_and_pairs(self):
        for findings in (
            [],
            [yes("gaps"), no("see_through")],
            [yes("round_spots"), yes("corners_lift"), no("one_side"), yes("thin_everywhere")],
            [yes("one_side"), Finding("bed_below", 0.8, 0.2), Finding("bands", 0.3, 0.9)],
            [yes("gaps"), yes("see_through"), yes("bands"), yes("corners_later"), yes("corners_lift")],
        ):
            with self.subTest(findings):
                engine = self.exact(findings)
                posterior = self.model.posterior(findings)
                marginal = self.model.marginals(posterior)
                self.assertAlmostEqual(
                    engine.posterior("other")[1], self.model.something_else(posterior), delta=1e-6
                )
                for key in self.CAUSES:
                    self.assertAlmostEqual(engine.posterior(key)[1], marginal[self.model.at[key]], delta=1e-6)
                for one, other in combinations(self.CAUSES, 2):
                    i, j = sorted((self.model.at[one], self.model.at[other]))
                    ours = posterior[(self.model.first == i) & (self.model.second == j)][0]
                    self.assertAlmostEqual(
                        engine.jointPosterior({one, other})[{one: 1, other: 1}], ours, delta=1e-6
                    )

    def test_how_often_two_at_once(self):
        engine = self.exact([])
        pairs = engine.posterior(self.count)[2] / engine.posterior(self.count)[1]
        self.assertAlmostEqual(pairs, BOTH, delta=0.03)  # a cause cannot be paired with itself


class ValueOfInformationTest(unittest.TestCase):
    """Worked by hand: two causes as likely, a check that shows one of them 9 times in 10, never without."""

    def test_gain(self):
        outcome = Outcome("seen", "seen", {"a": 0.9}, leak=1e-12)
        check = Check("look", "Look", "", 2, 1, (outcome,), "not seen")
        causes = [Cause("a", "A", 1, {"s": 0.5}, ""), Cause("b", "B", 1, {"s": 0.5}, "")]
        model = Model(causes, [Sign("s", "S?", "x")], [check])
        single = np.where(model.single & (model.first < 2), 1.0, 0.0) / 2  # no two at once, nothing else
        # seen with 0.45: certain; not seen with 0.55: a 1/11, b 10/11
        p = 1 / 11
        after = 0.55 * -(p * np.log2(p) + (1 - p) * np.log2(1 - p))
        offer = propose_checks(model, single)[0]
        self.assertAlmostEqual(offer.gain, 1 - after, places=6)
        chances = {m.key: m.probability for m in offer.meanings}
        self.assertAlmostEqual(chances["seen"], 0.45, places=6)
        self.assertAlmostEqual(chances[CLEAR], 0.55, places=6)


class ExpectedCostTest(unittest.TestCase):
    """Heckerman, Breese and Rommelse, Communications of the ACM 38(3), 1995: repairs by falling p / c."""

    def test_three_independent_repairs(self):
        """Worked by hand: p 0.5, 0.3, 0.2 at costs 10, 2, 1: ratios 0.05, 0.15, 0.2; 1 + 0.8 x 2 + 0.5 x 10 = 7.6."""
        order, expected = repair_order([0.5, 0.3, 0.2], [10, 2, 1])
        self.assertEqual(order, (2, 1, 0))
        self.assertAlmostEqual(expected, 1 + 0.8 * 2 + 0.5 * 10)

    def test_as_the_engine_reckons_it(self):
        """The same three repairs, and one that is left over: as `repair_order` reckons them, all situations at once."""
        for p, c in (([0.5, 0.3, 0.2], [10, 2, 1]), ([0.2, 0.2, 0.6], [3, 8, 5])):
            found = expected_minutes(np.array([p]).T, np.array(c, dtype=float))
            self.assertAlmostEqual(found[0], repair_order(p, c)[1])


class LearningTest(unittest.TestCase):
    """Dempster, Laird and Rubin 1977: expectation-maximisation ends where the likelihood with its prior is greatest."""

    def shares(self, yes_told, no_told, cases, key="window_side", cause="draught"):
        found = learn(KNOWN.causes, Counts({cause: cases}, {(cause, key): (yes_told, no_told)}), KNOWN.signs)
        return next(c for c in found if c.key == cause).signs[key]

    def test_at_the_greatest_likelihood_as_scipy_finds_it(self):
        sign = next(s for s in KNOWN.signs if s.key == "window_side")
        table = next(c for c in KNOWN.causes if c.key == "draught").signs["window_side"]
        there, absent = (part[:, 0] for part in reporting([sign]))
        for yes_told, no_told, cases in ((0, 0, 5), (3, 0, 10), (20, 5, 60), (50, 0, 50), (1, 30, 80)):
            number = np.array([yes_told, no_told, cases - yes_told - no_told])
            odds_of_leak = sign.leak * there + (1 - sign.leak) * absent

            def cost(share, number=number, leaky=odds_of_leak):
                chance = share * there + (1 - share) * leaky
                prior = TABLE_LOOKS * (table * np.log(share) + (1 - table) * np.log(1 - share))
                return -float(number @ np.log(chance) + prior)

            best = minimize_scalar(cost, bounds=(1e-6, 1 - 1e-6), method="bounded", options={"xatol": 1e-10})
            with self.subTest(told=number):
                self.assertAlmostEqual(self.shares(yes_told, no_told, cases), best.x, delta=2e-5)

    def test_worked_by_hand(self):
        """One sign, told always when there and never else, 8 of 8: (8 x 0.5 + 8) / 16 = 0.75, as counting would say."""
        table = [Cause("a", "A", 3, {"s": 0.5}, ""), Cause("b", "B", 1, {}, "")]
        found = learn(table, Counts({"a": 8}, {("a", "s"): (8, 0)}))
        self.assertAlmostEqual(found[0].signs["s"], 0.75)


class TableTest(unittest.TestCase):
    """Handbook softening temperatures (from memory) bound the bed table; common-practice values otherwise."""

    SOFTENS = {"PLA": 60, "PETG": 80, "ABS": 105, "ASA": 105}

    def test_beds_lie_around_softening_not_far_above(self):
        """Glass transition near 60 °C PLA, 80 °C PETG, 100 to 105 °C ABS and ASA (from memory)."""
        for surface in surfaces().values():
            for name, softens in self.SOFTENS.items():
                pair = surface.pairs.get(name)
                if pair and pair.bed_high is not None:
                    self.assertLessEqual(pair.bed_high, softens + 15, (surface.key, name))
                    self.assertEqual(materials()[name].softens is not None, True)

    def test_forty_degrees_suit_one_sheet_and_are_cold_on_another(self):
        """40 °C is right on a low-temperature sheet and cold on PEI (common practice)."""
        self.assertLessEqual(surfaces()["low_temperature_sheet"].pairs["PLA"].bed_low, 40)
        self.assertGreater(surfaces()["smooth_pei"].pairs["PLA"].bed_low, 40)

    def test_foamed_material(self):
        """Foamed PLA: 50 °C and glue stick, purged before each print (common practice)."""
        sheet = surfaces()["smooth_pei"]
        found = suit(sheet, materials()["Foamed PLA"], 50)
        self.assertEqual((found.state, sheet.pairs["Foamed PLA"].need), ("needs", "glue"))
        self.assertTrue(any("purge" in remark for remark in found.remarks))

    def test_weights_and_shares_of_the_trade(self):
        """The order of frequent causes: an oily plate, a nozzle too far, a tilted bed, a nozzle too close (common practice)."""
        ordered = sorted(KNOWN.causes, key=lambda c: -c.weight)[:4]
        self.assertEqual([c.key for c in ordered], ["oily_plate", "too_far", "tilted", "too_close"])

    def test_cost_of_a_failed_print(self):
        """90 g at 30 a kilogram are 2.70 (follows from arithmetic)."""
        self.assertAlmostEqual(cost_of(90, 30), 2.70)
