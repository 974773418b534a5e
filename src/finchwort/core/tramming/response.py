"""How this bed answers its knobs: a rigid plate on equal springs to begin with, corrected by every round."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import linalg

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.geometry import Array, is_line
from finchwort.core.printers import Bed, Screw, check_screws
from finchwort.core.surveys import Survey, around, fit_bed, fit_plane
from finchwort.core.tramming.screws import HAND_SD, plate_response

GAIN_SD = 0.02
"""How far a healthy knob's own effect may be off, standard deviation as a share: thread, seat, play (ours)."""
DOUBTED_SD = 0.6
"""The same for a knob that may slip (ours)."""
SPRING_SD = 0.2
"""How much the springs of one bed differ in stiffness, standard deviation as a share (ours)."""
LOST_MEAN, LOST_SD = 0.02, 0.02
"""Turns lost when a knob changes its direction, before anything is known (ours)."""
STIFFER = 1e-3
"""Step of a numerical derivative, a share of a spring's stiffness."""
SHARED = 0.7
"""Two surveys that share so much of their places are compared at these (ours)."""
MAX_MOVES = 12
"""Older rounds than so many are left out: springs age."""


@dataclass(frozen=True, eq=False)
class Move:
    """One round: the tilt before, what was turned, the tilt after.

    Attributes
    ----------
    turns : ndarray, shape (k,)
        Turns made, positive for tightening.
    change : ndarray, shape (2,)
        Slope after minus slope before along X and Y, mm per mm.
    before, after : ndarray, shape (2, 2)
        Covariance of the slopes of both surveys.
    chained : bool
        Whether the survey before is the survey after the move before this one.
    """

    turns: Array
    change: Array
    before: Array
    after: Array
    chained: bool = False


def make_move(
    before: Survey,
    after: Survey,
    turns: Sequence[float],
    noise: tuple[float | None, float | None] = (None, None),
    chained: bool = False,
    bed: Bed | None = None,
) -> Move:
    """Make a move from two surveys.

    Parameters
    ----------
    before, after : Survey
    turns : sequence of float
        Made in between, positive for tightening.
    noise : (float or None, float or None)
        Standard deviation of one reading of each, mm; from the readings when not known.
    chained : bool
    bed : Bed, optional
        See `change_of_tilt`.
    """
    change, sd_before, sd_after = change_of_tilt(before, after, noise, bed)
    return Move(np.array(turns, dtype=np.float64), change, sd_before, sd_after, chained)


def change_of_tilt(
    before: Survey,
    after: Survey,
    noise: tuple[float | None, float | None] = (None, None),
    bed: Bed | None = None,
) -> tuple[Array, Array, Array]:
    """Find how the tilt changed from one survey to the next.

    Where both were read at the same places the plate's shape is the same in both and drops out; a place that only one
    has counts for neither.  Otherwise the tilt of the whole bed is compared, with what is not known of its shape.

    Parameters
    ----------
    before, after : Survey
    noise : (float or None, float or None)
        Standard deviation of one reading of each, mm; from the readings when not known.
    bed : Bed, optional
        The rectangle round all readings when not given.

    Returns
    -------
    change : ndarray, shape (2,)
        Slope after minus slope before along X and Y, mm per mm.
    before, after : ndarray, shape (2, 2)
        Covariance of both slopes.
    """
    pair = _common(before, after)
    if pair is not None:
        fits = [fit_plane(item) for item in pair]
        sds = [
            fit_bed(item, bed, settle=False).noise if sd is None else max(sd, 1e-4)
            for item, sd in zip(pair, noise, strict=True)
        ]
        change = np.array([fits[1].plane.a - fits[0].plane.a, fits[1].plane.b - fits[0].plane.b])
        first, second = (fit.unscaled[:2, :2] * sd**2 for fit, sd in zip(fits, sds, strict=True))
        return change, first, second
    bed = bed or around(before, after)
    beds = [fit_bed(item, bed, sd, settle=False) for item, sd in zip((before, after), noise, strict=True)]
    change = np.array([beds[1].plane.a - beds[0].plane.a, beds[1].plane.b - beds[0].plane.b])
    return change, beds[0].covariance[:2, :2], beds[1].covariance[:2, :2]


def _common(before: Survey, after: Survey) -> tuple[Survey, Survey] | None:
    """The readings of both at the places they share; None when these are too few."""
    if len(before) == len(after) and np.array_equal(before.x, after.x) and np.array_equal(before.y, after.y):
        return before, after
    where = {place: i for i, place in enumerate(zip(before.x.tolist(), before.y.tolist(), strict=True))}
    both = [
        (where[place], j)
        for j, place in enumerate(zip(after.x.tolist(), after.y.tolist(), strict=True))
        if place in where
    ]
    if len(both) < max(4, SHARED * max(len(before), len(after))):
        return None
    i, j = (list(item) for item in zip(*both, strict=True))
    if is_line(before.x[i], before.y[i]):
        return None
    return (
        Survey(before.x[i], before.y[i], before.height[i]),
        Survey(after.x[j], after.y[j], after.height[j]),
    )


