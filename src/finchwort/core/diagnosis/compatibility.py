"""Whether a surface suits a material, and at which temperatures."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import lower_first

NEEDS = {
    "release": "a release layer such as a thin coat of glue stick, because it may bond too well and tear the surface",
    "glue": "glue stick",
    "adhesive": "an adhesive",
    "slurry": "a slurry of the material itself",
}
NEAR = 2.0
"""A temperature this close to its range is within it, °C (ours)."""


@dataclass(frozen=True)
class Pair:
    """A material on a surface.

    Attributes
    ----------
    bed_low, bed_high : float or None
        Usual bed temperature, °C; none when unsuitable.
    need : str or None
        A key of ``NEEDS``.
    bonds : bool
        Unsuitable because it bonds too well.
    """

    bed_low: float | None
    bed_high: float | None
    need: str | None = None
    bonds: bool = False


@dataclass(frozen=True)
class Material:
    """A filament material; temperatures in °C, density in g/cm³; ``purge`` before each print."""

    name: str
    nozzle_low: float
    nozzle_high: float
    softens: float | None
    density: float | None = None
    purge: bool = False


@dataclass(frozen=True)
class Surface:
    """A kind of print surface and what holds on it."""

    key: str
    name: str
    pairs: Mapping[str, Pair]


@dataclass(frozen=True)
class Suit:
    """How a surface, a material and their temperatures go together.

    Attributes
    ----------
    state : {"good", "needs", "unsuitable", "unknown"}
    bed, nozzle : float or None
        Temperatures to begin with, °C.
    bed_range, nozzle_range : tuple of float or None
        °C
    remarks : tuple of str
        What to know, the gravest first.
    """

    state: str
    bed: float | None
    nozzle: float | None
    bed_range: tuple[float, float] | None
    nozzle_range: tuple[float, float] | None
    remarks: tuple[str, ...]


def suit(
    surface: Surface | None,
    material: Material | None,
    bed: float | None = None,
    nozzle: float | None = None,
) -> Suit:
    """Judge a combination and give the temperatures to begin with.

    Parameters
    ----------
    surface, material : optional
        What is not known is not judged.
    bed, nozzle : float, optional
        Temperatures set, °C; they are compared with the table.

    Returns
    -------
    Suit

    Examples
    --------
    >>> sheet = Surface("sheet", "Sheet", {"PLA": Pair(55, 65)})
    >>> found = suit(sheet, Material("PLA", 195, 220, 60), bed=40)
    >>> found.state, found.bed, found.nozzle
    ('good', 60.0, 205.0)
    >>> print(found.remarks[0])
    Bed at 40 °C is cold for PLA on sheet: 55 to 65 °C is usual.
    """
    nozzle_range = (material.nozzle_low, material.nozzle_high) if material else None
    start = _round5((nozzle_range[0] + nozzle_range[1]) / 2) if nozzle_range else None
    sentences: list[str] = []
    if (
        material
        and nozzle_range
        and nozzle is not None
        and not nozzle_range[0] - NEAR <= nozzle <= nozzle_range[1] + NEAR
    ):
        way = "cold" if nozzle < nozzle_range[0] else "hot"
        sentences.append(
            f"Nozzle at {nozzle:g} °C is {way} for {material.name}: {nozzle_range[0]:g} to {nozzle_range[1]:g} °C is usual."
        )
    if surface is None or material is None:
        return Suit("unknown", None, start, None, nozzle_range, tuple(sentences))
    pair = surface.pairs.get(material.name)
    where = f"{material.name} on {lower_first(surface.name)}"
    if surface.name[:2].isupper():
        where = f"{material.name} on {surface.name}"
    if pair is None or pair.bed_low is None or pair.bed_high is None:
        if pair is not None and pair.bonds:
            sentences.insert(0, f"{where} bonds too well and tears the surface. Take another surface.")
        else:
            sentences.insert(0, f"{where} is not a combination that holds. Take another surface.")
        return Suit("unsuitable", None, start, None, nozzle_range, tuple(sentences))
    if pair.need is not None and pair.need not in NEEDS:
        raise ChoiceError("diagnosis.nothing_known", need=pair.need)
    low, high = pair.bed_low, pair.bed_high
    if bed is not None and not low - NEAR <= bed <= high + NEAR:
        way = "cold" if bed < low else "hot"
        word = f"{low:g} to {high:g} °C is usual"
        sentences.insert(0, f"Bed at {bed:g} °C is {way} for {where}: {word}.")
    if pair.need:
        sentences.append(f"{where} needs {NEEDS[pair.need]}.")
    if material.purge:
        sentences.append(
            f"{material.name} oozes: purge before each print. Two clear lines are the sign that it may go on."
        )
    if bed is not None and material.softens and bed > material.softens + 15 and bed > high + NEAR:
        sentences.append(f"{material.name} softens near {material.softens:g} °C: the base will spread.")
    return Suit(
        "needs" if pair.need else "good",
        _round5((low + high) / 2),
        start,
        (low, high),
        nozzle_range,
        tuple(sentences),
    )


def _round5(value: float) -> float:
    return float(5 * round(value / 5 - 0.01))
