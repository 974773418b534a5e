"""Surveys: stored once, never changed."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

import numpy as np
from sqlalchemy import insert, select
from sqlalchemy.orm import Session, joinedload

from finchwort.core.flatness import Flatness, assess_flatness
from finchwort.core.shape import Shape, decompose
from finchwort.core.surveys import Survey
from finchwort.core.verdict import Verdict, judge
from finchwort.core.wording import millimetres
from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.logbook import set_entries_deleted, write_entry
from finchwort.store.models import Reading, SurveyRecord, Turning, Visit, utcnow
from finchwort.store.printers import bed_of
from finchwort.store.visits import get_visit

SOURCES = ("typed", "pasted", "file")


def assess(survey: Survey, bed, first_layer: float, has_screws: bool) -> tuple[Flatness, Shape, Verdict]:
    """Work out figures, shape and verdict of a survey."""
    flatness = assess_flatness(survey)
    shape = decompose(survey, bed)
    return flatness, shape, judge(survey, flatness, shape, first_layer, has_screws)


def store_survey(
    session: Session,
    visit_id: int,
    survey: Survey,
    *,
    client_key: str,
    source: str,
    original: str | None = None,
    assumptions: Sequence[str] = (),
    at: datetime | None = None,
) -> SurveyRecord:
    """Store the readings of a visit, with a line in the logbook.

    The same ``client_key`` a second time (a request sent again after the line
    dropped) stores nothing and returns what is there.

    Raises
    ------
    NotFoundError, ConflictError
        When the visit is gone or closed.
    """
    visit = get_visit(session, visit_id, lock=True)
    known = session.scalars(select(SurveyRecord).where(SurveyRecord.client_key == client_key)).first()
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    printer = visit.printer
    flatness, shape, verdict = assess(survey, bed_of(printer), visit.first_layer, bool(printer.screws))
    record = SurveyRecord(
        visit=visit,
        taken_at=at or utcnow(),
        client_key=client_key,
        source=source,
        original=original,
        assumptions=list(assumptions),
        first_layer=visit.first_layer,
        count=len(survey),
        spread=survey.spread,
        peak_to_valley=flatness.peak_to_valley,
        rms=flatness.rms,
        tilt_x=shape.tilt_x,
        tilt_y=shape.tilt_y,
        shape=shape.name,
        verdict=verdict.level,
    )
    session.add(record)
    session.flush()
    rows = zip(survey.x.tolist(), survey.y.tolist(), survey.height.tolist(), strict=True)
    session.execute(
        insert(Reading),
        [
            {"survey_id": record.id, "place": i, "x": x, "y": y, "height": h}
            for i, (x, y, h) in enumerate(rows)
        ],
    )
    write_entry(
        session,
        "survey",
        f"{len(survey)} readings: {millimetres(survey.spread)} from highest to lowest",
        f"Tilt {millimetres(shape.tilt_x, signed=True)} left to right, "
        f"{millimetres(shape.tilt_y, signed=True)} front to back; without tilt "
        f"{millimetres(flatness.peak_to_valley)}. {verdict.word}.",
        at=at,
        printer=printer,
        visit=visit,
        survey=record,
    )
    return record


def get_survey(session: Session, survey_id: int, *, deleted: bool = False) -> SurveyRecord:
    """Return a survey's record with its visit and printer.

    Raises
    ------
    NotFoundError
    """
    query = (
        select(SurveyRecord)
        .where(SurveyRecord.id == survey_id)
        .options(joinedload(SurveyRecord.visit).joinedload(Visit.printer))
    )
    record = session.scalars(query).first()
    if record is None or (record.deleted_at is not None and not deleted):
        raise NotFoundError("There is no such survey. It may have been deleted.")
    if record.visit.deleted_at is not None or record.visit.printer.deleted_at is not None:
        raise NotFoundError("The visit or the printer of this survey was deleted.")
    return record


def load_readings(session: Session, survey_id: int) -> Survey:
    """Return the readings of a stored survey."""
    rows = session.execute(
        select(Reading.x, Reading.y, Reading.height)
        .where(Reading.survey_id == survey_id)
        .order_by(Reading.place)
    ).all()
    table = np.array([tuple(row) for row in rows], dtype=np.float64)
    return Survey(table[:, 0], table[:, 1], table[:, 2])


def set_survey_deleted(session: Session, survey_id: int, deleted: bool) -> SurveyRecord:
    """Delete a survey (its readings are kept), or bring it back."""
    record = get_survey(session, survey_id, deleted=not deleted)
    turnings = session.scalars(
        select(Turning).where(Turning.survey_id == record.id, Turning.deleted_at.is_(None))
    ).all()
    if deleted and turnings:
        raise ConflictError("Screws were turned by this survey. Take back the turning first.")
    record.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, record.deleted_at, survey_id=record.id, turning_id=None)
    return record
