"""Stated against true: every kind of number that carries a plus/minus, a per cent or a date, on physics of its own.

``python -m bench.honest`` prints the table; plates, probes, warm-ups and hands are those of `tests.simulation.plates`, which
share no code with the product.  Every row follows the policy that the screens follow.
"""

from __future__ import annotations

import itertools
import math
import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.simulation.plates import WARMING, Plate, Probe, pattern, warm_up

from finchwort.core.compensation import (
    interpolate,
    left_by_mesh,
    make_mesh,
)
from finchwort.core.first_layer import Patch, offset_from_patches
from finchwort.core.levelling import (
    assess_beam,
    plan_beam,
)
from finchwort.core.printers import (
    Bed,
    Screw,
)
from finchwort.core.probing import (
    STEADY,
    assess_repeatability,
    fit_soak,
    take_out_drift,
    touched_again,
)
from finchwort.core.surveys import (
    Survey,
    fit_bed,
)
from finchwort.core.surveys import tilt as tilts
from finchwort.core.tramming import (
    find_slipping,
    look_ahead,
    make_move,
    plan_turns,
)
from finchwort.core.visits import DriftStep, days_until, forecast_drift

BED = Bed(220, 220)
LAYER = 0.2
CORNERS = np.array([(15.0, 15.0), (205.0, 15.0), (205.0, 205.0), (15.0, 205.0)])
PATTERNS = {"4 corners": CORNERS, "3 x 3": pattern(3), "5 x 5": pattern(5)}


def way_of_reading(rng) -> Probe:
    """From a good probe to paper: 0.003 to 0.03 mm, evenly in its logarithm."""
    return Probe(float(np.exp(rng.uniform(math.log(0.003), math.log(0.03)))))


def read(rng, plate: Plate, probe: Probe, places) -> Survey:
    """Survey a plate."""
    return Survey(*places.T, probe.read(rng, plate.at(*places.T)))


def across_of(fit) -> np.ndarray:
    """Way along which the tilt is stated, mm."""
    return tilts.steepest(np.array([fit.plane.a, fit.plane.b]), BED)


def holds(fit, plate: Plate) -> bool:
    """Whether the stated tilt of the whole bed holds the true one."""
    across = across_of(fit)
    return abs(across @ (np.array([fit.plane.a, fit.plane.b]) - plate.slopes())) <= fit.margin(across)


def tilt_and_plan(places, seeds, known: bool = False, screws: int = 4) -> dict[str, float]:
    """Tilt, decision, chance and tilt after, without a probe test; one knob in twenty printers slips."""
    held, leave, wrong, brier, after, turned, measure = 0, 0, 0, [], [], 0, 0
    for seed in seeds:
        rng = np.random.default_rng(seed)
        plate, probe = Plate(rng, screws=screws), way_of_reading(rng)
        posts = [Screw(str(i), *place, plate.pitch) for i, place in enumerate(plate.places)]
        survey = read(rng, plate, probe, places)
        noise = {"repeatability": probe.sd, "repeatability_dof": 9} if known else {}
        plan = plan_turns(survey, posts, bed=BED, centre=BED.centre, **noise)
        held += holds(plan.fit, plate)
        ahead = look_ahead(survey, plan, BED, LAYER, slipping=find_slipping(posts, []))
        needs = bool(tilts.worth_turning(plate.at(*tilts.looked_at(BED))[None], LAYER)[0])
        leave += ahead.decision == "leave"
        wrong += ahead.decision == "leave" and needs
        measure += ahead.decision == "measure"
        turns = [turn.rounded for turn in plan.turns]
        if not any(turns):
            continue
        turned += 1
        slips = {int(rng.integers(screws)): rng.uniform(0.3, 1.0)} if rng.random() < 0.05 else None
        plate.turn(turns, slips=slips)
        if slips is None:
            across = tilts.steepest(ahead.slopes_after, BED)
            after.append(abs((plate.slopes() - ahead.slopes_after) @ across) <= ahead.after_margin)
        again = fit_bed(read(rng, plate, probe, places), BED, *noise.values())
        brier.append((ahead.chance - (tilts.judge_tilt(again, LAYER).decision != "turn")) ** 2)
    return {
        "tilt held": held / len(seeds),
        "leave": leave / len(seeds),
        "wrong leave": wrong / max(1, leave),
        "measure": measure / len(seeds),
        "Brier": float(np.mean(brier)),
        "after held": float(np.mean(after)),
    }


def part_of_the_bed(share: float, seeds) -> float:
    """Coverage of the whole bed's tilt by readings over part of its width."""
    held = 0
    for seed in seeds:
        rng = np.random.default_rng(seed)
        plate, probe = Plate(rng), way_of_reading(rng)
        held += holds(fit_bed(read(rng, plate, probe, pattern(4, share=share)), BED), plate)
    return held / len(seeds)


