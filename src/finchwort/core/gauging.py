"""Readings taken by hand: paper, feeler gauge, dial, calipers, straightedge, turned into heights."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy import special

from finchwort.core.beam import CALIPER_SD
from finchwort.core.errors import (
    ChoiceError,
    NonFiniteError,
    OutOfRangeError,
    TooFewReadingsError,
)
from finchwort.core.planes import fit_plane
from finchwort.core.surveys import Array, Survey
from finchwort.core.tramming import CONFIDENCE
from finchwort.core.wording import millimetres

PAPER = 0.1
"""Thickness of ordinary printing paper, mm (common practice: about)."""
MOST_THICKNESS = 5.0
FEELS = ("free", "slight", "strong", "bunches", "stuck")
"""How a strip of known thickness feels under the nozzle, from far to close."""
FEEL_GAPS = {
    "free": (0.05, 0.04),
    "slight": (0.0, 0.01),
    "strong": (-0.015, 0.01),
    "bunches": (-0.03, 0.015),
    "stuck": (-0.06, 0.04),
}
"""Gap beyond the strip's thickness and its standard deviation, mm.  That the gap is the thickness when
it just drags is common practice; the rest are our own estimates, to be improved by records."""
ONE_SIDED = ("free", "stuck")
"""Feels that say only that the gap is larger, or smaller: turn until it just drags and read again."""
DIAL_SD = 0.01
"""How well a dial of hundredths is read, standard deviation, mm (common practice)."""
WAYS = ("paper", "feeler", "dial", "calipers")
FEEL_WORDS = {
    "free": "slides freely",
    "slight": "slight drag",
    "strong": "strong drag",
    "bunches": "pulls, but bunches up when pushed",
    "stuck": "will not move",
}
SAG = 0.02
"""A line that departs less than this from straight counts as straight, mm (common practice: thinnest gauge)."""


@dataclass(frozen=True)
class HandReading:
    """One place, read by hand.

    Attributes
    ----------
    x, y : float
        mm
    value : float
        Paper: its thickness.  Feeler: the thickest leaf that slides in.  Dial and calipers: what they show.  mm.
    feel : str, optional
        Paper: one of ``FEELS``.
    stop : float, optional
        Feeler: the thinnest leaf that does not go in, mm.
    """

    x: float
    y: float
    value: float
    feel: str | None = None
    stop: float | None = None


@dataclass(frozen=True, eq=False)
class HandSurvey:
    """Heights from readings by hand.

    Attributes
    ----------
    survey : Survey
        Heights towards the nozzle, mm.
    sd : ndarray, shape (n,)
        Standard deviation of each, mm.
    noise : float
        Their root mean square, mm, as one number for the plan.
    remarks : tuple of str
        What to know about them.
    """

    survey: Survey
    sd: Array
    noise: float
    remarks: tuple[str, ...]


def gap_from_paper(thickness: float, feel: str) -> tuple[float, float]:
    """Gap between nozzle and bed from the feel of a strip.

    Parameters
    ----------
    thickness : float
        mm
    feel : str
        One of ``FEELS``.

    Returns
    -------
    gap, sd : float
        mm

    Examples
    --------
    >>> gap_from_paper(0.1, "slight")
    (0.1, 0.01)
    """
    _check_thickness(thickness, "strip")
    if feel not in FEEL_GAPS:
        raise ChoiceError(f"Say how the strip feels: {', '.join(FEEL_WORDS.values())}.")
    more, sd = FEEL_GAPS[feel]
    return max(thickness + more, 0.0), sd


def gap_from_feeler(slides: float, stops: float | None = None) -> tuple[float, float]:
    """Gap from the thickest leaf that slides in and the thinnest that does not.

    The gap lies anywhere between the two leaves, so its standard deviation is
    their difference over the root of twelve; with one leaf that just drags it is
    trusted as paper is.

    Parameters
    ----------
    slides, stops : float
        mm

    Returns
    -------
    gap, sd : float
        mm

    Examples
    --------
    >>> gap, sd = gap_from_feeler(0.10, 0.15)
    >>> round(gap, 3), round(sd, 4)
    (0.125, 0.0144)
    """
    if slides != 0:
        _check_thickness(slides, "leaf")
    if stops is None:
        return slides, FEEL_GAPS["slight"][1]
    _check_thickness(stops, "leaf")
    if stops <= slides:
        raise OutOfRangeError("The leaf that does not go in must be thicker than the one that slides.")
    return (slides + stops) / 2, (stops - slides) / math.sqrt(12)


def hand_survey(readings: Sequence[HandReading], way: str, plus_is_high: bool = True) -> HandSurvey:
    """Turn readings by hand into a survey.

    Parameters
    ----------
    readings : sequence of HandReading
    way : {"paper", "feeler", "dial", "calipers"}
        Calipers measure how far the plate stands above the base: more is higher.
    plus_is_high : bool
        Dial: whether a larger value means that the bed is higher there.

    Returns
    -------
    HandSurvey

    Raises
    ------
    ChoiceError, OutOfRangeError, NonFiniteError
        For a reading that cannot be; and what `Survey` raises.

    Examples
    --------
    >>> taken = [HandReading(0, 0, 0.1, "slight"), HandReading(100, 0, 0.1, "strong"), HandReading(0, 100, 0.1, "free")]
    >>> found = hand_survey(taken, "paper")
    >>> found.survey.height.round(3).tolist()
    [-0.1, -0.085, -0.15]
    """
    if way not in WAYS:
        raise ChoiceError(f"Readings by hand come from {', '.join(WAYS)}.")
    heights, sds = [], []
    for one in readings:
        if not math.isfinite(one.value):
            raise NonFiniteError("A reading is missing or is not a number.")
        if way == "paper":
            gap, sd = gap_from_paper(one.value, one.feel or "")
            height = -gap
        elif way == "feeler":
            gap, sd = gap_from_feeler(one.value, one.stop)
            height = -gap
        elif way == "dial":
            height, sd = (one.value if plus_is_high else -one.value), DIAL_SD
        else:
            height, sd = one.value, CALIPER_SD
        heights.append(height + 0.0)
        sds.append(sd)
    sd = np.array(sds, dtype=np.float64)
    if way == "calipers" and heights:  # they stand on the base, so only the differences mean anything
        heights = [height - float(np.mean(heights)) for height in heights]
    survey = Survey([r.x for r in readings], [r.y for r in readings], heights)
    return HandSurvey(survey, sd, float(np.sqrt(np.mean(sd**2))), tuple(_remarks(readings, way, survey)))


def _remarks(readings: Sequence[HandReading], way: str, survey: Survey):
    if way == "paper":
        loose = sum(r.feel in ONE_SIDED for r in readings)
        if loose:
            yield (
                f"{loose} place{'s' if loose > 1 else ''} where the strip slid freely or would not move: there the gap is only "
                "known to be larger or smaller. Turn by the plan, then read again."
            )
        if any(r.feel == "bunches" for r in readings):
            yield "Where the strip bunches up when pushed the nozzle is already too close."
        t = max(r.value for r in readings)
        yield (
            f"Zero by paper of {millimetres(t)} leaves a real gap of {millimetres(t)} at Z = 0. "
            "It moves the offset, not the tilt."
        )
    elif way == "feeler":
        yield "Gaps in steps of the leaves; clean their oil off before they touch the plate."
    elif way == "calipers":
        yield "Only differences count here: the mean height was taken out."
    off = fit_plane(survey).residual
    worst = int(np.argmax(np.abs(off)))
    if len(survey) >= 5 and abs(off[worst]) > 0.15:
        yield (
            f"The reading at x {survey.x[worst]:g}, y {survey.y[worst]:g} lies {millimetres(abs(off[worst]))} off the others. "
            "Read it again before you believe it."
        )


def _check_thickness(value: float, what: str) -> None:
    if not (math.isfinite(value) and 0 < value <= MOST_THICKNESS):
        raise OutOfRangeError(f"A {what} is up to {MOST_THICKNESS:g} mm thick. Are these micrometres?")


@dataclass(frozen=True, eq=False)
class Line:
    """A straightedge laid across, with the gaps under it.

    Attributes
    ----------
    positions, heights : ndarray, shape (n,)
        Along the line and against the straight line through its ends, mm, positive high.
    bow : float
        Middle over ends, mm: a parabola's height, positive for a crown.
    margin : float
        Its plus/minus, mm.
    largest : float
        Largest departure from straight, with its sign, mm.
    at : float
        Where that is, mm.
    name : {"straight", "sag", "crown", "wavy"}
    """

    positions: Array
    heights: Array
    bow: float
    margin: float
    largest: float
    at: float
    name: str

    @property
    def sentence(self) -> str:
        """What the line shows."""
        if self.name == "straight":
            return f"Straight within {millimetres(max(abs(self.largest), 0.01))}."
        if self.name == "wavy":
            return f"Neither sag nor crown: {millimetres(abs(self.largest))} off straight at {self.at:g} mm. Look for debris or a damaged spot."
        word = "A sag: the middle is low" if self.name == "sag" else "A crown: the middle is high"
        return f"{word} by {millimetres(abs(self.bow))} ± {millimetres(self.margin)}."


def assess_line(positions: ArrayLike, gaps: ArrayLike, sd: float = FEEL_GAPS["slight"][1]) -> Line:
    """Judge a line under a straightedge.

    Parameters
    ----------
    positions : array_like, shape (n,)
        Along the edge, mm; three or more, growing.
    gaps : array_like, shape (n,)
        Between edge and plate, mm.
    sd : float
        Standard deviation of one gap, mm.

    Returns
    -------
    Line

    Raises
    ------
    TooFewReadingsError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> line = assess_line([0, 50, 100, 150, 200], [0, 0.075, 0.1, 0.075, 0])
    >>> line.name, round(line.bow, 3)
    ('sag', -0.1)
    """
    x, gap = np.array(positions, dtype=np.float64), np.array(gaps, dtype=np.float64)
    if x.size < 3 or gap.shape != x.shape or x.ndim != 1:
        raise TooFewReadingsError("A line needs three gaps or more, each with its place.")
    if not (np.isfinite(x).all() and np.isfinite(gap).all()):
        raise NonFiniteError("A place or a gap is missing or is not a number.")
    if (np.diff(x) <= 0).any():
        raise OutOfRangeError("The places along the edge must grow from one to the next.")
    if (gap < 0).any() or gap.max() > MOST_THICKNESS:
        raise OutOfRangeError(f"A gap under a straightedge is 0 to {MOST_THICKNESS:g} mm.")
    height = -gap
    share = (x - x[0]) / (x[-1] - x[0])
    height = height - (height[0] + share * (height[-1] - height[0]))
    u = 2 * share - 1
    basis = np.column_stack([np.ones_like(u), u, 1 - u * u])
    inverse = np.linalg.inv(basis.T @ basis)
    coef = inverse @ basis.T @ (-gap)
    rest = -gap - basis @ coef
    bow = float(coef[2])
    margin = float(special.ndtri(0.5 + CONFIDENCE / 2)) * sd * float(np.sqrt(inverse[2, 2]))
    at = int(np.argmax(np.abs(height)))
    largest = float(height[at])
    if abs(largest) <= SAG:
        name = "straight"
    elif np.abs(rest).max() > 2 * sd + 0.5 * abs(bow) or abs(bow) <= margin:
        name = "wavy"
    else:
        name = "crown" if bow > 0 else "sag"
    return Line(x, height, bow, margin, largest, float(x[at]), name)


def compare_lines(plate: Line, carrier: Line) -> str:
    """Say whether the plate or the bare carrier under it is bent.

    Examples
    --------
    >>> flat = assess_line([0, 100, 200], [0, 0, 0])
    >>> sag = assess_line([0, 100, 200], [0, 0.1, 0])
    >>> compare_lines(sag, flat)
    'The plate itself sags by 0.10 mm; the carrier under it is straight.'
    """
    margin = math.hypot(plate.margin, carrier.margin)
    verb = "sags" if plate.bow < 0 else "is crowned"
    if abs(plate.bow) <= max(plate.margin, SAG):
        if abs(carrier.bow) <= max(carrier.margin, SAG):
            return "Plate and carrier are both straight."
        return "The carrier is bent, the plate bridges it: it lies hollow, so press on it and look whether it gives."
    if abs(plate.bow - carrier.bow) <= margin:
        return f"Plate and carrier bend alike, by {millimetres(abs(plate.bow))}: it is the carrier. A stiffer or a glass plate bridges it."
    if abs(carrier.bow) <= max(carrier.margin, SAG):
        return f"The plate itself {verb} by {millimetres(abs(plate.bow))}; the carrier under it is straight."
    return (
        f"Both are bent: the carrier by {millimetres(carrier.bow, signed=True)}, the plate on it by "
        f"{millimetres(plate.bow, signed=True)} in the middle."
    )
