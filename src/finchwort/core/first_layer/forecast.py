"""What the first layer will be at every place of the bed, before plastic is used."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError, TooFewReadingsError
from finchwort.core.base.geometry import Array, Indices
from finchwort.core.base.wording import millimetres
from finchwort.core.first_layer.bead import BANDS, TOUCH, Bead

GOOD = BANDS.index("good")
SAFE = TOUCH + 0.01
"""What an offset that is handed out leaves at the highest place, at least, mm (ours: touch and the smallest trim)."""
FURTHEST = 2.0
"""Nobody trims further than this, mm."""
MAX_PLACES = 1_000_000
MOSTLY = 0.9
"""From this share on most of a bed is good (ours)."""


@dataclass(frozen=True, eq=False)
class Forecast:
    """The first layer as it will be laid.

    Attributes
    ----------
    gap : ndarray
        Tip to plate at every place, mm.
    band : ndarray of int
        Places in `finchwort.core.first_layer.BANDS`.
    shares : dict of str to float
        Share of the area in each band.
    least, most : float
        Smallest and largest gap, mm.
    best : float
        Change of the tip's height that makes the good area largest, mm, positive away from the bed; among
        equals the one that leaves most room to both sides.
    best_share : float
        Share of the area that is good then.
    closest : float
        Change down to which the tip keeps clear of the highest place, mm (usually negative).
    """

    gap: Array
    band: Indices
    shares: dict[str, float]
    least: float
    most: float
    best: float
    best_share: float
    closest: float

    @property
    def good(self) -> float:
        """Share of the area that is good."""
        return self.shares["good"]

    @property
    def touches(self) -> bool:
        """Whether the tip would touch somewhere."""
        return self.least <= TOUCH


def _percent(share: float) -> str:
    return f"{round(100 * share)} %"


def forecast_layer(height: ArrayLike, bead: Bead, zero: float = 0.0) -> Forecast:
    """Foretell the first layer over a bed.

    Parameters
    ----------
    height : array_like
        Heights that the nozzle meets, mm, positive towards it; with compensation taken off where the machine
        compensates.  Equal areas stand behind them.
    bead : Bead
        Its height is the first-layer height that is commanded.
    zero : float
        Gap at Z = 0 over a place of height 0, mm: 0 when the tip just touches there, the thickness of the paper
        when Z = 0 was set where paper drags.

    Returns
    -------
    Forecast

    Raises
    ------
    TooFewReadingsError, NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> found = forecast_layer([0.0, 0.02, -0.02, 0.05], Bead(0.42, 0.2), zero=0.06)
    >>> found.good, round(found.best, 2), found.best_share
    (0.25, -0.06, 0.75)
    """
    height = np.asarray(height, dtype=np.float64)
    if height.size == 0:
        raise TooFewReadingsError("first_layer.forecast_needs_bed")
    if height.size > MAX_PLACES:
        raise OutOfRangeError("first_layer.forecast_covers_up_places", max_places=MAX_PLACES)
    if not np.isfinite(height).all():
        raise NonFiniteError("first_layer.height_missing")
    if not (math.isfinite(zero) and abs(zero) <= FURTHEST):
        raise OutOfRangeError("first_layer.gap_within_mm", furthest=FURTHEST)
    gap = bead.height + zero - height
    band = bead.bands(gap)
    count = np.bincount(band.ravel(), minlength=len(BANDS))
    least, most = float(gap.min()), float(gap.max())
    best, share = best_change(gap, bead)
    return Forecast(
        gap=gap,
        band=band,
        shares={name: float(n) / gap.size for name, n in zip(BANDS, count, strict=True)},
        least=least,
        most=most,
        best=best,
        best_share=share,
        closest=SAFE - least,
    )


def agree(level: str, forecast: Forecast, bead: Bead) -> str | None:
    """Say how the judgement of the bed and the first layer foretold agree, where they seem not to.

    Parameters
    ----------
    level : str
        See `finchwort.core.surveys.verdict_level`.
    forecast : Forecast
    bead : Bead

    Examples
    --------
    >>> bead = Bead(0.42, 0.2)
    >>> agree("level", forecast_layer([0.0, 0.05, -0.04], bead), bead)[:26]
    'The bed counts as level, a'
    >>> agree("level", forecast_layer([0.0, 0.01, -0.01], bead), bead) is None
    True
    """
    low, high = bead.limits()[GOOD - 1], bead.limits()[GOOD]
    if level == "level" and forecast.best_share < MOSTLY:
        return (
            "The bed counts as level, as its readings lie within half of the first layer, and it prints. Lines look just right "
            f"only within {millimetres(high - low)} of gap, so at the best height of the tip {_percent(1 - forecast.best_share)} of "
            "it looks a little too close or too far. Compensation evens that out where the machine has it; a higher first layer forgives more."
        )
    if level == "turn" and forecast.best_share >= MOSTLY:
        return (
            "The tilt is worth turning for, although most of the bed would look right at the best height of the tip: it takes up "
            "the room that heat, another plate or a thinner first layer need."
        )
    return None


def best_change(gap: ArrayLike, bead: Bead) -> tuple[float, float]:
    """Find the change of the tip's height that makes most of the bed good, without touching anywhere.

    The share is constant between the changes at which one place enters or leaves the good band, so it is enough
    to look at those.

    Parameters
    ----------
    gap : array_like
        mm
    bead : Bead

    Returns
    -------
    change : float
        mm, positive away from the bed.
    share : float
    """
    gaps = np.sort(np.ravel(np.asarray(gap, dtype=np.float64)))
    limits = bead.limits()
    low, high = limits[GOOD - 1], limits[GOOD]
    closest = SAFE - gaps[0]
    # just inside the band at either end
    enters = np.concatenate([low - gaps, high - gaps, [closest, 0.0]])
    changes = np.unique(enters[enters >= closest])
    middles = np.concatenate([changes, (changes[1:] + changes[:-1]) / 2])
    middles.sort()
    inside = np.searchsorted(gaps, high - middles, "right") - np.searchsorted(gaps, low - middles, "left")
    most = inside.max()
    # of the runs of changes that are equally good, the widest; in its middle there is most room to both sides
    full = inside == most
    edges = np.flatnonzero(np.diff(np.concatenate([[False], full, [False]])))
    runs = edges.reshape(-1, 2)
    widths = middles[runs[:, 1] - 1] - middles[runs[:, 0]]
    first, after = runs[int(np.argmax(widths))]
    return float((middles[first] + middles[after - 1]) / 2), float(most / gaps.size)
