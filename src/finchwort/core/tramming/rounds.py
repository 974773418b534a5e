"""What a round of turning did, compared with what it should have done."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from finchwort.core.base.geometry import Array
from finchwort.core.base.wording import millimetres, upper_first
from finchwort.core.printers import Bed, Screw, check_screws
from finchwort.core.surveys import Survey, Tilt, assess_flatness, verdict_level
from finchwort.core.tramming.response import change_of_tilt
from finchwort.core.tramming.screws import HAND_SD, plate_response

SURPRISE = 0.99
"""A change this improbable under "every knob did its part" is looked into."""
FACTORS = np.linspace(-0.25, 0.6, 18)
"""Shares of its turn that a faulty screw is taken to have made."""
AS_GOOD = 2.0
"""Explanations whose misfit is this close to the best are not told apart (chi-square units)."""


@dataclass(frozen=True)
class Finding:
    """Something a round showed.

    Attributes
    ----------
    kind : {"better", "worse", "level", "shape", "unsure", "slack", "reversed", "unexplained"}
    sentence : str
    screws : tuple of str
        The screws it is about.
    """

    kind: str
    sentence: str
    screws: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class RoundReview:
    """A round looked back on.

    Attributes
    ----------
    spread_before, spread_after, spread_expected : float
        Highest minus lowest reading, mm.
    observed, expected : ndarray, shape (k,)
        Change of height at each screw against their mean, mm, positive up.
    as_expected : bool
        Whether the bed followed the turns within noise and hand.
    findings : tuple of Finding
    """

    spread_before: float
    spread_after: float
    spread_expected: float
    observed: Array
    expected: Array
    as_expected: bool
    findings: tuple[Finding, ...]


def review_round(
    before: Survey,
    after: Survey,
    screws: Sequence[Screw],
    turns: Sequence[float],
    first_layer: float,
    *,
    repeatability: float | None = None,
    hand_sd: float = HAND_SD,
    bed: Bed | None = None,
    tilt: Tilt | None = None,
) -> RoundReview:
    """Compare the bed before and after turning with what the turns should have done.

    Only the tilt is compared: many machines set their zero anew on homing, so
    the height of the whole bed says nothing.

    Parameters
    ----------
    before, after : Survey
        They need not have the same places.
    screws : sequence of Screw
    turns : sequence of float
        Turns made, positive for tightening.
    first_layer : float
        mm
    repeatability : float, optional
        Standard deviation of repeated readings, mm.
    hand_sd : float
        How truly knobs are turned, standard deviation, turns.
    bed : Bed, optional
        See `finchwort.core.tramming.change_of_tilt`.
    tilt : Tilt, optional
        The judgement of the bed after, so that the round says what the map says.

    Returns
    -------
    RoundReview
    """
    check_screws(screws)
    made_turns = np.asarray(turns, dtype=np.float64)
    travel = np.array([screw.travel for screw in screws])
    response = plate_response(screws)[:2] * travel
    seen, *parts = change_of_tilt(before, after, (repeatability, repeatability), bed)
    due = response @ made_turns

    noise = parts[0] + parts[1]
    turned = (made_turns != 0).astype(float)
    hand = (response * turned * hand_sd**2) @ response.T
    weight = np.linalg.pinv(noise + hand)

    def misfit(made: Array) -> float:
        gap = seen - response @ made
        return float(gap @ weight @ gap)

    as_expected = misfit(made_turns) <= special.chdtri(2, 1 - SURPRISE)
    place = np.array([[s.x, s.y] for s in screws])
    arm = place - place.mean(axis=0)
    expected = predict_spread(before, due)
    findings = list(_findings(before, after, first_layer, tilt))
    if not as_expected:
        findings.insert(0, _explain(screws, made_turns, misfit))
    return RoundReview(
        spread_before=before.spread,
        spread_after=after.spread,
        spread_expected=expected,
        observed=arm @ seen,
        expected=arm @ due,
        as_expected=as_expected,
        findings=tuple(findings),
    )


def predict_spread(before: Survey, slopes: Array) -> float:
    """Spread of the readings after adding slopes (a, b), mm."""
    return float(np.ptp(before.height + slopes[0] * before.x + slopes[1] * before.y))


def _explain(screws: Sequence[Screw], turns: Array, misfit: Callable[[Array], float]) -> Finding:
    """Name the likeliest reason why the bed did not follow its knobs."""
    options: list[tuple[float, str, tuple[str, ...], float]] = [(misfit(-turns), "reversed", (), -1)]
    for i, screw in enumerate(screws):
        if turns[i] == 0:
            continue
        trials = []
        for factor in FACTORS:
            made = turns.copy()
            made[i] *= factor
            trials.append((misfit(made), float(factor)))
        least, factor = min(trials)
        options.append((least, "slack", (screw.name,), factor))
    options.sort(key=lambda option: option[0])
    best = options[0]
    limit = max(special.chdtri(2, 1 - SURPRISE), misfit(turns) / 4)
    if best[0] > limit:
        return Finding(
            "unexplained",
            "The bed did not follow the turns, and no single knob explains it. Check that the plate "
            "is seated and the carriage has no play, then measure again before turning.",
        )
    if best[1] == "reversed":
        return Finding(
            "reversed",
            "The bed moved the opposite way. Check the printer's set-up: does tightening lower the bed, "
            "and were these heights or gaps?",
        )
    near = [o for o in options if o[1] == "slack" and o[0] <= best[0] + AS_GOOD]
    names = tuple(option[2][0] for option in near)
    share = max(0, round(100 * near[0][3]))
    text = " or ".join(f"the {name} knob" for name in names)
    return Finding(
        "slack",
        f"{upper_first(text)} seems to have done about {share} % of its turn. Does the screw spin "
        "with its knob, or has the spring gone slack? Hold the screw, turn the knob and watch.",
        names,
    )


def _findings(before: Survey, after: Survey, first_layer: float, tilt: Tilt | None) -> Iterator[Finding]:
    flat = assess_flatness(after).peak_to_valley
    fell = before.spread - after.spread
    level = verdict_level(after.spread, flat, first_layer, tilt.decision if tilt else None)
    if level == "level":
        yield Finding("level", f"The bed is level: {millimetres(after.spread)} from highest to lowest.")
    elif level in ("compensate", "warped"):
        yield Finding(
            "shape",
            f"The tilt is out. The {millimetres(flat)} left are the shape of the plate; "
            "no screw takes that out.",
        )
    elif level == "unsure":
        yield Finding(
            "unsure", "Whether tilt worth turning for is left, these readings cannot tell. Measure again."
        )
    elif fell > 0:
        left = math.ceil(100 * after.spread / before.spread)
        yield Finding("better", f"Better: {left} % of the variation is left. One more round.")
    else:
        yield Finding(
            "worse",
            f"Not better: {millimetres(before.spread)} before, {millimetres(after.spread)} now.",
        )
