"""Whether a print stays where plastic and tip may go."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from finchwort.core.base.geometry import Column
from finchwort.core.base.remarks import remark
from finchwort.core.files.kinds import ROLES, LineRole, Weight
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import Finding, Target
from finchwort.core.printers import Bed, KeepOff

SIDES = ("left", "front", "right", "back")
SLACK = 0.05
"""So little beyond the edge is rounding, mm."""
CLIP_ROOM = 2.0
"""The tip with what surrounds it keeps so far from a clip, mm (ours)."""
FAR_WAY = 5.0
"""Ways so far beyond the printable area are worth a word; parking places lie just outside, mm (ours)."""


def place_findings(print_: PrintFile, target: Target) -> Iterator[Finding]:
    """Say what lies beyond the printable area, or where something stands in the way."""
    bed = target.bed
    if bed is None:
        yield Finding(Weight.ASK, remark("files.ask_bed"))
        return
    limits = (bed.x_min, bed.y_min, bed.x_max, bed.y_max)
    purge_out = _purge_outside(print_, limits)
    half = print_.line_width / 2
    for side, (name, limit, furthest) in enumerate(zip(SIDES, limits, print_.plastic, strict=True)):
        beyond = half + (limit - furthest.value if side < 2 else furthest.value - limit)
        if beyond > SLACK:
            if furthest.line in purge_out:
                said = remark("files.purge_outside", side=name, beyond=beyond)
                yield Finding(Weight.MIND, said, furthest.line)
            else:
                said = remark("files.outside", side=name, beyond=beyond)
                yield Finding(Weight.CHANGE, said, furthest.line)
    for side, (name, limit, furthest) in enumerate(zip(SIDES, limits, print_.ways, strict=True)):
        beyond = limit - furthest.value if side < 2 else furthest.value - limit
        if beyond > FAR_WAY:
            yield Finding(Weight.MIND, remark("files.way_outside", side=name, beyond=beyond), furthest.line)
    yield from _in_the_way(print_, bed)


def _purge_outside(print_: PrintFile, limits: tuple[float, float, float, float]) -> set[int]:
    layer = print_.layer
    aside = (layer.role == ROLES.index(LineRole.PURGE)) | (layer.role == ROLES.index(LineRole.SKIRT))
    ends = layer.end[aside]
    out = (
        (ends[:, 0] < limits[0])
        | (ends[:, 1] < limits[1])
        | (ends[:, 0] > limits[2])
        | (ends[:, 1] > limits[3])
    )
    return set(layer.line[aside][out].tolist())


def _in_the_way(print_: PrintFile, bed: Bed) -> Iterator[Finding]:
    layer = print_.layer
    for place in bed.keep_off:
        hits = crossing(layer.start, layer.end, place)
        if hits.any():
            at = int(np.argmax(hits))
            role = ROLES[int(layer.role[at])]
            yield Finding(
                Weight.CHANGE,
                remark("files.over_clip", name=place.name, role=str(role)),
                int(layer.line[at]),
            )
            continue
        low = print_.low.lowest_in(place.grown(CLIP_ROOM))
        if low is not None and low.value < place.height:
            yield Finding(
                Weight.CHANGE,
                remark("files.way_through_clip", name=place.name, z=low.value, height=place.height),
                low.line,
            )


def crossing(start: Column, end: Column, place: KeepOff) -> Column:
    """Say which straight ways pass over a place to keep off, or close to it (Liang and Barsky).

    Parameters
    ----------
    start, end : ndarray, shape (n, 2)
        mm
    place : KeepOff

    Returns
    -------
    ndarray of bool, shape (n,)
    """
    box = place.grown(CLIP_ROOM)
    low, high = np.zeros(len(start)), np.ones(len(start))
    for axis, (least, most) in enumerate(((box[0], box[2]), (box[1], box[3]))):
        way = end[:, axis] - start[:, axis]
        flat = way == 0
        safe = np.where(flat, 1.0, way)
        first, second = (least - start[:, axis]) / safe, (most - start[:, axis]) / safe
        near, far = np.minimum(first, second), np.maximum(first, second)
        within = (start[:, axis] > least) & (start[:, axis] < most)
        low = np.where(flat, np.where(within, low, 2.0), np.maximum(low, near))
        high = np.where(flat, high, np.minimum(high, far))
    return low < high
