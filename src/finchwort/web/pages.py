"""The application's own files: every address that is not the API's shows the page.

They are compressed when they are built.  WhiteNoise chooses what a browser can read and says how long it may keep it; it is
asked from inside a view, so that the checks and headers of every other answer hold here as well.
"""

from __future__ import annotations

import os
from functools import lru_cache
from pathlib import Path

from apiflask import APIBlueprint
from flask import Response, request
from werkzeug.exceptions import NotFound
from whitenoise import WhiteNoise

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


@lru_cache(maxsize=4)
def _files(place: Path, built: int) -> WhiteNoise:
    """Look once at what lies in a folder; `built` is when it was built, ns, so a new build is looked at again."""
    files = WhiteNoise(None, allow_all_origins=False, max_age=0, immutable_file_test=r"^/assets/")
    files.FOREVER = FOREVER
    files.add_files(str(place), prefix="/")
    return files


def send(path: str) -> Response:
    """Give a built file as the browser can read it.

    Parameters
    ----------
    path : str
        Where it lies below the folder of built files, with a slash before it.

    Raises
    ------
    NotFound
        When there is no such file.
    """
    place = folder()
    try:
        built = (place / "index.html").stat().st_mtime_ns
    except OSError:
        raise NotFound from None
    found = _files(place, built).files.get(path)
    if found is None:
        raise NotFound
    given = found.get_response(request.method, request.environ)
    return Response(
        given.file or iter(()),
        status=given.status.value,
        headers=list(given.headers),
        direct_passthrough=True,
    )


@blueprint.get("/assets/<path:name>")
@blueprint.doc(hide=True)
def asset(name: str) -> Response:
    """Give a script, style or font; their names change with their contents."""
    return send(f"/assets/{name}")


@blueprint.get("/")
@blueprint.get("/<path:path>")
@blueprint.doc(hide=True)
def page(path: str = "") -> Response:
    """Give the page; it finds its own way from the address."""
    if path.startswith("api/"):
        raise NotFound
    if path in ("favicon.svg", "watch-worker.js"):
        return send(f"/{path}")
    try:
        answer = send("/index.html")
    except NotFound:
        return problem(
            503, "The pages are not there. In a checkout, run bin/setup; otherwise install Finchwort again."
        )
    answer.headers["Cache-Control"] = "no-cache"
    return answer
