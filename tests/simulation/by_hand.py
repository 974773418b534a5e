"""Printers and people for levelling by hand: plates on springs, paper, knobs and hands, written before the code they judge.

Nothing here comes from the product.  A plate is a plane with a twist that gives way as its stiffness says, plus a
shape nobody can turn out; it rests on springs of unequal stiffness whose ends the knobs move, with play where a knob
changes its direction.  Paper drags where the gap is about its thickness, and every person has limits of their own.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

KINDS = ("rigid four", "bending four", "rigid three")
PAPER_SD = 0.012
HAND_TURN = 1 / 32


@dataclass
class Plate:
    """A printer's bed with its knobs; heights in mm against the tip at Z = 0, positive is high."""

    kind: str
    width: float
    depth: float
    screws: np.ndarray
    pitch: float
    stiffness: np.ndarray
    twist_stiffness: float
    ends: np.ndarray
    bow: np.ndarray
    twist: float
    bumps: list
    play: np.ndarray
    gain: np.ndarray
    last: np.ndarray = field(default=None)  # type: ignore[assignment]
    turnings: int = 0

    def __post_init__(self):
        if self.last is None:
            self.last = np.zeros(len(self.ends))

    def _form(self):
        """Plane and twist that the springs settle on: least energy of springs and of the plate."""
        u = 2 * self.screws[:, 0] / self.width - 1
        v = 2 * self.screws[:, 1] / self.depth - 1
        rows = np.column_stack([np.ones_like(u), u, v, u * v])
        weight = self.stiffness
        normal = (rows.T * weight) @ rows
        normal[3, 3] += self.twist_stiffness
        right = rows.T @ (weight * self.ends)
        right[3] += self.twist_stiffness * self.twist
        return np.linalg.solve(normal, right)

    def heights(self, x, y):
        u, v = 2 * np.asarray(x) / self.width - 1, 2 * np.asarray(y) / self.depth - 1
        c, a, b, t = self._form()
        shape = self.bow[0] * (1 / 3 - u * u) + self.bow[1] * (1 / 3 - v * v)
        for bx, by, size, reach in self.bumps:
            shape = shape + size * np.exp(
                -((np.asarray(x) - bx) ** 2 + (np.asarray(y) - by) ** 2) / (2 * reach**2)
            )
        return c + a * u + b * v + t * u * v + shape

    def turn(self, knob, turns):
        """Turn a knob, positive tightens and lowers; play is lost where it changes its direction."""
        if turns == 0:
            return
        way = np.sign(turns)
        size = abs(turns)
        if self.last[knob] * way < 0:
            size = max(0.0, size - self.play[knob])
        self.last[knob] = way
        self.ends[knob] -= way * size * self.pitch * self.gain[knob]

    @property
    def out_of_level(self):
        """Highest less lowest of the places nearest the knobs that a tip reaches, mm."""
        return float(np.ptp(self.heights(*self.reached())))

    def reached(self, inset=15.0):
        """Places nearest the knobs that a tip reaches."""
        inset = min(inset, self.width / 8, self.depth / 8)
        return (
            np.clip(self.screws[:, 0], inset, self.width - inset),
            np.clip(self.screws[:, 1], inset, self.depth - inset),
        )


