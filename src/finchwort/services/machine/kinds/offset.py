"""Jobs at the Z offset in a machine: read it, set it, trim the tip while it prints."""

from __future__ import annotations

import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.core.base.wording import millimetres
from finchwort.core.first_layer import MIN_CHANGE, Ledger
from finchwort.core.machine import SAME_OFFSET
from finchwort.messages.first_layer import way_of
from finchwort.services.first_layer.offset_clues import PRESSED
from finchwort.services.first_layer.offsets import record_offset
from finchwort.services.machine.kinds.base import MOVES, Asked, JobType, Known, Stands, number
from finchwort.services.machine.port import Desk, LimitError, LineError, MachinePort
from finchwort.store.errors import ConflictError, ReadFirstError, TypeFirstError
from finchwort.store.first_layer.offsets import ledger_of, newest_offset
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import Printer, Visit

CLOSER = (
    "The tip will be closer to the plate in the next print: watch the first lines, and stop if it scrapes."
)
CLOSER_NOW = "The tip comes closer to the plate at once: watch the lines, and stop the print if it scrapes."
MAX_TRIM = 0.05
"""One step of trimming while it prints, mm (common practice: 0.01 to 0.05)."""
MAX_MOVE = 0.5
"""An offset is changed by no more than this at once over the line, mm (ours)."""


@dataclass(frozen=True)
class ReadOffset(JobType):
    """Ask what stands in the machine as its Z offset."""

    kind = JobKind.READ_OFFSET

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(cls(), f"Ask {printer.name} what stands in it as its Z offset. Nothing moves.")

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        value = machine.read_offset()
        desk.tell(offset=value, offset_told=value is not None)
        if value is None:
            return "This kind of printer does not tell its Z offset over the line. Read it on its screen."
        return f"The printer's Z offset is {millimetres(value, signed=True)}, as it says itself."


