"""One belief about the Z offset from everything that is known: paper, calipers, judged patches, first layers.

The unknown is how much closer the tip should come, ``closer``: the gap in the middle of the bed at Z = 0.  Each clue
is a likelihood of it, counted from the offset as it is now; all are joined on a grid.  Strips share the doubt about
their thickness, caliper readings that about the caliper's zero.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import special

from finchwort.core.base.errors import NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.base.statistics import CONFIDENCE
from finchwort.core.probing import EYE_SD, FEEL_BANDS, Drag, log_band

PAPER_SD, MEASURED_SD = 0.012, 0.006
"""How far a strip's thickness may be off, assumed and measured with calipers, standard deviation, mm (ours)."""
ZERO_SD, ASKED_SD = 0.010, 0.004
"""How far a caliper's zero may be off, before and after somebody looked what it shows on nothing, mm (ours)."""
PRIOR_SD = 1.0
"""Before anything is known the offset may be off by this much, standard deviation, mm (ours)."""
REACH, STEP, NODES = 3.0, 0.004, 15
"""The grid: how far it goes to either side, how fine, mm, and at how many values of a shared doubt."""
UP, DOWN = 0.1, 0.05
"""A strip that will not move is felt again this much higher, one that slides freely this much lower, mm: less than its
own thickness (ours)."""
LOOK_SD = 0.03
"""How truly a looked-at layer is judged, standard deviation, mm (ours)."""
SAME_POINT = 1e-6
"""An offset that was changed by less was not changed, mm."""
ENOUGH = 0.02
"""An offset that is off by no more is left, mm (common practice: calipers tell no more)."""
VAGUE = 0.06
"""A belief wider than this either way is followed only as far as it is sure, mm (ours)."""
LOOSE_SD = 0.05
"""Lines that do not touch lie in a gap that is larger than what calipers read, by about so much, mm (ours: from the gap
at which lines part to the one at which a thread hangs free)."""
WORST_SHARE = 0.5
"""However wrong all that is known, the first layer keeps this share of its height (ours)."""
DRAGS = (Drag.SLIGHT, Drag.STRONG, Drag.BUNCHES)
"""Feels after which it is known that the tip stands above the plate, and how far at the least."""


@dataclass(frozen=True)
class PaperClue:
    """A strip felt in the middle of the bed.

    Attributes
    ----------
    feel : str
        One of `finchwort.core.probing.FEELS`.
    z : float
        Height at which the machine was told to stand, mm.
    thickness : float
        Of the strip, the caliper's zero taken off, mm.
    thickness_sd : float
        mm
    step : float
        When the tip was lowered until it just dragged: in such steps, mm; 0 for a feel at one height.
    closer_since : float
        How much closer the offset brought the tip since, mm.
    """

    feel: str
    z: float
    thickness: float
    thickness_sd: float = PAPER_SD
    step: float = 0.0
    closer_since: float = 0.0


@dataclass(frozen=True)
class ValueClue:
    """Something that says by itself how much closer the tip should come: calipers, a ladder.

    Attributes
    ----------
    closer, sd : float
        mm, counted from the offset at that time.
    zero_sd : float
        Doubt that it shares with others like it (the caliper's zero), mm.
    at_least : bool
        It may be more: lines that do not touch.
    closer_since : float
    """

    closer: float
    sd: float
    zero_sd: float = 0.0
    at_least: bool = False
    closer_since: float = 0.0


@dataclass(frozen=True)
class BandClue:
    """A first layer that was looked at: the tip stands within a band.

    Attributes
    ----------
    low, high : float
        How much closer it should come at the least and at the most, mm; infinite where open.
    sd : float
    closer_since : float
    """

    low: float
    high: float
    sd: float = LOOK_SD
    closer_since: float = 0.0


Clue = PaperClue | ValueClue | BandClue


