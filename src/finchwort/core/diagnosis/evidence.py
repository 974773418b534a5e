"""What is measured, told as signs: each number with how sure it is of lying beyond its limit."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from scipy import special

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.diagnosis.model import Finding
from finchwort.core.diagnosis.part_check import LARGE, TALL
from finchwort.core.printers import COAT_PRINTS, MANY_PRINTS

MIN_DOUBT = 0.03
"""Nothing that is measured is surer than this (ours)."""
FORGOTTEN = 45.0
"""A measurement loses its weight over so many days (ours)."""
JUDGED_OFFSET = 0.015
"""An offset that was judged or measured may be off by this, standard deviation, mm (ours)."""
NOTABLE_GAP = 0.035
"""A gap off by more than this is seen in the layer, for 0.2 mm; in proportion for others (ours)."""
TILT_SHARE, BOW_SHARE = 0.5, 0.5
"""Tilt, and what is left after it, beyond this share of the first layer is seen (common practice, as shares)."""
STEADY_RANGE = 0.02
"""Touches within this are trusted, mm (common practice)."""
NARROW = 1.05
"""Lines of less than this share of the nozzle's hole are narrow for a first layer (common practice: 115 to 125 %)."""
FAST_FIRST = 50.0
"""A first layer above this is fast, mm/s (common practice: 40 to 50 usual)."""
TEMPERATURE_SD = 3.0
"""How far the set temperature may be from the plate's own, °C (ours)."""
WALKED = {
    "carriage": "wavers",
    "belts": "wavers",
    "springs": "corner_no_follow",
    "screws_hold": "corner_no_follow",
    "beam": "uprights_differ",
    "probe_mount": "differs_each_start",
    "tip": "blob_on_tip",
    "plate_clean": "marks_in_light",
    "plate_seated": "rocks",
    "z_switch": "never_triggers",
}
"""Which sign each item of the walk round speaks of when it was found bad (ours)."""
SKEW = 0.1
"""Uprights that differ by more are skewed, mm (ours)."""


@dataclass(frozen=True)
class Known:
    """What is known of a printer when a case is looked at; None or empty for what is not.

    Attributes
    ----------
    first_layer : float
        mm
    tilt, left : float or None
        Rise from corner to corner of the newest survey, and peak to valley once the tilt is out, mm.
    survey_days : float
        Its age.
    compensated : bool
        Whether a mesh that still holds takes tilt and bow out.
    gap_error : float or None
        Gap at the place of the trouble less that in the middle, mm: it speaks for the bed there, not for the offset.
    offset_error : float or None
        How much too high the tip stands by judged or measured patches, mm.
    touch_range : float or None
        Of the newest repeatability test, mm.
    soak : str
        State of the newest warm-up test.
    skew : float or None
        Left less right upright, mm.
    mesh_outdated, offset_outdated : Remark or None
        Why, where something puts them in doubt.
    bed, bed_range, nozzle, nozzle_range : °C
    pair : str
        "good", "needs", "unsuitable" or "unknown", see `finchwort.core.diagnosis.suit`.
    need : bool
        Whether the pair wants an adhesive or release layer.
    prints_since_wash, coats : int or None
        None while nobody counted.
    washed_with : str
        "soap", "alcohol" or empty.
    worn : bool or None
        Whether the surface is noted as worn.
    speed, fan : float or None
        Of the first layer, mm/s and per cent.
    width, hole : float or None
        Of the lines of the first layer, and of the nozzle, mm.
    part : (float, float, float) or None
        Foot, across and deep, and height of the part, mm.
    height_set : float or None
        First-layer height in the slicer, mm, where it was told.
    copies : int or None
        In how many places the offset is not zero.
    slipping : str
        The knob that slips, by the rounds so far.
    walked : mapping of str to (str, bool, float)
        Items of the walk round: its title, whether it was found bad, and days since.
    """

    first_layer: float = 0.2
    tilt: float | None = None
    left: float | None = None
    survey_days: float = 0.0
    gap_error: float | None = None
    offset_error: float | None = None
    touch_range: float | None = None
    soak: str = ""
    skew: float | None = None
    mesh_outdated: Remark | None = None
    mesh_kept: bool = False
    offset_outdated: Remark | None = None
    offset_known: bool = False
    bed: float | None = None
    bed_range: tuple[float, float] | None = None
    nozzle: float | None = None
    nozzle_range: tuple[float, float] | None = None
    pair: str = "unknown"
    need: bool = False
    prints_since_wash: int | None = None
    coats: int | None = None
    compensated: bool = False
    washed_with: str = ""
    worn: bool | None = None
    speed: float | None = None
    fan: float | None = None
    width: float | None = None
    hole: float | None = None
    part: tuple[float, float, float] | None = None
    height_set: float | None = None
    copies: int | None = None
    slipping: str = ""
    walked: Mapping[str, tuple[str, bool, float]] = field(default_factory=dict)


