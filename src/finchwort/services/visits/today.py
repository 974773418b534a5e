"""What is due in the workshop today, from all that is on record."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy.orm import Session

from finchwort.core.visits import Due, OnRecord, OpenCase, due
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer.offsets import offset_stands
from finchwort.services.visits.drift import drift_of
from finchwort.services.visits.follow_up import after_of
from finchwort.services.visits.standing import days_since, known_survey
from finchwort.store.diagnosis.cases import closed_as, list_cases, open_remedies
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import list_printers
from finchwort.store.prints.counts import nozzle_hours
from finchwort.store.surveys.surveys import newest_surveys
from finchwort.store.visits.standing import newest_visit

UNTOLD = "A first layer that does not stick"
"""What a case is called whose person said nothing."""


@dataclass(frozen=True, eq=False)
class DueHere:
    """One thing that is due, and where.

    Attributes
    ----------
    printer : Printer
    visit_id : int or None
        The visit that is open there.
    due : Due
    """

    printer: Printer
    visit_id: int | None
    due: Due


def due_today(session: Session) -> list[DueHere]:
    """Say what is due in the workshop, the most pressing first, and under it by printer."""
    results = []
    cases: dict[int, list[OpenCase]] = {}
    for case in list_cases(session):
        if closed_as(case) is None:
            told = OpenCase(
                case.id, case.words or UNTOLD, days_since(case.opened_at), bool(open_remedies(case))
            )
            cases.setdefault(case.printer_id, []).append(told)
    for printer in list_printers(session):
        visit = newest_visit(session, printer.id)
        open_visit = visit.id if visit is not None and visit.ended_at is None else None
        known = on_record(session, printer, visit, tuple(cases.get(printer.id, ())))
        results += [DueHere(printer, open_visit, one) for one in due(known)]
    return sorted(results, key=lambda one: (one.due.rank, one.printer.name.casefold(), one.printer.id))


def on_record(
    session: Session, printer: Printer, visit: Visit | None, cases: tuple[OpenCase, ...] = ()
) -> OnRecord:
    """Gather what is on record of a printer; ``visit`` is its newest."""
    after = after_of(session, printer)
    survey = next(iter(newest_surveys(session, printer.id, 1)), None)
    offset = newest_offset(session, printer.id)
    mesh = stored_mesh(session, printer, visit) if printer.compensation == "mesh" else None
    drift = drift_of(session, printer)
    name = visit.surface if visit is not None else ""
    surface = next((one for one in printer.surfaces if one.name == name), None)
    return OnRecord(
        left=len(after.left) if after is not None else 0,
        bed=known_survey(session, printer, survey) if survey is not None else None,
        offset=offset_stands(session, printer, offset, visit) if offset is not None else None,
        mesh=mesh.standing if mesh is not None else None,
        surface=name,
        prints=surface.prints_since_wash if surface is not None else 0,
        coats=surface.coats if surface is not None else 0,
        cases=cases,
        visit_hours=days_since(visit.started_at) * 24 if visit is not None and not visit.ended_at else None,
        level_days=days_since(drift.left_at) if drift.left_at is not None else None,
        level_lasts=drift.forecast.days,
        nozzle_hours=nozzle_hours(session, printer.id)[0],
    )
