"""What the rounds of a printer taught about its knobs, and the travel left in its springs."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from threading import Lock
from typing import Any

from sqlalchemy.orm import Session

from finchwort.core.tramming import Bends, Hand, Response, Slipping, find_slipping, learn, learn_bends
from finchwort.services.tramming.moves import moves_from, rounds_seen, twists_from
from finchwort.services.tramming.operator import hand_of
from finchwort.store.models import Printer
from finchwort.store.printers.printers import get_printer, screws_of
from finchwort.store.records import utcnow
from finchwort.store.tramming.operator import state_of
from finchwort.store.visits.logbook import write_entry

MAX_KNOWN = 64
"""What was learned is kept for so many printers and times."""
_known: OrderedDict[tuple[Any, ...], Learned] = OrderedDict()
_lock = Lock()


@dataclass(frozen=True, eq=False)
class Learned:
    """What is known of a printer's knobs.

    Attributes
    ----------
    response : Response
    slipping : Slipping
    rounds : int
        Rounds it was learned from.
    hand : Hand
        How truly knobs are turned in this workshop.
    bends : Bends
        How far the plate follows a twist of its knobs.
    """

    response: Response
    slipping: Slipping
    rounds: int
    hand: Hand
    bends: Bends


def learned_of(session: Session, printer: Printer, before: datetime | None = None) -> Learned:
    """Learn from a printer's rounds since its knobs were last mended.

    Parameters
    ----------
    printer : Printer
        One with screws.
    before : datetime, optional
        Only rounds that were through by then, for a plan of that time.

    Notes
    -----
    Whatever is recorded writes a line into the logbook, so what was learned holds until the logbook or the set-up
    changes.
    """
    state = (*state_of(session), printer.id, printer.version, printer.learned_since, before)
    with _lock:
        if state in _known:
            return _known[state]
    learned = _learn(session, printer, before)
    with _lock:
        _known[state] = learned
        while len(_known) > MAX_KNOWN:
            _known.popitem(last=False)
    return learned


def _learn(session: Session, printer: Printer, before: datetime | None) -> Learned:
    screws = screws_of(printer)
    rounds = rounds_seen(session, printer, before)
    moves = moves_from(printer, rounds)
    hand = hand_of(session)
    slipping = find_slipping(screws, moves, hand.sd)
    bends = learn_bends(screws, twists_from(rounds), bool(printer.plate_bends), hand.sd)
    return Learned(learn(screws, moves, slipping.doubted, hand.sd), slipping, len(moves), hand, bends)


def set_learned_since(
    session: Session, printer_id: int, since: datetime | None, *, note: str = ""
) -> datetime | None:
    """Begin to learn anew after a repair, or go back to an earlier beginning.

    Parameters
    ----------
    since : datetime or None
        Rounds before it no longer count; none lets all count.
    note : str
        What was mended; written into the logbook.

    Returns
    -------
    datetime or None
        What it was before, so that it can be undone.
    """
    printer = get_printer(session, printer_id)
    old = printer.learned_since
    printer.learned_since = since
    printer.changed_at = utcnow()
    session.flush()
    title = "Knobs mended: learning begins again" if since else "All rounds count again"
    write_entry(session, "printer", f"{printer.name}: {title}", note.strip(), printer=printer)
    return old
