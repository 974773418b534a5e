"""Visits: begun, changed, closed, deleted and brought back."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import counted, millimetres
from finchwort.core.diagnosis import suit
from finchwort.core.surveys import check_first_layer
from finchwort.core.visits import Before, Standing, Step, route
from finchwort.knowledge import materials, surfaces
from finchwort.messages.remarks import words
from finchwort.messages.surveys import verdict_word
from finchwort.services.visits.standing import survey_stands
from finchwort.store.errors import ConflictError, StaleError
from finchwort.store.machine.locks import lock_printer, refuse_at_work
from finchwort.store.models import Printer, Visit
from finchwort.store.records import utcnow
from finchwort.store.visits.logbook import set_visit_entries_deleted, write_entry
from finchwort.store.visits.visits import Round, get_visit, list_rounds, verdict_of

TEMPERATURES = {"bed_temperature": (0.0, 200.0), "nozzle_temperature": (0.0, 500.0)}
STRIP = ("surface", "surface_kind", "material", "bed_temperature", "nozzle_temperature", "first_layer")


def start_visit(session: Session, printer: Printer, *, at: datetime | None = None, **strip: Any) -> Visit:
    """Begin a visit.

    What the strip does not say is taken over from the visit before; at the first one it is the printer's
    first surface and material, with the temperatures the table gives for them.
    """
    last = session.scalars(
        select(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Visit.started_at.desc(), Visit.id.desc())
        .limit(1)
    ).first()
    before = {name: getattr(last, name) for name in STRIP} if last else usual_strip(printer)
    values = (
        before
        | {"first_layer": printer.first_layer}
        | {key: value for key, value in strip.items() if value is not None}
    )
    _check_strip(values)
    visit = Visit(printer=printer, started_at=at or utcnow(), note="", **values)
    session.add(visit)
    session.flush()
    return visit


def usual_strip(printer: Printer) -> dict[str, Any]:
    """Surface and material of a printer nobody has visited yet, with usual temperatures."""
    surface = printer.surfaces[0] if printer.surfaces else None
    material = printer.materials[0] if printer.materials else ""
    match = suit(surfaces().get(surface.kind) if surface else None, materials().get(material))
    return {
        "surface": surface.name if surface else "",
        "surface_kind": surface.kind if surface else "",
        "material": material,
        "bed_temperature": match.bed,
        "nozzle_temperature": match.nozzle,
    }


def update_visit(session: Session, visit_id: int, version: int, **changes: Any) -> Visit:
    """Change the setup bar or the note of a visit.

    Raises
    ------
    StaleError, ConflictError
        When it was changed since ``version``, or is closed.
    """
    visit = get_visit(session, visit_id)
    if visit.version != version:
        raise StaleError("This visit was changed elsewhere since you opened it.")
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again to change it.")
    unknown = set(changes) - {*STRIP, "note"}
    if unknown:
        raise ConflictError(f"A visit has no {', '.join(sorted(unknown))}.")
    _check_strip({key: changes[key] for key in changes if key in STRIP})
    for key, value in changes.items():
        setattr(visit, key, value)
    session.flush()
    return visit


def finish_visit(session: Session, visit_id: int, note: str = "", *, at: datetime | None = None) -> Visit:
    """Close a visit and write its verdict into the logbook."""
    visit = get_visit(session, visit_id, lock=True)
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed already.")
    rounds = list_rounds(session, visit)
    if not rounds:
        raise ConflictError("Nothing was measured in this visit, so there is nothing to conclude.")
    visit.note = note.strip()
    last = rounds[-1]
    word = verdict_word(verdict_of(last.survey), bool(visit.printer.screws), visit.printer.compensation)
    turned = sum(r.turning is not None for r in rounds)
    spreads = [
        ("at least " if item.survey.verdict == "open" else "") + millimetres(item.survey.spread)
        for item in (rounds[0], last)
    ]
    variation = " to ".join(spreads if len(rounds) > 1 else spreads[1:])
    times = {0: "not turned", 1: "turned once", 2: "turned twice"}.get(turned, f"turned {turned} times")
    detail = f"{counted(len(rounds), 'survey')}, {times}; variation {variation}."
    bed = survey_stands(session, last.survey, visit)
    if last.moved:
        word = "Turned last, not measured since" if last.turning else "Moved last, not measured since"
    elif bed.why is not None and bed.gone:
        word = "Not measured since"
        detail += f"\n{words(bed.why)}"
    if visit.note:
        detail += f"\n{visit.note}"
    visit.ended_at = at or utcnow()
    write_entry(
        session, "verdict", f"Visit closed: {word}", detail, at=at, printer=visit.printer, visit=visit
    )
    session.flush()
    return visit


def reopen_visit(session: Session, visit_id: int) -> Visit:
    """Open a closed visit again."""
    visit = get_visit(session, visit_id, lock=True)
    if visit.ended_at is None:
        raise ConflictError("This visit is open.")
    visit.ended_at = None
    write_entry(session, "verdict", "Visit opened again", printer=visit.printer, visit=visit)
    return visit


def set_visit_deleted(session: Session, visit_id: int, deleted: bool) -> Visit:
    """Delete a visit with its entries, or bring it back."""
    visit = get_visit(session, visit_id, deleted=not deleted, lock=True)
    if deleted:
        lock_printer(session, visit.printer_id)
        refuse_at_work(session, visit.printer, visit.id)
    before = visit.deleted_at
    visit.deleted_at = utcnow() if deleted else None
    if deleted or before is not None:
        set_visit_entries_deleted(session, visit)
    return visit


def visit_route(
    visit: Visit,
    rounds: Sequence[Round],
    before: Before | None = None,
    offset: tuple[str, Remark] | None = None,
    bed: Standing | None = None,
    printed: tuple[str, Remark] | None = None,
) -> tuple[Step, ...]:
    """Work out the state of the visit's steps."""
    events = []
    for visit_round in rounds:
        events.append("survey")
        if visit_round.moved:
            events.append("turning")
    verdict = verdict_of(rounds[-1].survey) if rounds else None
    printer = visit.printer
    return route(
        events,
        verdict,
        visit.ended_at is not None,
        bool(printer.screws),
        before,
        can_level=bool(printer.pads) or printer.beam_screws > 0,
        compensation=printer.compensation,
        mesh=mesh_state(visit, rounds, bed),
        offset=offset,
        bed=bed,
        printed=printed,
        has_probe=printer.probe_kind != "none",
    )


def mesh_state(visit: Visit, rounds: Sequence[Round], bed: Standing | None = None) -> str | None:
    """Tell whether a mesh was stored in this visit, and whether it still stands on the last survey."""
    state = None
    for visit_round in rounds:
        if state == "stored":
            state = "old"
        if any(a.kind == "mesh" for a in visit_round.adjustments):
            state = "stored"
    moved = rounds[-1].moved or (bed is not None and bed.gone) if rounds else False
    return "old" if state == "stored" and moved else state


def _check_strip(values: Mapping[str, Any]) -> None:
    for name, (low, high) in TEMPERATURES.items():
        value = values.get(name)
        if value is not None and not low <= value <= high:
            what = name.replace("_", " ")
            raise OutOfRangeError("visits.the_lies_between_and", what=what, low=low, high=high)
    if values.get("surface_kind", "") not in ("", "other", *surfaces()):
        raise ChoiceError("visits.nothing_known_surface_kind", values=values["surface_kind"])
    if "first_layer" in values:
        check_first_layer(values["first_layer"])
