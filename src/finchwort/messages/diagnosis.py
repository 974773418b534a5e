"""What is said of cases and settings."""

from __future__ import annotations

from dataclasses import dataclass

from finchwort.core.base.wording import counted, lower_first, millimetres
from finchwort.messages.templates import Sentence

ERRORS = {
    "diagnosis.came_of_it": "Say what was tried, and whether it was better, a little better, or no better.",
    "diagnosis.no_alarm_called": "There is no alarm called {alarm!r}.",
    "diagnosis.no_setup_called": "A print has no setting called {name!r}.",
    "diagnosis.cannot_come_out": "{title} cannot come out as {outcome!r}.",
    "diagnosis.cases_counted": "Cases are counted from 0 to {max_cases:,}.",
    "diagnosis.cause_weight_more_nothing": "A cause's weight must be more than nothing.",
    "diagnosis.corners_round_sharp": "Corners are round or sharp.",
    "diagnosis.diagnosis_needs_two_causes": "A diagnosis needs two causes or more, each named once.",
    "diagnosis.each_repair_needs_probability": "Each repair needs a probability and a cost.",
    "diagnosis.fan_range": "A fan runs at 0 to 100 %.",
    "diagnosis.file_counted_cases_damaged": "This file of counted cases is damaged.",
    "diagnosis.file_names_cause_not": "This file names the cause {strange!r}, which is not known here.",
    "diagnosis.file_names_not_known": "This file names {cause!r} and {sign!r}, which are not known here.",
    "diagnosis.foot_height_lengths_mm": "Foot and height are lengths in mm.",
    "diagnosis.foot_mm_wider_part": "A foot is 0.5 mm or wider, and a part up to 2000 mm.",
    "diagnosis.grams_price_nothing_more": "Grams and price are nothing or more.",
    "diagnosis.leak": "A leak lies between 0 and 1.",
    "diagnosis.likelihood_not_number": "A likelihood is not a number.",
    "diagnosis.likelihood_nothing_more": "A likelihood is nothing or more.",
    "diagnosis.measured_value_missing": "A measured value is missing.",
    "diagnosis.measurement_never_quite_sure": "A measurement is never quite sure.",
    "diagnosis.names_cause_none": "{key} names the cause {strange}, which is none.",
    "diagnosis.names_sign_none": "{key} names the sign {key_2}, which is none.",
    "diagnosis.no_cause_called": "There is no cause called {key!r}.",
    "diagnosis.no_cause_called_2": "There is no cause called {cause!r}.",
    "diagnosis.no_check_called": "There is no check called {key!r}.",
    "diagnosis.no_check_called_2": "There is no check called {check!r}.",
    "diagnosis.no_file_counted_cases": "This is no file of counted cases.",
    "diagnosis.no_sign_called": "There is no sign called {sign!r}.",
    "diagnosis.nothing_known": "Nothing is known of {need!r}.",
    "diagnosis.nothing_known_circumstance": "Nothing is known of the circumstance {strange!r}.",
    "diagnosis.nozzle_range": "A nozzle's hole is 0.1 to 2 mm wide.",
    "diagnosis.often_shows": "How often {key} shows {key_2} lies between 0 and 1.",
    "diagnosis.overlap_range": "Overlap is 0 to 100 %.",
    "diagnosis.place_beside_printable_area": "That place lies beside the printable area.",
    "diagnosis.probabilities_nothing_more_costs": "Probabilities are nothing or more, costs more than nothing.",
    "diagnosis.sign_seen_not_seen": "A sign is seen, not seen, or not looked for.",
    "diagnosis.speed_range": "A speed is 1 to 1000 mm/s.",
    "diagnosis.width_range": "A line is 0.1 to 3 mm wide.",
}
"""What is said of input that cannot be used, by the code of its error."""


def _survey(days: int) -> str:
    return f"The newest survey, {counted(days, 'day')} old" if days else "The newest survey"


def _survey_tilt(days: int, amount: float, taken_out: bool = False) -> str:
    return f"{_survey(days)}: {millimetres(amount)} of tilt from corner to corner{_out(taken_out)}"


def _survey_shape(days: int, amount: float, taken_out: bool = False) -> str:
    text = f"{_survey(days)}: {millimetres(amount)} from highest to lowest once the tilt is out"
    return f"{text}{_out(taken_out)}"


def _out(taken_out: bool) -> str:
    return ", which the mesh takes out" if taken_out else ""


def _place(error: float) -> str:
    way = "lower" if error > 0 else "higher"
    return f"Where the trouble is, the bed lies {millimetres(abs(error))} {way} than in the middle"


def _gap(error: float) -> str:
    way = "more" if error > 0 else "less"
    return f"By the patches the gap is {millimetres(abs(error))} {way} than commanded"


def _washed(prints: int, washed_with: str = "") -> str:
    how = f" (with {washed_with})" if washed_with else ""
    return f"{counted(prints, 'print')} since the last wash{how}"


