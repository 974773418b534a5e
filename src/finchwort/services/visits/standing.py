"""Whether what is known of a printer still holds: what was written down since, asked of `finchwort.core.events`."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.visits import Happened, Standing, Traits, by_now, standing
from finchwort.store.models import Entry, Printer, SurveyRecord, Visit
from finchwort.store.records import utcnow
from finchwort.store.visits.events import happened_since, mark_of
from finchwort.store.visits.standing import newest_visit

TIP_IS_PROBE = ("nozzle", "strain")
"""Kinds of probe that touch with the nozzle itself."""


def traits_of(printer: Printer) -> Traits:
    """What of a printer decides how much an event spoils."""
    return Traits(printer.zero_kept == "probe", printer.probe_kind in TIP_IS_PROBE)


def stands(
    session: Session,
    printer: Printer,
    thing: str,
    mark: int,
    now: Sequence[Happened] = (),
    before: int | None = None,
) -> Standing:
    """Say whether a thing that was written down with a line of the logbook still holds.

    Parameters
    ----------
    thing : one of `finchwort.core.visits.THINGS`
    mark : int
        Number of that line.
    now : sequence of Happened
        What happened without being written down: another surface, another temperature, months.
    before : int, optional
        Only what was written down before this line counts.
    """
    since = [
        event
        for event in happened_since(session, printer.id, mark)
        if before is None or event.number < before
    ]
    return standing(thing, [*since, *now], traits_of(printer))


def days_since(at: datetime) -> float:
    """Days gone since a time."""
    return (utcnow() - at).total_seconds() / 86400


def survey_stands(session: Session, record: SurveyRecord, visit: Visit | None = None) -> Standing:
    """Say whether a survey still shows the bed.

    Parameters
    ----------
    visit : Visit, optional
        The present one; of a closed one only what was written down until it was closed counts.
    """
    visit = visit or record.visit
    mark = mark_of(session, record)
    if visit.ended_at is not None:
        closed = session.scalar(
            select(func.max(Entry.id)).where(Entry.visit_id == visit.id, Entry.kind == "verdict")
        )
        return stands(session, visit.printer, "survey", mark, before=closed)
    return stands(session, visit.printer, "survey", mark, survey_now(record, visit))


def survey_now(record: SurveyRecord, visit: Visit) -> list[Happened]:
    """What is otherwise today than at a survey."""
    return by_now(
        surface=(record.surface, visit.surface),
        temperature=(record.bed_temperature, visit.bed_temperature),
        days=days_since(record.taken_at),
    )


def known_survey(session: Session, printer: Printer, record: SurveyRecord) -> Standing:
    """Say whether a printer's newest survey shows its bed as it is now, whatever became of its visit."""
    visit = newest_visit(session, printer.id)
    now = survey_now(record, visit) if visit is not None else ()
    return stands(session, printer, "survey", mark_of(session, record), now)
