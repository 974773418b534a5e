"""Places to keep off against shapely; the drawer's foils against a plain search; sources in docs/references.md."""

import itertools
import unittest

import numpy as np
import statsmodels.api as sm
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box
from shapely.ops import unary_union

from finchwort.core.levelling import FOIL_PRICE, Foil, Pad, plan_shims
from finchwort.core.printers import (
    MAX_SHIFT,
    ROUNDED,
    TIP_ROOM,
    Bed,
    KeepOff,
    blocked_by,
    crosses,
    free_place,
)
from finchwort.core.probing import lay_line, shape_of, usual_length
from finchwort.core.surveys import Survey

SIDES = st.tuples(st.integers(0, 200), st.integers(0, 200), st.integers(2, 40), st.integers(2, 40))
PLACES = st.lists(SIDES, min_size=1, max_size=4)
WHERE = st.tuples(st.integers(0, 220), st.integers(0, 220))


def bed_with(rectangles):
    keep = []
    for i, (x, y, w, d) in enumerate(rectangles):
        one = KeepOff(f"clip {i}", x, y, min(x + w, 220), min(y + d, 220))
        if not box(*one.grown(TIP_ROOM)).contains(Point(110, 110)):
            keep.append(one)
    return Bed(220, 220, keep_off=tuple(keep))


class ShapelyTest(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(PLACES, WHERE, WHERE)
    def test_ways_that_cross(self, rectangles, a, b):
        bed = bed_with(rectangles)
        grown = [box(*one.grown(TIP_ROOM - ROUNDED)) for one in bed.keep_off]
        way = LineString([a, b]) if a != b else Point(a)
        inside = [shape.contains(way) or way.crosses(shape) for shape in grown]
        self.assertEqual(crosses(bed, [a, b], TIP_ROOM) is not None, any(inside))

    @settings(max_examples=200, deadline=None)
    @given(PLACES, WHERE)
    def test_the_nearest_free_place(self, rectangles, wanted):
        """No free place lies nearer than the one that is given, by shapely's own distance."""
        bed = bed_with(rectangles)
        taken = unary_union([box(*one.grown(TIP_ROOM - ROUNDED)) for one in bed.keep_off])
        free = box(0, 0, 220, 220).difference(taken)
        found = free_place(bed, *wanted)
        nearest = free.distance(Point(wanted))
        if found is None:
            self.assertGreater(nearest, MAX_SHIFT - 0.1)
            return
        self.assertIsNone(blocked_by(bed, *found))
        self.assertAlmostEqual(np.hypot(found[0] - wanted[0], found[1] - wanted[1]), nearest, delta=0.1)


class SearchTest(unittest.TestCase):
    def test_stacks_against_trying_all(self):
        """Three pads, two thicknesses: every choice within the drawer is tried."""
        pads = [Pad("a", 10, 10), Pad("b", 210, 10), Pad("c", 110, 210)]
        foils = [Foil(0.1, 2), Foil(0.05, 2)]
        stacks = list(itertools.product(range(3), repeat=2))
        for seed in range(6):
            rng = np.random.default_rng(seed)
            x, y = (v.ravel() for v in np.meshgrid([20.0, 110, 200], [20.0, 110, 200]))
            survey = Survey(x, y, rng.uniform(-0.2, 0.2) * x / 200 + rng.uniform(-0.2, 0.2) * y / 200)
            corners = np.array([[p.x, p.y, 1.0] for p in pads])
            best = np.inf
            for choice in itertools.product(stacks, repeat=3):
                if sum(n for n, _ in choice) > 2 or sum(n for _, n in choice) > 2:
                    continue
                lift = np.linalg.solve(corners, [0.1 * n + 0.05 * m for n, m in choice])
                after = survey.height + np.column_stack([x, y, np.ones_like(x)]) @ lift
                best = min(best, np.ptp(after) + FOIL_PRICE * sum(n + m for n, m in choice))
            plan = plan_shims(survey, pads, foils)
            self.assertAlmostEqual(
                plan.spread_after + FOIL_PRICE * plan.foils, best, delta=0.02 * best + 1e-9
            )


class StatsmodelsTest(unittest.TestCase):
    def test_bows_of_straightedge_lines(self):
        """A height and a slope of its own for every line, as dummy columns of an ordinary regression."""
        bed = Bed(220, 180)
        rng = np.random.default_rng(8)
        lines, rows, seen = [], [], []
        for number, way in enumerate(("x", "y", "up", "down", "x")):
            along = np.linspace(0, usual_length(bed, way), 6)
            gaps = rng.uniform(0, 0.3, along.size)
            lines.append(lay_line(bed, way, along, gaps, 30.0 if number == 4 else None))
            u = 2 * (lines[-1].x - 110) / 220
            v = 2 * (lines[-1].y - 90) / 180
            own = np.zeros((along.size, 10))
            own[:, 2 * number], own[:, 2 * number + 1] = 1, along
            rows.append(np.column_stack([-u * u, -v * v, u * v, own]))
            seen.append(-gaps)
        fitted = sm.OLS(np.concatenate(seen), np.vstack(rows)).fit()
        found = shape_of(lines, bed, sd=0.03)
        np.testing.assert_allclose([bow for bow, _ in found.bows], fitted.params[:3], atol=1e-9)
        wanted = 1.959964 * 0.03 * np.sqrt(np.diag(fitted.normalized_cov_params)[:3])
        np.testing.assert_allclose([margin for _, margin in found.bows], wanted, rtol=1e-5)


if __name__ == "__main__":
    unittest.main()
