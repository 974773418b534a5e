"""The logbook: one line for whatever happened, newest first."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import and_, or_, select
from sqlalchemy.orm import Session

from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.models import Entry, Printer, SurveyRecord, Turning, Visit, utcnow

PAGE = 50
NOTE = "note"


def write_entry(
    session: Session,
    kind: str,
    title: str,
    detail: str = "",
    *,
    at: datetime | None = None,
    printer: Printer | None = None,
    visit: Visit | None = None,
    survey: SurveyRecord | None = None,
    turning: Turning | None = None,
    test_id: int | None = None,
    adjustment_id: int | None = None,
    offset_id: int | None = None,
    trial_id: int | None = None,
    change_id: int | None = None,
    case_id: int | None = None,
) -> Entry:
    """Add a line to the logbook within the transaction of what it tells of."""
    entry = Entry(
        kind=kind,
        title=title[:200],
        detail=detail[:2000],
        at=at or utcnow(),
        printer=printer,
        visit_id=visit.id if visit else None,
        survey_id=survey.id if survey else None,
        turning_id=turning.id if turning else None,
        test_id=test_id,
        adjustment_id=adjustment_id,
        offset_id=offset_id,
        trial_id=trial_id,
        change_id=change_id,
        case_id=case_id,
    )
    session.add(entry)
    session.flush()
    return entry


def search_entries(
    session: Session,
    text: str = "",
    *,
    printer_id: int | None = None,
    kind: str | None = None,
    before: tuple[datetime, int] | None = None,
    limit: int = PAGE,
) -> list[Entry]:
    """Find entries, newest first.

    Parameters
    ----------
    text : str
        Every word must occur in title, detail or printer name.
    printer_id, kind : optional
        Only this printer's, only this kind.
    before : (datetime, int), optional
        Time and id of the last entry of the page before.
    limit : int

    Returns
    -------
    list of Entry
        At most ``limit``.
    """
    query = select(Entry).outerjoin(Entry.printer).where(Entry.deleted_at.is_(None))
    for word in text.split()[:10]:
        pattern = "%" + word.replace("|", "||").replace("%", "|%").replace("_", "|_") + "%"
        query = query.where(
            or_(
                Entry.title.like(pattern, escape="|"),
                Entry.detail.like(pattern, escape="|"),
                Printer.name.like(pattern, escape="|"),
            )
        )
    if printer_id is not None:
        query = query.where(Entry.printer_id == printer_id)
    if kind is not None:
        query = query.where(Entry.kind == kind)
    if before is not None:
        at, ident = before
        query = query.where(or_(Entry.at < at, and_(Entry.at == at, Entry.id < ident)))
    return list(session.scalars(query.order_by(Entry.at.desc(), Entry.id.desc()).limit(limit)))


def add_note(
    session: Session, text: str, *, printer: Printer | None = None, at: datetime | None = None
) -> Entry:
    """Write a note of the person's own."""
    title, _, detail = text.strip().partition("\n")
    if len(title) > 200:
        title, detail = title[:197] + "…", text.strip()
    return write_entry(session, NOTE, title, detail.strip(), at=at, printer=printer)


def set_note_deleted(session: Session, entry_id: int, deleted: bool) -> Entry:
    """Delete a note, or bring it back."""
    entry = session.get(Entry, entry_id, with_for_update=True, populate_existing=True)
    if entry is None or (not deleted and entry.deleted_at is None):
        raise NotFoundError("There is no such entry.")
    if entry.kind != NOTE:
        raise ConflictError("Only notes can be deleted here; a survey is deleted in its visit.")
    entry.deleted_at = utcnow() if deleted else None
    return entry


def set_entries_deleted(session: Session, at: datetime | None, **of: int) -> None:
    """Hide or show the entries that tell of a record (by ``survey_id=`` and the like)."""
    query = select(Entry)
    for column, value in of.items():
        query = query.where(getattr(Entry, column) == value)
    for entry in session.scalars(query):
        entry.deleted_at = at