def _walked(item: str, bad: bool) -> str:
    return f"The walk round: {lower_first(item)}, {'found bad' if bad else 'found good'}"


def _copies(places: int) -> str:
    return f"The Z offset stands in {counted(places, 'place')}"


def _part(across: float, deep: float, height: float) -> str:
    return f"The part stands on {across:g} × {deep:g} mm and is {height:g} mm high"


def _height(set: float, meant: float) -> str:
    return f"The slicer's first layer is {millimetres(set)} high; the set-up says {millimetres(meant)}"


def _mesh(why: str | None) -> str:
    return f"The stored mesh: {lower_first(why).rstrip('.')}" if why else "The stored mesh still holds"


def _offset(why: str | None) -> str:
    return f"The Z offset: {lower_first(why).rstrip('.')}" if why else "Nothing puts the Z offset in doubt"


def _warm_up(state: str) -> str:
    return "The warm-up test: steady" if state == "steady" else "The warm-up test: the bed was still moving"


def _coat(need: bool, coats: int, stale: bool, prints: int | None) -> str:
    if not need:
        return "The table asks for no adhesive here"
    state = "a fresh coat is on"
    if stale:
        state = f"its coat has carried {prints} prints" if coats else "none is noted"
    return f"The table asks for a layer between, and {state}"


@dataclass(frozen=True)
class AlarmWords:
    """What an alarm says: four words, the next ten seconds, and what to look at before the next start."""

    title: str
    now: str
    then: tuple[str, ...]


ALARMS: dict[str, AlarmWords] = {
    "scraping": AlarmWords(
        "Stop the print now",
        "The power switch, if nothing else is quick. Do not pull at head or bed; raise the head if a button does it, and let everything cool.",
        (
            "Tip: rounded or scored? Replace it.",
            "Plate: scratched? Turn it, or replace it.",
            "Probe and its mount: still firm, still where it was?",
            "Z offset: found again with paper, from above. Not trimmed under a print.",
        ),
    ),
    "smell": AlarmWords(
        "Switch it off now",
        "The power switch, then the plug if you can reach it without touching the printer. Smoke or flame: leave the room, and call for help.",
        (
            "Leave it unplugged and cool, and stay with it for half an hour.",
            "Look for brown plugs and terminals, a melted fan, plastic on the heater. Do not touch wires.",
            "Mains side, supply and heater wiring: by someone qualified, under local rules.",
            "Switched on again only when what smelt was found and replaced.",
        ),
    ),
    "halted": AlarmWords(
        "Leave the heaters off",
        "The protection did its job: do not restart the print, and never switch it off. Let everything cool.",
        (
            "Cold and switched off: does the insulating sock sit, and does the fan blow past the block?",
            "Sensor and heater: firmly in the block, cables unhurt? Replaced by someone who knows how.",
            "Then warm it up without printing, and stay beside it while the fan comes on.",
        ),
    ),
    "clicks": AlarmWords(
        "Raise the nozzle first",
        "Stop the print and raise the head by 10 mm or more. A nozzle that is too close looks just like a clog.",
        (
            "Hot, in the air: does plastic come out straight and evenly? Then it was too close.",
            "Z offset: found again with paper, from above.",
            "Only when nothing comes out in the air either is it a clog.",
        ),
    ),
}
"""What is said while an alarm stands, by its key (common practice)."""


REMARKS: dict[str, Sentence] = {
    "diagnosis.survey_tilt": _survey_tilt,
    "diagnosis.survey_shape": _survey_shape,
    "diagnosis.gap": _gap,
    "diagnosis.touches": "Touches lay within {range:micro}",
    "diagnosis.uprights": "The uprights differ by {skew:mm}",
    "diagnosis.mesh": _mesh,
    "diagnosis.offset": _offset,
    "diagnosis.warm_up": _warm_up,
    "diagnosis.temperature": "The {what} is set to {value:.0f} °C; the table says {low:.0f} to {high:.0f} °C",
    "diagnosis.pair_unsuited": "The table says that this surface does not suit the material",
    "diagnosis.pair_suits": "The table says that surface and material suit each other",
    "diagnosis.place": _place,
    "diagnosis.prints_since_wash": _washed,
    "diagnosis.walked": _walked,
    "diagnosis.slipping": "By the rounds so far the knob {knob} slips",
    "diagnosis.copies": _copies,
    "diagnosis.speed": "The first layer is set to {speed:.0f} mm/s",
    "diagnosis.fan": "The part fan is set to {fan:.0f} % on the first layer",
    "diagnosis.height": _height,
    "diagnosis.part": _part,
    "diagnosis.width": "First-layer lines are {width:mm} wide, from a nozzle of {hole:mm}",
    "diagnosis.worn": lambda worn: f"The surface is noted as {'worn' if worn else 'good'}",
    "diagnosis.coat": _coat,
}
"""What is said of results, by their code."""
