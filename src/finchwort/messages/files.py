"""What is said of files of prints."""

from __future__ import annotations

from finchwort.core.base.wording import counted, millimetres
from finchwort.core.diagnosis import NEEDS
from finchwort.core.files import Foot, Place, Placement, Preflight, PrintForecast, Weight
from finchwort.core.visits import Standing
from finchwort.messages.remarks import words
from finchwort.messages.templates import Sentence

ERRORS = {
    "files.beyond": "Line {line} leads further than any machine reaches, so this file is not read. Is a dot missing there?",
    "files.bend_fast": (
        "At line {line} Z would have to follow the bed at {speed:.1f} mm/s, and {most:.1f} is what screws bear. No copy was made: slower ways, or a flatter bed."
    ),
    "files.bend_refused": "No bent copy: {why:lower}",
    "files.bend_touches": (
        "At line {line} the tip would come to {gap:mm} over the plate, which is too near. No copy was made."
    ),
    "files.binary": "This file is binary. Take the G-code as text: the slicer has a setting for it.",
    "files.change_closer_old": "The readings may not show this bed any more, so no copy goes closer by them. Measure again first.",
    "files.change_closer_touches": "So close only {gap:mm} would be left at the highest place. No copy was made.",
    "files.change_closer_unmeasured": "This bed was not measured, so nobody knows whether the tip may go closer. Measure it first.",
    "files.change_fan": "The fan goes from 0 to 100 %.",
    "files.change_heat": "Choose between {least:.0f} and {most:.0f} °C: this printer goes no further.",
    "files.change_melts": "That fast {rate:.0f} mm³/s are to be melted, and a common hot end does {most:.0f} at most.",
    "files.change_no_place": "The file does not say this where it could be changed. Change it in the slicer.",
    "files.change_not_said": "The file does not say this itself, so it cannot be changed in it. Change it in the slicer.",
    "files.change_nothing": "That is what the file has already.",
    "files.change_number": "Say what is to be changed, and to what.",
    "files.change_offset": "One step of trimming is 0.005 to {most:mm}. More than one step at a time hides what it did.",
    "files.change_offset_lost": "Line {line} sets the height again, so a trim before it would be lost. Trim at the printer.",
    "files.change_offset_sloped": "Line {line} moves in steps or rises, so a trim cannot be put before it. Trim at the printer.",
    "files.change_offset_twice": "The file moves the Z offset already; two places that add up are one too many. Trim where the other one stands.",
    "files.change_speed": "Choose between {least:.0f} and {most:.0f} mm/s.",
    "files.copy_bare_arc": "Line {line} is an arc among lines without a command, which cannot be told apart in a copy.",
    "files.copy_crowded": "Line {line} holds several commands, a remark between its words, or a power of ten, and cannot be changed safely.",
    "files.copy_numbered": (
        "The lines of this file are numbered (line {line}), so none can be added. Save it without line numbers."
    ),
    "files.copy_other": "This is not the file that was looked at: its length is another. Drop the same one, or look at this one first.",
    "files.copy_returns": "The lines of this file end in a way that cannot be kept in a copy. Save it once more from the slicer.",
    "files.copy_zero_moved": "Line {line} sets the height again while the path follows the bed. It cannot be bent.",
    "files.damaged": "This archive is damaged or cut off. Pack it again, or take the file as it is.",
    "files.empty": "This file is empty.",
    "files.endless_line": "Line {line} has no end: this is no G-code.",
    "files.fade_range": "The bed has to be followed up to Z {least:.1f} at least, or layers get too thin on the way, and to 1000 at most.",
    "files.follows_already": (
        "The first layers of this file rise and fall with a bed already, so they say nothing about another one. Take the file as it was sliced."
    ),
    "files.larger_than_bed": (
        "The print is {width:.0f} × {depth:.0f} mm, which is more than the printable area: there is no place for it."
    ),
    "files.layer_too_fine": "The first layers have more than {most:,} lines, which is more than is read.",
    "files.move_clip": "There line {line} would run over {name}, or closer than 2 mm to it. No copy was made.",
    "files.move_far": "No print is moved by more than {most:.0f} mm.",
    "files.move_home": "Line {line} goes home in the middle of the print, so it cannot be moved in the file. Move it in the slicer.",
    "files.move_no_bed": "Say which bed it is for: the print has to stay on it.",
    "files.move_nothing": "There is nothing in this file to move.",
    "files.move_nowhere": "Say how far it is to be moved, or turned.",
    "files.move_outside": "There line {line} would leave the printable area. No copy was made.",
    "files.move_parks": (
        "Line {line} parks the head beside the print while it is made, so it cannot be moved in the file. Move it in the slicer."
    ),
    "files.move_part_joined": "Line {line} lays plastic from one part to another, so this part cannot be moved alone in the file. Move it in the slicer.",
    "files.move_part_meets": "There it would be printed onto something else of this print. No copy was made.",
    "files.move_part_sequence": (
        "At line {line} the next part begins low beside one that is done. How near the head may pass, only the slicer knows: move it there."
    ),
    "files.move_part_turned": "One part alone is moved, not turned. Turn it in the slicer.",
    "files.move_relative": "Line {line} begins in steps from where the tip is, so the print cannot be moved in the file. Move it in the slicer.",
    "files.move_runs_on": (
        "The print begins where the purge line ends, without a way between (line {line}), so it cannot be moved in the file. Move it in the slicer."
    ),
    "files.move_touches": (
        "The bed is so high there that only {gap:mm} would be left below the tip without compensation. No copy was made: another place, or level first."
    ),
    "files.move_zero": "Line {line} sets a zero again in the middle of the print, so it cannot be moved in the file. Move it in the slicer.",
    "files.no_such_part": "There is no such part in this print.",
    "files.no_gcode": "This is no G-code: no line of it moves anything.",
    "files.no_plastic": "This file moves, but it lays no plastic, so there is no first layer to look at.",
    "files.too_large": "This is more than {most} MB of text, which is more than is read.",
    "files.zip_locked": "This archive is locked with a password. Take the file out of it first.",
    "files.zip_with_many": "This archive holds several files: {names:list}. Take out the one you want.",
    "files.zip_without": "This archive holds no G-code.",
}
"""What is said of input that cannot be used, by the code of its error."""


