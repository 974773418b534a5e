"""A workshop's own entries beside the table of surfaces and materials."""

from __future__ import annotations

import math
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.base.errors import ChoiceError, OutOfRangeError
from finchwort.knowledge import surfaces
from finchwort.store.diagnosis.models import OwnPair
from finchwort.store.fields import HOTTEST_BED
from finchwort.store.records import sent_before, set_deleted


def own_pairs(session: Session) -> list[OwnPair]:
    """Return all own entries, newest first."""
    query = select(OwnPair).where(OwnPair.deleted_at.is_(None))
    return list(session.scalars(query.order_by(OwnPair.id.desc())))


def own_range(session: Session, surface_kind: str, material: str) -> tuple[float, float] | None:
    """Return the workshop's own bed temperatures for a pair, °C; the newest entry counts."""
    for own_pair in own_pairs(session):
        if (own_pair.surface_kind, own_pair.material) == (surface_kind, material):
            return own_pair.bed_low, own_pair.bed_high
    return None


def add_own_pair(
    session: Session,
    surface_kind: str,
    material: str,
    low: float,
    high: float,
    *,
    client_key: str,
    note: str = "",
) -> OwnPair:
    """Write an own entry down.

    Raises
    ------
    ChoiceError, OutOfRangeError
    """
    if surface_kind not in surfaces():
        raise ChoiceError("printers.choose_surfaces_table")
    if not material.strip():
        raise ChoiceError("printers.name_material")
    if not (math.isfinite(low) and math.isfinite(high) and 0 <= low <= high <= HOTTEST_BED):
        raise OutOfRangeError("printers.bed_temperatures_lower_first", hottest_bed=HOTTEST_BED)
    taken = "Another entry was written with this key, or it was taken back since."
    sent: dict[str, Any] = {
        "surface_kind": surface_kind,
        "material": material.strip()[:80],
        "bed_low": low,
        "bed_high": high,
    }
    known = sent_before(session, OwnPair, client_key, taken, **sent)
    if known is not None:
        return known
    made = OwnPair(
        client_key=client_key,
        surface_kind=surface_kind,
        material=material.strip()[:80],
        bed_low=low,
        bed_high=high,
        note=note.strip()[:200],
    )
    session.add(made)
    session.flush()
    return made


def set_own_pair_deleted(session: Session, pair_id: int, deleted: bool) -> OwnPair:
    """Take an own entry out, or bring it back.

    Raises
    ------
    NotFoundError
    """
    return set_deleted(session, OwnPair, pair_id, deleted, "There is no such entry.")
