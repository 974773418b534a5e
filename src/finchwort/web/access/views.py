"""Devices: who asks, who is let in, the codes they come in by, the way in from the network, the audit trail."""

from __future__ import annotations

import io

import segno
from apiflask import APIBlueprint
from flask import Response, current_app, g

from finchwort.services.access import devices as store
from finchwort.store.access.kinds import PairingState
from finchwort.store.access.models import Device, Pairing
from finchwort.store.access.settings import Sharing, read_setting, write_setting
from finchwort.store.errors import ConflictError
from finchwort.store.place import Shared, running
from finchwort.store.records import utcnow
from finchwort.web import schemas
from finchwort.web.access import roles
from finchwort.web.access.guard import address, pairing_url
from finchwort.web.database import session

blueprint = APIBlueprint("access", __name__, url_prefix="/api", tag="access")

STARTING = "It is being opened. The address appears in a moment."


@blueprint.get("/me")
@blueprint.output(schemas.Me)
def get_me() -> schemas.Me:
    """Say who asks, and what that device may do."""
    role = g.get("role", store.OWNER)
    return schemas.Me(name=g.get("device_name"), role=role, may=sorted(roles.MAY[role]))


def _device_out(device: Device) -> schemas.DeviceOut:
    return schemas.DeviceOut.of(
        device, expired=device.expires_at <= utcnow(), this=device.id == g.get("device_id")
    )


@blueprint.get("/devices")
@blueprint.output(schemas.Devices)
def get_devices() -> schemas.Devices:
    """Give the devices that are let in."""
    return schemas.Devices(devices=[_device_out(device) for device in store.list_devices(session())])


@blueprint.put("/devices/<int:device_id>")
@blueprint.input(schemas.DeviceChange)
@blueprint.output(schemas.DeviceOut)
def change_device(device_id: int, json_data: schemas.DeviceChange) -> schemas.DeviceOut:
    """Give a device another name or role, or more time."""
    wish = json_data
    return _device_out(
        store.change_device(session(), device_id, wish.version, wish.name, wish.role, wish.days)
    )


@blueprint.delete("/devices/<int:device_id>")
@blueprint.output(schemas.Done)
def remove_device(device_id: int) -> schemas.Done:
    """Let a device in no more."""
    if device_id == g.get("device_id"):
        raise ConflictError(
            "This is the device in your hand. Remove it from another one, or from the computer."
        )
    return schemas.Done(id=store.remove_device(session(), device_id).id)


def _shared() -> Shared | None:
    folder = current_app.config.get("ROOM")
    result = running(folder) if folder else None
    return result.shared if result else None


@blueprint.post("/pairings")
@blueprint.input(schemas.CodeIn)
@blueprint.output(schemas.CodeOut, status_code=201)
def make_code(json_data: schemas.CodeIn) -> schemas.CodeOut:
    """Make a code for one device, with a picture of the address that carries it."""
    shared = _shared()
    if shared is None or not shared.urls:
        raise ConflictError(
            "It is not open to the network yet. Switch that on first; the address appears in a moment."
        )
    made = store.make_code(session(), json_data.role, json_data.days)
    url = pairing_url(shared.urls[0], made.code)
    picture = io.BytesIO()
    segno.make(url, error="m").save(
        picture, kind="svg", scale=6, border=4, xmldecl=False, omitsize=True, light="#fff"
    )
    return schemas.CodeOut(
        id=made.pairing.id,
        code="-".join(made.code[i : i + 4] for i in range(0, len(made.code), 4)),
        url=url,
        picture=picture.getvalue().decode(),
        expires_at=made.pairing.expires_at,
    )


def _state_of(pairing: Pairing) -> schemas.CodeState:
    state = (
        "used"
        if pairing.used_at
        else PairingState.WITHDRAWN
        if pairing.withdrawn_at
        else PairingState.LATE
        if pairing.expires_at <= utcnow()
        else "open"
    )
    device = session().get(Device, pairing.device_id) if pairing.device_id else None
    return schemas.CodeState(id=pairing.id, state=state, device=device.name if device else None)


@blueprint.get("/pairings/<int:pairing_id>")
@blueprint.output(schemas.CodeState)
def get_code(pairing_id: int) -> schemas.CodeState:
    """Say what became of a code."""
    return _state_of(store.get_pairing(session(), pairing_id))


@blueprint.delete("/pairings/<int:pairing_id>")
@blueprint.output(schemas.CodeState)
def withdraw_code(pairing_id: int) -> schemas.CodeState:
    """Make a code worthless that was not used."""
    return _state_of(store.withdraw_code(session(), pairing_id))


def _sharing() -> schemas.SharingOut:
    folder = current_app.config.get("ROOM")
    result = running(folder) if folder else None
    on = read_setting(session(), Sharing).on
    shared = (result.shared if result else None) or Shared(trouble=STARTING if on and result else "")
    return schemas.SharingOut(
        on=on,
        can=bool(result and result.can_share),
        urls=shared.urls if on else [],
        fingerprint=shared.fingerprint,
        trouble=shared.trouble if on else "",
    )


@blueprint.get("/sharing")
@blueprint.output(schemas.SharingOut)
def get_sharing() -> schemas.SharingOut:
    """Say whether devices of the local network may come in, and by which address."""
    return _sharing()


@blueprint.put("/sharing")
@blueprint.input(schemas.SharingIn)
@blueprint.output(schemas.SharingOut)
def set_sharing(json_data: schemas.SharingIn) -> schemas.SharingOut:
    """Open the way in from the local network, or close it."""
    if read_setting(session(), Sharing).on != json_data.on:
        write_setting(session(), Sharing(json_data.on))
        done = "opened to the local network" if json_data.on else "closed to the network"
        store.write_audit(session(), store.SHARED, f"Finchwort was {done}.", address())
    return _sharing()


@blueprint.get("/audit")
@blueprint.input(schemas.AuditQuery, location="query")
@blueprint.output(schemas.AuditOut)
def get_audit(query_data: schemas.AuditQuery) -> schemas.AuditOut:
    """Give the audit trail: pairings, roles, deletions, commands to machines."""
    audit = store.list_audit(session(), query_data.before, store.SHOWN + 1)
    page = audit[: store.SHOWN]
    return schemas.AuditOut(
        lines=[schemas.AuditLine.of(item, at=item.created_at, device=item.device or None) for item in page],
        before=page[-1].id if len(audit) > store.SHOWN else None,
    )


@blueprint.get("/authority.crt")
@blueprint.doc(hide=True)
def get_authority() -> Response:
    """Give the authority's certificate, to be put on a phone."""
    folder = current_app.config.get("ROOM")
    path = folder / "authority" / "authority.crt" if folder else None
    if path is None or not path.is_file():
        raise ConflictError("There is no certificate yet. Open Finchwort to the network first.")
    answer = Response(path.read_bytes(), mimetype="application/x-x509-ca-cert")
    answer.headers["Content-Disposition"] = "attachment; filename=finchwort-authority.crt"
    return answer
