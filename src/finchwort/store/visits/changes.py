"""What was changed about a machine, as it was recorded."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.first_layer import LOOK_Z
from finchwort.store.first_layer.models import MachineChange

WHATS = {
    "plate": "Another plate or sheet laid on",
    "lifted": "Plate lifted and laid back",
    "pried": "A part had to be pried off",
    "knobs": "Knobs turned without a plan",
    "foil": "Foil changed without a plan",
    "springs": "Springs, knobs or screws replaced",
    "beam": "Cross beam set by hand",
    "nozzle": "Nozzle changed",
    "probe": "Probe or head moved",
    "belts": "Belt tightened or replaced",
    "firmware": "Firmware updated",
    "moved": "Printer carried elsewhere",
    "crash": "The tip ran into the plate",
    "material": "Another spool put on",
    "offset": "The printer has another Z offset than the book",
    "mesh": "The printer has another mesh than the book",
    "steps": "The printer has other steps per mm than before",
    "clear": f"Paper moves at Z = {LOOK_Z:g}, at the corners and in the middle",
}


def changes_since(session: Session, printer_id: int, at: datetime | None) -> list[MachineChange]:
    """Return what was changed at a printer after some time, or ever, newest first."""
    query = select(MachineChange).where(
        MachineChange.printer_id == printer_id,
        MachineChange.deleted_at.is_(None),
        MachineChange.what.in_(WHATS),
    )
    if at is not None:
        query = query.where(MachineChange.made_at > at)
    return list(session.scalars(query.order_by(MachineChange.id.desc()).limit(200)))
