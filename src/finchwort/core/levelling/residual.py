"""What to do about the shape that no screw takes out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.levelling.kinds import ResidualRemedy
from finchwort.core.surveys import COMPENSATE_SHARE, GOOD_SHARE, Odd, check_first_layer

GLASS = 4.0
"""A usual sheet of glass, mm (common practice)."""
GLASS_DENSITY = 2.5e-3
"""Of soda-lime glass, g/mm³ (from memory)."""
GLASS_HEAT = 0.84
"""Specific heat of soda-lime glass, J/(g K) (from memory)."""
HEATER = 200.0
"""A usual bed heater, W (from memory); only to give an idea of the time."""
WARMING = 40.0
"""From the room to a usual bed temperature, K."""
KINDS = tuple(ResidualRemedy)


@dataclass(frozen=True)
class Glass:
    """What a sheet of glass on top brings with it.

    Attributes
    ----------
    width, depth : float
        mm
    thickness : float
        mm; the Z switch moves up by as much.
    weight : float
        g
    minutes : float
        Added heating time by a usual heater, min.
    """

    width: float
    depth: float
    thickness: float
    weight: float
    minutes: float


@dataclass(frozen=True)
class Remedy:
    """One way to deal with what is left.

    Attributes
    ----------
    kind : one of ``KINDS``
    remark : Remark
        What it does here, or why it does not fit.
    fits : bool
        Whether it is the way that fits; the others are shown with the reason why not, or later.
    on_pads : bool
        Of shims: under the pads, not under a loose plate.
    glass : Glass or None
        What a sheet of glass brings with it.
    """

    kind: str
    remark: Remark
    fits: bool
    on_pads: bool = False
    glass: Glass | None = None


def glass_on_top(width: float, depth: float, thickness: float = GLASS) -> Glass:
    """Work out what a sheet of glass brings with it.

    Parameters
    ----------
    width, depth, thickness : float
        mm

    Returns
    -------
    Glass

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> round(glass_on_top(220, 220, 4).weight)
    484
    """
    if not all(map(math.isfinite, (width, depth, thickness))) or min(width, depth) <= 0:
        raise OutOfRangeError("levelling.sheet_glass_width_depth")
    if not 0.5 <= thickness <= 12:
        raise OutOfRangeError("levelling.sheet_glass_printer_mm")
    weight = width * depth * thickness * GLASS_DENSITY
    return Glass(width, depth, thickness, weight, weight * GLASS_HEAT * WARMING / HEATER / 60)


def remedies(
    peak_to_valley: float,
    first_layer: float,
    plate: tuple[float, float],
    *,
    odd: Sequence[Odd] = (),
    compensation: str = "none",
    pads: bool = False,
    fault: str | None = None,
) -> tuple[Remedy, ...]:
    """Say what to do about the shape that is left, the fitting way first.

    Parameters
    ----------
    peak_to_valley : float
        Flatness once the tilt is out, mm.
    first_layer : float
        mm
    plate : (float, float)
        Width and depth of the plate, mm.
    odd : sequence of Odd
        Readings that do not fit their neighbours.
    compensation : {"none", "mean", "mesh"}
        What this machine's compensation really does.
    pads : bool
        Whether the plate rests on pads that take shims.
    fault : str, optional
        What a straightedge said about plate and carrier.

    Returns
    -------
    tuple of Remedy

    Examples
    --------
    >>> [r.kind for r in remedies(0.08, 0.2, (220, 220)) if r.fits]
    ['leave']
    >>> [r.kind for r in remedies(0.08, 0.1, (220, 220), compensation="mesh") if r.fits]
    ['compensation']
    """
    check_first_layer(first_layer)
    share = peak_to_valley / first_layer
    results: list[Remedy] = []
    if odd:
        results.append(Remedy("probe_again", remark("levelling.probe_again", why=odd[0].sentence), True))
    good = share <= GOOD_SHARE
    mendable = share <= COMPENSATE_SHARE
    left = {"left": peak_to_valley, "share": share, "first_layer": first_layer}
    results.append(Remedy("leave", remark("levelling.leave", **left, good=good), good and not odd))
    wanted = not good and mendable and not odd and compensation == "mesh"
    text = remark("levelling.compensation", **left, good=good, mendable=mendable, kind=compensation)
    results.append(Remedy("compensation", text, wanted))
    beyond = not good and not (mendable and compensation == "mesh") and not odd
    text = remark("levelling.shims_under_pads" if pads else "levelling.shims_under_plate")
    results.append(Remedy("shims", text, beyond, on_pads=pads))
    glass = glass_on_top(*plate)
    text = remark("levelling.glass", fault=fault or "")
    results.append(Remedy("glass", text, beyond and not pads, glass=glass))
    worst = beyond and share > 2 * COMPENSATE_SHARE and not pads
    results.append(Remedy("replace", remark("levelling.another_plate"), worst))
    return tuple(sorted(results, key=lambda item: not item.fits))
