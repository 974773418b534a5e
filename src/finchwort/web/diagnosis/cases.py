"""Cases: opened, worked on, closed."""

from __future__ import annotations

from typing import Any

from apiflask import APIBlueprint

from finchwort.core.diagnosis import telling_signs
from finchwort.knowledge import beliefs
from finchwort.services.diagnosis import cases as service
from finchwort.services.diagnosis import opening
from finchwort.services.diagnosis.diagnose import diagnose_case, diagnose_cases
from finchwort.services.diagnosis.hearing import hear
from finchwort.services.diagnosis.prior import model_for
from finchwort.store.diagnosis import cases as store
from finchwort.store.diagnosis.models import CaseEvent
from finchwort.store.printers.printers import get_printer
from finchwort.store.records import utcnow
from finchwort.web import schemas
from finchwort.web.database import session
from finchwort.web.deletion import deletable
from finchwort.web.diagnosis.serializers import (
    alarms_out,
    before_out,
    case_out,
    groups_out,
    lines_out,
    setup_out,
)

blueprint = APIBlueprint("cases", __name__, url_prefix="/api", tag="cases")

PAGE = 20
"""So many cases a page: each that is open is diagnosed anew."""


@blueprint.get("/printers/<int:printer_id>/case-form")
@blueprint.output(schemas.CaseForm)
def get_form(printer_id: int) -> schemas.CaseForm:
    """Give what a new case is asked, with what changed since the last one was closed."""
    printer = get_printer(session(), printer_id)
    proposed = opening.proposed_circumstances(session(), printer)
    strip, visit = opening.setup_for(session(), printer)
    model = model_for(session(), printer, proposed)
    return schemas.CaseForm(
        groups=groups_out({}),
        first=list(telling_signs(model, model.prior)),
        before=before_out({}),
        alarms=alarms_out(),
        setup=setup_out(printer, strip, utcnow(), own=visit),
        circumstances=[
            schemas.CircumstanceOut(
                key=circumstance.key, name=circumstance.name, proposed=circumstance.key in proposed
            )
            for circumstance in beliefs().circumstances
        ],
    )


def _given(setup: schemas.SetupIn | None) -> dict[str, Any]:
    """What was told of a setup; what was not touched stays as it is."""
    return {} if setup is None else setup.model_dump(exclude_unset=True)


@blueprint.post("/case-words")
@blueprint.input(schemas.WordsIn)
@blueprint.output(schemas.WordsOut)
def hear_words(json_data: schemas.WordsIn) -> schemas.WordsOut:
    """Say which signs a complaint in somebody's own words speaks of; nothing is recorded."""
    asks = {sign.key: sign.ask for sign in beliefs().signs}
    return schemas.WordsOut(
        heard=[
            schemas.HeardOut(key=item.sign, ask=asks[item.sign], heard=item.words, denied=item.denied)
            for item in hear(json_data.words)
        ]
    )


@blueprint.get("/cases")
@blueprint.input(schemas.CasesQuery, location="query")
@blueprint.output(schemas.CasesOut)
def get_cases(query_data: schemas.CasesQuery) -> schemas.CasesOut:
    """List a page of cases, newest first."""
    wish = query_data
    cases = store.list_cases(session(), wish.text, wish.printer, after=wish.after, limit=PAGE + 1)
    page = cases[:PAGE]
    more = page[-1].id if len(cases) > PAGE else None
    return schemas.CasesOut(cases=lines_out(page, diagnose_cases(session(), page)), after=more)


@blueprint.get("/causes")
@blueprint.output(schemas.CausesOut)
def get_causes() -> schemas.CausesOut:
    """Name all causes."""
    return schemas.CausesOut(causes={cause.key: cause.name for cause in beliefs().causes})


@blueprint.post("/printers/<int:printer_id>/cases")
@blueprint.input(schemas.CaseIn)
@blueprint.output(schemas.CaseOut, status_code=201)
def open_case(printer_id: int, json_data: schemas.CaseIn) -> schemas.CaseOut:
    """Open a case."""
    place = (json_data.place.x, json_data.place.y) if json_data.place else None
    made = opening.open_case(
        session(),
        printer_id,
        client_key=json_data.client_key,
        words=json_data.words,
        place=place,
        circumstances=json_data.circumstances,
        signs=[(sign.sign, sign.answer) for sign in json_data.signs if sign.answer != "unknown"],
        before=[(item.what, item.came) for item in json_data.before],
        strip=_given(json_data.setup),
        visit_id=json_data.visit_id,
    )
    return case_out(session(), made, diagnose_case(session(), made))


