"""Prints while they run: the clock of looks, what was seen, and what is due."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.prints import (
    ClockedLook,
    LookState,
    Seen,
    coming,
    first_line,
    plan_looks,
    read_clock,
    second_look,
    wanted,
)
from finchwort.services.prints.begin import age_of
from finchwort.store.errors import ConflictError, NotFoundError
from finchwort.store.prints.models import PrintLook, PrintRun
from finchwort.store.prints.prints import get_print, looks_of, open_prints
from finchwort.store.records import locked_for_deletion, sent_before, utcnow

MOST_LOOKS = 200
OVER = 10.0
"""So long after its expected end a print is asked after, minutes (ours)."""
LONGEST = 7 * 24 * 60.0
"""No print runs longer than this, minutes (ours)."""
TAKEN = "Another look was written down with this key, or it was taken back since."


@dataclass(frozen=True, eq=False)
class Watched:
    """A print with its clock.

    Attributes
    ----------
    print_ : PrintRun
    looks : tuple of PrintLook
    clock : tuple of ClockedLook
        Times in minutes after the start.
    age : float
        Minutes after the start: now, or when it ended.
    wanted, coming : ClockedLook or None
        The look that is due, and the one that comes next; None where it ended.
    over : bool
        Whether it is to be told what came of it: it ended, or should have.
    left : float or None
        Minutes until its expected end.
    """

    print_: PrintRun
    looks: tuple[PrintLook, ...]
    clock: tuple[ClockedLook, ...]
    age: float
    wanted: ClockedLook | None
    coming: ClockedLook | None
    over: bool
    left: float | None

    @property
    def runs(self) -> bool:
        """Whether it runs, as far as anybody told."""
        return self.print_.ended_at is None


def watch(print_: PrintRun, now: datetime) -> Watched:
    """Say how a print stands."""
    looks = tuple(looks_of(print_))
    times = tuple((look.at - print_.started_at).total_seconds() / 60 for look in looks)
    age = age_of(print_, print_.ended_at or now)
    zero = first_line(times)
    planned = plan_looks(print_.layer_minutes, print_.minutes, print_.look_every, min(age, LONGEST) - zero)
    clock = read_clock(planned, times, age)
    runs = print_.ended_at is None
    end = zero + print_.minutes if print_.minutes is not None else None
    due, after = wanted(clock), coming(clock)
    if looks and looks[-1].seen == Seen.UNSURE:
        again = second_look(clock, times[-1], age)
        if again.state is LookState.TO_COME:
            after = again
        else:
            due = due or again
    ends = not runs or (end is not None and age >= end)
    over = print_.outcome is None and (not runs or age >= LONGEST or (end is not None and age >= end + OVER))
    return Watched(
        print_,
        looks,
        clock,
        age,
        None if ends else due,
        None if ends else after,
        over,
        end - age if end is not None and runs else None,
    )


def watch_all(session: Session, now: datetime | None = None) -> list[Watched]:
    """Give the prints of which nobody told what came of them: those to be looked at first, the longest due before."""
    at = now or utcnow()
    found = [watch(print_, at) for print_ in open_prints(session)]

    def rank(one: Watched) -> tuple[int, float]:
        if one.wanted is not None:
            return 0, one.wanted.due - one.age
        if one.over:
            return 1, -one.age
        return 2, one.coming.due - one.age if one.coming is not None else one.left or 0.0

    return sorted(found, key=rank)


def look_at_print(
    session: Session,
    print_id: int,
    seen: Seen,
    note: str = "",
    *,
    client_key: str,
    at: datetime | None = None,
) -> PrintLook:
    """Write a look down; one that says it was stopped ends the print.

    Raises
    ------
    NotFoundError, ConflictError, KeyTakenError, OutOfRangeError
    """
    print_ = get_print(session, print_id, lock=True)
    known = sent_before(session, PrintLook, client_key, TAKEN, print_id=print_id, seen=seen.value)
    if known is not None:
        return known
    if print_.ended_at is not None or print_.outcome is not None:
        raise ConflictError("This print has ended. Open it again to write down another look.")
    looks = looks_of(print_)
    if len(looks) >= MOST_LOOKS:
        raise OutOfRangeError("prints.looks_most", most=MOST_LOOKS)
    moment = max(at or utcnow(), print_.started_at, *(look.at for look in looks[-1:]))
    look = PrintLook(print_id=print_id, at=moment, seen=seen.value, note=note.strip(), client_key=client_key)
    session.add(look)
    if seen is Seen.STOPPED:
        print_.ended_at = moment
    session.flush()
    session.refresh(print_)
    return look


def set_look_deleted(session: Session, look_id: int, deleted: bool) -> PrintLook:
    """Take a look back, or bring it back; with one that stopped a print the print runs again.

    Raises
    ------
    NotFoundError, ConflictError
    """
    nothing = "There is no such look."
    look = locked_for_deletion(session, PrintLook, look_id, deleted, nothing)
    print_ = get_print(session, look.print_id, lock=True)
    if look.seen == Seen.STOPPED:
        if print_.outcome is not None:
            raise ConflictError("What came of this print is told already. Open it again first.")
        if not deleted and print_.ended_at is not None:
            raise NotFoundError(nothing)
        print_.ended_at = None if deleted else look.at
    look.deleted_at = utcnow() if deleted else None
    session.flush()
    session.refresh(print_)
    return look
