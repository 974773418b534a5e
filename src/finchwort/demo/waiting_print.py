"""The demo's print, as its slicer wrote it."""

from __future__ import annotations

from finchwort.demo.slicer import Part, Slicing, slice_parts

ENDING = ("M104 S0", "M140 S0", "M107", "G91", "G1 Z10 F600", "G90", "G1 X5 Y300 F6000", "M84")
PRINT = "nest-box-fittings.gcode"


def demo_print() -> bytes:
    """Slice the print that waits to be looked through: four parts on the domed plate, with a few things to change."""
    parts = [
        Part("hinge plate", 85, 85, 90, 60, 5),
        Part("drip rim", 245, 90, 70, 0, 9),
        Part("perch peg", 85, 235, 12, 0, 60),
        Part("frame clip", 250, 235, 50, 22, 18),
    ]
    slicing = Slicing(bed=100, nozzle=250, fan=0, first_fan=20, first=0.25, end=ENDING)
    head = "; filament type = ASA", "; nozzle diameter = 0.4"
    return "".join(f"{line}\n" for line in (*head, *slice_parts(parts, slicing))).encode()
