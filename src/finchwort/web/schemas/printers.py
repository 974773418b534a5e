"""Printers as the API takes and gives them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.base.kinds import KnobView, ThreadHand
from finchwort.core.diagnosis import Suitability
from finchwort.core.first_layer import ZeroKeeper
from finchwort.core.printers import (
    Carrier,
    CloserSign,
    Compensation,
    OffsetPlace,
    Origin,
    ProbeKind,
    RaisingTurn,
    SurfaceChange,
    SurfaceCondition,
)
from finchwort.store.fields import Name, Short, Side
from finchwort.store.printers.setups import KeepOffSetup, PrinterSetup
from finchwort.web.schemas.base import XY, In, Out, Rectangle, input_of


class PrinterIn(input_of(PrinterSetup)):  # type: ignore[misc]
    """A printer as the person describes it."""


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
    beam_carries: Carrier
    beam_steps: int | None
    beam_raises: RaisingTurn
    plate_bends: bool
    beam_span: Annotated[float, Field(description="between the lead screws, or about the width, mm")]
    probe_kind: ProbeKind
    probe_dx: float
    probe_dy: float
    probe_reach: Rectangle
    closer_is: CloserSign
    compensation: Compensation
    offset_kept: list[OffsetPlace]
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
    zero_kept: ZeroKeeper
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
    thread_hand: ThreadHand
    knob_view: KnobView
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
    origin: Origin = Origin.FRONT_LEFT
    plate_width: Side | None = None
    plate_depth: Side | None = None
    screws: Literal[0, 3, 4] = 4
    probe_dx: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    probe_dy: Annotated[FiniteFloat, Field(ge=-150, le=150)] = 0.0
    keep_off: Annotated[list[KeepOffSetup], Field(max_length=12)] = []


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
    action: SurfaceChange


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


class TermOut(Out):
    """A word of the trade, in one sentence."""

    key: str
    name: str
    says: str
    also: list[str]
    draw: str


class TermsOut(Out):
    """All terms, by name."""

    terms: list[TermOut]


class SuitQuery(In):
    """A combination to be judged."""

    surface: Short = ""
    material: Annotated[str, StringConstraints(max_length=80)] = ""
    bed: Annotated[FiniteFloat, Field(ge=0, le=200)] | None = None
    nozzle: Annotated[FiniteFloat, Field(ge=0, le=500)] | None = None


class SuitOut(Out):
    """How surface, material and temperatures go together."""

    state: Suitability
    bed: float | None
    nozzle: float | None
    bed_low: float | None
    bed_high: float | None
    nozzle_low: float | None
    nozzle_high: float | None
    remarks: list[str]
