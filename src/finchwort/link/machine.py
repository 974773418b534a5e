"""What a machine is asked to do, within the limits of its printer's set-up."""

from __future__ import annotations

import contextlib
import math
import re
import time
from collections.abc import Callable
from dataclasses import dataclass, replace

from finchwort.core.first_layer import MARGIN
from finchwort.core.machine import Told
from finchwort.core.printers import Bed, blocked
from finchwort.core.probing import reach
from finchwort.formats.pasted import hear_told, mesh_rows
from finchwort.knowledge.dialect import Dialect
from finchwort.link.line import Line, ResetError
from finchwort.services.machine.port import LimitError, LineError, RefusedError, SilentError

FEED = 6000.0
"""Travel, mm/min."""
LIFT_FEED = 600.0
GREETINGS = 3
BOOT = 5.0
"""A board that starts anew answers within so long, s (common practice: some seconds)."""
NEAR = 1.5
"""A temperature this close to its target is reached, °C."""
HEAT_PATIENCE = 240.0
"""A heater that gains nothing for so long does not get there, s (ours; the machine's own protection acts sooner)."""
GAIN = 1.0
MAX_OFFSET = 10.0
"""mm"""
SENSED = (-40.0, 600.0)
"""What a sensor that works can say, °C: a broken or unplugged one says something outside."""
FAR_TOUCH = 3.0
"""No bed lies further than this from what was touched before, mm: springs do not reach so far (ours)."""
FURTHEST_TOUCH = 10.0
"""Nor is a first touch further from the machine's zero, mm (ours)."""
NONSENSE = 20.0
"""A height beyond this is no touch but damage on the line, mm."""
UNKNOWN_LIFT = 5.0
"""Over a bed nobody has measured the head travels at least so high, mm (ours)."""
ROOM = 50.0
"""A heater told nothing is below this, °C; above it the person is warned that it is still hot."""
MAX_TRIM = 0.05
"""One step of trimming while it prints, mm (common practice: 0.01 to 0.05)."""


class FarTouchError(LineError):
    """A touch far outside what a bed can be."""


class SensorError(LineError):
    """A sensor says what cannot be."""


@dataclass(frozen=True)
class Limits:
    """What the set-up allows.

    Attributes
    ----------
    bed : Bed
        Travel stays over its printable area, mm.
    probe : (float, float)
        Probe minus nozzle, mm.
    most_bed, most_nozzle : float
        °C
    lift : float
        Height of the head between touches, mm.
    """

    bed: Bed
    probe: tuple[float, float]
    most_bed: float
    most_nozzle: float
    lift: float


@dataclass(frozen=True)
class Temperatures:
    """What the machine says of its heaters, °C."""

    bed: float
    nozzle: float
    bed_target: float | None
    nozzle_target: float | None


