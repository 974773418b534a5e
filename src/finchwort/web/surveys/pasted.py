"""Text copied from a machine's console, wherever it is pasted: what it tells, and where that belongs."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from finchwort.core.base.errors import ChoiceError, CoreError
from finchwort.core.machine import Compared, Told, compare
from finchwort.formats.pasted import Pasted, hear_pasted
from finchwort.formats.reading import read_survey
from finchwort.formats.result import Hint
from finchwort.knowledge.dialect import Dialect, dialect_of
from finchwort.messages.errors import sentence
from finchwort.services.levelling.plans import beam_by_row
from finchwort.services.machine.report import book_of, record_pasted
from finchwort.services.probing.probe_tests import assess_test
from finchwort.store.machine.report import newest_told
from finchwort.store.models import Printer, Visit
from finchwort.store.printers.printers import bed_of, get_printer
from finchwort.store.visits.visits import get_visit
from finchwort.web import schemas, serializers
from finchwort.web.database import session

blueprint = APIBlueprint("pasted", __name__, url_prefix="/api", tag="pasted")

MIN_READINGS = 3


@blueprint.post("/visits/<int:visit_id>/pasted")
@blueprint.input(schemas.PastedIn)
@blueprint.output(schemas.PastedOut)
def sort_pasted(visit_id: int, json_data: schemas.PastedIn) -> schemas.PastedOut:
    """Say what a copied text tells, and where each of it belongs; nothing is stored."""
    visit = get_visit(session(), visit_id)
    heard = hear_pasted(json_data.text, _dialect(visit.printer))
    finds = _finds(visit, heard)
    if not finds:
        finds = _readings(visit.printer, json_data.text)
    return schemas.PastedOut(finds=finds)


@blueprint.post("/printers/<int:printer_id>/told")
@blueprint.input(schemas.ToldIn)
@blueprint.output(schemas.SettingsKeptOut, status_code=201)
def keep_told(printer_id: int, json_data: schemas.ToldIn) -> schemas.SettingsKeptOut:
    """Keep settings that were copied from a machine; what is not as the book has it is written down."""
    printer = get_printer(session(), printer_id)
    told = hear_pasted(json_data.text, _dialect(printer)).told
    if told is None:
        raise ChoiceError("surveys.no_setting_machine_found")
    return schemas.SettingsKeptOut(
        rows=serializers.compared_out(record_pasted(session(), printer, told, json_data.client_key))
    )


def _dialect(printer: Printer) -> Dialect:
    """The printer's dialect, or the usual one where its file is not here."""
    return dialect_of(printer.dialect)


def _find(kind: str, title: str, sentence: str, step: str = "", **more: Any) -> schemas.FindOut:
    plain: dict[str, Any] = {"heights": [], "summary": None, "switches": {}, "rows": []}
    return schemas.FindOut(kind=kind, title=title, sentence=sentence, step=step, **(plain | more))


def _finds(visit: Visit, heard: Pasted) -> list[schemas.FindOut]:
    finds = []
    if heard.switches:
        text = ", ".join(f"{name} {state}" for name, state in heard.switches.items())
        finds.append(_find("switches", "Switch states", f"{text}.", "sound", switches=heard.switches))
    data: dict[str, Any] = {"heights": list(heard.touches)} if heard.touches else {}
    if heard.summary:
        data = {"summary": vars(heard.summary)}
    if data:
        try:
            test = assess_test("repeatability", data)
        except CoreError as error:
            finds.append(_find("repeatability", "Touches at one place", sentence(error), "trust"))
        else:
            more: dict[str, Any] = {
                "heights": data.get("heights", []),
                "summary": schemas.SummaryIn(**data["summary"]) if "summary" in data else None,
            }
            text = f"{test.word}. {test.sentences[0]}"
            finds.append(_find("repeatability", "Touches at one place", text, "trust", **more))
    if heard.told is not None:
        rows = serializers.compared_out(_beside(visit.printer, heard.told))
        text = "Beside what is written down of this printer:" if rows else "What the machine says of itself."
        finds.append(_find("settings", "Stored settings", text, rows=rows))
    if heard.row is not None:
        finds.append(_row(visit, heard.row))
    return finds


def _row(visit: Visit, row: tuple[float, float, float]) -> schemas.FindOut:
    title = "Three heights of one row"
    if visit.printer.beam_screws != 2:
        text = "Left, middle, right of one row. This beam does not hang on two lead screws, so type them at their places."
        return _find("row", title, text, "measure", heights=list(row))
    try:
        text = beam_by_row(session(), visit, row)[0].sentence
    except CoreError as error:
        text = sentence(error)
    return _find("row", title, text, "sound", heights=list(row))


def _beside(printer: Printer, told: Told) -> tuple[Compared, ...]:
    """Hold what a text tells against the book; what it leaves out is left out here too."""
    result = compare(told, book_of(session(), printer, newest_told(session(), printer.id)))
    return tuple(item for item in result if item.state != "untold")


def _readings(printer: Printer, text: str) -> list[schemas.FindOut]:
    try:
        survey = read_survey(text, Hint(bed=bed_of(printer))).survey
    except CoreError:
        return []
    if len(survey) < MIN_READINGS:
        return []
    words = f"{len(survey)} readings of the bed."
    return [_find("readings", "Heights of the bed", words, "measure")]
