"""What is said of prints."""

from __future__ import annotations

from finchwort.core.base.wording import counted, lasting
from finchwort.core.prints import CoatLife, HazardRate, LettingGo, LookKind, PrintOutcome, Share
from finchwort.messages.templates import Sentence

ERRORS = {
    "prints.began_ago": "A print that still runs began within the last {days} days.",
    "prints.ended_between": "It ended between its start and now, which is at most {most} minutes after its start.",
    "prints.how_without_letting_go": "How it let go is told of a print that let go.",
    "prints.looks_most": "A print has at most {most} looks.",
    "prints.place_beside_bed": "That place lies beside the printable area.",
}
"""What is said of input that cannot be used, by the code of its error."""

TITLES = {
    LookKind.LINES: "First lines",
    LookKind.LAYER: "Whole first layer",
    LookKind.FIVE: "After five minutes",
    LookKind.QUARTER: "After ten to fifteen minutes",
    LookKind.LATER: "From time to time",
}
"""What a look is for."""
_AT = {
    LookKind.LINES: "the first lines",
    LookKind.LAYER: "the whole first layer",
    LookKind.FIVE: "the part after five minutes",
    LookKind.QUARTER: "the part after ten to fifteen minutes",
    LookKind.LATER: "the part",
}
GOOD_NOW = {
    LookKind.LINES: "Lines lie flat, about twice as wide as high, and touch each other. None follows the nozzle.",
    LookKind.LAYER: "One closed sheet: no gap, no ridge, every corner down, nothing dragged along.",
    LookKind.FIVE: "The edge lies down all round. Corners flat, nothing stands up where the nozzle passes.",
    LookKind.QUARTER: "Corners still down, walls upright, nothing loose beside the part.",
    LookKind.LATER: "The part stands where it stood. Its foot is down all round, filament comes freely.",
}
"""What good looks like at each look."""
UNATTENDED = (
    "Do not leave a printer alone for long: connectors and heaters have caught fire. "
    "Somebody who hears a smoke alarm stays in reach, and no protection is switched off."
)
SCRAPES = (
    "If the tip scrapes, or anything smells of burning: stop it at once, at the mains switch if nothing else."
)
HOW = {
    LettingGo.NOTHING: "Nothing stuck",
    LettingGo.CORNERS: "Corners lifted",
    LettingGo.LOOSE: "It came loose as a whole",
    LettingGo.SOME: "Small parts or skirt came loose",
}
"""How a part let go."""
OUTCOMES = {
    PrintOutcome.HELD: "Held",
    PrintOutcome.LET_GO: "Let go",
    PrintOutcome.TOO_WELL: "Stuck too well",
    PrintOutcome.OTHER: "Something else",
}
"""What came of a print."""


def named(name: str) -> str:
    """Name a print."""
    return f"“{name}”" if name else "The print"


def due_look(name: str, look: str, late: float) -> str:
    """Say which look is due, and how late it is."""
    said = f"{named(name)}: look at {_AT[LookKind(look)]}."
    return f"{said} {lasting(late)} late." if late >= 1 else said


def due_outcome(name: str, stopped: bool, minutes: float) -> str:
    """Say that nobody told what came of a print."""
    if stopped:
        return f"{named(name)} was stopped. Tell what came of it."
    return f"{named(name)} should have ended {lasting(minutes)} ago. Tell what came of it."


REMARKS: dict[str, Sentence] = {
    "prints.due_look": due_look,
    "prints.due_outcome": due_outcome,
}


def why_so_often(failures: int, hours: float, slender: bool, every: float) -> str:
    """Say from what it was worked out how often a print is looked at."""
    if hours < 1:
        known = "Nothing is on record of how prints here let go"
    elif failures:
        known = f"{counted(failures, 'print')} let go here in {hours:.0f} h of printing after the first quarter of an hour"
    else:
        known = f"None let go here in {hours:.0f} h of printing after the first quarter of an hour"
    part = ", and this part is slender for its foot" if slender else ""
    return f"{known}{part}: a look every {lasting(every)}."


def saves(minutes: float, grams: float | None, cost: float | None) -> str:
    """Say what stopping now saves; nothing where that is next to nothing."""
    if minutes < 1:
        return ""
    rest = f" and {grams:.0f} g" if grams is not None and grams >= 1 else ""
    money = f" ({cost:.2f} of material)" if cost is not None and cost >= 0.01 else ""
    return f"Stopping now saves {lasting(minutes)}{rest}{money}."


def share_words(share: Share) -> str:
    """Say how many held, and how sure that is.

    Examples
    --------
    >>> from finchwort.core.prints import share_of
    >>> share_words(share_of(9, 10)), share_words(share_of(1, 2))
    ('9 of 10 held: between 60 and 98 %', '1 of 2 held, too few to say more')
    """
    if share.few:
        return f"{share.held} of {share.told} held, too few to say more"
    return f"{share.held} of {share.told} held: between {100 * share.low:.0f} and {100 * share.high:.0f} %"


def hazard_words(rate: HazardRate, still: tuple[tuple[float, float], ...]) -> str:
    """Say how prints of a printer let go over time."""
    parts = [
        f"{100 * share:.0f} % past {'a quarter of an hour' if hours < 1 else f'{hours:g} h'}"
        for hours, share in still
    ]
    known = f"Still held: {', '.join(parts)}." if parts else ""
    if rate.failures:
        often = 1 / rate.per_hour
        known += f" Later on about one lets go in {often:.0f} h."
    return known.strip()


def coat_words(surface: str, printer: str, life: CoatLife) -> str:
    """Say how long a coat lasts."""
    prints = f"{'at least ' if life.at_least else ''}{counted(life.prints, 'print')}"
    return f"A coat on “{surface}” ({printer}) lasts you {prints}: {life.let_go} of {life.told} on a coat let go."


def range_words(held: tuple[float, float] | None, table: tuple[float, float] | None) -> str:
    """Say at which bed temperatures prints held here, beside the table's."""
    if held is None:
        return ""
    here = (
        f"Held here at {held[0]:g} °C"
        if held[0] == held[1]
        else f"Held here at {held[0]:g} to {held[1]:g} °C"
    )
    return f"{here}; the table says {table[0]:g} to {table[1]:g} °C." if table else f"{here}."


def lost_words(prints: int, hours: float, grams: float, cost: float, unpriced: int) -> str:
    """Say what prints cost that failed.

    Examples
    --------
    >>> lost_words(3, 4.2, 90.0, 2.7, 1)
    '3 prints failed: 4 h of printing and 90 g, 2.70 of material. Of 1 of them weight or price is not known.'
    >>> lost_words(0, 0.0, 0.0, 0.0, 0)
    'None failed, as far as it was told.'
    """
    if not prints:
        return "None failed, as far as it was told."
    money = f", {cost:.2f} of material" if cost >= 0.005 else ""
    said = f"{counted(prints, 'print')} failed: {lasting(60 * hours) if hours < 2 else f'{hours:.0f} h'} of printing and {grams:.0f} g{money}."
    return f"{said} Of {unpriced} of them weight or price is not known." if unpriced else said
