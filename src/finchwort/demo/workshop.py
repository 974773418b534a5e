"""The demo workshop: three invented printers with different troubles and some months of visits.

Everything is written through the same services as a person's clicks.  The
beds behind it are simulated here, with a fixed seed: a rigid plate on springs
that lose tension, a shape of its own, and noise.
"""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import datetime, timedelta
from typing import Any

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.geometry import Array
from finchwort.core.base.kinds import KnobView
from finchwort.core.first_layer import ZeroKeeper
from finchwort.core.levelling import Foil
from finchwort.core.printers import (
    Bed,
    Compensation,
    OffsetPlace,
    Origin,
    ProbeKind,
    Screw,
    SurfaceCondition,
    suggest_points,
    suggest_screws,
)
from finchwort.core.surveys import Survey
from finchwort.demo.complaints import load_complaints
from finchwort.demo.prints import load_prints
from finchwort.demo.waiting_print import PRINT, demo_print
from finchwort.formats.print_file import PrintReader
from finchwort.knowledge import materials
from finchwort.services.files.files import Wanted, digest_of, keep_file
from finchwort.services.first_layer import offsets
from finchwort.services.printers import printers
from finchwort.services.probing import probe_tests
from finchwort.services.surveys import surveys
from finchwort.services.tramming import adjustments, planning, turnings
from finchwort.services.visits import visits
from finchwort.store.models import Printer, SurveyRecord, Visit
from finchwort.store.printers import printers as stored_printers
from finchwort.store.printers.setups import KeepOffSetup, PadSetup, PrinterSetup, ScrewSetup, SurfaceSetup
from finchwort.store.records import utcnow
from finchwort.store.visits import logbook
from finchwort.store.visits import visits as stored_visits

NAME = "Sedge Hide workshop"
SEED = 20_26


@dataclass
class Plate:
    """A simulated plate; slopes in mm per mm, noise in mm, turns lost when a knob changes its direction."""

    bed: Bed
    shape: Callable[[Array, Array], Array]
    noise: float
    rng: np.random.Generator
    slopes: Array = field(default_factory=lambda: np.zeros(2))
    stiffness: tuple[float, ...] = ()
    lost: float = 0.0
    last: dict[str, float] = field(default_factory=dict)

    def tip(self, across_x: float, across_y: float) -> None:
        """Let the springs give way: the plate rises by so much (mm) left to right and front to back."""
        self.slopes = self.slopes + np.array([across_x / self.bed.width, across_y / self.bed.depth])

    def loosen(self, amount: float) -> None:
        """Let the springs settle: the plate tilts by about ``amount`` mm across."""
        across = self.rng.normal(0, amount, 2)
        self.slopes = self.slopes + across / (self.bed.width, self.bed.depth)

    def turn(self, screws: list[Screw], turns: list[float]) -> None:
        """Turn the screws (positive tightens), each a little off as hands are."""
        made = []
        for screw, t in zip(screws, turns, strict=True):
            real = t + (self.rng.normal(0, 0.008) if t else 0)
            if t and self.last.get(screw.name, 0.0) * t < 0:
                real -= float(np.sign(t)) * min(self.lost, abs(t))
            if t:
                self.last[screw.name] = float(np.sign(t))
            made.append(real * screw.travel)
        # the plate settles on the plane fitted to the screw ends, stiffer springs counting more
        weight = np.sqrt(self.stiffness or (1.0,) * len(screws))
        ends = np.array([[s.x, s.y, 1.0] for s in screws])
        plane = np.linalg.lstsq(ends * weight[:, None], np.array(made) * weight, rcond=None)[0]
        self.slopes = self.slopes + plane[:2]

    def measure(self, points: list[tuple[float, float]]) -> Survey:
        """Read the plate at some places."""
        x, y = np.array(points).T
        cx, cy = self.bed.centre
        u, v = (x - cx) * 2 / self.bed.width, (y - cy) * 2 / self.bed.depth
        height = self.shape(u, v) + self.slopes[0] * (x - cx) + self.slopes[1] * (y - cy)
        height = height + self.rng.normal(0, self.noise, x.size)
        return Survey(x, y, np.round(height, 3))


