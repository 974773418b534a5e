"""Flatness figures in the terms of ISO 12781-1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError
from finchwort.core.surveys.planes import Plane, fit_minimum_zone, fit_plane
from finchwort.core.surveys.survey import Survey


@dataclass(frozen=True)
class Flatness:
    """How far the readings depart from a reference plane.

    Attributes
    ----------
    peak_to_valley : float
        FLTt, highest to lowest departure, mm.
    peak : float
        FLTp, highest departure above the reference, mm.
    valley : float
        FLTv, lowest departure below the reference, mm, positive downwards.
    rms : float
        FLTq, root mean square of the departures, mm.
    plane : Plane
        The reference plane.
    reference : str
        Which reference plane was used.
    """

    peak_to_valley: float
    peak: float
    valley: float
    rms: float
    plane: Plane
    reference: str


def assess_flatness(survey: Survey, reference: str = "least_squares") -> Flatness:
    """Compute the flatness figures of a survey.

    Parameters
    ----------
    survey : Survey
    reference : {"least_squares", "minimum_zone"}
        Reference plane.

    Returns
    -------
    Flatness

    Raises
    ------
    ChoiceError
        When the reference is not one of the two.

    References
    ----------
    ISO 12781-1:2011, flatness: FLTt, FLTp, FLTv, FLTq.

    Examples
    --------
    >>> bed = Survey([0, 10, 0, 10, 5], [0, 0, 10, 10, 5], [0, 0, 0, 0, 0.2])
    >>> f = assess_flatness(bed)
    >>> round(f.peak_to_valley, 3), round(f.peak, 3), round(f.valley, 3), round(f.rms, 3)
    (0.2, 0.16, 0.04, 0.08)
    """
    if reference == "least_squares":
        fit = fit_plane(survey)
        plane, departure = fit.plane, fit.residual
    elif reference == "minimum_zone":
        plane = fit_minimum_zone(survey)
        departure = survey.height - plane.at(survey.x, survey.y)
    else:
        raise ChoiceError("surveys.reference_least_squares_minimum")
    peak, valley = float(departure.max()), float(-departure.min())
    rms = float(np.sqrt(departure @ departure / len(survey)))
    return Flatness(peak + valley, peak, valley, rms, plane, reference)
