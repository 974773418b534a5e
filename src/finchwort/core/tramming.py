"""Which bed screw to turn, which way and how far."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from finchwort.core.errors import (
    ChoiceError,
    CollinearError,
    DuplicateError,
    NonFiniteError,
    OutOfRangeError,
)
from finchwort.core.planes import PlaneFit, fit_plane, hull_indices
from finchwort.core.surveys import MAX_COORDINATE, Array, Survey, is_line

HOLDS = ("centre", "only_tighten", "only_loosen")
"""Besides these a plan can hold a screw, by its name."""
CONFIDENCE = 0.95
"""Confidence of every plus/minus."""
PRIOR_SD = 0.02
"""What a reading is trusted to before its own survey says more, mm (common practice)."""
PRIOR_WEIGHT = 4
"""How many spare readings that first belief is worth (ours)."""
EQUAL_SPREAD = 0.001
"""Predicted spreads closer than this are equal, and the plan that turns less wins, mm."""
MAX_COMBINATIONS = 5_000
"""Bound on the rounded plans looked at."""
MAX_SCREWS = 9


@dataclass(frozen=True)
class Screw:
    """A screw that carries the plate.

    Attributes
    ----------
    name : str
    x, y : float
        Position in the frame of the bed, mm.
    pitch : float
        Travel per turn, mm.
    tightening_lowers : bool
        Whether tightening pulls the plate down there, away from the nozzle.
    divisions : int
        How finely it is turned by hand, steps per turn.
    """

    name: str
    x: float
    y: float
    pitch: float
    tightening_lowers: bool = True
    divisions: int = 8

    def __post_init__(self) -> None:
        if not all(map(math.isfinite, (self.x, self.y, self.pitch))):
            raise NonFiniteError(f"The {self.name} screw lacks a position or a pitch.")
        if max(abs(self.x), abs(self.y)) > MAX_COORDINATE:
            raise OutOfRangeError(f"The {self.name} screw lies outside any printer.")
        if not 0.1 <= self.pitch <= 10:
            raise OutOfRangeError(
                f"A pitch of {self.pitch:g} mm is no bed screw's; M3 to M6 have 0.5 to 1.0 mm."
            )
        if not 1 <= self.divisions <= 64:
            raise OutOfRangeError("A screw is turned in 1 to 64 steps per turn.")

    @property
    def travel(self) -> float:
        """Change of height at the screw for one turn of tightening, mm, positive up."""
        return -self.pitch if self.tightening_lowers else self.pitch

    @property
    def step(self) -> float:
        """Least move by hand, mm."""
        return self.pitch / self.divisions


@dataclass(frozen=True)
class Turn:
    """What to do at one screw.

    Attributes
    ----------
    screw : Screw
    exact : float
        Turns wanted, positive for tightening.
    rounded : float
        Turns to make, in whole steps of the hand.
    uncertainty : float
        Plus/minus of ``exact`` at 95 %, turns.
    wanted : float
        Change of height wanted at the screw, mm, positive up.
    move : float
        Change of height at the screw that the whole plan is expected to make, mm, positive up.
    reason : {"turn", "noise", "small", "held"}
        Why it is turned, or why it is left: smaller than its uncertainty,
        not worth one step of the hand, or held on purpose.
    """

    screw: Screw
    exact: float
    rounded: float
    uncertainty: float
    wanted: float
    move: float
    reason: str

    @property
    def leave(self) -> bool:
        """Whether the screw is not to be touched."""
        return self.rounded == 0


@dataclass(frozen=True, eq=False)
class Plan:
    """Turns for all screws and the bed they should give.

    Attributes
    ----------
    turns : tuple of Turn
    hold : str
    predicted : Survey
        The readings as they should come out.
    change : tuple of float
        The plane (a, b, c) that the plan adds to the bed.
    centre_change : float
        Change of height in the middle of the bed, mm, positive up; the Z offset follows it.
    spread_before, spread_after : float
        Highest minus lowest reading, now and as predicted, mm.
    noise : float
        Standard deviation taken for one reading, mm.
    noise_known : bool
        Whether that came from a repeatability given, not from the readings.
    """

    turns: tuple[Turn, ...]
    hold: str
    predicted: Survey
    change: tuple[float, float, float]
    centre_change: float
    spread_before: float
    spread_after: float
    noise: float
    noise_known: bool

    @property
    def done(self) -> bool:
        """Whether there is nothing to turn."""
        return all(turn.leave for turn in self.turns)


def check_screws(screws: Sequence[Screw]) -> None:
    """Raise the fitting error unless the screws can carry a plate.

    Raises
    ------
    ChoiceError, DuplicateError, CollinearError
    """
    if not 3 <= len(screws) <= MAX_SCREWS:
        raise ChoiceError(f"A plate on screws has three to {MAX_SCREWS} of them.")
    if len({screw.name for screw in screws}) < len(screws):
        raise DuplicateError("Two screws have the same name.")
    taken = {screw.name for screw in screws} & set(HOLDS)
    if taken:
        raise ChoiceError(f"A screw cannot be called {taken.pop()!r}: that is a way to plan.")
    if len({(screw.x, screw.y) for screw in screws}) < len(screws):
        raise DuplicateError("Two screws are at the same place.")
    if is_line(np.array([s.x for s in screws]), np.array([s.y for s in screws])):
        raise CollinearError("All screws lie on one line; such a plate cannot be levelled.")


def plate_response(screws: Sequence[Screw]) -> Array:
    """How the plane of a rigid plate on equal springs follows its screws.

    The plate settles on the least-squares plane through the screw ends.

    Parameters
    ----------
    screws : sequence of Screw

    Returns
    -------
    ndarray, shape (3, k)
        Times the moves at the k screws (mm) gives the change (a, b, c) of the plane.

    Examples
    --------
    Moving one of four corners by 1 mm moves the four by 3/4, 1/4, -1/4, 1/4:

    >>> square = [Screw(str(i), x, y, 0.7) for i, (x, y) in
    ...           enumerate([(0, 0), (1, 0), (1, 1), (0, 1)])]
    >>> a, b, c = plate_response(square)[:, 0]
    >>> [round(float(a * s.x + b * s.y + c), 2) for s in square]
    [0.75, 0.25, -0.25, 0.25]
    """
    places = np.array([[s.x, s.y, 1.0] for s in screws])
    return np.linalg.pinv(places)


def reading_noise(
    fit: PlaneFit, repeatability: float | None = None, repeatability_dof: float = math.inf
) -> tuple[float, float]:
    """Standard deviation to take for one reading, and the degrees of freedom behind it.

    A repeatability that was measured is taken as it is.  Otherwise the
    residuals of the plane are joined with a first belief of ``PRIOR_SD`` worth
    ``PRIOR_WEIGHT`` readings, so that four corners do not pretend to know their noise.

    Parameters
    ----------
    fit : PlaneFit
    repeatability : float, optional
        Standard deviation of repeated readings, mm.
    repeatability_dof : float
        Degrees of freedom behind it: touches less one, infinite when it is simply known.

    Returns
    -------
    sd : float
        mm
    dof : float

    Examples
    --------
    >>> survey = Survey([0, 10, 0], [0, 0, 10], [0, 0, 0])
    >>> reading_noise(fit_plane(survey))
    (0.02, 4.0)
    """
    if repeatability is not None:
        if not (math.isfinite(repeatability) and 0 <= repeatability <= 1):
            raise OutOfRangeError("A repeatability lies between 0 and 1 mm.")
        if not repeatability_dof >= 1:
            raise OutOfRangeError("A repeatability stands on two touches or more.")
        return repeatability, repeatability_dof
    dof = PRIOR_WEIGHT + fit.dof
    total = PRIOR_WEIGHT * PRIOR_SD**2 + float(fit.residual @ fit.residual)
    return math.sqrt(total / dof), float(dof)


def plan_turns(
    survey: Survey,
    screws: Sequence[Screw],
    hold: str = "centre",
    *,
    centre: tuple[float, float] | None = None,
    repeatability: float | None = None,
    repeatability_dof: float = math.inf,
) -> Plan:
    """Find the turns that take the tilt out.

    The tilt is the least-squares plane of the readings.  Every screw is moved
    along one plane, so that the screws do not fight each other.  Of all plans
    made of whole steps of the hand near the exact one, the plan with the least
    predicted spread is chosen, and among equals the one that turns least, then
    the one that strains the plate least.

    Parameters
    ----------
    survey : Survey
    screws : sequence of Screw
        Three to nine.
    hold : str
        ``"centre"`` keeps the height in the middle, ``"only_tighten"`` and
        ``"only_loosen"`` turn one way only, a screw's name leaves that screw alone.
    centre : tuple of float, optional
        The middle to keep, mm; the middle of the readings when not given.
    repeatability : float, optional
        Standard deviation of repeated readings at one place, mm, when known.
    repeatability_dof : float
        Degrees of freedom behind it, see `reading_noise`.

    Returns
    -------
    Plan

    Raises
    ------
    ChoiceError, DuplicateError, CollinearError, OutOfRangeError
        When the screws or the choices do not make sense.

    Examples
    --------
    >>> corners = [(0, 0), (200, 0), (200, 200), (0, 200)]
    >>> names = ["front left", "front right", "back right", "back left"]
    >>> screws = [Screw(n, x, y, 0.8) for n, (x, y) in zip(names, corners)]
    >>> bed = Survey([0, 200, 200, 0], [0, 0, 200, 200], [-0.1, 0.1, 0.1, -0.1])
    >>> plan = plan_turns(bed, screws, repeatability=0.01)
    >>> [(t.screw.name, t.rounded, round(t.move, 3)) for t in plan.turns]  # doctest: +NORMALIZE_WHITESPACE
    [('front left', -0.125, 0.1), ('front right', 0.125, -0.1),
     ('back right', 0.125, -0.1), ('back left', -0.125, 0.1)]
    >>> round(plan.spread_after, 6)
    0.0
    """
    check_screws(screws)
    names = [screw.name for screw in screws]
    if hold not in HOLDS and hold not in names:
        raise ChoiceError(f"There is no screw called {hold!r} to hold.")
    travel = np.array([screw.travel for screw in screws])
    if hold in ("only_tighten", "only_loosen") and len(set(np.sign(travel))) > 1:
        raise ChoiceError("Turning one way only needs screws that all work the same way.")

    fit = fit_plane(survey)
    noise, dof = reading_noise(fit, repeatability, repeatability_dof)
    place = np.array([[s.x, s.y] for s in screws])
    slope = np.array([fit.plane.a, fit.plane.b])
    middle = np.array(centre if centre is not None else _middle(survey))
    anchor = _anchor(hold, names, place, slope, travel, middle)
    arm = place - anchor
    wanted = -(arm @ slope)
    variance = np.einsum("ij,jk,ik->i", arm, fit.unscaled[:2, :2], arm)
    quantile = special.ndtri(0.5 + CONFIDENCE / 2)
    if math.isfinite(dof):
        quantile = special.stdtrit(dof, 0.5 + CONFIDENCE / 2)
    margin = quantile * noise * np.sqrt(variance)

    held = np.all(arm == 0, axis=1)
    noisy = ~held & (np.abs(wanted) <= margin)
    steps, change = _best_steps(survey, fit, screws, wanted, held | noisy, hold, middle)

    turns = []
    for i, screw in enumerate(screws):
        if held[i]:
            reason = "held"
        elif noisy[i]:
            reason = "noise"
        else:
            reason = "turn" if steps[i] else "small"
        turns.append(
            Turn(
                screw=screw,
                exact=float(wanted[i] / travel[i]) + 0.0,
                rounded=float(steps[i]) / screw.divisions + 0.0,
                uncertainty=float(margin[i] / screw.pitch),
                wanted=float(wanted[i]) + 0.0,
                move=float(change @ (screw.x, screw.y, 1.0)) + 0.0,
                reason=reason,
            )
        )
    predicted = survey.with_heights(survey.height + change[0] * survey.x + change[1] * survey.y + change[2])
    return Plan(
        turns=tuple(turns),
        hold=hold,
        predicted=predicted,
        change=(float(change[0]), float(change[1]), float(change[2])),
        centre_change=float(change @ (*middle, 1.0)) + 0.0,
        spread_before=survey.spread,
        spread_after=predicted.spread,
        noise=noise,
        noise_known=repeatability is not None,
    )


def predict(survey: Survey, screws: Sequence[Screw], turns: Sequence[float]) -> Survey:
    """Give the readings expected after turning the screws.

    Parameters
    ----------
    survey : Survey
    screws : sequence of Screw
    turns : sequence of float
        Turns at each screw, positive for tightening.

    Returns
    -------
    Survey
    """
    a, b, c = plane_change(screws, turns)
    return survey.with_heights(survey.height + a * survey.x + b * survey.y + c)


def plane_change(screws: Sequence[Screw], turns: Sequence[float]) -> Array:
    """Change (a, b, c) of the plate's plane when the screws are turned (positive tightens)."""
    moves = np.array([screw.travel for screw in screws]) * np.asarray(turns, dtype=np.float64)
    return plate_response(screws) @ moves


