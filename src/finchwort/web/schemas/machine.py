"""Jobs at the machine as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.first_layer import OffsetReason
from finchwort.core.probing import SwitchState
from finchwort.store.fields import Coordinate, Key
from finchwort.store.machine.kinds import JobKind, JobState
from finchwort.web.schemas.base import XY, In, Out

Spot = tuple[Coordinate, Coordinate]
Offset = Annotated[FiniteFloat, Field(ge=-20, le=20, description="a Z offset, mm")]
NOT_OF_THE_WISH = {"kind", "visit", "resume"}
"""What a wish carries beside what its kind of job is asked with."""


class Wish(In):
    """What is wanted of a machine, and in which visit."""

    visit: int | None = None


class PlainWish(Wish):
    """A job that needs nothing more said."""

    kind: Literal[
        JobKind.CONNECT,
        JobKind.TEMPERATURES,
        JobKind.HOME,
        JobKind.COOL,
        JobKind.SWITCHES,
        JobKind.WATCH,
        JobKind.PROBE_OUT,
        JobKind.PROBE_IN,
        JobKind.PROBE_TEST,
        JobKind.READ_OFFSET,
    ]


class HeatWish(Wish):
    """How hot bed and nozzle are to become, °C."""

    kind: Literal[JobKind.HEAT]
    bed: FiniteFloat | None = None
    nozzle: FiniteFloat | None = None


class ParkWish(Wish):
    """Where the head is to go, mm."""

    kind: Literal[JobKind.PARK]
    x: Coordinate
    y: Coordinate
    name: Annotated[str, StringConstraints(max_length=80)] | None = None


class RepeatabilityWish(Wish):
    """Where to touch, mm, and how often."""

    kind: Literal[JobKind.REPEATABILITY]
    x: Coordinate | None = None
    y: Coordinate | None = None
    count: Annotated[int, Field(ge=1, le=1000)] | None = None


class SoakWish(Wish):
    """Where to touch, mm, how far apart and for how long, s."""

    kind: Literal[JobKind.SOAK]
    x: Coordinate | None = None
    y: Coordinate | None = None
    every: FiniteFloat | None = None
    longest: FiniteFloat | None = None
    places: Annotated[
        int | None, Field(ge=1, le=9, description="how many places a warm-up is watched at, in turn")
    ] = None
    until_steady: bool | None = None


class GridWish(Wish):
    """Which places to probe, mm, or the rest of which job."""

    kind: Literal[JobKind.GRID]
    columns: Annotated[int, Field(ge=2, le=25)] | None = None
    rows: Annotated[int, Field(ge=2, le=25)] | None = None
    inset: Annotated[FiniteFloat, Field(ge=0, le=500)] | None = None
    points: Annotated[list[Spot], Field(max_length=625)] | None = None
    resume: Annotated[int | None, Field(description="job whose rest is wanted")] = None


class OffsetWish(Wish):
    """Which Z offset is to stand in the machine, and where it comes from."""

    kind: Literal[JobKind.OFFSET]
    value: Offset
    before: Annotated[Offset | None, Field(description="the Z offset on the machine's screen, mm")] = None
    margin: Annotated[FiniteFloat | None, Field(ge=0, le=5)] = None
    reason: (
        Literal[
            OffsetReason.TYPED,
            OffsetReason.PAPER,
            OffsetReason.PATCHES,
            OffsetReason.LADDER,
            OffsetReason.TRIM,
        ]
        | None
    ) = None


class TrimWish(Wish):
    """How much closer the tip is to come, mm."""

    kind: Literal[JobKind.TRIM]
    value: Annotated[FiniteFloat, Field(ge=-20, le=20)]


JobWish = Annotated[
    PlainWish | HeatWish | ParkWish | RepeatabilityWish | SoakWish | GridWish | OffsetWish | TrimWish,
    Field(discriminator="kind"),
]


class JobWanted(In):
    """A job that is wanted."""

    job: JobWish


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
    switches: dict[str, SwitchState] | None = None
    untouched: dict[str, SwitchState] | None = None
    watched: Annotated[
        list[dict[str, SwitchState]] | None,
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
    has_steps: Annotated[bool, Field(description="it can be stopped after the reading under way")]
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
