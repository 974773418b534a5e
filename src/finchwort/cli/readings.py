"""A file of readings analysed on the command line."""

from __future__ import annotations

import csv
import json
from typing import IO, TYPE_CHECKING, Any

import click

from finchwort.cli.base import Sentence, main

if TYPE_CHECKING:
    from finchwort.core.printers import Bed, Screw


@main.command()
@click.argument("file", type=click.File("rb"))
@click.option("--bed", "size", help="Printable area, for instance 220x220.")
@click.option("--centre-origin", is_flag=True, help="X 0, Y 0 is the middle of the bed.")
@click.option("--screws", help="3 or 4 for the usual places, or a CSV file: name,x,y,pitch.")
@click.option("--pitch", default=0.7, show_default=True, help="Travel per turn, mm (M4: 0.7).")
@click.option(
    "--hold", default="centre", show_default=True, help="centre, only_tighten, only_loosen or a screw."
)
@click.option("--repeatability", type=float, help="Standard deviation of one reading, mm.")
@click.option("--layer", default=0.2, show_default=True, help="First-layer height, mm.")
@click.option("--gaps", is_flag=True, help="The values are gaps, not heights.")
@click.option("--back-first", is_flag=True, help="A grid's first line is the back row.")
@click.option("--json", "as_json", is_flag=True, help="For scripts.")
def read(
    file: IO[bytes],
    size: str | None,
    centre_origin: bool,
    screws: str | None,
    pitch: float,
    hold: str,
    repeatability: float | None,
    layer: float,
    gaps: bool,
    back_first: bool,
    as_json: bool,
) -> None:
    """Analyse a file of readings: flatness, shape and, with --screws, the plan."""
    from finchwort.core.base.errors import CoreError
    from finchwort.messages.errors import sentence

    try:
        report = _report(
            file.read(), size, centre_origin, screws, pitch, hold, repeatability, layer, gaps, back_first
        )
    except CoreError as error:
        for problem in error.problems[:10]:
            click.echo(f"line {problem.line}: {problem.reason}  {problem.text}", err=True)
        raise Sentence(sentence(error)) from None
    click.echo(json.dumps(report, indent=1) if as_json else _tell(report))


def bed_of_size(size: str | None, centre_origin: bool) -> Bed | None:
    """Make a bed of its size as it is typed, such as 220x220; nothing of nothing."""
    from finchwort.core.printers import Bed

    if size is None:
        return None
    try:
        width, depth = (float(part) for part in size.lower().replace("×", "x").split("x"))
    except ValueError:
        raise Sentence("Give the bed as width x depth in mm, for instance 220x220.") from None
    return Bed(width, depth, "centre" if centre_origin else "front_left")


def _screws(text: str, bed: Bed, pitch: float) -> list[Screw]:
    from finchwort.core.printers import Screw, suggest_screws

    if text in ("3", "4"):
        return [Screw(name, x, y, pitch) for name, x, y in suggest_screws(bed, int(text))]
    try:
        with open(text, newline="") as lines:
            rows = [row for row in csv.reader(lines) if row and not row[0].startswith("#")]
        if rows and rows[0][0].strip().lower() == "name":
            rows.pop(0)
        return [Screw(row[0].strip(), float(row[1]), float(row[2]), float(row[3])) for row in rows]
    except OSError as error:
        raise Sentence(f"{text} cannot be read: {error.strerror}.") from None
    except (ValueError, TypeError, IndexError):
        raise Sentence(f"{text} should have lines of name,x,y,pitch.") from None


