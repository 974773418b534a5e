"""The simulated printer's own programme: G-code in, answers out, and faults on demand."""

from __future__ import annotations

import queue
import random
import re
import threading
import time
from collections.abc import Callable

import numpy as np

from finchwort.link.simulated.card import Card
from finchwort.link.simulated.moods import MOODS
from finchwort.link.simulated.physics import Bed, Probe
from finchwort.link.simulated.plastic import Sheet

SWITCHES = ("x_min", "y_min", "z_min")
BUSY_EVERY = 2.0
"""So often a working machine says that it is busy, real s."""
COLD = 170.0
"""Below this nothing comes out of the nozzle, °C."""
FILAMENT = 1.75
"""mm"""
_WORD = re.compile(r"([A-Z])\s*(-?\d+(?:\.\d*)?|-?\.\d+)?")


class Faults:
    """What can be wrong with the machine.  All off at the start."""

    def __init__(self) -> None:
        self.cut_after: int | None = None  # touches until the cable drops
        self.reset_after: int | None = None  # touches until the board starts anew
        self.halt_after: int | None = None  # touches until its protection acts
        self.stall = 0.0  # s that the next command is busy
        self.garbage = False  # bytes of nonsense between the answers
        self.corrupt = 0.0  # share of received lines that arrive damaged
        self.swapped = False  # x and y switch plugs swapped
        self.inverted: str | None = None
        self.dead: str | None = None


