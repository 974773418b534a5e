"""What is said of turns: which knob, which way, how far, and why one is left alone."""

from __future__ import annotations

from finchwort.core.base.wording import counted, millimetres, seen_direction, turn_in_words
from finchwort.core.tramming import Bends, Turn

ERRORS = {
    "tramming.bench_strip_felt_knob": "At the bench a strip is felt, or a knob is turned.",
    "tramming.centre_within_mm_corners": (
        "The centre lies within {max_read:g} mm of the corners. Read it again."
    ),
    "tramming.every_pad_under_now": "Say for every pad what lies under it now.",
    "tramming.every_screw_far_turned": "Say for every screw how far it is turned.",
    "tramming.far_knob_turned": "Say how far the knob was turned.",
    "tramming.learned_about_other_screws": "What was learned is about other screws.",
    "tramming.no_screw_called_hold": "There is no screw called {hold!r} to hold.",
    "tramming.no_such_corner": "There is no such corner.",
    "tramming.nobody_turns_bed_knob": "Nobody turns a bed knob more than 20 turns in one go.",
    "tramming.nothing_known": "Nothing is known of {kind!r}.",
    "tramming.plate_does_not_rest": "This plate does not rest on pads.",
    "tramming.printer_no_screw_called": "This printer has no screw called {names}.",
    "tramming.printer_set_up_without": "This printer is set up without a beam on lead screws.",
    "tramming.printer_set_up_without_compensation": "This printer is set up without compensation.",
    "tramming.round_tells_other_screws": "A round tells of other screws than this bed has.",
    "tramming.strip_feels": "Say how the strip feels.",
    "tramming.three_knobs_least_carry": (
        "Three knobs at the least carry a bed that is levelled at its corners."
    ),
    "tramming.three_readings_set_aside": (
        "One of the three readings was set aside. Choose others, or put it back."
    ),
    "tramming.turning_way_only_needs": "Turning one way only needs screws that all work the same way.",
    "tramming.turns_more_any_spring": "{turns:g} turns at {name} is more than any spring allows.",
    "tramming.where_tape_went": "Say where the tape went.",
}
"""What is said of input that cannot be used, by the code of its error."""


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
    wish = millimetres(abs(turn.wanted))
    if turn.reason == "held":
        return "this plan holds it"
    if wish == millimetres(0):
        return "it is where it should be"
    if turn.reason == "noise":
        margin = millimetres(turn.uncertainty * turn.screw.pitch)
        return f"{wish} is less than its uncertainty of ±{margin}"
    if turn.reason == "limit":
        return "its spring has no travel left that way"
    if abs(turn.wanted) < turn.screw.step:
        return f"only {wish} is wanted there, and one step of the hand is {millimetres(turn.screw.step)}"
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
    text = f"{counted(rounds, 'round')}"
    more = f" {bends.sentence}" if bends.sentence else ""
    return f"What the knobs do was learned from {text} of this bed; each new round corrects it.{more}"
