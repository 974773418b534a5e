"""A printer as the person describes it, checked."""

from __future__ import annotations

import re
from dataclasses import asdict, dataclass
from typing import Annotated

import numpy as np
from pydantic import ConfigDict, Field, FiniteFloat, StringConstraints, TypeAdapter, ValidationError

from finchwort.core.base.errors import ChoiceError, CollinearError, OutOfRangeError
from finchwort.core.base.geometry import is_line
from finchwort.core.base.kinds import KnobView, ThreadHand
from finchwort.core.first_layer import ZeroKeeper
from finchwort.core.levelling import MAX_PADS, check_stacks
from finchwort.core.printers import (
    TALLEST,
    USUAL_HEIGHT,
    Bed,
    Carrier,
    CloserSign,
    Compensation,
    KeepOff,
    OffsetPlace,
    Origin,
    ProbeKind,
    RaisingTurn,
    Screw,
    SurfaceCondition,
    check_screws,
)
from finchwort.core.probing import reach
from finchwort.core.surveys import check_first_layer
from finchwort.knowledge import materials, surfaces
from finchwort.messages.inputs import field_errors
from finchwort.store.fields import (
    HOTTEST_BED,
    HOTTEST_NOZZLE,
    Coordinate,
    FoilSize,
    LayerHeight,
    Name,
    Note,
    Pitch,
    ProbeOffset,
    ScrewName,
    Short,
    Side,
    SpringTurns,
)

MIN_BEAM = 40.0
"""Two lead screws lie further apart than this, mm."""
_PORT = re.compile(r"(/dev/[\w./-]{1,120}|COM\d{1,3}|(socket|rfc2217)://[\w.-]{1,120}:\d{1,5})\Z")


_FORBID = ConfigDict(extra="forbid")


@dataclass(frozen=True)
class ScrewSetup:
    """A screw as the person describes it; mm, and turns left in its spring."""

    __pydantic_config__ = _FORBID

    name: ScrewName
    x: Coordinate
    y: Coordinate
    thread: Annotated[str, StringConstraints(max_length=20)]
    pitch: Pitch
    to_tight: SpringTurns | None = None
    to_loose: SpringTurns | None = None


@dataclass(frozen=True)
class PadSetup:
    """A support without a screw, with the foils that lie there; mm."""

    __pydantic_config__ = _FORBID

    name: ScrewName
    x: Coordinate
    y: Coordinate
    foils: Annotated[tuple[FoilSize, ...], Field(max_length=20, description="that lie there, mm each")] = ()


@dataclass(frozen=True)
class KeepOffSetup:
    """A place on the bed where something stands in the way, mm."""

    __pydantic_config__ = _FORBID

    name: ScrewName
    x_min: Coordinate
    y_min: Coordinate
    x_max: Coordinate
    y_max: Coordinate
    height: Annotated[FiniteFloat, Field(ge=0, le=TALLEST, description="above the plate, mm")] = USUAL_HEIGHT


@dataclass(frozen=True)
class SurfaceSetup:
    """A print surface the person owns; mm."""

    __pydantic_config__ = _FORBID

    name: Name
    kind: Short
    thickness: Annotated[FiniteFloat, Field(ge=0.05, le=20)] | None = None
    condition: SurfaceCondition = SurfaceCondition.GOOD
    prints_since_wash: Annotated[int, Field(ge=0, le=9999)] = 0
    coats: Annotated[int, Field(ge=0, le=99)] = 0


