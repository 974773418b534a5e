"""Ladders: patches at stepped heights, judged by eye."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.bead import Bead
from finchwort.core.judging import STEPS, WORDS
from finchwort.core.ladders import best_gap, usual_limits
from finchwort.core.offsets import PLACES, Correction
from finchwort.core.wording import micro, millimetres
from finchwort.store import trials as store
from finchwort.store.models import Visit
from finchwort.store.offset_models import Trial
from finchwort.store.offsets import ledger_of, newest_offset
from finchwort.store.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.first_layer import laid_out
from finchwort.web.offsets import new_offset

blueprint = APIBlueprint("trials", __name__, url_prefix="/api", tag="trials")


@blueprint.get("/visits/<int:visit_id>/ladder")
@blueprint.input(schemas.LadderQuery, location="query")
@blueprint.output(schemas.LadderOut)
def get_ladder(visit_id: int, query_data: schemas.LadderQuery):
    """Give the next ladder to print, and what those judged so far say."""
    visit = get_visit(session(), visit_id)
    bead = Bead(query_data.width, visit.first_layer)
    return _out(visit, bead, store.ladders_of(session(), visit, bead))


@blueprint.post("/visits/<int:visit_id>/ladder")
@blueprint.input(schemas.LadderIn)
@blueprint.output(schemas.TrialOut, status_code=201)
def add_ladder(visit_id: int, json_data: schemas.LadderIn):
    """Record a ladder and how its patches were judged."""
    patches = [(one.shift, one.step) for one in json_data.patches]
    made = store.record_ladder(
        session(), visit_id, patches, client_key=json_data.client_key, note=json_data.note
    )
    return _trial(made)


@blueprint.delete("/trials/<int:trial_id>")
@blueprint.output(schemas.Done)
def delete_trial(trial_id: int):
    """Take back what was recorded by mistake."""
    return schemas.Done(id=store.set_trial_deleted(session(), trial_id, True).id)


@blueprint.post("/trials/<int:trial_id>/restore")
@blueprint.output(schemas.Done)
def restore_trial(trial_id: int):
    """Bring it back."""
    return schemas.Done(id=store.set_trial_deleted(session(), trial_id, False).id)


def _trial(trial: Trial) -> schemas.TrialOut:
    patches = [schemas.JudgedOut(shift=p["shift"], step=p["step"]) for p in trial.patches]
    return schemas.TrialOut(id=trial.id, made_at=trial.made_at, patches=patches, note=trial.note)


def _out(visit: Visit, bead: Bead, ladders: store.Ladders) -> schemas.LadderOut:
    printer = visit.printer
    newest = newest_offset(session(), printer.id)
    book = ledger_of(newest, printer)
    place = "printer" if "printer" in book.parts else next(iter(book.parts))
    near, far = usual_limits(bead)
    middle = best_gap(bead)
    # in the middle of each step; beyond the outer lines as far again as they lie apart
    shifts = (far + (far - near), (near + far) / 2, 0.0, -(near + far) / 2, -(far + (far - near) / 2))
    found = ladders.found
    correction = None
    if found is not None and found.one_sided is None:
        margin = (found.high - found.low) / 2
        correction = new_offset(visit, place, Correction(-found.best, margin, found.sentence))
    return schemas.LadderOut(
        rungs=[
            schemas.RungOut(
                shift=shift,
                words=_words(shift),
                value=None if newest is None else book.moved(place, -shift),
            )
            for shift in ladders.rungs
        ],
        label=PLACES[place],
        spacing=bead.spacing,
        sliced=bead.height,
        examples=[
            schemas.StepExample(
                step=step, words=WORDS[step], laid=laid_out(bead, bead.at_gap(max(0.03, middle + shift)))
            )
            for step, shift in zip(STEPS, shifts, strict=True)
        ],
        trials=[_trial(trial) for trial in ladders.trials],
        best=found.best if found else None,
        low=found.low if found else None,
        high=found.high if found else None,
        done=bool(found and found.done),
        one_sided=bool(found and found.one_sided),
        sentence=found.sentence if found else "Nothing is judged yet.",
        correction=correction,
    )


def _words(shift: float) -> str:
    if abs(shift) < 0.0005:
        return "as it is"
    amount = millimetres(abs(shift)) if abs(shift * 100 - round(shift * 100)) < 1e-6 else micro(abs(shift))
    return f"{amount} {'farther' if shift > 0 else 'closer'}"
