"""Printed ladders as the API takes and gives them; shifts in mm, farther positive."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.web.schemas.base import Coordinate, In, Key, Out
from finchwort.web.schemas.first_layer import LaidOut
from finchwort.web.schemas.offsets import NewOffsetOut

JudgedStep = Literal["far_too_far", "too_far", "good", "too_close", "far_too_close"]


class LadderQuery(In):
    """How the lines are sliced."""

    width: Annotated[FiniteFloat, Field(ge=0.1, le=2)] = 0.42


class RungOut(Out):
    """A patch to print."""

    shift: float
    words: str
    value: Annotated[
        float | None, Field(description="the offset to print it at, when the present one is known")
    ]


class StepExample(Out):
    """What a step looks like."""

    step: JudgedStep
    words: str
    laid: LaidOut


class JudgedOut(Out):
    """A patch and how it was judged."""

    shift: float
    step: JudgedStep


class TrialOut(Out):
    """A ladder or a bed that was judged."""

    id: int
    made_at: datetime
    patches: list[JudgedOut]
    note: str


class LadderOut(Out):
    """A visit's ladders, what they say, and the next one."""

    rungs: list[RungOut]
    label: str
    spacing: float
    sliced: float
    examples: list[StepExample]
    trials: list[TrialOut]
    best: float | None
    low: float | None
    high: float | None
    done: bool
    one_sided: bool
    sentence: str
    correction: NewOffsetOut | None


class JudgedIn(In):
    """A patch and how it was judged."""

    shift: Annotated[FiniteFloat, Field(ge=-0.5, le=0.5)]
    step: JudgedStep


class LadderIn(In):
    """A ladder that was printed at the present offset."""

    client_key: Key
    patches: Annotated[list[JudgedIn], Field(min_length=3, max_length=15)]
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class BedQuery(LadderQuery):
    """How the lines are sliced, and how many discs a side."""

    side: Annotated[int, Field(ge=3, le=7)] = 5


class DiscOut(Out):
    """A disc to print."""

    number: int
    x: float
    y: float
    shift: float
    words: str
    name: str


class JudgedPlaceOut(Out):
    """A disc and how it was judged, with the shift as it counts from the present offset."""

    x: float
    y: float
    shift: float
    step: JudgedStep


class JudgedBedOut(Out):
    """A visit's judged beds, what they say of offset and tilt, and where to print next."""

    discs: list[DiscOut]
    spacing: float
    sliced: float
    examples: list[StepExample]
    trials: list[TrialOut]
    patches: list[JudgedPlaceOut]
    best: float | None
    low: float | None
    high: float | None
    tilt: float | None
    tilt_low: float | None
    tilt_high: float | None
    bow: float | None
    bow_margin: float | None
    sentences: list[str]
    turns: Annotated[list[str], Field(description="what the knobs would do about the tilt")]
    correction: NewOffsetOut | None


class BedPatchIn(JudgedIn):
    """A disc and how it was judged."""

    x: Coordinate
    y: Coordinate


class JudgedBedIn(In):
    """Discs all over the bed that were printed at the present offset."""

    client_key: Key
    patches: Annotated[list[BedPatchIn], Field(min_length=4, max_length=49)]
    note: Annotated[str, StringConstraints(max_length=500)] = ""
