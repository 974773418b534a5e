"""Walk round, switches, warm-up, trust in the probe, beam, straightedge."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from finchwort.core.base.errors import TooFewReadingsError
from finchwort.core.probing import lay_line
from finchwort.core.visits import FOUND
from finchwort.messages.errors import sentence
from finchwort.services.levelling.plans import edges_of
from finchwort.services.probing import probe_tests as service
from finchwort.services.surveys.after_tests import record_test, set_test_deleted
from finchwort.services.visits.follow_up import tick_if_asked
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import bed_of, get_printer, screws_of
from finchwort.store.probing import probe_tests as store
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.probing import serializers

blueprint = APIBlueprint("probing", __name__, url_prefix="/api", tag="probing")


def first_of(visit: Visit) -> serializers.First:
    """Gather what was found out in a visit before measuring."""
    tests = store.tests_of(session(), visit.id)
    return serializers.First(
        before=service.before_of(session(), visit, tests),
        findings=store.latest_findings(session(), visit.id),
        tests=tests,
        weaknesses=service.weaknesses(session(), visit, tests),
    )


def _data(given: schemas.TestData) -> dict[str, Any]:
    data: dict[str, Any] = given.model_dump(exclude={"kind"}, exclude_none=True)
    return data


def _in_place(printer: Printer, data: dict[str, Any]) -> None:
    """Refuse a straightedge line that would lie beside the bed."""
    if data.get("direction"):
        lay_line(bed_of(printer), data["direction"], data["positions"], data["gaps"], data.get("across"))


@blueprint.post("/visits/<int:visit_id>/findings")
@blueprint.input(schemas.FindingIn)
@blueprint.output(schemas.Done, status_code=201)
def add_finding(visit_id: int, json_data: schemas.FindingIn) -> schemas.Done:
    """Note what the walk round found at an item."""
    result = service.record_finding(session(), visit_id, json_data.item, json_data.state, json_data.note)
    if json_data.state == "good" and json_data.item in FOUND:
        # the same was asked for after something happened
        printer = get_visit(session(), visit_id).printer
        tick_if_asked(session(), printer, FOUND[json_data.item], client_key=f"finding-{result.id}")
    return schemas.Done(id=result.id)


@blueprint.post("/printers/<int:printer_id>/tests/preview")
@blueprint.input(schemas.TestPreviewIn)
@blueprint.output(schemas.TestPreview)
def preview_test(printer_id: int, json_data: schemas.TestPreviewIn) -> schemas.TestPreview:
    """Say what a test would show, without storing it."""
    printer = get_printer(session(), printer_id)
    try:
        data = _data(json_data.test)
        assessment = service.assess_test(json_data.test.kind, data, screws_of(printer))
        _in_place(printer, data)
    except TooFewReadingsError as error:
        return schemas.TestPreview(waiting=sentence(error))
    return schemas.TestPreview(result=serializers.result_out(assessment))


@blueprint.post("/visits/<int:visit_id>/tests")
@blueprint.input(schemas.TestIn)
@blueprint.output(schemas.TestOut, status_code=201)
def add_test(visit_id: int, json_data: schemas.TestIn) -> schemas.TestOut:
    """Store a test of a visit."""
    visit = get_visit(session(), visit_id)
    others = store.tests_of(session(), visit.id)
    _in_place(visit.printer, _data(json_data.test))
    test = record_test(
        session(), visit_id, json_data.test.kind, _data(json_data.test), client_key=json_data.client_key
    )
    return serializers.test_out(test, others)


@blueprint.get("/visits/<int:visit_id>/straightedge")
@blueprint.input(schemas.EdgeQuery, location="query")
@blueprint.output(schemas.EdgesOut)
def get_straightedge(visit_id: int, query_data: schemas.EdgeQuery) -> schemas.EdgesOut:
    """Give the straightedge lines of a visit in their places, and the shape they show together."""
    return serializers.edges_out(*edges_of(session(), get_visit(session(), visit_id), query_data.what))


deletable(blueprint, "/tests", "test", set_test_deleted)
