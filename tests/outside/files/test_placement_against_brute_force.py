"""The best place for a print against trying every place, one after the other.

The brute force lays every line on the bed in pieces of a fifth of a millimetre and asks the bead itself; where plastic may not be
is asked of shapely (GEOS).
"""

import unittest

import numpy as np
from shapely.geometry import LineString, box
from shapely.ops import unary_union

from finchwort.core.files import place_print
from finchwort.core.files.forecast import bead_of
from finchwort.core.printers import Bed, KeepOff
from finchwort.core.surveys import Relief
from tests.fixtures.print_files import printed
from tests.fixtures.slicer import Thing, disc, rectangle

BED = Bed(120, 100)
THINGS = [Thing(rectangle(45, 45, 24, 12), 0.6), Thing(disc(75, 60, 10), 0.6)]
PRINT = printed(THINGS, skirt=True)
MOVING = PRINT.layer.role != 5


def bed_of(seed):
    """A bed with waves of its own."""
    rng = np.random.default_rng(seed)
    xs, ys = np.linspace(0, 120, 33), np.linspace(0, 100, 28)
    x, y = np.meshgrid(xs, ys)
    height = 0.06 * np.sin(x / rng.uniform(15, 40) + rng.uniform(0, 6)) + 0.06 * np.cos(
        y / rng.uniform(15, 40)
    )
    return Relief(xs, ys, height)


def bilinear(relief, x, y):
    """Heights, a place at a time."""
    i = min(max(int(np.searchsorted(relief.xs, x)) - 1, 0), len(relief.xs) - 2)
    j = min(max(int(np.searchsorted(relief.ys, y)) - 1, 0), len(relief.ys) - 2)
    u = (x - relief.xs[i]) / (relief.xs[i + 1] - relief.xs[i])
    v = (y - relief.ys[j]) / (relief.ys[j + 1] - relief.ys[j])
    h = relief.heights
    return (1 - v) * ((1 - u) * h[j, i] + u * h[j, i + 1]) + v * ((1 - u) * h[j + 1, i] + u * h[j + 1, i + 1])


def fine(layer):
    """Middles of pieces of a fifth of a millimetre, their lengths and beads, without the skirt."""
    places, lengths, widths = [], [], []
    for start, end, width, role in zip(layer.start, layer.end, layer.width, layer.role, strict=True):
        if role in (4, 5):
            continue
        length = np.hypot(*(end - start))
        many = max(1, int(np.ceil(length / 1.0)))
        for k in range(many):
            places.append(start + (end - start) * (k + 0.5) / many)
            lengths.append(length / many)
            widths.append(width)
    return np.array(places), np.array(lengths), np.array(widths)


