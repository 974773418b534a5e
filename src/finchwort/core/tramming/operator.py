"""One's own hand: how truly somebody turns knobs, learned from what was planned and what was seen."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import linalg

from finchwort.core.base.statistics import Z95
from finchwort.core.printers import Screw
from finchwort.core.tramming.response import MAX_MOVES, Move, learn, stack
from finchwort.core.tramming.screws import HAND_SD

SPREAD = 0.5
"""Hands differ: standard deviation of the logarithm of how truly they turn (ours)."""
MIN_SD, MAX_SD = 1 / 128, 1 / 6
"""Nobody turns more truly than the first, and whoever turns worse than the second does not count, turns."""
NODES = 41
STEADY = 4
"""From so many rounds on a hand is said to be known."""


@dataclass(frozen=True)
class Hand:
    """How truly somebody turns.

    Attributes
    ----------
    sd : float
        Standard deviation of one turn, turns.
    low, high : float
        Its interval at 95 %, turns.
    rounds : int
        It was learned from.
    """

    sd: float = HAND_SD
    low: float = HAND_SD * math.exp(-Z95 * SPREAD)
    high: float = HAND_SD * math.exp(Z95 * SPREAD)
    rounds: int = 0


def learn_hand(beds: Sequence[tuple[Sequence[Screw], Sequence[Move]]]) -> Hand:
    """Learn a hand from rounds at one bed or several.

    For every value of it the rounds of a bed have a Gaussian likelihood, with what is not known of the bed's springs
    and threads and of the readings in it (see `finchwort.core.tramming.learn`); a log-normal first belief joins in.

    Parameters
    ----------
    beds : sequence of (sequence of Screw, sequence of Move)
        Rounds of knobs that do their part; those of a knob that slips say nothing about a hand.

    Returns
    -------
    Hand

    Examples
    --------
    >>> learn_hand([]).sd == HAND_SD
    True
    """
    rounds = sum(len(list(moves)[-MAX_MOVES:]) for _, moves in beds)
    if not rounds:
        return Hand()
    sizes = np.exp(np.linspace(math.log(MIN_SD), math.log(MAX_SD), NODES))
    log = -0.5 * (np.log(sizes / HAND_SD) / SPREAD) ** 2
    for screws, moves in beds:
        moves = list(moves)[-MAX_MOVES:]
        if not moves:
            continue
        base = learn(screws, ())
        mean = np.concatenate([base.prior.ravel(), [base.lost]])
        for i, size in enumerate(sizes):
            design, seen, noise, _ = stack(moves, base.prior, float(size))
            spread = design @ base.covariance @ design.T + noise
            factor = linalg.cholesky(spread, lower=True)
            solved = linalg.solve_triangular(factor, seen - design @ mean, lower=True)
            log[i] -= 0.5 * float(solved @ solved) + float(np.log(np.diag(factor)).sum())
    share = np.exp(log - log.max())
    share /= share.sum()
    total = np.cumsum(share)
    low, sd, high = (float(np.exp(np.interp(p, total, np.log(sizes)))) for p in (0.025, 0.5, 0.975))
    return Hand(sd, low, high, rounds)
