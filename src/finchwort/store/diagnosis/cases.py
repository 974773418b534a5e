"""Cases and what happened to them."""

from __future__ import annotations

from typing import Any

from sqlalchemy import and_, func, or_, select
from sqlalchemy.orm import Session

from finchwort.core.diagnosis import ALARMS, Came, Finding, no, yes
from finchwort.store.diagnosis.models import CaseEvent, Trouble
from finchwort.store.errors import NotFoundError
from finchwort.store.models import Printer
from finchwort.store.records import locked_for_deletion, utcnow

OPEN, BETTER, LITTLE, NOT_BETTER = "open", Came.BETTER.value, Came.LITTLE.value, Came.NOT_BETTER.value
ENDED = (BETTER, LITTLE, NOT_BETTER)
UNKNOWN_CAUSE = "unknown"
"""A case may be closed without its cause being found."""
MAX_LISTED = 200


def get_case(session: Session, case_id: int) -> Trouble:
    """Return a case.

    Raises
    ------
    NotFoundError
    """
    case = session.get(Trouble, case_id)
    if case is None or case.deleted_at is not None:
        raise NotFoundError("There is no such case.")
    return case


def list_cases(
    session: Session,
    text: str = "",
    printer_id: int | None = None,
    *,
    after: int | None = None,
    limit: int = MAX_LISTED,
) -> list[Trouble]:
    """Return cases, newest first; every word must occur in the case's words or its printer's name.

    ``after`` is the number of the last case of the page before.
    """
    query = select(Trouble).join(Printer).where(Trouble.deleted_at.is_(None), Printer.deleted_at.is_(None))
    if printer_id is not None:
        query = query.where(Trouble.printer_id == printer_id)
    for word in text.split()[:8]:
        parts = (Trouble.words.contains(word, autoescape=True), Printer.name.contains(word, autoescape=True))
        query = query.where(or_(*parts))
    if after is not None:
        last = session.get(Trouble, after)
        if last is None:
            raise NotFoundError("That page of the cases does not exist.")
        query = query.where(
            or_(
                Trouble.opened_at < last.opened_at,
                and_(Trouble.opened_at == last.opened_at, Trouble.id < last.id),
            )
        )
    query = query.order_by(Trouble.opened_at.desc(), Trouble.id.desc()).limit(limit)
    return list(session.scalars(query).unique())


def events_of(case: Trouble) -> list[CaseEvent]:
    """What happened in a case, oldest first, without what was taken back."""
    return [event for event in case.events if event.deleted_at is None]


def closed_as(case: Trouble) -> CaseEvent | None:
    """The event that closed a case, unless it was opened again since."""
    ends = [event for event in events_of(case) if event.kind in ("close", "reopen")]
    return ends[-1] if ends and ends[-1].kind == "close" else None


def answers_of(case: Trouble) -> dict[str, str]:
    """The newest answer to each sign: "yes" or "no"; one that was not looked for is left out."""
    answers: dict[str, str] = {}
    for event in events_of(case):
        if event.kind == "sign":
            answers.pop(event.key, None)
            if event.value in ("yes", "no"):
                answers[event.key] = event.value
    return answers


def findings_of(case: Trouble) -> list[Finding]:
    """The signs of a case as findings."""
    return [yes(key) if answer == "yes" else no(key) for key, answer in answers_of(case).items()]


def checks_of(case: Trouble) -> list[tuple[str, str]]:
    """The newest outcome of each check."""
    results = {event.key: event.value for event in events_of(case) if event.kind == "check"}
    return list(results.items())


def tried_of(case: Trouble) -> list[tuple[str, str]]:
    """What was tried alone, before the case or in it, and what came of it; what was changed with others says nothing."""
    before = {event.key: event.value for event in events_of(case) if event.kind == "before"}
    return [(key, came) for key, came in before.items() if came in ENDED] + [
        (event.key, event.value)
        for event in events_of(case)
        if event.kind == "remedy" and event.value in ENDED and not event.data.get("others")
    ]


def before_of(case: Trouble) -> dict[str, str]:
    """What came of what was tried before the case was opened, the newest answer to each."""
    told = {event.key: event.value for event in events_of(case) if event.kind == "before"}
    return {key: came for key, came in told.items() if came in ENDED}


def setup_of(case: Trouble) -> dict[str, Any]:
    """The setup of the print that failed: as it was when the case was opened, with what was corrected since."""
    setup = dict(case.strip)
    for event in events_of(case):
        if event.kind == "setup":
            setup |= event.data
    return setup


def dealt_with(case: Trouble, alarm: str) -> bool:
    """Whether what an alarm asks for was done since it was last told."""
    told = [event.kind == "safe" for event in events_of(case) if _concerns(event, alarm)]
    return bool(told) and told[-1]


def _concerns(event: CaseEvent, alarm: str) -> bool:
    signs = {sign for kind, raised_by in ALARMS if kind == alarm for sign in raised_by}
    told = event.kind == "sign" and event.value == "yes" and event.key in signs
    return told or (event.kind == "safe" and event.key == alarm)


def ended_with(case: Trouble) -> str:
    """The remedy that ended a case, in words; empty where none did."""
    good = [event for event in events_of(case) if event.kind == "remedy" and event.value == BETTER]
    what, after = (good[-1].data.get(name, "") for name in ("what", "after")) if good else ("", "")
    return f"{what}: {after}" if what and after else ""


def open_remedies(case: Trouble) -> list[CaseEvent]:
    """Remedies that were begun and whose outcome is not told yet."""
    return [event for event in events_of(case) if event.kind == "remedy" and event.value == OPEN]


def set_event_deleted(session: Session, event_id: int, deleted: bool) -> CaseEvent:
    """Take back something that was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    nothing = "There is no such step in a case."
    event = locked_for_deletion(session, CaseEvent, event_id, deleted, nothing)
    if event.trouble.deleted_at is not None:
        raise NotFoundError(nothing)
    event.deleted_at = utcnow() if deleted else None
    session.flush()
    return event


def state_of_cases(session: Session) -> tuple[Any, ...]:
    """Tell the state of all cases: it changes when one is opened, taken back, or anything happens in it."""
    cases = select(func.max(Trouble.id), func.count(Trouble.deleted_at))
    events = select(
        func.max(CaseEvent.id),
        func.count(CaseEvent.deleted_at),
        func.sum(CaseEvent.value == OPEN),
    )
    return (*session.execute(cases).one(), *session.execute(events).one())
