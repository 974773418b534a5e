"""What to do about the shape that no screw takes out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.wording import millimetres
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
class Remedy:
    """One way to deal with what is left.

    Attributes
    ----------
    kind : one of ``KINDS``
    title : str
    sentence : str
    fits : bool
        Whether it is the way that fits; the others are shown with the reason why not, or later.
    consequences : tuple of str
        What comes with it.
    """

    kind: str
    title: str
    sentence: str
    fits: bool
    consequences: tuple[str, ...] = ()


@dataclass(frozen=True)
class Glass:
    """What a sheet of glass on top brings with it.

    Attributes
    ----------
    thickness : float
        mm; the Z switch moves up by as much.
    weight : float
        g
    minutes : float
        Added heating time by a usual heater, min.
    """

    thickness: float
    weight: float
    minutes: float


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
    return Glass(thickness, weight, weight * GLASS_HEAT * WARMING / HEATER / 60)


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
        results.append(Remedy("probe_again", "Probe again first", odd[0].sentence, True))
    good = share <= GOOD_SHARE
    mendable = share <= COMPENSATE_SHARE
    amount = f"{millimetres(peak_to_valley)} is {100 * share:.0f} % of a {first_layer:.2f} mm first layer"
    results.append(
        Remedy(
            "leave",
            "Fine as it is",
            f"{amount}; up to {100 * GOOD_SHARE:.0f} % needs nothing."
            + ("" if good else " It is more, so a large print will show it."),
            good and not odd,
        )
    )
    results.append(_compensate(amount, good, mendable, compensation, bool(odd)))
    beyond = not good and not (mendable and compensation == "mesh") and not odd
    results.append(_shim(pads, beyond))
    glass = glass_on_top(*plate)
    under = f" {fault}" if fault else ""
    results.append(
        Remedy(
            "glass",
            "A sheet of glass on top",
            f"Glass is flat and bridges an uneven carrier.{under}",
            beyond and not pads,
            (
                f"Move the Z switch up by the glass's thickness ({glass.thickness:g} mm) before you home.",
                f"A sheet of {plate[0]:g} × {plate[1]:g} mm weighs {glass.weight:.0f} g; a bed that moves rings more.",
                f"It takes about {glass.minutes:.0f} min longer to warm up.",
                "Glass edges cut: gloves, and have it cut and its edges ground. Let it cool before you lift it.",
            ),
        )
    )
    results.append(
        Remedy(
            "replace",
            "Another plate",
            "When the plate itself is bent and none of the others will do. Lay a straightedge on the plate and on the bare "
            "carrier first: it tells which of the two it is.",
            beyond and share > 2 * COMPENSATE_SHARE and not pads,
        )
    )
    return tuple(sorted(results, key=lambda item: not item.fits))


def _compensate(amount: str, good: bool, mendable: bool, kind: str, odd: bool) -> Remedy:
    title = "Compensation"
    if kind == "mean":
        text = "This machine applies only the mean of its points: the whole bed moves up or down, tilt and shape stay as they are."
        return Remedy("compensation", title, text, False)
    if kind == "none":
        text = f"{amount}; compensation would deal with it, but this machine has none."
        return Remedy("compensation", title, text if mendable else "This machine has none.", False)
    if good:
        return Remedy("compensation", title, "Not needed, though it does no harm.", False)
    if mendable:
        return Remedy(
            "compensation",
            title,
            f"{amount}; a mesh deals with up to {100 * COMPENSATE_SHARE:.0f} %.",
            not odd,
        )
    text = f"{amount}; more than a mesh should carry (up to {100 * COMPENSATE_SHARE:.0f} %)."
    return Remedy("compensation", title, text, False)


def _shim(pads: bool, beyond: bool) -> Remedy:
    if pads:
        return Remedy(
            "shims", "Shims under the pads", "Foil under the pads bends or tips the plate back.", beyond
        )
    text = "Foil or tape between plate and carrier, under the low places of a loose plate."
    return Remedy("shims", "Shims or tape under the plate", text, beyond)
