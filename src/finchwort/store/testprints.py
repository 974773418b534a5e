"""Test prints for a visit: from the strip, the printer's limits, the newest survey and what was judged so far."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from finchwort.core.bead import Bead
from finchwort.core.errors import ChoiceError
from finchwort.core.suiting import suit
from finchwort.core.testprints import WALKS, Setting, TestPrint, make_test_print
from finchwort.knowledge import materials, mesh_commands, surfaces
from finchwort.store.errors import ConflictError
from finchwort.store.models import Visit
from finchwort.store.offsets import met_relief
from finchwort.store.printers import bed_of
from finchwort.store.trials import judged_bed_of, ladders_of


@dataclass(frozen=True)
class PrintWish:
    """What is wanted of a test print; mm."""

    width: float = 0.42
    filament: float = 1.75
    paper: float = 0.1
    side: int = 5


@dataclass(frozen=True, eq=False)
class MadePrint:
    """A test print of a visit.

    Attributes
    ----------
    made : TestPrint
    measured : bool
        Whether a survey told where the bed is high.
    mesh_on : str
        Command that switches compensation on; empty where there is none.
    """

    made: TestPrint
    measured: bool
    mesh_on: str


def test_print_for(session: Session, visit: Visit, kind: str, wish: PrintWish) -> MadePrint:
    """Make a test print for a visit.

    Raises
    ------
    ChoiceError
        When it is not known how hot it is to be, or the kind is none.
    OutOfRangeError
        When it would do harm.
    ConflictError
        When a mesh is to be shown on a printer without one.
    """
    printer = visit.printer
    if kind == "mesh_walk" and printer.compensation == "none":
        raise ConflictError("This printer has no compensation to be seen at work.")
    bead = Bead(wish.width, visit.first_layer)
    bed_temperature, nozzle_temperature = _temperatures(visit, kind)
    material = materials().get(visit.material)
    setting = Setting(
        bed=bed_of(printer),
        bead=bead,
        bed_temperature=bed_temperature,
        nozzle_temperature=nozzle_temperature,
        most_bed=printer.most_bed,
        most_nozzle=printer.most_nozzle,
        filament=wish.filament,
        lift=printer.lift,
        density=material.density if material else None,
    )
    relief = met_relief(session, visit)
    ladders = ladders_of(session, visit, bead)
    made = make_test_print(
        kind,
        setting,
        shifts=ladders.rungs,
        places=judged_bed_of(session, visit, bead, wish.side).places if kind == "discs" else (),
        screws=[(screw.name, screw.x, screw.y) for screw in printer.screws],
        paper=wish.paper,
        relief=relief,
        zero=0.0 if ladders.found is None else -ladders.found.best,
    )
    commands = mesh_commands().get(printer.dialect, {})
    on = "" if printer.compensation == "none" else commands.get("mesh_on", "")
    return MadePrint(made, relief is not None, on)


def _temperatures(visit: Visit, kind: str) -> tuple[float, float]:
    """Bed and nozzle by the strip, or by the table, °C."""
    usual = suit(surfaces().get(visit.surface_kind), materials().get(visit.material))
    bed = visit.bed_temperature if visit.bed_temperature is not None else usual.bed
    nozzle = visit.nozzle_temperature if visit.nozzle_temperature is not None else usual.nozzle
    if bed is None or (nozzle is None and kind not in WALKS):
        raise ChoiceError(
            "Say on the strip above which surface and material, or how hot bed and nozzle are to be."
        )
    return bed, nozzle if nozzle is not None else 0.0
