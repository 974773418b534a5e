"""What is known of a printer already, gathered for a case without being asked."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any, TypeVar

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.diagnosis import Known, suit
from finchwort.core.first_layer import Bead
from finchwort.core.surveys import fit_plane
from finchwort.knowledge import materials, surfaces
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer.offsets import offset_outdated, relief_of
from finchwort.services.first_layer.trials import judged_ladders
from finchwort.services.probing.faults import walked_of
from finchwort.services.probing.probe_tests import assess_test
from finchwort.services.tramming.learning import learned_of
from finchwort.services.visits.standing import known_survey
from finchwort.store.diagnosis.cases import setup_of
from finchwort.store.diagnosis.models import Trouble
from finchwort.store.first_layer.models import OffsetRecord
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.memo import once
from finchwort.store.models import Printer, PrinterSurface, ProbingTest, Visit
from finchwort.store.printers.own_pairs import own_range
from finchwort.store.printers.printers import bed_of
from finchwort.store.records import utcnow
from finchwort.store.surveys.surveys import load_readings, newest_surveys
from finchwort.store.visits.logbook import washed_at
from finchwort.store.visits.standing import newest_visit

T = TypeVar("T")
STALE = 120.0
"""A survey from before the bed was moved counts as this much older, days (ours)."""
SURE = ("ladder", "patches")
"""Ways to find an offset after which it is right (common practice)."""


def known_of(session: Session, case: Trouble) -> Known:
    """Gather what surveys, tests, offset, mesh, table and counts say of a case."""
    printer, strip = case.printer, setup_of(case)
    first_layer = strip.get("first_layer") or printer.first_layer

    def of_printer(name: str, ask: Callable[[], T]) -> T:
        # a list of cases asks the same of each printer again and again
        return once(session, (name, printer.id), ask)

    newest = of_printer("newest survey", lambda: newest_surveys(session, printer.id, 1, known=True))
    tilt = left = gap_error = None
    days = 0.0
    visit = (
        session.get(Visit, case.visit_id)
        if case.visit_id
        else of_printer("visit", lambda: newest_visit(session, printer.id))
    )
    at = visit.id if visit is not None else 0
    mesh = of_printer(f"mesh {at}", lambda: stored_mesh(session, printer, visit))
    followed = mesh is not None and not mesh.outdated and printer.compensation == "mesh"
    if newest:
        record = newest[0]
        plane = of_printer("plane", lambda: fit_plane(load_readings(session, record.id)).plane)
        bed = bed_of(printer)
        tilt = abs(plane.a) * bed.width + abs(plane.b) * bed.depth
        left = record.peak_to_valley
        days = max(0.0, (utcnow() - record.taken_at).total_seconds() / 86400)
        if of_printer("bed", lambda: known_survey(session, printer, record)).gone:
            days += STALE
        elif case.x is not None and case.y is not None:
            kind = "none" if printer.compensation == "mesh" and not followed else printer.compensation
            relief = relief_of(session, record, kind)
            gap_error = relief.middle - float(relief.at(case.x, case.y)[0])
    tests = of_printer("tests", lambda: _newest_tests(session, printer.id))
    offset = of_printer("offset", lambda: newest_offset(session, printer.id))
    doubts = (
        of_printer(f"doubts {at}", lambda: offset_outdated(session, printer, offset, visit))
        if offset is not None
        else ()
    )
    surface = next((surface for surface in printer.surfaces if surface.name == strip.get("surface")), None)
    pair = surfaces().get(strip.get("surface_kind") or "")
    material = materials().get(strip.get("material") or "")
    suits = suit(pair, material, strip.get("bed_temperature"), strip.get("nozzle_temperature"))
    need = pair.pairs[material.name].need if suits.state == "needs" and pair and material else None
    return Known(
        first_layer=first_layer,
        tilt=tilt,
        left=left,
        survey_days=days,
        gap_error=gap_error,
        offset_error=of_printer(
            f"offset error {at} {first_layer}",
            lambda: _offset_error(session, visit, first_layer, offset, bool(doubts)),
        ),
        touch_range=tests["repeatability"].range if "repeatability" in tests else None,
        soak=tests["soak"].state if "soak" in tests else "",
        skew=tests["beam"].difference if "beam" in tests else None,
        mesh_kept=mesh is not None,
        mesh_outdated=mesh.outdated[0] if mesh and mesh.outdated else None,
        offset_known=offset is not None,
        offset_outdated=doubts[0] if doubts else None,
        bed=strip.get("bed_temperature"),
        bed_range=own_range(session, strip.get("surface_kind") or "", strip.get("material") or "")
        or suits.bed_range,
        nozzle=strip.get("nozzle_temperature"),
        nozzle_range=suits.nozzle_range,
        pair=suits.state,
        need=need is not None,
        prints_since_wash=strip.get("prints_since_wash", _counted(session, printer, surface)),
        coats=surface.coats if surface and (surface.coats or surface.prints_since_wash) else None,
        compensated=followed,
        washed_with=strip.get("washed_with") or "",
        worn=None if surface is None else surface.condition in ("worn", "damaged"),
        speed=strip.get("speed"),
        fan=strip.get("fan"),
        width=strip.get("width"),
        hole=strip.get("hole"),
        part=_part(strip),
        height_set=strip.get("height_set"),
        copies=sum(abs(value) > 0.0005 for value in offset.parts.values()) if offset is not None else None,
        slipping=of_printer("slipping", lambda: _slipping(session, printer)),
        walked=of_printer("walked", lambda: walked_of(session, printer)),
    )


def _counted(session: Session, printer: Printer, surface: PrinterSurface | None) -> int | None:
    """Prints since the last wash; nothing while neither a print nor a wash was ever counted."""
    if surface is None:
        return None
    if surface.prints_since_wash or washed_at(session, printer, surface.name) is not None:
        return surface.prints_since_wash
    return None


def _part(setup: Mapping[str, Any]) -> tuple[float, float, float] | None:
    across, deep, height = (setup.get(name) for name in ("foot_width", "foot_depth", "part_height"))
    return (across, deep, height) if across and deep and height else None


def _slipping(session: Session, printer: Printer) -> str:
    return (learned_of(session, printer).slipping.named or "") if printer.screws else ""


def _newest_tests(session: Session, printer_id: int) -> dict[str, Any]:
    """The newest result of each kind of test."""
    query = (
        select(ProbingTest)
        .join(Visit)
        .where(Visit.printer_id == printer_id, Visit.deleted_at.is_(None), ProbingTest.deleted_at.is_(None))
        .where(ProbingTest.kind.in_(("repeatability", "soak", "beam")))
        .order_by(ProbingTest.taken_at, ProbingTest.id)
    )
    newest = {test.kind: test for test in session.scalars(query)}
    return {kind: assess_test(kind, test.data).result for kind, test in newest.items()}


def _offset_error(
    session: Session, visit: Visit | None, first_layer: float, offset: OffsetRecord | None, doubted: bool
) -> float | None:
    """How much too high the tip stands, where patches told it, mm."""
    if visit is not None:
        _, result = judged_ladders(session, visit, Bead(max(0.42, 1.2 * first_layer), first_layer))
        if result is not None and result.one_sided is None:
            return -result.best
    if offset is not None and offset.reason in SURE and not doubted:
        return 0.0
    return None
