"""The guard at the way in from the network: a request without a known device gets the pairing page, and nothing else."""

from __future__ import annotations

import re
from dataclasses import dataclass
from urllib.parse import urlencode

import structlog
from flask import Flask, Response, current_app, g, make_response, redirect, render_template, request
from flask_limiter import Limiter
from limits import parse
from sqlalchemy.orm import Session
from werkzeug.wrappers import Response as Answer

from finchwort.core.base.errors import ChoiceError
from finchwort.messages.errors import sentence
from finchwort.services.access import devices
from finchwort.services.prints.calendar import is_calendar
from finchwort.store.access.marks import act_for
from finchwort.web.access import roles
from finchwort.web.database import READING, session
from finchwort.web.errors import problem
from finchwort.web.security import PAIR

CALENDAR = re.compile(r"/calendar/([0-9A-Za-z_-]{20,60})\.ics")
COOKIE = "__Host-finchwort-device"
"""Browsers take a cookie of such a name over TLS only, for this very host and all of its pages."""
CERTIFICATE = "/finchwort-authority.crt"
UNKNOWN = "unknown-device"
TRIES, ALL = parse("20 per minute"), "3000 per minute"
"""From one address; wrong codes are locked out much earlier, see `finchwort.services.access.devices`."""
TOO_OFTEN = "Too many requests came from this device. Wait a minute."
PAGE_POLICY = "default-src 'none'; style-src 'self'; img-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
STYLE = "/pair.css"

log = structlog.get_logger()


@dataclass(frozen=True)
class Entrance:
    """The way in from the network.

    Attributes
    ----------
    names : tuple of str
        Names and addresses that requests may be for.
    port : int
    authority : bytes
        Certificate of the authority, PEM, to be put on phones.
    """

    names: tuple[str, ...]
    port: int
    authority: bytes


def address() -> str:
    """Return the address a request came from, when it came over the network."""
    return request.remote_addr or "" if current_app.config.get("ENTRANCE") else ""


def install(app: Flask, entrance: Entrance | None) -> None:
    """Let only known devices in where there is a way in from the network; on loopback who asks is the owner."""
    app.config["ENTRANCE"] = entrance
    app.after_request(_write_down_deletions)
    if entrance is None:
        return
    app.config["TRUSTED_HOSTS"] = list(entrance.names)
    limiter = Limiter(
        address, app=app, default_limits=[ALL], storage_uri="memory://", strategy="moving-window"
    )
    app.extensions["tries"] = limiter
    app.extensions["refuse_late"] = refuse_late

    @app.errorhandler(429)
    def too_often(_error: Exception) -> Response:
        return problem(429, TOO_OFTEN)

    @app.before_request
    def let_in() -> Answer | None:
        pairing = _pairing_pages(entrance)
        if pairing is not None:
            return pairing
        if _asks_for_calendar():
            # whoever has the address looks at the calendar, and at nothing else
            g.role, g.device_name = devices.VIEWER, "calendar"
            return None
        device = devices.known_device(session(), request.cookies.get(COOKIE))
        if device is None:
            return _ask_to_pair()
        g.device_id, g.role, g.device_name = device.id, device.role, device.name
        act_for(session(), device.id)
        need = roles.need_of(request.endpoint, request.method in READING)
        if request.endpoint is not None and (need is None or not roles.may(need)):
            return problem(403, roles.SENTENCES.get(need or "", "This device may not do this."))
        if devices.long_unseen(device):
            with current_app.extensions["sessions"].begin() as apart:
                devices.see(apart, device.id)
        return None

    @app.after_request
    def keep_to_tls(response: Response) -> Response:
        response.headers["Strict-Transport-Security"] = "max-age=31536000"
        return response


def _write_down_deletions(response: Response) -> Response:
    """Write deletions, and what brings the deleted back, into the audit trail, in the transaction that does it."""
    if request.method in READING or response.status_code >= 400 or "session" not in g:
        return response
    if roles.NEEDS.get(request.endpoint or "") == roles.DELETE:
        verb, _, what = str(request.endpoint).partition(".")[2].partition("_")
        number = next(iter((request.view_args or {}).values()), "")
        done = "was deleted" if verb == "delete" else "was brought back"
        devices.write_audit(session(), devices.DELETED, f"{what.capitalize()} {number} {done}.", address())
    return response


