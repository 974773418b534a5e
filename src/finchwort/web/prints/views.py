"""Prints: begun, looked at, ended, and what came of them."""

from __future__ import annotations

from typing import Any

import numpy as np
from apiflask import APIBlueprint

from finchwort.core.files import ROLES, LineRole
from finchwort.core.prints import Seen
from finchwort.core.visits import NOZZLE_HOURS
from finchwort.formats.print_file import unpack_print
from finchwort.messages.prints import lost_words
from finchwort.services.prints import begin, ending, watch
from finchwort.services.prints.statistics import results_of
from finchwort.store.errors import StaleError
from finchwort.store.files.files import get_file
from finchwort.store.printers.printers import get_printer
from finchwort.store.prints import prints as store
from finchwort.store.prints.counts import lost_count, nozzle_hours, sheet_counts
from finchwort.store.prints.models import PrintRun
from finchwort.store.records import utcnow
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.prints.serializers import brief_out, form_out, line_out, print_out, results_out

blueprint = APIBlueprint("prints", __name__, url_prefix="/api", tag="prints")
MOST_LINES = 6_000
"""So many lines of a first layer are drawn at most."""


def _show(print_: PrintRun) -> schemas.PrintOut:
    return print_out(watch.watch(print_, utcnow()))


@blueprint.get("/printers/<int:printer_id>/print-form")
@blueprint.input(schemas.PrintFormQuery, location="query")
@blueprint.output(schemas.PrintForm)
def get_form(printer_id: int, query_data: schemas.PrintFormQuery) -> schemas.PrintForm:
    """Give with what a print would be begun."""
    printer = get_printer(session(), printer_id)
    wish = query_data
    proposed = begin.propose_print(session(), printer, wish.file, wish.visit, wish.test)
    return form_out(printer, proposed, store.open_prints(session(), printer_id))


@blueprint.post("/printers/<int:printer_id>/prints")
@blueprint.input(schemas.PrintIn)
@blueprint.output(schemas.PrintOut, status_code=201)
def begin_print(printer_id: int, json_data: schemas.PrintIn) -> schemas.PrintOut:
    """Begin a print."""
    return _show(begin.begin_print(session(), printer_id, **json_data.model_dump(exclude_unset=True)))


@blueprint.get("/prints/running")
@blueprint.output(schemas.RunningPrints)
def get_running() -> schemas.RunningPrints:
    """List the prints of which nobody told what came of them, with the looks that are due."""
    return schemas.RunningPrints(prints=[brief_out(one) for one in watch.watch_all(session())])


@blueprint.get("/prints")
@blueprint.input(schemas.PrintsQuery, location="query")
@blueprint.output(schemas.PrintsOut)
def get_prints(query_data: schemas.PrintsQuery) -> schemas.PrintsOut:
    """List a page of prints of which it was told what came of them, newest first."""
    wish = query_data
    found = store.ended_prints(session(), wish.text, wish.printer, after=wish.after, limit=store.PAGE + 1)
    page = found[: store.PAGE]
    more = page[-1].id if len(found) > store.PAGE else None
    return schemas.PrintsOut(prints=[line_out(one) for one in page], after=more)


@blueprint.get("/print-results")
@blueprint.output(schemas.PrintResultsOut)
def get_results() -> schemas.PrintResultsOut:
    """Give what came of all prints."""
    return results_out(results_of(session()))


@blueprint.get("/printers/<int:printer_id>/counted")
@blueprint.output(schemas.CountedOut)
def get_counted(printer_id: int) -> schemas.CountedOut:
    """Give what the prints of a printer add up to."""
    printer = get_printer(session(), printer_id)
    hours, since = nozzle_hours(session(), printer.id)
    lost = lost_count(session(), printer.id)
    return schemas.CountedOut(
        nozzle_hours=hours,
        nozzle_due=NOZZLE_HOURS,
        nozzle_since=since,
        sheets=[schemas.SheetOut.of(one) for one in sheet_counts(session(), printer.id)],
        failed=lost.prints,
        lost_hours=lost.hours,
        lost_grams=lost.grams,
        lost_cost=lost.cost,
        sentence=lost_words(lost.prints, lost.hours, lost.grams, lost.cost, lost.unpriced),
    )


