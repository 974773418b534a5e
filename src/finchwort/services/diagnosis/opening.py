"""Cases that are opened: with what was told, and with what the print was made."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis.cases import add_event, check_sign, with_kind
from finchwort.services.files.facts import facts_of_newest
from finchwort.services.visits.visits import STRIP
from finchwort.store.diagnosis.cases import (
    ENDED,
    closed_as,
    list_cases,
)
from finchwort.store.diagnosis.models import Trouble
from finchwort.store.errors import ConflictError
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.records import sent_before, utcnow
from finchwort.store.visits.changes import changes_since
from finchwort.store.visits.logbook import newest_entry, write_entry
from finchwort.store.visits.visits import get_visit

IDLE_DAYS = 21
"""Nothing in the logbook for so long: the printer stood unused (ours)."""


def open_case(
    session: Session,
    printer_id: int,
    *,
    client_key: str,
    words: str = "",
    place: tuple[float, float] | None = None,
    circumstances: Sequence[str] = (),
    signs: Sequence[tuple[str, str]] = (),
    before: Sequence[tuple[str, str]] = (),
    visit_id: int | None = None,
    strip: dict[str, Any] | None = None,
    at: datetime | None = None,
) -> Trouble:
    """Open a case on a printer.

    Parameters
    ----------
    words : str
        In the person's own words.
    place : (x, y), optional
        Where on the bed, mm.
    circumstances : sequence of str
        Keys of `finchwort.knowledge.Circumstance`.
    signs : sequence of (sign, "yes" or "no")
    before : sequence of (what was tried before, what came of it)
        See `finchwort.core.diagnosis.Before` and `finchwort.core.diagnosis.Came`.
    visit_id : int, optional
        Whose setup is taken; otherwise that of the newest visit.
    strip : dict, optional
        What of the setup is otherwise, see ``SETUP``.

    Raises
    ------
    ChoiceError, OutOfRangeError, ConflictError
    """
    printer = get_printer(session, printer_id)
    own = with_kind(printer, strip or {})
    known = sent_before(
        session,
        Trouble,
        client_key,
        "Another case was opened with this key, or it was taken back since.",
        lambda there: (
            _opened_with(there, client_key) == [tuple(sign) for sign in signs]
            and _opened_after(there, client_key) == [tuple(item) for item in before]
            and own.items() <= there.strip.items()
        ),
        printer_id=printer_id,
        words=words.strip(),
        circumstances=list(dict.fromkeys(circumstances)),
        x=place[0] if place else None,
        y=place[1] if place else None,
    )
    if known is not None:
        return known
    strange = set(circumstances) - {circumstance.key for circumstance in beliefs().circumstances}
    if strange:
        raise ChoiceError("diagnosis.nothing_known_circumstance", strange=strange.pop())
    if place is not None:
        bed = bed_of(printer)
        if not (bed.x_min <= place[0] <= bed.x_max and bed.y_min <= place[1] <= bed.y_max):
            raise OutOfRangeError("diagnosis.place_beside_printable_area")
    visit = get_visit(session, visit_id) if visit_id is not None else _newest_visit(session, printer_id, at)
    if visit is not None and visit.printer_id != printer_id:
        raise ConflictError("That visit was at another printer.")
    result = _setup(session, printer, visit, at)
    case = Trouble(
        printer_id=printer_id,
        visit_id=visit.id if visit and visit_id is not None else None,
        opened_at=at or utcnow(),
        client_key=client_key,
        words=words.strip(),
        x=place[0] if place else None,
        y=place[1] if place else None,
        circumstances=list(dict.fromkeys(circumstances)),
        strip=result | own,
    )
    session.add(case)
    session.flush()
    for place_in, (sign, answer) in enumerate(signs):
        check_sign(sign, answer)
        add_event(session, case, "sign", sign, answer, client_key=_sign_key(client_key, place_in), at=at)
    for place_in, (tried, came) in enumerate(before):
        if tried not in {item.key for item in beliefs().before} or came not in ENDED:
            raise ChoiceError("diagnosis.came_of_it")
        key = f"{client_key[:33]}b{place_in}"
        add_event(session, case, "before", tried, came, client_key=key, at=at)
    title = words.strip()[:120] or "A first layer that does not stick"
    write_entry(
        session,
        "case",
        f"Case: {title}",
        at=at,
        printer=printer,
        visit=visit if visit_id else None,
        subject=case,
    )
    session.refresh(case)
    return case


def _opened_after(case: Trouble, client_key: str) -> list[tuple[str, str]]:
    """What was told of before when a case was opened."""
    by_key = {event.client_key: (event.key, event.value) for event in case.events if event.kind == "before"}
    results: list[tuple[str, str]] = []
    while (item := by_key.get(f"{client_key[:33]}b{len(results)}")) is not None:
        results.append(item)
    return results


def setup_for(session: Session, printer: Printer) -> tuple[dict[str, Any], bool]:
    """What a case of today would be opened with, and whether that is from a visit that is still open."""
    visit = _newest_visit(session, printer.id)
    return _setup(session, printer, visit), visit is not None and visit.ended_at is None


def _setup(
    session: Session, printer: Printer, visit: Visit | None, at: datetime | None = None
) -> dict[str, Any]:
    """What the visit says, and over it what a file says that was looked through lately for this printer."""
    if visit is None:
        result: dict[str, Any] = {"first_layer": printer.first_layer}
    else:
        result = {name: getattr(visit, name) for name in STRIP} | {"taken_at": visit.started_at.isoformat()}
    return result | facts_of_newest(session, printer, at or utcnow())


def _sign_key(client_key: str, place: int) -> str:
    """The key of a sign that a case was opened with."""
    return f"{client_key[:33]}-{place}"


def _opened_with(case: Trouble, client_key: str) -> list[tuple[str, str]]:
    """The signs that a case was opened with, those too that were taken back since."""
    by_key = {event.client_key: (event.key, event.value) for event in case.events}
    results: list[tuple[str, str]] = []
    while (item := by_key.get(_sign_key(client_key, len(results)))) is not None:
        results.append(item)
    return results


def _newest_visit(session: Session, printer_id: int, at: datetime | None = None) -> Visit | None:
    query = select(Visit).where(Visit.printer_id == printer_id, Visit.deleted_at.is_(None))
    if at is not None:
        query = query.where(Visit.started_at <= at)
    return session.scalars(query.order_by(Visit.started_at.desc(), Visit.id.desc()).limit(1)).first()


def proposed_circumstances(session: Session, printer: Printer) -> list[str]:
    """What changed since the last good print, as far as it was written down: since the last case of this printer was closed."""
    last = next(
        (end for case in list_cases(session, printer_id=printer.id) if (end := closed_as(case))), None
    )
    since = last.at if last else None
    known = {circumstance.key for circumstance in beliefs().circumstances}
    results = [change.what for change in changes_since(session, printer.id, since)]
    newest = newest_entry(session, printer)
    if newest is not None and (utcnow() - newest).days >= IDLE_DAYS:
        results.append("idle")
    return [what for what in dict.fromkeys(results) if what in known]
