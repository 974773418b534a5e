"""How low a tip may go: the bed as far as it is known, and what happened since it was measured."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from scipy.spatial import cKDTree

from finchwort.core.base.errors import CoreError, NonFiniteError
from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.first_layer.bead import TOUCH
from finchwort.core.printers import Bed
from finchwort.core.surveys import Relief, Survey, find_odd
from finchwort.core.visits import (
    DAYS_A_MONTH,
    DOUBTFUL,
    MONTHS,
    TABLE,
    WARMER,
    Happened,
    effect,
    said_of,
)

MARGIN = 1.0
"""Ways between places keep so far above the highest ground, mm (ours)."""
GROUND_STEP = 2.0
"""A way is looked at in steps of this length, mm: a bump wide enough to matter is not stepped over."""
UNSEEN, UNSEEN_REACH = 0.15, 60.0
"""Between readings the bed may be higher by up to the first (mm), in full from so far away on (mm; ours)."""
MIN_NOISE = 0.01
"""A reading is trusted to no better, standard deviation, mm (common practice of probes)."""
SIGMAS = 2.0
"""So many standard deviations of a reading are kept clear (ours)."""
NEAR_MIDDLE = 0.2
"""Without a reading within this share of the bed's smaller side, the middle was not measured (ours)."""
MIDDLE_UNSEEN = 0.3
"""How much lower than its surroundings a middle that was not measured may be, mm (ours: what compensation still deals with)."""
LOOK_Z, LOOKED_HIGH = 0.15, 0.07
"""Where paper moves with the tip at the first, the bed is no higher than the second, mm (paper is 0.08 mm or more; ours)."""
LOOKED_UNSEEN = 0.05
"""Between the places where paper was felt the bed may be higher by this, mm (ours)."""
SHAPE_BY_HEAT = 0.1
"""Measured this much colder or warmer than it is printed on (°C), the plate may have another shape by so much (mm; ours)."""
BY_DOUBT = 0.12
"""After something that often moves a corner a little it may be higher by so much, mm (ours: prying, a crumb beneath)."""
SHAPE_BY_AGE = 0.1
"""What was measured longer ago may be off by so much, mm (ours)."""

GONE = frozenset(what for what, row in TABLE.items() if row["survey"] == "gone" and what != "turned") | {
    "uncompensated"
}
"""After these nothing measured before says where the bed is; recorded turns are counted instead."""
TIP = frozenset(what for what, row in TABLE.items() if row["offset"] == "gone")
"""After these nobody knows how high the tip stands at Z = 0."""


def rise_of_turns(bed: Bed, moves: Sequence[tuple[float, float, float]]) -> float:
    """How much higher any place can have become against the middle when knobs were turned, mm.

    Whatever the plate is: a stiff one tips about its other screws, a soft one follows each by itself, and a knob may
    have done less than its turn or gone the other way.

    Parameters
    ----------
    bed : Bed
    moves : sequence of (x, y, move)
        Turns times pitch, mm, of either sign.

    Examples
    --------
    >>> corners = [(5, 5, 0.7), (215, 5, 0), (215, 215, 0), (5, 215, 0)]
    >>> round(rise_of_turns(Bed(220, 220), corners), 2)
    0.77
    """
    table = np.array(moves, dtype=np.float64).reshape(-1, 3)
    if not np.isfinite(table).all():
        raise NonFiniteError("first_layer.turn_not_number")
    size = np.abs(table[:, 2])
    if not size.any():
        return 0.0
    rows = np.column_stack([np.ones(len(table)), table[:, :2]])
    cx, cy = bed.centre
    corners = [(1.0, x, y) for x in (bed.x_min, bed.x_max) for y in (bed.y_min, bed.y_max)]
    tips = (np.array(corners) - (1.0, cx, cy)) @ np.linalg.pinv(rows)
    # a soft plate carries on beyond its screws as it lies between them
    span = np.maximum(np.abs(table[:, :2] - (cx, cy)).max(axis=0), 1.0)
    soft = float(np.maximum(1.0, (bed.width / 2 / span[0], bed.depth / 2 / span[1])).prod())
    lever = np.maximum(soft, np.abs(tips).max(axis=0))
    # either bound holds by itself: all of them added up, or a corner up while the middle goes down
    return float(min(lever @ size, 2 * (lever * size).max()))


