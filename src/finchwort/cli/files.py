"""A file of a print looked through on the command line."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from typing import IO, TYPE_CHECKING, Any

import click

from finchwort.cli.base import Sentence, main
from finchwort.cli.readings import bed_of_size

if TYPE_CHECKING:
    from sqlalchemy.orm import Session

    from finchwort.core.diagnosis import Surface
    from finchwort.core.files import PrintFile, Target
    from finchwort.core.surveys import Relief
    from finchwort.core.visits import Standing
    from finchwort.store.models import Printer

SIGNS = {"change": "!", "ask": "?", "mind": "-", "good": "+"}


@main.command("file")
@click.argument("print_file", type=click.File("rb"), metavar="PRINT.gcode")
@click.option("--printer", help="One of the printers on record, by its name.")
@click.option("--bed", "size", help="Printable area, for instance 220x220.")
@click.option("--centre-origin", is_flag=True, help="X 0, Y 0 is the middle of the bed.")
@click.option("--survey", type=click.File("rb"), help="Readings of that bed.")
@click.option("--material", help="For instance PLA; what the file says when not given.")
@click.option("--surface", help="For instance textured PEI.")
@click.option("--nozzle", type=click.FloatRange(0.1, 2.0), help="Hole of the nozzle, mm.")
@click.option("--price", type=click.FloatRange(0, 10_000), help="Of a kilogram.")
@click.option("--json", "as_json", is_flag=True, help="For scripts.")
def file_(
    print_file: IO[bytes],
    printer: str | None,
    size: str | None,
    centre_origin: bool,
    survey: IO[bytes] | None,
    material: str | None,
    surface: str | None,
    nozzle: float | None,
    price: float | None,
    as_json: bool,
) -> None:
    """Look through a file of a print: first layer, parts, what to change before it is started."""
    from dataclasses import replace

    from finchwort.core.base.errors import CoreError
    from finchwort.core.files import Target, preflight
    from finchwort.formats.print_file import read_print
    from finchwort.knowledge import materials
    from finchwort.messages.errors import sentence

    if printer and size:
        raise Sentence("Give either a printer on record or the size of a bed.")
    if survey and not (size or printer):
        raise Sentence("Readings need the bed they lie on: give --bed as well.")
    known = materials()
    if material is not None and _key(material) not in {_key(name) for name in known}:
        raise Sentence(f"{material!r} is not one of {', '.join(known)}.")
    try:
        target, relief, known_bed = (
            _on_record(printer) if printer else (Target(bed=bed_of_size(size, centre_origin)), None, None)
        )
        found = read_print(print_file, material_names=known)
        named = material or found.stated.material
        chosen = next((one for one in known.values() if named and _key(one.name) == _key(named)), None)
        target = replace(
            target,
            material=chosen or target.material,
            surface=_surface(surface) if surface else target.surface,
            nozzle=nozzle or target.nozzle,
            price=price,
        )
        report = _report(found, target)
        report["findings"] = [
            {"code": one.code, "line": one.line, "message": message}
            for one, message in _said(preflight(found, target).findings)
        ]
        weights = [one.weight for one in preflight(found, target).findings]
        if survey is not None and target.bed is not None:
            relief, known_bed = relief_of_readings(target, survey.read()), None
        if relief is not None:
            report["forecast"] = _forecast(found, relief, known_bed)
    except CoreError as error:
        raise Sentence(sentence(error)) from None
    if as_json:
        click.echo(json.dumps(report, indent=1))
    else:
        click.echo(_tell(report, [str(weight) for weight in weights]))


def _key(name: str) -> str:
    return "".join(c for c in name.lower() if c.isalnum())


def _said(findings: Any) -> list[tuple[Any, str]]:
    from finchwort.messages.remarks import words

    return [(one, words(one.said)) for one in findings]


def _surface(text: str) -> Surface:
    from finchwort.knowledge import surfaces

    known = surfaces()
    wanted = _key(text)
    exact = [one for one in known.values() if wanted in (_key(one.key), _key(one.name))]
    near = exact or [one for one in known.values() if wanted in _key(one.name)]
    if len(near) != 1:
        raise Sentence(f"{text!r} is not one of {', '.join(one.name for one in known.values())}.")
    return near[0]


@contextmanager
def on_record(name: str) -> Iterator[tuple[Session, Printer]]:
    """Open the records, and find a printer in them by its name."""
    from finchwort.cli.database import engine_of_place
    from finchwort.services.files.target import printer_named
    from finchwort.store.database import make_sessions
    from finchwort.store.errors import NotFoundError

    with make_sessions(engine_of_place())() as session:
        try:
            yield session, printer_named(session, name)
        except NotFoundError as error:
            raise Sentence(str(error)) from None


def _on_record(name: str) -> tuple[Target, Relief | None, Standing | None]:
    from finchwort.services.files.target import known_of

    with on_record(name) as (session, printer):
        return known_of(session, printer)


def _report(found: PrintFile, target: Target) -> dict[str, Any]:
    density = (target.material.density if target.material else None) or 1.24
    grams = found.grams(density)
    report: dict[str, Any] = {
        "first_layer": {
            "height_mm": round(found.layer.height, 3),
            "line_width_mm": round(found.line_width, 3),
            "speed_mm_s": None if found.speed is None else round(found.speed, 2),
            "bed_c": found.bed,
            "nozzle_c": found.nozzle,
            "fan_percent": found.fan,
        },
        "parts": [
            {
                "name": part.name,
                "foot_mm2": round(part.area, 1),
                "height_mm": part.height,
                "bounds": [round(v, 2) for v in part.bounds],
                "brim_mm": round(part.brim, 1),
            }
            for part in found.parts
        ],
        "findings": [],
        "total": {"minutes": round(found.seconds / 60, 1), "grams": round(grams, 2)},
        "layers": found.layers,
        "lines": found.lines,
    }
    if target.price is not None:
        report["total"]["cost"] = round(grams * target.price / 1000, 2)
    return report


def relief_of_readings(target: Target, data: bytes) -> Relief:
    """Lay a surface through readings that were handed over."""
    from finchwort.core.surveys import make_relief
    from finchwort.formats import Hint, read_survey

    assert target.bed is not None
    return make_relief(read_survey(data, Hint(bed=target.bed)).survey, target.bed)


def _forecast(found: PrintFile, relief: Relief, known: Standing | None) -> dict[str, Any]:
    from finchwort.core.files import forecast_print
    from finchwort.messages.files import forecast_sentences

    result = forecast_print(found.layer, found.parts, relief, relief.middle)
    return {
        "good_percent": round(100 * result.shares["good"], 1),
        "bands_percent": {name: round(100 * share, 1) for name, share in result.shares.items()},
        "parts": [
            {
                "name": part.name,
                "good_percent": round(100 * one.shares["good"], 1),
                "holds_mm2": round(one.holds, 1),
            }
            for part, one in zip(found.parts, result.parts, strict=True)
        ],
        "worst": {
            "x": round(result.worst.x, 1),
            "y": round(result.worst.y, 1),
            "gap_mm": round(result.worst.gap, 3),
        },
        "sentences": list(forecast_sentences(found.parts, result, known)),
    }


def _tell(report: dict[str, Any], weights: list[str]) -> str:
    first, total = report["first_layer"], report["total"]
    speed = "no speed given" if first["speed_mm_s"] is None else f"{first['speed_mm_s']:.0f} mm/s"
    heat = ", ".join(
        f"{name} {first[key]:.0f} °C"
        for name, key in (("bed", "bed_c"), ("nozzle", "nozzle_c"))
        if first[key]
    )
    lines = [
        f"First layer {first['height_mm']:.2f} mm high, lines {first['line_width_mm']:.2f} mm wide, {speed}, "
        f"{heat or 'no heat given'}, fan {first['fan_percent']:.0f} %",
        f"About {total['minutes']:.0f} minutes, {total['grams']:.1f} g, {report['layers']} layers"
        + (f", a failure costs up to {total['cost']:.2f}" if "cost" in total else ""),
    ]
    for part in report["parts"]:
        brim = f", brim {part['brim_mm']:.0f} mm" if part["brim_mm"] else ""
        lines.append(
            f"  {part['name']}: foot {part['foot_mm2']:.0f} mm², {part['height_mm']:.1f} mm high{brim}"
        )
    for weight, one in zip(weights, report["findings"], strict=True):
        place = f" (line {one['line']})" if one["line"] else ""
        lines.append(f"{SIGNS[weight]} {one['message']}{place}")
    lines += report.get("forecast", {}).get("sentences", [])
    return "\n".join(lines)
