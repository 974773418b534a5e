"""What a print's file says, as the setup of a case: nobody has to type what stands in it."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.files import Foot, PrintFile
from finchwort.formats.print_file import unpack_print
from finchwort.store.files.files import list_files
from finchwort.store.models import Printer

LATELY = timedelta(days=3)
"""A file that was looked through so lately is taken for the print that failed (ours)."""
FACTS = ("speed", "fan", "width", "height_set", "hole", "foot_width", "foot_depth", "part_height")
"""What only a file says of a print, by the names that a case gives it."""


def facts_of_newest(session: Session, printer: Printer, now: datetime) -> dict[str, Any]:
    """Return what the newest file of a printer says, if it was looked through lately; nothing otherwise."""
    for record in list_files(session, printer.id)[:1]:
        if timedelta() <= now - record.created_at <= LATELY:
            facts = facts_of(unpack_print(record.packed)) | {"file": record.name}
            if record.nozzle is not None:
                facts["hole"] = record.nozzle
            if record.material:
                facts["material"] = record.material
            return facts
    return {}


def facts_of(found: PrintFile) -> dict[str, Any]:
    """Return the settings of a print by the names that a case gives them; what the file does not say is left out."""
    told: dict[str, Any] = {
        "speed": None if found.speed is None else round(found.speed, 1),
        "fan": round(found.fan, 1),
        "width": round(found.line_width, 2),
        "height_set": round(found.layer.height, 3),
        "bed_temperature": found.bed,
        "nozzle_temperature": found.nozzle,
    }
    part = _slenderest(found.parts)
    if part is not None:
        x0, y0, x1, y1 = part.bounds
        told |= {
            "foot_width": round(x1 - x0, 1),
            "foot_depth": round(y1 - y0, 1),
            "part_height": round(part.height, 1),
        }
    return {name: value for name, value in told.items() if value is not None}


def _slenderest(parts: tuple[Foot, ...]) -> Foot | None:
    """The part that lets go most easily: the highest for the breadth of its foot."""
    return max(parts, key=lambda part: part.height / max(part.narrow, 0.5), default=None)
