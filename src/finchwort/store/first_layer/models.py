"""Tables of Z offsets and of printed trials.  Lengths are millimetres, times are UTC."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from finchwort.store.models import Visit
from finchwort.store.records import Base, FromDevice, Idempotent, Logged, Recorded, SoftDeleted, Subject


class OffsetRecord(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """The parts of a Z offset from some time on, and why; ``closer`` is against the record before, mm."""

    __tablename__ = "z_offset"
    subject = Subject.OFFSET
    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    made_at: Mapped[datetime]
    reason: Mapped[str] = mapped_column(String(20))
    parts: Mapped[dict[str, Any]] = mapped_column(JSON)
    closer_is: Mapped[str] = mapped_column(String(10))
    closer: Mapped[float | None]
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500))
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "printer_id", "made_at"))


class Trial(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """A printed test and how its patches were judged; never changed.

    ``parts`` is the offset it was printed at, ``surface`` what lay there, ``patches`` holds x, y, shift (mm, farther positive) and step.
    """

    __tablename__ = "trial"
    subject = Subject.TRIAL

    id: Mapped[int] = mapped_column(primary_key=True)
    visit_id: Mapped[int] = mapped_column(ForeignKey("visit.id"))
    made_at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(20))
    parts: Mapped[dict[str, Any]] = mapped_column(JSON)
    patches: Mapped[list[Any]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500))
    surface: Mapped[str] = mapped_column(String(80), default="")

    visit: Mapped[Visit] = relationship()
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "visit_id"))


class MachineChange(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """Something at a machine that was changed by hand: what, and when.

    Of a look with paper also on which surface, and whether a mesh was followed while it was felt.
    """

    __tablename__ = "machine_change"
    subject = Subject.CHANGE

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    made_at: Mapped[datetime]
    what: Mapped[str] = mapped_column(String(20))
    note: Mapped[str] = mapped_column(String(500))
    surface: Mapped[str] = mapped_column(String(80), default="")
    compensated: Mapped[bool | None]
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "printer_id", "made_at"))
