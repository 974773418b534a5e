"""Printers as they are set up: their rows, and the same as objects of the core."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.levelling import Foil, Pad
from finchwort.core.printers import Bed, KeepOff, Screw
from finchwort.store.errors import NotFoundError
from finchwort.store.models import Printer, Workshop


def bed_of(printer: Printer) -> Bed:
    """Return the bed of a printer."""
    size = (printer.width, printer.depth, printer.origin, printer.plate_width, printer.plate_depth)
    return Bed(*size, keep_off_of(printer.keep_off))


def keep_off_of(places: Iterable[Mapping[str, Any]]) -> tuple[KeepOff, ...]:
    """Return places to keep off from their stored fields."""
    return tuple(KeepOff(**place) for place in places)


def screws_of(printer: Printer) -> list[Screw]:
    """Return the screws of a printer."""
    return [
        Screw(s.name, s.x, s.y, s.pitch, printer.tightening_lowers, printer.divisions) for s in printer.screws
    ]


def list_printers(session: Session) -> list[Printer]:
    """Return all printers that are not deleted, by name."""
    query = select(Printer).where(Printer.deleted_at.is_(None)).order_by(Printer.name, Printer.id)
    return list(session.scalars(query))


def get_printer(session: Session, printer_id: int, *, deleted: bool = False) -> Printer:
    """Return a printer.

    Raises
    ------
    NotFoundError
    """
    printer = session.get(Printer, printer_id)
    if printer is None or (printer.deleted_at is not None and not deleted):
        raise NotFoundError("There is no such printer. It may have been deleted.")
    return printer


def get_workshop(session: Session, *, lock: bool = False) -> Workshop:
    """Return the workshop; until it has a name of its own it is not stored, and its version is 0."""
    query = select(Workshop).order_by(Workshop.id).limit(1)
    if lock:
        query = query.with_for_update().execution_options(populate_existing=True)
    workshop = session.scalars(query).first()
    return workshop or Workshop(name="My workshop", version=0, foils=[])


def foils_of(workshop: Workshop) -> list[Foil]:
    """Return the foil in the drawer; pieces under pads are not counted."""
    return [Foil(f["thickness"], f["count"], f.get("roll", False)) for f in workshop.foils or []]


def pads_of(printer: Printer) -> list[Pad]:
    """Return a printer's pads with the foils that lie there."""
    return [Pad(p["name"], p["x"], p["y"], tuple(p.get("foils", ()))) for p in printer.pads]


def supports_of(printer: Printer) -> list[tuple[str, float, float]]:
    """Screws, or pads, by name and place, mm."""
    return [(screw.name, screw.x, screw.y) for screw in printer.screws] or [
        (pad["name"], pad["x"], pad["y"]) for pad in printer.pads
    ]


def features_of(printer: Printer) -> list[str]:
    """What a walk round this printer must look at, see `finchwort.core.probing.FEATURES`."""
    features = []
    if printer.screws:
        features.append("screws")
    if printer.pads:
        features.append("pads")
    if printer.beam_screws:
        features.append(f"beam{printer.beam_screws}")
    if printer.probe_kind != "none":
        features.append("probe")
    return features