def _start(text: str) -> str:
    """A name as it stands at the beginning of a sentence."""
    return f"{text[:1].upper()}{text[1:]}"


def _percent(share: float) -> str:
    return f"{round(100 * share)} %"


def _brim(name: str, has: float, why: str) -> str:
    name = _start(name)
    if has:
        return f"{name}: its brim is {has:.0f} mm wide. {why}"
    return f"{name} has no brim. {why}"


def _needs(material: str, surface: str, need: str) -> str:
    return f"{material} on {surface} needs {NEEDS[need]}."


def _melts(value: float, most: float, share: float) -> str:
    return (
        f"Up to {value:.0f} mm³/s are to be melted; a common brass hot end does about {most:.0f}. It is more than that for "
        f"{_percent(share)} of the time: slower, or thinner lines."
    )


def _line(width: float, low: float, high: float, hole: float) -> str:
    way = "narrow" if width < low else "wide"
    return (
        f"Lines {millimetres(width)} wide are {way} for a first layer from a {hole:g} mm nozzle: {low:.2f} to {high:.2f} mm "
        "is usual."
    )


def _clip(name: str, role: str) -> str:
    what = {"skirt": "The skirt", "purge": "The purge line", "brim": "A brim"}.get(role, "The print")
    return f"{what} runs over {name}, or closer than 2 mm to it. The tip would hit it."


