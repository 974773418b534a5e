"""The list of what is to be done after something happened at a printer; see `finchwort.core.afterwards`."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.probing import SENSES
from finchwort.core.visits import (
    AFTER,
    BY_HAND,
    DAYS_A_MONTH,
    MONTHS,
    UNDECIDED,
    After,
    Fit,
    Happened,
    afterwards,
)
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.first_layer.offsets import offset_stands
from finchwort.services.first_layer.trials import newest_print
from finchwort.services.visits.changes import DID, LEFT_OUT, record_change
from finchwort.services.visits.standing import known_survey
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.models import Entry, Printer, ProbingTest
from finchwort.store.printers.printers import get_printer
from finchwort.store.records import utcnow
from finchwort.store.surveys.surveys import newest_surveys
from finchwort.store.visits.events import mark_of, newest_event
from finchwort.store.visits.logbook import tells_of
from finchwort.store.visits.standing import newest_visit

BENCH = "bench-"
"""Knobs turned in the course of levelling by paper are written down with keys that begin so."""


def after_of(session: Session, printer: Printer) -> After | None:
    """Say what is to be done at a printer after what happened to it; None when nothing waits.

    After some months the list is let go: what is still in doubt then is so by its age.
    """
    since = max(newest_event(session, printer.id, (LEFT_OUT,)), _too_old(session, printer.id))
    query = (
        select(Entry.id, MachineChange.what, MachineChange.client_key)
        .join(MachineChange, tells_of(MachineChange))
        .where(Entry.printer_id == printer.id, Entry.id > since, MachineChange.deleted_at.is_(None))
        .order_by(Entry.id)
    )
    rows = session.execute(query).all()
    # whoever levels at the bench is led from there
    happened = [
        Happened(what, number=n) for n, what, key in rows if what in AFTER and not key.startswith(BENCH)
    ]
    if not happened:
        return None
    done = {what.removeprefix(DID): number for number, what, _ in rows if what.startswith(DID)}
    return afterwards(happened, done | _recorded(session, printer), _fit(printer))


def tick(
    session: Session, printer_id: int, step: str, *, client_key: str, visit_id: int | None = None
) -> MachineChange:
    """Tick off a step that only a person can do.

    Raises
    ------
    ChoiceError
        When it ticks itself off, or there is none of that name.
    ConflictError
        When no list asks for it.
    """
    if step not in BY_HAND:
        raise ChoiceError("visits.done_when_recorded")
    session.execute(select(Printer.id).where(Printer.id == printer_id).with_for_update())
    known = session.scalars(select(MachineChange).where(MachineChange.client_key == client_key)).first()
    if known is None and step not in _open(session, get_printer(session, printer_id)):
        raise ConflictError("Nothing that happened calls for this, or it was ticked off already.")
    return record_change(session, printer_id, DID + step, client_key=client_key, visit_id=visit_id)


def tick_if_asked(session: Session, printer: Printer, step: str, *, client_key: str) -> None:
    """Tick off what a job at the machine has just done, where a list asks for it."""
    if step in _open(session, printer):
        record_change(session, printer.id, DID + step, client_key=client_key)


def leave_out(
    session: Session, printer_id: int, *, client_key: str, visit_id: int | None = None
) -> MachineChange:
    """Leave out what is still open."""
    return record_change(session, printer_id, LEFT_OUT, client_key=client_key, visit_id=visit_id)


def _open(session: Session, printer: Printer) -> Sequence[str]:
    after = after_of(session, printer)
    return [step.name for step in after.left] if after else []


def _too_old(session: Session, printer_id: int) -> int:
    """Number of the newest line from before the months for which a list is kept."""
    query = select(func.max(Entry.id)).where(
        Entry.printer_id == printer_id, Entry.at < utcnow() - timedelta(days=MONTHS * DAYS_A_MONTH)
    )
    return session.scalar(query) or 0


def _fit(printer: Printer) -> Fit:
    return Fit(
        printer.zero_kept, SENSES[printer.probe_kind], printer.compensation == "mesh", bool(printer.port)
    )


def _recorded(session: Session, printer: Printer) -> dict[str, int]:
    """Number of the newest line that did each step which ticks itself off, as far as it still holds."""
    results: dict[str, int] = {}
    survey = next(iter(newest_surveys(session, printer.id, 1)), None)
    if (
        survey is not None
        and survey.verdict not in UNDECIDED
        and not known_survey(session, printer, survey).gone
    ):
        results["level"] = mark_of(session, survey)
    visit = newest_visit(session, printer.id)
    offset = newest_offset(session, printer.id)
    if offset is not None and offset_stands(session, printer, offset, visit).holds:
        results["offset"] = mark_of(session, offset)
    mesh = stored_mesh(session, printer, visit) if printer.compensation == "mesh" else None
    if mesh is not None and not mesh.standing.gone:
        results["mesh"] = mark_of(session, mesh.record)
    printed = newest_print(session, printer)
    if printed is not None and not printed[1].gone:
        results["print"] = mark_of(session, printed[0])
    tested = (
        select(func.max(Entry.id))
        .join(ProbingTest, tells_of(ProbingTest))
        .where(
            Entry.printer_id == printer.id,
            ProbingTest.kind == "repeatability",
            ProbingTest.deleted_at.is_(None),
        )
    )
    results["trust"] = session.scalar(tested) or 0
    return results
