"""What is said of surveys."""

from __future__ import annotations

from finchwort.core.base.wording import millimetres
from finchwort.core.surveys import COMPENSATE_SHARE, TILT_SHARE, Verdict, good_spread
from finchwort.core.surveys.bed_fit import BedFit

ERRORS = {
    "surveys.all_readings_line_cannot": (
        "All readings lie on one line, so they cannot show the tilt across it. Measure a place off that line."
    ),
    "surveys.choose_three_different_readings": "Choose three different readings of this survey.",
    "surveys.coordinate_missing_not_number": "A coordinate is missing or is not a number.",
    "surveys.coordinate_mm_outside_any": "A coordinate of {worst:g} mm lies outside any printer.",
    "surveys.every_place_needs_finite": "Every place needs a finite height.",
    "surveys.every_reading_needs_height": "Every reading needs an x, a y and a height.",
    "surveys.file_arrived_damaged_choose": "The file arrived damaged. Choose it again.",
    "surveys.first_layer_mm_high": (
        "A first layer is {min_layer:g} to {max_layer:g} mm high, not {first_layer:g} mm."
    ),
    "surveys.height_missing_not_number": "A height is missing or is not a number.",
    "surveys.height_mm_more_any": (
        "A height of {worst:g} mm is more than any bed shows. Are these micrometres?"
    ),
    "surveys.no_setting_machine_found": "No setting of a machine was found in this text.",
    "surveys.place_mm_more_reading": "The place x {x:g}, y {y:g} mm has more than one reading.",
    "surveys.plane": "A plane is one of {names}.",
    "surveys.plane_through_screws_needs": "A plane through the screws needs three screws or more.",
    "surveys.reading_cannot_show_tilt": (
        "{n} reading{which} cannot show a tilt: three places are the least, not on one line."
    ),
    "surveys.readings_come_three_plain": "Readings come as three plain lists: x, y and height.",
    "surveys.readings_more_survey_holds": "{n:,} readings are more than one survey holds ({max_readings:,}).",
    "surveys.readings_too_few_tell": "The readings are too few to tell the screws apart.",
    "surveys.reference_least_squares_minimum": "The reference must be least_squares or minimum_zone.",
    "surveys.repeatability_mm": "A repeatability lies between 0 and 1 mm.",
    "surveys.repeatability_two_touches_more": "A repeatability stands on two touches or more.",
    "surveys.send_readings_points_text": (
        "Send the readings as points, as text, as a file or as read by hand, one of them."
    ),
    "surveys.table_heights_rows_values": "The table of heights must have {size} rows of {size_2} values.",
    "surveys.these_readings_line_carry": "These readings lie on one line, and so they carry no plane.",
    "surveys.these_surveys_two_printers": "These are surveys of two printers.",
}
"""What is said of input that cannot be used, by the code of its error."""

SHAPES = {
    "flat": "flat",
    "dome": "a dome: the middle is high",
    "bowl": "a bowl: the middle is low",
    "ridge_x": "a ridge running left to right",
    "ridge_y": "a ridge running front to back",
    "trough_x": "a trough running left to right",
    "trough_y": "a trough running front to back",
    "saddle": "a saddle: high along one direction, low along the other",
    "twist": "twisted: its two diagonals differ",
    "uneven": "uneven in places, without one simple shape",
}
"""What each shape of a bed is called."""
VERDICTS = {
    "open": "Not known yet",
    "level": "Level",
    "unsure": "Measure again",
    "turn": "Turn the screws",
    "compensate": "Leave the screws, compensate",
    "warped": "Beyond compensation",
}
SAID_FROM = 0.005
"""A length below this is written as nothing, mm."""
_NOR = {
    "mean": "Compensation by the mean moves everything alike and does not take it out either. ",
    "none": "",
}


def verdict_word(level: str, has_screws: bool = True, compensation: str = "mesh") -> str:
    """Give the judgement in two or three words; ``compensation`` is what the machine's really does.

    Examples
    --------
    >>> verdict_word("turn"), verdict_word("turn", has_screws=False)
    ('Turn the screws', 'Take the tilt out')
    """
    if compensation != "mesh" and level in ("compensate", "warped"):
        # nothing in this machine follows a shape
        return "Plate not flat" if level == "warped" else "Tilt is out, shape stays"
    if has_screws:
        return VERDICTS[level]
    return {"turn": "Take the tilt out", "compensate": "Compensate"}.get(level, VERDICTS[level])


