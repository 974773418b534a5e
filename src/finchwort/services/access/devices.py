"""Devices that may come in over the network: pairing by a code used once, names, roles, removal, and the audit trail."""

from __future__ import annotations

import hashlib
import secrets
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta

from sqlalchemy import func, select, update
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError
from finchwort.store.access.kinds import Role
from finchwort.store.access.marks import DEVICE
from finchwort.store.access.models import Audit, Device, Pairing
from finchwort.store.errors import ConflictError, NotFoundError, StaleError
from finchwort.store.records import changed_rows, utcnow

OWNER, MEMBER, VIEWER, BENCH = ROLES = tuple(Role)
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Of a code: none that is mistaken for another."""
LENGTH = 12
"""60 bits: with the tries that are let through in ten minutes, a guess is one in ten to the sixteenth."""
CODE_FOR = timedelta(minutes=10)
TOKEN_BYTES = 32
MAX_DEVICES = 50
MAX_CODES = 10
"""So many codes may be open at once."""
DAYS = (1, 30, 90, 365)
"""For so long a device may be let in."""
SEEN_EVERY = timedelta(minutes=2)
MISSES, MISSES_BY_ALL, LOCKED_FOR = 5, 25, timedelta(minutes=15)
"""After so many wrong codes from one address, or from all of them, within this time, no code counts."""
PAIRED, MISSED, LOCKED, CODE, CHANGED, REMOVED = "paired", "missed", "locked", "code", "role", "removed"
DELETED, COMMAND, SHARED, KEPT = "deleted", "command", "shared", "backup"
SHOWN = 100


class LockedError(ConflictError):
    """Too many wrong codes came; no code counts for a while."""


@dataclass(frozen=True)
class Code:
    """A fresh code with its row; it is told once and kept nowhere."""

    code: str
    pairing: Pairing


def digest(secret: str) -> str:
    """Return what is kept of a code or token."""
    return hashlib.sha256(secret.encode()).hexdigest()


def plain(code: str) -> str:
    """Return a code as it is compared: without blanks and hyphens, in capitals."""
    return "".join(letter for letter in code.upper() if letter in LETTERS)[: 2 * LENGTH]


def write_audit(session: Session, kind: str, text: str, address: str = "") -> Audit:
    """Add a line to the audit trail, of the device that this session writes for."""
    device = session.get(Device, session.info[DEVICE]) if session.info.get(DEVICE) else None
    line = Audit(
        kind=kind,
        text=text[:300],
        device_id=device.id if device else None,
        device=device.name if device else "",
        address=address[:45],
    )
    session.add(line)
    return line


def list_audit(session: Session, before: int | None = None, limit: int = SHOWN) -> Sequence[Audit]:
    """Give lines of the audit trail, newest first."""
    query = select(Audit).order_by(Audit.id.desc()).limit(limit)
    return session.scalars(query if before is None else query.where(Audit.id < before)).all()


def make_code(session: Session, role: str, days: int) -> Code:
    """Make a code that lets one device in within ten minutes.

    Raises
    ------
    ChoiceError, ConflictError
    """
    if role not in ROLES:
        raise ChoiceError("access.choose_device_may_do")
    if days not in DAYS:
        raise ChoiceError("access.choose_long_device_may")
    now = utcnow()
    open_now = session.scalar(
        select(func.count(Pairing.id)).where(
            Pairing.expires_at > now, Pairing.used_at.is_(None), Pairing.withdrawn_at.is_(None)
        )
    )
    if (open_now or 0) >= MAX_CODES:
        raise ConflictError("Many codes are open already. Use one of them, or wait ten minutes.")
    if len(list_devices(session)) >= MAX_DEVICES:
        raise ConflictError(f"{MAX_DEVICES} devices are the most. Remove one that is not used any more.")
    code = "".join(secrets.choice(LETTERS) for _ in range(LENGTH))
    pairing = Pairing(code_hash=digest(code), role=role, days=days, expires_at=now + CODE_FOR)
    session.add(pairing)
    write_audit(session, CODE, f"A code for one device ({role}) was made.")
    session.flush()
    return Code(code, pairing)


def get_pairing(session: Session, pairing_id: int) -> Pairing:
    """Return a code's row.

    Raises
    ------
    NotFoundError
    """
    result = session.get(Pairing, pairing_id)
    if result is None:
        raise NotFoundError("There is no such code.")
    return result


def withdraw_code(session: Session, pairing_id: int) -> Pairing:
    """Make a code worthless that was not used."""
    pairing = get_pairing(session, pairing_id)
    if pairing.used_at is None and pairing.withdrawn_at is None:
        pairing.withdrawn_at = utcnow()
    return pairing


def locked(session: Session, address: str) -> bool:
    """Tell whether too many wrong codes came, from this address or from all."""
    since = Audit.created_at > utcnow() - LOCKED_FOR
    query = select(func.count(Audit.id)).where(Audit.kind == MISSED, since)
    return (session.scalar(query.where(Audit.address == address)) or 0) >= MISSES or (
        session.scalar(query) or 0
    ) >= MISSES_BY_ALL


def claim(session: Session, code: str, name: str, address: str) -> tuple[Device, str] | None:
    """Let a device in by its code; tell the token that it shows from now on.

    Parameters
    ----------
    session : Session
        To be committed in any case: a wrong code is written down.
    code, name, address : str

    Returns
    -------
    (Device, str) or None
        None when the code is wrong, too old, withdrawn or used.

    Raises
    ------
    LockedError, ChoiceError
    """
    if locked(session, address):
        raise LockedError("Too many wrong codes came. Wait a quarter of an hour, then make a new code.")
    if not name.strip():
        raise ChoiceError("access.give_device_name_told")
    now = utcnow()
    same_code = Pairing.code_hash == digest(plain(code))
    good = (same_code, Pairing.used_at.is_(None), Pairing.withdrawn_at.is_(None), Pairing.expires_at > now)
    # of two that show the same code at the same moment one changes the row, and the other finds it changed
    if changed_rows(session, update(Pairing).where(*good).values(used_at=now)) != 1:
        write_audit(session, MISSED, "A wrong, used or old code was tried.", address)
        session.flush()
        if locked(session, address):
            session.execute(
                update(Pairing)
                .where(Pairing.used_at.is_(None), Pairing.withdrawn_at.is_(None))
                .values(withdrawn_at=now)
            )
            write_audit(session, LOCKED, "Too many wrong codes: all open codes were withdrawn.", address)
        return None
    pairing = session.scalars(
        select(Pairing).where(same_code).execution_options(populate_existing=True)
    ).one()
    token = secrets.token_urlsafe(TOKEN_BYTES)
    device = Device(
        name=name.strip()[:60],
        role=pairing.role,
        token_hash=digest(token),
        expires_at=now + timedelta(days=pairing.days),
        seen_at=now,
    )
    session.add(device)
    session.flush()
    pairing.device_id = device.id
    session.info[DEVICE] = device.id
    write_audit(session, PAIRED, f"{device.name} was let in as {device.role}.", address)
    return device, token


def known_device(session: Session, token: str | None) -> Device | None:
    """Return the device that shows a token, unless it was removed or its time is over."""
    if not token or len(token) > 200:
        return None
    device = session.scalars(select(Device).where(Device.token_hash == digest(token))).first()
    return device if device is not None and may_come(device) else None


def may_come(device: Device, now: datetime | None = None) -> bool:
    """Tell whether a device is still let in."""
    return device.removed_at is None and device.expires_at > (now or utcnow())


def still_known(session: Session, device_id: int, role: str) -> bool:
    """Tell, to the end of this transaction, that a device was not removed, nor given another role, meanwhile."""
    query = select(Device).where(Device.id == device_id).with_for_update(read=True)
    device = session.scalars(query.execution_options(populate_existing=True)).first()
    return device is not None and may_come(device) and device.role == role


def long_unseen(device: Device) -> bool:
    """Tell whether it is time to write down again that a device was here."""
    return device.seen_at < utcnow() - SEEN_EVERY


def see(session: Session, device_id: int) -> None:
    """Write down that a device was here, now and then."""
    # a request of the same device that is under way holds its row; it is written down another time
    free = select(Device.id).where(Device.id == device_id).with_for_update(skip_locked=True)
    if session.execute(free).first() is not None:
        session.execute(update(Device).where(Device.id == device_id).values(seen_at=utcnow()))


def list_devices(session: Session) -> Sequence[Device]:
    """Give the devices that were not removed, those that came last first."""
    return session.scalars(
        select(Device).where(Device.removed_at.is_(None)).order_by(Device.seen_at.desc(), Device.id)
    ).all()


def get_device(session: Session, device_id: int) -> Device:
    """Return a device that was not removed.

    Raises
    ------
    NotFoundError
    """
    device = session.get(Device, device_id)
    if device is None or device.removed_at is not None:
        raise NotFoundError("There is no such device. It may have been removed.")
    return device


def change_device(
    session: Session, device_id: int, version: int, name: str, role: str, days: int | None
) -> Device:
    """Give a device another name or role, or more time from now on.

    Raises
    ------
    NotFoundError, StaleError, ChoiceError
    """
    device = get_device(session, device_id)
    if device.version != version:
        raise StaleError("This device was changed elsewhere since you opened it.")
    if role not in ROLES or (days is not None and days not in DAYS) or not name.strip():
        raise ChoiceError("access.device_needs_name_role")
    if device.role != role:
        write_audit(session, CHANGED, f"{device.name}: {device.role} became {role}.")
    device.name, device.role = name.strip()[:60], role
    if days is not None:
        device.expires_at = utcnow() + timedelta(days=days)
    session.flush()
    return device


def remove_device(session: Session, device_id: int) -> Device:
    """Let a device in no more; what it recorded stays, with its name.

    Raises
    ------
    NotFoundError
    """
    device = get_device(session, device_id)
    device.removed_at = utcnow()
    write_audit(session, REMOVED, f"{device.name} was removed.")
    session.flush()
    return device


def forget_all_devices(session: Session, but: Sequence[str] = ()) -> int:
    """Remove every device whose token is none of those given; tell how many (after a restore: see `finchwort.services.backup`)."""
    now = utcnow()
    session.execute(
        update(Pairing)
        .where(Pairing.used_at.is_(None), Pairing.withdrawn_at.is_(None))
        .values(withdrawn_at=now)
    )
    stale = update(Device).where(Device.removed_at.is_(None))
    if but:
        stale = stale.where(Device.token_hash.not_in(but))
    return changed_rows(session, stale.values(removed_at=now))
