"""The walk round and the tests before measuring, as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.probing import (
    DriftUnit,
    FindingState,
    LineForm,
    LineSubject,
    LineWay,
    SwitchFault,
    SwitchState,
    TestKind,
    Wiring,
)
from finchwort.store.fields import Coordinate, Key
from finchwort.web.schemas.base import In, Out
from finchwort.web.schemas.surveys import Relief

SwitchName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=30)]


class ItemOut(Out):
    """An item of the walk round, with what was found in this visit."""

    key: str
    title: str
    how: str
    good: str
    ignore: str
    caution: str
    mend: Annotated[str, Field(description="what to do when it is bad")]
    minutes: Annotated[int, Field(description="how long that takes")]
    part: Annotated[str, Field(description="what has to be at hand")]
    state: FindingState | None
    note: str


class FindingIn(In):
    """What was found at an item; ``open`` takes it back."""

    item: Annotated[str, StringConstraints(max_length=40)]
    state: Literal["good", "bad", "skipped", "open"]
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class Weaknesses(Out):
    """What weakens each judgement of a visit."""

    trust: list[str]
    warm: list[str]
    map: list[str]
    plan: list[str]


class ProbeStates(In):
    """States of a retracting probe."""

    stowed: SwitchState
    deployed: SwitchState
    touched: SwitchState | None = None


class SpotIn(In):
    """A place that is read in turn with others, mm."""

    x: Coordinate
    y: Coordinate


class SummaryIn(In):
    """Figures of touches at one place as a machine sums them up itself, mm."""

    sd: Annotated[FiniteFloat, Field(ge=0, le=1)]
    range: Annotated[FiniteFloat, Field(ge=0, le=5)] | None = None
    mean: FiniteFloat | None = None
    count: Annotated[int, Field(ge=0, le=1000)] = 0


Heights = Annotated[list[FiniteFloat], Field(max_length=500)]
Places = Annotated[list[FiniteFloat], Field(max_length=200)]


class RepeatabilityData(In):
    """Touches at one place, mm, or what a machine sums them up to."""

    kind: Literal[TestKind.REPEATABILITY]
    heights: Heights | None = None
    times: Heights | None = None
    summary: Annotated[SummaryIn | None, Field(description="instead of heights, as a machine sums up")] = None
    x: Coordinate | None = None
    y: Coordinate | None = None


class SoakData(In):
    """Readings at one place, or at several in turn, while a bed warms through; s and mm."""

    kind: Literal[TestKind.SOAK]
    heights: Heights
    times: Heights
    x: Coordinate | None = None
    y: Coordinate | None = None
    spots: (
        Annotated[list[SpotIn], Field(min_length=2, max_length=9, description="places read in turn")] | None
    ) = None
    at: Annotated[list[int], Field(max_length=500, description="of which place each reading is")] | None = (
        None
    )


class SwitchesData(In):
    """What the switches say untouched, and each time one is pressed."""

    kind: Literal[TestKind.SWITCHES]
    untouched: Annotated[dict[SwitchName, SwitchState], Field(max_length=12)] | None = None
    pressed: Annotated[dict[SwitchName, dict[SwitchName, SwitchState]], Field(max_length=12)] | None = None
    wiring: Annotated[dict[SwitchName, Wiring], Field(max_length=12)] | None = None
    probe: ProbeStates | None = None


class BeamData(In):
    """How high a cross beam hangs left and right, so far apart, mm."""

    kind: Literal[TestKind.BEAM]
    left: FiniteFloat
    right: FiniteFloat
    span: FiniteFloat
    screws: Annotated[int, Field(ge=1, le=2)] | None = None
    lead: FiniteFloat | None = None
    screw_span: FiniteFloat | None = None


class LineData(In):
    """Gaps under a straightedge, mm."""

    kind: Literal[TestKind.LINE]
    positions: Places
    gaps: Places
    what: LineSubject
    direction: Annotated[
        LineWay | None,
        Field(description="how a straightedge lies: left to right, front to back, or along a diagonal"),
    ] = None
    across: Annotated[
        Coordinate | None,
        Field(description="Y of a line from left to right, X of one from front to back, mm"),
    ] = None


TestData = Annotated[
    RepeatabilityData | SoakData | SwitchesData | BeamData | LineData, Field(discriminator="kind")
]


class TestPreviewIn(In):
    """A test whose meaning is wanted."""

    __test__ = False

    test: TestData


class TestIn(TestPreviewIn):
    """A test to be stored."""

    client_key: Key


class RepeatabilityOut(Out):
    """Touches at one place, summed up; mm."""

    mean: float
    minimum: float
    maximum: float
    range: float
    sd: float
    sd_low: float
    sd_high: float
    drift: float
    drift_low: float
    drift_high: float
    drift_per: DriftUnit
    drifting: bool
    aside: Annotated[list[int], Field(description="touches that stand out and are left out, from 0")]
    step: Annotated[float, Field(description="smallest step in which touches come, mm; 0 when none shows")]
    noise: Annotated[float, Field(description="standard deviation that plans take, mm")]
    good_sd: float
    usable_sd: float
    least_difference: float
    good_range: float
    usable_range: float


class SoakOut(Out):
    """How one place moved while it warmed through; s and mm."""

    tau: float | None
    asymptote: float | None
    to_go: float
    to_go_margin: float
    steady_in: float | None
    steady_in_low: float | None
    steady_in_high: float | None
    chance: Annotated[float, Field(description="that it moves less than `steady` in the next five minutes")]
    rate: float
    steady: Annotated[float, Field(description="movement that counts as none, mm")]
    curve_times: list[float]
    curve: list[float]


class AroundOut(Out):
    """Of several places read in turn the one that will move most against the others; s and mm against their mean."""

    x: float
    y: float
    places: int
    times: list[float]
    heights: list[float]


class SwitchOut(Out):
    """What is the matter with a switch."""

    switch: str
    kind: SwitchFault
    sentence: str
    walk: Annotated[list[str], Field(description="how a break is found with a meter")]


class BeamOut(Out):
    """A cross beam measured on both uprights; mm."""

    difference: float
    margin: float
    span: float
    square: bool


class LineOut(Out):
    """A straightedge laid on; mm."""

    positions: list[float]
    heights: list[float]
    bow: float
    margin: float
    name: LineForm
    compared: Annotated[str | None, Field(description="plate against bare carrier, when both were measured")]


class TestResult(Out):
    """What a test says."""

    __test__ = False

    kind: TestKind
    level: str
    word: str
    figures: str
    sentences: list[str]
    repeatability: RepeatabilityOut | None = None
    soak: SoakOut | None = None
    around: AroundOut | None = None
    switches: list[SwitchOut] | None = None
    beam: BeamOut | None = None
    line: LineOut | None = None


class TestOut(TestResult):
    """A stored test."""

    id: int
    taken_at: datetime
    source: Literal["typed", "printer"]
    heights: list[float]
    times: list[float]
    data: TestDataOut


class TestDataOut(Out):
    """Raw data that the screens show again."""

    __test__ = False

    x: float | None = None
    y: float | None = None
    untouched: dict[str, SwitchState] | None = None
    pressed: dict[str, dict[str, SwitchState]] | None = None
    left: float | None = None
    right: float | None = None
    what: LineSubject | None = None
    direction: LineWay | None = None
    across: float | None = None


class EdgeQuery(In):
    """Which straightedge lines."""

    what: LineSubject = LineSubject.PLATE


class EdgeLineOut(Out):
    """A straightedge line in its place; mm."""

    id: int
    direction: LineWay
    x: list[float]
    y: list[float]
    heights: list[float]
    bow: float
    sentence: str
    survey: Annotated[str | None, Field(description="how it agrees with the newest survey")]


class EdgesOut(Out):
    """Straightedge lines of a visit, and the shape they show together."""

    lines: list[EdgeLineOut]
    relief: Annotated[Relief | None, Field(description="level, its middle at nothing")]
    missing: Annotated[list[LineWay], Field(description="ways that would tell the rest")]
    sentence: str


class TestPreview(Out):
    """What a test would say, or for what it still waits."""

    __test__ = False

    result: TestResult | None = None
    waiting: str | None = None
