"""What is said of offset, first layer and test prints."""

from __future__ import annotations

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import counted, duration, micro, millimetres, shift_in_words
from finchwort.core.first_layer import HOVER, MIN_CHANGE, PrintKind, TestPrint
from finchwort.core.first_layer.bead import Bead, Laid
from finchwort.core.first_layer.forecast import Forecast, _percent
from finchwort.core.first_layer.grading import WORDS, Ladder
from finchwort.core.first_layer.offsets import KEPT_IN, SAME_PART, Ledger, PatchOffset
from finchwort.core.first_layer.series import MIN_STEP
from finchwort.messages.templates import Sentence

ERRORS = {
    "first_layer.allowance_length_mm": "An allowance is a length in mm.",
    "first_layer.ask_mm_mm_usual": "Ask for 10 to 1000 mm; 100 mm is usual.",
    "first_layer.bed_no_knobs": "This bed has no knobs.",
    "first_layer.clips_stand_along_front": (
        "Clips stand along the front and the back of this bed: there is no room for the line that fills the "
        "nozzle."
    ),
    "first_layer.correction_length_mm": "A correction is a length in mm.",
    "first_layer.correction_more_mm_mistake": "A correction of more than {max_correction:g} mm is a mistake.",
    "first_layer.disc_needs_room_two": "A disc needs room for two lines.",
    "first_layer.extruder_steps_per_mm": "An extruder has 1 to 10,000 steps per mm.",
    "first_layer.far_knobs_switch_moved": "Say how far knobs or switch were moved.",
    "first_layer.filament_mm_thick_usually": "Filament is 1 to 4 mm thick, usually 1.75 mm.",
    "first_layer.first_layer_looked": "A first layer is looked at {names}.",
    "first_layer.flow_sliced": "Flow is 50 to 150 % of what was sliced.",
    "first_layer.forecast_covers_up_places": "A forecast covers up to {max_places:,} places.",
    "first_layer.forecast_needs_bed": "A forecast needs a bed.",
    "first_layer.gap_length_mm": "A gap is a length in mm.",
    "first_layer.gap_within_mm": "The gap at Z = 0 is within {furthest:g} mm.",
    "first_layer.give_caliper_readings_patch": "Give 1 to {max_readings} caliper readings for patch {i}.",
    "first_layer.head_lifted_mm": "The head is lifted by 0.5 to 100 mm.",
    "first_layer.height_length_mm": "A height is a length in mm.",
    "first_layer.height_missing": "A height is missing.",
    "first_layer.hot": "Say how hot the {what} is to be.",
    "first_layer.hot_end_melts_mm": "A hot end melts 0.5 to 200 mm³/s.",
    "first_layer.judge_patches_four_places": "Judge patches at four places or more to tell tilt from offset.",
    "first_layer.judge_patches_more": "Judge {which} patches or more.",
    "first_layer.judge_three_patches_more": "Judge three patches or more.",
    "first_layer.knobs_bed_not_alike": (
        "The knobs of this bed are not alike, so they cannot all be turned by the same amount."
    ),
    "first_layer.known_every_patch_but": (
        "By what is known every patch but one might touch the plate. Level and measure the bed first, or go "
        "{value} farther."
    ),
    "first_layer.ladder_needs_know_believed": "A ladder needs to know what is believed so far.",
    "first_layer.ladder_patches": "A ladder has 3 to 15 patches.",
    "first_layer.ladder_patches_2": "A ladder has 2 to 15 patches.",
    "first_layer.ladder_place_tells_no": "A ladder at one place tells no tilt.",
    "first_layer.ladder_reaches_mm_most": "A ladder reaches 2 mm at most.",
    "first_layer.layer_mm_high": "A layer is {heights:g} to {heights_2:g} mm high.",
    "first_layer.length_more_nothing": "A length must be more than nothing.",
    "first_layer.length_not_number": "A length is not a number.",
    "first_layer.line_mm_wide": "A line is {widths:g} to {widths_2:g} mm wide.",
    "first_layer.line_wider_layer_high": "A line must be wider than the layer is high.",
    "first_layer.measure_patch_least": "Measure one patch at least.",
    "first_layer.might_touch": (
        "At {name} the tip would go down to {z:.2f} mm and might touch the plate. {because} Start farther."
    ),
    "first_layer.might_touch_higher": (
        "At {name} the tip would go down to {z:.2f} mm and might touch the plate. As far as is known the bed is "
        "up to {above:.2f} mm higher there than in the middle. {because} Level first, or start farther."
    ),
    "first_layer.no_offset_kept": "No offset is kept there.",
    "first_layer.no_test_print_called": "There is no test print called {kind!r}.",
    "first_layer.not_near_plate_read": "That Z is not near the plate. Read it off the display again.",
    "first_layer.nothing_comes_out_nozzle": (
        "At {nozzle_temperature:g} °C nothing comes out of the nozzle. Set it to what the material needs."
    ),
    "first_layer.nothing_known": "Nothing is known of {reason!r}.",
    "first_layer.nozzle_hole_mm_wide": "A nozzle's hole is 0.1 to 2 mm wide.",
    "first_layer.number_missing": "A number is missing.",
    "first_layer.number_missing_none": "A number is missing, or is none.",
    "first_layer.number_missing_patch": "A number is missing at patch {i}.",
    "first_layer.offset_kept": "An offset is kept in {names}.",
    "first_layer.offset_length_mm": "An offset is a length in mm.",
    "first_layer.offset_within_mm": "An offset lies within {max_offset:g} mm.",
    "first_layer.paper_gauge_mm_thick": "Paper or gauge is 0.02 to 1 mm thick.",
    "first_layer.patch_beside_printable_area": "A patch lies beside the printable area.",
    "first_layer.patch_judged": "A patch is judged {names}.",
    "first_layer.patch_layer_commanded_mm": "Patch {i}: a layer is commanded 0.04 to 1.2 mm high.",
    "first_layer.patch_layer_patch_up": (
        "Patch {i}: a one-layer patch is up to {thickest:g} mm thick, and not nothing."
    ),
    "first_layer.patch_needs_room_two": "A patch needs room for two lines.",
    "first_layer.patch_within_mm_offset": "A patch lies within {max_shift:g} mm of the offset it is printed at.",
    "first_layer.patches_line_nothing_about": (
        "The patches lie on one line, so they say nothing about the other direction."
    ),
    "first_layer.place_height_not_number": "A place or height is not a number.",
    "first_layer.place_looks": "A place looks {names}.",
    "first_layer.place_looks_least": "Say how one place looks at least.",
    "first_layer.plate_texture_up_mm": "A plate's texture is up to {max_rough:g} mm deep.",
    "first_layer.plate_up_mm_thick": "A plate is up to {thickest:g} mm thick.",
    "first_layer.print_discs": "Print 3 to 49 discs.",
    "first_layer.print_patches_side": "Print 3 to 7 patches a side.",
    "first_layer.says_nothing_about_offset": (
        "That says nothing about an offset: look at the thickness of the strip and at its feel."
    ),
    "first_layer.speed_mm": "A speed is 1 to 1000 mm/s.",
    "first_layer.strip_above_surface_material": (
        "Say on the strip above which surface and material, or how hot bed and nozzle are to be."
    ),
    "first_layer.strip_feels": "Say how the strip feels: {names}.",
    "first_layer.strip_mm_thick_caliper": "A strip is 0.02 to 1 mm thick. Is the caliper's zero right?",
    "first_layer.turn_not_number": "A turn is not a number.",
    "first_layer.unknown_ground": "{why}",
    "first_layer.up_patches_weighed_together": "Up to {max_patches} patches are judged together.",
    "first_layer.up_patches_weighed_together_2": "Up to {max_measured_patches} patches are judged together.",
    "first_layer.went_more_nothing_not": (
        "What went in is more than nothing, and not more than twice what was asked for."
    ),
    "first_layer.where_each_patch": "Say where each patch lies.",
    "first_layer.where_offset_kept_value": "Say where the offset is kept, and its value.",
    "first_layer.whether_closer_more_negative": "Say whether closer is more negative or more positive.",
    "first_layer.would_come_closer_mm": "{name} would come closer than {tip_room:g} mm to {name_2}.",
    "first_layer.would_outside_printable_area": "{name} would lie outside the printable area.",
    "first_layer.would_printer_limit": (
        "The {what} would be at {value:g} °C; this printer's limit is {most:g} °C."
    ),
}
"""What is said of input that cannot be used, by the code of its error."""


