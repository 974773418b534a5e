"""A machine of the tests' own prints a file as it is, moved, and bent to its domed bed.

The machine has play, steps, growth and ripples that the product knows nothing of; see tests/simulation/printing.py.
"""

import io
import unittest

import numpy as np

from finchwort.core.files import Limits, Shift, cut_in_pieces, place_print, plan_bend
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey, make_relief
from finchwort.formats.print_file import bent_copy, moved_copy, text_of
from tests.fixtures.print_files import read_text
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things
from tests.simulation.printing import MOSTLY, Machine, Plate

HEIGHT, WIDTH = 0.25, 0.5
START = ["M140 S{bed}", "M190 S{bed}", "M109 S{nozzle}", "G28", "G1 Z5 F600"]
MANNER = Manner(first=HEIGHT, layer=0.2, width=WIDTH, relative=True, start=START)
THINGS = [
    Thing(rectangle(70, 75, 70, 50), 0.6),
    Thing(disc(250, 80, 60), 0.6),
    Thing(disc(80, 240, 14), 0.6),
    Thing(rectangle(250, 240, 50, 22), 0.6),
]


def boxes(things, shift=None):
    found = {}
    for i, thing in enumerate(things):
        corners = np.array(thing.outline.bounds).reshape(2, 2)
        if shift is not None:
            corners = np.sort(shift.at(corners), axis=0)
        found[i] = tuple(corners.ravel())
    return found


class DomedBedTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.text = slice_things(THINGS, MANNER)[0]
        cls.found = read_text(cls.text)
        cls.bed = Bed(330, 310)

    def world(self, seed, **plate):
        """A plate, its survey as the product takes it, and a machine."""
        rng = np.random.default_rng(seed)
        plate = Plate(**plate)
        relief = make_relief(Survey(*plate.survey(rng)), self.bed)
        machine = Machine(plate, play=rng.uniform(0, 0.008), growth=rng.uniform(0, 0.012))
        return relief, machine

    def source(self):
        return text_of(io.BytesIO(self.text.encode()))

    def copy(self, relief):
        plan = plan_bend(self.found, cut_in_pieces(self.found.layer), relief)
        copy, _ = bent_copy(self.source, self.found, plan.bend, Limits(0.05))
        self.addCleanup(copy.close)
        return b"".join(copy.text(["a copy"])).decode()

    def good(self, machine, text, shift=None):
        patches = machine.print(text, HEIGHT).patches(HEIGHT, WIDTH, boxes(THINGS, shift))
        self.assertGreater(len(patches), 30)
        return np.array(list(patches.values()))

    def test_bent_its_patches_are_good_all_over_and_plain_not(self):
        for seed in range(4):
            with self.subTest(seed=seed):
                dome = 0.22 + 0.06 * seed
                relief, machine = self.world(seed, dome=dome, twist=0.02 * seed)
                plain = self.good(machine, self.text)
                self.assertLess(float(np.mean(plain >= MOSTLY)), 0.8)
                bent = self.good(machine, self.copy(relief))
                self.assertTrue(bool(np.all(bent >= MOSTLY)), np.sort(bent)[:5])
                self.assertFalse(machine.touched)

    def test_a_bowl_scrapes_plain_and_not_bent(self):
        relief, machine = self.world(11, dome=-0.42, twist=0.0)
        self.good(machine, self.text)
        self.assertTrue(machine.touched)
        bent = self.good(machine, self.copy(relief))
        self.assertFalse(machine.touched)
        self.assertTrue(bool(np.all(bent >= MOSTLY)), np.sort(bent)[:5])

    def test_moved_to_the_best_place_more_of_it_is_good(self):
        text = slice_things(THINGS[:1], MANNER)[0]
        found = read_text(text)
        relief, machine = self.world(3, dome=0.3)
        place = place_print(found.layer, relief, self.bed, relief.middle).best
        shift = Shift.of(found.layer, place.dx, place.dy, place.angle // 90)
        copy = moved_copy(lambda: text_of(io.BytesIO(text.encode())), found, shift, self.bed)
        self.addCleanup(copy.close)
        moved = b"".join(copy.text([])).decode()
        before = machine.print(text, HEIGHT).patches(HEIGHT, WIDTH, boxes(THINGS[:1]))
        after = machine.print(moved, HEIGHT).patches(HEIGHT, WIDTH, boxes(THINGS[:1], shift))
        share = [np.mean([one >= MOSTLY for one in patches.values()]) for patches in (before, after)]
        self.assertLess(share[0], 0.5)
        self.assertGreater(share[1], 0.95)


if __name__ == "__main__":
    unittest.main()
