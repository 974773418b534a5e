"""What to do next: look further or try a remedy, by the minutes that are to be expected until it works.

Before every step the remedies are put in order of chance over minutes, and what that order is expected to take is the
price of not looking.  A check is worth its minutes when, averaged over its outcomes, the order that follows is cheaper by
more than that.  Nothing is proposed once more that has just failed.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.special import entr

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.diagnosis.inference import WALKS, Model
from finchwort.core.diagnosis.kinds import Alarm, Came, NextMove, as_came
from finchwort.core.diagnosis.model import CLEAR, Check

RISKS = {1: 1.0, 2: 1.15, 3: 1.6}
"""Minutes count so much more when something is tried, or taken apart (ours: look before you take apart)."""
MIN_GAIN = 0.01
"""A check that is expected to tell less is not proposed, bit (ours)."""
LOST = 100.0
"""What it costs when nothing of the table mended it: to ask others, and to wait, minutes (ours)."""
AGAIN = 0.25
"""Once nothing else is worth trying, a remedy that did not help is done once more, with care, when its cause is still so
likely: it may have been done badly (ours)."""
WORTH = 0.2
"""A remedy is tried when its chance saves this share of its minutes (ours: somebody who stops at less is left with it)."""
STEPS = 6
"""A walk of small steps that grows a little better each time goes on so often (ours)."""
ALARMING = ("scraping", "smell", "halted")
"""Asked for first whatever they tell: what comes of them cannot wait."""


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
        Minutes that it is expected to save, less its own.
    meanings : tuple of Meaning
        Likeliest outcome first.
    why : str
    """

    check: Check
    gain: float
    worth: float
    meanings: tuple[Meaning, ...]
    why: str


@dataclass(frozen=True)
class Move:
    """What to do next.

    Attributes
    ----------
    kind : NextMove
    key : str
        Of the alarm, the check, or the cause whose remedy is tried, or ended it; empty for nothing.
    expected : float
        Minutes to be expected from here until it works.
    again : bool
        Whether it was tried already and nothing else is left: once more, with care.
    """

    kind: NextMove
    key: str
    expected: float
    again: bool = False


def entropy(posterior: Array) -> float:
    """Uncertainty of a distribution, bit."""
    return float(entr(posterior).sum() / math.log(2))


def spent(model: Model, tried: Sequence[tuple[str, str | bool]]) -> set[str]:
    """Causes whose remedies are not proposed once more: they did not help, or helped a little and cannot go further.

    Examples
    --------
    >>> from finchwort.core.diagnosis import Cause, Sign
    >>> causes = [Cause("far", "A", 1, {}, "", number="offset_closer"), Cause("b", "B", 1, {}, "")]
    >>> model = Model(causes, [Sign("s", "S?", "")], [])
    >>> sorted(spent(model, [("far", "little"), ("b", "little")]))
    ['b']
    """
    results: set[str] = set()
    steps: dict[str, int] = {}
    for key, came in tried:
        came = as_came(came)
        if key in model.before_by:
            if came is not Came.BETTER:
                results |= set(model.before_by[key].skips)
            continue
        steps[key] = steps.get(key, 0) + 1
        walks = key in model.at and model.causes[model.at[key]].number in WALKS
        if not (came is Came.LITTLE and walks and steps[key] < STEPS):
            results.add(key)
        else:
            results.discard(key)
    return results


def _walking(model: Model, tried: Sequence[tuple[str, str | bool]]) -> set[str]:
    """Causes whose remedies are a walk that has begun and may go on."""
    walks = {cause.key for cause in model.causes if cause.number in WALKS}
    return walks & {key for key, _ in tried} - spent(model, tried)


def _prices(model: Model) -> Array:
    """Minutes of each cause's remedy, with what it risks."""
    return np.array([cause.minutes * RISKS[2] for cause in model.causes])


