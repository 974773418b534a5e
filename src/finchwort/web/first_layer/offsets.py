"""Z offsets: what stands where, and corrections by paper, patches and trimming."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.base.errors import CoreError
from finchwort.core.base.wording import seen_direction
from finchwort.core.first_layer import (
    KEPT_IN,
    MIN_CHANGE,
    Bead,
    Correction,
    Ledger,
    PaperStep,
    Patch,
    PatchOffset,
    correct_at_switch,
    correct_by_knobs,
    patch_places,
    switch_trouble,
    total_trim,
)
from finchwort.messages.errors import sentence
from finchwort.messages.first_layer import doubled_sentence, ledger_sentence, patches_sentence, way_of
from finchwort.messages.remarks import sentences, words
from finchwort.messages.tramming import instruct
from finchwort.services.first_layer import offset_clues as clues
from finchwort.services.first_layer import offsets as service
from finchwort.services.tramming.planning import plan_heights
from finchwort.store.first_layer import offsets as store
from finchwort.store.first_layer.models import OffsetRecord, Trial
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import bed_of, get_printer, screws_of
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable

blueprint = APIBlueprint("offsets", __name__, url_prefix="/api", tag="offsets")


def _parts(parts: dict[str, float]) -> list[schemas.PartOut]:
    return [
        schemas.PartOut(place=name, label=KEPT_IN[name], value=parts[name])
        for name in KEPT_IN
        if name in parts
    ]


def _entry(record: OffsetRecord, printer: Printer) -> schemas.OffsetEntry:
    return schemas.OffsetEntry.of(
        record,
        words=service.REASONS[record.reason],
        total=store.ledger_of(record, printer).total,
        parts=_parts(record.parts),
    )


def _offset(printer: Printer, visit: Visit | None) -> schemas.OffsetOut:
    history = store.list_offsets(session(), printer.id)
    newest = history[0] if history else None
    book = store.ledger_of(newest, printer)
    advice = service.trims_for(session(), visit) if visit is not None else ()
    return schemas.OffsetOut.of(
        book,
        sentence=ledger_sentence(book),
        doubled=doubled_sentence(book),
        printer_id=printer.id,
        known=newest is not None,
        parts=_parts(dict(book.parts)),
        outdated=sentences(service.offset_outdated(session(), printer, newest, visit)) if newest else [],
        patches=[schemas.Place(name=n, x=x, y=y) for n, x, y in patch_places(bed_of(printer))],
        trims=[schemas.TrimAdvice.of(a, closer=None if a.closer is None else list(a.closer)) for a in advice],
        trim_total=total_trim(advice),
        switch=switch_trouble(None, store.plate_thicker(session(), visit))
        if visit is not None and printer.zero_kept == "switch"
        else None,
        unreached=switch_trouble(False, None) if printer.zero_kept == "switch" else None,
        history=[_entry(record, printer) for record in history],
    )


@blueprint.get("/printers/<int:printer_id>/offset")
@blueprint.output(schemas.OffsetOut)
def get_offset(printer_id: int) -> schemas.OffsetOut:
    """Give the offset that counts, and its history."""
    return _offset(get_printer(session(), printer_id), None)


@blueprint.get("/visits/<int:visit_id>/offset")
@blueprint.output(schemas.OffsetOut)
def get_offset_of_visit(visit_id: int) -> schemas.OffsetOut:
    """Give the offset of a visit's printer, with what puts it out of date today."""
    visit = get_visit(session(), visit_id)
    return _offset(visit.printer, visit)


@blueprint.post("/printers/<int:printer_id>/offset")
@blueprint.input(schemas.OffsetIn)
@blueprint.output(schemas.OffsetEntry, status_code=201)
def add_offset(printer_id: int, json_data: schemas.OffsetIn) -> schemas.OffsetEntry:
    """Write down the offset as it stands in the machine now."""
    record = service.record_offset(
        session(),
        printer_id,
        {str(place): value for place, value in json_data.parts.items()},
        json_data.reason,
        client_key=json_data.client_key,
        visit_id=json_data.visit_id,
        data=({"found": json_data.found} if json_data.found else {})
        | ({"by_hand": json_data.by_hand} if json_data.by_hand is not None else {}),
        note=json_data.note,
    )
    return _entry(record, get_printer(session(), printer_id))


deletable(blueprint, "/offsets", "offset", service.set_offset_deleted)


@blueprint.post("/visits/<int:visit_id>/offset/paper")
@blueprint.input(schemas.PaperIn)
@blueprint.output(schemas.NewOffsetOut)
def by_paper(visit_id: int, json_data: schemas.PaperIn) -> schemas.NewOffsetOut:
    """Record how paper felt in the middle, with its Z, and say what follows."""
    trial = clues.record_paper(session(), visit_id, **json_data.model_dump(exclude={"place"}))
    return joined_offset(get_visit(session(), visit_id), json_data.place, trial=trial)


@blueprint.post("/visits/<int:visit_id>/offset/patches")
@blueprint.input(schemas.PatchesIn)
@blueprint.output(schemas.NewOffsetOut)
def by_patches(visit_id: int, json_data: schemas.PatchesIn) -> schemas.NewOffsetOut:
    """Record the thickness of printed patches, and say what follows."""
    patches = [Patch(p.x, p.y, p.commanded, tuple(p.thickness)) for p in json_data.patches]
    trial = clues.record_patches(
        session(),
        visit_id,
        patches,
        width=json_data.width,
        caliper_zero=json_data.caliper_zero,
        client_key=json_data.client_key,
    )
    visit = get_visit(session(), visit_id)
    return joined_offset(visit, json_data.place, clues.patches_found(session(), visit, trial), trial)


