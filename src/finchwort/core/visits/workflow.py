"""The steps of a visit and how far each has come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.remarks import Remark, remark
from finchwort.core.surveys import VerdictLevel
from finchwort.core.visits.events import Standing
from finchwort.core.visits.kinds import StepState

STEP_STATES = tuple(StepState)
STEP_EVENTS = ("survey", "turning")
STEPS = (
    "sound",
    "warm",
    "trust",
    "measure",
    "judge",
    "level",
    "compensate",
    "offset",
    "first-layer",
    "finish",
)
"""In the order of the trade: level, then the height in the middle, then a print that proves both, then close."""
UNDECIDED = (VerdictLevel.TURN, VerdictLevel.OPEN, VerdictLevel.UNSURE)
"""Verdicts after which the bed is not done with."""


@dataclass(frozen=True)
class Before:
    """What was found out before measuring.

    Attributes
    ----------
    looked_at, bad, items : int
        Walk-round items looked at, found bad, and how many there are.
    soak : {"steady", "moving", "unclear"} or None
        State of the newest warm-up test.
    trust : {"good", "usable", "poor"} or None
        Level of the newest repeatability test.
    """

    looked_at: int = 0
    bad: int = 0
    items: int = 0
    soak: str | None = None
    trust: str | None = None


@dataclass(frozen=True)
class Step:
    """A step of the route.

    Attributes
    ----------
    name : one of ``STEPS``
    state : one of ``STEP_STATES``
    why : Remark
        About the state.
    """

    name: str
    state: str
    why: Remark


def route(
    events: Sequence[str],
    verdict: str | None,
    ended: bool,
    has_screws: bool = True,
    before: Before | None = None,
    *,
    can_level: bool = False,
    compensation: str = "none",
    mesh: str | None = None,
    offset: tuple[str, Remark] | None = None,
    bed: Standing | None = None,
    printed: tuple[str, Remark] | None = None,
    has_probe: bool = True,
) -> tuple[Step, ...]:
    """Work out the state of every step that a printer can have from what happened in a visit.

    Parameters
    ----------
    events : sequence of {"survey", "turning"}
        In the order in which they happened.
    verdict : str or None
        Level of the newest survey's verdict, see `finchwort.core.surveys.VerdictLevel`.
    ended : bool
        Whether the visit was closed.
    has_screws : bool
    before : Before, optional
        What was looked at, warmed up and tested.
    can_level : bool
        Whether a bed without screws has pads or a driven beam to level it by.
    compensation : {"none", "mean", "mesh"}
        Only one that follows a mesh has that step.
    mesh : {"stored", "old"} or None
        Whether a mesh was stored in this visit, and whether it still holds.
    offset : (state, why) or None
        Of the Z offset: "found" in this visit, "kept" from before, "old" when something puts it in doubt, and why;
        None when none is written down.
    bed : Standing, optional
        Whether the newest survey still shows the bed.
    printed : (state, why) or None
        Of the newest print that was judged: "done" while it still tells of bed and tip, otherwise "old"; None when
        nothing was printed yet.
    has_probe : bool
        Without one there is nothing to trust but paper.

    Returns
    -------
    tuple of Step

    Examples
    --------
    >>> [(s.name, s.state) for s in route(["survey", "turning"], "turn", False)][3:6]
    [('measure', 'out_of_date'), ('judge', 'out_of_date'), ('level', 'done')]
    >>> found = route(["survey"], "leave", False, offset=("found", remark("visits.offset_found")), has_probe=False)
    >>> next_step(found).name
    'first-layer'
    """
    if set(events) - set(STEP_EVENTS):
        raise ChoiceError("visits.visit_made", names=" and ".join(STEP_EVENTS))
    surveyed = "survey" in events
    bed = bed or Standing()
    first = _first_steps(before or Before(), surveyed or ended)
    turned_since = surveyed and events[-1] == "turning"
    if not surveyed:
        measure = Step("measure", "to_do" if ended else "doing", remark("visits.nothing_measured"))
        judge = Step("judge", "to_do", remark("visits.nothing_to_judge"))
        level = Step("level", "to_do", remark("visits.plan_needs_readings"))
    elif turned_since:
        measure = Step("measure", "out_of_date", remark("visits.moved_measure"))
        judge = Step("judge", "out_of_date", remark("visits.moved_judge"))
        level = Step("level", "done", remark("visits.turned"))
    elif bed.gone:
        measure = Step("measure", "out_of_date", remark("visits.again_measure", why=bed.why))
        judge = Step("judge", "out_of_date", remark("visits.again_judge", why=bed.why))
        level = Step("level", "out_of_date", remark("visits.again_plan", why=bed.why))
    else:
        measure = Step("measure", "done", _doubted("visits.measured", "visits.measured_doubtful", bed))
        judge = Step("judge", "done", _doubted("visits.judged", "visits.judged_doubtful", bed))
        level = _level(verdict, ended, has_screws or can_level)
    mend = _compensate(compensation, mesh, verdict if surveyed and not turned_since else None, ended)
    lies = (
        surveyed and not turned_since and not bed.gone and verdict not in UNDECIDED and mend.state != "doing"
    )
    height = _offset(offset, ended, lies)
    stands = lies and offset is not None and offset[0] != "old"
    proof = _printed(printed, ended, stands)
    if ended:
        finish = Step("finish", "done", remark("visits.closed"))
    elif stands and proof.state == "done":
        finish = Step("finish", "doing", remark("visits.close_now"))
    else:
        finish = Step("finish", "to_do", remark("visits.close_later"))
    cannot = {"trust"} if not has_probe else set()
    if compensation != "mesh" and mesh is None:
        cannot.add("compensate")
    steps = (*first, measure, judge, level, mend, height, proof, finish)
    return tuple(step for step in steps if step.name not in cannot)


def next_step(steps: Sequence[Step]) -> Step | None:
    """Give the step that comes next: the first that is being done or out of date, then the first that was not begun.

    Before anything was measured that is the walk round, the warm-up, the probe, in this order; None after the end.
    """
    waits = ("to_do", "doing", "out_of_date")
    measure = next((step for step in steps if step.name == "measure"), None)
    if measure is not None and measure.state == "doing":
        return next(step for step in steps if step.state in waits)
    left = [step for step in steps if step.state in ("doing", "out_of_date")]
    return left[0] if left else next((step for step in steps if step.state == "to_do"), None)


def _doubted(sure: str, doubtful: str, bed: Standing) -> Remark:
    """Say how far the readings count, and what puts them in doubt."""
    if bed.why is None:
        return remark(sure)
    return remark(doubtful, why=bed.why)


def _level(verdict: str | None, ended: bool, can: bool) -> Step:
    if not can:
        return Step("level", "skipped", remark("visits.nothing_turns"))
    if verdict == "open":
        return Step("level", "skipped" if ended else "doing", remark("visits.only_which_way"))
    if verdict == "turn":
        return Step("level", "skipped" if ended else "doing", remark("visits.tilt_left"))
    if verdict == "unsure":
        text = remark("visits.cannot_decide")
        return Step("level", "skipped" if ended else "to_do", text)
    return Step("level", "done", remark("visits.no_tilt"))


def _compensate(compensation: str, mesh: str | None, verdict: str | None, ended: bool) -> Step:
    if mesh == "old":
        return Step("compensate", "out_of_date", remark("visits.mesh_old"))
    if mesh == "stored":
        return Step("compensate", "done", remark("visits.mesh_stored"))
    if compensation == "none":
        return Step("compensate", "skipped", remark("visits.no_compensation"))
    if compensation == "mean":
        return Step("compensate", "skipped", remark("visits.only_the_mean"))
    if ended:
        return Step("compensate", "skipped", remark("visits.no_mesh_here"))
    if verdict == "compensate":
        return Step("compensate", "doing", remark("visits.mesh_wanted"))
    return Step("compensate", "to_do", remark("visits.mesh_later"))


def _offset(offset: tuple[str, Remark] | None, ended: bool, lies: bool) -> Step:
    if offset is None:
        state = "skipped" if ended else "doing" if lies else "to_do"
        return Step("offset", state, remark("visits.no_offset"))
    state, why = offset
    if state == "found":
        return Step("offset", "done", why)
    if ended:
        return Step("offset", "skipped", remark("visits.offset_not_looked_at"))
    return Step("offset", "out_of_date" if state == "old" else "done", why)


def _printed(printed: tuple[str, Remark] | None, ended: bool, stands: bool) -> Step:
    if printed is not None and printed[0] == "done":
        return Step("first-layer", "done", printed[1])
    if ended:
        return Step("first-layer", "skipped", remark("visits.nothing_printed"))
    if printed is not None and printed[0] == "old":
        return Step("first-layer", "out_of_date" if stands else "to_do", printed[1])
    text = remark("visits.patch_proves")
    return Step("first-layer", "doing" if stands else "to_do", text)


def _first_steps(before: Before, passed: bool) -> tuple[Step, Step, Step]:
    """Sound machine, warm-up and trust in the probe; what was passed over counts as skipped."""
    open_ = "skipped" if passed else "to_do"
    if before.bad:
        text = remark("visits.found_bad", bad=before.bad)
        sound = Step("sound", "done", text)
    elif before.looked_at >= before.items > 0:
        sound = Step("sound", "done", remark("visits.all_looked_at"))
    elif before.looked_at:
        text = remark("visits.partly_looked_at", looked_at=before.looked_at, items=before.items)
        sound = Step("sound", "done" if passed else "doing", text)
    else:
        sound = Step("sound", open_, remark("visits.not_walked_round"))
    warm = {
        None: Step("warm", open_, remark("visits.not_soaked")),
        "steady": Step("warm", "done", remark("visits.stood_still")),
        "moving": Step("warm", "out_of_date" if not passed else "done", remark("visits.still_moving")),
        "unclear": Step("warm", "out_of_date" if not passed else "done", remark("visits.too_few_to_say")),
    }[before.soak]
    trust = {
        None: Step("trust", open_, remark("visits.not_tested")),
        "good": Step("trust", "done", remark("visits.repeats_well")),
        "usable": Step("trust", "done", remark("visits.rough_work")),
        "poor": Step("trust", "done", remark("visits.poor_probe")),
    }[before.trust]
    return sound, warm, trust
