"""Is the bed steady yet?  How it moves while it soaks, and where a hot bed differs from a cold one."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import optimize, special

from finchwort.core.errors import TooFewReadingsError
from finchwort.core.printers import Bed
from finchwort.core.relief import surface_at
from finchwort.core.repeatability import check_series, slope_interval
from finchwort.core.shape import Shape, decompose
from finchwort.core.surveys import Array, Survey
from finchwort.core.tramming import CONFIDENCE, PRIOR_SD
from finchwort.core.wording import duration, micro, millimetres

LEAST, MOST = 4, 500
"""So many readings make a soak curve."""
STEADY = 0.01
"""A bed that moves less than this from now on is steady, mm (ours: half the range of a good probe)."""
HORIZON = 300.0
"""How long a survey takes, s: the bed must hold still that long (common practice: a few minutes)."""
LONGEST = 20.0
"""A time constant beyond so many times the readings' span cannot be told from a straight line (ours)."""
ALPHA = 0.01
"""Chance of calling a bed that stands still a moving one."""


@dataclass(frozen=True, eq=False)
class Soak:
    """How one place moved while the bed warmed through.

    Attributes
    ----------
    times, heights : ndarray, shape (n,)
        s and mm.
    state : {"steady", "moving", "unclear"}
    asymptote, asymptote_sd : float
        Where the height goes, mm; NaN when it cannot be told.
    amplitude : float
        How far it was from there at the first reading, mm.
    tau, tau_sd : float
        Time constant, s; NaN when it cannot be told.
    noise : float
        Standard deviation about the curve, mm.
    to_go, to_go_margin : float
        Movement still to come after the last reading, and its plus/minus, mm.
    steady_in, steady_in_high : float
        Time from the last reading until less than ``STEADY`` is to come, and the
        upper end of its interval, s; NaN when it cannot be told.
    rate : float
        Speed at the last reading, mm per minute.
    """

    times: Array
    heights: Array
    state: str
    asymptote: float
    asymptote_sd: float
    amplitude: float
    tau: float
    tau_sd: float
    noise: float
    to_go: float
    to_go_margin: float
    steady_in: float
    steady_in_high: float
    rate: float

    def curve(self, times: ArrayLike) -> Array:
        """Height of the fitted curve at some times (s), mm; NaN without a curve."""
        t = np.asarray(times, dtype=np.float64) - self.times[0]
        if math.isnan(self.tau):
            return np.full(t.shape, self.asymptote)
        return self.asymptote + self.amplitude * np.exp(-t / self.tau)

    @property
    def sentence(self) -> str:
        """What to do, with the numbers."""
        if self.state == "steady":
            return f"Steady now: less than {millimetres(STEADY)} is still to come. Measure."
        if self.state == "unclear":
            if abs(self.rate) * HORIZON / 60 < STEADY:
                return "Too early to say: nothing moves yet beyond the noise. Take a few more readings, a minute apart."
            way = "rises" if self.rate > 0 else "sinks"
            return (
                f"Still moving: this place {way} about {micro(abs(self.rate))} a minute, "
                "and it is too early to say how long. Go on reading."
            )
        wait = duration(self.steady_in)
        sure = (
            f", {duration(self.steady_in_high)} to be sure"
            if self.steady_in_high > 1.4 * self.steady_in + 30
            else ""
        )
        way = "rise" if self.to_go > 0 else "sink"
        return (
            f"Steady to {millimetres(STEADY)} in about {wait}{sure}. "
            f"It will {way} another {millimetres(abs(self.to_go))} until then and after."
        )


