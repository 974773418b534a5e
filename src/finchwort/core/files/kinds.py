"""Closed sets of files, each value once."""

from __future__ import annotations

from enum import StrEnum


class LineRole(StrEnum):
    """What a line of the first layer is for."""

    WALL = "wall"
    FILL = "fill"
    BRIM = "brim"
    SUPPORT = "support"
    SKIRT = "skirt"
    PURGE = "purge"


ROLES = tuple(LineRole)
"""Lines keep the place of their role among these."""


class Told(StrEnum):
    """What a command of a file is about, beside moves."""

    BED = "bed"
    BED_WAIT = "bed_wait"
    NOZZLE = "nozzle"
    NOZZLE_WAIT = "nozzle_wait"
    FAN = "fan"
    HOME = "home"
    PROBE = "probe"
    MESH_ON = "mesh_on"
    MESH_OFF = "mesh_off"
    OFFSET = "offset"
    FLOW = "flow"
    PAUSE = "pause"
    TOOL = "tool"
    UNKNOWN = "unknown"


class Weight(StrEnum):
    """How much a finding weighs."""

    CHANGE = "change"
    MIND = "mind"
    GOOD = "good"
    ASK = "ask"


class CopyChange(StrEnum):
    """What is otherwise in a copy of a file."""

    SPEED = "speed"
    FAN = "fan"
    NOZZLE = "nozzle"
    BED = "bed"
    OFFSET = "offset"


class CopyKind(StrEnum):
    """What a copy of a file is for."""

    BENT = "bent"
    MOVED = "moved"
    CHANGED = "changed"
