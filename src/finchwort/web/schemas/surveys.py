"""Readings, maps and figures as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.base.kinds import HeightsAs, LengthUnit
from finchwort.core.probing import Drag, HandWay
from finchwort.core.surveys import ShapeName, TypedSource, VerdictLevel
from finchwort.store.fields import Coordinate, Key, LayerHeight
from finchwort.web.schemas.base import XY, In, LineProblem, Out, Rectangle
from finchwort.web.schemas.printers import Bed, ScrewOut


class Relief(Out):
    """Heights on a regular grid over the printable area, and how to draw them."""

    columns: int
    rows: int
    heights_um: Annotated[
        list[int], Field(description="row by row from the front left, micrometres above the datum")
    ]
    datum: Annotated[float, Field(description="height that is drawn as zero, mm")]
    low: float
    high: float
    step: Annotated[float, Field(description="contour step, mm")]
    levels: Annotated[list[float], Field(description="contour heights, mm above the datum")]
    limit: Annotated[float, Field(description="height of the deepest tint, mm")]


class Verdict(Out):
    """A judgement."""

    level: VerdictLevel
    word: str
    sentence: str


Runs = Annotated[
    list[list[int]],
    Field(description="grid points of the relief that are not known: row, first column, one past the last"),
]


class Figures(Out):
    """Figures of a survey; names after ISO 12781-1."""

    count: int
    spread: float
    peak_to_valley: float
    peak: float
    valley: float
    rms: float
    tilt_x: float
    tilt_y: float
    bow_x: float
    bow_y: float
    twist: float
    remainder_rms: float
    shape: ShapeName
    shape_sentence: str
    at_least: Annotated[
        float | None,
        Field(description="by paper, when some places are known on one side only: the least spread, mm"),
    ]
    open: Annotated[list[bool], Field(description="by paper: which readings are known on one side only")]
    tilt: Annotated[
        float | None, Field(description="of the whole bed, from the lowest to the highest corner, mm")
    ] = None
    tilt_margin: Annotated[float | None, Field(description="its plus/minus at 95 %, mm")] = None
    tilt_note: Annotated[str | None, Field(description="what the places measured cannot tell")] = None
    noise_note: Annotated[str | None, Field(description="what was assumed of the noise")] = None
    verdict: Verdict


class AsideOut(Out):
    """A reading that does not belong to this bed, or one that a person put back."""

    place: int
    x: float
    y: float
    height: float
    stray: Annotated[float | None, Field(description="how far it stands off what the others say, mm")]
    counts: bool
    sentence: str


class AsideIn(In):
    """Whether a reading counts for nothing."""

    aside: bool


class MinimumZone(Out):
    """Flatness by the minimum zone."""

    peak_to_valley: float


class Map(Out):
    """Everything that the map of a survey shows."""

    survey_id: int
    bed: Bed
    screws: list[ScrewOut]
    x: list[float]
    y: list[float]
    doubt: Annotated[
        str | None, Field(description="said when the surface between the readings cannot be trusted")
    ]
    measured: list[float]
    level: list[float]
    outline: list[XY]
    measured_relief: Relief
    level_relief: Relief
    unknown: Runs
    aside: list[AsideOut]
    figures: Figures


class PointIn(In):
    """A typed reading; a height, or a gap."""

    x: Coordinate
    y: Coordinate
    value: FiniteFloat


class BoundsIn(In):
    """Where the outer readings of a grid lie."""

    x_min: Coordinate
    y_min: Coordinate
    x_max: Coordinate
    y_max: Coordinate


Layout = Literal["points", "grid", "indices", "list"]


class HandPoint(In):
    """A place read by hand."""

    x: Coordinate
    y: Coordinate
    value: FiniteFloat
    feel: Drag | None = None
    stop: FiniteFloat | None = None
    z: Annotated[
        FiniteFloat, Field(ge=-20, le=20, description="by paper: the Z at which it was felt, mm")
    ] = 0.0


class HandIn(In):
    """Readings by hand, with what the person felt or saw."""

    way: HandWay
    plus_is_high: bool = True
    thickness: Annotated[
        FiniteFloat | None, Field(gt=0, le=5, description="lowered until it drags: of the strip, mm")
    ] = None
    step: Annotated[FiniteFloat, Field(gt=0, le=0.1, description="in which the tip came down, mm")] = 0.01
    points: Annotated[list[HandPoint], Field(max_length=625)]


class FeelOut(Out):
    """A feel."""

    key: Drag
    words: str
    short: str
    means: Annotated[str, Field(description="what it says of the gap")]
    only_bound: Annotated[bool, Field(description="says only which way")]


class Feels(Out):
    """How a strip may feel."""

    feels: list[FeelOut]
    paper: float
    steps: Annotated[list[float], Field(description="in which machines lower the tip, mm")]


class ReadingsIn(In):
    """Readings as typed points or as text, with what the person says about them."""

    points: Annotated[list[PointIn], Field(max_length=20_000)] | None = None
    text: Annotated[str, StringConstraints(max_length=1_000_000)] | None = None
    file: Annotated[
        str | None, StringConstraints(max_length=1_400_000), Field(description="a binary file, base64")
    ] = None
    by_hand: HandIn | None = None
    layout: Layout | None = None
    values: HeightsAs | None = None
    unit: LengthUnit | None = None
    flip_x: bool = False
    flip_y: bool = False
    serpentine: bool = False
    columns: Annotated[int, Field(ge=2, le=500)] | None = None
    bounds: BoundsIn | None = None


class PreviewIn(ReadingsIn):
    """Readings to be understood, before they are stored."""

    first_layer: LayerHeight | None = None
    visit: Annotated[
        int | None,
        Field(description="the visit they are for, whose probe test tells what a reading is trusted to"),
    ] = None


class Waiting(Out):
    """Readings that cannot make a bed yet, because more of them are still to come."""

    reason: str


class Preview(Out):
    """What was understood."""

    layout: Layout
    serpentine: bool
    noise: Annotated[float | None, Field(description="what this way of reading is trusted to, mm")]
    columns: int | None
    rows: int | None
    values: HeightsAs
    unit: LengthUnit
    bounds: Rectangle | None
    assumptions: list[str]
    lines: list[LineProblem]
    unread: int
    doubt: Annotated[str | None, Field(description="what is odd about the places measured")]
    bed: Bed
    screws: list[ScrewOut]
    x: list[float]
    y: list[float]
    height: list[float]
    outline: list[XY]
    relief: Relief
    unknown: Runs
    aside: list[AsideOut]
    next_place: Annotated[str | None, Field(description="where to touch next, or that it is enough")]
    figures: Figures


class PreviewOut(Out):
    """What was understood, or for what it still waits."""

    preview: Preview | None = None
    waiting: Waiting | None = None


class SurveyIn(ReadingsIn):
    """Readings to be stored."""

    client_key: Key
    source: TypedSource = TypedSource.TYPED


class MovementQuery(In):
    """Which earlier survey to compare with."""

    before: int


class MovementOut(Out):
    """Where a bed moved between two surveys."""

    before_id: int
    after_id: int
    bed: Bed
    x: list[float]
    y: list[float]
    moved: list[float]
    outline: list[XY]
    relief: Relief
    mean: float
    spread: float
    sentence: str


class SurveyOut(Out):
    """A stored survey, judged against the first layer of its visit."""

    id: int
    taken_at: datetime
    source: str
    assumptions: list[str]
    count: int
    spread: float
    peak_to_valley: float
    rms: float
    tilt_x: float
    tilt_y: float
    shape: ShapeName
    verdict: VerdictLevel
    word: str
    noise: float | None
    bed_temperature: float | None