REMARKS: dict[str, Sentence] = {
    "files.ask_bed": "Which printer is it for? Without its size nothing can be said of the edges.",
    "files.ask_material": "Which material is it? The file does not say, so the temperatures are not judged.",
    "files.ask_surface": "Which surface is on the bed? No file says that, so the bed's temperature is not judged.",
    "files.bed_beyond": "The bed is to be {value:.0f} °C, but this printer goes to {most:.0f} °C.",
    "files.bed_cold": (
        "Bed at {value:.0f} °C is cold for {material} on {surface}: {low:.0f} to {high:.0f} °C is usual."
    ),
    "files.bed_hot": (
        "Bed at {value:.0f} °C is hot for {material} on {surface}: {low:.0f} to {high:.0f} °C is usual. The base spreads."
    ),
    "files.bed_not_waited": "The bed is switched on, but nothing waits for it: the first lines go onto a cold plate.",
    "files.bend_below_zero": (
        "The copy goes down to Z {z:.2f}, where the bed is lower than where the offset was set. A machine that stops at 0 stays too far there."
    ),
    "files.bend_flat": "Under this print the bed differs by {range:mm} only: a bent copy changes next to nothing.",
    "files.bend_good_for": (
        "Good for what no screw takes out: dome, twist, dent. That is {rest:mm} under this print."
    ),
    "files.bend_hidden": (
        "Line {line} ({command}) may switch on the mesh, and nobody sees from here whether it does. Both together would take the bed twice."
    ),
    "files.bend_mesh": (
        "This printer can follow its bed itself. With a mesh switched on the bed would be taken twice, and the tip would touch. Use the mesh, or clear it and say so."
    ),
    "files.bend_old": "{why} A bent copy follows the bed as it is now: measure again first.",
    "files.bend_own": "The file measures the bed or switches compensation on itself (line {line}). The bed would be taken twice.",
    "files.bend_tilt": (
        "{tilt:mm} of it is tilt across the print. That belongs to the screws: level first, then measure and bend what is left."
    ),
    "files.bend_unmeasured": "This bed was not measured yet. A bent copy follows readings.",
    "files.bonds_too_well": "{material} bonds too well to {surface} and tears it. Take another surface.",
    "files.brim": _brim,
    "files.does_not_hold": "{material} does not hold on {surface}. Take another surface.",
    "files.fan_later": (
        "The part fan goes to {value:.0f} % later on. {material} wants little or none throughout, or its layers split."
    ),
    "files.fan_on": "The part fan runs at {value:.0f} % during the first layer. Off there: corners lift early.",
    "files.home_after_mesh": (
        "Homing comes after compensation is switched on. On many machines homing switches it off again: put it behind."
    ),
    "files.home_after_probing": (
        "Homing comes after the bed is measured. On many machines that switches compensation off again."
    ),
    "files.layer_thick": (
        "A first layer {height:mm} high is too much for a {hole:g} mm nozzle: up to {most:.2f} mm is pressed flat."
    ),
    "files.layer_thin": "A first layer of {height:mm} forgives little: every hundredth of the bed shows.",
    "files.line_narrow": _line,
    "files.line_round": "Lines {width:mm} wide and {height:mm} high are round: they lie on top instead of sticking.",
    "files.line_wide": _line,
    "files.long_lines": (
        "The bottom has straight lines up to {length:.0f} mm long. Where such lines let go, concentric and connected ones hold better."
    ),
    "files.melts": _melts,
    "files.mesh_left_off": (
        "The printer holds a mesh, and the file homes without switching compensation on again. On many machines it is off then."
    ),
    "files.mesh_not_there": "The file switches compensation on, but this printer has none.",
    "files.mesh_switched_off": "The file switches compensation off, though the printer holds a mesh.",
    "files.needs_coat": _needs,
    "files.no_bed_heat": "The file does not heat the bed.",
    "files.no_end": "The file ends without switching anything off. Is it whole?",
    "files.no_home": "The file lays plastic without homing first: nobody knows where the tip is then.",
    "files.no_nozzle_heat": "The file does not heat the nozzle before it lays plastic.",
    "files.no_purge": "Neither a skirt nor a purge line comes first: the first lines of the part fill the nozzle.",
    "files.no_speed": "The file gives no speed before its first lines: the machine takes whatever was set last.",
    "files.nozzle_beyond": "The nozzle is to be {value:.0f} °C, but this printer goes to {most:.0f} °C.",
    "files.nozzle_cold": "Nozzle at {value:.0f} °C is cold for {material}: {low:.0f} to {high:.0f} °C is usual.",
    "files.nozzle_hot": "Nozzle at {value:.0f} °C is hot for {material}: {low:.0f} to {high:.0f} °C is usual.",
    "files.nozzle_not_waited": "The nozzle is switched on, but nothing waits for it: the first lines come out cold.",
    "files.offset_in_file": (
        "The file moves the Z offset by {value:signed_mm}. It adds to the one in the printer; keep it in one place."
    ),
    "files.offset_twice": (
        "The file moves the Z offset {times} times, together {total:signed_mm}, and they add to the one in the printer."
    ),
    "files.outside": "The print reaches {beyond:mm} beyond the printable area on the {side}.",
    "files.over_clip": _clip,
    "files.pauses": "The print stops here and waits for you.",
    "files.pinholes": "The fill ends {gap:mm} short of the wall: pinholes there. More overlap closes them.",
    "files.probes_first": "The file measures the bed before each print. What was stored before does not count then.",
    "files.purge_outside": "The purge line or skirt reaches {beyond:mm} beyond the printable area on the {side}.",
    "files.shrinks": "{material} shrinks, and {name} is {height:.0f} mm tall: closed window, no draught, an enclosure if there is one.",
    "files.speed_far_too_fast": "{value:.0f} mm/s is far too fast for a first layer: 40 to 50 is usual, 20 when it must stick.",
    "files.speed_fast": "{value:.0f} mm/s is fast for a first layer: 40 to 50 is usual.",
    "files.speed_must_stick": "{name:start} must stick: 20 mm/s on the first layer instead of {value:.0f}.",
    "files.speed_too_fast": "{value:.0f} mm/s is too fast for a first layer: 40 to 50 is usual, 20 when it must stick.",
    "files.stays_hot": (
        "No command switches the nozzle off at the end. Either the file is cut off, or the machine stays hot: look before you start it."
    ),
    "files.travel_fast": (
        "Ways of {value:.0f} mm/s between the lines of a first layer with {name} tear lines along: about 35 is kinder."
    ),
    "files.walls_last": "The bottom of {name} is filled before its wall is laid. Outer wall first holds better.",
    "files.way_outside": "A way leads {beyond:mm} beyond the printable area on the {side}.",
    "files.way_through_clip": (
        "The tip comes to Z {z:.2f} at {name}, which stands {height:.0f} mm high. It would hit it."
    ),
}
"""What is found in a file."""


