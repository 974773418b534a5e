"""The first layer found from the moves: its height, its parts, what its lines are for."""

import itertools
import math
import unittest

import numpy as np

from finchwort.core.base.errors import CoreError
from finchwort.core.files import ROLES, LineRole
from tests.fixtures.print_files import printed, read_text
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

FOUR = [
    Thing(rectangle(50, 50, 40, 30), 2.0),
    Thing(rectangle(120, 50, 20, 20), 1.0, brim=4),
    Thing(disc(60, 120, 24), 3.0),
    Thing(rectangle(130, 120, 30, 30).difference(rectangle(130, 120, 14, 14)), 0.6),
]


def lengths(found):
    return {role: found.length_of(role) for role in LineRole}


class PartsTest(unittest.TestCase):
    def test_foot_height_and_bounds_are_those_of_the_outlines(self):
        for manner in ({}, {"relative": True}, {"one_by_one": True}, {"width": 0.6, "first": 0.3}):
            found = printed(FOUR, **manner)
            self.assertEqual(len(found.parts), 4, manner)
            wanted = sorted(FOUR, key=lambda thing: -thing.outline.area)
            for part, thing in zip(found.parts, wanted, strict=True):
                self.assertAlmostEqual(part.area / thing.outline.area, 1.0, delta=0.04, msg=str(manner))
                self.assertAlmostEqual(part.height, thing.height, delta=0.11)
                for side, limit in zip(part.bounds, thing.outline.bounds, strict=True):
                    self.assertAlmostEqual(side, limit, delta=0.06)

    def test_brim_is_no_foot(self):
        found = printed(FOUR)
        brims = [part.brim for part in found.parts if part.brim]
        self.assertEqual(len(brims), 1)
        self.assertAlmostEqual(brims[0], 4.0, delta=0.3)
        self.assertGreater(lengths(found)[LineRole.BRIM], 500)

    def test_skirt_and_purge_line_are_no_parts(self):
        found = printed(FOUR[:2], skirt=True)
        self.assertAlmostEqual(lengths(found)[LineRole.PURGE], 60.0, delta=0.1)
        self.assertGreater(lengths(found)[LineRole.SKIRT], 250)
        self.assertEqual(len(found.parts), 2)
        aside = (found.layer.role == ROLES.index(LineRole.PURGE)) | (
            found.layer.role == ROLES.index(LineRole.SKIRT)
        )
        self.assertTrue((found.layer.part[aside] == -1).all())
        self.assertTrue((found.layer.part[~aside] >= 0).all())

    def test_a_purge_line_to_and_fro_is_no_skirt(self):
        text = slice_things([Thing(rectangle(60, 60, 30, 20), 0.6)], Manner(relative=True))[0]
        back = "G1 X70.0 Y4.000 E1\nG1 X70.0 Y4.4\nG1 X10.0 Y4.4 E1\n"
        at = text.index("G1 X70.000 Y4.000")
        found = read_text(text[:at] + back + text[text.index("\n", at) + 1 :])
        self.assertGreater(found.length_of(LineRole.PURGE), 119)
        self.assertEqual(found.length_of(LineRole.SKIRT), 0.0)

    def test_remarks_do_not_make_a_skirt_of_a_brim(self):
        things = [Thing(rectangle(60, 60, 30, 20), 0.6, brim=4)]
        plain = printed(things, relative=True)
        text = slice_things(things, Manner(relative=True))[0].replace("M107", "M107\n; skirt or brim")
        named = read_text(text)
        self.assertEqual(named.parts[0].brim, plain.parts[0].brim)
        self.assertEqual(named.length_of(LineRole.BRIM), plain.length_of(LineRole.BRIM))

    def test_walls_are_told_from_fill(self):
        found = printed([Thing(rectangle(60, 60, 40, 40), 1.0)])
        walls = lengths(found)[LineRole.WALL]
        # two rounds, each half a width or a spacing further in
        self.assertAlmostEqual(walls, 4 * (40 - 0.45) + 4 * (40 - 0.45 - 2 * 0.407), delta=1.0)

    def test_a_narrow_part_is_narrow(self):
        found = printed([Thing(rectangle(60, 60, 60, 5), 1.0), Thing(disc(120, 120, 20), 1.0)])
        by_area = {round(part.area): part for part in found.parts}
        self.assertEqual(len(by_area), 2)
        narrow, smooth = (found.parts[i] for i in (1, 0))
        self.assertAlmostEqual(narrow.narrow, 5.0, delta=0.3)
        self.assertFalse(narrow.round)
        self.assertTrue(smooth.round)

    def test_what_is_printed_does_not_depend_on_the_manner(self):
        first = None
        for relative, numbered, inches in itertools.product((False, True), repeat=3):
            found = printed(FOUR[:2], relative=relative, numbered=numbered, inches=inches)
            told = [(round(p.area), p.height, p.line - found.parts[0].line) for p in found.parts]
            first = first or told
            self.assertEqual(told, first)


