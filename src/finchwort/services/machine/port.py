"""What a job needs of the machine that it is done at, and of whoever writes down what comes of it."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import AbstractContextManager
from typing import Any, Protocol

from sqlalchemy.orm import Session

from finchwort.core.machine import Told


class LineError(Exception):
    """The conversation with a machine cannot go on; the text is a sentence for the person."""


class SilentError(LineError):
    """No answer came."""


class RefusedError(LineError):
    """The machine answered with an error."""


class LimitError(Exception):
    """Asked for something beyond the printer's limits; nothing was sent."""


class Warmth(Protocol):
    """What a machine says of its heaters, °C."""

    @property
    def bed(self) -> float:
        """Return how hot the bed is."""

    @property
    def nozzle(self) -> float:
        """Return how hot the nozzle is."""

    @property
    def bed_target(self) -> float | None:
        """Return how hot the bed is to become."""

    @property
    def nozzle_target(self) -> float | None:
        """Return how hot the nozzle is to become."""


class MachinePort(Protocol):
    """A machine at the other end of a line; each call may raise `LineError` or `LimitError`.  Lengths in mm."""

    homed: bool

    def greet(self) -> str:
        """Begin the conversation; return what the machine says it is."""

    def tell(self) -> Told:
        """Ask what stands in it."""

    def temperatures(self) -> Warmth:
        """Read the temperatures."""

    def switches(self) -> dict[str, str]:
        """Read the switches: open or triggered, by name."""

    def home(self) -> None:
        """Find the ends of all axes."""

    def heat(self, bed: float | None, nozzle: float | None, watch: Callable[[Any], None]) -> Warmth:
        """Heat and wait until it is there."""

    def set_heaters(self, bed: float | None, nozzle: float | None) -> None:
        """Set what the heaters are to reach, °C."""

    def park(self, x: float, y: float) -> None:
        """Take the head over a place."""

    def deploy(self) -> None:
        """Put the probe out."""

    def stow(self) -> None:
        """Take the probe in."""

    def lift(self) -> None:
        """Lift the head clear of the bed."""

    def touch(self, x: float, y: float) -> float:
        """Touch the bed at a place; return its height."""

    def move_pin(self, command: str) -> bool:
        """Move the pin of a probe; False when its dialect names no command for that."""

    def read_offset(self) -> float | None:
        """Return the Z offset in the machine; None when it does not tell it."""

    def set_offset(self, value: float) -> None:
        """Set the Z offset and store it."""

    def trim(self, closer: float) -> None:
        """Bring the tip closer while it prints."""

    def pause(self, seconds: float) -> None:
        """Wait, and hear a stop meanwhile."""


class Desk(Protocol):
    """Where a job is done: it shows what happens, keeps every touch, and says when to stop."""

    job_id: int
    printer_id: int
    line_id: int
    visit_id: int | None
    client_key: str
    longest_heat: float

    def records(self) -> AbstractContextManager[Session]:
        """Begin a transaction; what was said on the line is written down with it."""

    def seconds(self) -> float:
        """Return how long this job is under way, s."""

    def tell(self, message: str | None = None, **live: Any) -> None:
        """Set what the person sees."""

    def warmth(self, now: Warmth) -> None:
        """Show the temperatures."""

    def keep(self, place: int, x: float, y: float, height: float, message: str) -> None:
        """Commit a touch."""

    def between(self) -> None:
        """Say between two touches that all is well; raises when it is to end."""

    def conclude(self) -> str:
        """Store what a whole job read with its visit; return what was stored, in a sentence."""