@dataclass(frozen=True, eq=False)
class Ground:
    """The bed as the tip meets it, as far as it is known.

    Attributes
    ----------
    relief : Relief or None
        Heights against the tip at Z = 0 when the offset is right, mm; None where the bed counts as level.
    places : ndarray, shape (n, 2), or None
        Where it was measured, mm.
    allowance : float
        How much higher than that it may be anywhere, mm.
    zero : float
        Gap at Z = 0 in the middle, mm.
    reasons : tuple of Remark
        What happened since, and what it was counted for.
    refused : Remark or None
        Why nothing may be driven down onto it.
    """

    relief: Relief | None = None
    places: Array | None = None
    allowance: float = 0.0
    zero: float = 0.0
    reasons: tuple[Remark, ...] = ()
    refused: Remark | None = None
    _tree: cKDTree | None = field(default=None, init=False, repr=False)

    def __post_init__(self) -> None:
        if not (math.isfinite(self.allowance) and self.allowance >= 0 and math.isfinite(self.zero)):
            raise NonFiniteError("first_layer.allowance_length_mm")
        if self.places is not None:
            object.__setattr__(self, "_tree", cKDTree(self.places))

    def heights(self, points: Array) -> Array:
        """How high the bed may be at places, all doubts included, against Z = 0, mm.

        Parameters
        ----------
        points : ndarray, shape (n, 2)
            mm
        """
        level = np.zeros(len(points)) if self.relief is None else self.relief.at(*points.T)
        if self._tree is not None:
            far, _ = self._tree.query(points)
            level = level + UNSEEN * np.minimum(1.0, far / UNSEEN_REACH)
        return level + self.allowance - self.zero

    def highest(self, path: Array | None = None) -> float:
        """The highest ground under a path, or of the whole bed, against Z = 0, mm."""
        if path is not None:
            return float(self.heights(along(path)).max())
        if self.relief is None:
            return self.allowance - self.zero
        x, y = np.meshgrid(self.relief.xs, self.relief.ys)
        return float(self.heights(np.column_stack([x.ravel(), y.ravel()])).max())

    def rise(self, centre: tuple[float, float], reach: float) -> float:
        """How much higher than Z = 0 the bed may be within a square of that half-width around its middle, mm."""
        side = np.linspace(-reach, reach, 15)
        x, y = np.meshgrid(centre[0] + side, centre[1] + side)
        high = float(self.heights(np.column_stack([x.ravel(), y.ravel()])).max()) + self.zero
        return max(0.0, high)


