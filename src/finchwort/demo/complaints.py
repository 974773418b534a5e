"""Cases of the demo workshop: some closed, one open."""

from __future__ import annotations

import itertools
import uuid
from datetime import datetime, timedelta

from sqlalchemy.orm import Session

from finchwort.services.diagnosis import cases, opening
from finchwort.store.models import Printer
from finchwort.store.printers.printers import list_printers

CLOSED = (
    # printer, days ago, words, signs seen, signs not seen, circumstances, check and outcome, cause, what mended it
    (
        "Bittern",
        96,
        "Bare spots in the plant labels",
        ("round_spots", "good_elsewhere"),
        ("gaps", "see_through"),
        (),
        ("along_light", "film"),
        "oily_plate",
        "Dish soap. Somebody had moved the labels with bare hands.",
    ),
    (
        "Avocet",
        61,
        "Sieve frame: only the corners lift",
        ("only_corners", "large_flat"),
        ("round_spots", "window_side"),
        ("later",),
        ("look_corners", "sharp"),
        "shrinking",
        "An 8 mm brim and 5 °C more on the bed.",
    ),
    (
        "Water Rail",
        34,
        "Nest-box hooks knocked over",
        ("breaks_loose", "first_layer_fine", "tall_part"),
        ("nothing_sticks",),
        ("later",),
        ("footprint", "tall"),
        "small_foot",
        "Brim of two layers.",
    ),
)
DONE = {
    "oily_plate": {"what": "Plate", "after": "washed with hot water and dish soap"},
    "shrinking": {"what": "Brim", "before": "none", "after": "8 mm wide, and 5 °C more on the bed"},
    "small_foot": {"what": "Brim", "before": "none", "after": "5 mm wide, 2 layers"},
}
OPEN = (
    "Bittern",
    1,
    "Labels let go at the left",
    ("one_side", "small_peel"),
    ("round_spots",),
    ("knobs",),
    (40.0, 120.0),
)


def load_complaints(session: Session, now: datetime) -> None:
    """Write the cases of the demo; the same every time."""
    numbers = itertools.count(1)

    def key() -> str:
        return str(uuid.uuid5(uuid.NAMESPACE_OID, f"complaint {next(numbers)}"))

    by_name: dict[str, Printer] = {printer.name: printer for printer in list_printers(session)}
    for name, days, words, seen, absent, circumstances, check, cause, mended in CLOSED:
        at = now - timedelta(days=days)
        signs = [(sign, "yes") for sign in seen] + [(sign, "no") for sign in absent]
        case = opening.open_case(
            session,
            by_name[name].id,
            client_key=key(),
            words=words,
            circumstances=circumstances,
            signs=signs,
            at=at,
        )
        cases.record_check(session, case.id, *check, client_key=key(), at=at + timedelta(minutes=9))
        begun = cases.begin_remedy(
            session, case.id, cause, what=DONE[cause], client_key=key(), at=at + timedelta(minutes=14)
        )
        cases.end_remedy(session, case.id, begun.id, "better", client_key=key(), at=at + timedelta(hours=2))
        cases.close_case(
            session, case.id, cause, client_key=key(), note=mended, at=at + timedelta(hours=2, minutes=3)
        )
    name, days, words, seen, absent, circumstances, place = OPEN
    signs = [(sign, "yes") for sign in seen] + [(sign, "no") for sign in absent]
    opening.open_case(
        session,
        by_name[name].id,
        client_key=key(),
        words=words,
        place=place,
        circumstances=circumstances,
        signs=signs,
        at=now - timedelta(days=days),
    )
