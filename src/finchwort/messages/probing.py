"""What is said of measuring."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from finchwort.core.base.wording import duration, micro, millimetres
from finchwort.core.printers import Screw
from finchwort.core.probing.bad_readings import BAD_FROM
from finchwort.core.probing.hand import Line
from finchwort.core.probing.movement import KEPT_SHAPE, Movement
from finchwort.core.probing.repeatability import (
    ADVISED,
    ALL_EQUAL,
    GOOD_RANGE,
    GOOD_SD,
    VERDICTS,
    Repeatability,
)
from finchwort.core.probing.switches import SwitchFinding
from finchwort.core.probing.warmup import HORIZON, STEADY, Soak, SoakAround
from finchwort.messages.templates import Sentence

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


def soak_sentence(soak: Soak) -> str:
    """What to do, with the numbers."""
    if soak.state == "steady":
        text = f"Steady now: it will move less than {millimetres(STEADY)} in the next five minutes. Measure."
        if soak.swing > STEADY / 5:
            text += f" It swings by ±{micro(2 * soak.swing)}, as heaters that switch do."
        return text
    way = "rises" if soak.rate > 0 else "sinks"
    speed = f"this place {way} about {micro(abs(soak.rate))} a minute"
    watched = float(soak.times[-1] - soak.times[0])
    if soak.state == "unclear":
        if watched < HORIZON:
            return f"Nothing moves yet beyond the noise, but {duration(watched)} are too short to say. Five quiet minutes are the least."
        return "Nothing moves much, but these readings are not enough to promise five quiet minutes. Go on reading."
    if math.isnan(soak.steady_in):
        if soak.settles < 0.5 and watched >= 2 * HORIZON:
            return (
                f"Still moving: {speed}, and it does not look as if it came to rest. Look for a heater that goes on "
                "warming the frame, a draught, or a loose probe."
            )
        least = f", but {duration(soak.steady_in_low)} at the least" if soak.steady_in_low >= 90 else ""
        return f"Still moving: {speed}, and it is too early to say how long{least}. Go on reading."
    sure = (
        f" (between {duration(soak.steady_in_low)} and {duration(soak.steady_in_high)})"
        if soak.steady_in_high - soak.steady_in_low > 60
        else ""
    )
    to_come = "rise" if soak.to_go > 0 else "sink"
    return (
        f"Steady in about {duration(soak.steady_in)}{sure}, if it comes to rest as it seems to. In the next five minutes it will {to_come} another "
        f"{millimetres(abs(soak.to_go))}."
    )


def around_sentence(around: SoakAround) -> str:
    """What to do, with the numbers."""
    against = around.against[around.worst]
    x, y = around.spots[around.worst]
    if around.state == "steady":
        text = (
            f"The shape stands: no place will move more than {millimetres(STEADY)} against the others in the next five "
            "minutes. Measure."
        )
        if around.whole.state != "steady" and abs(around.whole.to_go) >= STEADY:
            way = "rise" if around.whole.to_go > 0 else "sink"
            text += (
                f" As a whole the bed will {way} another {millimetres(abs(around.whole.to_go))}; set the Z offset only when that "
                "has ended."
            )
        return text
    where = f"The place at x {x:.0f}, y {y:.0f} mm moves most against the others. "
    return where + soak_sentence(against)


def line_sentence(line: Line) -> str:
    """What the line shows."""
    if line.name == "straight":
        return f"Straight within {millimetres(max(abs(line.largest), 0.01))}."
    if line.name == "wavy":
        return f"Neither sag nor crown: {millimetres(abs(line.largest))} off straight at {line.at:g} mm. Look for debris or a damaged spot."
    word = "A sag: the middle is low" if line.name == "sag" else "A crown: the middle is high"
    return f"{word} by {millimetres(abs(line.bow))} ± {millimetres(line.margin)}."


def trust_word(test: Repeatability) -> str:
    """The verdict in a few words."""
    return VERDICTS[test.level]


def trust_sentences(test: Repeatability, screws: Sequence[Screw] = ()) -> tuple[str, ...]:
    """Say what it means, the most important first.

    Parameters
    ----------
    screws : sequence of Screw
        The bed's screws: one step of the hand is compared with the noise.
    """
    n = test.touches - len(test.aside)
    remarks = []
    sd = f"standard deviation {micro(test.sd)}, surely between {micro(test.sd_low)} and {micro(test.sd_high)}"
    if test.level == "good":
        remarks.append(f"{n} touches repeat well ({sd}). That is a probe to trust.")
    elif test.level == "usable":
        remarks.append(
            f"{n} touches: {sd}. Usable for rough work; {micro(GOOD_SD)} or less would be good (that is ten touches "
            f"within {micro(GOOD_RANGE)})."
        )
    else:
        remarks.append(
            f"{n} touches: {sd}. Find the cause before you correct anything: a loose mount, plastic on the tip, a "
            "wobbling carriage."
        )
    consequence = f"Differences below {micro(test.least_difference)} mean nothing here"
    if screws:
        step = max(screw.step for screw in screws)
        divisions = max(screws, key=lambda screw: screw.step).divisions
        name = "one eighth of a turn" if divisions == 8 else f"one step of 1/{divisions} turn"
        consequence += f"; {name} is {micro(step)}"
    remarks.append(consequence + ".")
    if test.aside:
        names = " and ".join(f"{i + 1} ({micro(test.heights[i], signed=True)})" for i in test.aside)
        alone = len(test.aside) == 1
        remarks.append(
            f"Touch{'' if alone else 'es'} {names} stand{'s' if alone else ''} out beyond chance and {'is' if alone else 'are'} "
            "left out. Clean the tip, look for debris, and repeat the test."
        )
    if test.drifting:
        way = "rise" if test.drift > 0 else "sink"
        remarks.append(
            f"The readings {way} by {micro(abs(test.drift_total))} from first to last: something still moves. "
            "Let it warm through, then test again. Plans take the spread without this drift."
        )
    if not test.heights.size:
        remarks.append(
            "Only the machine's own figures are known, not its touches: a drift or a bad touch among them does not show."
        )
    elif not np.ptp(test.heights):
        remarks.append(
            f"All touches are equal, so their step is not known: ±{micro(2 * ALL_EQUAL)} is assumed."
        )
    if test.step >= BAD_FROM / 4:
        remarks.append(f"The touches come in steps of {micro(test.step)}: nothing smaller can be told.")
    if n < ADVISED:
        remarks.append(
            f"With {n} touches the standard deviation may be anything from {micro(test.sd_low)} to "
            f"{micro(test.sd_high)}; {ADVISED} or more say it better."
        )
    return tuple(remarks)


def movement_sentence(movement: Movement) -> str:
    """Where and how much."""
    spread = movement.survey.spread
    if spread < KEPT_SHAPE:
        return f"The bed kept its shape within {millimetres(spread)}."
    x, y, rise = movement.up
    u, v, fall = movement.down
    text = (
        f"Against the mean, the bed rose most at x {x:.0f}, y {y:.0f} ({millimetres(rise, signed=True)}) and sank "
        f"most at x {u:.0f}, y {v:.0f} ({millimetres(fall, signed=True)})."
    )
    bow = (movement.shape.bow_x + movement.shape.bow_y) / 2
    if abs(bow) >= KEPT_SHAPE / 2:
        text += f" The middle {'rose' if bow > 0 else 'sank'} {millimetres(abs(bow))} against the edges."
    return text


NOT_YET = "Do not home or probe before that is put right."
"""Whatever is wrong with a switch and however it is wired."""
CONTINUITY = (
    "Power off and unplugged. Pull the switch's plug at the board, and set the meter to continuity.",
    "Probe the two pins of the plug, free and pressed: they must differ. If they do, the wire is whole: look at the port, and at "
    "the pull-up in the settings.",
    "If they do not, probe at the switch itself, free and pressed. If they differ there, the wire between is broken: bend it along "
    "its length while you probe, it breaks mostly where it moves.",
    "If they do not differ there either, the switch is worn out: replace it by one that is wired the same way.",
    "Plug it in again, power on, and test all switches once more before anything homes.",
)
"""The walk along a dead switch, with the power off (common practice)."""


def _good(name: str, wiring: str) -> str:
    text = f"{name} is open when free and triggered when pressed."
    if wiring == "normally_open":
        text += " It is wired normally open, so a broken wire would not show: press it again now and then."
    elif wiring == "normally_closed":
        text += " It is wired normally closed: a broken wire shows as triggered, which fails safe."
    return text


def _dead(name: str, idle: str, wiring: str) -> str:
    text = f"{name} stays {idle} also when pressed: unplugged, in the wrong port, a wrong pull-up setting or a broken wire"
    text += " (a continuity meter tells, power off)."
    if idle == "triggered" and wiring != "normally_open":
        text += " A normally closed switch shows a broken wire like this; the machine will not move into it."
    if idle == "open":
        text += (
            " A switch that is closed when free should not read open at all: a wrong setting, or a short."
            if wiring == "normally_closed"
            else " A normally open switch hides a broken wire like this."
        )
        text += " The axis would run into its end."
    return f"{text} {NOT_YET}"


def _swapped(name: str, other: str, partner: str | None, pressed: bool) -> str:
    text = f"Pressing {name} changes {other} instead"
    if partner:
        text += f", and pressing {partner} changes {name}: their plugs are swapped. Motors off, power off, swap them."
    elif pressed:
        text += ". It is plugged into the wrong port."
    else:
        text += f". Press {other} as well: if that changes {name}, the two plugs are swapped."
    return f"{text} {NOT_YET}"


def _probe_good(pushed: bool) -> str:
    text = "Triggered when stowed, open when deployed: as a retracting probe should."
    if not pushed:
        text += " Deploy it and push the pin up gently: it must trigger."
    return f"{text} Keep a hand on the power switch at the first real probing."


REMARKS: dict[str, Sentence] = {
    "probing.switch_triggered_untouched": (
        "{name} reads triggered though nothing touches it. Press it and look whether it changes; do not home before."
    ),
    "probing.switch_to_press": "{name} is open, as it should be. Press it to see it trigger.",
    "probing.switch_inverted": (
        "{name} reads triggered when free and open when pressed: its logic is set the wrong way round, or it is wired the "
        "other way than the setting says. Invert the setting. " + NOT_YET
    ),
    "probing.switch_good": _good,
    "probing.switch_dead": _dead,
    "probing.switch_swapped": _swapped,
    "probing.switch_crossed": (
        "Pressing {name} changes {moved:and}: two inputs are joined. Look for a bent pin or a wire in the wrong plug, with the "
        "power off. " + NOT_YET
    ),
    "probing.probe_dead": (
        "The probe reads {stowed} stowed and deployed alike. Does its pin move? Run its self-test, look at its plug. "
        + NOT_YET
    ),
    "probing.probe_inverted": (
        "The probe is open when stowed and triggered when deployed, the other way round than a retracting probe usually is. "
        "Check the logic setting. " + NOT_YET
    ),
    "probing.probe_pin_dead": "The deployed probe does not trigger when its pin is pushed up. " + NOT_YET,
    "probing.probe_good": _probe_good,
}
"""What is said of results, by their code."""


def walk_of(finding: SwitchFinding) -> tuple[str, ...]:
    """Say how a break is found with a meter; nothing where nothing is dead."""
    return CONTINUITY if finding.kind == "dead" else ()
