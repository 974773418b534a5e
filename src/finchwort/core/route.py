"""The steps of a visit and how far each has come."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from finchwort.core.errors import ChoiceError

STATES = ("to_do", "doing", "done", "skipped", "out_of_date")
EVENTS = ("survey", "turning")


@dataclass(frozen=True)
class Step:
    """A step of the route.

    Attributes
    ----------
    name : {"measure", "judge", "level", "finish"}
    state : one of ``STATES``
    why : str
        One sentence about the state.
    """

    name: str
    state: str
    why: str


def route(
    events: Sequence[str], verdict: str | None, ended: bool, has_screws: bool = True
) -> tuple[Step, ...]:
    """Work out the state of every step from what happened in a visit.

    Parameters
    ----------
    events : sequence of {"survey", "turning"}
        In the order in which they happened.
    verdict : str or None
        Level of the newest survey's verdict, see `finchwort.core.verdict.WORDS`.
    ended : bool
        Whether the visit was closed.
    has_screws : bool

    Returns
    -------
    tuple of Step

    Examples
    --------
    >>> [s.state for s in route(["survey", "turning"], "turn", False)]
    ['out_of_date', 'out_of_date', 'done', 'to_do']
    """
    if set(events) - set(EVENTS):
        raise ChoiceError(f"A visit is made of {' and '.join(EVENTS)}.")
    surveyed = "survey" in events
    turned_since = surveyed and events[-1] == "turning"
    if not surveyed:
        measure = Step("measure", "to_do" if ended else "doing", "Nothing is measured yet.")
        judge = Step("judge", "to_do", "There are no readings to judge yet.")
        level = Step("level", "to_do", "A plan needs readings first.")
    elif turned_since:
        measure = Step("measure", "out_of_date", "Screws were turned since. Measure again.")
        judge = Step("judge", "out_of_date", "The map shows the bed before the last turns.")
        level = Step("level", "done", "Turned. The next survey tells what came of it.")
    else:
        measure = Step("measure", "done", "The readings are newer than the last turn.")
        judge = Step("judge", "done", "Judged against the first layer.")
        if not has_screws:
            level = Step("level", "skipped", "This bed has no screws to turn.")
        elif verdict == "turn":
            level = Step("level", "skipped" if ended else "doing", "There is tilt to take out.")
        else:
            level = Step("level", "done", "There is no tilt worth turning for.")
    if ended:
        finish = Step("finish", "done", "This visit is closed.")
    elif surveyed and not turned_since and verdict != "turn":
        finish = Step("finish", "doing", "Close the visit with its verdict.")
    else:
        finish = Step("finish", "to_do", "Close the visit when you are content.")
    return measure, judge, level, finish
