"""A print as its file tells it: first layer, parts, commands and sums."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Column
from finchwort.core.files.commands import Command, in_force
from finchwort.core.files.feet import Foot
from finchwort.core.files.first_layer import FirstLayer, commonest
from finchwort.core.files.gathering import BASE, CELL, RATES, REACH, Extreme, Gathering
from finchwort.core.files.kinds import LineRole, Told


@dataclass(frozen=True)
class Stated:
    """What the remarks of a file say of its settings; nothing where they are silent.

    Attributes
    ----------
    nozzle : float or None
        Diameter of the nozzle's hole, mm.
    filament : float or None
        Diameter of the filament, mm.
    material : str or None
    """

    nozzle: float | None = None
    filament: float | None = None
    material: str | None = None


@dataclass(frozen=True, eq=False)
class LowMap:
    """How low ways and plastic lead, square by square.

    Attributes
    ----------
    x, y : float
        Corner of the first square, mm.
    height : ndarray, shape (rows, columns)
        mm; not a number where nothing leads.
    line : ndarray of int32
        Of the file.
    """

    x: float
    y: float
    height: Column
    line: Column

    def lowest_in(self, box: tuple[float, float, float, float]) -> Extreme | None:
        """Lowest way over a rectangle (x_min, y_min, x_max, y_max in mm); None where there is none."""
        rows, columns = self.height.shape
        left, right = (min(max(int((v - self.x) / CELL), 0), columns) for v in (box[0], box[2] + CELL))
        front, back = (min(max(int((v - self.y) / CELL), 0), rows) for v in (box[1], box[3] + CELL))
        part = self.height[front:back, left:right]
        if not part.size or not np.isfinite(part).any():
            return None
        at = np.unravel_index(int(np.nanargmin(part)), part.shape)
        return Extreme(float(part[at]), int(self.line[front:back, left:right][at]))


def low_map(found: Gathering) -> LowMap:
    """Cut what is used out of the map of all places."""
    values = [[one.value for one in side] for side in (found.plastic, found.ways)]
    box = [np.nanmin([values[0][i], values[1][i]]) for i in (0, 1)]
    box += [np.nanmax([values[0][i], values[1][i]]) for i in (2, 3)]
    column = np.clip((np.array(box) - REACH[0]) / CELL, 0, found.lowest.shape[0] - 1).astype(np.intp)
    part = slice(column[1], column[3] + 1), slice(column[0], column[2] + 1)
    height = np.where(found.lowest[part] > 0, found.lowest[part] - BASE, np.nan)
    return LowMap(
        float(column[0] * CELL + REACH[0]),
        float(column[1] * CELL + REACH[0]),
        np.round(height.astype(np.float64), 3),
        found.lowest_line[part].copy(),
    )


@dataclass(frozen=True, eq=False)
class PrintFile:
    """What is kept of a file.

    Attributes
    ----------
    layer : FirstLayer
    parts : tuple of Foot
    commands : tuple of Command
        In the order of the file.
    stated : Stated
    lines : int
        Of the file.
    size : int
        Bytes of text.
    filament : float
        Pushed forward, mm.
    section : float
        Of the filament, mm².
    seconds : float
        About how long the moves take, without heating.
    layers : int
        Levels with plastic.
    top : float
        Highest of them, mm.
    plastic, ways : tuple of Extreme
        Furthest places: least X, least Y, greatest X, greatest Y.
    fastest : Extreme
        Most plastic per second, mm³/s.
    rates : ndarray
        Seconds at each volume per second, by ``RATES``.
    sloped : float
        Share of the plastic that is laid while rising or falling.
    ended : bool
        Whether the nozzle's heater is switched off at the end.
    low : LowMap
    """

    layer: FirstLayer
    parts: tuple[Foot, ...]
    commands: tuple[Command, ...]
    stated: Stated
    lines: int
    size: int
    filament: float
    section: float
    seconds: float
    layers: int
    top: float
    plastic: tuple[Extreme, ...]
    ways: tuple[Extreme, ...]
    fastest: Extreme
    rates: Column
    sloped: float
    ended: bool
    low: LowMap

    @property
    def volume(self) -> float:
        """Plastic, mm³."""
        return self.filament * self.section

    def grams(self, density: float) -> float:
        """Weight, for a density in g/cm³."""
        return self.volume * density / 1000

    def _chosen(self) -> Column:
        mine = self.layer.of_parts
        return mine if mine.any() else np.ones(len(self.layer), dtype=bool)

    @property
    def line_width(self) -> float:
        """Commonest width of what is part, mm."""
        mine = self._chosen()
        return commonest(self.layer.width[mine], self.layer.length[mine], 0.01)

    @property
    def speed(self) -> float | None:
        """Commonest speed of what is part, mm/s; None when the file gives none."""
        mine = self._chosen() & np.isfinite(self.layer.speed)
        if not mine.any():
            return None
        return commonest(self.layer.speed[mine], self.layer.length[mine], 0.5)

    def _set(self, *whats: Told) -> float | None:
        """What was set most of the first layer long."""
        mine = self._chosen()
        values = in_force(self.commands, whats, self.layer.line[mine], float("nan"))
        known = np.isfinite(values)
        if not known.any():
            return None
        return commonest(values[known], self.layer.length[mine][known], 1.0)

    @property
    def bed(self) -> float | None:
        """Bed in the first layer, °C."""
        return self._set(Told.BED, Told.BED_WAIT)

    @property
    def nozzle(self) -> float | None:
        """Nozzle in the first layer, °C."""
        return self._set(Told.NOZZLE, Told.NOZZLE_WAIT)

    @property
    def fan(self) -> float:
        """Part fan in the first layer, per cent; off as long as nothing is said."""
        return self._set(Told.FAN) or 0.0

    @property
    def first_line(self) -> int:
        """Line of the file where the first layer of the parts begins."""
        return int(self.layer.line[self._chosen()].min())

    def length_of(self, role: LineRole) -> float:
        """Length of the first layer's lines of one role, mm."""
        return float(self.layer.length[self.layer.role == list(LineRole).index(role)].sum())

    def share_above(self, rate: float) -> float:
        """Share of the time of laying plastic that is above a volume per second (mm³/s)."""
        total = float(self.rates.sum())
        return float(self.rates[rate <= RATES].sum()) / total if total else 0.0
