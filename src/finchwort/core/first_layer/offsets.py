"""The Z offset: where it is kept, what it adds up to, and its correction from paper and from printed patches."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.base.geometry import Array, is_line
from finchwort.core.base.statistics import grubbs_test, student_quantile
from finchwort.core.first_layer.bead import Bead
from finchwort.core.printers import Bed, CloserSign
from finchwort.core.probing import CALIPER_SD
from finchwort.core.surveys import Survey, fit_bed

KEPT_IN = {"printer": "the printer", "slicer": "the slicer's profile", "start_code": "the start code"}
"""Where an offset may be kept; in several places they add up (common practice)."""
MIN_CHANGE = 0.005
"""An offset that would change by less stays, mm: machines count in hundredths."""
CLOSER_IS = tuple(CloserSign)
"""On most machines a more negative offset brings the tip closer (common practice)."""
MAX_OFFSET = 20.0
"""No offset is larger, mm: some are counted from a probe's trigger point."""
SAME_PART = 0.011
"""Two parts this close are taken to be one value written down twice, mm (ours)."""
CALIPER_WEIGHT = 4
"""How many readings that first belief is worth (ours)."""
UNCERTAIN = 0.02
"""An error no larger than this is left: calipers tell no more, mm (common practice)."""
Shape = Callable[[Array, Array], Array]
"""Heights of a bed at places, mm."""
SHAPE_SD = 0.012
"""How well a survey knows one place against the middle, standard deviation, mm (ours)."""
UNSEEN_SHAPE = 0.06
"""How far the edge of a bed nobody measured may stand off its middle, standard deviation, mm (ours)."""
EXCESS = 3.0
"""Patches that differ by so many times what calipers do (in squares) are not one height (ours)."""
RIDGES = 0.035
"""A patch whose readings differ by so much is furrowed, standard deviation, mm (ours)."""
MAX_MEASURED_PATCHES, MAX_READINGS = 30, 12
THICKEST = 2.0
"""A one-layer patch is no thicker, mm."""


@dataclass(frozen=True)
class Ledger:
    """The parts of an offset.

    Parameters
    ----------
    parts : mapping of str to float
        By the places of ``KEPT_IN``, mm; what is kept nowhere is left out.
    closer_is : {"negative", "positive"}
        The sign that brings the tip closer.

    Raises
    ------
    ChoiceError, OutOfRangeError

    Examples
    --------
    >>> book = Ledger({"printer": -1.25, "slicer": -0.05})
    >>> round(book.total, 2), round(book.moved("printer", 0.04), 2)
    (-1.3, -1.29)
    """

    parts: Mapping[str, float]
    closer_is: str = "negative"

    def __post_init__(self) -> None:
        if self.closer_is not in CLOSER_IS:
            raise ChoiceError("first_layer.whether_closer_more_negative")
        for name, value in self.parts.items():
            if name not in KEPT_IN:
                raise ChoiceError("first_layer.offset_kept", names=", ".join(KEPT_IN.values()))
            if not (math.isfinite(value) and abs(value) <= MAX_OFFSET):
                raise OutOfRangeError("first_layer.offset_within_mm", max_offset=MAX_OFFSET)

    @property
    def total(self) -> float:
        """What really counts, mm, in the machine's own sign."""
        return float(sum(self.parts.values()))

    def moved(self, place: str, closer: float) -> float:
        """Give the new value of one part after a correction.

        Parameters
        ----------
        place : str
        closer : float
            mm, positive brings the tip closer.

        Returns
        -------
        float
            Ready to type in, mm, in the machine's own sign.
        """
        if place not in self.parts:
            raise ChoiceError("first_layer.no_offset_kept")
        value = self.parts[place] + (-closer if self.closer_is == "negative" else closer)
        if not (math.isfinite(value) and abs(value) <= MAX_OFFSET):
            raise OutOfRangeError("first_layer.offset_within_mm", max_offset=MAX_OFFSET)
        return round(value, 3) + 0.0

    def closer_by(self, before: Ledger) -> float:
        """How much closer the tip is than with an earlier ledger, mm."""
        change = self.total - before.total
        return (-change if self.closer_is == "negative" else change) + 0.0


