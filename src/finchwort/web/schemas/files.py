"""Files of prints, as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.files import CopyChange, CopyKind, LineRole, Weight
from finchwort.core.first_layer import Band, Stage
from finchwort.store.fields import Key, Short
from finchwort.web.schemas.base import In, Out
from finchwort.web.schemas.printers import Bed

Hole = Annotated[FiniteFloat, Field(ge=0.1, le=2)]
Price = Annotated[FiniteFloat, Field(ge=0, le=10_000)]
Height = Annotated[FiniteFloat, Field(ge=0, le=1000)]
Material = Annotated[str, StringConstraints(max_length=80)]


class FileQuery(In):
    """What comes with a file."""

    name: Annotated[str, StringConstraints(max_length=200)] = ""
    printer_id: int | None = None
    client_key: Key


class FilesQuery(In):
    """Which files are listed."""

    printer_id: int | None = None


class FileChange(In):
    """Where a print is to be made."""

    version: int
    printer_id: int | None = None
    surface: Short = ""
    material: Material = ""
    nozzle: Hole | None = None
    price: Price | None = None


class FileBrief(Out):
    """A file in a list."""

    id: int
    name: str
    created_at: datetime
    printer_id: int | None
    printer: str | None
    material: str
    minutes: float
    parts: int


class FilesOut(Out):
    """Files on record, newest first."""

    files: list[FileBrief]


class PrintFindingOut(Out):
    """One thing found before a print is started."""

    code: str
    weight: Weight
    sentence: str
    line: int | None
    part: str


class FilePart(Out):
    """A part as it stands on the bed; mm, mm²."""

    name: str
    foot: float
    height: float
    width: float
    depth: float
    brim: float


class RoleLength(Out):
    """Length of the first layer's lines of one kind, mm."""

    role: LineRole
    length: float


class FileFacts(Out):
    """What stands in a file; mm, mm/s, °C, per cent."""

    height: float
    line_width: float
    speed: float | None
    travel: float | None
    bed: float | None
    nozzle: float | None
    fan: float
    layers: int
    top: float
    lines: int
    segments: int
    roles: list[RoleLength]


class FileOut(Out):
    """A file, looked through for where it is to be printed."""

    id: int
    version: int
    name: str
    created_at: datetime
    printer_id: int | None
    printer: str | None
    surface: str
    material: str
    nozzle_hole: float | None
    price: float | None
    facts: FileFacts
    parts: list[FilePart]
    findings: list[PrintFindingOut]
    verdict: Weight
    sentence: str
    minutes: float
    grams: float
    cost: float | None
    survey_id: int | None
    bed_shape: Bed | None
    stages: list[Stage]


class FileForecastQuery(In):
    """Of which bed, and how much higher the tip."""

    stage: Stage = Stage.MEASURED
    shift: Annotated[FiniteFloat, Field(ge=-2, le=2)] = 0.0


class FileLayerQuery(FileForecastQuery):
    """The same, of the file as it is or bent to the bed."""

    bent: bool = False
    top: Height | None = None


class FilePlacesQuery(FileForecastQuery):
    """The same, for the whole print or one part of it."""

    part: Annotated[int, Field(ge=0, le=1000)] | None = None


class ShiftOut(Out):
    """One place for a print; mm, degrees to the left."""

    dx: float
    dy: float
    angle: int
    share: float


class ShiftsOut(Out):
    """How good each place is for one turn, degrees to the left: rows from the front, percent; none where the print may not be."""

    angle: int
    dx: list[float]
    dy: list[float]
    percent: list[list[int | None]]


class FilePlacesOut(Out):
    """Where a print would hold, mm."""

    now: ShiftOut
    allowed: bool
    best: ShiftOut | None
    worth: bool
    turns: list[ShiftsOut]
    middle: list[float]
    size: list[float]
    sentence: str


class BandShareOut(Out):
    """How much of a first layer is so."""

    band: Band
    words: str
    share: float


class PartForecastOut(Out):
    """What is foretold of one part; mm²."""

    name: str
    good: float
    touches: float
    holds: float
    first: bool


class WorstOut(Out):
    """The place that is furthest from good, mm."""

    x: float
    y: float
    gap: float
    band: Band
    line: int


class AreaOut(Out):
    """A rectangle on the bed, mm."""

    x_min: float
    y_min: float
    x_max: float
    y_max: float


class FileForecastOut(Out):
    """The first layer of a print as it will be laid."""

    survey_id: int
    measured_at: datetime
    stage: Stage
    shift: float
    bands: list[BandShareOut]
    good: float
    parts: list[PartForecastOut]
    worst: WorstOut
    touches: bool
    best: float
    best_share: float
    mesh: AreaOut | None
    sentences: list[str]


class BendQuery(In):
    """From which Z on the bed is not followed any more, mm, and whether the mesh was cleared."""

    top: Height | None = None
    cleared: bool = False


class BendOut(Out):
    """What a copy bent to the bed would do; mm."""

    reasons: list[str]
    mesh: bool
    sentence: str
    notes: list[str]
    needed: bool
    top: float
    up: float
    down: float
    lowest: float
    good_before: float
    good_after: float


class CopyQuery(BendQuery):
    """What a copy of a file is to be; mm, quarter turns to the left, mm/s, per cent, °C."""

    kind: CopyKind
    dx: FiniteFloat = 0.0
    dy: FiniteFloat = 0.0
    turn: Annotated[int, Field(ge=0, le=3)] = 0
    part: Annotated[int, Field(ge=0, le=1000)] | None = None
    change: CopyChange | None = None
    value: FiniteFloat | None = None
