"""Plans, what was turned, and what the knobs were found to do."""

from apiflask import APIBlueprint

from finchwort.services.tramming import learning, planning
from finchwort.services.tramming import turnings as service
from finchwort.store.errors import ConflictError
from finchwort.store.printers.printers import get_printer
from finchwort.store.surveys.surveys import get_survey
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.tramming import serializers

blueprint = APIBlueprint("tramming", __name__, url_prefix="/api", tag="tramming")


def _wish(query: schemas.PlanQuery) -> planning.Wish:
    points = tuple(map(int, query.points.split(","))) if query.points else None
    return planning.Wish(query.hold, query.reference, points)


@blueprint.get("/surveys/<int:survey_id>/plan")
@blueprint.input(schemas.PlanQuery, location="query")
@blueprint.output(schemas.PlanOut)
def get_plan(survey_id: int, query_data: schemas.PlanQuery) -> schemas.PlanOut:
    """Say which screw to turn and how far, and show the bed it should give."""
    record, wish = get_survey(session(), survey_id), _wish(query_data)
    return serializers.plan_out(record, planning.expect_plan(session(), record, wish), wish)


@blueprint.post("/surveys/<int:survey_id>/what-if")
@blueprint.input(schemas.WhatIfIn)
@blueprint.output(schemas.WhatIfOut)
def what_if(survey_id: int, json_data: schemas.WhatIfIn) -> schemas.WhatIfOut:
    """Show the bed that other turns would give; nothing is recorded."""
    record = get_survey(session(), survey_id)
    expected = planning.expect_turns(session(), record, _wish(json_data), json_data.turns)
    return serializers.what_if_out(expected, record.visit.printer.zero_kept)


@blueprint.post("/surveys/<int:survey_id>/turnings")
@blueprint.input(schemas.TurningIn)
@blueprint.output(schemas.TurningOut, status_code=201)
def add_turning(survey_id: int, json_data: schemas.TurningIn) -> schemas.TurningOut:
    """Record what was turned."""
    turning = service.record_turning(
        session(),
        survey_id,
        _wish(json_data),
        json_data.done,
        client_key=json_data.client_key,
        note=json_data.note,
    )
    return serializers.turning_out(turning)


deletable(blueprint, "/turnings", "turning", service.set_turning_deleted)


@blueprint.get("/printers/<int:printer_id>/learned")
@blueprint.output(schemas.LearnedOut)
def get_learned(printer_id: int) -> schemas.LearnedOut:
    """Say what the rounds taught about this printer's knobs."""
    printer = get_printer(session(), printer_id)
    if not printer.screws:
        raise ConflictError("This bed has no screws to learn about.")
    return serializers.learned_out(printer, learning.learned_of(session(), printer))


@blueprint.put("/printers/<int:printer_id>/learned")
@blueprint.input(schemas.MendedIn)
@blueprint.output(schemas.MendedOut)
def set_learned(printer_id: int, json_data: schemas.MendedIn) -> schemas.MendedOut:
    """Begin to learn anew after a repair, or go back to an earlier beginning."""
    before = learning.set_learned_since(session(), printer_id, json_data.since, note=json_data.note)
    return schemas.MendedOut(before=before)
