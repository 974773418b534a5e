"""What is said of turns: which knob, which way, how far, and why one is left alone."""

from __future__ import annotations

from finchwort.core.base.wording import counted, millimetres, seen_direction, turn_in_words, upper_first
from finchwort.core.tramming import Bends, Turn
from finchwort.core.tramming.assessment import Outlook
from finchwort.core.tramming.kinds import StuckReason
from finchwort.core.tramming.operator import STEADY, Hand
from finchwort.core.tramming.slipping import Slipping
from finchwort.messages.surveys import CANNOT_TELL
from finchwort.messages.templates import Sentence

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
    more = f" {said}" if (said := bends_sentence(bends)) else ""
    return f"What the knobs do was learned from {text} of this bed; each new round corrects it.{more}"


def slipping_sentence(slipping: Slipping) -> str | None:
    """What to do about it, or nothing."""
    if slipping.named:
        return (
            f"The {slipping.named} knob does only about {max(0, round(10 * (1 - slipping.lost)) * 10)} % of what it should. "
            "Hold the screw and turn the knob: does the screw spin with it, or is the spring slack? "
            "A lock nut or a stiffer spring mends it. Until then leave this knob and level with the others."
        )
    if slipping.suspects:
        names = " or ".join(f"the {name} knob" for name in slipping.suspects)
        text = f"{upper_first(names)} does less than it should; one tilt cannot tell which."
        if slipping.hold:
            text += f" Leave {slipping.hold} alone in the next round, and the round will tell."
        return text
    return None


def bends_sentence(bends: Bends) -> str | None:
    """What the rounds showed, or nothing."""
    if not bends.rounds:
        return None
    rounds = f"{counted(bends.rounds, 'round')}"
    percent = f"{100 * max(0.0, bends.share):.0f} % ± {196 * bends.sd:.0f} %"
    if bends.used and not bends.said_to:
        return (
            f"By {rounds} this plate follows {percent} of a twist of its knobs, so plans take twist out too. In its set-up "
            "it is called stiff."
        )
    if bends.used:
        return f"By {rounds} this plate follows {percent} of a twist of its knobs; plans reckon with it."
    if bends.said_to:
        return f"By {rounds} this plate hardly follows a twist of its knobs ({percent}): no knob takes its twist out."
    return None


def hand_sentence(hand: Hand) -> str:
    """What is known of it, in words."""
    degrees = 360 * hand.sd
    if hand.rounds == 0:
        return f"Nothing is known of your hand yet: a turn is taken to be true within about {degrees:.0f}° (1/32 of a turn)."
    text = f"From {counted(hand.rounds, 'round')} your hand turns true within about {degrees:.0f}°"
    return text + ("." if hand.rounds >= STEADY else ", which is still mostly what hands do.")


def percent(share: float) -> str:
    """Write a probability, never surer than 99 %.

    Examples
    --------
    >>> percent(0.999), percent(0.934), percent(0.002)
    ('99 %', '93 %', '1 %')
    """
    return f"{min(99, max(1, round(100 * share)))} %"


_STUCK = {
    StuckReason.NOISE: (
        "it does not know the chosen plane well enough. Choose all readings, or measure more places."
    ),
    StuckReason.LIMIT: "the springs have no travel left that way. Let other knobs turn too, or mend the springs.",
    StuckReason.STEP: "whole steps of the hand come no closer. Choose a finer step, or let it be.",
}


def outlook_sentence(outlook: Outlook) -> str:
    """Say how sure a plan is, and what to do where it is not."""
    tilt = f"{millimetres(outlook.tilt_now)} ± {millimetres(outlook.now_margin)}"
    if outlook.decision == "measure" and outlook.likely:
        return (
            f"The tilt is {tilt}: very likely worth turning for, but known too poorly for a turn that surely helps. Measure "
            "again, at more places if you can."
        )
    if outlook.stuck is not None:
        return f"The tilt is {tilt}, but this plan turns nothing: {_STUCK[outlook.stuck]}"
    if outlook.decision == "measure" and not outlook.told:
        return f"The tilt of the whole bed is {tilt}: nobody can decide by that whether it is worth turning for. {CANNOT_TELL}"
    if outlook.decision == "measure":
        how = "Read the same places once more: two surveys tell better than one. If they agree, let it be."
        if outlook.side:
            how = (
                f"Measure again first: {outlook.side} × {outlook.side} places tell it well enough, or find out why the "
                "readings scatter."
            )
        return f"The tilt is {tilt}: these readings cannot decide whether it is worth turning for. {how}"
    if outlook.decision == "leave":
        return f"The tilt is {tilt}. Leave it: there is nothing in it worth turning for."
    after = f"{millimetres(outlook.tilt_after)} ± {millimetres(outlook.after_margin)}"
    return (
        f"Tilt across the bed {tilt} now, {after} after. The chance that the next survey is content: "
        f"{percent(outlook.chance)}."
    )


_ONCE = "Each knob once: fewer moves there are not."


def _slack(knobs: tuple[str, ...], share: int) -> str:
    text = " or ".join(f"the {name} knob" for name in knobs)
    return (
        f"{upper_first(text)} seems to have done about {share} % of its turn. Does the screw spin with its knob, or has the "
        "spring gone slack? Hold the screw, turn the knob and watch."
    )


def _across(pair: tuple[str, str], same: bool) -> str:
    how = "opposite ways: turned one after the other they tip the plate without forcing it"
    if same:
        how = "the same way: turned one after the other they lift or lower the plate together"
    return f"{_ONCE} {upper_first(pair[0])} and {pair[1]} lie across from each other and go {how}."


def _together(pair: tuple[str, str]) -> str:
    return f"{_ONCE} {upper_first(pair[0])} and {pair[1]} go together: in this order the springs are forced least on the way."


REMARKS: dict[str, Sentence] = {
    "tramming.round_unexplained": (
        "The bed did not follow the turns, and no single knob explains it. Check that the plate is seated and the carriage has "
        "no play, then measure again before turning."
    ),
    "tramming.round_reversed": (
        "The bed moved the opposite way. Check the printer's set-up: does tightening lower the bed, and were these heights or "
        "gaps?"
    ),
    "tramming.round_slack": _slack,
    "tramming.round_level": "The bed is level: {spread:mm} from highest to lowest.",
    "tramming.round_shape": (
        "The tilt is out. The {left:mm} left are the shape of the plate; no screw takes that out."
    ),
    "tramming.round_unsure": (
        "Whether tilt worth turning for is left, these readings cannot tell. Measure again."
    ),
    "tramming.round_better": "Better: {left} % of the variation is left. One more round.",
    "tramming.round_worse": "Not better: {before:mm} before, {now:mm} now.",
    "tramming.order_none": "Nothing is to be turned.",
    "tramming.order_one": "One knob only.",
    "tramming.order_three": _ONCE + " Three screws never fight each other; the largest turn comes first.",
    "tramming.order_hardly_matters": (
        _ONCE + " In this plan the order hardly matters to the springs; the largest turn comes first."
    ),
    "tramming.order_across": _across,
    "tramming.order_together": _together,
}
"""What is said of results, by their code."""
