"""Plans, turnings and rounds as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.base.kinds import Rotation
from finchwort.core.first_layer import JudgedStep
from finchwort.core.levelling import AdjustmentKind
from finchwort.core.probing import Drag
from finchwort.core.surveys import Reference
from finchwort.core.tramming import BenchAsk, BenchPhase, BenchStepKind, Decision, TurnAction, TurnReason
from finchwort.store.fields import Key, ScrewName
from finchwort.web.schemas.base import In, Out, Said
from finchwort.web.schemas.first_layer import StepExample
from finchwort.web.schemas.printers import Bed
from finchwort.web.schemas.surveys import Relief, SurveyOut, Verdict

Turns = Annotated[dict[ScrewName, Annotated[FiniteFloat, Field(ge=-20, le=20)]], Field(max_length=9)]


class TurnOut(Out):
    """What to do at one screw; turns are positive for tightening."""

    name: str
    x: float
    y: float
    action: TurnAction
    reason: TurnReason
    exact: float
    rounded: float
    uncertainty: float
    wanted: float
    move: float
    figures: str
    words: str
    direction: Rotation
    tightens: Annotated[Rotation, Field(description="the way that tightens, as the person sees this knob")]
    sentence: str
    why: Annotated[str | None, Field(description="why it is left, when it is")]
    short: Annotated[str | None, Field(description="said when the spring's limit cuts the turn short")]
    room: Annotated[str | None, Field(description="travel left in the spring, when it is known")]
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
    reference: Reference = Reference.LEAST_SQUARES
    points: Annotated[
        str | None,
        StringConstraints(pattern=r"^\d{1,5},\d{1,5},\d{1,5}$"),
        Field(description="three readings, for a plane through them"),
    ] = None


class DatumOut(Out):
    """A plane that may count as the tilt, and what it leaves."""

    reference: Reference
    label: str
    hint: str
    peak_to_valley: float
    rms: float
    used: list[int]
    chosen: bool


class OutlookOut(Out):
    """How sure a plan is; tilt from corner to corner, mm."""

    decision: Decision
    need: float
    chance: float
    chance_words: str
    tilt_now: float
    tilt_after: float
    now_margin: float
    after_margin: float
    tolerance: float
    sentence: str


class OrderOut(Out):
    """In which order to turn."""

    names: list[str]
    why: Said


class PlanOut(Out):
    """Turns for all screws and the bed they should give."""

    survey_id: int
    hold: str
    holds: list[Hold]
    reference: Reference
    datums: list[DatumOut]
    turns: list[TurnOut]
    order: OrderOut
    outlook: OutlookOut
    learned_sentence: str
    slipping: Annotated[str | None, Field(description="said when a knob does less than it should")]
    suggested_hold: Annotated[str | None, Field(description="a screw to hold, so that the round tells more")]
    done: bool
    spread_before: float
    spread_after: float
    centre_change: float
    one_side: Annotated[str | None, Field(description="how play drops out where a knob is loosened")]
    centre_sentence: str
    noise: float
    noise_known: bool
    noise_sentence: str
    heights: list[float]
    relief: Relief
    verdict: Verdict


class WhatIfIn(PlanQuery):
    """Turns to try in thought."""

    turns: Turns


class TurnedKnob(Out):
    """A knob as it would be turned."""

    name: str
    turns: float
    figures: str
    words: Annotated[str, Field(description="which way, in a word")]


class WhatIfOut(Out):
    """The bed that other turns would give."""

    spread: float
    tilt: float
    margin: float
    chance: float
    chance_words: str
    centre_change: float
    knobs: int
    screws: list[TurnedKnob]
    turned: float
    heights: list[float]
    relief: Relief
    verdict: Verdict
    sentence: str


class TurningIn(PlanQuery):
    """What was turned."""

    client_key: Key
    done: Turns
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class TurnedScrew(Out):
    """What was planned and done at one screw, turns, positive tightens."""

    name: str
    planned: float
    done: float
    figures: str
    action: TurnAction


class TurningOut(Out):
    """A recorded turning."""

    id: int
    turned_at: datetime
    hold: str
    spread_expected: float
    note: str
    screws: list[TurnedScrew]
    keep: Annotated[
        KeptOffset | None, Field(description="the offset that keeps the first layer after these turns")
    ]


class KeptOffset(Out):
    """The offset that keeps the first layer after the bed was turned."""

    value: float
    before: float
    parts: dict[str, float]
    rise: Annotated[float, Field(description="of the middle of the bed towards the tip, mm")]
    sentence: str


class FindingOut(Out):
    """Something a round showed."""

    kind: str
    sentence: Said
    screws: list[str]


class ReviewOut(Out):
    """A round looked back on."""

    spread_before: float
    spread_after: float
    spread_expected: float
    as_expected: bool
    findings: list[FindingOut]


class AdjustmentOut(Out):
    """Something done to the bed besides turning its screws, or a mesh that was stored."""

    id: int
    kind: AdjustmentKind
    made_at: datetime
    title: str
    detail: str
    note: str


class RoundOut(Out):
    """A survey, the turning after it, and what the turning before it came to."""

    survey: SurveyOut
    turning: TurningOut | None
    adjustments: list[AdjustmentOut]
    moved: Annotated[bool, Field(description="whether the bed was moved after this survey")]
    review: ReviewOut | None


class KnobLearned(Out):
    """What one knob really does; shares of what a rigid plate on equal springs would do."""

    name: str
    share: float
    sd: float
    words: str
    slips: Annotated[float, Field(description="probability that it does much less than it should")]
    corners: Annotated[
        list[float],
        Field(
            description="rise of the bed's corners for one turn of tightening, counter-clockwise from the front left, mm"
        ),
    ]
    expected: Annotated[list[float], Field(description="the same for a rigid plate on equal springs, mm")]


class LearnedOut(Out):
    """What the rounds taught about a printer's knobs."""

    rounds: int
    since: datetime | None
    knobs: list[KnobLearned]
    lost: float
    lost_sd: float
    lost_sentence: str
    slipping: str | None
    named: str | None
    suspects: list[str]
    sentence: str
    hand: Annotated[str, Field(description="how truly knobs are turned in this workshop")]
    hand_sd: Annotated[float, Field(description="standard deviation of one turn, turns")]


