"""A small slicer for the demo: rectangles and discs as prisms, with walls, fill, brim, skirt and a purge line."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field

from finchwort.core.first_layer import Bead, filament_area

Point = tuple[float, float]


@dataclass(frozen=True)
class Part:
    """A prism on the bed: a rectangle, or a disc when ``depth`` is 0.

    Attributes
    ----------
    name : str
    x, y : float
        Its middle, mm.
    width, depth, height : float
        mm; the width of a disc is its diameter.
    brim : float
        Width of the brim, mm.
    """

    name: str
    x: float
    y: float
    width: float
    depth: float
    height: float
    brim: float = 0.0


@dataclass(frozen=True)
class Slicing:
    """How a print is cut: lengths in mm, speeds in mm/s, temperatures in °C, fan in per cent."""

    layer: float = 0.2
    first: float = 0.2
    width: float = 0.45
    first_width: float = 0.5
    walls: int = 2
    sparse: float = 3.0
    solid: int = 3
    speed: float = 50.0
    first_speed: float = 22.0
    travel: float = 140.0
    bed: float = 60.0
    nozzle: float = 210.0
    fan: float = 100.0
    first_fan: float = 0.0
    skirt: float = 4.0
    arcs: bool = True
    purge: tuple[Point, Point] = ((5.0, 6.0), (95.0, 6.0))
    start: tuple[str, ...] = ("G21", "G90", "M83", "M140 S{bed:.0f}", "M104 S{nozzle:.0f}", "M190 S{bed:.0f}", "M109 S{nozzle:.0f}", "G28")  # fmt: skip
    end: tuple[str, ...] = ("M104 S0", "M140 S0", "M107", "G91", "G1 Z10 F600", "G90", "G1 X5 Y200 F6000", "M84")  # fmt: skip


@dataclass
class Writer:
    """Writes moves; the filament is counted from move to move."""

    slicing: Slicing
    per_mm: float = field(default_factory=lambda: filament_area(1.75))
    at: Point = (0.0, 0.0)
    lines: list[str] = field(default_factory=list)

    def taken(self) -> list[str]:
        """Give the lines written so far, and forget them."""
        lines, self.lines = self.lines, []
        return lines

    def go(self, to: Point) -> None:
        """Move without plastic."""
        if math.dist(self.at, to) > 2:
            self.lines += [
                "G1 E-0.8 F2400",
                f"G0 X{to[0]:.3f} Y{to[1]:.3f} F{60 * self.slicing.travel:.0f}",
                "G1 E0.8 F2400",
            ]
        else:
            self.lines.append(f"G0 X{to[0]:.3f} Y{to[1]:.3f} F{60 * self.slicing.travel:.0f}")
        self.at = to

    def lay(self, points: list[Point], bead: Bead, speed: float) -> None:
        """Lay plastic along corners."""
        self.go(points[0])
        feed = f" F{60 * speed:.0f}"
        for point in points[1:]:
            amount = math.dist(self.at, point) * bead.area / self.per_mm
            self.lines.append(f"G1 X{point[0]:.3f} Y{point[1]:.3f} E{amount:.5f}{feed}")
            self.at, feed = point, ""

    def circle(self, x: float, y: float, radius: float, bead: Bead, speed: float) -> None:
        """Lay plastic round a middle: two arcs, or straight lines where arcs are not wanted."""
        if not self.slicing.arcs:
            corners = max(24, int(2 * math.pi * radius / 0.8))
            turns = [2 * math.pi * i / corners for i in range(corners + 1)]
            self.lay([(x + radius * math.cos(a), y + radius * math.sin(a)) for a in turns], bead, speed)
            return
        self.go((x + radius, y))
        amount = math.pi * radius * bead.area / self.per_mm
        self.lines += [
            f"G3 X{x - radius:.3f} Y{y:.3f} I{-radius:.3f} J0 E{amount:.5f} F{60 * speed:.0f}",
            f"G3 X{x + radius:.3f} Y{y:.3f} I{radius:.3f} J0 E{amount:.5f}",
        ]
        self.at = (x + radius, y)


def slice_parts(parts: list[Part], slicing: Slicing) -> Iterator[str]:
    """Give the lines of a file that prints parts together, layer by layer."""
    writer = Writer(slicing)
    yield "; written for the demo: nothing here is a real print"
    for line in slicing.start:
        yield line.format(bed=slicing.bed, nozzle=slicing.nozzle)
    yield f"M106 S{round(2.55 * slicing.first_fan)}" if slicing.first_fan else "M107"
    first = Bead(slicing.first_width, slicing.first)
    writer.lines += ["; purge line", f"G1 Z{slicing.first + 0.1:.3f} F600"]
    writer.lay(list(slicing.purge), Bead(0.6, slicing.first + 0.1), slicing.first_speed)
    writer.lines.append(f"G1 Z{slicing.first:.3f} F600")
    if slicing.skirt:
        writer.lines.append("; skirt")
        _skirt(writer, parts, first)
    yield from writer.taken()
    top = max(part.height for part in parts)
    layers = max(1, round((top - slicing.first) / slicing.layer) + 1)
    for layer in range(layers):
        z = slicing.first + layer * slicing.layer
        bead = first if layer == 0 else Bead(slicing.width, slicing.layer)
        speed = slicing.first_speed if layer == 0 else slicing.speed
        writer.lines += [f"; layer {layer}", f"G1 Z{z:.3f} F600"]
        if layer == 1 and slicing.fan:
            writer.lines.append(f"M106 S{round(2.55 * slicing.fan)}")
        for part in parts:
            if z > part.height + slicing.layer / 2:
                continue
            writer.lines.append(f"; object {part.name}")
            if layer == 0 and part.brim:
                writer.lines.append("; brim")
                _rings(writer, part, bead, speed, outwards=round(part.brim / bead.spacing))
            left = round((part.height - z) / slicing.layer)
            solid = layer < slicing.solid or left < slicing.solid
            _layer(writer, part, bead, speed, layer, bead.spacing if solid else slicing.sparse)
        yield from writer.taken()
    yield "; end"
    yield from slicing.end


def _ring(writer: Writer, part: Part, inset: float, bead: Bead, speed: float) -> bool:
    """Lay one round along the outline, so far inside it; whether there was room."""
    if not part.depth:
        radius = part.width / 2 - inset
        if radius < bead.width:
            return False
        writer.circle(part.x, part.y, radius, bead, speed)
        return True
    w, d = part.width / 2 - inset, part.depth / 2 - inset
    if min(w, d) < bead.width / 2:
        return False
    x, y = part.x, part.y
    writer.lay([(x - w, y - d), (x + w, y - d), (x + w, y + d), (x - w, y + d), (x - w, y - d)], bead, speed)
    return True


def _rings(writer: Writer, part: Part, bead: Bead, speed: float, outwards: int) -> None:
    for i in range(outwards, 0, -1):
        _ring(writer, part, bead.width / 2 - i * bead.spacing, bead, speed)


def _layer(writer: Writer, part: Part, bead: Bead, speed: float, layer: int, spacing: float) -> None:
    writer.lines.append("; wall")
    for i in range(writer.slicing.walls):
        if not _ring(writer, part, bead.width / 2 + i * bead.spacing, bead, speed):
            return
    inset = bead.width / 2 + writer.slicing.walls * bead.spacing
    writer.lines.append("; fill")
    angle = math.pi / 4 if layer % 2 == 0 else -math.pi / 4
    c, s = math.cos(angle), math.sin(angle)
    reach = math.hypot(part.width, part.depth or part.width) / 2
    rows = int(reach / spacing)
    forward = True
    for i in range(-rows, rows + 1):
        ends = _across(part, inset, i * spacing, c, s)
        if ends is None:
            continue
        writer.lay(list(ends if forward else ends[::-1]), bead, speed)
        forward = not forward


def _across(part: Part, inset: float, off: float, c: float, s: float) -> tuple[Point, Point] | None:
    """Where a slanted line so far off the middle enters and leaves the outline."""
    x, y = part.x - off * s, part.y + off * c
    if not part.depth:
        radius = part.width / 2 - inset
        if radius <= abs(off) + 0.2:
            return None
        half = math.sqrt(radius**2 - off**2)
        low, high = -half, half
    else:
        low, high = -math.inf, math.inf
        for place, way, middle, size in ((x, c, part.x, part.width), (y, s, part.y, part.depth)):
            near = sorted(
                ((middle - size / 2 + inset - place) / way, (middle + size / 2 - inset - place) / way)
            )
            low, high = max(low, near[0]), min(high, near[1])
        if high - low < 0.4:
            return None
    return (x + low * c, y + low * s), (x + high * c, y + high * s)


def _skirt(writer: Writer, parts: list[Part], bead: Bead) -> None:
    away = writer.slicing.skirt + max(part.brim for part in parts)
    x0 = min(part.x - part.width / 2 for part in parts) - away
    x1 = max(part.x + part.width / 2 for part in parts) + away
    y0 = min(part.y - (part.depth or part.width) / 2 for part in parts) - away
    y1 = max(part.y + (part.depth or part.width) / 2 for part in parts) + away
    corners = [(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)]
    writer.lay(corners, bead, writer.slicing.first_speed)
