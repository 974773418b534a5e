"""Closed sets of devices, what they may do, and backups, each value once."""

from __future__ import annotations

from enum import StrEnum


class Role(StrEnum):
    """What a device is let in as."""

    OWNER = "owner"
    MEMBER = "member"
    VIEWER = "viewer"
    BENCH = "bench"


class Need(StrEnum):
    """What a request asks a role for."""

    LOOK = "look"
    STOP = "stop"
    RECORD = "record"
    CHANGE = "change"
    DELETE = "delete"
    COMMAND = "command"
    OWN = "own"


class PairingState(StrEnum):
    """What became of a code."""

    OPEN = "open"
    USED = "used"
    WITHDRAWN = "withdrawn"
    LATE = "late"


class BackupKind(StrEnum):
    """What a backup was made for."""

    DAILY = "daily"
    BY_HAND = "by-hand"
    BEFORE_RESTORE = "before-restore"
