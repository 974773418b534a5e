"""Z offsets: what stands where, its history, and what put it out of date."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.base.wording import millimetres
from finchwort.core.compensation import compensate_relief, make_mesh
from finchwort.core.first_layer import (
    KEPT_IN,
    MIN_CHANGE,
    TOUCH,
    Advice,
    Bead,
    Conditions,
    Ledger,
    advise_trims,
    forecast_layer,
    keep_first_layer,
)
from finchwort.core.printers import Screw
from finchwort.core.probing import SENSES
from finchwort.core.surveys import Relief, make_relief
from finchwort.core.tramming import plane_change
from finchwort.core.visits import Happened, Standing, by_now
from finchwort.knowledge import trims
from finchwort.services.compensation.mesh import stored_mesh, usual_side
from finchwort.services.visits.standing import days_since, stands
from finchwort.store.errors import ConflictError
from finchwort.store.first_layer.models import OffsetRecord
from finchwort.store.first_layer.offsets import BY_HAND, _plate_of, ledger_of, newest_offset
from finchwort.store.models import Printer, SurveyRecord, Turning, Visit
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.records import sent_before, set_deleted, utcnow
from finchwort.store.surveys.surveys import load_taken
from finchwort.store.visits.events import mark_of
from finchwort.store.visits.logbook import set_entries_deleted, write_entry
from finchwort.store.visits.visits import get_visit

REASONS = {
    "typed": "written down",
    "paper": "by paper",
    "patches": "by measured patches",
    "ladder": "by a judged ladder",
    "trim": "trimmed while printing",
    "turned": "kept after the bed was turned",
    "knobs": "with all knobs alike",
    "switch": "at the Z switch",
}


def record_offset(
    session: Session,
    printer_id: int,
    parts: Mapping[str, float],
    reason: str,
    *,
    client_key: str,
    visit_id: int | None = None,
    data: dict[str, Any] | None = None,
    note: str = "",
    at: datetime | None = None,
) -> OffsetRecord:
    """Write down an offset as it stands in the machine now.

    Parameters
    ----------
    parts : mapping
        Value by the places of `finchwort.core.offsets.KEPT_IN`, mm, in the machine's own sign.
    reason : str
        One of ``REASONS``.
    client_key : str
        Sent again with the same parts, it records nothing twice.

    Raises
    ------
    ChoiceError, OutOfRangeError
        When a value or a place is none.
    ConflictError
        When the visit is another printer's, or closed.
    """
    if reason not in REASONS:
        raise ChoiceError("first_layer.nothing_known", reason=reason)
    printer = get_printer(session, printer_id)
    if not parts:
        raise ChoiceError("first_layer.where_offset_kept_value")
    parts = {name: round(float(value), 4) for name, value in parts.items()}
    book = Ledger(parts, printer.closer_is)
    taken = "Another offset was recorded with this key, or it was taken back since."
    sent: dict[str, Any] = {"printer_id": printer_id, "parts": parts, "reason": reason}
    known = sent_before(session, OffsetRecord, client_key, taken, **sent)
    if known is not None:
        return known
    visit = None
    if visit_id is not None:
        visit = get_visit(session, visit_id)
        if visit.printer_id != printer_id:
            raise ConflictError("That visit was at another printer.")
        if visit.ended_at is not None:
            raise ConflictError("This visit is closed. Open it again, or begin a new one.")
    at = at or utcnow()
    before = newest_offset(session, printer_id)
    by_hand = (data or {}).get("by_hand") if reason in BY_HAND else None
    if reason in BY_HAND and by_hand is None:
        raise ChoiceError("first_layer.far_knobs_switch_moved")
    closer = by_hand
    if before is not None and before.closer_is == printer.closer_is and by_hand is None:
        closer = book.closer_by(ledger_of(before, printer))
    strip = (
        {
            "surface": visit.surface,
            "surface_kind": visit.surface_kind,
            "material": visit.material,
            "bed_temperature": visit.bed_temperature,
            "first_layer": visit.first_layer,
            "plate": _plate_of(visit.printer, visit.surface),
        }
        if visit
        else {}
    )
    record = OffsetRecord(
        printer_id=printer_id,
        visit_id=visit_id,
        made_at=at,
        client_key=client_key,
        reason=reason,
        parts=parts,
        closer_is=printer.closer_is,
        closer=closer,
        data=strip | (data or {}),
        note=note.strip(),
    )
    session.add(record)
    session.flush()
    title = f"Z offset {millimetres(book.total, signed=True)}, {REASONS[reason]}"
    if closer is not None and abs(closer) >= 0.0005:
        title += f": {millimetres(abs(closer))} {'closer' if closer > 0 else 'farther'}"
    where = "; ".join(f"{KEPT_IN[name]} {millimetres(value, signed=True)}" for name, value in parts.items())
    write_entry(
        session,
        "offset",
        title,
        f"{where}.\n{note.strip()}".strip(),
        at=at,
        printer=printer,
        visit=visit,
        subject=record,
    )
    return record


def set_offset_deleted(session: Session, offset_id: int, deleted: bool) -> OffsetRecord:
    """Take back an offset that was written down by mistake, or bring it back.

    Raises
    ------
    NotFoundError
    """
    record = set_deleted(session, OffsetRecord, offset_id, deleted, "There is no such offset.")
    set_entries_deleted(session, record, record.deleted_at)
    return record


def offset_stands(session: Session, printer: Printer, record: OffsetRecord, visit: Visit | None) -> Standing:
    """Say whether an offset still holds; ``visit`` is the present one, its surface and temperature count as today's."""
    now = by_now(
        surface=(record.data.get("surface") or "", visit.surface if visit is not None else ""),
        temperature=(
            record.data.get("bed_temperature"),
            visit.bed_temperature if visit is not None else None,
        ),
        days=days_since(record.made_at),
    )
    if record.closer_is != printer.closer_is:
        now.append(Happened("sign"))
    return stands(session, printer, "offset", mark_of(session, record), now)


