"""What is said of what carries a bed."""

from __future__ import annotations

ERRORS = {
    "levelling.all_pads_line_nothing": "All pads lie on one line; nothing under them can take out a tilt.",
    "levelling.both_heights_span_numbers": "Both heights and the span must be numbers.",
    "levelling.cross_beam_hangs_two": "A cross beam hangs on one or two lead screws.",
    "levelling.foil_mm_thick_these": "A foil is 0.005 to 2 mm thick. Are these micrometres?",
    "levelling.height_row_missing_not": "A height of the row is missing or is not a number.",
    "levelling.height_row_too_large": (
        "A height of the row is too large for millimetres. Are these micrometres?"
    ),
    "levelling.lead_screw_travels_mm": "A lead screw travels 0.2 to 50 mm in a turn.",
    "levelling.middle_touch_lower_mm": "A middle a touch lower is 0 to 0.3 mm lower.",
    "levelling.most_thicknesses_foil": "At most {max_foils} thicknesses of foil.",
    "levelling.motor_makes_steps_turn": "A motor makes 1 to 1,000,000 steps in a turn.",
    "levelling.no_beam_hangs_crooked": (
        "No beam hangs that crooked. Were both ends measured from the same base?"
    ),
    "levelling.piece_would_mm_thick": "One piece would be {thickness:g} mm thick; foil is 0.005 to 2 mm.",
    "levelling.pieces_foil": "There are 0 to {max_count} pieces of a foil.",
    "levelling.pieces_measured_together": "1 to 64 pieces are measured together.",
    "levelling.plate_rests_three_pads": "A plate rests on three to {max_pads} pads.",
    "levelling.row_mm_long_more": "The row must be {min_span:g} mm long or more.",
    "levelling.row_three_heights_left": "A row has three heights: left, middle, right.",
    "levelling.sheet_glass_printer_mm": "A sheet of glass for a printer is 0.5 to 12 mm thick.",
    "levelling.sheet_glass_width_depth": "A sheet of glass has a width and a depth.",
    "levelling.span_less_mm_says": "A span of less than {min_span:g} mm says nothing about a beam.",
    "levelling.span_mm_more_lead": (
        "A span is {min_span:g} mm or more, and a lead screw travels 0.2 to 50 mm in a turn."
    ),
    "levelling.span_noise_lead_numbers": "Span, noise and lead must be numbers.",
    "levelling.stack_foils": "A stack has 1 to 20 foils.",
    "levelling.stack_thickness_length_mm": "The stack's thickness is a length in mm.",
    "levelling.tape_mm_thick": "Tape is 0.02 to 0.5 mm thick.",
    "levelling.thickness_foil_listed_twice": "A thickness of foil is listed twice.",
    "levelling.trial_drives_left_right": "A trial drives the left or the right screw, up or down.",
    "levelling.two_lead_screws_carry": "Two lead screws carry the nozzle or the bed, or it is not known.",
    "levelling.two_pads_same_name": "Two pads have the same name or the same place.",
    "levelling.under_cannot_foils_mm": "What lies under {name} cannot be: foils of 0.005 to 2 mm, at most 20.",
    "levelling.without_foil_nothing_put": (
        "Without foil nothing can be put under the pads. Count what is in the drawer."
    ),
}
"""What is said of input that cannot be used, by the code of its error."""
