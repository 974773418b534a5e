"""What is said of turns: which knob, which way, how far, and why one is left alone."""

from __future__ import annotations

from typing import TYPE_CHECKING

from finchwort.core.base.wording import millimetres, seen_direction, turn_in_words

if TYPE_CHECKING:
    from finchwort.core.tramming import Turn


def why_left(turn: Turn) -> str:
    """Say why a screw is not to be touched.

    Parameters
    ----------
    turn : Turn
        One that leaves its screw.

    Returns
    -------
    str
        Part of a sentence, without a capital and a full stop.
    """
    wanted = millimetres(abs(turn.wanted))
    if turn.reason == "held":
        return "this plan holds it"
    if wanted == millimetres(0):
        return "it is where it should be"
    if turn.reason == "noise":
        margin = millimetres(turn.uncertainty * turn.screw.pitch)
        return f"{wanted} is less than its uncertainty of ±{margin}"
    if turn.reason == "limit":
        return "its spring has no travel left that way"
    if abs(turn.wanted) < turn.screw.step:
        return f"only {wanted} is wanted there, and one step of the hand is {millimetres(turn.screw.step)}"
    return "the whole steps of the other knobs come closest without it"


ONE_SIDE = "Go an eighth further and come back: when the last movement always tightens, play drops out."
"""How backlash vanishes (common practice)."""


def instruct(turn: Turn, thread: str, view: str) -> str:
    """Say what to do at one screw.

    Parameters
    ----------
    turn : Turn
    thread, view : str
        See `seen_direction`.

    Returns
    -------
    str
        One or two sentences.
    """
    screw = turn.screw
    if turn.leave:
        return f"Leave the {screw.name} knob: {why_left(turn)}."
    verb = "Tighten" if turn.rounded > 0 else "Loosen"
    amount = turn_in_words(turn.rounded, screw.divisions)
    way = seen_direction(turn.rounded, thread, view)
    effect = "rises" if turn.move > 0 else "sinks"
    back = " " + ONE_SIDE if turn.rounded < 0 else ""
    return (
        f"{verb} the {screw.name} knob {amount}, {way} as you see it. "
        f"The bed there {effect} {millimetres(abs(turn.move))}.{back}"
    )
