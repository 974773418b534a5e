"""Table of files of prints.  Lengths are millimetres, times are UTC."""

from __future__ import annotations

from sqlalchemy import ForeignKey, Index, LargeBinary, String, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMBLOB
from sqlalchemy.orm import Mapped, mapped_column, relationship

from finchwort.store.models import Printer
from finchwort.store.records import Base, FromDevice, Idempotent, Recorded, SoftDeleted


class PrintFileRecord(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """What was kept of a file of a print; the file itself stays with the person.

    ``printer_id``, ``surface_kind``, ``material``, ``nozzle`` and ``price`` say where it is to be printed, and may change.
    """

    __tablename__ = "print_file"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column()
    printer_id: Mapped[int | None] = mapped_column(ForeignKey("printer.id"))
    name: Mapped[str] = mapped_column(String(120))
    digest: Mapped[str] = mapped_column(String(64))
    surface_kind: Mapped[str] = mapped_column(String(40))
    material: Mapped[str] = mapped_column(String(80))
    nozzle: Mapped[float | None]
    price: Mapped[float | None]
    minutes: Mapped[float]
    volume: Mapped[float]
    parts: Mapped[int]
    packed: Mapped[bytes] = mapped_column(
        LargeBinary().with_variant(MEDIUMBLOB(), "mysql", "mariadb"), deferred=True
    )

    printer: Mapped[Printer | None] = relationship()
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "printer_id", "created_at"))
    __mapper_args__ = {"version_id_col": version}
