"""Visits and the workshop as the API takes and gives them."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from finchwort.web.schemas.base import BedTemperature, In, LayerHeight, Name, NozzleTemperature, Out
from finchwort.web.schemas.printers import PrinterOut, SuitOut
from finchwort.web.schemas.probing import ItemOut, TestOut, Weaknesses
from finchwort.web.schemas.standing import AfterOut, NextOut, StandingOut, StepName
from finchwort.web.schemas.surveys import Relief, SurveyOut
from finchwort.web.schemas.tramming import RoundOut


class StripIn(In):
    """The setup strip."""

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