@dataclass(frozen=True)
class PrinterSetup:
    """A printer as the person describes it; mm."""

    name: Name
    width: Side
    depth: Side
    origin: Origin = Origin.FRONT_LEFT
    plate_width: Side | None = None
    plate_depth: Side | None = None
    first_layer: LayerHeight = 0.2
    thread_hand: ThreadHand = ThreadHand.RIGHT
    knob_view: KnobView = KnobView.BEHIND
    tightening_lowers: bool = True
    divisions: Annotated[int, Field(ge=1, le=64)] = 8
    repeatability: Annotated[FiniteFloat, Field(gt=0, le=1)] | None = None
    note: Note = ""
    screws: Annotated[tuple[ScrewSetup, ...], Field(max_length=9)] = ()
    pads: Annotated[tuple[PadSetup, ...], Field(max_length=MAX_PADS)] = ()
    beam_screws: Annotated[int, Field(ge=0, le=2)] = 0
    beam_lead: Annotated[FiniteFloat, Field(ge=0.2, le=50)] = 8.0
    beam_left: Coordinate | None = None
    beam_right: Coordinate | None = None
    beam_carries: Carrier = Carrier.UNKNOWN
    beam_steps: Annotated[int, Field(ge=1, le=1_000_000)] | None = None
    beam_raises: RaisingTurn = RaisingTurn.UNKNOWN
    plate_bends: bool = False
    probe_kind: ProbeKind = ProbeKind.NONE
    probe_dx: ProbeOffset = 0.0
    probe_dy: ProbeOffset = 0.0
    closer_is: CloserSign = CloserSign.NEGATIVE
    compensation: Compensation = Compensation.NONE
    zero_kept: ZeroKeeper = ZeroKeeper.UNKNOWN
    switch_pitch: Annotated[
        Pitch | None, Field(description="travel of the Z switch's screw in a turn, mm")
    ] = None
    offset_kept: Annotated[tuple[OffsetPlace, ...], Field(max_length=3)] = (OffsetPlace.PRINTER,)
    surfaces: Annotated[tuple[SurfaceSetup, ...], Field(max_length=20)] = ()
    materials: Annotated[tuple[Short, ...], Field(max_length=20)] = ()
    port: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200)] = ""
    baud: Annotated[int, Field(ge=300, le=4_000_000)] = 115200
    dialect: Short = "open"
    link_name: Short = ""
    most_bed: Annotated[FiniteFloat, Field(ge=0, le=HOTTEST_BED)] = 110.0
    most_nozzle: Annotated[FiniteFloat, Field(ge=0, le=HOTTEST_NOZZLE)] = 260.0
    lift: Annotated[FiniteFloat, Field(ge=1, le=50)] = 5.0
    longest_heat: Annotated[
        FiniteFloat, Field(ge=5, le=720, description="heaters go off after so long, minutes")
    ] = 60.0
    keep_off: Annotated[tuple[KeepOffSetup, ...], Field(max_length=12)] = ()


_ADAPTER = TypeAdapter(PrinterSetup)
_NO_CHOICE = ("enum", "string_too_short")
"""What pydantic calls a choice that there is not; anything else lies out of its range."""


def bed_in(setup: PrinterSetup) -> Bed:
    """Return the bed that a set-up describes.

    Raises
    ------
    CoreError
    """
    keep_off = tuple(KeepOff(**asdict(place)) for place in setup.keep_off)
    return Bed(setup.width, setup.depth, setup.origin, setup.plate_width, setup.plate_depth, keep_off)


def check_setup(setup: PrinterSetup) -> None:
    """Raise a core error unless the description makes sense."""
    try:
        _ADAPTER.validate_python(asdict(setup))
    except ValidationError as error:
        refused = error.errors(include_url=False)
        first = field_errors(refused)[0]
        kind = ChoiceError if refused[0]["type"] in _NO_CHOICE else OutOfRangeError
        raise kind(
            "printers.refused_field", field=first.field.replace("_", " "), message=first.message
        ) from None
    bed = bed_in(setup)
    check_first_layer(setup.first_layer)
    if setup.screws:
        check_screws(
            [Screw(s.name, s.x, s.y, s.pitch, setup.tightening_lowers, setup.divisions) for s in setup.screws]
        )
    _check_supports(setup)
    _check_zero(setup)
    reach(bed, setup.probe_dx, setup.probe_dy)
    _check_surfaces(setup)
    if setup.port and (not _PORT.match(setup.port) or ".." in setup.port):
        raise ChoiceError("printers.line_serial_port_such")


def _check_supports(setup: PrinterSetup) -> None:
    if setup.pads and setup.screws:
        raise ChoiceError("printers.plate_rests_screws_pads")
    names = [pad.name.strip() for pad in setup.pads]
    if len(set(names)) < len(names):
        raise ChoiceError("printers.up_nine_pads_each")
    if setup.pads:
        if len(setup.pads) < 3:
            raise ChoiceError("printers.plate_rests_three_pads")
        if is_line(np.array([pad.x for pad in setup.pads]), np.array([pad.y for pad in setup.pads])):
            raise CollinearError("printers.all_pads_line_nothing")
        check_stacks({pad.name: pad.foils for pad in setup.pads})
    left, right = setup.beam_left, setup.beam_right
    if left is not None and right is not None and right - left < MIN_BEAM:
        raise OutOfRangeError("printers.right_lead_screw_least", min_beam=MIN_BEAM)


def _check_zero(setup: PrinterSetup) -> None:
    if setup.zero_kept == ZeroKeeper.PROBE and setup.probe_kind == ProbeKind.NONE:
        raise ChoiceError("printers.without_probe_zero_kept")
    if setup.zero_kept == ZeroKeeper.KNOBS and not setup.screws:
        raise ChoiceError("printers.bed_without_screws_no")


def _check_surfaces(setup: PrinterSetup) -> None:
    names = {surface.name.strip() for surface in setup.surfaces}
    if len(names) < len(setup.surfaces):
        raise ChoiceError("printers.each_surface_name_own")
    for surface in setup.surfaces:
        if surface.kind not in (*surfaces(), "other"):
            raise ChoiceError("printers.nothing_known_surface_kind", kind=surface.kind)
    strange = set(setup.materials) - set(materials())
    if strange:
        raise ChoiceError("printers.nothing_known_material_called", strange=strange.pop())
