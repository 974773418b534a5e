"""Simulated people who judge printed patches: how near the best offset and the tilt are found.

Run by ``bin/bench`` and, with other seeds and fewer people, by the tests.  A person's lines between the steps are
their own, and one judgement in ten is a step off.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.first_layer import (
    FIRST_BELIEF,
    FOUND,
    STEPS,
    Bead,
    Judged,
    best_gap,
    judge_bed,
    judge_ladder,
    plan_bed,
    plan_ladder,
    usual_limits,
)
from finchwort.core.printers import Bed

WRONG = 0.1
"""Share of judgements that are a step off."""
ABOVE = 0.03
"""Nothing is printed closer to the plate than this, mm."""


@dataclass
class Person:
    """Somebody with a printer whose best offset, tilt and bow are known to nobody."""

    seed: int

    def __post_init__(self) -> None:
        self.rng = rng = np.random.default_rng(self.seed)
        self.bead = Bead(float(rng.uniform(0.38, 0.6)), float(rng.uniform(0.16, 0.3)))
        near, far = usual_limits(self.bead)
        near *= float(np.exp(rng.normal(0, 0.3)))
        self.limits = near, max(1.2 * near, far * float(np.exp(rng.normal(0, 0.3))))
        self.bed = Bed(float(rng.choice([165, 220, 300])), float(rng.choice([165, 200, 310])))
        self.best = float(rng.uniform(-0.2, 0.2))
        self.tilt = rng.uniform(-0.15, 0.15, 2)
        self.bow = float(rng.uniform(-0.04, 0.04))

    def height(self, x: float, y: float) -> float:
        """Height of the bed against its middle, mm."""
        u, v = (x - self.bed.centre[0]) / self.bed.width, (y - self.bed.centre[1]) / self.bed.depth
        return float(self.tilt @ (u, v)) - 2 * self.bow * (u**2 + v**2)

    def judge(self, shift: float, x: float | None = None, y: float | None = None) -> Judged:
        """Look at a patch."""
        x, y = (x, y) if x is not None else self.bed.centre
        away = shift - self.best - self.height(x, y)
        near, far = self.limits
        step = int(np.searchsorted([-far, -near, near, far], away))
        if self.rng.random() < WRONG:
            step = min(max(step + int(self.rng.choice([-1, 1])), 0), 4)
        return Judged(shift, STEPS[4 - step], x, y)

    @property
    def closest(self) -> float:
        """Shift down to which the tip keeps clear, in the middle."""
        return self.best - best_gap(self.bead) + ABOVE


@dataclass(frozen=True)
class Found:
    """How near one person came."""

    offset: float
    offset_held: bool
    done: bool
    tilt: float
    tilt_held: bool


def two_ladders_and_a_bed(seed: int, side: int = 6) -> Found:
    """Print two ladders in the middle, then patches over the bed."""
    person = Person(seed)
    patches: list[Judged] = []
    best, sd = 0.0, FIRST_BELIEF
    for _ in range(2):
        patches += [person.judge(shift) for shift in plan_ladder(person.closest, best, sd, person.bead)]
        ladder = judge_ladder(patches, person.bead)
        best, sd = ladder.best, ladder.sd
    # the offset is corrected by what the ladders found, and the bed is printed at that
    moved = [Judged(p.shift - best, p.step, p.x, p.y) for p in patches]
    truth, person.best = person.best, person.best - best
    over = [
        person.judge(shift, x, y) for x, y, shift in plan_bed(person.bed, person.bead, person.closest, side)
    ]
    whole = judge_bed([*moved, *over], person.bead, person.bed)
    size = np.array([person.bed.width, person.bed.depth])
    sign = np.where(whole.slopes < 0, -1.0, 1.0)
    return Found(
        offset=abs(best - truth),
        offset_held=ladder.low <= truth <= ladder.high,
        done=ladder.done,
        tilt=float(np.abs(whole.slopes * size - person.tilt).max()),
        tilt_held=whole.tilt_low <= float(sign @ person.tilt) <= whole.tilt_high,
    )


@dataclass(frozen=True)
class Shares:
    """Shares over many people."""

    offset: float
    offset_held: float
    done: float
    tilt: float
    tilt_held: float


def shares(first: int, count: int) -> Shares:
    """Let many people judge, and count."""
    found = [two_ladders_and_a_bed(first + i) for i in range(count)]
    return Shares(
        offset=float(np.mean([one.offset <= FOUND for one in found])),
        offset_held=float(np.mean([one.offset_held for one in found])),
        done=float(np.mean([one.done for one in found])),
        tilt=float(np.mean([one.tilt <= 0.05 for one in found])),
        tilt_held=float(np.mean([one.tilt_held for one in found])),
    )
