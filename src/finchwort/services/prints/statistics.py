"""What came of all prints: by surface, material and bed temperature, by printer, over time, and on a coat."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import func
from sqlalchemy.orm import Session

from finchwort.core.diagnosis import suit
from finchwort.core.prints import (
    QUARTER_HOURS,
    CoatLife,
    HazardRate,
    Share,
    coat_life,
    hazard_rate,
    share_of,
    survival,
)
from finchwort.knowledge import materials, surfaces
from finchwort.store.models import Printer
from finchwort.store.printers.printers import list_printers
from finchwort.store.prints.models import PrintRun
from finchwort.store.prints.prints import (
    bed_band,
    coats_told,
    counted_by,
    failures_after,
    places_let_go,
    runs_of,
)
from finchwort.store.records import utcnow

MONTHS_SHOWN = 12
MILESTONES = (0.25, 1.0, 3.0, 8.0)
"""Hours after which it is told how many prints still held."""


@dataclass(frozen=True)
class BandResult:
    """What came of prints at one bed temperature, °C; None where nobody told it."""

    bed: float | None
    share: Share


@dataclass(frozen=True)
class PairResult:
    """What came of a material on a kind of surface.

    Attributes
    ----------
    surface_kind, material : str
    share : Share
    let_go, too_well : int
    bands : tuple of BandResult
        By bed temperature.
    held_from, held_to : float or None
        Bed temperatures at which prints held, °C.
    table : (low, high) or None
        What the table says, °C.
    """

    surface_kind: str
    material: str
    share: Share
    let_go: int
    too_well: int
    bands: tuple[BandResult, ...]
    held_from: float | None
    held_to: float | None
    table: tuple[float, float] | None


@dataclass(frozen=True, eq=False)
class PrinterResult:
    """What came of the prints of a printer; ``still`` gives the share that held after so many hours."""

    printer: Printer
    share: Share
    hazard: HazardRate
    still: tuple[tuple[float, float], ...]
    places: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class CoatResult:
    """How long a coat lasts on a surface of a printer."""

    printer: str
    surface: str
    life: CoatLife


@dataclass(frozen=True, eq=False)
class Results:
    """What came of all prints of which it was told; ``months`` are (month, share), oldest first."""

    share: Share
    pairs: tuple[PairResult, ...]
    printers: tuple[PrinterResult, ...]
    months: tuple[tuple[str, Share], ...]
    coats: tuple[CoatResult, ...]


def results_of(session: Session, now: datetime | None = None) -> Results:
    """Gather what came of all prints."""
    printers = list_printers(session)
    pairs = _pairs(session)
    return Results(
        share_of(sum(one.share.held for one in pairs), sum(one.share.told for one in pairs)),
        pairs,
        tuple(_printers(session, printers)),
        _months(session, now or utcnow()),
        tuple(_coats(session, printers)),
    )


def _pairs(session: Session) -> tuple[PairResult, ...]:
    found: dict[tuple[str, str], list[tuple[float | None, int, int, int]]] = {}
    rows = counted_by(session, PrintRun.surface_kind, PrintRun.material, bed_band())
    for kind, material, bed, held, let_go, too_well, _ in rows:
        at = None if bed is None else float(bed)
        found.setdefault((kind, material), []).append((at, int(held), int(let_go), int(too_well)))
    results = [_pair(kind, material, bands) for (kind, material), bands in found.items()]
    return tuple(sorted(results, key=lambda one: (-one.share.told, one.surface_kind, one.material)))


def _pair(kind: str, material: str, bands: list[tuple[float | None, int, int, int]]) -> PairResult:
    bands.sort(key=lambda band: (band[0] is None, band[0] or 0.0))
    held, let_go, too_well = (sum(counts) for counts in list(zip(*bands, strict=True))[1:])
    good = [bed for bed, stayed, _, _ in bands if bed is not None and stayed]
    return PairResult(
        kind,
        material,
        share_of(held, held + let_go + too_well),
        let_go,
        too_well,
        tuple(BandResult(bed, share_of(one, one + gone + well)) for bed, one, gone, well in bands),
        min(good, default=None),
        max(good, default=None),
        suit(surfaces().get(kind), materials().get(material)).bed_range,
    )


def _printers(session: Session, printers: list[Printer]) -> list[PrinterResult]:
    rows = counted_by(session, PrintRun.printer_id)
    counts = {number: (int(held), int(gone), int(well)) for number, held, gone, well, _ in rows}
    results = []
    for printer in printers:
        if printer.id not in counts:
            continue
        runs = runs_of(session, printer.id)
        times, share = survival(runs)
        longest = max((run.hours for run in runs), default=0.0)
        still = [
            (at, float(share[times <= at][-1]) if (times <= at).any() else 1.0)
            for at in MILESTONES
            if at <= longest
        ]
        held, gone, well = counts[printer.id]
        results.append(
            PrinterResult(
                printer,
                share_of(held, held + gone + well),
                hazard_rate(*failures_after(session, printer.id, 60 * QUARTER_HOURS)),
                tuple(still),
                tuple(places_let_go(session, printer.id)),
            )
        )
    return results


def _months(session: Session, now: datetime) -> tuple[tuple[str, Share], ...]:
    month = func.date_format(PrintRun.started_at, "%Y-%m").label("month")
    since = now - timedelta(days=31 * MONTHS_SHOWN)
    rows = counted_by(session, month, since=since)
    told = sorted(
        (str(name), share_of(int(held), int(held) + int(gone) + int(well)))
        for name, held, gone, well, _ in rows
    )
    return tuple(told[-MONTHS_SHOWN:])


def _coats(session: Session, printers: list[Printer]) -> list[CoatResult]:
    names = {printer.id: printer.name for printer in printers}
    results = []
    for (printer_id, surface), told in coats_told(session).items():
        life = coat_life(told)
        if life is not None and printer_id in names:
            results.append(CoatResult(names[printer_id], surface, life))
    return sorted(results, key=lambda one: (one.printer.casefold(), one.surface))
