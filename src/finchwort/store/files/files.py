"""Files of prints: kept once, listed, changed, taken back."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.store.errors import NotFoundError
from finchwort.store.files.models import PrintFileRecord
from finchwort.store.records import set_deleted

NOTHING = "There is no such file. It may have been deleted."
MOST_LISTED = 100


def get_file(session: Session, file_id: int) -> PrintFileRecord:
    """Return what was kept of a file.

    Raises
    ------
    NotFoundError
    """
    record = session.get(PrintFileRecord, file_id)
    if record is None or record.deleted_at is not None:
        raise NotFoundError(NOTHING)
    return record


def list_files(session: Session, printer_id: int | None = None) -> list[PrintFileRecord]:
    """Return the newest files, of one printer or of all."""
    query = (
        select(PrintFileRecord)
        .where(PrintFileRecord.deleted_at.is_(None))
        .order_by(PrintFileRecord.id.desc())
        .limit(MOST_LISTED)
    )
    if printer_id is not None:
        query = query.where(PrintFileRecord.printer_id == printer_id)
    return list(session.scalars(query))


def set_file_deleted(session: Session, file_id: int, deleted: bool) -> PrintFileRecord:
    """Delete what was kept of a file, or bring it back."""
    return set_deleted(session, PrintFileRecord, file_id, deleted, NOTHING)
