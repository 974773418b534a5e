"""Prints as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from pydantic import Field, FiniteFloat, StringConstraints

from finchwort.core.prints import LettingGo, LookKind, LookState, PrintOrigin, PrintOutcome, Seen
from finchwort.store.fields import BedTemperature, Key, LayerHeight, Note, NozzleTemperature
from finchwort.web.schemas.base import XY, In, Out
from finchwort.web.schemas.printers import Bed

Minutes = Annotated[FiniteFloat, Field(ge=0, le=7 * 24 * 60)]
Whole = Annotated[FiniteFloat, Field(ge=1, le=7 * 24 * 60)]
Grams = Annotated[FiniteFloat, Field(ge=0, le=100_000)]
KiloPrice = Annotated[FiniteFloat, Field(ge=0, le=10_000)]
Named = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80)]


class PrintFormQuery(In):
    """From what a print is to be begun."""

    file: int | None = None
    visit: int | None = None
    test: bool = False


class OnSurface(Out):
    """A surface of the printer, with what was printed on it since it was washed."""

    name: str
    kind: str
    prints: int
    coats: int


class PrintForm(Out):
    """With what a print would be begun; °C, mm, minutes, grams."""

    printer_id: int
    printer: str
    origin: PrintOrigin
    name: str
    surface: str
    surface_kind: str
    material: str
    bed_temperature: float | None
    nozzle_temperature: float | None
    first_layer: float
    minutes: float | None
    grams: float | None
    price: float | None
    surfaces: list[OnSurface]
    notes: Annotated[list[str], Field(description="what to know before it begins")]
    running: Annotated[int | None, Field(description="the print of which nobody told what came of it")]
    running_name: str


class PrintTold(In):
    """What is told of a print; what is left out stays as it is."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120)] = ""
    surface: Named = ""
    surface_kind: Annotated[str, StringConstraints(max_length=40)] = ""
    material: Named = ""
    bed_temperature: BedTemperature | None = None
    nozzle_temperature: NozzleTemperature | None = None
    first_layer: LayerHeight = 0.2
    minutes: Whole | None = None
    grams: Grams | None = None
    price: KiloPrice | None = None


class PrintIn(PrintTold):
    """A print that begins, or began a while ago."""

    client_key: Key
    file_id: int | None = None
    visit_id: int | None = None
    test: bool = False
    ago: Annotated[FiniteFloat, Field(ge=0, le=7 * 24 * 60, description="minutes")] = 0.0


class PrintChange(PrintTold):
    """What is set right of a print, with the version it was changed from."""

    version: int
    note: Note = ""


class PrintLookIn(In):
    """A look at a print."""

    client_key: Key
    seen: Seen
    note: Note = ""


class PrintEndIn(In):
    """What came of a print; minutes after its start."""

    client_key: Key
    version: int
    outcome: PrintOutcome
    minutes: Minutes | None = None
    how: LettingGo | None = None
    place: Annotated[XY | None, Field(description="where it let go")] = None
    note: Note = ""
    case: Annotated[bool, Field(description="whether a case is opened")] = False


class PrintLookOut(Out):
    """A look as it was written down."""

    id: int
    at: datetime
    seen: Seen
    note: str


class ClockOut(Out):
    """A look that was planned, and what became of it."""

    kind: LookKind
    title: str
    state: LookState
    due: datetime
    late: datetime
    at: datetime | None
    was_late: bool


class WantedLookOut(Out):
    """The look that is due, or comes next, and what good looks like then."""

    kind: LookKind
    title: str
    good: str
    due: datetime
    late: bool


class ChoiceOut(Out):
    """One of several answers."""

    key: str
    words: str


class PrintBrief(Out):
    """A print that runs, or of which nobody told what came of it."""

    id: int
    printer_id: int
    printer: str
    name: str
    material: str
    surface: str
    runs: bool
    over: bool
    started_at: datetime
    ends_at: datetime | None
    looks: int
    last_seen: Seen | None
    wanted: WantedLookOut | None
    coming: WantedLookOut | None
    due_sentence: str


