"""What is due and what will be, for a calendar: looks, ends of prints, what the workshop's page says, levels to look at again."""

from __future__ import annotations

import hmac
import secrets
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from finchwort.core.base.wording import lasting
from finchwort.core.prints import LookState
from finchwort.formats.calendar import DueEntry
from finchwort.messages.prints import GOOD_NOW, TITLES, named
from finchwort.messages.remarks import words
from finchwort.services.prints.watch import watch_all
from finchwort.services.visits.drift import drift_of
from finchwort.services.visits.today import due_today
from finchwort.store.access.settings import CalendarAddress, read_setting, write_setting
from finchwort.store.printers.printers import list_printers

LENGTH = 24
"""Bytes of chance in the secret of an address."""
OPEN_LOOKS = (LookState.TO_COME, LookState.DUE, LookState.LATE)


def calendar_secret(session: Session) -> str:
    """Return the secret in the calendar's address; empty where it is off."""
    return read_setting(session, CalendarAddress).secret


def set_calendar(session: Session, on: bool) -> str:
    """Give the calendar a new address, or none; whoever has the old one sees nothing any more."""
    secret = secrets.token_urlsafe(LENGTH) if on else ""
    write_setting(session, CalendarAddress(secret))
    return secret


def is_calendar(session: Session, secret: str) -> bool:
    """Tell whether this is the secret of the calendar's address."""
    known = calendar_secret(session)
    return bool(known) and hmac.compare_digest(known.encode(), secret.encode())


def entries_for_calendar(session: Session, now: datetime) -> list[DueEntry]:
    """Gather what stands in the calendar: what is due today, and what will be."""
    today = now.astimezone().date()
    results = _at_prints(session, now)
    for one in due_today(session):
        kind, case = one.due.kind.value, one.due.case_id
        key = f"{kind}-{one.printer.id}" + (f"-{case}" if case is not None else "")
        results.append(DueEntry(key, today, f"{one.printer.name}: {words(one.due.said)}"))
    for printer in list_printers(session):
        drift = drift_of(session, printer)
        if drift.left_at is not None and drift.forecast.days:
            at = (drift.left_at + timedelta(days=drift.forecast.days)).astimezone().date()
            if at > today:
                said = f"{printer.name}: look at the level again, by how this bed has drifted"
                results.append(DueEntry(f"level-{printer.id}", at, said))
    return results


def _at_prints(session: Session, now: datetime) -> list[DueEntry]:
    results = []
    for one in watch_all(session, now):
        print_ = one.print_
        who, name = print_.printer.name, named(print_.name)
        if one.runs:
            looks = [(number, look) for number, look in enumerate(one.clock) if look.state in OPEN_LOOKS]
            results += [
                DueEntry(
                    f"print-{print_.id}-{number}",
                    print_.started_at + timedelta(minutes=look.due),
                    f"{who}, {name}: {TITLES[look.kind].lower()}",
                    GOOD_NOW[look.kind],
                    alarm=look.state is LookState.TO_COME,
                )
                for number, look in looks
            ]
        if one.left is not None:
            at = print_.started_at + timedelta(minutes=one.age + one.left)
            text = f"It was to take {lasting(print_.minutes or 0)}. Tell what came of it."
            results.append(DueEntry(f"print-{print_.id}-end", at, f"{who}, {name}: ends", text))
    return results
