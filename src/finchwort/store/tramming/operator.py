"""The state that what is known of a hand stands on."""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.store.models import Entry

NEWEST = 64
"""So many lines may be under way at once."""


def state_of(session: Session) -> tuple[Any, ...]:
    """Tell the records by their place, the newest lines of the logbook, and which lines were taken back."""
    # a line with a lower number may be committed after one with a higher: the newest are told by their sum
    ids = select(Entry.id).order_by(Entry.id.desc()).limit(NEWEST).subquery()
    newest = session.execute(select(func.max(ids.c.id), func.sum(ids.c.id))).one()
    gone = session.execute(
        select(func.count(), func.sum(Entry.id), func.max(Entry.deleted_at)).where(
            Entry.deleted_at.is_not(None)
        )
    ).one()
    return (session.get_bind().engine.url, *newest, *gone)
