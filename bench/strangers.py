"""Complaints of `bench.stranger_world`, what an all-knowing listener makes of them, and how the product does beside it.

Run it by itself for the table of figures:  ``python -m bench.strangers --count 300``.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from bench import stranger_world as world
from finchwort.core.base.geometry import Array

FRESH = 300_000
"""First seed of the complaints that are reported; those looked at while the table was written lie elsewhere."""
SURE = "Almost surely"
LIKELY = "Most likely"


@dataclass(frozen=True)
class Complaint:
    """What somebody tells, and what is wrong."""

    wrong: tuple[str, ...]
    size: float
    yes: tuple[str, ...]
    no: tuple[str, ...]
    since: tuple[str, ...]
    recorded: dict[str, bool]


class World:
    """The world with all its sums made ready."""

    def __init__(self) -> None:
        self.causes = list(world.CAUSES)
        self.forces = sorted({force for _, pushes in world.CAUSES.values() for force in pushes})
        self.signs = list(world.SHOWS)
        push = np.zeros((len(self.causes), len(self.forces)))
        for i, (_, pushes) in enumerate(world.CAUSES.values()):
            for force, size in pushes.items():
                push[i, self.forces.index(force)] = size
        self.push = push
        self.bias = np.array([bias for bias, _ in world.SHOWS.values()])
        pull = np.zeros((len(self.forces), len(self.signs)))
        for j, (_, pushes) in enumerate(world.SHOWS.values()):
            for force, size in pushes.items():
                if force not in self.forces:
                    raise ValueError(force)
                pull[self.forces.index(force), j] = size
        self.pull = pull
        self.salience = np.array([world.SALIENCE.get(sign, world.PLAIN_SALIENCE) for sign in self.signs])
        self.mistaken = np.array([world.MISTAKEN.get(sign, world.PLAIN_MISTAKEN) for sign in self.signs])
        self.twice = [
            (self.signs.index(a), self.signs.index(b), share) for a, (b, share) in world.TOLD_TWICE.items()
        ]

    def shows(self, forces: Array) -> Array:
        """How likely each sign shows, for forces of shape (..., forces)."""
        result: Array = 1 / (1 + np.exp(-world.STEEP * (forces @ self.pull + self.bias)))
        return result

    def tells(self, shows: Array, person: str) -> tuple[Array, Array]:
        """Chances that each sign is told, and denied, before what is told twice."""
        _, talk, denies, careless = world.PEOPLE[person]
        told = np.minimum(0.97, self.salience * talk)
        false = self.mistaken * careless
        yes = shows * told + (1 - shows) * false
        no = (1 - shows) * (1 - false) * denies + shows * (1 - told) * denies * world.OVERLOOKED
        return yes, no

    @cached_property
    def prior(self) -> tuple[Array, Array, list[tuple[int, ...]]]:
        """Everything that can be wrong: how often, with which forces, and which causes."""
        weight = np.array([w for w, _ in world.CAUSES.values()])
        weight = weight / weight.sum()
        chance, forces, which = [], [], []
        for i in range(len(self.causes)):
            for size, share in world.SEVERITY.values():
                chance.append((1 - world.TWO_AT_ONCE) * weight[i] * share)
                forces.append(self.push[i] * size)
                which.append((i,))
        n = len(self.causes)
        pairs = [(i, j, weight[i] * weight[j]) for i in range(n) for j in range(i)]
        total = sum(w for *_, w in pairs)
        for i, j, w in pairs:
            chance.append(world.TWO_AT_ONCE * w / total)
            forces.append(self.push[i] + self.push[j])
            which.append((i, j))
        return np.array(chance), np.array(forces), which

    @cached_property
    def sums(self) -> dict[str, tuple[Array, Array]]:
        """Chances of telling and denying under everything that can be wrong, by kind of person."""
        _, forces, _ = self.prior
        shows = self.shows(forces)
        return {person: self.tells(shows, person) for person in world.PEOPLE}

    @cached_property
    def member(self) -> Array:
        """Which causes are in each of the things that can be wrong."""
        result = np.zeros((len(self.prior[2]), len(self.causes)))
        for row, which in enumerate(self.prior[2]):
            result[row, list(which)] = 1.0
        return result

    def _by_cause(self, table: dict[str, dict[str, float]], plain: float) -> Array:
        each = np.array([[row.get(cause, plain) for cause in self.causes] for row in table.values()])
        rows = [each[:, list(which)].max(axis=1) for which in self.prior[2]]
        return np.array(rows)

    @cached_property
    def since(self) -> Array:
        """Chance of each change before."""
        return 0.8 * self._by_cause(world.SINCE, world.PLAIN_SINCE)

    @cached_property
    def recorded(self) -> Array:
        """Chance that each record lies beyond its limit."""
        return self._by_cause(world.RECORDED, world.PLAIN_RECORDED)

    def complain(self, seed: int) -> Complaint:
        """Draw until somebody tells something."""
        rng = np.random.default_rng(seed)
        chance, forces, which = self.prior
        people = list(world.PEOPLE)
        while True:
            row = int(rng.choice(chance.size, p=chance / chance.sum()))
            person = people[int(rng.choice(len(people), p=[p[0] for p in world.PEOPLE.values()]))]
            yes, no = (part[row] for part in self.sums[person])
            draw = rng.random(len(self.signs))
            told = np.where(draw < yes, 1, np.where(draw < yes + no, -1, 0))
            for one, other, share in self.twice:
                if told[one] == 1 and rng.random() < share:
                    told[other] = 1
            if (told == 1).any():
                break
        since = rng.random(len(world.SINCE)) < self.since[row]
        beyond = rng.random(len(world.RECORDED)) < self.recorded[row]
        known = rng.random(len(world.RECORDED)) < world.KNOWN
        return Complaint(
            tuple(self.causes[i] for i in which[row]),
            float(np.abs(forces[row]).max()),
            tuple(sign for sign, t in zip(self.signs, told, strict=True) if t == 1),
            tuple(sign for sign, t in zip(self.signs, told, strict=True) if t == -1),
            tuple(what for what, there in zip(world.SINCE, since, strict=True) if there),
            {key: bool(b) for key, b, k in zip(world.RECORDED, beyond, known, strict=True) if k},
        )

    def oracle(self, complaint: Complaint) -> dict[str, float]:
        """What somebody who knows all of the above would say, summed exactly."""
        told = np.array([1 if s in complaint.yes else -1 if s in complaint.no else 0 for s in self.signs])
        silent = dict.fromkeys(range(len(self.signs)), 1.0)
        for one, other, share in self.twice:
            if told[one] == 1:
                silent[other] *= 1 - share
        total = np.zeros(self.prior[0].size)
        for person, (share, *_) in world.PEOPLE.items():
            yes, no = self.sums[person]
            log = np.zeros(self.prior[0].size)
            for j, t in enumerate(told):
                y, n = yes[:, j], no[:, j]
                y, n = 1 - (1 - y) * silent[j], n * silent[j]
                log += np.log(y if t == 1 else n if t == -1 else 1 - y - n)
            total += share * np.exp(log)
        for j, what in enumerate(world.SINCE):
            p = self.since[:, j]
            total *= p if what in complaint.since else 1 - p
        for j, what in enumerate(world.RECORDED):
            if what in complaint.recorded:
                p = self.recorded[:, j]
                total *= p if complaint.recorded[what] else 1 - p
        weight = total * self.prior[0]
        marginal = weight @ self.member / weight.sum()
        return dict(zip(self.causes, marginal.tolist(), strict=True))


@dataclass
class Tally:
    """How somebody did on many complaints."""

    first: list[bool] = field(default_factory=list)
    three: list[bool] = field(default_factory=list)
    stated: list[float] = field(default_factory=list)
    words: list[tuple[str, bool]] = field(default_factory=list)

    def add(self, ranked: Sequence[tuple[str, float]], wrong: Sequence[str], words: str = "") -> None:
        """Count one complaint: causes with probabilities, likeliest first."""
        names = [key for key, _ in ranked]
        self.first.append(names[0] in wrong)
        self.three.append(bool(set(names[:3]) & set(wrong)))
        self.stated.append(ranked[0][1])
        self.words.append((words, names[0] in wrong))

    def said(self, word: str) -> tuple[float, int]:
        """Share of right ones among those with this word, and how many."""
        right = [ok for words, ok in self.words if words.startswith(word)]
        return (float(np.mean(right)) if right else 0.0, len(right))

    def tenths(self) -> list[tuple[float, float, int]]:
        """Stated, true and number in each tenth of what was stated."""
        stated, right = np.array(self.stated), np.array(self.first, dtype=float)
        place = np.minimum(9, (stated * 10).astype(int))
        return [
            (float(stated[place == k].mean()), float(right[place == k].mean()), int((place == k).sum()))
            for k in range(10)
            if (place == k).any()
        ]


Listener = Callable[[Complaint], tuple[Sequence[tuple[str, float]], str]]


def told_to_product(complaint: Complaint):
    """Make the product's model for a complaint, and what its form can be told of it."""
    from finchwort.core.diagnosis import Finding, Model, no, yes
    from finchwort.knowledge import beliefs

    known = beliefs()
    asked = {sign.key for sign in known.signs if not sign.measured}
    measured = {sign.key for sign in known.signs if sign.measured}
    factor: dict[str, float] = {}
    for circumstance in known.circumstances:
        if circumstance.key in complaint.since:
            for cause, f in circumstance.odds.items():
                factor[cause] = factor.get(cause, 1.0) * f
    findings = [yes(s) for s in complaint.yes if s in asked] + [no(s) for s in complaint.no if s in asked]
    findings += [
        Finding(s, 0.9 if there else 0.1, 0.1 if there else 0.9)
        for s, there in complaint.recorded.items()
        if s in measured
    ]
    return Model(known.causes, known.signs, known.checks, factor, known.before), findings


