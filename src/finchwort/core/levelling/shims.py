"""Foil under the pads: the best stacks from what is in the drawer, and what lies in it afterwards."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy import optimize, sparse

from finchwort.core.base.errors import (
    ChoiceError,
    CollinearError,
    DuplicateError,
    OutOfRangeError,
)
from finchwort.core.base.geometry import Array, Indices, is_line
from finchwort.core.base.wording import millimetres
from finchwort.core.levelling.foils import MAX_PADS, Foil, check_foils, check_stacks
from finchwort.core.levelling.lower_middle import lower_by, why_not_lower, wished_middle
from finchwort.core.levelling.pads import Pad, pad_response
from finchwort.core.surveys import Survey

MAX_LAYERS = 6
"""So many foils on one pad at most: taller stacks creep (common practice)."""
FOIL_PRICE = 0.002
"""One foil more must win this much flatness, mm (ours)."""
OFF_PLANE = 0.05
"""A stiff plate bridges a pad that is this much too low, and rocks on one that is too high, mm (ours)."""
FIRST_ROWS, MORE_ROWS = 24, 12
"""Readings looked at first, and added as long as one of the others sticks out."""
MAX_PASSES = 8
STICKS_OUT = 1e-4
"""A reading further out than those looked at is looked at too, mm."""
CHASED = 2.0
"""Highest less lowest reading wander by about so many standard deviations of a reading: less is noise (ours)."""
FOLDED_PRICE = 0.006
"""A folded piece must win this much, mm: folding and pressing it flat is more work, and it gives a little (ours)."""
GAP = 0.01
"""A plan this close to the best there can be counts as best, as a share."""
SECONDS = 0.8
"""Bound on the first search, s; what was found by then is the best known plan, and says so."""
SMALL, PATIENT = 24, 5.0
"""With so few unknown counts the search ends by itself in well under a second; a busy machine may take so long, s."""
MEND_ROWS = 60
"""So many highest and lowest readings decide what is mended first."""
HAD = 0.5
"""A wish counts as had from half of it on (ours)."""


@dataclass(frozen=True)
class Stack:
    """What should lie under one pad.

    Attributes
    ----------
    pad : Pad
    foils : tuple of float
        Thickest first, mm each.
    thickness : float
        The whole stack, mm: check it with calipers.
    change : float
        Against what lies there now, mm, positive up.
    """

    pad: Pad
    foils: tuple[float, ...]
    thickness: float
    change: float


@dataclass(frozen=True, eq=False)
class ShimPlan:
    """Stacks for all pads and the bed they should give.

    Attributes
    ----------
    stacks : tuple of Stack
    predicted : Survey
    spread_before, spread_after : float
        Highest minus lowest reading of the bed itself, mm, whatever was wished for.
    foils : int
        Foils that lie under pads afterwards.
    done : bool
        Whether nothing is to be changed.
    proven : bool
        Whether no better plan exists; otherwise time ran out.
    wished : float
        How much lower the middle was wanted, mm; 0 when it was not, or cannot be had.
    middle_before, middle_after : float or None
        How much lower the middle lies than the rim, tilt taken out, mm; None when the readings do not say.
    refused : str
        Why the middle cannot be brought lower, when it was wished for.
    """

    stacks: tuple[Stack, ...]
    predicted: Survey
    spread_before: float
    spread_after: float
    foils: int
    done: bool
    proven: bool
    wished: float = 0.0
    middle_before: float | None = None
    middle_after: float | None = None
    refused: str = ""


def plan_shims(
    survey: Survey,
    pads: Sequence[Pad],
    foils: Sequence[Foil],
    *,
    stiff: bool = True,
    lower_middle: float = 0.0,
    centre: tuple[float, float] | None = None,
    most_layers: int = MAX_LAYERS,
    noise: float = 0.0,
) -> ShimPlan:
    """Find the stacks of foil that bring the bed closest to flat.

    A mixed-integer programme: how many foils of each thickness on each pad, so
    that the highest and the lowest reading come closest together; a foil more
    must be worth ``FOIL_PRICE``.  Foils that lie under the pads now are free to move.

    Parameters
    ----------
    survey : Survey
    pads : sequence of Pad
        Three to nine, not on one line.
    foils : sequence of Foil
    stiff : bool
        See `pad_response`.
    lower_middle : float
        How much lower the middle may lie than the rim, mm, for a surface that held too well.
    centre : tuple of float, optional
        The middle, mm; that of the readings when not given.
    most_layers : int
        Foils on one pad.
    noise : float
        Standard deviation of one reading, mm: what wins less than ``CHASED`` times it is left.

    Returns
    -------
    ShimPlan

    Raises
    ------
    ChoiceError, DuplicateError, CollinearError, OutOfRangeError

    References
    ----------
    scipy.optimize.milp (HiGHS), mixed-integer linear programming.

    Examples
    --------
    >>> pads = [Pad("front left", 0, 0), Pad("front right", 100, 0), Pad("back", 50, 100)]
    >>> bed = Survey([0, 100, 50, 50], [0, 0, 100, 50], [0.0, -0.2, -0.1, -0.1])
    >>> plan = plan_shims(bed, pads, [Foil(0.1, 5), Foil(0.05, 5)])
    >>> [(s.pad.name, s.foils) for s in plan.stacks]
    [('front left', ()), ('front right', (0.1, 0.1)), ('back', (0.1,))]
    """
    _check(pads, foils, lower_middle, most_layers)
    folded = {size for foil in foils if foil.roll for size in foil.pieces}
    sizes = sorted(
        {size for foil in foils for size in foil.pieces} | {size for pad in pads for size in pad.stack},
        reverse=True,
    )
    stock = np.array(
        [
            sum(foil.count for foil in foils if not foil.roll and foil.thickness == size)
            + sum(pad.stack.count(size) for pad in pads)
            + (most_layers * len(pads) if size in folded else 0)
            for size in sizes
        ]
    )
    now = np.array([sum(pad.stack) for pad in pads])
    middle_before = lower_by(survey, centre)
    refused = why_not_lower(survey, pads, stiff, centre) if lower_middle > 0 else ""
    if refused and middle_before is not None and middle_before >= HAD * lower_middle:
        refused = f"The middle lies {millimetres(middle_before)} lower than the rim already."
    lower_middle = 0.0 if refused else lower_middle
    response = pad_response(pads, survey.x, survey.y, stiff)
    wish = wished_middle(survey, lower_middle, centre)
    start = survey.height - wish - response @ now
    before = float(np.ptp(survey.height - wish))
    if not sizes:
        raise ChoiceError("levelling.without_foil_nothing_put")

    counted = {foil.thickness for foil in foils if not foil.roll} | {
        size for pad in pads for size in pad.stack
    }
    prices = np.array([FOIL_PRICE if size in counted else FOLDED_PRICE for size in sizes])
    task = _Task(start, response, np.array(sizes), stock, tuple(pads), stiff, most_layers, prices)
    counts, proven = _search(task)
    heights = counts @ np.array(sizes)
    after = start + response @ heights
    used = int(counts.sum())
    kept = sum(len(pad.stack) for pad in pads)
    won = before - float(np.ptp(after))
    if won - FOIL_PRICE * (used - kept) <= 1e-9 or won <= CHASED * noise:
        # nothing to be won: leave what lies there
        counts = np.array([[pad.stack.count(size) for size in sizes] for pad in pads])
        heights, after = now, survey.height - wish
    stacks = tuple(
        Stack(
            pad,
            tuple(size for size, n in zip(sizes, row, strict=True) for _ in range(int(n))),
            float(height),
            float(height - old) + 0.0,
        )
        for pad, row, height, old in zip(pads, counts, heights, now, strict=True)
    )
    predicted = survey.with_heights(after + wish)
    middle_after = lower_by(predicted, centre)
    if lower_middle > 0 and middle_after is not None and middle_after < HAD * lower_middle:
        # the foil there is does not bring it about: a plan for a flat bed is worth more than a wish
        flat = plan_shims(
            survey, pads, foils, stiff=stiff, centre=centre, most_layers=most_layers, noise=noise
        )
        text = (
            "The foil in the drawer does not bring the middle lower: thinner pieces, or more of them, might."
        )
        return replace(flat, refused=text)
    return ShimPlan(
        stacks=stacks,
        predicted=predicted,
        spread_before=float(np.ptp(survey.height)),
        spread_after=float(np.ptp(predicted.height)),
        foils=int(counts.sum()),
        done=all(sorted(stack.foils) == sorted(stack.pad.stack) for stack in stacks),
        proven=proven,
        wished=lower_middle,
        middle_before=middle_before,
        middle_after=middle_after,
        refused=refused,
    )


@dataclass(frozen=True, eq=False)
class _Task:
    """What is searched for: how many foils of each size under each pad leave the plate flattest.

    Attributes
    ----------
    start : ndarray, shape (n,)
        Readings with no foil at all, mm.
    response : ndarray, shape (n, p)
        How far each reading rises when a pad does.
    sizes, stock, prices : ndarray, shape (f,)
        Of each foil: mm, how many there are, and what one of them must win, mm.
    pads : tuple of Pad
    stiff : bool
        The plate does not follow four pads off one plane.
    most_layers : int
        Under one pad.
    """

    start: Array
    response: Array
    sizes: Array
    stock: Array
    pads: tuple[Pad, ...]
    stiff: bool
    most_layers: int
    prices: Array

    @property
    def nothing(self) -> Array:
        """Counts of no foil, shape (p, f)."""
        return np.zeros((len(self.pads), self.sizes.size))

    def after(self, counts: Array) -> Array:
        """Readings over some foil, mm."""
        return self.start + self.response @ (counts @ self.sizes)

    def cost(self, counts: Array) -> float:
        """From highest to lowest reading, and what the foil costs, mm."""
        return float(np.ptp(self.after(counts)) + (counts @ self.prices).sum())

    @cached_property
    def off_plane(self) -> Array | None:
        """What takes the heights of pads off their common plane, shape (p, p); None where the plate follows."""
        if not self.stiff or len(self.pads) <= 3:
            return None
        ends = np.array([[pad.x, pad.y, 1.0] for pad in self.pads])
        return np.asarray(np.eye(len(self.pads)) - ends @ np.linalg.pinv(ends))

    def lies_flat(self, counts: Array) -> bool:
        """Whether the pads stay near one plane, where the plate needs that."""
        off = self.off_plane
        return off is None or bool(np.abs(off @ (counts @ self.sizes)).max() <= OFF_PLANE)


def _search(task: _Task) -> tuple[Array, bool]:
    """Solve with few readings, add those that stick out, and again.

    A relaxed programme without whole numbers finds the readings that matter; whole
    numbers come in when none sticks out any more.
    """
    rows = _extremes(task.start, FIRST_ROWS)
    limit = PATIENT if task.nothing.size <= SMALL else SECONDS
    best, proven, relaxed = task.nothing, False, task.nothing
    for whole in (False, True):
        for _ in range(MAX_PASSES):
            counts, sure = _solve(task, rows, whole, limit)
            if counts is None:
                break
            after = task.after(counts)
            high, low = after[rows].max() + STICKS_OUT, after[rows].min() - STICKS_OUT
            outside = np.flatnonzero((after > high) | (after < low))
            if not whole:
                relaxed = counts
            else:
                best = min(best, counts, key=task.cost)
                proven = sure and outside.size == 0
                limit /= 2  # all passes together stay within twice the time of one
            if outside.size == 0:
                break
            over = np.maximum(after[outside] - high, low - after[outside])
            rows = np.union1d(rows, outside[np.argsort(-over)[:MORE_ROWS]])
    if proven:
        return best, True
    # on a busy machine the time is up sooner: what is in hand then is mended, so that the plan does not depend on that
    begun = [counts for counts in (np.floor(relaxed + 1e-9), best) if task.lies_flat(counts)]
    return min((_mend(task, counts) for counts in begun or [task.nothing]), key=task.cost), False


def _mend(task: _Task, counts: Array) -> Array:
    """Add, take away or exchange foils at one pad or at two, the best first, as long as that makes the plate flatter."""
    p, f = counts.shape
    eye = np.eye(f)
    exchanges = [eye[b] - eye[a] for a in range(f) for b in range(f) if a != b]
    changes = np.array([np.zeros(f), *eye, *-eye, *exchanges])
    one, other = (side.ravel() for side in np.indices((len(changes), len(changes))))
    lifts, both = changes @ task.sizes, changes[one] + changes[other]
    cost = task.cost(counts)
    while True:
        after = task.after(counts)
        rows = _extremes(after, MEND_ROWS)
        wider = counts[:, None] + changes
        fits = (wider >= 0).all(axis=2) & (wider.sum(axis=2) <= task.most_layers)
        in_stock = (counts.sum(axis=0) + both <= task.stock).all(axis=1)
        best = None
        for i in range(p):
            for j in range(i + 1, p):
                room = fits[i, one] & fits[j, other] & in_stock
                if task.off_plane is not None:
                    off = task.off_plane
                    bent = (off @ (counts @ task.sizes))[:, None] + np.outer(off[:, i], lifts[one])
                    room &= np.abs(bent + np.outer(off[:, j], lifts[other])).max(axis=0) <= OFF_PLANE
                if not room.any():
                    continue
                moved = after[rows][:, None] + np.outer(task.response[rows, i], lifts[one[room]])
                moved += np.outer(task.response[rows, j], lifts[other[room]])
                costs = np.ptp(moved, axis=0) + both[room] @ task.prices
                at = int(np.argmin(costs))
                if best is None or costs[at] < best[0]:
                    best = (float(costs[at]), i, j, one[room][at], other[room][at])
        if best is None:
            return counts
        trial = counts.copy()
        trial[best[1]] += changes[best[3]]
        trial[best[2]] += changes[best[4]]
        if task.cost(trial) >= cost - 1e-9:
            return counts
        counts, cost = trial, task.cost(trial)


def _solve(task: _Task, rows: Indices, whole: bool, limit: float) -> tuple[Array | None, bool]:
    """Counts of foils, shape (p, f), by some of the readings, and whether they are proven best."""
    p, f = task.nothing.shape
    n = p * f
    start = task.start[rows]
    # unknowns: counts pad by pad, then highest and lowest
    lift = np.kron(task.response[rows], task.sizes)  # (rows, p f)
    ones, zeros = np.ones((start.size, 1)), np.zeros((start.size, 1))
    each_pad = np.hstack([np.kron(np.eye(p), np.ones(f)), np.zeros((p, 2))])
    each_foil = np.hstack([np.kron(np.ones(p), np.eye(f)), np.zeros((f, 2))])
    limits = [np.hstack([lift, -ones, zeros]), np.hstack([-lift, zeros, ones]), each_pad, each_foil]
    upper = [-start, start, np.full(p, task.most_layers), task.stock]
    if task.off_plane is not None:
        block = np.hstack([task.off_plane @ np.kron(np.eye(p), task.sizes), np.zeros((p, 2))])
        limits += [block, -block]
        upper += [np.full(p, OFF_PLANE)] * 2
    most = np.minimum(np.tile(task.stock, p), task.most_layers).astype(float)
    result = optimize.milp(
        c=np.concatenate([np.tile(task.prices, p), [1.0, -1.0]]),
        constraints=optimize.LinearConstraint(sparse.csr_array(np.vstack(limits)), ub=np.concatenate(upper)),
        integrality=np.concatenate([np.ones(n), np.zeros(2)]) if whole else None,
        bounds=optimize.Bounds(
            np.concatenate([np.zeros(n), [-np.inf, -np.inf]]), np.concatenate([most, [np.inf, np.inf]])
        ),
        options={"time_limit": limit, "mip_rel_gap": GAP},
    )
    if result.x is None:
        return None, False
    counts = result.x[:n].reshape(p, f)
    return (np.rint(counts) if whole else counts), result.status == 0


def _extremes(height: Array, count: int) -> Indices:
    """Highest and lowest readings, and an even selection of the others."""
    if height.size <= 2 * count:
        return np.arange(height.size)
    order = np.argsort(height)
    even = np.linspace(0, height.size - 1, count).astype(int)
    return np.unique(np.concatenate([order[: count // 2], order[-count // 2 :], even]))


def _check(pads: Sequence[Pad], foils: Sequence[Foil], lower_middle: float, most_layers: int) -> None:
    if not 3 <= len(pads) <= MAX_PADS:
        raise ChoiceError("levelling.plate_rests_three_pads", max_pads=MAX_PADS)
    if len({pad.name for pad in pads}) < len(pads) or len({(pad.x, pad.y) for pad in pads}) < len(pads):
        raise DuplicateError("levelling.two_pads_same_name")
    if is_line(np.array([pad.x for pad in pads]), np.array([pad.y for pad in pads])):
        raise CollinearError("levelling.all_pads_line_nothing")
    check_foils(foils)
    check_stacks({pad.name: pad.stack for pad in pads})
    if not 0 <= lower_middle <= 0.3:
        raise OutOfRangeError("levelling.middle_touch_lower_mm")
    if not 1 <= most_layers <= 20:
        raise OutOfRangeError("levelling.stack_foils")
