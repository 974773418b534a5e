"""Which bed screw to turn, which way and how far."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.geometry import Array, Mask
from finchwort.core.base.statistics import Z95
from finchwort.core.printers import HOLDS, MAX_SCREWS, Bed, Screw, check_screws
from finchwort.core.surveys import (
    BedFit,
    Datum,
    PlaneFit,
    Survey,
    choose_plane,
    fit_bed,
    fit_plane,
    hull_indices,
)
from finchwort.core.tramming.response import GAIN_SD, LOST_SD, Response, prior_response
from finchwort.core.tramming.rounding import Steps, Target, best_steps, changes_of
from finchwort.core.tramming.screws import (
    HAND_SD,
    plane_change,
    plate_response,
    predict,
    twist_at,
    twist_form,
)

__all__ = [
    "HAND_SD",
    "HOLDS",
    "MAX_SCREWS",
    "Plan",
    "Screw",
    "Turn",
    "after_turns",
    "change_of",
    "check_screws",
    "plan_turns",
    "plane_change",
    "plate_response",
    "predict",
]

WORTH = 1.0
"""A plan must win more than this many standard deviations of the tilt measured (ours)."""
MAX_ROOM = 20.0
"""A limit further away than this is none, turns."""


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
    reason : {"turn", "noise", "small", "held", "limit"}
        Why it is turned, or why it is left: smaller than its uncertainty,
        not worth one step of the hand, held on purpose, or at the end of its travel.
    short : float
        Turns that the limits of the spring keep it from making, positive for tightening.
    """

    screw: Screw
    exact: float
    rounded: float
    uncertainty: float
    wanted: float
    move: float
    reason: str
    short: float = 0.0

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
    datum : Datum
        The plane that counts as the tilt.
    response : Response
        What the knobs are taken to do.
    predicted : Survey
        The readings as they should come out.
    change : tuple of float
        The plane (a, b, c) that the plan adds to the bed.
    centre_change : float
        Change of height in the middle of the bed, mm, positive up; the Z offset follows it.
    centre_margin : float
        Its plus/minus at 95 %, from the hand and the threads, mm.
    spread_before, spread_after : float
        Highest minus lowest reading, now and as predicted, mm.
    noise : float
        Standard deviation taken for one reading, mm.
    noise_known : bool
        Whether that came from a repeatability given, not from the readings.
    fit : BedFit
        What the readings say about the whole bed.
    bends : float
        Share of a twist of its screw ends that the plate follows; 0 for a stiff one.
    """

    turns: tuple[Turn, ...]
    hold: str
    datum: Datum
    response: Response
    predicted: Survey
    change: tuple[float, float, float]
    centre_change: float
    centre_margin: float
    spread_before: float
    spread_after: float
    noise: float
    noise_known: bool
    fit: BedFit
    bends: float = 0.0

    @property
    def done(self) -> bool:
        """Whether there is nothing to turn."""
        return all(turn.leave for turn in self.turns)


def plan_turns(
    survey: Survey,
    screws: Sequence[Screw],
    hold: str = "centre",
    *,
    centre: tuple[float, float] | None = None,
    repeatability: float | None = None,
    repeatability_dof: float = math.inf,
    reference: str = "least_squares",
    points: Sequence[int] | None = None,
    response: Response | None = None,
    room: Sequence[tuple[float, float]] | None = None,
    bends: float = 0.0,
    bed: Bed | None = None,
    fit: BedFit | None = None,
) -> Plan:
    """Find the turns that take the tilt out.

    Every screw is moved along one plane, so that the screws do not fight each
    other; what was learned of the knobs corrects the turns as little as needed.
    Of all plans made of whole steps of the hand near the exact one, the plan
    that leaves least is chosen (of the tilt with ``"least_squares"``, of the spread
    with ``"minimum_zone"``), and among equals the one that turns least, then the
    one that strains the plate least.  A plan that wins no more than the
    uncertainty of the tilt is not worth a turn.  A knob that changes
    its direction is turned further by what goes lost.

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
        Degrees of freedom behind it, see `finchwort.core.surveys.fit_bed`.
    reference : str
        The plane that counts as the tilt, see `finchwort.core.surveys.choose_plane`.  With
        ``"three_points"`` and ``"screws"`` only the readings used are to come level.
    points : sequence of int, optional
        Three readings, for ``"three_points"``.
    response : Response, optional
        What was learned of the knobs; a rigid plate on equal springs when not given.
    room : sequence of (float, float), optional
        Turns left at each screw for tightening and for loosening.
    bends : float
        Share of a twist of its screw ends that the plate follows.  A plate that bends on four screws is untwisted as
        well, by opposite turns that leave its plane alone; only with ``"centre"`` and ``"least_squares"``.
    bed : Bed, optional
        The printable area, of which the tilt is taken out; the rectangle round the readings when not given.
    fit : BedFit, optional
        Of the same readings, when it is known already; it carries the noise.  Readings that it sets aside count for
        nothing.

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
        raise ChoiceError("tramming.no_screw_called_hold", hold=hold)
    travel = np.array([screw.travel for screw in screws])
    if hold in ("only_tighten", "only_loosen") and len(set(np.sign(travel))) > 1:
        raise ChoiceError("tramming.turning_way_only_needs")
    response = prior_response(screws) if response is None else response
    if tuple(screws) != response.screws:
        raise ChoiceError("tramming.learned_about_other_screws")

    whole = survey
    fit = fit or fit_bed(survey, bed, repeatability, repeatability_dof)
    survey, points = _counting(survey, fit, points)
    datum = choose_plane(survey, reference, points=points, screws=screws)
    noise = fit.noise
    covariance = datum.unscaled * noise**2
    if reference == "least_squares":
        # the tilt is that of the bed, which is not always that of the readings
        datum = replace(datum, plane=fit.plane)
        covariance = fit.covariance
    place = np.array([[s.x, s.y] for s in screws])
    slope = np.array([datum.plane.a, datum.plane.b])
    middle = np.array(centre if centre is not None else _middle(survey))
    anchor = _anchor(hold, names, place, slope, travel, middle)
    arm = place - anchor
    wish = -(arm @ slope)
    variance = np.einsum("ij,jk,ik->i", arm, covariance[:2, :2], arm)
    margin = fit.quantile * np.sqrt(variance)

    held = np.all(arm == 0, axis=1)
    exact = _exact(wish / travel, slope, response, held, hold)
    noisy = ~held & (np.abs(wish) <= margin)
    bounds = [
        (0.0, 0.0) if stay else _bounds(hold, left)
        for stay, left in zip(held | noisy, room or [(math.inf, math.inf)] * len(screws), strict=True)
    ]
    target = _target(survey, datum, fit_plane(survey), middle, hold == "centre")
    steps = best_steps(response, travel / len(screws), exact, bounds, target)
    if _won(target, steps) <= WORTH * _across_sd(target, covariance):
        steps = Steps(np.zeros(len(screws)), np.zeros(3))
    change = steps.change
    untwist = np.zeros(len(screws))
    if bends and hold == "centre" and datum.reference == "least_squares":
        untwist = _untwist(survey, screws, bends, noise, steps.turns, bounds)

    turns = []
    for i, screw in enumerate(screws):
        short = _short(float(exact[i]), bounds[i], screw)
        made = float(steps.turns[i] + untwist[i])
        if held[i]:
            reason = "held"
        elif made:
            reason = "turn"
        elif noisy[i]:
            reason = "noise"
        else:
            reason = "limit" if short else "small"
        turns.append(
            Turn(
                screw=screw,
                exact=float(exact[i] + untwist[i]) + 0.0,
                rounded=made + 0.0,
                uncertainty=float(margin[i] / screw.pitch),
                wanted=float(wish[i]) + 0.0,
                move=float(change @ (screw.x, screw.y, 1.0)) + 0.0,
                reason=reason,
                short=0.0 if held[i] or noisy[i] else short,
            )
        )
    twist = twist_at(screws, [turn.rounded for turn in turns], bends, whole.x, whole.y)
    predicted = whole.with_heights(
        whole.height + change[0] * whole.x + change[1] * whole.y + change[2] + twist
    )
    counting = np.setdiff1d(np.arange(len(whole)), fit.aside)
    return Plan(
        turns=tuple(turns),
        hold=hold,
        datum=datum,
        response=response,
        predicted=predicted,
        change=(float(change[0]), float(change[1]), float(change[2])),
        centre_change=float(change @ (*middle, 1.0)) + 0.0,
        centre_margin=margin_of_centre(response, middle, [turn.rounded for turn in turns]),
        spread_before=survey.spread,
        spread_after=float(np.ptp(predicted.height[counting])),
        noise=noise,
        noise_known=fit.noise_known,
        fit=fit,
        bends=bends,
    )


