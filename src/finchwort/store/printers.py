"""Printers: set up, changed, deleted and brought back."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.errors import ChoiceError, OutOfRangeError
from finchwort.core.printers import Bed
from finchwort.core.tramming import Screw, check_screws
from finchwort.core.verdict import check_first_layer
from finchwort.core.wording import HANDS, VIEWS
from finchwort.store.errors import NotFoundError, StaleError
from finchwort.store.logbook import write_entry
from finchwort.store.models import Printer, PrinterScrew, Workshop, utcnow


@dataclass(frozen=True)
class ScrewSetup:
    """A screw as the person describes it; mm."""

    name: str
    x: float
    y: float
    thread: str
    pitch: float


@dataclass(frozen=True)
class PrinterSetup:
    """A printer as the person describes it; mm."""

    name: str
    width: float
    depth: float
    origin: str = "front_left"
    plate_width: float | None = None
    plate_depth: float | None = None
    first_layer: float = 0.2
    thread_hand: str = "right"
    knob_view: str = "behind"
    tightening_lowers: bool = True
    divisions: int = 8
    repeatability: float | None = None
    note: str = ""
    screws: tuple[ScrewSetup, ...] = field(default_factory=tuple)


def check_setup(setup: PrinterSetup) -> None:
    """Raise a core error unless the description makes sense."""
    if not setup.name.strip():
        raise ChoiceError("A printer needs a name.")
    Bed(setup.width, setup.depth, setup.origin, setup.plate_width, setup.plate_depth)
    check_first_layer(setup.first_layer)
    if setup.thread_hand not in HANDS or setup.knob_view not in VIEWS:
        raise ChoiceError("The thread is right or left, the knob is seen from its face or from behind.")
    if setup.repeatability is not None and not 0 < setup.repeatability <= 1:
        raise OutOfRangeError("A repeatability lies between 0 and 1 mm.")
    if setup.screws:
        check_screws(
            [Screw(s.name, s.x, s.y, s.pitch, setup.tightening_lowers, setup.divisions) for s in setup.screws]
        )


def bed_of(printer: Printer) -> Bed:
    """Return the bed of a printer."""
    return Bed(printer.width, printer.depth, printer.origin, printer.plate_width, printer.plate_depth)


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


def create_printer(session: Session, setup: PrinterSetup, *, at: datetime | None = None) -> Printer:
    """Set up a new printer and note it in the logbook."""
    check_setup(setup)
    printer = Printer(created_at=at or utcnow())
    _apply(printer, setup)
    session.add(printer)
    session.flush()
    write_entry(session, "printer", f"{printer.name} was set up", _describe(printer), at=at, printer=printer)
    return printer


def update_printer(
    session: Session,
    printer_id: int,
    setup: PrinterSetup,
    version: int,
    *,
    at: datetime | None = None,
) -> Printer:
    """Change a printer's set-up.

    Raises
    ------
    StaleError
        When it was changed since ``version``.
    """
    check_setup(setup)
    printer = get_printer(session, printer_id)
    if printer.version != version:
        raise StaleError(f"{printer.name} was changed elsewhere since you opened it.")
    _apply(printer, setup)
    printer.changed_at = utcnow()  # the row changes, and so its version, also when only a screw does
    session.flush()
    write_entry(
        session, "printer", f"{printer.name}: set-up changed", _describe(printer), at=at, printer=printer
    )
    return printer


def set_printer_deleted(session: Session, printer_id: int, deleted: bool) -> Printer:
    """Delete a printer, or bring it back with all its records."""
    printer = get_printer(session, printer_id, deleted=not deleted)
    printer.deleted_at = utcnow() if deleted else None
    verb = "was deleted" if deleted else "was brought back"
    write_entry(session, "printer", f"{printer.name} {verb}", printer=printer)
    return printer


def get_workshop(session: Session) -> Workshop:
    """Return the workshop; until it has a name of its own it is not stored, and its version is 0."""
    workshop = session.scalars(select(Workshop).order_by(Workshop.id)).first()
    return workshop or Workshop(name="My workshop", version=0)


def rename_workshop(session: Session, name: str, version: int | None = None) -> Workshop:
    """Give the workshop another name.

    Raises
    ------
    StaleError
        When it was renamed since ``version``.
    """
    if not name.strip():
        raise ChoiceError("A workshop needs a name.")
    workshop = get_workshop(session)
    if version is not None and workshop.version != version:
        raise StaleError("The workshop was renamed elsewhere since you opened it.")
    if workshop.version == 0:
        workshop = Workshop()
        session.add(workshop)
    workshop.name = name.strip()
    session.flush()
    return workshop


def _apply(printer: Printer, setup: PrinterSetup) -> None:
    printer.name = setup.name.strip()
    printer.width, printer.depth, printer.origin = setup.width, setup.depth, setup.origin
    printer.plate_width = setup.plate_width or setup.width
    printer.plate_depth = setup.plate_depth or setup.depth
    printer.first_layer = setup.first_layer
    printer.thread_hand, printer.knob_view = setup.thread_hand, setup.knob_view
    printer.tightening_lowers, printer.divisions = setup.tightening_lowers, setup.divisions
    printer.repeatability, printer.note = setup.repeatability, setup.note.strip()
    old = [(s.name, s.x, s.y, s.thread, s.pitch) for s in printer.screws]
    new = [(s.name.strip(), s.x, s.y, s.thread, s.pitch) for s in setup.screws]
    if old != new:
        printer.screws = [
            PrinterScrew(place=i, name=n, x=x, y=y, thread=t, pitch=p)
            for i, (n, x, y, t, p) in enumerate(new)
        ]


def _describe(printer: Printer) -> str:
    size = f"{printer.width:g} × {printer.depth:g} mm printable"
    if not printer.screws:
        return f"{size}, no screws"
    threads = sorted({f"{s.thread} ({s.pitch:g} mm)" for s in printer.screws})
    return f"{size}, {len(printer.screws)} screws {', '.join(threads)}"
