"""From walk round and tests to what the API gives."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from finchwort.core.levelling import Skew
from finchwort.core.probing import (
    GOOD_RANGE,
    GOOD_SD,
    STEADY,
    USABLE_RANGE,
    USABLE_SD,
    EdgeShape,
    Line,
    Repeatability,
    Soak,
    SoakAround,
    compare_lines,
)
from finchwort.core.visits import Before
from finchwort.messages.probing import line_sentence, walk_of
from finchwort.messages.remarks import words
from finchwort.services.levelling.plans import EdgeLine
from finchwort.services.probing.probe_tests import Assessed, assess_test, describe_test, walk_items
from finchwort.store.models import Finding, Printer, ProbingTest
from finchwort.store.printers.printers import screws_of
from finchwort.web import schemas
from finchwort.web.height_map import relief_out, rounded

CURVE_POINTS = 80


@dataclass(frozen=True)
class First:
    """What was found out in a visit before measuring."""

    before: Before
    findings: Mapping[str, Finding]
    tests: Sequence[ProbingTest]
    weaknesses: Mapping[str, list[str]]


def items_out(printer: Printer, findings: Mapping[str, Finding]) -> list[schemas.ItemOut]:
    """Give the walk round with what was found."""
    items = []
    for item in walk_items(printer):
        finding = findings.get(item.key)
        items.append(
            schemas.ItemOut.of(
                item,
                mend=item.mending.how if item.mending else "",
                minutes=item.mending.minutes if item.mending else 0,
                part=item.mending.part if item.mending else "",
                state=finding.state if finding else None,
                note=finding.note if finding else "",
            )
        )
    return items


def _maybe(value: float) -> float | None:
    return None if math.isnan(value) else value


def _repeatability(r: Repeatability) -> schemas.RepeatabilityOut:
    plain = ("mean", "minimum", "maximum", "range", "sd", "sd_low", "sd_high", "drift", "drift_low")
    more = ("drift_high", "drift_per", "drifting", "least_difference")
    return schemas.RepeatabilityOut(
        **{name: getattr(r, name) for name in (*plain, *more)},
        aside=list(r.aside),
        step=r.step,
        noise=r.noise,
        good_sd=GOOD_SD,
        usable_sd=USABLE_SD,
        good_range=GOOD_RANGE,
        usable_range=USABLE_RANGE,
    )


def _soak(s: Soak) -> schemas.SoakOut:
    # the curve is carried on for as long as it still moves, but not beyond twice what was watched
    begin, last = float(s.times[0]), float(s.times[-1])
    ahead = 0.0 if math.isnan(s.steady_in) else min(max(s.steady_in, 0.15 * (last - begin)), last - begin)
    times = np.linspace(begin, last + ahead, CURVE_POINTS)
    told = s.heights.size >= 6
    return schemas.SoakOut.of(
        s,
        tau=_maybe(s.tau),
        asymptote=_maybe(s.asymptote),
        steady_in=_maybe(s.steady_in),
        steady_in_low=_maybe(s.steady_in_low),
        steady_in_high=_maybe(s.steady_in_high),
        steady=STEADY,
        curve_times=times.tolist() if told else [],
        curve=s.curve(times).tolist() if told else [],
    )


def result_out(
    assessed: Assessed,
    others: Sequence[ProbingTest] = (),
    what: str | None = None,
    direction: str | None = None,
) -> schemas.TestResult:
    """Give what a test says."""
    result = assessed.result
    parts: dict[str, Any] = {}
    if isinstance(result, Repeatability):
        parts["repeatability"] = _repeatability(result)
    elif isinstance(result, Soak):
        parts["soak"] = _soak(result)
    elif isinstance(result, SoakAround):
        worst = result.against[result.worst]
        x, y = result.spots[result.worst]
        parts["soak"] = _soak(worst)
        parts["around"] = schemas.AroundOut(
            x=x, y=y, places=len(result.spots), times=worst.times.tolist(), heights=worst.heights.tolist()
        )
    elif isinstance(result, Skew):
        parts["beam"] = schemas.BeamOut.of(result)
    elif isinstance(result, Line):
        parts["line"] = schemas.LineOut.of(
            result,
            positions=result.positions.tolist(),
            heights=result.heights.tolist(),
            compared=_compared(result, what, others, direction),
        )
    else:
        parts["switches"] = [
            schemas.SwitchOut.of(item, sentence=words(item.remark), walk=list(walk_of(item)))
            for item in result
        ]
    return schemas.TestResult(
        kind=assessed.kind,
        level=assessed.level,
        word=assessed.word,
        figures=describe_test(assessed),
        sentences=list(assessed.sentences),
        **parts,
    )


def edges_out(lines: Sequence[EdgeLine], shape: EdgeShape) -> schemas.EdgesOut:
    """Give straightedge lines in their places."""
    return schemas.EdgesOut(
        lines=[
            schemas.EdgeLineOut(
                id=line.test.id,
                direction=line.laid.direction,
                x=rounded(line.laid.x),
                y=rounded(line.laid.y),
                heights=rounded(line.laid.line.heights),
                bow=line.laid.line.bow,
                sentence=line_sentence(line.laid.line),
                survey=line.survey,
            )
            for line in lines
        ],
        relief=relief_out(shape.relief, shape.relief.heights.ravel()) if shape.relief is not None else None,
        missing=list(shape.missing),
        sentence=shape.sentence,
    )


def _compared(
    line: Line, what: str | None, others: Sequence[ProbingTest], direction: str | None = None
) -> str | None:
    """Compare a line with the newest one of the other kind that lay the same way: plate and bare carrier."""
    wish = {"plate": "carrier", "carrier": "plate"}.get(what or "")
    other = next(
        (
            t
            for t in reversed(others)
            if t.kind == "line" and t.data.get("what") == wish and t.data.get("direction") == direction
        ),
        None,
    )
    if wish is None or other is None:
        return None
    second = assess_test("line", other.data).result
    if not isinstance(line, Line) or not isinstance(second, Line):
        return None
    return compare_lines(line, second) if what == "plate" else compare_lines(second, line)


def test_out(test: ProbingTest, others: Sequence[ProbingTest] = ()) -> schemas.TestOut:
    """Give a stored test."""
    screws = screws_of(test.visit.printer)
    what = test.data.get("what")
    text = result_out(assess_test(test.kind, test.data, screws), others, what, test.data.get("direction"))
    shown = {name: test.data.get(name) for name in schemas.TestDataOut.model_fields}
    return schemas.TestOut(
        **text.model_dump(),
        id=test.id,
        taken_at=test.taken_at,
        source=test.source,
        heights=test.data.get("heights") or [],
        times=test.data.get("times") or [],
        data=schemas.TestDataOut(**shown),
    )
