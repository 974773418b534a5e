"""What was changed at a machine by hand: nozzle, plate, firmware, knobs."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.messages.machine import untold
from finchwort.messages.remarks import sentences
from finchwort.services.compensation.mesh import stored_mesh
from finchwort.services.machine.report import compared, told_of
from finchwort.services.visits import changes as service
from finchwort.services.visits.follow_up import after_of, leave_out, tick
from finchwort.services.visits.validity import NAMES, WORDS, what_holds
from finchwort.store.first_layer.models import MachineChange
from finchwort.store.first_layer.offsets import newest_offset
from finchwort.store.machine.report import newest_told
from finchwort.store.printers.printers import get_printer
from finchwort.store.visits import changes as store
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.deletion import deletable

blueprint = APIBlueprint("changes", __name__, url_prefix="/api", tag="changes")


def _out(change: MachineChange) -> schemas.ChangeOut:
    return schemas.ChangeOut.of(change, words=(store.WHATS | service.TICKS)[change.what])


@blueprint.get("/printers/<int:printer_id>/changes")
@blueprint.output(schemas.ChangesOut)
def get_changes(printer_id: int) -> schemas.ChangesOut:
    """Give what was changed since the offset was found."""
    printer = get_printer(session(), printer_id)
    newest = newest_offset(session(), printer_id)
    changes = store.changes_since(session(), printer_id, newest.made_at if newest else None)
    return schemas.ChangesOut(
        kinds=[
            schemas.ChangeKind(what=what, words=words) for what, words in service.kinds_for(printer).items()
        ],
        since=[_out(change) for change in changes],
    )


@blueprint.post("/printers/<int:printer_id>/changes")
@blueprint.input(schemas.ChangeIn)
@blueprint.output(schemas.ChangeOut, status_code=201)
def add_change(printer_id: int, json_data: schemas.ChangeIn) -> schemas.ChangeOut:
    """Write down what was changed."""
    wish = json_data
    made = service.record_change(
        session(),
        printer_id,
        wish.what,
        client_key=wish.client_key,
        visit_id=wish.visit_id,
        note=wish.note,
        compensated=_follows_mesh(wish),
    )
    return _out(made)


def _follows_mesh(wish: schemas.ChangeIn) -> bool | None:
    """Whether a machine followed a mesh while paper was felt, as far as is known."""
    if wish.what != service.CLEAR or wish.visit_id is None:
        return None
    visit = get_visit(session(), wish.visit_id)
    mesh = None if visit.printer.compensation == "none" else stored_mesh(session(), visit.printer, visit)
    return mesh is not None and not mesh.outdated


@blueprint.get("/printers/<int:printer_id>/standing")
@blueprint.output(schemas.StandingsOut)
def get_standing(printer_id: int) -> schemas.StandingsOut:
    """Say of all that is known of a printer whether it still holds, and what is to be done."""
    printer = get_printer(session(), printer_id)
    things = [
        schemas.HoldingOut(
            thing=what_hold.thing,
            name=NAMES[what_hold.thing],
            word=WORDS[what_hold.standing.state],
            at=what_hold.at,
            state=what_hold.standing.state,
            reasons=sentences(what_hold.standing.reasons),
        )
        for what_hold in what_holds(session(), printer)
    ]
    return schemas.StandingsOut(things=things, after=serializers.after_out(after_of(session(), printer)))


@blueprint.get("/printers/<int:printer_id>/told")
@blueprint.output(schemas.ToldOut)
def get_told(printer_id: int) -> schemas.ToldOut:
    """Give what a machine said of itself last, beside the book."""
    printer = get_printer(session(), printer_id)
    record = newest_told(session(), printer_id)
    if record is None:
        return schemas.ToldOut(at=None, machine="", can=[], rows=[], untold="")
    told, result = told_of(record), compared(session(), printer, record)
    return schemas.ToldOut(
        at=record.created_at,
        machine=told.machine,
        can=sorted(name.replace("_", " ") for name, can in told.abilities.items() if can),
        rows=serializers.compared_out(result),
        untold=untold(result),
    )


@blueprint.post("/printers/<int:printer_id>/after")
@blueprint.input(schemas.TickIn)
@blueprint.output(schemas.Done, status_code=201)
def tick_step(printer_id: int, json_data: schemas.TickIn) -> schemas.Done:
    """Tick off a step after something happened; the change it writes down can be taken back."""
    made = tick(session(), printer_id, **json_data.model_dump())
    return schemas.Done(id=made.id)


@blueprint.post("/printers/<int:printer_id>/after/leave-out")
@blueprint.input(schemas.LeaveOutIn)
@blueprint.output(schemas.Done, status_code=201)
def leave_out_rest(printer_id: int, json_data: schemas.LeaveOutIn) -> schemas.Done:
    """Leave out what is still open of that list."""
    made = leave_out(session(), printer_id, **json_data.model_dump())
    return schemas.Done(id=made.id)


deletable(blueprint, "/changes", "change", service.set_change_deleted)
