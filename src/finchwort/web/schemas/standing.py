"""What still holds after what happened, and what is to be done, as the API gives it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from finchwort.web.schemas.base import In, Key, Out
from finchwort.web.schemas.probing import SummaryIn, SwitchName, SwitchState

StepName = Literal[
    "sound",
    "warm",
    "trust",
    "measure",
    "judge",
    "level",
    "compensate",
    "offset",
    "first-layer",
    "finish",
]
StandingState = Literal["holds", "doubtful", "gone"]


class StandingOut(Out):
    """Whether something still holds, and what speaks against it."""

    state: StandingState
    reasons: list[str]


class HoldingOut(StandingOut):
    """One thing known of a printer."""

    thing: Literal["survey", "plan", "forecast", "mesh", "offset", "discs", "ladder", "touches", "knobs"]
    name: str
    word: str
    at: Annotated[datetime, Field(description="when it was found out")]


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
    why: str


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

    name: Literal["firmware", "offset", "mesh", "compensation", "steps"]
    title: str
    says: str
    book: str
    state: Literal["same", "other", "new", "untold"]
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

    kind: Literal["readings", "repeatability", "switches", "settings", "row"]
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
