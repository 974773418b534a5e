"""Levelling at the bench by paper: one corner at a time, the next one chosen from what is known so far.

The bed is a Gaussian belief about tilt and shape (`finchwort.core.feeling`), counted from the height at which the
strip just drags.  A feel joins a band; a knob turned until the strip drags joins a height, and that it drags tells how
far the plate was moved when nobody counted.  From it follow which corner is next and how level the bed is, with an
interval.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import Z95
from finchwort.core.printers import Bed, Screw, free_place, usual_inset
from finchwort.core.probing import EYE_SD, FEEL_BANDS, PRIOR, ROUGH_SD, Belief, terms
from finchwort.core.tramming.response import SPRING_SD, Response, prior_response
from finchwort.core.tramming.screws import HAND_SD

COUNT_SD = 0.04
"""How well turns are counted in eighths, standard deviation in turns: half a step either way (ours)."""
UNCOUNTED_SD = 1.0
"""How far somebody turned who did not count, standard deviation in turns (ours)."""
STIFF, STIFF_SD = 0.1, 0.15
BENDS, BENDS_SD = 0.7, 0.3
"""What share of a corner's own move a stiff plate and a bending one make beyond their plane (ours)."""
BOLD = 0.5
"""The first bold turn of those who do not turn until it drags, turns (ours)."""
READ_SD = 0.01
"""How well a height is read off the display, standard deviation, mm (ours)."""
MAX_READ = 2.0
MAX_PASSES = 6
CORNER_SURE = 0.035
"""A corner known no better than this is felt once more before it is believed, standard deviation, mm (ours)."""
GOAL = 0.03
"""A corner this far from the drag is worth a look, mm: about what a strip tells from a slight drag (ours)."""
DRAWS = 2000


@dataclass(frozen=True)
class Done:
    """Something that was done at the bench.

    Attributes
    ----------
    what : {"feel", "drag", "turn", "read"}
        A feel; a knob turned until the strip just drags; a knob turned by a count; at the centre, how much higher than
        where the strip drags at the corners (the tip was raised or lowered until it just dragged there).
    place : int
        Corner (its number is that of its knob), or the number of knobs for the centre.
    feel : str, optional
        One of `finchwort.core.probing.FEELS`.
    turns : float, optional
        What was turned, positive tightens; None when nobody counted.  For ``"read"`` the height, mm.
    """

    what: str
    place: int
    feel: str | None = None
    turns: float | None = None


@dataclass(frozen=True, eq=False)
class Bench:
    """A bed that is levelled by paper.

    Attributes
    ----------
    bed : Bed
    screws : tuple of Screw
    places : ndarray, shape (k + 1, 2)
        Where the strip is felt: near each knob, and at the centre, mm.
    response : Response
        What the knobs do to the tilt.
    bends : bool
        Whether the plate gives way at single corners.
    hand_sd, eye_sd : float
        How well this person turns (turns) and feels (mm).
    """

    bed: Bed
    screws: tuple[Screw, ...]
    places: Array
    response: Response
    bends: bool
    hand_sd: float = HAND_SD
    eye_sd: float = EYE_SD

    @property
    def rows(self) -> Array:
        """Terms at the places, and a term of its own for each, shape (k + 1, 6 + k + 1)."""
        return np.hstack([terms(self.bed, self.places[:, 0], self.places[:, 1]), np.eye(len(self.places))])

    def start(self) -> Belief:
        """What is believed before anything was felt."""
        sd = np.concatenate([PRIOR, np.full(len(self.places), ROUGH_SD)])
        return Belief(np.zeros(sd.size), np.diag(sd**2))

    def effects(self) -> tuple[Array, Array]:
        """What one turn of tightening does to the terms, shape (k, n), and its covariance, shape (k, n, n)."""
        k = len(self.screws)
        n = len(PRIOR) + k + 1
        cx, cy = self.bed.centre
        half = np.array([self.bed.width / 2, self.bed.depth / 2])
        own = terms(self.bed, [s.x for s in self.screws], [s.y for s in self.screws])[:, [0, 1, 2, 5]]
        effect, covariance = np.zeros((k, n)), np.zeros((k, n, n))
        share, share_sd = (BENDS, BENDS_SD) if self.bends else (STIFF, STIFF_SD)
        centre = np.linalg.pinv(
            np.column_stack([[s.x - cx for s in self.screws], [s.y - cy for s in self.screws], np.ones(k)])
        )[2]
        for i, screw in enumerate(self.screws):
            slopes = self.response.slopes[:, i]
            effect[i, 0] = screw.travel * centre[i]
            effect[i, 1:3] = slopes * half
            block = self.response.covariance[np.ix_([i, k + i], [i, k + i])]
            covariance[i][1:3, 1:3] = block * np.outer(half, half)
            covariance[i][0, 0] = (SPRING_SD * screw.travel * centre[i]) ** 2
            if k >= 4:  # what the plane leaves over of this knob's move is taken up by a plate that bends
                moved = np.zeros(k)
                moved[i] = screw.travel
                over = moved - own[:, :3] @ np.linalg.lstsq(own[:, :3], moved, rcond=None)[0]
                twist = float(np.linalg.lstsq(own, over, rcond=None)[0][3])
                effect[i, 5] = share * twist
                covariance[i][5, 5] = (share_sd * twist) ** 2
        return effect, covariance


