"""The workshop and its printers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, fields

from apiflask import APIBlueprint
from flask import Response

from finchwort.core.base.errors import CoreError
from finchwort.core.compensation import HAND_SECONDS, advise_grid, survey_minutes
from finchwort.core.diagnosis import suit
from finchwort.core.printers import Bed, clear_of, place_in_words, suggest_points, suggest_screws, usual_inset
from finchwort.core.probing import grid_points, paper_places, reach
from finchwort.core.surveys import make_relief
from finchwort.knowledge import materials, surfaces, terms, threads
from finchwort.knowledge.dialect import dialects
from finchwort.services.printers import printers as service
from finchwort.services.visits.follow_up import after_of
from finchwort.services.visits.standing import known_survey
from finchwort.store.machine.jobs import pace_of
from finchwort.store.models import Visit
from finchwort.store.printers import printers as store
from finchwort.store.printers.setups import PrinterSetup
from finchwort.store.printers.workshop_state import state_of_workshop
from finchwort.store.surveys.surveys import load_readings, newest_surveys
from finchwort.store.visits.visits import Round, list_visits, rounds_of
from finchwort.web import height_map as drawn
from finchwort.web import schemas, serializers
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.kept import kept_page
from finchwort.web.probing.views import first_of
from finchwort.web.visits.views import now_of

blueprint = APIBlueprint("printers", __name__, url_prefix="/api", tag="printers")

HISTORY = 24
"""So many visits the drift line of a printer shows."""


def _setup(data: schemas.PrinterIn) -> PrinterSetup:
    return PrinterSetup(**{field.name: getattr(data, field.name) for field in fields(PrinterSetup)})


@blueprint.get("/workshop")
@blueprint.output(schemas.WorkshopOut)
def get_workshop() -> Response:
    """Give the workshop with a card for every printer."""
    return kept_page("workshop", state_of_workshop(session()), _workshop)


def _workshop() -> schemas.WorkshopOut:
    db = session()
    workshop = store.get_workshop(db)
    cards = []
    for printer in store.list_printers(db):
        visits = list_visits(db, printer.id)[:HISTORY]
        rounds = rounds_of(db, [visit.id for visit in visits])
        last = next((rounds[v.id][-1].survey for v in visits if v.id in rounds), None)
        open_visit = next((v for v in visits if v.ended_at is None), None)
        relief = None
        if last is not None:
            survey = load_readings(db, last.id)
            relief = drawn.relief_out(make_relief(survey, store.bed_of(printer)), survey.height)
        cards.append(
            schemas.PrinterCard(
                printer=serializers.printer_out(printer),
                open_visit=open_visit.id if open_visit else None,
                last=serializers.survey_out(last) if last else None,
                relief=relief,
                history=[serializers.visit_line(v, rounds.get(v.id, [])) for v in visits],
                bed=serializers.standing_out(known_survey(db, printer, last) if last else None),
                after=serializers.after_out(after_of(db, printer)),
                next=_next(open_visit, rounds.get(open_visit.id, [])) if open_visit else None,
            )
        )
    return schemas.WorkshopOut(name=workshop.name, version=workshop.version, cards=cards)


def _next(visit: Visit, rounds: Sequence[Round]) -> schemas.NextOut | None:
    """The step that comes next in an open visit: the same that the visit itself says."""
    return serializers.next_out(serializers.route_of(visit, rounds, first_of(visit), now_of(visit, rounds)))


@blueprint.put("/workshop")
@blueprint.input(schemas.WorkshopIn)
@blueprint.output(schemas.Done)
def rename_workshop(json_data: schemas.WorkshopIn) -> schemas.Done:
    """Give the workshop another name."""
    return schemas.Done(id=service.rename_workshop(session(), json_data.name, json_data.version).id)


@blueprint.get("/threads")
@blueprint.output(schemas.Threads)
def get_threads() -> schemas.Threads:
    """Give the threads a bed screw may have."""
    return schemas.Threads(threads=[schemas.ThreadOut(name=t.name, pitch=t.pitch) for t in threads()])


@blueprint.post("/suggestions")
@blueprint.input(schemas.SuggestIn)
@blueprint.output(schemas.SuggestOut)
def suggest(json_data: schemas.SuggestIn) -> schemas.SuggestOut:
    """Give the usual places of screws on a bed."""
    bed = Bed(
        json_data.width,
        json_data.depth,
        json_data.origin,
        json_data.plate_width,
        json_data.plate_depth,
        store.keep_off_of(asdict(place) for place in json_data.keep_off),
    )
    places = suggest_screws(bed, json_data.screws) if json_data.screws else []
    try:
        area = serializers.rectangle(reach(bed, json_data.probe_dx, json_data.probe_dy))
    except CoreError:
        area = None  # said when the person saves
    return schemas.SuggestOut(
        bed=serializers.bed_out(bed),
        probe_reach=area,
        screws=[schemas.Place(name=name, x=x, y=y) for name, x, y in places],
    )


@blueprint.post("/printers")
@blueprint.input(schemas.PrinterIn)
@blueprint.output(schemas.PrinterOut, status_code=201)
def create_printer(json_data: schemas.PrinterIn) -> schemas.PrinterOut:
    """Set up a printer."""
    return serializers.printer_out(service.create_printer(session(), _setup(json_data)))


@blueprint.get("/printers/<int:printer_id>")
@blueprint.output(schemas.PrinterPage)
def get_printer(printer_id: int) -> schemas.PrinterPage:
    """Give a printer with its visits."""
    db = session()
    printer = store.get_printer(db, printer_id)
    visits = list_visits(db, printer_id)
    rounds = rounds_of(db, [visit.id for visit in visits])
    return schemas.PrinterPage(
        printer=serializers.printer_out(printer),
        visits=[serializers.visit_line(visit, rounds.get(visit.id, [])) for visit in visits],
    )


@blueprint.put("/printers/<int:printer_id>")
@blueprint.input(schemas.PrinterChange)
@blueprint.output(schemas.PrinterOut)
def change_printer(printer_id: int, json_data: schemas.PrinterChange) -> schemas.PrinterOut:
    """Change a printer's set-up."""
    return serializers.printer_out(
        service.update_printer(session(), printer_id, _setup(json_data), json_data.version)
    )


