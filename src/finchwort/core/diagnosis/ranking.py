"""Why a first layer does not stick: causes ranked, with what speaks for and against each, and the next check."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import lower_first
from finchwort.core.diagnosis.check_selection import Proposal, propose_checks
from finchwort.core.diagnosis.inference import Model
from finchwort.core.diagnosis.model import CLEAR, Cause, Finding

ALIKE = 1.6
"""Causes whose probabilities differ by less than this factor cannot be told apart yet (ours)."""
LIKELY = 0.12
"""Below this a cause is not named among those that cannot be told apart (ours)."""
WEIGHTY = 2.0
"""A finding that makes a cause so much more, or less, likely is named as a reason (ours)."""
ODD = 1e-4
"""When the best hypothesis explains the findings so much worse than each could be, nothing fits (ours)."""


@dataclass(frozen=True)
class Reason:
    """A finding, and how it bears on a cause.

    Attributes
    ----------
    words : Remark or str
        Of a measurement, or as the knowledge base words a sign.
    factor : float
        How much more likely it is with the cause than without; under 1 it speaks against.
    """

    words: Remark | str
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


def diagnose(
    findings: Sequence[Finding],
    model: Model,
    *,
    done: Sequence[tuple[str, str]] = (),
    tried: Sequence[tuple[str, bool]] = (),
    has: Collection[str] = (),
) -> tuple[Diagnosis, tuple[Proposal, ...]]:
    """Rank the causes and weigh the next checks, in one go.

    Parameters
    ----------
    findings : sequence of Finding
    model : Model
        The knowledge, with what the circumstances make likelier before anything is looked at.
    done, tried
        See `finchwort.core.diagnosis.Model.posterior`.
    has : collection of str
        What the printer has, see `finchwort.core.diagnosis.Check`.

    Returns
    -------
    diagnosis : Diagnosis
    proposals : tuple of Proposal

    Examples
    --------
    >>> from finchwort.core.diagnosis import Sign, yes
    >>> known = [Cause("far", "Too far", 3, {"gaps": 0.9}, ""), Cause("oil", "Oily", 1, {"spots": 0.9}, "")]
    >>> asked = [Sign("gaps", "Gaps?", "look"), Sign("spots", "Spots?", "look")]
    >>> found, _ = diagnose([yes("spots")], Model(known, asked, []))
    >>> found.sentence
    'Almost surely: oily.'
    """
    posterior = model.posterior(findings, done, tried)
    offers = propose_checks(model, posterior, done={key for key, _ in done}, has=has)
    return rank_causes(model, findings, done, tried, posterior=posterior), offers


def rank_causes(
    model: Model,
    findings: Sequence[Finding] = (),
    done: Sequence[tuple[str, str]] = (),
    tried: Sequence[tuple[str, bool]] = (),
    *,
    most: int = 8,
    posterior: Array | None = None,
) -> Diagnosis:
    """Rank the causes with their reasons.

    Parameters
    ----------
    model : Model
    findings, done, tried
        See `finchwort.core.diagnosis.Model.posterior`.
    most : int
        So many causes are told.
    posterior : ndarray, shape (hypotheses,), optional
        That of the same findings, where it was weighed already.

    Returns
    -------
    Diagnosis
    """
    if posterior is None:
        posterior = model.posterior(findings, done, tried)
    marginal = model.marginals(posterior)
    order = np.argsort(-marginal, kind="stable")
    parts = [(_words(model, f), model.likelihood(f)) for f in findings]
    parts += [(_told(model, key, outcome), model.came_out(key, outcome)) for key, outcome in done]
    parts += [(_tried(model, key, better), model.mended(key, better)) for key, better in tried]
    ranked = tuple(_ranked(model, int(i), float(marginal[i]), parts) for i in order[:most])
    best = int(np.argmax(posterior))
    pair = None
    if not model.single[best]:
        names = model.causes[model.first[best]].name, model.causes[model.second[best]].name
        pair = (*names, float(posterior[best]))
    alike = _alike(ranked)
    surprise = float(np.prod([lik[best] / max(lik.max(), 1e-300) for _, lik in parts])) if parts else 1.0
    return Diagnosis(ranked, pair, alike, surprise, _sentence(ranked, pair, alike, bool(parts), surprise))


def _ranked(model: Model, i: int, probability: float, parts: Sequence[tuple[Remark | str, Array]]) -> Ranked:
    with_it = (model.first == i) | (model.second == i)
    inside, outside = model.prior * with_it, model.prior * ~with_it
    reasons = [
        Reason(words, float((inside @ lik / inside.sum()) / (outside @ lik / outside.sum())))
        for words, lik in parts
    ]
    speaks = sorted((r for r in reasons if r.factor >= WEIGHTY), key=lambda r: -r.factor)
    against = sorted((r for r in reasons if r.factor <= 1 / WEIGHTY), key=lambda r: r.factor)
    return Ranked(model.causes[i], probability, tuple(speaks), tuple(against))


def _alike(ranked: Sequence[Ranked]) -> tuple[str, ...]:
    first = ranked[0].probability
    near = [r.cause.name for r in ranked if r.probability * ALIKE > first and r.probability >= LIKELY]
    return tuple(near[:4]) if len(near) > 1 else ()


def _sentence(
    ranked: Sequence[Ranked],
    pair: tuple[str, str, float] | None,
    alike: Sequence[str],
    known: bool,
    surprise: float,
) -> str:
    if not known:
        return "Nothing was looked at yet. These are the causes that are met most often."
    odd = " Nothing explains all of it well: look once more at what was seen." if surprise < ODD else ""
    if pair is not None:
        return f"Two things at once seem likeliest: {pair[0].lower()}, and {pair[1].lower()}.{odd}"
    if alike:
        names = [name.lower() for name in alike]
        text = " and ".join([", ".join(names[:-1]), names[-1]])
        return f"These cannot be told apart yet: {text}.{odd}"
    first = ranked[0]
    sure = (
        "Almost surely"
        if first.probability > 0.9
        else "Most likely"
        if first.probability > 0.6
        else "Perhaps"
    )
    return f"{sure}: {first.cause.name.lower()}.{odd}"


def _words(model: Model, finding: Finding) -> Remark | str:
    if finding.source is not None:
        return finding.source
    ask = model.signs[model.sign_at[finding.sign]].ask
    return ask if finding.there > finding.absent else f"Not seen: {lower_first(ask)}"


def _told(model: Model, key: str, outcome: str) -> str:
    check = model.check_by[key]
    words = check.clear if outcome == CLEAR else next(o.words for o in check.outcomes if o.key == outcome)
    return f"{check.title}: {words}"


def _tried(model: Model, key: str, better: bool) -> str:
    name = model.causes[model.at[key]].name.lower()
    return f"Remedy tried: {'better' if better else 'no better'} ({name})"
