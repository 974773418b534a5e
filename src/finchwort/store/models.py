"""Tables.  Lengths are millimetres, times are UTC."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, Index, String, Text, UniqueConstraint
from sqlalchemy.dialects.mysql import MEDIUMTEXT
from sqlalchemy.orm import Mapped, mapped_column, relationship

from finchwort.store.access.models import Device
from finchwort.store.records import (
    Base,
    FromDevice,
    Idempotent,
    Logged,
    Recorded,
    SoftDeleted,
    Subject,
    utcnow,
)


class Workshop(Recorded, Base):
    """All printers of one place."""

    __tablename__ = "workshop"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column()
    name: Mapped[str] = mapped_column(String(80))
    foils: Mapped[list[Any]] = mapped_column(JSON, default=list[Any])

    __mapper_args__ = {"version_id_col": version}


class Printer(Recorded, SoftDeleted, Base):
    """A printer and how its bed is carried."""

    __tablename__ = "printer"

    id: Mapped[int] = mapped_column(primary_key=True)
    changed_at: Mapped[datetime] = mapped_column(default=utcnow)
    version: Mapped[int] = mapped_column()
    name: Mapped[str] = mapped_column(String(80))
    width: Mapped[float]
    depth: Mapped[float]
    origin: Mapped[str] = mapped_column(String(20))
    plate_width: Mapped[float]
    plate_depth: Mapped[float]
    first_layer: Mapped[float]
    thread_hand: Mapped[str] = mapped_column(String(10))
    knob_view: Mapped[str] = mapped_column(String(10))
    tightening_lowers: Mapped[bool]
    divisions: Mapped[int]
    repeatability: Mapped[float | None]
    note: Mapped[str] = mapped_column(String(500))
    pads: Mapped[list[Any]] = mapped_column(JSON)
    beam_screws: Mapped[int]
    beam_lead: Mapped[float]
    beam_left: Mapped[float | None]
    beam_right: Mapped[float | None]
    beam_carries: Mapped[str] = mapped_column(String(10))
    beam_steps: Mapped[int | None]
    beam_raises: Mapped[str] = mapped_column(String(20), default="")
    plate_bends: Mapped[bool]
    learned_since: Mapped[datetime | None]
    probe_kind: Mapped[str] = mapped_column(String(20))
    probe_dx: Mapped[float]
    probe_dy: Mapped[float]
    closer_is: Mapped[str] = mapped_column(String(10))
    compensation: Mapped[str] = mapped_column(String(10))
    offset_kept: Mapped[list[Any]] = mapped_column(JSON)
    materials: Mapped[list[Any]] = mapped_column(JSON)
    port: Mapped[str] = mapped_column(String(200))
    baud: Mapped[int]
    dialect: Mapped[str] = mapped_column(String(40))
    link_name: Mapped[str] = mapped_column(String(40))
    most_bed: Mapped[float]
    most_nozzle: Mapped[float]
    lift: Mapped[float]
    longest_heat: Mapped[float]
    zero_kept: Mapped[str] = mapped_column(String(10), default="")
    switch_pitch: Mapped[float | None]
    keep_off: Mapped[list[Any]] = mapped_column(JSON, default=list[Any])

    surfaces: Mapped[list[PrinterSurface]] = relationship(
        order_by="PrinterSurface.place", cascade="all, delete-orphan", lazy="selectin"
    )
    screws: Mapped[list[PrinterScrew]] = relationship(
        order_by="PrinterScrew.place", cascade="all, delete-orphan", lazy="selectin"
    )
    __mapper_args__ = {"version_id_col": version}


class PrinterScrew(Recorded, Base):
    """A bed screw as it is set up now; plans keep their own copy.

    ``to_tight`` and ``to_loose`` are turns left in its spring at ``limits_at``; what was turned since is in the records.
    """

    __tablename__ = "printer_screw"

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id", ondelete="CASCADE"))
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(40))
    x: Mapped[float]
    y: Mapped[float]
    thread: Mapped[str] = mapped_column(String(20))
    pitch: Mapped[float]
    to_tight: Mapped[float | None]
    to_loose: Mapped[float | None]
    limits_at: Mapped[datetime | None]


class PrinterSurface(Recorded, Base):
    """A print surface that belongs to a printer; thickness in mm."""

    __tablename__ = "printer_surface"

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id", ondelete="CASCADE"))
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(80))
    kind: Mapped[str] = mapped_column(String(40))
    thickness: Mapped[float | None]
    condition: Mapped[str] = mapped_column(String(10))
    prints_since_wash: Mapped[int]
    coats: Mapped[int]


class Visit(Recorded, SoftDeleted, FromDevice, Base):
    """One time at one printer, from warming up to verdict."""

    __tablename__ = "visit"

    id: Mapped[int] = mapped_column(primary_key=True)
    version: Mapped[int] = mapped_column()
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    started_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    surface: Mapped[str] = mapped_column(String(80))
    surface_kind: Mapped[str] = mapped_column(String(40))
    material: Mapped[str] = mapped_column(String(80))
    bed_temperature: Mapped[float | None]
    nozzle_temperature: Mapped[float | None]
    first_layer: Mapped[float]
    note: Mapped[str] = mapped_column(String(2000))

    printer: Mapped[Printer] = relationship()
    __mapper_args__ = {"version_id_col": version}
    __table_args__ = (Index(None, "printer_id", "started_at"),)


class SurveyRecord(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """One set of readings, with the figures as they were judged when it was stored."""

    __tablename__ = "survey"
    subject = Subject.SURVEY

    id: Mapped[int] = mapped_column(primary_key=True)
    visit_id: Mapped[int] = mapped_column(ForeignKey("visit.id"))
    taken_at: Mapped[datetime]
    source: Mapped[str] = mapped_column(String(20))
    original: Mapped[str | None] = mapped_column(
        Text().with_variant(MEDIUMTEXT, "mysql", "mariadb"), deferred=True
    )
    assumptions: Mapped[list[Any]] = mapped_column(JSON)
    first_layer: Mapped[float]
    count: Mapped[int]
    spread: Mapped[float]
    peak_to_valley: Mapped[float]
    rms: Mapped[float]
    tilt_x: Mapped[float]
    tilt_y: Mapped[float]
    shape: Mapped[str] = mapped_column(String(20))
    verdict: Mapped[str] = mapped_column(String(20))
    noise: Mapped[float | None]
    bed_temperature: Mapped[float | None]
    surface: Mapped[str] = mapped_column(String(80), default="")
    drift: Mapped[float | None]
    drift_sd: Mapped[float | None]
    noise_x: Mapped[float | None]
    noise_y: Mapped[float | None]

    visit: Mapped[Visit] = relationship()
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "visit_id", "taken_at"))


class Reading(Recorded, Base):
    """One reading of a survey; by paper with the feel, the Z at which it was felt, and the bounds it gives, mm.

    ``aside`` is true when it counts for nothing, false when a person put it back, and nothing otherwise; ``second`` is
    when it was taken in the course of a walk.
    """

    __tablename__ = "reading"

    survey_id: Mapped[int] = mapped_column(ForeignKey("survey.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    x: Mapped[float]
    y: Mapped[float]
    height: Mapped[float]
    feel: Mapped[str | None] = mapped_column(String(10))
    at_z: Mapped[float | None]
    low: Mapped[float | None]
    high: Mapped[float | None]
    aside: Mapped[bool | None]
    second: Mapped[float | None]


class BenchStep(Recorded, SoftDeleted, Idempotent, FromDevice, Base):
    """One step of levelling by paper at the bench: a feel, a knob turned; never changed.

    ``survey_id`` is the newest survey of the visit at that time: the next one ends the session.
    """

    __tablename__ = "bench_step"

    id: Mapped[int] = mapped_column(primary_key=True)
    visit_id: Mapped[int] = mapped_column(ForeignKey("visit.id"))
    survey_id: Mapped[int | None] = mapped_column(ForeignKey("survey.id"))
    what: Mapped[str] = mapped_column(String(10))
    place: Mapped[int]
    name: Mapped[str] = mapped_column(String(40))
    feel: Mapped[str | None] = mapped_column(String(10))
    turns: Mapped[float | None]
    value: Mapped[float | None]

    __table_args__ = (UniqueConstraint("client_key"), Index(None, "visit_id", "id"))


class Turning(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """What was turned after a survey."""

    __tablename__ = "turning"
    subject = Subject.TURNING

    id: Mapped[int] = mapped_column(primary_key=True)
    survey_id: Mapped[int] = mapped_column(ForeignKey("survey.id"))
    turned_at: Mapped[datetime]
    hold: Mapped[str] = mapped_column(String(40))
    spread_expected: Mapped[float]
    note: Mapped[str] = mapped_column(String(500))

    survey: Mapped[SurveyRecord] = relationship()
    screws: Mapped[list[TurningScrew]] = relationship(
        order_by="TurningScrew.place", cascade="all, delete-orphan", lazy="selectin"
    )
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "survey_id"))


class TurningScrew(Recorded, Base):
    """One screw of a turning, as the screw was set up at that time; turns, positive tightens."""

    __tablename__ = "turning_screw"

    turning_id: Mapped[int] = mapped_column(ForeignKey("turning.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    name: Mapped[str] = mapped_column(String(40))
    x: Mapped[float]
    y: Mapped[float]
    pitch: Mapped[float]
    tightening_lowers: Mapped[bool]
    divisions: Mapped[int]
    planned: Mapped[float]
    done: Mapped[float]


class Adjustment(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """What was done to the bed besides turning its screws; never changed, ``data`` depends on the kind."""

    __tablename__ = "adjustment"
    subject = Subject.ADJUSTMENT

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    survey_id: Mapped[int] = mapped_column(ForeignKey("survey.id"))
    made_at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(20))
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
    note: Mapped[str] = mapped_column(String(500))

    survey: Mapped[SurveyRecord] = relationship()
    __table_args__ = (
        UniqueConstraint("client_key"),
        Index(None, "survey_id"),
        Index(None, "printer_id", "kind", "id"),
    )


class Entry(Recorded, SoftDeleted, FromDevice, Base):
    """A line in the logbook, written together with what it tells of."""

    __tablename__ = "entry"

    id: Mapped[int] = mapped_column(primary_key=True)
    at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(20))
    title: Mapped[str] = mapped_column(String(200))
    detail: Mapped[str] = mapped_column(String(2000))
    printer_id: Mapped[int | None] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    subject_kind: Mapped[str | None] = mapped_column(String(20))
    subject_id: Mapped[int | None]

    printer: Mapped[Printer | None] = relationship(lazy="joined")
    device: Mapped[Device | None] = relationship(lazy="joined", viewonly=True)
    __table_args__ = (
        Index(None, "at", "id"),
        Index(None, "printer_id", "at"),
        Index(None, "deleted_at", "id"),
        Index(None, "deleted_at", "at", "id"),
        Index(None, "subject_kind", "subject_id"),
        Index("ix_entry_words", "title", "detail", mysql_prefix="FULLTEXT", mariadb_prefix="FULLTEXT"),
    )


class Finding(Recorded, FromDevice, Base):
    """What the walk round a machine found at one item; the newest counts, none is ever changed."""

    __tablename__ = "finding"

    id: Mapped[int] = mapped_column(primary_key=True)
    visit_id: Mapped[int] = mapped_column(ForeignKey("visit.id"))
    item: Mapped[str] = mapped_column(String(40))
    state: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(String(500))

    __table_args__ = (Index(None, "visit_id", "id"),)


class ProbingTest(Recorded, SoftDeleted, Idempotent, FromDevice, Logged, Base):
    """A test made before measuring: touches at one place, a soak, switches, a beam, a straightedge."""

    __tablename__ = "probing_test"
    subject = Subject.TEST

    id: Mapped[int] = mapped_column(primary_key=True)
    visit_id: Mapped[int] = mapped_column(ForeignKey("visit.id"))
    taken_at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(20))
    source: Mapped[str] = mapped_column(String(20))
    data: Mapped[dict[str, Any]] = mapped_column(JSON)
    level: Mapped[str] = mapped_column(String(20))
    surface: Mapped[str] = mapped_column(String(80), default="")

    visit: Mapped[Visit] = relationship()
    __table_args__ = (UniqueConstraint("client_key"), Index(None, "visit_id", "taken_at"))


class MachineLine(Recorded, Base):
    """A line to a machine; whoever owns it has it until the lease runs out.

    ``hot_until`` is when heaters that were switched on over it go off again, those of ``hot_printer_id``.
    """

    __tablename__ = "machine_line"

    id: Mapped[int] = mapped_column(primary_key=True)
    link_name: Mapped[str] = mapped_column(String(40))
    port: Mapped[str] = mapped_column(String(200))
    owner: Mapped[str | None] = mapped_column(String(80))
    lease_until: Mapped[datetime | None]
    hot_until: Mapped[datetime | None]
    hot_printer_id: Mapped[int | None] = mapped_column(ForeignKey("printer.id"))

    __table_args__ = (UniqueConstraint("link_name", "port"),)


class Job(Recorded, Idempotent, FromDevice, Base):
    """Work with a machine, minutes long; done by a link process, watched by the web."""

    __tablename__ = "job"

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    visit_id: Mapped[int | None] = mapped_column(ForeignKey("visit.id"))
    line_id: Mapped[int] = mapped_column(ForeignKey("machine_line.id"))
    kind: Mapped[str] = mapped_column(String(20))
    params: Mapped[dict[str, Any]] = mapped_column(JSON)
    state: Mapped[str] = mapped_column(String(20))
    stop: Mapped[str | None] = mapped_column(String(10))
    message: Mapped[str] = mapped_column(String(500))
    live: Mapped[dict[str, Any]] = mapped_column(JSON)
    done: Mapped[int]
    total: Mapped[int]
    owner: Mapped[str | None] = mapped_column(String(80))
    lease_until: Mapped[datetime | None]
    started_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    resumes: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    survey_id: Mapped[int | None] = mapped_column(ForeignKey("survey.id"))
    test_id: Mapped[int | None] = mapped_column(ForeignKey("probing_test.id"))

    printer: Mapped[Printer] = relationship()
    __table_args__ = (
        UniqueConstraint("client_key"),
        Index(None, "state", "id"),
        Index(None, "printer_id", "id"),
    )


class MachineTold(Recorded, FromDevice, Base):
    """What a machine said of itself when it was connected, or what was pasted of it; never changed."""

    __tablename__ = "machine_told"

    id: Mapped[int] = mapped_column(primary_key=True)
    printer_id: Mapped[int] = mapped_column(ForeignKey("printer.id"))
    job_id: Mapped[int | None] = mapped_column(ForeignKey("job.id"))
    told: Mapped[dict[str, Any]] = mapped_column(JSON)

    __table_args__ = (Index(None, "printer_id", "id"),)


class JobReading(Recorded, Base):
    """One touch of a job, committed as it came; ``after`` is seconds since the job began."""

    __tablename__ = "job_reading"

    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"), primary_key=True)
    place: Mapped[int] = mapped_column(primary_key=True, autoincrement=False)
    after: Mapped[float]
    x: Mapped[float]
    y: Mapped[float]
    height: Mapped[float]


class JobLine(Recorded, Base):
    """A line of the raw conversation with a machine: ``>`` sent, ``<`` received, ``*`` a remark."""

    __tablename__ = "job_line"

    id: Mapped[int] = mapped_column(primary_key=True)
    job_id: Mapped[int] = mapped_column(ForeignKey("job.id", ondelete="CASCADE"))
    way: Mapped[str] = mapped_column(String(1))
    text: Mapped[str] = mapped_column(String(500))

    __table_args__ = (Index(None, "job_id", "id"),)