class Builder:
    """Walks through the months, visit by visit."""

    def __init__(self, session: Session, now: datetime) -> None:
        self.session = session
        self.now = now
        self.rng = np.random.default_rng(SEED)

    def moment(self, days_ago: float, minutes: float = 0) -> datetime:
        """Return a time in the past, by day when it is more than a day ago."""
        then = self.now - timedelta(days=days_ago)
        if days_ago > 1:
            then = then.replace(hour=8 + int(days_ago * 7) % 9, minute=int(days_ago * 13) % 60)
        return then + timedelta(minutes=minutes)

    def key(self) -> str:
        """Return a key as a browser would make it, from the seed."""
        return str(uuid.UUID(bytes=self.rng.bytes(16), version=4))

    def survey(self, visit_id: int, readings: Survey, at: datetime, source: str) -> SurveyRecord:
        """Store readings."""
        return surveys.store_survey(
            self.session, visit_id, readings, client_key=self.key(), source=source, at=at
        )

    def visit(
        self,
        printer: Printer,
        plate: Plate,
        points: list[tuple[float, float]],
        days_ago: float,
        *,
        rounds: int = 2,
        note: str = "",
        source: str = "typed",
        slipping: str | None = None,
        close: bool = True,
        **strip: Any,
    ) -> Visit:
        """Make one visit: measure, turn by the plan, measure again."""
        visit = visits.start_visit(self.session, printer, at=self.moment(days_ago), **strip)
        minutes = 12.0
        record = self.survey(visit.id, plate.measure(points), self.moment(days_ago, minutes), source)
        for _ in range(rounds):
            if record.verdict != "turn" or not printer.screws:
                break
            plan = planning.plan_for(self.session, record)
            if plan.done:
                break
            done = {turn.screw.name: turn.rounded for turn in plan.turns}
            minutes += 4
            turnings.record_turning(
                self.session,
                record.id,
                "centre",
                done,
                client_key=self.key(),
                at=self.moment(days_ago, minutes),
            )
            real = [0.1 * t if name == slipping else t for name, t in done.items()]
            plate.turn([turn.screw for turn in plan.turns], real)
            slipping = None
            minutes += 7
            record = self.survey(visit.id, plate.measure(points), self.moment(days_ago, minutes), source)
        if close:
            visits.finish_visit(self.session, visit.id, note, at=self.moment(days_ago, minutes + 3))
        return visit

    def offset(
        self, printer: Printer, days_ago: float, parts: dict[str, float], reason: str, note: str = ""
    ) -> None:
        """Write down an offset."""
        offsets.record_offset(
            self.session,
            printer.id,
            parts,
            reason,
            client_key=self.key(),
            note=note,
            at=self.moment(days_ago, 45),
        )

    def test(self, visit: Visit, kind: str, data: dict[str, Any], days_ago: float, minutes: float) -> None:
        """Store a test of a visit."""
        probe_tests.store_test(
            self.session, visit.id, kind, data, client_key=self.key(), at=self.moment(days_ago, minutes)
        )


def load_demo(
    session: Session, now: datetime | None = None, *, line: str = "socket://127.0.0.1:8422", page: str = ""
) -> bool:
    """Write the demo workshop unless printers are there already.

    Parameters
    ----------
    session : Session
    now : datetime, optional
    line, page : str
        Where the simulated printer listens and shows its knobs.

    Returns
    -------
    bool
        Whether it was written.
    """
    if session.scalars(select(Printer).limit(1)).first() is not None:
        return False
    build = Builder(session, now or utcnow())
    printers.rename_workshop(session, NAME)
    printers.set_foils(
        session, [Foil(0.05, 8), Foil(0.1, 6), Foil(0.2, 4), Foil(0.25, 2), Foil(0.016, 0, roll=True)]
    )
    _bittern(build)
    _avocet(build)
    _water_rail(build)
    _snipe(build, line, page)
    _print(build, "Avocet")
    session.flush()
    load_complaints(session, build.now)
    load_prints(session, build.now)
    return True


