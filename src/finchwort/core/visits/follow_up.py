"""What is to be done after something happened to a printer, in the order of the trade; it ticks itself off.

The order is common practice: nothing is homed before the switch is seen to be right, nothing is levelled before it can
home, the height comes after the level, and a printed patch comes last.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from finchwort.core.visits.events import Happened

ORDER = (
    "cold",
    "tip",
    "tight",
    "sock",
    "mount",
    "feet",
    "seat",
    "switch",
    "clips",
    "values",
    "home",
    "trust",
    "level",
    "offset",
    "mesh",
    "print",
)
BY_HAND = ("cold", "tip", "tight", "sock", "mount", "feet", "seat", "switch", "clips", "home")
"""What only a person can tick off; the others are done when they are recorded."""
FOUND = {
    "tip": "tip",
    "nozzle_tight": "tight",
    "sock": "sock",
    "probe_mount": "mount",
    "plate_seated": "seat",
    "clips": "clips",
}
"""Items of the walk round that see to the same: found good, they tick it off."""
LEVEL = ("level", "offset", "mesh", "print")
AFTER: Mapping[str, tuple[str, ...]] = {
    "plate": ("seat", "switch", "clips", "home", *LEVEL),
    "lifted": ("seat", "level"),
    "nozzle": ("tight", "sock", "home", "offset", "print"),
    "firmware": ("values", "home", "offset", "mesh", "print"),
    "offset": ("offset", "print"),
    "mesh": ("mesh", "print"),
    "steps": ("home", *LEVEL),
    "probe": ("mount", "home", "trust", *LEVEL),
    "knobs": LEVEL,
    "foil": LEVEL,
    "beam": LEVEL,
    "springs": LEVEL,
    "belts": ("home", "level", "print"),
    "moved": ("feet", "home", *LEVEL),
    "crash": ("cold", "tip", "seat", "mount", "switch", "home", "trust", *LEVEL),
    "pried": ("seat", "level"),
}
"""What each calls for (common practice)."""


@dataclass(frozen=True)
class Fit:
    """What of a printer decides which steps it can have, and how each is done.

    Attributes
    ----------
    zero : {"probe", "switch", "knobs", ""}
        By what it finds Z = 0.
    senses : {"surface", "metal", "field", ""}
        What its probe feels, see `finchwort.core.probing.SENSES`.
    mesh : bool
        It follows a mesh.
    line : bool
        It can be asked over a line.
    """

    zero: str = ""
    senses: str = ""
    mesh: bool = False
    line: bool = False


@dataclass(frozen=True)
class AfterStep:
    """One thing to do.

    Attributes
    ----------
    name : one of ``ORDER``
    by_hand : bool
        Ticked off by a person, not by a record.
    done : bool
    """

    name: str
    by_hand: bool
    done: bool


@dataclass(frozen=True)
class After:
    """What is to be done, and after what.

    Attributes
    ----------
    events : tuple of str
        Newest last.
    steps : tuple of AfterStep
        In order.
    fit : Fit
        Of the printer.
    """

    events: tuple[str, ...]
    steps: tuple[AfterStep, ...]
    fit: Fit

    @property
    def left(self) -> tuple[AfterStep, ...]:
        """What was not done yet."""
        return tuple(step for step in self.steps if not step.done)


def afterwards(happened: Sequence[Happened], done: Mapping[str, int], fit: Fit) -> After | None:
    """Put into one list what the newest events call for.

    Parameters
    ----------
    happened : sequence of Happened
        Oldest first, with their numbers.
    done : mapping of str to int
        Number of the newest line of the logbook that did each step; one that is left out was never done.
    fit : Fit

    Returns
    -------
    After or None
        None when nothing happened that calls for anything, or all was done since.

    Examples
    --------
    >>> plate = [Happened("plate", number=7)]
    >>> [step.name for step in afterwards(plate, {}, Fit(zero="switch")).steps]
    ['seat', 'switch', 'clips', 'home', 'level', 'offset', 'print']
    >>> afterwards(plate, dict.fromkeys(ORDER, 8), Fit()) is None
    True
    """
    wish: dict[str, int] = {}
    calling = [event for event in happened if event.what in AFTER]
    for item in calling:
        for name in AFTER[item.what]:
            if _can(name, item.what, fit):
                wish[name] = max(wish.get(name, 0), item.number)
    left = {name for name, number in wish.items() if done.get(name, 0) <= number}
    if not left:
        return None
    # what is through is not shown again when something else happens
    open_ = [
        item
        for item in calling
        if any(name in left and done.get(name, 0) <= item.number for name in AFTER[item.what])
    ]
    names = {name for item in open_ for name in AFTER[item.what] if name in wish}
    events = tuple(dict.fromkeys(item.what for item in open_))
    steps = tuple(AfterStep(name, name in BY_HAND, name not in left) for name in ORDER if name in names)
    return After(events, steps, fit)


def _can(name: str, what: str, fit: Fit) -> bool:
    if name == "mesh":
        return fit.mesh
    if name in ("trust", "mount"):
        return bool(fit.senses)
    if name == "values":
        return fit.line
    if name == "switch":
        # a probe that touches finds a thicker plate by itself
        return fit.zero == "switch" or fit.senses in ("metal", "field")
    return True
