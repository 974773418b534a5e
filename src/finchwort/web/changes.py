"""What was changed at a machine by hand: nozzle, plate, firmware, knobs."""

from __future__ import annotations

from apiflask import APIBlueprint

from finchwort.store import changes as store
from finchwort.store.compensation import stored_mesh
from finchwort.store.offset_models import MachineChange
from finchwort.store.offsets import newest_offset
from finchwort.store.printers import get_printer
from finchwort.store.visits import get_visit
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("changes", __name__, url_prefix="/api", tag="changes")


def _out(change: MachineChange) -> schemas.ChangeOut:
    return schemas.ChangeOut(
        id=change.id,
        made_at=change.made_at,
        what=change.what,
        words=store.WHATS[change.what],
        note=change.note,
    )


@blueprint.get("/printers/<int:printer_id>/changes")
@blueprint.output(schemas.ChangesOut)
def get_changes(printer_id: int):
    """Give what was changed since the offset was found."""
    get_printer(session(), printer_id)
    newest = newest_offset(session(), printer_id)
    found = store.changes_since(session(), printer_id, newest.made_at if newest else None)
    return schemas.ChangesOut(
        kinds=[
            schemas.ChangeKind(what=what, words=words)
            for what, words in store.WHATS.items()
            if what != store.CLEAR
        ],
        since=[_out(change) for change in found],
    )


@blueprint.post("/printers/<int:printer_id>/changes")
@blueprint.input(schemas.ChangeIn)
@blueprint.output(schemas.ChangeOut, status_code=201)
def add_change(printer_id: int, json_data: schemas.ChangeIn):
    """Write down what was changed."""
    wanted = json_data
    made = store.record_change(
        session(),
        printer_id,
        wanted.what,
        client_key=wanted.client_key,
        visit_id=wanted.visit_id,
        note=wanted.note,
        compensated=_follows_mesh(wanted),
    )
    return _out(made)


def _follows_mesh(wanted: schemas.ChangeIn) -> bool | None:
    """Whether a machine followed a mesh while paper was felt, as far as is known."""
    if wanted.what != store.CLEAR or wanted.visit_id is None:
        return None
    visit = get_visit(session(), wanted.visit_id)
    mesh = None if visit.printer.compensation == "none" else stored_mesh(session(), visit.printer, visit)
    return mesh is not None and not mesh.outdated


@blueprint.delete("/changes/<int:change_id>")
@blueprint.output(schemas.Done)
def delete_change(change_id: int):
    """Take back what was recorded by mistake."""
    return schemas.Done(id=store.set_change_deleted(session(), change_id, True).id)


@blueprint.post("/changes/<int:change_id>/restore")
@blueprint.output(schemas.Done)
def restore_change(change_id: int):
    """Bring it back."""
    return schemas.Done(id=store.set_change_deleted(session(), change_id, False).id)
