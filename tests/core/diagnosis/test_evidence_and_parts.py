"""Measurements told as signs, what closed cases teach, remedies with numbers, and parts with their settings."""

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base import errors
from finchwort.core.base.remarks import remark
from finchwort.core.diagnosis import (
    MIN_DOUBT,
    NOTHING,
    TABLE_CASES,
    Counts,
    Known,
    Model,
    add_counts,
    advise_brim,
    beyond,
    check_settings,
    conclude,
    cost_of,
    gather,
    learn,
    number_remedy,
    reporting,
    soft,
)
from finchwort.knowledge import beliefs, materials
from finchwort.messages.remarks import words

CAUSES = beliefs().causes
SIGNS = {sign.key for sign in beliefs().signs}
counts = st.builds(
    Counts,
    st.dictionaries(st.sampled_from([c.key for c in CAUSES]), st.integers(0, 50)),
    st.dictionaries(
        st.tuples(st.sampled_from([c.key for c in CAUSES]), st.sampled_from(sorted(SIGNS))),
        st.tuples(st.integers(0, 30), st.integers(0, 30)),
        max_size=20,
    ),
)

TOLD = remark("diagnosis.pair_suits")


class EvidenceTest(unittest.TestCase):
    def of(self, sign, **known):
        return next((f for f in gather(Known(**known)) if f.sign == sign), None)

    @given(st.floats(-2, 2), st.floats(-2, 2), st.floats(0.001, 1))
    def test_sureness_never_reaches_the_ends(self, value, limit, sd):
        sure = beyond(value, limit, sd)
        self.assertTrue(MIN_DOUBT <= sure <= 1 - MIN_DOUBT)
        if abs(value - limit) < 2 * sd:
            self.assertAlmostEqual(sure + beyond(limit, value, sd), 1)

    def test_what_is_no_number_is_refused(self):
        for values in ((math.nan, 0, 1), (0, math.inf, 1), (0, 0, 0), (0, 0, -1)):
            with self.subTest(values), self.assertRaises(errors.CoreError):
                beyond(*values)

    @given(st.floats(0, 2000))
    def test_old_measurements_say_less(self, days):
        fresh, old = soft("survey_tilt", 0.95, TOLD), soft("survey_tilt", 0.95, TOLD, days)
        self.assertLessEqual(abs(old.there - 0.5), abs(fresh.there - 0.5) + 1e-12)

    def test_every_sign_that_is_told_is_known(self):
        everything = Known(
            tilt=0.3,
            left=0.2,
            gap_error=0.1,
            offset_error=0.0,
            touch_range=0.05,
            soak="moving",
            skew=0.3,
            mesh_kept=True,
            mesh_outdated=remark("visits.since", event="turned"),
            offset_known=True,
            offset_outdated=remark("visits.since", event="nozzle"),
            bed=40,
            bed_range=(55, 65),
            nozzle=250,
            nozzle_range=(195, 220),
            pair="needs",
            need=True,
            prints_since_wash=30,
            coats=0,
        )
        found = gather(everything)
        self.assertLessEqual({f.sign for f in found}, SIGNS)
        self.assertGreater(len(found), 14)
        for one in found:
            self.assertRegex(words(one.source), "[a-z0-9C]$")
            self.assertAlmostEqual(one.there + one.absent, 1)
        self.assertEqual(gather(Known()), ())

    def test_each_measurement_speaks_the_right_way(self):
        self.assertGreater(self.of("survey_tilt", tilt=0.3).there, 0.9)
        self.assertLess(self.of("survey_tilt", tilt=0.02).there, 0.1)
        # a thicker first layer forgives more
        self.assertLess(
            self.of("survey_tilt", tilt=0.11, first_layer=0.3).there, self.of("survey_tilt", tilt=0.11).there
        )
        self.assertGreater(self.of("layer_thick", offset_error=0.08).there, 0.9)
        self.assertGreater(self.of("layer_thin", offset_error=-0.08).there, 0.9)
        # a gap at one place is the bed's doing: it says nothing of the offset
        self.assertIsNone(self.of("layer_thick", gap_error=0.08))
        self.assertGreater(self.of("place_off", gap_error=0.08).there, 0.9)
        self.assertGreater(self.of("place_off", gap_error=-0.08).there, 0.9)
        # what a mesh that holds takes out does not count
        self.assertLess(self.of("survey_tilt", tilt=0.3, compensated=True).there, 0.1)
        self.assertLess(self.of("survey_shape", left=0.3, compensated=True).there, 0.1)
        self.assertGreater(self.of("fast_first", speed=90).there, 0.9)
        self.assertGreater(self.of("fan_set", fan=100).there, 0.9)
        self.assertLess(self.of("fan_set", fan=0).there, 0.1)
        self.assertGreater(self.of("narrow_lines", width=0.36, hole=0.4).there, 0.9)
        self.assertLess(self.of("narrow_lines", width=0.48, hole=0.4).there, 0.1)
        self.assertIsNone(self.of("narrow_lines", width=0.36))
        self.assertGreater(self.of("tall_part", part=(10, 12, 120)).there, 0.9)
        self.assertLess(self.of("large_flat", part=(10, 12, 120)).there, 0.1)
        self.assertGreater(self.of("large_flat", part=(180, 160, 4)).there, 0.9)
        self.assertGreater(self.of("file_differs", height_set=0.3).there, 0.8)
        self.assertGreater(self.of("stored_twice", copies=2).there, 0.6)
        self.assertLess(self.of("stored_twice", copies=1).there, 0.2)
        self.assertGreater(self.of("corner_no_follow", slipping="front left").there, 0.8)
        self.assertGreater(self.of("wavers", walked={"belts": ("Belts tight", True, 0)}).there, 0.8)
        self.assertGreater(self.of("visible_marks", worn=True).there, 0.8)
        # alcohol is half a wash
        many = [
            self.of("many_prints_unwashed", prints_since_wash=8, washed_with=w).there for w in ("", "alcohol")
        ]
        self.assertLess(many[0], many[1])
        self.assertGreater(self.of("bed_below", bed=40, bed_range=(55, 65)).there, 0.9)
        self.assertLess(self.of("bed_above", bed=40, bed_range=(55, 65)).there, 0.1)
        self.assertGreater(self.of("nozzle_above", nozzle=250, nozzle_range=(195, 220)).there, 0.9)
        self.assertGreater(self.of("table_unsuited", pair="unsuitable").there, 0.9)
        self.assertGreater(self.of("adhesive_needed", pair="needs", need=True, coats=0).there, 0.8)
        self.assertLess(
            self.of("adhesive_needed", pair="needs", need=True, coats=1, prints_since_wash=2).there, 0.2
        )
        self.assertGreater(self.of("moving_bed", soak="moving").there, 0.8)
        self.assertLess(self.of("wide_range", touch_range=0.008).there, 0.1)


