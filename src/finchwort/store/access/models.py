"""Tables of who may come in: devices, their pairing, the audit trail; settings and the marks of what was written.

Times are UTC.  Tokens are kept as SHA-256 only: what stands here lets nobody in.
"""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from finchwort.store.records import Base, Recorded


class Device(Recorded, Base):
    """A phone, tablet or computer that was let in over the network, and what it may do; its row is its session."""

    __tablename__ = "device"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column()
    name: Mapped[str] = mapped_column(String(60))
    role: Mapped[str] = mapped_column(String(10))
    token_hash: Mapped[str] = mapped_column(String(64))
    expires_at: Mapped[datetime]
    seen_at: Mapped[datetime]
    removed_at: Mapped[datetime | None]

    __mapper_args__ = {"version_id_col": version}
    __table_args__ = (UniqueConstraint("token_hash"),)


class Pairing(Recorded, Base):
    """A code that lets one device in, once, for ten minutes."""

    __tablename__ = "pairing"

    id: Mapped[int] = mapped_column(primary_key=True)
    code_hash: Mapped[str] = mapped_column(String(64))
    role: Mapped[str] = mapped_column(String(10))
    days: Mapped[int]
    expires_at: Mapped[datetime]
    withdrawn_at: Mapped[datetime | None]
    used_at: Mapped[datetime | None]
    device_id: Mapped[int | None] = mapped_column(ForeignKey("device.id"))

    __table_args__ = (UniqueConstraint("code_hash"),)


class Audit(Recorded, Base):
    """A line of the audit trail; never changed.  ``device`` keeps the name of that time; empty is this computer."""

    __tablename__ = "audit"

    id: Mapped[int] = mapped_column(primary_key=True)
    kind: Mapped[str] = mapped_column(String(12))
    text: Mapped[str] = mapped_column(String(300))
    device_id: Mapped[int | None] = mapped_column(ForeignKey("device.id"))
    device: Mapped[str] = mapped_column(String(60))
    address: Mapped[str] = mapped_column(String(45))

    __table_args__ = (Index(None, "kind", "created_at"), Index(None, "created_at"))


class Setting(Recorded, Base):
    """A setting of this installation, by its name."""

    __tablename__ = "setting"

    name: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[dict[str, Any]] = mapped_column(JSON)


class Written(Recorded, Base):
    """A mark that something was written: pages that are open elsewhere ask for what they show again."""

    __tablename__ = "written"

    id: Mapped[int] = mapped_column(primary_key=True)

    __table_args__ = (Index(None, "created_at"),)