def _untwist(
    survey: Survey,
    screws: Sequence[Screw],
    share: float,
    noise: float,
    planned: Array,
    bounds: Sequence[tuple[float, float]],
) -> Array:
    """Turns, in whole steps of the hand, that take the twist out of a plate that bends, shape (k,)."""
    nothing = np.zeros(len(screws))
    result = twist_form(screws)
    if result is None:
        return nothing
    pattern, form = result
    shape = form[0] + form[1] * survey.x + form[2] * survey.y + form[3] * survey.x * survey.y
    rows = np.column_stack([np.ones(len(survey)), survey.x, survey.y, shape])
    if len(survey) < 4 or np.linalg.matrix_rank(rows / np.abs(rows).max(axis=0)) < 4:
        return nothing
    inverse = np.linalg.inv(rows.T @ rows)
    twist = float((inverse @ rows.T @ survey.height)[3])
    if abs(twist) <= WORTH * noise * math.sqrt(inverse[3, 3]):
        return nothing
    turns = np.array(
        [
            round(-twist / share * p / screw.travel * screw.divisions) / screw.divisions
            for p, screw in zip(pattern, screws, strict=True)
        ]
    )
    total = planned + turns
    within = all(low <= item <= high for item, (low, high) in zip(total, bounds, strict=True))
    return turns if within else nothing


