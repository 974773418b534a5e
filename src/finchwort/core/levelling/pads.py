"""Pads that carry a plate: where they stand, and how a plate follows foil under them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.interpolate import RBFInterpolator

from finchwort.core.base.geometry import Array


@dataclass(frozen=True)
class Pad:
    """A support without a screw.

    Attributes
    ----------
    name : str
    x, y : float
        mm
    stack : tuple of float
        Foils that lie on it now, mm each.
    """

    name: str
    x: float
    y: float
    stack: tuple[float, ...] = ()


def pad_response(pads: Sequence[Pad], x: Array, y: Array, stiff: bool = True) -> Array:
    """How the bed follows its pads.

    Parameters
    ----------
    pads : sequence of Pad
    x, y : ndarray, shape (n,)
        Places, mm.
    stiff : bool
        A stiff plate tips along the least-squares plane through its pads; one that
        bends lies on all of them, as a thin plate does.

    Returns
    -------
    ndarray, shape (n, p)
        Times the heights of the pads gives the change at the places, mm.
    """
    ends = np.array([[pad.x, pad.y, 1.0] for pad in pads])
    if stiff or len(pads) == 3:
        return np.column_stack([x, y, np.ones_like(x)]) @ np.linalg.pinv(ends)
    plate = RBFInterpolator(ends[:, :2], np.eye(len(pads)), kernel="thin_plate_spline", degree=1)
    return plate(np.column_stack([x, y]))
