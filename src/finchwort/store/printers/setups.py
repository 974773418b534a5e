"""A printer as the person describes it, checked."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

import numpy as np

from finchwort.core.base.errors import ChoiceError, CollinearError, OutOfRangeError
from finchwort.core.base.geometry import is_line
from finchwort.core.base.wording import HANDS, VIEWS
from finchwort.core.first_layer import ZEROS
from finchwort.core.levelling import CARRIES, MAX_PADS, TURNS, check_stacks
from finchwort.core.printers import Bed, KeepOff, Screw, check_screws
from finchwort.core.probing import KINDS as PROBE_KINDS
from finchwort.core.probing import reach
from finchwort.core.surveys import check_first_layer
from finchwort.knowledge import materials, surfaces

COMPENSATIONS = ("none", "mean", "mesh")
"""What a machine's compensation really does with its points."""
KEPT = ("printer", "slicer", "start_code")
"""Where a Z offset may be kept; in several places they add up."""
CONDITIONS = ("new", "good", "worn", "damaged")
MAX_SURFACES = 20
HOTTEST_BED, HOTTEST_NOZZLE = 150.0, 350.0
"""No desktop printer is set up to be hotter than this, °C."""
_PORT = re.compile(r"(/dev/[\w./-]{1,120}|COM\d{1,3}|(socket|rfc2217)://[\w.-]{1,120}:\d{1,5})\Z")


@dataclass(frozen=True)
class ScrewSetup:
    """A screw as the person describes it; mm, and turns left in its spring."""

    name: str
    x: float
    y: float
    thread: str
    pitch: float
    to_tight: float | None = None
    to_loose: float | None = None


@dataclass(frozen=True)
class PadSetup:
    """A support without a screw, with the foils that lie there; mm."""

    name: str
    x: float
    y: float
    foils: tuple[float, ...] = ()


@dataclass(frozen=True)
class SurfaceSetup:
    """A print surface the person owns; mm."""

    name: str
    kind: str
    thickness: float | None = None
    condition: str = "good"
    prints_since_wash: int = 0
    coats: int = 0


@dataclass(frozen=True)
class PrinterSetup:
    """A printer as the person describes it; mm."""

    name: str
    width: float
    depth: float
    origin: str = "front_left"
    plate_width: float | None = None
    plate_depth: float | None = None
    first_layer: float = 0.2
    thread_hand: str = "right"
    knob_view: str = "behind"
    tightening_lowers: bool = True
    divisions: int = 8
    repeatability: float | None = None
    note: str = ""
    screws: tuple[ScrewSetup, ...] = field(default_factory=tuple)
    pads: tuple[PadSetup, ...] = field(default_factory=tuple)
    beam_screws: int = 0
    beam_lead: float = 8.0
    beam_left: float | None = None
    beam_right: float | None = None
    beam_carries: str = "unknown"
    beam_steps: int | None = None
    beam_raises: str = ""
    plate_bends: bool = False
    probe_kind: str = "none"
    probe_dx: float = 0.0
    probe_dy: float = 0.0
    closer_is: str = "negative"
    compensation: str = "none"
    offset_kept: tuple[str, ...] = ("printer",)
    surfaces: tuple[SurfaceSetup, ...] = field(default_factory=tuple)
    materials: tuple[str, ...] = field(default_factory=tuple)
    port: str = ""
    baud: int = 115200
    dialect: str = "open"
    link_name: str = ""
    most_bed: float = 110.0
    most_nozzle: float = 260.0
    lift: float = 5.0
    longest_heat: float = 60.0
    zero_kept: str = ""
    switch_pitch: float | None = None
    keep_off: tuple[KeepOff, ...] = ()


def check_setup(setup: PrinterSetup) -> None:
    """Raise a core error unless the description makes sense."""
    if not setup.name.strip():
        raise ChoiceError("A printer needs a name.")
    size = (setup.width, setup.depth, setup.origin, setup.plate_width, setup.plate_depth)
    Bed(*size, setup.keep_off)
    check_first_layer(setup.first_layer)
    if setup.thread_hand not in HANDS or setup.knob_view not in VIEWS:
        raise ChoiceError("The thread is right or left, the knob is seen from its face or from behind.")
    if setup.repeatability is not None and not 0 < setup.repeatability <= 1:
        raise OutOfRangeError("A repeatability lies between 0 and 1 mm.")
    if setup.screws:
        check_screws(
            [Screw(s.name, s.x, s.y, s.pitch, setup.tightening_lowers, setup.divisions) for s in setup.screws]
        )

    _check_supports(setup)
    _check_probe(setup)
    _check_surfaces(setup)
    _check_line(setup)


