"""When a print is looked at: the clock of the trade, and what was done of it."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.prints.kinds import LookKind, LookState

HEATING = 5.0
"""From the start to the first line where nobody told when it lay, minutes (ours)."""
LONGEST_HEATING = 15.0
"""No first line looked at for so long: that look is late, minutes (ours)."""
FIRST_LAYER = 5.0
"""How long a first layer takes that nobody knows, minutes (ours)."""
FIVE, QUARTER, QUARTER_ENDS = 5.0, 10.0, 15.0
"""Looks after the first layer: at five minutes, and between ten and fifteen (common practice)."""
GRACE = 2.0
"""A look is late after so many minutes (ours); later on, after ``LATER_GRACE``."""
LATER_GRACE = 15.0
APART = 2.0
"""Looks that lie nearer to each other are one, minutes (ours)."""
SECOND = 3.0
"""Who was not sure looks once more after so many minutes (ours)."""
EARLY, LATER_EARLY = 1.0, 15.0
"""A look may come so much before its time and count for it, minutes (ours)."""


@dataclass(frozen=True)
class PlannedLook:
    """A look that is planned.

    Attributes
    ----------
    kind : LookKind
    due : float
        Minutes after the first line.
    late : float
        Minutes after the first line from which on it is late.
    """

    kind: LookKind
    due: float
    late: float

    @property
    def early(self) -> float:
        """From when on a look counts for it, minutes after the first line."""
        return self.due - (LATER_EARLY if self.kind is LookKind.LATER else EARLY)


@dataclass(frozen=True)
class ClockedLook:
    """A planned look and what became of it; times are minutes after the start of the print.

    Attributes
    ----------
    kind : LookKind
    state : LookState
    due, late : float
    at : float or None
        When it was done.
    """

    kind: LookKind
    state: LookState
    due: float
    late: float
    at: float | None = None

    @property
    def was_late(self) -> bool:
        """Whether it was done, and late."""
        return self.at is not None and self.at > self.late


def plan_looks(
    layer: float | None, total: float | None, every: float, until: float
) -> tuple[PlannedLook, ...]:
    """Plan the looks at a print, in the order of time.

    Parameters
    ----------
    layer : float or None
        How long the first layer takes, minutes.
    total : float or None
        How long the print takes, minutes; nothing is looked at beyond it.
    every : float
        Minutes from one look to the next after the first quarter of an hour, more than 0.
    until : float
        Where nobody knows how long it takes: looks up to the first one beyond this, minutes.

    Returns
    -------
    tuple of PlannedLook

    Examples
    --------
    >>> [(one.kind.value, one.due) for one in plan_looks(3.0, 200.0, 90.0, 0.0)]
    [('lines', 0.0), ('layer', 3.0), ('five', 5.0), ('quarter', 10.0), ('later', 100.0), ('later', 190.0)]
    >>> [(one.kind.value, one.due) for one in plan_looks(None, None, 60.0, 80.0)]
    [('lines', 0.0), ('layer', 5.0), ('quarter', 10.0), ('later', 70.0), ('later', 130.0)]
    """
    whole = FIRST_LAYER if layer is None else layer
    after = [
        PlannedLook(LookKind.FIVE, FIVE, FIVE + GRACE),
        PlannedLook(LookKind.QUARTER, QUARTER, QUARTER_ENDS),
    ]
    results = [
        PlannedLook(LookKind.LINES, 0.0, LONGEST_HEATING),
        PlannedLook(LookKind.LAYER, whole, whole + GRACE),
        *(one for one in after if not one.due - APART < whole <= one.late),
    ]
    # a first layer of hours is looked after like anything else that takes hours
    last = QUARTER if whole > QUARTER + every else max(QUARTER, whole)
    end = max(total if total is not None else until + every, last)
    number = 1
    while (due := last + number * every) <= end:
        results.append(PlannedLook(LookKind.LATER, due, due + LATER_GRACE))
        number += 1
    if total is not None:
        results = [one for one in results if one.due < total or one.kind is LookKind.LINES]
    return tuple(sorted(results, key=lambda one: one.due))


def read_clock(
    planned: tuple[PlannedLook, ...], looks: tuple[float, ...], now: float
) -> tuple[ClockedLook, ...]:
    """Say how each planned look stands.

    The first look tells when the first line lay, and the others are reckoned from it.  A look counts for whatever was to
    be looked at just then; one that comes late counts for the newest that was due, and those before it were missed.

    Parameters
    ----------
    planned : tuple of PlannedLook
        In the order of time.
    looks : tuple of float
        When somebody looked, minutes after the start, in the order of time.
    now : float
        Minutes after the start.

    Returns
    -------
    tuple of ClockedLook

    Examples
    --------
    >>> planned = plan_looks(3.0, 60.0, 90.0, 0.0)
    >>> [one.state.value for one in read_clock(planned, (2.0, 6.0), 16.0)]
    ['done', 'done', 'done', 'due']
    """
    zero = first_line(looks)
    done: dict[int, float] = {}
    for number, at in enumerate(looks):
        if number == 0 and at <= LONGEST_HEATING:
            done[0] = at
            continue
        open_then = [
            place for place, one in enumerate(planned) if zero + one.early <= at and place not in done
        ]
        in_time = [place for place in open_then if at <= zero + planned[place].late]
        newest = max(done, default=-1)
        for place in in_time or [place for place in open_then[-1:] if place > newest]:
            done[place] = at
    newest = max(done, default=-1)
    results = []
    for place, one in enumerate(planned):
        due, late = zero + one.due, zero + one.late
        if one.kind is LookKind.LINES:
            due, late = 0.0, LONGEST_HEATING
        if place in done:
            state = LookState.DONE
        elif place < newest:
            state = LookState.MISSED
        elif now > late:
            state = LookState.LATE
        elif now >= due:
            state = LookState.DUE
        else:
            state = LookState.TO_COME
        results.append(ClockedLook(one.kind, state, due, late, done.get(place)))
    return tuple(results)


def first_line(looks: tuple[float, ...]) -> float:
    """When the first line lay, minutes after the start: at the first look, unless that came late."""
    return looks[0] if looks and looks[0] <= LONGEST_HEATING else HEATING


def wanted(clock: tuple[ClockedLook, ...]) -> ClockedLook | None:
    """Return the look that is wanted now: the newest one that is due, since it shows what the ones before it would.

    Examples
    --------
    >>> planned = plan_looks(3.0, 60.0, 90.0, 0.0)
    >>> wanted(read_clock(planned, (2.0,), 8.0)).kind.value
    'five'
    >>> wanted(read_clock(planned, (2.0,), 3.0)) is None
    True
    """
    open_now = [one for one in clock if one.state in (LookState.DUE, LookState.LATE)]
    return open_now[-1] if open_now else None


def coming(clock: tuple[ClockedLook, ...]) -> ClockedLook | None:
    """Return the look that comes next, when none is due."""
    return next((one for one in clock if one.state is LookState.TO_COME), None)


def second_look(clock: tuple[ClockedLook, ...], at: float, now: float) -> ClockedLook:
    """Return the look that follows one of which nobody was sure, of the same kind.

    Parameters
    ----------
    clock : tuple of ClockedLook
    at, now : float
        When that look was, and now; minutes after the start.

    Examples
    --------
    >>> clock = read_clock(plan_looks(3.0, 60.0, 90.0, 0.0), (2.0, 5.5), 6.0)
    >>> again = second_look(clock, 5.5, 6.0)
    >>> again.kind.value, again.state.value, again.due
    ('layer', 'to_come', 8.5)
    """
    kinds = [one.kind for one in clock if one.at is not None and one.at <= at]
    due, late = at + SECOND, at + SECOND + GRACE
    state = LookState.LATE if now > late else LookState.DUE if now >= due else LookState.TO_COME
    return ClockedLook(kinds[-1] if kinds else LookKind.LINES, state, due, late)