def _print(build: Builder, name: str) -> None:
    """Keep that print as if somebody had dropped it."""
    text = demo_print()
    reader = PrintReader(material_names=materials())
    reader.feed(text)
    printer = next(one for one in stored_printers.list_printers(build.session) if one.name == name)
    wanted = Wanted(printer.id, price=34.0)
    digest = digest_of()
    digest.update(text)
    record = keep_file(build.session, reader.finish(), PRINT, digest.hexdigest(), wanted, build.key())
    record.created_at = build.moment(6)


def repoint(session: Session, old: tuple[str, str], new: tuple[str, str]) -> None:
    """Let the printers on the old simulated line, and their notes, name the new one (line, page)."""
    for printer in stored_printers.list_printers(session):
        if printer.port == old[0]:
            printer.port = new[0]
            printer.note = printer.note.replace(old[1], new[1]) if old[1] else printer.note


def _screws(
    bed: Bed, count: int, thread: str, pitch: float, left: tuple[float | None, float | None] = (None, None)
) -> tuple[ScrewSetup, ...]:
    return tuple(ScrewSetup(n, x, y, thread, pitch, *left) for n, x, y in suggest_screws(bed, count))


def _bittern(build: Builder) -> None:
    """Four knobs and tired springs; a shallow bowl."""
    bed = Bed(240, 200, "front_left", 255, 215)
    setup = PrinterSetup(
        name="Bittern",
        zero_kept=ZeroKeeper.SWITCH,
        width=240,
        depth=200,
        plate_width=255,
        plate_depth=215,
        note="Prints nest-box fittings. Springs from the first year; they lose their tension.",
        screws=_screws(bed, 4, "M4", 0.7, (4.0, 3.0)),
        beam_screws=1,
        surfaces=(
            SurfaceSetup("Textured sheet", "textured_pei", 0.5, SurfaceCondition.GOOD, 6, 0),
            SurfaceSetup("Old glass", "glass", 4.0, SurfaceCondition.WORN, 2, 1),
        ),
        materials=("PETG", "PLA"),
        offset_kept=(OffsetPlace.PRINTER, OffsetPlace.SLICER),
    )
    printer = printers.create_printer(build.session, setup, at=build.moment(151))
    plate = Plate(
        bed,
        lambda u, v: 0.03 * (u**2 + v**2) - 0.02,
        0.012,
        build.rng,
        stiffness=(1.0, 1.25, 0.7, 1.1),
        lost=0.04,
    )
    strip: dict[str, Any] = {
        "surface": "Textured sheet",
        "surface_kind": "textured_pei",
        "material": "PETG",
        "bed_temperature": 75.0,
        "nozzle_temperature": 235.0,
    }
    points = suggest_points(bed, 3, 3)
    plate.slopes = np.array([0.42 / 240, -0.31 / 200])
    build.visit(printer, plate, points, 150, note="First time with the plan instead of by feel.", **strip)
    plate.tip(0.13, -0.09)
    build.visit(printer, plate, points, 128)
    plate.tip(-0.11, 0.13)
    build.visit(printer, plate, points, 101, note="A print was prised off with a scraper the day before.")
    plate.slopes = np.array([0.52 / 240, -0.44 / 200])
    build.visit(
        printer,
        plate,
        points,
        77,
        rounds=3,
        slipping="back left",
        note="The back left screw turned with its knob. Held it with a key; a lock nut is on order.",
    )
    logbook.add_note(
        build.session,
        "Lock nut fitted on the back left screw.\nThe knob turns stiffly now and the screw stays put.",
        printer=printer,
        at=build.moment(70),
    )
    printer.learned_since = build.moment(70)
    plate.tip(0.14, 0.1)
    build.visit(printer, plate, points, 46)
    plate.tip(-0.16, 0.12)
    build.visit(printer, plate, points, 21)
    build.offset(printer, 150, {"printer": -1.18, "slicer": -0.02}, "typed", "As found in the menu.")
    build.offset(printer, 101, {"printer": -1.24, "slicer": -0.02}, "paper")
    build.offset(printer, 46, {"printer": -1.22, "slicer": -0.02}, "trim", "PETG stuck too well.")
    plate.tip(0.12, -0.13)
    build.visit(printer, plate, points, 6)
    plate.slopes = np.array([-0.43 / 240, 0.37 / 200])
    visit = build.visit(printer, plate, suggest_points(bed, 5, 5), 0.03, rounds=0, close=False)
    for item in ("carriage", "belts", "tip", "plate_clean"):
        probe_tests.record_finding(build.session, visit.id, item, "good")
    probe_tests.record_finding(
        build.session,
        visit.id,
        "springs",
        "bad",
        "Back right gives under a finger. New springs are on order.",
    )


