"""Z offsets as the API takes and gives them; mm, in the machine's own sign unless it says closer."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.web.schemas.base import Coordinate, In, Key, Out
from finchwort.web.schemas.printers import Place

Kept = Literal["printer", "slicer", "start_code"]
Reason = Literal["typed", "paper", "patches", "ladder", "trim", "turned", "knobs", "switch"]
Value = Annotated[FiniteFloat, Field(ge=-20, le=20)]


class PartOut(Out):
    """What stands in one place."""

    place: Kept
    label: str
    value: float


class OffsetEntry(Out):
    """An offset as it was written down."""

    id: int
    made_at: datetime
    reason: Reason
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
    closer_is: Literal["negative", "positive"]
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
    parts: dict[Kept, Value]
    reason: Reason = "typed"
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
    feel: Literal["free", "slight", "strong", "bunches", "stuck"]
    thickness: Annotated[FiniteFloat, Field(gt=0, le=1)]
    measured: Annotated[bool, Field(description="with calipers; otherwise it is assumed")] = False
    caliper_zero: Annotated[
        FiniteFloat | None, Field(ge=-0.5, le=0.5, description="what the calipers show on nothing, mm")
    ] = None
    step: Annotated[
        FiniteFloat, Field(ge=0, le=0.1, description="lowered in such steps until it just dragged, mm")
    ] = 0.0
    place: Kept = "printer"


class PlaceQuery(In):
    """Where the offset is kept that is corrected."""

    place: Kept = "printer"


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

    reason: Literal["knobs", "switch"]
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
    place: Kept = "printer"
    width: Annotated[FiniteFloat, Field(ge=0.1, le=2)] = 0.42


class TrimIn(In):
    """Steps that were trimmed while printing, summed up."""

    closer: Annotated[FiniteFloat, Field(ge=-2, le=2)]
    place: Kept = "printer"


class NewOffsetOut(Out):
    """A correction, ready to type in."""

    closer: float
    margin: float | None
    place: Kept
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
    step: Annotated[Literal["feel", "up", "lower", "type", "leave"], Field(description="what to do next")] = (
        "type"
    )
    next_z: Annotated[float | None, Field(description="where to feel next, mm")]
    low: Annotated[float | None, Field(description="how much closer at the least, 95 %, mm")]
    high: float | None
    clues: list[ClueOut]
    trial: Annotated[int | None, Field(description="the record that was made of it")]
    by_hand: ByHandOut | None


ChangeWhat = Literal[
    "plate",
    "lifted",
    "pried",
    "knobs",
    "foil",
    "springs",
    "beam",
    "nozzle",
    "probe",
    "belts",
    "firmware",
    "moved",
    "crash",
    "material",
    "offset",
    "mesh",
    "steps",
    "clear",
]


class ChangeIn(In):
    """What was changed at a machine by hand."""

    client_key: Key
    what: ChangeWhat
    visit_id: int | None = None
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class ChangeOut(Out):
    """What was changed at a machine by hand."""

    id: int
    made_at: datetime
    what: ChangeWhat
    words: str
    note: str


class ChangeKind(Out):
    """Something that can be changed at a machine."""

    what: ChangeWhat
    words: str


class ChangesOut(Out):
    """What was changed at a printer since its offset was found, and what can be written down."""

    kinds: list[ChangeKind]
    since: list[ChangeOut]