deletable(blueprint, "/printers", "printer", service.set_printer_deleted)


@blueprint.get("/printers/<int:printer_id>/pattern")
@blueprint.input(schemas.PatternQuery, location="query")
@blueprint.output(schemas.Pattern)
def get_pattern(printer_id: int, query_data: schemas.PatternQuery) -> schemas.Pattern:
    """Give places to measure, in walking order."""
    printer = store.get_printer(session(), printer_id)
    bed = store.bed_of(printer)
    names: list[str] = []
    if query_data.kind == "screws":
        named = paper_places(bed, store.supports_of(printer))
        names, points = [name for name, *_ in named], [(x, y) for _, x, y in named]
    elif query_data.inset is None and not query_data.by_probe:
        wish = suggest_points(bed, query_data.columns, query_data.rows)
        points = [place for place in clear_of(bed, wish) if place]
    else:
        probe = (printer.probe_dx, printer.probe_dy) if query_data.by_probe else (0.0, 0.0)
        inset = usual_inset(bed) if query_data.inset is None else query_data.inset
        points = grid_points(bed, query_data.columns, query_data.rows, inset, *probe)
    seconds = pace_of(session(), printer_id) if query_data.by_probe else None
    minutes = survey_minutes(points, not query_data.by_probe, seconds)
    names = names or [_where(bed, x, y) for x, y in points]
    return schemas.Pattern(points=serializers.places(points), names=names, minutes=minutes)


def _where(bed: Bed, x: float, y: float) -> str:
    return place_in_words(bed, x, y).removeprefix("at the ").removeprefix("in the ")


@blueprint.get("/printers/<int:printer_id>/advice")
@blueprint.output(schemas.AdviceOut)
def get_advice(printer_id: int) -> schemas.AdviceOut:
    """Say how many places this bed needs, from the shapes it has shown."""
    db = session()
    printer = store.get_printer(db, printer_id)
    known = [load_readings(db, record.id) for record in newest_surveys(db, printer_id, known=True)]
    bed = store.bed_of(printer)
    advice = advise_grid(
        known,
        bed,
        printer.first_layer,
        probe=(printer.probe_dx, printer.probe_dy),
        inset=usual_inset(bed),
        seconds=HAND_SECONDS if printer.probe_kind == "none" else pace_of(db, printer_id),
    )
    return schemas.AdviceOut(
        options=[schemas.OptionOut(**vars(option)) for option in advice.options],
        sentence=advice.sentence,
        surveys=len(known),
    )


@blueprint.post("/printers/<int:printer_id>/surfaces/use")
@blueprint.input(schemas.SurfaceUse)
@blueprint.output(schemas.PrinterOut)
def use_surface(printer_id: int, json_data: schemas.SurfaceUse) -> schemas.PrinterOut:
    """Count a print, a wash or a coat of adhesive on a surface."""
    return serializers.printer_out(
        service.use_surface(session(), printer_id, json_data.name, json_data.action)
    )


@blueprint.get("/knowledge")
@blueprint.output(schemas.KnowledgeOut)
def get_knowledge() -> schemas.KnowledgeOut:
    """Give the surfaces, materials and dialects there are."""
    return schemas.KnowledgeOut(
        surfaces=[schemas.KindOut(key=s.key, name=s.name) for s in surfaces().values()],
        materials=[schemas.MaterialOut.of(m) for m in materials().values()],
        dialects=[schemas.KindOut(key=key, name=name) for key, name in dialects().items()],
    )


@blueprint.get("/terms")
@blueprint.output(schemas.TermsOut)
def get_terms() -> schemas.TermsOut:
    """Give the words of the trade, each explained in a sentence."""
    return schemas.TermsOut(
        terms=[
            schemas.TermOut(key=t.key, name=t.name, says=t.says, also=list(t.also), draw=t.draw)
            for t in terms().values()
        ]
    )


@blueprint.get("/suit")
@blueprint.input(schemas.SuitQuery, location="query")
@blueprint.output(schemas.SuitOut)
def get_suit(query_data: schemas.SuitQuery) -> schemas.SuitOut:
    """Judge a surface with a material and their temperatures."""
    match = suit(
        surfaces().get(query_data.surface),
        materials().get(query_data.material),
        query_data.bed,
        query_data.nozzle,
    )
    return serializers.suit_out(match)
