"""What was changed at a machine by hand, and what it puts in doubt."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.clearance import LOOK_Z
from finchwort.core.errors import ChoiceError
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.logbook import set_entries_deleted, write_entry
from finchwort.store.models import utcnow
from finchwort.store.offset_models import MachineChange
from finchwort.store.printers import get_printer
from finchwort.store.visits import get_visit

WHATS = {
    "nozzle": "Nozzle changed",
    "plate": "Another plate laid on",
    "firmware": "Firmware updated",
    "probe": "Probe or head moved",
    "knobs": "Knobs turned without a plan",
    "material": "Another spool put on",
    "moved": "Printer carried elsewhere",
    "crash": "The tip ran into the plate",
    "clear": f"Paper moves at Z = {LOOK_Z:g}, at the corners and in the middle",
}
CLEAR = "clear"
"""No change, but a look: it says that the tip keeps clear of the plate as both are now."""
DOUBTS = {
    "nozzle": "The nozzle was changed since: another one is seldom exactly as long.",
    "plate": "Another plate was laid on since: it may be thicker or thinner.",
    "firmware": "The firmware was updated since, which may have reset the value in the printer: read it there.",
    "probe": "Probe or head were moved since: the distance from probe to nozzle is not what it was.",
    "knobs": "Knobs were turned since without a plan.",
    "crash": "The tip ran into the plate since: tip, plate or probe may stand otherwise.",
}
"""What each says about an offset that was found before."""
BED = ("plate", "knobs", "moved", "crash")
"""After these the bed lies differently."""


def record_change(
    session: Session,
    printer_id: int,
    what: str,
    *,
    client_key: str,
    visit_id: int | None = None,
    note: str = "",
    at: datetime | None = None,
    compensated: bool | None = None,
) -> MachineChange:
    """Write down what was changed at a machine.

    Parameters
    ----------
    what : str
        One of ``WHATS``.
    compensated : bool, optional
        Of a look with paper: whether the machine followed a mesh while it was felt.

    Raises
    ------
    ChoiceError
    ConflictError
        When the visit is another printer's.
    """
    if what not in WHATS:
        raise ChoiceError("Say what was changed: " + ", ".join(WHATS.values()).lower() + ".")
    printer = get_printer(session, printer_id)
    known = session.scalars(select(MachineChange).where(MachineChange.client_key == client_key)).first()
    if known is not None:
        if (known.printer_id, known.what) != (printer_id, what) or known.deleted_at is not None:
            raise KeyTakenError("Another change was recorded with this key, or it was taken back since.")
        return known
    visit = get_visit(session, visit_id) if visit_id is not None else None
    if visit is not None and visit.printer_id != printer_id:
        raise ConflictError("That visit was at another printer.")
    change = MachineChange(
        printer_id=printer_id,
        visit_id=visit_id,
        made_at=at or utcnow(),
        client_key=client_key,
        what=what,
        note=note.strip(),
        surface=visit.surface if visit is not None else "",
        compensated=compensated,
    )
    session.add(change)
    session.flush()
    write_entry(
        session, "change", WHATS[what], note.strip(), at=at, printer=printer, visit=visit, change_id=change.id
    )
    return change


def changes_since(session: Session, printer_id: int, at: datetime | None) -> list[MachineChange]:
    """Return what was changed at a printer after some time, or ever, newest first."""
    query = select(MachineChange).where(
        MachineChange.printer_id == printer_id, MachineChange.deleted_at.is_(None)
    )
    if at is not None:
        query = query.where(MachineChange.made_at > at)
    return list(session.scalars(query.order_by(MachineChange.id.desc()).limit(200)))


def set_change_deleted(session: Session, change_id: int, deleted: bool) -> MachineChange:
    """Take back a change that was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    change = session.get(MachineChange, change_id, with_for_update=True, populate_existing=True)
    if change is None or (change.deleted_at is None) != deleted:
        raise NotFoundError("There is no such change.")
    change.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, change.deleted_at, change_id=change.id)
    return change
