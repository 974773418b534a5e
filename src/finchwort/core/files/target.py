"""Where a print is to be made, and what was found about it."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.base.remarks import Remark
from finchwort.core.diagnosis import Material, Surface
from finchwort.core.files.kinds import Weight
from finchwort.core.printers import Bed

USUAL_NOZZLE = 0.4
"""Hole of a nozzle that nobody named, mm (common practice)."""


@dataclass(frozen=True)
class Target:
    """Printer, surface and material; None where nobody knows.

    Attributes
    ----------
    bed : Bed or None
    surface : Surface or None
    material : Material or None
    nozzle : float or None
        Hole of the nozzle, mm.
    compensation : {"none", "mean", "mesh"} or None
        What the printer can do.
    mesh_holds : bool
        Whether a mesh is stored that holds.
    mesh_on : str
        Command that switches compensation on, for the sentence.
    hottest_bed, hottest_nozzle : float or None
        Limits of the printer, °C.
    price : float or None
        Of a kilogram.
    """

    bed: Bed | None = None
    surface: Surface | None = None
    material: Material | None = None
    nozzle: float | None = None
    compensation: str | None = None
    mesh_holds: bool = False
    mesh_on: str = ""
    hottest_bed: float | None = None
    hottest_nozzle: float | None = None
    price: float | None = None


@dataclass(frozen=True)
class Finding:
    """One thing found.

    Attributes
    ----------
    weight : Weight
    said : Remark
    line : int or None
        Of the file, counted from 1.
    part : str
        Name of the part it is about; empty for the whole print.
    """

    weight: Weight
    said: Remark
    line: int | None = None
    part: str = ""

    @property
    def code(self) -> str:
        """What was found, without its area."""
        return self.said.code.partition(".")[2]
