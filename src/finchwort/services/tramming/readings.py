"""Readings that belong to no printer set up here: judged and planned for on the same road as any other."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.printers import Bed, Screw
from finchwort.core.surveys import (
    Flatness,
    Shape,
    Survey,
    Tilt,
    Verdict,
    assess_flatness,
    fit_bed,
    judge_tilt,
)
from finchwort.services.surveys.surveys import assess
from finchwort.services.tramming.planning import Wish, WorkedOut, work_out


@dataclass(frozen=True, eq=False)
class Analysed:
    """What readings say.

    Attributes
    ----------
    survey : Survey
        Those that count.
    aside : int
        So many belong to no such bed and count for nothing.
    flatness, zone : Flatness
        Against the least-squares plane and within the minimum zone.
    shape : Shape
    tilt : Tilt
        Of the whole bed, with how well it is known.
    verdict : Verdict
    planned : WorkedOut or None
        With screws.
    """

    survey: Survey
    aside: int
    flatness: Flatness
    zone: Flatness
    shape: Shape
    tilt: Tilt
    verdict: Verdict
    planned: WorkedOut | None


def analyse(
    survey: Survey,
    bed: Bed,
    first_layer: float,
    screws: Sequence[Screw] = (),
    hold: str = "centre",
    repeatability: float | None = None,
) -> Analysed:
    """Judge readings and, with screws, plan by them.

    Parameters
    ----------
    survey : Survey
    bed : Bed
    first_layer : float
        mm
    screws : sequence of Screw
    hold : str
        See `finchwort.core.tramming.plan_turns`.
    repeatability : float, optional
        Standard deviation of one reading, mm.

    Raises
    ------
    CoreError
    """
    fit = fit_bed(survey, bed, repeatability)
    aside = len(fit.aside)
    if aside:
        counting = [i for i in range(len(survey)) if i not in set(fit.aside)]
        survey = Survey(survey.x[counting], survey.y[counting], survey.height[counting])
        fit = fit_bed(survey, bed, repeatability, settle=False)
    tilt = judge_tilt(fit, first_layer)
    flatness, shape, verdict = assess(survey, bed, first_layer, bool(screws), tilt=tilt)
    planned = work_out(survey, fit, bed, screws, first_layer, Wish(hold)) if screws else None
    return Analysed(
        survey,
        aside,
        flatness,
        assess_flatness(survey, "minimum_zone"),
        shape,
        tilt,
        verdict,
        planned,
    )
