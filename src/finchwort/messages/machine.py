"""What is said of jobs at the line."""

from __future__ import annotations

from collections.abc import Sequence

from finchwort.core.base.wording import lower_first
from finchwort.core.machine import Compared
from finchwort.messages.remarks import words
from finchwort.messages.templates import Sentence

ERRORS = {
    "machine.clips_leave_no_place": "Clips leave no place of this bed to the probe.",
    "machine.far_tip_trimmed": "Say how far the tip is to be trimmed.",
    "machine.grid_needs_columns_rows": "A grid needs its columns and its rows.",
    "machine.hot_bed_nozzle_become": "Say how hot bed or nozzle are to become.",
    "machine.limit_printer_set_up": (
        "The {what}'s limit in this printer's set-up is {limit:g} °C; {value:g} °C was asked for."
    ),
    "machine.no_job_called": "There is no job called {kind!r}.",
    "machine.offset_set": "Say which Z offset is to be set.",
    "machine.place_needs": "The place needs its {name}.",
    "machine.place_not_number": "A place is not a number.",
    "machine.place_twice": "A place stands there twice.",
    "machine.places_within_mm_probe": (
        "{count} of {count_2} places lie within {tip_room:g} mm of {names}, for the probe or the nozzle beside "
        "it. Leave them out, or change the places to keep off in the set-up."
    ),
    "machine.printer_would_move_tip": (
        "The printer has {before} ({whence}), so that would move the tip by {closer} at once.{differs} Go in "
        "steps of {max_move:g} mm at most."
    ),
    "machine.probe_does_not_reach": "The probe does not reach x {x:g}, y {y:g} mm.",
    "machine.probe_does_not_reach_places": (
        "The probe does not reach {beyond} of {count} places: it reaches x {x0:g} to {x1:g}, y {y0:g} to {y1:g} "
        "mm."
    ),
    "machine.readings_apart_up_four": "Readings 2 to 600 s apart, for up to four hours.",
    "machine.survey_probes_places": "A survey probes 3 to {max_points} places.",
    "machine.test_touches": "A test has {min_touches} to {max_touches} touches.",
    "machine.trim_step_mm_most": (
        "A trim is a step of {max_trim:g} mm at the most: watch the lines, and take another."
    ),
    "machine.up_places_read_turn": "Up to {max_spots} places are read in turn.",
    "machine.watch_minutes_most_heaters": (
        "Watch for {longest_heat:g} minutes at most: heaters go off after that, as this printer's set-up says."
    ),
}
"""What is said of input that cannot be used, by the code of its error."""


REMARKS: dict[str, Sentence] = {
    "machine.other_firmware": "It has another firmware than last time, which may have reset what was stored.",
    "machine.offset_not_written": "No Z offset is written down yet: write down this one if it is right.",
    "machine.other_offset": (
        "It stands {apart:mm} from what is written down: it was changed or reset at the machine. Find out by paper which is "
        "right before you print."
    ),
    "machine.mesh_gone": "The stored mesh is no longer in the printer.",
    "machine.mesh_other_points": "It has a mesh of other points than the stored one.",
    "machine.mesh_differs": "Its mesh differs from the stored one by {apart:mm} (root mean square).",
    "machine.mesh_not_followed": (
        "It does not follow its mesh now: homing or a restart switches that off on many machines. Switch it on after homing."
    ),
    "machine.other_steps": (
        "Those of {axes:and} are others than last time: lengths along it are others too."
    ),
}
"""What is said of results, by their code."""

TOLD_NAMES = {
    "firmware": "Firmware",
    "offset": "Z offset",
    "mesh": "Mesh",
    "compensation": "Compensation",
    "steps": "Steps per mm",
}
"""What each thing is called that a machine says of itself."""


def untold(comparisons: Sequence[Compared]) -> str:
    """Say what a machine does not tell; empty when it tells everything."""
    names = [
        TOLD_NAMES[comparison.name].lower() for comparison in comparisons if comparison.state == "untold"
    ]
    return f"It does not tell: {', '.join(names)}. Look on its own screen." if names else ""


def others(comparisons: Sequence[Compared]) -> list[str]:
    """Say what is not as the book has it, a sentence each.

    Examples
    --------
    >>> from finchwort.core.machine import Book, Told, compare
    >>> others(compare(Told(offset=-1.7), Book(offset=-1.5)))[0][:45]
    'Z offset: it stands 0.20 mm from what is writ'
    """
    return [
        f"{TOLD_NAMES[comparison.name]}: {lower_first(words(comparison.remark))}"
        for comparison in comparisons
        if comparison.state == "other" and comparison.remark is not None
    ]
