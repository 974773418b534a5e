"""Closed sets of what a machine says, each value once."""

from __future__ import annotations

from enum import StrEnum


class ToldName(StrEnum):
    """What a machine can say of itself."""

    FIRMWARE = "firmware"
    OFFSET = "offset"
    MESH = "mesh"
    COMPENSATION = "compensation"
    STEPS = "steps"


class ToldState(StrEnum):
    """How what a machine says compares with the book."""

    SAME = "same"
    OTHER = "other"
    NEW = "new"
    UNTOLD = "untold"
