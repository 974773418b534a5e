"""Findings before a print is started: each where it should be, and none where nothing is wrong."""

import unittest
from dataclasses import replace

from finchwort.core.files import Target, Weight, preflight
from finchwort.core.printers import Bed, KeepOff
from finchwort.knowledge import materials, surfaces
from finchwort.messages.remarks import words
from tests.fixtures.print_files import printed, read_text
from tests.fixtures.slicer import Manner, Thing, disc, rectangle, slice_things

BROAD = [Thing(rectangle(100, 100, 30, 30), 0.8)]
START = ["M140 S{bed}", "M190 S{bed}", "M109 S{nozzle}", "G28"]


def surface(name):
    return next(one for one in surfaces().values() if one.name.lower() == name.lower())


TARGET = Target(
    bed=Bed(220, 220),
    surface=surface("textured PEI"),
    material=materials()["PLA"],
    nozzle=0.4,
    compensation="none",
)
GOOD = {"width": 0.48, "speed": 22.0, "bed": 60, "nozzle": 210}


def found(things=None, target=TARGET, **manner):
    return preflight(printed(things or BROAD, **{**GOOD, **manner}), target).findings


def codes(findings):
    return {one.code for one in findings}


class GoodTest(unittest.TestCase):
    def test_a_good_print_has_no_findings(self):
        self.assertEqual(found(), ())

    def test_every_finding_has_a_sentence_and_a_place_in_the_file(self):
        text = slice_things(
            BROAD, Manner(**{**GOOD, "fan": 50, "speed": 190.0, "bed": 30, "start": ["G28"]})
        )[0]
        for one in preflight(read_text(text), TARGET).findings:
            self.assertRegex(words(one.said), r"[.?]$")
            self.assertTrue(one.line is None or 1 <= one.line <= text.count("\n"))


class SettingsTest(unittest.TestCase):
    def check(self, code, weight=None, **given):
        findings = found(**given)
        self.assertIn(code, codes(findings))
        one = next(item for item in findings if item.code == code)
        if weight:
            self.assertEqual(one.weight, weight)
        return one

    def test_warmth_against_the_table(self):
        self.check("bed_cold", Weight.CHANGE, bed=40)
        self.check("bed_hot", Weight.CHANGE, bed=90)
        self.check("nozzle_cold", Weight.CHANGE, nozzle=180)
        self.check("nozzle_hot", Weight.CHANGE, nozzle=240)
        self.assertNotIn("bed_cold", codes(found(bed=53)))

    def test_a_surface_that_does_not_hold(self):
        tape = replace(TARGET, surface=surface("masking tape"), material=materials()["PETG"])
        self.assertIn("does_not_hold", codes(found(target=tape)))
        sheet = replace(TARGET, surface=surface("smooth PEI sheet"), material=materials()["PETG"])
        self.assertIn("needs_coat", codes(found(target=sheet, bed=75, nozzle=235)))

    def test_what_is_not_known_is_asked_for(self):
        asked = codes(found(target=Target()))
        self.assertLessEqual({"ask_bed", "ask_material"}, asked)
        self.assertIn("ask_surface", codes(found(target=replace(TARGET, surface=None))))

    def test_the_limits_of_the_printer(self):
        small = replace(TARGET, hottest_bed=55.0, hottest_nozzle=200.0)
        self.assertLessEqual({"bed_beyond", "nozzle_beyond"}, codes(found(target=small)))

    def test_height_and_width(self):
        self.check("layer_thick", first=0.36)
        self.check("layer_thin", first=0.1)
        self.check("line_narrow", width=0.4)
        self.check("line_wide", width=0.7)

    def test_speed_and_fan(self):
        self.check("speed_fast", Weight.MIND, speed=60.0)
        self.check("speed_too_fast", Weight.CHANGE, speed=120.0)
        self.check("speed_far_too_fast", Weight.CHANGE, speed=190.0)
        fan = self.check("fan_on", Weight.CHANGE, fan=60)
        text = slice_things(BROAD, Manner(**{**GOOD, "fan": 60}))[0].split("\n")
        self.assertTrue(text[fan.line - 1].startswith("M106"))

    def test_what_a_hot_end_melts(self):
        one = self.check("melts", later=220.0)
        text = slice_things(BROAD, Manner(**{**GOOD, "later": 220.0}))[0].split("\n")
        self.assertIn("E", text[one.line - 1])

    def test_long_lines(self):
        self.check("long_lines", things=[Thing(rectangle(110, 110, 150, 150), 0.6)])