@blueprint.get("/cases/<int:case_id>")
@blueprint.output(schemas.CaseOut)
def get_case(case_id: int) -> schemas.CaseOut:
    """Give a case with its causes, reasons and the next check."""
    case = store.get_case(session(), case_id)
    return case_out(session(), case, diagnose_case(session(), case))


def _done(event: CaseEvent) -> schemas.Done:
    return schemas.Done(id=event.id)


@blueprint.post("/cases/<int:case_id>/signs")
@blueprint.input(schemas.AnswerIn)
@blueprint.output(schemas.Done, status_code=201)
def answer_sign(case_id: int, json_data: schemas.AnswerIn) -> schemas.Done:
    """Record whether a sign was seen."""
    wish = json_data
    return _done(service.answer_sign(session(), case_id, wish.sign, wish.answer, client_key=wish.client_key))


@blueprint.post("/cases/<int:case_id>/checks")
@blueprint.input(schemas.CheckIn)
@blueprint.output(schemas.Done, status_code=201)
def add_check(case_id: int, json_data: schemas.CheckIn) -> schemas.Done:
    """Record how a check came out."""
    wish = json_data
    return _done(
        service.record_check(
            session(), case_id, wish.check, wish.outcome, client_key=wish.client_key, note=wish.note
        )
    )


@blueprint.post("/cases/<int:case_id>/before")
@blueprint.input(schemas.TriedIn)
@blueprint.output(schemas.Done, status_code=201)
def tell_before(case_id: int, json_data: schemas.TriedIn) -> schemas.Done:
    """Record what came of something that was tried before the case."""
    wish = json_data
    return _done(service.tell_before(session(), case_id, wish.what, wish.came, client_key=wish.client_key))


@blueprint.post("/cases/<int:case_id>/safe")
@blueprint.input(schemas.SafeIn)
@blueprint.output(schemas.Done, status_code=201)
def make_safe(case_id: int, json_data: schemas.SafeIn) -> schemas.Done:
    """Record that what an alarm asks for was done."""
    return _done(service.made_safe(session(), case_id, json_data.alarm, client_key=json_data.client_key))


@blueprint.post("/cases/<int:case_id>/setup")
@blueprint.input(schemas.CorrectIn)
@blueprint.output(schemas.Done, status_code=201)
def correct_setup(case_id: int, json_data: schemas.CorrectIn) -> schemas.Done:
    """Correct what the print that failed was made with."""
    given = _given(json_data.setup)
    return _done(service.correct_setup(session(), case_id, given, client_key=json_data.client_key))


@blueprint.post("/cases/<int:case_id>/remedies")
@blueprint.input(schemas.RemedyIn)
@blueprint.output(schemas.Done, status_code=201)
def begin_remedy(case_id: int, json_data: schemas.RemedyIn) -> schemas.Done:
    """Begin an experiment with the remedy of a cause."""
    wish = json_data
    return _done(
        service.begin_remedy(session(), case_id, wish.cause, others=wish.others, client_key=wish.client_key)
    )


@blueprint.post("/cases/<int:case_id>/remedies/<int:event_id>")
@blueprint.input(schemas.OutcomeIn)
@blueprint.output(schemas.Done, status_code=201)
def end_remedy(case_id: int, event_id: int, json_data: schemas.OutcomeIn) -> schemas.Done:
    """Tell what came of an experiment."""
    wish = json_data
    return _done(
        service.end_remedy(
            session(), case_id, event_id, wish.came, client_key=wish.client_key, note=wish.note
        )
    )


@blueprint.post("/cases/<int:case_id>/close")
@blueprint.input(schemas.CloseIn)
@blueprint.output(schemas.Done, status_code=201)
def close_case(case_id: int, json_data: schemas.CloseIn) -> schemas.Done:
    """Close a case with what it was."""
    wish = json_data
    return _done(
        service.close_case(session(), case_id, wish.cause, client_key=wish.client_key, note=wish.note)
    )


@blueprint.post("/cases/<int:case_id>/reopen")
@blueprint.input(schemas.ReopenIn)
@blueprint.output(schemas.Done, status_code=201)
def reopen_case(case_id: int, json_data: schemas.ReopenIn) -> schemas.Done:
    """Open a closed case again."""
    return _done(service.reopen_case(session(), case_id, client_key=json_data.client_key))


deletable(blueprint, "/cases", "case", service.set_case_deleted)


deletable(blueprint, "/case-events", "event", service.set_event_deleted)
