"""All that is known of a printer, and whether each of it still holds: one list for people."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.remarks import Remark, remark
from finchwort.core.visits import VALIDITIES, Standing, by_now
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer.offsets import offset_stands
from finchwort.services.first_layer.trials import newest_print
from finchwort.services.visits.standing import days_since, stands, survey_now
from finchwort.store.first_layer.models import Trial
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.models import Printer, ProbingTest, Turning, Visit
from finchwort.store.surveys.surveys import newest_surveys
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.standing import newest_visit
from finchwort.store.visits.visits import turnings_of

NAMES = {
    "survey": "Survey of the bed",
    "plan": "Plan made from it",
    "forecast": "First layer foreseen",
    "mesh": "Stored mesh",
    "offset": "Z offset",
    "discs": "Patches over the bed",
    "ladder": "Ladder in the middle",
    "touches": "Test of the probe",
    "knobs": "What the knobs have taught",
}
WORDS = {"holds": "Holds", "doubtful": "Doubtful", "gone": "No longer"}


@dataclass(frozen=True)
class Holding:
    """One thing known of a printer.

    Attributes
    ----------
    thing : one of `finchwort.core.visits.THINGS`
    at : datetime
        When it was found out.
    standing : Standing
    """

    thing: str
    at: datetime
    standing: Standing


def what_holds(session: Session, printer: Printer) -> list[Holding]:
    """Say of all that is known of a printer whether it still holds; what was never found out is left out."""
    return list(_found(session, printer))


def _found(session: Session, printer: Printer) -> Iterator[Holding]:
    visit = newest_visit(session, printer.id)
    if visit is None:
        return
    surface = visit.surface
    survey = next(iter(newest_surveys(session, printer.id, 1)), None)
    offset = newest_offset(session, printer.id)
    mesh = stored_mesh(session, printer, visit) if printer.compensation == "mesh" else None
    height = offset_stands(session, printer, offset, visit) if offset is not None else None
    if survey is not None:
        mark, now = mark_of(session, survey), survey_now(survey, visit)
        bed = stands(session, printer, "survey", mark, now)
        yield Holding("survey", survey.taken_at, bed)
        if printer.screws:
            yield Holding("plan", survey.taken_at, stands(session, printer, "plan", mark, now))
        foreseen = stands(session, printer, "forecast", mark, now)
        yield Holding("forecast", survey.taken_at, worst(foreseen, height) if height else foreseen)
    if mesh is not None:
        yield Holding("mesh", mesh.record.made_at, mesh.standing)
    if offset is not None and height is not None:
        yield Holding("offset", offset.made_at, height)
    for thing, kinds in (("discs", ("bed", "look")), ("ladder", ("ladder",))):
        trial = _newest_trial(session, printer, kinds)
        if trial is not None:
            now = by_now(surface=(trial.surface, surface), days=days_since(trial.made_at))
            mark = mark_of(session, trial)
            yield Holding(thing, trial.made_at, stands(session, printer, thing, mark, now))
    test = _newest_test(session, printer)
    if test is not None:
        now = by_now(surface=(test.surface, surface), days=days_since(test.taken_at))
        mark = mark_of(session, test)
        yield Holding("touches", test.taken_at, stands(session, printer, "touches", mark, now))
    turning = session.scalars(turnings_of(printer.id).order_by(Turning.id.desc()).limit(1)).first()
    if turning is not None:
        mark = mark_of(session, turning)
        now = by_now(days=days_since(turning.turned_at))
        yield Holding("knobs", turning.turned_at, stands(session, printer, "knobs", mark, now))


def worst(standing: Standing, other: Standing) -> Standing:
    """Join what speaks against two things that a third stands on."""
    first, second = sorted((standing, other), key=lambda s: VALIDITIES.index(s.state), reverse=True)
    reasons = tuple(dict.fromkeys((*first.reasons, *second.reasons)))
    return Standing(first.state, reasons, tuple(dict.fromkeys((*first.events, *second.events))))


def print_state(session: Session, visit: Visit) -> tuple[str, Remark] | None:
    """Tell how far a visit has come with the print that proves bed and offset, for `finchwort.core.visits.route`."""
    result = newest_print(session, visit.printer)
    if result is None:
        return None
    trial, standing = result
    judged = remark("visits.print_judged")
    if visit.ended_at is not None:
        return ("done", judged) if trial.visit_id == visit.id else None
    if standing.gone:
        return "old", remark("visits.print_again", why=standing.why)
    if trial.visit_id == visit.id:
        return "done", judged
    return "done", remark("visits.nothing_changed_since_print", doubts=standing.reasons[:1])


def _newest_trial(session: Session, printer: Printer, kinds: tuple[str, ...]) -> Trial | None:
    query = (
        select(Trial)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .where(Trial.deleted_at.is_(None), Trial.kind.in_(kinds))
        .order_by(Trial.id.desc())
        .limit(1)
    )
    return session.scalars(query).first()


def _newest_test(session: Session, printer: Printer) -> ProbingTest | None:
    query = (
        select(ProbingTest)
        .join(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .where(ProbingTest.deleted_at.is_(None), ProbingTest.kind == "repeatability")
        .order_by(ProbingTest.id.desc())
        .limit(1)
    )
    return session.scalars(query).first()
