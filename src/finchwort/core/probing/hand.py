"""Readings taken by hand: paper, feeler gauge, dial, calipers, straightedge, turned into heights."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.base.geometry import Array
from finchwort.core.base.statistics import Z95
from finchwort.core.base.wording import millimetres
from finchwort.core.printers import Bed
from finchwort.core.probing.feeler import (
    EYE_SD,
    FEEL_WORDS,
    FEELS,
    ONE_SIDED,
    Feel,
    FeltBed,
    feel_bed,
    join_feels,
    say_open,
)
from finchwort.core.probing.kinds import HandWay
from finchwort.core.surveys import NEAR, Survey, averaged, check_places, fit_plane

PAPER = 0.1
"""Thickness of ordinary printing paper, mm (common practice: about)."""
MAX_THICKNESS = 5.0
MAX_LOWERED = 20.0
"""No Z at which paper drags is further from zero, mm."""
CALIPER_SD = 0.02
"""Standard deviation of one reading of calipers, mm (common practice)."""
DIAL_SD = 0.01
"""How well a dial of hundredths is read, standard deviation, mm (common practice)."""
WAYS = tuple(HandWay)
DRAG_SD = EYE_SD
"""A strip that just drags tells the gap so well, standard deviation, mm (ours)."""
STEPS = (0.1, 0.05, 0.025, 0.01)
"""Steps in which machines lower the tip by hand, mm (common practice)."""
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
        Paper: its thickness.  Lowered: the Z at which the strip just drags.  Feeler: the thickest leaf that slides
        in.  Dial and calipers: what they show.  mm.
    feel : str, optional
        Paper: one of `finchwort.core.probing.FEELS`.
    stop : float, optional
        Feeler: the thinnest leaf that does not go in, mm.
    z : float
        Paper: the Z at which it was felt, mm.
    thickness : float, optional
        Lowered: of the strip, mm.
    step : float
        Lowered: the step in which the tip came down, mm.
    """

    x: float
    y: float
    value: float
    feel: str | None = None
    stop: float | None = None
    z: float = 0.0
    thickness: float | None = None
    step: float = 0.01


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
    felt : FeltBed or None
        By paper: what the feels say.
    feels : tuple of Feel
        By paper, in the order of the survey.
    """

    survey: Survey
    sd: Array
    noise: float
    remarks: tuple[str, ...]
    felt: FeltBed | None = None
    feels: tuple[Feel, ...] = ()


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
        return slides, DRAG_SD
    _check_thickness(stops, "leaf")
    if stops <= slides:
        raise OutOfRangeError("probing.leaf_does_not_go")
    return (slides + stops) / 2, (stops - slides) / math.sqrt(12)


def hand_survey(
    readings: Sequence[HandReading], way: str, plus_is_high: bool = True, bed: Bed | None = None
) -> HandSurvey:
    """Turn readings by hand into a survey.

    Parameters
    ----------
    readings : sequence of HandReading
    way : {"paper", "lowered", "feeler", "dial", "calipers"}
        Calipers measure how far the plate stands above the base: more is higher.
    plus_is_high : bool
        Dial: whether a larger value means that the bed is higher there.
    bed : Bed, optional
        Paper: the bed on which it was felt; a square around the places when not given.

    Returns
    -------
    HandSurvey

    Raises
    ------
    ChoiceError, OutOfRangeError, NonFiniteError
        For a reading that cannot be; and what `Survey` raises.

    Examples
    --------
    >>> taken = [HandReading(0, 0, 0.1, "slight"), HandReading(100, 0, 0.1, "strong"), HandReading(0, 100, 0.1, "bunches")]
    >>> found = hand_survey(taken, "paper")
    >>> found.survey.height.round(3).tolist()
    [-0.1, -0.078, -0.06]
    >>> lowered = [HandReading(0, 0, 0.3, thickness=0.1), HandReading(100, 0, 0.1, thickness=0.1), HandReading(0, 100, 0.0, thickness=0.1)]
    >>> hand_survey(lowered, "lowered").survey.height.round(3).tolist()
    [0.205, 0.005, -0.095]
    """
    if way not in WAYS:
        raise ChoiceError("probing.readings_hand_come", names=", ".join(WAYS))
    for reading in readings:
        if not all(map(math.isfinite, (reading.value, reading.z, reading.step, reading.thickness or 0.0))):
            raise NonFiniteError("probing.reading_missing_not_number")
    if way == "paper":
        return _by_paper(readings, bed)
    heights, sds = [], []
    for reading in readings:
        if way == "lowered":
            _check_thickness(reading.thickness or 0.0, "strip")
            if not 0 < reading.step <= STEPS[0]:
                raise OutOfRangeError("probing.tip_comes_down_steps")
            if abs(reading.value) > MAX_LOWERED:
                raise OutOfRangeError("probing.mm_not_near_plate_read", value=reading.value)
            # coming from above it begins to drag somewhere within the last step
            height = reading.value + reading.step / 2 - (reading.thickness or 0.0)
            sd = math.hypot(DRAG_SD, reading.step / math.sqrt(12))
        elif way == "feeler":
            gap, sd = gap_from_feeler(reading.value, reading.stop)
            height = -gap
        elif way == "dial":
            height, sd = (reading.value if plus_is_high else -reading.value), DIAL_SD
        else:
            height, sd = reading.value, CALIPER_SD
        heights.append(height + 0.0)
        sds.append(sd)
    each = np.array(sds, dtype=np.float64)
    if way == "calipers" and heights:  # they stand on the base, so only the differences mean anything
        heights = [height - float(np.mean(heights)) for height in heights]
    survey, remark = averaged([r.x for r in readings], [r.y for r in readings], heights)
    remarks = (*((remark,) if remark else ()), *_remarks(readings, way, survey))
    if remark:
        each = np.full(len(survey), float(np.sqrt(np.mean(each**2))))
    return HandSurvey(survey, each, float(np.sqrt(np.mean(each**2))), remarks)


def _by_paper(readings: Sequence[HandReading], bed: Bed | None) -> HandSurvey:
    kept: list[HandReading] = []
    for reading in readings:
        # felt again at one place, the newer feel counts
        kept = [other for other in kept if math.hypot(other.x - reading.x, other.y - reading.y) >= NEAR]
        kept.append(reading)
    feels = []
    for item in kept:
        _check_thickness(item.value, "strip")
        if item.feel not in FEELS:
            raise ChoiceError("probing.strip_feels", names=", ".join(FEEL_WORDS.values()))
        if abs(item.z) > MAX_LOWERED:
            raise OutOfRangeError("probing.mm_not_near_plate", z=item.z)
        feels.append(Feel(item.x, item.y, item.feel, item.value, item.z))
    x, y = np.array([item.x for item in kept]), np.array([item.y for item in kept])
    check_places(x, y)
    if bed is None:
        side = max(float(np.ptp(x)), float(np.ptp(y)), 10.0)
        x0, y0 = float(x.min() + x.max() - side) / 2, float(y.min() + y.max() - side) / 2
        felt = join_feels(x - x0, y - y0, *_bands(feels), Bed(side, side))
    else:
        felt = feel_bed(feels, bed)
    survey = Survey(x, y, felt.heights)
    known = felt.sd[~felt.open] if (~felt.open).any() else felt.sd
    return HandSurvey(
        survey,
        felt.sd,
        float(np.sqrt(np.mean(known**2))),
        (*_remarks_by_paper(feels, felt), *_remarks(kept, "paper", survey)),
        felt,
        tuple(feels),
    )


def _bands(feels: Sequence[Feel]) -> tuple[Array, Array]:
    low, high = zip(*(feel.band for feel in feels), strict=True)
    return np.array(low), np.array(high)


def _remarks_by_paper(feels: Sequence[Feel], felt: FeltBed) -> Iterator[str]:
    loose = int(felt.open.sum())
    if loose:
        yield say_open(loose, len(feels), felt.at_least, sum(feel.feel == "free" for feel in feels))


def _remarks(readings: Sequence[HandReading], way: str, survey: Survey) -> Iterator[str]:
    if way == "paper":
        if any(r.feel == "bunches" for r in readings):
            yield "Where the strip bunches up when pushed the nozzle is already too close."
        t = max(r.value for r in readings)
        yield (
            f"Zero by paper of {millimetres(t)} leaves a real gap of {millimetres(t)} at Z = 0. "
            "It moves the offset, not the tilt."
        )
    elif way == "lowered":
        yield "Each Z at which the strip just drags is a true reading, however far the bed is out."
    elif way == "feeler":
        yield "Gaps in steps of the leaves; clean their oil off before they touch the plate."
    elif way == "calipers":
        yield "Only differences count here: the mean height was taken out."
    if way == "paper" and any(r.feel in ONE_SIDED for r in readings):
        return  # what a bound was taken for is no reading to be doubted
    off = fit_plane(survey).residual
    worst = int(np.argmax(np.abs(off)))
    if len(survey) >= 5 and abs(off[worst]) > 0.15:
        yield (
            f"The reading at x {survey.x[worst]:g}, y {survey.y[worst]:g} lies {millimetres(abs(off[worst]))} off the others. "
            "Read it again before you believe it."
        )


def _check_thickness(value: float, what: str) -> None:
    if not (math.isfinite(value) and 0 < value <= MAX_THICKNESS):
        raise OutOfRangeError("probing.up_mm_thick_these", what=what, max_thickness=MAX_THICKNESS)


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


def assess_line(positions: ArrayLike, gaps: ArrayLike, sd: float = DRAG_SD) -> Line:
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
        raise TooFewReadingsError("probing.line_needs_three_gaps")
    if not (np.isfinite(x).all() and np.isfinite(gap).all()):
        raise NonFiniteError("probing.place_gap_missing_not")
    if (np.diff(x) <= 0).any():
        raise OutOfRangeError("probing.places_along_edge_grow")
    if (gap < 0).any() or gap.max() > MAX_THICKNESS:
        raise OutOfRangeError("probing.gap_under_straightedge_mm", max_thickness=MAX_THICKNESS)
    height = -gap
    share = (x - x[0]) / (x[-1] - x[0])
    height = height - (height[0] + share * (height[-1] - height[0]))
    u = 2 * share - 1
    basis = np.column_stack([np.ones_like(u), u, 1 - u * u])
    inverse = np.linalg.inv(basis.T @ basis)
    coef = inverse @ basis.T @ (-gap)
    rest = -gap - basis @ coef
    bow = float(coef[2])
    margin = Z95 * sd * float(np.sqrt(inverse[2, 2]))
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
