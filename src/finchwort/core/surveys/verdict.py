"""What a survey means for the first layer."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from finchwort.core.surveys.flatness import Flatness
from finchwort.core.surveys.kinds import VerdictLevel
from finchwort.core.surveys.shape import Shape
from finchwort.core.surveys.survey import Survey
from finchwort.core.surveys.tolerances import COMPENSATE_SHARE, TILT_SHARE, check_first_layer, good_spread

if TYPE_CHECKING:
    from finchwort.core.surveys.tilt import Tilt


@dataclass(frozen=True)
class Verdict:
    """A judgement, with what its sentence names.

    Attributes
    ----------
    level : one of `VerdictLevel`
    first_layer : float
        Height of the first layer it was judged for, mm.
    spread : float
        Highest minus lowest reading, mm; of a bed known on one side only, at the least.
    flat : float
        What the plane leaves of it, mm.
    shape : str
        Name of the shape, see `finchwort.core.surveys.Shape`; empty where nobody knows it.
    tilt : Tilt or None
        What the readings say about the tilt of the whole bed.
    has_screws : bool
        Whether the bed has screws to turn.
    compensation : {"none", "mean", "mesh"}
        What this machine's compensation really does.
    """

    level: str
    first_layer: float
    spread: float
    flat: float = 0.0
    shape: str = ""
    tilt: Tilt | None = None
    has_screws: bool = True
    compensation: str = "mesh"

    @property
    def share(self) -> float:
        """Spread of the readings as a share of the first-layer height."""
        return self.spread / self.first_layer


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
        One of `VerdictLevel`.

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
    return Verdict(level, first_layer, spread, flat, shape.name, tilt, has_screws, compensation)


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
    >>> print(judge_open(0.13, 0.2).level, round(judge_open(0.13, 0.2).share, 2))
    open 0.65
    """
    check_first_layer(first_layer)
    return Verdict(VerdictLevel.OPEN, first_layer, spread, has_screws=has_screws)
