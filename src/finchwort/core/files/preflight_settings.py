"""Settings of the first layer against what usually holds: heat, height, width, speed, flow, fan, patterns."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from scipy.spatial import cKDTree

from finchwort.core.base.geometry import Column
from finchwort.core.base.remarks import remark
from finchwort.core.diagnosis import FAST, NEAR, SHRINKING, SLOW, USUAL, Surface
from finchwort.core.files.commands import Command
from finchwort.core.files.first_layer import FirstLayer
from finchwort.core.files.kinds import ROLES, LineRole, Told, Weight
from finchwort.core.files.preflight_parts import must_stick
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import USUAL_NOZZLE, Finding, Target
from finchwort.core.first_layer import MELTS, WIDER

THIN, THICK = 0.12, 0.8
"""A first layer thinner than the first (mm) forgives little; one higher than the second share of the hole is round (ours)."""
NARROW, WIDE = 1.05, 1.6
"""Widths as shares of the hole: narrower, wider than usual for a first layer (ours)."""
TRAVEL = 60.0
"""Ways between difficult parts faster than this tear lines along; about 35 is usual there, mm/s (common practice, ours)."""
MUCH = 0.05
"""Above the melt limit for a larger share of the time is no exception (ours)."""
LONG_LINE, MANY = 80.0, 0.2
"""Straight lines longer than this (mm), when they are such a share of the fill (ours)."""
OPEN = 0.03
"""Fill that ends so far from its wall leaves pinholes, mm (ours)."""


def setting_findings(print_: PrintFile, target: Target) -> Iterator[Finding]:
    """Compare the settings of the first layer with what usually holds."""
    yield from _warmth(print_, target)
    yield from _shape(print_, target)
    yield from _speed(print_, target)
    yield from _fan(print_, target)
    yield from _patterns(print_)


def _line_of(print_: PrintFile, *whats: Told) -> int | None:
    before = [one for one in print_.commands if one.what in whats and one.line < print_.first_line]
    chosen: Command | None = before[-1] if before else None
    return chosen.line if chosen else None


def _warmth(print_: PrintFile, target: Target) -> Iterator[Finding]:
    material, surface = target.material, target.surface
    bed_line = _line_of(print_, Told.BED, Told.BED_WAIT)
    nozzle_line = _line_of(print_, Told.NOZZLE, Told.NOZZLE_WAIT)
    nozzle, bed = print_.nozzle, print_.bed
    if target.hottest_nozzle is not None and nozzle is not None and nozzle > target.hottest_nozzle:
        said = remark("files.nozzle_beyond", value=nozzle, most=target.hottest_nozzle)
        yield Finding(Weight.CHANGE, said, nozzle_line)
    if target.hottest_bed is not None and bed is not None and bed > target.hottest_bed:
        yield Finding(Weight.CHANGE, remark("files.bed_beyond", value=bed, most=target.hottest_bed), bed_line)
    if material is None:
        yield Finding(Weight.ASK, remark("files.ask_material"))
        return
    if nozzle:
        low, high = material.nozzle_low, material.nozzle_high
        name = material.name
        if nozzle < low - NEAR:
            yield Finding(
                Weight.CHANGE,
                remark("files.nozzle_cold", value=nozzle, material=name, low=low, high=high),
                nozzle_line,
            )
        elif nozzle > high + NEAR:
            yield Finding(
                Weight.CHANGE,
                remark("files.nozzle_hot", value=nozzle, material=name, low=low, high=high),
                nozzle_line,
            )
    if surface is None:
        yield Finding(Weight.ASK, remark("files.ask_surface"))
        return
    yield from _bed_warmth(bed or 0.0, bed_line, surface, material.name)


def _bed_warmth(bed: float, line: int | None, surface: Surface, material: str) -> Iterator[Finding]:
    pair = surface.pairs.get(material)
    if pair is None or pair.bed_low is None or pair.bed_high is None:
        bonds = pair is not None and pair.bonds
        said = (
            remark("files.bonds_too_well", material=material, surface=surface.name)
            if bonds
            else remark("files.does_not_hold", material=material, surface=surface.name)
        )
        yield Finding(Weight.CHANGE, said)
        return
    low, high, sheet = pair.bed_low, pair.bed_high, surface.name
    if bed < low - NEAR:
        yield Finding(
            Weight.CHANGE,
            remark("files.bed_cold", value=bed, material=material, surface=sheet, low=low, high=high),
            line,
        )
    elif bed > high + NEAR:
        yield Finding(
            Weight.CHANGE,
            remark("files.bed_hot", value=bed, material=material, surface=sheet, low=low, high=high),
            line,
        )
    if pair.need:
        yield Finding(
            Weight.MIND,
            remark("files.needs_coat", material=material, surface=surface.name, need=pair.need),
        )


def _shape(print_: PrintFile, target: Target) -> Iterator[Finding]:
    height, line = print_.layer.height, print_.first_line
    hole = target.nozzle or print_.stated.nozzle or USUAL_NOZZLE
    if height > THICK * hole:
        yield Finding(
            Weight.CHANGE, remark("files.layer_thick", height=height, hole=hole, most=THICK * hole), line
        )
    elif height < THIN:
        yield Finding(Weight.MIND, remark("files.layer_thin", height=height), line)
    width, low, high = print_.line_width, hole * WIDER[0], hole * WIDER[1]
    if width < NARROW * hole:
        yield Finding(
            Weight.MIND, remark("files.line_narrow", width=width, low=low, high=high, hole=hole), line
        )
    elif width > WIDE * hole:
        yield Finding(
            Weight.MIND, remark("files.line_wide", width=width, low=low, high=high, hole=hole), line
        )
    if height >= width:
        yield Finding(Weight.CHANGE, remark("files.line_round", width=width, height=height), line)


def _speed(print_: PrintFile, target: Target) -> Iterator[Finding]:
    speed, line = print_.speed, print_.first_line
    difficult = must_stick(print_, target)
    if speed is None:
        yield Finding(Weight.MIND, remark("files.no_speed"), line)
    elif speed >= FAST:
        yield Finding(Weight.CHANGE, remark("files.speed_far_too_fast", value=speed), line)
    elif speed >= 100:
        yield Finding(Weight.CHANGE, remark("files.speed_too_fast", value=speed), line)
    elif difficult and speed > SLOW + 5:
        yield Finding(Weight.CHANGE, remark("files.speed_must_stick", value=speed, name=difficult), line)
    elif speed > USUAL[1]:
        yield Finding(Weight.MIND, remark("files.speed_fast", value=speed), line)
    travel = print_.layer.travel
    if difficult and travel is not None and travel > TRAVEL:
        yield Finding(Weight.MIND, remark("files.travel_fast", value=travel, name=difficult), line)
    if print_.fastest.value > MELTS[1]:
        share = print_.share_above(MELTS[1])
        weight = Weight.CHANGE if share > MUCH else Weight.MIND
        said = remark("files.melts", value=print_.fastest.value, most=MELTS[1], share=share)
        yield Finding(weight, said, print_.fastest.line)


def _fan(print_: PrintFile, target: Target) -> Iterator[Finding]:
    last = int(print_.layer.line[print_.layer.of_parts].max(initial=print_.first_line))
    on = [one for one in print_.commands if one.what is Told.FAN and one.value > 0 and one.line < last]
    if print_.fan > 0:
        before = [one for one in on if one.line <= print_.first_line] or on
        yield Finding(Weight.CHANGE, remark("files.fan_on", value=print_.fan), before[-1].line)
    if target.material and target.material.name in SHRINKING:
        later = [
            one for one in print_.commands if one.what is Told.FAN and one.value > 30 and one.line > last
        ]
        if later:
            said = remark("files.fan_later", value=later[0].value, material=target.material.name)
            yield Finding(Weight.MIND, said, later[0].line)


def _patterns(print_: PrintFile) -> Iterator[Finding]:
    layer = print_.layer
    mine = layer.of_parts
    fill = mine & (layer.role == ROLES.index(LineRole.FILL))
    wall = mine & (layer.role == ROLES.index(LineRole.WALL))
    if not fill.any():
        return
    length = layer.length
    long = fill & (length > LONG_LINE)
    if length[long].sum() > MANY * length[fill].sum():
        at = int(np.argmax(long))
        yield Finding(
            Weight.MIND, remark("files.long_lines", length=float(length[long].max())), int(layer.line[at])
        )
    if not wall.any():
        return
    for part in np.unique(layer.part[mine]).tolist():
        walls, fills = wall & (layer.part == part), fill & (layer.part == part)
        if walls.any() and fills.any() and layer.line[fills].min() < layer.line[walls].min():
            name = print_.parts[part].name
            yield Finding(
                Weight.MIND, remark("files.walls_last", name=name), int(layer.line[fills].min()), name
            )
            break
    open_ = wall_gap(layer, fill, wall)
    if open_ is not None and open_ > OPEN:
        yield Finding(Weight.MIND, remark("files.pinholes", gap=open_), int(layer.line[fill].min()))


def wall_gap(layer: FirstLayer, fill: Column, wall: Column) -> float | None:
    """Gap between the ends of the fill and the wall, mm; negative where they overlap; None where none ends at it.

    Parameters
    ----------
    layer : FirstLayer
    fill, wall : ndarray of bool
        Lines of the fill, and of the walls.
    """
    path = layer.path[fill]
    head = np.flatnonzero(np.diff(path, prepend=-1))
    tail = np.concatenate([head[1:] - 1, [len(path) - 1]])
    ends = np.concatenate([layer.start[fill][head], layer.end[fill][tail]])
    if len(ends) < 6:
        return None
    start, end = layer.start[wall], layer.end[wall]
    length = np.hypot(*(end - start).T)
    many = np.maximum(np.ceil(length / 0.1), 1).astype(np.intp)
    which = np.repeat(np.arange(len(many)), many)
    last = np.cumsum(many)
    share = (np.arange(len(which)) - np.repeat(last - many, many) + 0.5) / many[which]
    places = start[which] + share[:, None] * (end - start)[which]
    far, _ = cKDTree(places).query(ends)
    width = float(np.median(layer.width[wall]) + np.median(layer.width[fill])) / 2
    near = far[far < 2.5 * width]
    return float(np.median(near)) - width if len(near) > 0.4 * len(ends) else None
