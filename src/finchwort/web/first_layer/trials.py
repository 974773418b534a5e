"""Ladders and judged beds: patches at stepped heights, judged by eye."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.base.wording import shift_in_words
from finchwort.core.first_layer import (
    KEPT_IN,
    STEPS,
    WORDS,
    Bead,
    Correction,
    Ladder,
    best_gap,
    heights_from,
    reading_sd,
    usual_limits,
)
from finchwort.core.printers import place_in_words
from finchwort.messages.first_layer import bed_sentences, ladder_sentence
from finchwort.messages.tramming import instruct
from finchwort.services.first_layer import trials as service
from finchwort.services.first_layer.offset_clues import refuse_pressed
from finchwort.services.tramming.planning import plan_heights
from finchwort.store.first_layer.models import Trial
from finchwort.store.first_layer.offsets import ledger_of, newest_offset
from finchwort.store.models import Visit
from finchwort.store.printers.printers import bed_of
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.first_layer.forecast import laid_out
from finchwort.web.first_layer.offsets import new_offset

blueprint = APIBlueprint("trials", __name__, url_prefix="/api", tag="trials")


@blueprint.get("/visits/<int:visit_id>/ladder")
@blueprint.input(schemas.LadderQuery, location="query")
@blueprint.output(schemas.LadderOut)
def get_ladder(visit_id: int, query_data: schemas.LadderQuery) -> schemas.LadderOut:
    """Give the next ladder to print, and what those judged so far say."""
    visit = get_visit(session(), visit_id)
    refuse_pressed(session(), visit.printer)
    bead = Bead(query_data.width, visit.first_layer)
    return _out(visit, bead, service.ladders_of(session(), visit, bead))


@blueprint.post("/visits/<int:visit_id>/ladder")
@blueprint.input(schemas.LadderIn)
@blueprint.output(schemas.TrialOut, status_code=201)
def add_ladder(visit_id: int, json_data: schemas.LadderIn) -> schemas.TrialOut:
    """Record a ladder and how its patches were judged."""
    patches = [(patch.shift, patch.step) for patch in json_data.patches]
    made = service.record_ladder(
        session(), visit_id, patches, client_key=json_data.client_key, note=json_data.note
    )
    return _trial(made)


@blueprint.get("/visits/<int:visit_id>/judged-bed")
@blueprint.input(schemas.BedQuery, location="query")
@blueprint.output(schemas.JudgedBedOut)
def get_judged_bed(visit_id: int, query_data: schemas.BedQuery) -> schemas.JudgedBedOut:
    """Give where to print discs over the bed, and what those judged so far say of offset and tilt."""
    visit = get_visit(session(), visit_id)
    refuse_pressed(session(), visit.printer)
    bead = Bead(query_data.width, visit.first_layer)
    return _bed_out(visit, bead, service.judged_bed_of(session(), visit, bead, query_data.side))


@blueprint.post("/visits/<int:visit_id>/judged-bed")
@blueprint.input(schemas.JudgedBedIn)
@blueprint.output(schemas.TrialOut, status_code=201)
def add_judged_bed(visit_id: int, json_data: schemas.JudgedBedIn) -> schemas.TrialOut:
    """Record discs over the bed and how they were judged."""
    patches = [(patch.shift, patch.step, patch.x, patch.y) for patch in json_data.patches]
    made = service.record_trial(
        session(), visit_id, "bed", patches, client_key=json_data.client_key, note=json_data.note
    )
    return _trial(made)


deletable(blueprint, "/trials", "trial", service.set_trial_deleted)


def _trial(trial: Trial) -> schemas.TrialOut:
    patches = [schemas.JudgedOut(shift=p["shift"], step=p["step"]) for p in trial.patches]
    return schemas.TrialOut.of(trial, patches=patches)


def step_examples(bead: Bead) -> list[schemas.StepExample]:
    """Give a bead in the middle of each step; beyond the outer lines as far again as they lie apart."""
    near, far = usual_limits(bead)
    middle = best_gap(bead)
    shifts = (far + (far - near), (near + far) / 2, 0.0, -(near + far) / 2, -(far + (far - near) / 2))
    return [
        schemas.StepExample(
            step=step, words=WORDS[step], laid=laid_out(bead, bead.at_gap(max(0.03, middle + shift)))
        )
        for step, shift in zip(STEPS, shifts, strict=True)
    ]


def _correction(visit: Visit, ladder: Ladder | None) -> tuple[str, schemas.NewOffsetOut | None]:
    """Where the offset is kept that is corrected, and the correction; none while the best is only known to be beyond."""
    book = ledger_of(newest_offset(session(), visit.printer_id), visit.printer)
    place = "printer" if "printer" in book.parts else next(iter(book.parts))
    if ladder is None or ladder.one_sided is not None:
        return place, None
    return place, new_offset(
        visit, place, Correction(-ladder.best, (ladder.high - ladder.low) / 2, ladder_sentence(ladder))
    )


def _out(visit: Visit, bead: Bead, ladders: service.Ladders) -> schemas.LadderOut:
    newest = newest_offset(session(), visit.printer_id)
    book = ledger_of(newest, visit.printer)
    result = ladders.found
    place, correction = _correction(visit, result)
    return schemas.LadderOut(
        rungs=[
            schemas.RungOut(
                shift=shift,
                words=shift_in_words(shift),
                value=None if newest is None else book.moved(place, -shift),
            )
            for shift in ladders.rungs
        ],
        label=KEPT_IN[place],
        spacing=bead.spacing,
        sliced=bead.height,
        examples=step_examples(bead),
        trials=[_trial(trial) for trial in ladders.trials],
        best=result.best if result else None,
        low=result.low if result else None,
        high=result.high if result else None,
        done=bool(result and result.done),
        one_sided=bool(result and result.one_sided),
        sentence=ladder_sentence(result) if result else "Nothing is judged yet.",
        correction=correction,
    )


def _bed_out(visit: Visit, bead: Bead, judged: service.JudgedBed) -> schemas.JudgedBedOut:
    bed = bed_of(visit.printer)
    result = judged.found
    turns = _turns(visit, judged) if result else []
    return schemas.JudgedBedOut(
        discs=[
            schemas.DiscOut(
                number=i, x=x, y=y, shift=shift, words=shift_in_words(shift), name=place_in_words(bed, x, y)
            )
            for i, (x, y, shift) in enumerate(judged.places, 1)
        ],
        spacing=bead.spacing,
        sliced=bead.height,
        examples=step_examples(bead),
        trials=[_trial(trial) for trial in judged.trials],
        patches=[schemas.JudgedPlaceOut.of(p) for p in judged.patches],
        best=result.best if result else None,
        low=result.low if result else None,
        high=result.high if result else None,
        tilt=result.tilt if result else None,
        tilt_low=result.tilt_low if result else None,
        tilt_high=result.tilt_high if result else None,
        bow=result.bow if result else None,
        bow_margin=result.bow_margin if result else None,
        sentences=list(bed_sentences(result, bool(visit.printer.screws), visit.printer.compensation))
        if result
        else [],
        turns=turns,
        correction=_correction(visit, result)[1],
    )


def _turns(visit: Visit, judged: service.JudgedBed) -> list[str]:
    """What the knobs would do about the tilt that is sure."""
    result, printer = judged.found, visit.printer
    if result is None or not result.tilt_shows or not printer.screws:
        return []
    bed = bed_of(printer)
    heights = heights_from(judged.patches, result, bed)
    sd = reading_sd(heights, result, bed)
    plan = plan_heights(
        session(), printer, heights, sd, len(judged.patches), visit.first_layer, "the looks"
    ).plan
    return [instruct(turn, printer.thread_hand, printer.knob_view) for turn in plan.turns if turn.rounded]
