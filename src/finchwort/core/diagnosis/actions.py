"""Remedies with the numbers of this printer, and what an experiment lets one conclude."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.wording import lower_first, millimetres
from finchwort.core.diagnosis.evidence import Known
from finchwort.core.diagnosis.part_check import SLOW, Brim

USUAL_TRIM = 0.04
"""An offset is trimmed by so much where nothing was measured, mm (common practice: steps of 0.01 to 0.05)."""
MAX_TRIM = 0.3
"""More than this is not a trim, mm (ours)."""


@dataclass(frozen=True)
class Wanted:
    """What is changed, from what to what.

    Attributes
    ----------
    what : str
    before, after : str
        Empty where no number is known.
    prediction : str
        What is seen when this was the cause.
    """

    what: str
    before: str
    after: str
    prediction: str


def number_remedy(number: str, known: Known, brim: Brim | None = None) -> Wanted:
    """Give a remedy its numbers.

    Parameters
    ----------
    number : str
        Which number the cause's remedy wants (knowledge/causes.toml); empty for none.
    known : Known
    brim : Brim, optional
        Of the part, when it was described.

    Returns
    -------
    Wanted

    Examples
    --------
    >>> number_remedy("bed_to_table", Known(bed=40, bed_range=(55, 65))).after
    '60 °C'
    >>> number_remedy("offset_closer", Known(offset_error=0.06)).after
    '0.06 mm closer'
    """
    good = "The same print holds, and the signs are gone."
    if number in ("offset_closer", "offset_farther"):
        error = (known.offset_error or 0.0) + (known.gap_error or 0.0)
        right = error > 0.005 if number == "offset_closer" else error < -0.005
        amount = min(abs(error), MAX_TRIM) if right else USUAL_TRIM
        way = "closer" if number == "offset_closer" else "farther"
        return Wanted(
            "Z offset",
            "as it is",
            f"{millimetres(amount)} {way}",
            "Lines join to one even sheet."
            if way == "closer"
            else "The ridges go, the layer is no longer see-through.",
        )
    if number == "bed_to_table" and known.bed_range:
        middle = 5 * round((known.bed_range[0] + known.bed_range[1]) / 10)
        before = "" if known.bed is None else f"{known.bed:.0f} °C"
        return Wanted("Bed", before, f"{middle:.0f} °C", good)
    if number == "slower":
        return Wanted(
            "First-layer speed", "", f"{SLOW:.0f} mm/s", "No more gaps and blobs in the first layer."
        )
    if number == "fan_off":
        return Wanted("Part fan, first layer", "on", "off", "Corners stay down, lines join.")
    if number == "brim":
        after = (
            f"{brim.width:.0f} mm wide, {max(1, brim.layers)} layer{'s' if brim.layers > 1 else ''}"
            if brim and brim.width
            else "5 mm wide"
        )
        return Wanted("Brim", "none", after, "The part stands to the end; the brim is cut off.")
    if number == "turns":
        return Wanted("Bed screws", "", "by the plan of the newest survey", "Both sides look the same.")
    if number == "offset_anew":
        return Wanted("Z offset", "", "found again by paper and a ladder", "The whole bed is right again.")
    if number == "steps":
        return Wanted(
            "Steps per mm", "", "as the extrusion sums say", "Lines as wide as sliced, at every height."
        )
    return Wanted("", "", "", good)


def conclude(better: bool, cause: str, others: Sequence[str]) -> str:
    """Say what an experiment lets one conclude.

    Parameters
    ----------
    better : bool
    cause : str
        Its name.
    others : sequence of str
        What else was changed at the same time.

    Examples
    --------
    >>> conclude(True, "Bed too cold", [])
    'It was this: bed too cold.'
    >>> print(conclude(True, "Bed too cold", ["washed the plate"]))
    It is better, and nobody can say why: bed too cold was treated together with washed the plate. Undo one of them to find out.
    """
    name = f"{lower_first(cause)}"
    if others:
        also = " and ".join(others)
        if better:
            return f"It is better, and nobody can say why: {name} was treated together with {also}. Undo one of them to find out."
        return f"Neither {name} nor what was changed with it ({also}) was enough by itself or together."
    if better:
        return f"It was this: {name}."
    return (
        f"It was not this alone: {name}. Put it back as it was, unless the table says otherwise, and go on."
    )
