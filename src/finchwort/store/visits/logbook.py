"""The logbook: one line for whatever happened, newest first."""

from __future__ import annotations

import re
from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import ColumnElement, and_, or_, select
from sqlalchemy import text as text_of
from sqlalchemy.dialects.mysql import match
from sqlalchemy.orm import Session, joinedload, lazyload, load_only

from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.models import Adjustment, Entry, Printer, Visit
from finchwort.store.records import Logged, utcnow

PAGE = 50
NOTE = "note"
NEAR = 200
"""So many of the newest lines are looked through before the index of words is asked."""
STOPWORDS = frozenset(
    [
        "a",
        "about",
        "an",
        "are",
        "as",
        "at",
        "be",
        "by",
        "com",
        "de",
        "en",
        "for",
        "from",
        "how",
        "i",
        "in",
        "is",
        "it",
        "la",
        "of",
        "on",
        "or",
        "that",
        "the",
        "this",
        "to",
        "was",
        "what",
        "when",
        "where",
        "who",
        "will",
        "with",
        "und",
        "www",
    ]
)
"""Words that MariaDB leaves out of an index unless it is told otherwise (its documentation, from memory)."""
_indexes: dict[str, tuple[int, frozenset[str]]] = {}
_WORDS = re.compile(r"\w+")


def write_entry(
    session: Session,
    kind: str,
    title: str,
    detail: str = "",
    *,
    at: datetime | None = None,
    printer: Printer | None = None,
    visit: Visit | None = None,
    subject: Logged | None = None,
) -> Entry:
    """Add a line to the logbook within the transaction of what it tells of, its subject."""
    entry = Entry(
        kind=kind,
        title=title[:200],
        detail=detail[:2000],
        at=at or utcnow(),
        printer=printer,
        visit_id=visit.id if visit else None,
        subject_kind=subject.subject if subject else None,
        subject_id=subject.id if subject else None,
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
    until: datetime | None = None,
    limit: int = PAGE,
) -> list[Entry]:
    """Find entries, newest first.

    Parameters
    ----------
    text : str
        For every word a word in title or detail must begin so, or it must occur in the printer's name.
    printer_id, kind : optional
        Only this printer's, only this kind.
    before : (datetime, int), optional
        Time and id of the last entry of the page before.
    until : datetime, optional
        Only what was written before it, UTC.
    limit : int

    Returns
    -------
    list of Entry
        At most ``limit``.
    """
    narrowed: list[ColumnElement[bool]] = [Entry.deleted_at.is_(None)]
    if printer_id is not None:
        narrowed.append(Entry.printer_id == printer_id)
    if kind is not None:
        narrowed.append(Entry.kind == kind)
    if before is not None:
        at, ident = before
        narrowed.append(or_(Entry.at < at, and_(Entry.at == at, Entry.id < ident)))
    if until is not None:
        narrowed.append(Entry.at < until)
    wish, by_index = _wanted(session, text)
    newest = (Entry.at.desc(), Entry.id.desc())
    # a line shows its printer's name, and nothing else of it
    name = joinedload(Entry.printer).options(load_only(Printer.name), lazyload("*"))
    query = select(Entry).options(name).where(*narrowed).order_by(*newest).limit(limit)
    if not wish:
        return list(session.scalars(query))
    # a common word is found among the newest lines at once; only what is rare is looked up in the index of words
    near = select(Entry.id).where(*narrowed).order_by(*newest).limit(NEAR).subquery()
    results = list(session.scalars(query.join(near, near.c.id == Entry.id).where(*wish)))
    if len(results) >= limit:
        return results
    return list(session.scalars(query.where(*wish, *by_index)))


