"""What is said of printers and beds."""

from __future__ import annotations

ERRORS = {
    "printers.refused_field": "{field}: {message}",
    "printers.all_pads_line_nothing": "All pads lie on one line; nothing under them can take out a tilt.",
    "printers.all_screws_line_such": "All screws lie on one line; such a plate cannot be levelled.",
    "printers.bed_temperatures_lower_first": (
        "Bed temperatures lie between 0 and {hottest_bed:g} °C, the lower one first."
    ),
    "printers.bed_three_four_screws": "A bed has three or four screws here.",
    "printers.bed_without_screws_no": "A bed without screws has no knobs to keep its zero by.",
    "printers.beside_plate_where_nothing": "{name} lies beside the plate, where nothing is in the way.",
    "printers.choose_surfaces_table": "Choose one of the surfaces of the table.",
    "printers.covers_middle_bed_where": (
        "{name} covers the middle of the bed, where the Z offset is set. Check its place."
    ),
    "printers.each_surface_name_own": "Each surface has a name of its own.",
    "printers.every_pad_now": "Say for every pad what lies there now.",
    "printers.line_serial_port_such": (
        "A line is a serial port such as /dev/ttyACM0, or an address such as socket://127.0.0.1:8422."
    ),
    "printers.mm_above_plate": "{name} stands 0 to {tallest:g} mm above the plate.",
    "printers.mm_mm": "The {name} is {side:g} mm; it must lie between {min_side:g} and {max_side:g} mm.",
    "printers.name_material": "Name the material.",
    "printers.not_number": "The {name} is not a number.",
    "printers.nothing_known_material_called": "Nothing is known of a material called {strange!r}.",
    "printers.nothing_known_surface_kind": "Nothing is known of a surface of kind {kind!r}.",
    "printers.origin": "The origin must be one of {names}.",
    "printers.pattern_columns_rows": "A pattern has 2 to 25 columns and 2 to 25 rows.",
    "printers.pitch_mm_no_bed": "A pitch of {pitch:g} mm is no bed screw's; M3 to M6 have 0.5 to 1.0 mm.",
    "printers.place_keep_off_needs": "A place to keep off needs its four sides and its height in mm.",
    "printers.place_keep_off_needs_name": "A place to keep off needs a name.",
    "printers.plate_mm_smaller_printable": (
        "The plate's {name} ({plate:g} mm) is smaller than the printable {name} ({area:g} mm)."
    ),
    "printers.plate_rests_screws_pads": "The plate rests on screws or on pads, not on both.",
    "printers.plate_rests_three_pads": "A plate rests on three pads at the least.",
    "printers.plate_screws_three": "A plate on screws has three to {max_screws} of them.",
    "printers.right_beyond_left_back": (
        "{name}: right lies beyond left and back beyond front, by 1 mm or more."
    ),
    "printers.right_lead_screw_least": (
        "The right lead screw must lie at least {min_beam:g} mm to the right of the left one."
    ),
    "printers.screw_cannot_called_way": "A screw cannot be called {taken!r}: that is a way to plan.",
    "printers.screw_lacks_position_pitch": "The {name} screw lacks a position or a pitch.",
    "printers.screw_outside_any_printer": "The {name} screw lies outside any printer.",
    "printers.screw_turned_steps_per": "A screw is turned in 1 to 64 steps per turn.",
    "printers.two_places_keep_off": "Two places to keep off have the same name.",
    "printers.two_screws_same_name": "Two screws have the same name.",
    "printers.two_screws_same_place": "Two screws are at the same place.",
    "printers.up_nine_pads_each": "Up to nine pads, each with a name of its own.",
    "printers.up_places_keep_off": "Up to {max_places} places to keep off.",
    "printers.without_probe_zero_kept": "Without a probe zero is kept by a Z switch, or by the knobs.",
    "printers.workshop_needs_name": "A workshop needs a name.",
}
"""What is said of input that cannot be used, by the code of its error."""
