"""Every single cause and every pair of causes, weighed against what is seen and measured.

A sign shows when one of the causes present brings it about, or by itself now and then (noisy-or with a leak).  What
is known of a sign need not be certain: it enters as the likelihood of what was seen or measured if the sign is
there, and if it is not.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from finchwort.core.base.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.base.geometry import Array
from finchwort.core.diagnosis.model import CLEAR, Cause, Check, Finding, Sign

BOTH = 0.15
"""How often two causes are at work at once, against a single one, before anything is known (ours)."""
MENDED = (0.95, 0.3, 0.03)
"""How often a remedy mends it when its cause is the only one, one of two, or none of them (ours)."""


class Model:
    """Causes, signs and checks, made ready for reckoning.

    Parameters
    ----------
    causes : sequence of Cause
    signs : sequence of Sign
    checks : sequence of Check
    odds : mapping of str to float, optional
        By how much the context makes a cause likelier before any sign is looked at.

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
    [0.26, 0.9]
    """

    def __init__(
        self,
        causes: Sequence[Cause],
        signs: Sequence[Sign],
        checks: Sequence[Check],
        odds: Mapping[str, float] | None = None,
    ) -> None:
        self.causes, self.signs, self.checks = tuple(causes), tuple(signs), tuple(checks)
        self.at = {cause.key: i for i, cause in enumerate(self.causes)}
        self.sign_at = {sign.key: i for i, sign in enumerate(self.signs)}
        self.check_by = {check.key: check for check in self.checks}
        n = len(self.causes)
        if n < 2 or len(self.at) < n or len(self.sign_at) < len(self.signs):
            raise ChoiceError("diagnosis.diagnosis_needs_two_causes")
        weight = np.array([cause.weight * (odds or {}).get(cause.key, 1.0) for cause in self.causes])
        if not np.isfinite(weight).all() or (weight <= 0).any():
            raise OutOfRangeError("diagnosis.cause_weight_more_nothing")
        self.odds = 2 * BOTH * weight / weight.sum()
        self.first, self.second = np.triu_indices(n)
        self.single = self.first == self.second
        prior = np.where(self.single, self.odds[self.first], self.odds[self.first] * self.odds[self.second])
        self.prior = prior / prior.sum()
        self.share = np.zeros((n, len(self.signs)))
        for i, cause in enumerate(self.causes):
            for key, share in cause.signs.items():
                if key not in self.sign_at:
                    raise ChoiceError("diagnosis.names_sign_none", key=cause.key, key_2=key)
                if not 0 < share < 1:
                    raise OutOfRangeError("diagnosis.often_shows", key=cause.key, key_2=key)
                self.share[i, self.sign_at[key]] = share
        leak = np.array([sign.leak for sign in self.signs])
        if ((leak <= 0) | (leak >= 1)).any():
            raise OutOfRangeError("diagnosis.leak")
        self.leak = leak
        for check in self.checks:
            for outcome in check.outcomes:
                strange = set(outcome.causes) - set(self.at)
                if strange:
                    raise ChoiceError("diagnosis.names_cause_none", key=check.key, strange=strange.pop())

    @cached_property
    def shows(self) -> Array:
        """Probability that each sign shows, by hypothesis: shape (hypotheses, signs)."""
        hidden = 1 - self.share
        pair = np.where(self.single[:, None], hidden[self.first], hidden[self.first] * hidden[self.second])
        return 1 - (1 - self.leak) * pair

    def outcome_shares(self, check: Check) -> Array:
        """Probability of each outcome of a check by hypothesis, "nothing found" last: shape (hypotheses, outcomes + 1)."""
        result = np.empty((self.prior.size, len(check.outcomes)))
        for k, outcome in enumerate(check.outcomes):
            hidden = np.ones(len(self.causes))
            for key, share in outcome.causes.items():
                hidden[self.at[key]] = 1 - share
            pair = np.where(self.single, hidden[self.first], hidden[self.first] * hidden[self.second])
            result[:, k] = 1 - (1 - outcome.leak) * pair
        clear = np.prod(1 - result, axis=1)
        total = result.sum(axis=1)
        # several outcomes exclude each other: they share what is not clear
        return np.column_stack([result * ((1 - clear) / total)[:, None], clear])

    def posterior(
        self,
        findings: Sequence[Finding] = (),
        done: Sequence[tuple[str, str]] = (),
        tried: Sequence[tuple[str, bool]] = (),
    ) -> Array:
        """Weigh all hypotheses.

        Parameters
        ----------
        findings : sequence of Finding
            Those of one sign are multiplied.
        done : sequence of (check, outcome)
            Keys; ``CLEAR`` for nothing found.
        tried : sequence of (cause, better)
            Remedies that were tried alone, and whether it was mended by them.

        Returns
        -------
        ndarray, shape (hypotheses,)

        Raises
        ------
        ChoiceError, OutOfRangeError, NonFiniteError
        """
        log = np.log(self.prior)
        for finding in findings:
            log = log + np.log(self.likelihood(finding))
        for key, outcome in done:
            log = log + np.log(self.came_out(key, outcome))
        for key, better in tried:
            log = log + np.log(self.mended(key, better))
        log -= log.max()
        weight = np.exp(log)
        return weight / weight.sum()

    def likelihood(self, finding: Finding) -> Array:
        """Likelihood of a finding, by hypothesis."""
        if finding.sign not in self.sign_at:
            raise ChoiceError("diagnosis.no_sign_called", sign=finding.sign)
        if not (math.isfinite(finding.there) and math.isfinite(finding.absent)):
            raise NonFiniteError("diagnosis.likelihood_not_number")
        if min(finding.there, finding.absent) < 0 or finding.there + finding.absent <= 0:
            raise OutOfRangeError("diagnosis.likelihood_nothing_more")
        shows = self.shows[:, self.sign_at[finding.sign]]
        return finding.there * shows + finding.absent * (1 - shows)

    def came_out(self, key: str, outcome: str) -> Array:
        """Likelihood that a check came out so, by hypothesis."""
        check = self.check_by.get(key)
        if check is None:
            raise ChoiceError("diagnosis.no_check_called", key=key)
        names = [outcome.key for outcome in check.outcomes] + [CLEAR]
        if outcome not in names:
            raise ChoiceError("diagnosis.cannot_come_out", title=check.title, outcome=outcome)
        return self.outcome_shares(check)[:, names.index(outcome)]

    def mended(self, key: str, better: bool) -> Array:
        """Likelihood that a remedy mended it, or not: one of two causes at once is seldom enough."""
        if key not in self.at:
            raise ChoiceError("diagnosis.no_cause_called", key=key)
        i = self.at[key]
        share = np.full(self.prior.size, MENDED[2])
        share[(self.first == i) | (self.second == i)] = MENDED[1]
        share[(self.first == i) & self.single] = MENDED[0]
        return share if better else 1 - share

    def marginals(self, posterior: Array) -> Array:
        """Probability of each cause, alone or with another; they may add up to more than 1."""
        n = len(self.causes)
        result: Array = np.bincount(self.first, posterior, n).astype(np.float64)
        return result + np.bincount(self.second[~self.single], posterior[~self.single], n)