def _wanted(session: Session, text: str) -> tuple[list[ColumnElement[bool]], list[ColumnElement[bool]]]:
    """What a line must hold, and what the index of words can say of it beforehand."""
    wish: list[ColumnElement[bool]] = []
    begins: set[str] = set()
    for word in text.split()[:10]:
        pattern = "%" + word.replace("|", "||").replace("%", "|%").replace("_", "|_") + "%"
        like = [Entry.title.like(pattern, escape="|"), Entry.detail.like(pattern, escape="|")]
        named = session.scalars(select(Printer.id).where(Printer.name.like(pattern, escape="|"))).all()
        parts = _WORDS.findall(word)
        if named or not parts:
            wish.append(or_(*like, Entry.printer_id.in_(named)))
            continue
        begins |= set(parts)
        start = r"\b" + r"\W+".join(parts)
        wish.append(or_(Entry.title.regexp_match(start), Entry.detail.regexp_match(start)))
    least, common = _indexed(session)
    known = [part for part in begins if len(part) >= least and part.lower() not in common]
    # the longest first: it is the rarest, mostly
    against = " ".join(f"+{part}*" for part in sorted(known, key=lambda part: (-len(part), part)))
    if not against:
        return wish, []
    return wish, [match(Entry.title.expression, Entry.detail.expression, against=against).in_boolean_mode()]


def _indexed(session: Session) -> tuple[int, frozenset[str]]:
    """Length from which on words are in the index, and those that are left out of it: a database of one's own has its own."""
    where = str(session.get_bind().engine.url)
    if where not in _indexes:
        least, stops = session.execute(
            text_of("SELECT @@innodb_ft_min_token_size, @@innodb_ft_enable_stopword")
        ).one()
        _indexes[where] = int(least), STOPWORDS if int(stops) else frozenset()
    return _indexes[where]


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


def tells_of(model: type[Logged]) -> ColumnElement[bool]:
    """Condition that joins a line to the record it tells of."""
    return and_(Entry.subject_kind == model.subject, Entry.subject_id == model.id)


def set_entries_deleted(session: Session, record: Logged, at: datetime | None) -> None:
    """Hide or show the entries that tell of a record."""
    told = select(Entry).where(Entry.subject_kind == record.subject, Entry.subject_id == record.id)
    for entry in session.scalars(told):
        entry.deleted_at = at


def set_visit_entries_deleted(session: Session, visit: Visit) -> None:
    """Hide the entries of a visit that was deleted, or show them again, but for what was deleted on its own."""
    entries = session.scalars(select(Entry).where(Entry.visit_id == visit.id)).all()
    hidden = {} if visit.deleted_at else _deleted_subjects(session, entries)
    for entry in entries:
        entry.deleted_at = visit.deleted_at or hidden.get((entry.subject_kind, entry.subject_id))


def _deleted_subjects(
    session: Session, entries: Sequence[Entry]
) -> dict[tuple[str | None, int | None], datetime]:
    """When the subjects of entries were deleted on their own; an adjustment goes with its survey."""
    hidden: dict[tuple[str | None, int | None], datetime] = {}
    for model in Logged.__subclasses__():
        numbers = [entry.subject_id for entry in entries if entry.subject_kind == model.subject]
        for record in session.scalars(select(model).where(model.id.in_(numbers))) if numbers else ():
            at = record.deleted_at
            if at is None and isinstance(record, Adjustment):
                at = record.survey.deleted_at
            if at is not None:
                hidden[record.subject, record.id] = at
    return hidden


def washed_at(session: Session, printer: Printer, surface: str) -> datetime | None:
    """When a surface of a printer was last washed, as far as it was written down."""
    query = select(Entry.at).where(
        Entry.printer_id == printer.id,
        Entry.kind == "printer",
        Entry.title == f"{printer.name}: {surface} was washed"[:200],
        Entry.deleted_at.is_(None),
    )
    return session.scalars(query.order_by(Entry.id.desc()).limit(1)).first()


def newest_entry(session: Session, printer: Printer) -> datetime | None:
    """When something was last written down about a printer."""
    query = select(Entry.at).where(Entry.printer_id == printer.id, Entry.deleted_at.is_(None))
    return session.scalars(query.order_by(Entry.id.desc()).limit(1)).first()
