"""Test prints: drawn, counted, and written out as a file for the printer."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from apiflask import APIBlueprint
from flask import Response

from finchwort.core.first_layer import PrintKind
from finchwort.formats.gcode import write_gcode
from finchwort.knowledge.dialect import print_commands
from finchwort.messages.first_layer import PRINT_TITLES, purpose_of
from finchwort.messages.remarks import sentences
from finchwort.services.first_layer.test_prints import MadePrint, PrintWish, test_print_for
from finchwort.store.errors import ConflictError
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("testprints", __name__, url_prefix="/api", tag="test prints")


def _made(visit_id: int, query: schemas.TestPrintQuery) -> MadePrint:
    wish = PrintWish(query.width, query.filament, query.paper, query.side)
    return test_print_for(session(), get_visit(session(), visit_id), query.kind, wish)


def _xy(points: Iterable[Sequence[float]]) -> list[schemas.XY]:
    return [schemas.XY(x=float(x), y=float(y)) for x, y in points]


@blueprint.get("/visits/<int:visit_id>/test-print")
@blueprint.input(schemas.TestPrintQuery, location="query")
@blueprint.output(schemas.TestPrintOut)
def get_test_print(visit_id: int, query_data: schemas.TestPrintQuery) -> schemas.TestPrintOut:
    """Draw a test print, or say why it would do harm."""
    result = _made(visit_id, query_data)
    made = result.made
    return schemas.TestPrintOut.of(
        made,
        title=PRINT_TITLES[PrintKind(made.kind)],
        does=purpose_of(made),
        spots=[schemas.SpotOut(**vars(spot)) for spot in made.spots],
        prime=_xy(made.strokes[0].points) if made.strokes else [],
        walk=_xy(made.walk),
        minutes=made.seconds / 60,
        bed_temperature=made.setting.bed_temperature,
        compensation="on" if result.mesh_on else "off" if result.mesh_off else "none",
        measured=result.measured,
        cautions=sentences(made.cautions),
        made_for=list(result.made_for),
        file=_name(visit_id, made.kind),
    )


@blueprint.get("/visits/<int:visit_id>/test-print.gcode")
@blueprint.input(schemas.TestPrintQuery, location="query")
@blueprint.doc(hide=True)
def get_test_print_file(visit_id: int, query_data: schemas.TestPrintQuery) -> Response:
    """Give a test print as a file for the printer."""
    visit = get_visit(session(), visit_id)
    commands = print_commands(visit.printer.dialect)
    if not commands:
        raise ConflictError(
            "How this printer is told to heat and home is not known: its dialect has no commands for it."
        )
    result = _made(visit_id, query_data)
    text = write_gcode(
        result.made,
        commands,
        printer=visit.printer.name,
        mesh_on=result.mesh_on,
        mesh_off=result.mesh_off,
        made_for=result.made_for,
    )
    name = _name(visit_id, query_data.kind)
    return Response(
        text, mimetype="text/plain", headers={"Content-Disposition": f"attachment; filename={name}"}
    )


def _name(visit_id: int, kind: str) -> str:
    printer = get_visit(session(), visit_id).printer.name
    plain = re.sub(r"[^a-z0-9]+", "-", printer.lower()).strip("-") or "printer"
    return f"{plain}-{kind.replace('_', '-')}.gcode"
