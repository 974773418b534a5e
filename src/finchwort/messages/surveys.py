"""What is said of surveys."""

from __future__ import annotations

ERRORS = {
    "surveys.all_readings_line_cannot": (
        "All readings lie on one line, so they cannot show the tilt across it. Measure a place off that line."
    ),
    "surveys.choose_three_different_readings": "Choose three different readings of this survey.",
    "surveys.coordinate_missing_not_number": "A coordinate is missing or is not a number.",
    "surveys.coordinate_mm_outside_any": "A coordinate of {worst:g} mm lies outside any printer.",
    "surveys.every_place_needs_finite": "Every place needs a finite height.",
    "surveys.every_reading_needs_height": "Every reading needs an x, a y and a height.",
    "surveys.file_arrived_damaged_choose": "The file arrived damaged. Choose it again.",
    "surveys.first_layer_mm_high": (
        "A first layer is {min_layer:g} to {max_layer:g} mm high, not {first_layer:g} mm."
    ),
    "surveys.height_missing_not_number": "A height is missing or is not a number.",
    "surveys.height_mm_more_any": (
        "A height of {worst:g} mm is more than any bed shows. Are these micrometres?"
    ),
    "surveys.no_setting_machine_found": "No setting of a machine was found in this text.",
    "surveys.place_mm_more_reading": "The place x {x:g}, y {y:g} mm has more than one reading.",
    "surveys.plane": "A plane is one of {names}.",
    "surveys.plane_through_screws_needs": "A plane through the screws needs three screws or more.",
    "surveys.reading_cannot_show_tilt": (
        "{n} reading{which} cannot show a tilt: three places are the least, not on one line."
    ),
    "surveys.readings_come_three_plain": "Readings come as three plain lists: x, y and height.",
    "surveys.readings_more_survey_holds": "{n:,} readings are more than one survey holds ({max_readings:,}).",
    "surveys.readings_too_few_tell": "The readings are too few to tell the screws apart.",
    "surveys.reference_least_squares_minimum": "The reference must be least_squares or minimum_zone.",
    "surveys.repeatability_mm": "A repeatability lies between 0 and 1 mm.",
    "surveys.repeatability_two_touches_more": "A repeatability stands on two touches or more.",
    "surveys.send_readings_points_text": (
        "Send the readings as points, as text, as a file or as read by hand, one of them."
    ),
    "surveys.table_heights_rows_values": "The table of heights must have {size} rows of {size_2} values.",
    "surveys.these_readings_line_carry": "These readings lie on one line, and so they carry no plane.",
    "surveys.these_surveys_two_printers": "These are surveys of two printers.",
}
"""What is said of input that cannot be used, by the code of its error."""