class Machine:
    """A machine at the other end of a line."""

    def __init__(self, line: Line, limits: Limits) -> None:
        self.line, self.limits = line, limits
        self.homed = False
        self.touched: list[float] = []
        self.highest: float | None = None
        self.known = False
        self.said: tuple[str, ...] = ()

    def begin(self, highest: float | None) -> None:
        """Begin a walk over ground that is known to be that high against Z = 0 (mm), or not known."""
        self.highest, self.touched = highest, []
        self.known = highest is not None

    @property
    def dialect(self) -> Dialect:
        """How it is talked to."""
        return self.line.dialect

    def greet(self) -> str:
        """Begin the conversation; return what the machine says it is.

        Opening the line makes many boards start anew, which takes them some seconds: that is waited for.
        """
        self.line.settle()
        for left in reversed(range(GREETINGS)):
            try:
                self.line.renumber(BOOT)
                break
            except (ResetError, SilentError):
                if not left:
                    raise
                self.line.settle()
        try:
            message = self.line.send(self.dialect.say("identify"), patience=10)
        except RefusedError:
            message = []  # it need not say who it is
        for command in ("millimetres", "absolute"):
            self.line.send(self.dialect.say(command))
        words = [text for text in message if not self.dialect.hear("ok", text)]
        self.said = tuple(words)
        return words[0][:200] if words else "It answers, and does not say what it is."

    def home(self) -> None:
        """Find the ends of all axes."""
        self.line.send(self.dialect.say("home"), patience=180)
        self.line.send(self.dialect.say("finish"), patience=60)
        self.homed = True

    def temperatures(self) -> Temperatures:
        """Read the temperatures.

        Raises
        ------
        SilentError
            When no answer holds one.
        SensorError
            When a sensor says what no working one can.
        """
        for _ in range(3):
            for text in self.line.send(self.dialect.say("temperatures")):
                heard = self.dialect.hear("temperatures", text)
                if heard:
                    named = heard.groupdict()
                    with contextlib.suppress(ValueError):  # garbage that looks like a number
                        return _sensible(
                            Temperatures(
                                float(named["bed"]),
                                float(named["nozzle"]),
                                _maybe(named.get("bed_target")),
                                _maybe(named.get("nozzle_target")),
                            )
                        )
        raise SilentError("The printer answers, but says no temperatures that could be understood.")

    def set_heaters(self, bed: float | None, nozzle: float | None) -> None:
        """Tell the heaters their targets (°C); None leaves one as it is.

        Raises
        ------
        LimitError
        """
        for what, value, most in (
            ("bed", bed, self.limits.most_bed),
            ("nozzle", nozzle, self.limits.most_nozzle),
        ):
            if value is None:
                continue
            if not math.isfinite(value) or not 0 <= value <= most:
                raise LimitError(
                    f"The {what}'s limit in this printer's set-up is {most:g} °C; {value:g} °C was asked for."
                )
        if bed is not None:
            self.line.send(self.dialect.say("bed", temperature=bed))
        if nozzle is not None:
            self.line.send(self.dialect.say("nozzle", temperature=nozzle))

    def heat(
        self,
        bed: float | None,
        nozzle: float | None,
        watch: Callable[[Temperatures], None] = lambda _: None,
        every: float = 1.0,
    ) -> Temperatures:
        """Set the heaters and wait until they are there.

        Raises
        ------
        SilentError
            When one of them stops gaining before it is there.
        """
        self.set_heaters(bed, nozzle)
        gained, best = time.monotonic(), math.inf
        while True:
            now = self.temperatures()
            watch(now)
            away = sum(
                max(0.0, abs(target - value) - NEAR)
                for target, value in ((bed, now.bed), (nozzle, now.nozzle))
                if target is not None and not (target < ROOM and value < ROOM)
            )
            if away == 0:
                return now
            if away < best - GAIN:
                gained, best = time.monotonic(), away
            elif time.monotonic() - gained > HEAT_PATIENCE:
                raise SilentError(
                    f"The heaters do not get there: bed {now.bed:.0f} °C, nozzle {now.nozzle:.0f} °C, and no gain for "
                    f"{HEAT_PATIENCE / 60:.0f} min. Draught, a slipped insulating sock, a weak heater? The protection stays on."
                )
            self.pause(every)

    def touch(self, x: float, y: float) -> float:
        """Touch the bed with the probe at a place (mm); return its height there, mm, positive towards the nozzle.

        Raises
        ------
        LimitError
            When the probe does not reach that place.
        LineError
            When the touch fails.
        """
        x0, y0, x1, y1 = reach(self.limits.bed, *self.limits.probe)
        if not (x0 - 0.01 <= x <= x1 + 0.01 and y0 - 0.01 <= y <= y1 + 0.01):
            raise LimitError(f"The probe does not reach x {x:g}, y {y:g} mm.")
        bed, (dx, dy) = self.limits.bed, self.limits.probe
        if bed.keep_off:
            way = blocked(bed, [(x, y)], (dx, dy))[0]
            if way:
                raise LimitError(f"{way.name} stands in the way at x {x:g}, y {y:g} mm.")
            # the way there is gone at a height of ours; a machine left to itself may take a lower one
            self.line.send(self.dialect.say("travel", x=x - dx, y=y - dy, feed=FEED))
        for _ in range(3):
            for text in self.line.send(self.dialect.say("touch", x=x, y=y), patience=60):
                if self.dialect.hear("failed_touch", text):
                    raise RefusedError(f"The probe did not trigger at x {x:g}, y {y:g} mm: “{text[:120]}”.")
                heard = self.dialect.hear("touch", text)
                if heard:
                    with contextlib.suppress(ValueError):  # garbage that looks like a number
                        height = float(heard["z"])
                        if abs(height) <= NONSENSE and self._same_place(heard, x, y):
                            return self._believe(height, x, y)
        raise SilentError(f"The touch at x {x:g}, y {y:g} mm gave no height that could be understood.")

    def _believe(self, height: float, x: float, y: float) -> float:
        """Take a touch, unless no bed can lie there."""
        usual = sorted(self.touched)[len(self.touched) // 2] if self.touched else 0.0
        most = FAR_TOUCH if self.touched else FURTHEST_TOUCH
        self.highest = height if self.highest is None else max(self.highest, height)
        if not abs(height - usual) <= most:
            raise FarTouchError(
                f"The touch at x {x:g}, y {y:g} mm gave {height:+.2f} mm; no bed lies there. Something may lie on it, or the "
                "probe did not let go. Nothing more was touched."
            )
        self.touched.append(height)
        return height

    @staticmethod
    def _same_place(result: re.Match[str], x: float, y: float) -> bool:
        return abs(float(result["x"]) - x) < 0.5 and abs(float(result["y"]) - y) < 0.5

    def park(self, x: float, y: float) -> None:
        """Lift the head and take it over a place (mm) within the printable area."""
        bed = self.limits.bed
        x, y = min(max(x, bed.x_min), bed.x_max), min(max(y, bed.y_min), bed.y_max)
        self.lift(max(self.limits.lift, 10.0))
        self.line.send(self.dialect.say("travel", x=x, y=y, feed=FEED))
        self.line.send(self.dialect.say("finish"), patience=60)

    def lift(self, z: float | None = None) -> None:
        """Take the head up to a height, mm; never below what is known of the ground, and a margin."""
        z = self.limits.lift if z is None else z
        z = max(z, 0.0 if self.highest is None else self.highest + 2 * MARGIN)
        if not self.known:
            z = max(z, UNKNOWN_LIFT)
        self.line.send(self.dialect.say("lift", z=z, feed=LIFT_FEED))

    def switches(self) -> dict[str, str]:
        """Read the states of all switches, by name.

        Raises
        ------
        SilentError
        """
        results: dict[str, str] = {}
        for text in self.line.send(self.dialect.say("switches")):
            switch = self.dialect.hear_switch(text)
            if switch is not None:
                results.update([switch])
        if not results:
            raise SilentError("The printer answers, but names no switches that could be understood.")
        return results

    def deploy(self) -> None:
        """Put the probe out, where that is a command."""
        self.line.send(self.dialect.say("deploy"))

    def stow(self) -> None:
        """Take the probe in, where that is a command."""
        self.line.send(self.dialect.say("stow"))

    def tell(self) -> Told:
        """Ask for everything that this machine tells of itself; what it does not know or refuses is left out.

        Raises
        ------
        LineError
            When the line breaks.
        """
        text = hear_told([*self.said, *self._ask("ask_settings")], self.dialect) or Told()
        try:
            offset = self.read_offset()
        except (RefusedError, SilentError):
            offset = None
        mesh = mesh_rows(self._ask("ask_mesh"), self.dialect)
        return replace(text, offset=text.offset if offset is None else offset, mesh=mesh)

    def _ask(self, command: str) -> list[str]:
        """Ask for something a machine need not know."""
        try:
            return self.line.send(self.dialect.say(command))
        except RefusedError:
            return []

    def move_pin(self, command: str) -> bool:
        """Put a retracting probe out or in, or let it test itself; False when this kind of machine has no command for it."""
        text = self.dialect.say(command)
        if not text:
            return False
        self.line.send(text, patience=60)
        return True

    def read_offset(self) -> float | None:
        """Ask for the Z offset in the machine, mm; None when this kind of machine does not tell it.

        Raises
        ------
        SilentError
            When it should tell, and says nothing that could be understood.
        """
        text = self.dialect.say("ask_offset")
        if not text or "offset" not in self.dialect.replies:
            return None
        for _ in range(2):
            told = hear_told(self.line.send(text), self.dialect)
            if told is not None and told.offset is not None:
                return told.offset
        raise SilentError(
            "The printer was asked for its Z offset, and said nothing that could be understood."
        )

    def set_offset(self, value: float) -> None:
        """Set the Z offset in the machine (mm) and have it kept over a restart.

        Raises
        ------
        LimitError
            When this kind of machine is not told its offset.
        """
        if not math.isfinite(value) or abs(value) > MAX_OFFSET:
            raise LimitError(f"A Z offset lies within {MAX_OFFSET:g} mm.")
        text = self.dialect.say("offset", value=value)
        if not text:
            raise LimitError(
                "This kind of machine is not told its Z offset over the line. Type it into its menu."
            )
        self.line.send(text)
        self.line.send(self.dialect.say("store"), patience=30)

    def trim(self, closer: float) -> None:
        """Move the tip a little closer or farther at once (mm), while it prints; nothing is stored.

        Raises
        ------
        LimitError
            When the step is too large, or this kind of machine is not trimmed over the line.
        """
        if not math.isfinite(closer) or abs(closer) > MAX_TRIM:
            raise LimitError(f"A trim is {MAX_TRIM:g} mm at the most.")
        text = self.dialect.say("trim", value=-closer)
        if not text:
            raise LimitError("This kind of machine is not trimmed over the line. Use its menu.")
        self.line.send(text)

    def stop_now(self) -> None:
        """Stop everything at once; the machine must be started anew afterwards."""
        with contextlib.suppress(LineError):
            self.line.shout(self.dialect.say("stop"))
        self.homed = False

    def pause(self, seconds: float) -> None:
        """Wait, and hear a stop meanwhile."""
        until = time.monotonic() + seconds
        while (left := until - time.monotonic()) > 0:
            self.line.tick()
            time.sleep(min(0.1, left))


def _sensible(now: Temperatures) -> Temperatures:
    """Give temperatures back, unless a sensor is broken."""
    for what, value in (("bed", now.bed), ("nozzle", now.nozzle)):
        if not SENSED[0] <= value <= SENSED[1]:
            raise SensorError(
                f"The printer says {value:g} °C for its {what}: that sensor is broken or unplugged. Switch the printer off "
                "and have the sensor looked at. Leave the protection on."
            )
    return now


def _maybe(text: str | None) -> float | None:
    return float(text) if text else None