@dataclass(frozen=True, eq=False)
class OffsetBelief:
    """What is believed of the offset.

    Attributes
    ----------
    closer : float
        How much closer the tip should come, mm; negative is farther.
    low, high : float
        Its interval at 95 %, mm.
    bounded : bool
        Whether something says how far the tip stands above the plate at the least.  Without it nothing closer is
        proposed.
    """

    closer: float
    low: float
    high: float
    bounded: bool

    @property
    def margin(self) -> float:
        """Half the interval, mm."""
        return (self.high - self.low) / 2

    @property
    def enough(self) -> bool:
        """Whether the offset may stay as it is."""
        return self.bounded and abs(self.closer) <= max(min(self.margin, VAGUE), ENOUGH)


def grid() -> Array:
    """Values of ``closer`` that are looked at, mm."""
    return np.arange(-REACH, REACH + STEP / 2, STEP)


def believe(clues: Sequence[Clue]) -> OffsetBelief:
    """Join all clues.

    Parameters
    ----------
    clues : sequence of Clue

    Returns
    -------
    OffsetBelief

    Raises
    ------
    NonFiniteError, OutOfRangeError

    Examples
    --------
    >>> found = believe([PaperClue("slight", 0.0, 0.1)])
    >>> round(found.closer, 2), round(found.margin, 2), found.bounded
    (0.1, 0.04, True)
    >>> believe([PaperClue("stuck", 0.0, 0.1)]).bounded
    False
    """
    for clue in clues:
        _check(clue)
    closer = grid()
    log = -0.5 * (closer / PRIOR_SD) ** 2
    log = log + _by_paper(closer, [c for c in clues if isinstance(c, PaperClue)])
    log = log + _by_value(closer, [c for c in clues if isinstance(c, ValueClue)])
    for clue in clues:
        if isinstance(clue, BandClue):
            log = log + log_band(closer + clue.closer_since, clue.sd, clue.low, clue.high)
    weight = np.exp(log - log.max())
    share = np.cumsum(weight) / weight.sum()
    mean = float(weight @ closer / weight.sum())
    tail = (1 - CONFIDENCE) / 2
    low, high = (float(np.interp(p, share, closer)) for p in (tail, 1 - tail))
    return OffsetBelief(mean, low, high, any(map(_bounds, clues)))


def _bounds(clue: Clue) -> bool:
    """Whether a clue says how far the tip stands above the plate at the least."""
    if isinstance(clue, PaperClue):
        return clue.feel in DRAGS
    if isinstance(clue, BandClue):
        return math.isfinite(clue.low)
    return True


def _by_paper(closer: Array, clues: Sequence[PaperClue]) -> Array:
    """Strips of one thickness share its doubt, which is summed over."""
    total = np.zeros_like(closer)
    for thickness in sorted({(c.thickness, c.thickness_sd) for c in clues}):
        mine = [c for c in clues if (c.thickness, c.thickness_sd) == thickness]
        off = np.linspace(-3, 3, NODES) * thickness[1]
        log = np.broadcast_to(-0.5 * (off[:, None] / thickness[1]) ** 2, (off.size, closer.size)).copy()
        for c in mine:
            more = c.z + closer[None, :] + c.closer_since - c.thickness - off[:, None]
            if c.step:
                # one step higher it still slid freely, and here it drags, more or less
                log += log_band(more + c.step, EYE_SD, *FEEL_BANDS["free"])
                log += log_band(more, EYE_SD, FEEL_BANDS["bunches"][0], FEEL_BANDS["slight"][1])
            else:
                log += log_band(more, EYE_SD, *FEEL_BANDS[c.feel])
        total = total + special.logsumexp(log, axis=0)
    return total


def _by_value(closer: Array, clues: Sequence[ValueClue]) -> Array:
    shared = max((c.zero_sd for c in clues), default=0.0)
    off = np.linspace(-3, 3, NODES) * shared if shared else np.zeros(1)
    log = np.broadcast_to(
        -0.5 * ((off[:, None] / shared) ** 2 if shared else 0.0), (off.size, closer.size)
    ).copy()
    for c in clues:
        push = off[:, None] if c.zero_sd else 0.0
        more = closer[None, :] + c.closer_since - c.closer - push
        sd = np.where(more > 0, math.hypot(c.sd, LOOSE_SD), c.sd) if c.at_least else c.sd
        log += -0.5 * (more / sd) ** 2
    return special.logsumexp(log, axis=0)


