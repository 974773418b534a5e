"""What all tables share: the base with its names, times in UTC, and from which device a record came."""

from __future__ import annotations

from datetime import UTC, datetime

from sqlalchemy import Double, ForeignKey, MetaData
from sqlalchemy.dialects.mysql import DATETIME
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column
from sqlalchemy.types import TypeDecorator


def utcnow() -> datetime:
    """Return the present, aware, in UTC."""
    return datetime.now(UTC)


class UtcDateTime(TypeDecorator):
    """An aware time in UTC, kept to the microsecond."""

    impl = DATETIME(fsp=6)
    cache_ok = True

    def process_bind_param(self, value, dialect):
        """Store aware times only, as UTC."""
        if value is None:
            return None
        if value.tzinfo is None:
            raise ValueError("A time without a zone cannot be stored.")
        return value.astimezone(UTC).replace(tzinfo=None)

    def process_result_value(self, value, dialect):
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
