"""Plans, what was turned, and what the knobs were found to do."""

import numpy as np
from apiflask import APIBlueprint

from finchwort.core.printers import Bed
from finchwort.core.surveys import Relief, make_relief
from finchwort.core.tramming import after_turns, change_of, look_ahead, twist_at
from finchwort.services.surveys.surveys import assess
from finchwort.services.tramming import learning
from finchwort.services.tramming import turnings as service
from finchwort.store.errors import ConflictError
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.surveys.surveys import get_survey
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.tramming import serializers as views

blueprint = APIBlueprint("tramming", __name__, url_prefix="/api", tag="tramming")


def _wish(query: schemas.PlanQuery) -> service.Wish:
    points = tuple(map(int, query.points.split(","))) if query.points else None
    return service.Wish(query.hold, query.reference, points)


@blueprint.get("/surveys/<int:survey_id>/plan")
@blueprint.input(schemas.PlanQuery, location="query")
@blueprint.output(schemas.PlanOut)
def get_plan(survey_id: int, query_data: schemas.PlanQuery):
    """Say which screw to turn and how far, and show the bed it should give."""
    record = get_survey(session(), survey_id)
    wish = _wish(query_data)
    planned = service.plan_whole(session(), record, wish)
    bed = bed_of(record.visit.printer)
    relief = _after(planned, bed, [turn.rounded for turn in planned.plan.turns])
    *_, verdict = assess(
        planned.plan.predicted,
        bed,
        record.visit.first_layer,
        True,
        tilt=planned.outlook.after,
        compensation=record.visit.printer.compensation,
    )
    return views.plan_out(record, planned, wish, relief, verdict)


def _after(planned: service.Planned, bed: Bed, turns: list[float]) -> Relief:
    """The bed after turns, with what a plate that bends is twisted by them."""
    relief = make_relief(planned.survey, bed).plus(*change_of(planned.plan, turns))
    if not planned.plan.bends:
        return relief
    screws = [turn.screw for turn in planned.plan.turns]
    return relief.with_added(twist_at(screws, turns, planned.plan.bends, *np.meshgrid(relief.xs, relief.ys)))


@blueprint.post("/surveys/<int:survey_id>/what-if")
@blueprint.input(schemas.WhatIfIn)
@blueprint.output(schemas.WhatIfOut)
def what_if(survey_id: int, json_data: schemas.WhatIfIn):
    """Show the bed that other turns would give; nothing is recorded."""
    record = get_survey(session(), survey_id)
    planned = service.plan_whole(session(), record, _wish(json_data))
    turns = service.turns_by_name(planned.plan, json_data.turns)
    bed = bed_of(record.visit.printer)
    change = change_of(planned.plan, turns)
    after = after_turns(planned.plan, planned.survey, turns)
    outlook = look_ahead(
        planned.survey,
        planned.plan,
        bed,
        record.visit.first_layer,
        turns,
        service.most_side_of(record),
        planned.learned.slipping,
    )
    *_, verdict = assess(
        after,
        bed,
        record.visit.first_layer,
        True,
        tilt=outlook.after,
        compensation=record.visit.printer.compensation,
    )
    relief = _after(planned, bed, turns)
    x, y = bed.centre
    middle = change[0] * x + change[1] * y + change[2]
    return views.what_if_out(
        planned, turns, relief, after, outlook, verdict, middle, bed.centre, record.visit.printer.zero_kept
    )


@blueprint.post("/surveys/<int:survey_id>/turnings")
@blueprint.input(schemas.TurningIn)
@blueprint.output(schemas.TurningOut, status_code=201)
def add_turning(survey_id: int, json_data: schemas.TurningIn):
    """Record what was turned."""
    turning = service.record_turning(
        session(),
        survey_id,
        _wish(json_data),
        json_data.done,
        client_key=json_data.client_key,
        note=json_data.note,
    )
    return views.turning_out(turning)


@blueprint.delete("/turnings/<int:turning_id>")
@blueprint.output(schemas.Done)
def delete_turning(turning_id: int):
    """Take back a turning that was recorded by mistake."""
    return schemas.Done(id=service.set_turning_deleted(session(), turning_id, True).id)


@blueprint.post("/turnings/<int:turning_id>/restore")
@blueprint.output(schemas.Done)
def restore_turning(turning_id: int):
    """Bring a turning back."""
    return schemas.Done(id=service.set_turning_deleted(session(), turning_id, False).id)


@blueprint.get("/printers/<int:printer_id>/learned")
@blueprint.output(schemas.LearnedOut)
def get_learned(printer_id: int):
    """Say what the rounds taught about this printer's knobs."""
    printer = get_printer(session(), printer_id)
    if not printer.screws:
        raise ConflictError("This bed has no screws to learn about.")
    return views.learned_out(printer, learning.learned_of(session(), printer))


@blueprint.put("/printers/<int:printer_id>/learned")
@blueprint.input(schemas.MendedIn)
@blueprint.output(schemas.MendedOut)
def set_learned(printer_id: int, json_data: schemas.MendedIn):
    """Begin to learn anew after a repair, or go back to an earlier beginning."""
    before = learning.set_learned_since(session(), printer_id, json_data.since, note=json_data.note)
    return schemas.MendedOut(before=before)
