"""Every single cause, every pair of causes and "something else", weighed against what is told, measured and tried.

A sign shows when one of the causes present brings it about, or by itself now and then (noisy-or with a leak).  What
is measured need not be certain: it enters as the likelihood of the measurement if the sign is there, and if it is not.
What people tell goes through one more layer: somebody who talks little, some or much tells a sign that is there, or by
mistake one that is not, or leaves it open; leaving it open says something too.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from functools import cached_property

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.diagnosis.kinds import Came, as_came
from finchwort.core.diagnosis.model import CLEAR, Before, Cause, Check, Finding, Sign

BOTH = 0.15
"""How often two causes are at work at once, against a single one, before anything is known (ours)."""
ELSE = 0.03
"""How often it is something that the table does not know (ours)."""
STRAW = 1.5
"""Something else shows each sign so much more often than the average complaint does, none together (ours)."""
STRANGE = 0.04
"""And each at least so often: an unknown cause has signs of its own (ours)."""
MENDED = 0.92
"""How often a remedy mends its own cause (ours)."""
COMES_OUT = {
    Came.BETTER: (0.97, 0.20, 0.03),
    Came.LITTLE: (0.02, 0.45, 0.05),
    Came.NOT_BETTER: (0.01, 0.35, 0.92),
}
"""How a remedy comes out when everything was mended by it, one of two things, or nothing (ours)."""
WALKS = ("offset_closer", "offset_farther")
"""Remedies that go in small steps, for as long as each makes it a little better."""
A_STEP = {
    Came.BETTER: (0.45, 0.15, 0.03),
    Came.LITTLE: (0.45, 0.45, 0.05),
    Came.NOT_BETTER: (0.10, 0.40, 0.92),
}
"""The same for a single step of a walk: a little better says that the way is right (ours)."""
REPEATED = 0.6
"""How often a check that asks what was told already merely repeats the answer (ours)."""
PEOPLE = ((0.3, 0.6, 0.02, 0.5), (0.45, 1.2, 0.10, 0.8), (0.25, 1.6, 0.40, 1.2))
"""Who tells little, some and much: how many they are, how much of what is there they tell, how often they say "no" to
what they do not tell, and how often they are mistaken, against the signs' own numbers (ours)."""
OVERLOOKED = 0.2
"""Who says "no" does so to what is there in this share of the cases in which they would not have told it (ours)."""
MOST_TOLD = 0.97
"""Nothing is told more surely (ours)."""


def told_so(told: Array, mistaken: Array, level: int, value: bool | None) -> tuple[Array, Array]:
    """Chance that a kind of person tells a sign, denies it, or leaves it open, where it is there and where it is not.

    Parameters
    ----------
    told, mistaken : ndarray
        The signs' own numbers, see `finchwort.core.diagnosis.Sign`.
    level : int
        A row of ``PEOPLE``.
    value : bool or None
        None for left open.

    Returns
    -------
    there, absent : ndarray
    """
    _, talk, deny, careless = PEOPLE[level]
    told, false = np.minimum(MOST_TOLD, told * talk), mistaken * careless
    if value:
        return told, false
    there, absent = (1 - told) * deny * OVERLOOKED, (1 - false) * deny
    return (there, absent) if value is False else (1 - told - there, 1 - false - absent)


