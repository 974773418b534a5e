"""Settings of this installation: whether it is open to the network, how it is backed up, whether the demo is wanted."""

from __future__ import annotations

from dataclasses import asdict, dataclass, fields
from typing import TypeVar

from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from finchwort.store.access.models import Setting
from finchwort.store.records import utcnow


@dataclass(frozen=True)
class Sharing:
    """Whether other devices may reach this over the local network."""

    on: bool = False


@dataclass(frozen=True)
class Backups:
    """Whether the records are copied by themselves, how often (hours), and how many such copies are kept."""

    on: bool = True
    hours: int = 24
    keep: int = 7


@dataclass(frozen=True)
class Demo:
    """Whether the demo workshop is to be shown beside one's own."""

    wanted: bool = False


@dataclass(frozen=True)
class CalendarAddress:
    """The secret in the address of the calendar; empty where it is off."""

    secret: str = ""


Kind = TypeVar("Kind", Sharing, Backups, Demo, CalendarAddress)


def read_setting(session: Session, kind: type[Kind]) -> Kind:
    """Read a setting; what was never set has its usual value."""
    row = session.get(Setting, kind.__name__.lower(), populate_existing=True)
    known = {field.name for field in fields(kind)}
    return kind(**{k: v for k, v in (row.value if row else {}).items() if k in known})


def write_setting(session: Session, setting: Sharing | Backups | Demo | CalendarAddress) -> None:
    """Write a setting."""
    name, value = type(setting).__name__.lower(), asdict(setting)
    made = insert(Setting).values(name=name, value=value, created_at=utcnow())
    session.execute(made.on_duplicate_key_update(value=made.inserted.value))
