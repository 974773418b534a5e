"""The application's own files: every address that is not the API's shows the page."""

from __future__ import annotations

import os
from pathlib import Path

from apiflask import APIBlueprint
from flask import Response, send_from_directory
from werkzeug.exceptions import NotFound

from finchwort.web.errors import problem

blueprint = APIBlueprint("pages", __name__)

ENVIRONMENT = "FINCHWORT_FRONTEND"
BUILT = Path(__file__).parent / "built"
FOREVER = 365 * 24 * 3600


def folder() -> Path:
    """Return where the built front end lies."""
    named = os.environ.get(ENVIRONMENT)
    if named:
        return Path(named)
    # an installed package carries its pages; in a checkout they lie where they were built
    return BUILT if BUILT.is_dir() else Path(__file__).parents[3] / "frontend" / "dist"


@blueprint.get("/assets/<path:name>")
@blueprint.doc(hide=True)
def asset(name: str) -> Response:
    """Give a script, style or font; their names change with their contents."""
    return send_from_directory(folder() / "assets", name, max_age=FOREVER)


@blueprint.get("/")
@blueprint.get("/<path:path>")
@blueprint.doc(hide=True)
def page(path: str = "") -> Response:
    """Give the page; it finds its own way from the address."""
    if path.startswith("api/"):
        raise NotFound
    if path in ("favicon.svg",):
        return send_from_directory(folder(), path, max_age=3600)
    if not (folder() / "index.html").exists():
        return problem(
            503, "The pages are not there. In a checkout, run bin/setup; otherwise install Finchwort again."
        )
    answer = send_from_directory(folder(), "index.html")
    answer.headers["Cache-Control"] = "no-cache"
    return answer