def _avocet(build: Builder) -> None:
    """Three screws and a probe; a dome that no screw takes out."""
    bed = Bed(330, 310, "front_left", 340, 325)
    setup = PrinterSetup(
        name="Avocet",
        zero_kept=ZeroKeeper.PROBE,
        width=330,
        depth=310,
        plate_width=340,
        plate_depth=325,
        knob_view=KnobView.FACE,
        repeatability=0.006,
        note="Prints sieve frames. Screws are turned from above with a key.",
        screws=_screws(bed, 3, "M3", 0.5),
        beam_screws=2,
        beam_left=-20.0,
        beam_right=350.0,
        beam_steps=3200,
        probe_kind=ProbeKind.RETRACTING,
        probe_dx=-38.0,
        probe_dy=-9.0,
        compensation=Compensation.MESH,
        surfaces=(SurfaceSetup("Smooth sheet", "smooth_pei", 0.8, SurfaceCondition.GOOD, 3, 0),),
        materials=("ASA", "ABS"),
        most_nozzle=280.0,
    )
    printer = printers.create_printer(build.session, setup, at=build.moment(140))
    plate = Plate(bed, lambda u, v: 0.1 - 0.09 * u**2 - 0.12 * v**2 + 0.015 * u * v, 0.006, build.rng)
    strip: dict[str, Any] = {
        "surface": "Smooth sheet",
        "surface_kind": "smooth_pei",
        "material": "ASA",
        "bed_temperature": 100.0,
        "nozzle_temperature": 250.0,
    }
    points = suggest_points(bed, 7, 7)
    plate.slopes = np.array([0.5 / 330, 0.62 / 310])
    build.visit(printer, plate, points, 139, source="file", **strip)
    for days in (95, 52):
        plate.loosen(0.07)
        build.visit(printer, plate, points, days, source="file")
    plate.loosen(0.07)
    visit = build.visit(printer, plate, points, 9, source="file", close=False)
    build.offset(printer, 139, {"printer": -2.31}, "typed")
    build.offset(printer, 52, {"printer": -2.36}, "patches", "Five squares, 0.25 mm thick on average.")
    heights = np.round(0.084 + build.rng.normal(0, 0.005, 12), 3).tolist()
    build.test(visit, "repeatability", {"heights": heights, "x": 165.0, "y": 155.0}, 9, 9)
    build.test(visit, "beam", {"left": 82.1, "right": 82.1, "span": 370.0, "screws": 2, "lead": 8.0}, 9, 3)
    last = stored_visits.list_rounds(build.session, visit)[-1].survey
    mesh = {"columns": 7, "rows": 7, "method": "bilinear", "fade": 10.0, "deviation": 0.16}
    adjustments.record_adjustment(
        build.session, last.id, "mesh", mesh, client_key=build.key(), at=build.moment(9, 38)
    )
    visits.finish_visit(build.session, visit.id, at=build.moment(9, 40))
    logbook.add_note(
        build.session,
        "The dome is the same hot and after a day's rest. It is the plate, not the screws.",
        printer=printer,
        at=build.moment(8.9),
    )