def _report(
    data: bytes,
    size: str | None,
    centre_origin: bool,
    screws: str | None,
    pitch: float,
    hold: str,
    repeatability: float | None,
    layer: float,
    gaps: bool,
    back_first: bool,
) -> dict[str, Any]:
    from finchwort.core.base.wording import turn_in_figures
    from finchwort.core.printers import Bed, places_doubt
    from finchwort.formats import Hint, read_survey
    from finchwort.messages.surveys import SHAPES, sentence_of
    from finchwort.messages.tramming import outlook_sentence
    from finchwort.services.tramming.readings import analyse

    bed = bed_of_size(size, centre_origin)
    hint = Hint(values="gap" if gaps else None, flip_y=back_first, bed=bed)
    result = read_survey(data, hint)
    survey = result.survey
    doubt = bed and places_doubt(bed, survey.x.tolist(), survey.y.tolist())
    if bed is None:  # the readings themselves say how large the bed is at least
        width = max(40.0, float(survey.x.max() + survey.x.min()))
        depth = max(40.0, float(survey.y.max() + survey.y.min()))
        bed = Bed(width, depth)
    places = () if screws is None else _screws(screws, bed, pitch)
    analysed = analyse(survey, bed, layer, places, hold, repeatability)
    flatness, zone, shape, verdict = analysed.flatness, analysed.zone, analysed.shape, analysed.verdict
    report: dict[str, Any] = {
        "readings": len(analysed.survey),
        "set_aside": analysed.aside,
        "assumptions": [*result.assumptions, *([doubt] if doubt else [])],
        "unread_lines": result.unread,
        "spread_mm": round(analysed.survey.spread, 4),
        "flatness_mm": {
            "peak_to_valley": round(flatness.peak_to_valley, 4),
            "peak": round(flatness.peak, 4),
            "valley": round(flatness.valley, 4),
            "rms": round(flatness.rms, 4),
            "peak_to_valley_minimum_zone": round(zone.peak_to_valley, 4),
        },
        "shape_mm": {
            key: round(getattr(shape, key), 4)
            for key in ("tilt_x", "tilt_y", "bow_x", "bow_y", "twist", "remainder_rms")
        },
        "shape": SHAPES[shape.name],
        "tilt_mm": {"rise": round(analysed.tilt.rise, 4), "margin": round(analysed.tilt.margin, 4)},
        "verdict": verdict.level,
        "sentence": sentence_of(verdict),
    }
    if analysed.planned is not None:
        plan, outlook = analysed.planned.plan, analysed.planned.outlook
        report["plan"] = [
            {
                "screw": turn.screw.name,
                "action": "leave" if turn.leave else "tighten" if turn.rounded > 0 else "loosen",
                "turns": turn.rounded,
                "turns_exact": round(turn.exact, 3),
                "turns_uncertainty": round(turn.uncertainty, 3),
                "move_mm": round(turn.move, 3),
                "figures": turn_in_figures(turn.rounded, turn.screw.divisions),
            }
            for turn in plan.turns
        ]
        report["order"] = list(analysed.planned.order.names)
        report["outlook"] = {"chance": round(outlook.chance, 3), "sentence": outlook_sentence(outlook)}
        report["spread_after_mm"] = round(plan.spread_after, 4)
    return report


def _tell(report: dict[str, Any]) -> str:
    flat, shape = report["flatness_mm"], report["shape_mm"]
    lines = [*report["assumptions"]]
    if report["set_aside"]:
        single = report["set_aside"] == 1
        lines.append(
            f"{report['set_aside']} reading{' belongs' if single else 's belong'} to no such bed and "
            f"{'counts' if single else 'count'} for nothing here."
        )
    if report["unread_lines"]:
        lines.append(f"{report['unread_lines']} lines could not be read.")
    lines += [
        f"{report['readings']} readings, {report['spread_mm']:.3f} mm from highest to lowest",
        f"Flatness without tilt: {flat['peak_to_valley']:.3f} mm (FLTt, least squares), "
        f"{flat['peak_to_valley_minimum_zone']:.3f} mm (minimum zone), RMS {flat['rms']:.3f} mm (FLTq)",
        f"Tilt: {shape['tilt_x']:+.3f} mm left to right, {shape['tilt_y']:+.3f} mm front to back",
        f"Shape: {report['shape']}",
        report["sentence"],
    ]
    for turn in report.get("plan", ()):
        if turn["action"] == "leave":
            lines.append(f"  {turn['screw']}: leave it")
        else:
            lines.append(
                f"  {turn['screw']}: {turn['action']} {turn['figures']} turn ({turn['move_mm']:+.2f} mm)"
            )
    if "spread_after_mm" in report:
        lines.append(f"Expected afterwards: {report['spread_after_mm']:.3f} mm from highest to lowest")
        lines.append(report["outlook"]["sentence"])
    return "\n".join(lines)
