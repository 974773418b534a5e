"""Printed patches judged by eye: the best offset from a ladder, tilt and offset from a whole bed.

Each patch is judged in five steps from far too far to far too close.  The model is an
ordered probit on how far the tip is from its best height: symmetric limits, a scatter of
the judge, and now and then a patch judged one step off whatever it looks like.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from finchwort.core.base.errors import (
    ChoiceError,
    CollinearError,
    NonFiniteError,
    OutOfRangeError,
    TooFewReadingsError,
)
from finchwort.core.base.geometry import Array, is_line
from finchwort.core.base.sampling import interval, sample
from finchwort.core.base.statistics import Z95
from finchwort.core.first_layer.bead import Bead
from finchwort.core.first_layer.kinds import BestSide, JudgedStep
from finchwort.core.first_layer.series import FIRST_BELIEF, usual_limits
from finchwort.core.printers import Bed
from finchwort.core.surveys import Survey

STEPS = tuple(JudgedStep)
"""How a patch is judged, from the highest tip to the lowest."""
WORDS: dict[str, str] = dict(
    zip(STEPS, ("far too far", "too far", "good", "too close", "far too close"), strict=True)
)
LAPSE = 0.1
"""How often a patch is judged a step off whatever it looks like (ours)."""
OUTRIGHT = 0.005
"""And how often any step is put down for any patch: a slip of the finger (ours)."""
LIMIT_SPREAD = 0.3
"""People draw the lines between the steps differently: standard deviation of the logarithm (ours)."""
SCATTER, SCATTER_SPREAD = 0.004, 0.7
"""How sharply a person sees those lines, mm, and the spread of its logarithm (ours)."""
FIRST_SLOPE = 0.12
"""A bed that was levelled may still be tilted by this much from edge to edge, standard deviation, mm (ours)."""
FIRST_BOW = 0.05
"""And bowed by this much, mm (ours)."""
BED_BELIEF = 0.06
"""Where a whole bed is printed the offset was found before, within this, standard deviation, mm (ours)."""
FOUND = 0.02
"""A ladder has done its work when the interval lies within this, mm."""
MIN_TILT = 0.03
"""Less tilt than this from corner to corner is left alone, mm (ours: a sixth of a usual first layer)."""
MAX_PATCHES = 60


@dataclass(frozen=True)
class Judged:
    """One patch and how it was judged.

    Attributes
    ----------
    shift : float
        By how much the tip was higher than at the present offset, mm, positive farther.
    step : one of ``STEPS``
    x, y : float
        Where, mm; the middle for a ladder.
    """

    shift: float
    step: str
    x: float = 0.0
    y: float = 0.0


@dataclass(frozen=True, eq=False)
class Ladder:
    """What judged patches say.

    Attributes
    ----------
    best : float
        Change of the tip's height that is best in the middle of the bed, mm, positive farther.
    low, high : float
        Its interval at 95 %, mm.
    sd : float
        mm
    slopes : ndarray, shape (2,) or None
        Rise of the bed, mm per mm, when the patches lay over the bed.
    tilt, tilt_low, tilt_high : float or None
        From corner to corner along the steeper diagonal, mm.
    bow, bow_margin : float or None
        How much higher the middle is than the corners, mm, where it shows.
    limits : tuple of float
        Where this person draws the lines: half-widths of good, and of not far off, mm.
    one_sided : BestSide or None
        A sentence when all patches lie on one side, so that the best is only known to be beyond.
    """

    best: float
    low: float
    high: float
    sd: float
    slopes: Array | None
    tilt: float | None
    tilt_low: float | None
    tilt_high: float | None
    bow: float | None
    bow_margin: float | None
    limits: tuple[float, float]
    one_sided: BestSide | None

    @property
    def done(self) -> bool:
        """Whether the interval is narrow enough to store the offset."""
        return self.one_sided is None and (self.high - self.low) / 2 <= FOUND

    @property
    def tilt_shows(self) -> bool:
        """Whether the tilt is surely there, and more than nothing worth a turn."""
        return self.tilt_low is not None and self.tilt_low > 0 and (self.tilt or 0.0) >= MIN_TILT

    @property
    def bow_shows(self) -> bool:
        """Whether the bow is surely there."""
        return self.bow is not None and abs(self.bow) > max(self.bow_margin or 0.0, MIN_TILT / 2)


def step_probabilities(
    away: Array, limits: tuple[float, float], scatter: float, lapse: float = LAPSE, outright: float = OUTRIGHT
) -> Array:
    """Probability of each step for tips that are off the best height.

    Parameters
    ----------
    away : ndarray, shape (n,)
        How much too high the tip is, mm.
    limits : tuple of float
        Half-widths of good, and of not far off, mm.
    scatter : float
        Of the judge, standard deviation, mm.
    lapse, outright : float
        Shares of judgements that land a step beside, and anywhere.

    Returns
    -------
    ndarray, shape (n, 5)
        By ``STEPS``.
    """
    near, far = (np.full((1, 1), limit) for limit in limits)
    each = _each(away[None, :], near, far, np.full((1, 1), scatter), lapse, outright)
    return np.column_stack([share[0] for share in each])


def judge_ladder(
    patches: Sequence[Judged], bead: Bead, *, belief: tuple[float, float] = (0.0, FIRST_BELIEF)
) -> Ladder:
    """Find the best offset from patches at one place, printed at stepped heights.

    Parameters
    ----------
    patches : sequence of Judged
        Of one ladder or several, all shifts counted from the same offset.
    bead : Bead
    belief : tuple of float
        Best shift and its standard deviation before these patches, mm.

    Returns
    -------
    Ladder

    Raises
    ------
    TooFewReadingsError, ChoiceError, OutOfRangeError, NonFiniteError

    Examples
    --------
    >>> steps = ["too_close", "good", "good", "too_far", "far_too_far"]
    >>> rungs = [Judged(shift, step) for shift, step in zip([-0.08, -0.04, 0.0, 0.04, 0.08], steps)]
    >>> round(judge_ladder(rungs, Bead(0.42, 0.2)).best, 2)
    -0.02
    """
    _check(patches)
    return _judge(patches, bead, None, belief, bow=False)


def judge_bed(patches: Sequence[Judged], bead: Bead, bed: Bed) -> Ladder:
    """Take offset and tilt apart from patches all over the bed.

    Patches of one and the same height tell a tilt only in units of where this person draws the lines; those of a
    ladder, given along, tell where that is.

    Parameters
    ----------
    patches : sequence of Judged
        At four places or more, not all on one line; a ladder's patches too.
    bead : Bead
    bed : Bed

    Returns
    -------
    Ladder

    Raises
    ------
    TooFewReadingsError, CollinearError, ChoiceError, OutOfRangeError, NonFiniteError
    """
    _check(patches)
    x, y = np.array([p.x for p in patches]), np.array([p.y for p in patches])
    places = {(round(p.x, 1), round(p.y, 1)) for p in patches}
    if len(places) < 4:
        raise TooFewReadingsError("first_layer.judge_patches_four_places")
    if is_line(x, y):
        raise CollinearError("first_layer.patches_line_nothing_about")
    return _judge(patches, bead, bed, (0.0, BED_BELIEF), bow=len(places) >= 8)


def _judge(
    patches: Sequence[Judged], bead: Bead, bed: Bed | None, belief: tuple[float, float], bow: bool
) -> Ladder:
    shift = np.array([p.shift for p in patches])
    step = np.array([STEPS.index(p.step) for p in patches])
    columns = [np.ones_like(shift)]
    spread = [belief[1]]
    if bed is not None:
        u = (np.array([p.x for p in patches]) - bed.centre[0]) / bed.width
        v = (np.array([p.y for p in patches]) - bed.centre[1]) / bed.depth
        columns += [u, v]
        spread += [FIRST_SLOPE, FIRST_SLOPE]
        if bow:
            columns.append(-2 * (u**2 + v**2))
            spread.append(FIRST_BOW)
    design = np.column_stack(columns)
    n = design.shape[1]
    usual = usual_limits(bead)
    centre = np.concatenate(
        [
            [belief[0]],
            np.zeros(n - 1),
            [math.log(usual[0]), math.log(usual[1] / usual[0] - 1), math.log(SCATTER)],
        ]
    )
    sd = np.concatenate([spread, [LIMIT_SPREAD, LIMIT_SPREAD, SCATTER_SPREAD]])

    def density(theta: Array) -> Array:
        """Logarithm of the posterior density, up to a constant, for each row."""
        theta = np.atleast_2d(theta)
        away = shift - theta[:, :n] @ design.T
        near = np.exp(np.clip(theta[:, n], -9.0, 1.0))[:, None]
        far = near * (1 + np.exp(np.clip(theta[:, n + 1], -9.0, 4.0)))[:, None]
        scatter = np.exp(np.clip(theta[:, n + 2], -9.0, 1.0))[:, None]
        share = _shares(away, near, far, scatter, step)
        return np.log(share).sum(axis=1) - 0.5 * (((theta - centre) / sd) ** 2).sum(axis=1)

    draws, weights = sample(density, centre, sd)
    mean = weights @ draws[:, :n]
    best = float(mean[0])
    low, high = interval(draws[:, 0], weights)
    near = float(np.exp(weights @ draws[:, n]))
    far = near * (1 + float(np.exp(weights @ draws[:, n + 1])))
    slopes = tilt = tilt_low = tilt_high = bow_found = bow_margin = None
    if bed is not None:
        slopes = mean[1:3] / (bed.width, bed.depth)
        sign = np.where(mean[1:3] < 0, -1.0, 1.0)
        across = draws[:, 1:3] @ sign
        tilt = float(sign @ mean[1:3])
        tilt_low, tilt_high = interval(across, weights)
        if bow:
            bow_found = float(mean[3])
            a, b = interval(draws[:, 3], weights)
            bow_margin = (b - a) / 2
    return Ladder(
        best=best,
        low=low,
        high=high,
        sd=float(np.sqrt(weights @ (draws[:, 0] - best) ** 2)),
        slopes=slopes,
        tilt=tilt,
        tilt_low=tilt_low,
        tilt_high=tilt_high,
        bow=bow_found,
        bow_margin=bow_margin,
        limits=(near, far),
        one_sided=_one_sided(step),
    )


def _each(away: Array, near: Array, far: Array, scatter: Array, lapse: float, outright: float) -> list[Array]:
    """Probabilities of the five steps, for many parameters (rows) and patches (columns) at once."""
    # how likely it seems lower than each line
    below = [special.ndtr((cut - away) / scatter) for cut in (far, near, -near, -far)]
    each = [1 - below[0], below[0] - below[1], below[1] - below[2], below[2] - below[3], below[3]]
    # at the ends there is only one step beside
    beside = [each[1] / 2, each[0] + each[2] / 2, (each[1] + each[3]) / 2, each[2] / 2 + each[4], each[3] / 2]
    sure = 1 - lapse - outright
    return [sure * e + lapse * b + outright / 5 for e, b in zip(each, beside, strict=True)]


def _shares(away: Array, near: Array, far: Array, scatter: Array, step: Array) -> Array:
    """Probability of the steps that were seen."""
    each = _each(away, near, far, scatter, LAPSE, OUTRIGHT)
    result = np.empty_like(away)
    for k, share in enumerate(each):
        result[:, step == k] = share[:, step == k]
    return result


def _one_sided(step: Array) -> BestSide | None:
    """Which way the best lies when all patches are on one side of it."""
    if (step < 2).all():
        return BestSide.CLOSER
    return BestSide.FARTHER if (step > 2).all() else None


def heights_from(patches: Sequence[Judged], ladder: Ladder, bed: Bed) -> Survey:
    """The bed as a judged bed tells it, as readings at its patches, for a plan of turns.

    Parameters
    ----------
    patches : sequence of Judged
    ladder : Ladder
        From `judge_bed`.
    bed : Bed

    Returns
    -------
    Survey
        Heights against the middle, mm, positive high.

    Raises
    ------
    ChoiceError
        When no tilt was judged.
    """
    if ladder.slopes is None:
        raise ChoiceError("first_layer.ladder_place_tells_no")
    x, y = np.array(sorted({(round(p.x, 1), round(p.y, 1)) for p in patches})).T
    return Survey(x, y, ladder.slopes[0] * (x - bed.centre[0]) + ladder.slopes[1] * (y - bed.centre[1]))


def reading_sd(heights: Survey, ladder: Ladder, bed: Bed) -> float:
    """How uncertain one of those heights would be as a reading, so that a plan made of them knows what it stands on.

    Parameters
    ----------
    heights : Survey
        From `heights_from`.
    ladder : Ladder
        From `judge_bed`.
    bed : Bed

    Returns
    -------
    float
        Standard deviation that gives a least-squares plane the tilt's stated interval, mm.
    """
    if ladder.slopes is None or ladder.tilt_low is None or ladder.tilt_high is None:
        raise ChoiceError("first_layer.ladder_place_tells_no")
    design = np.column_stack([np.ones(len(heights)), heights.x - bed.centre[0], heights.y - bed.centre[1]])
    across = np.array([0.0, bed.width, bed.depth]) * np.where(np.r_[0.0, ladder.slopes] < 0, -1.0, 1.0)
    unit = math.sqrt(float(across @ np.linalg.inv(design.T @ design) @ across))
    return (ladder.tilt_high - ladder.tilt_low) / 2 / Z95 / unit


def _check(patches: Sequence[Judged]) -> None:
    if len(patches) < 3:
        raise TooFewReadingsError("first_layer.judge_three_patches_more")
    if len(patches) > MAX_PATCHES:
        raise OutOfRangeError("first_layer.up_patches_weighed_together", max_patches=MAX_PATCHES)
    for patch in patches:
        if patch.step not in STEPS:
            raise ChoiceError("first_layer.patch_judged", names=", ".join(WORDS.values()))
        if not all(math.isfinite(value) for value in (patch.shift, patch.x, patch.y)):
            raise NonFiniteError("first_layer.number_missing")
        if abs(patch.shift) > 2:
            raise OutOfRangeError("first_layer.ladder_reaches_mm_most")
