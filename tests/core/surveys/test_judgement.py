"""Verdict, route and wording."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.wording import (
    duration,
    micro,
    millimetres,
    seen_direction,
    turn_in_figures,
    turn_in_words,
)
from finchwort.core.printers import Bed, Screw
from finchwort.core.surveys import Survey, assess_flatness, decompose, judge
from finchwort.core.tramming import plan_turns
from finchwort.core.visits import Before, Happened, next_step, route, standing
from finchwort.messages.remarks import words
from finchwort.messages.surveys import VERDICTS, sentence_of, word_of
from finchwort.messages.tramming import instruct
from tests.fixtures.beds import bed, screws

SQUARE = Bed(200, 200)


def verdict(tilt=0.0, dome=0.0, layer=0.2, has_screws=True):
    x, y = [0, 200, 200, 0, 100], [0, 0, 200, 200, 100]
    survey = Survey(x, y, [-tilt / 2, tilt / 2, tilt / 2, -tilt / 2, dome])
    return judge(survey, assess_flatness(survey), decompose(survey, SQUARE), layer, has_screws)


class VerdictTest(unittest.TestCase):
    def test_rules_of_thumb_for_a_fifth_of_a_millimetre(self):
        """0.1 mm is good, to 0.3 mm compensation deals with it, beyond: common practice."""
        self.assertEqual(verdict(dome=0.09).level, "level")
        self.assertEqual(verdict(dome=0.2).level, "compensate")
        self.assertEqual(verdict(dome=0.5).level, "warped")
        self.assertEqual(verdict(tilt=0.3).level, "turn")

    def test_a_thicker_layer_forgives_more(self):
        self.assertEqual(verdict(dome=0.14, layer=0.2).level, "compensate")
        self.assertEqual(verdict(dome=0.14, layer=0.3).level, "level")

    def test_words_fit_the_printer(self):
        self.assertIn("Turn the screws", sentence_of(verdict(tilt=0.3)))
        self.assertNotIn("screws", sentence_of(verdict(tilt=0.3, has_screws=False)))
        self.assertEqual(word_of(verdict(tilt=0.3, has_screws=False)), "Take the tilt out")
        self.assertNotIn("screws", sentence_of(verdict(dome=0.05, has_screws=False)))

    def test_a_warp_under_a_tilt_is_told(self):
        self.assertIn("shape", sentence_of(verdict(tilt=0.6, dome=0.6)))

    @given(st.floats(0, 2), st.floats(-1, 1), st.floats(0.05, 1))
    def test_always_one_of_the_words(self, tilt, dome, layer):
        found = verdict(tilt, dome, layer)
        self.assertIn(found.level, VERDICTS)
        self.assertTrue(sentence_of(found).endswith("."))

    def test_no_layer(self):
        for layer in (0, -0.2, 3, math.nan):
            with self.subTest(layer), self.assertRaises(OutOfRangeError):
                verdict(layer=layer)


class RouteTest(unittest.TestCase):
    KEPT, PRINTED = ("kept", "It holds."), ("done", "Judged.")

    def steps(self, events, verdict, ended=False, **kw):
        return {step.name: step.state for step in route(events, verdict, ended, **kw)}

    def states(self, *args, **kw):
        """States of measuring, judging, levelling and closing."""
        found = self.steps(*args, **kw)
        return [found[name] for name in ("measure", "judge", "level", "finish")]

    def next(self, events, verdict, **kw):
        return next_step(route(events, verdict, False, **kw)).name

    def first(self, *args, **kw):
        """States before measuring: sound, warm, trust."""
        return [step.state for step in route(*args, **kw)][:3]

    def test_what_comes_before_measuring(self):
        self.assertEqual(self.first([], None, False), ["to_do"] * 3)
        self.assertEqual(self.first(["survey"], "turn", False), ["skipped"] * 3)
        begun = Before(looked_at=3, items=9)
        self.assertEqual(self.first([], None, False, before=begun)[0], "doing")
        self.assertEqual(self.first(["survey"], "turn", False, before=begun)[0], "done")
        bad = Before(looked_at=3, bad=1, items=9, soak="moving", trust="poor")
        self.assertEqual(self.first([], None, False, before=bad), ["done", "out_of_date", "done"])
        whole = Before(looked_at=9, items=9, soak="steady", trust="good")
        self.assertEqual(self.first([], None, False, before=whole), ["done"] * 3)
        # one after the other, and measuring when all of them are through
        self.assertEqual(self.next([], None), "sound")
        self.assertEqual(self.next([], None, before=bad), "warm")
        self.assertEqual(self.next([], None, before=whole), "measure")

    def test_a_visit_from_begin_to_end(self):
        self.assertEqual(self.states([], None), ["doing", "to_do", "to_do", "to_do"])
        one = ["survey"]
        self.assertEqual(self.states(one, "turn"), ["done", "done", "doing", "to_do"])
        two = ["survey", "turning"]
        self.assertEqual(self.states(two, "turn"), ["out_of_date", "out_of_date", "done", "to_do"])
        self.assertEqual(self.next(two, "turn", offset=self.KEPT), "measure")
        three = [*two, "survey"]
        kept = {"offset": self.KEPT, "printed": self.PRINTED}
        self.assertEqual(self.states(three, "level", **kept), ["done", "done", "done", "doing"])
        self.assertEqual(self.states(three, "level", ended=True), ["done", "done", "done", "done"])

    def test_after_level_comes_the_offset_then_a_print_then_the_end(self):
        one = ["survey"]
        self.assertEqual(self.next(one, "turn", offset=self.KEPT, printed=self.PRINTED), "level")
        self.assertEqual(self.next(one, "level", printed=self.PRINTED), "offset")
        self.assertEqual(self.next(one, "level", offset=("old", "Other nozzle.")), "offset")
        self.assertEqual(self.next(one, "level", offset=self.KEPT), "first-layer")
        self.assertEqual(self.next(one, "level", offset=self.KEPT, printed=("old", "x")), "first-layer")
        self.assertEqual(self.next(one, "level", offset=self.KEPT, printed=self.PRINTED), "finish")

    def test_closing_is_never_first_while_something_is_open(self):
        whole = {"offset": self.KEPT, "printed": self.PRINTED}
        gone, doubtful = (standing("survey", [Happened(what)]) for what in ("plate", "pried"))
        for events, verdict, now in (
            (["survey"], "unsure", whole),
            (["survey"], "open", whole),
            (["survey", "turning"], "level", whole),
            (["survey"], "level", whole | {"bed": gone}),
            (["survey"], "level", whole | {"offset": None}),
            (["survey"], "level", whole | {"offset": ("old", "x")}),
            (["survey"], "level", whole | {"printed": ("old", "x")}),
            (["survey"], "compensate", whole | {"compensation": "mesh"}),
        ):
            with self.subTest(verdict=verdict, now=now):
                self.assertEqual(self.steps(events, verdict, **now)["finish"], "to_do")
        # a doubt is said, and holds up nothing
        self.assertEqual(self.steps(["survey"], "level", **whole | {"bed": doubtful})["finish"], "doing")
        (judge,) = (s for s in route(["survey"], "level", False, bed=doubtful) if s.name == "judge")
        self.assertIn("pried off", words(judge.why))

    def test_a_bed_that_lies_otherwise_now_is_measured_again(self):
        gone = standing("survey", [Happened("plate")])
        self.assertEqual(
            self.states(["survey"], "level", bed=gone), ["out_of_date", "out_of_date", "out_of_date", "to_do"]
        )
        self.assertEqual(self.next(["survey"], "level", bed=gone, offset=("old", "x")), "measure")
        (step,) = (s for s in route(["survey"], "level", False, bed=gone) if s.name == "measure")
        self.assertIn("Another plate", words(step.why))

    def test_what_a_printer_cannot_have_is_not_on_its_route(self):
        names = set(self.steps([], None, has_probe=False))
        self.assertEqual({"trust", "compensate"} & names, set())
        self.assertNotIn("compensate", self.steps([], None, compensation="mean"))
        self.assertIn("compensate", self.steps([], None, compensation="mesh"))
        # what was stored before the set-up was changed is still shown
        self.assertIn("compensate", self.steps(["survey"], "level", mesh="stored"))

    def test_compensation_comes_after_levelling(self):
        def mend(events, verdict, **kw):
            return self.steps(events, verdict, compensation="mesh", **kw)["compensate"]

        self.assertEqual(mend(["survey"], "turn"), "to_do")
        self.assertEqual(mend(["survey"], "compensate"), "doing")
        self.assertEqual(mend(["survey"], "compensate", mesh="stored"), "done")
        self.assertEqual(mend(["survey", "turning"], "compensate", mesh="old"), "out_of_date")
        self.assertEqual(mend(["survey"], "level"), "to_do")

    def test_the_offset_of_a_closed_visit_is_not_put_out_of_date_by_what_came_after(self):
        def state(offset, ended=False):
            return self.steps(["survey"], "level", ended, offset=offset)["offset"]

        self.assertEqual((state(None), state(None, True)), ("doing", "skipped"))
        self.assertEqual(state(self.KEPT), "done")
        self.assertEqual(state(("old", "The nozzle was changed.")), "out_of_date")
        self.assertEqual(state(("found", "Here.")), "done")
        self.assertEqual((state(("old", "x"), True), state(("found", "x"), True)), ("skipped", "done"))

    def test_without_screws_levelling_is_skipped(self):
        self.assertEqual(self.states(["survey"], "turn", has_screws=False)[2], "skipped")

    def test_closed_with_tilt_left(self):
        self.assertEqual(self.states(["survey"], "turn", ended=True), ["done", "done", "skipped", "done"])
        self.assertIsNone(next_step(route(["survey"], "turn", True)))

    def test_unknown_event(self):
        with self.assertRaises(ChoiceError):
            route(["dance"], None, False)


class SmallLengthsAndTimesTest(unittest.TestCase):
    @given(st.floats(-2, 2))
    def test_three_decimals_and_never_a_minus_nought(self, value):
        said = micro(value, signed=True)
        number = float(said.removesuffix(" mm").replace("−", "-"))
        self.assertAlmostEqual(number, value, delta=0.000501)
        self.assertNotIn("−0.000", said)
        self.assertEqual(said.startswith("+"), round(value, 3) > 0)

    @given(st.floats(0, 10_000))
    def test_durations_are_round_and_near(self, seconds):
        amount, unit = duration(seconds).split()
        told = int(amount) * {"s": 1, "min": 60}[unit]
        self.assertLessEqual(abs(told - seconds), 5.01 if unit == "s" else 30.01)
        self.assertGreater(told, 0)


class WordingTest(unittest.TestCase):
    def test_turns(self):
        cases = {
            0.125: "an eighth of a turn",
            0.25: "a quarter of a turn",
            0.5: "a half turn",
            0.625: "five eighths of a turn",
            1: "one full turn",
            1.5: "one turn and a half",
            2.375: "two turns and three eighths",
            3: "three full turns",
        }
        for turns, text in cases.items():
            with self.subTest(turns):
                self.assertEqual(turn_in_words(turns, 8), text)
                self.assertEqual(turn_in_words(-turns, 8), text)
        self.assertEqual(turn_in_words(3 / 7, 7), "3/7 of a turn")

    @given(st.integers(1, 400), st.sampled_from([4, 8, 12, 16]))
    def test_figures_can_be_read_back(self, steps, divisions):
        text = turn_in_figures(steps / divisions, divisions)
        total = 0.0
        for part in text.split():
            top, _, bottom = part.partition("/")
            total += float(top) / float(bottom or 1)
        self.assertAlmostEqual(total, steps / divisions)

    def test_direction_flips_with_view_thread_and_sign(self):
        """A right-hand thread tightens clockwise seen from the knob's end."""
        self.assertEqual(seen_direction(1, "right", "face"), "clockwise")
        self.assertEqual(seen_direction(-1, "right", "face"), "counterclockwise")
        self.assertEqual(seen_direction(1, "right", "behind"), "counterclockwise")
        self.assertEqual(seen_direction(1, "left", "behind"), "clockwise")

    def test_millimetres_never_say_minus_zero(self):
        self.assertEqual(millimetres(-0.001, signed=True), "0.00 mm")
        self.assertEqual(millimetres(-0.26), "−0.26 mm")

    def test_instructions(self):
        plan = plan_turns(bed(a=0.6), screws(), repeatability=0.01)
        said = [instruct(turn, "right", "behind") for turn in plan.turns]
        self.assertRegex(
            said[0],
            r"^Loosen the front left knob .+, clockwise as you see it\. The bed there rises 0\.\d\d mm\. Go an eighth further .+$",
        )
        self.assertRegex(
            said[1], r"^Tighten the front right knob .+, counterclockwise .+ sinks 0\.\d\d mm\.$"
        )
        held = plan_turns(bed(a=0.6), screws(), "front left").turns[0]
        self.assertIn("holds it", instruct(held, "right", "face"))
        still = plan_turns(bed(noise=0.01), screws(), repeatability=0.1).turns[0]
        self.assertIn("uncertainty", instruct(still, "right", "face"))
        level = plan_turns(bed(), screws(), repeatability=0.001).turns[0]
        self.assertEqual(
            instruct(level, "right", "face"), "Leave the front left knob: it is where it should be."
        )
        small = [t for t in plan_turns(bed(a=0.02), screws(), repeatability=0.0).turns if t.reason == "small"]
        self.assertIn("one step of the hand", instruct(small[0], "right", "face"))

    def test_three_screws_have_other_names(self):
        posts = [Screw("back", 110, 210, 0.5), Screw("left", 10, 10, 0.5), Screw("right", 210, 10, 0.5)]
        self.assertIn("the back knob", instruct(plan_turns(bed(b=0.5), posts).turns[0], "right", "face"))
