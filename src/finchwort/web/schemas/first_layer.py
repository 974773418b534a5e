"""The first layer, foretold, as the API takes and gives it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, FiniteFloat

from finchwort.web.schemas.base import In, Out

Band = Literal["scrapes", "crowded", "close", "good", "far", "loose"]


class FirstLayerQuery(In):
    """Which first layer; mm."""

    stage: Literal["measured", "plan", "compensated"] = "measured"
    shift: Annotated[
        FiniteFloat,
        Field(
            ge=-1, le=1, description="how much higher the tip is than right in the middle, positive farther"
        ),
    ] = 0.0
    width: Annotated[FiniteFloat, Field(ge=0.1, le=2)] = 0.42
    flow: Annotated[FiniteFloat, Field(ge=0.5, le=1.5)] = 1.0
    rise_x: Annotated[
        FiniteFloat | None, Field(ge=-1, le=1, description="what the plan changes, given back")
    ] = None
    rise_y: Annotated[FiniteFloat | None, Field(ge=-1, le=1)] = None
    lift: Annotated[FiniteFloat | None, Field(ge=-1000, le=1000)] = None


class PlaneChange(Out):
    """What a plan changes of the bed: rise a mm along X and Y, and a height; mm."""

    rise_x: float
    rise_y: float
    lift: float


class LaidOut(Out):
    """A bead as it lies in an actual gap; mm."""

    gap: float
    width: float
    contact_width: float
    height: float
    separation: float
    fill: Annotated[float | None, Field(description="none where the tip touches")]
    band: Band
    words: str
    sentence: str
    notes: Annotated[
        list[str],
        Field(description="what it does to edges and joints, and what the plate's texture makes of it"),
    ] = []


class PlaceOut(Out):
    """A place of the bed and what the layer will be there."""

    x: float
    y: float
    name: str
    laid: LaidOut


class BandOut(Out):
    """A band of gaps and its share of the area."""

    band: Band
    words: str
    share: float


class FirstLayerOut(Out):
    """The first layer over the whole bed; mm."""

    survey_id: int
    stage: Literal["measured", "plan", "compensated"]
    stages: list[Literal["measured", "plan", "compensated"]]
    shift: float
    width: float
    height: float
    flow: float
    area: float
    spacing: float
    columns: int
    rows: int
    gaps_um: list[int]
    limits: Annotated[list[float], Field(description="gaps between the bands, rising")]
    bands: list[BandOut]
    best: Annotated[float, Field(description="shift that makes most of the bed good")]
    best_share: float
    closest: Annotated[float, Field(description="shift down to which the tip keeps clear everywhere")]
    touches: bool
    change: PlaneChange | None
    stands: Annotated[
        float | None,
        Field(
            description="how much higher the tip stands now than is right in the middle, by judged patches"
        ),
    ]
    agrees: Annotated[str | None, Field(description="how this and the judgement of the bed agree")]
    sentence: str
    agrees: Annotated[str | None, Field(description="how this and the judgement of the bed agree")]
    middle: LaidOut
    places: Annotated[list[PlaceOut], Field(description="the closest and the farthest place")]
