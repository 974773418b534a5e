"""Paper as bounds, levelling at the bench, the offset from everything known, zero by hand, looks, one's own hand."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError, CoreError, OutOfRangeError
from finchwort.core.first_layer import (
    LOOK_PLACES,
    STEPS,
    BandClue,
    Bead,
    Ledger,
    PaperClue,
    ValueClue,
    advise_look,
    advise_offset,
    believe,
    correct_at_switch,
    correct_by_knobs,
    keep_first_layer,
    switch_trouble,
)
from finchwort.core.printers import Bed, Screw
from finchwort.core.probing import FEEL_BANDS, FEELS, Feel, feel_bed, least_spread
from finchwort.core.surveys import Survey, judge_open
from finchwort.core.tramming import (
    HAND_SD,
    Done,
    Hand,
    Move,
    bench_of,
    follow,
    learn_hand,
    plate_response,
    prior_response,
)
from finchwort.messages.remarks import words
from finchwort.messages.tramming import hand_sentence
from finchwort.services.surveys.surveys import assess
from tests.simulation.by_hand import Person, plain_way, random_plate
from tests.simulation.paper_offset import Strip

BED = Bed(200, 180)
POSTS = [
    Screw(name, x, y, 0.7)
    for name, x, y in (
        ("front left", 5, 5),
        ("front right", 195, 5),
        ("back right", 195, 175),
        ("back left", 5, 175),
    )
]
PLACES5 = [(15, 15), (185, 15), (185, 165), (15, 165), (100, 90)]


class FeelingTest(unittest.TestCase):
    @given(st.lists(st.sampled_from(FEELS), min_size=3, max_size=5), st.floats(0.05, 0.3))
    def test_a_bounded_place_is_never_a_number(self, feels, thickness):
        found = feel_bed([Feel(x, y, f, thickness) for (x, y), f in zip(PLACES5, feels, strict=False)], BED)
        self.assertEqual(found.open.tolist(), [f in ("free", "stuck") for f in feels])
        for height, low, high in zip(found.heights, found.low, found.high, strict=True):
            self.assertTrue(low - 0.06 <= height <= high + 0.06)

    @given(st.lists(st.floats(-0.6, 0.6), min_size=5, max_size=5), st.integers(0, 2**32 - 1))
    def test_at_least_holds(self, heights, seed):
        """Whatever the bed is, the least spread said is not more than the true one; a strip scatters by 0.012 mm."""
        rng = np.random.default_rng(seed)
        feels = []
        for (x, y), height in zip(PLACES5, heights, strict=True):
            more = -height + np.clip(rng.normal(0, 0.006), -0.012, 0.012)
            name = next(f for f in FEELS if FEEL_BANDS[f][0] <= more)
            feels.append(Feel(x, y, name, 0.1, 0.1))
        self.assertLessEqual(feel_bed(feels, BED).at_least, np.ptp(heights) + 1e-9)

    def test_a_tilt_in_sight_is_said_at_least(self):
        low = np.array([-math.inf, 0.3, -math.inf])
        high = np.array([-0.2, math.inf, 0.5])
        self.assertTrue(0.45 < least_spread(low, high) < 0.5)

    def test_open_is_never_level(self):
        for spread in (0.0, 0.02, 0.5):
            self.assertEqual(judge_open(spread, 0.2).level, "open")

    @given(st.lists(st.sampled_from(FEELS), min_size=3, max_size=5), st.sampled_from([0.1, 0.2, 0.4]))
    def test_level_is_never_said_while_a_place_is_bounded(self, feels, layer):
        found = feel_bed([Feel(x, y, f, 0.1) for (x, y), f in zip(PLACES5, feels, strict=False)], BED)
        survey = Survey(*zip(*PLACES5[: len(feels)], strict=True), found.heights)
        *_, verdict = assess(survey, BED, layer, True, found)
        self.assertEqual(verdict.level == "open", bool(found.open.any()))

    def test_the_order_of_feels_does_not_count(self):
        feels = [Feel(x, y, f, 0.1) for (x, y), f in zip(PLACES5, FEELS, strict=True)]
        one, other = feel_bed(feels, BED), feel_bed(feels[::-1], BED)
        self.assertLess(np.abs(one.belief.mean - other.belief.mean).max(), 1e-6)


def level(plate, person, passes=3):
    """Do what the bench says until it asks for the centre."""
    screws = [Screw(f"k{i}", float(x), float(y), plate.pitch) for i, (x, y) in enumerate(plate.screws)]
    bench = bench_of(Bed(plate.width, plate.depth), screws, bends=plate.kind.startswith("bend"))
    done, visits = [], 0
    while True:
        now = follow(bench, done)
        if now.phase != "corners" or visits > passes * len(screws):
            return now
        if now.knob is None:
            visits += 1
            done.append(Done("feel", now.next_place, person.feel(*bench.places[now.next_place])))
        else:
            person.turn_until_drags(now.knob, *bench.places[now.knob])
            done.append(Done("drag", now.knob))


class BenchTest(unittest.TestCase):
    def test_random_printers_come_level_with_fewer_turnings(self):
        """A few printers; the bench of hundreds is bench/by_hand.py."""
        ours, plain, left = 0, 0, []
        for seed in range(24):
            kind = ("rigid four", "bending four", "rigid three")[seed % 3]
            plates = [random_plate(np.random.default_rng(seed), kind) for _ in range(2)]
            level(plates[0], Person(np.random.default_rng(seed), plates[0]))
            x, y = plates[1].reached()
            plain_way(
                plates[1],
                Person(np.random.default_rng(seed), plates[1]),
                list(zip(x, y, strict=True)),
                range(len(x)),
            )
            ours += plates[0].turnings
            plain += plates[1].turnings
            left.append(plates[0].out_of_level)
        self.assertLess(max(left), 0.12)
        self.assertLess(float(np.median(left)), 0.05)
        self.assertLess(ours, plain)

    def test_each_feel_asks_for_the_right_way(self):
        for lowers in (True, False):
            posts = [Screw(s.name, s.x, s.y, s.pitch, lowers) for s in POSTS]
            bench = bench_of(BED, posts)
            for feel, closer in (("free", True), ("stuck", False), ("bunches", False), ("strong", False)):
                now = follow(bench, [Done("feel", 0, feel)])
                self.assertEqual(now.knob, 0)
                # free: the bed has to rise; tightening lowers it on most machines
                self.assertEqual(now.tighten, closer != lowers)
                self.assertEqual(now.bold > 0, now.tighten)
            self.assertIsNone(follow(bench, [Done("feel", 0, "slight")]).knob)

    def test_the_bold_count_halves_when_the_feel_flips(self):
        bench, done, seen = bench_of(BED, POSTS), [], []
        for feel in ("free", "free", "stuck", "free", "stuck", "free"):
            done.append(Done("feel", 1, feel))
            now = follow(bench, done)
            seen.append(now.bold)
            done.append(Done("turn", 1, turns=now.bold))
        self.assertEqual(seen, [-0.5, -0.5, 0.25, -0.125, 0.125, -0.125])

    def test_any_order_is_followed_and_undo_is_leaving_out(self):
        bench = bench_of(BED, POSTS)
        done = [Done("feel", 2, "free"), Done("drag", 2), Done("feel", 1, "stuck")]
        before = follow(bench, done[:-1])
        self.assertEqual(follow(bench, done).knob, 1)
        self.assertEqual(follow(bench, done[:-1]).next_place, before.next_place)

    def test_the_centre_tells_a_warp(self):
        bench = bench_of(BED, POSTS)
        done = [Done("feel", i, "slight") for i in range(4)]
        self.assertEqual(follow(bench, done).phase, "centre")
        free = follow(bench, [*done, Done("feel", 4, "free")])
        read = follow(bench, [*done, Done("feel", 4, "free"), Done("read", 4, turns=-0.08)])
        self.assertLess(free.middle, 0)
        self.assertFalse(free.middle_read)
        self.assertAlmostEqual(read.middle, -0.08, delta=0.02)
        self.assertEqual(read.phase, "done")

    def test_bad_steps(self):
        bench = bench_of(BED, POSTS)
        for one, error in (
            (Done("kick", 0), ChoiceError),
            (Done("feel", 9, "free"), ChoiceError),
            (Done("drag", 4), ChoiceError),
            (Done("feel", 0, "odd"), ChoiceError),
            (Done("turn", 0), ChoiceError),
            (Done("turn", 0, turns=90.0), OutOfRangeError),
            (Done("read", 0, turns=0.1), OutOfRangeError),
            (Done("read", 4, turns=9.0), OutOfRangeError),
        ):
            with self.subTest(one), self.assertRaises(error):
                follow(bench, [one])


class OffsetTest(unittest.TestCase):
    @given(
        st.floats(-0.3, 1.0),
        st.integers(0, 2**32 - 1),
        st.sampled_from(["negative", "positive"]),
        st.floats(0.1, 0.3),
    )
    @settings(max_examples=15)
    def test_nothing_comes_closer_than_the_gap_allows(self, gap, seed, closer_is, layer):
        """Follow the advice from any start: while the gap is not bounded nothing closer is proposed, whatever the sign."""
        strip = Strip(np.random.default_rng(seed), gap, careless=0.0)
        clues, newest, z = [], None, 0.0
        for _ in range(40):
            step = advise_offset(believe(clues), newest, layer)
            if step.what in ("type", "leave"):
                before = Ledger({"printer": -1.5}, closer_is)
                after = Ledger({"printer": before.moved("printer", step.closer)}, closer_is)
                self.assertAlmostEqual(after.closer_by(before), step.closer, places=2)
                self.assertGreater(layer + strip.gap - step.closer, 0)
                return
            self.assertEqual(step.closer, 0.0)
            lower = step.z is not None and newest is not None and step.z < z
            z = 0.4 if step.z is None else step.z
            if lower:
                self.assertGreater(z + strip.gap, 0)
                self.assertEqual(newest.feel, "free")
            newest = PaperClue(strip.feel(z), z, strip.said)
            clues.append(newest)
        self.fail("The strip never dragged.")

    def test_a_stuck_strip_never_comes_closer(self):
        for z in (-0.1, 0.0, 0.1, 0.5):
            stuck = PaperClue("stuck", z, 0.1)
            drags = PaperClue("slight", z + 0.3, 0.1)
            for clues in ([stuck], [drags, stuck], [stuck, ValueClue(0.3, 0.02)]):
                step = advise_offset(believe(clues), stuck, 0.2)
                self.assertEqual((step.what, step.closer), ("up", 0.0))
                self.assertGreater(step.z, z)

    def test_a_stuck_strip_is_never_taken_for_a_free_one(self):
        """Whatever was done to the offset since, while nothing bounds the gap the tip is only sent up."""
        for since in (-0.4, -0.1, 0.0, 0.1):
            stuck = PaperClue("stuck", 0.2, 0.1, closer_since=since)
            step = advise_offset(believe([stuck]), stuck, 0.2)
            self.assertEqual((step.what, step.closer), ("up", 0.0))
            # in truth at least as high as where it was stuck, and a tenth more where the offset did not do it
            self.assertGreaterEqual(step.z - since, 0.2 + 0.1 - 1e-9)
        free = PaperClue("free", 0.2, 0.1, closer_since=0.1)
        self.assertAlmostEqual(advise_offset(believe([free]), free, 0.2).z, 0.25)

    def test_free_bounds_nothing_from_below(self):
        self.assertFalse(believe([PaperClue("free", 0.0, 0.1)]).bounded)
        self.assertTrue(believe([PaperClue("bunches", 0.0, 0.1)]).bounded)
        self.assertTrue(believe([BandClue(-0.03, 0.03)]).bounded)
        self.assertFalse(believe([BandClue(-math.inf, -0.07)]).bounded)

    def test_what_was_moved_since_counts(self):
        then = believe([PaperClue("slight", 0.0, 0.1, closer_since=0.06)])
        self.assertAlmostEqual(
            then.closer, believe([PaperClue("slight", 0.0, 0.1)]).closer - 0.06, delta=0.003
        )

    def test_more_is_known_together(self):
        paper = believe([PaperClue("slight", 0.0, 0.1)])
        both = believe([PaperClue("slight", 0.0, 0.1), ValueClue(0.09, 0.012, 0.01)])
        self.assertLess(both.margin, paper.margin)
        # two strips of one kind share what is not known of their thickness
        twice = believe([PaperClue("slight", 0.0, 0.1)] * 4)
        self.assertGreater(twice.margin, 1.9 * 0.012 / 2)

    def test_bad_clues(self):
        for clue in (
            PaperClue("odd", 0, 0.1),
            PaperClue("free", 0, 0.0),
            PaperClue("free", math.nan, 0.1),
            ValueClue(0.1, 0.0),
            BandClue(0.1, 0.0),
        ):
            with self.subTest(clue), self.assertRaises(CoreError):
                believe([clue])


class ZeroTest(unittest.TestCase):
    @given(st.floats(-1, 1), st.booleans(), st.sampled_from(["negative", "positive"]))
    def test_all_ways_agree_about_closer(self, closer, lowers, closer_is):
        """Knobs, switch and number bring the tip the same way, whatever the conventions."""
        posts = [Screw(s.name, s.x, s.y, s.pitch, lowers) for s in POSTS]
        knobs = correct_by_knobs(closer, posts)
        moves = plate_response(posts) @ (np.array([s.travel for s in posts]) * [t for _, t in knobs.turns])
        rise = float(moves @ (100, 90, 1))
        self.assertAlmostEqual(rise, knobs.closer, places=6)  # a bed that rises comes closer
        self.assertLessEqual(abs(knobs.closer - closer), posts[0].step / 2 + 1e-9)
        if knobs.closer:
            self.assertIn("closer" if closer > 0 else "away", knobs.sentence)
            self.assertIn("looser" if (closer > 0) == lowers else "tighter", knobs.sentence)
        switch = correct_at_switch(closer)
        if switch.closer:
            self.assertIn("lower" if closer > 0 else "higher", switch.sentence)
        # a bed that rose by so much needs the tip as much farther
        before = Ledger({"printer": -1.2}, closer_is)
        after = Ledger({"printer": keep_first_layer(-1.2, closer, closer_is)}, closer_is)
        self.assertAlmostEqual(after.closer_by(before), -closer, delta=0.0051)

    def test_the_switch(self):
        self.assertIn("lug", switch_trouble(False, None))
        self.assertIsNone(switch_trouble(True, -1.0))
        self.assertIn("up by at least", switch_trouble(None, 3.5))

    def test_knobs_that_are_not_alike(self):
        with self.assertRaises(ChoiceError):
            correct_by_knobs(0.1, [*POSTS[:3], Screw("back left", 5, 175, 0.5)])


class LooksTest(unittest.TestCase):
    bead = Bead(0.42, 0.2)

    @given(st.sampled_from(LOOK_PLACES[:4]), st.sampled_from(STEPS), st.booleans(), st.booleans())
    def test_a_corner_gets_its_own_knob_the_right_way(self, corner, step, lowers, printing):
        posts = [Screw(s.name, s.x, s.y, s.pitch, lowers) for s in POSTS]
        looks = [(p, step if p == corner else "good") for p in LOOK_PLACES[:5]]
        found = advise_look(looks, BED, self.bead, posts, printing=printing)
        if step == "good":
            self.assertEqual(found.what, "leave")
            return
        self.assertEqual((found.what, found.knob), ("turn", corner))
        # too close: the bed has to go down there
        down = step in ("too_close", "far_too_close")
        self.assertEqual(found.turns > 0, down == lowers)
        if printing:
            self.assertEqual(abs(found.turns), 1 / 8)

    @given(st.lists(st.sampled_from(STEPS), min_size=5, max_size=5))
    def test_with_a_mesh_no_knob_is_named(self, steps):
        found = advise_look(list(zip(LOOK_PLACES[:5], steps, strict=True)), BED, self.bead, POSTS, mesh=True)
        self.assertIsNone(found.knob)
        self.assertIn(found.what, ("trim", "leave"))

    def test_the_same_all_over_is_the_tip(self):
        for step, closer in (("too_far", True), ("too_close", False)):
            found = advise_look([(p, step) for p in LOOK_PLACES[:5]], BED, self.bead, POSTS)
            self.assertEqual((found.what, found.closer > 0), ("trim", closer))

    def test_a_machine_without_knobs_is_told_what_fits(self):
        looks = [("front left", "too_far"), ("front right", "too_close"), ("middle", "good")]
        for kind, word in (
            ("pads", "foil"),
            ("beam", "cross beam"),
            ("mesh", "mesh"),
            ("none", "nothing to turn"),
        ):
            self.assertIn(word, words(advise_look(looks, BED, self.bead, otherwise=kind).remark))

    def test_bad_looks(self):
        for looks in ([], [("roof", "good")], [("middle", "fine")]):
            with self.subTest(looks), self.assertRaises(ChoiceError):
                advise_look(looks, BED, self.bead, POSTS)


class HandTest(unittest.TestCase):
    def rounds(self, sd, count, seed=3):
        """Rounds of one bed turned by a hand of that sd; nothing else is wrong with it."""
        rng = np.random.default_rng(seed)
        prior = prior_response(POSTS).prior
        moves = []
        for _ in range(count):
            wanted = rng.choice([-3, -2, -1, 1, 2, 3], 4) / 8
            made = wanted + rng.normal(0, sd, 4)
            sharp = np.eye(2) * 1e-12
            moves.append(Move(wanted, prior @ made, sharp, sharp))
        return moves

    def test_a_true_and_a_careless_hand_are_told_apart(self):
        true = learn_hand([(POSTS, self.rounds(1 / 90, 12, s)) for s in range(3)])
        careless = learn_hand([(POSTS, self.rounds(1 / 12, 12, s)) for s in range(3)])
        self.assertLess(true.sd, HAND_SD)
        self.assertGreater(careless.sd, HAND_SD)
        self.assertTrue(careless.low < 1 / 12 < careless.high)
        self.assertEqual(careless.rounds, 36)

    def test_before_any_round(self):
        self.assertEqual(learn_hand([]), Hand())
        self.assertIn("1/32", hand_sentence(Hand()))