def refuse_late(held: Session) -> Response | None:
    """Refuse, before anything is stored or shown, a device that was removed while its request was worked on."""
    device = g.get("device_id")
    if device is None or devices.still_known(held, device, g.role):
        return None
    return problem(
        401, "This device was removed, or its role changed, meanwhile. Nothing was stored.", kind=UNKNOWN
    )


def _asks_for_calendar() -> bool:
    found = CALENDAR.fullmatch(request.path) if request.method in READING else None
    if found is None:
        return False
    limiter = current_app.extensions["tries"]
    return limiter.limiter.hit(TRIES, "calendar", address()) and is_calendar(session(), found[1])


def _ask_to_pair() -> Response:
    if request.path.startswith("/api/") or request.method not in READING:
        return problem(
            401, "This device is not let in, or no longer. Pair it with the computer.", kind=UNKNOWN
        )
    return _page(401)


def _pairing_pages(entrance: Entrance) -> Answer | None:
    if request.path == STYLE and request.method in READING:
        answer = make_response(render_template("pair.css"))
        answer.mimetype = "text/css"
        return answer
    if request.path == CERTIFICATE and request.method in READING:
        answer = Response(entrance.authority, mimetype="application/x-x509-ca-cert")
        answer.headers["Content-Disposition"] = "attachment; filename=finchwort-authority.crt"
        return answer
    if request.path != PAIR:
        return None
    if request.method in READING:
        known = devices.known_device(session(), request.cookies.get(COOKIE))
        return (
            redirect("/")
            if known and not request.args.get("code")
            else _page(200, code=request.args.get("code", ""))
        )
    if request.method != "POST":
        return problem(405, "This cannot be done here.")
    if not current_app.extensions["tries"].limiter.hit(TRIES, "pair", address()):
        return problem(429, TOO_OFTEN)
    return _pair()


def _pair() -> Answer:
    """Let a device in by the code that it shows."""
    code, name = request.form.get("code", "")[:100], request.form.get("name", "")[:60]
    old = request.cookies.get(COOKIE)
    try:
        # committed in any case: a wrong code is written down, whatever is answered
        with current_app.extensions["sessions"].begin() as apart:
            let_in = devices.claim(apart, code, name, address())
            if let_in is not None and old:
                before = devices.known_device(apart, old)
                if before is not None and before.id != let_in[0].id:
                    devices.remove_device(apart, before.id)
    except devices.LockedError as error:
        log.warning("too many wrong codes", address=address())
        return _page(429, trouble=str(error), code=code, name=name)
    except ChoiceError as error:
        return _page(422, trouble=sentence(error), code=code, name=name)
    if let_in is None:
        wrong = "This code does not count: it was mistyped, used already, or is older than ten minutes. Make another on the computer."
        return _page(403, trouble=wrong, name=name)
    device, token = let_in
    answer = redirect("/")
    left = int((device.expires_at - device.created_at).total_seconds())
    answer.set_cookie(COOKIE, token, max_age=left, path="/", secure=True, httponly=True, samesite="Lax")
    return answer


def _page(status: int, trouble: str = "", code: str = "", name: str = "") -> Response:
    body = render_template(
        "pair.html", trouble=trouble, code=devices.plain(code), name=name, certificate=CERTIFICATE
    )
    answer = make_response(body, status)
    answer.headers["Content-Security-Policy"] = PAGE_POLICY
    answer.headers["Cache-Control"] = "no-store"
    # with no referrer at all, a browser would not say either from where its form comes
    answer.headers["Referrer-Policy"] = "same-origin"
    return answer


def pairing_url(base: str, code: str) -> str:
    """Return the address that the code on the screen leads a phone to."""
    return f"{base}{PAIR}?{urlencode({'code': code})}"
