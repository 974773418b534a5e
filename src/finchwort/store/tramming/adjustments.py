"""Adjustments of a printer as they were recorded."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.models import Adjustment, SurveyRecord, Visit


def newest_adjustment(session: Session, printer_id: int, kind: str) -> Adjustment | None:
    """Return the newest record of a kind for a printer."""
    query = (
        select(Adjustment)
        .join(SurveyRecord)
        .join(Visit)
        .where(
            Adjustment.printer_id == printer_id,
            Adjustment.kind == kind,
            Adjustment.deleted_at.is_(None),
            SurveyRecord.deleted_at.is_(None),
            Visit.deleted_at.is_(None),
        )
        .order_by(Adjustment.id.desc())
        .limit(1)
    )
    return session.scalars(query).first()
