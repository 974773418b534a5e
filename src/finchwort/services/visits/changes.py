"""What was changed at a machine by hand, and what it puts in doubt."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import lower_first
from finchwort.messages.visits import TITLES
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.models import Printer
from finchwort.store.printers.printers import get_printer
from finchwort.store.records import sent_before, set_deleted, utcnow
from finchwort.store.visits.changes import WHATS
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import get_visit

TOLD = ("offset", "mesh", "steps")
"""Nobody's doing: the printer itself said so when it was asked."""
NEEDS = {
    "knobs": lambda printer: bool(printer.screws),
    "springs": lambda printer: bool(printer.screws),
    "foil": lambda printer: bool(printer.pads),
    "beam": lambda printer: bool(printer.beam_screws),
}
"""What is offered only where a printer has it; what somebody writes down all the same is taken: it happened."""
DID = "did_"
"""Before the name of a step of `finchwort.core.afterwards` that a person ticked off."""
LEFT_OUT = "left_out"
"""A person leaves out what is still open of such a list."""
TICKS = {DID + name: f"Done: {lower_first(title)}" for name, title in TITLES.items()} | {
    LEFT_OUT: "The rest of the list left out"
}
CLEAR = "clear"
"""No change, but a look: it says that the tip keeps clear of the plate as both are now."""


def kinds_for(printer: Printer) -> dict[str, str]:
    """What can be changed at a printer by hand, with its words, in the order in which it is offered."""
    return {
        what: words
        for what, words in WHATS.items()
        if what not in (CLEAR, *TOLD) and NEEDS.get(what, lambda _printer: True)(printer)
    }


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
        One of ``WHATS`` or ``TICKS``.
    compensated : bool, optional
        Of a look with paper: whether the machine followed a mesh while it was felt.

    Raises
    ------
    ChoiceError
    ConflictError
        When the visit is another printer's.
    """
    printer = get_printer(session, printer_id)
    words = (WHATS | TICKS).get(what)
    if words is None:
        raise ChoiceError("visits.changed", names=", ".join(kinds_for(printer).values()).lower())
    taken = "Another change was recorded with this key, or it was taken back since."
    sent: dict[str, Any] = {
        "printer_id": printer_id,
        "what": what,
        "visit_id": visit_id,
        "note": note.strip(),
    }
    known = sent_before(session, MachineChange, client_key, taken, **sent)
    if known is not None:
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
    write_entry(session, "change", words, note.strip(), at=at, printer=printer, visit=visit, subject=change)
    return change


def set_change_deleted(session: Session, change_id: int, deleted: bool) -> MachineChange:
    """Take back a change that was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    change = set_deleted(session, MachineChange, change_id, deleted, "There is no such change.")
    set_entries_deleted(session, change, change.deleted_at)
    return change
