"""What is said of jobs at the line."""

from __future__ import annotations

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
