"""Tables of the cases: something that went wrong, what was found, and what it turned out to be.  Times are UTC."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from finchwort.store.models import Printer
from finchwort.store.records import Base, FromDevice, Idempotent, Logged, Recorded, SoftDeleted, Subject


class Trouble(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """A case as it was opened; what happened in it since stands in its events.

    ``strip`` is the setup strip of that time, ``circumstances`` holds keys of `finchwort.knowledge.Circumstance`.
    """

    __tablename__ = "trouble"
    subject = Subject.CASE

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    opened_at: Mapped[datetime]
    words: Mapped[str] = mapped_column(String(500))
    x: Mapped[float | None]
    y: Mapped[float | None]
    circumstances: Mapped[list[Any]] = mapped_column(JSON)
    strip: Mapped[dict[str, Any]] = mapped_column(JSON)

    printer: Mapped[Printer] = relationship(lazy="joined")
    events: Mapped[list[CaseEvent]] = relationship(
        order_by="CaseEvent.at, CaseEvent.id", lazy="selectin", back_populates="trouble"
    )
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "printer_id", "opened_at"))


class CaseEvent(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """Something that happened in a case: a sign looked for, a check, a remedy begun or ended, closed or opened again.

    ``key`` names the sign, check or cause; ``value`` how it came out.
    """

    __tablename__ = "case_event"

    id: Mapped[int] = mapped_column(primary_key=True)
    trouble_id: Mapped[int] = mapped_column(ForeignKey("trouble.id"))
    at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(12))
    key: Mapped[str] = mapped_column(String(40))
    value: Mapped[str] = mapped_column(String(20))
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500))

    trouble: Mapped[Trouble] = relationship(back_populates="events")
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "trouble_id"))


class BeliefImport(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """Counts of another workshop's closed cases."""

    __tablename__ = "belief_import"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    counts: Mapped[dict[str, Any]] = mapped_column(JSON)
    __table_args__ = (UniqueConstraint("client_key"),)


class OwnPair(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """A workshop's own entry: a material on a kind of surface, with the bed temperatures that hold, °C."""

    __tablename__ = "own_pair"

    id: Mapped[int] = mapped_column(primary_key=True)
    surface_kind: Mapped[str] = mapped_column(String(40))
    material: Mapped[str] = mapped_column(String(80))
    bed_low: Mapped[float]
    bed_high: Mapped[float]
    note: Mapped[str] = mapped_column(String(200))
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "surface_kind", "material"))
