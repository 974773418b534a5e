"""Heating and waiting until it is there."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.services.machine.kinds.base import Asked, JobType, Known
from finchwort.services.machine.port import Desk, MachinePort, Warmth
from finchwort.store.machine.heaters import heaters_on
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import Printer

HOT = "Bed and nozzle get hot enough to burn. Stay with the printer, keep anything that burns off it, and never bridge its protection."


@dataclass(frozen=True)
class Heat(JobType):
    """Heat and wait.

    Attributes
    ----------
    bed, nozzle : float or None
        What each is to reach, °C.
    """

    kind = JobKind.HEAT
    needs = ("heat",)

    bed: float | None = None
    nozzle: float | None = None

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen; ``bed``, ``nozzle`` (°C)."""
        goals: dict[str, float] = {}
        for what, limit in (("bed", printer.most_bed), ("nozzle", printer.most_nozzle)):
            value = wish.get(what)
            if value is None:
                continue
            if not math.isfinite(value) or not 0 <= value <= limit:
                raise OutOfRangeError("machine.limit_printer_set_up", what=what, limit=limit, value=value)
            goals[what] = float(value)
        if not goals:
            raise ChoiceError("machine.hot_bed_nozzle_become")
        words = " and ".join(f"the {what} to {value:g} °C" for what, value in goals.items())
        sentence = f"Heat {words} on {printer.name}, and wait until it is there. Nothing moves."
        if any(goals.values()):
            sentence += (
                f" After {printer.longest_heat:g} minutes the heaters go off by themselves, unless you agree to something more "
                "before."
            )
        return Asked(cls(**goals), sentence, (HOT,), heats=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""

        def watch(now: Warmth) -> None:
            desk.warmth(now)
            desk.between()

        goals = (("bed", self.bed), ("nozzle", self.nozzle))
        words = ", ".join(f"{what} {value:g} °C" for what, value in goals if value is not None)
        desk.tell(f"Heating: {words}.")
        hot = bool(self.bed or self.nozzle)
        if hot:
            with desk.records() as session:
                heaters_on(session, desk.line_id, desk.printer_id, desk.longest_heat)
        desk.warmth(machine.heat(self.bed, self.nozzle, watch))
        if not hot:
            return "The heaters are off."
        return (
            "The heaters are there. The plate goes on moving until it is warm through. "
            f"They go off by themselves {desk.longest_heat:g} minutes after the last thing you agree to."
        )
