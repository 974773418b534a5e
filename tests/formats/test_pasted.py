"""What a copied text of a machine's console tells besides heights: in the manner of several kinds of console."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from finchwort.core.probing import Summary
from finchwort.formats.pasted import hear_pasted
from finchwort.knowledge.dialect import load_dialect

OPEN = load_dialect("open")
STAMPS = ("", "Recv: ", "12:01:33.4 Recv: ", "< ", "[12:01:33] ")


def hear(text):
    return hear_pasted(text, OPEN)


class SwitchesTest(unittest.TestCase):
    def test_states_among_chatter(self):
        for stamp in STAMPS:
            lines = ("Reporting endstop status", "x_min: open", "y_min: open", "z_min: TRIGGERED", "ok")
            found = hear("\n".join(stamp + line for line in lines))
            with self.subTest(stamp):
                self.assertEqual(found.switches, {"x_min": "open", "y_min": "open", "z_min": "triggered"})
                self.assertFalse(found.empty)


class TouchesTest(unittest.TestCase):
    @settings(max_examples=50, deadline=None)
    @given(
        st.lists(st.integers(-200, 200), min_size=3, max_size=20),
        st.sampled_from(STAMPS),
        st.sampled_from(
            (
                "{i} of {n}: z: {z:.4f}",
                "Probe {i} of {n} at X:110.00 Y:110.00 Z: {z:.4f} (dev)",
                "bed X: 110.0 Y: 110.0 Z: {z:.4f}",
            )
        ),
    )
    def test_touches_come_back_in_their_order(self, heights, stamp, manner):
        heights = [height / 1000 for height in heights]
        lines = [manner.format(i=i, n=len(heights), z=z) for i, z in enumerate(heights, 1)]
        found = hear(
            "\n".join(stamp + line for line in ("Probing", *lines, "Standard Deviation: 0.004", "ok"))
        )
        self.assertEqual(found.touches, tuple(heights))
        self.assertIsNone(found.summary)  # what is told one by one needs no summing up

    def test_touches_at_several_places_are_a_survey(self):
        text = "\n".join(f"bed X: {x}.0 Y: 20.0 Z: 0.0{x % 7}" for x in (20, 100, 180))
        self.assertEqual(hear(text).touches, ())
        self.assertTrue(hear(text).empty)

    def test_a_summary_alone(self):
        text = "Finished!\nMean: 0.012 Min: 0.005 Max: 0.018 Range: 0.013\nStandard Deviation: 0.0041\n10 samples"
        self.assertEqual(hear(text).summary, Summary(0.0041, 0.013, 0.012, 10))
        worn = hear("Std dev 0,031; min -0,05 max 0,06").summary
        self.assertAlmostEqual(worn.range, 0.11)
        self.assertEqual((worn.sd, worn.count), (0.031, 0))
        self.assertIsNone(hear("Mean: 0.012").summary)


class SettingsTest(unittest.TestCase):
    def test_stored_settings(self):
        text = "\n".join(
            (
                "FIRMWARE_NAME:Open 2.1 MACHINE_TYPE:Reed",
                "echo:; Steps per unit:",
                "echo: M92 X80.00 Y80.00 Z400.00 E93.00",
                "echo: M851 X-40.00 Y-10.00 Z-1.45 ; (mm)",
                "echo: M420 S1 Z10.00",
            )
        )
        told = hear(text).told
        self.assertEqual(told.steps, {"x": 80, "y": 80, "z": 400, "e": 93})
        self.assertEqual((told.offset, told.compensation), (-1.45, True))

    def test_the_distance_along_z_is_the_offset_however_it_is_said(self):
        """A probe's distances are often told together: only the one along Z may be taken for the offset."""
        for line in (
            "M851 X-40.00 Y-10.00 Z-1.45",
            "Probe Offset X-40.00 Y-10.00 Z-1.45",
            "Probe Z Offset: -1.45",
            "probe offset z: -1.45",
            "M851 Z-1.45",
            "echo:Probe Z Offset: -1.45",
        ):
            with self.subTest(line):
                self.assertEqual(hear(line).told.offset, -1.45)
        for other in (
            "M851 X-40.00 Y-10.00",
            "Home offset: M206 X0.00 Y0.00 Z0.00",
            "Hotend offset: X0 Y0 Z-0.2",
        ):
            self.assertIsNone(hear(other).told, other)

    def test_nothing_of_a_machine(self):
        for text in ("", "Hello\nworld", "1;2;3\n4;5;6", "ok\nok"):
            self.assertTrue(hear(text).empty, text)


class RowTest(unittest.TestCase):
    def test_three_bare_numbers(self):
        for text in ("-0.12 0.01 0.15", "-0,12; 0,01; 0,15", " -0.12\t0.01\t+0.15 "):
            self.assertEqual(hear(text).row, (-0.12, 0.01, 0.15))
        for text in ("1 2", "1 2 3 4", "1 2 3\n4 5 6", "x 1 2 3"):
            self.assertIsNone(hear(text).row)


if __name__ == "__main__":
    unittest.main()