class LearnTest(unittest.TestCase):
    @given(counts)
    def test_weights_keep_their_sum_and_shares_stay_shares(self, seen):
        found = learn(CAUSES, seen)
        self.assertAlmostEqual(sum(c.weight for c in found), sum(c.weight for c in CAUSES))
        for cause in found:
            self.assertGreater(cause.weight, 0)
            for share in cause.signs.values():
                self.assertTrue(0 < share < 1)

    def test_nothing_seen_changes_nothing(self):
        for old, new in zip(CAUSES, learn(CAUSES, NOTHING), strict=True):
            self.assertAlmostEqual(old.weight, new.weight)
            for key, share in old.signs.items():
                self.assertAlmostEqual(share, new.signs[key])

    def test_many_cases_outweigh_the_table(self):
        many = Counts({"draught": 100 * int(TABLE_CASES)}, {})
        found = {c.key: c.weight for c in learn(CAUSES, many)}
        self.assertGreater(found["draught"] / sum(found.values()), 0.98)

    @given(counts, counts)
    def test_adding_up_does_not_depend_on_the_order(self, a, b):
        self.assertEqual(add_counts([a, b]), add_counts([b, a]))
        self.assertEqual(add_counts([a, b]).cases, a.cases + b.cases)

    def taught(self, cause, sign, share, cases, seed=1):
        """Counts of cases in which a sign shows so often and people tell it as the reporting numbers say."""
        rng = np.random.default_rng(seed)
        one = next(s for s in beliefs().signs if s.key == sign)
        there, absent = (part[:, 0] for part in reporting([one]))
        shows = rng.random(cases) < share + (1 - share) * one.leak
        draw = rng.random(cases)
        yes = draw < np.where(shows, there[0], absent[0])
        no = ~yes & (draw < np.where(shows, there[0] + there[1], absent[0] + absent[1]))
        return Counts({cause: cases}, {(cause, sign): (int(yes.sum()), int(no.sum()))})

    def test_what_is_left_open_counts(self):
        """Where only what is there is told, the share comes out as it is and not as one."""
        told = learn(CAUSES, self.taught("draught", "window_side", 0.4, 4000), beliefs().signs)
        share = next(c for c in told if c.key == "draught").signs["window_side"]
        self.assertAlmostEqual(share, 0.4, delta=0.05)
        only_yes = learn(
            CAUSES, Counts({"draught": 100}, {("draught", "window_side"): (20, 0)}), beliefs().signs
        )
        self.assertLess(next(c for c in only_yes if c.key == "draught").signs["window_side"], 0.6)

    def test_a_link_that_the_table_lacks_is_learned_and_noise_is_not(self):
        lacking = next(c for c in CAUSES if c.key == "draught")
        self.assertNotIn("hissing", lacking.signs)
        told = learn(CAUSES, self.taught("draught", "hissing", 0.6, 60), beliefs().signs)
        found = next(c for c in told if c.key == "draught").signs
        self.assertGreater(found["hissing"], 0.3)
        noise = learn(CAUSES, Counts({"draught": 60}, {("draught", "hissing"): (1, 5)}), beliefs().signs)
        self.assertNotIn("hissing", next(c for c in noise if c.key == "draught").signs)

    def test_the_new_table_is_still_a_table(self):
        told = learn(CAUSES, self.taught("draught", "hissing", 0.6, 60), beliefs().signs)
        Model(told, beliefs().signs, beliefs().checks)

    def test_impossible_counts(self):
        for bad in ({"a": -1}, {"a": 1.5}, {"a": 10**9}):
            with self.subTest(bad), self.assertRaises(errors.OutOfRangeError):
                Counts(bad, {})


