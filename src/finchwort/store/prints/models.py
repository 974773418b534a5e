"""Tables of prints and of the looks at them.  Lengths are millimetres, temperatures °C, times are UTC."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from finchwort.store.models import Printer
from finchwort.store.records import Base, FromDevice, Idempotent, Logged, Recorded, SoftDeleted, Subject


class PrintRun(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """A print: with what it was begun, how often it is looked at, and what came of it.

    ``settings`` are those of its file by the names that a case gives them.  ``surface_prints`` and ``surface_coats`` are
    what the surface had before it, where its printer has that surface.  ``look_every`` (minutes) was worked out when it
    began, from ``failures`` in ``failure_hours`` and whether its part is ``slender``.  ``ran`` is how long it ran after its
    first line, minutes, until it let go or ended otherwise.
    """

    __tablename__ = "print_run"
    subject = Subject.PRINT

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column()
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    file_id: Mapped[int | None] = mapped_column(ForeignKey("print_file.id"))
    case_id: Mapped[int | None] = mapped_column(ForeignKey("trouble.id"))
    origin: Mapped[str] = mapped_column(String(10))
    name: Mapped[str] = mapped_column(String(120))
    surface: Mapped[str] = mapped_column(String(80))
    surface_kind: Mapped[str] = mapped_column(String(40))
    material: Mapped[str] = mapped_column(String(80))
    bed_temperature: Mapped[float | None]
    nozzle_temperature: Mapped[float | None]
    first_layer: Mapped[float]
    settings: Mapped[dict[str, Any]] = mapped_column(JSON)
    grams: Mapped[float | None]
    price: Mapped[float | None]
    minutes: Mapped[float | None]
    layer_minutes: Mapped[float | None]
    slender: Mapped[bool]
    failures: Mapped[int]
    failure_hours: Mapped[float]
    look_every: Mapped[float]
    surface_prints: Mapped[int | None]
    surface_coats: Mapped[int | None]
    started_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    outcome: Mapped[str | None] = mapped_column(String(10))
    ran: Mapped[float | None]
    how: Mapped[str] = mapped_column(String(10), default="")
    x: Mapped[float | None]
    y: Mapped[float | None]
    note: Mapped[str] = mapped_column(String(500), default="")

    printer: Mapped[Printer] = relationship()
    looks: Mapped[list[PrintLook]] = relationship(
        order_by="PrintLook.at, PrintLook.id", lazy="selectin", back_populates="print"
    )
    __table_args__ = (
        UniqueConstraint("client_key"),
        Index(None, "printer_id", "started_at"),
        Index(None, "outcome", "started_at"),
        Index(None, "started_at", "id"),
    )
    __mapper_args__ = {"version_id_col": version}


class PrintLook(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """A look at a print and what was seen."""

    __tablename__ = "print_look"

    id: Mapped[int] = mapped_column(primary_key=True)
    print_id: Mapped[int] = mapped_column(ForeignKey("print_run.id"))
    at: Mapped[datetime]
    seen: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(500))

    print: Mapped[PrintRun] = relationship(back_populates="looks")
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "print_id", "at"))
