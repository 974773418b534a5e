"""Visits and the workshop as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import AwareDatetime, Field, StringConstraints

from finchwort.core.machine import ToldName, ToldState
from finchwort.core.probing import SwitchState
from finchwort.core.surveys import PastedKind
from finchwort.core.visits import DueKind, EntryKind, StandingState, StepName, StepState, Thing
from finchwort.store.fields import BedTemperature, Key, LayerHeight, Name, NozzleTemperature
from finchwort.web.schemas.base import In, Out, Said
from finchwort.web.schemas.printers import PrinterOut, SuitOut
from finchwort.web.schemas.probing import ItemOut, SummaryIn, SwitchName, TestOut, Weaknesses
from finchwort.web.schemas.surveys import Relief, SurveyOut
from finchwort.web.schemas.tramming import RoundOut


class StandingOut(Out):
    """Whether something still holds, and what speaks against it."""

    state: StandingState
    reasons: list[str]


class HoldingOut(StandingOut):
    """One thing known of a printer."""

    thing: Thing
    name: str
    word: str
    at: Annotated[datetime, Field(description="when it was found out")]


class DueOut(Out):
    """One thing that is due at a printer: what to do and why; where it is done follows from its kind."""

    kind: DueKind
    printer_id: int
    printer: str
    visit_id: Annotated[int | None, Field(description="the visit that is open there")]
    case_id: int | None
    print_id: int | None
    sentence: str


class TodayOut(Out):
    """What is due in the workshop, the most pressing first."""

    due: list[DueOut]


class AfterStepOut(Out):
    """One thing to do after something happened."""

    name: str
    title: str
    how: str
    caution: str
    by_hand: bool
    done: bool


class AfterOut(Out):
    """What is to be done after something happened, in this order."""

    title: str
    steps: list[AfterStepOut]
    left: int


class StandingsOut(Out):
    """All that is known of a printer, whether it still holds, and what is to be done."""

    things: list[HoldingOut]
    after: AfterOut | None


class NextOut(Out):
    """The step of a visit that comes next."""

    name: StepName
    why: Said


class TickIn(In):
    """A step that a person did."""

    client_key: Key
    step: str
    visit_id: int | None = None


class LeaveOutIn(In):
    """The rest of a list is left out."""

    client_key: Key
    visit_id: int | None = None


class ComparedOut(Out):
    """One thing a machine said of itself, beside the book."""

    name: ToldName
    title: str
    says: str
    book: str
    state: ToldState
    sentence: str


class PastedIn(In):
    """Text copied from a machine's console."""

    text: Annotated[str, StringConstraints(min_length=1, max_length=200_000)]


class ToldIn(PastedIn):
    """Settings copied from a machine, to be kept."""

    client_key: Key


class SettingsKeptOut(Out):
    """What was kept of a machine's settings, beside the book."""

    rows: list[ComparedOut]


class FindOut(Out):
    """One thing that a text tells, and where it belongs."""

    kind: PastedKind
    title: str
    sentence: str
    step: Annotated[str, Field(description="of the visit, where it belongs; empty when at the printer")]
    heights: list[float]
    summary: SummaryIn | None
    switches: dict[SwitchName, SwitchState]
    rows: list[ComparedOut]


class PastedOut(Out):
    """What a text tells, each with the place it belongs to."""

    finds: list[FindOut]


class ToldOut(Out):
    """What a machine said of itself when it was connected last, beside the book as it is now."""

    at: datetime | None
    machine: str
    can: Annotated[list[str], Field(description="what it says it can do")]
    rows: list[ComparedOut]
    untold: Annotated[str, Field(description="what it does not tell; empty when it tells everything")]


class EntryOut(Out):
    """A line of the logbook; without a device it came from the computer that Finchwort runs on."""

    id: int
    at: datetime
    kind: EntryKind
    title: str
    detail: str
    printer_id: int | None
    printer: str | None
    visit_id: int | None
    device: str | None


class LogbookQuery(In):
    """What to look for in the logbook."""

    q: Annotated[str, StringConstraints(max_length=200)] = ""
    printer: int | None = None
    kind: EntryKind | None = None
    before: Annotated[str, StringConstraints(max_length=60)] | None = None
    until: AwareDatetime | None = None
    """Only what was written before this moment: the end of a day, where the reader is."""


class Logbook(Out):
    """A page of the logbook; ``before`` asks for the next one."""

    entries: list[EntryOut]
    before: str | None


class NoteIn(In):
    """A note for the logbook."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
    printer: int | None = None


class StripIn(In):
    """The setup bar."""

    surface: Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)] | None = None
    surface_kind: Annotated[str, StringConstraints(max_length=40)] | None = None
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

    name: StepName
    state: StepState
    why: Said


class VisitOut(Out):
    """A visit with its rounds."""

    id: int
    version: int
    printer: PrinterOut
    started_at: datetime
    ended_at: datetime | None
    surface: str
    surface_kind: str
    material: str
    bed_temperature: float | None
    nozzle_temperature: float | None
    first_layer: float
    note: str
    suit: SuitOut
    route: list[StepOut]
    rounds: list[RoundOut]
    items: list[ItemOut]
    tests: list[TestOut]
    weaknesses: Weaknesses
    bed: Annotated[StandingOut | None, Field(description="whether the newest survey still shows the bed")]
    after: AfterOut | None
    next: NextOut | None


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
    bed: StandingOut | None
    after: AfterOut | None
    next: NextOut | None


class WorkshopOut(Out):
    """The workshop and its printers."""

    name: str
    version: int
    cards: list[PrinterCard]


class WorkshopIn(In):
    """Another name for the workshop."""

    name: Name
    version: int
