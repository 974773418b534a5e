"""What is due, as a calendar that other programs subscribe to (iCalendar, RFC 5545)."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date, datetime, timedelta

from icalendar import Alarm, Calendar, Event

MAKER = "-//Finchwort//what is due//EN"
AGAIN = timedelta(minutes=15)
"""A calendar asks again after so long, where it obeys (RFC 7986)."""
LASTS = timedelta(minutes=5)
"""How long an entry with a time stands in a calendar."""


@dataclass(frozen=True)
class DueEntry:
    """One entry of a calendar.

    Attributes
    ----------
    key : str
        The same whenever it is given again: what changed of it replaces what was there.
    at : datetime or date
        Aware; a date stands for the whole day.
    title, text : str
    alarm : bool
        Whether the calendar may ring when it begins.
    """

    key: str
    at: datetime | date
    title: str
    text: str = ""
    alarm: bool = False


def calendar_text(name: str, entries: Iterable[DueEntry], made: datetime) -> bytes:
    """Write a calendar.

    Parameters
    ----------
    name : str
    entries : iterable of DueEntry
    made : datetime
        Aware.

    Returns
    -------
    bytes
        UTF-8, lines folded at 75 bytes.
    """
    result = Calendar()
    result.add("prodid", MAKER)
    result.add("version", "2.0")
    result.add("name", name)
    result.add("x-wr-calname", name)
    result.add("refresh-interval", AGAIN, parameters={"VALUE": "DURATION"})
    for entry in entries:
        event = Event()
        event.add("uid", f"{entry.key}@finchwort")
        event.add("dtstamp", made)
        event.add("dtstart", entry.at)
        whole = not isinstance(entry.at, datetime)
        event.add("dtend", entry.at + (timedelta(days=1) if whole else LASTS))
        event.add("summary", entry.title)
        if entry.text:
            event.add("description", entry.text)
        event.add("transp", "TRANSPARENT")
        if entry.alarm:
            alarm = Alarm()
            alarm.add("action", "DISPLAY")
            alarm.add("description", entry.title)
            alarm.add("trigger", timedelta())
            event.add_component(alarm)
        result.add_component(event)
    return result.to_ical()
