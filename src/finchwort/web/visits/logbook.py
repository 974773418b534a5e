"""The logbook."""

from __future__ import annotations

import csv
import io
from datetime import UTC, datetime

from apiflask import APIBlueprint
from flask import Response

from finchwort.core.base.errors import ChoiceError
from finchwort.store.models import Entry
from finchwort.store.printers.printers import get_printer
from finchwort.store.visits import logbook as store
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.deletion import deletable

FIRST_YEAR, LAST_YEAR = 1970, 9000
"""Nothing was written down before, or will be after."""
blueprint = APIBlueprint("logbook", __name__, url_prefix="/api", tag="logbook")

MAX_EXPORTED = 100_000
RISKY = ("=", "+", "-", "@", "\t", "\r")
"""A cell that begins so would be run as a formula by a spreadsheet."""


def _mark(entry: Entry) -> str:
    return f"{entry.at.isoformat()}~{entry.id}"


def _known(moment: datetime) -> bool:
    return FIRST_YEAR <= moment.year <= LAST_YEAR


def _parse_until(moment: datetime | None) -> datetime | None:
    if moment is not None and not _known(moment):
        raise ChoiceError("visits.page_logbook_does_not")
    return moment and moment.astimezone(UTC)


def _parse_mark(mark: str | None) -> tuple[datetime, int] | None:
    if mark is None:
        return None
    at, _, ident = mark.replace(" ", "+").partition("~")
    try:
        moment = datetime.fromisoformat(at)
        moment = moment.astimezone(UTC) if moment.tzinfo else moment.replace(tzinfo=UTC)
        number = int(ident)
    except (ValueError, OverflowError):
        raise ChoiceError("visits.page_logbook_does_not") from None
    if not (_known(moment) and 0 <= number < 2**63):
        raise ChoiceError("visits.page_logbook_does_not")
    return moment, number


def _search(query: schemas.LogbookQuery, limit: int) -> list[Entry]:
    return store.search_entries(
        session(),
        query.q,
        printer_id=query.printer,
        kind=query.kind,
        before=_parse_mark(query.before),
        until=_parse_until(query.until),
        limit=limit,
    )


@blueprint.get("/logbook")
@blueprint.input(schemas.LogbookQuery, location="query")
@blueprint.output(schemas.Logbook)
def get_logbook(query_data: schemas.LogbookQuery) -> schemas.Logbook:
    """Give a page of entries, newest first."""
    matches = _search(query_data, store.PAGE + 1)
    page = matches[: store.PAGE]
    more = _mark(page[-1]) if len(matches) > store.PAGE else None
    return schemas.Logbook(entries=[serializers.entry_out(entry) for entry in page], before=more)


@blueprint.get("/logbook.csv")
@blueprint.input(schemas.LogbookQuery, location="query")
@blueprint.doc(hide=True)
def export_logbook(query_data: schemas.LogbookQuery) -> Response:
    """Give what was found as a file."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["time_utc", "printer", "kind", "title", "detail", "device"])
    for entry in _search(query_data, MAX_EXPORTED):
        name = entry.printer.name if entry.printer else ""
        device = entry.device.name if entry.device else ""
        cells = [f"{entry.at:%Y-%m-%d %H:%M:%S}", name, entry.kind, entry.title, entry.detail, device]
        writer.writerow(["'" + c if c.startswith(RISKY) else c for c in cells])
    return Response(
        out.getvalue(),
        mimetype="text/csv",
        headers={"Content-Disposition": "attachment; filename=logbook.csv"},
    )


@blueprint.post("/logbook")
@blueprint.input(schemas.NoteIn)
@blueprint.output(schemas.EntryOut, status_code=201)
def add_note(json_data: schemas.NoteIn) -> schemas.EntryOut:
    """Write a note."""
    printer = get_printer(session(), json_data.printer) if json_data.printer else None
    return serializers.entry_out(store.add_note(session(), json_data.text, printer=printer))


deletable(blueprint, "/logbook", "entry", store.set_note_deleted)
