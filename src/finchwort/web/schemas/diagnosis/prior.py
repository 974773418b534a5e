"""What is believed of causes, parts, surfaces and materials, as the API takes and gives it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.diagnosis import AdviceLevel, Corners
from finchwort.store.fields import Key
from finchwort.web.schemas.base import In, Out
from finchwort.web.schemas.diagnosis.cases import Brief, Known, School


class CausesOut(Out):
    """Keys and names of all causes."""

    causes: dict[str, str]


class BelievedSign(Out):
    """How often a sign shows with a cause: by the table, and with what was counted."""

    sign: str
    table: float
    now: float
    seen: int
    absent: int
    told: Annotated[float, Field(description="how often it is told when it is there")]
    mistaken: Annotated[float, Field(description="how often it is told when it is not")]


class BelievedCause(Out):
    """What is believed of a cause."""

    key: str
    name: str
    table: Annotated[float, Field(description="share of complaints by the table")]
    now: float
    cases: int
    signs: list[BelievedSign]
    remedy: str
    tag: str


class ImportOut(Out):
    """Counts of another workshop."""

    id: int
    name: str
    cases: int
    created_at: datetime


class BelievedCheck(Out):
    """What a check tells."""

    title: str
    how: str
    minutes: float
    outcomes: list[str]


class BeliefsOut(Out):
    """All that is believed of first layers that fail."""

    cases: int
    causes: list[BelievedCause]
    checks: list[BelievedCheck]
    imports: list[ImportOut]


class MergeIn(In):
    """Counts of another workshop, as it exported them."""

    client_key: Key
    name: Brief = ""
    counts: dict[str, Any]


class PartQuery(In):
    """A part and its settings; mm, mm/s, °C, per cent."""

    width: FiniteFloat
    depth: FiniteFloat
    height: FiniteFloat
    corners: Corners = Corners.ROUND
    material: Annotated[str, StringConstraints(max_length=80)] = ""
    surface: Annotated[str, StringConstraints(max_length=40)] = ""
    speed: FiniteFloat | None = None
    line: FiniteFloat | None = None
    nozzle: FiniteFloat | None = None
    fan: FiniteFloat | None = None
    overlap: FiniteFloat | None = None
    long_lines: bool = False
    bed: FiniteFloat | None = None
    hot: FiniteFloat | None = None
    grams: FiniteFloat | None = None
    price: FiniteFloat | None = None


class RemarkOut(Out):
    """What is said of one setting."""

    what: str
    level: AdviceLevel
    sentence: str


class PartCheckOut(Out):
    """What a part and its settings come to."""

    brim_width: float
    brim_layers: int
    brim: str
    remarks: list[RemarkOut]
    cost: float | None


class PairOut(Out):
    """A material on a surface."""

    material: str
    suits: bool
    bonds: bool
    bed: list[float] | None
    need: str
    own: list[str]


class SurfaceRow(Out):
    """A kind of surface and what holds on it."""

    key: str
    name: str
    pairs: list[PairOut]


class OwnPairIn(In):
    """An own entry: a material on a kind of surface, with bed temperatures, °C."""

    client_key: Key
    surface: Known
    material: Brief
    low: FiniteFloat
    high: FiniteFloat
    note: Brief = ""


class OwnPairOut(Out):
    """An own entry."""

    id: int
    surface: str
    material: str
    low: float
    high: float
    note: str


class TableOut(Out):
    """Surfaces, materials, cleaning and adhesives."""

    materials: list[str]
    nozzles: list[list[float]]
    surfaces: list[SurfaceRow]
    own: list[OwnPairOut]
    cleaning: list[School]
    adhesives: list[School]
