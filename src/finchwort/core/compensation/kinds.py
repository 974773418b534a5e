"""Closed sets of compensation, each value once."""

from __future__ import annotations

from enum import StrEnum


class Interpolation(StrEnum):
    """How a machine fills in between the points of its mesh."""

    BILINEAR = "bilinear"
    BICUBIC = "bicubic"
