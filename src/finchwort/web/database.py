"""One session and one transaction a request, opened and closed here."""

from __future__ import annotations

import contextlib

from flask import Flask, Response, current_app, g, request
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from finchwort.store.access.marks import mark_of

WRITTEN = "Finchwort-Written"
READING = ("GET", "HEAD", "OPTIONS")
"""Methods that change nothing; what they did to the session is dropped."""


def session() -> Session:
    """Return this request's session, opened on first use."""
    if "session" not in g:
        g.session = current_app.extensions["sessions"]()
    return g.session


def install(app: Flask) -> None:
    """Commit a change before its answer goes out; roll back when it is an error or only read."""

    @app.after_request
    def finish(response: Response) -> Response:
        held = g.get("session")
        if held is not None:
            if response.status_code >= 400:
                # nothing is stored or shown, and a session that failed can be asked nothing more
                held.rollback()
                return response
            refused = current_app.extensions.get("refuse_late")
            if refused is not None and (late := refused(held)) is not None:
                held.rollback()
                return late
            if request.method in READING:
                held.rollback()
                return response
            try:
                held.commit()
                if (mark := mark_of(held)) is not None:
                    # the page that wrote this knows it already
                    response.headers[WRITTEN] = str(mark)
            except SQLAlchemyError as error:
                # not acknowledged: the answer that was ready is thrown away for one that says so
                with contextlib.suppress(SQLAlchemyError):
                    held.rollback()
                return app.make_response(app.handle_user_exception(error))
        return response

    @app.teardown_request
    def close(_error: BaseException | None) -> None:
        held = g.pop("session", None)
        if held is not None:
            held.close()
