"""Devices, the way in from the network, the audit trail, backups and the beginning."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from finchwort.store.access.kinds import BackupKind, Need, PairingState, Role
from finchwort.web.schemas.base import In, Out

__all__ = [
    "AuditLine",
    "AuditOut",
    "AuditQuery",
    "BackupOut",
    "BackupsOut",
    "CodeIn",
    "CodeOut",
    "CodeState",
    "DemoOut",
    "DeviceChange",
    "DeviceOut",
    "Devices",
    "Me",
    "ScheduleIn",
    "SharingIn",
    "SharingOut",
]

DeviceName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


class Me(Out):
    """Who asks: this computer, or a device by its name, and what it may do."""

    name: str | None
    role: Role
    may: list[Need]


class DeviceOut(Out):
    """A device that is let in."""

    id: int
    version: int
    name: str
    role: Role
    created_at: datetime
    seen_at: datetime
    expires_at: datetime
    expired: bool
    this: bool


class Devices(Out):
    """The devices that are let in."""

    devices: list[DeviceOut]


class DeviceChange(In):
    """Another name or role, or more time from now on."""

    version: int
    name: DeviceName
    role: Role
    days: Literal[1, 30, 90, 365] | None = None


class CodeIn(In):
    """For whom a code is made."""

    role: Role = Role.MEMBER
    days: Literal[1, 30, 90, 365] = 90


class CodeOut(Out):
    """A fresh code; it is told once.  ``picture`` is an SVG of the address that carries it."""

    id: int
    code: str
    url: str
    picture: str
    expires_at: datetime


class CodeState(Out):
    """What became of a code."""

    id: int
    state: PairingState
    device: str | None


class AuditLine(Out):
    """A line of the audit trail; without a device it was this computer."""

    id: int
    at: datetime
    kind: str
    text: str
    device: str | None
    address: str


class AuditQuery(In):
    """From where on older lines are wanted."""

    before: int | None = Field(None, ge=0)


class AuditOut(Out):
    """Lines of the audit trail, newest first; ``before`` asks for older ones."""

    lines: list[AuditLine]
    before: int | None


class SharingIn(In):
    """Whether devices of the local network may come in."""

    on: bool


class SharingOut(Out):
    """The way in from the network; ``can`` tells whether this Finchwort was started so that it can be opened."""

    on: bool
    can: bool
    urls: list[str]
    fingerprint: str
    trouble: str


class BackupOut(Out):
    """A backup, read back when it was made."""

    name: str
    kind: BackupKind
    made_at: datetime
    bytes: int
    rows: int
    version: str


class BackupsOut(Out):
    """The backups there are; ``can`` is false where no folder is known, ``by_itself`` where none are made by themselves."""

    can: bool
    by_itself: bool
    folder: str
    on: bool
    hours: int
    keep: int
    trouble: str
    backups: list[BackupOut]


class ScheduleIn(In):
    """Whether backups are made by themselves, how often (hours), and how many of these are kept."""

    on: bool
    hours: int = Field(24, ge=1, le=24 * 14)
    keep: int = Field(7, ge=1, le=100)


class DemoOut(Out):
    """The demo workshop beside one's own."""

    can: bool
    wanted: bool
    ready: bool
    url: str | None
