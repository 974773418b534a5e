"""Cases as the API takes and gives them: what was seen, what it may be, what to look at next."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.diagnosis import Alarm, Answer, Came, CaseStep, NextMove, Strength
from finchwort.store.fields import Key
from finchwort.web.schemas.base import XY, In, Out, Said
from finchwort.web.schemas.printers import Bed

Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=500)]
Brief = Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)]
Known = Annotated[str, StringConstraints(max_length=40)]


class CasesQuery(In):
    """Which cases."""

    text: Annotated[str, StringConstraints(max_length=200)] = ""
    printer: int | None = None
    after: Annotated[int | None, Field(ge=1, description="the last case of the page before")] = None


class SignOut(Out):
    """A sign that can be looked for."""

    key: str
    ask: str
    hint: str
    drawing: str
    answer: Answer


class SignGroup(Out):
    """Signs that belong together."""

    key: str
    name: str
    signs: list[SignOut]


class CircumstanceOut(Out):
    """Something about a case that makes causes likelier."""

    key: str
    name: str
    proposed: Annotated[bool, Field(description="written down since the last case was closed")]


class AlarmOut(Out):
    """What comes before everything else, and which signs raise it when all of one row are told."""

    key: Alarm
    title: str
    now: str
    then: list[str]
    raised_by: list[list[str]]
    dealt_with: bool = False


class BeforeOut(Out):
    """Something that people have often tried already, and what came of it, if it was told."""

    key: str
    name: str
    came: Came | None


class SettingOut(Out):
    """A setting of the print that failed; a number or a word, or nothing while it is not known."""

    key: str
    name: str
    unit: str
    value: float | str | None
    low: float | None
    high: float | None
    choices: list[str]


class SetupOut(Out):
    """What the print that failed was made with, in one line, and where that comes from."""

    line: str
    source: str
    settings: list[SettingOut]


class CaseForm(Out):
    """What a new case is asked."""

    groups: list[SignGroup]
    first: Annotated[list[str], Field(description="signs that tell most, the best first")]
    circumstances: list[CircumstanceOut]
    before: list[BeforeOut]
    alarms: list[AlarmOut]
    setup: SetupOut


class WordsIn(In):
    """A complaint in somebody's own words."""

    words: Words


class HeardOut(Out):
    """A sign that the words speak of, to be confirmed."""

    key: str
    ask: str
    heard: Annotated[str, Field(description="the words that speak of it")]
    denied: Annotated[bool, Field(description="the words say that it is not so")]


class WordsOut(Out):
    """What was understood of a complaint."""

    heard: list[HeardOut]


class SignIn(In):
    """A sign, and whether it was seen."""

    sign: Known
    answer: Answer


class BeforeIn(In):
    """Something that was tried before, and what came of it."""

    what: Known
    came: Came


class SetupIn(In):
    """What the print that failed was made with; what is left out stays unknown.  °C, mm, mm/s, per cent."""

    surface: Annotated[str | None, StringConstraints(max_length=80)] = None
    material: Annotated[str | None, StringConstraints(max_length=80)] = None
    bed_temperature: Annotated[FiniteFloat | None, Field(ge=0, le=200)] = None
    nozzle_temperature: Annotated[FiniteFloat | None, Field(ge=0, le=500)] = None
    first_layer: Annotated[FiniteFloat | None, Field(ge=0.02, le=2)] = None
    height_set: Annotated[FiniteFloat | None, Field(ge=0.02, le=2)] = None
    speed: Annotated[FiniteFloat | None, Field(ge=1, le=1000)] = None
    fan: Annotated[FiniteFloat | None, Field(ge=0, le=100)] = None
    width: Annotated[FiniteFloat | None, Field(ge=0.1, le=3)] = None
    hole: Annotated[FiniteFloat | None, Field(ge=0.1, le=2)] = None
    foot_width: Annotated[FiniteFloat | None, Field(ge=0.5, le=2000)] = None
    foot_depth: Annotated[FiniteFloat | None, Field(ge=0.5, le=2000)] = None
    part_height: Annotated[FiniteFloat | None, Field(ge=0.1, le=2000)] = None
    prints_since_wash: Annotated[int | None, Field(ge=0, le=9999)] = None
    washed_with: Annotated[str | None, StringConstraints(pattern="^(soap|alcohol|cleaner)?$")] = None


class CaseIn(In):
    """A case to open."""

    client_key: Key
    words: Words = ""
    place: XY | None = None
    circumstances: Annotated[list[Known], Field(max_length=12)] = []
    signs: Annotated[list[SignIn], Field(max_length=120)] = []
    before: Annotated[list[BeforeIn], Field(max_length=20)] = []
    setup: SetupIn | None = None
    visit_id: int | None = None


