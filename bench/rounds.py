"""Two rounds of levelling on simulated printers, by plan and by hand: rounds, turns and what remains.

Run by ``bin/bench`` and, with other seeds and fewer printers, by the tests.  The
beds come from the simulated printer of ``finchwort.link.simulated``, which knows
nothing of the core.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, field

import numpy as np

from finchwort.core import printers
from finchwort.core.base.geometry import Array
from finchwort.core.printers import Screw
from finchwort.core.probing import assess_repeatability
from finchwort.core.surveys import Survey, fit_plane, side_for_tilt
from finchwort.core.tramming import (
    Move,
    find_slipping,
    learn,
    look_ahead,
    make_move,
    plan_turns,
    plate_response,
    prior_response,
)
from finchwort.link.simulated import physics

LAYER = 0.2
PAPER_SD = 0.02
"""How well a person feels paper, mm (common practice)."""
HANDS = (1 / 64, 1 / 24)
"""How truly people turn a knob, standard deviation in turns: from the steady to the usual."""


@dataclass
class Machine:
    """A random simulated printer that is measured and turned."""

    rng: np.random.Generator
    kind: str = "mixed"
    screws: list[Screw] = field(init=False)

    def __post_init__(self) -> None:
        rng = self.rng
        width, depth = rng.choice([165.0, 220.0, 240.0, 300.0]), rng.choice([165.0, 200.0, 220.0, 310.0])
        self.bed = printers.Bed(float(width), float(depth))
        count = int(rng.choice([3, 4], p=[0.25, 0.75]))
        self.pitch = float(rng.choice([0.5, 0.7, 0.8], p=[0.3, 0.5, 0.2]))
        posts = printers.suggest_screws(self.bed, count)
        uneven = 0.0 if self.kind == "equal" else 0.15
        backlash = rng.uniform(0, 1 / 16, count)
        if self.kind == "no backlash":
            backlash = np.zeros(count)
        elif self.kind == "backlash":
            backlash = np.full(count, 1 / 16)
        if self.kind == "soft springs":
            uneven = 0.4
        tilt = rng.uniform(-1.5, 1.5, 2)
        # the tilt from corner to corner is at most 1.5 mm
        tilt *= min(1.0, 1.5 / np.abs(tilt).sum())
        self.noise = float(rng.uniform(0.003, 0.02))
        self.truth = physics.Bed(
            width=float(width),
            depth=float(depth),
            pitch=self.pitch,
            tilt_x=float(tilt[0]),
            tilt_y=float(tilt[1]),
            dome=float(rng.uniform(-0.2, 0.2)),
            twist=float(rng.uniform(-0.2, 0.2)),
            bump=(160.0, 60.0, 0.0, 22.0),
            knobs=[
                physics.Knob(n, x, y, stiffness=float(rng.uniform(1 - uneven, 1 + uneven)), backlash=float(b))
                for (n, x, y), b in zip(posts, backlash, strict=True)
            ],
        )
        for knob in self.truth.knobs:
            # nobody knows which way a knob was turned last
            knob._slack = float(rng.choice([0.0, knob.backlash]))
        self.screws = [Screw(n, x, y, self.pitch) for n, x, y in posts]
        self.points = printers.suggest_points(self.bed, 5, 5)
        self.hand = float(rng.uniform(*HANDS))
        self.moves = 0
        self.turned = 0.0
        self.asked = dict.fromkeys([knob.name for knob in self.truth.knobs], 0.0)

    def true_survey(self) -> Survey:
        """The bed at the measured places, without noise."""
        x, y = np.array(self.points).T
        return Survey(x, y, np.asarray(self.truth.height(x, y)))

    def survey(self) -> Survey:
        """Measure the bed."""
        true = self.true_survey()
        return true.with_heights(true.height + self.rng.normal(0, self.noise, len(true)))

    def touches(self) -> tuple[float, float]:
        """Touch one place ten times; give the standard deviation and its degrees of freedom."""
        found = assess_repeatability(self.rng.normal(0, self.noise, 10).tolist())
        return found.noise, found.dof

    def turn(self, turns: Array) -> None:
        """Turn the knobs."""
        for knob, turn in zip(self.truth.knobs, turns, strict=True):
            if turn:
                # hands differ, and none is perfect
                knob.turn(float(turn) + float(self.rng.normal(0, self.hand)))
                self.moves += 1
                self.turned += abs(float(turn))
                self.asked[knob.name] += abs(float(turn))

    def slopes(self) -> Array:
        """True slopes."""
        plane = fit_plane(self.true_survey()).plane
        return np.array([plane.a, plane.b])

    def tilt(self) -> float:
        """True rise from the lowest to the highest corner by the tilt alone, mm."""
        return float(np.abs(self.slopes() * (self.bed.width, self.bed.depth)).sum())

    def reach(self) -> float:
        """The tilt that whole eighths can be left with at worst, on equal springs, mm."""
        slopes = plate_response(self.screws)[:2] * self.pitch / 8
        size = np.array([self.bed.width, self.bed.depth])
        steps = np.array(list(itertools.product(range(-2, 3), repeat=len(self.screws)))) @ slopes.T * size
        cell = np.abs(slopes * size[:, None]).sum(axis=1)
        places = np.stack(np.meshgrid(*(np.linspace(0, c, 25) for c in cell)), axis=-1).reshape(-1, 2)
        return float(np.abs(places[:, None] - steps).sum(axis=2).min(axis=1).max())


@dataclass
class Story:
    """What happened at one printer."""

    tilts: list[float] = field(default_factory=list)
    covered: list[bool] = field(default_factory=list)
    wanted: list[bool] = field(default_factory=list)
    named: str | None = None
    suspects: tuple[str, ...] = ()
    rounds: int = 0


def by_plan(machine: Machine, rounds: int = 2, learning: bool = True, stop: bool = False) -> Story:
    """Level a printer as the product says."""
    sd, dof = machine.touches()
    side = side_for_tilt(machine.bed, sd, LAYER)
    machine.points = printers.suggest_points(machine.bed, side, side)
    story = Story()
    moves: list[Move] = []
    survey = machine.survey()
    hold, doubted = "centre", ()
    for _ in range(rounds):
        response = learn(machine.screws, moves, doubted) if learning else prior_response(machine.screws)
        plan = plan_turns(
            survey,
            machine.screws,
            hold,
            centre=machine.bed.centre,
            repeatability=sd,
            repeatability_dof=dof,
            response=response,
            bed=machine.bed,
        )
        ahead = look_ahead(survey, plan, machine.bed, LAYER)
        if stop and (plan.done or ahead.decision != "turn"):
            break
        true = machine.slopes()
        for turn in plan.turns:
            arm = np.array([turn.screw.x, turn.screw.y]) - machine.bed.centre
            if hold == "centre":
                story.wanted.append(abs(turn.wanted + arm @ true) <= turn.uncertainty * turn.screw.pitch)
        turns = np.array([turn.rounded for turn in plan.turns])
        machine.turn(turns)
        size = np.array([machine.bed.width, machine.bed.depth])
        sign = np.where(ahead.slopes_after < 0, -1.0, 1.0)
        story.covered.append(abs(sign * size @ (machine.slopes() - ahead.slopes_after)) <= ahead.after_margin)
        story.tilts.append(machine.tilt())
        story.rounds += bool(turns.any())
        after = machine.survey()
        moves.append(make_move(survey, after, turns, (sd, sd), chained=bool(moves), bed=machine.bed))
        survey = after
        slipping = find_slipping(machine.screws, moves)
        story.named = story.named or slipping.named
        story.suspects = slipping.suspects
        hold, doubted = slipping.hold or "centre", slipping.doubted
    return story


def by_hand(machine: Machine, most: int = 12) -> Story:
    """Level a printer corner by corner, counterclockwise, by the feel of paper.

    At each corner the knob is turned until the paper drags as it should; the
    person stops when a whole round needed no knob, or gives up.
    """
    story = Story()
    zero = float(machine.truth.height(*machine.bed.centre))
    for _ in range(most):
        turned = False
        for knob in machine.truth.knobs:
            x = min(max(knob.x, 15.0), machine.bed.width - 15.0)
            y = min(max(knob.y, 15.0), machine.bed.depth - 15.0)
            for _ in range(4):
                felt = float(machine.truth.height(x, y)) - zero + machine.rng.normal(0, PAPER_SD)
                steps = round(felt / machine.pitch * 8)
                if steps == 0:
                    break
                turned = True
                knob.turn(steps / 8)
                machine.moves += 1
                machine.turned += abs(steps) / 8
        story.rounds += 1
        story.tilts.append(machine.tilt())
        if not turned:
            break
    return story


KINDS = ("mixed", "equal", "soft springs", "backlash", "no backlash", "slipping")
"""Classes of printers in which learning is compared with the first belief."""


def make(seed: int, kind: str = "mixed") -> Machine:
    """Make the printer of a seed; in a slipping one a knob loses half to nearly all of its turn."""
    machine = Machine(np.random.default_rng(seed), kind)
    if kind == "slipping":
        rng = np.random.default_rng(seed + 1)
        knob = machine.truth.knobs[int(rng.integers(len(machine.screws)))]
        knob.slip = float(rng.uniform(0.5, 0.95))
    return machine


def slipping_name(machine: Machine) -> str | None:
    """Name the knob that slips in truth."""
    return next((knob.name for knob in machine.truth.knobs if knob.slip), None)


@dataclass
class Figures:
    """Shares over many printers."""

    level: float
    tilt: float
    named: float
    named_turned: float
    wrong: float
    false_alarms: float
    covered: float
    wanted: float


def figures(first: int, count: int) -> Figures:
    """Level many printers by plan and count what came of it."""
    stories, level = [], []
    for i in range(count):
        machine = make(first + i)
        stories.append(by_plan(machine))
        level.append(stories[-1].tilts[-1] <= max(0.05, machine.reach()))
    healthy = [by_plan(make(first + i), 3) for i in range(count)]
    named, turned, wrong = [], [], []
    for i in range(count):
        machine = make(first + 50_000 + i, "slipping")
        name = slipping_name(machine)
        story = by_plan(machine, 3)
        named.append(story.named == name)
        wrong.append(story.named not in (None, name))
        # a knob that was asked for less than a quarter turn in all shows nothing
        if machine.asked[name] >= 0.25:
            turned.append(named[-1])
    return Figures(
        level=float(np.mean(level)),
        tilt=float(np.mean([story.tilts[-1] for story in stories])),
        named=float(np.mean(named)),
        named_turned=float(np.mean(turned)),
        wrong=float(np.mean(wrong)),
        false_alarms=float(np.mean([story.named is not None for story in healthy])),
        covered=float(np.mean([c for story in stories for c in story.covered])),
        wanted=float(np.mean([c for story in stories for c in story.wanted])),
    )


def learning_gain(first: int, count: int, kind: str) -> tuple[float, float]:
    """Mean tilt after two rounds with learning and without, on the same printers, mm."""
    return tuple(
        float(np.mean([by_plan(make(first + i, kind), 2, learning).tilts[-1] for i in range(count)]))
        for learning in (True, False)
    )


def compare(first: int, count: int) -> dict[str, dict[str, float]]:
    """Level the same printers by plan and by hand until the person stops."""
    found = {}
    for name in ("plan", "hand"):
        rows = []
        for i in range(count):
            machine = make(first + i)
            story = by_plan(machine, 6, stop=True) if name == "plan" else by_hand(machine)
            tilt = machine.tilt()
            rows.append(
                (story.rounds, machine.moves, machine.turned, tilt, tilt <= max(0.05, machine.reach()))
            )
        table = np.array(rows, dtype=np.float64)
        keys = ("rounds", "moves", "turns", "tilt", "level")
        found[name] = dict(zip(keys, table.mean(axis=0).tolist(), strict=True))
    return found
