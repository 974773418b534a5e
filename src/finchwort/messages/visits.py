"""What is said of visits."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.base.wording import counted
from finchwort.core.visits import After, AfterStep
from finchwort.messages.templates import Sentence

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


_SINCE = {
    "turned": "Knobs were turned since.",
    "knobs": "Knobs were turned since without a plan, and nobody knows how far.",
    "shims": "Foil was laid under the pads since.",
    "foil": "The foil under the pads was changed since without a plan, and nobody knows how far.",
    "tape": "Tape was laid under the plate since.",
    "beam": "The cross beam was driven since.",
    "springs": "Springs, knobs or screws were replaced since.",
    "plate": "Another plate was laid on since.",
    "surface": "Another plate lies on now, by the setup bar.",
    "lifted": "The plate was lifted and laid back since: a crumb beneath it shows as a hill.",
    "pried": "A part was pried off since, which often moves a corner.",
    "nozzle": "The nozzle was changed since, and another one is seldom exactly as long.",
    "probe": "Probe or head were moved since.",
    "firmware": "The firmware was updated since, which may have reset the offset.",
    "offset": "The printer has another Z offset than was written down.",
    "mesh": "The printer has another mesh than was stored.",
    "steps": "The printer has other steps per mm than last time.",
    "sign": "The set-up was given the other sign since.",
    "belts": "A belt was tightened or replaced since: a place may be read a little elsewhere.",
    "moved": "The printer was carried elsewhere since.",
    "crash": "The tip ran into the plate since.",
    "measured": "A newer survey shows another bed.",
    "warmer": "The bed has another temperature now.",
    "months": "That is months ago.",
    "uncompensated": "Paper was felt while the machine followed its mesh, and no mesh is known to hold now.",
}
"""What each event says of anything it puts in doubt."""
_SINCE_OF = {
    ("plate", "offset"): "Another plate was laid on since: it may be thicker or thinner.",
    (
        "firmware",
        "offset",
    ): "The firmware was updated since, which may have reset the value in the printer: read it there.",
    ("firmware", "mesh"): "The firmware was updated since, which may have erased the mesh.",
    (
        "probe",
        "offset",
    ): "Probe or head were moved since: the distance from probe to nozzle is not what it was.",
    (
        "probe",
        "mesh",
    ): "Probe or head were moved since: the mesh was measured elsewhere than the machine thinks now.",
    ("crash", "offset"): "The tip ran into the plate since: tip, plate or probe may stand otherwise.",
    ("turned", "offset"): "Knobs were turned since in a way that did not keep the middle of the bed.",
    ("plate", "touches"): "Another plate was laid on since: the probe may feel it otherwise.",
}
"""And what it says of one thing in particular."""


def since(event: str, thing: str = "") -> str:
    """Say what an event says of a thing that was found out before it."""
    return _SINCE_OF.get((event, thing)) or _SINCE[event]


def _open_case(case: str, days: int) -> str:
    return f"A case, open for {counted(days, 'day')}: {case}" if days else f"A case, opened today: {case}"


REMARKS: dict[str, Sentence] = {
    "visits.since": since,
    "visits.other_surface": "It was found on “{before}”; today “{today}” lies there, and may be thicker or thinner.",
    "visits.other_temperature": "It was found at {then:.0f} °C; today the bed is at {now:.0f} °C.",
    "visits.months_ago": "It was found {months} months ago.",
    "visits.again_measure": "{why} Measure again.",
    "visits.again_judge": "{why} The map shows the bed before.",
    "visits.again_plan": "{why} A plan needs new readings first.",
    "visits.measured": "The readings are newer than the last turn.",
    "visits.measured_doubtful": "The readings are newer than the last turn. Doubtful: {why:lower}",
    "visits.judged": "Judged against the first layer.",
    "visits.judged_doubtful": "Judged against the first layer. Doubtful: {why:lower}",
    "visits.offset_found": "Written down in this visit.",
    "visits.offset_kept": "Nothing happened since that puts it in doubt.",
    "visits.print_judged": "A print was judged in this visit.",
    "visits.print_again": "{why} Print and judge it again.",
    "visits.nothing_changed_since_print": "Nothing was changed since the last print was judged. {doubts}",
    "visits.found_bad": "{bad:count thing} found bad; judgements that stand on it say so.",
    "visits.partly_looked_at": "{looked_at} of {items} looked at.",
    "visits.nothing_measured": "Nothing is measured yet.",
    "visits.nothing_to_judge": "There are no readings to judge yet.",
    "visits.plan_needs_readings": "A plan needs readings first.",
    "visits.moved_measure": "The bed was moved since. Measure again.",
    "visits.moved_judge": "The map shows the bed before it was moved.",
    "visits.turned": "Done. The next survey tells what came of it.",
    "visits.close_now": "Close the visit with its verdict.",
    "visits.close_later": "Close the visit when you are content.",
    "visits.closed": "This visit is closed.",
    "visits.nothing_turns": "Nothing turns on this bed: open it for tape and what else can be done.",
    "visits.only_which_way": "Paper said only which way: level at the bench.",
    "visits.tilt_left": "There is tilt to take out.",
    "visits.cannot_decide": "These readings cannot decide. Measure again first.",
    "visits.no_tilt": "There is no tilt worth turning for.",
    "visits.mesh_old": "The bed was measured or moved since the mesh was stored.",
    "visits.mesh_stored": "A mesh is stored.",
    "visits.no_compensation": "This printer has no compensation.",
    "visits.only_the_mean": "This machine applies only the mean of its points.",
    "visits.no_mesh_here": "No mesh was stored in this visit.",
    "visits.mesh_wanted": "A mesh takes up what the screws cannot.",
    "visits.mesh_later": "A mesh is stored once the bed is level.",
    "visits.no_offset": "No Z offset is written down.",
    "visits.offset_not_looked_at": "The Z offset was not looked at in this visit.",
    "visits.nothing_printed": "Nothing was printed to prove it.",
    "visits.patch_proves": "A printed patch proves bed and offset together.",
    "visits.all_looked_at": "Everything was looked at.",
    "visits.not_walked_round": "Nobody has walked round the machine yet.",
    "visits.not_soaked": "Nobody has watched whether the bed stands still.",
    "visits.stood_still": "The bed stood still.",
    "visits.still_moving": "The bed was still moving.",
    "visits.too_few_to_say": "Too few readings to say.",
    "visits.not_tested": "The probe has not been tested in this visit.",
    "visits.repeats_well": "The probe repeats well.",
    "visits.rough_work": "Usable for rough work.",
    "visits.due_experiment": "Tell what came of the change: {case}",
    "visits.due_after": "Something happened to it: {left:count thing} left to do before it prints.",
    "visits.due_measure": "{why} Measure the bed again.",
    "visits.due_offset": "{why} Find the Z offset again.",
    "visits.due_mesh": "{why} Store a new mesh.",
    "visits.due_case": _open_case,
    "visits.due_coat": "The coat on “{surface}” has carried {prints:count print}. Wash it off and put on a thin new one.",
    "visits.due_wash": "{prints:count print} on “{surface}” since it was washed. Wash it before the next one.",
    "visits.due_level": "Left level {days:count day} ago. By how it has drifted so far it is worth a look again.",
    "visits.due_nozzle": "{hours} h of printing since its nozzle was changed, as far as it was told. Look at the tip: a worn one lays wide, rough lines.",
    "visits.due_visit": "A visit is open for {days:count day}. Go on with it, or close it.",
    "visits.poor_probe": "Poor: find the cause before correcting anything.",
}
"""What is said of results, by their code."""


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