def _target(survey: Survey, datum: Datum, fit: PlaneFit, middle: Array, keep: bool) -> Target:
    """What is to come level: the plane itself, the readings it goes through, or all readings."""
    at = (float(middle[0]), float(middle[1]))
    if datum.reference == "least_squares":
        x, y = np.meshgrid([survey.x.min(), survey.x.max()], [survey.y.min(), survey.y.max()])
        return Target(x.ravel(), y.ravel(), datum.plane.at(x.ravel(), y.ravel()), at, keep)
    used = np.array(datum.used) if datum.used else hull_indices(survey, fit.residual)
    return Target(survey.x[used], survey.y[used], survey.height[used], at, keep)


def _won(target: Target, steps: Steps) -> float:
    """How much closer a plan brings the highest and the lowest target, mm."""
    after = target.height + steps.change[0] * target.x + steps.change[1] * target.y
    return float(np.ptp(target.height) - np.ptp(after))


def _across_sd(target: Target, covariance: Array) -> float:
    """Standard deviation of the rise between opposite corners, mm."""
    across = np.array([np.ptp(target.x), np.ptp(target.y)])
    return math.sqrt(float(across @ np.abs(covariance[:2, :2]) @ across))


def _counting(
    survey: Survey, fit: BedFit, points: Sequence[int] | None
) -> tuple[Survey, Sequence[int] | None]:
    """Readings that count, and the chosen ones by their place among them."""
    if not fit.aside:
        return survey, points
    keep = np.setdiff1d(np.arange(len(survey)), fit.aside)
    if points is not None:
        if set(points) & set(fit.aside):
            raise ChoiceError("tramming.three_readings_set_aside")
        points = [int(np.searchsorted(keep, i)) for i in points]
    return Survey(survey.x[keep], survey.y[keep], survey.height[keep]), points


