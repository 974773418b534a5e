"""A tool path bent to a bed: how much Z is added where, and where straight lines have to be cut for it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from finchwort.core.base.geometry import Array, Column, Indices
from finchwort.core.files.forecast import heights_at
from finchwort.core.surveys import Relief

STRAYS = 0.0015
"""Between its corners a bent line strays from the bed by no more, mm (ours)."""
Z_STEP = 0.0025
"""Z is commanded in steps of this, mm: 400 of them to the millimetre is usual (common practice)."""
Z_SPEED = 5.0
"""Screws lift and lower a head or bed this fast without losing steps, mm/s (common practice)."""
THINNED = 0.05
"""While the bend fades out no layer gets thinner or thicker by a larger share (ours)."""
MOST_THINNED = 0.15
"""The same for a height that a person chooses (ours)."""
LEAST_FADE = 2.0
"""A bend fades out over this much at least, mm (ours)."""
LOOKS = 32
"""So often the bed is looked at along a whole line; half as often along its halves, and so on, but four times at least."""
HALVINGS = 12
FLAT = 1e-6
"""A height that changes by less does not change, mm."""


@dataclass(frozen=True, eq=False)
class Bend:
    """How a tool path follows a bed.

    Attributes
    ----------
    relief : Relief
        Heights of the bed, mm.
    zero : float
        Height that the offset was set at, mm: nothing is added there.
    full : float
        Up to this Z the path follows the bed wholly, mm: the first layer's height.
    top : float
        From this Z on it does not follow any more, mm.
    step : float
        Z is commanded in steps of this, mm.
    """

    relief: Relief
    zero: float
    full: float
    top: float
    step: float = Z_STEP

    def bed(self, place: Array) -> Array:
        """Height of the bed over the place where the offset was set, mm; places of shape (n, 2) or (n, 3)."""
        return heights_at(self.relief, place) - self.zero

    def share(self, z: Array) -> Array:
        """How much of the bed is followed at a Z, from 1 to 0."""
        return np.clip((self.top - z) / (self.top - self.full), 0.0, 1.0)

    def added(self, place: Array) -> Array:
        """What is added to Z at places, shape (n, 3), mm.

        Examples
        --------
        >>> bed = Relief(np.array([0.0, 10.0]), np.array([0.0, 10.0]), np.array([[0.0, 0.1], [0.0, 0.1]]))
        >>> bend = Bend(bed, 0.0, 0.2, 2.2)
        >>> bend.added(np.array([[10.0, 5.0, 0.2], [10.0, 5.0, 1.2], [10.0, 5.0, 3.0]])).round(3).tolist()
        [0.1, 0.05, 0.0]
        """
        return self.bed(place) * self.share(place[:, 2])

    def commanded(self, place: Array) -> Array:
        """Z that is commanded at places, shape (n, 3), in whole steps where anything is added, mm."""
        added = self.added(place)
        return np.where(added == 0, place[:, 2], np.rint((place[:, 2] + added) / self.step) * self.step)

    @cached_property
    def reach(self) -> float:
        """Length up to which a level line never strays from the bed by more than is allowed, mm."""
        xs, ys, heights = self.relief.xs, self.relief.ys, self.relief.heights
        across, along = (
            np.diff(heights, axis=1) / np.diff(xs),
            np.diff(heights, axis=0) / np.diff(ys)[:, None],
        )
        # where squares of the relief meet, the slope jumps; within one it turns with the twist
        jumps = [
            np.abs(np.diff(across, axis=1)).max(initial=0.0),
            np.abs(np.diff(along, axis=0)).max(initial=0.0),
        ]
        turns = [
            np.abs(np.diff(across, axis=0)).max(initial=0.0),
            np.abs(np.diff(along, axis=1)).max(initial=0.0),
        ]
        bound = float(sum(jumps) + sum(turns))
        side = float(min(np.diff(xs).min(), np.diff(ys).min()))
        # a line no longer than a square meets no more than one jump along each axis
        return min(side, 4 * STRAYS / bound) if bound > 0 else np.inf


@dataclass(frozen=True)
class Limits:
    """What a bent copy may do at most.

    Attributes
    ----------
    clear : float
        Gap that is left between tip and plate wherever the tip goes along it, mm.
    z_speed : float
        Of what is added to Z, mm/s.
    over : Relief or None
        The bed with all that may stand on it, readings that were set aside among them; the tip stays clear of that too.
    """

    clear: float
    z_speed: float = Z_SPEED
    over: Relief | None = None


def lowest_fade(height: float, range_: float, most: float = THINNED) -> float:
    """From which Z on a bend may have faded out, mm.

    Parameters
    ----------
    height : float
        Of the first layer, mm.
    range_ : float
        The most that is added or taken off, mm.
    most : float
        By which share a layer may get thinner.

    Examples
    --------
    >>> lowest_fade(0.2, 0.3), lowest_fade(0.2, 0.01)
    (6.2, 2.2)
    """
    return round(height + max(LEAST_FADE, range_ / most), 2)


@dataclass(frozen=True, eq=False)
class Cut:
    """Straight lines cut into pieces.

    Attributes
    ----------
    of : ndarray of int, shape (k,)
        Line that each is a piece of, rising.
    share : ndarray, shape (k,)
        How far along its line each piece ends, from 0 to 1.
    end : ndarray, shape (k, 3)
        Its end as it was before bending, mm.
    last : ndarray of bool, shape (k,)
        Whether it is the last one of its line.
    """

    of: Indices
    share: Array
    end: Column
    last: Column


def cut_lines(bend: Bend, start: Column, end: Column) -> Cut:
    """Cut straight lines where a bed bends away from them.

    Parameters
    ----------
    bend : Bend
    start, end : ndarray, shape (n, 3)
        mm, as the file has them.

    Returns
    -------
    Cut
        Between the ends of a piece the height to be added is straight within ``STRAYS``.

    Examples
    --------
    >>> bed = Relief(np.array([0.0, 10.0, 20.0]), np.array([0.0, 20.0]), np.array([[0.0, 0.1, 0.0], [0.0, 0.1, 0.0]]))
    >>> cut = cut_lines(Bend(bed, 0.0, 0.2, 5.2), np.array([[0.0, 1.0, 0.2]]), np.array([[20.0, 1.0, 0.2]]))
    >>> cut.share.tolist(), cut.last.tolist()
    ([0.5, 1.0], [False, True])
    """
    way = end - start
    length = np.hypot(way[:, 0], way[:, 1])
    whole = (length <= bend.reach) & (np.abs(way[:, 2]) < FLAT) | (length < FLAT)
    of = np.flatnonzero(~whole)
    kept_of, kept_to = [np.flatnonzero(whole)], [np.ones(int(whole.sum()))]
    low, high = np.zeros(len(of)), np.ones(len(of))
    for turn in range(HALVINGS + 1):
        if not of.size:
            break
        near, far = (bend.added(start[of] + t[:, None] * way[of]) for t in (low, high))
        strays = np.zeros(len(of))
        for part in np.arange(1, many := max(LOOKS >> turn, 4)) / many:
            t = low + part * (high - low)
            found = bend.added(start[of] + t[:, None] * way[of])
            strays = np.maximum(strays, np.abs(found - near - part * (far - near)))
        bad = strays > STRAYS
        if turn == HALVINGS:
            bad[:] = False
        kept_of.append(of[~bad])
        kept_to.append(high[~bad])
        middle = (low[bad] + high[bad]) / 2
        of = np.repeat(of[bad], 2)
        low, high = (np.column_stack(pair).ravel() for pair in ((low[bad], middle), (middle, high[bad])))
    of, share = np.concatenate(kept_of), np.concatenate(kept_to)
    order = np.lexsort((share, of))
    of, share = of[order], share[order]
    last = np.append(of[1:] != of[:-1], True)
    corner = start[of] + share[:, None] * way[of]
    corner[last] = end[of[last]]
    return Cut(of, share, corner, last)
