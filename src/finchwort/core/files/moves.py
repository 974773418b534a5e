"""Moves of the tip as a file commands them, many at a time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Column, Indices
from finchwort.core.files.arcs import arc_sweeps, flatten_arcs

MOVED = 1e-6
"""A way shorter than this is none, mm."""


@dataclass(frozen=True, eq=False)
class Moves:
    """Moves in the order of the file.

    Attributes
    ----------
    start, end : ndarray, shape (n, 3)
        mm
    filament : ndarray, shape (n,)
        Pushed forward during the move, mm; negative where it is drawn back.
    speed : ndarray, shape (n,)
        mm/s; not a number as long as the file gave none.
    line : ndarray of int, shape (n,)
        Line of the file, counted from 1.
    turn : ndarray of int8, shape (n,)
        0 straight, 1 an arc clockwise, -1 counter-clockwise.
    middle : ndarray, shape (n, 2)
        Of the arcs, mm.
    known : ndarray of bool, shape (n,)
        Whether the place of the start is known: before homing it is not.
    """

    start: Column
    end: Column
    filament: Column
    speed: Column
    line: Indices
    turn: Column
    middle: Column
    known: Column

    def __len__(self) -> int:
        """Give how many moves there are."""
        return len(self.line)

    def lengths(self) -> tuple[Column, Column]:
        """Length in the plane, and with the height, of every move, mm."""
        x, y, z = (self.end - self.start).T
        flat = np.sqrt(x * x + y * y)
        arcs = np.flatnonzero(self.turn)
        if arcs.size:
            radius, sweep = arc_sweeps(
                self.start[arcs, :2], self.end[arcs, :2], self.middle[arcs], self.turn[arcs] > 0
            )
            # one that widens is gone along a spiral
            wider = np.hypot(*(self.end[arcs, :2] - self.middle[arcs]).T) - radius
            flat[arcs] = np.hypot((radius + wider / 2) * sweep, wider)
        return flat, np.sqrt(flat * flat + z * z)

    def straightened(self) -> tuple[Indices, Column, Column]:
        """Straight lines in the place of all moves.

        Returns
        -------
        which : ndarray of int, shape (k,)
            Move that each line stands for, rising.
        begin, finish : ndarray, shape (k, 3)
            mm
        """
        arcs = np.flatnonzero(self.turn)
        if not arcs.size:
            return np.arange(len(self)), self.start, self.end
        of_arc, begin, finish = flatten_arcs(
            self.start[arcs], self.end[arcs], self.middle[arcs], self.turn[arcs] > 0
        )
        straight = np.flatnonzero(self.turn == 0)
        which = np.concatenate([straight, arcs[of_arc]])
        order = np.argsort(which, kind="stable")
        return (
            which[order],
            np.concatenate([self.start[straight], begin])[order],
            np.concatenate([self.end[straight], finish])[order],
        )

    def chosen(self, which: Column) -> Moves:
        """Give some of the moves."""
        return Moves(
            self.start.T[:, which].T,
            self.end.T[:, which].T,
            self.filament[which],
            self.speed[which],
            self.line[which],
            self.turn[which],
            self.middle.T[:, which].T,
            self.known[which],
        )
