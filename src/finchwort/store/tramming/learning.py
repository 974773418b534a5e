"""How far each knob stands from its ends, by what was turned."""

from __future__ import annotations

import math
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.store.models import Printer, SurveyRecord, Turning, TurningScrew, Visit


def room_of(
    session: Session, printer: Printer, before: datetime | None = None
) -> list[tuple[float, float]] | None:
    """Turns left at each screw for tightening and for loosening; none when nobody was ever asked.

    With ``before``, as they were at that time.
    """
    if all(screw.to_tight is None and screw.to_loose is None for screw in printer.screws):
        return None
    results = []
    for screw in printer.screws:
        since = screw.limits_at or screw.created_at
        query = (
            select(func.coalesce(func.sum(TurningScrew.done), 0.0))
            .join(Turning, Turning.id == TurningScrew.turning_id)
            .join(SurveyRecord, SurveyRecord.id == Turning.survey_id)
            .join(Visit, Visit.id == SurveyRecord.visit_id)
            .where(
                Visit.printer_id == printer.id,
                Visit.deleted_at.is_(None),
                SurveyRecord.deleted_at.is_(None),
                Turning.deleted_at.is_(None),
                Turning.turned_at >= since,
                TurningScrew.name == screw.name,
            )
        )
        if before is not None:
            query = query.where(Turning.turned_at <= before)
        turned = session.scalar(query) or 0.0
        tight = math.inf if screw.to_tight is None else screw.to_tight - turned
        loose = math.inf if screw.to_loose is None else screw.to_loose + turned
        results.append((tight, loose))
    return results