class RemedyTest(unittest.TestCase):
    def test_numbers_come_from_what_is_known(self):
        known = Known(offset_error=0.06, bed=40, bed_range=(55, 65))
        self.assertEqual(number_remedy("offset_closer", known).after, "0.06 mm closer")
        self.assertEqual(number_remedy("offset_closer", known).closer, 0.06)
        self.assertEqual(number_remedy("offset_farther", Known()).closer, -0.02)
        self.assertEqual(number_remedy("offset_farther", known).after, "0.02 mm farther")
        self.assertEqual(number_remedy("offset_closer", Known(offset_error=2.0)).after, "0.30 mm closer")
        bed = number_remedy("bed_to_table", known)
        self.assertEqual((bed.before, bed.after), ("40 °C", "60 °C"))
        self.assertEqual(number_remedy("bed_to_table", Known()).what, "")
        self.assertEqual(number_remedy("slower", known).after, "20 mm/s")
        self.assertEqual(number_remedy("brim", known, advise_brim(8, 8, 120)).after, "9 mm wide, 3 layers")
        for number in ("", *set(beliefs().numbers.values())):
            self.assertTrue(number_remedy(number, known).prediction)

    def test_what_can_be_concluded(self):
        self.assertEqual(conclude(True, "Bed too cold", []), "It was this: bed too cold.")
        self.assertIn("nobody can say why", conclude(True, "Bed too cold", ["fan off"]))
        self.assertIn("Another step", conclude("little", "Nozzle too far overall", [], walks=True))
        self.assertIn("the other part", conclude("little", "Bed too cold", []))
        self.assertIn("go on", conclude(False, "Bed too cold", []))
        self.assertIn("together", conclude(False, "Bed too cold", ["fan off"]))


class PartTest(unittest.TestCase):
    @given(
        st.floats(1, 200),
        st.floats(1, 200),
        st.floats(1, 400),
        st.sampled_from(["round", "sharp"]),
        st.sampled_from(sorted(materials())),
    )
    def test_a_taller_part_never_wants_less_of_a_brim(self, width, depth, height, corners, material):
        low, high = (advise_brim(width, depth, h, corners, material) for h in (height, height * 2))
        if min(width, depth) * 4 <= height or height * 2 < min(width, depth):
            self.assertGreaterEqual(high.width + 1e-9, low.width)
        self.assertTrue(low.why.endswith("."))
        self.assertEqual(low.width == 0, low.layers == 0)

    def test_reasons(self):
        self.assertIn("15 times as high", advise_brim(8, 8, 120).why)
        self.assertIn("shrinks", advise_brim(120, 120, 20, "sharp", "ABS").why)
        self.assertEqual(advise_brim(120, 120, 20, "sharp", "ABS").width, 8)
        self.assertEqual(advise_brim(120, 120, 20, "sharp", "PLA").width, 5)
        self.assertIn("only 100 mm²", advise_brim(10, 10, 30).why)
        for bad in ((0, 5, 5), (5, 5, -1), (5, 5, math.nan)):
            with self.subTest(bad), self.assertRaises(errors.CoreError):
                advise_brim(*bad)
        with self.assertRaises(errors.ChoiceError):
            advise_brim(5, 5, 5, "wavy")

    def test_settings(self):
        def levels(**settings):
            return {r.what: r.level for r in check_settings("PLA", **settings)}

        self.assertEqual(levels(speed=20), {"speed": "good"})
        self.assertEqual(levels(speed=60), {"speed": "mind"})
        self.assertEqual(levels(speed=180), {"speed": "change"})
        self.assertEqual(levels(speed=40, must_stick=True), {"speed": "change"})
        self.assertEqual(levels(width=0.48, nozzle=0.4), {"width": "good"})
        self.assertEqual(levels(width=0.4, nozzle=0.4), {"width": "change"})
        self.assertEqual(levels(width=0.8, nozzle=0.4), {"width": "mind"})
        self.assertEqual(levels(fan=100), {"fan": "change"})
        self.assertEqual(levels(fan=0), {"fan": "good"})
        self.assertEqual(levels(overlap=5), {"overlap": "mind"})
        self.assertEqual(levels(long_lines=True), {"pattern": "mind"})
        self.assertIn("little or none", check_settings("ABS", fan=50)[0].sentence)
        for bad in ({"speed": 0}, {"fan": 120}, {"width": math.nan}, {"nozzle": 9}, {"overlap": -1}):
            with self.subTest(bad), self.assertRaises(errors.CoreError):
                check_settings("PLA", **bad)

    def test_cost(self):
        self.assertEqual(cost_of(0, 30), 0)
        with self.assertRaises(errors.OutOfRangeError):
            cost_of(-1, 30)
