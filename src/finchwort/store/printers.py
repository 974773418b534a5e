"""Printers: set up, changed, deleted and brought back."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.errors import ChoiceError, OutOfRangeError
from finchwort.core.printers import Bed
from finchwort.core.probe import KINDS as PROBE_KINDS
from finchwort.core.probe import reach
from finchwort.core.tramming import Screw, check_screws
from finchwort.core.verdict import check_first_layer
from finchwort.core.wording import HANDS, VIEWS
from finchwort.knowledge import materials, surfaces
from finchwort.store.errors import ConflictError, NotFoundError, StaleError
from finchwort.store.logbook import write_entry
from finchwort.store.models import Printer, PrinterScrew, PrinterSurface, Workshop, utcnow

COMPENSATIONS = ("none", "mean", "mesh")
"""What a machine's compensation really does with its points."""
KEPT = ("printer", "slicer", "start_code")
"""Where a Z offset may be kept; in several places they add up."""
CONDITIONS = ("new", "good", "worn", "damaged")
MOST_SURFACES = 20
HOTTEST_BED, HOTTEST_NOZZLE = 150.0, 350.0
"""No desktop printer is set up to be hotter than this, °C."""
_PORT = re.compile(r"(/dev/[\w./-]{1,120}|COM\d{1,3}|(socket|rfc2217)://[\w.-]{1,120}:\d{1,5})\Z")


@dataclass(frozen=True)
class ScrewSetup:
    """A screw as the person describes it; mm."""

    name: str
    x: float
    y: float
    thread: str
    pitch: float


@dataclass(frozen=True)
class PadSetup:
    """A support without a screw; mm."""

    name: str
    x: float
    y: float


@dataclass(frozen=True)
class SurfaceSetup:
    """A print surface the person owns; mm."""

    name: str
    kind: str
    thickness: float | None = None
    condition: str = "good"
    prints_since_wash: int = 0
    coats: int = 0


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
    pads: tuple[PadSetup, ...] = field(default_factory=tuple)
    beam_screws: int = 0
    beam_lead: float = 8.0
    beam_left: float | None = None
    beam_right: float | None = None
    probe_kind: str = "none"
    probe_dx: float = 0.0
    probe_dy: float = 0.0
    closer_is: str = "negative"
    compensation: str = "none"
    offset_kept: tuple[str, ...] = ("printer",)
    surfaces: tuple[SurfaceSetup, ...] = field(default_factory=tuple)
    materials: tuple[str, ...] = field(default_factory=tuple)
    port: str = ""
    baud: int = 115200
    dialect: str = "open"
    link_name: str = ""
    most_bed: float = 110.0
    most_nozzle: float = 260.0
    lift: float = 5.0


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

    _check_supports(setup)
    _check_probe(setup)
    _check_surfaces(setup)
    _check_line(setup)


def _check_supports(setup: PrinterSetup) -> None:
    if setup.pads and setup.screws:
        raise ChoiceError("The plate rests on screws or on pads, not on both.")
    if len(setup.pads) > 9 or len({pad.name for pad in setup.pads}) < len(setup.pads):
        raise ChoiceError("Up to nine pads, each with a name of its own.")
    if setup.beam_screws not in (0, 1, 2):
        raise ChoiceError("A cross beam hangs on one or two lead screws; 0 when there is none.")
    if not 0.2 <= setup.beam_lead <= 50:
        raise OutOfRangeError("A lead screw travels 0.2 to 50 mm in a turn.")
    ends = (setup.beam_left, setup.beam_right)
    if None not in ends and ends[1] - ends[0] < 40:
        raise OutOfRangeError("The right lead screw must lie at least 40 mm to the right of the left one.")


def _check_probe(setup: PrinterSetup) -> None:
    if setup.probe_kind not in PROBE_KINDS:
        raise ChoiceError(f"A probe is one of {', '.join(PROBE_KINDS)}.")
    if setup.closer_is not in ("negative", "positive"):
        raise ChoiceError("Closer is the negative or the positive way of the Z offset.")
    if setup.compensation not in COMPENSATIONS or set(setup.offset_kept) - set(KEPT):
        raise ChoiceError("This is not known about compensation or offset.")
    reach(Bed(setup.width, setup.depth, setup.origin), setup.probe_dx, setup.probe_dy)