@dataclass(frozen=True, eq=False)
class Response:
    """What each knob does to the tilt, and how sure that is.

    Attributes
    ----------
    screws : tuple of Screw
    prior : ndarray, shape (2, k)
        Slope along X and Y for one turn of tightening, rigid plate on equal springs, mm per mm.
    slopes : ndarray, shape (2, k)
        The same, as learned.
    lost : float
        Turns lost when a knob changes its direction.
    lost_sd : float
    covariance : ndarray, shape (2 k + 1, 2 k + 1)
        Of the slopes along X, those along Y, and the turns lost.
    last : ndarray, shape (k,)
        Direction in which each knob was turned last: 1 tightened, -1 loosened, 0 not known.
    moves : int
        Rounds it was learned from.
    hand_sd : float
        How truly knobs are turned, standard deviation, turns.
    """

    screws: tuple[Screw, ...]
    prior: Array
    slopes: Array
    lost: float
    lost_sd: float
    covariance: Array
    last: Array
    moves: int
    hand_sd: float = HAND_SD

    def effect(self) -> tuple[Array, Array]:
        """Share of the expected effect that each knob has, and its standard deviation, shape (k,) each.

        Measured along the direction in which the knob should tip the plate.
        """
        span = _spans(self.screws)
        k = len(self.screws)
        share, sd = np.empty(k), np.empty(k)
        for i in range(k):
            along = self.prior[:, i] * span
            weight = along * span / (along @ along)
            share[i] = weight @ self.slopes[:, i]
            block = self.covariance[np.ix_([i, k + i], [i, k + i])]
            sd[i] = math.sqrt(max(0.0, float(weight @ block @ weight)))
        return share, sd

    def backlash(self, turns: Array) -> Array:
        """Turns that go lost to a change of direction, with the sign of the turn.

        Parameters
        ----------
        turns : ndarray, shape (..., k)

        Returns
        -------
        ndarray, shape (..., k)
            Nothing where the last direction is not known, and never more than the turn.
        """
        turned: Array = np.where(np.sign(turns) * self.last < 0, np.sign(turns), 0.0)
        return turned * np.minimum(max(0.0, self.lost), np.abs(turns))

    def change(self, turns: Sequence[float] | Array) -> tuple[Array, Array]:
        """Slopes that turning adds, and their covariance.

        Parameters
        ----------
        turns : sequence of float
            Positive for tightening.

        Returns
        -------
        slopes : ndarray, shape (2,)
            mm per mm
        covariance : ndarray, shape (2, 2)
            From what is not known of the bed and from the hand.
        """
        amounts = np.asarray(turns, dtype=np.float64)
        design = _design(amounts, self.prior, self.last)
        mean = self.slopes @ amounts - self.prior @ self.backlash(amounts)
        covariance = design @ self.covariance @ design.T + _hand(amounts, self.prior, self.last, self.hand_sd)
        return mean, covariance


def prior_response(screws: Sequence[Screw]) -> Response:
    """Give what is believed of a bed of which no round is known.

    Parameters
    ----------
    screws : sequence of Screw

    Returns
    -------
    Response

    Examples
    --------
    >>> posts = [Screw(str(i), x, y, 0.7) for i, (x, y) in
    ...          enumerate([(0, 0), (200, 0), (200, 200), (0, 200)])]
    >>> share, sd = prior_response(posts).effect()
    >>> share.round(3).tolist(), bool((sd > GAIN_SD).all())
    ([1.0, 1.0, 1.0, 1.0], True)
    """
    return learn(screws, ())


def learn(
    screws: Sequence[Screw], moves: Sequence[Move], doubted: Sequence[str] = (), hand_sd: float = HAND_SD
) -> Response:
    """Learn from rounds how a bed answers its knobs.

    Conjugate Gaussian update of ``change = R u - R0 (lost d) + noise``, in
    which R is what each knob does, R0 what it would do under a rigid plate on
    equal springs, u the turns and d the knobs that changed direction.  Noise is
    that of both surveys (shared between rounds that follow each other) and of
    the hand.  Only the tilt is used: many machines set their zero anew on homing.

    Parameters
    ----------
    screws : sequence of Screw
    moves : sequence of Move
        In the order in which they happened; the newest ``MAX_MOVES`` count.
    doubted : sequence of str
        Knobs that may slip (see `finchwort.core.slipping`): what goes wrong is laid to them first.
    hand_sd : float
        How truly knobs are turned, standard deviation, turns.

    Returns
    -------
    Response

    Raises
    ------
    ChoiceError
        When a move has turns for other screws.

    References
    ----------
    Bayesian linear regression with a conjugate Gaussian prior and known noise (textbook result).
    """
    check_screws(screws)
    k = len(screws)
    prior = plate_response(screws)[:2] * np.array([screw.travel for screw in screws])
    mean, covariance = _prior(screws, prior, doubted)
    moves = list(moves)[-MAX_MOVES:]
    if any(move.turns.shape != (k,) for move in moves):
        raise ChoiceError("tramming.round_tells_other_screws")
    last = np.zeros(k)
    if moves:
        design, seen, noise, last = stack(moves, prior, hand_sd)
        # weights in units of one turn at a corner keep the sums well conditioned
        gain = linalg.solve(design @ covariance @ design.T + noise, design @ covariance, assume_a="pos").T
        mean = mean + gain @ (seen - design @ mean)
        covariance = covariance - gain @ design @ covariance
        covariance = (covariance + covariance.T) / 2
    return Response(
        screws=tuple(screws),
        prior=prior,
        slopes=mean[: 2 * k].reshape(2, k),
        lost=float(mean[-1]),
        lost_sd=float(math.sqrt(max(0.0, covariance[-1, -1]))),
        covariance=covariance,
        last=last,
        moves=len(moves),
        hand_sd=hand_sd,
    )