def way_of(closer: float) -> str:
    """Say which way and how far a tip goes, mm; what is too little to be typed in is nothing.

    Examples
    --------
    >>> way_of(0.05), way_of(-0.12), way_of(0.004)
    ('0.05 mm closer', '0.12 mm farther', 'nothing at all')
    """
    if abs(closer) < MIN_CHANGE:
        return "nothing at all"
    return f"{millimetres(abs(closer))} {'closer' if closer > 0 else 'farther'}"


_OTHERWISE = {
    "uneven_beam": "left and right differ, so look at the cross beam. Measure the bed, then drive one side.",
    "pads": (
        "There are no knobs: foil under the pads lifts what is too far. Measure the bed, then lay foil by the plan."
    ),
    "beam": "Left and right are alike, so it is not the cross beam. Measure the bed, then shim or compensate.",
    "mesh": "There are no knobs: a new mesh takes it up. Measure the bed at printing temperature and store one.",
    "none": (
        "There is nothing to turn on this bed: trim the height for the worst place, shim the plate, or print elsewhere on it."
    ),
}


def _where(seen: tuple[tuple[str, str], ...]) -> str:
    return ", ".join(f"{WORDS[step]} at the {place}" for place, step in seen)


def _look_trim(why: str, closer: float, printing: bool) -> str:
    again = " and look again after the next lap" if printing else ", print, and look again"
    return f"{why} Trim {way_of(closer)}{again}."


