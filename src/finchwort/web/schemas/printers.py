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


class PrinterIn(In):
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
    screws: Annotated[list[ScrewIn], Field(max_length=4)] = []


class PrinterChange(PrinterIn):
    """A changed printer, with the version it was changed from."""

    version: int


class Bed(Rectangle):
    """Printable area and plate."""

    plate: Rectangle


class ScrewOut(Out):
    """A bed screw."""

    name: str
    x: float
    y: float
    thread: str
    pitch: float


class PrinterOut(Out):
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


class SuggestOut(Out):
    """Usual screw positions for a bed."""

    bed: Bed
    screws: list[Place]


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


class Pattern(Out):
    """Places to measure, in walking order."""

    points: list[XY]
