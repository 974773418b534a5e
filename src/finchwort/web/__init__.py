"""The web application: a factory and one blueprint an area."""

from __future__ import annotations

import json
import re
from typing import Any

from apiflask import APIFlask
from sqlalchemy import URL

import finchwort
from finchwort.store.database import make_engine, make_sessions
from finchwort.web import database, errors, live, pages, schemas, security
from finchwort.web.access import backups, guard
from finchwort.web.access import views as access
from finchwort.web.diagnosis import cases, prior
from finchwort.web.files import views as files
from finchwort.web.first_layer import extrusion, forecast, offsets, test_prints, trials
from finchwort.web.levelling import views as levelling
from finchwort.web.machine import views as machine
from finchwort.web.printers import begin
from finchwort.web.printers import views as printers
from finchwort.web.prints import calendar
from finchwort.web.prints import views as prints
from finchwort.web.probing import views as probing
from finchwort.web.surveys import pasted
from finchwort.web.surveys import views as surveys
from finchwort.web.tramming import bench
from finchwort.web.tramming import views as tramming
from finchwort.web.visits import changes, logbook
from finchwort.web.visits import views as visits

VIEWS = (
    printers,
    visits,
    prints,
    calendar,
    probing,
    surveys,
    tramming,
    levelling,
    files,
    forecast,
    offsets,
    pasted,
    trials,
    bench,
    test_prints,
    changes,
    extrusion,
    cases,
    prior,
    machine,
    logbook,
    access,
    backups,
    begin,
    live,
)


def create_app(url: str | URL | None = None, entrance: guard.Entrance | None = None) -> APIFlask:
    """Make the application.

    Parameters
    ----------
    url : str or URL, optional
        The database; otherwise the environment names it.
    entrance : Entrance, optional
        The way in from the local network; without it the application is for the loopback address, and who asks is the owner.
    """
    app = APIFlask(
        __name__,
        title="Finchwort",
        version=finchwort.__version__,
        spec_path="/api/openapi.json",
        docs_path=None,
        static_folder=None,  # type: ignore[arg-type]
    )
    app.config.update(
        AUTO_SERVERS=False,
        AUTO_OPERATION_ID=True,
        AUTO_VALIDATION_ERROR_RESPONSE=False,
        AUTO_404_RESPONSE=False,
        INFO={"description": "Lengths are mm, heights positive towards the nozzle, times UTC."},
    )
    engine = make_engine(url)
    app.extensions["engine"] = engine
    app.extensions["sessions"] = make_sessions(engine)
    security.install(app)
    database.install(app)
    errors.install(app)
    guard.install(app, entrance)
    for views in VIEWS:
        app.register_blueprint(views.blueprint)

    @app.get("/api/health")
    @app.output(schemas.Health)
    @app.doc(tags=["health"])
    def health() -> schemas.Health:
        """Tell whether the product can work."""
        database.session().connection()
        return schemas.Health(ok=True, version=finchwort.__version__)

    app.register_blueprint(pages.blueprint)
    app.spec_processor(_flatten)
    return app


def _name_errors(path: str, method: str, operation: dict[str, Any]) -> None:
    """Say with which errors an operation may answer: all are problem details."""
    codes = {"400": "The request was not understood."}
    if "{" in path:
        codes["404"] = "There is no such record."
    if "requestBody" in operation or operation.get("parameters"):
        codes["422"] = "A value cannot be; the field and a sentence say which and why."
    if method != "get":
        codes |= {
            "403": "Another site asked.",
            "409": "It does not fit the state of the record, or someone else changed it at the same moment.",
            "413": "The request is too large.",
            "415": "The body is no JSON.",
            "507": "There is no room left to store it.",
        }
    codes |= {"503": "The records are out of reach.", "default": "Something else went wrong."}
    problem = {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}}
    for code, text in codes.items():
        operation["responses"].setdefault(code, {"description": text, "content": problem})


def _flatten(spec: Any) -> dict[str, Any]:
    """Give every schema one plain name, and add the form of the errors."""
    results = dict(spec["components"]["schemas"])
    results["Problem"] = schemas.Problem.model_json_schema(
        ref_template="#/components/schemas/Problem.{model}"
    )
    for name, part in results["Problem"].pop("$defs").items():
        results[f"Problem.{name}"] = part
    flat = {name.rpartition(".")[2]: results[name] for name in sorted(results)}
    spec["components"]["schemas"] = dict(sorted(flat.items()))
    for path, operations in spec["paths"].items():
        for method, operation in operations.items():
            _name_errors(path, method, operation)
    text = re.sub(r"(#/components/schemas/)\w+\.(\w+)", r"\1\2", json.dumps(spec))
    return json.loads(text)
