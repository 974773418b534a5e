"""Z offsets as they were kept."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.first_layer import (
    Ledger,
)
from finchwort.core.probing import SENSES
from finchwort.store.first_layer.models import OffsetRecord
from finchwort.store.models import Entry, Printer, Visit
from finchwort.store.visits.events import happened_since, mark_of
from finchwort.store.visits.logbook import tells_of

BY_HAND = ("knobs", "switch")
"""Corrections that change no number: the bed, or the switch, was moved."""
MAX_HISTORY = 50
THICKER = 0.005
"""A plate that is thicker by more is another one for a probe that may not see it, mm."""


def newest_offset(session: Session, printer_id: int, before: datetime | None = None) -> OffsetRecord | None:
    """Return what counts now, or counted at some time."""
    query = select(OffsetRecord).where(
        OffsetRecord.printer_id == printer_id, OffsetRecord.deleted_at.is_(None)
    )
    if before is not None:
        query = query.where(OffsetRecord.made_at < before)
    return session.scalars(
        # a clock may jump back, a number does not
        query.order_by(OffsetRecord.id.desc()).limit(1)
    ).first()


def made_by_hand(session: Session, printer_id: int, mark: int) -> float:
    """How much closer tip and bed were brought by knobs or switch after a line of the logbook, mm."""
    query = (
        select(OffsetRecord)
        .join(Entry, tells_of(OffsetRecord))
        .where(
            OffsetRecord.printer_id == printer_id,
            OffsetRecord.deleted_at.is_(None),
            OffsetRecord.reason.in_(BY_HAND),
            Entry.id > mark,
        )
    )
    return float(sum(record.data.get("by_hand", 0.0) for record in session.scalars(query)))


def list_offsets(session: Session, printer_id: int) -> list[OffsetRecord]:
    """Return a printer's offsets, newest first."""
    query = (
        select(OffsetRecord)
        .where(OffsetRecord.printer_id == printer_id, OffsetRecord.deleted_at.is_(None))
        .order_by(OffsetRecord.id.desc())
        .limit(MAX_HISTORY)
    )
    return list(session.scalars(query))


def ledger_of(record: OffsetRecord | None, printer: Printer) -> Ledger:
    """Return the parts of an offset; with nothing written down, zero where the printer keeps it."""
    if record is None:
        return Ledger(dict.fromkeys(printer.offset_kept or ["printer"], 0.0), printer.closer_is)
    return Ledger(record.parts, record.closer_is)


def _plate_of(printer: Printer, surface: str) -> float | None:
    """Thickness of the surface of that name, mm."""
    return next((item.thickness for item in printer.surfaces if item.name == surface), None)


def plate_thicker(session: Session, visit: Visit) -> float | None:
    """How much thicker today's plate is than the one the newest offset was found on, mm; None when nobody knows."""
    newest = newest_offset(session, visit.printer_id)
    then, now = (newest.data.get("plate") if newest else None), _plate_of(visit.printer, visit.surface)
    return None if then is None or now is None else now - then


def unseen_plate(session: Session, printer: Printer) -> bool:
    """Whether another plate lies on that this printer's probe may not see, and nobody has set the tip above it since.

    Only a probe that touches finds the plate; inductive ones feel metal through it, capacitive ones whatever lies there.
    """
    if SENSES[printer.probe_kind] in ("", "surface"):
        return False
    newest = newest_offset(session, printer.id)
    mark = mark_of(session, newest) if newest is not None else 0
    if any(event.what == "plate" for event in happened_since(session, printer.id, mark)):
        return True
    latest = session.scalars(
        select(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Visit.id.desc())
        .limit(1)
    ).first()
    thicker = plate_thicker(session, latest) if latest is not None else None
    return thicker is not None and thicker > THICKER