class Firmware(Card):
    """A machine that understands the open G-code of desktop printers.

    Parameters
    ----------
    seed : int
    speed : float
        How many times faster than real its time runs.
    bed : Bed, optional
    probe_offset : (float, float)
        Probe minus nozzle, mm.
    mood : str
        One of `finchwort.link.simulated.moods.MOODS`.
    """

    def __init__(
        self,
        seed: int = 7,
        speed: float = 1.0,
        bed: Bed | None = None,
        probe_offset: tuple[float, float] = (28.0, -12.0),
        mood: str = "open",
    ) -> None:
        self.mood = MOODS[mood]
        self.bed = bed or Bed()
        self.probe_offset = probe_offset
        self.probe = Probe(np.random.default_rng(seed))
        self.dice = random.Random(seed)
        self.speed = speed
        self.faults = Faults()
        self.lock = threading.RLock()
        self.pressed: str | None = None
        self.halted = threading.Event()
        self.lines: queue.Queue[str | None] = queue.Queue()
        self.answer: Callable[[str], None] = lambda _text: None
        self.cut: Callable[[], None] = lambda: None
        self.expected = 1
        self.numbered = False
        self._clock = time.monotonic()
        self.touched: list[tuple[float, float, float]] = []
        self.sheet = Sheet()
        self.true_offset = -1.83  # what puts the tip on the plate at Z = 0
        self.stored_offset = -1.75
        self.version = "1.4"
        self.steps = {"X": 80.0, "Y": 80.0, "Z": 400.0, "E": 93.0}
        self.mesh: list[list[float]] | None = None  # front row first
        self.follows_mesh = False
        self.pin: str | None = None  # of a retracting probe: "in" or "out"; None without one
        self.pin_dead = False
        self.deaf: set[str] = set()  # commands it does not know
        self.card: list[str] = []
        self.card_name, self.card_at = "", 0
        self.waiting: str | None = None
        self._boot()

    def _boot(self) -> None:
        self.x, self.y, self.z = 0.0, 0.0, 0.0
        self.zero = 0.0
        self.homed = False
        self.relative = False
        self.pushed = 0.0
        self.feed = 3000.0
        self.offset = self.stored_offset
        self.card, self.waiting = [], None
        self.expected = 1
        self.numbered = False
        self.bed.bed_target = self.bed.nozzle_target = 0.0

    # time ------------------------------------------------------------------------------------

    def pass_time(self) -> None:
        """Let the physics follow the clock."""
        with self.lock:
            now = time.monotonic()
            self.bed.warm(min((now - self._clock) * self.speed, 36_000))
            self._clock = now

    def spend(self, seconds: float) -> bool:
        """Take simulated time, saying "busy" now and then; tell whether the machine still runs."""
        until = time.monotonic() + seconds / self.speed
        text = time.monotonic()
        while (left := until - time.monotonic()) > 0:
            if self.halted.wait(min(left, 0.05)):
                return False
            if time.monotonic() - text > BUSY_EVERY:
                text = time.monotonic()
                self.say("echo:busy: processing")
        self.pass_time()
        return not self.halted.is_set()

    # conversation ----------------------------------------------------------------------------

    def say(self, text: str) -> None:
        """Answer, with some nonsense before it when the line is bad."""
        if self.faults.garbage and self.dice.random() < 0.3:
            self.answer(
                "".join(chr(self.dice.randrange(128, 255)) for _ in range(self.dice.randrange(3, 20)))
            )
        self.answer(self.mood.say(text))

    def greet(self) -> None:
        """What a board says when it starts."""
        self.say("start")
        self.say("echo:Simulated bench printer ready")

    def take(self, text: str) -> None:
        """Take a line as it arrives; an emergency stop acts at once, whatever is under way."""
        text = self.mood.hear(text)
        if re.search(r"\bM112\b", text):
            self.halt("M112")
        else:
            self.lines.put(text)

    def halt(self, why: str) -> None:
        """Stop everything, heaters too, until it is switched off and on."""
        with self.lock:
            self.bed.bed_target = self.bed.nozzle_target = 0.0
            self.homed = False
            self.card, self.waiting = [], None
        self.halted.set()
        self.say(f"Error:{why}, system stopped!" if why != "M112" else "Error:Emergency stop")
        self.say("Error:Printer halted. kill() called!")

    def power_cycle(self) -> None:
        """Switch off and on."""
        with self.lock:
            self._boot()
        self.halted.clear()
        while not self.lines.empty():
            self.lines.get_nowait()
        self.greet()

    def run(self, gone: threading.Event) -> None:
        """Carry out lines until told to go."""
        while not gone.is_set():
            printing = bool(self.card) and self.waiting is None and not self.halted.is_set()
            try:
                text = self.lines.get(timeout=0 if printing else 0.05)
            except queue.Empty:
                if printing:
                    self._from_card()
                else:
                    self.pass_time()
                continue
            if text is None:
                return
            self.carry_out(text)

    def carry_out(self, text: str) -> None:
        """Carry out one line, as far as it is sound."""
        text = text.strip()
        if not text:
            return
        if self.halted.is_set():
            if "M999" in text:
                self.power_cycle()
                self.say("ok")
            else:
                self.say("Error:Printer halted. kill() called!")
            return
        command = self._unframe(text)
        if command is None:
            return
        if self.faults.stall:
            stall, self.faults.stall = self.faults.stall, 0.0
            if not self.spend(stall):
                return
        self._do(command)

    def _unframe(self, text: str) -> str | None:
        if not text.startswith("N"):
            return text
        body, star, check = text.rpartition("*")
        number = re.match(r"N(\d+)\s*", text)
        damaged = self.faults.corrupt and self.dice.random() < self.faults.corrupt
        sound = star and check.strip().isdigit() and int(check) == _checksum(body) and number and not damaged
        if not sound:
            self.say(f"Error:checksum mismatch, Last Line: {self.expected - 1}")
            self.say(f"Resend: {self.expected}")
            self.say("ok")
            return None
        result = int(number[1])
        command = body[number.end() :]
        renumber = re.match(r"M110\s+N(\d+)", command)
        if renumber:
            self.expected = int(renumber[1]) + 1
            self.say("ok")
            return None
        if result != self.expected:
            self.say(f"Error:Line Number is not Last Line Number+1, Last Line: {self.expected - 1}")
            self.say(f"Resend: {self.expected}")
            self.say("ok")
            return None
        self.expected += 1
        return command

    # commands --------------------------------------------------------------------------------

    def _do(self, command: str) -> None:
        words = {letter: float(value) if value else None for letter, value in _WORD.findall(command.upper())}
        name = command.split()[0].upper() if command.split() else ""
        handler = {
            "G28": self._home,
            "G0": self._move,
            "G1": self._move,
            "G30": self._touch,
            "G92": self._count_from,
            "M0": lambda _w: self._wait_for_hand(command),
            "M82": lambda _w: self._count(False),
            "M83": lambda _w: self._count(True),
            "M104": lambda w: self._heat("nozzle", w),
            "M109": lambda w: self._heat_and_wait("nozzle", w),
            "M140": lambda w: self._heat("bed", w),
            "M190": lambda w: self._heat_and_wait("bed", w),
            "M290": self._babystep,
            "M500": self._store,
            "M851": self._set_offset,
            "M105": self._temperatures,
            "M115": self._identify,
            "M401": lambda _w: self._move_pin("out"),
            "M402": lambda _w: self._move_pin("in"),
            "M420": self._compensation,
            "M503": self._settings,
            "M119": self._switches,
        }.get(name)
        if name in self.deaf:
            handler = None
        if handler is None:
            if name in self.deaf or name not in (
                "G21",
                "G90",
                "M106",
                "M107",
                "M400",
                "M84",
                "M18",
                "M110",
                "M999",
            ):
                self.say(f'echo:Unknown command: "{command}"')
            elif name in ("M84", "M18"):
                self.homed = False
            self.say("ok")
            return
        if name == "M105":
            handler(words)
            return
        if handler(words) is not False and not self.halted.is_set():
            self.say("ok")

    def _identify(self, _words) -> None:
        """Name, version and abilities, as open firmware says them."""
        self.say(
            f"FIRMWARE_NAME:Simulated bench printer {self.version} (seed) PROTOCOL_VERSION:1.0 MACHINE_TYPE:bench "
            "EXTRUDER_COUNT:1"
        )
        self.say("Cap:EEPROM:1")
        self.say("Cap:Z_PROBE:1")
        self.say("Cap:AUTOREPORT_TEMP:0")

    def _move_pin(self, where: str) -> None:
        if self.pin is not None and not self.pin_dead:
            self.pin = where

    def _settings(self, _words) -> None:
        """What is stored, in commands that would set it again."""
        self.say("echo:; Steps per unit:")
        self.say("echo: M92 " + " ".join(f"{axis}{value:.2f}" for axis, value in self.steps.items()))
        self.say("echo:; Auto bed compensation:")
        self.say(f"echo: M420 S{int(self.follows_mesh)} Z10.00")
        self.say("echo:; Probe offset (mm):")
        self.say(
            f"echo: M851 X{self.probe_offset[0]:.2f} Y{self.probe_offset[1]:.2f} Z{self.stored_offset:.2f}"
        )

    def _compensation(self, words) -> None:
        """Switch compensation on or off, and show the mesh when it is asked for."""
        if words.get("S") is not None:
            self.follows_mesh = bool(words["S"]) and self.mesh is not None
        if "V" not in words:
            return
        if self.mesh is None:
            self.say("echo:Mesh is invalid")
            return
        self.say("Bilinear grid:")
        self.say("      " + "      ".join(str(column) for column in range(len(self.mesh[0]))))
        for number, row in enumerate(self.mesh):
            self.say(f" {number} " + " ".join(f"{value:+.3f}" for value in row))

    def _babystep(self, words) -> None:
        """Move the tip a little at once, without changing the Z that is shown."""
        with self.lock:
            self.offset += max(-1.0, min(1.0, words.get("Z") or 0.0))

    def _home(self, _words) -> bool | None:
        if not self.spend(14.0):
            return False
        with self.lock:
            self.probe.new_start()
            cx, cy = self.bed.width / 2, self.bed.depth / 2
            # the zero is where the probe found the middle
            self.zero = self.probe.touch(float(self.bed.height(cx, cy)))
            self.x, self.y, self.z = cx - self.probe_offset[0], cy - self.probe_offset[1], 10.0
            self.homed = True
        return None

    def _move(self, words) -> bool | None:
        x = self.x if words.get("X") is None else words["X"]
        y = self.y if words.get("Y") is None else words["Y"]
        z = self.z if words.get("Z") is None else words["Z"]
        self.feed = words.get("F") or self.feed
        flat = float(np.hypot(x - self.x, y - self.y))
        pushed = 0.0
        if words.get("E") is not None:
            pushed = words["E"] if self.relative else words["E"] - self.pushed
            self.pushed += pushed
        if not self.spend(max(flat, abs(z - self.z), abs(pushed)) / (self.feed / 60)):
            return False
        start, self.z = (self.x, self.y), z
        if flat > 0:
            if pushed > 0 and self.bed.nozzle >= COLD:
                volume = pushed * np.pi * FILAMENT**2 / 4
                self.sheet.lay(start, (x, y), volume, self.gap)
            else:
                self.sheet.travel(flat)
        self.x, self.y = x, y
        return None

    def _touch(self, words) -> bool | None:
        if not self.homed:
            self.say("Error:Home XYZ first")
            return False
        x, y = words.get("X") or 0.0, words.get("Y") or 0.0
        nozzle = (x - self.probe_offset[0], y - self.probe_offset[1])
        inside = -0.01 <= nozzle[0] <= self.bed.width + 0.01 and -0.01 <= nozzle[1] <= self.bed.depth + 0.01
        if not inside:
            self.say("Error:Probing failed: out of reach")
            return False
        far = np.hypot(nozzle[0] - self.x, nozzle[1] - self.y)
        if not self.spend(far / 100 + 2.5):
            return False
        with self.lock:
            value = self.probe.touch(float(self.bed.height(x, y))) - self.zero
            self.x, self.y, self.z = *nozzle, 5.0
            self.touched = [*self.touched[-199:], (x, y, value)]
        if self._fault_due():
            return False
        self.say(f"Bed X: {x:.3f} Y: {y:.3f} Z: {value:.4f}")
        return None

    def _fault_due(self) -> bool:
        """Count down the faults that come after some touches; tell whether one has come."""
        for name, act in (
            ("cut_after", self.cut),
            ("reset_after", self._reset),
            ("halt_after", self._runaway),
        ):
            left = getattr(self.faults, name)
            if left is None:
                continue
            setattr(self.faults, name, left - 1 if left > 0 else None)
            if left <= 0:
                act()
                return True
        return False

    def _reset(self) -> None:
        self.power_cycle()

    def _runaway(self) -> None:
        self.halt("Thermal Runaway")

    def _heat(self, which: str, words) -> None:
        value = words.get("S")
        if value is not None:
            with self.lock:
                self.pass_time()
                setattr(
                    self.bed, f"{which}_target", min(max(value, 0.0), 300.0 if which == "nozzle" else 120.0)
                )

    def _temperatures(self, _words) -> None:
        self.pass_time()
        b = self.bed
        self.say(f"ok T:{b.nozzle:.2f} /{b.nozzle_target:.2f} B:{b.bed:.2f} /{b.bed_target:.2f} @:0 B@:0")

    def _switches(self, _words) -> None:
        self.say("Reporting endstop status")
        for name, triggered in self.switch_states().items():
            self.say(f"{name}: {'TRIGGERED' if triggered else 'open'}")

    def switch_states(self) -> dict[str, bool]:
        """What the board believes of its switches, faults included."""
        real = {name: self.pressed == name for name in SWITCHES}
        if self.pin is not None:
            real["z_probe"] = self.pin == "in" or self.pressed == "z_probe"
        if self.faults.swapped:
            real["x_min"], real["y_min"] = real["y_min"], real["x_min"]
        if self.faults.dead in real:
            real[self.faults.dead] = False
        if self.faults.inverted in real:
            real[self.faults.inverted] = not real[self.faults.inverted]
        return real


def _checksum(text: str) -> int:
    value = 0
    for byte in text.encode("ascii", "replace"):
        value ^= byte
    return value
