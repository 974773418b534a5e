"""Files of prints: moves, first layer, parts, and what the print will do on a bed."""

from finchwort.core.files.arcs import CHORD, arc_middles, arc_sweeps, chords, flatten_arcs
from finchwort.core.files.commands import Command, Hints, in_force
from finchwort.core.files.first_layer import ROLES, FirstLayer, Foot, commonest, find_first_layer
from finchwort.core.files.forecast import (
    PartForecast,
    Pieces,
    PrintForecast,
    Worst,
    cut_in_pieces,
    forecast_print,
    gaps_over,
)
from finchwort.core.files.gathering import Extreme, Gathering, Level
from finchwort.core.files.kinds import LineRole, Told, Weight
from finchwort.core.files.moves import MOVED, Moves
from finchwort.core.files.placement import Place, Placement, Places, moved, place_print
from finchwort.core.files.preflight import Preflight, preflight
from finchwort.core.files.print_file import LowMap, PrintFile, Stated, low_map
from finchwort.core.files.target import Finding, Target

__all__ = [
    "CHORD",
    "MOVED",
    "ROLES",
    "Command",
    "Extreme",
    "Finding",
    "FirstLayer",
    "Foot",
    "Gathering",
    "Hints",
    "Level",
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
    "Stated",
    "Target",
    "Told",
    "Weight",
    "Worst",
    "arc_middles",
    "arc_sweeps",
    "chords",
    "commonest",
    "cut_in_pieces",
    "find_first_layer",
    "flatten_arcs",
    "forecast_print",
    "gaps_over",
    "in_force",
    "low_map",
    "moved",
    "place_print",
    "preflight",
]
