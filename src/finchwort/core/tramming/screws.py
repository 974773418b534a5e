"""Bed screws, and how a stiff plate on springs follows them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike

from finchwort.core.base.geometry import Array
from finchwort.core.printers import Screw
from finchwort.core.surveys import Survey

HAND_SD = 1 / 32
"""How truly a knob is turned by hand before that hand is known, standard deviation in turns (ours: 11 degrees, a quarter of
the eighth to which turning is done by common practice)."""


def plate_response(screws: Sequence[Screw]) -> Array:
    """How the plane of a rigid plate on equal springs follows its screws.

    The plate settles on the least-squares plane through the screw ends.

    Parameters
    ----------
    screws : sequence of Screw

    Returns
    -------
    ndarray, shape (3, k)
        Times the moves at the k screws (mm) gives the change (a, b, c) of the plane.

    Examples
    --------
    Moving one of four corners by 1 mm moves the four by 3/4, 1/4, -1/4, 1/4:

    >>> square = [Screw(str(i), x, y, 0.7) for i, (x, y) in
    ...           enumerate([(0, 0), (1, 0), (1, 1), (0, 1)])]
    >>> a, b, c = plate_response(square)[:, 0]
    >>> [round(float(a * s.x + b * s.y + c), 2) for s in square]
    [0.75, 0.25, -0.25, 0.25]
    """
    places = np.array([[s.x, s.y, 1.0] for s in screws])
    return np.linalg.pinv(places)


def twist_form(screws: Sequence[Screw]) -> tuple[Array, Array] | None:
    """What four knobs can do to a plate besides tilting it: the pattern that leaves its plane alone.

    Parameters
    ----------
    screws : sequence of Screw

    Returns
    -------
    pattern : ndarray, shape (4,)
        Moves at the screws of unit length that change no plane.
    form : ndarray, shape (4,)
        Coefficients of 1, x, y, x y that give the pattern at the screws.
    None
        With another number of screws, or where they carry no such form.

    Examples
    --------
    >>> square = [Screw(str(i), x, y, 0.7) for i, (x, y) in enumerate([(0, 0), (1, 0), (1, 1), (0, 1)])]
    >>> pattern, _ = twist_form(square)
    >>> (pattern * 2 * pattern[0]).round(3).tolist()
    [0.5, -0.5, 0.5, -0.5]
    """
    if len(screws) != 4:
        return None
    place = np.array([[s.x, s.y] for s in screws])
    flat = np.column_stack([np.ones(4), place])
    pattern = np.linalg.svd(flat.T)[2][3]
    rows = np.column_stack([flat, place.prod(axis=1)])
    if np.linalg.cond(rows / np.abs(rows).max(axis=0)) > 1e8:
        return None
    return pattern, np.linalg.solve(rows, pattern)


def twist_at(screws: Sequence[Screw], turns: ArrayLike, share: float, x: ArrayLike, y: ArrayLike) -> Array:
    """Heights that turns add to a plate that bends, besides their plane, mm.

    Parameters
    ----------
    screws : sequence of Screw
    turns : sequence of float
        Positive for tightening.
    share : float
        Of the twist that the screw ends make the plate follows: 0 for a stiff one, 1 for one without stiffness.
    x, y : array_like
        Places, mm.
    """
    x, y = np.asarray(x, dtype=np.float64), np.asarray(y, dtype=np.float64)
    result = twist_form(screws) if share else None
    if result is None:
        return np.zeros(np.broadcast(x, y).shape)
    pattern, form = result
    moves = np.array([screw.travel for screw in screws]) * np.asarray(turns, dtype=np.float64)
    return share * float(pattern @ moves) * (form[0] + form[1] * x + form[2] * y + form[3] * x * y)


def predict(survey: Survey, screws: Sequence[Screw], turns: Sequence[float]) -> Survey:
    """Give the readings expected after turning the screws.

    Parameters
    ----------
    survey : Survey
    screws : sequence of Screw
    turns : sequence of float
        Turns at each screw, positive for tightening.

    Returns
    -------
    Survey
    """
    a, b, c = plane_change(screws, turns)
    return survey.with_heights(survey.height + a * survey.x + b * survey.y + c)


def plane_change(screws: Sequence[Screw], turns: Sequence[float]) -> Array:
    """Change (a, b, c) of the plate's plane when the screws are turned (positive tightens)."""
    moves = np.array([screw.travel for screw in screws]) * np.asarray(turns, dtype=np.float64)
    return plate_response(screws) @ moves