def _look_turn(seen: tuple[tuple[str, str], ...], knob: str, turns: float, printing: bool) -> str:
    verb = "Tighten" if turns > 0 else "Loosen"
    amount = "an eighth of a turn" if printing else f"about {round(abs(turns) * 8)}/8 of a turn"
    when = " now, and look again after the next lap" if printing else ", then print and look again"
    return f"It is {_where(seen)}. {verb} {knob} {amount}{when}."


def _look_other(seen: tuple[tuple[str, str], ...], has: str) -> str:
    return f"It is {_where(seen)}{':' if has == 'uneven_beam' else '.'} {_OTHERWISE.get(has, _OTHERWISE['none'])}"


def _amount(off: float, margin: float) -> str:
    return f"{millimetres(abs(off))} ± {millimetres(margin)}"


def _offset_right(off: float, margin: float) -> str:
    return f"The offset is right within what is known ({_amount(off, margin)}). Leave it."


def _offset_vague(off: float, margin: float) -> str:
    return f"What is known does not say how far to go ({_amount(off, margin)}). Feel again, or measure a printed patch."


def _offset_off(off: float, margin: float, closer: float, only_paper: bool) -> str:
    stands = "above the plate" if off > 0 else "too low"
    way = "closer" if closer > 0 else "farther"
    text = f"At Z = 0 the tip stands {_amount(off, margin)} {stands}. Go {millimetres(abs(closer))} {way}."
    if only_paper:
        text += " Then print a patch and look: paper gets within a few hundredths, no nearer."
    return text


def _steps_new(steps: float, asked: float, measured: float, new: float, doubtful: bool) -> str:
    went = f"{measured:g} mm went in for {asked:g}"
    if doubtful:
        return (
            f"{went}. So far off it is more likely a drive that slips, a clog or a wrong setting elsewhere. Look for that "
            f"before you set {new:.2f} steps/mm."
        )
    way = "too little" if measured < asked else "too much"
    return f"{went}: {way}. Set {new:.2f} steps/mm instead of {steps:g}."


def _melt(speed: float, flow: float, melts: tuple[float, float], fastest: float, level: str) -> str:
    low, high = melts
    melting = f"this hot end melts {low:g}" if low == high else f"a common hot end melts {low:g} to {high:g}"
    end = {
        "good": f"It keeps up, to about {fastest:.0f} mm/s.",
        "near": f"It may not keep up: stay below {fastest:.0f} mm/s, or print hotter.",
        "beyond": f"It does not keep up: lines turn thin and the drive clicks. Stay below {fastest:.0f} mm/s.",
    }[level]
    return f"{speed:g} mm/s asks for {flow:.1f} mm³/s; {melting}. {end}"


