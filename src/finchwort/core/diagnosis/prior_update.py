"""What closed cases teach: counts on top of the table's likelihoods."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.diagnosis.inference import PEOPLE, told_so
from finchwort.core.diagnosis.model import Cause, Sign

TABLE_CASES = 60.0
"""The table's weights count as so many cases (ours)."""
TABLE_LOOKS = 8.0
"""And its shares as so many looks for each sign (ours)."""
NEW_LOOKS, NEW_SHARE = 10.0, 0.02
"""A link that the table lacks starts from so many looks that showed it so rarely (ours)."""
NEW_TOLD, NEW_STANDS_OUT = 3, 0.15
"""It is believed from so many tellings on, once it shows so often (ours)."""
MOST_ROUNDS, ENOUGH, MARGIN = 200, 1e-9, 1e-3
"""The search ends after so many rounds, or when a round moves nothing further; no share reaches nothing or all."""
MAX_CASES = 100_000
"""Nobody has closed more cases."""


@dataclass(frozen=True)
class Counts:
    """What closed cases were.

    Attributes
    ----------
    causes : mapping of str to int
        How often each was it.
    signs : mapping of (cause, sign) to (int, int)
        How often the sign was seen, and looked for and not seen, when that was it.
    """

    causes: Mapping[str, int]
    signs: Mapping[tuple[str, str], tuple[int, int]]

    def __post_init__(self) -> None:
        numbers = [*self.causes.values(), *(n for pair in self.signs.values() for n in pair)]
        if any(not isinstance(n, int) or not 0 <= n <= MAX_CASES for n in numbers):
            raise OutOfRangeError("diagnosis.cases_counted", max_cases=MAX_CASES)

    @property
    def cases(self) -> int:
        """How many cases."""
        return sum(self.causes.values())


NOTHING = Counts({}, {})


def add_counts(several: Sequence[Counts]) -> Counts:
    """Add up what several workshops saw.

    Examples
    --------
    >>> both = add_counts([Counts({"a": 2}, {("a", "s"): (1, 1)}), Counts({"a": 1}, {})])
    >>> both.causes, both.signs
    ({'a': 3}, {('a', 's'): (1, 1)})
    """
    causes: dict[str, int] = {}
    signs: dict[tuple[str, str], tuple[int, int]] = {}
    for item in several:
        for key, n in item.causes.items():
            causes[key] = causes.get(key, 0) + n
        for pair, (seen, absent) in item.signs.items():
            before = signs.get(pair, (0, 0))
            signs[pair] = before[0] + seen, before[1] + absent
    return Counts(causes, signs)


def learn(causes: Sequence[Cause], counts: Counts, signs: Sequence[Sign] = ()) -> tuple[Cause, ...]:
    """Improve a table by what was counted.

    Weights are the mean of a Dirichlet distribution whose prior is the table.  Shares are found by expectation-maximisation:
    an answer, and no answer, says by the sign's own numbers how likely it was there, and how likely the cause brought it
    about and not the leak; the table counts as looks before that.  So what is left open counts, nothing drifts where only
    what is there is told, and a link that the table lacks grows once it is told often enough.

    Parameters
    ----------
    causes : sequence of Cause
    counts : Counts
    signs : sequence of Sign, optional
        With how often they are told and by mistake; answers to any other sign are taken as facts.

    Returns
    -------
    tuple of Cause
        With the same total weight.

    References
    ----------
    A. P. Dempster, N. M. Laird and D. B. Rubin, Maximum likelihood from incomplete data via the EM algorithm, Journal of
    the Royal Statistical Society B 39(1), 1977.

    Examples
    --------
    >>> table = [Cause("a", "A", 3, {"s": 0.5}, ""), Cause("b", "B", 1, {}, "")]
    >>> found = learn(table, Counts({"b": 30}, {("a", "s"): (8, 0)}))
    >>> [round(c.weight, 2) for c in found], found[0].signs["s"]
    ([2.0, 2.0], 0.75)
    """
    total = sum(cause.weight for cause in causes)
    known = {cause.key for cause in causes}
    seen = sum(n for key, n in counts.causes.items() if key in known)
    asked = [sign for sign in signs if not sign.measured]
    results = []
    for cause in causes:
        n = counts.causes.get(cause.key, 0)
        cases = TABLE_CASES * cause.weight / total + n
        shares = dict(cause.signs)
        told = {sign.key for sign in asked}
        for key, share in cause.signs.items():
            if key not in told:
                there, absent = counts.signs.get((cause.key, key), (0, 0))
                shares[key] = (TABLE_LOOKS * share + there) / (TABLE_LOOKS + there + absent)
        if n and asked:
            shares |= _maximise(cause, n, counts, asked)
        weight = total * cases / (TABLE_CASES + seen)
        results.append(replace(cause, weight=weight, signs=shares))
    return tuple(results)


def _maximise(cause: Cause, n: int, counts: Counts, asked: Sequence[Sign]) -> dict[str, float]:
    """Shares of one cause by expectation-maximisation, those that the table lacks too where they stand out."""
    answers = np.array([counts.signs.get((cause.key, sign.key), (0, 0)) for sign in asked], dtype=float)
    number = np.column_stack([answers, np.maximum(0.0, n - answers.sum(axis=1))])
    in_table = np.array([sign.key in cause.signs for sign in asked])
    start = np.array([cause.signs.get(sign.key, NEW_SHARE) for sign in asked])
    looks = np.where(in_table, TABLE_LOOKS, NEW_LOOKS)
    leak = np.array([sign.leak for sign in asked])
    there, absent = reporting(asked)
    brought, not_brought = there, leak * there + (1 - leak) * absent
    share = start
    for _ in range(MOST_ROUNDS):
        odds = share * brought
        chance = odds / (odds + (1 - share) * not_brought)
        news = (looks * start + (number.T * chance).sum(axis=0)) / (looks + number.sum(axis=1))
        moved = float(np.abs(news - share).max())
        share = news
        if moved < ENOUGH:
            break
    results = {}
    for j, sign in enumerate(asked):
        if in_table[j] or (answers[j, 0] >= NEW_TOLD and share[j] > max(NEW_STANDS_OUT, 2 * leak[j])):
            results[sign.key] = float(min(1 - MARGIN, max(MARGIN, share[j])))
    return results


def reporting(signs: Sequence[Sign]) -> tuple[Array, Array]:
    """Chance that signs are told, denied and left open by people as they come: where there, and where not.

    Parameters
    ----------
    signs : sequence of Sign

    Returns
    -------
    there, absent : ndarray, shape (3, signs)
    """
    told = np.array([sign.told for sign in signs])
    mistaken = np.array([sign.mistaken for sign in signs])
    rows = []
    for value in (True, False, None):
        levels = [told_so(told, mistaken, k, value) for k in range(len(PEOPLE))]
        rows.append([sum(PEOPLE[k][0] * level[part] for k, level in enumerate(levels)) for part in (0, 1)])
    whole = np.array(rows)
    return whole[:, 0], whole[:, 1]