class BruteForceTest(unittest.TestCase):
    def setUp(self):
        self.places, self.lengths, self.widths = fine(PRINT.layer)
        kept = PRINT.layer.start[MOVING], PRINT.layer.end[MOVING]
        self.lines = [LineString([a, b]) for a, b in zip(*kept, strict=True)]
        self.plastic = unary_union(self.lines).buffer(float(PRINT.layer.width.max()) / 2)

    def share(self, relief, found, dx, dy, angle):
        """Share that is good at one place."""
        x, y = (self.places - found.middle).T
        turned = (x + 1j * y) * np.exp(1j * np.radians(angle))
        x, y = turned.real, turned.imag
        x, y = x + found.middle[0] + dx, y + found.middle[1] + dy
        good = 0.0
        for px, py, length, width in zip(x, y, self.lengths, self.widths, strict=True):
            limits = bead_of(round(float(width), 2), 0.2).limits()
            good += length * (limits[2] < 0.2 + relief.heights.mean() - bilinear(relief, px, py) <= limits[3])
        return good / self.lengths.sum()

    def test_every_fifth_millimetre_and_every_turn(self):
        for seed in range(2):
            relief = bed_of(seed)
            found = place_print(PRINT.layer, relief, BED, float(relief.heights.mean()))
            self.assertEqual([one.angle for one in found.places], [0, 90, 180, 270])
            rng = np.random.default_rng(seed)
            best = 0.0
            for one in found.places:
                for _ in range(25):
                    i, j = rng.integers(len(one.dx)), rng.integers(len(one.dy))
                    wanted = self.share(relief, found, one.dx[i], one.dy[j], one.angle)
                    self.assertAlmostEqual(one.share[j, i], wanted, delta=0.01)
                    best = max(best, wanted)
            self.assertGreaterEqual(found.best.share, best - 0.04)
            exact = self.share(relief, found, found.best.dx, found.best.dy, found.best.angle)
            self.assertAlmostEqual(found.best.share, exact, delta=0.01)
            self.assertAlmostEqual(found.now.share, self.share(relief, found, 0, 0, 0), delta=0.01)

    def test_any_angle(self):
        relief = bed_of(4)
        zero = float(relief.heights.mean())
        found = place_print(PRINT.layer, relief, BED, zero, angles=(0, 15, 75, 105, 330))
        for angle in (15, 75, 105, 330):
            one = place_print(PRINT.layer, relief, BED, zero, angles=(angle,))
            rng = np.random.default_rng(angle)
            shown = one.places[0]
            self.assertEqual(shown.angle, angle)
            for _ in range(12):
                i, j = rng.integers(len(shown.dx)), rng.integers(len(shown.dy))
                wanted = self.share(relief, one, shown.dx[i], shown.dy[j], angle)
                self.assertAlmostEqual(shown.share[j, i], wanted, delta=0.01)
            self.assertLessEqual(one.best.share, found.best.share + 0.03 + 0.01)

    def test_only_where_plastic_may_be(self):
        clipped = Bed(
            120, 100, keep_off=(KeepOff("clip", 30, 88, 50, 100, 5), KeepOff("other", 0, 0, 12, 20, 5))
        )
        flat = Relief(np.linspace(0, 120, 9), np.linspace(0, 100, 9), np.zeros((9, 9)))
        found = place_print(PRINT.layer, flat, clipped, 0.0, angles=(0,))
        area = box(0, 0, 120, 100)
        clips = [box(*place.grown(2.0)) for place in clipped.keep_off]
        one = found.places[0]
        for j, dy in enumerate(one.dy):
            for i, dx in enumerate(one.dx):
                from shapely.affinity import translate

                there = translate(self.plastic, dx, dy)
                lines = translate(unary_union(self.lines), dx, dy)
                free = np.isfinite(one.share[j, i])
                if free:
                    self.assertTrue(area.buffer(0.05).contains(there), (dx, dy))
                    self.assertFalse(any(lines.intersects(clip) for clip in clips), (dx, dy))
                else:
                    # squares of 1 mm are no finer than that
                    near = any(there.distance(clip) < 1.5 for clip in clips)
                    self.assertTrue(near or not area.buffer(-1.5).contains(there), (dx, dy))

    def test_never_where_the_tip_would_touch(self):
        xs, ys = np.linspace(0, 120, 61), np.linspace(0, 100, 51)
        x, y = np.meshgrid(xs, ys)
        bump = Relief(xs, ys, 0.22 * np.exp(-((x - 60) ** 2 + (y - 50) ** 2) / 60))
        found = place_print(PRINT.layer, bump, BED, 0.0)
        self.assertFalse(found.allowed)
        touched = self.places - np.array(found.middle)
        for one in found.places[:1]:
            for j, dy in enumerate(one.dy):
                for i, dx in enumerate(one.dx):
                    px = touched + np.array(found.middle) + (dx, dy)
                    gap = 0.2 - np.array([bilinear(bump, *p) for p in px[::7]])
                    if np.isfinite(one.share[j, i]):
                        self.assertGreater(gap.min(), 0.02)


if __name__ == "__main__":
    unittest.main()
