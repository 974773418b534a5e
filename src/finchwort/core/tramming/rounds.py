"""What a round of turning did, compared with what it should have done."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
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
    remark : Remark
    screws : tuple of str
        The screws it is about.
    """

    kind: str
    remark: Remark
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
        return Finding("unexplained", remark("tramming.round_unexplained"))
    if best[1] == "reversed":
        return Finding("reversed", remark("tramming.round_reversed"))
    near = [o for o in options if o[1] == "slack" and o[0] <= best[0] + AS_GOOD]
    names = tuple(option[2][0] for option in near)
    share = max(0, round(100 * near[0][3]))
    return Finding("slack", remark("tramming.round_slack", knobs=names, share=share), names)


def _findings(before: Survey, after: Survey, first_layer: float, tilt: Tilt | None) -> Iterator[Finding]:
    flat = assess_flatness(after).peak_to_valley
    fell = before.spread - after.spread
    level = verdict_level(after.spread, flat, first_layer, tilt.decision if tilt else None)
    if level == "level":
        yield Finding("level", remark("tramming.round_level", spread=after.spread))
    elif level in ("compensate", "warped"):
        yield Finding("shape", remark("tramming.round_shape", left=flat))
    elif level == "unsure":
        yield Finding("unsure", remark("tramming.round_unsure"))
    elif fell > 0:
        left = math.ceil(100 * after.spread / before.spread)
        yield Finding("better", remark("tramming.round_better", left=left))
    else:
        yield Finding("worse", remark("tramming.round_worse", before=before.spread, now=after.spread))
