"""Causes, signs and checks: what is passed into a diagnosis, and what is found."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from finchwort.core.base.remarks import Remark

SHARES = {"N": 0.93, "O": 0.7, "S": 0.3, "R": 0.08}
"""How often a sign shows when its cause is present: nearly always, often, sometimes, rarely (ours)."""
CLEAR = "clear"
"""Key of the outcome "nothing found"."""


@dataclass(frozen=True)
class Sign:
    """Something that can be seen, or measured.

    Attributes
    ----------
    key, ask, hint : str
        ``ask`` is what the person is asked, in a few words.
    group : str
    leak : float
        How often it shows without any of its causes.
    drawing : str
        Name of its picture; empty for none.
    measured : bool
        Whether it is not asked, but comes from measurements.
    told : float
        How often it is told when it is there, by somebody who says what strikes them.
    mistaken : float
        How often it is told when it is not there.
    follows : tuple of str
        Signs that are there whenever this one is: told with it, they count once.
    """

    key: str
    ask: str
    group: str
    hint: str = ""
    leak: float = 0.04
    drawing: str = ""
    measured: bool = False
    told: float = 0.6
    mistaken: float = 0.01
    follows: tuple[str, ...] = ()


@dataclass(frozen=True)
class Cause:
    """Something that can be wrong.

    Attributes
    ----------
    key, name : str
    weight : float
        How often it is behind a complaint, relative to the others.
    signs : mapping of str to float
        How often each sign shows when this is the cause.
    remedy : str
        What mends it.
    keep : str
        What must stay as it is while the remedy is tried.
    minutes : float
        The remedy takes.
    tag : str
        Where it comes from.
    caution : str
    also : mapping of str to float
        Other causes that the same remedy mends, and how often.
    redo : str
        What must be done again after the remedy; empty for nothing.
    number : str
        Which number the remedy wants, see `finchwort.core.diagnosis.number_remedy`; empty for none.
    """

    key: str
    name: str
    weight: float
    signs: Mapping[str, float]
    remedy: str
    keep: str = ""
    minutes: float = 5.0
    tag: str = "P"
    caution: str = ""
    also: Mapping[str, float] = field(default_factory=dict)
    redo: str = ""
    number: str = ""


@dataclass(frozen=True)
class Before:
    """Something that people have often tried before they ask.

    Attributes
    ----------
    key, name : str
    mends : mapping of str to float
        Causes that it would have mended, and how surely.
    skips : tuple of str
        Causes whose remedy it was: not proposed once more when it did not help.
    """

    key: str
    name: str
    mends: Mapping[str, float]
    skips: tuple[str, ...] = ()


@dataclass(frozen=True)
class Outcome:
    """One way a check can come out.

    Attributes
    ----------
    key, words : str
    causes : mapping of str to float
        How often it comes out so when that is the cause; empty for "nothing found".
    leak : float
        How often it comes out so without any of them.
    """

    key: str
    words: str
    causes: Mapping[str, float] = field(default_factory=dict)
    leak: float = 0.03


@dataclass(frozen=True)
class Check:
    """Something to look at or try, which tells causes apart.

    Attributes
    ----------
    key, title, how : str
    minutes : float
    risk : int
        1 for looking, 2 for trying, 3 for taking apart.
    outcomes : tuple of Outcome
        Without "nothing found", which is what is left.
    clear : str
        Words for "nothing found".
    needs : tuple of str
        What the printer must have: "probe", "screws", "beam", "compensation", "heated".
    caution : str
    page : str
        Where it is done or looked up; empty for nowhere.
    asks : tuple of str
        Signs that it asks for: once they were told it tells less.
    prints : bool
        Whether something is printed for it: not while an alarm stands.
    """

    key: str
    title: str
    how: str
    minutes: float
    risk: int
    outcomes: tuple[Outcome, ...]
    clear: str
    needs: tuple[str, ...] = ()
    caution: str = ""
    page: str = ""
    asks: tuple[str, ...] = ()
    prints: bool = False


@dataclass(frozen=True)
class Finding:
    """What is known of a sign.

    Attributes
    ----------
    sign : str
    there, absent : float
        Likelihood of what was measured if the sign is there, and if it is not.
    source : Remark or None
        Said to the person, for measurements.
    told : bool or None
        What a person answered; none for a measurement.  An answer is evidence, not a fact: how far it goes, the
        sign's own numbers say.
    """

    sign: str
    there: float
    absent: float
    source: Remark | None = None
    told: bool | None = None


def yes(sign: str) -> Finding:
    """Somebody says that the sign is there."""
    return Finding(sign, 1.0, 0.0, told=True)


def no(sign: str) -> Finding:
    """Somebody says that it is not."""
    return Finding(sign, 0.0, 1.0, told=False)