class RunningPrints(Out):
    """Prints of which nobody told what came of them, the most pressing first."""

    prints: list[PrintBrief]


class PrintOut(Out):
    """A print with its clock, its looks and what came of it; °C, mm, minutes, grams."""

    id: int
    version: int
    printer_id: int
    printer: str
    bed: Bed
    origin: PrintOrigin
    file_id: int | None
    visit_id: int | None
    case_id: int | None
    name: str
    surface: str
    surface_kind: str
    material: str
    bed_temperature: float | None
    nozzle_temperature: float | None
    first_layer: float
    minutes: float | None
    grams: float | None
    price: float | None
    note: str
    made_with: str
    why: str
    started_at: datetime
    ends_at: datetime | None
    ended_at: datetime | None
    runs: bool
    over: bool
    outcome: PrintOutcome | None
    outcome_words: str
    how: str
    ran: float | None
    x: float | None
    y: float | None
    cost: Annotated[float | None, Field(description="of the material, where it failed")]
    looks: list[PrintLookOut]
    clock: list[ClockOut]
    wanted: WantedLookOut | None
    coming: WantedLookOut | None
    saves: str
    usual_end: Annotated[float, Field(description="guessed, minutes after the start")]
    usual_letting_go: float
    outcomes: list[ChoiceOut]
    hows: list[ChoiceOut]
    cautions: list[str]


class PrintPath(Out):
    """The walls of a print's first layer, for a picture: places x, y by turns, mm."""

    paths: list[list[float]]


class PrintsQuery(In):
    """Which prints are listed."""

    text: Annotated[str, StringConstraints(max_length=200)] = ""
    printer: int | None = None
    after: int | None = None


class PrintLine(Out):
    """A print of which it was told what came of it."""

    id: int
    printer_id: int
    printer: str
    name: str
    material: str
    surface: str
    started_at: datetime
    lasted: str
    outcome: PrintOutcome
    outcome_words: str
    case_id: int | None


class PrintsOut(Out):
    """A page of prints, newest first; ``after`` asks for the next one."""

    prints: list[PrintLine]
    after: int | None


class ShareOut(Out):
    """How many of all held, with bounds of the share."""

    held: int
    told: int
    low: float
    high: float
    few: bool
    words: str


class BandResultOut(Out):
    """What came of prints at one bed temperature, °C."""

    bed: float | None
    share: ShareOut


class PairResultOut(Out):
    """What came of a material on a kind of surface, beside the table."""

    surface_kind: str
    surface: str
    material: str
    share: ShareOut
    let_go: int
    too_well: int
    bands: list[BandResultOut]
    sentence: str


class PrinterResultOut(Out):
    """What came of the prints of a printer, how they let go over time, and where."""

    printer_id: int
    printer: str
    share: ShareOut
    sentence: str
    bed: Bed
    places: list[XY]


class MonthResultOut(Out):
    """What came of the prints of a month, as in 2026-11."""

    month: str
    share: ShareOut


class PrintResultsOut(Out):
    """What came of all prints."""

    share: ShareOut
    pairs: list[PairResultOut]
    printers: list[PrinterResultOut]
    months: list[MonthResultOut]
    coats: list[str]


class SheetOut(Out):
    """What was printed on a surface."""

    name: str
    prints: int
    hours: float
    let_go: int


class CountedOut(Out):
    """What the prints of a printer add up to."""

    nozzle_hours: float
    nozzle_due: Annotated[float, Field(description="hours after which its tip is looked at")]
    nozzle_since: datetime | None
    sheets: list[SheetOut]
    failed: int
    lost_hours: float
    lost_grams: float
    lost_cost: float
    sentence: str


class CalendarOut(Out):
    """The calendar of what is due; the path is empty where it is off."""

    path: str


class CalendarIn(In):
    """The calendar is given a new address, or none."""

    on: bool