def fit_soak(times: ArrayLike, heights: ArrayLike) -> Soak:
    """Fit an exponential approach to readings of one place.

    The height is taken to go as h + A exp(-t / tau).  For every tau the rest is
    a straight least-squares problem, so only tau is searched for; the covariance
    comes from the derivatives at the best fit.  A curve that is no better than
    a level line (F test) counts as standing still.

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
    TooFewReadingsError, TooManyReadingsError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> t = np.arange(0.0, 480, 30)
    >>> soak = fit_soak(t, 0.1 * np.exp(-t / 200))
    >>> soak.state, round(soak.tau), round(soak.to_go, 4), round(soak.steady_in)
    ('moving', 200, -0.0105, 11)
    """
    values, when = check_series(heights, times, LEAST, MOST)
    t = when - when[0]
    span, n = float(t[-1]), values.size
    level = float(values.mean())
    rest = values - level
    still = float(rest @ rest)

    def solve(log_tau: float):
        basis = np.column_stack([np.ones(n), np.exp(-t / math.exp(log_tau))])
        found, *_ = np.linalg.lstsq(basis, values, rcond=None)
        off = values - basis @ found
        return float(off @ off), found

    shortest = math.log(max(float(np.diff(t).min()) / 2, span / 1000))
    grid = np.linspace(shortest, math.log(LONGEST * span), 60)
    sums = [solve(one)[0] for one in grid]
    best = int(np.argmin(sums))
    low, high = grid[max(best - 1, 0)], grid[min(best + 1, grid.size - 1)]
    log_tau = float(
        optimize.minimize_scalar(lambda one: solve(one)[0], bounds=(low, high), method="bounded").x
    )
    squares, (asymptote, amplitude) = solve(log_tau)
    tau = math.exp(log_tau)
    dof = n - 3
    # four readings alone do not know their noise: join the first belief about a reading, worth one
    noise = math.sqrt((squares + PRIOR_SD**2 / 16) / (dof + 1)) if dof < 6 else math.sqrt(squares / dof)
    fit = _Fit(asymptote, amplitude, tau, noise, t)
    moves = _moves(still, squares, dof)
    slope, slope_low, slope_high = slope_interval(t, values)
    if not moves:
        bound = max(abs(slope_low), abs(slope_high)) * HORIZON
        steady = bound <= STEADY or (span >= HORIZON / 2 and bound <= 2 * STEADY)
        return Soak(
            when, values, "steady" if steady else "unclear", level, noise / math.sqrt(n), 0.0,
            math.nan, math.nan, float(values.std(ddof=1)), 0.0, bound, 0.0 if steady else math.nan,
            0.0 if steady else math.nan, slope * 60,
        )  # fmt: skip
    to_go, margin = fit.to_go()
    rate = -amplitude / tau * math.exp(-span / tau) * 60
    told = fit.tau_sd < tau and tau < 0.9 * LONGEST * span and margin < max(abs(to_go), 2 * STEADY)
    if told and abs(to_go) <= STEADY and abs(to_go) + margin <= 2 * STEADY:
        state = "steady"
    else:
        state = "moving" if told else "unclear"
    wait, wait_high = fit.wait() if told else (math.nan, math.nan)
    if state == "moving":
        wait_high = max(wait_high, wait)
    return Soak(
        when, values, state, float(asymptote), fit.asymptote_sd, float(amplitude), tau, fit.tau_sd, noise,
        to_go, margin, wait, wait_high, float(rate if told else slope * 60),
    )  # fmt: skip


def _moves(still: float, squares: float, dof: int) -> bool:
    """Tell whether the curve explains more than a level line would by chance (F test)."""
    gain = still - squares
    if gain <= 1e-15:
        return False
    if squares <= 1e-15:
        return True
    return bool(special.fdtrc(2, dof, gain / 2 / (squares / dof)) < ALPHA)


