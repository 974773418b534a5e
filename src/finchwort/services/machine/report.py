"""What machines said of themselves, held against the book; what is not as it was is an event."""

from __future__ import annotations

from dataclasses import asdict, fields, replace
from hashlib import blake2b
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.compensation import make_mesh
from finchwort.core.machine import Book, Compared, Rows, Told, compare
from finchwort.messages.remarks import words
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.visits.changes import record_change
from finchwort.services.visits.follow_up import tick_if_asked
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.machine.locks import lock_printer
from finchwort.store.machine.report import newest_told
from finchwort.store.models import Entry, MachineTold, Printer
from finchwort.store.surveys.surveys import load_readings
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.logbook import tells_of

ONCE = ("offset", "mesh")
"""Held against the book: said once, until the book is put right."""


def record_told(session: Session, printer: Printer, told: Told, job_id: int) -> tuple[Compared, ...]:
    """Keep what a machine said, hold it against the book, and write down what is not as it was."""
    before = newest_told(session, printer.id)
    if before is not None and before.job_id == job_id:
        return compared(session, printer, before)
    return _record(session, printer, told, before, f"told-{job_id}", job_id)


def record_pasted(session: Session, printer: Printer, told: Told, client_key: str) -> tuple[Compared, ...]:
    """Keep what was copied of a machine's settings; what the text leaves out stays as the machine said it before.

    Returns
    -------
    tuple of Compared
        Of what the text tells.
    """
    lock_printer(session, printer.id)
    before = newest_told(session, printer.id)
    was = told_of(before) if before is not None else Told()
    text = {field.name for field in fields(Told) if getattr(told, field.name) != getattr(Told(), field.name)}
    whole = replace(was, **{name: getattr(told, name) for name in text})
    record = _record(
        session,
        printer,
        whole,
        before,
        f"told-{blake2b(client_key.encode(), digest_size=8).hexdigest()}",
        None,
    )
    return tuple(item for item in record if item.name in text)


def _record(
    session: Session, printer: Printer, told: Told, before: MachineTold | None, key: str, job_id: int | None
) -> tuple[Compared, ...]:
    book = book_of(session, printer, before)
    result = compare(told, book)
    for item in result:
        if item.event is None or (item.event in ONCE and _said_already(session, printer, item.event)):
            continue
        note = words(item.remark) if item.remark else ""
        if item.says and item.book:
            note = f"It says {item.says}; the book has {item.book}."
        record_change(session, printer.id, item.event, client_key=f"{key}-{item.event}", note=note[:500])
    session.add(MachineTold(printer_id=printer.id, job_id=job_id, told=_kept(told)))
    tick_if_asked(session, printer, "values", client_key=f"{key}-values")
    session.flush()
    return result


def compared(session: Session, printer: Printer, record: MachineTold) -> tuple[Compared, ...]:
    """Hold what a machine said against the book as it is now."""
    before = newest_told(session, printer.id, record.id)
    return compare(told_of(record), book_of(session, printer, before))


def told_of(record: MachineTold) -> Told:
    """Read what was kept."""
    data = dict(record.told)
    mesh = data.pop("mesh")
    return Told(**data, mesh=None if mesh is None else tuple(tuple(row) for row in mesh))


def book_of(session: Session, printer: Printer, before: MachineTold | None) -> Book:
    """Gather what is written down of a machine."""
    offset = newest_offset(session, printer.id)
    return Book(
        None if before is None else told_of(before),
        None if offset is None else offset.parts.get("printer"),
        _mesh(session, printer),
    )


def _mesh(session: Session, printer: Printer) -> Rows | None:
    stored = stored_mesh(session, printer) if printer.compensation == "mesh" else None
    if stored is None:
        return None
    data = stored.record.data
    made = make_mesh(load_readings(session, stored.record.survey_id), int(data["columns"]), int(data["rows"]))
    return tuple(tuple(float(value) for value in row) for row in made.heights)


def _said_already(session: Session, printer: Printer, event: str) -> bool:
    """Whether the same was written down since the book was last put right."""
    if event == "offset":
        offset = newest_offset(session, printer.id)
        mark = mark_of(session, offset) if offset is not None else 0
    else:
        mesh = stored_mesh(session, printer)
        mark = mark_of(session, mesh.record) if mesh is not None else 0
    query = (
        select(Entry.id)
        .join(MachineChange, tells_of(MachineChange))
        .where(Entry.printer_id == printer.id, Entry.id > mark)
        .where(MachineChange.what == event, MachineChange.deleted_at.is_(None))
    )
    return session.scalars(query.limit(1)).first() is not None


def _kept(told: Told) -> dict[str, Any]:
    data = asdict(told)
    return data | {"mesh": None if told.mesh is None else [list(row) for row in told.mesh]}
