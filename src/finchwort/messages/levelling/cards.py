"""What is done at a printer, one instruction at a time: foil, tape, a beam; and what can be done where nothing turns."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from finchwort.core.base.wording import lower_first, millimetres, upper_first
from finchwort.core.levelling.foils import Foil, piece_in_words
from finchwort.core.levelling.gantry import BeamPlan, how_far
from finchwort.core.levelling.residual import Remedy
from finchwort.core.levelling.shims import ShimPlan, Stack
from finchwort.core.levelling.tape import Tape, TapePlan
from finchwort.messages.levelling import hump_sentence, piece_words, remedy_title, tape_plan_sentence
from finchwort.messages.remarks import words

COOL = "Let the bed cool before you lift the plate. Edges of foil and glass cut."
MOTORS = (
    "Motors off before anything is turned or moved by hand; fingers out of the belts before they go on again."
)
HOME = "The plate stands otherwise afterwards: home with a hand on the power switch before anything else."


@dataclass(frozen=True)
class Card:
    """One instruction.

    Attributes
    ----------
    title : str
        What to do, in a few words.
    where : str
        At which pad, screw or place.
    lines : tuple of str
    marks : tuple of (x, y)
        Places on the bed, mm.
    """

    title: str
    where: str = ""
    lines: tuple[str, ...] = ()
    marks: tuple[tuple[float, float], ...] = ()


@dataclass(frozen=True)
class Way:
    """One thing that a person may say they did, as it is recorded.

    Attributes
    ----------
    label : str
    kind : {"shims", "tape", "beam"}
    data : dict
    """

    label: str
    kind: str
    data: dict[str, Any]


@dataclass(frozen=True)
class Deck:
    """All cards of one stand at the printer.

    Attributes
    ----------
    kind : {"knobs", "foil", "beam", "carriage", "tape", "nothing"}
    title : str
        What is ahead, or that nothing is.
    lines : tuple of str
    caution : str
        Before the first card.
    cards : tuple of Card
    after : str
        What is expected then.
    ways : tuple of Way
        What can be recorded at the end.
    """

    kind: str
    title: str
    lines: tuple[str, ...] = ()
    caution: str = ""
    cards: tuple[Card, ...] = ()
    after: str = ""
    ways: tuple[Way, ...] = ()


def foil_deck(plan: ShimPlan, foils: Sequence[Foil]) -> Deck:
    """One card for every pad whose stack changes.

    Parameters
    ----------
    plan : ShimPlan
    foils : sequence of Foil
        In the drawer, by which pieces are named.
    """
    changed = [stack for stack in plan.stacks if sorted(stack.foils) != sorted(stack.pad.stack)]
    if plan.done or not changed:
        return Deck(
            "nothing",
            "Leave the pads",
            (
                f"{millimetres(plan.spread_before)} from highest to lowest; no foil makes it better by more than the "
                "readings can tell.",
            ),
        )
    cards = []
    for item in changed:
        lines = [f"The plate {_moves(item.change)} at this pad."]
        if len(item.foils) > 1:
            lines.insert(0, f"Together {item.thickness:.2f} mm by the calipers.")
        cards.append(Card(_do(item, foils), item.pad.name, tuple(lines), ((item.pad.x, item.pad.y),)))
    alone = [stack.pad.name for stack in plan.stacks if stack not in changed]
    return Deck(
        "foil",
        "Foil under one pad" if len(changed) == 1 else f"Foil under {len(changed)} pads",
        (f"Leave alone: {', '.join(alone)}.",) if alone else (),
        f"{COOL} {HOME}",
        tuple(cards),
        f"Expected: {millimetres(plan.spread_after)} from highest to lowest.",
        (Way("I laid it like this", "shims", {"stacks": {s.pad.name: list(s.foils) for s in plan.stacks}}),),
    )


def _do(stack: Stack, foils: Sequence[Foil]) -> str:
    """What to take away and what to lay, in a few words."""
    old, new = Counter(stack.pad.stack), Counter(stack.foils)
    if not new:
        return "Take all foil away"
    taken, laid = list((old - new).elements()), list((new - old).elements())
    away = f"Take {_pieces(taken, foils)} away" if taken else ""
    if not laid:
        return away
    verb = "Add" if old & new else "Lay"
    text = f"{verb} {_pieces(laid, foils)}"
    return f"{away}, {lower_first(text)}" if away else text


def _pieces(sizes: Sequence[float], foils: Sequence[Foil]) -> str:
    words = " + ".join(piece_in_words(size, foils) for size in sizes)
    return words if words.endswith(")") else f"{words} mm"


def _moves(change: float) -> str:
    if abs(change) < 0.005:
        return "stays as high as it is"
    return f"{'rises' if change > 0 else 'sinks'} {millimetres(abs(change))}"


def beam_deck(plan: BeamPlan, screws: bool) -> Deck | None:
    """A card for either lead screw of a cross beam; nothing when the beam is to be left.

    Parameters
    ----------
    plan : BeamPlan
    screws : bool
        Whether the bed has screws of its own, to be turned afterwards.
    """
    if plan.state not in ("drive", "trial", "both"):
        return None
    first, *others = plan.drives
    lines = [how_far(first)]
    lines += [
        f"Or the {other.side} screw {_way(other.rise)} as much: one of the two, not both."
        for other in others[:1]
    ]
    trial = plan.state == "trial"
    if trial:
        lines.append("Which way is right is learned from it: measure again, whatever comes of it.")
    ways = tuple(
        Way(
            f"{drive.side.capitalize()} screw {_way(drive.rise)} {millimetres(abs(drive.rise))}",
            "beam",
            {"side": drive.side, "rise": drive.rise, "trial": trial},
        )
        for drive in plan.drives
    )
    after = (
        "Then measure again." if not screws else "Then measure again; the bed's own screws come after that."
    )
    return Deck(
        "beam",
        "One trial turn at the beam" if trial else "Drive one end of the beam",
        (f"Left to right {millimetres(plan.rise, signed=True)} ± {millimetres(plan.margin)}.",),
        MOTORS,
        (Card(f"{_Way(first.rise)} {millimetres(abs(first.rise))}", f"{first.side} screw", tuple(lines)),),
        after,
        ways,
    )


def _way(rise: float) -> str:
    return "up" if rise > 0 else "down"


def _Way(rise: float) -> str:  # noqa: N802 - the same word at the beginning of a title
    return _way(rise).capitalize()


def carriage_deck(rise: float, margin: float, tolerance: float) -> Deck | None:
    """How to square a beam that hangs on one lead screw; nothing when the bed says it is square.

    Parameters
    ----------
    rise : float
        Of the bed's heights from left to right over the beam, mm.
    margin : float
        Its plus/minus at 95 %, mm.
    tolerance : float
        A rise within this is left alone, mm.
    """
    if abs(rise) <= max(margin, tolerance):
        return None
    low, high = ("right", "left") if rise > 0 else ("left", "right")
    amount = millimetres(abs(rise))
    cards = (
        Card(
            "Measure both uprights",
            "",
            (
                "From the base up to the beam, left and right, the same way, with calipers.",
                f"The bed says the beam hangs lower on the {low}, by {amount}. If the uprights agree, the bed is tilted and "
                "not the beam: leave the beam.",
            ),
        ),
        Card(
            "Find the free end",
            "",
            (
                "The end without the lead screw. Loosen its carriage until it just slides.",
                f"Is it the {low} one: lift it {amount}. Is it the {high} one: lower it {amount}.",
            ),
        ),
        Card(
            "Tighten, and check",
            "",
            (
                "The wheels turn without play, and the beam runs up and down by hand without sticking.",
                "Both uprights agree by the calipers.",
            ),
        ),
    )
    ways = (
        Way(f"{low.capitalize()} end up", "beam", {"side": low, "rise": abs(rise), "trial": False}),
        Way(f"{high.capitalize()} end down", "beam", {"side": high, "rise": -abs(rise), "trial": False}),
    )
    return Deck(
        "carriage",
        f"The beam hangs lower on the {low}",
        (f"By {amount} ± {millimetres(margin)} over its length, as the bed shows it.",),
        MOTORS,
        cards,
        "Then home, and measure again.",
        ways,
    )


def tape_deck(plan: TapePlan) -> Deck | None:
    """A card for every place that gets tape; nothing when none does."""
    if not plan.places:
        return None
    cards = tuple(
        Card(
            "One layer of tape" if place.layers == 1 else f"{place.layers} layers of tape",
            place.where,
            (
                *_each_piece(place),
                f"There the plate lies {millimetres(place.depth)} low.",
            ),
            ((place.x, place.y),),
        )
        for place in plan.places
    )
    data = {"places": [{"x": place.x, "y": place.y, "layers": place.layers} for place in plan.places]}
    return Deck(
        "tape",
        "Tape in one place" if len(cards) == 1 else f"Tape in {len(cards)} places",
        (tape_plan_sentence(plan), *map(hump_sentence, plan.humps)),
        f"{COOL} {HOME}",
        cards,
        "Then warm up and measure again.",
        (Way("I laid the tape", "tape", data),),
    )


def _each_piece(tape: Tape) -> list[str]:
    """Say each piece of tape; layers that are alike once."""
    words = list(dict.fromkeys(piece_words(piece) for piece in tape.pieces))
    if len(words) == 1:
        return [f"{upper_first(words[0])}."]
    return [
        f"{number}: {word}." for number, word in enumerate((piece_words(piece) for piece in tape.pieces), 1)
    ]


def bare_deck(remedies: Sequence[Remedy], humps: Sequence[str]) -> Deck:
    """What can be done at a bed on which nothing turns and no tape helps."""
    fits = [remedy for remedy in remedies if remedy.fits]
    lines = [*humps, *(f"{remedy_title(fit)}: {words(fit.remark)}" for fit in fits)]
    return Deck("nothing", "Nothing to turn here", tuple(lines))
