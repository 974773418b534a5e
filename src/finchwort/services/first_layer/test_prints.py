"""Test prints for a visit: from the strip, the printer's limits, the newest survey and what was judged so far."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.diagnosis import suit
from finchwort.core.first_layer import WALKS, Bead, Setting, TestPrint, make_test_print
from finchwort.knowledge import materials, surfaces
from finchwort.knowledge.dialect import mesh_commands
from finchwort.messages.remarks import words
from finchwort.services.first_layer.clearance import what_is_known
from finchwort.services.first_layer.offset_clues import refuse_pressed
from finchwort.services.first_layer.trials import judged_bed_of, ladders_of, zero_of
from finchwort.store.errors import ConflictError
from finchwort.store.models import Visit
from finchwort.store.printers.printers import bed_of, supports_of


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
    mesh_on, mesh_off : str
        Command that switches compensation on, or off where no mesh is known to hold; empty where there is none.
    made_for : tuple of str
        Offset, survey and mesh that it was made for, a line each.
    """

    made: TestPrint
    measured: bool
    mesh_on: str
    mesh_off: str
    made_for: tuple[str, ...]


def test_print_for(session: Session, visit: Visit, kind: str, wish: PrintWish) -> MadePrint:
    """Make a test print for a visit.

    Raises
    ------
    ChoiceError
        When it is not known how hot it is to be, or the kind is none.
    OutOfRangeError
        When it would do harm.
    UnknownGroundError
        When nobody knows where bed or tip are.
    ConflictError
        When a mesh is to be shown on a printer without one, or the newest strip would not move.
    """
    printer = visit.printer
    if kind == "mesh_walk" and printer.compensation == "none":
        raise ConflictError("This printer has no compensation to be seen at work.")
    if kind not in WALKS:
        refuse_pressed(session, printer)
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
    known = what_is_known(session, visit, zero_of(session, visit, bead))
    if kind == "mesh_walk" and not known.mesh_holds:
        text = words(known.mesh.outdated[0]) if known.mesh else "None was stored."
        raise ConflictError(f"No mesh is known to hold in this printer, so none can be seen at work. {text}")
    made = make_test_print(
        kind,
        setting,
        shifts=ladders_of(session, visit, bead).rungs
        if kind == "ladder" and not known.ground.refused
        else (),
        places=judged_bed_of(session, visit, bead, wish.side).places if kind == "discs" else (),
        screws=supports_of(printer),
        paper=wish.paper,
        ground=known.ground,
    )
    commands = {} if printer.compensation == "none" else mesh_commands(printer.dialect)
    on, off = (commands.get(name, "") for name in ("mesh_on", "mesh_off"))
    return MadePrint(
        made=made,
        measured=known.survey is not None,
        mesh_on=on if known.mesh_holds else "",
        mesh_off="" if known.mesh_holds else off,
        made_for=known.made_for,
    )


def _temperatures(visit: Visit, kind: str) -> tuple[float, float]:
    """Bed and nozzle by the strip, or by the table, °C."""
    usual = suit(surfaces().get(visit.surface_kind), materials().get(visit.material))
    bed = visit.bed_temperature if visit.bed_temperature is not None else usual.bed
    nozzle = visit.nozzle_temperature if visit.nozzle_temperature is not None else usual.nozzle
    if bed is None or (nozzle is None and kind not in WALKS):
        raise ChoiceError("first_layer.strip_above_surface_material")
    return bed, nozzle if nozzle is not None else 0.0