def product() -> Listener:
    """The product, told what its form can be told."""
    from finchwort.core.diagnosis import rank_causes

    def listen(complaint: Complaint) -> tuple[Sequence[tuple[str, float]], str]:
        model, findings = told_to_product(complaint)
        found = rank_causes(model, findings, most=len(model.causes))
        return [(r.cause.key, r.probability) for r in found.ranked], found.sentence

    return listen


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
"""What is done without listening: offset, level, wash, adhesive, temperature, settings; then the rest by how often it is met."""
WRONG_ANSWERS = 0.10
"""So many answers to checks are wrong, and so many remedies are done without care and do nothing."""
GIVES_UP = 240.0
HAS = ("probe", "screws", "beam", "compensation")


@dataclass
class Followed:
    """Minutes that one complaint took, as the page proposes and in the fixed order; and whether it was ended."""

    minutes: float
    fixed: float
    ended: bool
    steps: list[str] = field(default_factory=list)


def follow(there: World, complaint: Complaint, seed: int, has: Sequence[str]) -> Followed:
    """Do what the page says, step by step, until everything that is wrong is mended."""
    from finchwort.core.diagnosis import CLEAR, NextMove, diagnose
    from finchwort.knowledge import beliefs

    rng = np.random.default_rng([seed, 7])
    model, findings = told_to_product(complaint)
    known = beliefs()
    minutes = {cause.key: cause.minutes for cause in known.causes}
    left = {cause for cause in complaint.wrong}
    done: list[tuple[str, str]] = []
    tried: list[tuple[str, str]] = []
    run = Followed(0.0, 0.0, False)
    while left and run.minutes < GIVES_UP:
        found, _ = diagnose(findings, model, done=done, tried=tried, has=has, dealt_with=True)
        move = found.move
        assert move is not None
        run.steps.append(f"{move.kind}:{move.key}")
        if move.kind is NextMove.CHECK:
            check = model.check_by[move.key]
            run.minutes += check.minutes
            keys = [*(outcome.key for outcome in check.outcomes), CLEAR]
            true = _comes_out(there, left, move.key, set(keys), CLEAR)
            wrong = rng.random() < WRONG_ANSWERS
            others = [key for key in keys if key != true]
            done.append((move.key, others[int(rng.integers(len(others)))] if wrong else true))
        elif move.kind is NextMove.REMEDY:
            run.minutes += minutes[move.key]
            before = len(left)
            left = _mended(left, move.key, rng)
            came = "not_better" if len(left) == before else "little" if left else "better"
            tried.append((move.key, came))
        else:
            break
    run.ended = not left
    if left:
        run.minutes = max(run.minutes, GIVES_UP)
    run.fixed = _fixed(complaint, minutes, known.causes, np.random.default_rng([seed, 8]))
    return run


