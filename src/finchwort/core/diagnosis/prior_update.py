"""What closed cases teach: counts on top of the table's likelihoods."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from finchwort.core.base.errors import OutOfRangeError
from finchwort.core.diagnosis.model import Cause

TABLE_CASES = 60.0
"""The table's weights count as so many cases (ours)."""
TABLE_LOOKS = 8.0
"""And its shares as so many looks for each sign (ours)."""
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


def learn(causes: Sequence[Cause], counts: Counts) -> tuple[Cause, ...]:
    """Improve a table by what was counted.

    Weights are the mean of a Dirichlet distribution, shares of beta distributions, whose prior is the table.

    Parameters
    ----------
    causes : sequence of Cause
    counts : Counts

    Returns
    -------
    tuple of Cause
        With the same total weight.

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
    results = []
    for cause in causes:
        cases = TABLE_CASES * cause.weight / total + counts.causes.get(cause.key, 0)
        weight = total * cases / (TABLE_CASES + seen)
        signs = {}
        for key, share in cause.signs.items():
            there, absent = counts.signs.get((cause.key, key), (0, 0))
            signs[key] = (TABLE_LOOKS * share + there) / (TABLE_LOOKS + there + absent)
        results.append(replace(cause, weight=weight, signs=signs))
    return tuple(results)
