"""Foil under the pads: the best stacks from what is in the drawer; and tape under a loose plate."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import optimize, sparse
from scipy.interpolate import RBFInterpolator

from finchwort.core.bedfit import BedFit, fit_bed
from finchwort.core.errors import ChoiceError, CollinearError, DuplicateError, OutOfRangeError
from finchwort.core.surveys import Array, Survey, is_line
from finchwort.core.wording import millimetres

MOST_PADS, MOST_FOILS, MOST_COUNT = 9, 8, 99
MOST_LAYERS = 6
"""So many foils on one pad at most: taller stacks creep (common practice)."""
FOIL_PRICE = 0.002
"""One foil more must win this much flatness, mm (ours)."""
OFF_PLANE = 0.05
"""A stiff plate bridges a pad that is this much too low, and rocks on one that is too high, mm (ours)."""
FIRST_ROWS, MORE_ROWS = 24, 12
"""Readings looked at first, and added as long as one of the others sticks out."""
MOST_PASSES = 8
STICKS_OUT = 1e-4
"""A reading further out than those looked at is looked at too, mm."""
CHASED = 2.0
"""Highest less lowest reading wander by about so many standard deviations of a reading: less is noise (ours)."""
GAP = 0.01
"""A plan this close to the best there can be counts as best, as a share."""
SECONDS = 0.8
"""Bound on the first search, s; what was found by then is the best known plan, and says so."""
SMALL, PATIENT = 24, 5.0
"""With so few unknown counts the search ends by itself in well under a second; a busy machine may take so long, s."""
TRUSTED = 2.0
"""A dip counts from so many standard deviations of a reading on (ours)."""
TAPE = 0.06
"""One layer of masking tape, mm (common practice)."""


@dataclass(frozen=True)
class Pad:
    """A support without a screw.

    Attributes
    ----------
    name : str
    x, y : float
        mm
    stack : tuple of float
        Foils that lie on it now, mm each.
    """

    name: str
    x: float
    y: float
    stack: tuple[float, ...] = ()


@dataclass(frozen=True)
class Foil:
    """A thickness of foil and how many pieces there are.

    Attributes
    ----------
    thickness : float
        mm
    count : int
        Loose pieces, those under the pads not counted.
    """

    thickness: float
    count: int


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
        Highest minus lowest reading against the wish (flat, or the middle a touch lower), mm.
    foils : int
        Foils that lie under pads afterwards.
    done : bool
        Whether nothing is to be changed.
    proven : bool
        Whether no better plan exists; otherwise time ran out.
    """

    stacks: tuple[Stack, ...]
    predicted: Survey
    spread_before: float
    spread_after: float
    foils: int
    done: bool
    proven: bool


def pad_response(pads: Sequence[Pad], x: Array, y: Array, stiff: bool = True) -> Array:
    """How the bed follows its pads.

    Parameters
    ----------
    pads : sequence of Pad
    x, y : ndarray, shape (n,)
        Places, mm.
    stiff : bool
        A stiff plate tips along the least-squares plane through its pads; one that
        bends lies on all of them, as a thin plate does.

    Returns
    -------
    ndarray, shape (n, p)
        Times the heights of the pads gives the change at the places, mm.
    """
    ends = np.array([[pad.x, pad.y, 1.0] for pad in pads])
    if stiff or len(pads) == 3:
        return np.column_stack([x, y, np.ones_like(x)]) @ np.linalg.pinv(ends)
    plate = RBFInterpolator(ends[:, :2], np.eye(len(pads)), kernel="thin_plate_spline", degree=1)
    return plate(np.column_stack([x, y]))


