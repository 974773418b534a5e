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
HAND_ON_SWITCH = "Keep your hand on the power switch until it has homed once."
CLOSER = "It must not be lower than before: a tip that comes down first meets the plate."


@dataclass(frozen=True)
class Fit:
    """What of a printer decides which steps it can have, and what is said of them.

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
    title, how, caution : str
    by_hand : bool
        Ticked off by a person, not by a record.
    done : bool
    """

    name: str
    title: str
    how: str
    caution: str
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
    """

    events: tuple[str, ...]
    steps: tuple[AfterStep, ...]

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
    steps = tuple(_step(name, events, fit, name not in left) for name in ORDER if name in names)
    return After(events, steps)


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


def _step(name: str, events: Sequence[str], fit: Fit, done: bool) -> AfterStep:
    title, how, caution = _WORDS[name]
    if name == "switch" and fit.zero != "switch":
        title = "Probe set for this plate"
        how = (
            "Motors off. This probe may look through the plate: set it lower against the tip by at least what the plate is "
            "thicker, and see it trigger above this plate."
        )
    if name == "offset" and fit.zero in ("switch", "knobs"):
        title = "Height in the middle"
        how = "Bed level, then paper in the middle: " + (
            "move the Z switch" if fit.zero == "switch" else "turn all knobs alike"
        )
        how += " until it just drags, and write it down."
    if name == "seat" and "plate" not in events and "lifted" not in events:
        how = "Cool. Lift the plate, look beneath it for crumbs and damage, lay it back against its stops, press on each corner."
    if name == "level" and "pried" in events and len(events) == 1:
        how = "Feel or probe the corners once: prying often moves one."
    return AfterStep(name, title, how, caution, name in BY_HAND, done)


_WORDS = {
    "cold": (
        "Heaters off, motors off",
        "Stop the print. Let it cool before you touch anything.",
        "Tip and bed stay hot enough to burn for a quarter of an hour.",
    ),
    "tip": (
        "Look at tip and plate",
        "Brass that is rounded or flattened no longer lays a line: replace the tip. A scratched place on the plate holds nothing: "
        "turn the plate, or replace it.",
        "",
    ),
    "tight": (
        "Nozzle tight",
        "Hot, a last gentle eighth of a turn with the block held by a second spanner; nothing oozes at the thread.",
        "The nozzle is at 200 °C or more: tools, not fingers.",
    ),
    "sock": (
        "Insulating sock back on",
        "Without it the part fan cools the block, and the printer halts as soon as the fan starts.",
        "Never switch the protection off instead.",
    ),
    "mount": (
        "Probe firm",
        "Cool. Push it sideways with a finger; look at its screws and its cable.",
        "",
    ),
    "feet": (
        "It stands firm",
        "On all its feet, on something that does not shake; no cable pulls at head or bed.",
        "",
    ),
    "seat": (
        "Plate seated",
        "Wipe both sides and the carrier, lay it against its stops, press on each corner: it rocks nowhere.",
        "Let it cool first; hold glass with both hands.",
    ),
    "switch": (
        "Z switch set for this plate",
        "Motors off. A thicker plate needs the Z switch higher by as much, before the first homing.",
        CLOSER,
    ),
    "clips": (
        "Clips and magnets",
        "They hold the plate all round, and none stands where tip or probe will go.",
        "",
    ),
    "values": (
        "Read what stands in the printer",
        "Connect: offset, mesh and steps are compared with the book.",
        "",
    ),
    "home": (
        "Home, hand on the power switch",
        "Press the Z switch or the probe by hand once and see that it reports; then home.",
        HAND_ON_SWITCH,
    ),
    "trust": ("Test the probe", "Ten touches at one place.", HAND_ON_SWITCH),
    "level": ("Level", "Measure, turn what the plan says, measure again.", ""),
    "offset": (
        "Z offset",
        "Paper in the middle, from above; then write down what stands in the machine.",
        "",
    ),
    "mesh": (
        "Mesh",
        "Survey at printing temperature and store a new mesh; the old one is of another bed.",
        "",
    ),
    "print": (
        "Test print",
        "Patches over the bed, watched from the first line on.",
        "Stay with it, and stop it if it scrapes.",
    ),
}

TITLES = {name: words[0] for name, words in _WORDS.items()}
"""What each step is called in the logbook."""
