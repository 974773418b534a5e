"""The bead of plastic under the tip: its section, and what it becomes in another gap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.errors import OutOfRangeError
from finchwort.core.surveys import Array
from finchwort.core.wording import millimetres

ROUND = 1 - math.pi / 4
"""What the rounded ends of a bead leave empty, as a share of its height squared."""
TOUCH = 0.02
"""Tip and plate this close count as touching, mm: the calipers' and the probe's own uncertainty (common practice)."""
LOOSE = 1 / 3
"""A bead that touches the plate over less than this share of what it should is taken to let go (ours)."""
TIGHT = 1.2
"""So much plastic for the room there is still makes a good layer (ours)."""
CROWDED = 1.6
"""From here on the bead turns see-through and the extruder has to push (ours)."""
BANDS = ("scrapes", "crowded", "close", "good", "far", "loose")
"""From the nozzle on the plate to a thread that does not hold."""
SAID = {
    "scrapes": "the tip touches the plate",
    "crowded": "see-through, ridges beside it",
    "close": "spread wide, ridges pushed up",
    "good": "flattened, lines joined to one sheet",
    "far": "rounded, gaps between the lines",
    "loose": "a round thread that lets go",
}
WIDTHS, HEIGHTS = (0.1, 2.0), (0.04, 1.2)
"""Widths and heights of beads that are printed, mm."""


@dataclass(frozen=True)
class Laid:
    """A bead as it lies in an actual gap.

    Attributes
    ----------
    gap : float
        Tip to plate, mm.
    width, contact_width : float
        Of the bead, and of its foot on the plate, mm.
    height : float
        mm; less than the gap when the bead is a free thread.
    separation : float
        Between neighbours, mm; negative where they overlap.
    fill : float
        Plastic as a share of the room there is between tip and plate.
    band : one of ``BANDS``
    """

    gap: float
    width: float
    contact_width: float
    height: float
    separation: float
    fill: float
    band: str

    @property
    def words(self) -> str:
        """What people call it."""
        return SAID[self.band]


@dataclass(frozen=True)
class Bead:
    """A bead with rounded ends, laid in lines that just fill the layer.

    Parameters
    ----------
    width, height : float
        As sliced, mm; wider than high.
    flow : float, optional
        Plastic pushed out, as a share of what was sliced.

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> bead = Bead(0.42, 0.2)
    >>> round(bead.area, 4), round(bead.spacing, 3), round(bead.free_diameter, 2)
    (0.0754, 0.377, 0.31)
    >>> bead.at_gap(0.2).band, bead.at_gap(0.25).band, bead.at_gap(0.01).band
    ('good', 'far', 'scrapes')
    """

    width: float
    height: float
    flow: float = 1.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.width) and WIDTHS[0] <= self.width <= WIDTHS[1]):
            raise OutOfRangeError(f"A line is {WIDTHS[0]:g} to {WIDTHS[1]:g} mm wide.")
        if not (math.isfinite(self.height) and HEIGHTS[0] <= self.height <= HEIGHTS[1]):
            raise OutOfRangeError(f"A layer is {HEIGHTS[0]:g} to {HEIGHTS[1]:g} mm high.")
        if self.height >= self.width:
            raise OutOfRangeError("A line must be wider than the layer is high.")
        if not (math.isfinite(self.flow) and 0.5 <= self.flow <= 1.5):
            raise OutOfRangeError("Flow is 50 to 150 % of what was sliced.")

    @property
    def area(self) -> float:
        """Section of the plastic pushed out, mm²."""
        return self.flow * ((self.width - self.height) * self.height + math.pi * self.height**2 / 4)

    @property
    def spacing(self) -> float:
        """Distance of lines that just fill the layer as sliced, mm."""
        return self.width - self.height * ROUND

    @property
    def free_diameter(self) -> float:
        """Diameter of the thread where it touches nothing, mm."""
        return 2 * math.sqrt(self.area / math.pi)

    @property
    def foot(self) -> float:
        """How wide the bead touches the plate in the gap it was sliced for, mm."""
        return self.width - self.height

    @property
    def parting_gap(self) -> float:
        """Gap from which on neighbours no longer touch, mm; of narrow beads, that in which they let go of the plate."""
        # A / g + g ROUND = spacing; the smaller root
        reach = self.spacing**2 - 4 * ROUND * self.area
        if reach <= 0:
            return self.free_diameter
        return min(self.free_diameter, (self.spacing - math.sqrt(reach)) / (2 * ROUND))

    def at_gap(self, gap: float) -> Laid:
        """Lay the bead into an actual gap.

        Parameters
        ----------
        gap : float
            Tip to plate, mm; zero or less is contact.

        Returns
        -------
        Laid

        Raises
        ------
        OutOfRangeError
        """
        if not math.isfinite(gap) or abs(gap) > 20:
            raise OutOfRangeError("A gap is a length in mm.")
        band = BANDS[int(self.bands([gap])[0])]
        if gap <= 0:
            return Laid(gap, 0.0, 0.0, 0.0, self.spacing, math.inf, band)
        free = self.free_diameter
        height = min(gap, free)
        width = self.area / height + height * ROUND
        return Laid(
            gap=gap,
            width=width,
            contact_width=max(0.0, width - height),
            height=height,
            separation=self.spacing - width,
            fill=self.area / (self.spacing * gap),
            band=band,
        )

    def limits(self) -> tuple[float, float, float, float, float]:
        """Gaps between the bands of ``BANDS``, rising, mm."""
        foot = LOOSE * self.foot
        # A / g - g pi / 4 = foot
        loose = (-foot + math.sqrt(foot**2 + math.pi * self.area)) / (math.pi / 2)
        full = self.area / self.spacing
        rising = (TOUCH, full / CROWDED, full / TIGHT, self.parting_gap, loose)
        return tuple(np.maximum.accumulate(rising).tolist())

    def bands(self, gaps: ArrayLike) -> Array:
        """Say for many gaps in which band they lie.

        Parameters
        ----------
        gaps : array_like
            mm

        Returns
        -------
        ndarray of int
            Places in ``BANDS``.
        """
        return np.searchsorted(self.limits(), np.asarray(gaps, dtype=np.float64), side="left")

    def sentence(self, gap: float) -> str:
        """Say what a gap makes of the bead."""
        laid = self.at_gap(gap)
        if laid.band == "scrapes":
            return "The tip touches the plate: nothing can come out, and both are spoiled."
        joined = (
            f"lines part by {millimetres(laid.separation)}"
            if laid.separation > 0.0005
            else f"lines overlap by {millimetres(-laid.separation)}"
            if laid.separation < -0.0005
            else "lines just touch"
        )
        foot = (
            f"touches the plate over {millimetres(laid.contact_width)}"
            if laid.contact_width > 0.005
            else "hardly touches the plate"
        )
        return f"In a gap of {millimetres(gap)} the bead is {millimetres(laid.width)} wide and {foot}; {joined}. It looks like this: {laid.words}."
