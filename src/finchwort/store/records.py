"""What all tables share: the base with its names, times in UTC, and from which device a record came."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from enum import StrEnum
from typing import Any, ClassVar, TypeVar, cast

from sqlalchemy import CursorResult, Delete, Double, ForeignKey, MetaData, String, Update, select
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.engine import Dialect
from sqlalchemy.orm import DeclarativeBase, Mapped, Session, mapped_column
from sqlalchemy.types import TypeDecorator

from finchwort.store.errors import KeyTakenError, NotFoundError


def utcnow() -> datetime:
    """Return the present, aware, in UTC."""
    return datetime.now(UTC)


class UtcDateTime(TypeDecorator[datetime]):
    """An aware time in UTC, kept to the microsecond."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Store aware times only, as UTC."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("A time without a zone cannot be stored.")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value: datetime | None, dialect: Dialect) -> datetime | None:
        """Read back an aware time."""
        return value.replace(tzinfo=UTC) if value is not None else None


class Base(DeclarativeBase):
    """Base of all tables."""

    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s_%(referred_table_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: UtcDateTime, float: Double}


class FromDevice:
    """Mixin of what people record: from which device it came; none is the computer that Finchwort runs on."""

    device_id: Mapped[int | None] = mapped_column(ForeignKey("device.id"))


class Recorded:
    """Mixin of what is written down: when."""

    created_at: Mapped[datetime] = mapped_column(default=utcnow)


class SoftDeleted:
    """Mixin of what can be taken back, and brought back: nothing is ever gone."""

    deleted_at: Mapped[datetime | None]


class Subject(StrEnum):
    """What a line of the logbook can tell of."""

    SURVEY = "survey"
    TURNING = "turning"
    TEST = "test"
    ADJUSTMENT = "adjustment"
    OFFSET = "offset"
    TRIAL = "trial"
    CHANGE = "change"
    CASE = "case"
    PRINT = "print"


class Logged:
    """Mixin of what writes a line into the logbook: by which word that line points at it."""

    subject: ClassVar[Subject]
    id: Mapped[int]
    deleted_at: Mapped[datetime | None]


class Idempotent:
    """Mixin of what is stored once, however often it is sent: the sender's key stands for it alone."""

    client_key: Mapped[str] = mapped_column(String(36))


Stored = TypeVar("Stored", bound=Idempotent)
Deletable = TypeVar("Deletable", bound=SoftDeleted)


def sent_before(
    session: Session,
    model: type[Stored],
    client_key: str,
    taken: str,
    same: Callable[[Stored], bool] = lambda _: True,
    **what: Any,
) -> Stored | None:
    """Return what was stored under a key already; nothing when the key is new.

    Parameters
    ----------
    session : Session
    model : type
    client_key : str
    taken : str
        The sentence with which a key is refused that stands for something else, or for what was taken back since.
    same : callable, optional
        Whether what stands there is what is sent now, as far as ``what`` does not tell.
    **what
        Columns and the values that are sent now.

    Raises
    ------
    KeyTakenError
    """
    known = session.scalars(select(model).where(model.client_key == client_key)).first()
    if known is None:
        return None
    if getattr(known, "deleted_at", None) is not None or not same(known):
        raise KeyTakenError(taken)
    if any(getattr(known, column) != value for column, value in what.items()):
        raise KeyTakenError(taken)
    return known


def locked_for_deletion(
    session: Session, model: type[Deletable], key: int, deleted: bool, nothing: str
) -> Deletable:
    """Return a record that is to be taken back, or brought back, locked until the transaction ends.

    Raises
    ------
    NotFoundError
        With the sentence ``nothing``, when there is none or it is so already.
    """
    record = session.get(model, key, with_for_update=True, populate_existing=True)
    if record is None or (record.deleted_at is None) != deleted:
        raise NotFoundError(nothing)
    return record


def set_deleted(session: Session, model: type[Deletable], key: int, deleted: bool, nothing: str) -> Deletable:
    """Take a record back, or bring it back.

    Raises
    ------
    NotFoundError
        With the sentence ``nothing``, when there is none or it is so already.
    """
    record = locked_for_deletion(session, model, key, deleted, nothing)
    record.deleted_at = utcnow() if deleted else None
    return record


def changed_rows(session: Session, change: Update | Delete) -> int:
    """Carry a change out and say how many rows it reached."""
    return cast("CursorResult[Any]", session.execute(change)).rowcount
