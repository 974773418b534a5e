"""Jobs that need nothing but the machine: what it is and says, homing, heaters off."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from finchwort.messages.machine import others, untold
from finchwort.services.machine.kinds.base import MOVES, Asked, JobType, Known
from finchwort.services.machine.port import Desk, MachinePort, RefusedError, SilentError
from finchwort.services.machine.report import record_told
from finchwort.services.visits.follow_up import tick_if_asked
from finchwort.store.machine.heaters import heaters_off
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import Printer

NO_SWITCHES = "It does not tell its switches."
STILL_WARM = 50.0
"""Above this a heater that is off is said to stay hot for a while, °C."""


@dataclass(frozen=True)
class Connect(JobType):
    """Say hello; read what it is, what stands in it, temperatures and switches; hold that against the book."""

    kind = JobKind.CONNECT

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(
            cls(),
            f"Open the line to {printer.name} ({printer.port}) and ask what it is. Some boards restart when their line is "
            "opened.",
        )

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        desk.tell(says=machine.greet())
        desk.warmth(machine.temperatures())
        sentences = ["Connected."]
        try:
            desk.tell(switches=machine.switches())
        except (RefusedError, SilentError):
            # a line that is gone is found out by the next question
            sentences.append(NO_SWITCHES)
        told = machine.tell()
        with desk.records() as session:
            compared = record_told(session, session.get_one(Printer, desk.printer_id), told, desk.job_id)
        sentences += others(compared)
        sentences.append(untold(compared))
        return " ".join(text for text in sentences if text)


@dataclass(frozen=True)
class Temperatures(JobType):
    """Read the temperatures."""

    kind = JobKind.TEMPERATURES

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(cls(), f"Read the temperatures of {printer.name}. Nothing moves.")

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        now = machine.temperatures()
        desk.warmth(now)
        return f"Bed {now.bed:.1f} °C, nozzle {now.nozzle:.1f} °C."


@dataclass(frozen=True)
class Home(JobType):
    """Find the ends of all axes."""

    kind = JobKind.HOME
    homes = True
    needs = ("home",)

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(cls(), f"Home {printer.name}: all axes run to their ends.", (MOVES,), moves=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        desk.tell("Homing.")
        machine.home()
        with desk.records() as session:
            tick_if_asked(
                session, session.get_one(Printer, desk.printer_id), "home", client_key=f"homed-{desk.job_id}"
            )
        return "Homed."


@dataclass(frozen=True)
class Cool(JobType):
    """Switch the heaters off."""

    kind = JobKind.COOL

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(cls(), f"Switch both heaters of {printer.name} off.")

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        machine.set_heaters(0, 0)
        with desk.records() as session:
            heaters_off(session, desk.line_id)
        now = machine.temperatures()
        desk.warmth(now)
        hot = max(now.bed, now.nozzle) >= STILL_WARM
        return f"Heaters off{'; it stays hot for a while' if hot else ''}: bed {now.bed:.0f} °C, nozzle {now.nozzle:.0f} °C."
