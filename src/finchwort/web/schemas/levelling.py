"""Shims, tape, cross beam, what is left, compensation and drift as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.base.kinds import HeightsAs, Side
from finchwort.core.compensation import Interpolation
from finchwort.core.levelling import Means, MiddleShape, ResidualRemedy, SkewState, SpotKind
from finchwort.core.printers import Carrier, Compensation
from finchwort.store.fields import Coordinate, FoilSize, Key, ScrewName
from finchwort.web.schemas.base import XY, In, Out
from finchwort.web.schemas.surveys import Relief, Verdict


class FoilIn(In):
    """A thickness of foil and how many pieces there are."""

    thickness: FoilSize
    roll: Annotated[bool, Field(description="off a roll, folded as wanted, as kitchen foil is")] = False
    count: Annotated[int, Field(ge=0, le=99)]


class FoilsIn(In):
    """What foil lies in the drawer."""

    foils: Annotated[list[FoilIn], Field(max_length=8)]
    version: int


class FoilOut(Out):
    """A thickness of foil and how many pieces there are."""

    thickness: float
    count: int
    roll: bool
    pieces: Annotated[list[float], Field(description="thicknesses it gives, folded or not, mm")]


class FoilsOut(Out):
    """What foil lies in the drawer."""

    foils: list[FoilOut]
    version: int


class MeasureQuery(In):
    """Foil measured with calipers, several pieces or layers at once."""

    together: Annotated[FiniteFloat, Field(ge=0.005, le=50, description="mm")]
    pieces: Annotated[int, Field(ge=1, le=64)]


class MeasuredOut(Out):
    """Thickness of one piece of foil, mm."""

    thickness: float
    sd: float
    sentence: str


class ShimQuery(In):
    """How shims are wanted."""

    lower_middle: Annotated[FiniteFloat, Field(ge=0, le=0.3)] = 0.0


class StackOut(Out):
    """What should lie under one pad; mm."""

    name: str
    x: float
    y: float
    now: list[float]
    foils: list[float]
    thickness: float
    change: float
    words: str


class ShimPlanOut(Out):
    """Stacks for all pads and the bed they should give."""

    survey_id: int
    stacks: list[StackOut]
    spread_before: float
    spread_after: float
    done: bool
    proven: bool
    wished: Annotated[
        float, Field(description="how much lower the middle was wanted, when it can be had, mm")
    ]
    middle_before: float | None
    middle_after: float | None
    refused: Annotated[str, Field(description="why the middle cannot be brought lower")]
    sentence: str
    heights: list[float]
    relief: Relief
    verdict: Verdict


class StackIn(In):
    """What lies under one pad, mm each."""

    name: ScrewName
    foils: Annotated[list[FoilSize], Field(max_length=20)]


class FoilUnderIn(In):
    """What lies under the pads, set right."""

    shims: Annotated[list[StackIn], Field(max_length=9)]


class TapePlace(In):
    """Tape at one place."""

    x: Coordinate
    y: Coordinate
    layers: Annotated[int, Field(ge=1, le=20)]


class BeamMove(In):
    """A lead screw that was driven."""

    side: Side
    rise: Annotated[FiniteFloat, Field(ge=-20, le=20)]
    trial: bool = False


class ShimsDone(In):
    """Foil was laid under the pads: what lies there now."""

    kind: Literal["shims"]
    stacks: Annotated[list[StackIn], Field(max_length=9)]


class TapeDone(In):
    """Tape was laid under the plate."""

    kind: Literal["tape"]
    places: Annotated[list[TapePlace], Field(min_length=1, max_length=12)]


class BeamDone(BeamMove):
    """One end of the cross beam was driven."""

    kind: Literal["beam"]


class TapeQuery(In):
    """Which tape."""

    thickness: Annotated[FiniteFloat, Field(ge=0.02, le=0.5)] = 0.06


class PieceOut(Out):
    """One piece of tape; its middle and size, mm."""

    x: float
    y: float
    width: float
    depth: float
    oval: bool


class TapeOut(Out):
    """Tape at one place."""

    x: float
    y: float
    depth: float
    layers: int
    pieces: Annotated[list[PieceOut], Field(description="one a layer, the largest first")]
    where: str
    sentence: str


class HumpOut(Out):
    """A place that stands out."""

    x: float
    y: float
    height: float
    sentence: str


class TapesOut(Out):
    """Where tape goes under a loose plate or a glass, and where something stands out that it does not help."""

    kind: MiddleShape
    places: list[TapeOut]
    humps: list[HumpOut]
    sentence: str


class CardOut(Out):
    """One instruction at the printer."""

    title: str
    where: str
    lines: list[str]
    marks: list[XY]


class WayOut(Out):
    """One thing that may be recorded as done; sent back as an adjustment."""

    label: str
    adjustment: Annotated[ShimsDone | TapeDone | BeamDone, Field(discriminator="kind")]


class DeckQuery(In):
    """How the cards are wanted."""

    lower_middle: Annotated[FiniteFloat, Field(ge=0, le=0.3)] = 0.0
    tape: Annotated[FiniteFloat, Field(ge=0.02, le=0.5)] = 0.06


class DeckOut(Out):
    """All cards of one stand at the printer."""

    kind: Means
    title: str
    lines: list[str]
    caution: str
    cards: list[CardOut]
    after: str
    ways: list[WayOut]
    survey_id: int | None


class DriveOut(Out):
    """What to do at one lead screw."""

    side: Side
    rise: float
    turns: float
    degrees: float
    steps: int | None
    words: str


class BeamRowIn(In):
    """Three bare numbers of one row: left, middle, right."""

    text: Annotated[str, StringConstraints(max_length=400)]
    values: HeightsAs = HeightsAs.HEIGHT


class BeamPlanOut(Out):
    """How to square a cross beam by what the bed shows; mm."""

    survey_id: int | None
    state: SkewState
    rise: float
    margin: float
    beam_share: float | None
    bed_share: float | None
    drives: list[DriveOut]
    sentence: str
    independent: str
    carries: Carrier
    learned: bool


class OddOut(Out):
    """A reading, or a few, that do not fit their neighbours."""

    kind: SpotKind
    x: float
    y: float
    height: float
    sentence: str
    indices: list[int]


class RemedyOut(Out):
    """One way to deal with what is left."""

    kind: ResidualRemedy
    title: str
    sentence: str
    fits: bool
    consequences: list[str]


class LeftOut(Out):
    """What no screw takes out, and what to do about it."""

    peak_to_valley: float
    share: Annotated[float, Field(description="of the first-layer height")]
    odd: list[OddOut]
    remedies: list[RemedyOut]
    fault: str | None


class MeshQuery(In):
    """How a mesh is wanted."""

    columns: Annotated[int, Field(ge=2, le=25)] | None = None
    rows: Annotated[int, Field(ge=2, le=25)] | None = None
    method: Interpolation = Interpolation.BILINEAR
    fade: Annotated[FiniteFloat, Field(ge=0, le=1000)] | None = None


class StoredMeshOut(Out):
    """The mesh that a printer is believed to hold."""

    id: int
    made_at: datetime
    survey_id: int
    detail: str
    outdated: list[str]


class CornerOut(Out):
    """What stays at a corner over the middle, mm."""

    name: str
    height: float


class MeanOut(Out):
    """What compensation by the mean does, and leaves; mm."""

    mean: float
    middle: float
    difference: float
    corners: list[CornerOut]
    sentences: list[str]


class CompensationOut(Out):
    """A mesh for a survey, and what comes of it; mm."""

    survey_id: int
    kind: Compensation
    kind_sentence: str
    columns: int
    rows: int
    method: Interpolation
    fade: float
    fade_sentence: str
    fade_share: float
    deviation: float
    left_rms: float | None
    left_worst: float | None
    left_rim: Annotated[float | None, Field(description="beyond the outermost points, RMS, mm")]
    left_sentence: str
    methods_sentence: str | None
    advice: str
    heights: list[float]
    relief: Relief
    nodes: list[XY]
    verdict: Verdict
    order: list[str]
    table: str
    commands: str
    stored: StoredMeshOut | None
    mean: Annotated[MeanOut | None, Field(description="where only the mean of the points is applied")]


class MeshDone(MeshQuery):
    """A mesh was stored in the machine."""

    kind: Literal["mesh"]


Adjusted = Annotated[ShimsDone | TapeDone | BeamDone | MeshDone, Field(discriminator="kind")]


class AdjustmentIn(In):
    """What was done after a survey besides turning knobs."""

    client_key: Key
    adjustment: Adjusted
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class ChartOut(Out):
    """Limits of an individuals chart, mm."""

    mean: float
    lower: float
    upper: float
    outside: list[int]
    jumps: list[int]


class FoundOut(Out):
    """The bed as a visit found it, mm."""

    visit_id: int
    at: datetime
    tilt: float
    flatness: float


class DriftOut(Out):
    """How a printer's level wanders from visit to visit."""

    found: list[FoundOut]
    tilt: ChartOut | None
    flatness: ChartOut | None
    days: float | None
    soonest: float | None
    latest: float | None
    monthly: float | None
    look_again: datetime | None
    sentence: str
    chart_sentence: str
