"""Which part of a print a place belongs to, above its first layer too."""

from __future__ import annotations

import numpy as np
from scipy import ndimage

from finchwort.core.base.geometry import Array, Column, Indices
from finchwort.core.files.first_layer import FirstLayer
from finchwort.core.files.forecast import cut_in_pieces

CELL = 0.5
"""Side of a square, mm."""
AROUND = 40.0
"""So far beyond the outermost foot places are told apart, mm; what lies beyond belongs to the rim there."""


class Regions:
    """A place belongs to the part whose foot is nearest.

    Parameters
    ----------
    layer : FirstLayer
        With at least one line that belongs to a part.

    Examples
    --------
    >>> ends = np.array([[10.0, 10.0], [30.0, 10.0]])
    >>> ones = np.ones(2)
    >>> lines = ends, ends + (2, 0), 0.4 * ones, ones, ones, np.arange(2), np.arange(2)
    >>> layer = FirstLayer(0.2, *lines, np.zeros(2, np.int8), np.arange(2, dtype=np.int16))
    >>> Regions(layer).at(np.array([[12.0, 25.0], [24.0, 0.0], [900.0, 0.0]])).tolist()
    [0, 1, 1]
    """

    def __init__(self, layer: FirstLayer) -> None:
        pieces = cut_in_pieces(layer, CELL)
        mine = pieces.part >= 0
        place: Array = pieces.middle[mine]
        self.corner = place.min(axis=0) - AROUND
        self.columns, self.rows = (
            int(side) for side in np.ceil((place.max(axis=0) + AROUND - self.corner) / CELL) + 1
        )
        seeds = np.full((self.rows, self.columns), -1, dtype=np.int16)
        row, column = self._squares(place)
        seeds[row, column] = pieces.part[mine]
        near = ndimage.distance_transform_edt(seeds < 0, return_distances=False, return_indices=True)
        self.nearest: Column = seeds[near[0], near[1]]

    def at(self, place: Column) -> Indices:
        """Part that each of some places, shape (n, 2), mm, belongs to."""
        row, column = self._squares(place)
        found: Indices = self.nearest[row, column].astype(np.intp)
        return found

    def _squares(self, place: Column) -> tuple[Indices, Indices]:
        x, y = ((place[:, axis] - self.corner[axis]) / CELL for axis in (0, 1))
        return (
            np.clip(y, 0, self.rows - 1).astype(np.intp),
            np.clip(x, 0, self.columns - 1).astype(np.intp),
        )
