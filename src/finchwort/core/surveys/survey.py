"""A survey: one set of readings of a bed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike
from scipy.spatial import cKDTree

from finchwort.core.base.errors import (
    CollinearError,
    DuplicateError,
    NonFiniteError,
    OutOfRangeError,
    TooFewReadingsError,
    TooManyReadingsError,
)
from finchwort.core.base.geometry import MAX_COORDINATE, Array, is_line

MAX_READINGS = 20_000
"""Largest number of readings in one survey."""
MAX_HEIGHT = 50.0
"""Heights beyond this are a mistake (or micrometres taken for millimetres), mm."""

NEAR = 0.5
"""Places closer than this are one place to a tip, mm (ours: about its own width)."""


@dataclass(frozen=True, eq=False)
class Survey:
    """Readings of one bed, checked.

    Parameters
    ----------
    x, y : array_like, shape (n,)
        Places, mm.
    height : array_like, shape (n,)
        Height of the bed there, mm, positive towards the nozzle.

    Raises
    ------
    TooFewReadingsError
        With fewer than three readings.
    TooManyReadingsError
        With more than ``MAX_READINGS``.
    NonFiniteError
        When a value is missing, infinite or not a number.
    OutOfRangeError
        When a coordinate or a height is absurd.
    DuplicateError
        When one place has two readings.
    CollinearError
        When all places lie on one line.

    Examples
    --------
    >>> survey = Survey([0, 100, 0], [0, 0, 100], [0.0, 0.1, 0.2])
    >>> len(survey), round(survey.spread, 3)
    (3, 0.2)
    """

    x: Array
    y: Array
    height: Array

    def __post_init__(self) -> None:
        for name in ("x", "y", "height"):
            values = np.array(getattr(self, name), dtype=np.float64)
            if values.ndim != 1:
                raise OutOfRangeError("surveys.readings_come_three_plain")
            values.setflags(write=False)
            object.__setattr__(self, name, values)
        if not self.x.size == self.y.size == self.height.size:
            raise OutOfRangeError("surveys.every_reading_needs_height")
        check_places(self.x, self.y)
        if not np.isfinite(self.height).all():
            raise NonFiniteError("surveys.height_missing_not_number")
        worst = float(np.abs(self.height).max())
        if worst > MAX_HEIGHT:
            raise OutOfRangeError("surveys.height_mm_more_any", worst=worst)

    def __len__(self) -> int:
        return int(self.x.size)

    @classmethod
    def from_grid(cls, xs: ArrayLike, ys: ArrayLike, heights: ArrayLike) -> Survey:
        """Make a survey from a table of heights.

        Parameters
        ----------
        xs : array_like, shape (m,)
            X of the columns, mm.
        ys : array_like, shape (n,)
            Y of the rows, mm.
        heights : array_like, shape (n, m)
            ``heights[j, i]`` is the height at ``xs[i], ys[j]``, mm, positive towards the nozzle.

        Examples
        --------
        >>> Survey.from_grid([0, 10], [0, 20], [[0, 1], [2, 3]]).height.tolist()
        [0.0, 1.0, 2.0, 3.0]
        """
        xs, ys = np.asarray(xs, dtype=np.float64), np.asarray(ys, dtype=np.float64)
        heights = np.asarray(heights, dtype=np.float64)
        if xs.ndim != 1 or ys.ndim != 1 or heights.shape != (ys.size, xs.size):
            raise OutOfRangeError("surveys.table_heights_rows_values", size=ys.size, size_2=xs.size)
        grid_x, grid_y = np.meshgrid(xs, ys)
        return cls(grid_x.ravel(), grid_y.ravel(), heights.ravel())

    @property
    def spread(self) -> float:
        """Highest minus lowest reading, tilt and shape together, mm."""
        return float(self.height.max() - self.height.min())

    def with_heights(self, height: ArrayLike) -> Survey:
        """Return the same places with other heights (mm)."""
        height = np.array(height, dtype=np.float64)
        if height.shape != self.height.shape or not np.isfinite(height).all():
            raise NonFiniteError("surveys.every_place_needs_finite")
        height.setflags(write=False)
        other = object.__new__(Survey)
        for name, values in (("x", self.x), ("y", self.y), ("height", height)):
            object.__setattr__(other, name, values)
        return other


def join_near(x: ArrayLike, y: ArrayLike, height: ArrayLike) -> tuple[Array, Array, Array, str | None]:
    """Join readings whose places are nearer than the tip can tell apart.

    Each reading joins the first one kept within `NEAR` of it, so that a fine grid does not run together into
    one place.

    Parameters
    ----------
    x, y, height : array_like, shape (n,)
        mm

    Returns
    -------
    x, y, height : ndarray, shape (m,)
        Means of what was joined, mm, in the order in which the places first came.
    remark : str or None
        What was joined, and how far apart the heights were.

    Examples
    --------
    >>> x, y, z, said = join_near([0, 0.1, 100], [0, 0, 0], [0.1, 0.3, 0.0])
    >>> x.tolist(), z.tolist(), said
    ([0.05, 100.0], [0.2, 0.0], '1 place was read more than once (within 0.5 mm, heights up to 0.20 mm apart); the mean is used there.')
    """
    x, y, height = (np.asarray(values, dtype=np.float64) for values in (x, y, height))
    places = np.column_stack([x, y])
    if len(places) < 2 or not (np.abs(places) <= MAX_COORDINATE).all():
        return x, y, height, None
    # what lies in one small cell is joined first, so that no place has many neighbours
    cells = np.floor(places / (NEAR / 2)).astype(np.int64)
    _, first, inverse = np.unique(cells, axis=0, return_index=True, return_inverse=True)
    seeds = places[first]
    tree = cKDTree(seeds)
    if len(seeds) == len(places) and tree.query(seeds, k=2)[0][:, 1].min() >= NEAR:
        return x, y, height, None
    owner = np.full(len(seeds), -1)
    for i in np.argsort(first):
        if owner[i] < 0:
            near = [j for j in tree.query_ball_point(seeds[i], NEAR * (1 - 1e-9)) if owner[j] < 0]
            owner[near] = i
    group = owner[inverse.ravel()]
    kept, which, counts = np.unique(group, return_inverse=True, return_counts=True)
    mean = [np.bincount(which, weights=values) / counts for values in (x, y, height)]
    # a place read once keeps its very numbers
    alone = counts == 1
    least = np.full(len(kept), len(x))
    np.minimum.at(least, which, np.arange(len(x)))
    for values, means in zip((x, y, height), mean, strict=True):
        means[alone] = values[least[alone]]
    low, high = np.full(len(kept), np.inf), np.full(len(kept), -np.inf)
    np.minimum.at(low, which, height)
    np.maximum.at(high, which, height)
    several = int((~alone).sum())
    apart = float((high - low).max())
    order = np.argsort(least)
    remark = (
        f"{several} place{'s were' if several > 1 else ' was'} read more than once (within {NEAR:g} mm, heights up to "
        f"{apart:.2f} mm apart); the mean is used there."
    )
    return mean[0][order], mean[1][order], mean[2][order], remark


def averaged(x: ArrayLike, y: ArrayLike, height: ArrayLike) -> tuple[Survey, str | None]:
    """Make a survey of readings of which some may be of one place: those are averaged.

    Returns
    -------
    survey : Survey
    remark : str or None
        What was averaged, see `join_near`.

    Raises
    ------
    CoreError
        See `Survey`.

    Examples
    --------
    >>> survey, said = averaged([0, 0, 100, 0], [0, 0, 0, 100], [0.1, 0.2, 0.0, 0.0])
    >>> len(survey), round(float(survey.height[0]), 3), said[:32]
    (3, 0.15, '1 place was read more than once ')
    """
    x, y, height = (np.asarray(item, dtype=np.float64) for item in (x, y, height))
    if not np.isfinite(height).all() or not (np.isfinite(x).all() and np.isfinite(y).all()):
        return Survey(x, y, height), None
    *joined_, remark = join_near(x, y, height)
    return Survey(*joined_), remark


def joined(survey: Survey) -> Survey:
    """Return a survey without places nearer than the tip can tell; itself when there are none.

    What is left may carry no plane; then it is returned as it is.
    """
    x, y, height, remark = join_near(survey.x, survey.y, survey.height)
    if remark is None:
        return survey
    try:
        return Survey(x, y, height)
    except (TooFewReadingsError, CollinearError):
        return survey


def check_places(x: Array, y: Array) -> None:
    """Raise the fitting error unless the places (mm) can carry a plane.

    See `Survey` for what is raised.
    """
    n = x.size
    if n < 3:
        raise TooFewReadingsError("surveys.reading_cannot_show_tilt", n=n, which="s" if n != 1 else "")
    if n > MAX_READINGS:
        raise TooManyReadingsError("surveys.readings_more_survey_holds", n=n, max_readings=MAX_READINGS)
    if not (np.isfinite(x).all() and np.isfinite(y).all()):
        raise NonFiniteError("surveys.coordinate_missing_not_number")
    worst = max(float(np.abs(x).max()), float(np.abs(y).max()))
    if worst > MAX_COORDINATE:
        raise OutOfRangeError("surveys.coordinate_mm_outside_any", worst=worst)
    order = np.lexsort((y, x))
    same = (np.diff(x[order]) == 0) & (np.diff(y[order]) == 0)
    if same.any():
        at = order[int(np.flatnonzero(same)[0])]
        raise DuplicateError("surveys.place_mm_more_reading", x=x[at], y=y[at])
    if is_line(x, y):
        raise CollinearError("surveys.all_readings_line_cannot")
