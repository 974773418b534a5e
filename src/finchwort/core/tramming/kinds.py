"""Closed sets of turning, each value once."""

from __future__ import annotations

from enum import StrEnum


class TurnAction(StrEnum):
    """What is done to a screw."""

    TIGHTEN = "tighten"
    LOOSEN = "loosen"
    LEAVE = "leave"


class TurnReason(StrEnum):
    """Why a screw is turned, or left."""

    TURN = "turn"
    NOISE = "noise"
    SMALL = "small"
    HELD = "held"
    LIMIT = "limit"


class Decision(StrEnum):
    """What a plan comes to."""

    TURN = "turn"
    LEAVE = "leave"
    MEASURE = "measure"


class StuckReason(StrEnum):
    """Why a plan turns nothing although there is tilt."""

    NOISE = "noise"
    LIMIT = "limit"
    STEP = "step"


class BenchStepKind(StrEnum):
    """What was done at the bench."""

    FEEL = "feel"
    DRAG = "drag"
    TURN = "turn"
    READ = "read"


class BenchPhase(StrEnum):
    """How far levelling at the bench is."""

    CORNERS = "corners"
    CENTRE = "centre"
    DONE = "done"


class BenchAsk(StrEnum):
    """What is asked for next at the bench."""

    FEEL = "feel"
    TURN = "turn"
    DONE = "done"