def _middle(survey: Survey) -> tuple[float, float]:
    return (
        float(survey.x.min() + survey.x.max()) / 2,
        float(survey.y.min() + survey.y.max()) / 2,
    )


def _anchor(hold, names, place, slope, travel, middle) -> Array:
    """The place whose height an exact plan keeps."""
    if hold == "centre":
        return middle
    if hold in names:
        return place[names.index(hold)]
    # turning one way only: the screw that is already furthest that way stays
    down = (hold == "only_tighten") == (travel[0] < 0)
    height = place @ slope
    return place[int(np.argmin(height) if down else np.argmax(height))]


def _best_steps(survey, fit, screws, wanted, fixed, hold, middle) -> tuple[Array, Array]:
    """Search whole steps near the wanted moves; return the steps and the change of plane."""
    per_step = np.array([screw.travel / screw.divisions for screw in screws])
    exact = wanted / per_step
    reach = 1
    while reach >= 0:
        choices = [_choices(value, reach, stay, hold) for value, stay in zip(exact, fixed, strict=True)]
        if math.prod(map(len, choices)) <= MAX_COMBINATIONS:
            break
        reach -= 1
    combos = np.array(list(itertools.product(*choices)), dtype=np.float64)
    combos = np.vstack([np.zeros(len(screws)), combos])
    response = plate_response(screws) * per_step
    changes = combos @ response.T

    corners = hull_indices(survey, fit.residual)
    places = np.column_stack([survey.x[corners], survey.y[corners]])
    heights = changes[:, :2] @ places.T + survey.height[corners]
    spread = heights.max(axis=1) - heights.min(axis=1)
    if hold == "centre":
        # a rounded plan may not lift or sink the middle by more than half a step
        shift = np.abs(changes @ (*middle, 1.0))
        spread = np.where(shift <= np.abs(per_step).max() / 2 + 1e-12, spread, np.inf)
    equal = np.flatnonzero(spread <= spread.min() + EQUAL_SPREAD)
    turning = np.abs(combos[equal] / [s.divisions for s in screws]).sum(axis=1)
    moves = combos[equal] * per_step
    ends = np.array([[s.x, s.y, 1.0] for s in screws])
    strain = np.abs(moves - changes[equal] @ ends.T).sum(axis=1)
    shift = np.abs(changes[equal] @ (*middle, 1.0))
    order = np.lexsort((spread[equal], shift.round(9), strain.round(9), turning.round(9)))
    best = equal[order[0]]
    return combos[best], changes[best]


def _choices(exact: float, reach: int, stay: bool, hold: str) -> list[int]:
    if stay:
        return [0]
    steps = range(math.floor(exact) - reach, math.ceil(exact) + reach + 1)
    if hold == "only_tighten":
        kept = [s for s in steps if s >= 0]
    elif hold == "only_loosen":
        kept = [s for s in steps if s <= 0]
    else:
        kept = list(steps)
    return kept or [0]