def plan_shims(
    survey: Survey,
    pads: Sequence[Pad],
    foils: Sequence[Foil],
    *,
    stiff: bool = True,
    lower_middle: float = 0.0,
    centre: tuple[float, float] | None = None,
    most_layers: int = MOST_LAYERS,
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
    sizes = sorted(
        {foil.thickness for foil in foils} | {size for pad in pads for size in pad.stack}, reverse=True
    )
    stock = np.array(
        [
            sum(foil.count for foil in foils if foil.thickness == size)
            + sum(pad.stack.count(size) for pad in pads)
            for size in sizes
        ]
    )
    now = np.array([sum(pad.stack) for pad in pads])
    response = pad_response(pads, survey.x, survey.y, stiff)
    wish = _wish(survey, lower_middle, centre)
    start = survey.height - wish - response @ now
    before = float(np.ptp(survey.height - wish))
    if not sizes:
        raise ChoiceError("Without foil nothing can be put under the pads. Count what is in the drawer.")

    counts, proven = _search(start, response, np.array(sizes), stock, pads, stiff, most_layers)
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
    return ShimPlan(
        stacks=stacks,
        predicted=survey.with_heights(after + wish),
        spread_before=before,
        spread_after=float(np.ptp(after)),
        foils=int(counts.sum()),
        done=all(sorted(stack.foils) == sorted(stack.pad.stack) for stack in stacks),
        proven=proven,
    )


def _search(start, response, sizes, stock, pads, stiff, most_layers) -> tuple[Array, bool]:
    """Solve with few readings, add those that stick out, and again.

    A relaxed programme without whole numbers finds the readings that matter; whole
    numbers come in when none sticks out any more.
    """
    rows = _extremes(start, FIRST_ROWS)
    limit = PATIENT if len(pads) * sizes.size <= SMALL else SECONDS
    best, proven = None, False
    for whole in (False, True):
        for _ in range(MOST_PASSES):
            counts, sure = _solve(
                start[rows], response[rows], sizes, stock, pads, stiff, most_layers, whole, limit
            )
            if counts is None:
                break
            after = start + response @ (counts @ sizes)
            high, low = after[rows].max() + STICKS_OUT, after[rows].min() - STICKS_OUT
            outside = np.flatnonzero((after > high) | (after < low))
            if whole:
                cost = float(np.ptp(after)) + FOIL_PRICE * float(counts.sum())
                if best is None or cost < best[0]:
                    best = (cost, counts)
                proven = sure and outside.size == 0
                limit /= 2  # all passes together stay within twice the time of one
            if outside.size == 0:
                break
            over = np.maximum(after[outside] - high, low - after[outside])
            rows = np.union1d(rows, outside[np.argsort(-over)[:MORE_ROWS]])
    nothing = np.zeros((len(pads), sizes.size))
    return (nothing, False) if best is None else (best[1], proven)


def _solve(
    start, response, sizes, stock, pads, stiff, most_layers, whole, limit
) -> tuple[Array | None, bool]:
    """Counts of foils, shape (p, f), and whether they are proven best."""
    p, f = len(pads), sizes.size
    n = p * f
    # unknowns: counts pad by pad, then highest and lowest
    lift = np.kron(response, sizes)  # (rows, p f)
    ones, zeros = np.ones((start.size, 1)), np.zeros((start.size, 1))
    rows = [np.hstack([lift, -ones, zeros]), np.hstack([-lift, zeros, ones])]
    upper = [-start, start]
    each_pad = np.hstack([np.kron(np.eye(p), np.ones(f)), np.zeros((p, 2))])
    each_foil = np.hstack([np.kron(np.ones(p), np.eye(f)), np.zeros((f, 2))])
    rows += [each_pad, each_foil]
    upper += [np.full(p, most_layers), stock]
    if stiff and p > 3:
        ends = np.array([[pad.x, pad.y, 1.0] for pad in pads])
        off = (np.eye(p) - ends @ np.linalg.pinv(ends)) @ np.kron(np.eye(p), sizes)
        block = np.hstack([off, np.zeros((p, 2))])
        rows += [block, -block]
        upper += [np.full(p, OFF_PLANE)] * 2
    most = np.minimum(np.tile(stock, p), most_layers).astype(float)
    result = optimize.milp(
        c=np.concatenate([np.full(n, FOIL_PRICE), [1.0, -1.0]]),
        constraints=optimize.LinearConstraint(sparse.csr_array(np.vstack(rows)), ub=np.concatenate(upper)),
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


def _wish(survey: Survey, lower_middle: float, centre: tuple[float, float] | None) -> Array:
    """The surface wished for: flat, or a little lower in the middle, mm."""
    cx, cy = centre or ((survey.x.min() + survey.x.max()) / 2, (survey.y.min() + survey.y.max()) / 2)
    u = (survey.x - cx) * 2 / np.ptp(survey.x)
    v = (survey.y - cy) * 2 / np.ptp(survey.y)
    return -lower_middle * np.clip(1 - (u**2 + v**2) / 2, 0.0, 1.0)


def _extremes(height: Array, count: int) -> Array:
    """Highest and lowest readings, and an even selection of the others."""
    if height.size <= 2 * count:
        return np.arange(height.size)
    order = np.argsort(height)
    even = np.linspace(0, height.size - 1, count).astype(int)
    return np.unique(np.concatenate([order[: count // 2], order[-count // 2 :], even]))


def _check(pads: Sequence[Pad], foils: Sequence[Foil], lower_middle: float, most_layers: int) -> None:
    if not 3 <= len(pads) <= MOST_PADS:
        raise ChoiceError(f"A plate rests on three to {MOST_PADS} pads.")
    if len({pad.name for pad in pads}) < len(pads) or len({(pad.x, pad.y) for pad in pads}) < len(pads):
        raise DuplicateError("Two pads have the same name or the same place.")
    if is_line(np.array([pad.x for pad in pads]), np.array([pad.y for pad in pads])):
        raise CollinearError("All pads lie on one line; nothing under them can take out a tilt.")
    check_foils(foils)
    for pad in pads:
        if len(pad.stack) > 20 or not all(0.005 <= size <= 2 for size in pad.stack):
            raise OutOfRangeError(
                f"What lies under {pad.name} cannot be: foils of 0.005 to 2 mm, at most 20."
            )
    if not 0 <= lower_middle <= 0.3:
        raise OutOfRangeError("A middle a touch lower is 0 to 0.3 mm lower.")
    if not 1 <= most_layers <= 20:
        raise OutOfRangeError("A stack has 1 to 20 foils.")


def check_foils(foils: Sequence[Foil]) -> None:
    """Raise unless the stock of foils makes sense.

    Raises
    ------
    ChoiceError, DuplicateError, OutOfRangeError
    """
    if len(foils) > MOST_FOILS:
        raise ChoiceError(f"At most {MOST_FOILS} thicknesses of foil.")
    if len({foil.thickness for foil in foils}) < len(foils):
        raise DuplicateError("A thickness of foil is listed twice.")
    for foil in foils:
        if not (math.isfinite(foil.thickness) and 0.005 <= foil.thickness <= 2):
            raise OutOfRangeError("A foil is 0.005 to 2 mm thick. Are these micrometres?")
        if not 0 <= foil.count <= MOST_COUNT:
            raise OutOfRangeError(f"There are 0 to {MOST_COUNT} pieces of a foil.")


@dataclass(frozen=True)
class Tape:
    """Tape under a loose plate at one place.

    Attributes
    ----------
    x, y : float
        mm
    depth : float
        How far the plate lies below its upper part there, mm.
    layers : int
    sentence : str
    """

    x: float
    y: float
    depth: float
    layers: int
    sentence: str


def plan_tape(
    survey: Survey, thickness: float = TAPE, most: int = 4, fit: BedFit | None = None
) -> tuple[Tape, ...]:
    """Say where tape goes between a loose plate and its carrier.

    A dip no deeper than the readings' own uncertainty gets none, and neither does one that is only tilt.

    Parameters
    ----------
    survey : Survey
        The readings that count.
    thickness : float
        One layer, mm.
    most : int
        Places at most, the deepest first.
    fit : BedFit, optional
        Of the same readings.

    Returns
    -------
    tuple of Tape
        Empty when no dip is as deep as a layer.

    Examples
    --------
    >>> x, y = (a.ravel() for a in np.meshgrid([0.0, 50, 100], [0.0, 50, 100]))
    >>> bed = Survey(x, y, [0, 0, 0, 0, -0.13, 0, 0, 0, 0])
    >>> [(t.x, t.y, t.layers) for t in plan_tape(bed)]
    [(50.0, 50.0, 2)]
    """
    if not (math.isfinite(thickness) and 0.02 <= thickness <= 0.5):
        raise OutOfRangeError("Tape is 0.02 to 0.5 mm thick.")
    fit = fit or fit_bed(survey, settle=False)
    # the tilt is somebody else's to take out; what is left is weighed against what one reading is trusted to
    height = survey.height - fit.plane.at(survey.x, survey.y)
    top = float(np.quantile(height, 0.9))
    depth = top - height
    least = max(thickness / 2, TRUSTED * fit.noise)
    tilt = float(np.ptp(fit.plane.at(survey.x, survey.y)))
    span = max(float(np.ptp(survey.x)), float(np.ptp(survey.y)))
    found: list[Tape] = []
    for i in np.argsort(-depth, kind="stable"):
        layers = round(float(depth[i]) / thickness)
        if layers < 1 or depth[i] < least or len(found) == most:
            break
        x, y = float(survey.x[i]), float(survey.y[i])
        if any(math.hypot(x - one.x, y - one.y) < span / 4 for one in found):
            continue
        said = (
            f"{layers} layer{'s' if layers > 1 else ''} of tape ({millimetres(thickness)} each) under x {x:.0f}, y {y:.0f}, "
            f"where the plate lies {millimetres(float(depth[i]))} low."
        )
        if tilt > thickness and not found:
            said += f" The tilt of {millimetres(tilt)} is left out: take it out first where that can be done."
        found.append(Tape(x, y, float(depth[i]), layers, said))
    return tuple(found)
