"""Levelling at the bench and looks at a first layer, as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat

from finchwort.web.schemas.base import In, Key, Out
from finchwort.web.schemas.printers import Bed
from finchwort.web.schemas.surveys import Feel
from finchwort.web.schemas.trials import StepExample

Direction = Literal["clockwise", "counterclockwise"]
LookStep = Literal["far_too_far", "too_far", "good", "too_close", "far_too_close"]
LookPlace = Literal[
    "front left", "front right", "back right", "back left", "middle", "front", "right", "back", "left"
]


class BenchPlace(Out):
    """A place at which the strip is felt."""

    name: str
    x: float
    y: float
    knob: Annotated[bool, Field(description="whether a knob is near; the centre has none")]
    feel: Annotated[Feel | None, Field(description="the newest that still counts")]
    height: Annotated[float, Field(description="over where the strip just drags, mm")]
    sd: float


class BenchStepOut(Out):
    """A step that was taken."""

    id: int
    at: datetime
    what: Literal["feel", "drag", "turn", "read"]
    place: int
    sentence: str


class BenchTurn(Out):
    """A knob to turn now."""

    name: str
    action: Literal["tighten", "loosen"]
    direction: Direction
    bold: Annotated[float, Field(description="for those who count, turns, positive tightens")]
    bold_words: str
    bold_figures: str


class BenchOut(Out):
    """Where levelling at the bench stands, and what is next."""

    visit_id: int
    bed: Bed
    places: list[BenchPlace]
    steps: list[BenchStepOut]
    phase: Literal["corners", "centre", "done"]
    place: Annotated[int | None, Field(description="where to go")]
    ask: Literal["feel", "turn", "done"]
    turn: BenchTurn | None
    passes: int
    turnings: int
    low: float | None
    likely: float | None
    high: Annotated[float | None, Field(description="highest less lowest corner: 95 % and the middle, mm")]
    title: str
    sentence: str
    why: str
    shape: Annotated[str | None, Field(description="what the centre says of warp and tilt")]
    open: Annotated[bool, Field(description="whether the centre is known on one side only")]


class BenchStepIn(In):
    """A step at the bench."""

    client_key: Key
    what: Literal["feel", "drag", "turn", "read"]
    place: Annotated[int, Field(ge=0, le=9)]
    feel: Feel | None = None
    turns: Annotated[FiniteFloat | None, Field(ge=-20, le=20, description="positive tightens")] = None
    value: Annotated[FiniteFloat | None, Field(ge=-2, le=2, description="height over the corners, mm")] = None


class BenchFinishIn(In):
    """What was found is to be stored."""

    client_key: Key


class LookPlaceOut(Out):
    """A place at which a first layer is looked at."""

    place: LookPlace
    x: float
    y: float
    step: LookStep | None


class LookTurn(Out):
    """A knob that a look asks to turn."""

    name: str
    action: Literal["tighten", "loosen"]
    turns: float
    figures: str
    words: str
    direction: Direction


class LooksOut(Out):
    """How a first layer looks, and what follows."""

    visit_id: int
    bed: Bed
    places: list[LookPlaceOut]
    what: Literal["look", "turn", "trim", "leave", "other"]
    turn: LookTurn | None
    closer: float
    sentence: str
    trial: int | None
    examples: Annotated[list[StepExample], Field(description="what the five looks are")]
    spacing: float
    sliced: float
    mesh: Annotated[bool, Field(description="whether a mesh is in the machine, which any knob would spoil")]


class LooksIn(In):
    """How places of a first layer look."""

    client_key: Key
    looks: Annotated[dict[LookPlace, LookStep], Field(min_length=1, max_length=9)]
    printing: bool = False


class LooksQuery(In):
    """Whether it still prints."""

    printing: bool = False


class LookTurned(In):
    """A knob that was turned on a look."""

    client_key: Key
    name: str
    turns: Annotated[FiniteFloat, Field(ge=-2, le=2)]