class _Fit:
    """A curve with its covariance."""

    def __init__(self, asymptote: float, amplitude: float, tau: float, noise: float, t: Array) -> None:
        self.amplitude, self.tau, self.last = float(amplitude), tau, float(t[-1])
        fall = np.exp(-t / tau)
        slopes = np.column_stack([np.ones_like(t), fall, amplitude * fall * t / tau**2])
        self.covariance = np.linalg.pinv(slopes.T @ slopes) * noise**2
        self.asymptote_sd, _, self.tau_sd = (float(v) for v in np.sqrt(np.diag(self.covariance)))
        quantile = special.stdtrit(max(t.size - 3, 1), 0.5 + CONFIDENCE / 2)
        self.quantile = float(min(quantile, 4.5))

    def to_go(self) -> tuple[float, float]:
        """Movement still to come and its margin, mm."""
        fall = math.exp(-self.last / self.tau)
        slope = np.array([0.0, -fall, -self.amplitude * fall * self.last / self.tau**2])
        return -self.amplitude * fall, self.quantile * float(np.sqrt(slope @ self.covariance @ slope))

    def wait(self) -> tuple[float, float]:
        """Time until little is to come, and the upper end of its interval, s from the last reading."""
        size = abs(self.amplitude)
        if size <= STEADY:
            return 0.0, 0.0
        logs = math.log(size / STEADY)
        at = self.tau * logs
        slope = np.array([0.0, self.tau / self.amplitude, logs])
        margin = self.quantile * float(np.sqrt(slope @ self.covariance @ slope))
        return max(0.0, at - self.last), max(0.0, at + margin - self.last)


@dataclass(frozen=True, eq=False)
class Movement:
    """Where a bed moved between two surveys.

    Attributes
    ----------
    survey : Survey
        Later minus earlier height at the later places, mm.
    mean : float
        Mean movement, mm; a zero set anew in between counts into it.
    shape : Shape
        Of the movement, see `decompose`.
    up, down : tuple of float
        x, y and movement where it rose and sank most against the mean, mm.
    """

    survey: Survey
    mean: float
    shape: Shape
    up: tuple[float, float, float]
    down: tuple[float, float, float]

    @property
    def sentence(self) -> str:
        """Where and how much."""
        spread = self.survey.spread
        if spread < PRIOR_SD:
            return f"The bed kept its shape within {millimetres(spread)}."
        x, y, rise = self.up
        u, v, fall = self.down
        said = (
            f"Against the mean, the bed rose most at x {x:.0f}, y {y:.0f} ({millimetres(rise, signed=True)}) and sank "
            f"most at x {u:.0f}, y {v:.0f} ({millimetres(fall, signed=True)})."
        )
        bow = (self.shape.bow_x + self.shape.bow_y) / 2
        if abs(bow) >= PRIOR_SD / 2:
            said += f" The middle {'rose' if bow > 0 else 'sank'} {millimetres(abs(bow))} against the edges."
        return said


def compare_surveys(before: Survey, after: Survey, bed: Bed) -> Movement:
    """Find where a bed moved between two surveys, cold and hot for instance.

    Where the two were not read at the same places, the earlier one is
    interpolated as its map is; places outside its readings are left out.

    Parameters
    ----------
    before, after : Survey
    bed : Bed

    Returns
    -------
    Movement

    Raises
    ------
    TooFewReadingsError
        When fewer than three places can be compared.

    Examples
    --------
    >>> cold = Survey([0, 100, 100, 0, 50], [0, 0, 100, 100, 50], [0, 0, 0, 0, 0])
    >>> hot = cold.with_heights([0, 0, 0, 0, 0.1])
    >>> print(compare_surveys(cold, hot, Bed(100, 100)).sentence)  # doctest: +NORMALIZE_WHITESPACE
    Against the mean, the bed rose most at x 50, y 50 (+0.08 mm) and sank
    most at x 0, y 0 (−0.02 mm). The middle rose 0.05 mm against the edges.
    """
    heights, inside = surface_at(before, after.x, after.y)
    if inside.sum() < 3:
        raise TooFewReadingsError("The two surveys have too few places in common to be compared.")
    moved = Survey(after.x[inside], after.y[inside], after.height[inside] - heights[inside])
    mean = float(moved.height.mean())
    top, low = int(np.argmax(moved.height)), int(np.argmin(moved.height))

    def place(i: int) -> tuple[float, float, float]:
        return float(moved.x[i]), float(moved.y[i]), float(moved.height[i] - mean)

    return Movement(moved, mean, decompose(moved, bed), place(top), place(low))
