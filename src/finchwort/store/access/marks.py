"""Who writes, and that something was written.

Whoever opens a session may say for which device (`act_for`); every record made in it then carries that device.  Every
transaction that writes leaves a mark, so that a page open elsewhere sees within a second that it is out of date.  Marks
are only ever added, so writers do not wait for each other; the tag counts them too, because a mark with a lower number may
be committed after one with a higher.
"""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from sqlalchemy import Result, delete, event, func, insert, select
from sqlalchemy.orm import ORMExecuteState, Session, sessionmaker

from finchwort.store.access.models import Device, Pairing, Written
from finchwort.store.models import JobLine, MachineLine
from finchwort.store.records import FromDevice, utcnow

DEVICE, QUIET, WROTE, MARK = "device", "quiet", "wrote", "mark"
KEPT = timedelta(hours=1)
"""Marks older than this are dropped; a page that slept so long asks for everything anyway."""
DROP_EVERY = 200
SILENT = (Written, Device, Pairing, MachineLine, JobLine)
"""What changes without any page having to know."""


def act_for(session: Session, device_id: int | None) -> None:
    """Say for which device this session writes."""
    session.info[DEVICE] = device_id


def sessions_for(sessions: sessionmaker[Session], device_id: int | None) -> sessionmaker[Session]:
    """Return sessions that write for a device: what a job stores comes from the device that asked for it."""
    return sessionmaker(**sessions.kw | {"info": {DEVICE: device_id}})


def quietly(session: Session) -> Session:
    """Leave no mark for what this session writes: a heartbeat is no news."""
    session.info[QUIET] = True
    return session


def mark_of(session: Session) -> int | None:
    """Return the mark that this session's last commit left; None when it wrote nothing."""
    return session.info.get(MARK)


def tag_of(session: Session) -> str:
    """Return a tag that changes with whatever is written."""
    newest, count = session.execute(select(func.max(Written.id), func.count(Written.id))).one()
    return f"{newest or 0}-{count}"


@event.listens_for(Session, "before_flush")
def _sign(session: Session, *_: object) -> None:
    device = session.info.get(DEVICE)
    for item in session.new:
        if device is not None and isinstance(item, FromDevice) and item.device_id is None:
            item.device_id = device
    if any(not isinstance(item, SILENT) for item in (*session.new, *session.dirty, *session.deleted)):
        session.info[WROTE] = True


@event.listens_for(Session, "do_orm_execute")
def _notice(state: ORMExecuteState) -> Result[Any] | None:
    if not (state.is_insert or state.is_update or state.is_delete):
        return None
    result = state.invoke_statement()
    mapper = state.bind_mapper
    # a link that looks for work changes no row most of the time
    if getattr(result, "rowcount", 1) != 0 and (mapper is None or mapper.class_ not in SILENT):
        state.session.info[WROTE] = True
    return result


@event.listens_for(Session, "before_commit")
def _mark(session: Session) -> None:
    if session.new or session.dirty or session.deleted:
        session.flush()
    if not session.info.pop(WROTE, False) or session.info.get(QUIET):
        return
    made = session.connection().execute(insert(Written).values(created_at=utcnow()))
    key = made.inserted_primary_key
    number = session.info[MARK] = key[0] if key else 0
    if number % DROP_EVERY == 0:
        session.connection().execute(delete(Written).where(Written.created_at < utcnow() - KEPT))


@event.listens_for(Session, "after_rollback")
def _forget(session: Session, *_: object) -> None:
    session.info.pop(WROTE, None)
