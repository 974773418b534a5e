"""Levelling and the Z offset by paper: what the screens advise against the plain hand, on printers of its own.

    python -m bench.by_hand [--count 300] [--first 70000] [--starts 1000]

The printers and people are those of tests/simulation, whose physics shares nothing with the product.  The policy is
that of the bench card: `finchwort.core.tramming.follow` after every step.  Seeds from 70000 on were used for nothing else.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

sys.path.insert(0, str(Path(__file__).resolve().parents[1]))

from tests.simulation.by_hand import KINDS, PAPER_SD, Person, Plate, plain_way, random_plate
from tests.simulation.paper_offset import Strip

from finchwort.core.first_layer import PaperClue, advise_offset, believe
from finchwort.core.printers import Bed, Screw
from finchwort.core.probing import HandReading, hand_survey
from finchwort.core.tramming import (
    BENDS,
    Bench,
    Done,
    Move,
    bench_of,
    find_slipping,
    follow,
    learn,
    make_move,
    plan_turns,
)

LAYER = 0.2
PASSES = 3


def screws_of(plate: Plate) -> list[Screw]:
    """The knobs as they would be set up."""
    return [Screw(f"knob {i}", float(x), float(y), plate.pitch) for i, (x, y) in enumerate(plate.screws)]


def bench_for(plate: Plate) -> Bench:
    """The bench of a printer; that its plate bends is what its owner ticked."""
    return bench_of(Bed(plate.width, plate.depth), screws_of(plate), bends=plate.kind.startswith("bend"))


@dataclass
class Result:
    """One printer levelled."""

    left: float
    turnings: int
    passes: float
    held: bool = True
    high: float = 0.0


def by_card(plate: Plate, person: Person, count: bool = False) -> Result:
    """Do what the card says, for three passes at most; with ``count`` a bold count instead of turning until it drags."""
    bench, done = bench_for(plate), []
    knobs, visits, last = len(bench.screws), 0, None
    most = PASSES if not count else 4 * PASSES
    while True:
        now = follow(bench, done)
        if now.phase != "corners":
            break
        if now.knob is None:
            if now.next_place != last and visits == most * knobs:
                break
            visits += now.next_place != last
            last = now.next_place
            done.append(Done("feel", last, person.feel(*bench.places[last])))
        elif count:
            person.turn(now.knob, now.bold)
            done.append(Done("turn", now.knob, turns=now.bold))
        else:
            person.turn_until_drags(now.knob, *bench.places[now.knob])
            done.append(Done("drag", now.knob))
    done.append(Done("feel", knobs, person.feel(*bench.places[knobs])))
    now = follow(bench, done)
    left = plate.out_of_level
    return Result(left, plate.turnings, visits / knobs, now.low <= left <= now.high, now.high)


def by_plain_hand(plate: Plate, person: Person) -> Result:
    """Round and round until a whole round needs nothing, for three passes at most."""
    x, y = plate.reached()
    history = plain_way(plate, person, list(zip(x, y, strict=True)), range(len(x)), PASSES)
    turnings, left = history[-1]
    return Result(left, turnings, len(history))


def by_lowering(plate: Plate, rng: np.random.Generator) -> tuple[float, float]:
    """Lower until it drags at every knob and in the middle, one plan, turned once; what is left, and what one eighth is."""
    bed, screws = Bed(plate.width, plate.depth), screws_of(plate)
    x, y = plate.reached()
    places = [*zip(x, y, strict=True), bed.centre]
    step = float(rng.choice([0.01, 0.025, 0.05]))
    readings = []
    for px, py in places:
        true = float(plate.heights(np.array([px]), np.array([py]))[0]) + 0.1 + rng.normal(0, PAPER_SD)
        readings.append(HandReading(px, py, float(np.floor(true / step) * step), thickness=0.1, step=step))
    found = hand_survey(readings, "lowered", bed=bed)
    plan = plan_turns(
        found.survey,
        screws,
        centre=bed.centre,
        repeatability=found.noise,
        bends=BENDS if plate.kind.startswith("bend") else 0.0,
    )
    person = Person(rng, plate)
    for i, turn in enumerate(plan.turns):
        if turn.rounded:
            person.turn(i, turn.rounded)
    return plate.out_of_level, plate.pitch / 8


def accused(first: int, count: int) -> int:
    """Sound printers in which a knob was named after three rounds by paper (lowered until it drags)."""
    named = 0
    for seed in range(first, first + count):
        rng = np.random.default_rng(seed)
        plate = random_plate(rng)
        bed, screws, person = Bed(plate.width, plate.depth), screws_of(plate), Person(rng, plate)
        x, y = plate.reached()
        places = [*zip(x, y, strict=True), bed.centre]
        moves: list[Move] = []

        def read(plate=plate, places=places, rng=rng, bed=bed):
            heights = plate.heights(*np.array(places).T) + 0.1 + rng.normal(0, PAPER_SD, len(places))
            return hand_survey(
                [
                    HandReading(px, py, float(h), thickness=0.1)
                    for (px, py), h in zip(places, heights, strict=True)
                ],
                "lowered",
                bed=bed,
            )

        before = read()
        for _ in range(3):
            plan = plan_turns(
                before.survey,
                screws,
                centre=bed.centre,
                repeatability=before.noise,
                response=learn(screws, moves),
            )
            turns = [turn.rounded for turn in plan.turns]
            for i, turn in enumerate(turns):
                if turn:
                    person.turn(i, turn)
            after = read()
            moves.append(
                make_move(before.survey, after.survey, turns, (before.noise, after.noise), bool(moves))
            )
            before = after
        named += find_slipping(screws, moves).named is not None
    return named


@dataclass
class Offset:
    """One offset set by paper."""

    least_gap: float
    held: bool
    left: float
    steps: int


def by_strip(seed: int, careless: float = 0.01) -> Offset:
    """Set an offset as the screen says, from a tip that is pressed by 0.3 mm up to one that stands 1.0 mm off.

    ``least_gap`` is the smallest gap to which the advice ever let the tip come down: to feel, or to print.
    """
    rng = np.random.default_rng(seed)
    strip = Strip(rng, careless=careless)
    clues: list[PaperClue] = []
    newest, z, least = None, 0.0, 9.0
    for steps in range(1, 61):
        belief = believe(clues)
        step = advise_offset(belief, newest, LAYER)
        if step.what in ("type", "leave"):
            held = belief.low <= strip.gap <= belief.high
            strip.offset_closer(step.closer)
            if step.closer > 0:
                least = min(least, LAYER + strip.gap)
            return Offset(least, held, strip.gap, steps)
        goal = 0.3 if step.z is None else step.z
        if newest is not None and goal < z:
            least = min(least, goal + strip.gap)
        z = goal
        if step.what == "lower" and rng.random() < 0.5:
            z, feel = strip.lower_until_drags(z, 0.05)
            least = min(least, z + strip.gap)
            newest = (
                PaperClue("slight", z, strip.said, step=0.05)
                if feel != "stuck"
                else PaperClue(feel, z, strip.said)
            )
        else:
            newest = PaperClue(strip.feel(z), z, strip.said)
        clues.append(newest)
    return Offset(least, False, strip.gap, 60)


def compare(first: int, count: int, kind: str, **how: float) -> dict[str, list[Result]]:
    """Level the same printers by the card and by the plain hand."""
    found: dict[str, list[Result]] = {"card": [], "plain": []}
    ways: dict[str, Callable] = {"card": by_card, "plain": by_plain_hand}
    for seed in range(first, first + count):
        for name, way in ways.items():
            rng = np.random.default_rng(seed)
            plate = random_plate(rng, kind)
            found[name].append(way(plate, Person(rng, plate, counts=False, **how)))
    return found


def row(name: str, results: list[Result]) -> str:
    """One line of the table."""
    left = np.array([one.left for one in results])
    return (
        f"{name:30s} under 0.10: {100 * (left < 0.10).mean():5.1f} %   under 0.05: {100 * (left < 0.05).mean():5.1f} %   "
        f"left {left.mean():.3f} mm   turnings {np.mean([r.turnings for r in results]):4.1f}   "
        f"passes {np.mean([r.passes for r in results]):.1f}"
    )


def main(arguments: list[str] | None = None) -> None:
    """Print the table."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--first", type=int, default=70_000)
    parser.add_argument("--count", type=int, default=300)
    parser.add_argument("--starts", type=int, default=1000)
    said = parser.parse_args(arguments)
    for careless in (0.0, 0.03):
        print(
            f"{said.count} printers of each kind, start 0.3 to 1.5 mm, a wrong button in {100 * careless:.0f} % of feels"
        )
        held = []
        for kind in KINDS:
            found = compare(said.first, said.count, kind, careless=careless)
            print(row(f"{kind}: bench card", found["card"]))
            print(row(f"{kind}: plain hand", found["plain"]))
            held += [one.held for one in found["card"]]
        print(f"stated intervals hold the truth: {100 * np.mean(held):.1f} %\n")
    lowered = []
    for seed in range(said.first, said.first + said.count):
        rng = np.random.default_rng(seed)
        lowered.append(by_lowering(random_plate(rng), rng))
    left, eighth = np.array(lowered).T
    share = (left < np.maximum(0.10, eighth)).mean()
    print(
        f"lowered until it drags, one plan: {100 * share:.1f} % under max(0.10 mm, one eighth), median {np.median(left):.3f} mm"
    )
    print(
        f"sound knobs named as slipping by paper: {accused(said.first, said.count)} in {said.count} printers"
    )
    offsets = [by_strip(seed) for seed in range(said.first, said.first + said.starts)]
    gaps = [one.least_gap for one in offsets]
    print(
        f"offset by paper, {said.starts} starts from -0.3 to +1.0 mm: least gap {min(gaps):.3f} mm, "
        f"{sum(gap <= 0 for gap in gaps)} steps into the plate; interval holds {100 * np.mean([o.held for o in offsets]):.1f} %; "
        f"left {np.median([abs(o.left) for o in offsets]):.3f} mm (median), {np.mean([o.steps for o in offsets]):.1f} steps"
    )


if __name__ == "__main__":
    main()
