"""The first layer, foretold, as the API takes and gives it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.first_layer import (
    Band,
    ForecastLevel,
    JudgedStep,
    OffsetReason,
    PaperStep,
    PrintKind,
    Stage,
)
from finchwort.core.printers import CloserSign, OffsetPlace
from finchwort.core.probing import Drag
from finchwort.core.visits import MachineEvent
from finchwort.store.fields import Coordinate, Key
from finchwort.web.schemas.base import XY, In, Out
from finchwort.web.schemas.printers import Place


class FirstLayerQuery(In):
    """Which first layer; mm."""

    stage: Stage = Stage.MEASURED
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
    stage: Stage
    stages: list[Stage]
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
    sentence: str
    agrees: Annotated[str | None, Field(description="how this and the judgement of the bed agree")]
    middle: LaidOut
    places: Annotated[list[PlaceOut], Field(description="the closest and the farthest place")]


class StepsQuery(In):
    """What was asked for and what went in, mm."""

    steps: FiniteFloat
    asked: FiniteFloat = 100.0
    measured: FiniteFloat


class StepsOut(Out):
    """New steps per mm."""

    new: float
    change: float
    sentence: str
    doubtful: bool


class LinesQuery(In):
    """A line, how fast it is laid, and through which nozzle."""

    width: FiniteFloat
    height: FiniteFloat
    speed: FiniteFloat
    nozzle: FiniteFloat | None = None
    melts: Annotated[FiniteFloat | None, Field(description="what this hot end melts for sure, mm3/s")] = None


class LinesOut(Out):
    """How lines lie side by side, and whether the hot end keeps up."""

    area: float
    spacing: float
    width_range: tuple[float, float] | None
    lines: str
    flow: float
    fastest: float
    level: ForecastLevel
    melting: str


Value = Annotated[FiniteFloat, Field(ge=-20, le=20)]


class PartOut(Out):
    """What stands in one place."""

    place: OffsetPlace
    label: str
    value: float


class OffsetEntry(Out):
    """An offset as it was written down."""

    id: int
    made_at: datetime
    reason: OffsetReason
    words: str
    total: float
    closer: float | None
    note: str
    parts: list[PartOut]


class TrimAdvice(Out):
    """A reason to trim the offset for today, or not to; mm, positive closer."""

    closer: list[float] | None
    sentence: str
    tag: Literal["P", "D", "S", "M"]


class OffsetOut(Out):
    """The offset that counts, and how it came about."""

    printer_id: int
    known: bool
    closer_is: CloserSign
    total: float
    parts: list[PartOut]
    sentence: str
    doubled: str | None
    outdated: list[str]
    patches: Annotated[list[Place], Field(description="where corner and centre patches lie")]
    trims: list[TrimAdvice]
    trim_total: Annotated[str | None, Field(description="all of them together, in words")]
    switch: Annotated[str | None, Field(description="what a thicker plate asks of the Z switch")]
    unreached: Annotated[
        str | None, Field(description="what to do when the switch stops the tip above the plate")
    ]
    history: list[OffsetEntry]


class OffsetIn(In):
    """An offset as it stands in the machine now."""

    client_key: Key
    parts: dict[OffsetPlace, Value]
    reason: OffsetReason = OffsetReason.TYPED
    visit_id: int | None = None
    found: Annotated[
        dict[str, FiniteFloat], Field(max_length=8, description="what it was found from, for the record")
    ] = {}
    by_hand: Annotated[
        FiniteFloat | None,
        Field(ge=-3, le=3, description="how much closer knobs or switch brought bed and tip, mm"),
    ] = None
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class PaperIn(In):
    """How paper feels in the middle, and at which Z."""

    client_key: Key
    z: Annotated[FiniteFloat, Field(ge=-20, le=20, description="what the display shows, mm")] = 0.0
    feel: Drag
    thickness: Annotated[FiniteFloat, Field(gt=0, le=1)]
    measured: Annotated[bool, Field(description="with calipers; otherwise it is assumed")] = False
    caliper_zero: Annotated[
        FiniteFloat | None, Field(ge=-0.5, le=0.5, description="what the calipers show on nothing, mm")
    ] = None
    step: Annotated[
        FiniteFloat, Field(ge=0, le=0.1, description="lowered in such steps until it just dragged, mm")
    ] = 0.0
    place: OffsetPlace = OffsetPlace.PRINTER


class PlaceQuery(In):
    """Where the offset is kept that is corrected."""

    place: OffsetPlace = OffsetPlace.PRINTER


class ClueOut(Out):
    """Something that is known of the offset."""

    trial: Annotated[int | None, Field(description="its record, when it can be taken back by itself")]
    words: str


class ByHandTurn(Out):
    """A knob of all, turned alike."""

    name: str
    direction: str


class ByHandOut(Out):
    """A correction as it is made where zero is no number."""

    reason: Literal[OffsetReason.KNOBS, OffsetReason.SWITCH]
    closer: float
    sentence: str
    turns: list[ByHandTurn]


class PatchIn(In):
    """A one-layer patch and its caliper readings."""

    x: Coordinate
    y: Coordinate
    commanded: Annotated[FiniteFloat, Field(gt=0, le=2)]
    thickness: Annotated[list[Annotated[FiniteFloat, Field(gt=0, le=5)]], Field(min_length=1, max_length=12)]


class PatchesIn(In):
    """Patches that were printed and measured."""

    client_key: Key
    patches: Annotated[list[PatchIn], Field(min_length=1, max_length=30)]
    caliper_zero: Annotated[
        FiniteFloat | None, Field(ge=-0.5, le=0.5, description="what the calipers show on nothing, mm")
    ] = None
    place: OffsetPlace = OffsetPlace.PRINTER
    width: Annotated[FiniteFloat, Field(ge=0.1, le=2)] = 0.42


class TrimIn(In):
    """Steps that were trimmed while printing, summed up."""

    closer: Annotated[FiniteFloat, Field(ge=-2, le=2)]
    place: OffsetPlace = OffsetPlace.PRINTER


class NewOffsetOut(Out):
    """A correction, ready to type in."""

    closer: float
    way: Annotated[str, Field(description="which way and how far, in words")]
    stays: Annotated[bool, Field(description="so little that nothing is typed in")]
    margin: float | None
    place: OffsetPlace
    label: str
    before: float
    known: Annotated[bool, Field(description="whether an offset is written down to count from")]
    value: Annotated[
        float | None, Field(description="none when it would let the tip touch, or nothing is written down")
    ]
    parts: dict[str, float]
    sentence: str
    refused: str | None
    enough: bool
    means: list[float]
    outliers: list[list[int]]
    tilt: float | None
    turns: Annotated[list[str], Field(description="what the knobs would do about the tilt")]
    step: Annotated[PaperStep, Field(description="what to do next")] = PaperStep.TYPE
    next_z: Annotated[float | None, Field(description="where to feel next, mm")]
    low: Annotated[float | None, Field(description="how much closer at the least, 95 %, mm")]
    high: float | None
    clues: list[ClueOut]
    trial: Annotated[int | None, Field(description="the record that was made of it")]
    by_hand: ByHandOut | None


class ChangeIn(In):
    """What was changed at a machine by hand."""

    client_key: Key
    what: MachineEvent
    visit_id: int | None = None
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class ChangeOut(Out):
    """What was changed at a machine by hand."""

    id: int
    made_at: datetime
    what: MachineEvent
    words: str
    note: str


class ChangeKind(Out):
    """Something that can be changed at a machine."""

    what: MachineEvent
    words: str


class ChangesOut(Out):
    """What was changed at a printer since its offset was found, and what can be written down."""

    kinds: list[ChangeKind]
    since: list[ChangeOut]


class TestPrintQuery(In):
    """Which test print."""

    kind: PrintKind
    width: Annotated[FiniteFloat, Field(ge=0.1, le=2)] = 0.42
    filament: Annotated[FiniteFloat, Field(ge=1, le=4)] = 1.75
    paper: Annotated[FiniteFloat, Field(gt=0, le=1)] = 0.1
    side: Annotated[int, Field(ge=3, le=7)] = 5


class SpotOut(Out):
    """A patch, or a place where the tip stops."""

    number: int
    name: str
    x: float
    y: float
    size: float
    round: bool
    shift: float
    z: float


class TestPrintOut(Out):
    """A test print, drawn and counted before it is used."""

    kind: PrintKind
    title: str
    does: str
    spots: list[SpotOut]
    prime: list[XY]
    walk: list[XY]
    minutes: float
    grams: float | None
    filament_length: float
    bed_temperature: float
    nozzle_temperature: float
    compensation: Annotated[
        Literal["on", "off", "none"], Field(description="off: switched off, as no mesh is known to hold")
    ]
    measured: Annotated[bool, Field(description="whether a survey told where the bed is high")]
    cautions: list[str]
    made_for: Annotated[list[str], Field(description="offset, survey and mesh, a line each")]
    file: str


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
