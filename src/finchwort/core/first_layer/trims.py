"""How the Z offset is trimmed when material, surface, plate or heating change."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.wording import millimetres, shift_in_words

UNHEATED = 30.0
"""A bed at or below this counts as not heated, °C (ours)."""
SAME = 0.005
"""Less than this is no trim, mm: machines count in hundredths."""
THICKEST = 20.0
"""mm"""


@dataclass(frozen=True)
class Trim:
    """What is usual for a material, a surface, or a bed that is not heated.

    Attributes
    ----------
    key, why : str
    closer : (float, float)
        Range, mm, positive closer.
    materials, surfaces : tuple of str
        Where it applies; empty for all.
    heated : bool or None
        Whether the bed has to be heated, or not, for it to apply.
    tag : str
        Where it comes from: "P" common practice.
    """

    key: str
    closer: tuple[float, float]
    why: str
    materials: tuple[str, ...] = ()
    surfaces: tuple[str, ...] = ()
    heated: bool | None = None
    tag: str = "P"


@dataclass(frozen=True)
class Conditions:
    """What an offset was found for, or is used for; what is not known is not compared.

    Attributes
    ----------
    material, surface_kind : str
    bed_temperature : float or None
        °C
    plate : float or None
        Thickness of the plate that lies on, mm.
    first_layer : float or None
        mm
    """

    material: str = ""
    surface_kind: str = ""
    bed_temperature: float | None = None
    plate: float | None = None
    first_layer: float | None = None


@dataclass(frozen=True)
class Advice:
    """One reason to trim, or not to.

    Attributes
    ----------
    closer : (float, float) or None
        Range, mm, positive closer; None where nothing is to be changed.
    sentence : str
    tag : str
        "P" common practice, "D" follows from geometry.
    """

    closer: tuple[float, float] | None
    sentence: str
    tag: str


def applies(trim: Trim, at: Conditions) -> bool:
    """Tell whether a trim is usual under some conditions."""
    if trim.materials and at.material not in trim.materials:
        return False
    if trim.surfaces and at.surface_kind not in trim.surfaces:
        return False
    if trim.heated is None:
        return True
    return at.bed_temperature is not None and (at.bed_temperature > UNHEATED) == trim.heated


def advise_trims(
    then: Conditions, now: Conditions, trims: Sequence[Trim], *, senses: str = ""
) -> tuple[Advice, ...]:
    """Say how an offset found under some conditions is trimmed for others.

    Parameters
    ----------
    then, now : Conditions
    trims : sequence of Trim
        See `finchwort.knowledge.trims`.
    senses : {"", "surface", "metal", "field"}
        What the probe feels that finds Z = 0, see `finchwort.core.probing.SENSES`; empty without one.

    Returns
    -------
    tuple of Advice
        Empty when nothing changed.

    Raises
    ------
    OutOfRangeError
        When a thickness is none.

    Examples
    --------
    >>> table = [Trim("sticky", (-0.05, -0.02), "It clings.", materials=("PETG",))]
    >>> advice = advise_trims(Conditions("PLA"), Conditions("PETG"), table)
    >>> advice[0].closer, advice[0].sentence
    ((-0.05, -0.02), 'Go 0.02 to 0.05 mm farther for PETG. It clings.')
    >>> advise_trims(Conditions("PETG"), Conditions("PLA"), table)[0].sentence
    'Go 0.02 to 0.05 mm closer: what PETG needed is not needed now. It clings.'
    """
    results = []
    for trim in trims:
        before, after = _judged(trim, then, now)
        if before == after:
            continue
        low, high = trim.closer if after else (-trim.closer[1], -trim.closer[0])
        what = _what(trim, now if after else then)
        text = f"for {what}." if after else f": what {what} needed is not needed now."
        joint = " " if after else ""
        results.append(Advice((low, high), f"{_go(low, high)}{joint}{text} {trim.why}", trim.tag))
    results += _plate(then, now, senses)
    if then.first_layer and now.first_layer and abs(then.first_layer - now.first_layer) > 1e-9:
        results.append(
            Advice(
                None,
                f"No change for a first layer of {millimetres(now.first_layer)} instead of {millimetres(then.first_layer)}: "
                "the slicer lifts the tip by the layer height itself, from the same zero.",
                "D",
            )
        )
    return tuple(results)


def total_trim(advice: Sequence[Advice]) -> str | None:
    """Say what several trims come to together; None while there are fewer than two.

    Examples
    --------
    >>> total_trim([Advice((-0.05, -0.02), "", "P"), Advice((0.02, 0.05), "", "P")])
    'Together: between 0.03 mm farther and 0.03 mm closer; nothing to begin with.'
    >>> total_trim([Advice((0.02, 0.05), "", "P"), Advice((0.02, 0.02), "", "P")])
    'Together: 0.04 to 0.07 mm closer.'
    """
    ranges = [item.closer for item in advice if item.closer is not None]
    if len(ranges) < 2:
        return None
    low, high = (sum(ends) for ends in zip(*ranges, strict=True))
    if low < -SAME and high > SAME:
        middle = (low + high) / 2
        begin = "nothing" if abs(middle) < SAME else shift_in_words(-round(middle, 2))
        return f"Together: between {millimetres(-low)} farther and {millimetres(high)} closer; {begin} to begin with."
    if max(abs(low), abs(high)) < SAME:
        return "Together: nothing, they cancel."
    return f"Together: {_go(low, high).removeprefix('Go ')}."


def _judged(trim: Trim, then: Conditions, now: Conditions) -> tuple[bool, bool]:
    """Whether it applied then and applies now; the same where it is not known."""
    if trim.materials and not (then.material and now.material):
        return False, False
    if trim.surfaces and not (then.surface_kind and now.surface_kind):
        return False, False
    if trim.heated is not None and None in (then.bed_temperature, now.bed_temperature):
        return False, False
    return applies(trim, then), applies(trim, now)


def _what(trim: Trim, at: Conditions) -> str:
    if trim.heated is False:
        return "a bed that is not heated"
    return at.material if trim.materials else "a rough plate"


def _plate(then: Conditions, now: Conditions, senses: str) -> list[Advice]:
    if then.plate is None or now.plate is None:
        return []
    for thickness in (then.plate, now.plate):
        if not (math.isfinite(thickness) and 0 < thickness <= THICKEST):
            raise OutOfRangeError("first_layer.plate_up_mm_thick", thickest=THICKEST)
    thicker = round(now.plate - then.plate, 4)
    if abs(thicker) < SAME:
        return []
    way = "thicker" if thicker > 0 else "thinner"
    amount = millimetres(abs(thicker))
    if senses == "surface":
        return [
            Advice(
                None,
                f"The plate is {amount} {way}, but the probe touches its surface and finds Z = 0 there: no change for that.",
                "D",
            )
        ]
    if senses:
        return [_unseen(thicker, amount, senses)]
    go = "farther" if thicker > 0 else "closer"
    switch = " The Z switch may have to be moved by as much." if abs(thicker) > 1 else ""
    return [Advice((-thicker, -thicker), f"Go {amount} {go}: the plate is that much {way}.{switch}", "D")]


def _unseen(thicker: float, amount: str, senses: str) -> Advice:
    """Another plate under a probe that does not touch it: nothing brings the tip closer, and nobody relies on it."""
    feels = (
        "the probe feels metal and looks through glass and sheets"
        if senses == "metal"
        else "what the probe feels depends on the plate's material and on damp"
    )
    way = "thicker" if thicker > 0 else "thinner"
    if thicker > 0:
        return Advice(
            (-thicker, -thicker),
            f"DANGER: the plate is {amount} thicker, and {feels}. As far as anybody knows it does not see this plate: homing "
            f"could drive the tip {amount} into it, and no stored offset prevents that. Motors off, set the probe lower against "
            f"the tip by {amount} at least before the first homing; a probe that cannot feel so far must not home on this plate. "
            f"Then go {amount} farther and set zero by paper from above, with a hand on the power switch.",
            "D",
        )
    return Advice(
        None,
        f"The plate is {amount} {way}, and {feels}. Nobody knows what it sees now: change nothing, and set zero by paper from above.",
        "D",
    )


def _go(low: float, high: float) -> str:
    way = "closer" if high > 0 else "farther"
    small, large = sorted((abs(low), abs(high)))
    if large - small < SAME:
        return f"Go {millimetres(large)} {way}"
    return f"Go {small:.2f} to {millimetres(large)} {way}"
