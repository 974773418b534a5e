"""Plans and what was turned."""

from apiflask import APIBlueprint

from finchwort.core.relief import make_relief
from finchwort.store import tramming as store
from finchwort.store.printers import bed_of
from finchwort.store.probing import noise_for
from finchwort.store.surveys import assess, get_survey, load_readings
from finchwort.web import schemas, views
from finchwort.web.database import session

blueprint = APIBlueprint("tramming", __name__, url_prefix="/api", tag="tramming")


@blueprint.get("/surveys/<int:survey_id>/plan")
@blueprint.input(schemas.PlanQuery, location="query")
@blueprint.output(schemas.PlanOut)
def get_plan(survey_id: int, query_data: schemas.PlanQuery):
    """Say which screw to turn and how far, and show the bed it should give."""
    record = get_survey(session(), survey_id)
    plan = store.plan_for(session(), record, query_data.hold)
    bed = bed_of(record.visit.printer)
    relief = make_relief(load_readings(session(), survey_id), bed).plus(*plan.change)
    *_, verdict = assess(plan.predicted, bed, record.visit.first_layer, True)
    return views.plan_out(record, plan, relief, verdict, noise_for(session(), record).source)


@blueprint.post("/surveys/<int:survey_id>/turnings")
@blueprint.input(schemas.TurningIn)
@blueprint.output(schemas.TurningOut, status_code=201)
def add_turning(survey_id: int, json_data: schemas.TurningIn):
    """Record what was turned."""
    turning = store.record_turning(
        session(),
        survey_id,
        json_data.hold,
        json_data.done,
        client_key=json_data.client_key,
        note=json_data.note,
    )
    return views.turning_out(turning)


@blueprint.delete("/turnings/<int:turning_id>")
@blueprint.output(schemas.Done)
def delete_turning(turning_id: int):
    """Take back a turning that was recorded by mistake."""
    return schemas.Done(id=store.set_turning_deleted(session(), turning_id, True).id)


@blueprint.post("/turnings/<int:turning_id>/restore")
@blueprint.output(schemas.Done)
def restore_turning(turning_id: int):
    """Bring a turning back."""
    return schemas.Done(id=store.set_turning_deleted(session(), turning_id, False).id)
