"""Parts of a print that let go easily: small feet, slender ones, sharp corners, shrinking material."""

from __future__ import annotations

from collections.abc import Iterator

from finchwort.core.base.remarks import remark
from finchwort.core.diagnosis import SHRINKING, Brim, advise_brim
from finchwort.core.files.feet import Foot
from finchwort.core.files.kinds import Weight
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import Finding, Target

ENOUGH = 0.6
"""A brim of such a share of the advised width will do (ours)."""
SHRINKS_TALL = 60.0
"""Parts of shrinking material higher than this split, mm (ours)."""


def brim_for(foot: Foot, material: str) -> Brim | None:
    """Brim that a part wants; None where its foot is no foot of a part."""
    long = max(foot.bounds[2] - foot.bounds[0], foot.bounds[3] - foot.bounds[1])
    # of a slanted or hollow foot the breadth that counts is that of its plastic
    narrow = min(foot.narrow, foot.area / max(long, 0.5)) if not foot.round else foot.narrow
    if narrow < 0.5 or foot.height <= 0:
        return None
    corners = "round" if foot.round else "sharp"
    return advise_brim(max(narrow, 0.5), min(long, 2000.0), min(foot.height, 2000.0), corners, material)


def must_stick(print_: PrintFile, target: Target) -> str:
    """Name of the part that makes the print a difficult one; empty when there is none."""
    material = target.material.name if target.material else ""
    for foot in print_.parts:
        brim = brim_for(foot, material)
        if brim is not None and brim.width and foot.brim < ENOUGH * brim.width:
            return foot.name
    return ""


def part_findings(print_: PrintFile, target: Target) -> Iterator[Finding]:
    """Say which parts want a brim."""
    material = target.material.name if target.material else ""
    for foot in print_.parts:
        brim = brim_for(foot, material)
        if brim is None or not brim.width:
            continue
        if foot.brim < ENOUGH * brim.width:
            weight = Weight.CHANGE if not foot.brim else Weight.MIND
            said = remark("files.brim", name=foot.name, has=foot.brim, why=brim.why)
            yield Finding(weight, said, foot.line, foot.name)
    tall = [foot for foot in print_.parts if foot.height > SHRINKS_TALL]
    if material in SHRINKING and tall:
        said = remark("files.shrinks", material=material, name=tall[0].name, height=tall[0].height)
        yield Finding(Weight.MIND, said, tall[0].line, tall[0].name)
