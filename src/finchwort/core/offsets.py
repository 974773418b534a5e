"""The Z offset: where it is kept, what it adds up to, and its correction from paper and from printed patches."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy import special

from finchwort.core.bead import Bead
from finchwort.core.errors import ChoiceError, NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.printers import Bed
from finchwort.core.repeatability import grubbs_test
from finchwort.core.surveys import Survey, is_line
from finchwort.core.wording import micro, millimetres

PLACES = {"printer": "the printer", "slicer": "the slicer's profile", "start_code": "the start code"}
"""Where an offset may be kept; in several places they add up (common practice)."""
CLOSER_IS = ("negative", "positive")
"""On most machines a more negative offset brings the tip closer (common practice)."""
MOST_OFFSET = 20.0
"""No offset is larger, mm: some are counted from a probe's trigger point."""
SAME = 0.011
"""Two parts this close are taken to be one value written down twice, mm (ours)."""
CALIPER_SD = 0.02
"""One caliper reading of a patch, standard deviation before the readings say more, mm (common practice)."""
CALIPER_WEIGHT = 4
"""How many readings that first belief is worth (ours)."""
UNCERTAIN = 0.02
"""An error no larger than this is left: calipers tell no more, mm (common practice)."""
CONFIDENCE = 0.95
MOST_PATCHES, MOST_READINGS = 30, 12
THICKEST = 2.0
"""A one-layer patch is no thicker, mm."""


@dataclass(frozen=True)
class Ledger:
    """The parts of an offset.

    Parameters
    ----------
    parts : mapping of str to float
        By the places of ``PLACES``, mm; what is kept nowhere is left out.
    closer_is : {"negative", "positive"}
        The sign that brings the tip closer.

    Raises
    ------
    ChoiceError, OutOfRangeError

    Examples
    --------
    >>> book = Ledger({"printer": -1.25, "slicer": -0.05})
    >>> round(book.total, 2), round(book.moved("printer", 0.04), 2), book.doubled
    (-1.3, -1.29, None)
    """

    parts: Mapping[str, float]
    closer_is: str = "negative"

    def __post_init__(self) -> None:
        if self.closer_is not in CLOSER_IS:
            raise ChoiceError("Say whether closer is more negative or more positive.")
        for name, value in self.parts.items():
            if name not in PLACES:
                raise ChoiceError(f"An offset is kept in {', '.join(PLACES.values())}.")
            if not (math.isfinite(value) and abs(value) <= MOST_OFFSET):
                raise OutOfRangeError(f"An offset lies within {MOST_OFFSET:g} mm.")

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
            raise ChoiceError("No offset is kept there.")
        value = self.parts[place] + (-closer if self.closer_is == "negative" else closer)
        if not (math.isfinite(value) and abs(value) <= MOST_OFFSET):
            raise OutOfRangeError(f"An offset lies within {MOST_OFFSET:g} mm.")
        return round(value, 3) + 0.0

    def closer_by(self, before: Ledger) -> float:
        """How much closer the tip is than with an earlier ledger, mm."""
        change = self.total - before.total
        return (-change if self.closer_is == "negative" else change) + 0.0

    @property
    def doubled(self) -> str | None:
        """A sentence when the offset stands in several places at once."""
        kept = [(name, value) for name, value in self.parts.items() if abs(value) > 1e-9]
        for i, (name, value) in enumerate(kept):
            for other, again in kept[i + 1 :]:
                if abs(value - again) < SAME:
                    return (
                        f"{millimetres(value, signed=True)} stands in {PLACES[name]} and in {PLACES[other]}: "
                        "very likely one value that counts twice. Keep it in one place and set the other to zero."
                    )
        return None

    @property
    def sentence(self) -> str:
        """What the parts add up to."""
        kept = [(name, value) for name, value in self.parts.items() if abs(value) > 1e-9]
        if not kept:
            return "No offset is written down yet."
        if len(kept) == 1:
            return f"The offset is {millimetres(self.total, signed=True)}, kept in {PLACES[kept[0][0]]}."
        said = " and ".join(f"{millimetres(value, signed=True)} in {PLACES[name]}" for name, value in kept)
        return f"{said} add up to {millimetres(self.total, signed=True)}."


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
    sentence : str
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
    sentence: str

    @property
    def enough(self) -> bool:
        """Whether the offset may stay as it is."""
        return abs(self.closer) <= max(self.margin, UNCERTAIN)

    @property
    def tilted(self) -> bool:
        """Whether the patches show a tilt beyond their uncertainty."""
        return self.tilt is not None and self.tilt > self.tilt_margin


