"""The steps of a visit and how far each has come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import counted, lower_first
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
    why : str
        One sentence about the state.
    """

    name: str
    state: str
    why: str


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
    offset: tuple[str, str] | None = None,
    bed: Standing | None = None,
    printed: tuple[str, str] | None = None,
    has_probe: bool = True,
) -> tuple[Step, ...]:
    """Work out the state of every step that a printer can have from what happened in a visit.

    Parameters
    ----------
    events : sequence of {"survey", "turning"}
        In the order in which they happened.
    verdict : str or None
        Level of the newest survey's verdict, see `finchwort.core.surveys.WORDS`.
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
    >>> found = route(["survey"], "leave", False, offset=("found", ""), has_probe=False)
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
        measure = Step("measure", "to_do" if ended else "doing", "Nothing is measured yet.")
        judge = Step("judge", "to_do", "There are no readings to judge yet.")
        level = Step("level", "to_do", "A plan needs readings first.")
    elif turned_since:
        measure = Step("measure", "out_of_date", "The bed was moved since. Measure again.")
        judge = Step("judge", "out_of_date", "The map shows the bed before it was moved.")
        level = Step("level", "done", "Done. The next survey tells what came of it.")
    elif bed.gone:
        measure = Step("measure", "out_of_date", f"{bed.why} Measure again.")
        judge = Step("judge", "out_of_date", f"{bed.why} The map shows the bed before.")
        level = Step("level", "out_of_date", f"{bed.why} A plan needs new readings first.")
    else:
        doubt = f" Doubtful: {lower_first(bed.why)}" if bed.reasons else ""
        measure = Step("measure", "done", f"The readings are newer than the last turn.{doubt}")
        judge = Step("judge", "done", f"Judged against the first layer.{doubt}")
        level = _level(verdict, ended, has_screws or can_level)
    mend = _compensate(compensation, mesh, verdict if surveyed and not turned_since else None, ended)
    lies = (
        surveyed and not turned_since and not bed.gone and verdict not in UNDECIDED and mend.state != "doing"
    )
    height = _offset(offset, ended, lies)
    stands = lies and offset is not None and offset[0] != "old"
    proof = _printed(printed, ended, stands)
    if ended:
        finish = Step("finish", "done", "This visit is closed.")
    elif stands and proof.state == "done":
        finish = Step("finish", "doing", "Close the visit with its verdict.")
    else:
        finish = Step("finish", "to_do", "Close the visit when you are content.")
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


def _level(verdict: str | None, ended: bool, can: bool) -> Step:
    if not can:
        return Step(
            "level", "skipped", "Nothing turns on this bed: open it for tape and what else can be done."
        )
    if verdict == "open":
        return Step(
            "level", "skipped" if ended else "doing", "Paper said only which way: level at the bench."
        )
    if verdict == "turn":
        return Step("level", "skipped" if ended else "doing", "There is tilt to take out.")
    if verdict == "unsure":
        text = "These readings cannot decide. Measure again first."
        return Step("level", "skipped" if ended else "to_do", text)
    return Step("level", "done", "There is no tilt worth turning for.")


def _compensate(compensation: str, mesh: str | None, verdict: str | None, ended: bool) -> Step:
    if mesh == "old":
        return Step("compensate", "out_of_date", "The bed was measured or moved since the mesh was stored.")
    if mesh == "stored":
        return Step("compensate", "done", "A mesh is stored.")
    if compensation == "none":
        return Step("compensate", "skipped", "This printer has no compensation.")
    if compensation == "mean":
        return Step("compensate", "skipped", "This machine applies only the mean of its points.")
    if ended:
        return Step("compensate", "skipped", "No mesh was stored in this visit.")
    if verdict == "compensate":
        return Step("compensate", "doing", "A mesh takes up what the screws cannot.")
    return Step("compensate", "to_do", "A mesh is stored once the bed is level.")


def _offset(offset: tuple[str, str] | None, ended: bool, lies: bool) -> Step:
    if offset is None:
        state = "skipped" if ended else "doing" if lies else "to_do"
        return Step("offset", state, "No Z offset is written down.")
    state, why = offset
    if state == "found":
        return Step("offset", "done", why)
    if ended:
        return Step("offset", "skipped", "The Z offset was not looked at in this visit.")
    return Step("offset", "out_of_date" if state == "old" else "done", why)


def _printed(printed: tuple[str, str] | None, ended: bool, stands: bool) -> Step:
    if printed is not None and printed[0] == "done":
        return Step("first-layer", "done", printed[1])
    if ended:
        return Step("first-layer", "skipped", "Nothing was printed to prove it.")
    if printed is not None and printed[0] == "old":
        return Step("first-layer", "out_of_date" if stands else "to_do", printed[1])
    text = "A printed patch proves bed and offset together."
    return Step("first-layer", "doing" if stands else "to_do", text)


def _first_steps(before: Before, passed: bool) -> tuple[Step, Step, Step]:
    """Sound machine, warm-up and trust in the probe; what was passed over counts as skipped."""
    open_ = "skipped" if passed else "to_do"
    if before.bad:
        text = f"{counted(before.bad, 'thing')} found bad; judgements that stand on it say so."
        sound = Step("sound", "done", text)
    elif before.looked_at >= before.items > 0:
        sound = Step("sound", "done", "Everything was looked at.")
    elif before.looked_at:
        text = f"{before.looked_at} of {before.items} looked at."
        sound = Step("sound", "done" if passed else "doing", text)
    else:
        sound = Step("sound", open_, "Nobody has walked round the machine yet.")
    warm = {
        None: Step("warm", open_, "Nobody has watched whether the bed stands still."),
        "steady": Step("warm", "done", "The bed stood still."),
        "moving": Step("warm", "out_of_date" if not passed else "done", "The bed was still moving."),
        "unclear": Step("warm", "out_of_date" if not passed else "done", "Too few readings to say."),
    }[before.soak]
    trust = {
        None: Step("trust", open_, "The probe has not been tested in this visit."),
        "good": Step("trust", "done", "The probe repeats well."),
        "usable": Step("trust", "done", "Usable for rough work."),
        "poor": Step("trust", "done", "Poor: find the cause before correcting anything."),
    }[before.trust]
    return sound, warm, trust
