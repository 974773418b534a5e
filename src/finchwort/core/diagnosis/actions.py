"""Remedies with the numbers of this printer, and what an experiment lets one conclude."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.wording import lower_first, millimetres
from finchwort.core.diagnosis.evidence import Known
from finchwort.core.diagnosis.kinds import Came, as_came
from finchwort.core.diagnosis.part_check import SLOW, Brim

STEP = 0.02
"""A step of the walk where nothing was measured, mm (common practice: steps of 0.01 to 0.05)."""
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
    closer : float or None
        By how much the tip comes closer, mm, where the offset is trimmed; less than nothing for farther.
    """

    what: str
    before: str
    after: str
    prediction: str
    closer: float | None = None


def number_remedy(number: str, known: Known, brim: Brim | None = None, *, alarm: bool = False) -> Wanted:
    """Give a remedy its numbers.

    Parameters
    ----------
    number : str
        Which number the cause's remedy wants (knowledge/causes.toml); empty for none.
    known : Known
    brim : Brim, optional
        Of the part, when it was described.
    alarm : bool
        While one stands nothing is trimmed under a print: zero is found again from above.

    Returns
    -------
    Wanted

    Examples
    --------
    >>> number_remedy("bed_to_table", Known(bed=40, bed_range=(55, 65))).after
    '60 °C'
    >>> number_remedy("offset_closer", Known(offset_error=0.06)).after
    '0.06 mm closer'
    >>> number_remedy("offset_farther", Known(), alarm=True).closer is None
    True
    """
    good = "The same print holds, and the signs are gone."
    if number in ("offset_closer", "offset_farther"):
        return _trim(number == "offset_closer", known, alarm)
    if number == "bed_to_table" and known.bed_range:
        middle = 5 * round((known.bed_range[0] + known.bed_range[1]) / 10)
        before = "" if known.bed is None else f"{known.bed:.0f} °C"
        return Wanted("Bed", before, f"{middle:.0f} °C", good)
    if number == "slower":
        before = "" if known.speed is None else f"{known.speed:.0f} mm/s"
        return Wanted(
            "First-layer speed", before, f"{SLOW:.0f} mm/s", "No more gaps and blobs in the first layer."
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
    if number == "mesh_new":
        return Wanted("Mesh", "", "surveyed again, at printing temperature", good)
    if number == "wash":
        return Wanted(
            "Plate", "", "washed with hot water and plain soap, untouched since", "The bare spots are gone."
        )
    if number == "soak":
        return Wanted("Wait before the first print", "", "10 min at temperature", good)
    if number == "cooler":
        before = "" if known.nozzle is None else f"{known.nozzle:.0f} °C"
        after = "5 °C cooler" if known.nozzle is None else f"{known.nozzle - 5:.0f} °C"
        return Wanted("Nozzle", before, after, "No more strings and drops.")
    if number == "offset_anew":
        return Wanted("Z offset", "", "found again by paper and a ladder", "The whole bed is right again.")
    if number == "steps":
        return Wanted(
            "Steps per mm", "", "as the extrusion sums say", "Lines as wide as sliced, at every height."
        )
    return Wanted("", "", "", good)


def _trim(closer: bool, known: Known, alarm: bool) -> Wanted:
    """A step of the offset: what the patches say, or one small step, and from above once the tip has scraped."""
    good = "Lines join to one even sheet." if closer else "The ridges go, the layer is no longer see-through."
    if alarm:
        return Wanted("Z offset", "as it is", "found again with paper, from above", good)
    error = known.offset_error or 0.0
    right = error > 0.005 if closer else error < -0.005
    amount = min(abs(error), MAX_TRIM) if right else STEP
    way = "closer" if closer else "farther"
    return Wanted("Z offset", "as it is", f"{millimetres(amount)} {way}", good, amount if closer else -amount)


def conclude(came: str | bool, cause: str, others: Sequence[str], walks: bool = False) -> str:
    """Say what an experiment lets one conclude.

    Parameters
    ----------
    came : str
        See `finchwort.core.diagnosis.Came`.
    cause : str
        Its name.
    others : sequence of str
        What else was changed at the same time.
    walks : bool
        Whether the remedy goes on in small steps.

    Examples
    --------
    >>> conclude("better", "Bed too cold", [])
    'It was this: bed too cold.'
    >>> print(conclude("better", "Bed too cold", ["washed the plate"]))
    It is better, and nobody can say why: bed too cold was treated together with washed the plate. Undo one of them to find out.
    """
    came, name = as_came(came), lower_first(cause)
    if others:
        also = " and ".join(others)
        if came == Came.BETTER:
            return f"It is better, and nobody can say why: {name} was treated together with {also}. Undo one of them to find out."
        return f"Neither {name} nor what was changed with it ({also}) was enough by itself or together."
    if came == Came.LITTLE and walks:
        return f"A little better: the way is right ({name}). Another step of the same size."
    if came == Came.LITTLE:
        return f"A little better: {name} is a part of it. Leave it so, and look for the other part."
    if came == Came.BETTER:
        return f"It was this: {name}."
    return f"It was not this: {name}. Put it back as it was, unless the table says otherwise, and go on."