def offset_outdated(
    session: Session, printer: Printer, record: OffsetRecord, visit: Visit | None
) -> tuple[Remark, ...]:
    """Say what happened since an offset was found that puts it in doubt."""
    return offset_stands(session, printer, record, visit).reasons


@dataclass(frozen=True)
class KeptOffset:
    """The offset that keeps the first layer after the bed was turned; mm, in the machine's own sign."""

    value: float
    before: float
    parts: dict[str, float]
    rise: float
    sentence: str


def kept_offset(session: Session, turning: Turning) -> KeptOffset | None:
    """Say which offset keeps the first layer after a turning; None where nothing has to be typed.

    A probe that homes on the plate finds the bed wherever it went, so only a zero that stays behind needs another
    number.  Once another offset was written down after the turning nothing is proposed.
    """
    printer = turning.survey.visit.printer
    by_number = printer.zero_kept == "switch" or (not printer.zero_kept and printer.probe_kind == "none")
    newest = newest_offset(session, printer.id)
    if not by_number or newest is None or newest.closer_is != printer.closer_is:
        return None
    if mark_of(session, newest) > mark_of(session, turning):
        return None
    screws = [Screw(s.name, s.x, s.y, s.pitch, s.tightening_lowers, s.divisions) for s in turning.screws]
    x, y = bed_of(printer).centre
    rise = float(plane_change(screws, [s.done for s in turning.screws]) @ (x, y, 1.0))
    place = "printer" if "printer" in newest.parts else next(iter(newest.parts))
    before = newest.parts[place]
    value = keep_first_layer(before, rise, printer.closer_is)
    if abs(value - before) < MIN_CHANGE:
        return None
    way = "rose" if rise > 0 else "sank"
    text = (
        f"The middle of the bed {way} {millimetres(abs(rise))} and the zero stayed where it was: "
        f"{millimetres(value, signed=True)} keeps your first layer (was {millimetres(before, signed=True)})."
    )
    return KeptOffset(value, before, {**newest.parts, place: value}, rise, text)


