"""What is said of turns: which knob, which way, how far, and why one is left alone."""

from __future__ import annotations

from finchwort.core.base.wording import millimetres, seen_direction, turn_in_words
from finchwort.core.tramming import Bends, Turn


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


def centre_sentence(middle: float, margin: float, zero_kept: str = "") -> str:
    """Say what a plan does to the middle (mm, positive up, with its plus/minus), and so to the Z offset."""
    if abs(middle) < 0.005:
        if margin < 0.005:
            return "The middle of the bed keeps its height, so the Z offset stays right."
        return f"The middle of the bed keeps its height to ±{millimetres(margin)}, so the Z offset stays right to as much."
    way = "rises" if middle > 0 else "sinks"
    sure = f" ± {millimetres(margin)}" if margin >= 0.005 else ""
    if zero_kept == "probe":
        return (
            f"The middle of the bed {way} {millimetres(abs(middle))}{sure}, and the probe finds it again at the next homing: "
            "the Z offset stays right."
        )
    return (
        f"The middle of the bed {way} {millimetres(abs(middle))}{sure}, "
        f"so the nozzle ends up {'closer' if middle > 0 else 'farther'}. Check the Z offset afterwards."
    )


def learned_sentence(rounds: int, bends: Bends) -> str:
    """Say what the plan takes the knobs to do, after so many rounds of this bed."""
    if not rounds:
        return (
            "No round of this bed is known yet: the knobs are taken to move a stiff plate on equal springs."
        )
    said = f"{rounds} round{'s' if rounds > 1 else ''}"
    more = f" {bends.sentence}" if bends.sentence else ""
    return f"What the knobs do was learned from {said} of this bed; each new round corrects it.{more}"
