"""What a copy of a file says of itself at its head, and what is said of it before it is made."""

from __future__ import annotations

import re
from datetime import datetime
from typing import Protocol

from finchwort.core.base.wording import millimetres
from finchwort.core.files import Allowed, Bend, Change, CopyChange, CopyKind, Limits, Place, Shift
from finchwort.core.printers import Bed
from finchwort.messages.files import move_words

CHANGES = {
    CopyChange.SPEED: ("speed of the first layer", "mm/s"),
    CopyChange.FAN: ("part fan in the first layer", "%"),
    CopyChange.NOZZLE: ("nozzle in the first layer, and until the file sets it again", "C"),
    CopyChange.BED: ("bed in the first layer, and until the file sets it again", "C"),
    CopyChange.OFFSET: ("Z offset", "mm"),
}


class Bent(Protocol):
    """What a bent copy came to; see `finchwort.formats.print_file.Bender`."""

    bend: Bend
    limits: Limits
    least: float
    lowest: float
    up: float
    down: float
    fastest: float


def _made(name: str, how: str, at: datetime) -> str:
    return f"Copy of {name}, {how}. Made by Finchwort on {at:%Y-%m-%d}."


def bent_head(name: str, printer: str, measured: datetime | None, at: datetime, found: Bent) -> list[str]:
    """Say what a bent copy is, what it does, and where its limits are."""
    when = f" as measured on {measured:%Y-%m-%d}" if measured else ""
    bend, limits = found.bend, found.limits
    return [
        _made(name, f"bent to the bed of {printer}{when}", at),
        f"Up to Z {bend.full:.3f} mm the path follows the bed, fading out until Z {bend.top:.2f} mm. Above that nothing is changed.",
        f"Added to Z: {found.down:+.3f} to {found.up:+.3f} mm. Lowest Z {found.lowest:.3f} mm. "
        f"Smallest gap to the plate {found.least:.3f} mm. Fastest change {found.fastest:.1f} mm/s.",
        f"Limits: gap at least {limits.clear:.3f} mm, change of Z at most {limits.z_speed:.1f} mm/s in steps of {bend.step:g} mm.",
        "Only for this printer with this plate, its offset right in the middle of the bed, and no mesh switched on.",
        "After a screw was turned or the plate changed: measure again and make a new copy.",
    ]


def moved_head(name: str, printer: str, at: datetime, shift: Shift, bed: Bed, part: str = "") -> list[str]:
    """Say what a moved copy is, and where its limits are."""
    keep = ", ".join(place.name for place in bed.keep_off)
    turned = f", turned to the left by {90 * shift.turn} degrees first" if shift.turn else ""
    way = (
        move_words(Place(shift.dx, shift.dy, 90 * shift.turn % 360, 0.0))
        or f"{shift.dx:+.2f}, {shift.dy:+.2f} mm"
    )
    # parts without a name are called part 1, part 2
    named = part if part.startswith("part ") else f"part {part}"
    return [
        _made(name, f"its {named if part else 'print'} moved on the bed of {printer}: {way}", at),
        f"X {shift.dx:+.3f} mm, Y {shift.dy:+.3f} mm{turned}. "
        + ("Everything else" if part else "What comes before the print and after it")
        + " stays where it was.",
        f"Limits: X {bed.x_min:g} to {bed.x_max:g} mm, Y {bed.y_min:g} to {bed.y_max:g} mm"
        + (f", clear of {keep}." if keep else "."),
    ]


def changed_head(name: str, printer: str, at: datetime, change: Change, allowed: Allowed) -> list[str]:
    """Say what one thing is otherwise in a copy."""
    what, unit = CHANGES[change.kind]
    if change.kind is CopyChange.OFFSET:
        way = "away from the plate" if change.value > 0 else "closer to the plate"
        how = f"{what} moved by {abs(change.value):.3f} mm {way}, by one G92 before the first layer"
    else:
        how = f"{what}: {allowed.now:g} {unit} before, {change.value:g} {unit} now"
    return [
        _made(name, f"one thing changed for {printer}", at),
        f"Changed: {how}. All else is as it was.",
        f"Limits: {allowed.least:g} to {allowed.most:g} {unit}. One change at a time: compare it with the file it was made from.",
    ]


def copy_name(name: str, kind: CopyKind) -> str:
    """Name the file of a copy.

    Examples
    --------
    >>> copy_name("nest box.gcode.gz", CopyKind.BENT)
    'nest-box-bent.gcode'
    """
    stem = re.sub(r"(\.(gcode|gco|g|gc|nc|ngc|tap|txt|zip|gz))+$", "", name, flags=re.IGNORECASE)
    return f"{re.sub(r'[^A-Za-z0-9._-]+', '-', stem).strip('-.') or 'print'}-{kind}.gcode"


def bend_sentence(before: float, after: float, up: float, down: float) -> str:
    """Say what a bent copy would do to the first layer.

    Examples
    --------
    >>> bend_sentence(0.714, 0.99, 0.02, -0.13)
    'Bent to this bed, 99 % of the first layer will be good instead of 71 %. Its path goes up to 0.02 mm above and 0.13 mm below that of the file.'
    """
    ways = [f"{millimetres(up)} above"] if up >= 0.005 else []
    ways += [f"{millimetres(-down)} below"] if down <= -0.005 else []
    text = f"Bent to this bed, {round(100 * after)} % of the first layer will be good instead of {round(100 * before)} %."
    return f"{text} Its path goes up to {' and '.join(ways)} that of the file." if ways else text
