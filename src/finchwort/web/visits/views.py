"""Visits: the main place of work."""

from __future__ import annotations

from collections.abc import Sequence

from apiflask import APIBlueprint

from finchwort.messages.remarks import words
from finchwort.services.first_layer.offsets import kept_offset, offset_state
from finchwort.services.prints.due import due_at_prints
from finchwort.services.surveys.surveys import rejudge_visit
from finchwort.services.tramming.turnings import review_rounds
from finchwort.services.visits import visits as service
from finchwort.services.visits.follow_up import after_of
from finchwort.services.visits.standing import survey_stands
from finchwort.services.visits.today import due_today
from finchwort.services.visits.validity import print_state
from finchwort.store.diagnosis.cases import state_of_cases
from finchwort.store.models import Visit
from finchwort.store.printers.printers import get_printer
from finchwort.store.printers.workshop_state import state_of_workshop
from finchwort.store.visits import visits as store
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.kept import kept
from finchwort.web.probing.views import first_of

blueprint = APIBlueprint("visits", __name__, url_prefix="/api", tag="visits")


def _show(visit: Visit) -> schemas.VisitOut:
    rounds = store.list_rounds(session(), visit)
    turned = rounds[-1].turning if rounds else None
    keep = kept_offset(session(), turned) if turned is not None else None
    now = now_of(visit, rounds)
    return serializers.visit_out(visit, rounds, review_rounds(session(), rounds), first_of(visit), now, keep)


def now_of(visit: Visit, rounds: Sequence[store.Round]) -> serializers.Now:
    """Gather what of the present a visit is judged by."""
    return serializers.Now(
        offset_state(session(), visit),
        survey_stands(session(), rounds[-1].survey, visit) if rounds else None,
        print_state(session(), visit),
        after_of(session(), visit.printer) if visit.ended_at is None else None,
    )


@blueprint.post("/printers/<int:printer_id>/visits")
@blueprint.input(schemas.StripIn)
@blueprint.output(schemas.VisitOut, status_code=201)
def start_visit(printer_id: int, json_data: schemas.StripIn) -> schemas.VisitOut:
    """Begin a visit; the strip is taken over from the visit before."""
    printer = get_printer(session(), printer_id)
    return _show(service.start_visit(session(), printer, **json_data.model_dump()))


@blueprint.get("/today")
@blueprint.output(schemas.TodayOut)
def get_today() -> schemas.TodayOut:
    """Give what is due at all printers, the most pressing first."""
    state = (*state_of_workshop(session()), *state_of_cases(session()))
    # prints go on by the minute, the rest changes with the records
    return schemas.TodayOut(due=[*_at_prints(), *kept("today", state, _on_record)])


def _at_prints() -> list[schemas.DueOut]:
    return [
        schemas.DueOut.of(
            due,
            printer_id=one.print_.printer_id,
            printer=one.print_.printer.name,
            visit_id=None,
            print_id=one.print_.id,
            sentence=words(due.said),
        )
        for one, due in due_at_prints(session())
    ]


def _on_record() -> list[schemas.DueOut]:
    return [
        schemas.DueOut.of(
            one.due,
            printer_id=one.printer.id,
            printer=one.printer.name,
            visit_id=one.visit_id,
            print_id=None,
            sentence=words(one.due.said),
        )
        for one in due_today(session())
    ]


@blueprint.get("/visits/<int:visit_id>")
@blueprint.output(schemas.VisitOut)
def get_visit(visit_id: int) -> schemas.VisitOut:
    """Give a visit with its rounds."""
    return _show(store.get_visit(session(), visit_id))


@blueprint.patch("/visits/<int:visit_id>")
@blueprint.input(schemas.VisitChange)
@blueprint.output(schemas.VisitOut)
def change_visit(visit_id: int, json_data: schemas.VisitChange) -> schemas.VisitOut:
    """Change the setup strip or the note."""
    changes = json_data.model_dump(exclude={"version"}, exclude_unset=True)
    for name in ("surface", "surface_kind", "material", "note"):
        if changes.get(name, "") is None:
            changes[name] = ""
    if changes.get("first_layer", 0) is None:
        del changes["first_layer"]
    visit = service.update_visit(session(), visit_id, json_data.version, **changes)
    if "first_layer" in changes:
        rejudge_visit(session(), visit)
    return _show(visit)


@blueprint.post("/visits/<int:visit_id>/finish")
@blueprint.input(schemas.FinishIn)
@blueprint.output(schemas.VisitOut)
def finish_visit(visit_id: int, json_data: schemas.FinishIn) -> schemas.VisitOut:
    """Close a visit."""
    return _show(service.finish_visit(session(), visit_id, json_data.note))


@blueprint.post("/visits/<int:visit_id>/reopen")
@blueprint.output(schemas.VisitOut)
def reopen_visit(visit_id: int) -> schemas.VisitOut:
    """Open a closed visit again."""
    return _show(service.reopen_visit(session(), visit_id))


deletable(blueprint, "/visits", "visit", service.set_visit_deleted)
