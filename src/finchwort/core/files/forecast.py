"""What the first layer of a print will be along its own lines: too close, good, too far, part by part."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array, Column, Indices
from finchwort.core.files.feet import Foot
from finchwort.core.files.first_layer import FirstLayer
from finchwort.core.files.kinds import ROLES, LineRole
from finchwort.core.first_layer import BANDS, LOOSE, ROUND, SAFE, TOUCH, Bead, best_change
from finchwort.core.surveys import Relief

PIECE = 4.0
"""Lines are looked at in pieces no longer than this, mm: a bed bends little within it (ours)."""
SHEETS = 0.01
"""Widths closer than this make the same bead, mm."""
FURTHEST = 2.0
"""Nobody trims further, mm."""
SAMPLES = 20_000
"""Places from which the best height of the tip is found."""
LOWEST = 0.05
"""No part is lower, mm: one thin layer."""
GOOD = BANDS.index("good")


@dataclass(frozen=True, eq=False)
class Pieces:
    """Lines of a first layer in short pieces, each with the bead it is laid as.

    Attributes
    ----------
    start, end : ndarray, shape (n, 2)
        mm
    of : ndarray of int, shape (n,)
        Line of the layer that each is a piece of.
    bead : ndarray of int, shape (n,)
        Places in ``limits``.
    limits : ndarray, shape (k, 5)
        Gaps between the bands of ``BANDS`` for each bead, mm.
    widths : ndarray, shape (k,)
        Of the beads, mm.
    height : float
        Of the layer, mm.
    layer : FirstLayer
    """

    start: Array
    end: Array
    of: Indices
    bead: Indices
    limits: Array
    widths: Array
    height: float
    layer: FirstLayer

    @cached_property
    def length(self) -> Array:
        """Of each piece, mm."""
        return np.hypot(self.end[:, 0] - self.start[:, 0], self.end[:, 1] - self.start[:, 1])

    @cached_property
    def middle(self) -> Array:
        """Of each piece, shape (n, 2), mm."""
        return (self.start + self.end) / 2

    @cached_property
    def part(self) -> Column:
        """Part of each piece; -1 for none."""
        return self.layer.part[self.of]


@dataclass(frozen=True)
class Worst:
    """The place that is furthest from good.

    Attributes
    ----------
    x, y : float
        mm
    gap : float
        Tip to plate, mm.
    band : str
        One of ``BANDS``.
    line : int
        Of the file.
    """

    x: float
    y: float
    gap: float
    band: str
    line: int


@dataclass(frozen=True)
class PartForecast:
    """What is foretold of one part.

    Attributes
    ----------
    shares : dict of str to float
        Share of the length of its lines, brim and all, in each band.
    touches : float
        How much of its foot, brim and all, will touch the plate, mm².
    holds : float
        The same, as a share of what it would be in the gap it was sliced for; at most 1.
    steady : float
        What touches, times half the breadth it stands on, over the height: the less, the sooner it lets go, mm².
    """

    shares: dict[str, float]
    touches: float
    holds: float
    steady: float


@dataclass(frozen=True, eq=False)
class PrintForecast:
    """The first layer of a print as it will be laid.

    Attributes
    ----------
    gap : ndarray, shape (n,)
        Tip to plate at each piece, mm.
    band : ndarray of int, shape (n,)
        Places in ``BANDS``.
    shares : dict of str to float
        Share of the length in each band; skirt and purge line are left out.
    parts : tuple of PartForecast
    first : int or None
        Part that lets go first: one with hardly a foot, else the one that stands least firmly; None without parts.
    worst : Worst
    least : float
        Smallest gap anywhere, mm.
    best : float
        Change of the tip's height that makes most of the length good, without touching, mm, positive away.
    best_share : float
    """

    gap: Array
    band: Indices
    shares: dict[str, float]
    parts: tuple[PartForecast, ...]
    first: int | None
    worst: Worst
    least: float
    best: float
    best_share: float

    @property
    def touches(self) -> bool:
        """Whether the tip would touch somewhere."""
        return self.least <= TOUCH


def cut_in_pieces(layer: FirstLayer, most: float = PIECE) -> Pieces:
    """Cut the lines of a layer into pieces.

    Parameters
    ----------
    layer : FirstLayer
    most : float
        No piece is longer, mm.
    """
    length = layer.length
    many = np.maximum(np.ceil(length / most - 1e-9), 1).astype(np.intp)
    of = np.repeat(np.arange(len(many)), many)
    last = np.cumsum(many)
    step = np.arange(len(of)) - np.repeat(last - many, many)
    way = (layer.end - layer.start) / many[:, None]
    start = layer.start[of] + step[:, None] * way[of]
    sheets = np.rint(layer.width / SHEETS).astype(np.intp)
    found, bead = np.unique(sheets, return_inverse=True)
    beads = [bead_of(float(sheet) * SHEETS, layer.height) for sheet in found]
    return Pieces(
        start,
        start + way[of],
        of,
        bead[of],
        np.array([one.limits() for one in beads]),
        np.array([one.width for one in beads]),
        layer.height,
        layer,
    )


def bead_of(width: float, height: float) -> Bead:
    """The bead of a line; one that is higher than wide is taken as nearly round, one beyond all measure as the nearest.

    Examples
    --------
    >>> bead_of(0.15, 0.2).width
    0.21
    """
    height = min(max(height, 0.04), 1.2)
    return Bead(round(min(max(width, 1.05 * height, 0.1), 2.0), 4), height)


def heights_at(relief: Relief, place: Array) -> Array:
    """Heights of a bed at places, shape (n, 2), mm, by straight lines within its squares; the rim is carried on.

    Examples
    --------
    >>> bed = Relief(np.array([0.0, 10.0]), np.array([0.0, 10.0]), np.array([[0.0, 1.0], [2.0, 3.0]]))
    >>> heights_at(bed, np.array([[5.0, 5.0], [20.0, 5.0]])).tolist()
    [1.5, 2.0]
    """
    xs, ys = relief.xs, relief.ys
    # both are evenly spaced
    u = np.clip((place[:, 0] - xs[0]) / (xs[1] - xs[0]), 0, len(xs) - 1)
    v = np.clip((place[:, 1] - ys[0]) / (ys[1] - ys[0]), 0, len(ys) - 1)
    column = np.minimum(u.astype(np.intp), len(xs) - 2)
    row = np.minimum(v.astype(np.intp), len(ys) - 2)
    u -= column
    v -= row
    flat = relief.heights.ravel()
    at = row * len(xs) + column
    lower = flat[at] + u * (flat[at + 1] - flat[at])
    at += len(xs)
    upper = flat[at] + u * (flat[at + 1] - flat[at])
    return lower + v * (upper - lower)


def bands_of(pieces: Pieces, gap: Array) -> Indices:
    """Band of each piece in a gap (mm), each by the limits of its own bead."""
    band = np.zeros(len(gap), dtype=np.intp)
    for i in range(pieces.limits.shape[1]):
        band += gap > pieces.limits[:, i][pieces.bead]
    return band


def forecast_print(
    layer: FirstLayer | Pieces,
    parts: tuple[Foot, ...],
    relief: Relief,
    zero: float = 0.0,
    gaps: Array | None = None,
) -> PrintForecast:
    """Foretell a first layer along its lines.

    Parameters
    ----------
    layer : FirstLayer or Pieces
    parts : tuple of Foot
    relief : Relief
        Heights that the nozzle meets; with compensation taken off where the machine compensates.
    zero : float
        Gap at Z = 0 over a place of height 0, mm.
    gaps : ndarray, optional
        Of the pieces at zero 0, when they are known already.

    Returns
    -------
    PrintForecast

    Raises
    ------
    OutOfRangeError
    """
    if not (math.isfinite(zero) and abs(zero) <= FURTHEST):
        raise OutOfRangeError("first_layer.gap_within_mm", furthest=FURTHEST)
    pieces = layer if isinstance(layer, Pieces) else cut_in_pieces(layer)
    gap = (gaps_over(pieces, relief) if gaps is None else gaps) + zero
    band = bands_of(pieces, gap)
    role = pieces.layer.role[pieces.of]
    counted = (role != ROLES.index(LineRole.SKIRT)) & (role != ROLES.index(LineRole.PURGE))
    if not counted.any():
        counted[:] = True
    length = pieces.length
    shares = _shares(band[counted], length[counted])
    contact, ideal = _contact(pieces, gap)
    foretold = tuple(
        _of_part(pieces.part == i, foot, band, length, contact, ideal) for i, foot in enumerate(parts)
    )
    first = _first_to_let_go(foretold)
    best, best_share = _best(pieces, gap, counted)
    return PrintForecast(
        gap,
        band,
        shares,
        foretold,
        first,
        _worst(pieces, gap, band, counted),
        float(gap.min()),
        best,
        best_share,
    )


def gaps_over(pieces: Pieces, relief: Relief) -> Array:
    """Gap of each piece when the tip's zero is that of the bed's heights, mm."""
    return pieces.height - heights_at(relief, pieces.middle)


def _shares(band: Indices, length: Array) -> dict[str, float]:
    total = float(length.sum())
    sums = np.bincount(band, weights=length, minlength=len(BANDS))
    return {str(name): float(one) / total if total else 0.0 for name, one in zip(BANDS, sums, strict=True)}


def _contact(pieces: Pieces, gap: Array) -> tuple[Array, Array]:
    """Breadth over which each piece touches the plate, and would in the gap it was sliced for, mm.

    A bead spread wider than its spacing meets its neighbour; what lies scraped thin touches over all its room.
    """
    height = pieces.height
    area = (pieces.widths - height) * height + math.pi * height**2 / 4
    spacing = (pieces.widths - height * ROUND)[pieces.bead]
    free = 2 * np.sqrt(area / math.pi)[pieces.bead]
    safe = np.clip(gap, TOUCH, free)
    breadth = area[pieces.bead] / safe + safe * ROUND - safe
    breadth = np.where(gap >= free, 0.0, np.clip(breadth, 0.0, spacing))
    return breadth, (pieces.widths - height)[pieces.bead]


def _of_part(
    mine: Column, foot: Foot, band: Indices, length: Array, contact: Array, ideal: Array
) -> PartForecast:
    touches = float((contact[mine] * length[mine]).sum())
    wanted = float((ideal[mine] * length[mine]).sum())
    breadth = foot.narrow + 2 * foot.brim
    return PartForecast(
        _shares(band[mine], length[mine]),
        touches,
        min(1.0, touches / wanted) if wanted else 0.0,
        touches * breadth / 2 / max(foot.height, LOWEST),
    )


def _first_to_let_go(parts: tuple[PartForecast, ...]) -> int | None:
    """The part that has hardly a foot, in the first layer already; else the one that stands least firmly."""
    if not parts:
        return None
    loose = min(range(len(parts)), key=lambda i: parts[i].holds)
    if parts[loose].holds < LOOSE:
        return loose
    return min(range(len(parts)), key=lambda i: parts[i].steady)


def _worst(pieces: Pieces, gap: Array, band: Indices, counted: Column) -> Worst:
    limits = pieces.limits[pieces.bead]
    off = np.maximum(limits[:, GOOD - 1] - gap, gap - limits[:, GOOD])
    # what scrapes is worse than what does not hold
    off = np.where(band == 0, off + 10.0, off)
    at = int(np.argmax(np.where(counted, off, -np.inf)))
    x, y = pieces.middle[at]
    return Worst(
        float(x), float(y), float(gap[at]), str(BANDS[band[at]]), int(pieces.layer.line[pieces.of[at]])
    )


def _best(pieces: Pieces, gap: Array, counted: Column) -> tuple[float, float]:
    """Best change of the tip's height for places spread evenly along the lines."""
    length = np.where(counted, pieces.length, 0.0)
    along = np.cumsum(length)
    places = np.searchsorted(along, (np.arange(SAMPLES) + 0.5) / SAMPLES * along[-1])
    chosen = gap[np.minimum(places, len(gap) - 1)]
    usual = float(np.median(pieces.widths[pieces.bead[counted]]))
    # what is left out must not touch either
    lowest = float(gap.min())
    best, share = best_change(np.append(chosen, lowest), bead_of(usual, pieces.height))
    return max(best, SAFE - lowest), share
