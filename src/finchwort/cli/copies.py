"""A copy of a print's file made on the command line: bent to a bed, moved on it, or with one thing changed."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from finchwort.cli.base import Sentence, main
from finchwort.cli.files import on_record, relief_of_readings
from finchwort.cli.readings import bed_of_size

if TYPE_CHECKING:
    from collections.abc import Iterator

    from finchwort.core.files import PrintFile
    from finchwort.services.files.copies import CopyWanted, Ground


@main.command("copy")
@click.argument(
    "print_file", type=click.Path(exists=True, dir_okay=False, path_type=Path), metavar="PRINT.gcode"
)
@click.argument("copy_file", type=click.Path(dir_okay=False, path_type=Path), metavar="COPY.gcode")
@click.option("--bend", is_flag=True, help="The first layers follow the bed as it was measured.")
@click.option(
    "--fade",
    type=click.FloatRange(0, 1000),
    help="With --bend: Z from which the bed is not followed any more, mm.",
)
@click.option("--mesh-cleared", is_flag=True, help="With --bend: no mesh is switched on in the printer.")
@click.option(
    "--move", metavar="X,Y[,TURNS]", help="Move the print, mm, and turn it by quarters to the left."
)
@click.option("--part", help="With --move: that part alone, by its name in the file.")
@click.option("--speed", type=float, help="Speed of the first layer, mm/s.")
@click.option("--fan", type=float, help="Part fan in the first layer, per cent.")
@click.option("--nozzle-heat", type=float, help="Nozzle in the first layer, °C.")
@click.option("--bed-heat", type=float, help="Bed in the first layer, °C.")
@click.option("--trim", type=float, help="Z offset by one step, mm; positive is away from the plate.")
@click.option("--printer", help="One of the printers on record, by its name.")
@click.option("--bed", "size", help="Printable area, for instance 220x220.")
@click.option("--centre-origin", is_flag=True, help="X 0, Y 0 is the middle of the bed.")
@click.option("--survey", type=click.File("rb"), help="Readings of that bed as it is now.")
def copy_(print_file: Path, copy_file: Path, **options: Any) -> None:
    """Make a copy of a print's file: bent to a bed, moved on it, or with one thing changed.  Nothing is started."""
    from finchwort.core.base.errors import CoreError
    from finchwort.formats.print_file import read_print, text_of
    from finchwort.knowledge import materials
    from finchwort.messages.errors import sentence
    from finchwort.services.files.copies import make_copy

    def text() -> Iterator[bytes]:
        with print_file.open("rb") as stream:
            yield from text_of(stream)

    chosen = [
        name
        for name in ("bend", "move", "speed", "fan", "nozzle_heat", "bed_heat", "trim")
        if options[name] not in (None, False)
    ]
    if len(chosen) != 1:
        raise Sentence(
            "Say one thing that the copy is for: --bend, --move, --speed, --fan, --nozzle-heat, --bed-heat or --trim."
        )
    if options["part"] and chosen != ["move"]:
        raise Sentence("--part goes with --move.")
    if bool(options["printer"]) == bool(options["size"]):
        raise Sentence("Give either a printer on record or the size of a bed.")
    if copy_file.exists() and copy_file.samefile(print_file):
        raise Sentence("Give the copy another name: the file itself stays as it is.")
    try:
        with print_file.open("rb") as stream:
            found = read_print(stream, material_names=materials())
        copy, head = make_copy(
            _ground(found, print_file.name, options), _wanted(chosen[0], options, found), text
        )
    except CoreError as error:
        raise Sentence(sentence(error)) from None
    with copy_file.open("wb") as out:
        for piece in copy.text(head):
            out.write(piece)
    copy.close()
    click.echo("\n".join(head))


def _ground(found: PrintFile, name: str, options: dict[str, Any]) -> Ground:
    from finchwort.core.files import Target
    from finchwort.core.visits import Standing
    from finchwort.services.files.copies import Ground, ground_on

    if options["printer"]:
        with on_record(options["printer"]) as (session, printer):
            return ground_on(session, printer, found, name)
    target = Target(bed=bed_of_size(options["size"], options["centre_origin"]))
    if options["survey"] is None:
        return Ground(found, name, "this printer", target)
    # readings that somebody hands over are those of now
    relief = relief_of_readings(target, options["survey"].read())
    return Ground(found, name, "this printer", target, relief, Standing())


def _wanted(kind: str, options: dict[str, Any], found: PrintFile) -> CopyWanted:
    from finchwort.core.files import CopyChange, CopyKind
    from finchwort.services.files.copies import CopyWanted

    if kind == "bend":
        return CopyWanted(CopyKind.BENT, options["fade"], options["mesh_cleared"])
    if kind == "move":
        dx, dy, turn = _way(options["move"])
        return CopyWanted(CopyKind.MOVED, dx=dx, dy=dy, turn=turn, part=_part(options["part"], found))
    kinds = {"nozzle_heat": CopyChange.NOZZLE, "bed_heat": CopyChange.BED, "trim": CopyChange.OFFSET}
    change = kinds.get(kind) or CopyChange(kind)
    return CopyWanted(CopyKind.CHANGED, change=change, value=options[kind])


def _part(name: str | None, found: PrintFile) -> int | None:
    if name is None:
        return None
    names = [one.name for one in found.parts]
    if name not in names:
        raise Sentence(f"There is no part called {name}. In the file: {', '.join(names) or 'none'}.")
    return names.index(name)


def _way(text: str) -> tuple[float, float, int]:
    try:
        dx, dy, *turns = (float(part) for part in text.split(","))
        turn = int(turns[0]) if turns else 0
        if len(turns) > 1 or (turns and turns[0] != turn) or not abs(dx) + abs(dy) < 1e4:
            raise ValueError
    except ValueError:
        raise Sentence(
            "Give the way as X,Y in mm, for instance 40,-20, and quarter turns behind it if any."
        ) from None
    return dx, dy, turn % 4