def _lines(
    width: float,
    height: float,
    spacing: float,
    area: float,
    nozzle: float | None,
    usual: tuple[float, float] | None,
) -> str:
    text = f"Lines of {width:g} × {height:g} mm just fill the layer {spacing:.3f} mm apart; their section is {area:.3f} mm²."
    if nozzle is None or usual is None:
        return text
    if height > 0.8 * nozzle:
        return f"{text} A layer above {0.8 * nozzle:.2f} mm is high for this nozzle: it is hardly pressed on."
    wide = f"{usual[0]:.2f} to {usual[1]:.2f} mm"
    if width < nozzle:
        return f"{text} Lines narrower than the hole hold badly; {wide} is usual for a first layer."
    return f"{text} For a first layer {wide} wide is usual with this nozzle."


_BY_PAPER = "Or feel with paper at the corners and in the middle, at Z = {z:g} mm, and say that it moves."
REMARKS: dict[str, Sentence] = {
    "first_layer.feel_first": (
        "Raise the tip, lay the strip under it, and lower it in small steps until the strip just drags. Then type the Z."
    ),
    "first_layer.feel_higher": (
        "The strip will not move: the tip presses on it, and by how much nobody can tell. Go up to Z = {z:mm} and feel again. "
        "Never closer."
    ),
    "first_layer.feel_lower": (
        "The strip slides freely: the gap is larger than the strip, and nobody can tell by how much. Lower the tip in steps of "
        "{step:mm} or less, feeling each time, until it just drags. Then type that Z."
    ),
    "first_layer.offset_right": _offset_right,
    "first_layer.offset_vague": _offset_vague,
    "first_layer.offset_off": _offset_off,
    "first_layer.steps_right": "{steps:g} steps/mm are right within what a rule can tell. Leave them.",
    "first_layer.steps_new": _steps_new,
    "first_layer.melt": _melt,
    "first_layer.lines": _lines,
    "first_layer.look_good": "It looks good where you looked. Leave everything as it is.",
    "first_layer.look_same_everywhere": (
        "It looks the same everywhere, so it is the height of the tip, not a corner."
    ),
    "first_layer.look_mesh": (
        "A mesh is in the machine: turning a knob now would spoil it, so leave the knobs."
    ),
    "first_layer.look_no_corner": "No single corner is behind it.",
    "first_layer.look_trim": _look_trim,
    "first_layer.look_turn": _look_turn,
    "first_layer.look_other": _look_other,
    "first_layer.measure_again": "{why} Measure the bed again first.",
    "first_layer.set_offset_first": "{why} Set the Z offset by paper first, and write it down.",
    "first_layer.no_tip_height": "Nobody wrote down where the tip stands at Z = 0.",
    "first_layer.or_by_paper": "{why} " + _BY_PAPER,
    "first_layer.no_survey": (
        "Nothing tells where the bed is: there is no survey of it, and nobody wrote down that paper moves under the tip. "
        "Measure the bed first."
    ),
    "first_layer.left_open": (
        "At some places of the newest survey paper said only which way, so nobody knows how high the bed is there."
    ),
    "first_layer.middle_unseen": "The middle was not measured, so {more:mm} more are kept clear.",
    "first_layer.measured_otherwise_warm": (
        "It was measured at {then:g} °C and is printed on at {now:g} °C, so {more:mm} more are kept clear."
    ),
    "first_layer.measured_long_ago": "It was measured {months} months ago, so {more:mm} more are kept clear.",
    "first_layer.offset_set_since": (
        "The Z offset was set since paper was felt, and nobody knows how much closer that is."
    ),
    "first_layer.brought_closer": "The tip was brought {closer:mm} closer since.",
    "first_layer.paper_moved": "Paper moved at Z = {z:g} mm at the corners and in the middle, as you wrote down.",
    "first_layer.turned_since": (
        "Knobs were turned since the bed was measured: it may be up to {rise:mm} higher somewhere."
    ),
    "first_layer.more_kept_clear": "{why} So {more:mm} more are kept clear.",
    "first_layer.stops_high": "{why} So it stops high, at {z:mm}: lower it slowly.",
    "first_layer.below_zero": (
        "It goes down to Z {lowest:signed_mm}: by what was judged so far the tip stands {zero:mm} above the plate at Z = 0."
    ),
}
"""What is said of results, by their code."""

PRINT_TITLES = {
    PrintKind.PATCHES: "Corner and centre patches",
    PrintKind.LADDER: "Ladder of patches",
    PrintKind.DISCS: "Discs over the bed",
    PrintKind.MESH_WALK: "Mesh at work, without plastic",
    PrintKind.PAPER_WALK: "Paper at every screw, without plastic",
}