def beyond(value: float, limit: float, sd: float) -> float:
    """How sure it is that a measured value lies above its limit.

    Parameters
    ----------
    value, limit : float
    sd : float
        Of the value.

    Raises
    ------
    NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> beyond(0.3, 0.1, 0.02), round(beyond(0.1, 0.1, 0.02), 2), round(beyond(0.0, 0.1, 0.02), 2)
    (0.97, 0.5, 0.03)
    """
    if not all(math.isfinite(v) for v in (value, limit, sd)):
        raise NonFiniteError("diagnosis.measured_value_missing")
    if sd <= 0:
        raise OutOfRangeError("diagnosis.measurement_never_quite_sure")
    return float(min(1 - MIN_DOUBT, max(MIN_DOUBT, special.ndtr((value - limit) / sd))))


def soft(sign: str, sure: float, source: Remark, days: float = 0.0) -> Finding:
    """Tell a measurement as a sign; what is old says less."""
    weight = math.exp(-max(0.0, days) / FORGOTTEN)
    sure = weight * sure + (1 - weight) * 0.5
    return Finding(sign, sure, 1 - sure, source)


def gather(known: Known) -> tuple[Finding, ...]:
    """Tell everything that is known as findings.

    Parameters
    ----------
    known : Known

    Returns
    -------
    tuple of Finding
        Each with what is said beside it.

    Examples
    --------
    >>> found = gather(Known(bed=40, bed_range=(55, 65)))
    >>> [(f.sign, round(f.there, 2)) for f in found]
    [('bed_below', 0.97), ('bed_above', 0.03)]
    """
    parts = (_bed, _gap, _machine, _walk, _warmth, _surface, _settings)
    return tuple(finding for part in parts for finding in part(known))


def _bed(k: Known) -> Sequence[Finding]:
    results = []
    days = round(k.survey_days) if k.survey_days >= 1 else 0
    if k.tilt is not None:
        sure = MIN_DOUBT if k.compensated else beyond(k.tilt, TILT_SHARE * k.first_layer, 0.02)
        text = remark("diagnosis.survey_tilt", days=days, amount=k.tilt, taken_out=k.compensated)
        results.append(soft("survey_tilt", sure, text, k.survey_days))
    if k.left is not None:
        sure = MIN_DOUBT if k.compensated else beyond(k.left, BOW_SHARE * k.first_layer, 0.02)
        text = remark("diagnosis.survey_shape", days=days, amount=k.left, taken_out=k.compensated)
        results.append(soft("survey_shape", sure, text, k.survey_days))
    return results


def _gap(k: Known) -> Sequence[Finding]:
    limit = NOTABLE_GAP * k.first_layer / 0.2
    results = []
    if k.gap_error is not None:
        # a gap at one place is the bed's doing before it is the offset's
        sure = beyond(abs(k.gap_error), limit, 0.02)
        results.append(soft("place_off", sure, remark("diagnosis.place", error=k.gap_error), k.survey_days))
    if k.offset_error is not None:
        text = remark("diagnosis.gap", error=k.offset_error)
        for sign, error in (("layer_thick", k.offset_error), ("layer_thin", -k.offset_error)):
            results.append(
                Finding(sign, *_pair(beyond(error, limit, math.hypot(JUDGED_OFFSET, 0.015))), text)
            )
    return results


def _pair(sure: float) -> tuple[float, float]:
    return sure, 1 - sure


def _machine(k: Known) -> Sequence[Finding]:
    results = []
    if k.touch_range is not None:
        sure = beyond(k.touch_range, STEADY_RANGE * 1.25, 0.005)
        results.append(soft("wide_range", sure, remark("diagnosis.touches", range=k.touch_range)))
    if k.skew is not None:
        sure = beyond(abs(k.skew), SKEW, 0.03)
        results.append(soft("uprights_differ", sure, remark("diagnosis.uprights", skew=abs(k.skew))))
    if k.mesh_kept:
        text = remark("diagnosis.mesh", why=k.mesh_outdated)
        results.append(soft("mesh_outdated", 0.9 if k.mesh_outdated else 0.1, text))
    if k.offset_known:
        text = remark("diagnosis.offset", why=k.offset_outdated)
        results.append(soft("offset_doubt", 0.9 if k.offset_outdated else 0.15, text))
    if k.soak in ("steady", "moving"):
        text = remark("diagnosis.warm_up", state=k.soak)
        results.append(soft("moving_bed", 0.9 if k.soak == "moving" else 0.1, text))
    return results


