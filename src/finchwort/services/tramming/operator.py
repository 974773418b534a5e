"""The hand that turns the knobs of a workshop, from the rounds of all its printers."""

from __future__ import annotations

from threading import Lock
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from finchwort.core.tramming import Hand, find_slipping, learn_hand
from finchwort.services.tramming.moves import moves_of
from finchwort.store.models import Printer
from finchwort.store.printers.printers import screws_of
from finchwort.store.tramming.operator import state_of

MAX_PRINTERS = 20
"""So many printers tell enough of a hand."""
_known: dict[tuple[Any, ...], Hand] = {}
_lock = Lock()


def hand_of(session: Session) -> Hand:
    """Learn how truly knobs are turned here; rounds in which a knob may slip are left out.

    Whatever is recorded writes a line into the logbook, so the answer holds until the logbook changes.
    """
    state = state_of(session)
    with _lock:
        if state in _known:
            return _known[state]
    hand = _learn(session)
    with _lock:
        _known.clear()
        _known[state] = hand
    return hand


def _learn(session: Session) -> Hand:
    query = (
        select(Printer)
        .where(Printer.deleted_at.is_(None))
        .order_by(Printer.changed_at.desc())
        .limit(MAX_PRINTERS)
    )
    beds = []
    for printer in session.scalars(query):
        if not printer.screws:
            continue
        screws, moves = screws_of(printer), moves_of(session, printer)
        if moves and not find_slipping(screws, moves).doubted:
            beds.append((screws, moves))
    return learn_hand(beds)
