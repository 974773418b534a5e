"""Sums about the extruder: steps, flow, lines side by side."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.core.first_layer import MELTS, calibrate_steps, line_up, melt_flow
from finchwort.messages.remarks import words
from finchwort.web import schemas

blueprint = APIBlueprint("extrusion", __name__, url_prefix="/api", tag="extrusion")


@blueprint.get("/extrusion/steps")
@blueprint.input(schemas.StepsQuery, location="query")
@blueprint.output(schemas.StepsOut)
def get_steps(query_data: schemas.StepsQuery) -> schemas.StepsOut:
    """Correct the steps per mm of filament."""
    result = calibrate_steps(query_data.steps, query_data.asked, query_data.measured)
    return schemas.StepsOut.of(result, sentence=words(result.remark))


@blueprint.get("/extrusion/lines")
@blueprint.input(schemas.LinesQuery, location="query")
@blueprint.output(schemas.LinesOut)
def get_lines(query_data: schemas.LinesQuery) -> schemas.LinesOut:
    """Work out how lines lie side by side, and whether the hot end keeps up."""
    asked = query_data
    lines = line_up(asked.width, asked.height, asked.nozzle)
    melts = MELTS if asked.melts is None else (asked.melts, asked.melts)
    flow = melt_flow(asked.width, asked.height, asked.speed, melts)
    return schemas.LinesOut.of(
        lines,
        lines=words(lines.remark),
        flow=flow.flow,
        fastest=flow.fastest,
        level=flow.level,
        melting=words(flow.remark),
    )
