"""Why a first layer does not stick: causes ranked, with what speaks for and against each, and the next check."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from finchwort.core.base.geometry import Array
from finchwort.core.base.remarks import Remark
from finchwort.core.base.wording import lower_first
from finchwort.core.diagnosis.alarms import raised
from finchwort.core.diagnosis.check_selection import Move, Proposal, next_move, propose_checks
from finchwort.core.diagnosis.inference import Model, answers_in
from finchwort.core.diagnosis.kinds import Alarm, Came, as_came
from finchwort.core.diagnosis.model import CLEAR, Cause, Finding

ALIKE = 1.6
"""Causes whose probabilities differ by less than this factor cannot be told apart yet (ours)."""
LIKELY = 0.12
"""Below this a cause is not named among those that cannot be told apart (ours)."""
WEIGHTY = 2.0
"""A finding that makes a cause so much more, or less, likely is named as a reason (ours)."""
CONFLICT = 2.0
"""Where signs without any pattern explain the findings so much better than the table, nothing explains them, bit (ours)."""


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
    something_else : float
        Probability that it is nothing the table knows.
    conflict : float
        By how much signs as they come, without any pattern, explain the findings better than the table does, bit;
        more than nothing when the findings contradict each other.
    sentence : str
    alarm : Alarm or None
        What comes before everything else.
    move : Move or None
        What to do next, where the checks were weighed too.
    """

    ranked: tuple[Ranked, ...]
    pair: tuple[str, str, float] | None
    alike: tuple[str, ...]
    something_else: float
    conflict: float
    sentence: str
    alarm: Alarm | None = None
    move: Move | None = None


def diagnose(
    findings: Sequence[Finding],
    model: Model,
    *,
    done: Sequence[tuple[str, str]] = (),
    tried: Sequence[tuple[str, str | bool]] = (),
    has: Collection[str] = (),
    dealt_with: bool = False,
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
    dealt_with : bool
        Whether what an alarm asks for was done.

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
    alarm = raised(findings)
    offers = propose_checks(
        model,
        posterior,
        done={key for key, _ in done},
        has=has,
        told=answers_in(findings),
        tried=tried,
        alarm=alarm,
    )
    move = next_move(model, posterior, offers, tried=tried, alarm=alarm, dealt_with=dealt_with)
    found = rank_causes(model, findings, done, tried, posterior=posterior)
    return replace(found, move=move), offers


def rank_causes(
    model: Model,
    findings: Sequence[Finding] = (),
    done: Sequence[tuple[str, str]] = (),
    tried: Sequence[tuple[str, str | bool]] = (),
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
    told = answers_in(findings)
    parts += [(_told(model, key, outcome), model.came_out(key, outcome, told)) for key, outcome in done]
    parts += [(_tried(model, key, came), model.mended(key, came)) for key, came in tried]
    ranked = tuple(_ranked(model, int(i), float(marginal[i]), parts) for i in order[:most])
    best = int(np.argmax(posterior))
    pair = None
    if not model.single[best]:
        names = model.causes[model.first[best]].name, model.causes[model.second[best]].name
        pair = (*names, float(posterior[best]))
    alike = _alike(ranked)
    other = model.something_else(posterior)
    conflict = _log_odds(other) - _log_odds(float(model.prior[-1]))
    alarm = raised(findings)
    text = _sentence(ranked, pair, alike, bool(parts), conflict > CONFLICT)
    return Diagnosis(ranked, pair, alike, other, conflict, text, alarm)


def _log_odds(share: float) -> float:
    share = min(max(share, 1e-300), 1 - 1e-12)
    return math.log2(share / (1 - share))


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
    contradicted: bool,
) -> str:
    if not known:
        return "Nothing was looked at yet. These are the causes that are met most often."
    first = ranked[0]
    if contradicted:
        return f"None of these explains it. Nearest comes: {lower_first(first.cause.name)}. Look once more at what was seen, or ask others."
    if pair is not None:
        return f"Two things at once seem likeliest: {lower_first(pair[0])}, and {lower_first(pair[1])}."
    if alike:
        names = [lower_first(name) for name in alike]
        text = " and ".join([", ".join(names[:-1]), names[-1]])
        return f"These cannot be told apart yet: {text}."
    sure = (
        "Almost surely"
        if first.probability > 0.9
        else "Most likely"
        if first.probability > 0.6
        else "Perhaps"
    )
    return f"{sure}: {lower_first(first.cause.name)}."


def _words(model: Model, finding: Finding) -> Remark | str:
    if finding.source is not None:
        return finding.source
    ask = model.signs[model.sign_at[finding.sign]].ask
    return ask if finding.there > finding.absent else f"Not seen: {lower_first(ask)}"


def _told(model: Model, key: str, outcome: str) -> str:
    check = model.check_by[key]
    words = check.clear if outcome == CLEAR else next(o.words for o in check.outcomes if o.key == outcome)
    return f"{check.title}: {words}"


def _tried(model: Model, key: str, came: str | bool) -> str:
    came = as_came(came)
    how = {Came.BETTER: "better", Came.LITTLE: "a little better", Came.NOT_BETTER: "no better"}[came]
    if key in model.before_by:
        return f"Tried before: {lower_first(model.before_by[key].name)}, {how}"
    return f"Remedy tried: {how} ({lower_first(model.causes[model.at[key]].name)})"
