"""Z offsets: what stands where, and corrections by paper, patches and trimming."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.bead import Bead
from finchwort.core.gauging import gap_from_paper
from finchwort.core.offsets import (
    PLACES,
    Correction,
    Ledger,
    Patch,
    PatchOffset,
    offset_from_paper,
    offset_from_patches,
)
from finchwort.core.tramming import plan_turns
from finchwort.core.trims import total_trim
from finchwort.core.wording import instruct
from finchwort.store import offsets as store
from finchwort.store.models import Printer, Visit
from finchwort.store.offset_models import OffsetRecord
from finchwort.store.printers import bed_of, get_printer, screws_of
from finchwort.store.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("offsets", __name__, url_prefix="/api", tag="offsets")


def _parts(parts: dict[str, float]) -> list[schemas.PartOut]:
    return [
        schemas.PartOut(place=name, label=PLACES[name], value=parts[name]) for name in PLACES if name in parts
    ]


def _entry(record: OffsetRecord, printer: Printer) -> schemas.OffsetEntry:
    return schemas.OffsetEntry(
        id=record.id,
        made_at=record.made_at,
        reason=record.reason,
        words=store.REASONS[record.reason],
        total=store.ledger_of(record, printer).total,
        closer=record.closer,
        note=record.note,
        parts=_parts(record.parts),
    )


def _offset(printer: Printer, visit: Visit | None) -> schemas.OffsetOut:
    history = store.list_offsets(session(), printer.id)
    newest = history[0] if history else None
    book = store.ledger_of(newest, printer)
    advice = store.trims_for(session(), visit) if visit is not None else ()
    return schemas.OffsetOut(
        printer_id=printer.id,
        known=newest is not None,
        closer_is=book.closer_is,
        total=book.total,
        parts=_parts(dict(book.parts)),
        sentence=book.sentence,
        doubled=book.doubled,
        outdated=list(store.offset_outdated(session(), printer, newest, visit)) if newest else [],
        trims=[
            schemas.TrimAdvice(
                closer=None if a.closer is None else list(a.closer), sentence=a.sentence, tag=a.tag
            )
            for a in advice
        ],
        trim_total=total_trim(advice),
        history=[_entry(record, printer) for record in history],
    )


@blueprint.get("/printers/<int:printer_id>/offset")
@blueprint.output(schemas.OffsetOut)
def get_offset(printer_id: int):
    """Give the offset that counts, and its history."""
    return _offset(get_printer(session(), printer_id), None)


@blueprint.get("/visits/<int:visit_id>/offset")
@blueprint.output(schemas.OffsetOut)
def get_offset_of_visit(visit_id: int):
    """Give the offset of a visit's printer, with what puts it out of date today."""
    visit = get_visit(session(), visit_id)
    return _offset(visit.printer, visit)


@blueprint.post("/printers/<int:printer_id>/offset")
@blueprint.input(schemas.OffsetIn)
@blueprint.output(schemas.OffsetEntry, status_code=201)
def add_offset(printer_id: int, json_data: schemas.OffsetIn):
    """Write down the offset as it stands in the machine now."""
    record = store.record_offset(
        session(),
        printer_id,
        json_data.parts,
        json_data.reason,
        client_key=json_data.client_key,
        visit_id=json_data.visit_id,
        data={"found": json_data.found} if json_data.found else None,
        note=json_data.note,
    )
    return _entry(record, get_printer(session(), printer_id))


@blueprint.delete("/offsets/<int:offset_id>")
@blueprint.output(schemas.Done)
def delete_offset(offset_id: int):
    """Take back what was written down by mistake."""
    return schemas.Done(id=store.set_offset_deleted(session(), offset_id, True).id)


@blueprint.post("/offsets/<int:offset_id>/restore")
@blueprint.output(schemas.Done)
def restore_offset(offset_id: int):
    """Bring it back."""
    return schemas.Done(id=store.set_offset_deleted(session(), offset_id, False).id)


@blueprint.post("/visits/<int:visit_id>/offset/paper")
@blueprint.input(schemas.PaperIn)
@blueprint.output(schemas.NewOffsetOut)
def by_paper(visit_id: int, json_data: schemas.PaperIn):
    """Correct the offset by the feel of paper at Z = 0."""
    visit = get_visit(session(), visit_id)
    gap, sd = gap_from_paper(json_data.thickness, json_data.feel)
    return new_offset(visit, json_data.place, offset_from_paper(gap, sd, visit.first_layer))


@blueprint.post("/visits/<int:visit_id>/offset/patches")
@blueprint.input(schemas.PatchesIn)
@blueprint.output(schemas.NewOffsetOut)
def by_patches(visit_id: int, json_data: schemas.PatchesIn):
    """Correct the offset by the thickness of printed patches."""
    visit = get_visit(session(), visit_id)
    patches = [Patch(p.x, p.y, p.commanded, tuple(p.thickness)) for p in json_data.patches]
    found = offset_from_patches(patches, bed_of(visit.printer), json_data.width)
    return new_offset(visit, json_data.place, Correction(found.closer, found.margin, found.sentence), found)


@blueprint.post("/visits/<int:visit_id>/offset/trim")
@blueprint.input(schemas.TrimIn)
@blueprint.output(schemas.NewOffsetOut)
def by_trim(visit_id: int, json_data: schemas.TrimIn):
    """Give the new value after trimming while a print runs."""
    visit = get_visit(session(), visit_id)
    # what was trimmed is there already: nothing to refuse
    return new_offset(visit, json_data.place, Correction(json_data.closer, 0.0, ""), trimmed=True)


def new_offset(
    visit: Visit,
    place: str,
    correction: Correction,
    patches: PatchOffset | None = None,
    trimmed: bool = False,
) -> schemas.NewOffsetOut:
    """Give a correction as the number to type in, unless it would touch or nothing is known to count from."""
    printer = visit.printer
    newest = store.newest_offset(session(), printer.id)
    book: Ledger = store.ledger_of(newest, printer)
    if place not in book.parts:
        book = Ledger({**book.parts, place: 0.0}, book.closer_is)
    refused = None
    if not trimmed:
        refused = store.refuse_contact(
            session(), visit, Bead(max(0.42, 1.2 * visit.first_layer), visit.first_layer)
        )
    # machines and people count offsets in hundredths; from a value nobody knows no new one follows
    value = round(book.moved(place, correction.closer), 2)
    given = newest is not None and not refused
    return schemas.NewOffsetOut(
        closer=correction.closer,
        margin=None if trimmed else correction.margin,
        place=place,
        label=PLACES[place],
        before=book.parts[place],
        known=newest is not None,
        value=value if given else None,
        parts={**book.parts, place: value} if given else {},
        sentence=correction.sentence,
        refused=refused,
        enough=patches.enough if patches else abs(correction.closer) < 0.0005,
        means=list(patches.means) if patches else [],
        outliers=[list(one) for one in patches.outliers] if patches else [],
        tilt=patches.tilt if patches and patches.tilted else None,
        turns=_turns(visit, patches) if patches and patches.tilted else [],
    )


def _turns(visit: Visit, patches: PatchOffset) -> list[str]:
    """What the knobs would do about the tilt that patches show."""
    printer = visit.printer
    if not printer.screws or patches.heights is None:
        return []
    plan = plan_turns(
        patches.heights,
        screws_of(printer),
        centre=bed_of(printer).centre,
        repeatability=patches.noise,
        repeatability_dof=patches.dof,
    )
    return [instruct(turn, printer.thread_hand, printer.knob_view) for turn in plan.turns if turn.rounded]
