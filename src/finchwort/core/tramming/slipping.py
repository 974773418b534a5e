"""Which knob does less than it should."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import linalg

from finchwort.core.base.geometry import Array
from finchwort.core.printers import Screw
from finchwort.core.tramming.response import MAX_MOVES, Move, prior_response, stack
from finchwort.core.tramming.screws import HAND_SD

SLIPS = np.linspace(0.3, 1.0, 8)
"""Shares of its turn that a slipping knob loses; less than that is nobody's trouble (ours)."""
PRIOR = 0.3
"""How often a bed that is being levelled has a slipping knob, before any round is seen (ours)."""
SURE = 0.75
"""A knob, or a group of them, is named from this probability on (ours)."""
UNSTEADY = 0.07
"""A slipping knob does not lose the same share each time, standard deviation as a share of its turn (ours)."""


@dataclass(frozen=True, eq=False)
class Slipping:
    """What the rounds say about slipping knobs.

    Attributes
    ----------
    healthy : float
        Probability that every knob does its part.
    each : ndarray, shape (k,)
        Probability that this one slips.
    named : str or None
        The knob that slips, when it is sure enough.
    lost : float
        The share of its turn that it loses.
    suspects : tuple of str
        Knobs one of which slips, when they cannot be told apart yet.
    hold : str or None
        A suspect to leave alone in the next round, so that the round tells them apart.
    """

    healthy: float
    each: Array
    named: str | None
    lost: float
    suspects: tuple[str, ...]
    hold: str | None

    @property
    def doubted(self) -> tuple[str, ...]:
        """Knobs to which what went wrong is laid; the one put to the test is taken to be well."""
        return (self.hold,) if self.hold else self.suspects


def find_slipping(screws: Sequence[Screw], moves: Sequence[Move], hand_sd: float = HAND_SD) -> Slipping:
    """Weigh for every knob whether it slips, against all knobs being well.

    Under each belief the rounds have a Gaussian likelihood (see
    `finchwort.core.tramming.learn`); the share lost is averaged over ``SLIPS``.

    Parameters
    ----------
    screws : sequence of Screw
    moves : sequence of Move
        Since the knobs were last mended.
    hand_sd : float
        How truly knobs are turned, standard deviation, turns.

    Returns
    -------
    Slipping
    """
    k = len(screws)
    moves = list(moves)[-MAX_MOVES:]
    if not moves:
        return Slipping(1 - PRIOR, np.full(k, PRIOR / k), None, 0.0, (), None)
    base = prior_response(screws)
    mean = np.concatenate([base.prior.ravel(), [base.lost]])
    design, seen, noise, _ = stack(moves, base.prior, hand_sd)
    turns = np.array([move.turns for move in moves])
    spread = design @ base.covariance @ design.T + noise
    gap = seen - design @ mean
    well = _log_density(gap, spread) + math.log(1 - PRIOR)

    logs = np.full((k, SLIPS.size), -np.inf)
    for i in range(k):
        if not turns[:, i].any():
            continue
        # what this knob should have done in every round, one after the other
        due = np.concatenate([base.prior[:, i] * turn for turn in turns[:, i]])
        blocks = linalg.block_diag(*[np.outer(p, p) for p in due.reshape(-1, 2)])
        for j, lost in enumerate(SLIPS):
            wider = spread + UNSTEADY**2 * blocks
            logs[i, j] = _log_density(gap + lost * due, wider)
    logs += math.log(PRIOR / k / SLIPS.size)
    top = max(well, logs.max())
    weights = np.exp(logs - top)
    total = math.exp(well - top) + weights.sum()
    each = weights.sum(axis=1) / total
    healthy = float(math.exp(well - top) / total)
    return _conclude(screws, healthy, each, weights)


def _conclude(screws: Sequence[Screw], healthy: float, each: Array, weights: Array) -> Slipping:
    names = [screw.name for screw in screws]
    order = np.argsort(-each, kind="stable")
    first = int(order[0])
    lost = float(weights[first] @ SLIPS / weights[first].sum()) if weights[first].any() else 0.0
    if each[first] >= SURE:
        return Slipping(healthy, each, names[first], lost, (), names[first])
    if 1 - healthy < SURE:
        return Slipping(healthy, each, None, 0.0, (), None)
    count = int(np.searchsorted(np.cumsum(each[order]), SURE * (1 - healthy))) + 1
    group = order[:count]
    # of two that look alike the less likely one rests, the other one is put to the test
    hold = names[int(group[-1])] if len(screws) > 3 else None
    return Slipping(healthy, each, None, 0.0, tuple(names[int(i)] for i in sorted(group)), hold)


def _log_density(gap: Array, covariance: Array) -> float:
    factor = linalg.cholesky(covariance, lower=True)
    solved = linalg.solve_triangular(factor, gap, lower=True)
    return float(-0.5 * solved @ solved - np.log(np.diag(factor)).sum())
