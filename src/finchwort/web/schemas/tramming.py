"""Plans, turnings and rounds as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.web.schemas.base import In, Key, Out, ScrewName
from finchwort.web.schemas.surveys import Relief, SurveyOut, Verdict


class TurnOut(Out):
    """What to do at one screw; turns are positive for tightening."""

    name: str
    x: float
    y: float
    action: Literal["tighten", "loosen", "leave"]
    reason: Literal["turn", "noise", "small", "held"]
    exact: float
    rounded: float
    uncertainty: float
    wanted: float
    move: float
    figures: str
    words: str
    direction: Literal["clockwise", "counterclockwise"]
    sentence: str
    why: Annotated[str | None, Field(description="why it is left, when it is")]
    pitch: float
    step: float
    divisions: int


class Hold(Out):
    """A way to plan."""

    value: str
    label: str
    effect: str


class PlanQuery(In):
    """Which plan is wanted."""

    hold: Annotated[str, StringConstraints(min_length=1, max_length=40)] = "centre"


class PlanOut(Out):
    """Turns for all screws and the bed they should give."""

    survey_id: int
    hold: str
    holds: list[Hold]
    turns: list[TurnOut]
    done: bool
    spread_before: float
    spread_after: float
    centre_change: float
    centre_sentence: str
    noise: float
    noise_known: bool
    noise_sentence: str
    heights: list[float]
    relief: Relief
    verdict: Verdict


class TurningIn(In):
    """What was turned."""

    client_key: Key
    hold: Annotated[str, StringConstraints(min_length=1, max_length=40)] = "centre"
    done: Annotated[dict[ScrewName, Annotated[FiniteFloat, Field(ge=-20, le=20)]], Field(max_length=9)]
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class TurnedScrew(Out):
    """What was planned and done at one screw, turns, positive tightens."""

    name: str
    planned: float
    done: float
    figures: str
    action: Literal["tighten", "loosen", "leave"]


class TurningOut(Out):
    """A recorded turning."""

    id: int
    turned_at: datetime
    hold: str
    spread_expected: float
    note: str
    screws: list[TurnedScrew]


class FindingOut(Out):
    """Something a round showed."""

    kind: str
    sentence: str
    screws: list[str]


class ReviewOut(Out):
    """A round looked back on."""

    spread_before: float
    spread_after: float
    spread_expected: float
    as_expected: bool
    findings: list[FindingOut]


class RoundOut(Out):
    """A survey, the turning after it, and what the turning before it came to."""

    survey: SurveyOut
    turning: TurningOut | None
    review: ReviewOut | None
