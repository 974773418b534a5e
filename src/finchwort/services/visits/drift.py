"""How a printer's level wanders from visit to visit."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy.orm import Session

from finchwort.core.visits import (
    GONE,
    MIN_VALUES,
    Chart,
    DriftStep,
    Forecast,
    effect,
    forecast_drift,
    individuals_chart,
)
from finchwort.store.models import Printer, SurveyRecord
from finchwort.store.surveys.surveys import OPEN
from finchwort.store.visits.events import happened_since, survey_marks
from finchwort.store.visits.visits import list_visits, rounds_of

MAX_VISITS = 60
UNKNOWN_NOISE = 0.01
"""Of the tilt of a survey from before its noise was written down, mm (ours)."""


@dataclass(frozen=True)
class Found:
    """A visit's first survey: the bed as it was found.

    Attributes
    ----------
    visit_id : int
    at : datetime
    tilt, flatness : float
        Tilt from corner to corner and peak to valley without it, mm.
    """

    visit_id: int
    at: datetime
    tilt: float
    flatness: float


@dataclass(frozen=True, eq=False)
class Drift:
    """Run charts of a printer and a forecast.

    Attributes
    ----------
    found : tuple of Found
        Oldest first.
    tilt, flatness : Chart or None
        None with too few visits.
    forecast : Forecast
    left_at : datetime or None
        When the bed was last left as the forecast counts from.
    """

    found: tuple[Found, ...]
    tilt: Chart | None
    flatness: Chart | None
    forecast: Forecast
    left_at: datetime | None = None


def drift_of(session: Session, printer: Printer) -> Drift:
    """Look back on a printer's visits.

    The tilt found at a visit is compared with the tilt left at the visit before;
    only surveys that nobody moved the bed after count as left.
    """
    visits = [v for v in reversed(list_visits(session, printer.id)[:MAX_VISITS])]
    rounds = rounds_of(session, [visit.id for visit in visits])
    result, steps = [], []
    left: SurveyRecord | None = None
    marks = survey_marks(session, [item.survey.id for here in rounds.values() for item in here])
    spoiled = _spoiled(session, printer, min(marks.values(), default=0))
    for visit in visits:
        here = rounds.get(visit.id)
        if not here:
            continue
        # what paper left open is no tilt that was found
        here = [item for item in here if item.survey.verdict != OPEN] or []
        if not here:
            left = None
            continue
        first = here[0].survey
        result.append(
            Found(visit.id, first.taken_at, abs(first.tilt_x) + abs(first.tilt_y), first.peak_to_valley)
        )
        if left is not None and not any(marks[left.id] < number < marks[first.id] for number in spoiled):
            days = (first.taken_at - left.taken_at).total_seconds() / 86400
            if days > 0:
                noise = _noise(first, left)
                steps.append(DriftStep(days, (first.tilt_x - left.tilt_x, first.tilt_y - left.tilt_y), noise))
        left = here[-1].survey
    if left is not None and any(number > marks[left.id] for number in spoiled):
        left = None
    enough = len(result) >= MIN_VALUES
    return Drift(
        tuple(result),
        individuals_chart([item.tilt for item in result]) if enough else None,
        individuals_chart([item.flatness for item in result]) if enough else None,
        forecast_drift(
            steps, printer.first_layer, (left.tilt_x, left.tilt_y) if left is not None else (0.0, 0.0)
        ),
        left.taken_at if left is not None else None,
    )


def _spoiled(session: Session, printer: Printer, mark: int) -> list[int]:
    """Numbers of the lines after which the bed lay otherwise by somebody's hand: that is no drift."""
    happened = happened_since(session, printer.id, mark)
    return [event.number for event in happened if effect("survey", event) == GONE]


def _noise(first: SurveyRecord, left: SurveyRecord) -> tuple[float, float]:
    """Standard deviation of a change of tilt by the noise of the readings, mm; the plate's shape is in both alike."""
    x = [item.noise_x if item.noise_x is not None else UNKNOWN_NOISE for item in (first, left)]
    y = [item.noise_y if item.noise_y is not None else UNKNOWN_NOISE for item in (first, left)]
    return math.hypot(*x), math.hypot(*y)
