"""What to look at next: the check that tells most for its minutes, and the order of repairs by expected cost."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import entr

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.diagnosis.inference import Model
from finchwort.core.diagnosis.model import CLEAR, Check

RISKS = {1: 1.0, 2: 1.15, 3: 1.6}
"""Minutes count so much more when something is tried, or taken apart (ours: look before you take apart)."""
TRY = 0.75
"""So sure of a cause, its remedy is the best check (ours)."""
MIN_GAIN = 0.01
"""A check that is expected to tell less is not proposed, bit (ours)."""


@dataclass(frozen=True)
class Meaning:
    """What one outcome of a check would mean.

    Attributes
    ----------
    key, words : str
    probability : float
        That it comes out so.
    cause : str
        Key of the cause that would then be first.
    then : float
        Its probability then.
    """

    key: str
    words: str
    probability: float
    cause: str
    then: float


@dataclass(frozen=True)
class Proposal:
    """A check, and what it is worth now.

    Attributes
    ----------
    check : Check
    gain : float
        Expected loss of uncertainty about the causes, bit.
    worth : float
        Gain a minute, risk considered.
    meanings : tuple of Meaning
        Likeliest outcome first.
    why : str
    """

    check: Check
    gain: float
    worth: float
    meanings: tuple[Meaning, ...]
    why: str


def entropy(posterior: Array) -> float:
    """Uncertainty of a distribution, bit."""
    return float(entr(posterior).sum() / math.log(2))


def propose_checks(
    model: Model,
    posterior: Array,
    *,
    done: Collection[str] = (),
    has: Collection[str] = (),
) -> tuple[Proposal, ...]:
    """Weigh every check that is left.

    Parameters
    ----------
    model : Model
    posterior : ndarray
        From `Model.posterior`.
    done : collection of str
        Checks that need not be proposed again.
    has : collection of str
        What the printer has, see `finchwort.core.diagnosis.Check`.

    Returns
    -------
    tuple of Proposal
        The best for its minutes first.

    Examples
    --------
    >>> from finchwort.core.diagnosis import Cause, Outcome, Sign
    >>> causes = [Cause("a", "A", 1, {"s": 0.5}, ""), Cause("b", "B", 1, {"s": 0.5}, "")]
    >>> check = Check("look", "Look", "", 1, 1, (Outcome("seen", "seen", {"a": 0.9}, 0.01),), "not seen")
    >>> model = Model(causes, [Sign("s", "S?", "")], [check])
    >>> round(propose_checks(model, model.prior)[0].gain, 2)
    0.71
    """
    before = entropy(posterior)
    results = []
    for check in model.checks:
        if check.key in done or set(check.needs) - set(has):
            continue
        shares = model.outcome_shares(check)
        joint = posterior[:, None] * shares
        chance = joint.sum(axis=0)
        after = joint / chance
        gain = before - sum(float(p) * entropy(after[:, k]) for k, p in enumerate(chance))
        if gain < MIN_GAIN:
            continue
        keys = [*((o.key, o.words) for o in check.outcomes), (CLEAR, check.clear)]
        meanings = []
        for k, (key, words) in enumerate(keys):
            then = model.marginals(after[:, k])
            first = int(np.argmax(then))
            meanings.append(
                Meaning(key, words, float(chance[k]), model.causes[first].key, float(then[first]))
            )
        meanings.sort(key=lambda m: -m.probability)
        worth = gain / (check.minutes * RISKS[check.risk])
        results.append(Proposal(check, gain, worth, tuple(meanings), _why(check, meanings)))
    return tuple(sorted(results, key=lambda p: -p.worth))


def next_step(probability: float, offers: Sequence[Proposal]) -> str:
    """Say whether to look further, or to try the remedy of the first cause.

    Parameters
    ----------
    probability : float
        Of the first cause.
    offers : sequence of Proposal
        Checks that are left.

    Returns
    -------
    {"check", "remedy"}

    Examples
    --------
    >>> next_step(0.9, []), next_step(0.3, [])
    ('remedy', 'remedy')
    """
    return "remedy" if probability >= TRY or not offers else "check"


def _why(check: Check, meanings: Sequence[Meaning]) -> str:
    minutes = f"{check.minutes:g} minute{'s' if check.minutes != 1 else ''}"
    manner = {1: "only looks", 2: "tries something", 3: "takes something apart"}[check.risk]
    split = max(m.probability for m in meanings)
    told = "could go either way, so it tells much" if split < 0.75 else "will probably come out as expected"
    return f"It takes {minutes}, {manner}, and {told}."


def repair_order(probability: Sequence[float], cost: Sequence[float]) -> tuple[tuple[int, ...], float]:
    """Order independent repairs so that the expected cost until it works is least.

    Exactly one of them is the fault; each repair is tried in turn and shows at once whether it was it.

    Parameters
    ----------
    probability : sequence of float
        That each is the fault; they are made to add up to 1.
    cost : sequence of float
        Of each repair, for instance minutes.

    Returns
    -------
    order : tuple of int
        By falling probability over cost.
    expected : float
        Cost to be expected in that order.

    Raises
    ------
    OutOfRangeError

    References
    ----------
    D. Heckerman, J. S. Breese and K. Rommelse, Decision-theoretic troubleshooting, Communications of the ACM 38(3),
    1995.

    Examples
    --------
    >>> repair_order([0.5, 0.3, 0.2], [10, 2, 1])
    ((2, 1, 0), 7.6)
    """
    p, c = np.asarray(probability, dtype=float), np.asarray(cost, dtype=float)
    if p.size == 0 or p.shape != c.shape or not (np.isfinite(p).all() and np.isfinite(c).all()):
        raise OutOfRangeError("diagnosis.each_repair_needs_probability")
    if (p < 0).any() or p.sum() <= 0 or (c <= 0).any():
        raise OutOfRangeError("diagnosis.probabilities_nothing_more_costs")
    p = p / p.sum()
    order = sorted(range(p.size), key=lambda i: (-p[i] / c[i], i))
    left, expected = 1.0, 0.0
    for i in order:
        expected += left * c[i]
        left -= p[i]
    return tuple(order), float(round(expected, 9)) if math.isfinite(expected) else math.inf
