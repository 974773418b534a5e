"""Printers: set up, changed, deleted and brought back; the workshop they stand in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import datetime

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.levelling import Foil, check_foils, check_stacks
from finchwort.store.errors import ConflictError, NotFoundError, StaleError
from finchwort.store.machine.locks import lock_printer, refuse_at_work, refuse_hot
from finchwort.store.models import Printer, PrinterScrew, PrinterSurface, Workshop
from finchwort.store.printers.printers import get_printer, get_workshop
from finchwort.store.printers.setups import PadSetup, PrinterSetup, ScrewSetup, SurfaceSetup, check_setup
from finchwort.store.records import utcnow
from finchwort.store.visits.logbook import write_entry

__all__ = ["PadSetup", "PrinterSetup", "ScrewSetup", "SurfaceSetup", "check_setup"]


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
    lock_printer(session, printer_id)
    printer = get_printer(session, printer_id)
    if printer.version != version:
        raise StaleError(f"{printer.name} was changed elsewhere since you opened it.")
    if any(getattr(printer, name) != getattr(setup, name) for name in LINE):
        refuse_at_work(session, printer)
        refuse_hot(session, printer)
    _apply(printer, setup)
    printer.changed_at = utcnow()  # the row changes, and so its version, also when only a screw does
    session.flush()
    write_entry(
        session, "printer", f"{printer.name}: set-up changed", _describe(printer), at=at, printer=printer
    )
    return printer


def set_printer_deleted(session: Session, printer_id: int, deleted: bool) -> Printer:
    """Delete a printer, or bring it back with all its records."""
    lock_printer(session, printer_id)
    printer = get_printer(session, printer_id, deleted=not deleted)
    if deleted:
        refuse_at_work(session, printer)
        refuse_hot(session, printer)
    if (printer.deleted_at is not None) == deleted:
        return printer  # done already
    printer.deleted_at = utcnow() if deleted else None
    verb = "was deleted" if deleted else "was brought back"
    write_entry(session, "printer", f"{printer.name} {verb}", printer=printer)
    return printer


def rename_workshop(session: Session, name: str, version: int | None = None) -> Workshop:
    """Give the workshop another name.

    Raises
    ------
    StaleError
        When it was renamed since ``version``.
    """
    if not name.strip():
        raise ChoiceError("printers.workshop_needs_name")
    workshop = get_workshop(session)
    if version is not None and workshop.version != version:
        raise StaleError("The workshop was renamed elsewhere since you opened it.")
    if workshop.version == 0:
        workshop = Workshop()
        session.add(workshop)
    workshop.name = name.strip()
    session.flush()
    return workshop


def set_foils(session: Session, foils: Sequence[Foil], version: int | None = None) -> Workshop:
    """Count anew what foil lies in the drawer.

    Raises
    ------
    StaleError
        When the workshop was changed since ``version``.
    """
    check_foils(foils)
    workshop = get_workshop(session)
    if version is not None and workshop.version != version:
        raise StaleError("The foils were counted elsewhere since you opened them.")
    if workshop.version == 0:
        workshop = Workshop(name=workshop.name)
        session.add(workshop)
    keep_foils(workshop, foils)
    session.flush()
    return workshop


def keep_foils(workshop: Workshop, foils: Sequence[Foil]) -> None:
    """Write down what lies in the drawer."""
    workshop.foils = [asdict(f) for f in sorted(foils, key=lambda f: (f.thickness, f.roll))]


def put_foils(printer: Printer, stacks: Mapping[str, Sequence[float]]) -> None:
    """Write down what lies under the pads now, mm; pads that are not named keep what they have."""
    printer.pads = [
        {**pad, "foils": sorted(stacks.get(pad["name"], pad.get("foils", ())), reverse=True)}
        for pad in printer.pads
    ]


def tell_foils(session: Session, printer_id: int, stacks: Mapping[str, Sequence[float]]) -> Printer:
    """Set right what is known of the foil under the pads; nothing is laid or taken by it.

    Raises
    ------
    NotFoundError, ChoiceError, OutOfRangeError
    """
    lock_printer(session, printer_id)
    printer = get_printer(session, printer_id)
    if set(stacks) != {pad["name"] for pad in printer.pads}:
        raise ChoiceError("printers.every_pad_now")
    check_stacks(stacks)
    put_foils(printer, stacks)
    printer.changed_at = utcnow()
    session.flush()
    text = "; ".join(f"{name} {sum(sizes):g} mm" for name, sizes in stacks.items())
    write_entry(session, "printer", f"{printer.name}: foil under the pads set right", text, printer=printer)
    return printer


def _apply(printer: Printer, setup: PrinterSetup) -> None:
    printer.name = setup.name.strip()
    printer.width, printer.depth, printer.origin = setup.width, setup.depth, setup.origin
    printer.plate_width = setup.plate_width or setup.width
    printer.plate_depth = setup.plate_depth or setup.depth
    printer.first_layer = setup.first_layer
    printer.thread_hand, printer.knob_view = setup.thread_hand, setup.knob_view
    printer.tightening_lowers, printer.divisions = setup.tightening_lowers, setup.divisions
    printer.repeatability, printer.note = setup.repeatability, setup.note.strip()
    _apply_screws(printer, setup.screws)

    pads = [
        {"name": pad.name.strip(), "x": pad.x, "y": pad.y, "foils": sorted(pad.foils, reverse=True)}
        for pad in setup.pads
    ]
    if printer.pads != pads:
        printer.pads = pads
    keep_off = [{**asdict(place), "name": place.name.strip()} for place in setup.keep_off]
    if printer.keep_off != keep_off:
        printer.keep_off = keep_off
    for name in PLAIN:
        setattr(printer, name, getattr(setup, name))
    for name in ("offset_kept", "materials"):
        setattr(printer, name, list(getattr(setup, name)))
    _apply_surfaces(printer, setup.surfaces)


LINE = ("port", "baud", "dialect", "link_name")
"""Where a printer is reached; not changed while it is at work."""
PLAIN = (
    "beam_screws",
    "beam_lead",
    "beam_left",
    "beam_right",
    "beam_carries",
    "beam_steps",
    "beam_raises",
    "plate_bends",
    "probe_kind",
    "probe_dx",
    "probe_dy",
    "closer_is",
    "compensation",
    "port",
    "baud",
    "dialect",
    "link_name",
    "most_bed",
    "most_nozzle",
    "lift",
    "longest_heat",
    "zero_kept",
    "switch_pitch",
)
_SURFACE = ("name", "kind", "thickness", "condition", "prints_since_wash", "coats")


def _apply_screws(printer: Printer, screws: Sequence[ScrewSetup]) -> None:
    """Set the screws anew when something differs; limits keep the time at which they were said."""
    old = [(s.name, s.x, s.y, s.thread, s.pitch, s.to_tight, s.to_loose) for s in printer.screws]
    new = [(s.name.strip(), s.x, s.y, s.thread, s.pitch, s.to_tight, s.to_loose) for s in screws]
    if old == new:
        return
    text = {(s.name, s.to_tight, s.to_loose): s.limits_at for s in printer.screws}
    printer.screws = [
        PrinterScrew(
            place=i,
            name=name,
            x=x,
            y=y,
            thread=thread,
            pitch=pitch,
            to_tight=tight,
            to_loose=loose,
            limits_at=None if tight is None and loose is None else text.get((name, tight, loose)) or utcnow(),
        )
        for i, (name, x, y, thread, pitch, tight, loose) in enumerate(new)
    ]


def _apply_surfaces(printer: Printer, surfaces: Sequence[SurfaceSetup]) -> None:
    old = [tuple(getattr(s, name) for name in _SURFACE) for s in printer.surfaces]
    new = [(s.name.strip(), *(getattr(s, name) for name in _SURFACE[1:])) for s in surfaces]
    if old != new:
        printer.surfaces = [
            PrinterSurface(place=i, **dict(zip(_SURFACE, values, strict=True)))
            for i, values in enumerate(new)
        ]


def use_surface(session: Session, printer_id: int, name: str, action: str) -> Printer:
    """Count a print, a wash or a coat of adhesive on a surface.

    Parameters
    ----------
    name : str
        Of the surface.
    action : {"printed", "washed", "coated"}
        Washing takes old adhesive off as well.

    Raises
    ------
    NotFoundError, ConflictError
    """
    printer = get_printer(session, printer_id)
    surface = next((s for s in printer.surfaces if s.name == name), None)
    if surface is None:
        raise NotFoundError(f"{printer.name} has no surface called {name}.")
    if action == "printed":
        count_print(printer, name, 1)
    elif action == "washed":
        surface.prints_since_wash = surface.coats = 0
        write_entry(session, "printer", f"{printer.name}: {surface.name} was washed", printer=printer)
    elif action == "coated":
        surface.coats = min(surface.coats + 1, 99)
    else:
        raise ConflictError("A surface is printed on, washed or coated.")
    printer.changed_at = utcnow()
    session.flush()
    return printer


def count_print(printer: Printer, name: str, times: int) -> PrinterSurface | None:
    """Count a print on a surface of a printer, or take it back (``times`` -1); None where it has no such surface."""
    surface = next((one for one in printer.surfaces if one.name == name), None)
    if surface is not None:
        surface.prints_since_wash = min(max(surface.prints_since_wash + times, 0), 9999)
        printer.changed_at = utcnow()
    return surface


def _describe(printer: Printer) -> str:
    size = f"{printer.width:g} × {printer.depth:g} mm printable"
    if printer.pads:
        return f"{size}, on {len(printer.pads)} pads"
    if not printer.screws:
        return f"{size}, no screws"
    threads = sorted({f"{s.thread} ({s.pitch:g} mm)" for s in printer.screws})
    return f"{size}, {len(printer.screws)} screws {', '.join(threads)}"
