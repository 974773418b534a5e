"""How far a plate follows a twist of its knobs: learned from what rounds did to its twist."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.printers import Screw
from finchwort.core.surveys import Survey
from finchwort.core.tramming.bench import BENDS
from finchwort.core.tramming.screws import HAND_SD, twist_form

BENDING = (BENDS, 0.25)
"""What a plate that is said to bend is taken to follow of a twist, and the standard deviation of that (ours)."""
STIFF = (0.05, 0.15)
"""The same for one that is said to be stiff (ours)."""
WORTH_USING = 0.25
"""From this share on a plan takes the twist out as well (ours)."""
SURE_OF_IT = 1.0
"""A stiff plate has to show it by so many standard deviations (ours)."""
MIN_TURNED = 0.03
"""A round that twists the screw ends by less says nothing, mm (ours)."""


@dataclass(frozen=True)
class Twisting:
    """One round, as far as it is about twist.

    Attributes
    ----------
    before, after : Survey
    turns : tuple of float
        Positive for tightening.
    noise : float
        Standard deviation of one reading of either, mm.
    """

    before: Survey
    after: Survey
    turns: tuple[float, ...]
    noise: float


@dataclass(frozen=True)
class Bends:
    """Share of a twist of its screw ends that a plate follows.

    Attributes
    ----------
    share, sd : float
    rounds : int
        That said something about it.
    said_to : bool
        Whether the printer's set-up says that its plate bends.
    """

    share: float
    sd: float
    rounds: int
    said_to: bool

    @property
    def used(self) -> float:
        """The share that plans reckon with; 0 where nothing shows that the plate follows."""
        if self.said_to:
            return max(0.0, min(1.0, self.share)) if self.share >= WORTH_USING or not self.rounds else 0.0
        shown = self.rounds > 0 and self.share - SURE_OF_IT * self.sd >= WORTH_USING
        return min(1.0, self.share) if shown else 0.0


def learn_bends(
    screws: Sequence[Screw], rounds: Sequence[Twisting], said_to: bool, hand_sd: float = HAND_SD
) -> Bends:
    """Learn how far a plate follows a twist of its four screw ends.

    The twist of the readings changes by the share times what the turns do to the pattern that leaves the plane alone.
    Noise is that of both surveys and of the hand.

    Parameters
    ----------
    screws : sequence of Screw
    rounds : sequence of Twisting
    said_to : bool
        Whether the printer's set-up says that its plate bends.
    hand_sd : float
        How truly knobs are turned, standard deviation, turns.

    Returns
    -------
    Bends

    References
    ----------
    Bayesian linear regression with one coefficient (textbook result).

    Examples
    --------
    >>> posts = [Screw(str(i), x, y, 0.7) for i, (x, y) in enumerate([(0, 0), (200, 0), (200, 200), (0, 200)])]
    >>> learn_bends(posts, [], True).used, learn_bends(posts, [], False).used
    (0.7, 0.0)
    """
    mean, sd = BENDING if said_to else STIFF
    precision, weighted, used = 1 / sd**2, mean / sd**2, 0
    result = twist_form(screws)
    if result is not None:
        pattern, form = result
        travel = np.array([screw.travel for screw in screws])
        for visit_round in rounds:
            if len(visit_round.turns) != len(screws):
                continue
            due = float(pattern @ (travel * np.array(visit_round.turns)))
            seen = [_twist(survey, form) for survey in (visit_round.before, visit_round.after)]
            if abs(due) < MIN_TURNED or None in seen:
                continue
            (first, unit), (second, other) = seen  # type: ignore[misc]
            turned = np.array(visit_round.turns) != 0
            hand = float(((pattern * travel * turned) ** 2).sum()) * hand_sd**2
            variance = visit_round.noise**2 * (unit + other) + hand * mean**2
            precision += due**2 / variance
            weighted += due * (second - first) / variance
            used += 1
    return Bends(weighted / precision, math.sqrt(1 / precision), used, said_to)


def _twist(survey: Survey, form: Array) -> tuple[float, float] | None:
    """Twist of readings in the form of the screws' pattern, mm, and its variance for readings of unit variance."""
    shape = form[0] + form[1] * survey.x + form[2] * survey.y + form[3] * survey.x * survey.y
    rows = np.column_stack([np.ones(len(survey)), survey.x, survey.y, shape])
    if len(survey) < 4 or np.linalg.matrix_rank(rows / np.abs(rows).max(axis=0)) < 4:
        return None
    inverse = np.linalg.inv(rows.T @ rows)
    return float((inverse @ rows.T @ survey.height)[3]), float(inverse[3, 3])