class MendedIn(In):
    """From when on rounds count; null lets all count."""

    since: datetime | None
    note: Annotated[str, StringConstraints(max_length=500)] = ""


class MendedOut(Out):
    """From when on rounds counted before, so that it can be undone."""

    before: datetime | None


LookPlace = Literal[
    "front left", "front right", "back right", "back left", "middle", "front", "right", "back", "left"
]


class BenchPlace(Out):
    """A place at which the strip is felt."""

    name: str
    x: float
    y: float
    knob: Annotated[bool, Field(description="whether a knob is near; the centre has none")]
    feel: Annotated[Drag | None, Field(description="the newest that still counts")]
    height: Annotated[float, Field(description="over where the strip just drags, mm")]
    sd: float


class BenchStepOut(Out):
    """A step that was taken."""

    id: int
    at: datetime
    what: BenchStepKind
    place: int
    sentence: str


class BenchTurn(Out):
    """A knob to turn now."""

    name: str
    action: Literal[TurnAction.TIGHTEN, TurnAction.LOOSEN]
    direction: Rotation
    bold: Annotated[float, Field(description="for those who count, turns, positive tightens")]
    bold_words: str
    bold_figures: str


class BenchOut(Out):
    """Where levelling at the bench stands, and what is next."""

    visit_id: int
    bed: Bed
    places: list[BenchPlace]
    steps: list[BenchStepOut]
    phase: BenchPhase
    place: Annotated[int | None, Field(description="where to go")]
    ask: BenchAsk
    turn: BenchTurn | None
    passes: int
    turnings: int
    low: float | None
    likely: float | None
    high: Annotated[float | None, Field(description="highest less lowest corner: 95 % and the middle, mm")]
    title: str
    sentence: str
    why: str
    shape: Annotated[str | None, Field(description="what the centre says of warp and tilt")]
    open: Annotated[bool, Field(description="whether the centre is known on one side only")]


class BenchStepIn(In):
    """A step at the bench."""

    client_key: Key
    what: BenchStepKind
    place: Annotated[int, Field(ge=0, le=9)]
    feel: Drag | None = None
    turns: Annotated[FiniteFloat | None, Field(ge=-20, le=20, description="positive tightens")] = None
    value: Annotated[FiniteFloat | None, Field(ge=-2, le=2, description="height over the corners, mm")] = None


class BenchFinishIn(In):
    """What was found is to be stored."""

    client_key: Key


class LookPlaceOut(Out):
    """A place at which a first layer is looked at."""

    place: LookPlace
    x: float
    y: float
    edge: Annotated[bool, Field(description="in the middle of an edge, looked at when corners leave a doubt")]
    step: JudgedStep | None


class LookTurn(Out):
    """A knob that a look asks to turn."""

    name: str
    action: Literal[TurnAction.TIGHTEN, TurnAction.LOOSEN]
    turns: float
    figures: str
    words: str
    direction: Rotation


class LooksOut(Out):
    """How a first layer looks, and what follows."""

    visit_id: int
    bed: Bed
    places: list[LookPlaceOut]
    rows: Annotated[
        list[list[LookPlace]], Field(description="as the bed lies before the person, the back first")
    ]
    what: Literal["look", "turn", "trim", "leave", "other"]
    turn: LookTurn | None
    closer: float
    sentence: str
    trial: int | None
    examples: Annotated[list[StepExample], Field(description="what the five looks are")]
    spacing: float
    sliced: float
    mesh: Annotated[bool, Field(description="whether a mesh is in the machine, which any knob would spoil")]


class LooksIn(In):
    """How places of a first layer look."""

    client_key: Key
    looks: Annotated[dict[LookPlace, JudgedStep], Field(min_length=1, max_length=9)]
    printing: bool = False


class LooksQuery(In):
    """Whether it still prints."""

    printing: bool = False


class LookTurned(In):
    """A knob that was turned on a look."""

    client_key: Key
    name: str
    turns: Annotated[FiniteFloat, Field(ge=-2, le=2)]
