"""What a survey means for the first layer, in one sentence."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from finchwort.core.base.wording import millimetres
from finchwort.core.surveys.flatness import Flatness
from finchwort.core.surveys.shape import NAMES, Shape
from finchwort.core.surveys.survey import Survey
from finchwort.core.surveys.tolerances import COMPENSATE_SHARE, TILT_SHARE, check_first_layer, good_spread

if TYPE_CHECKING:
    from finchwort.core.surveys.tilt import Tilt

SAID_FROM = 0.005
"""A length below this is written as nothing, mm."""

WORDS = {
    "open": "Not known yet",
    "level": "Level",
    "unsure": "Measure again",
    "turn": "Turn the screws",
    "compensate": "Leave the screws, compensate",
    "warped": "Beyond compensation",
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
        return WORDS[level]
    return {"turn": "Take the tilt out", "compensate": "Compensate"}.get(level, WORDS[level])


@dataclass(frozen=True)
class Verdict:
    """A judgement.

    Attributes
    ----------
    level : str
        A key of ``WORDS``.
    word : str
        The judgement in two or three words.
    sentence : str
        Why, with numbers.
    share : float
        Spread of the readings as a share of the first-layer height.
    """

    level: str
    word: str
    sentence: str
    share: float


def verdict_level(
    spread: float, peak_to_valley: float, first_layer: float, decision: str | None = None
) -> str:
    """Give the level of the judgement of a bed.

    Parameters
    ----------
    spread : float
        Highest minus lowest reading, tilt and shape together, mm.
    peak_to_valley : float
        What the plane leaves of it, mm.
    first_layer : float
        Height of the first layer, mm.
    decision : {"turn", "leave", "measure"}, optional
        What the tilt of the whole bed calls for, see `finchwort.core.surveys.judge_tilt`; by the readings alone when not
        given.

    Returns
    -------
    str
        A key of ``WORDS``.

    Examples
    --------
    >>> verdict_level(0.14, 0.02, 0.2), verdict_level(0.14, 0.02, 0.3), verdict_level(0.25, 0.24, 0.2)
    ('turn', 'level', 'compensate')
    >>> verdict_level(0.14, 0.02, 0.2, "leave"), verdict_level(0.08, 0.02, 0.2, "measure")
    ('level', 'unsure')
    """
    if decision in ("turn", "measure"):
        return "turn" if decision == "turn" else "unsure"
    if spread <= good_spread(first_layer):
        return "level"
    if decision is None and spread - peak_to_valley > TILT_SHARE * first_layer:
        return "turn"
    if decision is not None and peak_to_valley <= good_spread(first_layer):
        return "level"
    return "compensate" if peak_to_valley <= COMPENSATE_SHARE * first_layer else "warped"


def judge(
    survey: Survey,
    flatness: Flatness,
    shape: Shape,
    first_layer: float,
    has_screws: bool = True,
    tilt: Tilt | None = None,
    compensation: str = "mesh",
) -> Verdict:
    """Judge a survey against the first-layer height.

    Parameters
    ----------
    survey : Survey
    flatness : Flatness
        Of the same survey.
    shape : Shape
        Of the same survey.
    first_layer : float
        Height of the first layer, mm.
    has_screws : bool
        Whether the bed has screws to turn.
    tilt : Tilt, optional
        What the readings say about the tilt of the whole bed; by the readings alone when not given.
    compensation : {"none", "mean", "mesh"}
        What this machine's compensation really does.

    Returns
    -------
    Verdict

    Raises
    ------
    OutOfRangeError
        When the first-layer height is none.

    Examples
    --------
    >>> from finchwort.core.surveys import assess_flatness
    >>> from finchwort.core.surveys import decompose
    >>> from finchwort.core.printers import Bed
    >>> s = Survey([0, 100, 100, 0], [0, 0, 100, 100], [0, 0.3, 0.3, 0])
    >>> judge(s, assess_flatness(s), decompose(s, Bed(100, 100)), 0.2).level
    'turn'
    """
    check_first_layer(first_layer)
    spread, flat = survey.spread, flatness.peak_to_valley
    level = verdict_level(spread, flat, first_layer, tilt.decision if tilt else None)
    layer = f"a {first_layer:.2f} mm first layer"
    known = f"{millimetres(tilt.rise)} ± {millimetres(tilt.margin)}" if tilt else ""
    if level == "level" and spread > good_spread(first_layer):
        sentence = (
            f"The readings vary by {millimetres(spread)}, but the tilt of the bed is only {known}, and without it "
            f"{millimetres(flat)} are left, within half of {layer}. "
            f"{'Leave the screws alone.' if has_screws else 'Leave it as it is.'}"
        )
    elif level == "level":
        sentence = (
            f"From highest to lowest reading the bed varies by {millimetres(spread)}, "
            f"within half of {layer}. {'Leave the screws alone.' if has_screws else 'Leave it as it is.'}"
        )
    elif level == "unsure" and tilt is not None and tilt.likely:
        sentence = (
            f"The tilt of the whole bed is {known}: very likely too much for {layer}, but known too poorly to "
            f"{'turn by' if has_screws else 'take it out'}. Measure again, at more places if you can."
        )
    elif level == "unsure":
        sentence = (
            f"The tilt of the whole bed is {known}. For {layer} nobody can tell by that whether it is worth turning "
            "for. Measure again, or at more places."
        )
    elif level == "turn":
        what = "Turn the screws first" if has_screws else "Take the tilt out first"
        if spread - flat > TILT_SHARE * first_layer or not tilt:
            sentence = (
                f"The bed varies by {millimetres(spread)} against {layer}, and tilt is behind "
                f"{millimetres(spread - flat)} of it. {what}."
            )
        else:
            sentence = (
                f"The tilt of the whole bed is {known}; the bow hides part of it in these readings. {what}."
            )
        if flat > COMPENSATE_SHARE * first_layer:
            sentence += f" The {millimetres(flat)} that stay are the plate's own shape."
    elif compensation != "mesh":
        nor = {
            "mean": "Compensation by the mean moves everything alike and does not take it out either. ",
            "none": "",
        }
        sentence = (
            f"What is left, {millimetres(flat)}, is the plate's shape ({NAMES[shape.name]}); no screw takes it out. "
            f"{nor[compensation]}Foil or tape under the low places, a glass plate on top or another plate does."
        )
    elif level == "compensate":
        sentence = (
            f"What is left, {millimetres(flat)}, is the plate's shape ({NAMES[shape.name]}); "
            f"no screw takes it out. Compensation can deal with it."
        )
    else:
        sentence = (
            f"What is left, {millimetres(flat)}, is the plate's shape ({NAMES[shape.name]}) and more "
            f"than compensation should carry for {layer}. Shim it, lay a glass plate on top or replace the plate."
        )
    return Verdict(level, verdict_word(level, has_screws, compensation), sentence, spread / first_layer)


def judge_open(spread: float, first_layer: float, has_screws: bool = True) -> Verdict:
    """Judge a bed of which some places are known on one side only: it is never called level.

    Parameters
    ----------
    spread : float
        How far apart its highest and lowest place are at the least, mm.
    first_layer : float
        mm

    Examples
    --------
    >>> judge_open(0.13, 0.2).word, judge_open(0.0, 0.2).sentence[:46]
    ('Not known yet', 'Paper said only which way at some places, so n')
    """
    check_first_layer(first_layer)
    known = (
        f"The bed varies by at least {millimetres(spread)}, and paper cannot say how much more: at some places it said only which way."
        if spread >= SAID_FROM
        else "Paper said only which way at some places, so nobody knows yet how level the bed is."
    )
    how = (
        "Turn one corner after the other until the strip just drags, or lower the tip until it drags and type the Z."
        if has_screws
        else "Lower the tip at each place until the strip just drags, and type the Z."
    )
    return Verdict("open", WORDS["open"], f"{known} {how}", spread / first_layer)
