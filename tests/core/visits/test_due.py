"""What is due at a printer: the most pressing first, each once, and nothing that another line asks for already."""

import unittest
from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from finchwort.core.visits import NOZZLE_HOURS, DueKind, Happened, OnRecord, OpenCase, due, standing
from finchwort.messages.remarks import words

HOLDS, PLATE, PRIED = standing("survey", []), "plate", "pried"


def found(thing, *events):
    return standing(thing, [Happened(what) for what in events])


BEDS = st.sampled_from([None, HOLDS, found("survey", PLATE), found("survey", PRIED)])
CASES = st.lists(
    st.builds(OpenCase, st.integers(1, 9), st.text(), st.floats(0, 400), st.booleans()), max_size=3
)
RECORDS = st.builds(
    OnRecord,
    left=st.integers(0, 9),
    bed=BEDS,
    offset=st.sampled_from([None, HOLDS, found("offset", PLATE)]),
    mesh=st.sampled_from([None, HOLDS, found("mesh", PRIED)]),
    surface=st.just("Sheet"),
    prints=st.integers(0, 40),
    coats=st.integers(0, 3),
    cases=CASES.map(tuple),
    visit_hours=st.none() | st.floats(0, 2000),
    level_days=st.none() | st.floats(0, 400),
    level_lasts=st.none() | st.floats(0, 400),
)


def kinds(known):
    return [one.kind for one in due(known)]


class DueTest(unittest.TestCase):
    @given(RECORDS)
    def test_in_order_once_and_in_words(self, known):
        results = due(known)
        ranks = [one.rank for one in results]
        self.assertEqual(ranks, sorted(ranks))
        single = [one.kind for one in results if one.case_id is None]
        self.assertEqual(len(single), len(set(single)))
        for one in results:
            self.assertGreater(len(words(one.said)), 10)
        self.assertEqual(len([one for one in results if one.case_id is not None]), len(known.cases))

    @given(RECORDS)
    def test_a_list_asks_alone_for_bed_offset_and_mesh(self, known):
        names = kinds(replace(known, left=max(1, known.left)))
        self.assertIn(DueKind.AFTER, names)
        self.assertFalse({DueKind.MEASURE, DueKind.OFFSET, DueKind.MESH, DueKind.LEVEL} & set(names))

    @given(RECORDS)
    def test_wash_and_coat_are_never_asked_for_together(self, known):
        self.assertLessEqual(len({DueKind.WASH, DueKind.COAT} & set(kinds(known))), 1)

    def test_a_coat_lasts_five_to_seven_prints(self):
        # common practice
        for prints, wanted in ((5, []), (8, [DueKind.COAT])):
            self.assertEqual(kinds(OnRecord(surface="Glass", prints=prints, coats=1)), wanted)
        self.assertEqual(kinds(OnRecord(surface="Glass", prints=8)), [])
        self.assertEqual(kinds(OnRecord(surface="Glass", prints=12)), [DueKind.WASH])

    def test_a_visit_of_today_was_not_left_open(self):
        self.assertEqual(kinds(OnRecord(visit_hours=3)), [])
        (one,) = due(OnRecord(visit_hours=75))
        self.assertEqual(words(one.said), "A visit is open for 3 days. Go on with it, or close it.")

    def test_the_level_is_looked_at_when_its_time_is_over_and_nothing_else_asks(self):
        old = OnRecord(level_days=30, level_lasts=21, bed=HOLDS)
        self.assertEqual(kinds(old), [DueKind.LEVEL])
        self.assertEqual(kinds(replace(old, level_days=20)), [])
        self.assertEqual(kinds(replace(old, level_lasts=None)), [])
        self.assertEqual(kinds(replace(old, level_lasts=0)), [])  # it was left so
        self.assertEqual(kinds(replace(old, visit_hours=1)), [])
        self.assertEqual(kinds(replace(old, bed=found("survey", PLATE))), [DueKind.MEASURE])

    def test_a_bed_in_doubt_is_measured_before_offset_and_mesh(self):
        old = OnRecord(offset=found("offset", PLATE), mesh=found("mesh", PRIED))
        self.assertEqual(kinds(old), [DueKind.OFFSET, DueKind.MESH])
        self.assertEqual(kinds(replace(old, bed=found("survey", PLATE))), [DueKind.MEASURE])
        self.assertEqual(kinds(replace(old, bed=HOLDS)), [DueKind.OFFSET, DueKind.MESH])

    def test_a_tip_is_looked_at_after_its_hours(self):
        self.assertEqual(kinds(OnRecord(nozzle_hours=NOZZLE_HOURS - 1)), [])
        (one,) = due(OnRecord(nozzle_hours=412.3))
        self.assertEqual(one.kind, DueKind.NOZZLE)
        self.assertIn("412 h of printing since its nozzle was changed", words(one.said))

    def test_each_line_says_why(self):
        (one,) = due(OnRecord(bed=found("survey", PLATE)))
        self.assertEqual(words(one.said), "Another plate was laid on since. Measure the bed again.")
        (one,) = due(OnRecord(cases=(OpenCase(4, "Corners lift", 2.6, False),)))
        self.assertEqual((words(one.said), one.case_id), ("A case, open for 2 days: Corners lift", 4))
        (one,) = due(OnRecord(cases=(OpenCase(4, "Corners lift", 2.6, True),)))
        self.assertEqual(one.kind, DueKind.EXPERIMENT)
