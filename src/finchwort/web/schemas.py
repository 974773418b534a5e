"""What the API takes and gives.  Lengths are mm, heights positive towards the nozzle."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, FiniteFloat, StringConstraints

Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80)]
ScrewName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40)]
Key = Annotated[str, StringConstraints(pattern=r"^[0-9A-Za-z-]{8,36}$")]
Side = Annotated[FiniteFloat, Field(ge=40, le=2000)]
Coordinate = Annotated[FiniteFloat, Field(ge=-5000, le=5000)]
LayerHeight = Annotated[FiniteFloat, Field(ge=0.05, le=1.0)]
BedTemperature = Annotated[FiniteFloat, Field(ge=0, le=200)]
NozzleTemperature = Annotated[FiniteFloat, Field(ge=0, le=500)]
Origin = Literal["front_left", "centre"]


class In(BaseModel):
    """Base of what comes in: nothing unknown is taken."""

    model_config = ConfigDict(extra="forbid")


class Out(BaseModel):
    """Base of what goes out."""

    model_config = ConfigDict(json_schema_serialization_defaults_required=True)


class Problem(Out):
    """An error, RFC 9457, with the fields and lines it is about."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[FieldError] = []
    lines: list[LineProblem] = []


class FieldError(Out):
    """What is wrong with one field."""

    field: str
    message: str


class LineProblem(Out):
    """A line of a text that could not be read."""

    line: int
    text: str
    reason: str


# printers ---------------------------------------------------------------------------------------


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


class Version(In):
    """The version a change starts from."""

    version: int


class XY(Out):
    """A place on the bed."""

    x: float
    y: float


class Rectangle(Out):
    """A rectangle, mm."""

    x_min: float
    y_min: float
    x_max: float
    y_max: float


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


# reliefs, figures and surveys -------------------------------------------------------------------


class Relief(Out):
    """Heights on a regular grid over the printable area, and how to draw them."""

    columns: int
    rows: int
    heights_um: Annotated[
        list[int], Field(description="row by row from the front left, micrometres above the datum")
    ]
    datum: Annotated[float, Field(description="height that is drawn as zero, mm")]
    low: float
    high: float
    step: Annotated[float, Field(description="contour step, mm")]
    levels: Annotated[list[float], Field(description="contour heights, mm above the datum")]
    limit: Annotated[float, Field(description="height of the deepest tint, mm")]


class Verdict(Out):
    """A judgement."""

    level: Literal["level", "turn", "compensate", "warped"]
    word: str
    sentence: str


class Figures(Out):
    """Figures of a survey; names after ISO 12781-1."""

    count: int
    spread: float
    peak_to_valley: float
    peak: float
    valley: float
    rms: float
    tilt_x: float
    tilt_y: float
    bow_x: float
    bow_y: float
    twist: float
    remainder_rms: float
    shape: str
    shape_sentence: str
    verdict: Verdict


class MinimumZone(Out):
    """Flatness by the minimum zone."""

    peak_to_valley: float


class Map(Out):
    """Everything that the map of a survey shows."""

    survey_id: int
    bed: Bed
    screws: list[ScrewOut]
    x: list[float]
    y: list[float]
    measured: list[float]
    level: list[float]
    outline: list[XY]
    measured_relief: Relief
    level_relief: Relief
    figures: Figures


class PointIn(In):
    """A typed reading; a height, or a gap."""

    x: Coordinate
    y: Coordinate
    value: FiniteFloat


class BoundsIn(In):
    """Where the outer readings of a grid lie."""

    x_min: Coordinate
    y_min: Coordinate
    x_max: Coordinate
    y_max: Coordinate


class ReadingsIn(In):
    """Readings as typed points or as text, with what the person says about them."""

    points: Annotated[list[PointIn], Field(max_length=20_000)] | None = None
    text: Annotated[str, StringConstraints(max_length=1_000_000)] | None = None
    layout: Literal["points", "grid"] | None = None
    values: Literal["height", "gap"] | None = None
    unit: Literal["mm", "um"] | None = None
    flip_x: bool = False
    flip_y: bool = False
    bounds: BoundsIn | None = None


class PreviewIn(ReadingsIn):
    """Readings to be understood, before they are stored."""

    first_layer: LayerHeight | None = None


class Waiting(Out):
    """Readings that cannot make a bed yet, because more of them are still to come."""

    reason: str


class Preview(Out):
    """What was understood."""

    layout: Literal["points", "grid"]
    columns: int | None
    rows: int | None
    values: Literal["height", "gap"]
    unit: Literal["mm", "um"]
    bounds: Rectangle | None
    assumptions: list[str]
    lines: list[LineProblem]
    unread: int
    bed: Bed
    screws: list[ScrewOut]
    x: list[float]
    y: list[float]
    height: list[float]
    outline: list[XY]
    relief: Relief
    figures: Figures


class PreviewOut(Out):
    """What was understood, or for what it still waits."""

    preview: Preview | None = None
    waiting: Waiting | None = None


class SurveyIn(ReadingsIn):
    """Readings to be stored."""

    client_key: Key
    source: Literal["typed", "pasted", "file"] = "typed"


class SurveyOut(Out):
    """A stored survey, as it was judged then."""

    id: int
    taken_at: datetime
    source: str
    assumptions: list[str]
    count: int
    spread: float
    peak_to_valley: float
    rms: float
    tilt_x: float
    tilt_y: float
    shape: str
    verdict: Literal["level", "turn", "compensate", "warped"]
    word: str