def trims_for(session: Session, visit: Visit) -> tuple[Advice, ...]:
    """Say how the newest offset is trimmed for what lies on and is printed today."""
    newest = newest_offset(session, visit.printer_id)
    if newest is None:
        return ()
    data = newest.data
    then = Conditions(
        data.get("material", ""),
        data.get("surface_kind", ""),
        data.get("bed_temperature"),
        data.get("plate"),
        data.get("first_layer"),
    )
    now = Conditions(
        visit.material,
        visit.surface_kind,
        visit.bed_temperature,
        _plate_of(visit.printer, visit.surface),
        visit.first_layer,
    )
    return advise_trims(then, now, trims(), senses=SENSES[visit.printer.probe_kind])


def offset_state(session: Session, visit: Visit) -> tuple[str, Remark] | None:
    """Tell how far a visit has come with the Z offset, for `finchwort.core.visits.route`."""
    newest = newest_offset(session, visit.printer_id)
    if newest is None:
        return None
    doubts = offset_outdated(session, visit.printer, newest, visit)
    if newest.visit_id == visit.id and (not doubts or visit.ended_at is not None):
        return "found", remark("visits.offset_found")
    if doubts:
        return "old", doubts[0]
    return "kept", remark("visits.offset_kept")


def met_relief(session: Session, visit: Visit, *, everything: bool = False) -> Relief | None:
    """Return the bed as the nozzle meets it by the newest survey of a visit; ``everything`` as in `relief_of`.

    A mesh counts only while one is known to be in the machine and still holds: the tip must not trust another.
    """
    newest = _newest_survey(session, visit)
    if newest is None or newest.verdict == "open":
        return None
    kind = visit.printer.compensation
    if kind == "mesh":
        mesh = stored_mesh(session, visit.printer, visit)
        kind = "mesh" if mesh is not None and not mesh.outdated else "none"
    return relief_of(session, newest, kind, everything=everything)


def _newest_survey(session: Session, visit: Visit) -> SurveyRecord | None:
    query = select(SurveyRecord).where(SurveyRecord.visit_id == visit.id, SurveyRecord.deleted_at.is_(None))
    return session.scalars(query.order_by(SurveyRecord.id.desc()).limit(1)).first()


def relief_of(session: Session, record: SurveyRecord, kind: str, *, everything: bool = False) -> Relief:
    """Return the surface of a survey that the nozzle meets with a kind of compensation.

    With ``everything`` a reading that was set aside counts too: it may be something that really stands there.
    """
    taken = load_taken(session, record.id)
    survey = taken.survey if everything else taken.counting()
    relief = make_relief(survey, bed_of(record.visit.printer))
    if kind == "none":
        return relief
    side = [usual_side(places) for places in (survey.x, survey.y)]
    return compensate_relief(relief, make_mesh(survey, *side), kind)


def refuse_contact(session: Session, visit: Visit | None, bead: Bead) -> str | None:
    """Say so when a tip that is right in the middle would touch the highest place of the newest survey."""
    newest = _newest_survey(session, visit) if visit is not None else None
    if newest is not None and newest.verdict == "open":
        return "At some places paper said only which way, so the bed may be higher there than in the middle. Level first."
    relief = met_relief(session, visit, everything=True) if visit is not None else None
    if relief is None:
        return None
    result = forecast_layer(relief.heights, bead, relief.middle)
    if result.least > TOUCH:
        return None
    return (
        f"By the newest survey the bed is {millimetres(bead.height - result.least)} higher at its highest place than in the "
        f"middle: with a first layer of {millimetres(bead.height)} the tip would touch there. Level first."
    )