def expected_minutes(chances: Array, prices: Array) -> Array:
    """Minutes until it works when remedies are tried by falling chance over minutes.

    Parameters
    ----------
    chances : ndarray, shape (remedies, situations)
        That each remedy ends the trouble.
    prices : ndarray, shape (remedies,)
        Minutes.

    Returns
    -------
    ndarray, shape (situations,)

    References
    ----------
    D. Heckerman, J. S. Breese and K. Rommelse, Decision-theoretic troubleshooting, Communications of the ACM 38(3),
    1995: repairs by probability over cost.

    Examples
    --------
    >>> expected_minutes(np.array([[0.5], [0.3], [0.2]]), np.array([10.0, 2.0, 1.0])).round(2).tolist()
    [7.6]
    """
    chances = chances / np.maximum(1.0, chances.sum(axis=0))
    order = np.argsort(-chances / prices[:, None], axis=0, kind="stable")
    sorted_chances = np.take_along_axis(chances, order, axis=0)
    left = 1 - np.cumsum(sorted_chances, axis=0)
    before = np.vstack([np.ones((1, chances.shape[1])), left[:-1]])
    worth = _worth(sorted_chances, prices[order])
    cost = np.where(worth, before * prices[order], 0.0).sum(axis=0)
    result: Array = cost + LOST * np.maximum(0.0, 1 - np.where(worth, sorted_chances, 0.0).sum(axis=0))
    return result


