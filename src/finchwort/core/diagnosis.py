"""Why a first layer does not stick: causes weighed against what is seen and measured.

Every single cause and every pair of causes is a hypothesis.  A sign shows when one of the causes present brings it
about, or by itself now and then (noisy-or with a leak).  What is known of a sign need not be certain: it enters as
the likelihood of what was seen or measured if the sign is there, and if it is not.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from finchwort.core.errors import ChoiceError, NonFiniteError, OutOfRangeError
from finchwort.core.surveys import Array

BOTH = 0.15
"""How often two causes are at work at once, against a single one, before anything is known (ours)."""
SHARES = {"N": 0.93, "O": 0.7, "S": 0.3, "R": 0.08}
"""How often a sign shows when its cause is present: nearly always, often, sometimes, rarely (ours)."""
MENDED = (0.95, 0.3, 0.03)
"""How often a remedy mends it when its cause is the only one, one of two, or none of them (ours)."""
ALIKE = 1.6
"""Causes whose probabilities differ by less than this factor cannot be told apart yet (ours)."""
LIKELY = 0.12
"""Below this a cause is not named among those that cannot be told apart (ours)."""
WEIGHTY = 2.0
"""A finding that makes a cause so much more, or less, likely is named as a reason (ours)."""


@dataclass(frozen=True)
class Sign:
    """Something that can be seen, or measured.

    Attributes
    ----------
    key, ask, hint : str
        ``ask`` is what the person is asked, in a few words.
    group : str
    leak : float
        How often it shows without any of its causes.
    drawing : str
        Name of its picture; empty for none.
    measured : bool
        Whether it is not asked, but comes from measurements.
    """

    key: str
    ask: str
    group: str
    hint: str = ""
    leak: float = 0.04
    drawing: str = ""
    measured: bool = False


@dataclass(frozen=True)
class Cause:
    """Something that can be wrong.

    Attributes
    ----------
    key, name : str
    weight : float
        How often it is behind a complaint, relative to the others.
    signs : mapping of str to float
        How often each sign shows when this is the cause.
    remedy : str
        What mends it.
    keep : str
        What must stay as it is while the remedy is tried.
    minutes : float
        The remedy takes.
    tag : str
        Where it comes from.
    caution : str
    """

    key: str
    name: str
    weight: float
    signs: Mapping[str, float]
    remedy: str
    keep: str = ""
    minutes: float = 5.0
    tag: str = "P"
    caution: str = ""


@dataclass(frozen=True)
class Outcome:
    """One way a check can come out.

    Attributes
    ----------
    key, words : str
    causes : mapping of str to float
        How often it comes out so when that is the cause; empty for "nothing found".
    leak : float
        How often it comes out so without any of them.
    """

    key: str
    words: str
    causes: Mapping[str, float] = field(default_factory=dict)
    leak: float = 0.03


@dataclass(frozen=True)
class Check:
    """Something to look at or try, which tells causes apart.

    Attributes
    ----------
    key, title, how : str
    minutes : float
    risk : int
        1 for looking, 2 for trying, 3 for taking apart.
    outcomes : tuple of Outcome
        Without "nothing found", which is what is left.
    clear : str
        Words for "nothing found".
    needs : tuple of str
        What the printer must have: "probe", "screws", "beam", "compensation", "heated".
    caution : str
    """

    key: str
    title: str
    how: str
    minutes: float
    risk: int
    outcomes: tuple[Outcome, ...]
    clear: str
    needs: tuple[str, ...] = ()
    caution: str = ""


CLEAR = "clear"
"""Key of the outcome "nothing found"."""


@dataclass(frozen=True)
class Finding:
    """What is known of a sign.

    Attributes
    ----------
    sign : str
    there, absent : float
        Likelihood of what was seen if the sign is there, and if it is not; (1, 0) for a plain yes.
    source : str
        Said to the person, for measurements.
    """

    sign: str
    there: float
    absent: float
    source: str = ""


def yes(sign: str) -> Finding:
    """The sign was seen."""
    return Finding(sign, 1.0, 0.0)


def no(sign: str) -> Finding:
    """It was looked for and not seen."""
    return Finding(sign, 0.0, 1.0)


@dataclass(frozen=True)
class Reason:
    """A finding, and how it bears on a cause.

    Attributes
    ----------
    words : str
    factor : float
        How much more likely it is with the cause than without; under 1 it speaks against.
    """

    words: str
    factor: float


@dataclass(frozen=True)
class Ranked:
    """A cause with its probability and what speaks for and against it."""

    cause: Cause
    probability: float
    speaks_for: tuple[Reason, ...]
    against: tuple[Reason, ...]


@dataclass(frozen=True, eq=False)
class Diagnosis:
    """What the findings come to.

    Attributes
    ----------
    ranked : tuple of Ranked
        Likeliest first.
    pair : (str, str, float) or None
        The likeliest two causes at once, when that is likelier than any single cause.
    alike : tuple of str
        Names of the first causes, while they cannot be told apart.
    surprise : float
        Probability of findings no likelier than these under the best hypothesis, roughly: small when nothing fits.
    sentence : str
    """

    ranked: tuple[Ranked, ...]
    pair: tuple[str, str, float] | None
    alike: tuple[str, ...]
    surprise: float
    sentence: str


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
            raise ChoiceError("A diagnosis needs two causes or more, each named once.")
        weight = np.array([cause.weight * (odds or {}).get(cause.key, 1.0) for cause in self.causes])
        if not np.isfinite(weight).all() or (weight <= 0).any():
            raise OutOfRangeError("A cause's weight must be more than nothing.")
        self.odds = 2 * BOTH * weight / weight.sum()
        self.first, self.second = np.triu_indices(n)
        self.single = self.first == self.second
        prior = np.where(self.single, self.odds[self.first], self.odds[self.first] * self.odds[self.second])
        self.prior = prior / prior.sum()
        self.share = np.zeros((n, len(self.signs)))
        for i, cause in enumerate(self.causes):
            for key, share in cause.signs.items():
                if key not in self.sign_at:
                    raise ChoiceError(f"{cause.key} names the sign {key}, which is none.")
                if not 0 < share < 1:
                    raise OutOfRangeError(f"How often {cause.key} shows {key} lies between 0 and 1.")
                self.share[i, self.sign_at[key]] = share
        leak = np.array([sign.leak for sign in self.signs])
        if ((leak <= 0) | (leak >= 1)).any():
            raise OutOfRangeError("A leak lies between 0 and 1.")
        self.leak = leak
        for check in self.checks:
            for outcome in check.outcomes:
                strange = set(outcome.causes) - set(self.at)
                if strange:
                    raise ChoiceError(f"{check.key} names the cause {strange.pop()}, which is none.")

    @cached_property
    def shows(self) -> Array:
        """Probability that each sign shows, by hypothesis: shape (hypotheses, signs)."""
        hidden = 1 - self.share
        pair = np.where(self.single[:, None], hidden[self.first], hidden[self.first] * hidden[self.second])
        return 1 - (1 - self.leak) * pair

    def outcome_shares(self, check: Check) -> Array:
        """Probability of each outcome of a check by hypothesis, "nothing found" last: shape (hypotheses, outcomes + 1)."""
        found = np.empty((self.prior.size, len(check.outcomes)))
        for k, outcome in enumerate(check.outcomes):
            hidden = np.ones(len(self.causes))
            for key, share in outcome.causes.items():
                hidden[self.at[key]] = 1 - share
            pair = np.where(self.single, hidden[self.first], hidden[self.first] * hidden[self.second])
            found[:, k] = 1 - (1 - outcome.leak) * pair
        clear = np.prod(1 - found, axis=1)
        total = found.sum(axis=1)
        # several outcomes exclude each other: they share what is not clear
        return np.column_stack([found * ((1 - clear) / total)[:, None], clear])

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
            log = log + np.log(self._likelihood(finding))
        for key, outcome in done:
            log = log + np.log(self._came_out(key, outcome))
        for key, better in tried:
            log = log + np.log(self._mended(key, better))
        log -= log.max()
        weight = np.exp(log)
        return weight / weight.sum()

    def _likelihood(self, finding: Finding) -> Array:
        if finding.sign not in self.sign_at:
            raise ChoiceError(f"There is no sign called {finding.sign!r}.")
        if not (math.isfinite(finding.there) and math.isfinite(finding.absent)):
            raise NonFiniteError("A likelihood is not a number.")
        if min(finding.there, finding.absent) < 0 or finding.there + finding.absent <= 0:
            raise OutOfRangeError("A likelihood is nothing or more.")
        shows = self.shows[:, self.sign_at[finding.sign]]
        return finding.there * shows + finding.absent * (1 - shows)

    def _came_out(self, key: str, outcome: str) -> Array:
        check = self.check_by.get(key)
        if check is None:
            raise ChoiceError(f"There is no check called {key!r}.")
        names = [one.key for one in check.outcomes] + [CLEAR]
        if outcome not in names:
            raise ChoiceError(f"{check.title} cannot come out as {outcome!r}.")
        return self.outcome_shares(check)[:, names.index(outcome)]

    def _mended(self, key: str, better: bool) -> Array:
        """Likelihood that a remedy mended it, or not: one of two causes at once is seldom enough."""
        if key not in self.at:
            raise ChoiceError(f"There is no cause called {key!r}.")
        i = self.at[key]
        share = np.full(self.prior.size, MENDED[2])
        share[(self.first == i) | (self.second == i)] = MENDED[1]
        share[(self.first == i) & self.single] = MENDED[0]
        return share if better else 1 - share

    def marginals(self, posterior: Array) -> Array:
        """Probability of each cause, alone or with another; they may add up to more than 1."""
        n = len(self.causes)
        found = np.bincount(self.first, posterior, n)
        return found + np.bincount(self.second[~self.single], posterior[~self.single], n)

    def diagnose(
        self,
        findings: Sequence[Finding] = (),
        done: Sequence[tuple[str, str]] = (),
        tried: Sequence[tuple[str, bool]] = (),
        *,
        most: int = 8,
    ) -> Diagnosis:
        """Rank the causes with their reasons.

        Parameters
        ----------
        findings, done, tried
            See `posterior`.
        most : int
            So many causes are told.

        Returns
        -------
        Diagnosis
        """
        posterior = self.posterior(findings, done, tried)
        marginal = self.marginals(posterior)
        order = np.argsort(-marginal, kind="stable")
        parts = [(self._words(f), self._likelihood(f)) for f in findings]
        parts += [(self._told(key, outcome), self._came_out(key, outcome)) for key, outcome in done]
        parts += [
            (
                f"Remedy tried: {'better' if better else 'no better'} ({self.causes[self.at[key]].name.lower()})",
                self._mended(key, better),
            )
            for key, better in tried
        ]
        ranked = tuple(self._ranked(int(i), float(marginal[i]), parts) for i in order[:most])
        best = int(np.argmax(posterior))
        pair = None
        if not self.single[best]:
            names = self.causes[self.first[best]].name, self.causes[self.second[best]].name
            pair = (*names, float(posterior[best]))
        alike = self._alike(ranked)
        surprise = float(np.prod([lik[best] / max(lik.max(), 1e-300) for _, lik in parts])) if parts else 1.0
        return Diagnosis(
            ranked, pair, alike, surprise, self._sentence(ranked, pair, alike, bool(parts), surprise)
        )

    def _ranked(self, i: int, probability: float, parts: Sequence[tuple[str, Array]]) -> Ranked:
        with_it = (self.first == i) | (self.second == i)
        inside, outside = self.prior * with_it, self.prior * ~with_it
        reasons = [
            Reason(words, float((inside @ lik / inside.sum()) / (outside @ lik / outside.sum())))
            for words, lik in parts
        ]
        speaks = sorted((r for r in reasons if r.factor >= WEIGHTY), key=lambda r: -r.factor)
        against = sorted((r for r in reasons if r.factor <= 1 / WEIGHTY), key=lambda r: r.factor)
        return Ranked(self.causes[i], probability, tuple(speaks), tuple(against))

    @staticmethod
    def _alike(ranked: Sequence[Ranked]) -> tuple[str, ...]:
        first = ranked[0].probability
        near = [r.cause.name for r in ranked if r.probability * ALIKE > first and r.probability >= LIKELY]
        return tuple(near[:4]) if len(near) > 1 else ()

    @staticmethod
    def _sentence(ranked, pair, alike, known: bool, surprise: float) -> str:
        if not known:
            return "Nothing was looked at yet. These are the causes that are met most often."
        odd = " Nothing explains all of it well: look once more at what was seen." if surprise < 1e-4 else ""
        if pair is not None:
            return f"Two things at once seem likeliest: {pair[0].lower()}, and {pair[1].lower()}.{odd}"
        if alike:
            names = [name.lower() for name in alike]
            said = " and ".join([", ".join(names[:-1]), names[-1]])
            return f"These cannot be told apart yet: {said}.{odd}"
        first = ranked[0]
        sure = (
            "Almost surely"
            if first.probability > 0.9
            else "Most likely"
            if first.probability > 0.6
            else "Perhaps"
        )
        return f"{sure}: {first.cause.name.lower()}.{odd}"

    def _words(self, finding: Finding) -> str:
        if finding.source:
            return finding.source
        ask = self.signs[self.sign_at[finding.sign]].ask
        return ask if finding.there > finding.absent else f"Not seen: {ask[0].lower()}{ask[1:]}"

    def _told(self, key: str, outcome: str) -> str:
        check = self.check_by[key]
        words = check.clear if outcome == CLEAR else next(o.words for o in check.outcomes if o.key == outcome)
        return f"{check.title}: {words}"
