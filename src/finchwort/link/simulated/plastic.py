"""Plastic on the bed of a machine that is not there: what was laid where, into which gap, and how it looks.

Lengths are mm.  It knows nothing of slicing: how full a patch is follows from the filament that was pushed, the
area it was spread over, and the gap under the tip.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from scipy.spatial import ConvexHull, QhullError

APART = 3.0
"""A way without plastic that is longer than this begins a new patch, mm."""
SAMPLE = 2.0
"""Gaps are looked at so often along a line, mm."""
SCRAPE = 0.012
LOOKS = (
    (0.74, "far_too_far", "round threads that come off"),
    (0.87, "too_far", "lines with gaps between them"),
    (1.2, "good", "one even sheet"),
    (1.56, "too_close", "ridges pushed up beside the lines"),
    (math.inf, "far_too_close", "see-through, torn up in places"),
)
"""Up to which share of plastic to room a patch looks how."""


@dataclass
class Island:
    """A patch: strokes without a long way between them."""

    volume: float = 0.0
    length: float = 0.0
    points: list[tuple[float, float]] = field(default_factory=list)
    gaps: list[float] = field(default_factory=list)
    weights: list[float] = field(default_factory=list)

    def outline(self) -> np.ndarray | None:
        """Corners of what it covers; None for a mere line."""
        points = np.array(self.points)
        if len(points) < 4:
            return None
        try:
            return points[ConvexHull(points).vertices]
        except QhullError:
            return None

    def look(self) -> dict[str, Any]:
        """How it looks, for the page."""
        gap = float(np.average(self.gaps, weights=self.weights))
        low, high = np.min(self.points, axis=0), np.max(self.points, axis=0)
        results = {
            "x": round(float(low[0] + high[0]) / 2, 1),
            "y": round(float(low[1] + high[1]) / 2, 1),
            "gap": round(gap, 4),
            "outline": [],
            "fill": None,
            "look": "line",
            "words": "a line",
        }
        corners = self.outline()
        if min(self.gaps) <= SCRAPE:
            return results | {"look": "scraped", "words": "scraped: the tip was on the plate"}
        if corners is None:
            return results
        x, y = corners.T
        inner = abs(float(x @ np.roll(y, -1) - y @ np.roll(x, -1))) / 2
        rim = float(np.hypot(x - np.roll(x, -1), y - np.roll(y, -1)).sum())
        # lines reach half their distance beyond the outermost path
        area = inner + rim * inner / self.length / 2
        fill = self.volume / (area * gap)
        look, words = next((look, words) for most, look, words in LOOKS if fill <= most)
        return results | {
            "outline": [[round(float(px), 1), round(float(py), 1)] for px, py in corners],
            "fill": round(fill, 3),
            "look": look,
            "words": words,
        }


class Sheet:
    """All that lies on the bed."""

    MAX_ISLANDS = 80
    """So many patches fit on a page."""

    def __init__(self) -> None:
        self.islands: list[Island] = []
        self._new = True
        self._way = 0.0

    def clear(self) -> None:
        """Take everything off."""
        self.__init__()

    def travel(self, far: float) -> None:
        """Note a way without plastic."""
        self._way += far
        self._new = self._new or self._way > APART

    def lay(self, start: tuple[float, float], end: tuple[float, float], volume: float, gap) -> None:
        """Lay plastic along a line; ``gap`` gives the gap at places."""
        if self._new and len(self.islands) < self.MAX_ISLANDS:
            self.islands.append(Island())
        self._new, self._way = False, 0.0
        island = self.islands[-1]
        far = math.dist(start, end)
        count = max(1, round(far / SAMPLE))
        share = (np.arange(count) + 0.5) / count
        xs = start[0] + (end[0] - start[0]) * share
        ys = start[1] + (end[1] - start[1]) * share
        island.volume += volume
        island.length += far
        island.points += [start, end]
        island.gaps += np.asarray(gap(xs, ys), dtype=float).tolist()
        island.weights += [far / count] * count

    def looks(self) -> list[dict[str, Any]]:
        """How each patch looks, oldest first; the line that fills the nozzle is none."""
        results = [island.look() for island in self.islands if island.length > 0]
        patches = [result for result in results if result["look"] != "line"]
        for number, patch in enumerate(patches, 1):
            patch["number"] = number
        return patches
