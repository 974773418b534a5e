"""What is measured, told as signs: each number with how sure it is of lying beyond its limit."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy import special

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.diagnosis.model import Finding

MIN_DOUBT = 0.03
"""Nothing that is measured is surer than this (ours)."""
FORGOTTEN = 45.0
"""A measurement loses its weight over so many days (ours)."""
UNKNOWN_OFFSET = 0.08
"""An offset that was not checked in this visit may be off by this, standard deviation, mm (ours)."""
JUDGED_OFFSET = 0.015
"""And one that was judged or measured, mm (ours)."""
NOTABLE_GAP = 0.035
"""A gap off by more than this is seen in the layer, for 0.2 mm; in proportion for others (ours)."""
TILT_SHARE, BOW_SHARE = 0.5, 0.5
"""Tilt, and what is left after it, beyond this share of the first layer is seen (common practice, as shares)."""
STEADY_RANGE = 0.02
"""Touches within this are trusted, mm (common practice)."""
MANY_PRINTS = 10
"""So many prints since the last wash are many (ours)."""
COAT_PRINTS = 6
"""A coat of glue stick lasts 5 to 7 prints (common practice)."""
TEMPERATURE_SD = 3.0
"""How far the set temperature may be from the plate's own, °C (ours)."""
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
    gap_error : float or None
        Gap at the place of the trouble less the commanded one, by survey and offset, mm.
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
    return tuple([*_bed(known), *_gap(known), *_machine(known), *_warmth(known), *_surface(known)])


def _bed(k: Known) -> Sequence[Finding]:
    results = []
    days = round(k.survey_days) if k.survey_days >= 1 else 0
    if k.tilt is not None:
        sure = beyond(k.tilt, TILT_SHARE * k.first_layer, 0.02)
        text = remark("diagnosis.survey_tilt", days=days, amount=k.tilt)
        results.append(soft("survey_tilt", sure, text, k.survey_days))
    if k.left is not None:
        sure = beyond(k.left, BOW_SHARE * k.first_layer, 0.02)
        text = remark("diagnosis.survey_shape", days=days, amount=k.left)
        results.append(soft("survey_shape", sure, text, k.survey_days))
    return results


def _gap(k: Known) -> Sequence[Finding]:
    if k.gap_error is None and k.offset_error is None:
        return []
    error = (k.gap_error or 0.0) + (k.offset_error or 0.0)
    sd = math.hypot(UNKNOWN_OFFSET if k.offset_error is None else JUDGED_OFFSET, 0.015)
    limit = NOTABLE_GAP * k.first_layer / 0.2
    text = remark(
        "diagnosis.gap", error=error, here=k.gap_error is not None, checked=k.offset_error is not None
    )
    return [
        Finding("layer_thick", *_pair(beyond(error, limit, sd)), text),
        Finding("layer_thin", *_pair(beyond(-error, limit, sd)), text),
    ]


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
        text = remark("diagnosis.prints_since_wash", prints=n)
        results.append(soft("many_prints_unwashed", beyond(n, MANY_PRINTS, 4.0), text))
    if k.coats is not None and k.pair in ("good", "needs"):
        stale = k.need and (k.coats == 0 or (k.prints_since_wash or 0) > COAT_PRINTS)
        text = remark("diagnosis.coat", need=k.need, coats=k.coats, stale=stale, prints=k.prints_since_wash)
        results.append(soft("adhesive_needed", 0.85 if stale else 0.1, text))
    return results
