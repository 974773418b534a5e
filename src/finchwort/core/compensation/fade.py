"""Fading: over which height a mesh is taken out again."""

from __future__ import annotations

import math
from dataclasses import dataclass

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.wording import millimetres

FADE = 10.0
"""A usual fade height, mm (common practice)."""
FADE_SHARE = 0.02
"""A layer may be this much thicker or thinner while compensation fades (ours)."""


@dataclass(frozen=True)
class Fade:
    """What a fade height does to the layers below it.

    Attributes
    ----------
    height : float
        mm; 0 means that compensation never fades.
    deviation : float
        Largest compensation, mm.
    share : float
        Every layer below the fade height is thicker or thinner by up to this share.
    thickness : float
        The same for one layer, mm.
    sentence : str
    """

    height: float
    deviation: float
    share: float
    thickness: float
    sentence: str


def fade_out(deviation: float, layer: float, height: float) -> Fade:
    """Work out the thickness error of layers while compensation fades out linearly.

    Parameters
    ----------
    deviation : float
        Largest height that is compensated, mm.
    layer : float
        Layer height, mm.
    height : float
        Fade height, mm; 0 for never.

    Returns
    -------
    Fade

    Examples
    --------
    >>> fade = fade_out(0.3, 0.2, 10)
    >>> round(fade.share, 6), round(fade.thickness, 6)
    (0.03, 0.006)
    """
    if not all(map(math.isfinite, (deviation, layer, height))) or layer <= 0:
        raise NonFiniteError("compensation.deviation_layer_fade_height")
    if height < 0 or height > 1000:
        raise OutOfRangeError("compensation.fade_height_never_mm")
    if 0 < height < layer:
        raise OutOfRangeError("compensation.compensation_cannot_fade_out")
    deviation = abs(deviation)
    if height == 0:
        text = f"It never fades: the top of the part follows the bed, up to {millimetres(deviation)}."
        return Fade(0.0, deviation, 0.0, 0.0, text)
    share = deviation / height
    text = (
        f"Each layer up to {height:g} mm is thicker or thinner by up to {100 * share:.1f} % "
        f"({1000 * share * layer:.0f} µm of {layer:g} mm); above, the part is flat."
    )
    return Fade(height, deviation, share, share * layer, text)


def advised_fade(deviation: float) -> float:
    """Give a fade height that keeps each layer within ``FADE_SHARE``, and no less than the usual one, mm.

    Examples
    --------
    >>> advised_fade(0.1), advised_fade(0.3)
    (10.0, 15.0)
    """
    return max(FADE, float(math.ceil(abs(deviation) / FADE_SHARE - 1e-9)))
