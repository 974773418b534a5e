"""What is said of visits."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.visits import After, AfterStep

ERRORS = {
    "visits.changed": "Say what was changed: {names}.",
    "visits.done_when_recorded": "That is done when it is recorded.",
    "visits.limits_need_visits_more": "Limits need {min_values} visits or more.",
    "visits.nothing_known_surface_kind": "Nothing is known of a surface of kind {values!r}.",
    "visits.page_logbook_does_not": "That page of the logbook does not exist.",
    "visits.the_lies_between_and": "The {what} lies between {low:g} and {high:g} °C.",
    "visits.value_missing_not_number": "A value is missing or is not a number.",
    "visits.visit_cannot_come_before": "A visit cannot come before the one it follows.",
    "visits.visit_made": "A visit is made of {names}.",
}
"""What is said of input that cannot be used, by the code of its error."""
HAND_ON_SWITCH = "Keep your hand on the power switch until it has homed once."
CLOSER = "It must not be lower than before: a tip that comes down first meets the plate."


@dataclass(frozen=True)
class StepWords:
    """What is said of a thing to do after something happened."""

    title: str
    how: str
    caution: str


def words_of(after: After, step: AfterStep) -> StepWords:
    """Say what to do at a step, at this printer and after what happened there.

    Examples
    --------
    >>> from finchwort.core.visits import Fit, Happened, afterwards
    >>> after = afterwards([Happened("plate", number=1)], {}, Fit(zero="switch"))
    >>> words_of(after, after.steps[0]).title
    'Plate seated'
    """
    name, events, fit = step.name, after.events, after.fit
    title, how, caution = _WORDS[name]
    if name == "switch" and fit.zero != "switch":
        title = "Probe set for this plate"
        how = (
            "Motors off. This probe may look through the plate: set it lower against the tip by at least what the plate is "
            "thicker, and see it trigger above this plate."
        )
    if name == "offset" and fit.zero in ("switch", "knobs"):
        title = "Height in the middle"
        how = "Bed level, then paper in the middle: " + (
            "move the Z switch" if fit.zero == "switch" else "turn all knobs alike"
        )
        how += " until it just drags, and write it down."
    if name == "seat" and "plate" not in events and "lifted" not in events:
        how = "Cool. Lift the plate, look beneath it for crumbs and damage, lay it back against its stops, press on each corner."
    if name == "level" and "pried" in events and len(events) == 1:
        how = "Feel or probe the corners once: prying often moves one."
    return StepWords(title, how, caution)


_WORDS = {
    "cold": (
        "Heaters off, motors off",
        "Stop the print. Let it cool before you touch anything.",
        "Tip and bed stay hot enough to burn for a quarter of an hour.",
    ),
    "tip": (
        "Look at tip and plate",
        "Brass that is rounded or flattened no longer lays a line: replace the tip. A scratched place on the plate holds nothing: "
        "turn the plate, or replace it.",
        "",
    ),
    "tight": (
        "Nozzle tight",
        "Hot, a last gentle eighth of a turn with the block held by a second spanner; nothing oozes at the thread.",
        "The nozzle is at 200 °C or more: tools, not fingers.",
    ),
    "sock": (
        "Insulating sock back on",
        "Without it the part fan cools the block, and the printer halts as soon as the fan starts.",
        "Never switch the protection off instead.",
    ),
    "mount": (
        "Probe firm",
        "Cool. Push it sideways with a finger; look at its screws and its cable.",
        "",
    ),
    "feet": (
        "It stands firm",
        "On all its feet, on something that does not shake; no cable pulls at head or bed.",
        "",
    ),
    "seat": (
        "Plate seated",
        "Wipe both sides and the carrier, lay it against its stops, press on each corner: it rocks nowhere.",
        "Let it cool first; hold glass with both hands.",
    ),
    "switch": (
        "Z switch set for this plate",
        "Motors off. A thicker plate needs the Z switch higher by as much, before the first homing.",
        CLOSER,
    ),
    "clips": (
        "Clips and magnets",
        "They hold the plate all round, and none stands where tip or probe will go.",
        "",
    ),
    "values": (
        "Read what stands in the printer",
        "Connect: offset, mesh and steps are compared with the book.",
        "",
    ),
    "home": (
        "Home, hand on the power switch",
        "Press the Z switch or the probe by hand once and see that it reports; then home.",
        HAND_ON_SWITCH,
    ),
    "trust": ("Test the probe", "Ten touches at one place.", HAND_ON_SWITCH),
    "level": ("Level", "Measure, turn what the plan says, measure again.", ""),
    "offset": (
        "Z offset",
        "Paper in the middle, from above; then write down what stands in the machine.",
        "",
    ),
    "mesh": (
        "Mesh",
        "Survey at printing temperature and store a new mesh; the old one is of another bed.",
        "",
    ),
    "print": (
        "Test print",
        "Patches over the bed, watched from the first line on.",
        "Stay with it, and stop it if it scrapes.",
    ),
}

TITLES = {name: words[0] for name, words in _WORDS.items()}
"""What each step is called in the logbook."""