class Model:
    """Causes, signs and checks, made ready for reckoning.

    Parameters
    ----------
    causes : sequence of Cause
    signs : sequence of Sign
    checks : sequence of Check
    odds : mapping of str to float, optional
        By how much the context makes a cause likelier before any sign is looked at.
    before : sequence of Before, optional
        What people have often tried already.

    Raises
    ------
    ChoiceError
        When a cause or check names what is not there.
    OutOfRangeError
        When a share is none.

    Examples
    --------
    >>> from finchwort.core.diagnosis import yes
    >>> causes = [Cause("far", "Too far", 3, {"gaps": 0.9}, ""), Cause("oil", "Oily", 1, {"spots": 0.9}, "")]
    >>> model = Model(causes, [Sign("gaps", "Gaps?", "look"), Sign("spots", "Spots?", "look")], [])
    >>> [round(float(p), 2) for p in model.marginals(model.posterior([yes("spots")]))]
    [0.13, 0.91]
    """

    def __init__(
        self,
        causes: Sequence[Cause],
        signs: Sequence[Sign],
        checks: Sequence[Check],
        odds: Mapping[str, float] | None = None,
        before: Sequence[Before] = (),
    ) -> None:
        self.causes, self.signs, self.checks = tuple(causes), tuple(signs), tuple(checks)
        self.before = tuple(before)
        self.at = {cause.key: i for i, cause in enumerate(self.causes)}
        self.sign_at = {sign.key: i for i, sign in enumerate(self.signs)}
        self.check_by = {check.key: check for check in self.checks}
        self.before_by = {item.key: item for item in self.before}
        n = len(self.causes)
        if n < 2 or len(self.at) < n or len(self.sign_at) < len(self.signs):
            raise ChoiceError("diagnosis.diagnosis_needs_two_causes")
        weight = np.array([cause.weight * (odds or {}).get(cause.key, 1.0) for cause in self.causes])
        if not np.isfinite(weight).all() or (weight <= 0).any():
            raise OutOfRangeError("diagnosis.cause_weight_more_nothing")
        self.odds = 2 * BOTH * weight / weight.sum()
        one, two = np.triu_indices(n)
        prior = np.where(one == two, self.odds[one], self.odds[one] * self.odds[two])
        prior = np.append((1 - ELSE) * prior / prior.sum(), ELSE)
        # the last hypothesis is something else: its cause stands behind those of the table
        self.first, self.second = np.append(one, n), np.append(two, n)
        self.single = self.first == self.second
        self.prior = prior
        self.share = self._shares()
        self.leak = np.array([sign.leak for sign in self.signs])
        told = np.array([(sign.told, sign.mistaken) for sign in self.signs])
        if ((self.leak <= 0) | (self.leak >= 1)).any() or ((told <= 0) | (told >= 1)).any():
            raise OutOfRangeError("diagnosis.leak")
        self.told, self.mistaken = told.T
        self.asked = np.array([not sign.measured for sign in self.signs])
        for check in self.checks:
            for outcome in check.outcomes:
                self._known(check.key, outcome.causes)
        for item in self.before:
            self._known(item.key, item.mends)
        for cause in self.causes:
            self._known(cause.key, cause.also, partly=len(self.causes) < 20)

    def _known(self, key: str, causes: Iterable[str], *, partly: bool = False) -> None:
        strange = set(causes) - set(self.at)
        if strange and not partly:
            raise ChoiceError("diagnosis.names_cause_none", key=key, strange=strange.pop())

    def _shares(self) -> Array:
        """How often each cause brings each sign about; what always follows from a sign shows as often as that."""
        share = np.zeros((len(self.causes), len(self.signs)))
        for i, cause in enumerate(self.causes):
            for key, often in cause.signs.items():
                if key not in self.sign_at:
                    raise ChoiceError("diagnosis.names_sign_none", key=cause.key, key_2=key)
                if not 0 < often < 1:
                    raise OutOfRangeError("diagnosis.often_shows", key=cause.key, key_2=key)
                share[i, self.sign_at[key]] = often
        for sign in self.signs:
            for other in sign.follows:
                if other in self.sign_at:
                    j = self.sign_at[other]
                    share[:, j] = np.maximum(share[:, j], share[:, self.sign_at[sign.key]])
        return share

    def _pairs(self, hidden: Array) -> Array:
        """What no cause brings about, by hypothesis; something else brings nothing about by itself."""
        hidden = np.concatenate([hidden, np.ones_like(hidden[:1])])
        single = self.single.reshape((-1,) + (1,) * (hidden.ndim - 1))
        result: Array = np.where(single, hidden[self.first], hidden[self.first] * hidden[self.second])
        return result

    @cached_property
    def shows(self) -> Array:
        """Probability that each sign shows, by hypothesis: shape (hypotheses, signs)."""
        result: Array = 1 - (1 - self.leak) * self._pairs(1 - self.share)
        known = self.prior[:-1] @ result[:-1] / self.prior[:-1].sum()
        result[-1] = np.clip(np.maximum(STRAW * known, STRANGE), self.leak, 0.6)
        return result

    def told_so(self, level: int, columns: Sequence[int], value: bool | None) -> tuple[Array, Array]:
        """Chance of an answer, or of none, where the sign is there and where it is not: shapes (columns,)."""
        return told_so(self.told[columns], self.mistaken[columns], level, value)

    def answer(self, level: int, columns: Sequence[int], value: bool | None) -> Array:
        """Likelihood of answers by hypothesis: yes, no, or left open; shape (hypotheses, columns)."""
        there, absent = self.told_so(level, columns, value)
        result: Array = absent + self.shows[:, columns] * (there - absent)
        return result

    @cached_property
    def _open(self) -> tuple[Array, ...]:
        """Log-likelihood that nothing at all is answered, by hypothesis, for each kind of person."""
        columns = np.flatnonzero(self.asked).tolist()
        return tuple(np.log(self.answer(k, columns, None)).sum(axis=1) for k in range(len(PEOPLE)))

    def answers(
        self, told: Mapping[str, bool], measured: Mapping[str, tuple[float, float]] | None = None
    ) -> Array:
        """Log-likelihood of what was told and what was left open, by hypothesis.

        Parameters
        ----------
        told : mapping of str to bool
            Answers to signs that are asked.
        measured : mapping of str to (float, float), optional
            Signs that could have been told and were measured: likelihood if there, and if not.

        Returns
        -------
        ndarray, shape (hypotheses,)
        """
        followed = {
            other for key, seen in told.items() if seen for other in self.signs[self.sign_at[key]].follows
        }
        once = {key: seen for key, seen in told.items() if not (seen and key in followed)}
        measured = dict(measured or {})
        # what follows from something told is neither news nor left open
        apart = [self.sign_at[k] for k in sorted({*followed, *told, *measured}) if k in self.sign_at]
        apart = [j for j in apart if self.asked[j]]
        plain = [
            (value, [self.sign_at[k] for k, v in once.items() if v is value and k not in measured])
            for value in (True, False)
        ]
        levels = []
        for k, (share, *_) in enumerate(PEOPLE):
            log = math.log(share) + self._open[k] - np.log(self.answer(k, apart, None)).sum(axis=1)
            for value, columns in plain:
                log = log + np.log(self.answer(k, columns, value)).sum(axis=1)
            for key, (there, absent) in measured.items():
                log = log + np.log(self._both(k, key, once.get(key), key in followed, there, absent))
            levels.append(log)
        result: Array = np.logaddexp.reduce(np.array(levels), axis=0)
        return result

    def _both(
        self, level: int, key: str, answer: bool | None, followed: bool, there: float, absent: float
    ) -> Array:
        """Likelihood of an answer and of a measurement of one and the same sign, by hypothesis."""
        j = self.sign_at[key]
        if self.asked[j] and not (followed and answer is None):
            (yes,), (no,) = self.told_so(level, [j], answer)
            there, absent = there * float(yes), absent * float(no)
        shows = self.shows[:, j]
        result: Array = there * shows + absent * (1 - shows)
        return result

    def outcome_shares(self, check: Check, told: Collection[str] = ()) -> Array:
        """Probability of each outcome of a check by hypothesis, "nothing found" last: shape (hypotheses, outcomes + 1).

        ``told`` names the signs that were answered: a check that asks for one of them tells less.
        """
        result = np.empty((self.prior.size, len(check.outcomes)))
        for k, outcome in enumerate(check.outcomes):
            hidden = np.ones(len(self.causes))
            for key, share in outcome.causes.items():
                hidden[self.at[key]] = 1 - share
            result[:, k] = 1 - (1 - outcome.leak) * self._pairs(hidden)
        clear = np.prod(1 - result, axis=1)
        total = result.sum(axis=1)
        # several outcomes exclude each other: they share what is not clear
        shares = np.column_stack([result * ((1 - clear) / total)[:, None], clear])
        if set(check.asks) & set(told):
            shares = (1 - REPEATED) * shares + REPEATED * (self.prior @ shares)
        return shares

    def posterior(
        self,
        findings: Sequence[Finding] = (),
        done: Sequence[tuple[str, str]] = (),
        tried: Sequence[tuple[str, str | bool]] = (),
    ) -> Array:
        """Weigh all hypotheses.

        Parameters
        ----------
        findings : sequence of Finding
            Measurements of one sign are multiplied; of several answers to one sign the last counts.
        done : sequence of (check, outcome)
            Keys; ``CLEAR`` for nothing found.
        tried : sequence of (cause or what was tried before, what came of it)
            Remedies that were tried alone, see `finchwort.core.diagnosis.Came`.

        Returns
        -------
        ndarray, shape (hypotheses,)
            The last one is something that the table does not know.

        Raises
        ------
        ChoiceError, OutOfRangeError, NonFiniteError
        """
        log = np.log(self.prior)
        told = answers_in(findings)
        self._all_known(findings)
        measured: dict[str, tuple[float, float]] = {}
        for finding in findings:
            if finding.told is None:
                likelihood = self.likelihood(finding)
                if told and self.asked[self.sign_at[finding.sign]]:
                    # the same sign may have been told, or left open: both hang on whether it is there
                    there, absent = measured.get(finding.sign, (1.0, 1.0))
                    measured[finding.sign] = (there * finding.there, absent * finding.absent)
                else:
                    log = log + np.log(likelihood)
        if told:
            log = log + self.answers(told, measured)
        for key, outcome in done:
            log = log + np.log(self.came_out(key, outcome, told))
        for key, came in tried:
            log = log + np.log(self.mended(key, came))
        log -= log.max()
        weight = np.exp(log)
        return weight / weight.sum()

    def _all_known(self, findings: Sequence[Finding]) -> None:
        for finding in findings:
            if finding.sign not in self.sign_at:
                raise ChoiceError("diagnosis.no_sign_called", sign=finding.sign)

    def likelihood(self, finding: Finding) -> Array:
        """Likelihood of a finding, by hypothesis; of an answer as somebody gives it who tells some of what they see."""
        self._all_known([finding])
        if finding.told is not None:
            return self.answer(1, [self.sign_at[finding.sign]], finding.told)[:, 0]
        if not (math.isfinite(finding.there) and math.isfinite(finding.absent)):
            raise NonFiniteError("diagnosis.likelihood_not_number")
        if min(finding.there, finding.absent) < 0 or finding.there + finding.absent <= 0:
            raise OutOfRangeError("diagnosis.likelihood_nothing_more")
        shows = self.shows[:, self.sign_at[finding.sign]]
        return finding.there * shows + finding.absent * (1 - shows)

    def came_out(self, key: str, outcome: str, told: Collection[str] = ()) -> Array:
        """Likelihood that a check came out so, by hypothesis."""
        check = self.check_by.get(key)
        if check is None:
            raise ChoiceError("diagnosis.no_check_called", key=key)
        names = [outcome.key for outcome in check.outcomes] + [CLEAR]
        if outcome not in names:
            raise ChoiceError("diagnosis.cannot_come_out", title=check.title, outcome=outcome)
        return self.outcome_shares(check, told)[:, names.index(outcome)]

    def remedy_shares(self, mends: Mapping[str, float]) -> tuple[Array, Array]:
        """Chance that a remedy mends everything, and that it mends one of two things, by hypothesis."""
        share = np.zeros(len(self.causes) + 1)
        for key, often in mends.items():
            if key in self.at:
                share[self.at[key]] = often
        one, two = share[self.first], share[self.second]
        whole: Array = np.where(self.single, one, one * two)
        part: Array = np.where(self.single, 0.0, one + two - 2 * one * two)
        return whole, part

    def mends(self, key: str) -> Mapping[str, float]:
        """Causes that a remedy mends, by its key: that of a cause, or of something tried before."""
        if key in self.at:
            return {**self.causes[self.at[key]].also, key: MENDED}
        if key in self.before_by:
            return self.before_by[key].mends
        raise ChoiceError("diagnosis.no_cause_called", key=key)

    def mended(self, key: str, came: str | bool) -> Array:
        """Likelihood of what came of a remedy: one of two causes at once is seldom enough."""
        came = as_came(came)
        whole, part = self.remedy_shares(self.mends(key))
        walks = key in self.at and self.causes[self.at[key]].number in WALKS
        all_, some, none = (A_STEP if walks else COMES_OUT)[came]
        result: Array = all_ * whole + some * part + none * (1 - whole - part)
        return result

    @cached_property
    def better(self) -> Array:
        """Chance that each cause's remedy ends the trouble, by hypothesis: shape (hypotheses, causes)."""
        rows = []
        for cause in self.causes:
            whole, part = self.remedy_shares(self.mends(cause.key))
            rows.append(whole * COMES_OUT[Came.BETTER][0] + part * COMES_OUT[Came.BETTER][1])
        return np.array(rows).T

    def marginals(self, posterior: Array) -> Array:
        """Probability of each cause, alone or with another; they may add up to more than 1."""
        n = len(self.causes)
        result: Array = np.bincount(self.first, posterior, n + 1).astype(np.float64)
        result += np.bincount(self.second[~self.single], posterior[~self.single], n + 1)
        return result[:n]

    def something_else(self, posterior: Array) -> float:
        """Probability that it is nothing the table knows."""
        return float(posterior[-1])


def answers_in(findings: Iterable[Finding]) -> dict[str, bool]:
    """The newest answer to each sign that was told."""
    return {finding.sign: finding.told for finding in findings if finding.told is not None}