def stack(moves: Sequence[Move], prior: Array, hand_sd: float = HAND_SD) -> tuple[Array, Array, Array, Array]:
    """Put moves under each other for one regression.

    Parameters
    ----------
    moves : sequence of Move
    prior : ndarray, shape (2, k)
    hand_sd : float
        Turns.

    Returns
    -------
    design : ndarray, shape (2 m, 2 k + 1)
    seen : ndarray, shape (2 m,)
    noise : ndarray, shape (2 m, 2 m)
    last : ndarray, shape (k,)
        Directions after the last move.
    """
    size = 2 * len(moves)
    last = np.zeros(prior.shape[1])
    rows, noise = [], np.zeros((size, size))
    for i, move in enumerate(moves):
        rows.append(_design(move.turns, prior, last))
        at = slice(2 * i, 2 * i + 2)
        noise[at, at] += move.before + move.after + _hand(move.turns, prior, last, hand_sd)
        if move.chained and i:
            previous = slice(2 * i - 2, 2 * i)
            # the survey they share may be trusted differently in both; the smaller part is the common one
            shared = min(moves[i - 1].after, move.before, key=np.trace)
            noise[previous, at] -= shared
            noise[at, previous] -= shared
        last = np.where(move.turns != 0, np.sign(move.turns), last)
    return np.vstack(rows), np.concatenate([move.change for move in moves]), noise, last


def _spans(screws: Sequence[Screw]) -> Array:
    """Extent of the screws along X and Y, mm."""
    places = np.array([[s.x, s.y] for s in screws])
    return np.ptp(places, axis=0)


def _prior(screws: Sequence[Screw], prior: Array, doubted: Sequence[str]) -> tuple[Array, Array]:
    """Mean and covariance before any round.

    Unequal springs bend what single knobs do, yet leave alone what all do
    together along one plane; a knob's own gain is its own.
    """
    k = len(screws)
    travel = np.array([screw.travel for screw in screws])
    places = np.array([[s.x, s.y, 1.0] for s in screws])
    centre = places - [*places[:, :2].mean(axis=0), 0.0]
    covariance = np.zeros((2 * k + 1, 2 * k + 1))
    for i in range(k):
        weight = np.ones(k)
        weight[i] += STIFFER
        weighted = centre.T * weight
        bent = (np.linalg.solve(weighted @ centre, weighted)[:2] * travel - prior) / STIFFER
        covariance[: 2 * k, : 2 * k] += SPRING_SD**2 * np.outer(bent, bent)
        at = np.ix_([i, k + i], [i, k + i])
        gain = DOUBTED_SD if screws[i].name in doubted else GAIN_SD
        covariance[at] += gain**2 * np.outer(prior[:, i], prior[:, i])
    covariance[-1, -1] = LOST_SD**2
    return np.concatenate([prior.ravel(), [LOST_MEAN]]), covariance


def _reversals(turns: Array, last: Array) -> Array:
    """Which knobs change direction, signed; half where the last direction is not known."""
    sign = np.sign(turns)
    return sign * np.where(last == 0, 0.5, (sign * last < 0).astype(float))


def _design(turns: Array, prior: Array, last: Array) -> Array:
    k = turns.size
    design = np.zeros((2, 2 * k + 1))
    design[0, :k] = design[1, k : 2 * k] = turns
    design[:, -1] = -(prior @ _reversals(turns, last))
    return design


def _hand(turns: Array, prior: Array, last: Array, hand_sd: float) -> Array:
    """Covariance from the hand, and from a slack that may or may not be taken up."""
    doubt = 0.25 * (LOST_MEAN**2 + LOST_SD**2) * ((last == 0) & (turns != 0))
    variance = hand_sd**2 * (turns != 0) + doubt
    return (prior * variance) @ prior.T