@dataclass(frozen=True)
class Correction:
    """How much closer the tip should go.

    Attributes
    ----------
    closer : float
        mm, positive brings the tip closer, negative farther.
    margin : float
        Plus/minus at 95 %, mm.
    sentence : str
    """

    closer: float
    margin: float
    sentence: str


@dataclass(frozen=True)
class Patch:
    """A one-layer patch that was printed, cooled and measured.

    Attributes
    ----------
    x, y : float
        Where, mm.
    commanded : float
        Height at which it was printed, mm.
    thickness : tuple of float
        Caliper readings, mm.
    """

    x: float
    y: float
    commanded: float
    thickness: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class PatchOffset:
    """What measured patches say about the offset.

    Attributes
    ----------
    closer, margin : float
        Correction at the middle of the bed and its plus/minus at 95 %, mm; positive brings the tip closer.
    noise : float
        Standard deviation of one caliper reading, mm.
    dof : float
        Degrees of freedom behind it.
    means : tuple of float
        Correction of each patch by itself, mm.
    outliers : tuple of (int, int)
        Patch and reading that stand out and were left out.
    beyond : tuple of int
        Patches whose lines do not touch: the caliper read the bead, and the gap is at least that.
    heights : Survey or None
        The bed as the patches see it (positive where it is high), for a plan of turns; None without three
        patches off one line.
    tilt, tilt_margin : float or None
        Rise from corner to corner and its plus/minus, mm.
    ridged : bool
        Whether the caliper stands on ridges: the layer is squeezed, and the true gap is smaller than it reads.
    shaped : bool
        Whether the shape of a survey was taken off first.
    """

    closer: float
    margin: float
    noise: float
    dof: float
    means: tuple[float, ...]
    outliers: tuple[tuple[int, int], ...]
    beyond: tuple[int, ...]
    heights: Survey | None
    tilt: float | None
    tilt_margin: float | None
    ridged: bool
    shaped: bool

    @property
    def enough(self) -> bool:
        """Whether the offset may stay as it is."""
        return abs(self.closer) <= max(self.margin, UNCERTAIN)

    @property
    def tilted(self) -> bool:
        """Whether the patches show a tilt beyond their uncertainty."""
        return self.tilt is not None and self.tilt > (self.tilt_margin or 0.0)


