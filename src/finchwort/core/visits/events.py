"""What happened at a printer, and what of all that is known there still holds after it.

One table says it for every event and everything known; every screen, verdict, plan, test print and case asks
`standing`, and nothing else.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from finchwort.core.base.remarks import Remark, remark
from finchwort.core.visits.kinds import StandingState, Thing

HOLDS, DOUBTFUL, GONE = tuple(StandingState)
VALIDITIES = (HOLDS, DOUBTFUL, GONE)
"""From good to bad."""
THINGS = tuple(Thing)
"""What is known of a printer: readings of the bed, the plan made from them, the first layer foreseen, the stored mesh, the
Z offset, discs judged over the bed, a ladder judged in its middle, touches at one place, what the knobs have taught."""
WARMER = 10.0
"""A bed this much warmer or colder than at the time lies otherwise, °C (ours)."""
MONTHS = 3.0
"""What is older than this is looked at again (ours)."""
DAYS_A_MONTH = 30.4

_TABLE = """
event     survey   plan     forecast mesh     offset   discs    ladder   touches  knobs
turned    gone     gone     gone     gone     zero     gone     zero     holds    holds
knobs     gone     gone     gone     gone     zero     gone     zero     holds    holds
shims     gone     gone     gone     gone     zero     gone     zero     holds    holds
foil      gone     gone     gone     gone     zero     gone     zero     holds    holds
tape      gone     gone     gone     gone     zero     gone     zero     holds    holds
beam      gone     gone     gone     gone     zero     gone     zero     holds    holds
springs   gone     gone     gone     gone     zero     gone     zero     holds    gone
plate     gone     gone     gone     gone     gone     gone     gone     doubtful holds
surface   gone     gone     gone     gone     gone     gone     gone     doubtful holds
lifted    doubtful doubtful doubtful doubtful holds    doubtful holds    holds    holds
pried     doubtful doubtful doubtful doubtful holds    doubtful holds    holds    holds
nozzle    holds    holds    gone     holds    gone     gone     gone     tip      holds
probe     holds    holds    gone     gone     gone     gone     gone     gone     holds
firmware  holds    holds    gone     gone     gone     gone     gone     holds    holds
offset    holds    holds    gone     holds    gone     gone     gone     holds    holds
steps     doubtful doubtful gone     gone     gone     gone     gone     doubtful doubtful
mesh      holds    holds    gone     gone     holds    gone     holds    holds    holds
sign      holds    holds    gone     holds    gone     holds    holds    holds    holds
belts     doubtful doubtful doubtful doubtful holds    doubtful holds    holds    holds
moved     gone     gone     gone     gone     zero     gone     zero     doubtful holds
crash     gone     gone     gone     gone     gone     gone     gone     gone     doubtful
measured  holds    holds    holds    gone     holds    holds    holds    holds    holds
warmer    doubtful holds    doubtful doubtful doubtful doubtful doubtful holds    holds
months    doubtful doubtful doubtful doubtful doubtful doubtful doubtful doubtful doubtful
"""
"""A row an event (common practice; what is doubtful is ours).  ``zero``: doubtful, unless the machine finds its zero on the
bed with its probe, or the middle was kept.  ``tip``: doubtful where the nozzle itself is the probe."""


def _read(table: str) -> Mapping[str, Mapping[str, str]]:
    head, *rows = [line.split() for line in table.strip().splitlines()]
    if tuple(head[1:]) != THINGS:
        raise ValueError("The table of events has other columns than there are things.")
    return MappingProxyType(
        {row[0]: MappingProxyType(dict(zip(THINGS, row[1:], strict=True))) for row in rows}
    )


TABLE = _read(_TABLE)
EVENTS = tuple(TABLE)


@dataclass(frozen=True)
class Happened:
    """Something that happened after a thing was found out.

    Attributes
    ----------
    what : one of ``EVENTS``
    moves : tuple of (x, y, move)
        Of turned knobs: where the screw stands and how far it was moved at most, mm.
    kept_middle : bool
        Of turned knobs: the middle of the bed stayed where it was, by the plan.
    number : int
        Of its line in the logbook: the order of events.
    said : Remark, optional
        What it says, where more is known than that it happened.
    """

    what: str
    moves: tuple[tuple[float, float, float], ...] = ()
    kept_middle: bool = False
    number: int = 0
    said: Remark | None = None

    @property
    def idle(self) -> bool:
        """Whether knobs were looked at and none was turned."""
        return bool(self.moves) and not any(move for *_, move in self.moves)


@dataclass(frozen=True)
class Traits:
    """What of a printer decides how much an event spoils.

    Attributes
    ----------
    zero_by_probe : bool
        It finds its zero on the bed at every homing, wherever the bed went.
    tip_is_probe : bool
        The nozzle itself touches the bed.
    """

    zero_by_probe: bool = False
    tip_is_probe: bool = False


@dataclass(frozen=True)
class Standing:
    """Whether something still holds.

    Attributes
    ----------
    state : one of ``VALIDITIES``
    reasons : tuple of Remark
        One for each kind of event that speaks against it, the gravest and newest first.
    events : tuple of str
        These kinds, in the same order.
    """

    state: str = HOLDS
    reasons: tuple[Remark, ...] = ()
    events: tuple[str, ...] = ()

    @property
    def holds(self) -> bool:
        """Nothing speaks against it."""
        return self.state == HOLDS

    @property
    def gone(self) -> bool:
        """It says nothing any more about the present."""
        return self.state == GONE

    @property
    def why(self) -> Remark | None:
        """The first reason; None while it holds."""
        return self.reasons[0] if self.reasons else None


def effect(thing: str, happened: Happened, traits: Traits | None = None) -> str:
    """Say what one event does to a thing: one of ``VALIDITIES``.

    An event that is not in the table, like another spool, does nothing.

    Examples
    --------
    >>> print(effect("survey", Happened("plate")), effect("knobs", Happened("plate")))
    gone holds
    >>> print(effect("offset", Happened("knobs")), effect("offset", Happened("knobs"), Traits(zero_by_probe=True)))
    doubtful holds
    """
    traits = traits or Traits()
    cell = TABLE.get(happened.what, {}).get(thing, HOLDS)
    if happened.what == "turned" and happened.idle:
        return HOLDS
    if cell == "zero":
        return HOLDS if traits.zero_by_probe or happened.kept_middle else DOUBTFUL
    if cell == "tip":
        return DOUBTFUL if traits.tip_is_probe else HOLDS
    return cell


def said_of(thing: str, happened: Happened) -> Remark:
    """Give what an event says of a thing."""
    return happened.said or remark("visits.since", event=happened.what, thing=thing)


def standing(thing: str, happened: Sequence[Happened], traits: Traits | None = None) -> Standing:
    """Say whether a thing still holds, is doubtful or gone after what happened, and why.

    Parameters
    ----------
    thing : one of ``THINGS``
    happened : sequence of Happened
        Since it was found out, oldest first.
    traits : Traits, optional

    Examples
    --------
    >>> print(standing("survey", [Happened("pried"), Happened("plate")]).reasons[0])
    visits.since (event=plate, thing=survey)
    >>> print(standing("knobs", [Happened("plate")]).state)
    holds
    """
    if thing not in THINGS:
        raise KeyError(thing)
    results: dict[str, tuple[int, int, Remark]] = {}
    for order, event in enumerate(happened):
        grave = VALIDITIES.index(effect(thing, event, traits))
        if grave:
            results[event.what] = (grave, order, said_of(thing, event))
    ranked = sorted(results.items(), key=lambda pair: (pair[1][0], pair[1][1]), reverse=True)
    if not ranked:
        return Standing()
    reasons = tuple(dict.fromkeys(reason for _, (_, _, reason) in ranked))
    return Standing(VALIDITIES[ranked[0][1][0]], reasons, tuple(what for what, _ in ranked))


def by_now(
    *,
    surface: tuple[str, str] = ("", ""),
    temperature: tuple[float | None, float | None] = (None, None),
    days: float = 0.0,
) -> list[Happened]:
    """Give what happened without anybody doing it: another surface on the setup bar, another temperature, months.

    Parameters
    ----------
    surface : (str, str)
        Then and now; empty where nobody named one.
    temperature : (float or None, float or None)
        Of the bed then and now, °C.
    days : float

    Examples
    --------
    >>> [one.what for one in by_now(surface=("steel", "glass"), temperature=(60, 100), days=200)]
    ['surface', 'warmer', 'months']
    """
    results = []
    before, today = surface
    if before and today and before != today:
        results.append(Happened("surface", said=remark("visits.other_surface", before=before, today=today)))
    then, now = temperature
    if then is not None and now is not None and abs(then - now) >= WARMER:
        results.append(Happened("warmer", said=remark("visits.other_temperature", then=then, now=now)))
    if days > MONTHS * DAYS_A_MONTH:
        results.append(
            Happened("months", said=remark("visits.months_ago", months=round(days / DAYS_A_MONTH)))
        )
    return results
