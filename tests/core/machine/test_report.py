"""What a machine says of itself, held against the book."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.machine import Book, Told, compare
from finchwort.core.visits import EVENTS
from finchwort.messages.machine import untold
from finchwort.messages.remarks import words

MESH = ((0.10, 0.00, 0.05), (0.02, -0.04, 0.01), (0.08, 0.03, 0.12))
WHOLE = Told(
    firmware="Marsh 1.4",
    machine="bench",
    offset=-1.75,
    steps={"x": 80.0, "y": 80.0, "z": 400.0, "e": 93.0},
    compensation=True,
    mesh=MESH,
)
BOOK = Book(before=WHOLE, offset=-1.75, mesh=MESH)
told = st.builds(
    Told,
    firmware=st.sampled_from(["", "Marsh 1.4", "Marsh 1.5"]),
    offset=st.none() | st.floats(-3, 1).map(lambda v: round(v, 2)),
    steps=st.sampled_from([{}, WHOLE.steps, {"x": 80.0, "y": 80.0, "z": 400.0}]),
    compensation=st.none() | st.booleans(),
    mesh=st.sampled_from([None, (), MESH]),
)


class ComparedTest(unittest.TestCase):
    def others(self, changes, book=BOOK):
        return {one.name: one for one in compare(replace(WHOLE, **changes), book) if one.state == "other"}

    def test_the_same_machine_is_the_same(self):
        self.assertEqual({one.state for one in compare(WHOLE, BOOK)}, {"same"})
        self.assertEqual(untold(compare(WHOLE, BOOK)), "")

    def test_another_version_is_an_event(self):
        found = self.others({"firmware": "Marsh 1.5"})["firmware"]
        self.assertEqual((found.event, found.says, found.book), ("firmware", "Marsh 1.5", "Marsh 1.4"))

    def test_an_offset_that_was_reset_behind_our_back_is_caught(self):
        found = self.others({"offset": 0.0})["offset"]
        self.assertEqual(found.event, "offset")
        self.assertIn("1.75 mm from what is written down", words(found.remark))
        # machines round to the hundredth
        self.assertEqual(self.others({"offset": -1.754}), {})
        self.assertIn("offset", self.others({"offset": -1.74}))

    def test_another_mesh_and_none_at_all(self):
        bent = tuple(tuple(h + 0.1 * i for i, h in enumerate(row)) for row in MESH)
        for mesh in ((), bent, MESH[:2]):
            self.assertEqual(self.others({"mesh": mesh})["mesh"].event, "mesh")
        # noise, and a zero that lies elsewhere, are no other mesh
        near = tuple(tuple(h + 0.4 + 0.01 * (-1) ** i for i, h in enumerate(row)) for row in MESH)
        self.assertEqual(self.others({"mesh": near}), {})
        # back to front it is another one
        self.assertIn("mesh", self.others({"mesh": MESH[::-1]}))

    def test_compensation_that_is_off_is_said_and_is_no_event(self):
        found = self.others({"compensation": False})["compensation"]
        self.assertIsNone(found.event)
        self.assertIn("homing", words(found.remark))
        self.assertEqual(self.others({"compensation": False, "mesh": None}, replace(BOOK, mesh=None)), {})

    def test_other_steps_are_an_event_unless_only_the_extruder_was_calibrated(self):
        self.assertEqual(self.others({"steps": {**WHOLE.steps, "z": 402.0}})["steps"].event, "steps")
        self.assertIsNone(self.others({"steps": {**WHOLE.steps, "e": 95.1}})["steps"].event)
        self.assertEqual(self.others({"steps": {**WHOLE.steps, "z": 400.01}}), {})

    def test_what_it_does_not_tell_is_said(self):
        said = untold(compare(Told(firmware="Marsh 1.4"), BOOK))
        for word in ("z offset", "mesh", "compensation", "steps"):
            self.assertIn(word, said)
        self.assertIn("screen", said)

    @given(told)
    def test_nothing_is_an_event_at_the_first_meeting(self, first):
        self.assertEqual([one.event for one in compare(first, Book()) if one.event], [])

    @given(told)
    def test_what_was_said_twice_is_no_event(self, one):
        book = Book(before=one, offset=one.offset, mesh=one.mesh)
        self.assertEqual([each.event for each in compare(one, book) if each.event], [])

    @given(told, told)
    def test_every_event_is_one_that_the_table_knows(self, before, now):
        for one in compare(now, Book(before, before.offset, before.mesh)):
            self.assertTrue(one.event is None or one.event in EVENTS)
            if one.event:
                self.assertTrue(words(one.remark).endswith("."))


if __name__ == "__main__":
    unittest.main()