def purpose_of(made: TestPrint) -> str:
    """Say in a sentence what a test print does."""
    count = len(made.spots)
    about = f"about {duration(made.seconds)} of moving after heating"
    if made.kind == PrintKind.PATCHES:
        height = millimetres(made.setting.bead.height)
        return f"Prints {count} squares of one layer, {height} high, to be measured with calipers when cold; {about}."
    if made.kind == PrintKind.LADDER:
        low, high = made.spots[-1].shift, made.spots[0].shift
        return (
            f"Prints {count} squares of one layer in the middle, from {shift_in_words(high)} to {shift_in_words(low)}, "
            f"number 1 at the front left, row by row; {about}."
        )
    if made.kind == PrintKind.DISCS:
        return f"Prints {count} discs of one layer over the whole bed, at five heights in turn; {about}."
    if made.kind == PrintKind.MESH_WALK:
        return (
            f"Takes the tip to and fro {millimetres(HOVER)} above the bed: with the mesh working, the Z axis is seen "
            f"to turn a little all the time; {about}."
        )
    low, high = min(spot.z for spot in made.spots), max(spot.z for spot in made.spots)
    at = f"at Z {millimetres(low)}" + (f" to {millimetres(high)}" if high > low else "")
    return (
        f"Stops the tip {at} at {count} places, one after the other, and waits there for a person with paper. "
        "Where the strip is loose, lower the tip in the printer's menu until it just drags."
    )


def ledger_sentence(ledger: Ledger) -> str:
    """What the parts add up to."""
    kept = [(name, value) for name, value in ledger.parts.items() if abs(value) > 1e-9]
    if not kept:
        return "No offset is written down yet."
    if len(kept) == 1:
        return f"The offset is {millimetres(ledger.total, signed=True)}, kept in {KEPT_IN[kept[0][0]]}."
    text = " and ".join(f"{millimetres(value, signed=True)} in {KEPT_IN[name]}" for name, value in kept)
    return f"{text} add up to {millimetres(ledger.total, signed=True)}."


def doubled_sentence(ledger: Ledger) -> str | None:
    """A sentence when the offset stands in several places at once."""
    kept = [(name, value) for name, value in ledger.parts.items() if abs(value) > 1e-9]
    for i, (name, value) in enumerate(kept):
        for other, again in kept[i + 1 :]:
            if abs(value - again) < SAME_PART:
                return (
                    f"{millimetres(value, signed=True)} stands in {KEPT_IN[name]} and in {KEPT_IN[other]}: "
                    "very likely one value that counts twice. Keep it in one place and set the other to zero."
                )
    return None


BAND_WORDS = {
    "scrapes": "the tip touches the plate",
    "crowded": "see-through, ridges beside it",
    "close": "spread wide, ridges pushed up",
    "good": "flattened, lines joined to one sheet",
    "far": "rounded, gaps between the lines",
    "loose": "a round thread that lets go",
}
"""What each look of a first layer is called."""


def bead_words(laid: Laid) -> str:
    """What people call it."""
    return BAND_WORDS[laid.band]


def gap_sentence(bead: Bead, gap: float) -> str:
    """Say what a gap makes of the bead."""
    laid = bead.at_gap(gap)
    if laid.band == "scrapes":
        return "The tip touches the plate: nothing can come out, and both are spoiled."
    joined = (
        f"lines part by {millimetres(laid.separation)}"
        if laid.separation > 0.0005
        else f"lines overlap by {millimetres(-laid.separation)}"
        if laid.separation < -0.0005
        else "lines just touch"
    )
    foot = (
        f"touches the plate over {millimetres(laid.contact_width)}"
        if laid.contact_width > 0.005
        else "hardly touches the plate"
    )
    return f"In a gap of {millimetres(gap)} the bead is {millimetres(laid.width)} wide and {foot}; {joined}. It looks like this: {bead_words(laid)}."


def ladder_sentence(ladder: Ladder) -> str:
    """What to do."""
    if ladder.one_sided == "closer":
        return "All patches are too far: the best is closer than the closest of them. Print the next ladder closer."
    if ladder.one_sided == "farther":
        return (
            "All patches are too close: the best is farther than the farthest. Print the next ladder farther."
        )
    way = "closer" if ladder.best < 0 else "farther"
    margin = (ladder.high - ladder.low) / 2
    if ladder.done and abs(ladder.best) < MIN_STEP:
        return f"The offset is right, within ± {micro(margin)}. Store it."
    text = f"Go {micro(abs(ladder.best))} {way}, ± {micro(margin)}."
    if ladder.done:
        return f"{text} That is as fine as an eye can tell: store it."
    return f"{text} A finer ladder around it tells it better."


