"""The newest visit of a printer."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.models import Visit


def newest_visit(session: Session, printer_id: int) -> Visit | None:
    """The newest visit of a printer: its setup bar says what lies there and how warm it is today."""
    query = select(Visit).where(Visit.printer_id == printer_id, Visit.deleted_at.is_(None))
    return session.scalars(query.order_by(Visit.started_at.desc(), Visit.id.desc()).limit(1)).first()
