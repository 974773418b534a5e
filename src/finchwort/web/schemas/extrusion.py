"""Sums about the extruder as the API takes and gives them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, FiniteFloat

from finchwort.web.schemas.base import In, Out


class StepsQuery(In):
    """What was asked for and what went in, mm."""

    steps: FiniteFloat
    asked: FiniteFloat = 100.0
    measured: FiniteFloat


class StepsOut(Out):
    """New steps per mm."""

    new: float
    change: float
    sentence: str
    doubtful: bool


class LinesQuery(In):
    """A line, how fast it is laid, and through which nozzle."""

    width: FiniteFloat
    height: FiniteFloat
    speed: FiniteFloat
    nozzle: FiniteFloat | None = None
    melts: Annotated[FiniteFloat | None, Field(description="what this hot end melts for sure, mm3/s")] = None


class LinesOut(Out):
    """How lines lie side by side, and whether the hot end keeps up."""

    area: float
    spacing: float
    width_range: tuple[float, float] | None
    lines: str
    flow: float
    fastest: float
    level: Literal["good", "near", "beyond"]
    melting: str
