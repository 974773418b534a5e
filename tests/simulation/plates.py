"""Plates, probes, rooms and hands that no number of the product was made for.

Nothing here comes from the product.  A plate is thin and elastic: it has a rest shape of its own, bends at a cost, and
settles on springs of unequal stiffness, so that a knob moves it, tips it and twists it as its stiffness allows.  Probes
scatter, read in steps, go astray now and then and drift while they warm; the room and the frame warm at paces of their
own; hands turn falsely and knobs lose play.  Lengths in mm, times in s; heights are positive towards the nozzle.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.interpolate import RectBivariateSpline

SIDE = 17
"""Nodes a side of the elastic plate."""
SHAPES = ("flat", "dome", "ridge", "saddle", "wave", "bump", "curl", "twist", "dimples", "mixed")


def _second_differences(n: int, h: float) -> np.ndarray:
    rows = np.zeros((n - 2, n))
    for i in range(n - 2):
        rows[i, i : i + 3] = np.array([1.0, -2.0, 1.0]) / h**2
    return rows


def _bending(width: float, depth: float) -> np.ndarray:
    """Stiffness of a free plate of unit rigidity, by differences: curvature along X, along Y, and twist."""
    hx, hy = width / (SIDE - 1), depth / (SIDE - 1)
    one = np.eye(SIDE)
    xx = np.kron(one, _second_differences(SIDE, hx))
    yy = np.kron(_second_differences(SIDE, hy), one)
    step = np.diff(one, axis=0)
    xy = np.kron(step / hy, step / hx)
    cell = hx * hy
    return cell * (xx.T @ xx + yy.T @ yy + 2 * 0.7 * xy.T @ xy)


_KEPT: dict[tuple[float, float], np.ndarray] = {}


def rest_shape(rng, kind: str, size: float, u: np.ndarray, v: np.ndarray, screws) -> np.ndarray:
    """What a plate would be without its springs, u and v from -1 to 1 over the plate."""
    if kind == "flat":
        return 0.0 * u
    if kind == "dome":
        return size * (1 - 0.5 * (u**2 + v**2)) * rng.choice([-1, 1])
    if kind == "ridge":
        way = rng.uniform(0, np.pi)
        return size * (1 - (u * np.cos(way) + v * np.sin(way)) ** 2) * rng.choice([-1, 1])
    if kind == "saddle":
        return size * 0.5 * (u**2 - v**2)
    if kind == "wave":
        pace, way, phase = rng.uniform(0.7, 1.4), rng.uniform(0, np.pi), rng.uniform(0, 2 * np.pi)
        return 0.4 * size * np.sin(np.pi * pace * (u * np.cos(way) + v * np.sin(way)) + phase)
    if kind == "bump":
        at, reach = rng.uniform(-0.6, 0.6, 2), rng.uniform(0.25, 0.5)
        return size * np.exp(-((u - at[0]) ** 2 + (v - at[1]) ** 2) / (2 * reach**2)) * rng.choice([-1, 1])
    if kind == "curl":
        side = rng.choice([-1, 1])
        return size * np.maximum(0.0, side * (u if rng.random() < 0.5 else v) - 0.4) ** 2 / 0.36
    if kind == "twist":
        return 0.6 * size * u * v * rng.choice([-1, 1])
    if kind == "dimples":
        low = sum(np.exp(-((u - a) ** 2 + (v - b) ** 2) / (2 * 0.22**2)) for a, b in screws)
        return -0.6 * size * low
    parts = [k for k in SHAPES if k not in ("mixed", "flat")]
    chosen = rng.choice(parts, 3, replace=False)
    return sum(
        rest_shape(rng, str(k), s * size, u, v, screws) for k, s in zip(chosen, (0.7, 0.4, 0.25), strict=True)
    )


class Plate:
    """A plate on springs, with the knobs that move their ends."""

    def __init__(
        self, rng, *, kind=None, size=None, screws=4, rigidity=None, width=220.0, depth=220.0, tilt=0.3
    ):
        self.rng = rng
        self.width, self.depth = width, depth
        inset = rng.uniform(5, 25)
        a, b = width - inset, depth - inset
        self.places = np.array(
            [(inset, inset), (a, inset), (a, b), (inset, b)]
            if screws == 4
            else [(inset, inset), (a, inset), (width / 2, b)]
        )
        self.kind = kind or str(rng.choice(SHAPES))
        self.size = rng.uniform(0.02, 0.3) if size is None else size
        self.xs, self.ys = np.linspace(0, width, SIDE), np.linspace(0, depth, SIDE)
        u, v = np.meshgrid(2 * self.xs / width - 1, 2 * self.ys / depth - 1)
        spots = [(2 * x / width - 1, 2 * y / depth - 1) for x, y in self.places]
        self.rest = rest_shape(rng, self.kind, self.size, u, v, spots).ravel()
        # from a thin steel sheet to a slab of glass, against springs of some N/mm
        self.rigidity = rng.choice([3e3, 2e4, 1e5, 1e6]) if rigidity is None else rigidity
        self.springs = rng.uniform(2.0, 3.5) * rng.uniform(0.75, 1.3, len(self.places))
        self.pitch = 0.7
        # ends of the springs: out of level by a tilt, and by what nobody matched
        slope = rng.normal(0, tilt / 2, 2)
        mid = self.places.mean(axis=0)
        self.ends = (self.places - mid) / (width, depth) @ slope + rng.normal(0, 0.03, len(self.places))
        self.gain = rng.normal(1, 0.02, len(self.places))
        self.play = np.abs(rng.normal(0.02, 0.015, len(self.places)))
        self.last = np.zeros(len(self.places))
        self._pick = self._picker()
        self._settle()

    def _picker(self):
        pick = np.zeros((len(self.places), SIDE * SIDE))
        for i, (x, y) in enumerate(self.places):
            fx, fy = x / self.width * (SIDE - 1), y / self.depth * (SIDE - 1)
            ix, iy = min(int(fx), SIDE - 2), min(int(fy), SIDE - 2)
            dx, dy = fx - ix, fy - iy
            for jx, wx in ((ix, 1 - dx), (ix + 1, dx)):
                for jy, wy in ((iy, 1 - dy), (iy + 1, dy)):
                    pick[i, jy * SIDE + jx] = wx * wy
        return pick

    def _settle(self):
        key = (self.width, self.depth)
        if key not in _KEPT:
            _KEPT[key] = _bending(*key)
        stiff = _KEPT[key] * self.rigidity
        held = (self._pick.T * self.springs) @ self._pick
        right = stiff @ self.rest + self._pick.T @ (self.springs * self.ends)
        # the plate weighs a little everywhere, which only keeps the sums from being singular
        w = np.linalg.solve(stiff + held + 1e-9 * np.eye(len(right)), right)
        self.surface = RectBivariateSpline(self.ys, self.xs, w.reshape(SIDE, SIDE), kx=3, ky=3)

    def at(self, x, y):
        """True heights, mm."""
        return self.surface.ev(np.asarray(y, float), np.asarray(x, float))

    def grid(self, n=41):
        """Places all over the printable area and their true heights."""
        x, y = (a.ravel() for a in np.meshgrid(np.linspace(0, self.width, n), np.linspace(0, self.depth, n)))
        return x, y, self.at(x, y)

    def slopes(self):
        """Of the plane closest to the whole area, mm per mm."""
        x, y, z = self.grid()
        found = np.linalg.lstsq(
            np.column_stack([x - x.mean(), y - y.mean(), np.ones_like(x)]), z, rcond=None
        )[0]
        return found[:2]

    def middle(self):
        """Height in the middle, mm."""
        return float(self.at(self.width / 2, self.depth / 2))

    def turn(self, turns, hand=1 / 32, slips=None):
        """Turn the knobs (positive tightens and lowers), as a hand does it."""
        for i, wanted in enumerate(turns):
            if wanted == 0:
                continue
            made = wanted + self.rng.normal(0, hand)
            if made * self.last[i] < 0:
                made = np.sign(made) * max(0.0, abs(made) - self.play[i])
            self.last[i] = np.sign(wanted)
            share = 1.0 if slips is None else 1 - slips.get(i, 0.0)
            self.ends[i] -= made * self.pitch * self.gain[i] * share
        self._settle()


@dataclass
class Probe:
    """A way of reading heights."""

    sd: float = 0.005
    step: float = 0.0
    tails: bool = False

    def read(self, rng, true):
        true = np.asarray(true, float)
        noise = rng.standard_t(3, true.shape) / np.sqrt(3) if self.tails else rng.standard_normal(true.shape)
        got = true + self.sd * noise
        return np.round(got / self.step) * self.step if self.step else got


def pattern(side: int, width=220.0, depth=220.0, inset=15.0, share=1.0):
    """Places of a square grid, back and forth; with a share below 1 only over that part of the width."""
    xs = np.linspace(inset, inset + (width - 2 * inset) * share, side)
    ys = np.linspace(inset, depth - inset, side)
    return np.array([(x, y) for j, y in enumerate(ys) for x in (xs if j % 2 == 0 else xs[::-1])])


def warm_up(rng, kind: str, times: np.ndarray) -> np.ndarray:
    """Height of one place while a machine warms, without noise."""
    t = np.asarray(times, float)
    way = rng.choice([-1, 1])
    plate, frame = rng.uniform(120, 400), rng.uniform(700, 2400)
    size = rng.uniform(0.04, 0.2) * way
    if kind == "one":
        return size * (1 - np.exp(-t / plate))
    if kind == "two":
        return size * (1 - np.exp(-t / plate)) + 0.6 * size * (1 - np.exp(-t / frame))
    if kind == "opposed":
        return size * (1 - np.exp(-t / plate)) - 0.6 * size * (1 - np.exp(-t / frame))
    if kind == "dead time":
        late = np.maximum(0.0, t - rng.uniform(60, 300))
        return size * (1 - np.exp(-late / plate))
    if kind == "swing":
        period = rng.uniform(40, 150)
        return size * (1 - np.exp(-t / plate)) + rng.uniform(0.002, 0.006) * np.sin(2 * np.pi * t / period)
    if kind == "never":
        return size * (1 - np.exp(-t / plate)) + way * rng.uniform(0.003, 0.012) * t / 60
    return 0.0 * t


WARMING = ("one", "two", "opposed", "dead time", "swing", "never", "still")
