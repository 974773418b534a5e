"""A print is begun: what is known of it beforehand, and how often it will be looked at."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.prints import (
    QUARTER_HOURS,
    SLENDER,
    PrintOrigin,
    hazard_rate,
    is_slender,
    look_every,
)
from finchwort.formats.print_file import unpack_print
from finchwort.knowledge import materials
from finchwort.services.files.facts import facts_of
from finchwort.services.files.files import DENSITY
from finchwort.services.printers.printers import count_print
from finchwort.services.visits.visits import STRIP, usual_strip
from finchwort.store.errors import ConflictError
from finchwort.store.files.files import get_file
from finchwort.store.machine.locks import lock_printer
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import get_printer
from finchwort.store.prints.models import PrintRun
from finchwort.store.prints.prints import failures_after, open_prints
from finchwort.store.records import sent_before, utcnow
from finchwort.store.visits.logbook import write_entry
from finchwort.store.visits.standing import newest_visit
from finchwort.store.visits.visits import get_visit

ENDING = re.compile(r"(\.[A-Za-z]{1,6}){1,2}\Z")
"""What the name of a file ends with says nothing of the part."""
LONGEST_AGO = timedelta(days=7)
"""A print that began longer ago is not written down as one that runs (ours)."""
TRAVEL_SHARE = 1.15
"""A first layer takes so many times as long as its lines: ways between them (ours)."""
TAKEN = "Another print was begun with this key, or it was taken back since."


@dataclass(frozen=True)
class Proposed:
    """What a print would be begun with.

    Attributes
    ----------
    origin : PrintOrigin
    name : str
    strip : dict
        Surface, its kind, material, temperatures (°C) and first layer (mm).
    settings : dict
        Of its file, by the names that a case gives them.
    minutes, layer_minutes : float or None
        How long it takes, and its first layer.
    grams, price : float or None
        Of the print; price of a kilogram.
    """

    origin: PrintOrigin
    name: str
    strip: dict[str, Any]
    settings: dict[str, Any] = field(default_factory=dict)
    minutes: float | None = None
    layer_minutes: float | None = None
    grams: float | None = None
    price: float | None = None


def propose_print(
    session: Session,
    printer: Printer,
    file_id: int | None = None,
    visit_id: int | None = None,
    test: bool = False,
) -> Proposed:
    """Say with what a print would be begun: its file first, then the visit, then what the printer usually has.

    Raises
    ------
    NotFoundError, ConflictError
    """
    visit = _visit_for(session, printer, visit_id)
    strip = {name: getattr(visit, name) for name in STRIP} if visit is not None else usual_strip(printer)
    strip = {"first_layer": printer.first_layer} | strip
    if file_id is None:
        origin = (
            PrintOrigin.TEST if test else PrintOrigin.VISIT if visit_id is not None else PrintOrigin.PLAIN
        )
        return Proposed(origin, "", strip)
    record = get_file(session, file_id)
    found = unpack_print(record.packed)
    facts = facts_of(found) | {"file": record.name}
    if record.nozzle is not None:
        facts["hole"] = record.nozzle
    said = {
        "material": record.material,
        "bed_temperature": found.bed,
        "nozzle_temperature": found.nozzle,
        "first_layer": round(found.layer.height, 3),
    }
    material = materials().get(record.material)
    laying = (found.layer.length / found.layer.speed).sum() / 60
    return Proposed(
        PrintOrigin.FILE,
        ENDING.sub("", record.name),
        strip | {name: value for name, value in said.items() if value},
        facts,
        minutes=round(found.seconds / 60, 1),
        layer_minutes=round(float(laying) * TRAVEL_SHARE, 1),
        grams=round(found.grams((material.density if material else None) or DENSITY), 1),
        price=record.price,
    )


def begin_print(
    session: Session,
    printer_id: int,
    *,
    client_key: str,
    file_id: int | None = None,
    visit_id: int | None = None,
    test: bool = False,
    ago: float = 0.0,
    at: datetime | None = None,
    **told: Any,
) -> PrintRun:
    """Write down that a print was begun, and count it on its surface.

    Parameters
    ----------
    file_id, visit_id : int, optional
        From which it is printed.
    test : bool
        Whether it is a test print of that visit.
    ago : float
        So many minutes ago.
    at : datetime, optional
        When it began, instead of ``ago``.
    **told
        What is otherwise than proposed: ``name``, what a setup bar has, ``minutes``, ``grams``, ``price``.

    Raises
    ------
    NotFoundError, ConflictError, KeyTakenError, OutOfRangeError
    """
    lock_printer(session, printer_id)
    printer = get_printer(session, printer_id)
    known = sent_before(session, PrintRun, client_key, TAKEN, printer_id=printer_id, file_id=file_id)
    if known is not None:
        return known
    if open_prints(session, printer_id):
        raise ConflictError(f"Another print runs on {printer.name} by the book. Tell what came of it first.")
    if not 0 <= ago * 60 <= LONGEST_AGO.total_seconds():
        raise OutOfRangeError("prints.began_ago", days=LONGEST_AGO.days)
    proposed = propose_print(session, printer, file_id, visit_id, test)
    strip = proposed.strip | {name: told[name] for name in STRIP if name in told}
    strip = _with_kind(printer, strip, kind_told="surface_kind" in told)
    rate = hazard_rate(*failures_after(session, printer_id, 60 * QUARTER_HOURS))
    feet = [proposed.settings.get(name) for name in ("foot_width", "foot_depth", "part_height")]
    slender = is_slender(feet[0], feet[1], feet[2])
    began = at or utcnow() - timedelta(minutes=ago)
    surface = count_print(printer, strip["surface"], 1)
    print_ = PrintRun(
        printer_id=printer_id,
        visit_id=visit_id,
        file_id=file_id,
        origin=proposed.origin.value,
        name=told.get("name") or proposed.name,
        **{name: strip[name] for name in STRIP},
        settings=proposed.settings,
        grams=told.get("grams", proposed.grams),
        price=told.get("price", proposed.price),
        minutes=told.get("minutes", proposed.minutes),
        layer_minutes=proposed.layer_minutes,
        slender=slender,
        failures=rate.failures,
        failure_hours=rate.hours,
        look_every=look_every(rate.per_hour * (SLENDER if slender else 1.0)),
        surface_prints=surface.prints_since_wash - 1 if surface else None,
        surface_coats=surface.coats if surface else None,
        started_at=began,
        client_key=client_key,
    )
    session.add(print_)
    session.flush()
    write_entry(
        session,
        "print",
        f"Print begun: {print_.name or 'without a name'}",
        made_with(print_),
        at=began,
        printer=printer,
        visit=get_visit(session, visit_id) if visit_id is not None else None,
        subject=print_,
    )
    session.refresh(print_)
    return print_


def made_with(print_: PrintRun) -> str:
    """Say with what a print was begun, in one line."""
    parts = [print_.material, print_.surface and f"on “{print_.surface}”"]
    parts += [
        f"{name} {value:g} °C"
        for name, value in (("bed", print_.bed_temperature), ("nozzle", print_.nozzle_temperature))
        if value is not None
    ]
    return ", ".join(part for part in parts if part)


def change_print(session: Session, print_: PrintRun, **told: Any) -> PrintRun:
    """Set right with what a print was begun; the count goes to another surface with it."""
    strip = {name: getattr(print_, name) for name in STRIP}
    wanted = _with_kind(print_.printer, strip | {name: told[name] for name in STRIP if name in told})
    if wanted["surface"] != print_.surface:
        if print_.surface_prints is not None:
            count_print(print_.printer, print_.surface, -1)
        surface = count_print(print_.printer, wanted["surface"], 1)
        print_.surface_prints = surface.prints_since_wash - 1 if surface else None
        print_.surface_coats = surface.coats if surface else None
    for name in STRIP:
        setattr(print_, name, wanted[name])
    for name in ("name", "minutes", "grams", "price", "note"):
        if name in told:
            setattr(print_, name, told[name])
    session.flush()
    return print_


def _with_kind(printer: Printer, strip: dict[str, Any], kind_told: bool = False) -> dict[str, Any]:
    """A surface of the printer brings its own kind."""
    kinds = {surface.name: surface.kind for surface in printer.surfaces}
    return strip | ({} if kind_told else {"surface_kind": kinds.get(strip["surface"], strip["surface_kind"])})


def _visit_for(session: Session, printer: Printer, visit_id: int | None) -> Visit | None:
    if visit_id is None:
        return newest_visit(session, printer.id)
    visit = get_visit(session, visit_id)
    if visit.printer_id != printer.id:
        raise ConflictError("That visit was at another printer.")
    return visit


def age_of(print_: PrintRun, now: datetime) -> float:
    """Say how long ago a print was begun, minutes."""
    return (now - print_.started_at).total_seconds() / 60
