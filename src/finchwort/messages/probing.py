"""What is said of measuring."""

from __future__ import annotations

ERRORS = {
    "probing.along_bed_places_run": "Along this bed, {directions}, places run from 0 to {length:.0f} mm.",
    "probing.each_place_needs_readings": "Each place needs {min_readings} readings.",
    "probing.every_place_needs": "Every place needs an x and a y.",
    "probing.every_reading_needs_time": "Every reading needs its time.",
    "probing.figure_summary_missing_not": "A figure of the summary is missing or is not a number.",
    "probing.gap_under_straightedge_mm": "A gap under a straightedge is 0 to {max_thickness:g} mm.",
    "probing.inset_leave_something_bed": "The inset must leave something of the bed.",
    "probing.item_good_bad_skipped": "An item is good, bad or skipped.",
    "probing.leaf_does_not_go": "The leaf that does not go in must be thicker than the one that slides.",
    "probing.line_needs_three_gaps": "A line needs three gaps or more, each with its place.",
    "probing.line_would_beside_plate": "This line would lie beside the plate. Check where it lies.",
    "probing.many_places_not_walked": "So many places are not walked by hand.",
    "probing.mm_not_near_plate": "A Z of {z:g} mm is not near the plate. Read it off the display again.",
    "probing.mm_not_near_plate_read": (
        "A Z of {value:g} mm is not near the plate. Read it off the display again."
    ),
    "probing.no_judgement_called": "There is no judgement called {judgement!r}.",
    "probing.no_test_called": "There is no test called {kind!r}.",
    "probing.nothing_begun_called": "Nothing is begun that is called {doing!r}.",
    "probing.nothing_known_switch_called": "Nothing is known of a switch called {strange!r}.",
    "probing.pattern_columns_rows": "A pattern has 2 to 25 columns and 2 to 25 rows.",
    "probing.place_each_reading": "Say of which place each reading is.",
    "probing.place_gap_missing_not": "A place or a gap is missing or is not a number.",
    "probing.places_along_edge_grow": "The places along the edge must grow from one to the next.",
    "probing.printer_no": "A printer has no {names}.",
    "probing.probe_distance_nozzle_not": "The probe's distance from the nozzle is not a number.",
    "probing.probe_open_triggered_not": "A probe is open or triggered, not {state!r}.",
    "probing.probe_sits_within_mm": "A probe sits within {max_offset:g} mm of its nozzle.",
    "probing.probe_would_reach_no": (
        "This probe would reach no part of the bed. Check its distance from the nozzle."
    ),
    "probing.put_states_switches": "Put in the states of 1 to {max_switches} switches.",
    "probing.put_states_switches_2": "Put in the states of the switches.",
    "probing.reading_missing_not_number": "A reading is missing or is not a number.",
    "probing.reading_place_not_among": "A reading is of a place that is not among them.",
    "probing.reading_too_large_millimetres": "A reading is too large for millimetres. Are these micrometres?",
    "probing.readings_come_plain_list": "Readings come as one plain list.",
    "probing.readings_hand_come": "Readings by hand come from {names}.",
    "probing.readings_least": "{min_readings} readings are the least.",
    "probing.readings_least_here": "{least} readings are the least here; there are {size}.",
    "probing.readings_more_test_takes": "{size:,} readings are more than this test takes ({most:,}).",
    "probing.straightedge": "A straightedge lies {names}.",
    "probing.strip_feels": "Say how the strip feels: {names}.",
    "probing.switch_normally_open_normally": "A switch is normally open or normally closed.",
    "probing.switch_open_triggered_not": "A switch is open or triggered, not {bad!r}.",
    "probing.test_needs_heights": "This test needs heights.",
    "probing.these_figures_do_not": "These figures do not go together. Are they millimetres?",
    "probing.times_go_forward_reading": "The times must go forward from reading to reading.",
    "probing.tip_comes_down_steps": "The tip comes down in steps of 0.1 mm at the most.",
    "probing.touches_least_summary": "{min_touches} touches are the least for a summary.",
    "probing.two_places_read_turn": (
        "Two to {max_spots} places are read in turn, and each reading says of which."
    ),
    "probing.two_surveys_too_few": "The two surveys have too few places in common to be compared.",
    "probing.up_mm_thick_these": "A {what} is up to {max_thickness:g} mm thick. Are these micrometres?",
    "probing.walk_round_printer_no": "The walk round this printer has no {item!r}.",
    "probing.when_each_reading_taken": "Say when each reading was taken.",
    "probing.where_line_length_mm": "Where the line lies is a length in mm.",
}
"""What is said of input that cannot be used, by the code of its error."""