def offset_from_patches(
    patches: Sequence[Patch], bed: Bed, width: float = 0.42, shape: Shape | None = None
) -> PatchOffset:
    """Find the correction from one-layer patches: thickness less commanded height, closer if positive.

    The correction is that in the middle of the bed.  Patches elsewhere differ from it by the bed's shape: that of a
    survey is taken off first where there is one, and otherwise it is part of what is not known.

    Parameters
    ----------
    patches : sequence of Patch
    bed : Bed
        The correction holds in its middle; with three patches or more, off one line, the tilt is taken apart.
    width : float
        Line width, mm; tells from which thickness on lines no longer touch.
    shape : callable, optional
        Gives the heights (mm) that the nozzle meets at places (mm), as the newest survey found the bed; its tilt counts as
        well as its bow.

    Returns
    -------
    PatchOffset

    Raises
    ------
    TooFewReadingsError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> bed = Bed(200, 200)
    >>> found = offset_from_patches([Patch(100, 100, 0.2, (0.25, 0.26, 0.24))], bed)
    >>> round(found.closer, 3), found.enough
    (0.05, False)
    """
    _check(patches)
    kept, outliers = [], []
    for i, patch in enumerate(patches):
        values = np.array(patch.thickness)
        odd = None
        if values.size >= 4:
            test = grubbs_test(values)
            # calipers of hundredths: a single step is no outlier
            if test.outlier and abs(values[test.index] - np.median(values)) > 2 * CALIPER_SD:
                odd = test.index
                outliers.append((i, odd))
        kept.append(np.delete(values, odd) if odd is not None else values)
    counts = np.array([values.size for values in kept], dtype=np.float64)
    means = np.array([v.mean() - patch.commanded for v, patch in zip(kept, patches, strict=True)])
    within = sum(float(((values - values.mean()) ** 2).sum()) for values in kept)
    dof = CALIPER_WEIGHT + float(counts.sum()) - counts.size
    noise = math.sqrt((CALIPER_WEIGHT * CALIPER_SD**2 + within) / dof)
    quantile = student_quantile(dof)
    beyond = tuple(
        i
        for i, (values, patch) in enumerate(zip(kept, patches, strict=True))
        if values.mean() >= Bead(max(width, patch.commanded * 1.05), patch.commanded).parting_gap
    )
    x, y = np.array([p.x for p in patches]), np.array([p.y for p in patches])
    variance = noise**2 / counts
    off = np.zeros_like(means)
    unsure = np.zeros_like(means)
    if shape is not None:
        # where the bed is high the layer is thin: brought to what it would be in the middle
        middle = float(shape(np.array([bed.centre[0]]), np.array([bed.centre[1]]))[0])
        off = shape(x, y) - middle
        reach = np.hypot((x - bed.centre[0]) / bed.width, (y - bed.centre[1]) / bed.depth)
        unsure = np.minimum(1.0, 2 * reach) * SHAPE_SD
    level = means + off
    heights = tilt = tilt_margin = None
    if len(patches) >= 3 and not is_line(x, y):
        heights = Survey(x, y, -means)
        # without a survey the patches themselves have to tell tilt from bow
        fit = fit_bed(Survey(x, y, level), bed, noise / math.sqrt(float(counts.mean())), dof, settle=False)
        closer, sd = fit.at(*bed.centre)
        margin = fit.quantile * sd
        seen = fit_bed(heights, bed, noise / math.sqrt(float(counts.mean())), dof, settle=False)
        slope = np.array([seen.plane.a, seen.plane.b])
        across = np.where(slope < 0, -1.0, 1.0) * (bed.width, bed.depth)
        tilt, tilt_margin = float(across @ slope), seen.margin(across)
    else:
        if shape is None:
            reach = np.hypot((x - bed.centre[0]) / bed.width, (y - bed.centre[1]) / bed.depth)
            unsure = 2 * reach * UNSEEN_SHAPE
        weight = 1 / (variance + unsure**2)
        closer = float(weight @ level / weight.sum())
        spread = float(weight @ (level - closer) ** 2) / max(1, len(patches) - 1)
        # what the patches differ by counts with as few degrees of freedom as there are patches
        wide = student_quantile(max(1, len(patches) - 1))
        excess = spread if len(patches) > 1 else 1.0
        margin = quantile / math.sqrt(weight.sum())
        if excess > EXCESS:
            margin = max(margin, wide * math.sqrt(excess / weight.sum()))
    bead = Bead(
        max(width, float(np.mean([p.commanded for p in patches])) * 1.05),
        float(np.mean([p.commanded for p in patches])),
    )
    tight = bead.limits()[2]
    scatter = math.sqrt(within / max(1.0, float(counts.sum()) - counts.size))
    thin = float(np.mean([v.mean() for v in kept])) < tight
    ridged = thin or (scatter > RIDGES and float(counts.sum()) - counts.size >= 2 and closer < UNCERTAIN)
    return PatchOffset(
        closer=closer,
        margin=margin,
        noise=noise,
        dof=dof,
        means=tuple(means.tolist()),
        outliers=tuple(outliers),
        beyond=beyond,
        heights=heights,
        tilt=tilt,
        tilt_margin=tilt_margin,
        ridged=ridged,
        shaped=shape is not None,
    )


def _check(patches: Sequence[Patch]) -> None:
    if not patches:
        raise TooFewReadingsError("first_layer.measure_patch_least")
    if len(patches) > MAX_MEASURED_PATCHES:
        raise OutOfRangeError(
            "first_layer.up_patches_weighed_together_2", max_measured_patches=MAX_MEASURED_PATCHES
        )
    for i, patch in enumerate(patches, 1):
        values = (patch.x, patch.y, patch.commanded, *patch.thickness)
        if not all(math.isfinite(value) for value in values):
            raise NonFiniteError("first_layer.number_missing_patch", i=i)
        if not 1 <= len(patch.thickness) <= MAX_READINGS:
            raise TooFewReadingsError(
                "first_layer.give_caliper_readings_patch", max_readings=MAX_READINGS, i=i
            )
        if not 0.04 <= patch.commanded <= 1.2:
            raise OutOfRangeError("first_layer.patch_layer_commanded_mm", i=i)
        if not all(0 < value <= THICKEST for value in patch.thickness):
            raise OutOfRangeError("first_layer.patch_layer_patch_up", i=i, thickest=THICKEST)