@blueprint.get("/prints/<int:print_id>")
@blueprint.output(schemas.PrintOut)
def get_print(print_id: int) -> schemas.PrintOut:
    """Give a print with its looks."""
    return _show(store.get_print(session(), print_id))


@blueprint.get("/prints/<int:print_id>/path")
@blueprint.output(schemas.PrintPath)
def get_path(print_id: int) -> schemas.PrintPath:
    """Give the walls of a print's first layer, from its file; none where it has no file."""
    print_ = store.get_print(session(), print_id)
    if print_.file_id is None:
        return schemas.PrintPath(paths=[])
    layer = unpack_print(get_file(session(), print_.file_id).packed).layer
    lines = np.flatnonzero(layer.role == ROLES.index(LineRole.WALL))
    if len(lines) > MOST_LINES:
        lines = lines[:: -(-len(lines) // MOST_LINES)]
    ends = np.round(np.hstack([layer.start[lines], layer.end[lines]]), 2)
    return schemas.PrintPath(paths=_joined(ends))


def _joined(ends: Any) -> list[list[float]]:
    """Put lines that follow each other together."""
    results: list[list[float]] = []
    for x0, y0, x1, y1 in ends.tolist():
        if results and results[-1][-2:] == [x0, y0]:
            results[-1] += [x1, y1]
        else:
            results.append([x0, y0, x1, y1])
    return results


@blueprint.patch("/prints/<int:print_id>")
@blueprint.input(schemas.PrintChange)
@blueprint.output(schemas.PrintOut)
def change_print(print_id: int, json_data: schemas.PrintChange) -> schemas.PrintOut:
    """Set right with what a print was begun."""
    print_ = store.get_print(session(), print_id, lock=True)
    if print_.version != json_data.version:
        raise StaleError("This print was changed elsewhere since you opened it.")
    told = json_data.model_dump(exclude={"version"}, exclude_unset=True)
    return _show(begin.change_print(session(), print_, **told))


@blueprint.post("/prints/<int:print_id>/looks")
@blueprint.input(schemas.PrintLookIn)
@blueprint.output(schemas.Done, status_code=201)
def add_look(print_id: int, json_data: schemas.PrintLookIn) -> schemas.Done:
    """Write a look at a print down; one that says stopped ends it."""
    wish = json_data
    look = watch.look_at_print(session(), print_id, Seen(wish.seen), wish.note, client_key=wish.client_key)
    return schemas.Done(id=look.id)


@blueprint.post("/prints/<int:print_id>/end")
@blueprint.input(schemas.PrintEndIn)
@blueprint.output(schemas.PrintOut)
def end_print(print_id: int, json_data: schemas.PrintEndIn) -> schemas.PrintOut:
    """Tell what came of a print; a case is opened with it where that is wished."""
    wish = json_data
    told = ending.Told(
        wish.outcome,
        wish.minutes,
        wish.how,
        (wish.place.x, wish.place.y) if wish.place else None,
        wish.note,
        wish.case,
    )
    return _show(ending.end_print(session(), print_id, wish.version, told, client_key=wish.client_key))


@blueprint.post("/prints/<int:print_id>/reopen")
@blueprint.output(schemas.PrintOut)
def reopen_print(print_id: int) -> schemas.PrintOut:
    """Take back what was told of the end of a print."""
    return _show(ending.reopen_print(session(), print_id))


deletable(blueprint, "/prints", "print", ending.set_print_deleted)
deletable(blueprint, "/print-looks", "look", watch.set_look_deleted)
