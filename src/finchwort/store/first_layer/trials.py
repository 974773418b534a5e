"""Judged prints as they were recorded."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.first_layer.models import Trial


def trials_of(session: Session, visit_id: int, kind: str = "ladder") -> list[Trial]:
    """Return a visit's trials of a kind, oldest first."""
    query = select(Trial).where(Trial.visit_id == visit_id, Trial.kind == kind, Trial.deleted_at.is_(None))
    return list(session.scalars(query.order_by(Trial.id)))
