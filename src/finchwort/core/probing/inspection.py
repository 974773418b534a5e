"""The walk round the machine, and what a bad find weakens."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import lower_first
from finchwort.core.probing.kinds import FindingState

FINDINGS = tuple(FindingState)
JUDGEMENTS = ("trust", "warm", "map", "plan")
DOINGS = ("home", "probe", "heat")
"""What is begun over a line, and warned of while something is bad."""
FEATURES = ("screws", "pads", "beam1", "beam2", "probe")


@dataclass(frozen=True)
class Mending:
    """What to do about something bad.

    Attributes
    ----------
    how : str
    minutes : int
    part : str
        What has to be at hand.
    """

    how: str
    minutes: int
    part: str


@dataclass(frozen=True)
class Item:
    """Something to look at.

    Attributes
    ----------
    key, title : str
    how : str
        How to look.
    good : str
        What good looks like.
    ignore : str
        What it costs to ignore.
    caution : str
        Shown at that step; may be empty.
    needs : tuple of str
        Asked only of printers with one of these ``FEATURES``; of all when empty.
    weakens : tuple of str
        The ``JUDGEMENTS`` that stand on it.
    warns : tuple of str
        The ``DOINGS`` before which it is said while it is bad.
    mending : Mending or None
    """

    key: str
    title: str
    how: str
    good: str
    ignore: str
    caution: str
    needs: tuple[str, ...]
    weakens: tuple[str, ...]
    warns: tuple[str, ...] = ()
    mending: Mending | None = None


def items_for(items: Iterable[Item], features: Iterable[str]) -> list[Item]:
    """Choose the items that concern a printer.

    Parameters
    ----------
    items : iterable of Item
    features : iterable of str
        Of ``FEATURES``.

    Examples
    --------
    >>> springs = Item("springs", "Springs", "", "", "", "", ("screws",), ("plan",))
    >>> [len(items_for([springs], has)) for has in (["screws"], ["pads"])]
    [1, 0]
    """
    has = set(features)
    if has - set(FEATURES):
        raise ChoiceError("probing.printer_no", names=", ".join(sorted(has - set(FEATURES))))
    return [item for item in items if not item.needs or has & set(item.needs)]


def weakened(items: Iterable[Item], result: Mapping[str, str], judgement: str) -> list[str]:
    """Say which bad finds weaken a judgement.

    Parameters
    ----------
    items : iterable of Item
    result : mapping of str to {"good", "bad", "skipped"}
        Newest state by key.
    judgement : str
        One of ``JUDGEMENTS``.

    Returns
    -------
    list of str
        A sentence for each.

    Examples
    --------
    >>> springs = Item("springs", "Springs well compressed", "", "", "The level is lost in days.", "", (), ("plan",))
    >>> weakened([springs], {"springs": "bad"}, "plan")
    ['Not as it should be: springs well compressed. The level is lost in days.']
    """
    if judgement not in JUDGEMENTS:
        raise ChoiceError("probing.no_judgement_called", judgement=judgement)
    return [
        f"Not as it should be: {lower_first(item.title)}. {item.ignore}"
        for item in items
        if judgement in item.weakens and result.get(item.key) == "bad"
    ]


def warnings(items: Iterable[Item], result: Mapping[str, str], doing: str) -> list[str]:
    """Say what is bad before something is begun over a line.

    Parameters
    ----------
    items : iterable of Item
    result : mapping of str to {"good", "bad", "skipped"}
        Newest state by key.
    doing : one of ``DOINGS``

    Examples
    --------
    >>> sock = Item("sock", "Sock on", "", "", "It halts when the fan starts.", "", (), (), ("heat",))
    >>> warnings([sock], {"sock": "bad"}, "heat"), warnings([sock], {"sock": "bad"}, "home")
    (['Found bad: sock on. It halts when the fan starts.'], [])
    """
    if doing not in DOINGS:
        raise ChoiceError("probing.nothing_begun_called", doing=doing)
    return [
        f"Found bad: {lower_first(item.title)}. {item.ignore}"
        for item in items
        if doing in item.warns and result.get(item.key) == "bad"
    ]
