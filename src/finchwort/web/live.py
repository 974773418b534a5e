"""That something was written elsewhere: a page asks often, and is told only when there is news."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import Response, request
from werkzeug.wrappers import Response as Answer

from finchwort.store.access.marks import tag_of
from finchwort.web.database import session

blueprint = APIBlueprint("live", __name__, url_prefix="/api", tag="live")


@blueprint.get("/written")
@blueprint.doc(hide=True)
def get_written() -> Answer:
    """Give the tag of what was written last; unchanged since ``If-None-Match``, that is said in one line."""
    answer = Response("", 204)
    answer.set_etag(tag_of(session()))
    answer.headers["Cache-Control"] = "no-cache"
    return answer.make_conditional(request)