@dataclass(frozen=True)
class Trim(JobType):
    """Move the tip by one step while it prints.

    Attributes
    ----------
    closer : float
        mm
    """

    kind = JobKind.TRIM

    closer: float

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``value`` is how much closer, mm."""
        if wish.get("value") is None:
            raise ChoiceError("machine.far_tip_trimmed")
        closer = round(number(wish, "value"), 3)
        if not 0 < abs(closer) <= MAX_TRIM:
            raise OutOfRangeError("machine.trim_step_mm_most", max_trim=MAX_TRIM)
        if known.pressed and closer > 0:
            raise ConflictError(PRESSED)
        way = "closer to" if closer > 0 else "farther from"
        sentence = (
            f"Move the tip of {printer.name} {millimetres(abs(closer))} {way} the plate at once, while it prints. "
            "Nothing is stored: it is gone after a restart."
        )
        cautions = (MOVES, *((CLOSER_NOW,) if closer > 0 else ()))
        return Asked(cls(closer), sentence, cautions, moves=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        machine.trim(self.closer)
        way = "closer" if self.closer > 0 else "farther"
        return (
            f"Trimmed {millimetres(abs(self.closer))} {way}. It is gone after a restart unless you store it."
        )


@dataclass(frozen=True)
class SetOffset(JobType):
    """Set the Z offset in the machine, read it back, and write it down.

    Attributes
    ----------
    value, before : float
        What is to stand there, and what did when this was agreed to, mm, in the machine's own sign.
    reason : str
    margin : float or None
        How well it is known, mm.
    """

    kind = JobKind.OFFSET

    value: float
    before: float
    reason: str = "typed"
    margin: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``value`` (mm), ``reason``, ``margin``; ``before`` (mm) where the machine does not tell it."""
        if wish.get("value") is None:
            raise ChoiceError("machine.offset_set")
        value = round(number(wish, "value"), 2)
        before, whence = _before(printer, wish, known.stands)
        there = Ledger({"printer": before}, printer.closer_is)
        closer = Ledger({"printer": value}, printer.closer_is).closer_by(there)
        if known.pressed and closer > 0:
            raise ConflictError(PRESSED)
        written = known.stands.written
        other = written is not None and abs(written - before) > SAME_OFFSET
        differs = (
            f" {millimetres(written or 0.0, signed=True)} is written down, which is not what stands there."
            if other
            else ""
        )
        if abs(closer) > MAX_MOVE + 1e-9:
            raise OutOfRangeError(
                "machine.printer_would_move_tip",
                before=millimetres(before, signed=True),
                whence=whence,
                closer=millimetres(abs(closer)),
                differs=differs,
                max_move=MAX_MOVE,
            )
        way = way_of(closer) if abs(closer) >= MIN_CHANGE else "as it was"
        sentence = (
            f"Set the Z offset of {printer.name} to {millimetres(value, signed=True)} ({way}; before "
            f"{millimetres(before, signed=True)}, {whence}) and store it in its memory. Nothing moves."
        )
        cautions = (*((differs.strip(),) if differs else ()), *((CLOSER,) if closer > 0 else ()))
        return Asked(
            cls(value, before, str(wish.get("reason") or "typed"), wish.get("margin")), sentence, cautions
        )

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        before = machine.read_offset()
        if before is not None and abs(before - self.before) > SAME_OFFSET:
            raise LimitError(
                f"The printer says {millimetres(before, signed=True)} now, and it was {millimetres(self.before, signed=True)} when "
                "you agreed. Nothing was sent. Look again how far that would move the tip."
            )
        machine.set_offset(self.value)
        try:
            after = machine.read_offset()
        except LineError as error:
            self._write_down(desk, self.value, "sent over the line, not read back")
            raise type(error)(
                f"{error} The value was sent, and written down, but not read back: read it on the printer before you print."
            ) from None
        if after is not None and abs(after - self.value) > SAME_OFFSET:
            self._write_down(desk, after, "read back after another value was sent")
            raise LimitError(
                f"{millimetres(self.value, signed=True)} was sent, but the printer says {millimetres(after, signed=True)} now. That "
                "is written down. Look at its menu before you print."
            )
        self._write_down(desk, self.value, "sent over the line" + ("" if after is None else ", read back"))
        told = "not read back, as this kind of printer does not tell it" if after is None else "read back"
        return (
            f"The printer's Z offset is {millimetres(self.value, signed=True)} now ({told}), stored in its memory and written "
            "down."
        )

    def _write_down(self, desk: Desk, value: float, note: str) -> None:
        """Write down what stands in the machine now, whatever became of the visit."""
        with desk.records() as session:
            printer = session.get_one(Printer, desk.printer_id)
            book = ledger_of(newest_offset(session, printer.id), printer)
            if abs(book.parts.get("printer", self.before) - self.before) > SAME_OFFSET:
                # what was written down was not what stood there: that comes first
                record_offset(
                    session,
                    printer.id,
                    {**book.parts, "printer": self.before},
                    "typed",
                    client_key=str(uuid.uuid5(uuid.NAMESPACE_OID, f"{desk.client_key} before")),
                    note="read from the printer",
                )
            visit = session.get(Visit, desk.visit_id) if desk.visit_id else None
            still_open = visit is not None and visit.ended_at is None and visit.deleted_at is None
            record_offset(
                session,
                printer.id,
                {**book.parts, "printer": value},
                self.reason,
                client_key=desk.client_key,
                visit_id=desk.visit_id if still_open else None,
                data=None if self.margin is None else {"found": {"margin": self.margin}},
                note=note,
            )


def _before(printer: Printer, wish: Mapping[str, Any], stands: Stands) -> tuple[float, str]:
    """What stands in the machine now, mm, and by whose word."""
    if stands.tells is None:
        raise ReadFirstError(f"{printer.name} is asked first what stands in it now.")
    if stands.tells and stands.told is not None:
        return stands.told, "as the printer says"
    if wish.get("before") is not None:
        return round(number(wish, "before"), 4), "as you read on its screen"
    raise TypeFirstError(
        f"{printer.name} cannot be asked what stands in it. Type the Z offset that its screen shows now."
    )
