"""Jobs at the machine as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.web.schemas.base import XY, Coordinate, In, Key, Out

JobKind = Literal[
    "connect",
    "temperatures",
    "home",
    "heat",
    "cool",
    "park",
    "switches",
    "watch",
    "probe_out",
    "probe_in",
    "probe_test",
    "repeatability",
    "soak",
    "grid",
    "read_offset",
    "offset",
    "trim",
]
JobState = Literal["waiting", "running", "done", "failed", "stopped", "interrupted", "not_begun"]
Place = tuple[Coordinate, Coordinate]


class JobWanted(In):
    """What is wanted of a machine; which of it counts goes by the kind."""

    kind: JobKind
    visit: int | None = None
    bed: FiniteFloat | None = None
    nozzle: FiniteFloat | None = None
    x: Coordinate | None = None
    y: Coordinate | None = None
    name: Annotated[str, StringConstraints(max_length=80)] | None = None
    count: Annotated[int, Field(ge=1, le=1000)] | None = None
    every: FiniteFloat | None = None
    longest: FiniteFloat | None = None
    places: Annotated[
        int | None, Field(ge=1, le=9, description="how many places a warm-up is watched at, in turn")
    ] = None
    until_steady: bool = True
    columns: Annotated[int, Field(ge=2, le=25)] | None = None
    rows: Annotated[int, Field(ge=2, le=25)] | None = None
    inset: Annotated[FiniteFloat, Field(ge=0, le=500)] | None = None
    points: Annotated[list[Place], Field(max_length=625)] | None = None
    value: Annotated[FiniteFloat | None, Field(ge=-20, le=20, description="a Z offset, mm")] = None
    before: Annotated[
        FiniteFloat | None, Field(ge=-20, le=20, description="the Z offset on the machine's screen, mm")
    ] = None
    margin: Annotated[FiniteFloat | None, Field(ge=0, le=5)] = None
    reason: Literal["typed", "paper", "patches", "ladder", "trim"] | None = None
    resume: Annotated[int | None, Field(description="job whose rest is wanted")] = None


class JobIn(JobWanted):
    """A job that the person has agreed to."""

    client_key: Key
    token: Annotated[str, StringConstraints(max_length=64)]
    confirmed: Annotated[bool, Field(description="whether the person said what `confirm` demands")] = False


class AskedOut(Out):
    """What would happen: read it, then send its token back."""

    kind: JobKind
    sentence: str
    cautions: list[str]
    moves: bool
    heats: bool
    total: int
    minutes: float | None
    confirm: Annotated[str | None, Field(description="what has to be said was done before this begins")]
    token: str


class StopIn(In):
    """How to stop."""

    how: Literal["soft", "now"]


class StopOut(Out):
    """Whether a stop was heard."""

    id: int
    heard: bool
    message: Annotated[str | None, Field(description="said when nobody is there to hear it")]


class TouchOut(Out):
    """One touch; seconds since its job began, mm."""

    place: int
    after: float
    x: float
    y: float
    height: float


class LiveOut(Out):
    """What the machine said last; °C and states."""

    bed: float | None = None
    nozzle: float | None = None
    bed_target: float | None = None
    nozzle_target: float | None = None
    says: str | None = None
    switches: dict[str, Literal["open", "triggered"]] | None = None
    untouched: dict[str, Literal["open", "triggered"]] | None = None
    watched: Annotated[
        list[dict[str, Literal["open", "triggered"]]] | None,
        Field(description="states of all switches, each time one was pressed"),
    ] = None
    offset: float | None = None
    offset_told: bool | None = None


class JobLineOut(Out):
    """A job in a list."""

    id: int
    printer_id: int
    printer: str
    visit_id: int | None
    kind: JobKind
    name: str
    state: JobState
    silent: Annotated[bool, Field(description="who does it does not answer, and hears no stop")]
    stopping: Literal["soft", "now"] | None
    message: str
    done: int
    total: int
    seconds_left: float | None
    created_at: datetime
    ended_at: datetime | None
    can_resume: bool
    can_keep: bool
    survey_id: int | None
    test_id: int | None
    live: LiveOut


class JobOut(JobLineOut):
    """A job with its touches, those of the jobs it resumes first."""

    earlier: list[TouchOut]
    touches: list[TouchOut]
    points: Annotated[list[XY], Field(description="places still wanted and those read, as planned")]


class Jobs(Out):
    """Jobs."""

    jobs: list[JobLineOut]


class HotOut(Out):
    """A printer whose heaters were switched on, or may be."""

    printer_id: int
    printer: str
    until: Annotated[datetime | None, Field(description="then they go off by themselves")]
    doubt: Annotated[str | None, Field(description="why nobody knows that they are off")]
    overdue: Annotated[bool, Field(description="nobody has switched them off though their time is over")]


class WorkOut(Jobs):
    """What waits, runs, is hot, or is not known."""

    unsure: Annotated[list[JobLineOut], Field(description="nobody knows what these machines do")]
    hot: list[HotOut]


class SaidOut(Out):
    """A line of the raw conversation."""

    id: int
    at: datetime
    way: Literal[">", "<", "*"]
    text: str


class Conversation(Out):
    """Lines of the raw conversation."""

    lines: list[SaidOut]


class SaidQuery(In):
    """From which line on."""

    after: Annotated[int, Field(ge=0)] = 0


class KeptOut(Out):
    """What came of keeping readings."""

    message: str
    survey_id: int | None
    test_id: int | None