def _check(clue: Clue) -> None:
    values: tuple[float, ...]
    if isinstance(clue, PaperClue):
        values = (clue.z, clue.thickness, clue.thickness_sd, clue.step, clue.closer_since)
        sound = (
            clue.feel in FEEL_BANDS and 0 < clue.thickness <= 1 and clue.thickness_sd > 0 and clue.step >= 0
        )
    elif isinstance(clue, ValueClue):
        values = (clue.closer, clue.sd, clue.zero_sd, clue.closer_since)
        sound = clue.sd > 0 and clue.zero_sd >= 0
    else:
        values = (clue.sd, clue.closer_since)
        sound = clue.sd > 0 and clue.low < clue.high
    if not all(map(math.isfinite, values)):
        raise NonFiniteError("first_layer.number_missing_none")
    if not sound:
        raise OutOfRangeError("first_layer.says_nothing_about_offset")


@dataclass(frozen=True)
class OffsetStep:
    """What to do next about the offset.

    Attributes
    ----------
    what : {"feel", "up", "lower", "type", "leave"}
        Feel for the first time; feel again higher or lower; set the offset; leave it.
    z : float or None
        Where to feel next, mm.
    closer : float
        How much closer to set the offset, mm; 0 unless ``what`` is ``"type"``.
    remark : Remark
        Why.
    """

    what: str
    z: float | None
    closer: float
    remark: Remark


def advise_offset(
    belief: OffsetBelief, newest: PaperClue | None, first_layer: float, only_paper: bool = True
) -> OffsetStep:
    """Say what to do next.

    Nothing closer is proposed until something bounds the gap from below, and never after a strip that would not move.

    Parameters
    ----------
    belief : OffsetBelief
    newest : PaperClue or None
        The newest feel, as it was felt with the present offset; None when none was.
    first_layer : float
        mm
    only_paper : bool
        Whether paper is all there is so far.

    Examples
    --------
    >>> stuck = PaperClue("stuck", 0.0, 0.1)
    >>> step = advise_offset(believe([stuck]), stuck, 0.2)
    >>> step.what, step.z, step.closer
    ('up', 0.1, 0.0)
    """
    if newest is None and not belief.bounded:
        return OffsetStep("feel", None, 0.0, remark("first_layer.feel_first"))
    # until the tip was brought farther, or something else bounds the gap, a strip that will not move sends it up
    if (
        newest is not None
        and newest.feel == "stuck"
        and (newest.closer_since > -SAME_POINT or not belief.bounded)
    ):
        z = round(max(newest.z, newest.z + newest.closer_since + UP), 3)
        return OffsetStep("up", z, 0.0, remark("first_layer.feel_higher", z=z))
    if not belief.bounded and newest is not None:
        z = round(newest.z + newest.closer_since - DOWN, 3)
        return OffsetStep("lower", z, 0.0, remark("first_layer.feel_lower", step=DOWN))
    # the worst that may be, against the layer that is laid
    limit = belief.low + (WORST_SHARE * first_layer if belief.margin <= VAGUE else 0.0)
    closer = min(round(belief.closer, 2), math.floor(100 * limit) / 100) + 0.0
    if belief.closer > 0:
        closer = max(closer, 0.0)
    believed = {"off": belief.closer, "margin": belief.margin}
    if belief.enough or abs(closer) < 0.005:
        code = "first_layer.offset_right" if belief.margin <= VAGUE else "first_layer.offset_vague"
        return OffsetStep("leave", None, 0.0, remark(code, **believed))
    text = remark("first_layer.offset_off", **believed, closer=closer, only_paper=only_paper)
    return OffsetStep("type", None, closer, text)
