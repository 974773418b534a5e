"""What was done to a bed besides turning its screws: shims, tape, the beam, a stored mesh."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import millimetres
from finchwort.core.levelling import MAX_COUNT, Foil, check_stacks, count_drawer
from finchwort.messages.remarks import words
from finchwort.services.printers.printers import keep_foils, put_foils
from finchwort.services.visits.standing import survey_stands
from finchwort.store.errors import ConflictError
from finchwort.store.models import Adjustment, Printer, Visit
from finchwort.store.printers.printers import foils_of, get_workshop, pads_of
from finchwort.store.records import locked_for_deletion, sent_before, utcnow
from finchwort.store.surveys.surveys import get_survey
from finchwort.store.tramming.adjustments import newest_adjustment
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import get_visit, list_rounds

MOVES = ("shims", "tape", "beam")
"""What moves the bed, so that its last survey no longer holds."""
KINDS = (*MOVES, "mesh")


def record_adjustment(
    session: Session,
    survey_id: int,
    kind: str,
    data: dict[str, Any],
    *,
    client_key: str,
    note: str = "",
    at: datetime | None = None,
) -> Adjustment:
    """Record what was done after a survey, with a line in the logbook.

    Parameters
    ----------
    kind : str
        One of ``KINDS``.
    data : dict
        Shims: ``stacks`` (pad to foils, mm).  Tape: ``places`` (x, y, layers).  Beam: ``side``, ``rise`` (mm),
        ``trial``.  Mesh: ``columns``, ``rows``, ``method``, ``fade`` (mm), ``deviation`` (mm).
    client_key : str
        Sent again with the same data, it records nothing twice.

    Raises
    ------
    ChoiceError
        When nothing like it can be done to this printer.
    ConflictError
        When the visit is closed or a newer survey exists.
    """
    if kind not in KINDS:
        raise ChoiceError("tramming.nothing_known", kind=kind)
    record = get_survey(session, survey_id)
    visit = get_visit(session, record.visit_id, lock=True)
    known = sent_before(
        session,
        Adjustment,
        client_key,
        "Something else was recorded with this key, or it was taken back since.",
        # a mesh carries surface and temperature beside what was sent
        lambda there: all(there.data.get(name) == value for name, value in data.items()),
        survey_id=survey_id,
        kind=kind,
    )
    if known is not None:
        return known
    if visit.ended_at is not None:
        raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    rounds = list_rounds(session, visit)
    if rounds[-1].survey.id != record.id:
        raise ConflictError("A newer survey was taken since. Go by that one.")
    bed = survey_stands(session, record)
    if kind == "mesh" and bed.why is not None and bed.gone:
        raise ConflictError(f"{words(bed.why)} Measure again before a mesh is stored.")
    if bed.why is not None and bed.gone and set(bed.events) - {"turned", *MOVES}:
        raise ConflictError(f"{words(bed.why)} Measure again before you go by this survey.")
    _check(visit, kind, data)
    if kind == "mesh":
        data = data | {
            "surface": visit.surface,
            "temperature": record.bed_temperature,
        }
    if kind == "beam" and visit.printer.beam_screws == 1:
        data = data | {"end": "end"}  # moved by its carriage, not by a screw
    if kind == "shims":
        data = data | _lay_foil(session, visit.printer, data["stacks"])
    adjustment = Adjustment(
        printer_id=visit.printer_id,
        survey=record,
        made_at=at or utcnow(),
        client_key=client_key,
        kind=kind,
        data=data,
        note=note.strip(),
    )
    session.add(adjustment)
    session.flush()
    title, detail = describe(adjustment)
    write_entry(
        session,
        "adjustment",
        title,
        f"{detail}\n{note.strip()}".strip(),
        at=at,
        printer=visit.printer,
        visit=visit,
        subject=adjustment,
    )
    return adjustment


def _lay_foil(session: Session, printer: Printer, stacks: dict[str, list[float]]) -> dict[str, Any]:
    """Write down what lies under the pads now, and count the drawer; returns what it takes to undo that."""
    before = {pad.name: list(pad.stack) for pad in pads_of(printer)}
    workshop = get_workshop(session, lock=True)
    drawer = count_drawer(foils_of(workshop), list(before.values()), list(stacks.values()))
    put_foils(printer, stacks)
    if drawer.changes and workshop.version:
        keep_foils(workshop, drawer.foils)
    return {
        "before": before,
        "drawer": [[size, pieces] for size, pieces in drawer.changes.items()] if workshop.version else [],
        "short": list(drawer.short),
    }


def _unlay_foil(session: Session, printer: Printer, data: dict[str, Any], back: bool) -> None:
    """Put foil back to where it lay before (or again where it was laid), and the drawer with it."""
    put_foils(printer, data["stacks"] if back else data.get("before", {}))
    workshop = get_workshop(session, lock=True)
    if not workshop.version or not data.get("drawer"):
        return
    held = {foil.thickness: foil for foil in foils_of(workshop) if not foil.roll}
    for size, pieces in data["drawer"]:
        count = (held[size].count if size in held else 0) + (pieces if back else -pieces)
        held[size] = Foil(size, min(max(count, 0), MAX_COUNT))
    rolls = [foil for foil in foils_of(workshop) if foil.roll]
    keep_foils(workshop, [*rolls, *held.values()])


def _check(visit: Visit, kind: str, data: dict[str, Any]) -> None:
    printer = visit.printer
    if kind == "shims":
        pads = {pad["name"] for pad in printer.pads}
        if not pads:
            raise ChoiceError("tramming.plate_does_not_rest")
        if set(data.get("stacks", {})) != pads:
            raise ChoiceError("tramming.every_pad_under_now")
        check_stacks(data["stacks"])
    elif kind == "tape" and not data.get("places"):
        raise ChoiceError("tramming.where_tape_went")
    elif kind == "beam" and not printer.beam_screws:
        raise ChoiceError("tramming.printer_set_up_without")
    elif kind == "mesh" and printer.compensation == "none":
        raise ChoiceError("tramming.printer_set_up_without_compensation")


def set_adjustment_deleted(session: Session, adjustment_id: int, deleted: bool) -> Adjustment:
    """Take back what was recorded by mistake, or bring it back.

    Raises
    ------
    NotFoundError, ConflictError
        When a newer survey saw it already.
    """
    adjustment = locked_for_deletion(session, Adjustment, adjustment_id, deleted, "There is no such record.")
    record = get_survey(session, adjustment.survey_id)
    visit = get_visit(session, record.visit_id, lock=True)
    if adjustment.kind in MOVES and list_rounds(session, visit)[-1].survey.id != record.id:
        raise ConflictError("A newer survey was taken since, which saw this.")
    if adjustment.kind == "shims":
        newer = newest_adjustment(session, adjustment.printer_id, "shims")
        if newer is not None and newer.id > adjustment.id:
            raise ConflictError("Other foil was laid since. Take that back first.")
        _unlay_foil(session, visit.printer, adjustment.data, back=not deleted)
    adjustment.deleted_at = utcnow() if deleted else None
    set_entries_deleted(session, adjustment, adjustment.deleted_at)
    return adjustment


def describe(adjustment: Adjustment) -> tuple[str, str]:
    """Give title and detail for a list."""
    data = adjustment.data
    if adjustment.kind == "shims":
        parts = [
            f"{pad} {' + '.join(f'{size:g}' for size in foils) if foils else 'bare'}"
            for pad, foils in data["stacks"].items()
        ]
        short = ", ".join(f"{size:g}" for size in data.get("short", ()))
        text = f" More of {short} mm was laid than the drawer had: count it." if short else ""
        return "Shims laid under the pads", "; ".join(parts) + " (mm)." + text
    if adjustment.kind == "tape":
        return "Tape laid under the plate", "; ".join(
            f"{place['layers']} at x {place['x']:.0f}, y {place['y']:.0f}" for place in data["places"]
        )
    if adjustment.kind == "beam":
        what = "Trial at the cross beam" if data.get("trial") else "Cross beam driven"
        return what, f"{data['side']} {data.get('end', 'screw')} {millimetres(data['rise'], signed=True)}."
    fade = f", fading out at {data['fade']:g} mm" if data["fade"] else ", never fading"
    return (
        f"Mesh of {data['columns']} × {data['rows']} points stored",
        f"Largest compensation {millimetres(data['deviation'])}, {data['method']}{fade}.",
    )


def moves_of(adjustments: Sequence[Adjustment]) -> list[Adjustment]:
    """Keep those that move the bed."""
    return [adjustment for adjustment in adjustments if adjustment.kind in MOVES]