def _comes_out(there: World, left: set[str], check: str, keys: set[str], clear: str) -> str:
    forces: dict[str, float] = {}
    for cause in sorted(left):
        for force, size in world.CAUSES[cause][1].items():
            forces[force] = forces.get(force, 0.0) + size
    best, size = clear, 0.45
    for outcome, pushes in world.COMES_OUT.get(check, {}).items():
        total = sum(forces.get(force, 0.0) * weight for force, weight in pushes.items())
        if outcome in keys and total > size:
            best, size = outcome, total
    return best


def _mended(left: set[str], remedy: str, rng: np.random.Generator) -> set[str]:
    if rng.random() < WRONG_ANSWERS:
        return left
    mends = world.MENDS.get(remedy, {})
    # in a fixed order: that of a set differs from one run to the next, and with it who draws which number
    return {cause for cause in sorted(left) if not rng.random() < mends.get(cause, 0.0)}


def _fixed(
    complaint: Complaint, minutes: dict[str, float], causes: Sequence, rng: np.random.Generator
) -> float:
    rest = [c.key for c in sorted(causes, key=lambda c: -c.weight) if c.key not in FIXED]
    order, total, left = [*FIXED, *rest], 0.0, set(complaint.wrong)
    while left and total < 3 * GIVES_UP:
        for remedy in order:
            total += minutes[remedy]
            left = _mended(left, remedy, rng)
            if not left:
                break
    return min(total, 3 * GIVES_UP)


