"""Prints as they were recorded."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import Integer, and_, cast, func, or_, select
from sqlalchemy.orm import Session, joinedload, lazyload

from finchwort.core.prints import PrintOutcome, Run
from finchwort.store.errors import NotFoundError
from finchwort.store.models import Printer
from finchwort.store.prints.models import PrintLook, PrintRun

PAGE = 30
TOLD = (PrintOutcome.HELD.value, PrintOutcome.LET_GO.value, PrintOutcome.TOO_WELL.value)
"""What tells of a surface; any other end says nothing of it."""
BAND = 5
"""Bed temperatures are told in steps of so many degrees."""
MOST_RUNS = 5_000
"""So many of the newest prints say how they let go over time."""


def get_print(session: Session, print_id: int, *, lock: bool = False) -> PrintRun:
    """Return a print.

    Raises
    ------
    NotFoundError
    """
    query = select(PrintRun).where(PrintRun.id == print_id).options(joinedload(PrintRun.printer))
    if lock:
        query = query.with_for_update(of=PrintRun).execution_options(populate_existing=True)
    found = session.scalars(query).first()
    if found is None or found.deleted_at is not None or found.printer.deleted_at is not None:
        raise NotFoundError("There is no such print. It may have been deleted.")
    return found


def looks_of(print_: PrintRun) -> list[PrintLook]:
    """Return the looks at a print, in the order of time, without those that were taken back."""
    return [look for look in print_.looks if look.deleted_at is None]


def open_prints(session: Session, printer_id: int | None = None) -> list[PrintRun]:
    """Return the prints of which nobody told what came of them, the oldest first."""
    named = joinedload(PrintRun.printer).options(lazyload("*"))
    query = (
        select(PrintRun)
        .join(Printer)
        .options(named)
        .where(PrintRun.outcome.is_(None), PrintRun.deleted_at.is_(None), Printer.deleted_at.is_(None))
    )
    if printer_id is not None:
        query = query.where(PrintRun.printer_id == printer_id)
    return list(session.scalars(query.order_by(PrintRun.started_at, PrintRun.id)))


def ended_prints(
    session: Session,
    text: str = "",
    printer_id: int | None = None,
    *,
    after: int | None = None,
    limit: int = PAGE,
) -> list[PrintRun]:
    """Return the prints of which it was told, newest first.

    Parameters
    ----------
    text : str
        Every word must occur in a print's name, surface, material or note, or in its printer's name.
    printer_id : int, optional
    after : int, optional
        Number of the last print of the page before.
    limit : int

    Raises
    ------
    NotFoundError
        When there is no such page.
    """
    named = joinedload(PrintRun.printer).options(lazyload("*"))
    names = session.execute(select(Printer.id, Printer.name).where(Printer.deleted_at.is_(None)))
    there = {int(number): str(name) for number, name in names}
    # by their numbers: joined, the database sorts all prints of all printers before it takes the first of them
    query = (
        select(PrintRun)
        .options(named)
        .where(
            PrintRun.outcome.is_not(None), PrintRun.deleted_at.is_(None), PrintRun.printer_id.in_(list(there))
        )
    )
    if printer_id is not None:
        query = query.where(PrintRun.printer_id == printer_id)
    for word in text.split()[:8]:
        columns = (PrintRun.name, PrintRun.surface, PrintRun.material, PrintRun.note)
        called = [number for number, name in there.items() if word.casefold() in name.casefold()]
        found = [column.contains(word, autoescape=True) for column in columns]
        query = query.where(or_(*found, PrintRun.printer_id.in_(called)))
    if after is not None:
        last = session.get(PrintRun, after)
        if last is None:
            raise NotFoundError("That page of the prints does not exist.")
        query = query.where(
            or_(
                PrintRun.started_at < last.started_at,
                and_(PrintRun.started_at == last.started_at, PrintRun.id < last.id),
            )
        )
    return list(session.scalars(query.order_by(PrintRun.started_at.desc(), PrintRun.id.desc()).limit(limit)))


def failures_after(session: Session, printer_id: int, minutes: float) -> tuple[int, float]:
    """Count the prints of a printer that let go after so many minutes, and the hours they all ran after that."""
    beyond = func.greatest(PrintRun.ran - minutes, 0.0)
    gone = cast(and_(PrintRun.outcome == PrintOutcome.LET_GO.value, PrintRun.ran > minutes), Integer)
    query = select(func.coalesce(func.sum(gone), 0), func.coalesce(func.sum(beyond), 0.0)).where(
        PrintRun.printer_id == printer_id,
        PrintRun.outcome.is_not(None),
        PrintRun.ran.is_not(None),
        PrintRun.deleted_at.is_(None),
    )
    failures, ran = session.execute(query).one()
    return int(failures), float(ran) / 60


def runs_of(session: Session, printer_id: int | None = None) -> list[Run]:
    """Return how long the newest prints ran."""
    query = select(PrintRun.ran, PrintRun.outcome == PrintOutcome.LET_GO.value).where(
        PrintRun.outcome.is_not(None), PrintRun.ran.is_not(None), PrintRun.deleted_at.is_(None)
    )
    if printer_id is not None:
        query = query.where(PrintRun.printer_id == printer_id)
    rows = session.execute(query.order_by(PrintRun.started_at.desc()).limit(MOST_RUNS))
    return [Run(float(ran or 0.0) / 60, bool(gone)) for ran, gone in rows]


def counted_by(session: Session, *columns: Any, since: datetime | None = None) -> list[tuple[Any, ...]]:
    """Count what came of prints for each value of some columns.

    Returns
    -------
    list of tuple
        The values, then how many held, let go, held too well, and the newest start.
    """
    counts = [
        func.coalesce(func.sum(cast(PrintRun.outcome == outcome, Integer)), 0).label(outcome)
        for outcome in TOLD
    ]
    query = (
        select(*columns, *counts, func.max(PrintRun.started_at))
        .join(Printer)
        .where(PrintRun.outcome.in_(TOLD), PrintRun.deleted_at.is_(None), Printer.deleted_at.is_(None))
        .group_by(*columns)
    )
    if since is not None:
        query = query.where(PrintRun.started_at >= since)
    return [tuple(row) for row in session.execute(query)]


def bed_band() -> Any:
    """Bed temperature of a print to the nearest step, °C."""
    return (func.round(PrintRun.bed_temperature / BAND) * BAND).label("bed")


def places_let_go(session: Session, printer_id: int) -> list[tuple[float, float]]:
    """Return where prints of a printer let go, mm."""
    query = select(PrintRun.x, PrintRun.y).where(
        PrintRun.printer_id == printer_id,
        PrintRun.outcome == PrintOutcome.LET_GO.value,
        PrintRun.deleted_at.is_(None),
    )
    rows = session.execute(query.order_by(PrintRun.started_at.desc()).limit(500))
    return [(x, y) for x, y in rows if x is not None and y is not None]


def coats_told(session: Session) -> dict[tuple[int, str], list[tuple[int, bool]]]:
    """Return, for each surface of a printer, the prints on a coat: how many were on it before, and whether it let go."""
    query = select(
        PrintRun.printer_id,
        PrintRun.surface,
        PrintRun.surface_prints,
        PrintRun.outcome == PrintOutcome.LET_GO.value,
    ).where(
        PrintRun.outcome.in_(TOLD),
        PrintRun.surface_coats > 0,
        PrintRun.surface_prints.is_not(None),
        PrintRun.deleted_at.is_(None),
    )
    results: dict[tuple[int, str], list[tuple[int, bool]]] = {}
    for printer_id, surface, before, gone in session.execute(query.order_by(PrintRun.id)):
        results.setdefault((printer_id, surface), []).append((before or 0, bool(gone)))
    return results