def word_of(verdict: Verdict) -> str:
    """Give a judgement in two or three words."""
    return verdict_word(verdict.level, verdict.has_screws, verdict.compensation)


def sentence_of(verdict: Verdict) -> str:
    """Say why a bed is judged as it is, with numbers.

    Examples
    --------
    >>> from finchwort.core.surveys import judge_open
    >>> sentence_of(judge_open(0.0, 0.2))[:48]
    'Paper said only which way at some places, so nob'
    """
    if verdict.level == "open":
        return _open(verdict)
    if verdict.level == "level":
        return _level(verdict)
    if verdict.level == "unsure":
        return _unsure(verdict)
    return _turn(verdict) if verdict.level == "turn" else _left(verdict)


def _layer(verdict: Verdict) -> str:
    return f"a {verdict.first_layer:.2f} mm first layer"


def _tilt(verdict: Verdict) -> str:
    tilt = verdict.tilt
    return f"{millimetres(tilt.rise)} ± {millimetres(tilt.margin)}" if tilt else ""


def _open(verdict: Verdict) -> str:
    known = "Paper said only which way at some places, so nobody knows yet how level the bed is."
    if verdict.spread >= SAID_FROM:
        known = (
            f"The bed varies by at least {millimetres(verdict.spread)}, and paper cannot say how much more: at some places "
            "it said only which way."
        )
    how = "Lower the tip at each place until the strip just drags, and type the Z."
    if verdict.has_screws:
        how = "Turn one corner after the other until the strip just drags, or lower the tip until it drags and type the Z."
    return f"{known} {how}"


def _level(verdict: Verdict) -> str:
    leave = "Leave the screws alone." if verdict.has_screws else "Leave it as it is."
    if verdict.spread > good_spread(verdict.first_layer):
        return (
            f"The readings vary by {millimetres(verdict.spread)}, but the tilt of the bed is only {_tilt(verdict)}, and "
            f"without it {millimetres(verdict.flat)} are left, within half of {_layer(verdict)}. {leave}"
        )
    return (
        f"From highest to lowest reading the bed varies by {millimetres(verdict.spread)}, within half of "
        f"{_layer(verdict)}. {leave}"
    )


def _unsure(verdict: Verdict) -> str:
    if verdict.tilt is not None and verdict.tilt.likely:
        return (
            f"The tilt of the whole bed is {_tilt(verdict)}: very likely too much for {_layer(verdict)}, but known too "
            f"poorly to {'turn by' if verdict.has_screws else 'take it out'}. Measure again, at more places if you can."
        )
    return (
        f"The tilt of the whole bed is {_tilt(verdict)}. For {_layer(verdict)} nobody can tell by that whether it is worth "
        "turning for. Measure again, or at more places."
    )


def _turn(verdict: Verdict) -> str:
    what = "Turn the screws first" if verdict.has_screws else "Take the tilt out first"
    behind = verdict.spread - verdict.flat
    if behind > TILT_SHARE * verdict.first_layer or not verdict.tilt:
        sentence = (
            f"The bed varies by {millimetres(verdict.spread)} against {_layer(verdict)}, and tilt is behind "
            f"{millimetres(behind)} of it. {what}."
        )
    else:
        sentence = f"The tilt of the whole bed is {_tilt(verdict)}; the bow hides part of it in these readings. {what}."
    if verdict.flat > COMPENSATE_SHARE * verdict.first_layer:
        sentence += f" The {millimetres(verdict.flat)} that stay are the plate's own shape."
    return sentence


def _left(verdict: Verdict) -> str:
    left = f"What is left, {millimetres(verdict.flat)}, is the plate's shape ({SHAPES[verdict.shape]})"
    if verdict.compensation != "mesh":
        return (
            f"{left}; no screw takes it out. {_NOR[verdict.compensation]}Foil or tape under the low places, a glass plate "
            "on top or another plate does."
        )
    if verdict.level == "compensate":
        return f"{left}; no screw takes it out. Compensation can deal with it."
    return (
        f"{left} and more than compensation should carry for {_layer(verdict)}. Shim it, lay a glass plate on top or "
        "replace the plate."
    )


CANNOT_TELL = (
    "These places cannot tell a bow from a tilt, so the tilt of the whole bed is known less well than that of the readings. "
    "Measure towards the edges that were left out."
)


def places_sentence(fit: BedFit) -> str | None:
    """Say what to know about the places that were measured, or nothing."""
    return None if fit.told else CANNOT_TELL