def forecast_sentence(forecast: Forecast) -> str:
    """What it comes to."""
    if forecast.touches:
        return (
            f"The tip would touch the plate at the highest place. Go at least {millimetres(forecast.closest)} farther "
            "before anything is printed."
        )
    if forecast.best_share <= forecast.good + 0.005 or abs(forecast.best) < 0.005:
        return "No other height of the tip makes more of the bed good."
    way = "farther" if forecast.best > 0 else "closer"
    return (
        f"{millimetres(abs(forecast.best))} {way} would make {_percent(forecast.best_share)} of the bed good."
    )


def bed_sentences(ladder: Ladder, screws: bool, compensation: str) -> tuple[str, ...]:
    """Say what a judged bed comes to: tilt, bow and offset, each with its remedy.

    Parameters
    ----------
    ladder : Ladder
        From `judge_bed`.
    screws : bool
        Whether the bed has screws to turn.
    compensation : {"none", "mean", "mesh"}

    Raises
    ------
    ChoiceError
    """
    if ladder.tilt is None or ladder.tilt_low is None or ladder.tilt_high is None:
        raise ChoiceError("first_layer.ladder_place_tells_no")
    margin = micro((ladder.tilt_high - ladder.tilt_low) / 2)
    sentences = []
    if ladder.tilt_shows:
        remedy = (
            "Turn the knobs first, then print the bed again; no offset takes a tilt out."
            if screws
            else "It is taken out by shims, by driving the cross beam, or by a mesh; no offset does it."
        )
        if compensation == "mesh":
            remedy += " With its mesh working this should not be seen: print the walk that shows the mesh."
        if compensation == "mean":
            remedy += " This printer's compensation moves everything up or down and leaves the tilt."
        sentences.append(f"From corner to corner the bed tilts by {micro(ladder.tilt)} ± {margin}. {remedy}")
    else:
        sentences.append(f"No tilt shows beyond what the eye can tell (± {margin} from corner to corner).")
    if ladder.bow is not None and ladder.bow_shows:
        way = "higher" if ladder.bow > 0 else "lower"
        more = {
            "mesh": "Its mesh does not take that out: measure it again at printing temperature.",
            "mean": "Compensation by the mean cannot take that out: a shim, a glass plate or another plate can.",
            "none": "Screws cannot take that out: compensation, shims or another plate can.",
        }[compensation]
        sentences.append(
            f"The middle is {micro(abs(ladder.bow))} ± {micro(ladder.bow_margin or 0.0)} {way} than the corners. {more}"
        )
    sentences.append(ladder_sentence(ladder))
    return tuple(sentences)


def patches_sentence(patch_offset: PatchOffset) -> str:
    """Say what measured patches ask of the offset."""
    amount = f"{millimetres(abs(patch_offset.closer))} ± {micro(patch_offset.margin)}"
    if patch_offset.enough:
        text = f"The layer is right within what calipers tell ({amount}). Leave the offset."
    else:
        text = f"Go {amount} {'closer' if patch_offset.closer > 0 else 'farther'}."
    if patch_offset.ridged:
        text += (
            " The layer is squeezed, and the caliper stands on ridges: the true gap is smaller than it reads. Never go closer "
            "by this; go farther a little more than it says, and print again."
            if patch_offset.closer < 0
            else " The readings of one patch differ much, as they do on ridges of a squeezed layer: then the true gap is smaller "
            "than the caliper reads. Look for furrows before you go closer."
        )
    if patch_offset.beyond:
        text += (
            " Where lines do not touch, the caliper reads the bead and not the gap: the true error is larger. "
            "Correct by this much, and print again."
        )
    if patch_offset.tilt is not None and patch_offset.tilted:
        text += (
            f" From corner to corner the patches differ by {millimetres(patch_offset.tilt)}: that part is tilt, "
            "and no offset takes it out."
        )
    if patch_offset.outliers:
        n = len(patch_offset.outliers)
        text += f" {counted(n, 'reading')} that stood out {'were' if n > 1 else 'was'} left out."
    return text
