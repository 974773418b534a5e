"""Printers as the API takes and gives them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.web.schemas.base import (
    XY,
    Coordinate,
    In,
    LayerHeight,
    Name,
    Origin,
    Out,
    Rectangle,
    ScrewName,
    Side,
)


class ScrewIn(In):
    """A bed screw."""

    name: ScrewName
    x: Coordinate
    y: Coordinate
    thread: Annotated[str, StringConstraints(max_length=20)]
    pitch: Annotated[FiniteFloat, Field(ge=0.1, le=10)]
    to_tight: Annotated[FiniteFloat, Field(ge=0, le=40)] | None = None
    to_loose: Annotated[FiniteFloat, Field(ge=0, le=40)] | None = None


FoilSize = Annotated[FiniteFloat, Field(ge=0.005, le=2)]


class PadIn(In):
    """A support without a screw."""

    name: ScrewName
    x: Coordinate
    y: Coordinate
    foils: Annotated[list[FoilSize], Field(max_length=20, description="that lie there, mm each")] = []


class KeepOffIn(In):
    """A place on the bed where something stands in the way, mm."""

    name: ScrewName
    x_min: Coordinate
    y_min: Coordinate
    x_max: Coordinate
    y_max: Coordinate
    height: Annotated[FiniteFloat, Field(ge=0, le=40, description="above the plate, mm")] = 5.0


SurfaceCondition = Literal["new", "good", "worn", "damaged"]
Kept = Literal["printer", "slicer", "start_code"]
ProbeKind = Literal["none", "nozzle", "retracting", "inductive", "capacitive", "switch", "strain"]
Compensation = Literal["none", "mean", "mesh"]
ZeroKept = Literal["", "probe", "switch", "knobs"]
Carries = Literal["unknown", "nozzle", "bed"]
Short = Annotated[str, StringConstraints(max_length=40)]


class SurfaceIn(In):
    """A print surface the person owns."""

    name: Name
    kind: Short
    thickness: Annotated[FiniteFloat, Field(ge=0.05, le=20)] | None = None
    condition: SurfaceCondition = "good"
    prints_since_wash: Annotated[int, Field(ge=0, le=9999)] = 0
    coats: Annotated[int, Field(ge=0, le=99)] = 0


class MoreIn(In):
    """What a printer is beyond bed and screws: supports, beam, probe, surfaces, line."""

    pads: Annotated[list[PadIn], Field(max_length=9)] = []
    beam_screws: Annotated[int, Field(ge=0, le=2)] = 0
    beam_lead: Annotated[FiniteFloat, Field(ge=0.2, le=50)] = 8.0
    beam_left: Coordinate | None = None
    beam_right: Coordinate | None = None
    beam_carries: Carries = "unknown"
    beam_steps: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    beam_raises: Annotated[
        Literal["", "clockwise", "counterclockwise"],
        Field(description="which way a lead screw turns, seen from above, when it raises what it carries"),
    ] = ""
    plate_bends: bool = False
    probe_kind: ProbeKind = "none"
    probe_dx: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    probe_dy: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    closer_is: Literal["negative", "positive"] = "negative"
    compensation: Compensation = "none"
    zero_kept: ZeroKept = ""
    switch_pitch: Annotated[
        FiniteFloat | None, Field(ge=0.1, le=10, description="travel of the Z switch's screw in a turn, mm")
    ] = None
    offset_kept: Annotated[list[Kept], Field(max_length=3)] = ["printer"]
    surfaces: Annotated[list[SurfaceIn], Field(max_length=20)] = []
    materials: Annotated[list[Short], Field(max_length=20)] = []
    port: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = ""
    baud: Annotated[int, Field(ge=300, le=4_000_000)] = 115200
    dialect: Short = "open"
    link_name: Short = ""
    most_bed: Annotated[FiniteFloat, Field(ge=0, le=150)] = 110.0
    most_nozzle: Annotated[FiniteFloat, Field(ge=0, le=350)] = 260.0
    lift: Annotated[FiniteFloat, Field(ge=1, le=50)] = 5.0
    longest_heat: Annotated[
        FiniteFloat, Field(ge=5, le=720, description="heaters go off after so long, minutes")
    ] = 60.0
    keep_off: Annotated[list[KeepOffIn], Field(max_length=12)] = []


class PrinterIn(MoreIn):
    """A printer as the person describes it."""

    name: Name
    width: Side
    depth: Side
    origin: Origin = "front_left"
    plate_width: Side | None = None
    plate_depth: Side | None = None
    first_layer: LayerHeight = 0.2
    thread_hand: Literal["right", "left"] = "right"
    knob_view: Literal["face", "behind"] = "behind"
    tightening_lowers: bool = True
    divisions: Annotated[int, Field(ge=1, le=64)] = 8
    repeatability: Annotated[FiniteFloat, Field(gt=0, le=1)] | None = None
    note: Annotated[str, StringConstraints(max_length=500)] = ""
    screws: Annotated[list[ScrewIn], Field(max_length=9)] = []


class PrinterChange(PrinterIn):
    """A changed printer, with the version it was changed from."""

    version: int


class KeepOffOut(Out):
    """A place on the bed where something stands in the way, mm."""

    name: str
    x_min: float
    y_min: float
    x_max: float
    y_max: float
    height: float


class Bed(Rectangle):
    """Printable area and plate, and what stands in the way on it."""

    plate: Rectangle
    keep_off: list[KeepOffOut] = []


class ScrewOut(Out):
    """A bed screw."""

    name: str
    x: float
    y: float
    thread: str
    pitch: float
    to_tight: float | None
    to_loose: float | None


class PadOut(Out):
    """A support without a screw, with the foils that lie there, mm."""

    name: str
    x: float
    y: float
    foils: list[float]


class SurfaceOut(Out):
    """A print surface that belongs to a printer."""

    name: str
    kind: str
    kind_name: str
    thickness: float | None
    condition: SurfaceCondition
    prints_since_wash: int
    coats: int


class MoreOut(Out):
    """What a printer is beyond bed and screws."""

    pads: list[PadOut]
    beam_screws: int
    beam_lead: float
    beam_left: float | None
    beam_right: float | None
    beam_carries: Carries
    beam_steps: int | None
    beam_raises: Literal["", "clockwise", "counterclockwise"]
    plate_bends: bool
    beam_span: Annotated[float, Field(description="between the lead screws, or about the width, mm")]
    probe_kind: ProbeKind
    probe_dx: float
    probe_dy: float
    probe_reach: Rectangle
    closer_is: Literal["negative", "positive"]
    compensation: Compensation
    offset_kept: list[Kept]
    offset_warning: Annotated[str | None, Field(description="said when the offset is kept in several places")]
    surfaces: list[SurfaceOut]
    materials: list[str]
    port: str
    baud: int
    dialect: str
    link_name: str
    most_bed: float
    most_nozzle: float
    lift: float
    longest_heat: float
    zero_kept: ZeroKept
    switch_pitch: float | None
    keep_off: list[KeepOffOut]


class PrinterOut(MoreOut):
    """A printer."""

    id: int
    version: int
    name: str
    width: float
    depth: float
    origin: Origin
    plate_width: float
    plate_depth: float
    first_layer: float
    good_spread: Annotated[float, Field(description="spread up to which the bed is good as it is, mm")]
    thread_hand: Literal["right", "left"]
    knob_view: Literal["face", "behind"]
    tightening_lowers: bool
    divisions: int
    repeatability: float | None
    note: str
    screws: list[ScrewOut]
    bed: Bed


class SuggestIn(In):
    """A bed for which screws and points to measure are wanted."""

    width: Side
    depth: Side
    origin: Origin = "front_left"
    plate_width: Side | None = None
    plate_depth: Side | None = None
    screws: Literal[0, 3, 4] = 4
    probe_dx: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    probe_dy: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    keep_off: Annotated[list[KeepOffIn], Field(max_length=12)] = []


class SuggestOut(Out):
    """Usual screw positions for a bed."""

    bed: Bed
    screws: list[Place]
    probe_reach: Rectangle | None


class Place(Out):
    """A named place on the bed."""

    name: str
    x: float
    y: float


class ThreadOut(Out):
    """A metric thread, ISO 261."""

    name: str
    pitch: float


class Threads(Out):
    """The list of threads."""

    threads: list[ThreadOut]


class PatternQuery(In):
    """Which places to measure: a grid, or near the screws."""

    kind: Literal["grid", "screws"] = "grid"
    columns: Annotated[int, Field(ge=2, le=25)] = 3
    rows: Annotated[int, Field(ge=2, le=25)] = 3
    inset: Annotated[FiniteFloat, Field(ge=0, le=500)] | None = None
    by_probe: Annotated[bool, Field(description="keep to the probe's reach")] = False


class Pattern(Out):
    """Places to measure, in walking order."""

    points: list[XY]
    names: Annotated[list[str], Field(description="of the places: the knob's, or where on the bed it lies")]
    minutes: Annotated[float, Field(description="expected, at this printer's own pace when it is known")]


class OptionOut(Out):
    """A grid that could be measured, and what it would miss."""

    columns: int
    rows: int
    error: Annotated[
        float | None, Field(description="root mean square of what is missed between the places, mm")
    ]
    worst: Annotated[float | None, Field(description="19 of 20 places are missed by less, mm")]
    minutes: float
    advised: bool


class AdviceOut(Out):
    """Which grid to measure."""

    options: list[OptionOut]
    sentence: str
    surveys: Annotated[int, Field(description="surveys of this bed it rests on")]


class SurfaceUse(In):
    """What was done with a surface."""

    name: Name
    action: Literal["printed", "washed", "coated"]


class KindOut(Out):
    """A kind of surface."""

    key: str
    name: str


class MaterialOut(Out):
    """A material."""

    name: str
    nozzle_low: float
    nozzle_high: float


class KnowledgeOut(Out):
    """Surfaces, materials, dialects."""

    surfaces: list[KindOut]
    materials: list[MaterialOut]
    dialects: list[KindOut]


class SuitQuery(In):
    """A combination to be judged."""

    surface: Short = ""
    material: Annotated[str, StringConstraints(max_length=80)] = ""
    bed: Annotated[FiniteFloat, Field(ge=0, le=200)] | None = None
    nozzle: Annotated[FiniteFloat, Field(ge=0, le=500)] | None = None


class SuitOut(Out):
    """How surface, material and temperatures go together."""

    state: Literal["good", "needs", "unsuitable", "unknown"]
    bed: float | None
    nozzle: float | None
    bed_low: float | None
    bed_high: float | None
    nozzle_low: float | None
    nozzle_high: float | None
    remarks: list[str]
