"""What is said of files."""

from __future__ import annotations

ERRORS = {
    "formats.bare_grid_needs_bounds": "A bare grid needs its bounds: the X and Y of its outer readings.",
    "formats.begins_like_json_but": "This begins like JSON but is not: something is wrong{where}.",
    "formats.bounds_grid_run_smaller": "The bounds of a grid run from a smaller to a larger number.",
    "formats.every_reading_needs_height": "Every reading needs an x, a y and a height.",
    "formats.give_three_heights_left": (
        "Give three heights, left, middle, right, for instance -0.12 0.01 0.15."
    ),
    "formats.grid_needs_least_two": (
        "A grid needs at least two lines of two numbers; for single points give x, y and height on each line."
    ),
    "formats.json_holds_no_height": "This JSON holds no x, y and height, and no matrix of heights.",
    "formats.json_holds_no_list": "This JSON holds no list of readings.",
    "formats.json_holds_no_reading": "This JSON holds no reading.",
    "formats.line_within_grid_could": (
        "A line within this grid could not be read, so the places of the others are not certain. Mend it."
    ),
    "formats.lists_height_different_lengths": "The lists of x, y and height have different lengths.",
    "formats.more_mb_text": "This is more than {max_bytes} MB of text.",
    "formats.no_line_height": "No line has an x, a y and a height.",
    "formats.no_mesh_printer_holds": (
        "There is no mesh in this printer that holds, so none can be seen at work."
    ),
    "formats.no_numbers_text": "There are no numbers in this text.",
    "formats.not": "{value!r} is not one of {names}.",
    "formats.picture_carries_no_readings": (
        "This picture carries no readings. Pictures saved by Finchwort do."
    ),
    "formats.picture_cut_off": "This picture is cut off.",
    "formats.picture_nested_deeper_any": "This picture is nested deeper than any that Finchwort saves.",
    "formats.readings_more_survey_holds": (
        "{columns} × {rows} readings are more than one survey holds ({max_readings:,})."
    ),
    "formats.readings_more_survey_holds_2": (
        "{size:,} readings are more than one survey holds ({max_readings:,})."
    ),
    "formats.readings_more_survey_holds_3": (
        "{count:,} readings are more than one survey holds ({max_readings:,})."
    ),
    "formats.readings_more_survey_holds_4": (
        "{points:,} readings are more than one survey holds ({max_readings:,})."
    ),
    "formats.readings_picture_damaged": "The readings in this picture are damaged.",
    "formats.readings_picture_damaged_no": "The readings in this picture are damaged: they are no text.",
    "formats.sdf_file_cannot_read": "This SDF file cannot be read: {error}.",
    "formats.sdf_file_cannot_read_damaged": "This SDF file cannot be read: it is damaged.",
    "formats.sdf_file_does_not": "This SDF file does not say how far apart its points are.",
    "formats.sdf_file_holds_even": (
        "An SDF file holds an even, full grid only; these readings are none. Take CSV or JSON."
    ),
    "formats.sdf_file_holds_profile": (
        "This SDF file holds a profile; a survey needs two rows and two columns."
    ),
    "formats.swapping_sides_points_needs": "Swapping the sides of points needs the bed they lie on.",
    "formats.these_column_row_numbers": (
        "These column and row numbers make no full grid: one is missing or stands there twice."
    ),
    "formats.these_more_readings": "These are more than {max_readings:,} readings.",
    "formats.three_bare_numbers_row": (
        "Three bare numbers are one row: left, middle, right. They tell how a cross beam hangs, not how the bed "
        "lies; put them in where the cross beam is measured."
    ),
    "formats.values_do_not_make": "{size} values do not make full rows of {columns}.",
    "formats.values_list_many_make": (
        "{size} values in one list: say how many make a row, or give x and y with each of them."
    ),
}
"""What is said of input that cannot be used, by the code of its error."""