# plans and turnings -----------------------------------------------------------------------------


class TurnOut(Out):
    """What to do at one screw; turns are positive for tightening."""

    name: str
    x: float
    y: float
    action: Literal["tighten", "loosen", "leave"]
    reason: Literal["turn", "noise", "small", "held"]
    exact: float
    rounded: float
    uncertainty: float
    wanted: float
    move: float
    figures: str
    words: str
    direction: Literal["clockwise", "counterclockwise"]
    sentence: str
    pitch: float
    step: float
    divisions: int


class Hold(Out):
    """A way to plan."""

    value: str
    label: str
    effect: str


class PlanQuery(In):
    """Which plan is wanted."""

    hold: Annotated[str, StringConstraints(min_length=1, max_length=40)] = "centre"


class PlanOut(Out):
    """Turns for all screws and the bed they should give."""

    survey_id: int
    hold: str
    holds: list[Hold]
    turns: list[TurnOut]
    done: bool
    spread_before: float
    spread_after: float
    centre_change: float
    centre_sentence: str
    noise: float
    noise_known: bool
    noise_sentence: str
    heights: list[float]
    relief: Relief
    verdict: Verdict


class TurningIn(In):
    """What was turned."""

    client_key: Key
    hold: Annotated[str, StringConstraints(min_length=1, max_length=40)] = "centre"
    done: Annotated[dict[ScrewName, Annotated[FiniteFloat, Field(ge=-20, le=20)]], Field(max_length=9)]
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class TurnedScrew(Out):
    """What was planned and done at one screw, turns, positive tightens."""

    name: str
    planned: float
    done: float
    figures: str
    action: Literal["tighten", "loosen", "leave"]


class TurningOut(Out):
    """A recorded turning."""

    id: int
    turned_at: datetime
    hold: str
    spread_expected: float
    note: str
    screws: list[TurnedScrew]


class FindingOut(Out):
    """Something a round showed."""

    kind: str
    sentence: str
    screws: list[str]


class ReviewOut(Out):
    """A round looked back on."""

    spread_before: float
    spread_after: float
    spread_expected: float
    as_expected: bool
    findings: list[FindingOut]


class RoundOut(Out):
    """A survey, the turning after it, and what the turning before it came to."""

    survey: SurveyOut
    turning: TurningOut | None
    review: ReviewOut | None


# visits, workshop, logbook ----------------------------------------------------------------------


class StripIn(In):
    """The setup strip."""

    surface: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    material: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    bed_temperature: BedTemperature | None = None
    nozzle_temperature: NozzleTemperature | None = None
    first_layer: LayerHeight | None = None


class VisitChange(StripIn):
    """A changed strip or note, with the version it was changed from."""

    version: int
    note: Annotated[str, StringConstraints(max_length=2000)] | None = None


class FinishIn(In):
    """The end of a visit."""

    note: Annotated[str, StringConstraints(max_length=2000)] = ""


class StepOut(Out):
    """A step of the route."""

    name: Literal["measure", "judge", "level", "finish"]
    state: Literal["to_do", "doing", "done", "skipped", "out_of_date"]
    why: str


class VisitOut(Out):
    """A visit with its rounds."""

    id: int
    version: int
    printer: PrinterOut
    started_at: datetime
    ended_at: datetime | None
    surface: str
    material: str
    bed_temperature: float | None
    nozzle_temperature: float | None
    first_layer: float
    note: str
    route: list[StepOut]
    rounds: list[RoundOut]


class VisitLine(Out):
    """A visit in a list."""

    id: int
    started_at: datetime
    ended_at: datetime | None
    surveys: int
    turnings: int
    first_spread: float | None
    last_spread: float | None
    verdict: str | None
    word: str | None


class PrinterPage(Out):
    """A printer with its visits, newest first."""

    printer: PrinterOut
    visits: list[VisitLine]


class PrinterCard(Out):
    """A printer on the workshop page."""

    printer: PrinterOut
    open_visit: int | None
    last: SurveyOut | None
    relief: Relief | None
    history: list[VisitLine]


class WorkshopOut(Out):
    """The workshop and its printers."""

    name: str
    version: int
    cards: list[PrinterCard]


class WorkshopIn(In):
    """Another name for the workshop."""

    name: Name
    version: int


class EntryOut(Out):
    """A line of the logbook."""

    id: int
    at: datetime
    kind: Literal["printer", "survey", "turning", "verdict", "note"]
    title: str
    detail: str
    printer_id: int | None
    printer: str | None
    visit_id: int | None


class LogbookQuery(In):
    """What to look for in the logbook."""

    q: Annotated[str, StringConstraints(max_length=200)] = ""
    printer: int | None = None
    kind: Literal["printer", "survey", "turning", "verdict", "note"] | None = None
    before: Annotated[str, StringConstraints(max_length=60)] | None = None


class Logbook(Out):
    """A page of the logbook; ``before`` asks for the next one."""

    entries: list[EntryOut]
    before: str | None


class NoteIn(In):
    """A note for the logbook."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
    printer: int | None = None


class Done(Out):
    """The record that was deleted or brought back."""

    id: int


class Health(Out):
    """Whether the product can work."""

    ok: bool
    version: str
