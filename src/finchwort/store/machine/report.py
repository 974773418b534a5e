"""What a machine said of itself last."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.models import MachineTold


def newest_told(session: Session, printer_id: int, before: int | None = None) -> MachineTold | None:
    """Return what a machine said last, or before another time."""
    query = select(MachineTold).where(MachineTold.printer_id == printer_id)
    if before is not None:
        query = query.where(MachineTold.id < before)
    return session.scalars(query.order_by(MachineTold.id.desc()).limit(1)).first()
