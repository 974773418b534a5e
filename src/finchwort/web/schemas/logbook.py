"""The logbook as the API takes and gives it."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import StringConstraints

from finchwort.web.schemas.base import In, Out

EntryKind = Literal[
    "printer",
    "survey",
    "turning",
    "verdict",
    "note",
    "finding",
    "test",
    "job",
    "adjustment",
    "offset",
    "change",
    "case",
]


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


class Logbook(Out):
    """A page of the logbook; ``before`` asks for the next one."""

    entries: list[EntryOut]
    before: str | None


class NoteIn(In):
    """A note for the logbook."""

    text: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=2000)]
    printer: int | None = None
