"""How much a first layer forgives: what is level, what compensation carries, which tilt is worth a turn."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from finchwort.core.base.errors import OutOfRangeError

if TYPE_CHECKING:
    pass

GOOD_SHARE = 0.5
"""Up to this share of the first layer the bed is good as it is (common practice: 0.1 of 0.2 mm)."""
COMPENSATE_SHARE = 1.5
"""Up to this share compensation deals with what remains (common practice: 0.3 of 0.2 mm)."""
TILT_SHARE = 0.25
"""A tilt that adds less than this share of the first layer is not worth turning for (ours)."""
MIN_LAYER, MAX_LAYER = 0.05, 1.0
"""First-layer heights that are taken seriously, mm."""


def good_spread(first_layer: float) -> float:
    """Give the spread of readings (mm) up to which a bed is good as it is, for a first layer (mm).

    Examples
    --------
    >>> good_spread(0.2)
    0.1
    """
    return GOOD_SHARE * first_layer


def check_first_layer(first_layer: float) -> None:
    """Raise unless the first-layer height (mm) is one.

    Raises
    ------
    OutOfRangeError
    """
    if not (math.isfinite(first_layer) and MIN_LAYER <= first_layer <= MAX_LAYER):
        raise OutOfRangeError(
            "surveys.first_layer_mm_high", min_layer=MIN_LAYER, max_layer=MAX_LAYER, first_layer=first_layer
        )