def _check_surfaces(setup: PrinterSetup) -> None:
    if len(setup.surfaces) > MOST_SURFACES or len({s.name.strip() for s in setup.surfaces}) < len(
        setup.surfaces
    ):
        raise ChoiceError(f"Up to {MOST_SURFACES} surfaces, each with a name of its own.")
    for surface in setup.surfaces:
        if not surface.name.strip():
            raise ChoiceError("A surface needs a name.")
        if surface.kind not in (*surfaces(), "other") or surface.condition not in CONDITIONS:
            raise ChoiceError(
                f"Nothing is known of a surface of kind {surface.kind!r} or condition {surface.condition!r}."
            )
        if surface.thickness is not None and not 0.05 <= surface.thickness <= 20:
            raise OutOfRangeError(f"{surface.name}: a surface is 0.05 to 20 mm thick.")
        if not (0 <= surface.prints_since_wash <= 9999 and 0 <= surface.coats <= 99):
            raise OutOfRangeError(f"{surface.name}: prints and coats are counted from 0.")
    strange = set(setup.materials) - set(materials())
    if strange:
        raise ChoiceError(f"Nothing is known of a material called {strange.pop()!r}.")


def _check_line(setup: PrinterSetup) -> None:
    if setup.port and (not _PORT.match(setup.port) or ".." in setup.port):
        raise ChoiceError(
            "A line is a serial port such as /dev/ttyACM0, or an address such as socket://127.0.0.1:8422."
        )
    if not 300 <= setup.baud <= 4_000_000:
        raise OutOfRangeError("A serial line runs at 300 to 4,000,000 baud.")
    if not 0 <= setup.most_bed <= HOTTEST_BED or not 0 <= setup.most_nozzle <= HOTTEST_NOZZLE:
        raise OutOfRangeError(
            f"The bed's limit lies between 0 and {HOTTEST_BED:g} °C, the nozzle's between 0 and {HOTTEST_NOZZLE:g} °C."
        )
    if not 1 <= setup.lift <= 50:
        raise OutOfRangeError("The head is lifted 1 to 50 mm between touches.")


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

    pads = [{"name": pad.name.strip(), "x": pad.x, "y": pad.y} for pad in setup.pads]
    if printer.pads != pads:
        printer.pads = pads
    for name in PLAIN:
        setattr(printer, name, getattr(setup, name))
    for name in ("offset_kept", "materials"):
        setattr(printer, name, list(getattr(setup, name)))
    _apply_surfaces(printer, setup.surfaces)


PLAIN = (
    "beam_screws",
    "beam_lead",
    "beam_left",
    "beam_right",
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
)
_SURFACE = ("name", "kind", "thickness", "condition", "prints_since_wash", "coats")


def _apply_surfaces(printer: Printer, wanted: Sequence[SurfaceSetup]) -> None:
    old = [tuple(getattr(s, name) for name in _SURFACE) for s in printer.surfaces]
    new = [(s.name.strip(), *(getattr(s, name) for name in _SURFACE[1:])) for s in wanted]
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
        surface.prints_since_wash = min(surface.prints_since_wash + 1, 9999)
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


def features_of(printer: Printer) -> list[str]:
    """What a walk round this printer must look at, see `finchwort.core.soundness.FEATURES`."""
    found = []
    if printer.screws:
        found.append("screws")
    if printer.pads:
        found.append("pads")
    if printer.beam_screws:
        found.append(f"beam{printer.beam_screws}")
    if printer.probe_kind != "none":
        found.append("probe")
    return found


def _describe(printer: Printer) -> str:
    size = f"{printer.width:g} × {printer.depth:g} mm printable"
    if printer.pads:
        return f"{size}, on {len(printer.pads)} pads"
    if not printer.screws:
        return f"{size}, no screws"
    threads = sorted({f"{s.thread} ({s.pitch:g} mm)" for s in printer.screws})
    return f"{size}, {len(printer.screws)} screws {', '.join(threads)}"
