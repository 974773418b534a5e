"""The bed of a machine that is not there: springs, warmth, shape, probe.  See docs/simulation.md.

Lengths are mm, times s, temperatures °C; heights are positive towards the nozzle.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np


@dataclass
class Knob:
    """A bed screw with its spring.

    Attributes
    ----------
    turned : float
        Turns made at the knob since the beginning, positive for tightening.
    screwed : float
        Turns that reached the screw.
    stiffness : float
        Of its spring, relative to the others.
    backlash : float
        Turns lost whenever the direction changes.
    slip : float
        Share of a turn that is lost because the screw spins with its knob.
    """

    name: str
    x: float
    y: float
    turned: float = 0.0
    screwed: float = 0.0
    stiffness: float = 1.0
    backlash: float = 0.02
    slip: float = 0.0
    _slack: float = 0.0

    def turn(self, turns: float) -> None:
        """Turn the knob (positive tightens): the slack is taken up first."""
        self.turned += turns
        reached = turns * (1 - self.slip)
        # slack runs from 0 (last tightened) to backlash (last loosened)
        if reached > 0:
            taken = min(reached, self._slack)
            self._slack -= taken
            self.screwed += reached - taken
        else:
            taken = min(-reached, self.backlash - self._slack)
            self._slack += taken
            self.screwed += reached + taken


@dataclass
class Bed:
    """Shape and warmth of the bed.

    Attributes
    ----------
    width, depth : float
        Printable area; X 0, Y 0 is its front left corner.
    pitch : float
        Travel of a screw in a turn.
    tilt_x, tilt_y : float
        Rise across the width and depth that the screws started with.
    dome : float
        Middle over the edges' middles.
    twist : float
        One diagonal over the other.
    bump : tuple
        x, y, height and radius of a local hill.
    """

    width: float = 220.0
    depth: float = 220.0
    pitch: float = 0.7
    tilt_x: float = 0.34
    tilt_y: float = -0.26
    dome: float = 0.03
    twist: float = 0.025
    bump: tuple[float, float, float, float] = (160.0, 60.0, 0.02, 22.0)
    knobs: list[Knob] = field(default_factory=list)

    bed: float = 21.0
    nozzle: float = 21.0
    bed_target: float = 0.0
    nozzle_target: float = 0.0
    core: float = 21.0
    frame: float = 21.0
    room: float = 21.0

    BED_RATE = 0.9
    """Fastest warming of the bed's face, °C/s."""
    NOZZLE_RATE = 3.0
    BED_LOSS = 1 / 900
    NOZZLE_LOSS = 1 / 120
    CORE_LAG = 240.0
    """How slowly the plate warms through, s."""
    FRAME_LAG = 900.0
    """How slowly the frame follows, s."""
    BOW_PER_DEGREE = 0.0016
    """A plate whose face is hotter than its back bows up, mm of dome per °C between them."""
    SET_PER_DEGREE = 0.0009
    """Dome that stays while it is hot, mm per °C above the room."""
    GROWTH_PER_DEGREE = -0.0011
    """The frame grows and carries the nozzle away, mm per °C of it."""

    def __post_init__(self) -> None:
        if not self.knobs:
            inset = 10.0
            places = (
                (inset, inset),
                (self.width - inset, inset),
                (self.width - inset, self.depth - inset),
                (inset, self.depth - inset),
            )
            names = ("front left", "front right", "back right", "back left")
            stiffness = (1.0, 1.1, 0.92, 1.04)
            self.knobs = [
                Knob(n, x, y, stiffness=k) for n, (x, y), k in zip(names, places, stiffness, strict=True)
            ]
        cx, cy = self.width / 2, self.depth / 2
        # the screws stand where somebody left them: along the tilt, and a little off one plane
        uneven = (0.03, -0.03, 0.03, -0.03)
        self._ends = [
            self.tilt_x * (k.x - cx) / self.width
            + self.tilt_y * (k.y - cy) / self.depth
            + uneven[i % 4] * 0.5
            for i, k in enumerate(self.knobs)
        ]

    def warm(self, seconds: float) -> None:
        """Let time pass."""
        left = seconds
        while left > 1e-9:
            step = min(left, 2.0)
            left -= step
            self.bed = _heater(self.bed, self.bed_target, self.room, self.BED_RATE, self.BED_LOSS, step)
            self.nozzle = _heater(
                self.nozzle, self.nozzle_target, self.room, self.NOZZLE_RATE, self.NOZZLE_LOSS, step
            )
            self.core += (self.bed - self.core) * (1 - math.exp(-step / self.CORE_LAG))
            warmth = self.room + 0.35 * (self.bed - self.room)
            self.frame += (warmth - self.frame) * (1 - math.exp(-step / self.FRAME_LAG))

    def plane(self) -> tuple[float, float, float]:
        """Where the rigid plate settles on its springs: height = a x + b y + c.

        The energy of springs of stiffness k pressed away from their ends is least
        on the plane fitted to the ends with weights k.
        """
        rows = np.array([[k.x, k.y, 1.0] for k in self.knobs])
        ends = np.array([end - k.screwed * self.pitch for end, k in zip(self._ends, self.knobs, strict=True)])
        weight = np.sqrt([k.stiffness for k in self.knobs])
        a, b, c = np.linalg.lstsq(rows * weight[:, None], ends * weight, rcond=None)[0]
        return float(a), float(b), float(c)

    def height(self, x, y):
        """True height at places now, mm."""
        x, y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
        u, v = 2 * x / self.width - 1, 2 * y / self.depth - 1
        a, b, c = self.plane()
        dome = (
            self.dome
            + self.BOW_PER_DEGREE * (self.bed - self.core)
            + self.SET_PER_DEGREE * (self.core - self.room)
        )
        bx, by, size, radius = self.bump
        bump = size * np.exp(-((x - bx) ** 2 + (y - by) ** 2) / (2 * radius**2))
        return (
            a * x
            + b * y
            + c
            + dome * (1 - (u**2 + v**2) / 2)
            + self.twist * u * v / 2
            + bump
            + self.GROWTH_PER_DEGREE * (self.frame - self.room)
        )


def _heater(now: float, target: float, room: float, rate: float, loss: float, step: float) -> float:
    """A heater of limited power that holds its target once it is there."""
    cooling = (now - room) * loss
    if target <= now:
        drop = max(cooling * step, 0.0)
        return max(now - drop, min(target, now)) if target > room else max(room, now - drop)
    return min(target, now + (rate - cooling) * step) if rate > cooling else now + (rate - cooling) * step


class Probe:
    """A probe that repeats as well as probes do.

    Parameters
    ----------
    rng : Generator
    noise : float
        Standard deviation of a touch, mm.
    """

    DRIFT = 0.006
    """How far the trigger point creeps while the probe warms up, mm."""
    DRIFT_LAG = 40.0
    """Touches until most of that is done."""

    def __init__(self, rng: np.random.Generator, noise: float = 0.0035) -> None:
        self.rng, self.noise = rng, noise
        self.plastic = False
        self.touches = 0
        self._bead = 0.0

    def new_start(self) -> None:
        """Plastic on the tip sits differently from start to start."""
        self._bead = float(self.rng.uniform(0.02, 0.14)) if self.plastic else 0.0

    def touch(self, height: float) -> float:
        """Read a true height (mm)."""
        self.touches += 1
        drift = self.DRIFT * (1 - math.exp(-self.touches / self.DRIFT_LAG))
        smear = abs(float(self.rng.normal(0, 0.02))) if self.plastic else 0.0
        return height + drift + self._bead + smear + float(self.rng.normal(0, self.noise))
