"""Three bare numbers: the heights of one row, left, middle, right."""

from __future__ import annotations

import re

from finchwort.core.base.errors import ChoiceError

NUMBER = re.compile(r"[-+\u2212]?\d+(?:[.,]\d+)?(?:[eE][-+]?\d+)?")


def read_row(text: str, values: str = "height") -> tuple[float, float, float]:
    """Read the heights of a row, mm.

    Parameters
    ----------
    text : str
        Three numbers, however they are parted; what stands round them is left out.
    values : {"height", "gap"}

    Returns
    -------
    tuple of float
        Left, middle, right; positive is high.

    Raises
    ------
    ChoiceError
        When there are not just three.

    Examples
    --------
    >>> read_row("-0.2  0.0  +0.2"), read_row("left: 0,1; middle: 0; right: \u22120,1", "gap")
    ((-0.2, 0.0, 0.2), (-0.1, 0.0, 0.1))
    """
    # points that part decimals stay; commas do where a digit follows at once
    results = [float(item.replace("\u2212", "-").replace(",", ".")) for item in NUMBER.findall(text)]
    if len(results) != 3:
        raise ChoiceError("formats.give_three_heights_left")
    sign = -1.0 if values == "gap" else 1.0
    left, middle, right = (sign * result + 0.0 for result in results)
    return left, middle, right
