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
    """

    key: str
    ask: str
    group: str
    hint: str = ""
    leak: float = 0.04
    drawing: str = ""
    measured: bool = False


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


@dataclass(frozen=True)
class Finding:
    """What is known of a sign.

    Attributes
    ----------
    sign : str
    there, absent : float
        Likelihood of what was seen if the sign is there, and if it is not; (1, 0) for a plain yes.
    source : Remark or None
        Said to the person, for measurements.
    """

    sign: str
    there: float
    absent: float
    source: Remark | None = None


def yes(sign: str) -> Finding:
    """The sign was seen."""
    return Finding(sign, 1.0, 0.0)


def no(sign: str) -> Finding:
    """It was looked for and not seen."""
    return Finding(sign, 0.0, 1.0)
