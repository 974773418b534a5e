"""What prints add up to: hours of a nozzle and of sheets, and what failures cost."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import Integer, case, cast, func, select
from sqlalchemy.orm import Session

from finchwort.core.prints import PrintOutcome
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.prints.models import PrintRun

FAILED = (PrintOutcome.LET_GO.value, PrintOutcome.OTHER.value)
"""After these the material and the time are lost."""


@dataclass(frozen=True)
class SheetCount:
    """What was printed on a surface: prints, hours, and how many let go."""

    name: str
    prints: int
    hours: float
    let_go: int


@dataclass(frozen=True)
class LostCount:
    """What failures cost: how many, hours, grams, and money where the price is known.

    ``unpriced`` failed without anybody telling the weight or the price.
    """

    prints: int
    hours: float
    grams: float
    cost: float
    unpriced: int


def nozzle_hours(session: Session, printer_id: int) -> tuple[float, datetime | None]:
    """Return for how many hours was printed since the nozzle was changed, and when that was.

    A print that runs counts for nothing yet.
    """
    changed = session.scalars(
        select(func.max(MachineChange.made_at)).where(
            MachineChange.printer_id == printer_id,
            MachineChange.what == "nozzle",
            MachineChange.deleted_at.is_(None),
        )
    ).one()
    query = select(func.coalesce(func.sum(PrintRun.ran), 0.0)).where(
        PrintRun.printer_id == printer_id, PrintRun.deleted_at.is_(None), PrintRun.ran.is_not(None)
    )
    if changed is not None:
        query = query.where(PrintRun.started_at >= changed)
    return float(session.scalars(query).one() or 0.0) / 60, changed


def sheet_counts(session: Session, printer_id: int) -> list[SheetCount]:
    """Return what was printed on each surface of a printer, the most used first."""
    gone = cast(PrintRun.outcome == PrintOutcome.LET_GO.value, Integer)
    hours = func.sum(PrintRun.ran)
    query = (
        select(PrintRun.surface, func.count(), hours, func.sum(gone))
        .where(
            PrintRun.printer_id == printer_id,
            PrintRun.deleted_at.is_(None),
            PrintRun.outcome.is_not(None),
            PrintRun.surface != "",
        )
        .group_by(PrintRun.surface)
        .order_by(hours.desc(), PrintRun.surface)
    )
    return [
        SheetCount(str(name), int(prints), float(ran or 0) / 60, int(let_go or 0))
        for name, prints, ran, let_go in session.execute(query)
    ]


def lost_count(session: Session, printer_id: int | None = None, since: datetime | None = None) -> LostCount:
    """Return what prints cost that let go or ended otherwise: plastic is taken to be laid evenly over the time."""
    laid = func.least(func.coalesce(PrintRun.ran / PrintRun.minutes, 1.0), 1.0)
    grams = PrintRun.grams * laid
    query = select(
        func.count(),
        func.coalesce(func.sum(PrintRun.ran), 0.0),
        func.coalesce(func.sum(grams), 0.0),
        func.coalesce(func.sum(grams * PrintRun.price / 1000), 0.0),
        func.coalesce(
            func.sum(case((PrintRun.grams.is_(None), 1), (PrintRun.price.is_(None), 1), else_=0)), 0
        ),
    ).where(PrintRun.outcome.in_(FAILED), PrintRun.deleted_at.is_(None))
    if printer_id is not None:
        query = query.where(PrintRun.printer_id == printer_id)
    if since is not None:
        query = query.where(PrintRun.started_at >= since)
    prints, ran, lost, cost, unpriced = session.execute(query).one()
    return LostCount(int(prints), float(ran) / 60, float(lost), float(cost), int(unpriced))
