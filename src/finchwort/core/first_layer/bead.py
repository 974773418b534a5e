"""The bead of plastic under the tip: its section, and what it becomes in another gap."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Indices
from finchwort.core.base.wording import millimetres
from finchwort.core.first_layer.kinds import Band

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
BANDS = tuple(Band)
"""From the nozzle on the plate to a thread that does not hold."""
TEXTURE = 0.04
"""How deep the pits of a textured plate are taken to be, mm (common practice: trimmed 0.02 to 0.05 mm closer for them)."""
MAX_ROUGH = 0.2
"""No texture is deeper, mm."""
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


NOTHING = 1e-9
"""A gap below this is none, mm: a bead in it would have no end."""


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
    >>> print(bead.at_gap(0.2).band, bead.at_gap(0.25).band, bead.at_gap(0.01).band)
    good far scrapes
    """

    width: float
    height: float
    flow: float = 1.0

    def __post_init__(self) -> None:
        if not (math.isfinite(self.width) and WIDTHS[0] <= self.width <= WIDTHS[1]):
            raise OutOfRangeError("first_layer.line_mm_wide", widths=WIDTHS[0], widths_2=WIDTHS[1])
        if not (math.isfinite(self.height) and HEIGHTS[0] <= self.height <= HEIGHTS[1]):
            raise OutOfRangeError("first_layer.layer_mm_high", heights=HEIGHTS[0], heights_2=HEIGHTS[1])
        if self.height >= self.width:
            raise OutOfRangeError("first_layer.line_wider_layer_high")
        if not (math.isfinite(self.flow) and 0.5 <= self.flow <= 1.5):
            raise OutOfRangeError("first_layer.flow_sliced")

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
            raise OutOfRangeError("first_layer.gap_length_mm")
        band = BANDS[int(self.bands([gap])[0])]
        if gap <= NOTHING:
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
        # a nearly round line loses its foot before its neighbours part: it is not good without a foot
        rising = (TOUCH, full / CROWDED, full / TIGHT, min(self.parting_gap, loose), loose)
        return tuple(np.maximum.accumulate(rising).tolist())

    def bands(self, gaps: ArrayLike) -> Indices:
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

    def flare(self, gap: float) -> float:
        """How far the outermost line stands beyond the sliced edge, mm: the elephant foot of one side.

        Examples
        --------
        >>> round(Bead(0.42, 0.2).flare(0.15), 3), Bead(0.42, 0.2).flare(0.2)
        (0.057, 0.0)
        """
        return max(0.0, (self.at_gap(gap).width - self.width) / 2) + 0.0

    def wall_gap(self, gap: float, overlap: float = 0.0) -> float:
        """Gap between the last line of the fill and the wall, mm; negative where they overlap.

        Parameters
        ----------
        gap : float
            Tip to plate, mm.
        overlap : float
            By which the slicer lets fill and wall overlap, mm.

        Examples
        --------
        >>> round(Bead(0.42, 0.2).wall_gap(0.26), 3)
        0.031
        """
        return self.at_gap(gap).separation - overlap

    def room_with(self, rough: float) -> float:
        """Gap that has the room of a smooth one of the layer's height on a plate with pits so deep (mm), mm.

        Half of what lies between peaks and pits is taken to be pit, which the melt fills first.

        Examples
        --------
        >>> round(Bead(0.42, 0.2).room_with(0.04), 3)
        0.18
        """
        if not (math.isfinite(rough) and 0 <= rough <= MAX_ROUGH):
            raise OutOfRangeError("first_layer.plate_texture_up_mm", max_rough=MAX_ROUGH)
        return max(TOUCH, self.height - rough / 2)

    def notes(self, gap: float, rough: float = 0.0, flat: float | None = None) -> tuple[str, ...]:
        """Say what a gap does to edges and joints, and what a rough plate and the nozzle's flat make of it.

        Parameters
        ----------
        gap : float
            Tip to plate, mm.
        rough : float
            Depth of the plate's texture, mm.
        flat : float, optional
            Width of the flat round the nozzle's bore, mm.

        Returns
        -------
        tuple of str
            Empty where there is nothing to say.
        """
        laid = self.at_gap(gap)
        sentences = []
        if laid.band == "scrapes":
            return ()
        flare = self.flare(gap)
        if flare >= 0.02:
            sentences.append(
                f"Every edge of the part stands {millimetres(flare)} too far out at its foot (elephant foot), on each side."
            )
        open_ = self.wall_gap(gap)
        if open_ >= 0.005:
            sentences.append(
                f"Between fill and wall {millimetres(open_)} stay open; an overlap of the fill by as much closes it, a closer tip "
                "mends the cause."
            )
        if laid.fill > TIGHT:
            sentences.append(
                f"There is {round(100 * (laid.fill - 1))} % more plastic than room, so ridges stand above the tip's height: a caliper "
                "on them reads too much, and the next layer drags over them."
            )
        if flat is not None and laid.width > flat:
            sentences.append(
                f"The line spreads to {millimetres(laid.width)}, beyond the nozzle's flat of {millimetres(flat)}: nothing irons its "
                "edges, and they curl up."
            )
        if rough > 0:
            sentences.append(
                f"Pits of {millimetres(rough)} take up plastic: here the room of a smooth gap is found at "
                f"{millimetres(self.room_with(rough))} over the peaks, and the foot is counted on the peaks only."
            )
        return tuple(sentences)

    def hold(self, gaps: ArrayLike) -> float:
        """How much of its foot a first layer has over a piece of bed, as a share of what was sliced.

        Parameters
        ----------
        gaps : array_like
            Tip to plate at places that stand for equal areas, mm.

        Returns
        -------
        float
            1 where every line lies as sliced; 0 where none touches. Lines wider than sliced count as whole.

        Examples
        --------
        >>> Bead(0.42, 0.2).hold([0.2, 0.2]), round(Bead(0.42, 0.2).hold([0.2, 0.28]), 2)
        (1.0, 0.61)
        """
        gaps = np.asarray(gaps, dtype=np.float64)
        height = np.clip(gaps, TOUCH, self.free_diameter)
        foot = np.maximum(0.0, self.area / height + height * ROUND - height)
        share = np.where(gaps >= self.free_diameter, 0.0, np.minimum(1.0, foot / self.foot))
        return float(share.mean())
