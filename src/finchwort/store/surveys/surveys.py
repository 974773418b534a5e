"""Surveys and their readings."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from sqlalchemy import bindparam, select
from sqlalchemy.orm import Session, joinedload

from finchwort.core.base.geometry import Array, Mask
from finchwort.core.printers import Bed
from finchwort.core.probing import FeltBed, join_feels
from finchwort.core.surveys import (
    Survey,
)
from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.models import Printer, PrinterScrew, Reading, SurveyRecord, Visit
from finchwort.store.printers.printers import keep_off_of
from finchwort.store.printers.setups import ScrewSetup

OPEN = "open"
"""Verdict of a survey by paper of which some places are known on one side only."""


@dataclass(frozen=True, eq=False)
class Taken:
    """The readings of a survey as they were taken.

    Attributes
    ----------
    survey : Survey
        All of them.
    aside : ndarray of bool, shape (n,)
        Which count for nothing.
    kept : ndarray of bool, shape (n,)
        Which a person put back.
    seconds : ndarray or None, shape (n,)
        When each was taken in the course of a walk.
    """

    survey: Survey
    aside: Mask
    kept: Mask
    seconds: Array | None

    def counting(self) -> Survey:
        """The readings that count."""
        if not self.aside.any():
            return self.survey
        keep = ~self.aside
        return Survey(self.survey.x[keep], self.survey.y[keep], self.survey.height[keep])


def refuse_open(record: SurveyRecord) -> None:
    """Raise when a survey by paper left the bed open: nothing may be built on it.

    Raises
    ------
    ConflictError
    """
    if record.verdict == OPEN:
        raise ConflictError(
            "At some places paper said only which way, so nobody knows how far. Level at the bench, one corner after the "
            "other, or lower the tip until the strip just drags and type the Z."
        )


def load_felt(session: Session, survey_id: int, bed: Bed) -> FeltBed | None:
    """Return what the feels of a stored survey say; None when it left nothing open."""
    rows = session.execute(
        select(Reading.x, Reading.y, Reading.low, Reading.high)
        .where(Reading.survey_id == survey_id)
        .order_by(Reading.place)
    ).all()
    if not rows or all(low is None and high is None for *_, low, high in rows):
        return None
    x, y = np.array([row.x for row in rows]), np.array([row.y for row in rows])
    low = np.array([-math.inf if row.low is None else row.low for row in rows])
    high = np.array([math.inf if row.high is None else row.high for row in rows])
    if (np.isfinite(low) & np.isfinite(high)).all():
        return None  # no place is left open
    return join_feels(x, y, low, high, bed)


def get_survey(
    session: Session, survey_id: int, *, deleted: bool = False, lock: bool = False
) -> SurveyRecord:
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
    if lock:
        query = query.with_for_update(of=SurveyRecord).execution_options(populate_existing=True)
    record = session.scalars(query).first()
    if record is None or (record.deleted_at is not None and not deleted):
        raise NotFoundError("There is no such survey. It may have been deleted.")
    if record.visit.deleted_at is not None or record.visit.printer.deleted_at is not None:
        raise NotFoundError("The visit or the printer of this survey was deleted.")
    return record


def newest_surveys(
    session: Session, printer_id: int, count: int = 3, *, known: bool = False
) -> list[SurveyRecord]:
    """Return the newest surveys of a printer, newest first; with ``known`` only those that paper did not leave open."""
    query = (
        select(SurveyRecord)
        .join(Visit)
        .where(Visit.printer_id == printer_id, SurveyRecord.deleted_at.is_(None), Visit.deleted_at.is_(None))
        .order_by(SurveyRecord.id.desc())  # a clock may jump back, a number does not
        .limit(count)
    )
    if known:
        query = query.where(SurveyRecord.verdict != OPEN)
    return list(session.scalars(query))


@dataclass(frozen=True)
class Ground:
    """What the map of a survey stands on.

    Attributes
    ----------
    state : tuple
        Key of the survey, versions of visit and printer, and what it was judged to be: while it is the same, so is the
        map.
    first_layer : float
        Of the visit, mm.
    bed : Bed
    screws : tuple of ScrewSetup
        As they are set up now.
    """

    state: tuple[Any, ...]
    first_layer: float
    bed: Bed
    screws: tuple[ScrewSetup, ...]


_GROUND = (
    select(
        SurveyRecord.client_key,
        Visit.version,
        Printer.version,
        SurveyRecord.verdict,
        SurveyRecord.spread,
        SurveyRecord.rms,
        SurveyRecord.noise_x,
        Visit.first_layer,
        Printer.width,
        Printer.depth,
        Printer.origin,
        Printer.plate_width,
        Printer.plate_depth,
        Printer.keep_off,
        PrinterScrew.name,
        PrinterScrew.x,
        PrinterScrew.y,
        PrinterScrew.thread,
        PrinterScrew.pitch,
        PrinterScrew.to_tight,
        PrinterScrew.to_loose,
    )
    .select_from(Visit)
    .join(SurveyRecord, SurveyRecord.visit_id == Visit.id)
    .join(Printer, Visit.printer_id == Printer.id)
    .outerjoin(PrinterScrew, PrinterScrew.printer_id == Printer.id)
    .where(
        SurveyRecord.id == bindparam("survey"),
        SurveyRecord.deleted_at.is_(None),
        Visit.deleted_at.is_(None),
        Printer.deleted_at.is_(None),
    )
    .order_by(PrinterScrew.place)
)
_READINGS = (
    select(Reading.x, Reading.y, Reading.height, Reading.aside, Reading.second)
    .where(Reading.survey_id == bindparam("survey"))
    .order_by(Reading.place)
)


def load_ground(session: Session, survey_id: int) -> Ground:
    """Return what the map of a survey stands on, with one lean query.

    Raises
    ------
    NotFoundError
    """
    rows = session.connection().execute(_GROUND, {"survey": survey_id}).all()
    if not rows:
        raise NotFoundError("There is no such survey. It may have been deleted.")
    first: tuple[Any, ...] = tuple(rows[0])
    first_layer, width, depth, origin, plate_width, plate_depth, keep_off = first[7:14]
    described: list[tuple[Any, ...]] = [tuple(row[14:]) for row in rows if row[14] is not None]
    screws = tuple(ScrewSetup(*screw) for screw in described)
    state = first[:7]
    return Ground(
        state, first_layer, Bed(width, depth, origin, plate_width, plate_depth, keep_off_of(keep_off)), screws
    )


def load_taken(session: Session, survey_id: int) -> Taken:
    """Return all readings of a stored survey, with what was set aside.

    Raises
    ------
    NotFoundError
    """
    rows = session.connection().execute(_READINGS, {"survey": survey_id}).all()
    if not rows:
        raise NotFoundError("There is no such survey. It may have been deleted.")
    table = np.array([tuple(row)[:3] for row in rows], dtype=np.float64)
    timed = all(row.second is not None for row in rows)
    return Taken(
        Survey(table[:, 0], table[:, 1], table[:, 2]),
        np.array([bool(row.aside) for row in rows]),
        np.array([row.aside is not None and not row.aside for row in rows]),
        np.array([row.second for row in rows]) if timed else None,
    )


def load_readings(session: Session, survey_id: int) -> Survey:
    """Return the readings of a stored survey that count; those set aside are left out.

    Raises
    ------
    NotFoundError
    """
    return load_taken(session, survey_id).counting()