@dataclass(frozen=True, eq=False)
class Now:
    """Where things stand.

    Attributes
    ----------
    belief : Belief
        Heights against the one at which the strip just drags.
    heights, sd : ndarray, shape (k + 1,)
        At the places, mm.
    felt : list of (str or None)
        The newest feel at each place since the last turning that moved it; None when it has to be felt.
    passes : int
        Rounds begun: visits to corners by the number of corners.
    turnings : int
        Knobs turned so far.
    low, likely, high : float
        Highest less lowest corner of the bed: the middle of what it may be and the limits of 95 %, mm.
    next_place : int or None
        Where to go; None when there is nothing left to do.
    phase : {"corners", "centre", "done"}
    knob : int or None
        The knob to turn now, at the place felt last.
    tighten : bool or None
        Which way.
    bold : float
        How far to turn it for somebody who does not turn until it drags, turns, positive tightens.
    middle, middle_margin : float
        How much higher the centre lies than the mean of the corners, and its plus/minus at 95 %, mm: that is the
        plate's shape, and no knob takes it out.
    middle_read : bool
        Whether somebody read how far, rather than only felt which way.
    """

    belief: Belief
    heights: Array
    sd: Array
    felt: list[str | None]
    passes: int
    turnings: int
    low: float
    likely: float
    high: float
    next_place: int | None
    phase: str
    knob: int | None
    tighten: bool | None
    bold: float
    middle: float
    middle_margin: float
    middle_read: bool


def bench_of(
    bed: Bed,
    screws: Sequence[Screw],
    *,
    response: Response | None = None,
    bends: bool = False,
    hand_sd: float = HAND_SD,
    eye_sd: float = EYE_SD,
) -> Bench:
    """Make ready for levelling by paper: a place near every knob, and the centre."""
    if not len(screws) >= 3:
        raise ChoiceError("tramming.three_knobs_least_carry")
    inset = usual_inset(bed)
    area = (bed.x_min + inset, bed.y_min + inset, bed.x_max - inset, bed.y_max - inset)
    wish = [(min(max(s.x, area[0]), area[2]), min(max(s.y, area[1]), area[3])) for s in screws]
    # every knob keeps a place, however far a clip pushes it
    places = [free_place(bed, x, y, area=area, most=math.inf) or (x, y) for x, y in wish]
    return Bench(
        bed,
        tuple(screws),
        np.array([*places, bed.centre]),
        prior_response(screws) if response is None else response,
        bends,
        hand_sd,
        eye_sd,
    )


def follow(bench: Bench, done: Sequence[Done]) -> Now:
    """Work out where things stand after what was done, and what is next.

    Parameters
    ----------
    bench : Bench
    done : sequence of Done
        In the order in which it was done.

    Returns
    -------
    Now

    Raises
    ------
    ChoiceError, OutOfRangeError
        When something was done that cannot be.
    """
    k = len(bench.screws)
    rows = bench.rows
    effect, doubt = bench.effects()
    belief = bench.start()
    felt: list[str | None] = [None] * (k + 1)
    turnings = visits = 0
    at: int | None = None
    read = False
    for item in done:
        _check(item, k)
        if item.place != at or item.what == "feel":
            visits += item.place < k and (item.place != at)
            at = item.place
        if item.what == "read":
            belief = belief.seen(rows[at], float(item.turns or 0.0), bench.eye_sd**2 + READ_SD**2)
            felt[at], read = "slight", True
            continue
        if item.what == "feel":
            near, far = FEEL_BANDS[item.feel or ""]
            belief = belief.felt(rows[at], -far, -near, bench.eye_sd)
            felt[at] = item.feel
            continue
        turnings += 1
        read = False
        belief, made = _turned(belief, bench, effect[at], doubt[at], item)
        felt = _still(felt, bench.rows @ effect[at] * made, at)
        if item.what == "drag":
            sd = math.hypot(bench.eye_sd, bench.hand_sd * bench.screws[at].pitch)
            belief = belief.seen(rows[at], 0.0, sd**2)
            felt[at] = "slight"
    heights, sds = belief.at(rows)
    low, likely, high = spread_of(belief, rows[:k])
    knob = tighten = None
    if at is not None and at < k and felt[at] not in (None, "slight") and done[-1].what == "feel":
        knob, tighten = at, (felt[at] != "free") == bench.screws[at].tightening_lowers
    place, phase = _next(bench, belief, felt, heights, sds, visits)
    # a knob that was turned by a count is felt again at once: the strip says whether it was enough
    if knob is not None or (done and done[-1].what == "turn"):
        place, phase = at, "corners"
    return Now(
        belief,
        heights,
        sds,
        felt,
        1 + max(visits - 1, 0) // k,
        turnings,
        low,
        likely,
        high,
        place,
        phase,
        knob,
        tighten,
        _bold(bench, done, at) if knob is not None else 0.0,
        *_warp(belief, rows),
        read,
    )