def _check_supports(setup: PrinterSetup) -> None:
    if setup.pads and setup.screws:
        raise ChoiceError("The plate rests on screws or on pads, not on both.")
    names = [pad.name.strip() for pad in setup.pads]
    if len(names) > MAX_PADS or len(set(names)) < len(names) or "" in names:
        raise ChoiceError("Up to nine pads, each with a name of its own.")
    if setup.pads:
        if len(setup.pads) < 3:
            raise ChoiceError("A plate rests on three pads at the least.")
        if is_line(np.array([pad.x for pad in setup.pads]), np.array([pad.y for pad in setup.pads])):
            raise CollinearError("All pads lie on one line; nothing under them can take out a tilt.")
        check_stacks({pad.name: pad.foils for pad in setup.pads})
    if setup.beam_screws not in (0, 1, 2):
        raise ChoiceError("A cross beam hangs on one or two lead screws; 0 when there is none.")
    if not 0.2 <= setup.beam_lead <= 50:
        raise OutOfRangeError("A lead screw travels 0.2 to 50 mm in a turn.")
    if setup.beam_carries not in CARRIES:
        raise ChoiceError("Two lead screws carry the nozzle or the bed, or it is not known.")
    if setup.beam_raises not in ("", *TURNS):
        raise ChoiceError("A lead screw raises clockwise or counterclockwise, or it is not known.")
    if setup.beam_steps is not None and not 1 <= setup.beam_steps <= 1_000_000:
        raise OutOfRangeError("A motor makes 1 to 1,000,000 steps in a turn.")
    for screw in setup.screws:
        for left in (screw.to_tight, screw.to_loose):
            if left is not None and not 0 <= left <= 40:
                raise OutOfRangeError(f"{screw.name}: a spring leaves 0 to 40 turns.")
    ends = (setup.beam_left, setup.beam_right)
    if None not in ends and ends[1] - ends[0] < 40:
        raise OutOfRangeError("The right lead screw must lie at least 40 mm to the right of the left one.")


def _check_probe(setup: PrinterSetup) -> None:
    if setup.probe_kind not in PROBE_KINDS:
        raise ChoiceError(f"A probe is one of {', '.join(PROBE_KINDS)}.")
    if setup.closer_is not in ("negative", "positive"):
        raise ChoiceError("Closer is the negative or the positive way of the Z offset.")
    if setup.compensation not in COMPENSATIONS or set(setup.offset_kept) - set(KEPT):
        raise ChoiceError("This is not known about compensation or offset.")
    if setup.zero_kept not in ("", *ZEROS):
        raise ChoiceError(f"Zero is kept by {', '.join(ZEROS.values())}.")
    if setup.zero_kept == "probe" and setup.probe_kind == "none":
        raise ChoiceError("Without a probe zero is kept by a Z switch, or by the knobs.")
    if setup.zero_kept == "knobs" and not setup.screws:
        raise ChoiceError("A bed without screws has no knobs to keep its zero by.")
    if setup.switch_pitch is not None and not 0.1 <= setup.switch_pitch <= 10:
        raise OutOfRangeError("The screw of a Z switch travels 0.1 to 10 mm in a turn.")
    reach(Bed(setup.width, setup.depth, setup.origin), setup.probe_dx, setup.probe_dy)


def _check_surfaces(setup: PrinterSetup) -> None:
    if len(setup.surfaces) > MAX_SURFACES or len({s.name.strip() for s in setup.surfaces}) < len(
        setup.surfaces
    ):
        raise ChoiceError(f"Up to {MAX_SURFACES} surfaces, each with a name of its own.")
    for surface in setup.surfaces:
        if not surface.name.strip():
            raise ChoiceError("A surface needs a name.")
        if surface.kind not in (*surfaces(), "other") or surface.condition not in CONDITIONS:
            raise ChoiceError(
                f"Nothing is known of a surface of kind {surface.kind!r} or condition {surface.condition!r}."
            )
        if surface.thickness is not None and not 0.05 <= surface.thickness <= 20:
            raise OutOfRangeError(f"{surface.name}: a surface is 0.05 to 20 mm thick.")
        if not (0 <= surface.prints_since_wash <= 9999 and 0 <= surface.coats <= 99):
            raise OutOfRangeError(f"{surface.name}: prints and coats are counted from 0.")
    strange = set(setup.materials) - set(materials())
    if strange:
        raise ChoiceError(f"Nothing is known of a material called {strange.pop()!r}.")


def _check_line(setup: PrinterSetup) -> None:
    if setup.port and (not _PORT.match(setup.port) or ".." in setup.port):
        raise ChoiceError(
            "A line is a serial port such as /dev/ttyACM0, or an address such as socket://127.0.0.1:8422."
        )
    if not 300 <= setup.baud <= 4_000_000:
        raise OutOfRangeError("A serial line runs at 300 to 4,000,000 baud.")
    if not 0 <= setup.most_bed <= HOTTEST_BED or not 0 <= setup.most_nozzle <= HOTTEST_NOZZLE:
        raise OutOfRangeError(
            f"The bed's limit lies between 0 and {HOTTEST_BED:g} °C, the nozzle's between 0 and {HOTTEST_NOZZLE:g} °C."
        )
    if not 1 <= setup.lift <= 50:
        raise OutOfRangeError("The head is lifted 1 to 50 mm between touches.")
    if not 5 <= setup.longest_heat <= 720:
        raise OutOfRangeError("Heaters stay on for 5 to 720 minutes, then they go off by themselves.")
