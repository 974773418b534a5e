"""Random printers, what their owners do and write down, and whether a file would drive the tip into the plate.

The beds here bend, are twisted and bumpy, warm up crooked, and are read with noise and now and then wrongly; knobs slip,
hands turn too far or the wrong way.  Nothing here is taken from the code that decides what a file may do; only what
is written down goes through the product's own services, as a person's taps would.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import timedelta

import numpy as np
from sqlalchemy.orm import Session

from finchwort.core.base.errors import CoreError, UnknownGroundError
from finchwort.core.surveys import Survey
from finchwort.formats.gcode import write_gcode
from finchwort.knowledge.dialect import print_commands
from finchwort.messages.errors import sentence
from finchwort.services.first_layer import offsets, trials
from finchwort.services.first_layer.test_prints import PrintWish, test_print_for
from finchwort.services.printers import printers
from finchwort.services.surveys import surveys
from finchwort.services.tramming import adjustments, turnings
from finchwort.services.visits import changes, visits
from finchwort.store.errors import StoreError
from finchwort.store.first_layer import offsets as stored_offsets
from finchwort.store.printers.setups import PrinterSetup, ScrewSetup
from finchwort.store.records import utcnow
from finchwort.store.surveys import surveys as stored_surveys
from tests.fixtures.gcode_reader import read
from tests.fixtures.support import key

FINE = 1.0
"""Moves are looked at this closely, mm."""


@dataclass
class World:
    """A machine as it really is.  Lengths mm; heights positive towards the nozzle."""

    rng: np.random.Generator
    width: float
    depth: float
    centred: bool
    screws: list[tuple[str, float, float, float]]
    soft: bool
    tilt: np.ndarray
    dome: tuple[float, float]
    twist: float
    bump: tuple[float, float, float, float]
    heat_bow: float
    zero: float
    lifted: np.ndarray = field(default_factory=lambda: np.zeros(4))
    mesh: Callable | None = None
    hot: bool = True

    @property
    def centre(self) -> tuple[float, float]:
        return (0.0, 0.0) if self.centred else (self.width / 2, self.depth / 2)

    def uv(self, x, y):
        cx, cy = self.centre
        return 2 * (np.asarray(x) - cx) / self.width, 2 * (np.asarray(y) - cy) / self.depth

    def height(self, x, y, hot: bool | None = None):
        """Height of the plate at places as it is now."""
        u, v = self.uv(x, y)
        warm = self.heat_bow if (self.hot if hot is None else hot) else 0.0
        h = self.tilt[0] * u + self.tilt[1] * v + self.tilt[2]
        h = h - (self.dome[0] + warm) * u**2 / 2 - (self.dome[1] + warm) * v**2 / 2 + self.twist * u * v
        bx, by, size, radius = self.bump
        h = h + size * np.exp(-((u - bx) ** 2 + (v - by) ** 2) / 2 / radius**2)
        return h + self.by_screws(u, v)

    def by_screws(self, u, v):
        """What the knobs added since the beginning: a stiff plate tips, a soft one follows each."""
        places = [self.uv(x, y) for _, x, y, _ in self.screws]
        moved = self.lifted[: len(places)]
        if not len(places) or not moved.any():
            return 0.0
        if self.soft and len(places) == 4:
            a, b = abs(places[0][0]), abs(places[0][1])
            found = 0.0
            for (pu, pv), rise in zip(places, moved, strict=True):
                found = found + rise * (1 + u * np.sign(pu) / a) * (1 + v * np.sign(pv) / b) / 4
            return found
        rows = np.array([[1.0, pu, pv] for pu, pv in places])
        c, a, b = np.linalg.lstsq(rows, moved, rcond=None)[0]
        return a * u + b * v + c


def new_world(rng: np.random.Generator) -> World:
    """Make a machine that somebody might own."""
    width, depth = rng.uniform(150, 350, 2).round()
    centred = bool(rng.random() < 0.25)
    cx, cy = (0.0, 0.0) if centred else (width / 2, depth / 2)
    out = rng.uniform(-0.02, 0.04)
    a, b = width * (0.5 - 0.06 + out), depth * (0.5 - 0.06 + out)
    names = ["front left", "front right", "back right", "back left"]
    corners = [(cx - a, cy - b), (cx + a, cy - b), (cx + a, cy + b), (cx - a, cy + b)]
    if rng.random() < 0.3:
        names, corners = names[:2] + ["back"], [*corners[:2], (cx, cy + b)]
    pitch = float(rng.choice([0.5, 0.7, 0.8]))
    radius = rng.uniform(35, 70) / (min(width, depth) / 2)
    return World(
        rng=rng,
        width=float(width),
        depth=float(depth),
        centred=centred,
        screws=[(n, float(x), float(y), pitch) for n, (x, y) in zip(names, corners, strict=True)],
        soft=bool(rng.random() < 0.5),
        tilt=np.array([*rng.normal(0, rng.choice([0.02, 0.05, 0.15]), 2), rng.normal(0, 0.5)]),
        dome=tuple(rng.normal(0, 0.08, 2)),
        twist=float(rng.normal(0, 0.04)),
        bump=(*rng.uniform(-0.9, 0.9, 2), float(rng.normal(0, 0.04)), float(radius)),
        heat_bow=float(rng.normal(0, 0.035)),
        zero=float(rng.normal(0, 0.1)),
    )


class Owner:
    """Somebody who measures, turns, changes and writes down, through the product."""

    def __init__(self, session: Session, world: World) -> None:
        self.session, self.world, self.rng = session, world, world.rng
        self.compensated = bool(self.rng.random() < 0.5)
        self.told: list[str] = []
        self.value = round(float(self.rng.normal(-1.5, 0.3)), 2)
        setup = PrinterSetup(
            name="Dunlin",
            width=world.width,
            depth=world.depth,
            origin="centre" if world.centred else "front_left",
            screws=tuple(ScrewSetup(n, x, y, "M4", p) for n, x, y, p in world.screws),
            compensation="mesh" if self.compensated else "none",
            lift=float(self.rng.choice([1.0, 2.0, 5.0])),
            probe_kind="nozzle" if self.rng.random() < 0.6 else "none",
        )
        self.printer = printers.create_printer(session, setup)
        strip = {
            "surface": "Sheet",
            "surface_kind": "smooth_pei",
            "material": "PLA",
            "bed_temperature": 60.0,
            "nozzle_temperature": 205.0,
            "first_layer": float(self.rng.choice([0.2, 0.25, 0.28])),
        }
        self.visit = visits.start_visit(session, self.printer, **strip)

    def measure(self) -> None:
        """Read the bed at some places, mostly well."""
        w, rng = self.world, self.rng
        n, m = rng.integers(2, 7, 2)
        cx, cy = w.centre
        inset = rng.uniform(0.05, 0.12)
        xs = cx + w.width * (0.5 - inset) * np.linspace(-1, 1, n)
        ys = cy + w.depth * (0.5 - inset) * np.linspace(-1, 1, m)
        x, y = (a.ravel() for a in np.meshgrid(xs, ys))
        if (n % 2 == 0 or m % 2 == 0) and rng.random() < 0.6:
            x, y = np.append(x, cx), np.append(y, cy)
        cold = bool(rng.random() < 0.15)
        noise = float(rng.uniform(0.002, 0.012))
        z = w.height(x, y, hot=not cold) - w.height(cx, cy, hot=not cold) + rng.normal(0, noise, x.size)
        if rng.random() < 0.08 and x.size >= 16:
            z[rng.integers(x.size)] += rng.choice([-1, 1]) * rng.uniform(0.1, 0.4)
        # whatever zero the readings are counted from
        z = z + (rng.normal(0, 0.3) if rng.random() < 0.3 else 0.0)
        at = utcnow() - timedelta(days=float(rng.choice([0, 0, 0, 200]))) if rng.random() < 0.2 else None
        surveys.store_survey(
            self.session,
            self.visit.id,
            Survey(x, y, z),
            client_key=key(),
            source="probe",
            bed_temperature=22.0 if cold else 60.0,
            noise=noise if rng.random() < 0.5 else None,
            at=at,
        )
        self.told.append(f"measured {x.size}")

    def store_mesh(self) -> None:
        """Have the machine follow what was measured last, as machines do: straight from point to point."""
        if not self.compensated:
            return
        newest = stored_surveys.newest_surveys(self.session, self.printer.id, 1)
        if not newest:
            return
        readings = stored_surveys.load_readings(self.session, newest[0].id)
        columns, rows = np.unique(readings.x).size, np.unique(readings.y).size
        if columns * rows != len(readings) or min(columns, rows) < 2:
            return
        data = {
            "columns": int(columns),
            "rows": int(rows),
            "method": "bilinear",
            "fade": 10.0,
            "deviation": 0.1,
        }
        adjustments.record_adjustment(self.session, newest[0].id, "mesh", data, client_key=key())
        order = np.lexsort((readings.x, readings.y))
        table = readings.height[order].reshape(rows, columns)
        xs, ys = np.unique(readings.x), np.unique(readings.y)

        def follow(x, y):
            i = np.clip(np.searchsorted(xs, x) - 1, 0, columns - 2)
            j = np.clip(np.searchsorted(ys, y) - 1, 0, rows - 2)
            s = np.clip((x - xs[i]) / (xs[i + 1] - xs[i]), 0, 1)
            t = np.clip((y - ys[j]) / (ys[j + 1] - ys[j]), 0, 1)
            low = (1 - s) * table[j, i] + s * table[j, i + 1]
            high = (1 - s) * table[j + 1, i] + s * table[j + 1, i + 1]
            return (1 - t) * low + t * high

        level = float(follow(*w)) if (w := self.world.centre) else 0.0
        self.world.mesh = lambda x, y: follow(x, y) - level
        self.told.append("mesh")

    def turn(self) -> None:
        """Turn knobs by a survey and write it down: some slip, some go a little far, one in a while the wrong way."""
        newest = stored_surveys.newest_surveys(self.session, self.printer.id, 1)
        if not newest:
            return
        rng, w = self.rng, self.world
        done = {}
        for i, (name, _, _, pitch) in enumerate(w.screws):
            if rng.random() < 0.5:
                continue
            turns = float(rng.integers(-3, 4)) / 8
            real = turns * rng.choice([1, 1, 1, 1, 0.1, -1]) + (rng.normal(0, 1 / 32) if turns else 0.0)
            real = math.copysign(min(abs(real), abs(turns)), real)
            done[name] = turns
            w.lifted[i] -= real * pitch
        turnings.record_turning(self.session, newest[0].id, "centre", done, client_key=key())
        self.told.append(f"turned {done}")

    def change(self) -> None:
        """Change something at the machine and say so."""
        rng, w = self.rng, self.world
        what = str(
            rng.choice(
                ["nozzle", "plate", "firmware", "probe", "knobs", "material", "moved", "crash"]
                + ["springs", "foil", "beam", "pried", "lifted", "belts"]
            )
        )
        if what in ("pried", "lifted"):
            # a corner gives way, or something lies beneath it: by a tenth at the most
            w.tilt = w.tilt + np.array([*rng.uniform(-0.04, 0.04, 2), 0.0])
        if what in ("plate", "knobs", "moved", "crash", "springs", "foil", "beam"):
            w.tilt = w.tilt + np.array([*rng.normal(0, 0.4, 2), rng.normal(0, 0.3)])
        if what in ("plate", "nozzle", "firmware", "probe", "crash"):
            w.zero += float(rng.normal(0, 0.5))
        if what == "plate":
            w.dome = tuple(rng.normal(0, 0.15, 2))
        if what in ("firmware", "probe"):
            w.mesh = None
        changes.record_change(self.session, self.printer.id, what, client_key=key(), visit_id=self.visit.id)
        self.told.append(what)

    def find_offset(self) -> None:
        """Find the offset anew, as well as people do, and write it down."""
        closer = self.world.zero + float(self.rng.normal(0, 0.015))
        value = round(self.value - closer, 2)
        self.world.zero += value - self.value
        if self.rng.random() < 0.03:
            value = round(value + float(self.rng.normal(0, 0.3)), 2)  # a slip of the pen
        self.value = value
        reason = str(self.rng.choice(["paper", "patches", "trim"]))
        offsets.record_offset(
            self.session,
            self.printer.id,
            {"printer": value},
            reason,
            client_key=key(),
            visit_id=self.visit.id,
        )
        self.told.append("offset")

    def look(self) -> None:
        """Feel with paper at Z = 0.15; say that it moves only where it does."""
        w = self.world
        cx, cy = w.centre
        a, b = 0.45 * w.width, 0.45 * w.depth
        x = np.array([cx - a, cx + a, cx + a, cx - a, cx])
        y = np.array([cy - b, cy - b, cy + b, cy + b, cy])
        gap = 0.15 + w.zero - (w.height(x, y) - w.height(cx, cy))
        if (gap > self.rng.uniform(0.08, 0.12)).all():
            changes.record_change(
                self.session, self.printer.id, "clear", client_key=key(), visit_id=self.visit.id
            )
            self.told.append("clear")

    def judge(self) -> None:
        """Print a ladder as planned and judge it by what is really there."""
        newest = stored_offsets.newest_offset(self.session, self.printer.id)
        if newest is None:
            return
        layer = self.visit.first_layer
        patches = []
        for shift in (0.15, 0.1, 0.05, 0.0, -0.05):
            gap = layer + shift + self.world.zero + float(self.rng.normal(0, 0.01))
            share = gap / layer
            step = (
                "far_too_far"
                if share > 1.7
                else "too_far"
                if share > 1.2
                else "good"
                if share > 0.8
                else "too_close"
            )
            patches.append((shift, step))
        trials.record_ladder(self.session, self.visit.id, patches, client_key=key())
        self.told.append("ladder")

    def live(self, steps: int) -> None:
        """Do some things in some order."""
        rng = self.rng
        doing = [
            self.measure,
            self.turn,
            self.change,
            self.find_offset,
            self.look,
            self.store_mesh,
            self.judge,
        ]
        odds = np.array([5, 2.5, 1.2, 3, 1.5, 2, 0.7])
        for _ in range(steps):
            act = doing[rng.choice(len(doing), p=odds / odds.sum())]
            try:
                act()
            except (CoreError, StoreError):
                continue


def smallest_gap(world: World, followed: Callable | None, moves: list) -> tuple[float, str]:
    """Drive the tip along all moves; give the smallest gap (mm) and where it is."""
    starts, ends = np.array([m.start for m in moves]), np.array([m.end for m in moves])
    counts = np.maximum(2, np.ceil(np.hypot(*(ends - starts)[:, :2].T) / FINE).astype(int) + 1)
    which = np.repeat(np.arange(len(moves)), counts)
    step = np.arange(counts.sum()) - np.repeat(np.cumsum(counts) - counts, counts)
    share = (step / (counts[which] - 1))[:, None]
    x, y, z = (starts[which] + share * (ends - starts)[which]).T
    inside = (np.abs(np.array(world.uv(x, y))) <= 1 + 1e-9).all(axis=0)
    gap = z + world.zero - (world.height(x, y) - float(world.height(*world.centre)))
    if followed is not None:
        gap = gap + followed(x, y)
    gap = np.where(inside, gap, math.inf)
    worst = int(np.argmin(gap))
    return float(gap[worst]), f"{moves[which[worst]].start} to {moves[which[worst]].end}"


@dataclass
class Tried:
    """What became of one wish for a file.

    ``least`` is the smallest gap between tip and plate on any move, mm; None when the file was refused.
    """

    kind: str
    refused: str
    unknown: bool
    least: float | None
    where: str
    story: list[str]


def try_file(session: Session, owner: Owner, kind: str) -> Tried:
    """Wish for a file, and drive its moves over the real bed."""
    world = owner.world
    try:
        found = test_print_for(session, owner.visit, kind, PrintWish())
        text = write_gcode(
            found.made,
            print_commands("open"),
            printer="Dunlin",
            mesh_on=found.mesh_on,
            mesh_off=found.mesh_off,
            made_for=found.made_for,
        )
    except (CoreError, StoreError) as error:
        return Tried(kind, sentence(error), isinstance(error, UnknownGroundError), None, "", owner.told)
    program = read(text)
    # a machine may have followed its mesh before: what the file says about it counts
    names = [(name, values.get("S")) for name, values in program.commands if name == "M420"]
    followed = world.mesh if world.mesh is not None and (names[-1][1] == 1 if names else True) else None
    if owner.compensated and not names:
        raise AssertionError("the file does not say whether compensation is on")
    least, where = smallest_gap(world, followed, program.moves)
    return Tried(kind, "", False, least, where, owner.told)


KINDS = ("patches", "ladder", "discs", "mesh_walk", "paper_walk")
SHARES = (0.25, 0.25, 0.2, 0.1, 0.2)


def run(session: Session, seed: int) -> Tried:
    """Live through one history at one machine, and wish for a file at its end."""
    rng = np.random.default_rng(seed)
    owner = Owner(session, new_world(rng))
    owner.live(int(rng.integers(2, 10)))
    if rng.random() < 0.6:
        # somebody who does it properly at the end
        owner.measure()
        owner.find_offset()
        owner.store_mesh()
        if rng.random() < 0.4:
            owner.live(1)
    return try_file(session, owner, str(rng.choice(KINDS, p=SHARES)))