def bad_readings(side: int, seeds) -> tuple[float, float, float]:
    """Coverage with one reading in 25 off by 0.1 to 0.5 mm, share of those found, and false alarms a survey."""
    held = found = bad = false = 0
    places = pattern(side)
    for seed in seeds:
        rng = np.random.default_rng(seed)
        plate, probe = Plate(rng), way_of_reading(rng)
        height = probe.read(rng, plate.at(*places.T))
        odd = np.flatnonzero(rng.random(len(places)) < 1 / 25)
        height[odd] += rng.uniform(0.1, 0.5, odd.size) * rng.choice([-1, 1], odd.size)
        fit = fit_bed(Survey(*places.T, height), BED)
        held += holds(fit, plate)
        bad += odd.size
        found += len(set(odd) & set(fit.aside))
        false += bool(set(fit.aside) - set(odd.tolist()))
    return held / len(seeds), found / max(1, bad), false / len(seeds)


def drifting_walks(seeds) -> tuple[float, float]:
    """Coverage with up to 0.06 mm of drift in a walk that ends by touching its first places again; without, too."""
    held = plain = 0
    places = pattern(5)
    for seed in seeds:
        rng = np.random.default_rng(seed)
        plate, probe = Plate(rng), Probe(rng.choice([0.003, 0.006, 0.01]))
        again = np.array([*places, *touched_again([tuple(p) for p in places])])
        t = np.arange(len(again)) * 6.0
        pace = rng.uniform(0.3, 3.0) * t[-1]
        drift = rng.uniform(-0.06, 0.06) * (1 - np.exp(-t / pace)) / (1 - np.exp(-t[-1] / pace))
        height = probe.read(rng, plate.at(*again.T) + drift)
        walk = take_out_drift(*again.T, height, t)
        fit = fit_bed(
            Survey(walk.x, walk.y, walk.height),
            BED,
            probe.sd,
            9,
            seconds=walk.seconds,
            drift_sd=walk.drift_sd,
        )
        held += holds(fit, plate)
        plain += holds(fit_bed(Survey(*places.T, height[: len(places)]), BED, probe.sd, 9), plate)
    return held / len(seeds), plain / len(seeds)


def warm_ups(seeds) -> dict[str, tuple[int, int, int, int]]:
    """For each kind of warm-up: called steady, wrongly, waits told, and how many of them held."""
    fine = np.arange(0, 9000, 10.0)
    table = {}
    for kind in WARMING:
        steady = wrong = told = held = 0
        for seed in seeds:
            true = warm_up(np.random.default_rng(seed), kind, fine)
            move = np.array([np.abs(true[i : i + 31] - true[i]).max() for i in range(fine.size - 31)])
            rng = np.random.default_rng(seed + 1)
            t = np.arange(0, 2400, 30.0)
            height = np.interp(t, fine, true) + rng.normal(0, rng.choice([0.002, 0.004, 0.008]), t.size)
            for n in range(8, t.size, 3):
                found, now = fit_soak(t[:n], height[:n]), int(t[n - 1] / 10)
                if found.state == "steady":
                    steady, wrong = steady + 1, wrong + int(move[now] >= STEADY)
                elif not math.isnan(found.steady_in):
                    quiet = np.flatnonzero(move[now:] < STEADY)
                    wait = 10.0 * quiet[0] if quiet.size else math.inf
                    told += 1
                    held += found.steady_in_low - 30 <= wait <= found.steady_in_high + 30
        table[kind] = (steady, wrong, told, held)
    return table


def after_one_round(seeds) -> tuple[float, float]:
    """Sound printers accused after one round, and how often the middle's plus/minus holds."""
    accused, held = [], []
    for seed in seeds:
        rng = np.random.default_rng(seed)
        screws = 4 if seed % 4 else 3
        plate, probe = Plate(rng, screws=screws, tilt=0.5), Probe(rng.choice([0.004, 0.01, 0.02]))
        posts = [Screw(str(i), *place, plate.pitch) for i, place in enumerate(plate.places)]
        places = pattern(int(rng.choice([3, 5])))
        survey = read(rng, plate, probe, places)
        plan = plan_turns(
            survey, posts, bed=BED, centre=BED.centre, repeatability=probe.sd, repeatability_dof=9
        )
        turns = [turn.rounded for turn in plan.turns]
        if not any(turns):
            continue
        middle = plate.middle()
        plate.turn(turns)
        held.append(abs(plate.middle() - middle - plan.centre_change) <= plan.centre_margin)
        move = make_move(survey, read(rng, plate, probe, places), turns, (probe.sd, probe.sd), bed=BED)
        slipping = find_slipping(posts, [move])
        accused.append(bool(slipping.named or slipping.suspects))
    return float(np.mean(accused)), float(np.mean(held))


