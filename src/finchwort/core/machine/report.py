"""What a machine says of itself, held against the book: what changed since last time, and what was not expected."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from finchwort.core.base.remarks import Remark, remark
from finchwort.core.base.wording import millimetres

SAME_OFFSET = 0.006
"""Two offsets are one when they differ by no more: machines say them to the hundredth, mm."""
SAME_STEPS = 1e-4
"""Steps per mm that differ by a smaller share are the same: machines round them."""
SAME_MESH = 0.03
"""Two meshes are one while they differ by no more, root mean square without their means, mm (ours: three readings' noise)."""
AXES = ("x", "y", "z", "e")
Rows = tuple[tuple[float, ...], ...]


@dataclass(frozen=True)
class Told:
    """What a machine said of itself.

    Attributes
    ----------
    firmware, machine : str
        Name and version of its programme, and what it calls itself; empty when it does not say.
    abilities : mapping of str to bool
        What it says it can and cannot do.
    offset : float or None
        Z offset, mm, in its own sign.
    steps : mapping of str to float
        Steps per mm by axis.
    compensation : bool or None
        Whether it follows its mesh now.
    mesh : tuple of rows or None
        Heights of its mesh, front row first, mm; no rows when it says that it has none.
    """

    firmware: str = ""
    machine: str = ""
    abilities: Mapping[str, bool] = field(default_factory=dict)
    offset: float | None = None
    steps: Mapping[str, float] = field(default_factory=dict)
    compensation: bool | None = None
    mesh: Rows | None = None


@dataclass(frozen=True)
class Book:
    """What is written down of the same machine.

    Attributes
    ----------
    before : Told or None
        What it said last time.
    offset : float or None
        That should stand in the machine, mm.
    mesh : tuple of rows or None
        That should be in it, front row first, mm.
    """

    before: Told | None = None
    offset: float | None = None
    mesh: Rows | None = None


@dataclass(frozen=True)
class Compared:
    """One thing a machine said, beside the book.

    Attributes
    ----------
    name : {"firmware", "offset", "mesh", "compensation", "steps"}
    says, book : str
        In words; empty where nobody says anything.
    state : {"same", "other", "new", "untold"}
        new: there is nothing in the book to hold it against.
    remark : Remark or None
        What to make of it; None when all is as it should be.
    event : str or None
        What happened, in the words of `finchwort.core.events`, when it is not as it was.
    """

    name: str
    says: str
    book: str
    state: str
    remark: Remark | None = None
    event: str | None = None


def compare(told: Told, book: Book) -> tuple[Compared, ...]:
    """Hold what a machine says against the book.

    Examples
    --------
    >>> found = compare(Told(offset=-1.75), Book(offset=-1.45))
    >>> [(one.name, one.state, one.event) for one in found if one.state == "other"]
    [('offset', 'other', 'offset')]
    """
    return (
        _firmware(told, book),
        _offset(told, book),
        _mesh(told, book),
        _compensation(told, book),
        _steps(told, book),
    )


def _firmware(told: Told, book: Book) -> Compared:
    before = book.before.firmware if book.before else ""
    if not told.firmware:
        return Compared("firmware", "", before, "untold")
    if not before:
        return Compared("firmware", told.firmware, "", "new")
    if before == told.firmware:
        return Compared("firmware", told.firmware, before, "same")
    text = remark("machine.other_firmware")
    return Compared("firmware", told.firmware, before, "other", text, "firmware")


def _offset(told: Told, book: Book) -> Compared:
    there = "" if book.offset is None else millimetres(book.offset, signed=True)
    if told.offset is None:
        return Compared("offset", "", there, "untold")
    says = millimetres(told.offset, signed=True)
    if book.offset is None:
        return Compared("offset", says, "", "new", remark("machine.offset_not_written"))
    if abs(told.offset - book.offset) <= SAME_OFFSET:
        return Compared("offset", says, there, "same")
    text = remark("machine.other_offset", apart=abs(told.offset - book.offset))
    return Compared("offset", says, there, "other", text, "offset")


def _mesh(told: Told, book: Book) -> Compared:
    there = _size(book.mesh) if book.mesh else ""
    if told.mesh is None:
        return Compared("mesh", "", there, "untold")
    says = _size(told.mesh) if told.mesh else "none"
    if not book.mesh:
        return Compared("mesh", says, "", "new")
    if not told.mesh:
        return Compared("mesh", says, there, "other", remark("machine.mesh_gone"), "mesh")
    mine, its = np.array(book.mesh), np.array(told.mesh)
    if mine.shape != its.shape:
        return Compared("mesh", says, there, "other", remark("machine.mesh_other_points"), "mesh")
    apart = float(np.std(its - mine))
    if apart <= SAME_MESH:
        return Compared("mesh", says, there, "same")
    text = remark("machine.mesh_differs", apart=apart)
    return Compared("mesh", says, there, "other", text, "mesh")


def _compensation(told: Told, book: Book) -> Compared:
    if told.compensation is None:
        return Compared("compensation", "", "", "untold")
    says = "on" if told.compensation else "off"
    if told.compensation or not book.mesh:
        return Compared("compensation", says, "", "same" if book.mesh else "new")
    text = remark("machine.mesh_not_followed")
    return Compared("compensation", says, "on, where the mesh is used", "other", text)


def _steps(told: Told, book: Book) -> Compared:
    before = book.before.steps if book.before else {}
    if not told.steps:
        return Compared("steps", "", _axes(before), "untold")
    says = _axes(told.steps)
    if not before:
        return Compared("steps", says, "", "new")
    other = [
        axis
        for axis in AXES
        if axis in told.steps
        and axis in before
        and abs(told.steps[axis] - before[axis]) > SAME_STEPS * abs(before[axis])
    ]
    if not other:
        return Compared("steps", says, _axes(before), "same")
    text = remark("machine.other_steps", axes=tuple(axis.upper() for axis in other))
    return Compared("steps", says, _axes(before), "other", text, "steps" if set(other) - {"e"} else None)


def _size(mesh: Rows) -> str:
    heights = np.array(mesh)
    return f"{heights.shape[1]} × {heights.shape[0]} points, {millimetres(float(np.ptp(heights)))} from lowest to highest"


def _axes(steps: Mapping[str, float]) -> str:
    return ", ".join(f"{axis.upper()} {steps[axis]:g}" for axis in AXES if axis in steps)
