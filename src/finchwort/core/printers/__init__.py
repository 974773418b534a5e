"""The machine as it stands: its bed, its screws, what stands in the way, and which places are measured."""

from finchwort.core.printers.bed import Bed, blocked_by
from finchwort.core.printers.free_places import (
    MAX_SHIFT,
    blocked,
    clear_of,
    crosses,
    free_area,
    free_place,
    tallest,
    way_over,
)
from finchwort.core.printers.keep_off import ROUNDED, TALLEST, TIP_ROOM, USUAL_HEIGHT, KeepOff
from finchwort.core.printers.kinds import (
    Carrier,
    CloserSign,
    Compensation,
    OffsetPlace,
    Origin,
    ProbeKind,
    RaisingTurn,
    SurfaceChange,
    SurfaceCondition,
)
from finchwort.core.printers.places import (
    CORNERS,
    place_in_words,
    places_doubt,
    suggest_points,
    suggest_screw_points,
    suggest_screws,
    usual_inset,
)
from finchwort.core.printers.screws import HOLDS, MAX_SCREWS, Screw, check_screws

__all__ = [
    "CORNERS",
    "HOLDS",
    "MAX_SCREWS",
    "MAX_SHIFT",
    "ROUNDED",
    "TALLEST",
    "TIP_ROOM",
    "USUAL_HEIGHT",
    "Bed",
    "Carrier",
    "CloserSign",
    "Compensation",
    "KeepOff",
    "OffsetPlace",
    "Origin",
    "ProbeKind",
    "RaisingTurn",
    "Screw",
    "SurfaceChange",
    "SurfaceCondition",
    "blocked",
    "blocked_by",
    "check_screws",
    "clear_of",
    "crosses",
    "free_area",
    "free_place",
    "place_in_words",
    "places_doubt",
    "suggest_points",
    "suggest_screw_points",
    "suggest_screws",
    "tallest",
    "usual_inset",
    "way_over",
]
