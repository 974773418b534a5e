"""What still holds after what happened: a table that a technician can read, and the list of what is to be done."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.visits import (
    AFTER,
    BY_HAND,
    DOUBTFUL,
    EVENTS,
    GONE,
    HOLDS,
    ORDER,
    THINGS,
    VALIDITIES,
    Fit,
    Happened,
    Traits,
    afterwards,
    by_now,
    effect,
    standing,
)
from finchwort.messages.remarks import sentences, words
from finchwort.messages.visits import words_of

BED = "survey plan forecast mesh discs"
ALL = " ".join(THINGS)
TABLE = {
    # event: (no longer true, doubtful), for a printer whose zero is a switch on a post and whose probe is a pin.
    # Common practice; what is doubtful is the author's own judgement.
    "turned": (BED, "offset ladder"),  # the bed went elsewhere, the switch did not
    "knobs": (BED, "offset ladder"),
    "shims": (BED, "offset ladder"),
    "foil": (BED, "offset ladder"),
    "tape": (BED, "offset ladder"),
    "beam": (BED, "offset ladder"),
    "springs": (f"{BED} knobs", "offset ladder"),  # other springs answer otherwise
    "plate": (f"{BED} offset ladder", "touches"),  # thicker or thinner, and bent otherwise
    "surface": (f"{BED} offset ladder", "touches"),
    "lifted": ("", BED),  # a crumb beneath it
    "pried": ("", BED),
    "nozzle": ("forecast offset discs ladder", ""),  # the bed is as it was
    "probe": ("forecast mesh offset discs ladder touches", ""),
    "firmware": ("forecast mesh offset discs ladder", ""),  # may have reset its values
    "offset": ("forecast offset discs ladder", ""),
    "mesh": ("forecast mesh discs", ""),
    "steps": (
        "forecast mesh offset discs ladder",
        "survey plan touches knobs",
    ),  # heights were counted in other steps
    "sign": ("forecast offset", ""),
    "belts": ("", BED),
    "moved": (BED, "offset ladder touches"),
    "crash": (f"{BED} offset ladder touches", "knobs"),
    "measured": ("mesh", ""),
    "warmer": (
        "",
        "survey forecast mesh offset discs ladder",
    ),  # a warm plate has another shape; knobs are knobs
    "months": ("", ALL),
}
BY_SWITCH, BY_PROBE = Traits(), Traits(zero_by_probe=True)
some = st.lists(st.sampled_from(EVENTS).map(Happened), max_size=6)


class TableTest(unittest.TestCase):
    def test_every_event_does_to_every_thing_what_the_table_says(self):
        self.assertEqual(set(TABLE), set(EVENTS))
        for event, (gone, doubtful) in TABLE.items():
            for thing in THINGS:
                wanted = GONE if thing in gone.split() else DOUBTFUL if thing in doubtful.split() else HOLDS
                with self.subTest(event=event, thing=thing):
                    found = standing(thing, [Happened(event)], BY_SWITCH)
                    self.assertEqual(found.state, wanted)
                    self.assertEqual(len(found.reasons), int(wanted != HOLDS))
                    self.assertTrue(all(said.endswith(".") for said in sentences(found.reasons)))

    def test_a_zero_that_is_found_on_the_bed_goes_with_it(self):
        moved = ("turned", "knobs", "shims", "foil", "tape", "beam", "springs", "moved")
        for event in EVENTS:
            for thing in ("offset", "ladder"):
                expected = HOLDS if event in moved else standing(thing, [Happened(event)], BY_SWITCH).state
                self.assertEqual(standing(thing, [Happened(event)], BY_PROBE).state, expected, (event, thing))

    def test_turns_that_kept_the_middle_keep_the_offset(self):
        screws = ((0, 0, 0.1), (200, 0, -0.1))
        kept, free = (Happened("turned", screws, kept_middle=kept) for kept in (True, False))
        self.assertTrue(standing("offset", [kept]).holds)
        self.assertEqual(standing("offset", [free]).state, DOUBTFUL)
        self.assertTrue(standing("survey", [kept]).gone)

    def test_knobs_that_were_left_alone_change_nothing(self):
        idle = Happened("turned", ((0, 0, 0.0), (200, 0, 0.0)))
        self.assertTrue(all(standing(thing, [idle]).holds for thing in THINGS))

    def test_a_nozzle_that_is_the_probe_repeats_otherwise_after_it_was_changed(self):
        nozzle = [Happened("nozzle")]
        self.assertTrue(standing("touches", nozzle).holds)
        self.assertEqual(standing("touches", nozzle, Traits(tip_is_probe=True)).state, DOUBTFUL)

    def test_another_spool_spoils_nothing_and_nobody_asks_for_unknown_things(self):
        self.assertTrue(all(standing(thing, [Happened("material")]).holds for thing in THINGS))
        with self.assertRaises(KeyError):
            standing("luck", [])

    @given(some, some, st.sampled_from(THINGS))
    def test_nothing_gets_better_by_something_more(self, before, more, thing):
        few, many = standing(thing, before), standing(thing, [*before, *more])
        self.assertLessEqual(VALIDITIES.index(few.state), VALIDITIES.index(many.state))
        self.assertLessEqual(set(few.events), set(many.events))

    @given(some, st.sampled_from(THINGS))
    def test_the_gravest_reason_comes_first_and_each_once(self, happened, thing):
        found = standing(thing, happened)
        self.assertEqual(len(set(found.reasons)), len(found.reasons))
        self.assertEqual(found.holds, not found.reasons)
        if found.events:
            self.assertEqual(effect(thing, Happened(found.events[0])), found.state)

    @given(some)
    def test_a_first_layer_is_foreseen_no_better_than_bed_and_offset_are_known(self, happened):
        foreseen = VALIDITIES.index(standing("forecast", happened, BY_PROBE).state)
        for thing in ("survey", "offset"):
            self.assertGreaterEqual(foreseen, VALIDITIES.index(standing(thing, happened, BY_PROBE).state))

    def test_what_nobody_did_happens_all_the_same(self):
        self.assertEqual(by_now(surface=("a", "a"), temperature=(60, 65), days=30), [])
        self.assertEqual(by_now(surface=("", "b"), temperature=(None, 65)), [])
        for now, word in (
            (by_now(surface=("Glass", "Sheet")), "“Glass”"),
            (by_now(temperature=(60, 100)), "60 °C"),
            (by_now(days=200), "7 months"),
        ):
            self.assertIn(word, words(standing("mesh", now).why))
        self.assertEqual(
            len(standing("mesh", by_now(surface=("a", "b"), temperature=(20, 60), days=999)).reasons), 3
        )


class AfterwardsTest(unittest.TestCase):
    SWITCH = Fit(zero="switch", mesh=True)
    LOOKS_THROUGH = Fit(zero="probe", senses="metal", line=True)
    FEELS = Fit(zero="probe", senses="surface")
    PLATE = (Happened("plate", number=10),)

    def names(self, happened, fit, done=None):
        found = afterwards(happened, done or {}, fit)
        return [step.name for step in found.left] if found else []

    def test_a_new_plate_is_taken_in_the_order_of_the_trade(self):
        rest = ["level", "offset", "print"]
        self.assertEqual(
            self.names(self.PLATE, self.SWITCH),
            ["seat", "switch", "clips", "home", "level", "offset", "mesh", "print"],
        )
        # a probe that looks through it is set first; one that feels it finds it by itself
        self.assertEqual(
            self.names(self.PLATE, self.LOOKS_THROUGH), ["seat", "switch", "clips", "home", *rest]
        )
        self.assertEqual(self.names(self.PLATE, self.FEELS), ["seat", "clips", "home", *rest])
        after = afterwards(self.PLATE, {}, self.LOOKS_THROUGH)
        (step,) = (s for s in after.steps if s.name == "switch")
        self.assertIn("probe", words_of(after, step).how)

    def test_homing_carries_its_caution(self):
        for event in AFTER:
            for fit in (self.SWITCH, self.LOOKS_THROUGH, self.FEELS):
                after = afterwards([Happened(event, number=1)], {}, fit)
                homing = [words_of(after, step) for step in after.steps if step.name == "home"]
                self.assertTrue(all("power switch" in words.caution for words in homing), (event, fit))
        crash = afterwards([Happened("crash", number=1)], {}, self.SWITCH).steps
        self.assertEqual(crash[0].name, "cold")
        self.assertLess([s.name for s in crash].index("tip"), [s.name for s in crash].index("home"))

    def test_what_was_done_before_does_not_count(self):
        done = {"level": 9, "offset": 11, "clips": 12}
        self.assertEqual(
            self.names(self.PLATE, self.SWITCH, done), ["seat", "switch", "home", "level", "mesh", "print"]
        )
        ticked = {step.name for step in afterwards(self.PLATE, done, self.SWITCH).steps if step.done}
        self.assertEqual(ticked, {"offset", "clips"})

    def test_the_list_goes_when_all_is_done(self):
        self.assertIsNone(afterwards(self.PLATE, dict.fromkeys(ORDER, 11), self.SWITCH))
        self.assertIsNone(afterwards([], {}, self.SWITCH))

    def test_what_happens_later_makes_one_list_of_both(self):
        both = (*self.PLATE, Happened("nozzle", number=20))
        found = afterwards(both, {"seat": 11, "offset": 15}, self.SWITCH)
        self.assertEqual(found.events, ("plate", "nozzle"))
        names = [step.name for step in found.steps]
        self.assertEqual(names, [name for name in ORDER if name in names])
        # the offset was found for the plate, but not with this nozzle
        self.assertIn("offset", [step.name for step in found.left])
        self.assertNotIn("seat", [step.name for step in found.left])

    def test_what_is_through_is_not_shown_again(self):
        done = dict.fromkeys(ORDER, 15)
        found = afterwards((*self.PLATE, Happened("nozzle", number=20)), done, self.SWITCH)
        self.assertEqual(found.events, ("nozzle",))
        self.assertNotIn("clips", [step.name for step in found.steps])

    @given(
        st.lists(st.sampled_from(sorted(AFTER)), min_size=1, max_size=5),
        st.dictionaries(st.sampled_from(ORDER), st.integers(0, 9)),
        st.booleans(),
        st.sampled_from(["", "surface", "metal"]),
    )
    def test_doing_the_first_open_step_again_and_again_ends_the_list(self, events, done, mesh, senses):
        happened = [Happened(what, number=i) for i, what in enumerate(events)]
        fit, steps = Fit(senses=senses, mesh=mesh), 0
        while (found := afterwards(happened, done, fit)) is not None:
            done = done | {found.left[0].name: 100 + steps}
            steps += 1
            self.assertLessEqual(steps, len(ORDER))

    def test_every_step_says_what_to_do(self):
        for what in AFTER:
            after = afterwards([Happened(what, number=1)], {}, Fit("switch", "metal", True, True))
            for step in after.steps:
                words = words_of(after, step)
                self.assertTrue(words.title and words.how.endswith("."), words)
                self.assertEqual(step.by_hand, step.name in BY_HAND)


if __name__ == "__main__":
    unittest.main()
