"""Levelling without screws, what is left, compensation, and drift."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import numpy as np
from apiflask import APIBlueprint
from flask import Response

from finchwort.core.compensation import ORDER, advise_grid, interpolate
from finchwort.core.levelling import Foil, measure_foil
from finchwort.core.surveys import make_relief
from finchwort.formats.mesh import mesh_commands, mesh_table
from finchwort.formats.row import read_row
from finchwort.knowledge.dialect import mesh_commands as known_commands
from finchwort.services.compensation.mesh import Compensated, MeshWish, mesh_for, stored_mesh
from finchwort.services.levelling import plans
from finchwort.services.levelling.cards import deck_of
from finchwort.services.printers.printers import set_foils, tell_foils
from finchwort.services.surveys.surveys import assess
from finchwort.services.tramming import adjustments
from finchwort.services.visits.drift import drift_of
from finchwort.store.models import SurveyRecord
from finchwort.store.printers.printers import bed_of, foils_of, get_printer, get_workshop
from finchwort.store.surveys.surveys import get_survey, load_readings
from finchwort.store.visits.visits import get_visit, list_rounds
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.levelling import serializers
from finchwort.web.tramming.serializers import adjustment_out

blueprint = APIBlueprint("levelling", __name__, url_prefix="/api", tag="levelling")


@blueprint.get("/foils")
@blueprint.output(schemas.FoilsOut)
def get_foils() -> schemas.FoilsOut:
    """Give what foil lies in the drawer."""
    return serializers.foils_out(get_workshop(session()))


@blueprint.put("/foils")
@blueprint.input(schemas.FoilsIn)
@blueprint.output(schemas.FoilsOut)
def put_foils(json_data: schemas.FoilsIn) -> schemas.FoilsOut:
    """Count anew what foil lies in the drawer."""
    foils = [Foil(foil.thickness, foil.count, foil.roll) for foil in json_data.foils]
    return serializers.foils_out(set_foils(session(), foils, json_data.version))


@blueprint.get("/foils/measured")
@blueprint.input(schemas.MeasureQuery, location="query")
@blueprint.output(schemas.MeasuredOut)
def get_measured(query_data: schemas.MeasureQuery) -> schemas.MeasuredOut:
    """Say how thick one piece of foil is, of several that were measured together."""
    return schemas.MeasuredOut(**vars(measure_foil(query_data.together, query_data.pieces)))


@blueprint.put("/printers/<int:printer_id>/foil")
@blueprint.input(schemas.FoilUnderIn)
@blueprint.output(schemas.Done)
def put_foil_under(printer_id: int, json_data: schemas.FoilUnderIn) -> schemas.Done:
    """Set right what is known of the foil under the pads; the drawer is not counted by it."""
    stacks = {shim.name: list(shim.foils) for shim in json_data.shims}
    return schemas.Done(id=tell_foils(session(), printer_id, stacks).id)


@blueprint.get("/surveys/<int:survey_id>/shims")
@blueprint.input(schemas.ShimQuery, location="query")
@blueprint.output(schemas.ShimPlanOut)
def get_shims(survey_id: int, query_data: schemas.ShimQuery) -> schemas.ShimPlanOut:
    """Say which foils to lay under which pad, and show the bed they should give."""
    record = get_survey(session(), survey_id)
    plan = plans.shims_for(session(), record, query_data.lower_middle)
    bed = bed_of(record.visit.printer)
    *_, verdict = assess(
        plan.predicted, bed, record.visit.first_layer, False, compensation=record.visit.printer.compensation
    )
    before = load_readings(session(), survey_id)
    rise = float(np.mean(plan.predicted.height - before.height))
    # taller or lower as a whole is a matter of the Z offset: shown is the shape, from its mean
    level = plan.predicted.with_heights(plan.predicted.height - plan.predicted.height.mean())
    foils = foils_of(get_workshop(session()))
    return serializers.shims_out(record, plan, make_relief(level, bed), rise, verdict, foils)


@blueprint.get("/surveys/<int:survey_id>/tape")
@blueprint.input(schemas.TapeQuery, location="query")
@blueprint.output(schemas.TapesOut)
def get_tape(survey_id: int, query_data: schemas.TapeQuery) -> schemas.TapesOut:
    """Say where tape goes under a loose plate."""
    record = get_survey(session(), survey_id)
    return serializers.tapes_out(plans.tape_for(session(), record, query_data.thickness))


@blueprint.get("/visits/<int:visit_id>/cards")
@blueprint.input(schemas.DeckQuery, location="query")
@blueprint.output(schemas.DeckOut)
def get_cards(visit_id: int, query_data: schemas.DeckQuery) -> schemas.DeckOut:
    """Give what is to be done at the printer, one instruction at a time."""
    visit = get_visit(session(), visit_id)
    deck = deck_of(session(), visit, lower_middle=query_data.lower_middle, tape=query_data.tape)
    rounds = list_rounds(session(), visit)
    return serializers.deck_out(deck, rounds[-1].survey.id if rounds else None)


@blueprint.get("/surveys/<int:survey_id>/beam")
@blueprint.output(schemas.BeamPlanOut)
def get_beam(survey_id: int) -> schemas.BeamPlanOut:
    """Say which side of the cross beam to drive, or that it is not the beam."""
    record = get_survey(session(), survey_id)
    return serializers.beam_out(record, *plans.beam_for(session(), record))


@blueprint.post("/visits/<int:visit_id>/beam-row")
@blueprint.input(schemas.BeamRowIn)
@blueprint.output(schemas.BeamPlanOut)
def post_beam_row(visit_id: int, json_data: schemas.BeamRowIn) -> schemas.BeamPlanOut:
    """Say which side of the cross beam to drive by three bare numbers: left, middle, right."""
    visit = get_visit(session(), visit_id)
    values = read_row(json_data.text, json_data.values)
    return serializers.beam_out(None, *plans.beam_by_row(session(), visit, values))


@blueprint.get("/surveys/<int:survey_id>/left")
@blueprint.output(schemas.LeftOut)
def get_left(survey_id: int) -> schemas.LeftOut:
    """Say what no screw takes out, and what to do about it."""
    record = get_survey(session(), survey_id)
    return serializers.left_out(plans.left_of(session(), record), record.visit.first_layer)


@blueprint.get("/surveys/<int:survey_id>/compensation")
@blueprint.input(schemas.MeshQuery, location="query")
@blueprint.output(schemas.CompensationOut)
def get_compensation(survey_id: int, query_data: schemas.MeshQuery) -> schemas.CompensationOut:
    """Make a mesh from a survey, and show what it leaves."""
    record = get_survey(session(), survey_id)
    mesh = mesh_for(session(), record, MeshWish(**query_data.model_dump()))
    printer = record.visit.printer
    bed = bed_of(printer)
    *_, verdict = assess(mesh.after, bed, record.visit.first_layer, bool(printer.screws))
    advice = advise_grid(
        [mesh.survey], bed, record.visit.first_layer, probe=(printer.probe_dx, printer.probe_dy)
    )
    return serializers.compensation_out(
        record,
        mesh,
        make_relief(mesh.after, bed),
        verdict,
        advice.sentence,
        list(ORDER),
        mesh_table(mesh.mesh),
        _commands(record, mesh),
        stored_mesh(session(), printer, record.visit),
    )


def _commands(record: SurveyRecord, result: Compensated) -> str:
    commands = known_commands(record.visit.printer.dialect)
    if result.kind != "mesh":
        commands = {}
    # the middle is where the offset was found: a mesh that moved it would bring the tip closer there
    x, y = bed_of(record.visit.printer).centre
    level = interpolate(result.mesh, [x], [y])
    return mesh_commands(result.mesh, commands, result.fade.height, float(level[0]))


@blueprint.get("/surveys/<int:survey_id>/mesh.<form>")
@blueprint.input(schemas.MeshQuery, location="query")
@blueprint.doc(hide=True)
def get_mesh_file(survey_id: int, form: str, query_data: schemas.MeshQuery) -> Response:
    """Give a mesh as a file: a table, or commands for the machine."""
    record = get_survey(session(), survey_id)
    mesh = mesh_for(session(), record, MeshWish(**query_data.model_dump()))
    text = mesh_table(mesh.mesh) + "\n" if form == "txt" else _commands(record, mesh)
    name = f"mesh-{record.id}-{record.taken_at:%Y-%m-%d}.{'txt' if form == 'txt' else 'gcode'}"
    return Response(
        text, mimetype="text/plain", headers={"Content-Disposition": f"attachment; filename={name}"}
    )


@blueprint.post("/surveys/<int:survey_id>/adjustments")
@blueprint.input(schemas.AdjustmentIn)
@blueprint.output(schemas.AdjustmentOut, status_code=201)
def add_adjustment(survey_id: int, json_data: schemas.AdjustmentIn) -> schemas.AdjustmentOut:
    """Record shims, tape, a driven beam or a stored mesh."""
    wish = json_data.adjustment
    made = adjustments.record_adjustment(
        session(),
        survey_id,
        wish.kind,
        _recorded(survey_id, wish),
        client_key=json_data.client_key,
        note=json_data.note,
    )
    return adjustment_out(made)


def _recorded(
    survey_id: int, wish: schemas.ShimsDone | schemas.TapeDone | schemas.BeamDone | schemas.MeshDone
) -> dict[str, Any]:
    """Give what is kept of an adjustment."""
    if isinstance(wish, schemas.ShimsDone):
        return {"stacks": {stack.name: sorted(stack.foils, reverse=True) for stack in wish.stacks}}
    if not isinstance(wish, schemas.MeshDone):
        return wish.model_dump(exclude={"kind"})
    asked = MeshWish(**wish.model_dump(exclude={"kind"}))
    mesh = mesh_for(session(), get_survey(session(), survey_id), asked)
    return {
        "columns": int(mesh.mesh.xs.size),
        "rows": int(mesh.mesh.ys.size),
        "method": mesh.method,
        "fade": mesh.fade.height,
        "deviation": round(mesh.deviation, 4),
    }


deletable(blueprint, "/adjustments", "adjustment", adjustments.set_adjustment_deleted)


@blueprint.get("/printers/<int:printer_id>/drift")
@blueprint.output(schemas.DriftOut)
def get_drift(printer_id: int) -> schemas.DriftOut:
    """Say how a printer's level wanders from visit to visit."""
    printer = get_printer(session(), printer_id)
    drift = drift_of(session(), printer)
    again = None
    if drift.forecast.days is not None and drift.found:
        again = (drift.left_at or drift.found[-1].at) + timedelta(days=drift.forecast.days)
    return serializers.drift_out(drift, again)