def _check(done: Done, k: int) -> None:
    if done.what not in ("feel", "drag", "turn", "read"):
        raise ChoiceError("tramming.bench_strip_felt_knob")
    if not 0 <= done.place <= k or (done.what in ("drag", "turn") and done.place == k):
        raise ChoiceError("tramming.no_such_corner")
    if done.what == "feel" and done.feel not in FEEL_BANDS:
        raise ChoiceError("tramming.strip_feels")
    if done.what == "read" and (done.place != k or done.turns is None or not abs(done.turns) <= MAX_READ):
        raise OutOfRangeError("tramming.centre_within_mm_corners", max_read=MAX_READ)
    if done.what == "turn" and done.turns is None:
        raise ChoiceError("tramming.far_knob_turned")
    if done.turns is not None and not abs(done.turns) <= 20:
        raise OutOfRangeError("tramming.nobody_turns_bed_knob")


def _turned(belief: Belief, bench: Bench, effect: Array, doubt: Array, done: Done) -> tuple[Belief, float]:
    """What a turn makes of the belief, and how far it was most likely, turns."""
    if done.turns is not None:
        variance = (COUNT_SD if done.what == "drag" else bench.hand_sd) ** 2
        covariance = belief.covariance + np.outer(effect, effect) * variance + doubt * done.turns**2
        return Belief(belief.mean + effect * done.turns, covariance), done.turns
    # nobody counted: that the strip drags now tells how far it must have been
    row = bench.rows[done.place]
    moved = float(row @ effect)
    variance = UNCOUNTED_SD**2
    spread = float(row @ belief.covariance @ row) + moved**2 * variance
    likely = -moved * variance / spread * float(row @ belief.mean)
    size = likely**2 + variance - (moved * variance) ** 2 / spread
    covariance = belief.covariance + np.outer(effect, effect) * variance + doubt * size
    return Belief(belief.mean, covariance), math.sqrt(size)


def _still(felt: list[str | None], moved: Array, at: int) -> list[str | None]:
    """Keep the feels of places that this turn moved by less than a strip tells."""
    return [
        feel if abs(move) < GOAL / 2 and i != at else None
        for i, (feel, move) in enumerate(zip(felt, moved, strict=True))
    ]


def _next(
    bench: Bench, belief: Belief, felt: list[str | None], heights: Array, sd: Array, visits: int
) -> tuple[int | None, str]:
    """Choose the place to go to."""
    k = len(bench.screws)
    corners = range(k)
    waiting = [i for i in corners if felt[i] is None and (sd[i] > CORNER_SURE or abs(heights[i]) > GOAL / 2)]
    if visits >= MAX_PASSES * k:
        waiting = []
    if waiting:
        # the one that is likely the furthest off; among those nobody knows the order of the walk
        return max(waiting, key=lambda i: (round(float(abs(heights[i]) + sd[i]), 2), -i)), "corners"
    if felt[k] is None:
        return k, "centre"
    return None, "done"


def _warp(belief: Belief, rows: Array) -> tuple[float, float]:
    """Centre over the mean of the corners, and its plus/minus at 95 %, mm."""
    across = rows[-1] - rows[:-1].mean(axis=0)
    return float(across @ belief.mean), Z95 * math.sqrt(max(0.0, float(across @ belief.covariance @ across)))


def _bold(bench: Bench, done: Sequence[Done], at: int | None) -> float:
    """Half a turn to begin with; as far again while the feel stays, half as far when it flips; at least an eighth."""
    size, way = BOLD, 0
    for item in done:
        if item.place != at or item.what != "feel" or item.feel == "slight":
            continue
        now = 1 if item.feel == "free" else -1
        if way and now != way:
            size = max(0.125, size / 2)
        if item.feel in ("strong", "bunches"):
            size = 0.125
        way = now
    lowers = bench.screws[at].tightening_lowers if at is not None else True
    return size * (-way if lowers else way)


def spread_of(belief: Belief, rows: Array) -> tuple[float, float, float]:
    """Highest less lowest of some places: lower limit, middle, upper limit of 95 %, mm."""
    values, vectors = np.linalg.eigh(belief.covariance)
    root = vectors * np.sqrt(np.maximum(values, 0.0))
    draws = np.random.default_rng(7).standard_normal((DRAWS, len(root))) @ root.T + belief.mean
    low, middle, high = np.quantile(np.ptp(draws @ rows.T, axis=1), [0.025, 0.5, 0.975])
    return float(low), float(middle), float(high)