def propose_checks(
    model: Model,
    posterior: Array,
    *,
    done: Collection[str] = (),
    has: Collection[str] = (),
    told: Collection[str] = (),
    tried: Sequence[tuple[str, str | bool]] = (),
    alarm: Alarm | None = None,
    every: bool = False,
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
    told : collection of str
        Signs that were answered: a check that asks for one of them tells less.
    tried : sequence of (cause, what came of it)
        Remedies that are not open any more.
    alarm : Alarm, optional
        While one stands, nothing is printed.
    every : bool
        Those too that are not worth proposing, for somebody who has looked all the same.

    Returns
    -------
    tuple of Proposal
        The one that saves most minutes first; unless all are wanted none that would leave the same cause first however it came out.

    Examples
    --------
    >>> from finchwort.core.diagnosis import Cause, Outcome, Sign
    >>> causes = [Cause("a", "A", 1, {"s": 0.5}, ""), Cause("b", "B", 1, {"s": 0.5}, "")]
    >>> check = Check("look", "Look", "", 1, 1, (Outcome("seen", "seen", {"a": 0.9}, 0.01),), "not seen")
    >>> model = Model(causes, [Sign("s", "S?", "")], [check])
    >>> round(propose_checks(model, model.prior)[0].gain, 2)
    0.72
    """
    checks = [
        check
        for check in model.checks
        if check.key not in done and not set(check.needs) - set(has) and not (check.prints and alarm)
    ]
    if not checks:
        return ()
    before = entropy(posterior)
    tables = [posterior[:, None] * model.outcome_shares(check, told) for check in checks]
    joint = np.hstack(tables)
    chance = joint.sum(axis=0)
    after = joint / chance
    bits = entr(after).sum(axis=0) / math.log(2)
    prices, open_ = _prices(model), _open(model, tried)
    now = float(expected_minutes((model.better.T @ posterior)[open_][:, None], prices[open_])[0])
    minutes = expected_minutes((model.better.T @ after)[open_], prices[open_])
    results, at = [], 0
    for check, table in zip(checks, tables, strict=True):
        part = slice(at, at + table.shape[1])
        at += table.shape[1]
        gain = before - float(chance[part] @ bits[part])
        meanings = _meanings(model, check, chance[part], after[:, part])
        if not every and (gain < MIN_GAIN or len({m.cause for m in meanings}) == 1):
            continue
        price = check.minutes * RISKS[check.risk]
        worth = now - float(chance[part] @ minutes[part]) - price
        results.append(Proposal(check, gain, worth, tuple(meanings), _why(check, meanings)))
    return tuple(sorted(results, key=lambda p: -p.worth))


def telling_signs(
    model: Model, posterior: Array, told: Collection[str] = (), *, most: int = 12
) -> tuple[str, ...]:
    """Name the signs whose answers tell most about what is wrong, the best first; those that raise an alarm always.

    Parameters
    ----------
    model : Model
    posterior : ndarray
        From `Model.posterior`.
    told : collection of str
        Answered already.
    most : int

    Returns
    -------
    tuple of str
        Keys of signs that are asked.
    """
    columns = [j for j in np.flatnonzero(model.asked).tolist() if model.signs[j].key not in told]
    shows = model.answer(1, columns, True)
    mean = posterior @ shows
    gain = _bits(mean) - posterior @ _bits(shows)
    order = [model.signs[columns[k]].key for k in np.argsort(-gain, kind="stable")]
    alarming = [key for key in ALARMING if key in model.sign_at and key not in told]
    return tuple(dict.fromkeys([*alarming, *order]))[:most]


def _bits(share: Array) -> Array:
    result: Array = (entr(share) + entr(1 - share)) / math.log(2)
    return result


def _open(model: Model, tried: Sequence[tuple[str, str | bool]]) -> npt.NDArray[np.bool_]:
    closed = spent(model, tried)
    return np.array([cause.key not in closed for cause in model.causes])


def _meanings(model: Model, check: Check, chance: Array, after: Array) -> list[Meaning]:
    keys = [*((o.key, o.words) for o in check.outcomes), (CLEAR, check.clear)]
    results = []
    for k, (key, words) in enumerate(keys):
        then = model.marginals(after[:, k])
        first = int(np.argmax(then))
        results.append(Meaning(key, words, float(chance[k]), model.causes[first].key, float(then[first])))
    return sorted(results, key=lambda m: -m.probability)


def next_move(
    model: Model,
    posterior: Array,
    offers: Sequence[Proposal],
    *,
    tried: Sequence[tuple[str, str | bool]] = (),
    alarm: Alarm | None = None,
    dealt_with: bool = False,
) -> Move:
    """Say what to do next: deal with an alarm, look further, or try a remedy.

    Parameters
    ----------
    model : Model
    posterior : ndarray
        From `Model.posterior`.
    offers : sequence of Proposal
        From `propose_checks`, with the same ``tried`` and ``alarm``.
    tried : sequence of (cause, what came of it)
    alarm : Alarm, optional
    dealt_with : bool
        Whether what the alarm asks for was done.

    Returns
    -------
    Move
        The remedy is the one with the best chance for its minutes, not that of the likeliest cause.

    Examples
    --------
    >>> from finchwort.core.diagnosis import Cause, Sign
    >>> causes = [Cause("slow", "A", 3, {}, "", minutes=30), Cause("quick", "B", 2, {}, "", minutes=1)]
    >>> model = Model(causes, [Sign("s", "S?", "")], [])
    >>> next_move(model, model.prior, []).key
    'quick'
    >>> next_move(model, model.prior, [], alarm=Alarm.SCRAPING).key
    'scraping'
    """
    open_ = _open(model, tried)
    chances, prices = model.better.T @ posterior, _prices(model)
    expected = float(expected_minutes(chances[open_][:, None], prices[open_])[0]) if open_.any() else LOST
    if alarm is not None and not dealt_with:
        return Move(NextMove.ALARM, alarm.value, expected)
    if tried and as_came(tried[-1][1]) is Came.BETTER and tried[-1][0] in model.at:
        return Move(NextMove.DONE, tried[-1][0], 0.0)
    if tried and as_came(tried[-1][1]) is Came.LITTLE and tried[-1][0] in _walking(model, tried):
        return Move(NextMove.REMEDY, tried[-1][0], expected)
    if offers and offers[0].worth > 0:
        return Move(NextMove.CHECK, offers[0].check.key, expected - offers[0].worth)
    ratio = np.where(open_ & _worth(chances, prices), chances / prices, -1.0)
    best = int(np.argmax(ratio))
    if ratio[best] > 0:
        return Move(NextMove.REMEDY, model.causes[best].key, expected)
    times = [sum(key == cause.key for key, _ in tried) for cause in model.causes]
    once = np.where(np.array(times) == 1, model.marginals(posterior), 0.0)
    best = int(np.argmax(once))
    if once[best] >= AGAIN:
        return Move(NextMove.REMEDY, model.causes[best].key, LOST, again=True)
    return Move(NextMove.NOTHING, "", LOST)


def _worth(chances: Array, prices: Array) -> npt.NDArray[np.bool_]:
    """Whether a remedy's chance saves enough of what it costs to be left without one."""
    return np.asarray(chances * LOST >= WORTH * prices, dtype=np.bool_)


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
