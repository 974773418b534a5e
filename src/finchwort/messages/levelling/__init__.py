"""What is said of what carries a bed."""

from __future__ import annotations

from finchwort.core.base.wording import millimetres
from finchwort.core.levelling.residual import Remedy
from finchwort.core.levelling.tape import Hump, Piece, Tape, TapePlan
from finchwort.core.surveys import COMPENSATE_SHARE, GOOD_SHARE
from finchwort.messages.templates import Sentence

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


def piece_words(piece: Piece) -> str:
    """Say it."""
    what = "an oval" if piece.oval else "a strip"
    return f"{what} {piece.width:g} × {piece.depth:g} mm around x {piece.x:.0f}, y {piece.y:.0f}"


def tape_sentence(tape: Tape) -> str:
    """Say where tape goes, and what it is for."""
    if tape.at_edge:
        return (
            f"{_layers(tape.layers)} {tape.where}, {piece_words(tape.pieces[0])}, along the edge: there the plate lies "
            f"{millimetres(tape.depth)} below its middle."
        )
    pieces = ", then ".join(piece_words(piece) for piece in tape.pieces)
    return (
        f"{_layers(tape.layers)} {tape.where}, where the plate lies {millimetres(tape.depth)} low: {pieces}."
    )


def hump_sentence(hump: Hump) -> str:
    """Say where something stands out, and that tape is not for it."""
    return (
        f"A hump of {millimetres(hump.height)} {hump.where} (x {hump.x:.0f}, y {hump.y:.0f}): tape under it would raise it. "
        "Lift the plate when it is cold and look below it for a crumb, a burr or a raised edge."
    )


def tape_plan_sentence(plan: TapePlan) -> str:
    """Say what tape can do for a plate."""
    if plan.kind == "none":
        text = f"No place lies low by as much as one layer ({millimetres(plan.thickness)}), as far as the readings can tell."
        return f"{text} What stands out is a hump: tape does not take that away." if plan.humps else text
    what = "glass" if plan.under == "glass" else "plate"
    text = (
        f"Lay the tape on the carrier below the low place, the largest piece first; then put the {what} back."
    )
    if plan.kind == "dome":
        text = f"The middle stands high, so the tape goes under the edges of the {what}: it then lies on them and on the middle."
    if plan.under == "glass":
        text += " Stiff glass bridges a small dip by itself: tape helps where the glass gives when you press on it."
    else:
        text += (
            " It works where the plate, or its sheet, lies on a carrier and follows it; not under one that only hangs on its "
            "screws."
        )
    if plan.tilt > plan.thickness:
        text += f" The tilt of {millimetres(plan.tilt)} is left out here: take it out first where that can be done."
    return text


def _layers(layers: int) -> str:
    return "One layer" if layers == 1 else f"{layers} layers"


def _share(left: float, share: float, first_layer: float) -> str:
    return f"{millimetres(left)} is {100 * share:.0f} % of a {first_layer:.2f} mm first layer"


def _leave(left: float, share: float, first_layer: float, good: bool) -> str:
    text = f"{_share(left, share, first_layer)}; up to {100 * GOOD_SHARE:.0f} % needs nothing."
    return text if good else f"{text} It is more, so a large print will show it."


def _compensation(
    left: float, share: float, first_layer: float, good: bool, mendable: bool, kind: str
) -> str:
    amount = _share(left, share, first_layer)
    if kind == "mean":
        return "This machine applies only the mean of its points: the whole bed moves up or down, tilt and shape stay as they are."
    if kind == "none":
        if not mendable:
            return "This machine has none."
        return f"{amount}; compensation would deal with it, but this machine has none."
    if good:
        return "Not needed, though it does no harm."
    if mendable:
        return f"{amount}; a mesh deals with up to {100 * COMPENSATE_SHARE:.0f} %."
    return f"{amount}; more than a mesh should carry (up to {100 * COMPENSATE_SHARE:.0f} %)."


REMARKS: dict[str, Sentence] = {
    "levelling.probe_again": "{why}",
    "levelling.leave": _leave,
    "levelling.compensation": _compensation,
    "levelling.shims_under_pads": "Foil under the pads bends or tips the plate back.",
    "levelling.shims_under_plate": (
        "Foil or tape between plate and carrier, under the low places of a loose plate."
    ),
    "levelling.glass": "Glass is flat and bridges an uneven carrier. {fault}",
    "levelling.another_plate": (
        "When the plate itself is bent and none of the others will do. Lay a straightedge on the plate and on the bare carrier "
        "first: it tells which of the two it is."
    ),
}
"""What is said of results, by their code."""

_REMEDIES = {
    "probe_again": "Probe again first",
    "leave": "Fine as it is",
    "compensation": "Compensation",
    "shims": "Shims or tape under the plate",
    "glass": "A sheet of glass on top",
    "replace": "Another plate",
}


def remedy_title(remedy: Remedy) -> str:
    """What a way to deal with the shape that is left is called."""
    return "Shims under the pads" if remedy.on_pads else _REMEDIES[remedy.kind]


def consequences(remedy: Remedy) -> list[str]:
    """Say what comes with it."""
    glass = remedy.glass
    if glass is None:
        return []
    return [
        f"Move the Z switch up by the glass's thickness ({glass.thickness:g} mm) before you home.",
        f"A sheet of {glass.width:g} × {glass.depth:g} mm weighs {glass.weight:.0f} g; a bed that moves rings more.",
        f"It takes about {glass.minutes:.0f} min longer to warm up.",
        "Glass edges cut: gloves, and have it cut and its edges ground. Let it cool before you lift it.",
    ]
