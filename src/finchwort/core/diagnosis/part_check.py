"""A part and its settings against what usually holds: brim, speed, width, fan, and what a failed print costs."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.diagnosis.kinds import Corners
from finchwort.core.first_layer import WIDER

SHRINKING = ("ABS", "ASA", "PA", "PC")
"""Materials that shrink as they cool (common practice)."""
TALL, VERY_TALL = 4.0, 8.0
"""Height over the smallest width of the foot, from which a part wants a brim, and a thicker one (ours)."""
LARGE = 100.0
"""A flat part longer than this pulls at its corners, mm (ours)."""
SMALL_FOOT = 400.0
"""A foot smaller than this holds little, mm² (ours)."""
SLOW, USUAL, FAST = 20.0, (40.0, 50.0), 180.0
"""First-layer speeds: when it must stick, usual, and far too fast, mm/s (common practice)."""
CORNERS = tuple(Corners)


@dataclass(frozen=True)
class Brim:
    """Whether a part wants a brim.

    Attributes
    ----------
    width : float
        mm; 0 for none.
    layers : int
    why : str
    """

    width: float
    layers: int
    why: str


@dataclass(frozen=True)
class Remark:
    """What is said of one setting.

    Attributes
    ----------
    what : str
    level : {"good", "mind", "change"}
    sentence : str
    """

    what: str
    level: str
    sentence: str


def advise_brim(
    width: float, depth: float, height: float, corners: str = "round", material: str = ""
) -> Brim:
    """Say whether a part wants a brim, how wide and how thick.

    Parameters
    ----------
    width, depth, height : float
        Of the foot, and of the part, mm.
    corners : {"round", "sharp"}
    material : str

    Returns
    -------
    Brim

    Raises
    ------
    OutOfRangeError, NonFiniteError, ChoiceError

    Examples
    --------
    >>> advise_brim(8, 8, 120).width, advise_brim(8, 8, 120).layers
    (9.0, 3)
    >>> advise_brim(60, 60, 20).width
    0.0
    """
    if not all(math.isfinite(value) for value in (width, depth, height)):
        raise NonFiniteError("diagnosis.foot_height_lengths_mm")
    if not (min(width, depth) >= 0.5 and max(width, depth, height) <= 2000 and height > 0):
        raise OutOfRangeError("diagnosis.foot_mm_wider_part")
    if corners not in CORNERS:
        raise ChoiceError("diagnosis.corners_round_sharp")
    foot = min(width, depth)
    slender = height / foot
    reasons = []
    size, layers = 0.0, 1
    if slender >= TALL:
        size = min(12.0, 3.0 + height / 20)
        layers = 3 if slender >= VERY_TALL else 2
        reasons.append(f"it is {slender:.0f} times as high as its foot is wide")
    elif width * depth < SMALL_FOOT and height > foot:
        size = 4.0
        reasons.append(f"its foot has only {width * depth:.0f} mm²")
    if corners == "sharp" and (material in SHRINKING or max(width, depth) >= LARGE):
        size = max(size, 8.0 if material in SHRINKING else 5.0)
        reasons.append(
            f"{material} shrinks and pulls its sharp corners up"
            if material in SHRINKING
            else "sharp corners of a large flat part lift"
        )
    elif material in SHRINKING and max(width, depth) >= LARGE:
        size = max(size, 5.0)
        reasons.append(f"{material} shrinks, and the part is long")
    if not reasons:
        return Brim(0.0, 0, "No brim is needed: the foot is broad for its height.")
    thick = f"{layers} layers thick" if layers > 1 else "one layer thick"
    return Brim(size, layers, f"A brim {size:.0f} mm wide, {thick}: {' and '.join(reasons)}.")


def check_settings(
    material: str = "",
    *,
    speed: float | None = None,
    width: float | None = None,
    nozzle: float | None = None,
    fan: float | None = None,
    overlap: float | None = None,
    must_stick: bool = False,
    long_lines: bool = False,
) -> tuple[Remark, ...]:
    """Compare first-layer settings with what is usual.

    Parameters
    ----------
    material : str
    speed : float, optional
        mm/s
    width, nozzle : float, optional
        Of the lines, and of the nozzle's hole, mm.
    fan, overlap : float, optional
        %
    must_stick : bool
        Whether the part is a difficult one.
    long_lines : bool
        Whether its bottom is filled with long straight lines.

    Returns
    -------
    tuple of Remark

    Raises
    ------
    NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> [(r.what, r.level) for r in check_settings("PLA", speed=180, fan=100)]
    [('speed', 'change'), ('fan', 'change')]
    """
    for value, low, high, code in (
        (speed, 1, 1000, "diagnosis.speed_range"),
        (width, 0.1, 3, "diagnosis.width_range"),
        (nozzle, 0.1, 2, "diagnosis.nozzle_range"),
        (fan, 0, 100, "diagnosis.fan_range"),
        (overlap, 0, 100, "diagnosis.overlap_range"),
    ):
        if value is None:
            continue
        if not math.isfinite(value):
            raise NonFiniteError(code)
        if not low <= value <= high:
            raise OutOfRangeError(code)
    results = []
    if speed is not None:
        results.append(_speed(speed, must_stick))
    if width is not None and nozzle is not None:
        share = width / nozzle
        usual = f"{nozzle * WIDER[0]:.2f} to {nozzle * WIDER[1]:.2f} mm"
        if share < 1.05:
            results.append(
                Remark(
                    "width",
                    "change",
                    f"Lines {width:.2f} mm wide are narrow for a first layer: {usual} holds better.",
                )
            )
        elif share > 1.6:
            results.append(
                Remark(
                    "width", "mind", f"Lines {width:.2f} mm wide are wide for this nozzle: {usual} is usual."
                )
            )
        else:
            results.append(Remark("width", "good", f"Lines {width:.2f} mm wide are right; {usual} is usual."))
    if fan is not None:
        later = (
            "ABS, ASA and the like little or none throughout"
            if material in SHRINKING
            else "on from the second layer"
        )
        if fan > 0:
            results.append(
                Remark("fan", "change", f"Part fan off on the first layer, instead of {fan:.0f} %; {later}.")
            )
        else:
            results.append(Remark("fan", "good", f"Part fan off on the first layer; {later}."))
    if overlap is not None:
        low = overlap < 10
        text = (
            "little overlap between fill and wall: pinholes along the wall"
            if low
            else "overlap between fill and wall is enough"
        )
        results.append(
            Remark(
                "overlap",
                "mind" if low else "good",
                f"{overlap:.0f} % is {text}." if low else f"{overlap:.0f} % {text}.",
            )
        )
    if long_lines:
        results.append(
            Remark(
                "pattern",
                "mind",
                "Where long straight lines let go, concentric and connected bottom lines hold better.",
            )
        )
    return tuple(results)


def _speed(speed: float, must_stick: bool) -> Remark:
    if speed >= 100:
        much = "far too fast" if speed >= FAST else "too fast"
        return Remark(
            "speed",
            "change",
            f"{speed:.0f} mm/s is {much} for a first layer: {USUAL[0]:.0f} to {USUAL[1]:.0f} mm/s is usual, {SLOW:.0f} when it must stick.",
        )
    if must_stick and speed > 25:
        return Remark("speed", "change", f"This part must stick: {SLOW:.0f} mm/s instead of {speed:.0f}.")
    if speed > USUAL[1]:
        return Remark(
            "speed", "mind", f"{speed:.0f} mm/s is fast: {USUAL[0]:.0f} to {USUAL[1]:.0f} mm/s is usual."
        )
    return Remark("speed", "good", f"{speed:.0f} mm/s is slow enough.")


def cost_of(grams: float, price: float) -> float:
    """What a failed print costs.

    Parameters
    ----------
    grams : float
    price : float
        Of a kilogram.

    Raises
    ------
    OutOfRangeError

    Examples
    --------
    >>> cost_of(90, 30)
    2.7
    """
    if not (math.isfinite(grams) and math.isfinite(price) and 0 <= grams <= 100_000 and 0 <= price <= 10_000):
        raise OutOfRangeError("diagnosis.grams_price_nothing_more")
    return round(grams * price / 1000, 6)
