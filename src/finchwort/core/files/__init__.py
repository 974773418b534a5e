"""Files of prints: moves, first layer, parts, and what the print will do on a bed."""

from finchwort.core.files.arcs import CHORD, arc_middles, arc_sweeps, chords, flatten_arcs
from finchwort.core.files.bending import (
    FLAT,
    Z_SPEED,
    Z_STEP,
    Bend,
    Cut,
    Limits,
    cut_lines,
    lowest_fade,
)
from finchwort.core.files.commands import Command, Hints, in_force
from finchwort.core.files.copies import (
    PARKS,
    Allowed,
    BendPlan,
    Change,
    Shift,
    bend_refusals,
    check_change,
    first_moved,
    plan_bend,
)
from finchwort.core.files.feet import Foot
from finchwort.core.files.first_layer import FirstLayer, commonest, find_first_layer
from finchwort.core.files.forecast import (
    PartForecast,
    Pieces,
    PrintForecast,
    Worst,
    cut_in_pieces,
    forecast_print,
    gaps_over,
    heights_at,
)
from finchwort.core.files.gathering import Extreme, Gathering, Level
from finchwort.core.files.kinds import ROLES, CopyChange, CopyKind, LineRole, Told, Weight
from finchwort.core.files.moves import MOVED, Moves
from finchwort.core.files.placement import Place, Placement, Places, angles_for, moved, place_print
from finchwort.core.files.preflight import Preflight, preflight
from finchwort.core.files.preflight_place import crossing
from finchwort.core.files.print_file import LowMap, PrintFile, Stated, low_map
from finchwort.core.files.regions import Regions
from finchwort.core.files.target import Finding, Target

__all__ = [
    "CHORD",
    "FLAT",
    "MOVED",
    "PARKS",
    "ROLES",
    "Z_SPEED",
    "Z_STEP",
    "Allowed",
    "Bend",
    "BendPlan",
    "Change",
    "Command",
    "CopyChange",
    "CopyKind",
    "Cut",
    "Extreme",
    "Finding",
    "FirstLayer",
    "Foot",
    "Gathering",
    "Hints",
    "Level",
    "Limits",
    "LineRole",
    "LowMap",
    "Moves",
    "PartForecast",
    "Pieces",
    "Place",
    "Placement",
    "Places",
    "Preflight",
    "PrintFile",
    "PrintForecast",
    "Regions",
    "Shift",
    "Stated",
    "Target",
    "Told",
    "Weight",
    "Worst",
    "angles_for",
    "arc_middles",
    "arc_sweeps",
    "bend_refusals",
    "check_change",
    "chords",
    "commonest",
    "crossing",
    "cut_in_pieces",
    "cut_lines",
    "find_first_layer",
    "first_moved",
    "flatten_arcs",
    "forecast_print",
    "gaps_over",
    "heights_at",
    "in_force",
    "low_map",
    "lowest_fade",
    "moved",
    "place_print",
    "plan_bend",
    "preflight",
]