def offset_from_patches(patches: Sequence[Patch], bed: Bed, width: float = 0.42) -> PatchOffset:
    """Find the correction from one-layer patches: thickness less commanded height, closer if positive.

    Parameters
    ----------
    patches : sequence of Patch
    bed : Bed
        The correction holds in its middle; with three patches or more, off one line, the tilt is taken apart.
    width : float
        Line width, mm; tells from which thickness on lines no longer touch.

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
    quantile = float(special.stdtrit(dof, 0.5 + CONFIDENCE / 2))
    beyond = tuple(
        i
        for i, (values, patch) in enumerate(zip(kept, patches, strict=True))
        if values.mean() >= Bead(max(width, patch.commanded * 1.05), patch.commanded).parting_gap
    )
    x, y = np.array([p.x for p in patches]), np.array([p.y for p in patches])
    variance = noise**2 / counts
    heights = tilt = tilt_margin = None
    if len(patches) >= 3 and not is_line(x, y):
        heights = Survey(x, y, -means)
        design = np.column_stack([x - bed.centre[0], y - bed.centre[1], np.ones_like(x)])
        scaled = design / np.sqrt(variance)[:, None]
        covariance = np.linalg.inv(scaled.T @ scaled)
        found = covariance @ scaled.T @ (means / np.sqrt(variance))
        rest = means - design @ found
        if len(patches) > 3:
            # patches differ by more than calipers do where the bed is not flat
            excess = float(rest @ (rest / variance)) / (len(patches) - 3)
            covariance = covariance * max(1.0, excess)
        closer, margin = float(found[2]), quantile * math.sqrt(covariance[2, 2])
        across = np.where(found[:2] < 0, -1.0, 1.0) * (bed.width, bed.depth)
        tilt = float(across @ found[:2])
        tilt_margin = quantile * math.sqrt(float(across @ covariance[:2, :2] @ across))
    else:
        weight = 1 / variance
        closer = float(weight @ means / weight.sum())
        spread = float(weight @ (means - closer) ** 2) / max(1, len(patches) - 1)
        margin = quantile * math.sqrt(max(1.0, spread if len(patches) > 1 else 1.0) / weight.sum())
    result = PatchOffset(
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
        sentence="",
    )
    return replace(result, sentence=_say(result))


def _say(found: PatchOffset) -> str:
    amount = f"{millimetres(abs(found.closer))} ± {micro(found.margin)}"
    if found.enough:
        said = f"The layer is right within what calipers tell ({amount}). Leave the offset."
    else:
        said = f"Go {amount} {'closer' if found.closer > 0 else 'farther'}."
    if found.beyond:
        said += (
            " Where lines do not touch, the caliper reads the bead and not the gap: the true error is larger. "
            "Correct by this much, and print again."
        )
    if found.tilted:
        said += (
            f" From corner to corner the patches differ by {millimetres(found.tilt)}: that part is tilt, "
            "and no offset takes it out."
        )
    if found.outliers:
        n = len(found.outliers)
        said += f" {n} reading{'s' if n > 1 else ''} that stood out {'were' if n > 1 else 'was'} left out."
    return said


def _check(patches: Sequence[Patch]) -> None:
    if not patches:
        raise TooFewReadingsError("Measure one patch at least.")
    if len(patches) > MOST_PATCHES:
        raise OutOfRangeError(f"Up to {MOST_PATCHES} patches are weighed together.")
    for i, patch in enumerate(patches, 1):
        values = (patch.x, patch.y, patch.commanded, *patch.thickness)
        if not all(math.isfinite(value) for value in values):
            raise NonFiniteError(f"A number is missing at patch {i}.")
        if not 1 <= len(patch.thickness) <= MOST_READINGS:
            raise TooFewReadingsError(f"Give 1 to {MOST_READINGS} caliper readings for patch {i}.")
        if not 0.04 <= patch.commanded <= 1.2:
            raise OutOfRangeError(f"Patch {i}: a layer is commanded 0.04 to 1.2 mm high.")
        if not all(0 < value <= THICKEST for value in patch.thickness):
            raise OutOfRangeError(
                f"Patch {i}: a one-layer patch is up to {THICKEST:g} mm thick, and not nothing."
            )
