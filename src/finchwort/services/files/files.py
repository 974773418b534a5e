"""Files of prints: kept, looked through, and their first layer foretold."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.files import (
    Pieces,
    Placement,
    Preflight,
    PrintFile,
    PrintForecast,
    angles_for,
    cut_in_pieces,
    forecast_print,
    place_print,
    preflight,
)
from finchwort.core.first_layer import Stage
from finchwort.core.surveys import Relief
from finchwort.formats.print_file import pack_print, unpack_print
from finchwort.knowledge import materials, surfaces
from finchwort.services.files.target import newest_survey, newest_visit, target_of
from finchwort.services.first_layer.offsets import relief_of
from finchwort.services.tramming.planning import plan_for
from finchwort.store.errors import ConflictError, StaleError
from finchwort.store.files.files import get_file
from finchwort.store.files.models import PrintFileRecord
from finchwort.store.models import Printer, SurveyRecord
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.records import sent_before
from finchwort.store.surveys.surveys import load_taken

MOST_PACKED = 14_000_000
"""Bytes that are kept of a file at most."""
TAKEN = "This file was sent before and deleted since. Drop it again."
DENSITY = 1.24
"""Of a material that nobody named, g/cm³: that of PLA (handbook value, from memory)."""


@dataclass(frozen=True)
class Wanted:
    """Where a print is to be made, as a person says it.

    Attributes
    ----------
    printer_id : int or None
    surface : str
    material : str
    nozzle : float or None
        mm
    price : float or None
        Of a kilogram.
    """

    printer_id: int | None = None
    surface: str = ""
    material: str = ""
    nozzle: float | None = None
    price: float | None = None


@dataclass(frozen=True, eq=False)
class Looked:
    """A file with what was found in it.

    Attributes
    ----------
    record : PrintFileRecord
    print_ : PrintFile
    preflight : Preflight
    grams : float
    cost : float or None
        Of a failure, at most.
    survey : SurveyRecord or None
        The newest of its printer.
    stages : tuple of Stage
        Beds that can be looked at.
    """

    record: PrintFileRecord
    print_: PrintFile
    preflight: Preflight
    grams: float
    cost: float | None
    survey: SurveyRecord | None
    stages: tuple[Stage, ...]


def keep_file(
    session: Session, found: PrintFile, name: str, digest: str, wanted: Wanted, client_key: str
) -> PrintFileRecord:
    """Keep what was read of a file; sent twice with one key it is kept once.

    Surface and material come from the printer's newest visit where nobody says them, the material first from the file.

    Raises
    ------
    NotFoundError, KeyTakenError, OutOfRangeError
    """
    known = sent_before(session, PrintFileRecord, client_key, TAKEN, digest=digest)
    if known is not None:
        return known
    printer = get_printer(session, wanted.printer_id) if wanted.printer_id is not None else None
    visit = newest_visit(session, printer) if printer else None
    packed = pack_print(found)
    if len(packed) > MOST_PACKED:
        raise OutOfRangeError("files.layer_too_fine", most=len(found.layer))
    record = PrintFileRecord(
        printer_id=printer.id if printer else None,
        name=name[:120] or "print",
        digest=digest,
        surface_kind=wanted.surface or (visit.surface_kind if visit else ""),
        material=wanted.material or found.stated.material or (visit.material if visit else ""),
        nozzle=wanted.nozzle or found.stated.nozzle,
        price=wanted.price,
        minutes=found.seconds / 60,
        volume=found.volume,
        parts=len(found.parts),
        packed=packed,
        client_key=client_key,
    )
    session.add(record)
    session.flush()
    return record


def change_file(session: Session, file_id: int, version: int, wanted: Wanted) -> PrintFileRecord:
    """Say where a print is to be made.

    Raises
    ------
    NotFoundError, StaleError, ChoiceError
    """
    record = get_file(session, file_id)
    if record.version != version:
        raise StaleError("This file was changed elsewhere since you opened it.")
    if wanted.surface and wanted.surface not in surfaces():
        raise ChoiceError("formats.not", value=wanted.surface, names=", ".join(surfaces()))
    if wanted.material and wanted.material not in materials():
        raise ChoiceError("formats.not", value=wanted.material, names=", ".join(materials()))
    surface, material = wanted.surface, wanted.material
    if wanted.printer_id is not None:
        printer = get_printer(session, wanted.printer_id)
        visit = newest_visit(session, printer) if wanted.printer_id != record.printer_id else None
        if visit is not None:
            # what lies on the new printer, unless somebody said otherwise
            surface, material = surface or visit.surface_kind, material or visit.material
    record.printer_id = wanted.printer_id
    record.surface_kind, record.material = surface, material
    record.nozzle, record.price = wanted.nozzle, wanted.price
    session.flush()
    return record


def look_at(session: Session, record: PrintFileRecord) -> Looked:
    """Look through a file for where it is to be printed."""
    found = unpack_print(record.packed)
    # a printer that was deleted since says nothing any more
    printer = record.printer if record.printer is not None and record.printer.deleted_at is None else None
    target = target_of(session, printer, record.surface_kind, record.material, record.nozzle, record.price)
    density = (target.material.density if target.material else None) or DENSITY
    grams = found.grams(density)
    survey = newest_survey(session, printer) if printer else None
    return Looked(
        record,
        found,
        preflight(found, target),
        grams,
        None if record.price is None else grams * record.price / 1000,
        survey,
        _stages(printer) if survey is not None and printer is not None else (),
    )


def _stages(printer: Printer) -> tuple[Stage, ...]:
    stages = [Stage.MEASURED]
    if printer.screws:
        stages.append(Stage.PLAN)
    if printer.compensation != "none":
        stages.append(Stage.COMPENSATED)
    return tuple(stages)


def bed_at(session: Session, record: PrintFileRecord, stage: Stage) -> tuple[Relief, SurveyRecord]:
    """Return the heights that the nozzle will meet, and the survey they come from.

    Raises
    ------
    ConflictError
        When the file has no printer, the printer no survey, or no such stage.
    """
    if record.printer_id is None:
        raise ConflictError("Say which printer it is for: the bed belongs to it.")
    printer = get_printer(session, record.printer_id)
    survey = newest_survey(session, printer)
    if survey is None:
        raise ConflictError("This bed was not measured yet. The forecast needs readings.")
    if stage not in _stages(printer):
        raise ConflictError(
            "This bed has no screws to turn." if stage is Stage.PLAN else "This printer has no compensation."
        )
    kind = printer.compensation if stage is Stage.COMPENSATED else "none"
    relief = relief_of(session, survey, kind)
    if stage is Stage.PLAN:
        relief = relief.plus(*plan_for(session, survey).change)
    return relief, survey


def mesh_area(
    session: Session, survey: SurveyRecord, stage: Stage
) -> tuple[float, float, float, float] | None:
    """Return how far a mesh of these readings reaches (x_min, y_min, x_max, y_max in mm); None where none counts."""
    if stage is not Stage.COMPENSATED or survey.visit.printer.compensation != "mesh":
        return None
    counting = load_taken(session, survey.id).counting()
    x, y = counting.x, counting.y
    return float(x.min()), float(y.min()), float(x.max()), float(y.max())


def foretell(
    session: Session, record: PrintFileRecord, stage: Stage, shift: float = 0.0
) -> tuple[PrintFile, Pieces, PrintForecast, SurveyRecord]:
    """Foretell the first layer along its lines, the offset being right in the middle but for a shift (mm, away positive)."""
    found = unpack_print(record.packed)
    relief, survey = bed_at(session, record, stage)
    pieces = cut_in_pieces(found.layer)
    return found, pieces, forecast_print(pieces, found.parts, relief, relief.middle + shift), survey


def find_places(
    session: Session, record: PrintFileRecord, stage: Stage, shift: float = 0.0, part: int | None = None
) -> tuple[PrintFile, Placement]:
    """Find where a print, or one part of it, would hold best on the bed of its printer.

    Raises
    ------
    ConflictError, ChoiceError, OutOfRangeError
    """
    found = unpack_print(record.packed)
    relief, survey = bed_at(session, record, stage)
    bed = bed_of(survey.visit.printer)
    return found, place_print(
        found.layer,
        relief,
        bed,
        relief.middle + shift,
        part=part,
        angles=angles_for(found.parts, part),
    )


def digest_of() -> Any:
    """Begin the digest by which the same file is known again."""
    return hashlib.sha256()
