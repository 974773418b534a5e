"""The next best place to touch: the one that says most about the tilt, and when enough is known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.printers import place_in_words
from finchwort.core.surveys import NEAR, BedFit, Survey, Tilt, judge_tilt, steepest, terms

NEAREST = 0.12
"""A place nearer to one that was touched than this share of the bed's smaller side says little new (ours)."""


@dataclass(frozen=True)
class NextPlace:
    """Where to touch next, or that it is enough.

    Attributes
    ----------
    x, y : float or None
        mm; None when the readings have decided.
    margin_now, margin_then : float
        Plus/minus of the tilt with the readings so far, and with one more there, mm.
    tilt : Tilt
    sentence : str
    """

    x: float | None
    y: float | None
    margin_now: float
    margin_then: float
    tilt: Tilt
    sentence: str


def next_place(
    survey: Survey, fit: BedFit, first_layer: float, places: Sequence[tuple[float, float]]
) -> NextPlace:
    """Say which place to touch next.

    Of the places that were not touched it is the one that narrows the plus/minus of the tilt most, by what the readings
    so far leave unknown of the bed; none once they have decided.

    Parameters
    ----------
    survey : Survey
    fit : BedFit
        Of it.
    first_layer : float
        mm
    places : sequence of (x, y)
        That can be touched, mm.

    Returns
    -------
    NextPlace
    """
    tilt = judge_tilt(fit, first_layer)
    across = steepest(np.array([fit.plane.a, fit.plane.b]), fit.bed)
    now = fit.margin(across)
    if tilt.decision != "measure":
        what = (
            "There is tilt worth turning for."
            if tilt.decision == "turn"
            else "There is no tilt worth turning for."
        )
        return NextPlace(None, None, now, now, tilt, f"These readings have decided. {what}")
    reach = NEAREST * min(fit.bed.width, fit.bed.depth)
    apart = [float(np.hypot(survey.x - x, survey.y - y).min()) for x, y in places]
    free = [place for place, far in zip(places, apart, strict=True) if far >= max(reach, NEAR)]
    again = not free
    if again:
        free = list(places)
    if not free:
        return NextPlace(None, None, now, now, tilt, "Every place was touched. Read them once more.")
    weights = np.array([component.weight for component in fit.components])
    mean = weights @ np.array([component.mean for component in fit.components])
    covariance = sum(
        component.weight
        * (component.root @ component.root.T + np.outer(component.mean - mean, component.mean - mean))
        for component in fit.components
    )
    direction = np.zeros(mean.size)
    direction[1], direction[2] = across[0] * 2 / fit.bed.width, across[1] * 2 / fit.bed.depth
    rows = terms(fit.bed, *np.array(free).T)
    along = rows @ covariance
    gain = (along @ direction) ** 2 / (np.einsum("np,np->n", along, rows) + fit.noise**2)
    best = int(np.argmax(gain))
    variance = float(direction @ covariance @ direction)
    then = now * float(np.sqrt(max(0.0, 1 - gain[best] / variance)))
    x, y = free[best]
    where = f"x {x:.0f}, y {y:.0f} ({place_in_words(fit.bed, x, y)})"
    text = (
        f"Every place was read; one of them again says most: {where}."
        if again
        else f"Touch next: {where}. It narrows the tilt from ±{now:.2f} to about ±{then:.2f} mm."
    )
    return NextPlace(float(x), float(y), now, then, tilt, text)
