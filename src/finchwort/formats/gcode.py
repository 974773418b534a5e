"""Test prints as G-code: heats, homes, switches compensation on, prints, and ends cool."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from finchwort.core.base.errors import ChoiceError
from finchwort.core.base.wording import shift_in_words
from finchwort.core.first_layer import (
    HOVER,
    LIFT_SPEED,
    PARK_LIFT,
    RETRACT,
    RETRACT_SPEED,
    SPEED,
    TRAVEL,
    PrintKind,
    Stroke,
    TestPrint,
    filament_area,
)
from finchwort.messages.first_layer import PRINT_TITLES, purpose_of
from finchwort.messages.remarks import sentences

DESCEND = 2.0
"""The last of the way down is gone slowly, mm."""
STOP_SPEED = 2.0
"""mm/s"""
WATCH = "Stay with the printer. Nozzle and bed are hot; keep fingers out while it moves."


def write_gcode(
    made: TestPrint,
    commands: Mapping[str, str],
    *,
    printer: str,
    mesh_on: str = "",
    mesh_off: str = "",
    made_for: Sequence[str] = (),
) -> str:
    """Write a test print for a machine.

    Parameters
    ----------
    made : TestPrint
    commands : mapping
        See `finchwort.knowledge.print_commands`; what is missing is left out.
    printer : str
        Its name, for the header.
    mesh_on : str
        Command that switches compensation on again after homing; empty where there is none, or it is not to be trusted.
    mesh_off : str
        Command that switches it off, written when ``mesh_on`` is empty.
    made_for : sequence of str
        Lines for the header: offset, survey and mesh that the heights were worked out from.

    Returns
    -------
    str
        Lines that end in a line feed; lengths in mm, filament counted from point to point.

    Raises
    ------
    ChoiceError
        When a walk that shows the mesh is wanted without a mesh.
    """
    if made.kind == "mesh_walk" and not mesh_on:
        raise ChoiceError("formats.no_mesh_printer_holds")
    s = made.setting
    lines = [f"; {text}" for text in _header(made, printer, mesh_on, mesh_off, made_for)]

    def add(name: str, **values: object) -> None:
        if commands.get(name):
            lines.append(commands[name].format(**values))

    for name in ("units", "absolute", "relative_filament", "fan_off"):
        add(name)
    lines.append("; heat first: metal moves as it warms")
    add("bed", temperature=s.bed_temperature)
    add("bed_wait", temperature=s.bed_temperature)
    if made.nozzle_temperature > 0:
        add("nozzle_wait", temperature=made.nozzle_temperature)
    lines.append("; home while warm")
    add("home")
    if mesh_on:
        lines += ["; homing switches compensation off on many machines: on again", mesh_on]
    elif mesh_off:
        lines += ["; no mesh is known to hold: compensation off", mesh_off]
    lines.append(_lift(made.travel))
    if made.kind == "mesh_walk":
        _mesh_walk(lines, made)
    elif made.kind == "paper_walk":
        for spot in made.spots:
            lines += [
                f"; stop {spot.number}: {_plain(spot.name)}, at Z {spot.z:.3f}",
                _travel(spot.x, spot.y),
                _lift(spot.z + DESCEND),
                f"G1 Z{spot.z:.3f} F{60 * STOP_SPEED:.0f}",
            ]
            add("finish")
            add("pause", text=f"{spot.number} {_plain(spot.name)}, Z {spot.z:.2f}")
            lines.append(_lift(made.travel))
    else:
        _strokes(lines, made)
    lines.append("; done: off, up, aside, and cool")
    for name in ("nozzle", "bed"):
        add(name, temperature=0)
    add("fan_off")
    lines += [_lift(max(made.travel, PARK_LIFT)), _travel(s.bed.x_min, s.bed.y_max)]
    add("finish")
    add("motors_off")
    return "\n".join(lines) + "\n"


def _header(made: TestPrint, printer: str, mesh_on: str, mesh_off: str, made_for: Sequence[str]) -> list[str]:
    s = made.setting
    compensation = "on after homing" if mesh_on else "off, no mesh is known to hold" if mesh_off else "none"
    results = [
        f"{PRINT_TITLES[PrintKind(made.kind)]} for {_plain(printer)}",
        purpose_of(made),
        f"Bed {s.bed_temperature:g} C, nozzle {f'{made.nozzle_temperature:g} C' if made.nozzle_temperature else 'not heated'}, first layer {s.bead.height:g} mm, line {s.bead.width:g} mm, filament {s.filament:g} mm.",
        f"Compensation: {compensation}. The Z offset is the one in the machine.",
        *made_for,
        *sentences(made.cautions),
    ]
    if made.strokes:
        weight = "" if made.grams is None else f", {made.grams:.1f} g"
        results.append(f"Uses {made.filament_length:.0f} mm of filament{weight}.")
    for spot in made.spots:
        if made.kind == "ladder":
            results.append(f"{spot.number}: {shift_in_words(spot.shift)}, at Z {spot.z:.3f}")
    results += [WATCH, "If the tip scrapes, stop at once."]
    return [_plain(text.replace("−", "-").replace("±", "+/-").replace("°", ""), 300) for text in results]


def _strokes(lines: list[str], made: TestPrint) -> None:
    s = made.setting
    names = ["fill the nozzle, beside the patches"]
    names += [f"patch {spot.number}: {spot.name}, {shift_in_words(spot.shift)}" for spot in made.spots]
    per_mm = filament_area(s.filament)
    for i, (name, stroke) in enumerate(zip(names, made.strokes, strict=True)):
        lines.append(f"; {name}".replace("−", "-"))
        x, y = stroke.points[0]
        lines += [_travel(x, y), _lift(stroke.z)]
        if i:
            lines.append(f"G1 E{RETRACT:.3f} F{60 * RETRACT_SPEED:.0f}")
        lines.append(f"G1 F{60 * SPEED:.0f}")
        _lay(lines, stroke, per_mm)
        lines.append(f"G1 E-{RETRACT:.3f} F{60 * RETRACT_SPEED:.0f}")
        lines.append(_lift(max(made.travel, round(stroke.z + s.lift, 3))))


def _lay(lines: list[str], stroke: Stroke, per_mm: float) -> None:
    """Write the moves of a stroke; what rounding leaves is made up by the next move."""
    used = text = 0.0
    before = stroke.points[0]
    for point in stroke.points[1:]:
        used += stroke.area * float(((point - before) ** 2).sum()) ** 0.5 / per_mm
        amount = round(used - text, 5)
        text += amount
        lines.append(f"G1 X{point[0]:.3f} Y{point[1]:.3f} E{amount:.5f}")
        before = point


def _mesh_walk(lines: list[str], made: TestPrint) -> None:
    (x, y), rest = made.walk[0], made.walk[1:]
    lines += ["; watch the Z axis", _travel(x, y), _lift(HOVER), f"G1 F{60 * SPEED:.0f}"]
    before = made.walk[0]
    for point in rest:
        # short moves, so that a machine that follows its mesh at corners only is seen to follow
        far = float(((point - before) ** 2).sum()) ** 0.5
        steps = max(1, round(far / 10))
        for k in range(1, steps + 1):
            x, y = before + (point - before) * k / steps
            lines.append(f"G1 X{x:.3f} Y{y:.3f}")
        before = point
    lines.append(_lift(made.travel))


def _lift(z: float) -> str:
    return f"G1 Z{z:.3f} F{60 * LIFT_SPEED:.0f}"


def _travel(x: float, y: float) -> str:
    return f"G0 X{x:.3f} Y{y:.3f} F{60 * TRAVEL:.0f}"


def _plain(text: str, most: int = 120) -> str:
    """Text that cannot end a remark or begin a command."""
    kept = "".join(c if c.isascii() and c.isprintable() and c not in ";()*" else " " for c in text)
    return " ".join(kept.split())[:most]