class PartsTest(unittest.TestCase):
    def test_slender_parts_want_a_brim_and_slow_lines(self):
        slender = [Thing(disc(100, 100, 8), 45.0)]
        findings = found(slender, speed=40.0)
        self.assertLessEqual({"brim", "speed_must_stick"}, codes(findings))
        one = next(item for item in findings if item.code == "brim")
        self.assertEqual(one.part, "part 1")
        self.assertNotIn("brim", codes(found([Thing(disc(100, 100, 8), 45.0, brim=8)])))

    def test_shrinking_material(self):
        hot = replace(TARGET, material=materials()["ABS"])
        flat = found([Thing(rectangle(110, 110, 120, 60), 4.0)], target=hot, bed=105, nozzle=240)
        self.assertIn("brim", codes(flat))
        self.assertIn("fan_later", codes(flat))


class PlaceTest(unittest.TestCase):
    def test_beyond_the_printable_area(self):
        small = replace(TARGET, bed=Bed(110, 220))
        findings = found(target=small)
        one = next(item for item in findings if item.code == "outside")
        self.assertEqual(one.weight, Weight.CHANGE)
        self.assertIn("on the right", words(one.said))
        self.assertIn("5.", words(one.said))

    def test_a_purge_line_beyond_it_is_said_to_be_one(self):
        centre = replace(TARGET, bed=Bed(220, 206, origin="front_left"))
        text = slice_things(BROAD, Manner(**GOOD))[0].replace("Y4.000", "Y-4.000")
        findings = preflight(read_text(text), centre).findings
        self.assertIn("purge_outside", codes(findings))
        self.assertNotIn("outside", codes(findings))

    def test_clips(self):
        over = replace(TARGET, bed=Bed(220, 220, keep_off=(KeepOff("clip", 20, 0, 40, 8, 6),)))
        findings = found(target=over)
        self.assertIn("over_clip", codes(findings))
        self.assertIn("purge line", words(next(o for o in findings if o.code == "over_clip").said))
        # the way from the purge line to the part leads over it, low
        between = replace(TARGET, bed=Bed(220, 220, keep_off=(KeepOff("clip", 72, 20, 80, 60, 6),)))
        self.assertIn("way_through_clip", codes(found(target=between)))
        flat = replace(TARGET, bed=Bed(220, 220, keep_off=(KeepOff("mark", 72, 20, 80, 60, 0.1),)))
        self.assertNotIn("way_through_clip", codes(found(target=flat)))


class StartTest(unittest.TestCase):
    def check(self, start, code, target=TARGET, end=None):
        manner = {"start": start} if end is None else {"start": start, "end": end}
        findings = found(target=target, **manner)
        self.assertIn(code, codes(findings), start)
        return next(item for item in findings if item.code == code)

    def test_homing_and_compensation(self):
        mesh = replace(TARGET, compensation="mesh", mesh_holds=True)
        self.check(START[:3], "no_home")
        self.check(START, "mesh_left_off", mesh)
        one = self.check(["M420 S1", *START], "home_after_mesh", mesh)
        self.assertEqual(one.line, 6)
        self.check([*START, "M420 S0"], "mesh_switched_off", mesh)
        self.check([*START, "M420 S1"], "mesh_not_there")
        self.check([*START, "G29"], "probes_first")
        self.check(["G29", *START], "home_after_probing")
        self.assertEqual(codes(found(target=mesh, start=[*START, "M420 S1"])), set())

    def test_a_macro_hides_what_it_does(self):
        findings = found(start=["BEGIN_HERE BED=60 NOZZLE=210"])
        self.assertEqual(codes(findings), set())

    def test_other_names_hide_nothing(self):
        self.check(["SET_LIMIT VALUE=3", *START[:3]], "no_home")

    def test_offsets(self):
        self.check([*START, "M851 Z-1.2"], "offset_in_file")
        self.check([*START, "M851 Z-1.2", "M290 Z-0.05"], "offset_twice")
        self.check([*START, "G1 Z5 F600", "G92 Z5.1"], "offset_in_file")

    def test_heat(self):
        self.check(["M190 S{bed}", "G28"], "no_nozzle_heat")
        self.check(["M109 S{nozzle}", "G28"], "no_bed_heat")
        self.check(["M140 S{bed}", "M109 S{nozzle}", "G28"], "bed_not_waited")
        self.check(["M190 S{bed}", "M104 S{nozzle}", "G28"], "nozzle_not_waited")

    def test_the_end(self):
        self.check(START, "stays_hot", end=["M140 S0"])

    def test_no_purge(self):
        self.assertIn("no_purge", codes(found(purge=False)))


if __name__ == "__main__":
    unittest.main()
