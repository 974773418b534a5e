"""Prints: when each is looked at, how they let go over time, and what came of them."""

from finchwort.core.prints.hazard import (
    QUARTER_HOURS,
    SLENDER,
    HazardRate,
    Run,
    cumulative_hazard,
    hazard_rate,
    is_slender,
    look_every,
    survival,
)
from finchwort.core.prints.kinds import LettingGo, LookKind, LookState, PrintOrigin, PrintOutcome, Seen
from finchwort.core.prints.looks import (
    ClockedLook,
    PlannedLook,
    coming,
    first_line,
    plan_looks,
    read_clock,
    second_look,
    wanted,
)
from finchwort.core.prints.results import CoatLife, Share, coat_life, saved_by_stopping, share_of

__all__ = [
    "QUARTER_HOURS",
    "SLENDER",
    "ClockedLook",
    "CoatLife",
    "HazardRate",
    "LettingGo",
    "LookKind",
    "LookState",
    "PlannedLook",
    "PrintOrigin",
    "PrintOutcome",
    "Run",
    "Seen",
    "Share",
    "coat_life",
    "coming",
    "cumulative_hazard",
    "first_line",
    "hazard_rate",
    "is_slender",
    "look_every",
    "plan_looks",
    "read_clock",
    "saved_by_stopping",
    "second_look",
    "share_of",
    "survival",
    "wanted",
]
