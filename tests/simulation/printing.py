"""A machine that prints files on a bed of its own, and somebody who looks at the first layer afterwards.

Nothing here comes from the product.  Its bed has ripples finer than any survey, its probe reads a little wrongly, its
Z screw goes in steps with play when it turns round, and the frame grows while the first layer is laid.  A line is taken
for how its plastic fills the room below the tip, against how it was meant to.  Lengths in mm, times in s; heights towards the nozzle.
"""

import math
from dataclasses import dataclass, field

import numpy as np

from tests.fixtures.plain_reader import read_plain

FILAMENT = math.pi * 1.75**2 / 4
SCRAPES = 0.02
FILLED = (0.8, 1.3)
"""A line is good that fills the room below the tip so much as it was meant to: less is a thread, more is pressed out."""
PATCH = 12.0
MOSTLY = 0.9
"""Share of a patch that has to be good."""


@dataclass
class Plate:
    """A domed plate with a twist, a dent and ripples; height over the middle of a bed of so many mm."""

    width: float = 330.0
    depth: float = 310.0
    dome: float = 0.2
    twist: float = 0.05
    dent: tuple = (90.0, 235.0, -0.03, 30.0)
    ripple: float = 0.004

    def height(self, x, y):
        x, y = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
        u, v = 2 * x / self.width - 1, 2 * y / self.depth - 1
        dx, dy, deep, reach = self.dent
        dent = deep * np.exp(-((x - dx) ** 2 + (y - dy) ** 2) / (2 * reach**2))
        ripple = self.ripple * np.sin(x / 3.7) * np.cos(y / 4.3)
        return -self.dome * (u**2 + v**2) / 2 + self.twist * u * v / 2 + dent + ripple

    def survey(self, rng, many=7, noise=0.006, inset=15.0):
        """Readings of a probe: x, y, height."""
        xs, ys = np.linspace(inset, self.width - inset, many), np.linspace(inset, self.depth - inset, many)
        x, y = (grid.ravel() for grid in np.meshgrid(xs, ys))
        return x, y, self.height(x, y) + rng.normal(0, noise, x.size)


@dataclass
class Machine:
    """A head on a screw: steps, play, growth; its zero was set over the middle of the bed."""

    plate: Plate
    step: float = 0.0025
    play: float = 0.006
    growth: float = 0.01
    grows_over: float = 900.0
    offset_error: float = 0.004
    beads: list = field(default_factory=list)
    touched: bool = False

    def print(self, text, first=0.25):
        """Print a file as far as its first layer goes; give the lines as x, y, length, filled."""
        middle = float(self.plate.height(self.plate.width / 2, self.plate.depth / 2))
        seconds, lagging, way_up = 0.0, 0.0, None
        self.beads, self.touched = [], False
        for move in read_plain(text).moves:
            length = math.dist(move.start[:2], move.end[:2])
            if move.end[2] != move.start[2]:
                # play shows for as long as the screw has turned round
                up = move.end[2] > move.start[2]
                lagging = self.play if way_up is not None and up != way_up else lagging
                lagging = max(lagging - abs(move.end[2] - move.start[2]), 0.0)
                way_up = up
            seconds += max(length, abs(move.end[2] - move.start[2])) / max(move.speed, 1e-3)
            if min(move.start[2], move.end[2]) > first + 0.3 or length == 0:
                continue
            for t in (np.arange(many := max(1, math.ceil(length / 2))) + 0.5) / many:
                x, y, z = (a + t * (b - a) for a, b in zip(move.start, move.end, strict=True))
                tip = round(z / self.step) * self.step + (lagging if way_up else -lagging) * 0.5
                grown = self.growth * (1 - math.exp(-seconds / self.grows_over))
                gap = tip + grown + self.offset_error - (float(self.plate.height(x, y)) - middle)
                self.touched |= gap < SCRAPES
                if move.filament > 0:
                    self.beads.append((x, y, length / many, move.filament / length * FILAMENT, gap, z))
        return self

    def patches(self, height, width, boxes):
        """Share of each patch of the first layer that is good, by the box (x0, y0, x1, y1) of its part."""
        beads = np.array(self.beads)
        nominal = beads[:, 4] < 1.6 * height
        meant = beads[:, 3] / (width * height)
        filled = beads[:, 3] / (width * np.maximum(beads[:, 4], 1e-6)) / meant
        good = (filled >= FILLED[0]) & (filled <= FILLED[1]) & (beads[:, 4] > SCRAPES)
        found = {}
        for name, (x0, y0, x1, y1) in boxes.items():
            inside = (beads[:, 0] >= x0) & (beads[:, 0] <= x1) & (beads[:, 1] >= y0) & (beads[:, 1] <= y1)
            inside &= nominal
            cell = np.floor((beads[:, 0] - x0) / PATCH) * 1000 + np.floor((beads[:, 1] - y0) / PATCH)
            for one in np.unique(cell[inside]):
                mine = inside & (cell == one)
                share = beads[mine & good, 2].sum() / beads[mine, 2].sum()
                found[name, int(one)] = float(share)
        return found