def preflight_sentence(found: Preflight) -> str:
    """Say whether a print may be started as it is.

    Examples
    --------
    >>> preflight_sentence(Preflight())
    'Nothing speaks against this print.'
    """
    many = {weight: sum(one.weight is weight for one in found.findings) for weight in Weight}
    parts = []
    if many[Weight.CHANGE]:
        parts.append(f"{counted(many[Weight.CHANGE], 'thing')} to change before you start it")
    if many[Weight.ASK]:
        parts.append(f"{counted(many[Weight.ASK], 'question')} to answer")
    if many[Weight.MIND]:
        parts.append(f"{counted(many[Weight.MIND], 'thing')} to mind")
    if not parts:
        return "Nothing speaks against this print."
    text = parts[0] if len(parts) == 1 else f"{', '.join(parts[:-1])} and {parts[-1]}"
    return f"{text[0].upper()}{text[1:]}."


def forecast_sentences(
    parts: tuple[Foot, ...], found: PrintForecast, known: Standing | None = None
) -> tuple[str, ...]:
    """Say what the first layer of a print will be: how much of it is good, where it is worst, what lets go first.

    Where the readings may not be of this bed any more (``known``) that is said, and nobody is sent closer by them.
    """
    sentences = [f"{_percent(found.shares['good'])} of the first layer will be good."]
    doubted = known is not None and not known.holds
    if known is not None and doubted:
        sentences.append(f"{words(known.reasons[0])} Measure again before you trust this.")
    if found.touches:
        sentences.append(
            f"The tip would touch the plate: {millimetres(max(found.least, 0.0))} are left at "
            f"X {found.worst.x:.0f}, Y {found.worst.y:.0f}. Do not start it so."
        )
    elif found.worst.band != "good":
        way = "close" if found.worst.band in ("scrapes", "crowded", "close") else "far"
        sentences.append(
            f"It is worst at X {found.worst.x:.0f}, Y {found.worst.y:.0f}: a gap of {millimetres(found.worst.gap)} is too {way}."
        )
    if found.first is not None:
        part, one = parts[found.first], found.parts[found.first]
        if one.holds < 0.5:
            sentences.append(
                f"{_start(part.name)} lets go first: {one.touches:.0f} mm² of its foot touch, {_percent(one.holds)} of what was meant."
            )
        elif len(parts) > 1:
            sentences.append(
                f"{_start(part.name)} stands least firmly: {one.touches:.0f} mm² of its foot touch, and it is {part.height:.0f} mm high."
            )
    better = found.best_share > found.shares["good"] + 0.02 and abs(found.best) >= 0.01
    if better and not (doubted and found.best < 0):
        way = "farther" if found.best > 0 else "closer"
        sentences.append(
            f"{millimetres(abs(found.best))} {way} would make {_percent(found.best_share)} of it good."
        )
    return tuple(sentences)


TURNS = {90: "a quarter to the left", 180: "half round", 270: "a quarter to the right"}


def move_words(place: Place) -> str:
    """Say how a print is moved.

    Examples
    --------
    >>> move_words(Place(40.0, -20.0, 0, 0.9)), move_words(Place(0.0, 5.0, 90, 0.9)), move_words(Place(0.0, 0.0, 330, 0.9))
    ('40 mm to the right, 20 mm to the front', 'turned a quarter to the left, then 5 mm to the back', 'turned 30° to the right')
    """
    ways = []
    if abs(place.dx) >= 0.5:
        ways.append(f"{abs(place.dx):.0f} mm to the {'right' if place.dx > 0 else 'left'}")
    if abs(place.dy) >= 0.5:
        ways.append(f"{abs(place.dy):.0f} mm to the {'back' if place.dy > 0 else 'front'}")
    if not place.angle:
        return ", ".join(ways)
    odd = f"{place.angle}° to the left" if place.angle < 180 else f"{360 - place.angle}° to the right"
    turned = f"turned {TURNS.get(place.angle, odd)}"
    return f"{turned}, then {', '.join(ways)}" if ways else turned


def placement_sentence(found: Placement, name: str = "") -> str:
    """Say where a print, or a part of that name, would hold best."""
    if found.best is None:
        return f"Wherever {name or 'it'} is put, the tip would touch the plate or meet something. Level the bed, or lift the tip, first."
    now, best = _percent(found.now.share), _percent(found.best.share)
    if not found.worth:
        return f"{_start(name) or 'It'} lies as well as it can: {now} will be good."
    way = move_words(found.best)
    start = f"{_start(name)}: {way}" if name else _start(way)
    if not found.allowed:
        return f"{start}: there it may be, and {best} will be good."
    return f"{start}: good from {now} to {best}."
