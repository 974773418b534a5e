"""The calendar of what is due: its address, and the calendar itself, for programs that have nothing but that address."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import Response
from werkzeug.exceptions import NotFound

from finchwort.formats.calendar import calendar_text
from finchwort.services.prints import calendar as service
from finchwort.store.printers.printers import get_workshop
from finchwort.store.records import utcnow
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("calendar", __name__, tag="calendar")
WHERE = "/calendar/"


@blueprint.get("/api/calendar")
@blueprint.output(schemas.CalendarOut)
def get_calendar() -> schemas.CalendarOut:
    """Give the address of the calendar."""
    return _out(service.calendar_secret(session()))


@blueprint.put("/api/calendar")
@blueprint.input(schemas.CalendarIn)
@blueprint.output(schemas.CalendarOut)
def set_calendar(json_data: schemas.CalendarIn) -> schemas.CalendarOut:
    """Give the calendar a new address, or none; the old one shows nothing any more."""
    return _out(service.set_calendar(session(), json_data.on))


def _out(secret: str) -> schemas.CalendarOut:
    return schemas.CalendarOut(path=f"{WHERE}{secret}.ics" if secret else "")


@blueprint.get("/calendar/<secret>.ics")
@blueprint.doc(hide=True)
def show_calendar(secret: str) -> Response:
    """Give the calendar to whoever has its address."""
    if not service.is_calendar(session(), secret):
        raise NotFound
    now = utcnow()
    name = f"{get_workshop(session()).name}: due"
    text = calendar_text(name, service.entries_for_calendar(session(), now), now)
    return Response(text, mimetype="text/calendar", headers={"Cache-Control": "no-cache"})