class LayerTest(unittest.TestCase):
    def test_height_width_speed_and_heat(self):
        for first, width, speed in ((0.2, 0.45, 25.0), (0.3, 0.6, 18.0), (0.12, 0.4, 60.0)):
            found = printed(FOUR[:2], first=first, width=width, speed=speed, bed=65, nozzle=210, fan=40)
            self.assertAlmostEqual(found.layer.height, first)
            self.assertAlmostEqual(found.line_width, width, delta=0.005)
            self.assertAlmostEqual(found.speed, speed, places=2)
            self.assertEqual((found.bed, found.nozzle, found.fan), (65.0, 210.0, 40.0))

    def test_a_priming_line_at_another_height_is_not_the_first_layer(self):
        print_ = "M83\nG28\nG1 Z{z} F600\nG0 X5 Y2\nG1 X105 E6 F1200\nG1 Z0.2 F600\n"
        body = "".join(
            f"G1 Z{0.2 + 0.2 * k:.1f} F600\n"
            + "".join(f"G0 X50 Y{50 + 0.4 * i:.1f}\nG1 X70 E0.62 F1500\n" for i in range(40))
            for k in range(4)
        )
        for z in ("0.1", "0.15", "0.3", "0.5"):
            found = read_text(print_.format(z=z) + body)
            self.assertAlmostEqual(found.layer.height, 0.2, msg=z)
            self.assertEqual(len(found.parts), 1)

    def test_one_layer_alone_is_a_print(self):
        rows = "".join(f"G0 X50 Y{50 + 0.4 * i:.1f}\nG1 X80 E0.94 F1500\n" for i in range(50))
        found = read_text(f"M83\nG28\nG1 Z0.2 F600\nG0 X5 Y2\nG1 X105 E3 F1200\n{rows}")
        self.assertEqual(len(found.parts), 1)
        self.assertAlmostEqual(found.parts[0].area, 30.4 * 20.0, delta=20)
        self.assertAlmostEqual(found.length_of(LineRole.PURGE), 100.0, delta=0.1)

    def test_remarks_give_names(self):
        text = "M83\nG28\nG1 Z0.2 F600\n"
        for k in range(3):
            text += f"G1 Z{0.2 + 0.2 * k:.1f} F600\n"
            for x, name in ((40, "lid"), (90, "clip left")):
                text += f"; part {name}\n; fill\n"
                text += "".join(f"G0 X{x} Y{50 + 0.4 * i:.1f}\nG1 X{x + 20} E0.62 F1500\n" for i in range(40))
        found = read_text(text)
        self.assertEqual(sorted(part.name for part in found.parts), ["clip left", "lid"])
        self.assertEqual(found.length_of(LineRole.WALL), 0.0)

    def test_a_file_that_follows_a_bed_is_refused(self):
        def rows(z, wave):
            lines = [f"G1 Z{z:.2f} F600"]
            for i in range(40):
                lines.append(f"G0 X50 Y{50 + 0.4 * i:.1f}")
                lines += [
                    f"G1 X{50 + 5 * k} Z{z + wave * (k % 2):.3f} E0.15 F1500"
                    if wave
                    else f"G1 X{50 + 5 * k} E0.15 F1500"
                    for k in range(1, 5)
                ]
            return "\n".join(lines)

        head = "M83\nG28\n"
        bent = head + "\n".join(rows(0.2 + 0.2 * k, 0.05 if k < 3 else 0) for k in range(6))
        with self.assertRaises(CoreError) as caught:
            read_text(bent)
        self.assertEqual(caught.exception.code, "files.follows_already")
        # a spiral above a flat bottom is none
        spiral = head + "\n".join(rows(0.2 + 0.2 * k, 0 if k < 3 else 0.05) for k in range(6))
        self.assertAlmostEqual(read_text(spiral).layer.height, 0.2)

    def test_arcs_are_followed(self):
        ring = "G0 X70 Y50\nG3 X30 Y50 I-20 J0 E2 F1200\nG3 X70 Y50 I20 J0 E2\n"
        found = read_text("M83\nG28\n" + "".join(f"G1 Z{0.2 * k:.1f} F600\n{ring}" for k in (1, 2, 3)))
        self.assertAlmostEqual(float(found.layer.length.sum()), 2 * math.pi * 20, delta=0.05)
        self.assertAlmostEqual(float(np.ptp(found.layer.area)), 0.0, places=4)
        self.assertEqual(len(found.parts), 1)


if __name__ == "__main__":
    unittest.main()
