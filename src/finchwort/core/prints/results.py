"""What came of prints: shares that held, with how sure they are, and how long a coat lasts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.statistics import CONFIDENCE, normal_quantile

FEW = 5
"""Fewer prints than this say little (ours)."""
COAT_FAILURES = 2
"""A coat's life is told when so many prints on coats let go (ours)."""
HALF = 0.5


@dataclass(frozen=True)
class Share:
    """How many of all held.

    Attributes
    ----------
    held, told : int
        Prints that held, and all of which it was told.
    low, high : float
        Bounds of the share.
    """

    held: int
    told: int
    low: float
    high: float

    @property
    def few(self) -> bool:
        """Whether there are too few to say much."""
        return self.told < FEW


def share_of(held: int, told: int, confidence: float = CONFIDENCE) -> Share:
    """Return a share with its bounds.

    Parameters
    ----------
    held, told : int
        0 <= held <= told.
    confidence : float

    Returns
    -------
    Share
        With the bounds of E. B. Wilson, Journal of the American Statistical Association 22, 1927; 0 and 1 without any.

    Examples
    --------
    >>> share = share_of(9, 10)
    >>> round(share.low, 3), round(share.high, 3)
    (0.596, 0.982)
    """
    if not told:
        return Share(held, told, 0.0, 1.0)
    z = normal_quantile(confidence)
    p = held / told
    scale = 1 + z * z / told
    middle = (p + z * z / (2 * told)) / scale
    half = z / scale * math.sqrt(p * (1 - p) / told + z * z / (4 * told * told))
    low = 0.0 if held == 0 else middle - half
    high = 1.0 if held == told else middle + half
    return Share(held, told, low, high)


def saved_by_stopping(left: float, minutes: float, grams: float | None) -> tuple[float, float | None]:
    """Say what stopping a print saves.

    Parameters
    ----------
    left, minutes : float
        Until its end, and from its first line to it; minutes, ``minutes`` more than 0.
    grams : float or None
        Of the whole print; plastic is taken to be laid evenly over the time.

    Returns
    -------
    minutes, grams

    Examples
    --------
    >>> saved_by_stopping(90, 120, 60.0), saved_by_stopping(-5, 120, None)
    ((90, 45.0), (0.0, None))
    """
    rest = min(max(left, 0.0), minutes)
    return rest, None if grams is None else grams * rest / minutes


@dataclass(frozen=True)
class CoatLife:
    """How many prints a coat lasts.

    Attributes
    ----------
    prints : int
        After so many half of the coats still hold; at least so many where fewer than half let go.
    at_least : bool
    told, let_go : int
        Prints on coats, and those of them that let go.
    """

    prints: int
    at_least: bool
    told: int
    let_go: int


def coat_life(told: Sequence[tuple[int, bool]]) -> CoatLife | None:
    """Say how long a coat lasts.

    Parameters
    ----------
    told : sequence of (int, bool)
        Of each print on a coat: how many were printed on it before, and whether it let go.

    Returns
    -------
    CoatLife or None
        None while too few let go.  Of the prints that were the first, second, third on their coat the share that let
        go is a hazard; their product is the share of coats that still hold.

    Examples
    --------
    >>> coat_life([(0, False), (1, False), (2, True), (0, False), (1, False), (2, True)])
    CoatLife(prints=2, at_least=False, told=6, let_go=2)
    >>> coat_life([(0, False)] * 9) is None
    True
    """
    let_go = sum(gone for _, gone in told)
    if let_go < COAT_FAILURES:
        return None
    holds, last = 1.0, max(before for before, _ in told)
    for before in range(last + 1):
        gone = [one for at, one in told if at == before]
        if gone:
            holds *= 1 - sum(gone) / len(gone)
        if holds < HALF:
            return CoatLife(before, False, len(told), let_go)
    return CoatLife(last + 1, True, len(told), let_go)
