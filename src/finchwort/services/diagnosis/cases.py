"""Cases: something that did not stick, what was found, tried, and what it turned out to be."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import lower_first
from finchwort.core.diagnosis import CLEAR, Alarm, NextMove
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis.diagnose import diagnose_case, next_offset, remedy_for
from finchwort.services.first_layer.offsets import record_offset, set_offset_deleted
from finchwort.services.visits.visits import STRIP
from finchwort.store.diagnosis.cases import (
    ENDED,
    NOT_BETTER,
    OPEN,
    UNKNOWN_CAUSE,
    closed_as,
    ended_with,
    get_case,
    open_remedies,
)
from finchwort.store.diagnosis.cases import (
    set_event_deleted as store_set_event_deleted,
)
from finchwort.store.diagnosis.models import CaseEvent, Trouble
from finchwort.store.errors import ConflictError, KeyTakenError, NotFoundError
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.models import Printer
from finchwort.store.records import sent_before, set_deleted, utcnow
from finchwort.store.visits.logbook import set_entries_deleted, write_entry

SETUP = (
    *STRIP,
    "speed",
    "fan",
    "width",
    "hole",
    "height_set",
    "foot_width",
    "foot_depth",
    "part_height",
    "prints_since_wash",
    "washed_with",
)
"""What the print that failed was made with."""
MAX_EVENTS = 300
TAKEN = "Something else was recorded with this key."


def with_kind(printer: Printer, setup: Mapping[str, Any]) -> dict[str, Any]:
    """A setup whose kind of surface goes with its surface."""
    data = dict(setup)
    if "surface" in data and not data.get("surface_kind"):
        kinds = {surface.name: surface.kind for surface in printer.surfaces}
        data["surface_kind"] = kinds.get(data["surface"] or "", "")
    return data


def answer_sign(session: Session, case_id: int, sign: str, answer: str, **more: Any) -> CaseEvent:
    """Record whether a sign was seen: "yes", "no", or "unknown" for not looked."""
    if answer != "unknown":
        check_sign(sign, answer)
    elif sign not in {sign.key for sign in beliefs().signs}:
        raise ChoiceError("diagnosis.no_sign_called", sign=sign)
    return add_event(session, _workable(session, case_id), "sign", sign, answer, **more)


def record_check(session: Session, case_id: int, check: str, outcome: str, **more: Any) -> CaseEvent:
    """Record how a check came out.

    Raises
    ------
    ChoiceError
        When the check cannot come out so.
    """
    known = next((item for item in beliefs().checks if item.key == check), None)
    if known is None:
        raise ChoiceError("diagnosis.no_check_called_2", check=check)
    if outcome not in (CLEAR, *(outcome.key for outcome in known.outcomes)):
        raise ChoiceError("diagnosis.cannot_come_out", title=known.title, outcome=outcome)
    return add_event(session, _workable(session, case_id), "check", check, outcome, **more)


def begin_remedy(
    session: Session,
    case_id: int,
    cause: str,
    *,
    what: Mapping[str, str] | None = None,
    others: Sequence[str] = (),
    **more: Any,
) -> CaseEvent:
    """Begin an experiment: one change, with what it is to show.

    Parameters
    ----------
    cause : str
        The cause it is to mend.
    what : dict, optional
        ``what``, ``before``, ``after``, ``prediction``; with the numbers of this printer when not given.
    others : sequence of str
        What else was changed at the same time, in words.

    Raises
    ------
    ConflictError
        While another one is under way: its outcome is to be told first.
    """
    case = _workable(session, case_id)
    names = {cause.key: cause.name for cause in beliefs().causes}
    if cause not in names:
        raise ChoiceError("diagnosis.no_cause_called_2", cause=cause)
    under_way = open_remedies(case)
    if under_way and under_way[0].client_key != more.get("client_key"):
        raise ConflictError(
            f"Tell first what came of the last change ({lower_first(names[under_way[0].key])}). One change at a time, or nobody can say which it was."
        )
    closer = None
    if what is None:
        found = diagnose_case(session, case)
        if found.move.kind is NextMove.ALARM:
            raise ConflictError("First what the alarm asks for: tell when you have looked at all of it.")
        wanted = remedy_for(session, case, found, cause)
        what, closer = vars(wanted), wanted.closer
    data: dict[str, Any] = {
        name: str(what.get(name, ""))[:200] for name in ("what", "before", "after", "prediction")
    }
    data["others"] = [str(other)[:120] for other in others if str(other).strip()][:6]
    event = add_event(session, case, "remedy", cause, OPEN, data=data, **more)
    if closer is not None and "offset" not in event.data:
        _trim(session, case, event, closer)
    return event


def _trim(session: Session, case: Trouble, event: CaseEvent, closer: float) -> None:
    """Write the offset that is typed for a step into the ledger, and what it was into the step."""
    step = next_offset(session, case.printer, closer)
    newest = newest_offset(session, case.printer_id)
    if step is None or newest is None:
        return
    place, before, after = step
    made = record_offset(
        session,
        case.printer_id,
        {**newest.parts, place: after},
        "trim",
        client_key=f"{event.client_key[:33]}-z",
        note="A step in a case.",
        at=event.at,
    )
    event.data = event.data | {"offset": made.id, "place": place, "was": before, "is": after}
    session.flush()


def end_remedy(
    session: Session,
    case_id: int,
    event_id: int,
    came: str,
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> CaseEvent:
    """Tell what came of an experiment: a new event that replaces the one that began it.

    An offset that was trimmed for nothing is written back as it was.

    Parameters
    ----------
    came : str
        See `finchwort.core.diagnosis.Came`.

    Raises
    ------
    NotFoundError
        When no such experiment is under way.
    ChoiceError, KeyTakenError
    """
    case = _workable(session, case_id)
    if came not in ENDED:
        raise ChoiceError("diagnosis.came_of_it")
    # the key of the event that began it is not the key of its end
    sent: dict[str, Any] = {"trouble_id": case.id, "kind": "remedy", "value": came}
    known = sent_before(session, CaseEvent, client_key, TAKEN, **sent)
    if known is not None:
        return known
    begun = next((event for event in open_remedies(case) if event.id == event_id), None)
    if begun is None:
        raise NotFoundError("No such change is under way in this case.")
    begun.deleted_at = utcnow()
    data = begun.data | {"begun": begun.at.isoformat()}
    if came == NOT_BETTER and "offset" in data:
        newest = newest_offset(session, case.printer_id)
        if newest is not None and newest.id == data["offset"]:
            parts = {**newest.parts, data["place"]: data["was"]}
            key, why = f"{client_key[:33]}-z", "A step in a case that did not help: back as it was."
            record_offset(session, case.printer_id, parts, "trim", client_key=key, note=why, at=at)
    return add_event(
        session,
        case,
        "remedy",
        begun.key,
        came,
        client_key=client_key,
        data=data,
        note=note,
        at=at,
    )


def set_event_deleted(session: Session, event_id: int, deleted: bool) -> CaseEvent:
    """Take back a step of a case, or bring it back, with the offset that was written down for it.

    Raises
    ------
    NotFoundError
    """
    event = store_set_event_deleted(session, event_id, deleted)
    if event.kind == "remedy" and event.value == OPEN and "offset" in event.data:
        set_offset_deleted(session, event.data["offset"], deleted)
    return event


def tell_before(session: Session, case_id: int, what: str, came: str, *, client_key: str) -> CaseEvent:
    """Record what came of something that was tried before the case; "unknown" takes the answer back.

    Raises
    ------
    ChoiceError
    """
    if what not in {item.key for item in beliefs().before} or came not in (*ENDED, "unknown"):
        raise ChoiceError("diagnosis.came_of_it")
    return add_event(session, _workable(session, case_id), "before", what, came, client_key=client_key)


def made_safe(session: Session, case_id: int, alarm: str, *, client_key: str) -> CaseEvent:
    """Record that what an alarm asks for was done: from here on causes are looked for.

    Raises
    ------
    ChoiceError
    """
    if alarm not in {kind.value for kind in Alarm}:
        raise ChoiceError("diagnosis.no_alarm_called", alarm=alarm)
    return add_event(session, _workable(session, case_id), "safe", alarm, "done", client_key=client_key)


def correct_setup(session: Session, case_id: int, setup: Mapping[str, Any], *, client_key: str) -> CaseEvent:
    """Correct what the print that failed was made with; only what is named changes.

    Raises
    ------
    ChoiceError
    """
    strange = set(setup) - set(SETUP)
    if strange:
        raise ChoiceError("diagnosis.no_setup_called", name=strange.pop())
    case = _workable(session, case_id)
    data = with_kind(case.printer, setup)
    event = add_event(session, case, "setup", "", "", client_key=client_key, data=data)
    if event.data != data:
        raise KeyTakenError(TAKEN)
    return event


def close_case(
    session: Session, case_id: int, cause: str, *, client_key: str, note: str = "", at: datetime | None = None
) -> CaseEvent:
    """Close a case with what it was.

    Parameters
    ----------
    cause : str
        Key of a cause, or "unknown".
    """
    case = _workable(session, case_id)
    names = {cause.key: cause.name for cause in beliefs().causes}
    if cause not in names and cause != UNKNOWN_CAUSE:
        raise ChoiceError("diagnosis.no_cause_called_2", cause=cause)
    event = add_event(session, case, "close", cause, "closed", client_key=client_key, note=note, at=at)
    text = names.get(cause, "cause not found")
    write_entry(
        session,
        "case",
        f"Case closed: {lower_first(text)}",
        "\n".join(part for part in (ended_with(case), note.strip()) if part),
        at=at,
        printer=case.printer,
        subject=case,
    )
    return event


def reopen_case(session: Session, case_id: int, *, client_key: str) -> CaseEvent:
    """Open a closed case again.

    Raises
    ------
    ConflictError
        When it is open.
    """
    case = get_case(session, case_id)
    if closed_as(case) is None:
        raise ConflictError("This case is open.")
    return add_event(session, case, "reopen", "", "open", client_key=client_key)


def set_case_deleted(session: Session, case_id: int, deleted: bool) -> Trouble:
    """Take back a case, or bring it back.

    Raises
    ------
    NotFoundError
    """
    case = set_deleted(session, Trouble, case_id, deleted, "There is no such case.")
    set_entries_deleted(session, case, case.deleted_at)
    return case


def check_sign(sign: str, answer: str) -> None:
    """Refuse an answer to no sign of the table, or one that is none.

    Raises
    ------
    ChoiceError
    """
    if sign not in {sign.key for sign in beliefs().signs}:
        raise ChoiceError("diagnosis.no_sign_called", sign=sign)
    if answer not in ("yes", "no"):
        raise ChoiceError("diagnosis.sign_seen_not_seen")


def _workable(session: Session, case_id: int) -> Trouble:
    case = get_case(session, case_id)
    if closed_as(case) is not None:
        raise ConflictError("This case is closed. Open it again first.")
    return case


def add_event(
    session: Session,
    case: Trouble,
    kind: str,
    key: str,
    value: str,
    *,
    client_key: str,
    data: dict[str, Any] | None = None,
    note: str = "",
    at: datetime | None = None,
) -> CaseEvent:
    """Store what happened in a case, once for its key.

    Raises
    ------
    KeyTakenError
        When something else was stored with this key.
    ConflictError
        When the case holds too much already.
    """
    begun = next((event for event in case.events if event.client_key == client_key), None)
    if begun is not None and kind == "remedy" and (begun.kind, begun.key, begun.value) == (kind, key, value):
        # what began an experiment is replaced by its end, and was no less begun for that
        return begun
    sent: dict[str, Any] = {"trouble_id": case.id, "kind": kind, "key": key, "value": value}
    known = sent_before(session, CaseEvent, client_key, TAKEN, **sent)
    if known is not None:
        return known
    if len(case.events) >= MAX_EVENTS:
        raise ConflictError("This case has grown too long. Close it and open another.")
    event = CaseEvent(
        trouble=case,
        at=at or utcnow(),
        client_key=client_key,
        kind=kind,
        key=key,
        value=value,
        data=data or {},
        note=note.strip(),
    )
    session.add(event)
    session.flush()
    return event
