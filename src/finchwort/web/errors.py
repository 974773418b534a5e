"""Errors as problem details, RFC 9457, in words for the person."""

from __future__ import annotations

import sys
from dataclasses import asdict
from typing import Any

import numpy as np
import structlog
from apiflask import APIFlask, HTTPError
from flask import Flask, Response, g, json, request
from pydantic import ValidationError
from scipy.spatial import QhullError
from sqlalchemy.exc import DBAPIError, IntegrityError, OperationalError
from sqlalchemy.orm.exc import StaleDataError
from werkzeug.exceptions import HTTPException
from werkzeug.wrappers import Response as Answer

from finchwort.core.base.errors import CoreError, UnknownGroundError
from finchwort.messages.errors import sentence
from finchwort.messages.inputs import field_errors
from finchwort.store.errors import (
    ConflictError,
    KeyTakenError,
    NotAllowedError,
    NotFoundError,
    ReadFirstError,
    StaleError,
    TypeFirstError,
)

structlog.configure(
    processors=[
        structlog.processors.add_log_level,
        structlog.processors.TimeStamper(fmt="iso", utc=True),
        structlog.processors.format_exc_info,
        structlog.processors.JSONRenderer(),
    ],
    logger_factory=structlog.PrintLoggerFactory(sys.stderr),
)
log = structlog.get_logger()

TITLES = {
    400: "Not understood",
    401: "Not let in",
    403: "Refused",
    404: "Not found",
    405: "Not possible",
    409: "Changed meanwhile",
    413: "Too large",
    415: "Not understood",
    422: "Please check",
    429: "Too often",
    500: "Something broke",
    503: "The records are out of reach",
    507: "No room left",
}
DUPLICATE = 1062
FULL = (3, 28, 1021, 1114)
"""MariaDB's numbers for a disk or a table without room."""
DAMAGED = (126, 127, 1030, 1032, 1033, 1034, 1146, 1194, 1195, 1712, 1813, 1877, 1932)
"""And for a table that is damaged or gone."""
NO_ROOM = (
    "There is no room left on the disk, so nothing was stored. The records can still be read. Make room, then try again: "
    "what you typed is still on your page."
)
DAMAGED_TABLE = (
    "A table of the records is damaged or missing, so this was not done. Stop Finchwort, keep a copy of its data folder, and "
    "bring back the newest file of the folder “backups” in it: finchwort restore."
)
AT_ONCE = (1205, 1213)
"""MariaDB's numbers for a lock waited for too long and for a deadlock."""
STALE = "stale"
CONFLICT = "conflict"
KEY_TAKEN = "key-taken"
READ_FIRST = "read-first"
TYPE_FIRST = "type-first"
INPUT = "input"
UNKNOWN_GROUND = "unknown-ground"


def problem(status: int, detail: str, *, kind: str = "about:blank", **more: Any) -> Response:
    """Make an answer in problem JSON."""
    body = {
        "type": kind,
        "title": TITLES.get(status, "Error"),
        "status": status,
        "detail": detail,
        "errors": [],
        "lines": [],
    } | more
    return Response(json.dumps(body), status, mimetype="application/problem+json")


def _number(error: DBAPIError) -> int | None:
    """MariaDB's number of an error."""
    return next(iter(getattr(error.orig, "args", ())), None)


def _once_more(app: Flask) -> Answer:
    """Answer a request once more, from the beginning, after what it met at the same moment has passed."""
    g.again = True
    held = g.get("session")
    if held is not None:
        held.rollback()
    try:
        return app.make_response(app.dispatch_request())
    except Exception as error:
        return app.make_response(app.handle_user_exception(error))