def along(path: Array) -> Array:
    """Places on a path, its corners among them, no further than ``GROUND_STEP`` apart, shape (n, 2), mm."""
    path = np.asarray(path, dtype=np.float64).reshape(-1, 2)
    if len(path) < 2:
        return path
    far = np.hypot(*np.diff(path, axis=0).T)
    counts = np.maximum(1, np.ceil(far / GROUND_STEP).astype(int))
    which = np.repeat(np.arange(len(counts)), counts)
    share = (np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[which]
    points = path[which] + share[:, None] * (path[which + 1] - path[which])
    return np.vstack([points, path[-1]])


def measured_ground(
    bed: Bed,
    survey: Survey,
    relief: Relief,
    happened: Sequence[Happened] = (),
    *,
    compensated: bool = False,
    noise: float | None = None,
    zero: float = 0.0,
    warmth: tuple[float | None, float | None] = (None, None),
    days: float = 0.0,
) -> Ground:
    """Say how high the bed may be by a survey and all that happened since.

    Parameters
    ----------
    bed : Bed
    survey : Survey
        What was read.
    relief : Relief
        The surface through it as the nozzle meets it, heights as they were read, mm; with compensation taken off
        where the machine compensates.
    happened : sequence of Happened
        Since the survey.
    compensated : bool
        ``relief`` has a mesh taken off, so it is counted from the tip as it is.
    noise : float, optional
        Standard deviation of a reading, mm.
    zero : float
        Gap at Z = 0 in the middle as it is believed to be, mm.
    warmth : (float or None, float or None)
        Of the bed at the survey and today, °C.
    days : float
        Since the survey.

    Returns
    -------
    Ground

    Examples
    --------
    >>> bed, survey = Bed(200, 200), Survey([10, 190, 10, 190, 100], [10, 10, 190, 190, 100], [0, 0.1, 0, 0.1, 0.05])
    >>> from finchwort.core.surveys import make_relief
    >>> ground = measured_ground(bed, survey, make_relief(survey, bed), [Happened("knobs")])
    >>> print(ground.refused)
    first_layer.measure_again (why=visits.since (event=knobs))
    """
    gone = [event.what for event in happened if event.what in GONE]
    refused = measure_again(_since(gone[-1])) if gone else None
    allowance, reasons = allowance_for(bed, happened)
    allowance += SIGMAS * max(noise or 0.0, MIN_NOISE)
    places = np.column_stack([survey.x, survey.y])
    datum = 0.0 if compensated else relief.middle
    if np.hypot(*(places - bed.centre).T).min() > NEAR_MIDDLE * min(bed.width, bed.depth):
        allowance += MIDDLE_UNSEEN
        reasons.append(remark("first_layer.middle_unseen", more=MIDDLE_UNSEEN))
    then, now = warmth
    if then is not None and now is not None and abs(then - now) >= WARMER:
        allowance += SHAPE_BY_HEAT
        reasons.append(remark("first_layer.measured_otherwise_warm", then=then, now=now, more=SHAPE_BY_HEAT))
    if days > MONTHS * DAYS_A_MONTH:
        allowance += SHAPE_BY_AGE
        months = round(days / DAYS_A_MONTH)
        reasons.append(remark("first_layer.measured_long_ago", months=months, more=SHAPE_BY_AGE))
    return Ground(relief.plus(0.0, 0.0, -datum), places, allowance, zero, tuple(reasons), refused)


def without_dents(survey: Survey, noise: float = 0.0) -> Survey:
    """Leave out single readings that lie below what their neighbours say: a bad one must not make room for the tip."""
    dents = [i for item in find_odd(survey, noise) if item.height < 0 for i in item.indices]
    if not dents:
        return survey
    keep = np.setdiff1d(np.arange(len(survey)), dents)
    try:
        return Survey(survey.x[keep], survey.y[keep], survey.height[keep])
    except CoreError:
        return survey


def looked_ground(
    bed: Bed, happened: Sequence[Happened] = (), zero: float = 0.0, closer: float | None = 0.0
) -> Ground:
    """Say how high the bed may be when a person found paper moving at Z = `LOOK_Z` at the corners and in the middle.

    Parameters
    ----------
    bed : Bed
    happened : sequence of Happened
        Since then.
    zero : float
        Gap at Z = 0 in the middle, mm; no more than nothing is taken on trust.
    closer : float or None
        How much closer the offset brought the tip since, mm; None when nobody knows.
    """
    gone = [event.what for event in happened if event.what in GONE | TIP]
    refused = measure_again(_since(gone[-1])) if gone else None
    allowance, reasons = allowance_for(bed, happened)
    if closer is None:
        refused = refused or measure_again(remark("first_layer.offset_set_since"))
    elif closer > 0:
        allowance += closer
        reasons.append(remark("first_layer.brought_closer", closer=closer))
    text = remark("first_layer.paper_moved", z=LOOK_Z)
    return Ground(
        None, None, allowance + LOOKED_HIGH + LOOKED_UNSEEN, min(zero, 0.0), (text, *reasons), refused
    )


def allowance_for(bed: Bed, happened: Sequence[Happened]) -> tuple[float, list[Remark]]:
    """Give how much higher the bed may be after recorded turns and after what often moves a corner a little, mm; say so."""
    rise = sum(rise_of_turns(bed, event.moves) for event in happened if event.what == "turned")
    reasons: list[Remark] = []
    if rise > 0:
        reasons.append(remark("first_layer.turned_since", rise=rise))
    doubts = dict.fromkeys(
        said_of("survey", event) for event in happened if effect("survey", event) == DOUBTFUL
    )
    reasons += [remark("first_layer.more_kept_clear", why=doubt, more=BY_DOUBT) for doubt in doubts]
    return rise + BY_DOUBT * len(doubts), reasons


def tip_doubt(happened: Sequence[str]) -> Remark | None:
    """Say why nobody knows how high the tip stands, given what happened since that was found.

    Examples
    --------
    >>> print(tip_doubt(["nozzle"]))
    first_layer.set_offset_first (why=visits.since (event=nozzle))
    >>> tip_doubt(["turned"]) is None
    True
    """
    doubts = [what for what in happened if what in TIP]
    return remark("first_layer.set_offset_first", why=_since(doubts[-1])) if doubts else None


def measure_again(why: Remark) -> Remark:
    """Say that the bed is to be measured again before anything is driven down onto it."""
    return remark("first_layer.measure_again", why=why)


def _since(event: str) -> Remark:
    return remark("visits.since", event=event)


def keeps_clear(z: float, high: float) -> bool:
    """Whether a tip at a commanded height keeps clear of ground that high, both mm against Z = 0."""
    return z - high > TOUCH


def safe_height(lift: float, high: float) -> float:
    """Give the height for a way over ground that high, mm: the usual one, or more.

    Examples
    --------
    >>> safe_height(5.0, 0.2), safe_height(0.5, 1.3)
    (5.0, 2.3)
    """
    if not (math.isfinite(lift) and math.isfinite(high)):
        raise NonFiniteError("first_layer.height_length_mm")
    return round(max(lift, high + MARGIN), 3)
