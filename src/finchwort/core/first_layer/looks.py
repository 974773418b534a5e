"""From how the corners of a first layer look to a knob, a trim, or what else fits the machine."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.first_layer.bead import Bead
from finchwort.core.first_layer.grading import STEPS, WORDS
from finchwort.core.first_layer.series import usual_limits
from finchwort.core.printers import Bed, Screw, usual_inset
from finchwort.core.probing import Belief, join_bands, terms
from finchwort.core.tramming import plate_response

LOOK_PLACES = (
    "front left",
    "front right",
    "back right",
    "back left",
    "middle",
    "front",
    "right",
    "back",
    "left",
)
"""Where a first layer is looked at: corners and middle, and the edges for whoever wants to."""
LOOK_EDGES = LOOK_PLACES[5:]
LOOK_ROWS = (
    ("back left", "back", "back right"),
    ("left", "middle", "right"),
    ("front left", "front", "front right"),
)
"""The same as the bed lies before the person."""
LEVEL_SD, TILT_SD, BOW_SD, TWIST_SD = 0.08, 0.08, 0.03, 0.02
"""How far a bed is off while its first layer prints, standard deviations, mm (ours)."""
EYE_SD = 0.015
"""How truly a look tells where a band ends, standard deviation, mm (ours)."""
NOW = 1 / 8
"""While it prints a knob is turned by so much at a time (common practice: a little, and look again)."""
MAX_TURNS = 0.5
"""After a print no knob is turned further on a look, turns (ours)."""
WINS = 0.75
"""A turn is worth it when it leaves no more than this share of what is wrong (ours)."""
TRIM = 0.02
"""One step of trimming, mm (common practice: 0.01 to 0.05)."""


@dataclass(frozen=True, eq=False)
class LookAdvice:
    """What follows from looks.

    Attributes
    ----------
    what : {"turn", "trim", "leave", "other"}
        Turn one knob; trim the height of the tip; leave it; something that fits a machine without knobs.
    knob : str or None
    turns : float
        Positive tightens.
    closer : float
        One step of trimming, mm, positive closer.
    heights : ndarray, shape (n,)
        What the looks say of the bed at the places looked at, mm, positive is too close.
    remark : Remark
        Why, and what to do.
    """

    what: str
    knob: str | None
    turns: float
    closer: float
    heights: Array
    remark: Remark


def place_of(bed: Bed, name: str) -> tuple[float, float]:
    """Where a place that is looked at lies, mm.

    Raises
    ------
    ChoiceError
    """
    if name not in LOOK_PLACES:
        raise ChoiceError("first_layer.first_layer_looked", names=", ".join(LOOK_PLACES))
    inset = usual_inset(bed)
    cx, cy = bed.centre
    x = bed.x_min + inset if "left" in name else bed.x_max - inset if "right" in name else cx
    y = bed.y_min + inset if "front" in name else bed.y_max - inset if "back" in name else cy
    return x, y


def look_bands(bead: Bead) -> dict[str, tuple[float, float]]:
    """How high the bed stands where a layer looks so, mm, positive is too close."""
    near, far = usual_limits(bead)
    edges = (-math.inf, -far, -near, near, far, math.inf)
    return {step: (edges[i], edges[i + 1]) for i, step in enumerate(STEPS)}


def advise_look(
    looks: Sequence[tuple[str, str]],
    bed: Bed,
    bead: Bead,
    screws: Sequence[Screw] = (),
    *,
    printing: bool = False,
    mesh: bool = False,
    otherwise: str = "none",
) -> LookAdvice:
    """Say what to do about how places of a first layer look: one thing at a time.

    Parameters
    ----------
    looks : sequence of (place, step)
        Of `LOOK_PLACES` and `finchwort.core.first_layer.STEPS`; of two for one place the later counts.
    bed : Bed
    bead : Bead
    screws : sequence of Screw
    printing : bool
        Whether it still prints: then one knob, one eighth, and look again after the next lap.
    mesh : bool
        Whether a mesh is in the machine, which any knob would spoil.
    otherwise : {"pads", "beam", "mesh", "none"}
        What a machine without knobs has.

    Returns
    -------
    LookAdvice

    Examples
    --------
    >>> bed = Bed(200, 200)
    >>> posts = [Screw(n, x, y, 0.7) for n, x, y in [("front left", 5, 5), ("front right", 195, 5), ("back right", 195, 195), ("back left", 5, 195)]]
    >>> found = advise_look([("front left", "too_close"), ("back right", "good"), ("middle", "good")], bed, Bead(0.42, 0.2), posts, printing=True)
    >>> found.what, found.knob, found.turns
    ('turn', 'front left', 0.125)
    """
    if not looks:
        raise ChoiceError("first_layer.place_looks_least")
    seen = dict(looks)
    strange = set(seen.values()) - set(STEPS)
    if strange:
        raise ChoiceError("first_layer.place_looks", names=", ".join(WORDS.values()))
    places = np.array([place_of(bed, name) for name in seen])
    bands = [look_bands(bead)[step] for step in seen.values()]
    rows = terms(bed, places[:, 0], places[:, 1])
    prior = Belief(
        np.zeros(6), np.diag(np.array([LEVEL_SD, TILT_SD, TILT_SD, BOW_SD, BOW_SD, TWIST_SD]) ** 2)
    )
    low, high = (np.array(side) for side in zip(*bands, strict=True))
    belief = join_bands(prior, rows, low, high, np.full(len(rows), EYE_SD))
    heights, _ = belief.at(rows)
    steps = list(seen.values())
    if all(step == "good" for step in steps):
        return LookAdvice("leave", None, 0.0, 0.0, heights, remark("first_layer.look_good"))
    if len(set(steps)) == 1 and len(steps) > 1:
        return _trim(
            heights,
            steps[0],
            printing,
            remark("first_layer.look_same_everywhere"),
        )
    if mesh:
        return _trim(heights, _worst(steps), printing, remark("first_layer.look_mesh"))
    if not screws:
        return LookAdvice("other", None, 0.0, 0.0, heights, _other(otherwise, seen, heights, places, bed))
    return _knob(belief, rows, heights, bed, screws, seen, printing)


def _worst(steps: Sequence[str]) -> str:
    """What stands out: too close hurts tip and plate, so it comes first."""
    for step in ("far_too_close", "too_close", "far_too_far", "too_far"):
        if step in steps:
            return step
    return "good"


def _trim(heights: Array, step: str, printing: bool, why: Remark) -> LookAdvice:
    closer = TRIM if step in ("too_far", "far_too_far") else -TRIM
    if step.startswith("far_"):
        closer *= 2
    text = remark("first_layer.look_trim", why=why, closer=closer, printing=printing)
    return LookAdvice("trim", None, 0.0, closer, heights, text)


def _knob(
    belief: Belief,
    rows: Array,
    heights: Array,
    bed: Bed,
    screws: Sequence[Screw],
    seen: dict[str, str],
    printing: bool,
) -> LookAdvice:
    """The one knob that takes out most of what is wrong, and how far."""
    response = plate_response(screws) * np.array([screw.travel for screw in screws])
    cx, cy = bed.centre
    now = float(heights @ heights)
    best: tuple[float, int, float] | None = None
    for i, screw in enumerate(screws):
        a, b, c = response[:, i]
        effect = rows[:, :3] @ np.array([a * cx + b * cy + c, a * bed.width / 2, b * bed.depth / 2])
        size = float(effect @ effect)
        if size < 1e-12:
            continue
        wish = -float(effect @ heights) / size
        if printing:
            turns = math.copysign(NOW, wish)
        else:
            turns = max(-MAX_TURNS, min(MAX_TURNS, round(wish * screw.divisions) / screw.divisions))
        rest = heights + effect * turns
        left = float(rest @ rest)
        if turns and (best is None or left < best[0]):
            best = (left, i, turns)
    level = float(np.mean(heights))
    trimmed = float(((heights - level) ** 2).sum())
    if best is None or best[0] > WINS * now or trimmed < 0.8 * best[0]:
        return _trim(heights, _worst(list(seen.values())), printing, remark("first_layer.look_no_corner"))
    _, i, turns = best
    screw = screws[i]
    text = remark("first_layer.look_turn", seen=_off(seen), knob=screw.name, turns=turns, printing=printing)
    return LookAdvice("turn", screw.name, turns, 0.0, heights, text)


def _off(seen: dict[str, str]) -> tuple[tuple[str, str], ...]:
    """Places that do not look good, with how they look."""
    return tuple((place, step) for place, step in seen.items() if step != "good")


def _other(kind: str, seen: dict[str, str], heights: Array, places: Array, bed: Bed) -> Remark:
    left, right = (
        float(np.mean(heights[side])) if side.any() else 0.0
        for side in (places[:, 0] < bed.centre[0] - 1, places[:, 0] > bed.centre[0] + 1)
    )
    uneven = kind == "beam" and abs(left - right) > 0.02
    return remark("first_layer.look_other", seen=_off(seen), has="uneven_beam" if uneven else kind)