def install(app: APIFlask) -> None:
    """Answer every error with problem JSON."""

    @app.error_processor
    def refuse(error: HTTPError) -> Response:
        cause = error.__cause__
        if error.status_code == 422 and isinstance(cause, ValidationError):
            fields = field_errors(cause.errors(include_url=False, include_input=False))
            where = fields[0].field.replace("_", " ")
            errors = [asdict(wrong) for wrong in fields]
            return problem(422, f"{where}: {fields[0].message}", kind=INPUT, errors=errors)
        return problem(error.status_code, error.message or "This did not work.")

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Answer:
        status = error.code or 500
        text = {
            400: "The request was not understood.",
            404: "There is nothing at this address.",
            405: "This cannot be done here.",
            413: "This is too large. Readings may be up to 1 MB of text.",
        }
        if error.response is not None and status < 400:
            return error.get_response()
        return problem(status, text.get(status, error.description or "This did not work."))

    @app.errorhandler(CoreError)
    def core(error: CoreError) -> Response:
        lines = [{"line": p.line, "text": p.text, "reason": p.reason} for p in getattr(error, "problems", ())]
        kind = UNKNOWN_GROUND if isinstance(error, UnknownGroundError) else INPUT
        return problem(422, sentence(error), kind=kind, lines=lines, code=error.code)

    @app.errorhandler(NotFoundError)
    def gone(error: NotFoundError) -> Response:
        return problem(404, str(error))

    @app.errorhandler(NotAllowedError)
    def not_allowed(error: NotAllowedError) -> Response:
        return problem(403, str(error))

    @app.errorhandler(StaleError)
    def stale(error: StaleError) -> Response:
        return problem(409, str(error), kind=STALE)

    @app.errorhandler(StaleDataError)
    def stale_row(_error: StaleDataError) -> Response:
        return problem(409, "This was changed elsewhere at the same moment.", kind=STALE)

    @app.errorhandler(ConflictError)
    def conflict(error: ConflictError) -> Response:
        kinds = {KeyTakenError: KEY_TAKEN, ReadFirstError: READ_FIRST, TypeFirstError: TYPE_FIRST}
        kind = kinds.get(type(error), CONFLICT)
        return problem(409, str(error), kind=kind)

    @app.errorhandler(IntegrityError)
    def twice(error: IntegrityError) -> Answer:
        # the same request came at the same moment: its other half has stored the record, and is answered with it
        if _number(error) == DUPLICATE and "client_key" in str(error.orig) and not g.get("again"):
            return _once_more(app)
        return database(error)

    @app.errorhandler(OperationalError)
    def no_database(error: OperationalError) -> Answer:
        number = _number(error)
        if number in AT_ONCE and not g.get("again"):
            return _once_more(app)
        if number in FULL:
            log.error("no room left", path=request.path, error=str(error.orig))
            return problem(507, NO_ROOM)
        if number in AT_ONCE:
            return problem(409, "Someone else changed the same record at the same moment. Try again.")
        log.error("database unreachable", path=request.path, error=str(error.orig))
        return problem(
            503,
            "The database does not answer, so nothing was stored. What you typed is still on your page; try again shortly.",
        )

    @app.errorhandler(DBAPIError)
    def database(error: DBAPIError) -> Response:
        log.error("database error", path=request.path, error=str(error.orig))
        if _number(error) in DAMAGED:
            return problem(500, DAMAGED_TABLE)
        if _number(error) in FULL:
            return problem(507, NO_ROOM)
        return problem(500, "The database refused this, so nothing was stored.")

    @app.errorhandler(np.linalg.LinAlgError)
    @app.errorhandler(QhullError)
    @app.errorhandler(OverflowError)
    def no_shape(error: Exception) -> Response:
        log.error("not worked out", path=request.path, exc_info=error)
        return problem(
            422,
            "This cannot be worked out: the readings lie, or the numbers are, so that no shape comes of them.",
            kind=INPUT,
        )

    @app.errorhandler(RecursionError)
    def too_deep(_error: RecursionError) -> Response:
        return problem(400, "The request was not understood.")

    @app.errorhandler(Exception)
    def unforeseen(error: Exception) -> Response:
        log.error("unforeseen error", path=request.path, exc_info=error)
        return problem(500, "Something went wrong in Finchwort. Nothing was stored by this request.")