def _walk(k: Known) -> Sequence[Finding]:
    results = []
    for item, (title, bad, days) in k.walked.items():
        if item in WALKED:
            text = remark("diagnosis.walked", item=title, bad=bad)
            results.append(soft(WALKED[item], 0.85 if bad else 0.2, text, days))
    if k.slipping:
        results.append(soft("corner_no_follow", 0.9, remark("diagnosis.slipping", knob=k.slipping)))
    if k.copies is not None:
        text = remark("diagnosis.copies", places=k.copies)
        results.append(soft("stored_twice", 0.7 if k.copies > 1 else 0.15, text))
    return results


def _settings(k: Known) -> Sequence[Finding]:
    results = []
    if k.speed is not None:
        text = remark("diagnosis.speed", speed=k.speed)
        results.append(soft("fast_first", beyond(k.speed, FAST_FIRST, 4.0), text))
    if k.fan is not None:
        text = remark("diagnosis.fan", fan=k.fan)
        results.append(soft("fan_set", 1 - MIN_DOUBT if k.fan > 0 else MIN_DOUBT, text))
    if k.width is not None and k.hole is not None:
        text = remark("diagnosis.width", width=k.width, hole=k.hole)
        results.append(soft("narrow_lines", beyond(NARROW * k.hole, k.width, 0.02), text))
    if k.part is not None:
        across, deep, height = k.part
        text = remark("diagnosis.part", across=across, deep=deep, height=height)
        results.append(soft("tall_part", beyond(height / min(across, deep), TALL, 1.0), text))
        results.append(soft("large_flat", beyond(max(across, deep), LARGE, 25.0), text))
    if k.height_set is not None:
        off = abs(k.height_set - k.first_layer)
        text = remark("diagnosis.height", set=k.height_set, meant=k.first_layer)
        results.append(soft("file_differs", 0.9 if off > 0.02 else 0.2, text))
    return results


def _warmth(k: Known) -> Sequence[Finding]:
    results = []
    for what, value, usual in (("bed", k.bed, k.bed_range), ("nozzle", k.nozzle, k.nozzle_range)):
        if value is None or usual is None:
            continue
        text = remark("diagnosis.temperature", what=what, value=value, low=usual[0], high=usual[1])
        results.append(
            soft(
                f"{what}_below",
                beyond(usual[0], value, TEMPERATURE_SD) if value < usual[0] else MIN_DOUBT,
                text,
            )
        )
        results.append(
            soft(
                f"{what}_above",
                beyond(value, usual[1], TEMPERATURE_SD) if value > usual[1] else MIN_DOUBT,
                text,
            )
        )
    return results


def _surface(k: Known) -> Sequence[Finding]:
    results = []
    if k.pair in ("good", "needs", "unsuitable"):
        bad = k.pair == "unsuitable"
        text = remark("diagnosis.pair_unsuited" if bad else "diagnosis.pair_suits")
        results.append(soft("table_unsuited", 1 - MIN_DOUBT if bad else MIN_DOUBT, text))
    if k.prints_since_wash is not None:
        n = k.prints_since_wash
        text = remark("diagnosis.prints_since_wash", prints=n, washed_with=k.washed_with)
        # alcohol spreads skin oil more than it takes it off: a wipe is half a wash
        many = MANY_PRINTS / 2 if k.washed_with == "alcohol" else MANY_PRINTS
        results.append(soft("many_prints_unwashed", beyond(n, many, 4.0), text))
    if k.coats is not None and k.pair in ("good", "needs"):
        stale = k.need and (k.coats == 0 or (k.prints_since_wash or 0) > COAT_PRINTS)
        text = remark("diagnosis.coat", need=k.need, coats=k.coats, stale=stale, prints=k.prints_since_wash)
        results.append(soft("adhesive_needed", 0.85 if stale else 0.1, text))
    if k.worn is not None:
        text = remark("diagnosis.worn", worn=k.worn)
        results.append(soft("visible_marks", 0.85 if k.worn else 0.25, text))
    return results
