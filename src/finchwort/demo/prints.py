"""Prints of the demo workshop: half a year of them, one that runs, one that failed yesterday.

How they go is invented: some parts let go more easily than others, a coat wears out, a cold bed lets go, and people look
when they remember to.
"""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np
from sqlalchemy.orm import Session

from finchwort.core.prints import LettingGo, PrintOutcome, Seen
from finchwort.services.prints.begin import begin_print
from finchwort.services.prints.ending import Told, end_print
from finchwort.services.prints.watch import look_at_print
from finchwort.store.diagnosis.cases import list_cases
from finchwort.store.files.files import list_files
from finchwort.store.models import Printer
from finchwort.store.printers.printers import list_printers
from finchwort.store.prints.models import PrintRun

SEED = 20_261
MONTHS = 5
LAST = 2.2
"""The newest print of the history began so many days ago."""


@dataclass(frozen=True)
class Made:
    """What is printed again and again.

    ``minutes`` and ``grams`` are about what it takes, ``risk`` how often an hour of it lets go on a clean warm bed.
    """

    printer: str
    name: str
    material: str
    surface: str
    bed: tuple[float, ...]
    minutes: float
    grams: float
    risk: float
    coated: bool = False


MADE = (
    Made("Bittern", "Plant labels, a dozen", "PLA", "Textured sheet", (55, 60, 60), 95, 31, 0.03),
    Made("Bittern", "Nest-box roof", "PLA", "Old glass", (60, 65), 260, 118, 0.004, True),
    Made("Avocet", "Sieve frame, 300 mm", "ASA", "Smooth sheet", (95, 100, 105), 410, 206, 0.03),
    Made("Avocet", "Feeder lid", "ASA", "Smooth sheet", (100,), 150, 64, 0.012),
    Made("Water Rail", "Nest-box hooks", "PLA", "Coated glass", (55, 60, 65), 70, 18, 0.06),
    Made("Water Rail", "Bird-ring tray", "PLA", "Coated glass", (60,), 185, 52, 0.015),
)


class History:
    """Writes prints as people would have."""

    def __init__(self, session: Session, now: datetime) -> None:
        self.session, self.now = session, now
        self.rng = np.random.default_rng(SEED)
        self.printers: dict[str, Printer] = {one.name: one for one in list_printers(session)}
        self.number = 0

    def key(self) -> str:
        """Return a key, the same every time."""
        self.number += 1
        return str(uuid.uuid5(uuid.NAMESPACE_OID, f"print {self.number}"))

    def begin(self, made: Made, at: datetime, bed: float) -> PrintRun:
        """Begin a print."""
        return begin_print(
            self.session,
            self.printers[made.printer].id,
            client_key=self.key(),
            at=at,
            name=made.name,
            material=made.material,
            surface=made.surface,
            bed_temperature=bed,
            minutes=made.minutes,
            grams=made.grams,
            price=22.0,
        )

    def look(self, print_: PrintRun, minutes: float, seen: Seen = Seen.GOOD, note: str = "") -> None:
        """Look at a print so many minutes after its start."""
        at = print_.started_at + timedelta(minutes=minutes)
        look_at_print(self.session, print_.id, seen, note, client_key=self.key(), at=at)

    def end(self, print_: PrintRun, told: Told) -> None:
        """Tell what came of a print."""
        at = print_.started_at + timedelta(minutes=(told.minutes or 0) + 4)
        end_print(self.session, print_.id, print_.version, told, client_key=self.key(), at=at)

    def one(self, made: Made, at: datetime) -> None:
        """Let a print run as it may."""
        surface = next(s for s in self.printers[made.printer].surfaces if s.name == made.surface)
        surface.prints_since_wash = int(self.rng.integers(0, 10))
        surface.coats = int(made.coated)
        bed = float(self.rng.choice(made.bed))
        worn = 1 + max(surface.prints_since_wash - 5, 0) * (1.5 if made.coated else 0.4)
        cold = 2.0 if bed == min(made.bed) and len(made.bed) > 1 else 1.0
        print_ = self.begin(made, at, bed)
        first = float(self.rng.uniform(3, 7))
        hours = float(self.rng.exponential(1 / (made.risk * worn * cold)))
        if self.rng.random() < 0.03 * worn:
            hours = float(self.rng.uniform(0.02, 0.2))
        lets_go = first + 60 * hours
        ends = first + made.minutes * float(self.rng.uniform(0.95, 1.05))
        for after in (0, 4, 11, 80, 190):
            if self.rng.random() < 0.75 and first + after < min(lets_go, ends):
                self.look(print_, first + after)
        if lets_go < ends:
            self._let_go(print_, lets_go, hours)
        elif made.coated and not surface.prints_since_wash and self.rng.random() < 0.1:
            self.end(print_, Told(PrintOutcome.TOO_WELL, ends, note="Came off with the sheet bent hard."))
        elif self.rng.random() < 0.03:
            self.end(print_, Told(PrintOutcome.OTHER, ends / 2, note="The spool ran out."))
        else:
            self.end(print_, Told(PrintOutcome.HELD, ends))

    def _let_go(self, print_: PrintRun, minutes: float, hours: float) -> None:
        printer = print_.printer
        low = 0.0 if printer.origin == "front_left" else -printer.width / 2
        # a lifted corner sits at the left more often than not
        u, v = self.rng.beta(1.3, 2.6), self.rng.uniform(0.12, 0.9)
        y_low = 0.0 if printer.origin == "front_left" else -printer.depth / 2
        place = (round(low + 10 + u * (printer.width - 20), 1), round(y_low + v * printer.depth, 1))
        how = LettingGo.NOTHING if hours < 0.1 else LettingGo.LOOSE if hours > 1 else LettingGo.CORNERS
        self.end(print_, Told(PrintOutcome.LET_GO, minutes, how, place))


def load_prints(session: Session, now: datetime) -> None:
    """Write the prints of the demo; the same every time."""
    history = History(session, now)
    counts = {
        surface: (surface.prints_since_wash, surface.coats)
        for printer in history.printers.values()
        for surface in printer.surfaces
    }
    days = 30.4 * MONTHS
    while days > LAST:
        made = MADE[int(history.rng.integers(0, len(MADE)))]
        history.one(made, now - timedelta(days=days, hours=float(history.rng.uniform(0, 3))))
        days -= float(history.rng.exponential(1.6)) + 0.35
    for surface, (prints, coats) in counts.items():
        surface.prints_since_wash, surface.coats = prints, coats
    _yesterday(history)
    _running(history)


def _yesterday(history: History) -> None:
    """The labels of which the open case tells."""
    at = history.now - timedelta(days=1, minutes=50)
    print_ = history.begin(MADE[0], at, 60.0)
    history.look(print_, 4.0)
    history.look(print_, 9.5, Seen.UNSURE, "Two labels look thin at the left.")
    history.look(print_, 31.0, Seen.STOPPED)
    told = Told(PrintOutcome.LET_GO, 31.0, LettingGo.SOME, (40.0, 120.0), "Labels let go at the left")
    history.end(print_, told)
    case = next(iter(list_cases(history.session, printer_id=print_.printer_id)), None)
    if case is not None:
        print_.case_id = case.id


def _running(history: History) -> None:
    """The file that waits is on the printer now; two looks were made."""
    file = next(iter(list_files(history.session)), None)
    if file is None or file.printer_id is None:
        return
    at = history.now - timedelta(minutes=16)
    print_ = begin_print(history.session, file.printer_id, client_key=history.key(), file_id=file.id, at=at)
    history.look(print_, 4.0)
    history.look(print_, 9.0)
