"""The workshop and its printers."""

from apiflask import APIBlueprint

from finchwort.core.printers import Bed, suggest_points, suggest_screw_points, suggest_screws
from finchwort.core.relief import make_relief
from finchwort.knowledge import threads
from finchwort.store import printers as store
from finchwort.store.surveys import load_readings
from finchwort.store.visits import list_visits, rounds_of
from finchwort.web import schemas, views
from finchwort.web.database import session

blueprint = APIBlueprint("printers", __name__, url_prefix="/api", tag="printers")

HISTORY = 24
"""So many visits the drift line of a printer shows."""


def _setup(data: schemas.PrinterIn) -> store.PrinterSetup:
    values = data.model_dump(exclude={"version", "screws"})
    screws = tuple(store.ScrewSetup(**screw.model_dump()) for screw in data.screws)
    return store.PrinterSetup(**values, screws=screws)


@blueprint.get("/workshop")
@blueprint.output(schemas.WorkshopOut)
def get_workshop():
    """Give the workshop with a card for every printer."""
    db = session()
    workshop = store.get_workshop(db)
    cards = []
    for printer in store.list_printers(db):
        visits = list_visits(db, printer.id)[:HISTORY]
        rounds = rounds_of(db, [visit.id for visit in visits])
        last = next((rounds[v.id][-1].survey for v in visits if v.id in rounds), None)
        relief = None
        if last is not None:
            survey = load_readings(db, last.id)
            relief = views.relief_out(make_relief(survey, store.bed_of(printer)), survey.height)
        cards.append(
            schemas.PrinterCard(
                printer=views.printer_out(printer),
                open_visit=next((v.id for v in visits if v.ended_at is None), None),
                last=views.survey_out(last) if last else None,
                relief=relief,
                history=[views.visit_line(v, rounds.get(v.id, [])) for v in visits],
            )
        )
    return schemas.WorkshopOut(name=workshop.name, version=workshop.version, cards=cards)


@blueprint.put("/workshop")
@blueprint.input(schemas.WorkshopIn)
@blueprint.output(schemas.Done)
def rename_workshop(json_data: schemas.WorkshopIn):
    """Give the workshop another name."""
    return schemas.Done(id=store.rename_workshop(session(), json_data.name, json_data.version).id)


@blueprint.get("/threads")
@blueprint.output(schemas.Threads)
def get_threads():
    """Give the threads a bed screw may have."""
    return schemas.Threads(threads=[schemas.ThreadOut(name=t.name, pitch=t.pitch) for t in threads()])


@blueprint.post("/suggestions")
@blueprint.input(schemas.SuggestIn)
@blueprint.output(schemas.SuggestOut)
def suggest(json_data: schemas.SuggestIn):
    """Give the usual places of screws on a bed."""
    bed = Bed(
        json_data.width,
        json_data.depth,
        json_data.origin,
        json_data.plate_width,
        json_data.plate_depth,
    )
    places = suggest_screws(bed, json_data.screws) if json_data.screws else []
    return schemas.SuggestOut(
        bed=views.bed_out(bed),
        screws=[schemas.Place(name=name, x=x, y=y) for name, x, y in places],
    )


@blueprint.post("/printers")
@blueprint.input(schemas.PrinterIn)
@blueprint.output(schemas.PrinterOut, status_code=201)
def create_printer(json_data: schemas.PrinterIn):
    """Set up a printer."""
    return views.printer_out(store.create_printer(session(), _setup(json_data)))


@blueprint.get("/printers/<int:printer_id>")
@blueprint.output(schemas.PrinterPage)
def get_printer(printer_id: int):
    """Give a printer with its visits."""
    db = session()
    printer = store.get_printer(db, printer_id)
    visits = list_visits(db, printer_id)
    rounds = rounds_of(db, [visit.id for visit in visits])
    return schemas.PrinterPage(
        printer=views.printer_out(printer),
        visits=[views.visit_line(visit, rounds.get(visit.id, [])) for visit in visits],
    )


@blueprint.put("/printers/<int:printer_id>")
@blueprint.input(schemas.PrinterChange)
@blueprint.output(schemas.PrinterOut)
def change_printer(printer_id: int, json_data: schemas.PrinterChange):
    """Change a printer's set-up."""
    return views.printer_out(
        store.update_printer(session(), printer_id, _setup(json_data), json_data.version)
    )


@blueprint.delete("/printers/<int:printer_id>")
@blueprint.output(schemas.Done)
def delete_printer(printer_id: int):
    """Delete a printer; it can be brought back."""
    return schemas.Done(id=store.set_printer_deleted(session(), printer_id, True).id)


@blueprint.post("/printers/<int:printer_id>/restore")
@blueprint.output(schemas.Done)
def restore_printer(printer_id: int):
    """Bring a deleted printer back."""
    return schemas.Done(id=store.set_printer_deleted(session(), printer_id, False).id)


@blueprint.get("/printers/<int:printer_id>/pattern")
@blueprint.input(schemas.PatternQuery, location="query")
@blueprint.output(schemas.Pattern)
def get_pattern(printer_id: int, query_data: schemas.PatternQuery):
    """Give places to measure, in walking order."""
    printer = store.get_printer(session(), printer_id)
    bed = store.bed_of(printer)
    if query_data.kind == "screws":
        points = suggest_screw_points(bed, [(s.x, s.y) for s in printer.screws])
    else:
        points = suggest_points(bed, query_data.columns, query_data.rows)
    return schemas.Pattern(points=views.places(points))
