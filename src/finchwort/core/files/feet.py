"""Parts as they stand on the bed: their feet, brims and heights."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy import ndimage
from scipy.spatial import ConvexHull, QhullError

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.commands import Hints
from finchwort.core.files.gathering import BASE, CELL, REACH, Gathering, Level
from finchwort.core.files.kinds import ROLES, LineRole
from finchwort.core.files.squares import along, drawn, grid_over

MIN_FOOT = 2.0
"""A foot smaller than this is a stray, mm²."""
MAX_PARTS = 200
FINE = 0.14
"""Squares in which a foot is measured, as a share of the line's width."""
NOTCH = 6.0
"""What is left open by lines counts as a hole from so many squares of their width (ours)."""
ROUNDISH = 1.06
"""A foot of which the greatest breadth is no more than so many times the smallest has no sharp corners (ours)."""


@dataclass(frozen=True)
class Foot:
    """A part as it stands on the bed.

    Attributes
    ----------
    name : str
    area : float
        Of its foot without brim, mm².
    height : float
        Of the part, mm.
    bounds : tuple
        x_min, y_min, x_max, y_max of its foot without brim, mm.
    brim : float
        Width of its brim, mm; 0 for none.
    line : int
        Where it begins in the file.
    narrow : float
        Narrowest side of the smallest rectangle round its foot, mm.
    round : bool
        Whether its foot has no sharp corners.
    """

    name: str
    area: float
    height: float
    bounds: tuple[float, float, float, float]
    brim: float
    line: int
    narrow: float
    round: bool


def find_feet(
    found: Gathering,
    first: Level,
    roles: Column,
    owner: Indices,
    usual: float,
    hints: Hints,
) -> tuple[tuple[Foot, ...], tuple[int, ...]]:
    """Parts, from the largest foot to the smallest, and the number of their bodies."""
    of_part = (owner > 0) & ((roles == ROLES.index(LineRole.WALL)) | (roles == ROLES.index(LineRole.FILL)))
    numbers = np.unique(owner[of_part])
    feet: list[tuple[Foot, int]] = []
    for number in numbers.tolist():
        mine = of_part & (owner == number)
        part = first.chosen(mine)
        ends = np.concatenate([part.start, part.end])
        half = usual / 2
        bounds = (*(ends.min(axis=0) - half), *(ends.max(axis=0) + half))
        area, narrow, smooth = _foot(part, usual)
        if area < MIN_FOOT:
            continue
        brims = first.chosen((owner == number) & (roles == ROLES.index(LineRole.BRIM)))
        brim = _reach_beyond(bounds, brims, half)
        name = hints.name_at(int(part.line.min()))
        foot = Foot(
            name,
            area,
            0.0,
            (float(bounds[0]), float(bounds[1]), float(bounds[2]), float(bounds[3])),
            brim,
            int(part.line.min()),
            narrow,
            smooth,
        )
        feet.append((foot, number))
    feet.sort(key=lambda one: (-one[0].area, one[0].line))
    feet = feet[:MAX_PARTS]
    heights = _heights(found, first, owner, [number for _, number in feet])
    named: list[Foot] = []
    seen: dict[str, int] = {}
    for i, ((foot, _), height) in enumerate(zip(feet, heights, strict=True), 1):
        name = foot.name or f"part {i}"
        seen[name] = seen.get(name, 0) + 1
        if seen[name] > 1:
            name = f"{name} ({seen[name]})"
        named.append(
            Foot(name, foot.area, height, foot.bounds, foot.brim, foot.line, foot.narrow, foot.round)
        )
    return tuple(named), tuple(number for _, number in feet)


def _reach_beyond(bounds: tuple[float, ...], brims: Level, half: float) -> float:
    """How far a brim reaches beyond the foot, mm."""
    if not len(brims.line):
        return 0.0
    ends = np.concatenate([brims.start, brims.end])
    low, high = ends.min(axis=0) - half, ends.max(axis=0) + half
    return max(
        0.0,
        float(bounds[0] - low[0]),
        float(bounds[1] - low[1]),
        float(high[0] - bounds[2]),
        float(high[1] - bounds[3]),
    )


def _foot(part: Level, usual: float) -> tuple[float, float, bool]:
    """Area of a foot (mm²), its narrowest side (mm), and whether it is without sharp corners.

    What lies between neighbouring lines and is narrower than half a width counts; a hole in the part does not.
    """
    grid = grid_over(part, usual, FINE)
    covered = drawn(grid, part.start, part.end, usual / 2)
    open_, many = ndimage.label(~covered)
    # a notch where lines meet a wall is no hole; a long gap between lines is none either, as no square is far from them
    hole = np.bincount(open_.ravel(), minlength=many + 1) * grid.cell**2 > NOTCH * usual**2
    rim = np.unique(np.concatenate([open_[0], open_[-1], open_[:, 0], open_[:, -1]]))
    hole[0], hole[rim] = False, False
    if hole.any():
        far = np.zeros(many + 1, dtype=bool)
        far[np.unique(open_[~drawn(grid, part.start, part.end, 0.75 * usual)])] = True
        hole &= far
    hole[rim[rim > 0]] = True
    area = float(np.count_nonzero(covered | ~hole[open_])) * grid.cell**2
    places = np.concatenate([part.start, part.end])
    try:
        places = places[ConvexHull(places).vertices]
    except QhullError:
        # all on one line
        return area, usual, False
    turns = np.linspace(0, math.pi, 90, endpoint=False)
    sides = np.ptp(places @ np.array([np.cos(turns), np.sin(turns)]), axis=0) + usual
    # a disc has the same breadth all round
    return area, float(sides.min()), float(sides.max()) < ROUNDISH * float(sides.min())


def _heights(found: Gathering, first: Level, owner: Indices, numbers: list[int]) -> list[float]:
    """How high each part grows: plastic belongs to the part whose foot is nearest."""
    if not numbers:
        return []
    box = [found.plastic[i].value for i in range(4)]
    low = np.clip(((np.array(box[:2]) - REACH[0]) / CELL).astype(np.intp) - 1, 0, None)
    high = np.clip(((np.array(box[2:]) - REACH[0]) / CELL).astype(np.intp) + 2, 0, found.highest.shape[0])
    map_ = found.highest[low[1] : high[1], low[0] : high[0]]
    seeds = np.zeros(map_.shape, dtype=np.int32)
    for i, number in enumerate(numbers, 1):
        _, place = along(first.chosen(owner == number), CELL / 2)
        column = np.clip(((place[:, 0] - REACH[0]) / CELL).astype(np.intp) - low[0], 0, map_.shape[1] - 1)
        row = np.clip(((place[:, 1] - REACH[0]) / CELL).astype(np.intp) - low[1], 0, map_.shape[0] - 1)
        seeds[row, column] = i
    near = ndimage.distance_transform_edt(seeds == 0, return_distances=False, return_indices=True)
    label = seeds[near[0], near[1]]
    height = np.zeros(len(numbers) + 1)
    np.maximum.at(height, label.ravel(), map_.ravel().astype(np.float64) - BASE)
    return [round(float(value), 3) for value in height[1:]]
