"""Jobs at switches and at a probe's pin."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from finchwort.services.machine.kinds.base import Asked, JobType, Known
from finchwort.services.machine.kinds.plain import NO_SWITCHES
from finchwort.services.machine.port import Desk, MachinePort, RefusedError, SilentError
from finchwort.store.errors import ConflictError
from finchwort.store.machine.kinds import JobKind
from finchwort.store.models import Printer

WATCH_LONGEST = 180.0
"""So long switches are watched at the most, s (ours)."""
WATCH_EVERY = 0.25
"""Pause between two readings of watched switches, s: a finger stays longer."""
PIN_MOVES = (
    "The pin snaps out and in by itself: keep fingers away from it, and the head well above the plate."
)


@dataclass(frozen=True)
class Switches(JobType):
    """Read the switches."""

    kind = JobKind.SWITCHES

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(cls(), f"Read the switch states of {printer.name}. Nothing moves.")

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        states = machine.switches()
        desk.tell(switches=states)
        return "Read: " + ", ".join(f"{name} {state}" for name, state in states.items()) + "."


@dataclass(frozen=True)
class Watch(JobType):
    """Read the switches again and again while they are pressed one after the other, in any order."""

    kind = JobKind.WATCH
    steps = True

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        return Asked(
            cls(),
            f"Read the switches of {printer.name} again and again, for {WATCH_LONGEST / 60:.0f} minutes at the most, while you "
            "press one after the other by hand. Nothing moves.",
        )

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        untouched = machine.switches()
        desk.tell(
            "Press one after the other, in any order.", untouched=untouched, switches=untouched, watched=[]
        )
        seen: list[dict[str, str]] = []
        before, begun = untouched, desk.seconds()
        while desk.seconds() - begun < WATCH_LONGEST:
            machine.pause(WATCH_EVERY)
            desk.between()
            states = machine.switches()
            # what is there twice is pressed, and not just bouncing
            if states == before and states != untouched and states not in seen:
                seen.append(states)
                changed = sorted(name for name in states if states[name] != untouched.get(name))
                desk.tell(f"Seen: {', '.join(changed)}.", switches=states, watched=list(seen))
            before = states
            if {name for state in seen for name in state if state[name] != untouched.get(name)} == set(
                untouched
            ):
                return "Every switch was seen to change."
        missing = [name for name in untouched if all(state.get(name) == untouched[name] for state in seen)]
        return f"Watched. Not seen to change: {', '.join(missing)}."


@dataclass(frozen=True)
class _Pin(JobType):
    """Put the pin of a retracting probe out or in, or let it test itself; then read the switches."""

    order: ClassVar[str]
    over: ClassVar[str]

    @classmethod
    def ask(cls, printer: Printer, wish: Mapping[str, Any], known: Known) -> Asked:
        """Say what will happen."""
        if printer.probe_kind != "retracting":
            raise ConflictError(f"{printer.name} is set up without a probe whose pin goes out and in.")
        sentence = f"{cls.order} of {printer.name}, and read its switches. The head does not move."
        return Asked(cls(), sentence, (PIN_MOVES,), moves=True)

    def do(self, desk: Desk, machine: MachinePort) -> str:
        """Do it."""
        if not machine.move_pin(self.kind):
            return "Its dialect names no command for that: write it into the dialect's file, or press it in the printer's menu."
        try:
            states = machine.switches()
        except (RefusedError, SilentError):
            return f"{self.over}. {NO_SWITCHES}"
        desk.tell(switches=states)
        probe = next((name for name in states if "probe" in name), None)
        text = f"{probe} is {states[probe]}" if probe else "none of its switches is called a probe"
        return f"{self.over}: {text}."


@dataclass(frozen=True)
class ProbeOut(_Pin):
    """Put the pin out."""

    kind = JobKind.PROBE_OUT
    order, over = "Put the probe's pin out", "The pin was put out"


@dataclass(frozen=True)
class ProbeIn(_Pin):
    """Take the pin in."""

    kind = JobKind.PROBE_IN
    order, over = "Take the probe's pin in", "The pin was taken in"


@dataclass(frozen=True)
class ProbeTest(_Pin):
    """Let the probe test itself."""

    kind = JobKind.PROBE_TEST
    order, over = "Let the probe test itself", "The probe tested itself"
