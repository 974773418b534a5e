"""In which order to turn the knobs: each once, so that the plate is forced as little as possible on the way."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.printers import Screw

ALL_ORDERS_TO = 6
"""Up to so many knobs every order is looked at."""
FIGHT = 0.02
"""Less force than this is no fight, mm of the screw ends off one plane (ours)."""


@dataclass(frozen=True)
class Order:
    """An order of turning.

    Attributes
    ----------
    names : tuple of str
        The knobs to turn, in their order; each once, which is the fewest moves there can be.
    strain : float
        Worst distance of the screw ends from one plane on the way, mm.
    worst : float
        The same for the worst order there is, mm.
    why : Remark
    """

    names: tuple[str, ...]
    strain: float
    worst: float
    why: Remark


def turning_order(screws: Sequence[Screw], turns: Sequence[float]) -> Order:
    """Find the order that forces the plate least.

    Between two moves the ends of four or more screws do not lie in one plane; how
    far they are off it (root of the summed squares) is what the plate and the
    springs have to give.

    Parameters
    ----------
    screws : sequence of Screw
    turns : sequence of float
        Turns to make, positive for tightening.

    Returns
    -------
    Order

    Examples
    --------
    >>> posts = [Screw(n, x, y, 0.8) for n, (x, y) in
    ...          zip(["a", "b", "c", "d"], [(0, 0), (200, 0), (200, 200), (0, 200)])]
    >>> turning_order(posts, [0.5, 0.0, -0.5, 0.0]).names
    ('a', 'c')
    """
    amounts = np.asarray(turns, dtype=np.float64)
    turned = [int(i) for i in np.flatnonzero(amounts)]
    names = [screw.name for screw in screws]
    moves = amounts * [screw.travel for screw in screws]
    ends = np.array([[s.x, s.y, 1.0] for s in screws])
    off = np.eye(len(screws)) - ends @ np.linalg.pinv(ends)

    def path(order: Sequence[int]) -> float:
        state, worst = np.zeros(len(screws)), 0.0
        for i in order:
            state[i] = moves[i]
            worst = max(worst, float(np.linalg.norm(off @ state)))
        return worst

    best: Sequence[int]
    largest = sorted(turned, key=lambda i: (-abs(moves[i]), i))
    if len(turned) < 2:
        return Order(
            tuple(names[i] for i in turned), path(turned), path(turned), _why(screws, moves, turned, 0)
        )
    if len(turned) <= ALL_ORDERS_TO:
        results = [(path(order), order) for order in itertools.permutations(turned)]
        worst = max(strain for strain, _ in results)
        least = min(strain for strain, _ in results)
        near = [order for strain, order in results if strain <= least + 1e-9]
        # among equals the larger moves first: the coarse part is done when something interrupts
        best = min(near, key=lambda order: [largest.index(i) for i in order])
    else:
        chosen: list[int] = []
        rest = set(turned)
        while rest:
            chosen.append(min(rest, key=lambda i: (path([*chosen, i]), largest.index(i))))
            rest.discard(chosen[-1])
        best, least, worst = chosen, path(chosen), path(largest)
    return Order(tuple(names[i] for i in best), least, worst, _why(screws, moves, best, worst - least))


def _why(screws: Sequence[Screw], moves: Array, order: Sequence[int], won: float) -> Remark:
    if not order:
        return remark("tramming.order_none")
    if len(order) == 1:
        return remark("tramming.order_one")
    if len(screws) == 3:
        return remark("tramming.order_three")
    if won < FIGHT:
        return remark("tramming.order_hardly_matters")
    first, second = order[0], order[1]
    pair = (screws[first].name, screws[second].name)
    if _across(screws, first, second):
        return remark("tramming.order_across", pair=pair, same=bool(moves[first] * moves[second] > 0))
    return remark("tramming.order_together", pair=pair)


def _across(screws: Sequence[Screw], item: int, other: int) -> bool:
    """Whether two screws lie on opposite sides of the middle of all."""
    places = np.array([[s.x, s.y] for s in screws])
    places = (places - places.mean(axis=0)) / np.ptp(places, axis=0)
    return bool(places[item] @ places[other] < -0.25)
