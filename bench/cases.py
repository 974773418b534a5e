"""Simulated complaints: how many minutes it takes to find the cause, by proposals and by a fixed order, and how calibrated."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from finchwort.core.diagnosis import CLEAR, Finding, Model, next_step, no, propose_checks, yes
from finchwort.knowledge import beliefs

FIXED = (
    "too_far",
    "too_close",
    "probe_offset",
    "tilted",
    "warped",
    "oily_plate",
    "adhesive",
    "bed_cold",
    "bed_hot",
    "nozzle_cold",
    "nozzle_hot",
    "fan_on",
)
"""Offset, level, wash, adhesive, temperature, settings; then the others as often as they are met."""
LOOKED, KNOWN = 0.25, 0.4
"""Share of the signs a person looks for before asking, and of the measured ones that are known."""
HAS = ("probe", "screws", "beam", "compensation")


@dataclass
class Run:
    """What one complaint took."""

    minutes: float
    fixed: float
    given: list[tuple[float, bool]] = field(default_factory=list)


def model_of_beliefs() -> Model:
    """Make the model that ships."""
    known = beliefs()
    return Model(known.causes, known.signs, known.checks)


def complain(model: Model, rng: np.random.Generator) -> Run:
    """Draw what is wrong, and find it."""
    truth = int(rng.choice(model.prior.size, p=model.prior))
    wrong = {model.causes[model.first[truth]].key, model.causes[model.second[truth]].key}
    shown = rng.random(len(model.signs)) < model.shows[truth]
    findings = _report(model, shown, rng)
    done: list[tuple[str, str]] = []
    tried: list[tuple[str, bool]] = []
    run = Run(0.0, _fixed(model, wrong))
    left = set(wrong)
    while left and run.minutes < 400:
        posterior = model.posterior(findings, done, tried)
        marginal = model.marginals(posterior)
        for key, p in zip((c.key for c in model.causes), marginal, strict=True):
            run.given.append((float(p), key in wrong))
        failed = {key for key, _ in tried}
        order = [i for i in np.argsort(-marginal) if model.causes[i].key not in failed]
        first = model.causes[order[0]]
        offers = propose_checks(model, posterior, done={key for key, _ in done}, has=HAS)
        if next_step(float(marginal[order[0]]), offers) == "remedy" or run.minutes > 60:
            run.minutes += first.minutes
            left.discard(first.key)
            tried.append((first.key, not left))
            continue
        check = offers[0].check
        shares = model.outcome_shares(check)[truth]
        names = [o.key for o in check.outcomes] + [CLEAR]
        done.append((check.key, names[int(rng.choice(len(names), p=shares))]))
        run.minutes += check.minutes
    return run


def _report(model: Model, shown: np.ndarray, rng: np.random.Generator) -> list[Finding]:
    """A person looks for some of the signs and says yes or no; some of what is measured is known."""
    found = []
    for sign, there in zip(model.signs, shown, strict=True):
        if rng.random() < (KNOWN if sign.measured else LOOKED):
            found.append(yes(sign.key) if there else no(sign.key))
    return found


def _fixed(model: Model, wrong: set[str]) -> float:
    """Remedy after remedy in the fixed order, until everything that is wrong was mended."""
    others = sorted((c for c in model.causes if c.key not in FIXED), key=lambda c: -c.weight)
    minutes, left = 0.0, set(wrong)
    for cause in [*(model.causes[model.at[key]] for key in FIXED), *others]:
        minutes += cause.minutes
        left.discard(cause.key)
        if not left:
            break
    return minutes


def many(count: int, first: int, progress: Callable[[int], None] = lambda _: None) -> list[Run]:
    """Complain often, each with a seed of its own."""
    model = model_of_beliefs()
    found = []
    for seed in range(first, first + count):
        found.append(complain(model, np.random.default_rng(seed)))
        progress(seed)
    return found
