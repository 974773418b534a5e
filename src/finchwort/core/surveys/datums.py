"""Which plane counts as the tilt: through all readings, between two, through three of them, or at the screws."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, CollinearError
from finchwort.core.base.geometry import Array, is_line
from finchwort.core.printers import Screw
from finchwort.core.surveys.kinds import Reference
from finchwort.core.surveys.planes import Plane, fit_minimum_zone, fit_plane
from finchwort.core.surveys.survey import Survey

REFERENCES = tuple(Reference)


@dataclass(frozen=True, eq=False)
class Datum:
    """A plane that is to be taken out, and what it leaves.

    Attributes
    ----------
    reference : one of ``REFERENCES``
    plane : Plane
    unscaled : ndarray, shape (3, 3)
        Covariance of its (a, b, c) for readings of unit variance.  That of the minimum zone is taken to
        be that of least squares, which is the least it can be.
    used : tuple of int
        The readings it goes through; empty when all count.
    peak_to_valley : float
        Highest minus lowest departure of all readings from it, mm.
    rms : float
        Root mean square of the departures about their mean, mm.
    """

    reference: str
    plane: Plane
    unscaled: Array
    used: tuple[int, ...]
    peak_to_valley: float
    rms: float


def choose_plane(
    survey: Survey,
    reference: str = "least_squares",
    *,
    points: Sequence[int] | None = None,
    screws: Sequence[Screw] = (),
) -> Datum:
    """Find the plane that counts as the tilt.

    Parameters
    ----------
    survey : Survey
    reference : {"least_squares", "minimum_zone", "three_points", "screws"}
        ``"screws"`` goes through the readings nearest to the screws.
    points : sequence of int, optional
        Three readings, by their place in the survey; the widest triangle when not given.
    screws : sequence of Screw
        For ``"screws"``.

    Returns
    -------
    Datum

    Raises
    ------
    ChoiceError, CollinearError

    References
    ----------
    ISO 12781-1:2011: least squares and minimum zone reference planes.

    Examples
    --------
    >>> bed = Survey([0, 100, 0, 100, 50], [0, 0, 100, 100, 50], [0, 0, 0, 0, 0.2])
    >>> round(choose_plane(bed, "minimum_zone").peak_to_valley, 3)
    0.2
    >>> round(choose_plane(bed, "three_points", points=[0, 1, 4]).plane.b, 4)
    0.004
    """
    if reference not in REFERENCES:
        raise ChoiceError("surveys.plane", names=", ".join(REFERENCES))
    fit = fit_plane(survey)
    used: tuple[int, ...] = ()
    plane, unscaled = fit.plane, fit.unscaled
    if reference == "minimum_zone":
        plane = fit_minimum_zone(survey)
    elif reference != "least_squares":
        if reference == "three_points":
            used = tuple(widest_triangle(survey) if points is None else points)
            if len(set(used)) != 3 or not all(0 <= i < len(survey) for i in used):
                raise ChoiceError("surveys.choose_three_different_readings")
        else:
            used = nearest_readings(survey, screws)
        part = _part(survey, used)
        plane, unscaled = fit_plane(part).plane, fit_plane(part).unscaled
    rest = survey.height - plane.at(survey.x, survey.y)
    return Datum(reference, plane, unscaled, used, float(np.ptp(rest)), float(rest.std()))


def widest_triangle(survey: Survey) -> tuple[int, int, int]:
    """Give the three readings that span the widest triangle, by their place in the survey.

    Examples
    --------
    >>> widest_triangle(Survey([0, 50, 100, 50], [0, 40, 0, 100], [0, 0, 0, 0]))
    (0, 2, 3)
    """
    from scipy.spatial import ConvexHull

    hull = ConvexHull(np.column_stack([survey.x, survey.y])).vertices
    if hull.size > 24:
        hull = hull[np.linspace(0, hull.size - 1, 24).astype(int)]
    three = np.array(list(itertools.combinations(sorted(hull.tolist()), 3)))
    x, y = survey.x[three], survey.y[three]
    area = np.abs((x[:, 1] - x[:, 0]) * (y[:, 2] - y[:, 0]) - (x[:, 2] - x[:, 0]) * (y[:, 1] - y[:, 0]))
    a, b, c = three[int(np.argmax(area.round(6)))]
    return int(a), int(b), int(c)


def nearest_readings(survey: Survey, screws: Sequence[Screw]) -> tuple[int, ...]:
    """Give the reading nearest to each screw, by its place in the survey.

    Raises
    ------
    ChoiceError
        When there are no screws, or fewer than three readings lie near them.
    """
    if len(screws) < 3:
        raise ChoiceError("surveys.plane_through_screws_needs")
    result = tuple(dict.fromkeys(int(np.argmin(np.hypot(survey.x - s.x, survey.y - s.y))) for s in screws))
    if len(result) < 3:
        raise ChoiceError("surveys.readings_too_few_tell")
    return result


def _part(survey: Survey, used: Sequence[int]) -> Survey:
    at = list(used)
    if is_line(survey.x[at], survey.y[at]):
        raise CollinearError("surveys.these_readings_line_carry")
    return Survey(survey.x[at], survey.y[at], survey.height[at])