def meshes(side: int, seeds, kinds) -> dict[str, tuple[float, float]]:
    """Said over true of what a mesh of all readings leaves: between its points, and beyond them."""
    table = {}
    for kind in kinds:
        said, true, rim, true_rim = 0.0, 0.0, 0.0, 0.0
        for seed in seeds:
            rng = np.random.default_rng(seed)
            plate = Plate(rng, kind=kind, size=rng.uniform(0.1, 0.3), rigidity=1e6)
            survey = read(rng, plate, Probe(0.004), pattern(side))
            mesh = make_mesh(survey, side, side)
            found = left_by_mesh(survey, mesh, BED, 0.004)
            x, y, z = plate.grid(61)
            left = z - interpolate(mesh, x, y)
            inside = (x >= 15) & (x <= 205) & (y >= 15) & (y <= 205)
            said, true = said + found.rms, true + math.sqrt(float(np.mean(left[inside] ** 2)))
            rim, true_rim = rim + found.rim, true_rim + math.sqrt(float(np.mean(left[~inside] ** 2)))
        table[kind] = (said / true, rim / true_rim)
    return table


def forecasts(visits: int, seeds) -> tuple[float, float]:
    """How often the interval of "look again" holds the true day, and how often one is given; springs creep in jerks."""
    held = told = 0
    for seed in seeds:
        rng = np.random.default_rng(seed)
        pace = math.exp(rng.uniform(math.log(2e-5), math.log(6e-4)))
        sd, jerks = rng.choice([0.004, 0.01, 0.02]), rng.random() < 0.3
        steps = []
        for _ in range(visits):
            days = rng.uniform(5, 40)
            way = rng.standard_t(4, 2) / math.sqrt(2) if jerks else rng.standard_normal(2)
            change = math.sqrt(pace * days) * way + (rng.normal(0, 0.3, 2) if rng.random() < 0.05 else 0.0)
            steps.append(
                DriftStep(days, tuple(change + rng.normal(0, sd * math.sqrt(2), 2)), (sd * math.sqrt(2),) * 2)
            )
        left = tuple(rng.normal(0, 0.02, 2))
        found = forecast_drift(steps, LAYER, left)
        if not found.days:
            continue
        told += 1
        held += found.soonest <= days_until(left, pace, 0.1) <= found.latest
    return held / max(1, told), told / len(seeds)


def patches(shaped: bool, seeds) -> tuple[float, float]:
    """How often the interval of an offset from patches on a bowed bed holds, and its width, mm."""
    held, width = 0, []
    for seed in seeds:
        rng = np.random.default_rng(seed)
        plate = Plate(rng, tilt=0.05)
        places = [(110.0, 110.0), (35.0, 35.0), (185.0, 35.0), (185.0, 185.0), (35.0, 185.0)][
            : int(rng.choice([4, 5]))
        ]
        if rng.random() < 0.5:
            places = places[1:] if len(places) > 4 else places
        closer = rng.uniform(-0.02, 0.15)
        made = []
        for x, y in places:
            gap = 0.2 + closer - (float(plate.at(x, y)) - plate.middle())
            made.append(Patch(x, y, 0.2, tuple(np.round(gap + rng.normal(0, 0.015, 3), 2).clip(0.02))))
        shape = None
        if shaped:
            survey = read(rng, plate, Probe(0.006), pattern(5))
            shape = fit_bed(survey, BED).surface
        found = offset_from_patches(made, BED, shape=shape)
        held += abs(found.closer - closer) <= found.margin
        width.append(found.margin)
    return held / len(seeds), float(np.median(width))


def probe_tests(seeds) -> dict[str, float]:
    """How often a good probe is called less than good, with habits that probes have; and how often a poor one is called good."""

    def share(probe: Probe, wrong: Callable[[str], bool], bad: int = 0, drift: float = 0.0, count: int = 10):
        alarms = 0
        for seed in seeds:
            rng = np.random.default_rng(seed)
            height = probe.read(rng, np.full(count, 0.1) + drift * np.arange(count) / count)
            height[rng.choice(count, bad, replace=False)] += rng.uniform(0.05, 0.3, bad)
            alarms += wrong(assess_repeatability(height).level)
        return alarms / len(seeds)

    def less(level: str) -> bool:
        return level != "good"

    return {
        "good, 10 touches": share(Probe(0.004), less),
        "good, 50 touches": share(Probe(0.004), less, count=50),
        "good, steps of 0.0125": share(Probe(0.003, step=0.0125), less),
        "good, heavy tails": share(Probe(0.004, tails=True), less),
        "good, two bad touches": share(Probe(0.004), less, bad=2),
        "good, drifting 0.03": share(Probe(0.004), less, drift=0.03),
        "poor called good": share(Probe(0.03), lambda level: level == "good"),
    }


