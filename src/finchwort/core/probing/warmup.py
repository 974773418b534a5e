"""Is the bed steady yet?  How it moves while it soaks, and where a hot bed differs from a cold one."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import CONFIDENCE
from finchwort.core.probing.repeatability import check_series

MIN_READINGS, MAX_READINGS = 4, 500
"""So many readings make a soak curve."""
STEADY = 0.01
"""A bed that moves less than this in the next five minutes is steady, mm (ours: half the range of a good probe)."""
HORIZON = 300.0
"""How long a survey takes, s: the bed must hold still that long (common practice: a few minutes)."""
SURELY_MOVES = 0.3
"""Up to this probability of five quiet minutes a bed is called moving (ours)."""
SURE = 0.9
"""A bed is called steady from this probability on (ours)."""
FASTER = (45.0, 90.0, 180.0, 330.0)
"""Time constants of a plate, s (ours: from a thin sheet to a slab of glass)."""
SLOWER = (600.0, 1100.0, 2200.0, 4500.0)
"""Time constants of frame and carriage, s (ours)."""
SIZE_SD = 0.15
"""How far a machine moves while it warms, standard deviation, mm (ours)."""
LINE_SD = 0.006
"""How fast one that never settles moves, standard deviation, mm a minute (ours)."""
LINE_SHARE = 0.3
"""How likely it is, beforehand, that a machine never settles (ours)."""
LATE = (0.0, 0.35)
"""Shares of the watch that are left out, as a bed may begin to move late (ours)."""
NOISES = np.exp(np.linspace(math.log(0.0007), math.log(0.03), 8))
"""Sizes of the noise that are weighed, standard deviation, mm."""
NOISE_MIDDLE, NOISE_SPREAD = 0.005, 1.0
"""Middle of the noise beforehand, mm, and the standard deviation of its logarithm (ours)."""
DRAWS = 400
MAX_SPOTS = 9
"""So many places are read in turn at most (ours)."""
AHEAD = 5400.0
"""Nobody is told to wait longer, s."""
STEP = 30.0
"""Movement to come is looked at in steps of this, s."""
SETTLES = 0.95
"""From this probability on that it comes to rest a wait is told (ours)."""
WIDE = 6.0
"""A wait that may be so many times as long at its upper end as at its lower one is no forecast; five minutes more on both
(ours)."""
SWINGS = 0.01
"""Chance of calling noise a swing (runs test)."""


@dataclass(frozen=True, eq=False)
class Soak:
    """How one place moved while the bed warmed through.

    Attributes
    ----------
    times, heights : ndarray, shape (n,)
        s and mm.
    state : {"steady", "moving", "unclear"}
    chance : float
        Probability that it moves less than ``STEADY`` in the next five minutes.
    settles : float
        Probability that it comes to rest within an hour and a half.
    asymptote : float
        Where the height goes, mm; NaN when it cannot be told.
    tau : float
        Time constant of its largest part, s; NaN when it cannot be told.
    noise : float
        Standard deviation about the curve, mm.
    swing : float
        Part of it that goes to and fro slower than the readings (a heater that switches), standard deviation, mm.
    to_go, to_go_margin : float
        Movement in the next five minutes, and its plus/minus, mm.
    steady_in, steady_in_low, steady_in_high : float
        Time from the last reading until it moves less than ``STEADY`` in five minutes, and the ends of its interval,
        s; NaN when it cannot be told.
    rate : float
        Speed at the last reading, mm per minute.
    """

    times: Array
    heights: Array
    state: str
    chance: float
    settles: float
    asymptote: float
    tau: float
    noise: float
    swing: float
    to_go: float
    to_go_margin: float
    steady_in: float
    steady_in_low: float
    steady_in_high: float
    rate: float
    coefficients: Array
    start: float

    def curve(self, times: ArrayLike) -> Array:
        """Height of the fitted curve at some times (s), mm."""
        t = np.asarray(times, dtype=np.float64) - self.times[0]
        return _basis(t, self.start) @ self.coefficients


def fit_soak(times: ArrayLike, heights: ArrayLike) -> Soak:
    """Say how a place will move on, from readings of it.

    The height is taken to be a constant, one or two exponentials (a plate and a frame) and perhaps a line (a machine
    that never settles), with sizes that are not known and noise.  All of these are weighed by their evidence, also
    without the first third of the readings, as a bed may begin to move late; draws from what they leave possible say
    how far it will move in any five minutes to come.  What is left is tested for runs: a heater that switches makes it
    go to and fro, which then counts as movement and not as noise.

    Parameters
    ----------
    times : array_like, shape (n,)
        s, going forward; 4 to 500 of them.
    heights : array_like, shape (n,)
        mm

    Returns
    -------
    Soak

    Raises
    ------
    NonFiniteError,
    TooFewReadingsError, TooManyReadingsError, NonFiniteError, OutOfRangeError

    References
    ----------
    Bayesian linear regression averaged over models by their evidence, and the runs test of Wald and Wolfowitz (textbook
    results).

    Examples
    --------
    >>> t = np.arange(0.0, 900, 30)
    >>> soak = fit_soak(t, 0.1 * np.exp(-t / 200))
    >>> soak.state
    'steady'
    >>> early = fit_soak(t[:14], 0.1 * np.exp(-t[:14] / 200))
    >>> early.state == "steady", early.chance < 0.2
    (False, True)
    """
    values, when = _timed(heights, times)
    t = when - when[0]
    last = float(t[-1])
    level = float(values[-1])
    best = None
    for share in LATE:
        use = t >= share * last
        # a first part is left out only where the rest still makes a curve
        if share and use.sum() < 8:
            continue
        result = _weigh(t[use], values[use] - level, share * last)
        if best is None or result.log > best.log:
            best = result
    if best is None:  # the whole of it is always weighed
        raise TooFewReadingsError("probing.readings_least", min_readings=MIN_READINGS)
    weights, means, roots, start = best.weights, best.means, best.roots, best.start

    rng = np.random.default_rng(11)
    which = rng.choice(weights.size, DRAWS, p=weights)
    draws = means[which] + np.einsum("kpq,kq->kp", roots[which], rng.standard_normal((DRAWS, means.shape[1])))
    mean = weights @ means
    use = t >= start
    rest = values[use] - level - _basis(t[use], start) @ mean
    noise = float(np.sqrt(np.mean(rest**2)))
    swing = _swing(rest, noise)

    ahead = last + np.arange(0.0, AHEAD + HORIZON + STEP, STEP)
    paths = draws @ _basis(ahead, start).T
    if swing:
        paths = paths + swing * _wobble(rng, DRAWS, ahead.size, rest)
    steps = round(HORIZON / STEP)
    starts = paths[:, : paths.shape[1] - steps]
    moves = np.zeros_like(starts)
    for later in range(1, steps + 1):
        np.maximum(moves, np.abs(paths[:, later : later + starts.shape[1]] - starts), out=moves)
    quiet = moves < STEADY
    chance = float(quiet[:, 0].mean())
    to_go = float((paths[:, steps] - paths[:, 0]).mean())
    margin = float(np.quantile(np.abs(paths[:, steps] - paths[:, 0] - to_go), CONFIDENCE))
    # the first moment at which the next five minutes are quiet
    waits = np.where(quiet.any(axis=1), np.argmax(quiet, axis=1) * STEP, AHEAD + STEP)
    settles = float((waits < AHEAD).mean())
    # the wait is told for a bed that comes to rest; that it may not is said when it is likely
    rests = waits[waits < AHEAD] if settles > 0 else waits
    middle, low, high = (float(np.quantile(rests, q)) for q in (0.5, 0.02, 0.98))

    before = _basis(np.array([max(0.0, last - HORIZON), last]), start) @ mean
    still = last >= HORIZON and abs(float(before[1] - before[0])) < STEADY
    slope = float((_basis(np.array([last]), start) - _basis(np.array([last - 1.0]), start))[0] @ mean) * 60
    steady = chance >= SURE and still
    told = (
        not steady
        and settles >= SETTLES
        and (high + HORIZON) / (low + HORIZON) <= WIDE
        and last >= HORIZON
        and middle > 0
    )
    if steady:
        middle = low = high = 0.0
    state = "steady" if steady else "moving" if told or chance <= SURELY_MOVES else "unclear"
    told = told or steady
    size = np.abs(mean[1 : 1 + len(FASTER) + len(SLOWER)])
    # the largest part's own constant; several that share a part are averaged
    taus = np.array([*FASTER, *SLOWER])
    tau = float(np.exp((size @ np.log(taus)) / size.sum())) if size.sum() > STEADY / 2 and told else math.nan
    return Soak(
        times=when,
        heights=values,
        state=state,
        chance=chance,
        settles=settles,
        asymptote=level + float(paths.mean(axis=0)[-1]) if told else math.nan,
        tau=tau,
        noise=noise,
        swing=swing,
        to_go=to_go,
        to_go_margin=margin,
        steady_in=middle if told else math.nan,
        steady_in_low=low,
        steady_in_high=high if told else math.nan,
        rate=slope,
        coefficients=mean + np.eye(mean.size)[0] * level,
        start=start,
    )


@dataclass(frozen=True, eq=False)
class SoakAround:
    """How several places moved against each other while the bed warmed through.

    Attributes
    ----------
    spots : tuple of (float, float)
        mm
    against : tuple of Soak
        Each place against the mean of all: the shape.
    whole : Soak
        The mean of all.
    state : {"steady", "moving", "unclear"}
        Of the shape; what the whole bed does, the next homing takes out.
    worst : int
        The place that will move most against the mean.
    """

    spots: tuple[tuple[float, float], ...]
    against: tuple[Soak, ...]
    whole: Soak
    state: str
    worst: int


def fit_soak_around(
    times: ArrayLike, heights: ArrayLike, at: ArrayLike, spots: Sequence[tuple[float, float]]
) -> SoakAround:
    """Say whether the shape of a bed stands, from a few places read in turn.

    What all places share is taken off each: the mean of all, between the readings by straight lines.  What is left is
    judged place by place as in `fit_soak`.

    Parameters
    ----------
    times, heights : array_like, shape (n,)
        s and mm, in their order.
    at : array_like of int, shape (n,)
        Which of the places each is of.
    spots : sequence of (x, y)
        mm; two to nine.

    Returns
    -------
    SoakAround

    Raises
    ------
    NonFiniteError,
    TooFewReadingsError, TooManyReadingsError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> t = np.arange(0.0, 1200, 20)
    >>> at = np.arange(60) % 3
    >>> found = fit_soak_around(t, 0.0002 * t + 0.1 * at, at, [(0, 0), (100, 0), (50, 90)])
    >>> found.state, found.whole.state
    ('steady', 'moving')
    """
    values, when = _timed(heights, times)
    which = np.asarray(at)
    if which.shape != values.shape or not 2 <= len(spots) <= MAX_SPOTS:
        raise OutOfRangeError("probing.two_places_read_turn", max_spots=MAX_SPOTS)
    if not np.isin(which, np.arange(len(spots))).all():
        raise OutOfRangeError("probing.reading_place_not_among")
    rows = [np.flatnonzero(which == k) for k in range(len(spots))]
    if min(row.size for row in rows) < 2:
        raise TooFewReadingsError("probing.each_place_needs_readings", min_readings=MIN_READINGS)
    # only where all places have a reading before and after is their mean known
    begin, end = max(when[row[0]] for row in rows), min(when[row[-1]] for row in rows)
    inside = (when >= begin) & (when <= end)
    mean = np.mean([np.interp(when, when[row], values[row]) for row in rows], axis=0)
    results = []
    for row in rows:
        use = row[inside[row]]
        if use.size < MIN_READINGS:
            raise TooFewReadingsError("probing.each_place_needs_readings", min_readings=MIN_READINGS)
        results.append(fit_soak(when[use], values[use] - mean[use]))
    whole = fit_soak(when[inside], mean[inside])
    states = {result.state for result in results}
    state = "steady" if states == {"steady"} else "moving" if "moving" in states else "unclear"
    worst = int(np.argmin([result.chance for result in results]))
    return SoakAround(tuple((float(x), float(y)) for x, y in spots), tuple(results), whole, state, worst)


def _timed(heights: ArrayLike, times: ArrayLike) -> tuple[Array, Array]:
    """Readings with their times, checked."""
    values, when = check_series(heights, times, MIN_READINGS, MAX_READINGS)
    if when is None:
        raise NonFiniteError("probing.when_each_reading_taken")
    return values, when


def _basis(t: Array, start: float) -> Array:
    """Columns 1, one exponential for every time constant, and minutes, from the start of the part that is used."""
    s = np.asarray(t, dtype=np.float64)[:, None] - start
    taus = np.array([*FASTER, *SLOWER])
    return np.hstack([np.ones_like(s), np.exp(-np.maximum(s, -3 * taus.min()) / taus), s / 60])


@dataclass(frozen=True, eq=False)
class _Weighed:
    """Curves with their weights, and the evidence for them per reading."""

    log: float
    weights: Array
    means: Array
    roots: Array
    start: float


def _models() -> tuple[Array, Array]:
    """Prior variances of every model, and the logarithm of how likely it is beforehand."""
    fast, slow = len(FASTER), len(SLOWER)
    sets: list[tuple[tuple[int, ...], float]] = [((), 0.15)]
    sets += [((i,), 0.5 / (fast + slow)) for i in range(fast + slow)]
    sets += [((i, fast + j), 0.35 / (fast * slow)) for i in range(fast) for j in range(slow)]
    variances, logs = [], []
    for parts, share in sets:
        for line in (False, True):
            row = np.full(2 + fast + slow, 1e-16)
            row[0] = 1.0
            for i in parts:
                row[1 + i] = SIZE_SD**2
            if line:
                row[-1] = LINE_SD**2
            variances.append(row)
            logs.append(math.log(share * (LINE_SHARE if line else 1 - LINE_SHARE)))
    return np.array(variances), np.array(logs)


def _weigh(t: Array, values: Array, start: float) -> _Weighed:
    """Weigh all models on the readings from a time on; the evidence is per reading, so that parts can be compared."""
    rows = _basis(t, start)
    variances, logs = _models()
    k, p = variances.shape
    gram, right, total = rows.T @ rows, rows.T @ values, float(values @ values)
    precision = np.repeat(1 / NOISES**2, k)
    prior = np.tile(variances, (NOISES.size, 1))
    # scaled by the prior, so that parts which a model does without cost no digits
    scale = np.sqrt(prior)
    whole = gram * precision[:, None, None] * scale[:, :, None] * scale[:, None, :] + np.eye(p)[None]
    inverse = np.linalg.inv(whole)
    scaled = right * precision[:, None] * scale
    mean = np.einsum("kpq,kq->kp", inverse, scaled)
    _, log_det = np.linalg.slogdet(whole)
    fit = precision * total - np.einsum("kp,kp->k", mean, scaled)
    noise = np.repeat(np.log(NOISES), k)
    log = -0.5 * (fit + log_det + 2 * t.size * noise) + np.tile(logs, NOISES.size)
    log = log - 0.5 * ((noise - math.log(NOISE_MIDDLE)) / NOISE_SPREAD) ** 2
    top = log.max()
    weights = np.exp(log - top)
    evidence = (top + math.log(weights.sum())) / t.size
    keep = weights > 1e-4
    weights, mean, inverse, scale = weights[keep], mean[keep], inverse[keep], scale[keep]
    values_, vectors = np.linalg.eigh(inverse)
    roots = scale[:, :, None] * vectors * np.sqrt(np.maximum(values_, 0.0))[:, None, :]
    return _Weighed(evidence, weights / weights.sum(), mean * scale, roots, start)


def _swing(rest: Array, noise: float) -> float:
    """Part of what is left that goes to and fro slower than the readings, by the runs test, mm."""
    n = rest.size
    if n < 10 or noise <= 0:
        return 0.0
    above = rest > np.median(rest)
    up = int(above.sum())
    down = n - up
    if min(up, down) < 3:
        return 0.0
    runs = 1 + int((above[1:] != above[:-1]).sum())
    expected = 1 + 2 * up * down / n
    spread = math.sqrt(2 * up * down * (2 * up * down - n) / (n**2 * (n - 1)))
    if spread == 0 or special.ndtr((runs - expected) / spread) > SWINGS:
        return 0.0
    # what neighbours share is movement, what they do not share is noise
    shared = float(np.mean(rest[1:] * rest[:-1]))
    return math.sqrt(max(0.0, shared))


def _wobble(rng: np.random.Generator, count: int, size: int, rest: Array) -> Array:
    """Paths of unit variance that go to and fro, each at a phase of its own, shape (count, size)."""
    crossings = max(1, int((np.sign(rest[1:]) != np.sign(rest[:-1])).sum()))
    period = np.clip(2 * rest.size / crossings, 2.0, 20.0) * rng.uniform(0.8, 1.25, (count, 1))
    phase = rng.uniform(0, 2 * np.pi, (count, 1))
    return math.sqrt(2) * np.sin(phase + 2 * np.pi * np.arange(size) / period)