def _exact(along: Array, slope: Array, response: Response, held: Mask, hold: str) -> Array:
    """Turns along one plane, corrected by what was learned, as little as needed."""
    if response.moves == 0:
        return along
    free = ~held
    left = -slope - response.slopes @ along
    exact = along.copy()
    exact[free] += np.linalg.pinv(response.slopes[:, free]) @ left
    if hold == "only_tighten":
        return np.maximum(exact, 0.0)
    if hold == "only_loosen":
        return np.minimum(exact, 0.0)
    return exact


def _bounds(hold: str, room: tuple[float, float]) -> tuple[float, float]:
    """Turns allowed at a screw: the way the hold leaves, within what its spring has left."""
    tighten, loosen = (min(MAX_ROOM, max(0.0, left)) for left in room)
    if hold == "only_tighten":
        loosen = 0.0
    elif hold == "only_loosen":
        tighten = 0.0
    return -loosen, tighten


def _short(exact: float, bounds: tuple[float, float], screw: Screw) -> float:
    """Turns wanted beyond a limit, less than a step of the hand counting as none."""
    kept = min(max(exact, bounds[0]), bounds[1])
    gap = exact - kept
    return gap + 0.0 if abs(gap) >= 1 / screw.divisions else 0.0


def after_turns(plan: Plan, survey: Survey, turns: Sequence[float]) -> Survey:
    """Give the readings expected after other turns than the plan's, by what was learned.

    Parameters
    ----------
    plan : Plan
    survey : Survey
        The one it was made from.
    turns : sequence of float
        At each of its screws, positive for tightening.

    Returns
    -------
    Survey
    """
    a, b, c = change_of(plan, turns)
    twist = twist_at([turn.screw for turn in plan.turns], turns, plan.bends, survey.x, survey.y)
    return survey.with_heights(survey.height + a * survey.x + b * survey.y + c + twist)


def change_of(plan: Plan, turns: Sequence[float]) -> tuple[float, float, float]:
    """Give the plane (a, b, c) that turns add to the bed, by what was learned.

    Raises
    ------
    ChoiceError
        When there are not as many turns as screws.
    """
    amounts = np.asarray(turns, dtype=np.float64)
    if amounts.shape != (len(plan.turns),) or not np.isfinite(amounts).all():
        raise ChoiceError("tramming.every_screw_far_turned")
    lift = np.array([turn.screw.travel for turn in plan.turns]) / len(plan.turns)
    a, b, c = changes_of(plan.response, lift, amounts[None, :])[0]
    return float(a), float(b), float(c)


def margin_of_centre(
    response: Response, middle: Array | tuple[float, float], turns: Sequence[float]
) -> float:
    """Plus/minus at 95 % of the height in the middle after turning, mm.

    Each knob lifts the middle by its share of a rigid plate; the hand turns it falsely by `HAND_SD` or by what is known
    of it, a thread is a little off, and some of the turn may go lost in play.

    Parameters
    ----------
    response : Response
    middle : (float, float)
        mm
    turns : sequence of float
        Positive for tightening.
    """
    amounts = np.asarray(turns, dtype=np.float64)
    travel = np.array([screw.travel for screw in response.screws])
    share = np.array([middle[0], middle[1], 1.0]) @ plate_response(response.screws) * travel
    doubt = np.hypot(response.hand_sd, np.hypot(GAIN_SD * np.abs(amounts), LOST_SD))
    sd = np.where(amounts != 0, doubt, 0.0)
    return float(Z95 * np.sqrt(np.sum((share * sd) ** 2)))


def _middle(survey: Survey) -> tuple[float, float]:
    return (
        float(survey.x.min() + survey.x.max()) / 2,
        float(survey.y.min() + survey.y.max()) / 2,
    )


def _anchor(
    hold: str, names: Sequence[str], place: Array, slope: Array, travel: Array, middle: Array
) -> Array:
    """The place whose height an exact plan keeps."""
    if hold == "centre":
        return middle
    if hold in names:
        return place[names.index(hold)]
    # turning one way only: the screw that is already furthest that way stays
    down = (hold == "only_tighten") == (travel[0] < 0)
    height = place @ slope
    return place[int(np.argmin(height) if down else np.argmax(height))]