@blueprint.get("/visits/<int:visit_id>/offset/known")
@blueprint.input(schemas.PlaceQuery, location="query")
@blueprint.output(schemas.NewOffsetOut)
def get_known(visit_id: int, query_data: schemas.PlaceQuery) -> schemas.NewOffsetOut:
    """Say what is known of the offset so far, and what to do next."""
    return joined_offset(get_visit(session(), visit_id), query_data.place)


@blueprint.post("/visits/<int:visit_id>/offset/trim")
@blueprint.input(schemas.TrimIn)
@blueprint.output(schemas.NewOffsetOut)
def by_trim(visit_id: int, json_data: schemas.TrimIn) -> schemas.NewOffsetOut:
    """Give the new value after trimming while a print runs."""
    visit = get_visit(session(), visit_id)
    # what was trimmed is there already: nothing to refuse
    return new_offset(visit, json_data.place, Correction(json_data.closer, 0.0, ""), trimmed=True)


def joined_offset(
    visit: Visit, place: str, patches: PatchOffset | None = None, trial: Trial | None = None
) -> schemas.NewOffsetOut:
    """Give the correction that follows from everything known in a visit."""
    known = clues.known_of_offset(session(), visit, _bead(visit))
    belief, step = known.belief, known.step
    shown = Correction(step.closer if step.what == "type" else 0.0, belief.margin, words(step.remark))
    what, low, high = step.what, belief.low, belief.high
    if patches is not None:
        if any(clue.trial is None or clue.trial.id != (trial.id if trial else 0) for clue in known.clues):
            text = f"{words(step.remark)} The patches by themselves: {patches_sentence(patches)}"
            shown = Correction(shown.closer, shown.margin, text)
        else:  # nothing else is known: what the patches say stands as it is
            shown = Correction(patches.closer, patches.margin, patches_sentence(patches))
            what = "leave" if patches.enough else "type"
            low, high = patches.closer - patches.margin, patches.closer + patches.margin
    out = new_offset(visit, place, shown, patches, typed=what in ("type", "leave"))
    return out.model_copy(
        update={
            "step": PaperStep(what),
            "next_z": step.z,
            "enough": what == "leave",
            "low": low if belief.bounded else None,
            "high": high if belief.bounded else None,
            "trial": trial.id if trial else None,
            "clues": [
                schemas.ClueOut(trial=clue.trial.id if clue.trial else None, words=clue.words)
                for clue in known.clues
            ],
        }
    )


def _bead(visit: Visit) -> Bead:
    return Bead(max(0.42, 1.2 * visit.first_layer), visit.first_layer)


def new_offset(
    visit: Visit,
    place: str,
    correction: Correction,
    patches: PatchOffset | None = None,
    trimmed: bool = False,
    typed: bool = True,
) -> schemas.NewOffsetOut:
    """Give a correction as the number to type in, unless it would touch or nothing is known to count from."""
    printer = visit.printer
    newest = store.newest_offset(session(), printer.id)
    book: Ledger = store.ledger_of(newest, printer)
    if place not in book.parts:
        book = Ledger({**book.parts, place: 0.0}, book.closer_is)
    refused = None
    # farther is always safe; what was trimmed is there already
    if not trimmed and correction.closer > 0:
        refused = service.refuse_contact(session(), visit, _bead(visit))
    # machines and people count offsets in hundredths; from a value nobody knows no new one follows
    value = round(book.moved(place, correction.closer), 2)
    given = newest is not None and not refused and typed
    by_hand = None if trimmed or refused or not typed else _by_hand(printer, correction.closer)
    return schemas.NewOffsetOut(
        closer=correction.closer,
        way=way_of(correction.closer),
        stays=abs(correction.closer) < MIN_CHANGE,
        margin=None if trimmed else correction.margin,
        place=place,
        label=KEPT_IN[place],
        before=book.parts[place],
        known=newest is not None,
        value=value if given else None,
        parts={**book.parts, place: value} if given else {},
        sentence=correction.sentence,
        refused=refused,
        enough=patches.enough if patches else abs(correction.closer) < 0.0005,
        means=list(patches.means) if patches else [],
        outliers=[list(outlier) for outlier in patches.outliers] if patches else [],
        tilt=patches.tilt if patches and patches.tilted else None,
        turns=_turns(visit, patches) if patches and patches.tilted else [],
        by_hand=by_hand,
        step="type",
        next_z=None,
        low=None,
        high=None,
        clues=[],
        trial=None,
    )


def _by_hand(printer: Printer, closer: float) -> schemas.ByHandOut | None:
    """The same correction as it is made where zero is no number."""
    try:
        if printer.zero_kept == "knobs":
            made = correct_by_knobs(closer, screws_of(printer))
        elif printer.zero_kept == "switch":
            made = correct_at_switch(closer, printer.switch_pitch, printer.divisions)
        else:
            return None
    except CoreError as error:
        return schemas.ByHandOut(reason=printer.zero_kept, closer=0.0, sentence=sentence(error), turns=[])
    return schemas.ByHandOut(
        reason=printer.zero_kept,
        closer=made.closer,
        sentence=made.sentence,
        turns=[
            schemas.ByHandTurn(
                name=name, direction=seen_direction(turns, printer.thread_hand, printer.knob_view)
            )
            for name, turns in made.turns
            if turns
        ],
    )


def _turns(visit: Visit, patches: PatchOffset) -> list[str]:
    """What the knobs would do about the tilt that patches show."""
    printer = visit.printer
    if not printer.screws or patches.heights is None:
        return []
    plan = plan_heights(
        session(), printer, patches.heights, patches.noise, patches.dof, visit.first_layer, "the calipers"
    ).plan
    return [instruct(turn, printer.thread_hand, printer.knob_view) for turn in plan.turns if turn.rounded]
