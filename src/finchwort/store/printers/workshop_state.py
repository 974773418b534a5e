"""The state that the workshop's page stands on."""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.store.models import Finding, Printer, PrinterSurface, Visit, Workshop
from finchwort.store.records import utcnow
from finchwort.store.tramming.operator import state_of


def state_of_workshop(session: Session) -> tuple[Any, ...]:
    """Tell the state that the workshop's page stands on: it changes with whatever is written down, and every hour.

    Records write lines into the logbook; what writes none carries a version, or is only ever added.
    """
    asked = (
        select(func.count(Printer.id), func.sum(Printer.version), func.max(Printer.changed_at)),
        select(func.sum(PrinterSurface.prints_since_wash), func.sum(PrinterSurface.coats)),
        select(func.count(Visit.id), func.sum(Visit.version), func.count(Visit.deleted_at)),
        select(
            select(func.max(Finding.id)).scalar_subquery(),
            select(func.max(Workshop.version)).scalar_subquery(),
        ),
    )
    results = [value for query in asked for value in session.execute(query).one()]
    return (*state_of(session), *results, utcnow().strftime("%Y-%m-%d %H"))
