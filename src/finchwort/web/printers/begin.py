"""The beginning: the demo workshop beside one's own empty one."""

from __future__ import annotations

from apiflask import APIBlueprint
from flask import current_app

from finchwort.store.access.settings import Demo, read_setting, write_setting
from finchwort.store.errors import ConflictError
from finchwort.store.place import Running, running
from finchwort.web import schemas
from finchwort.web.database import session

blueprint = APIBlueprint("begin", __name__, url_prefix="/api", tag="begin")


def _found() -> Running | None:
    folder = current_app.config.get("ROOM")
    result = running(folder) if folder else None
    # the demo listens on this computer only; a phone could not follow
    return result if result and result.can_demo and not current_app.config.get("ENTRANCE") else None


def _demo() -> schemas.DemoOut:
    result, wish = _found(), read_setting(session(), Demo).wanted
    return schemas.DemoOut(
        can=result is not None,
        wanted=wish,
        ready=bool(wish and result and result.demo_ready),
        url=result.demo if result and wish else None,
    )


@blueprint.get("/demo")
@blueprint.output(schemas.DemoOut)
def get_demo() -> schemas.DemoOut:
    """Say whether the demo workshop can be looked at, and where."""
    return _demo()


@blueprint.post("/demo")
@blueprint.output(schemas.DemoOut)
def want_demo() -> schemas.DemoOut:
    """Start the demo workshop beside one's own; it has records of its own."""
    if _found() is None:
        raise ConflictError("The demo cannot be started from here. On the computer: finchwort demo run.")
    write_setting(session(), Demo(True))
    return _demo()
