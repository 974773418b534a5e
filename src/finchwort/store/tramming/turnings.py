"""Turnings as they were recorded."""

from __future__ import annotations

from finchwort.core.printers import Screw
from finchwort.store.models import Turning


def turned_screws(turning: Turning) -> tuple[list[Screw], list[float]]:
    """Return the screws as they were set up then, and the turns made."""
    screws = [Screw(s.name, s.x, s.y, s.pitch, s.tightening_lowers, s.divisions) for s in turning.screws]
    return screws, [s.done for s in turning.screws]