def random_plate(rng, kind=None, start=None):
    """A printer at random: 0.3 to 1.5 mm out of level by its knobs."""
    kind = kind or KINDS[rng.integers(3)]
    width, depth = rng.uniform(150, 330, 2)
    over = rng.uniform(-5, 12)
    if kind == "rigid three":
        screws = np.array([[-over, -over], [width + over, -over], [width / 2, depth + over]])
        if rng.random() < 0.5:
            screws[:, 1] = depth - screws[:, 1]
    else:
        screws = np.array(
            [[-over, -over], [width + over, -over], [width + over, depth + over], [-over, depth + over]]
        )
    n = len(screws)
    pitch = float(rng.choice([0.5, 0.7, 0.7, 0.8]))
    bending = kind == "bending four"
    plate = Plate(
        kind,
        width,
        depth,
        screws,
        pitch,
        stiffness=np.exp(rng.normal(0, 0.15, n)),
        twist_stiffness=float(rng.uniform(0.3, 3.0)) if bending else 60.0,
        ends=np.zeros(n),
        bow=rng.normal(0, 0.02, 2),
        twist=float(rng.normal(0, 0.008)),
        bumps=[
            (rng.uniform(0, width), rng.uniform(0, depth), rng.normal(0, 0.015), rng.uniform(20, 60))
            for _ in range(2)
        ],
        play=np.abs(rng.normal(0.01, 0.01, n)),
        gain=rng.normal(1, 0.02, n),
    )
    target = start if start is not None else float(rng.uniform(0.3, 1.5))
    plate.ends = rng.normal(0, 1, n)
    if not bending:  # a stiff plate is out by its plane alone; the rest only strains the springs
        plate.ends = (
            np.column_stack([screws, np.ones(n)])
            @ np.linalg.lstsq(np.column_stack([screws, np.ones(n)]), plate.ends, rcond=None)[0]
        )
    flat = plate.ends.copy()
    low, high = 0.0, 20.0
    for _ in range(60):
        share = (low + high) / 2
        plate.ends = flat * share
        low, high = (share, high) if plate.out_of_level < target else (low, share)
    # the tip stands where somebody set it once: somewhere about the middle of it all
    x, y = plate.reached()
    plate.ends += rng.uniform(-0.15, 0.15) - float(np.mean(plate.heights(x, y)))
    return plate


class Person:
    """Somebody with a strip of paper: how it feels, how far a knob really goes, what is reported."""

    def __init__(self, rng, plate, careless=0.0, counts=True, z=0.1):
        self.rng, self.plate, self.careless, self.counts = rng, plate, careless, counts
        self.paper = 0.1
        self.z = z
        # where one feel ends and the next begins differs from person to person
        self.edges = np.array([0.015, -0.015, -0.030, -0.050]) + np.sort(rng.normal(0, 0.003, 4))[::-1]
        self.eye = PAPER_SD
        self.hand = HAND_TURN

    def gap(self, x, y, z=None):
        """True gap over a place, mm; nothing or less is pressed."""
        return (self.z if z is None else z) - float(self.plate.heights(np.array([x]), np.array([y]))[0])

    def feel(self, x, y, z=None):
        more = self.gap(x, y, z) - self.paper + self.rng.normal(0, self.eye)
        names = ("free", "slight", "strong", "bunches", "stuck")
        which = int(np.sum(more < self.edges))
        if self.rng.random() < self.careless:
            which = int(np.clip(which + self.rng.choice([-1, 1]), 0, 4))
        return names[which]

    def turn(self, knob, turns):
        """Turn as told, as well as a hand does."""
        self.plate.turnings += 1
        self.plate.turn(knob, turns + self.rng.normal(0, self.hand) if turns else 0.0)

    def turn_until_drags(self, knob, x, y):
        """Turn until the strip just drags; gives what was counted, in eighths, or None."""
        plate = self.plate
        plate.turnings += 1
        goal = self.rng.normal(0, self.eye)
        before_ends, before_last = plate.ends.copy(), plate.last.copy()
        way = 1.0 if self.gap(x, y) - self.paper < goal else -1.0

        def off(turns):
            plate.ends, plate.last = before_ends.copy(), before_last.copy()
            plate.turn(knob, way * turns)
            return way * (self.gap(x, y) - self.paper - goal)

        low, high = 0.0, 8.0
        for _ in range(50):
            middle = (low + high) / 2
            low, high = (middle, high) if off(middle) < 0 else (low, middle)
        made = max(0.0, high + self.rng.normal(0, self.hand))
        off(made)
        if not self.counts:
            return None
        said = round(made * 8) / 8
        if self.rng.random() < self.careless:
            said = max(0.0, said + self.rng.choice([-0.125, 0.125]))
        return way * said


def plain_way(plate, person, places, knobs, passes=3):
    """The patient hand: round and round, each knob until the strip drags, until a whole round needs nothing."""
    history = []
    for _ in range(passes):
        turned = 0
        for (x, y), knob in zip(places, knobs, strict=True):
            if person.feel(x, y) != "slight":
                person.turn_until_drags(knob, x, y)
                turned += 1
        history.append((plate.turnings, plate.out_of_level))
        if not turned:
            break
    return history
