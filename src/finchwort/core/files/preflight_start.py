"""What a file does before it lays plastic, and after: homing, compensation, offsets, waiting, cooling."""

from __future__ import annotations

import re
from collections.abc import Iterator

from finchwort.core.base.remarks import remark
from finchwort.core.files.commands import Command
from finchwort.core.files.kinds import LineRole, Told, Weight
from finchwort.core.files.print_file import PrintFile
from finchwort.core.files.target import Finding, Target

BEGINS = re.compile(r"START|BEGIN|PREPARE|INIT|HOME|PRIME|PURGE", re.IGNORECASE)
"""A command with a name of its own that may do what is looked for: nobody sees from here what is in it."""
HEATED = 35.0
"""A bed set lower than this is not heated, °C (ours)."""


def start_findings(print_: PrintFile, target: Target) -> Iterator[Finding]:
    """Say what the start and the end of the file do, and leave out."""
    first = print_.first_line
    start = [one for one in print_.commands if one.line < first]
    hidden = any(one.what is Told.UNKNOWN and BEGINS.search(one.text.split()[0]) for one in start)
    yield from _homing(start, hidden, target, print_.first_line)
    yield from _offsets(print_, start)
    yield from _heat(print_, start, hidden)
    if not print_.length_of(LineRole.SKIRT) and not print_.length_of(LineRole.PURGE) and not hidden:
        yield Finding(Weight.MIND, remark("files.no_purge"), first)
    for one in print_.commands:
        if one.what is Told.PAUSE and one.line > first:
            yield Finding(Weight.MIND, remark("files.pauses"), one.line)
            break
    if not print_.ended:
        code = "files.stays_hot" if print_.nozzle else "files.no_end"
        said = remark("files.stays_hot") if code == "files.stays_hot" else remark("files.no_end")
        yield Finding(Weight.CHANGE if print_.nozzle else Weight.MIND, said, print_.lines)


def _last(commands: list[Command], *whats: Told) -> Command | None:
    return next((one for one in reversed(commands) if one.what in whats), None)


def _homing(start: list[Command], hidden: bool, target: Target, first: int) -> Iterator[Finding]:
    home = _last(start, Told.HOME)
    on = _last(start, Told.MESH_ON)
    probed = _last(start, Told.PROBE)
    if home is None:
        if not hidden:
            yield Finding(Weight.CHANGE, remark("files.no_home"), first)
        return
    if probed is not None:
        yield Finding(Weight.MIND, remark("files.probes_first"), probed.line)
        if probed.line < home.line:
            yield Finding(Weight.CHANGE, remark("files.home_after_probing"), home.line)
    if on is not None and on.line < home.line:
        yield Finding(Weight.CHANGE, remark("files.home_after_mesh"), home.line)
    elif on is not None and target.compensation == "none":
        yield Finding(Weight.MIND, remark("files.mesh_not_there"), on.line)
    elif on is None and probed is None and target.mesh_holds and not hidden:
        yield Finding(Weight.CHANGE, remark("files.mesh_left_off"), home.line)
    off = _last(start, Told.MESH_OFF)
    if off is not None and target.mesh_holds and (on is None or on.line < off.line):
        yield Finding(Weight.CHANGE, remark("files.mesh_switched_off"), off.line)


def _offsets(print_: PrintFile, start: list[Command]) -> Iterator[Finding]:
    offsets = [one for one in print_.commands if one.what is Told.OFFSET and one.value]
    if len(offsets) > 1:
        total = sum(one.value for one in offsets)
        yield Finding(
            Weight.CHANGE, remark("files.offset_twice", times=len(offsets), total=total), offsets[1].line
        )
    elif offsets:
        yield Finding(Weight.MIND, remark("files.offset_in_file", value=offsets[0].value), offsets[0].line)


def _heat(print_: PrintFile, start: list[Command], hidden: bool) -> Iterator[Finding]:
    for whats, wait, none, not_waited in (
        (
            (Told.NOZZLE, Told.NOZZLE_WAIT),
            Told.NOZZLE_WAIT,
            remark("files.no_nozzle_heat"),
            remark("files.nozzle_not_waited"),
        ),
        (
            (Told.BED, Told.BED_WAIT),
            Told.BED_WAIT,
            remark("files.no_bed_heat"),
            remark("files.bed_not_waited"),
        ),
    ):
        set_ = _last(start, *whats)
        if set_ is None or not set_.value > 0:
            if not hidden:
                weight = Weight.CHANGE if wait is Told.NOZZLE_WAIT else Weight.MIND
                yield Finding(weight, none, print_.first_line)
        elif set_.value > HEATED:
            waited = [one for one in start if one.what is wait]
            if not waited and not hidden:
                yield Finding(Weight.CHANGE, not_waited, set_.line)