def _water_rail(build: Builder) -> None:
    """No screws: shim pads, and the tilt they took out."""
    bed = Bed(165, 165, "centre", 175, 175)
    setup = PrinterSetup(
        name="Water Rail",
        width=165,
        depth=165,
        origin=Origin.CENTRE,
        plate_width=175,
        plate_depth=175,
        note="Prints plant labels. No screws; the plate rests on pads.",
        pads=tuple(
            PadSetup(name, x, y)
            for name, x, y in (
                ("front left", -75.0, -75.0),
                ("front right", 75.0, -75.0),
                ("back right", 75.0, 75.0),
                ("back left", -75.0, 75.0),
            )
        ),
        # the glass is held by two clips
        keep_off=(
            KeepOffSetup("front clip", -11.0, -87.5, 11.0, -76.0, 6.0),
            KeepOffSetup("back clip", -11.0, 76.0, 11.0, 87.5, 6.0),
        ),
        surfaces=(SurfaceSetup("Coated glass", "coated_glass", 4.0, SurfaceCondition.GOOD, 11, 0),),
        materials=("PLA",),
    )
    printer = printers.create_printer(build.session, setup, at=build.moment(120))
    plate = Plate(bed, lambda u, v: 0.025 * u * v + 0.01 * u**2, 0.008, build.rng)
    strip: dict[str, Any] = {
        "surface": "Coated glass",
        "surface_kind": "coated_glass",
        "material": "PLA",
        "bed_temperature": 60.0,
        "nozzle_temperature": 205.0,
    }
    points = suggest_points(bed, 4, 4)
    plate.slopes = np.array([-0.22 / 165, 0.12 / 165])
    visit = build.visit(printer, plate, points, 118, rounds=0, close=False, **strip)
    first = stored_visits.list_rounds(build.session, visit)[-1].survey
    stacks = {"front left": [], "front right": [0.2], "back right": [0.1], "back left": []}
    adjustments.record_adjustment(
        build.session,
        first.id,
        "shims",
        {"stacks": stacks},
        client_key=build.key(),
        at=build.moment(118, 30),
    )
    visits.finish_visit(build.session, visit.id, at=build.moment(118, 40))
    plate.slopes = np.array([-0.02 / 165, 0.03 / 165])
    build.visit(printer, plate, points, 117, rounds=0, note="Level with foil under the pads.")
    build.visit(printer, plate, points, 33, rounds=0)
    plate.slopes = np.array([0.12 / 165, -0.26 / 165])
    build.visit(
        printer,
        plate,
        suggest_points(bed, 5, 5),
        0.06,
        rounds=0,
        close=False,
        note="",
    )


def _snipe(build: Builder, line: str, page: str) -> None:
    """The simulated printer: four knobs under a stiff plate, a probe, and a line to talk over."""
    bed = Bed(220, 220)
    where = f" Turn its knobs at {page}" if page else ""
    setup = PrinterSetup(
        name="Snipe",
        zero_kept=ZeroKeeper.PROBE,
        width=220,
        depth=220,
        note=f"A simulated printer: nothing here is real but the arithmetic.{where}",
        screws=_screws(bed, 4, "M4", 0.7),
        probe_kind=ProbeKind.INDUCTIVE,
        probe_dx=28.0,
        probe_dy=-12.0,
        compensation=Compensation.MESH,
        surfaces=(SurfaceSetup("Smooth sheet", "smooth_pei", 0.8, SurfaceCondition.NEW, 0, 0),),
        materials=("PLA", "PETG"),
        port=line,
    )
    printer = printers.create_printer(build.session, setup, at=build.moment(4))
    build.offset(printer, 3.8, {"printer": -1.75}, "typed")
    logbook.add_note(
        build.session,
        "Snipe stands in for a printer while the others are in use: connect, heat, watch it soak, probe, turn.",
        printer=printer,
        at=build.moment(3.9),
    )
