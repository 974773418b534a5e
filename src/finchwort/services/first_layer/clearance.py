"""How low a tip may go at a printer now: survey, mesh, offset, paper, and all that happened since each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from finchwort.core.base.remarks import Remark, remark
from finchwort.core.base.wording import millimetres
from finchwort.core.compensation import Mesh, compensate_relief, make_mesh
from finchwort.core.first_layer import (
    GONE,
    LOOK_Z,
    TIP,
    Ground,
    Ledger,
    looked_ground,
    measure_again,
    measured_ground,
    tip_doubt,
    without_dents,
)
from finchwort.core.printers import Bed
from finchwort.core.surveys import make_relief
from finchwort.core.visits import Happened, by_now
from finchwort.messages.remarks import words
from finchwort.services.compensation.mesh import StoredMesh, stored_mesh
from finchwort.services.visits.changes import CLEAR
from finchwort.store.first_layer.models import MachineChange, OffsetRecord, Trial
from finchwort.store.first_layer.offsets import made_by_hand, newest_offset
from finchwort.store.models import Entry, Printer, SurveyRecord, Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.records import utcnow
from finchwort.store.surveys.surveys import OPEN, load_readings, load_taken, newest_surveys
from finchwort.store.visits.events import happened_since, mark_of
from finchwort.store.visits.logbook import tells_of

BOUNDS = ("good", "too_far", "far_too_far")
"""A patch that looks so tells that the tip was not lower than right."""
MAX_TRIALS = 20


@dataclass(frozen=True, eq=False)
class Known:
    """What is known about bed and tip of a printer.

    Attributes
    ----------
    ground : Ground
    survey : SurveyRecord or None
        It was worked out from, when one holds.
    offset : OffsetRecord or None
        The newest.
    mesh : StoredMesh or None
        What the printer is believed to hold.
    """

    ground: Ground
    survey: SurveyRecord | None
    offset: OffsetRecord | None
    mesh: StoredMesh | None

    @property
    def mesh_holds(self) -> bool:
        """Whether compensation may be switched on."""
        return self.mesh is not None and not self.mesh.outdated

    @property
    def made_for(self) -> tuple[str, ...]:
        """What heights were worked out from, a line each."""
        return (_offset_line(self.offset), _survey_line(self.survey), _mesh_line(self.mesh))


def highest_ground(session: Session, printer: Printer) -> float | None:
    """How high the bare bed of a printer may be at most against Z = 0, mm; None when nobody knows."""
    visit = session.scalars(
        select(Visit)
        .where(Visit.printer_id == printer.id, Visit.deleted_at.is_(None))
        .order_by(Visit.id.desc())
        .limit(1)
    ).first()
    if visit is None:
        return None
    ground = what_is_known(session, visit, compensated=False).ground
    return None if ground.refused else round(ground.highest(), 3)


def what_is_known(session: Session, visit: Visit, zero: float = 0.0, compensated: bool = True) -> Known:
    """Gather what is known about where bed and tip are.

    Parameters
    ----------
    visit : Visit
        The present one: its surface and temperature count as today's.
    zero : float
        Gap at Z = 0 in the middle by what was judged, mm.
    compensated : bool
        Whether the machine follows its mesh, where one holds.
    """
    printer = visit.printer
    mesh = None if printer.compensation == "none" else stored_mesh(session, printer, visit)
    on = compensated and mesh is not None and not mesh.outdated
    offset = newest_offset(session, printer.id)
    record = next(iter(newest_surveys(session, printer.id, 1)), None)
    looked = _newest_look(session, printer.id)
    ground = None
    if record is not None:
        since = happened_since(session, printer.id, mark_of(session, record))
        since += by_now(surface=(record.surface, visit.surface))
        ground = _by_survey(session, visit, record, mesh if on else None, since, zero)
    if looked and (ground is None or ground.refused):
        since = happened_since(session, printer.id, looked) + _look_doubts(session, visit, looked, on)
        by_paper = looked_ground(bed_of(printer), since, zero, _closer_since(session, printer, looked))
        if not by_paper.refused or ground is None:
            ground, record = by_paper, None
    if ground is None:
        return Known(Ground(refused=_or_by_paper(remark("first_layer.no_survey"))), None, offset, mesh)
    doubt = ground.refused or _tip_doubt(session, visit, offset, looked)
    if doubt:
        ground = Ground(refused=_or_by_paper(doubt))
    return Known(ground, record, offset, mesh)


def _or_by_paper(why: Remark) -> Remark:
    return remark("first_layer.or_by_paper", why=why, z=LOOK_Z)


def _by_survey(
    session: Session,
    visit: Visit,
    record: SurveyRecord,
    mesh: StoredMesh | None,
    since: Sequence[Happened],
    zero: float,
) -> Ground:
    if record.verdict == OPEN:
        return Ground(refused=measure_again(remark("first_layer.left_open")))
    # a reading set aside may be something that really stands there: for the tip it counts
    survey, bed = load_taken(session, record.id).survey, bed_of(visit.printer)
    survey = without_dents(survey, record.noise or 0.0)
    relief = make_relief(survey, bed)
    if mesh is not None:
        # both are counted from the middle, where the tip finds its zero
        level = relief.plus(0.0, 0.0, -relief.middle)
        kind = visit.printer.compensation
        relief = compensate_relief(level, _mesh_of(session, mesh, bed), kind, mesh.record.data["method"])
    return measured_ground(
        bed,
        survey,
        relief,
        since,
        compensated=mesh is not None,
        noise=record.noise,
        # a tip that was too high before the bed was moved need not be so now
        zero=min(zero, 0.0) if any(item.what in GONE or item.what == "turned" for item in since) else zero,
        warmth=(record.bed_temperature, visit.bed_temperature),
        days=(utcnow() - record.taken_at).total_seconds() / 86400,
    )


def _mesh_of(session: Session, mesh: StoredMesh, bed: Bed) -> Mesh:
    """The mesh as it was stored: from its own survey, with its own points, counted from the middle."""
    data = mesh.record.data
    readings = load_readings(session, mesh.record.survey_id)
    readings = readings.with_heights(readings.height - make_relief(readings, bed).middle)
    return make_mesh(readings, int(data["columns"]), int(data["rows"]))


def _closer_since(session: Session, printer: Printer, mark: int) -> float | None:
    """How much closer offsets brought the tip after a line of the logbook, mm; None when nobody knows."""
    query = (
        select(OffsetRecord)
        .join(Entry, tells_of(OffsetRecord))
        .where(OffsetRecord.printer_id == printer.id, OffsetRecord.deleted_at.is_(None))
        .limit(1)
    )
    after = session.scalars(query.where(Entry.id > mark).order_by(Entry.id.desc())).first()
    by_hand = made_by_hand(session, printer.id, mark)
    if after is None:
        return by_hand
    before = session.scalars(query.where(Entry.id < mark).order_by(Entry.id.desc())).first()
    if before is None or before.closer_is != after.closer_is:
        return None
    return Ledger(after.parts, after.closer_is).closer_by(Ledger(before.parts, before.closer_is)) + by_hand


def _look_doubts(session: Session, visit: Visit, looked: int, on: bool) -> list[Happened]:
    """What is otherwise now than when paper was felt: another surface on the strip, or no mesh any more."""
    query = select(MachineChange).join(Entry, tells_of(MachineChange)).where(Entry.id == looked)
    change = session.scalars(query).first()
    look_doubts = []
    if change is not None:
        look_doubts += by_now(surface=(change.surface, visit.surface))
    if change is not None and change.compensated and not on:
        look_doubts.append(Happened("uncompensated"))
    return look_doubts


def _newest_look(session: Session, printer_id: int) -> int:
    """Number of the newest line that says that paper moved everywhere; 0 when there is none."""
    query = (
        select(func.max(Entry.id))
        .join(MachineChange, tells_of(MachineChange))
        .where(
            Entry.printer_id == printer_id,
            MachineChange.what == CLEAR,
            MachineChange.deleted_at.is_(None),
        )
    )
    return session.scalar(query) or 0


def _tip_doubt(session: Session, visit: Visit, offset: OffsetRecord | None, looked: int) -> Remark | None:
    """Say why nobody knows how high the tip stands."""
    printer = visit.printer
    marks = [looked]
    if offset is not None:
        marks.append(mark_of(session, offset))
    judged = (
        select(Entry.id, Trial.patches)
        .join(Trial, tells_of(Trial))
        .where(Entry.printer_id == printer.id, Trial.deleted_at.is_(None))
        .order_by(Entry.id.desc())
        .limit(MAX_TRIALS)
    )
    # patches that all look too close say only which way, never how much
    marks += [
        number for number, patches in session.execute(judged) if any(p.get("step") in BOUNDS for p in patches)
    ][:1]
    if not any(marks):
        return remark("first_layer.set_offset_first", why=remark("first_layer.no_tip_height"))
    happened = [event.what for event in happened_since(session, printer.id, max(marks)) if event.what in TIP]
    if offset is not None and max(marks) == marks[1]:
        happened += [item.what for item in by_now(surface=(offset.data.get("surface") or "", visit.surface))]
        if offset.closer_is != printer.closer_is:
            happened.append("sign")
    return tip_doubt(happened)


def _offset_line(offset: OffsetRecord | None) -> str:
    if offset is None:
        return "Made for the Z offset in the machine; none is written down."
    total = Ledger(offset.parts, offset.closer_is).total
    return f"Made for Z offset {millimetres(total, signed=True)}, written down {offset.made_at:%Y-%m-%d %H:%M} UTC."


def _survey_line(survey: SurveyRecord | None) -> str:
    if survey is None:
        return "Made without a survey."
    return f"Made for survey {survey.id}, {survey.count} readings, {survey.taken_at:%Y-%m-%d %H:%M} UTC."


def _mesh_line(mesh: StoredMesh | None) -> str:
    if mesh is None:
        return "Made without a mesh."
    if mesh.outdated:
        return f"Made without the mesh of {mesh.record.made_at:%Y-%m-%d %H:%M} UTC: {words(mesh.outdated[0])}"
    return f"Made for the mesh of {mesh.record.made_at:%Y-%m-%d %H:%M} UTC."
