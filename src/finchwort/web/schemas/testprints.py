"""Test prints as the API gives them; mm."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, FiniteFloat

from finchwort.web.schemas.base import XY, In, Out

PrintKind = Literal["patches", "ladder", "discs", "mesh_walk", "paper_walk"]


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