class AnswerIn(SignIn):
    """A sign that was looked for in a case."""

    client_key: Key


class CheckIn(In):
    """How a check came out."""

    client_key: Key
    check: Known
    outcome: Known
    note: Words = ""


class RemedyIn(In):
    """An experiment to begin: the cause it is to mend, and what else was changed with it."""

    client_key: Key
    cause: Known
    others: Annotated[list[Brief], Field(max_length=6)] = []


class TriedIn(In):
    """What came of something that was tried before the case; "unknown" takes it back."""

    client_key: Key
    what: Known
    came: Annotated[str, StringConstraints(pattern="^(better|little|not_better|unknown)$")]


class SafeIn(In):
    """What an alarm asks for was done."""

    client_key: Key
    alarm: Alarm


class CorrectIn(In):
    """What the print that failed was made with, corrected."""

    client_key: Key
    setup: SetupIn


class OutcomeIn(In):
    """What came of an experiment."""

    client_key: Key
    came: Came
    note: Words = ""


class CloseIn(In):
    """What a case turned out to be."""

    client_key: Key
    cause: Known
    note: Words = ""


class ReopenIn(In):
    """A closed case is opened again."""

    client_key: Key


class ReasonOut(Out):
    """A finding and how it bears on a cause; above 1 for, below against."""

    words: Said
    factor: float
    strength: Strength


class WantedOut(Out):
    """What a remedy changes, from what to what."""

    what: str
    before: str
    after: str
    prediction: str


class WhereOut(Out):
    """A page on which something is done or found."""

    name: str
    path: str


class School(Out):
    """One way of doing it, and when it is right."""

    name: str
    when: str
    mind: str


class RankedOut(Out):
    """A cause with its probability, its reasons and its remedy."""

    key: str
    name: str
    probability: float
    speaks_for: list[ReasonOut]
    against: list[ReasonOut]
    remedy: str
    keep: str
    redo: str
    minutes: float
    caution: str
    page: WhereOut | None
    wanted: WantedOut
    schools: list[School]


class MeaningOut(Out):
    """One way a check can come out, and what it would mean."""

    key: str
    words: str
    probability: float
    cause: str
    then: float


class ProposalOut(Out):
    """A check that could be done next."""

    key: str
    title: str
    how: str
    minutes: float
    risk: int
    caution: str
    why: str
    gain: float
    risk_words: str
    page: WhereOut | None
    meanings: list[MeaningOut]


class EvidenceOut(Out):
    """Something that was known without being asked."""

    words: Said
    there: float


class EventOut(Out):
    """Something that happened in a case."""

    id: int
    at: datetime
    kind: CaseStep
    words: str
    note: str


class UnderWay(Out):
    """An experiment under way."""

    id: int
    key: str
    name: str
    wanted: WantedOut
    keep: str
    redo: str
    caution: str
    others: list[str]


class CaseLine(Out):
    """A case in a list."""

    id: int
    printer_id: int
    printer: str
    words: str
    opened_at: datetime
    cause: str | None
    likeliest: Annotated[str | None, Field(description="of a case that is open")]


class CasesOut(Out):
    """A page of cases, newest first; ``after`` asks for the next one."""

    cases: list[CaseLine]
    after: int | None


class CaseOut(Out):
    """A case with all that belongs to it."""

    id: int
    printer_id: int
    printer: str
    bed: Bed
    visit_id: int | None
    words: str
    opened_at: datetime
    place: XY | None
    strip: dict[str, Any]
    circumstances: list[str]
    closed: Annotated[str | None, Field(description="what it was, when it is closed")]
    closed_note: str
    sentence: str
    alike: list[str]
    ranked: list[RankedOut]
    shares: Annotated[str, Field(description="why the chances add up to more than 100 %, where they do")]
    alarm: AlarmOut | None
    next: Annotated[NextMove, Field(description="deal with the alarm, look further, or try a remedy")]
    remedy: Annotated[RankedOut | None, Field(description="whose remedy comes next")]
    again: Annotated[bool, Field(description="it was tried already and nothing else is left")]
    expected: Annotated[float, Field(description="minutes to be expected until it works")]
    ended_by: Annotated[str, Field(description="the cause whose remedy just made it better")]
    ended_with: Annotated[str, Field(description="the remedy that ended it, when it is closed")]
    setup: SetupOut
    before: list[BeforeOut]
    first: Annotated[list[str], Field(description="signs not answered yet that tell most, the best first")]
    proposals: list[ProposalOut]
    more: Annotated[
        list[ProposalOut], Field(description="checks not worth proposing, for who looked all the same")
    ]
    evidence: list[EvidenceOut]
    groups: list[SignGroup]
    under_way: UnderWay | None
    concluded: str
    events: list[EventOut]
