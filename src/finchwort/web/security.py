"""Who may ask, and what a page may do."""

from __future__ import annotations

import os
import re
from pathlib import Path
from urllib.parse import urlsplit

from flask import Flask, Response, request

from finchwort.store.place import ROOM
from finchwort.store.server import little_room
from finchwort.web.database import READING
from finchwort.web.errors import NO_ROOM, problem

PAIR = "/pair"
"""The one page that takes a form: it works without scripts."""
FILES = re.compile(r"/api/files(/[0-9]+/copies)?")
"""The routes that take a file as it is; they read it piece by piece and set a limit of their own."""
HOSTS = ["127.0.0.1", "localhost"]
MAX_BYTES = 3_000_000
"""Largest request, bytes: 1 MB of text may double when it is escaped."""
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; "
    "font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none'; form-action 'self'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), microphone=(), geolocation=(), screen-wake-lock=(self)",
}
FOR_PAGES = {"Content-Security-Policy", "Cross-Origin-Opener-Policy", "Permissions-Policy"}
"""What a browser obeys for a page, and not for a script or a font of it: two dozen of them come with a page."""


def install(app: Flask) -> None:
    """Check host and origin of every request, set the headers of every answer."""
    app.config["TRUSTED_HOSTS"] = HOSTS
    app.config["MAX_CONTENT_LENGTH"] = MAX_BYTES
    app.config["ROOM"] = Path(os.environ[ROOM]) if os.environ.get(ROOM) else None

    @app.before_request
    def refuse_strangers() -> Response | None:
        if not request.headers.get("Host"):
            return problem(400, "The request does not say whom it is for.")
        _ = request.host  # raises for a host that is not ours
        if request.method in READING:
            return None
        origin = request.headers.get("Origin")
        site = request.headers.get("Sec-Fetch-Site", "same-origin")
        if (origin is not None and urlsplit(origin).netloc != request.host) or site not in (
            "same-origin",
            "none",
        ):
            return problem(403, "Another site asked for this change. It was refused.")
        room = app.config.get("ROOM")
        if room is not None and little_room(room):
            return problem(507, NO_ROOM)
        chunked = "chunked" in request.headers.get("Transfer-Encoding", "").lower()
        form = request.path == PAIR and app.config.get("ENTRANCE") is not None
        plain = FILES.fullmatch(request.path) is not None and request.mimetype == "application/octet-stream"
        if (request.content_length or chunked) and not (request.is_json or form or plain):
            return problem(415, "Send the data as JSON.")
        return None

    @app.after_request
    def protect(response: Response) -> Response:
        part = request.path.startswith("/assets/") and response.status_code in (200, 206, 304)
        for name, value in HEADERS.items():
            if not (part and name in FOR_PAGES):
                response.headers.setdefault(name, value)
        if request.path.startswith("/api/") or app.config.get("ENTRANCE") is not None:
            response.headers.setdefault("Cache-Control", "no-store")
        return response
