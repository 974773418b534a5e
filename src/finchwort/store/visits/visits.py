"""Visits and their rounds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Select, select
from sqlalchemy.orm import Session, joinedload

from finchwort.store.errors import NotFoundError
from finchwort.store.models import Adjustment, SurveyRecord, Turning, Visit


@dataclass(frozen=True)
class Round:
    """A survey, the turning after it when there was one, and what else was done to the bed."""

    survey: SurveyRecord
    turning: Turning | None
    adjustments: tuple[Adjustment, ...] = ()

    @property
    def moved(self) -> bool:
        """Whether the bed was moved after this survey, so that it no longer holds."""
        return self.turning is not None or any(adjustment.kind != "mesh" for adjustment in self.adjustments)


def get_visit(session: Session, visit_id: int, *, deleted: bool = False, lock: bool = False) -> Visit:
    """Return a visit.

    Raises
    ------
    NotFoundError
        When it, or its printer, was deleted.
    """
    query = select(Visit).where(Visit.id == visit_id).options(joinedload(Visit.printer))
    if lock:
        query = query.with_for_update(of=Visit).execution_options(populate_existing=True)
    visit = session.scalars(query).first()
    if visit is None or (visit.deleted_at is not None and not deleted):
        raise NotFoundError("There is no such visit. It may have been deleted.")
    if visit.printer.deleted_at is not None:
        raise NotFoundError("The printer of this visit was deleted. Bring the printer back first.")
    return visit


def list_visits(session: Session, printer_id: int) -> list[Visit]:
    """Return the visits of a printer, newest first."""
    query = (
        select(Visit)
        .where(Visit.printer_id == printer_id, Visit.deleted_at.is_(None))
        .order_by(Visit.started_at.desc(), Visit.id.desc())
    )
    return list(session.scalars(query))


def turnings_of(printer_id: int) -> Select[Turning]:
    """Ask for all turnings of a printer that were not taken back."""
    return (
        select(Turning)
        .join(SurveyRecord)
        .join(Visit)
        .where(
            Visit.printer_id == printer_id,
            Visit.deleted_at.is_(None),
            SurveyRecord.deleted_at.is_(None),
            Turning.deleted_at.is_(None),
        )
    )


def list_rounds(session: Session, visit: Visit) -> list[Round]:
    """Return the surveys of a visit in order, each with the turning after it."""
    return rounds_of(session, [visit.id]).get(visit.id, [])


def rounds_of(session: Session, visit_ids: Sequence[int]) -> dict[int, list[Round]]:
    """Return the rounds of several visits at once, by visit."""
    surveys = session.scalars(
        select(SurveyRecord)
        .where(SurveyRecord.visit_id.in_(visit_ids), SurveyRecord.deleted_at.is_(None))
        .order_by(SurveyRecord.id)  # as they were stored: a clock may jump back
    ).all()
    turnings = session.scalars(
        select(Turning).where(Turning.survey_id.in_([s.id for s in surveys]), Turning.deleted_at.is_(None))
    )
    after = {turning.survey_id: turning for turning in turnings}
    adjusted: dict[int, list[Adjustment]] = {}
    for item in session.scalars(
        select(Adjustment)
        .where(Adjustment.survey_id.in_([s.id for s in surveys]), Adjustment.deleted_at.is_(None))
        .order_by(Adjustment.id)
    ):
        adjusted.setdefault(item.survey_id, []).append(item)
    rounds: dict[int, list[Round]] = {}
    for survey in surveys:
        rounds.setdefault(survey.visit_id, []).append(
            Round(survey, after.get(survey.id), tuple(adjusted.get(survey.id, ())))
        )
    return rounds


def verdict_of(survey: SurveyRecord) -> str:
    """Give the judgement of a stored survey: one word for every page.

    It is written down anew whenever what it stands on changes, see `finchwort.store.surveys.rejudge`.
    """
    return survey.verdict
