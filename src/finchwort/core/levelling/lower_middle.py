"""Whether and by how much the middle of a bed may be lowered."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from finchwort.core.base.geometry import Array, Mask, is_line
from finchwort.core.levelling.pads import Pad, pad_response
from finchwort.core.surveys import Survey

MIDDLE_TO, RIM_FROM = 0.15, 0.45
"""Readings count as the middle, and as the rim, by the square of their distance from it (1 at the corners)."""
LEVER = 0.15
"""A pad must move the middle against the rim by this share of its own lift (ours)."""


def lower_by(survey: Survey, centre: tuple[float, float] | None = None) -> float | None:
    """How much lower the middle lies than the rim once the tilt is out, mm; None when the readings do not say.

    Examples
    --------
    >>> x, y = (a.ravel() for a in np.meshgrid([0.0, 50, 100], [0.0, 50, 100]))
    >>> round(lower_by(Survey(x, y, [0, 0, 0, 0, -0.09, 0, 0, 0, 0])), 3)
    0.09
    """
    middle, rim = _middle_and_rim(survey, centre)
    if not middle.any() or rim.sum() < 3 or is_line(survey.x[rim], survey.y[rim]):
        return None
    plane = np.linalg.lstsq(_flat(survey, rim), survey.height[rim], rcond=None)[0]
    return float(-np.mean(survey.height[middle] - _flat(survey, middle) @ plane))


def why_not_lower(
    survey: Survey, pads: Sequence[Pad], stiff: bool, centre: tuple[float, float] | None = None
) -> str:
    """Why foil cannot bring the middle lower than the rim; empty when it can."""
    if lower_by(survey, centre) is None:
        return "No reading in the middle: nobody could tell whether it came lower. Measure there too."
    if stiff or len(pads) == 3:
        return "A stiff plate keeps its shape: foil tips it, and the middle goes with the rim."
    response = pad_response(pads, survey.x, survey.y, stiff)
    moved = [lower_by(survey.with_heights(response[:, i]), centre) or 0.0 for i in range(len(pads))]
    if max(map(abs, moved)) < LEVER:
        return "No pad lies where it could lift the rim without the middle, or let the middle down."
    return ""


def _middle_and_rim(survey: Survey, centre: tuple[float, float] | None) -> tuple[Mask, Mask]:
    away = _away(survey, centre)
    return away < MIDDLE_TO, away > RIM_FROM


def _flat(survey: Survey, chosen: Mask) -> Array:
    return np.column_stack([survey.x[chosen], survey.y[chosen], np.ones(int(chosen.sum()))])


def _away(survey: Survey, centre: tuple[float, float] | None) -> Array:
    """How far out each reading lies: 0 in the middle, 1 at the corners."""
    cx, cy = centre or ((survey.x.min() + survey.x.max()) / 2, (survey.y.min() + survey.y.max()) / 2)
    u = (survey.x - cx) * 2 / np.ptp(survey.x)
    v = (survey.y - cy) * 2 / np.ptp(survey.y)
    return (u**2 + v**2) / 2


def wished_middle(survey: Survey, lower_middle: float, centre: tuple[float, float] | None) -> Array:
    """The surface wished for: flat, or a little lower in the middle, mm."""
    return -lower_middle * np.clip(1 - _away(survey, centre), 0.0, 1.0)