def beams() -> tuple[int, int]:
    """Of all combinations of what hangs on the beam and which end is low, how many drives take the skew out."""
    right = total = 0
    x, y = pattern(3).T
    for carries, low, tilt in itertools.product(("nozzle", "bed"), (-0.3, 0.3), (-0.1, 0.0, 0.1)):
        # ends of the beam by a rule of thumb of geometry: heights over the base
        left_end, right_end = 14.0, 14.0 + low
        beam = left_end + (right_end - left_end) * x / 220
        # a low nozzle finds the bed early: heights are where the tip touches, against the mean
        plane = tilt * x / 220
        height = plane - (beam - beam.mean()) if carries == "nozzle" else plane + (beam - beam.mean())
        skew = assess_beam(left_end, right_end, 220)
        plan = plan_beam(Survey(x, y, height), 220, noise=0.004, carries=carries, skew=skew)
        for drive in plan.drives:
            total += 1
            ends = {"left": left_end, "right": right_end}
            ends[drive.side] += drive.rise
            right += abs(ends["right"] - ends["left"]) < 0.01
    return right, total


def main() -> int:
    """Print the table."""
    first = 100_000
    print("| number | stated against true | wanted |\n|---|---|---|")

    def row(name: str, said: str, wanted: str) -> None:
        print(f"| {name} | {said} | {wanted} |", flush=True)

    for name, places in PATTERNS.items():
        found = tilt_and_plan(places, range(first, first + 300))
        row(
            f"tilt, {name}, no probe test",
            f"held {found['tilt held']:.1%}; wrong leave {found['wrong leave']:.1%} of {found['leave']:.0%}; "
            f"measure again {found['measure']:.0%}; Brier {found['Brier']:.3f}; after held {found['after held']:.1%}",
            "90 to 98 %; under 5 %; Brier under 0.12; after 90 to 98 %",
        )
    found = tilt_and_plan(PATTERNS["5 x 5"], range(first, first + 200), screws=3)
    row(
        "three screws, 5 x 5",
        f"after held {found['after held']:.1%}; Brier {found['Brier']:.3f}",
        "90 to 98 %",
    )
    for share in (0.5, 0.7):
        row(
            f"tilt, readings over {share:.0%} of the width",
            f"held {part_of_the_bed(share, range(first, first + 300)):.1%}",
            "",
        )
    for side in (3, 5, 7):
        held, hit, false = bad_readings(side, range(first, first + 300))
        row(
            f"one reading in 25 bad, {side} x {side}",
            f"held {held:.1%}; found {hit:.0%}; false alarms {false:.1%}",
            "85 %; under 2 %",
        )
    held, plain = drifting_walks(range(first, first + 300))
    row("walk with up to 0.06 mm of drift", f"held {held:.1%} ({plain:.1%} without touching again)", "85 %")
    total = np.zeros(4, int)
    for kind, one in warm_ups(range(first, first + 20)).items():
        total += one
        row(f"warm-up, {kind}", f"steady wrong {one[1]} of {one[0]}; waits held {one[3]} of {one[2]}", "")
    row(
        "warm-up, all",
        f"steady wrong {total[1] / total[0]:.1%}; waits held {total[3] / total[2]:.1%}",
        "under 10 %; 85 to 98 %",
    )
    accused, held = after_one_round(range(first, first + 300))
    row("sound printers accused after one round", f"{accused:.1%}", "under 2 %")
    row("change of the middle", f"held {held:.1%}", "")
    kinds = ("dome", "ridge", "wave", "bump", "curl", "twist", "dimples")
    for side in (5, 7):
        for kind, (ratio, rim) in meshes(side, range(first, first + 40), kinds).items():
            row(
                f"mesh {side} x {side}, {kind}",
                f"said/true {ratio:.2f}; beyond the rim {rim:.2f}",
                "0.8 to 1.3",
            )
    for visits in (5, 15, 30):
        held, told = forecasts(visits, range(first, first + 400))
        row(f"look again, {visits} visits", f"held {held:.1%}; told in {told:.0%}", "80 to 95 %")
    for shaped in (False, True):
        held, width = patches(shaped, range(first, first + 300))
        row(
            f"patches on a bowed bed, {'with' if shaped else 'without'} a survey",
            f"held {held:.1%}, ±{width:.3f} mm",
            "",
        )
    for name, share in probe_tests(range(first, first + 300)).items():
        row(f"probe: {name}", f"false {share:.1%}", "")
    right, total_ = beams()
    row("drives of a skewed beam, every combination", f"{right} of {total_} right", "all")
    return 0


if __name__ == "__main__":
    sys.exit(main())