def hear(count: int, first: int, progress: Callable[[int], None] = lambda _: None) -> tuple[Tally, Tally]:
    """Let the product and the oracle hear the same complaints."""
    there = World()
    ours, oracle = Tally(), Tally()
    listen = product()
    for seed in range(first, first + count):
        complaint = there.complain(seed)
        ranked, words = listen(complaint)
        ours.add(ranked, complaint.wrong, words)
        best = sorted(there.oracle(complaint).items(), key=lambda item: -item[1])
        oracle.add(best, complaint.wrong)
        progress(seed)
    return ours, oracle


def follow_many(count: int, first: int) -> list[Followed]:
    """Follow complaints whose causes the product knows."""
    there = World()
    complaints = [(seed, there.complain(seed)) for seed in range(first, first + count)]
    inside = [(seed, c) for seed, c in complaints if not set(c.wrong) & set(world.OUTSIDE)]
    return [follow(there, c, seed, HAS) for seed, c in inside]


def main() -> None:
    """Print the figures."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--first", type=int, default=FRESH)
    parser.add_argument("--follow", type=int, default=100)
    asked = parser.parse_args()
    ours, oracle = hear(asked.count, asked.first)
    for name, tally in (("product", ours), ("oracle", oracle)):
        print(f"{name}: first {np.mean(tally.first):.3f}, first three {np.mean(tally.three):.3f}, ", end="")
        print(f"stated less true {np.mean(tally.stated) - np.mean(tally.first):+.3f}")
        for stated, true, n in tally.tenths():
            print(f"   stated {stated:.2f}, true {true:.2f}, {n} complaints")
    for word in (SURE, LIKELY, "Perhaps", "These cannot", "Two things", "None of these"):
        print(f"“{word}”: right {ours.said(word)[0]:.2f} of {ours.said(word)[1]}")
    runs = follow_many(asked.follow, asked.first)
    ours_, fixed = (np.mean([getattr(run, name) for run in runs]) for name in ("minutes", "fixed"))
    ended = np.mean([run.ended for run in runs])
    print(
        f"followed: {ours_:.0f} min against {fixed:.0f} in the fixed order ({ours_ / fixed:.2f}); ended {ended:.2f} of {len(runs)}"
    )


if __name__ == "__main__":
    main()
